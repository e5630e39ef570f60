"""First tables: projects, revisions, moves."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "projects",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("title", sa.String(80), nullable=False),
        sa.Column("created_at", sa.String(32), nullable=False),
        sa.Column("opened_at", sa.String(32), nullable=False),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("revisions.id")),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("project_id", sa.String(32), sa.ForeignKey("projects.id"), nullable=False, index=True),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("revisions.id")),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("summary", sa.String(200), nullable=False),
        sa.Column("plan", sa.JSON, nullable=False),
    )
    op.create_table(
        "moves",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("project_id", sa.String(32), sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("from_id", sa.Integer, sa.ForeignKey("revisions.id")),
        sa.Column("to_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
    )
    op.create_index("ix_moves_project_to", "moves", ["project_id", "to_id"])


def downgrade() -> None:
    op.drop_table("moves")
    op.drop_table("revisions")
    op.drop_table("projects")
