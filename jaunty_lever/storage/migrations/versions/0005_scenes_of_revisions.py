"""Which scene each revision has changed, so that whoever takes a step back is told where it is seen."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revisions", sa.Column("scene", sa.String(), nullable=True))


def downgrade() -> None:
    op.drop_column("revisions", "scene")
