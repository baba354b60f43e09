"""Pictures beside the revisions that show them, and recipes."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pictures",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("body", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "recipes",
        sa.Column("id", sa.String(), primary_key=True),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("body", sa.LargeBinary(), nullable=False),
        sa.Column("made", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("recipes")
    op.drop_table("pictures")
