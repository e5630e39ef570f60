"""When the program of a board was last taken away, and from which revision it was printed."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "taken",
        sa.Column("project_id", sa.String(32), sa.ForeignKey("projects.id"), primary_key=True),
        sa.Column("host", sa.String(40), primary_key=True),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("taken_at", sa.String(32), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("taken")
