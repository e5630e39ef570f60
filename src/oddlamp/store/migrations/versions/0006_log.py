"""The log: entries with their photos, notes that were let go, and of what kind a change was."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.create_table(
        "deeds",
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), primary_key=True, autoincrement=False),
        sa.Column("deed", sa.String(8), nullable=False),
    )
    op.create_table(
        "entries",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("project_id", sa.String(32), sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("uid", sa.String(32), nullable=False),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("thrown_at", sa.String(32)),
        sa.Column("kind", sa.String(12), nullable=False),
        sa.Column("text", sa.String(4000), nullable=False),
        sa.Column("stage", sa.String(120)),
        sa.Column("stage_label", sa.String(120), nullable=False),
        sa.Column("minutes", sa.Integer),
        sa.Column("cost", sa.Double),
        sa.Column("was", sa.JSON),
        sa.Column("uses", sa.JSON, nullable=False),
        sa.Column("sought", sa.String, nullable=False),
    )
    op.create_index("ix_entries_project_uid", "entries", ["project_id", "uid"], unique=True)
    op.create_index("ix_entries_project_made", "entries", ["project_id", "made_at"])
    op.create_index("ix_entries_kind", "entries", ["kind"])
    op.create_table(
        "photos",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("entry_id", sa.Integer, sa.ForeignKey("entries.id"), nullable=False),
        sa.Column("made_at", sa.String(32), nullable=False),
        sa.Column("thrown_at", sa.String(32)),
        sa.Column("alt", sa.String(300), nullable=False),
        sa.Column("width_px", sa.Integer, nullable=False),
        sa.Column("height_px", sa.Integer, nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("size_bytes", sa.Integer, nullable=False),
        sa.Column("small", sa.LargeBinary, nullable=False),
        sa.Column("picture", sa.LargeBinary, nullable=False),
    )
    op.create_index("ix_photos_entry_id", "photos", ["entry_id"])
    op.create_table(
        "let_go",
        sa.Column("project_id", sa.String(32), sa.ForeignKey("projects.id"), primary_key=True),
        sa.Column("uid", sa.String(32), primary_key=True),
    )


def downgrade() -> None:
    for table in ("let_go", "photos", "entries", "deeds"):
        op.drop_table(table)
