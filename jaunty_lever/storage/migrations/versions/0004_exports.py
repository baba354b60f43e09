"""Exports: what is to be drawn, and what came of it, so that a drawing goes on after the program has ended."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "exports",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("project", sa.String(), nullable=False),
        sa.Column("scene", sa.String(), nullable=False),
        sa.Column("scene_name", sa.String(), nullable=False),
        sa.Column("format", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("options", sa.String(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("problem", sa.String(), nullable=False),
        sa.Column("report", sa.String(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=True),
        sa.Column("made", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("exports")
