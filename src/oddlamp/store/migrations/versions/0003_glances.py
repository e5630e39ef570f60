"""What the shelf shows of a revision is kept with it."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "glances",
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), primary_key=True, autoincrement=False),
        sa.Column("stamp", sa.String(80), nullable=False),
        sa.Column("sentence", sa.String(200), nullable=False),
        sa.Column("thread", sa.JSON, nullable=False),
        sa.Column("crc", sa.BigInteger, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("glances")
