"""Which revisions show which pictures, so that pictures leave with the last revision that shows them."""

import zlib

import orjson
import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "shown",
        sa.Column("project", sa.String(), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("picture", sa.String(), primary_key=True),
        sa.ForeignKeyConstraint(["project", "number"], ["revisions.project", "revisions.number"], ondelete="CASCADE"),
    )
    op.create_index("shown_by_picture", "shown", ["picture"])
    connection = op.get_bind()
    if not connection.execute(sa.text("SELECT count(*) FROM pictures")).scalar():
        return
    rows = connection.execute(sa.text("SELECT project, number, body FROM revisions"))
    for project, number, body in rows.fetchall():
        try:
            pictures = {one["id"] for one in orjson.loads(zlib.decompress(body)).get("pictures", ())}
        except (zlib.error, ValueError, TypeError, KeyError, AttributeError):
            continue
        for picture in pictures:
            connection.execute(
                sa.text("INSERT INTO shown (project, number, picture) VALUES (:project, :number, :picture)"),
                {"project": project, "number": number, "picture": picture},
            )


def downgrade() -> None:
    op.drop_table("shown")
