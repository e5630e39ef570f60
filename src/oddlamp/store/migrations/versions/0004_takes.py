"""Takes: rehearsals that are kept, with the revision they were made on."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.create_table(
        "takes",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("project_id", sa.String(32), sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("thrown_at", sa.String(32)),
        sa.Column("events", sa.JSON, nullable=False),
    )
    op.create_index("ix_takes_project", "takes", ["project_id"])


def downgrade() -> None:
    op.drop_table("takes")
