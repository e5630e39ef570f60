"""Projects can be put away and thrown away, and keep the file of an older version they were read from."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.add_column("projects", sa.Column("archived_at", sa.String(32)))
    op.add_column("projects", sa.Column("deleted_at", sa.String(32)))
    op.add_column("projects", sa.Column("original", sa.JSON))


def downgrade() -> None:
    for name in ("archived_at", "deleted_at", "original"):
        op.drop_column("projects", name)
