"""Projects and revisions."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "projects",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("head", sa.Integer(), nullable=False),
        sa.Column("last", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.Column("changed", sa.DateTime(), nullable=False),
        sa.Column("deleted", sa.DateTime()),
    )
    op.create_table(
        "revisions",
        sa.Column("project", sa.String(), sa.ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("parent", sa.Integer()),
        sa.Column("label", sa.String(), nullable=False),
        sa.Column("made", sa.DateTime(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
    )
    op.create_index("revisions_by_parent", "revisions", ["project", "parent"])


def downgrade() -> None:
    op.drop_table("revisions")
    op.drop_table("projects")
