"""Tables: projects, their revisions, every move of a project's head, takes, and the log. Rows of revisions and moves are only ever added."""

from typing import Any

from sqlalchemy import JSON, BigInteger, Double, ForeignKey, Index, LargeBinary, String
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """The tables of the store."""


class ProjectRow(Base):
    """A project; ``head_id`` is the revision it shows, ``original`` the file of an older version it was read from."""

    __tablename__ = "projects"
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    title: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[str] = mapped_column(String(32))
    opened_at: Mapped[str] = mapped_column(String(32))
    archived_at: Mapped[str | None] = mapped_column(String(32))
    deleted_at: Mapped[str | None] = mapped_column(String(32))
    original: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id", use_alter=True))


class RevisionRow(Base):
    """One state of a plan, and the one it was made from."""

    __tablename__ = "revisions"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("projects.id"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    number: Mapped[int]
    made_at: Mapped[str] = mapped_column(String(32))
    summary: Mapped[str] = mapped_column(String(200))
    plan: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)  # a step only needs to know which revision it is


class DeedRow(Base):
    """Of what kind the edit was that made a revision, where it was no plain change: a wire in or out, or a reading."""

    __tablename__ = "deeds"
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"), primary_key=True, autoincrement=False)
    deed: Mapped[str] = mapped_column(String(8))


class GlanceRow(Base):
    """What the shelf shows of a revision; ``stamp`` names the program and the catalogue that worked it out, ``crc`` is of the text of its plan."""

    __tablename__ = "glances"
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"), primary_key=True, autoincrement=False)
    stamp: Mapped[str] = mapped_column(String(80))
    sentence: Mapped[str] = mapped_column(String(200))
    thread: Mapped[list[str]] = mapped_column(JSON)
    crc: Mapped[int] = mapped_column(BigInteger)


class MoveRow(Base):
    """A move of a project's head: an edit, a restore, an undo or a redo."""

    __tablename__ = "moves"
    __table_args__ = (Index("ix_moves_project_to", "project_id", "to_id"),)
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("projects.id"))
    kind: Mapped[str] = mapped_column(String(8))
    from_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"))
    to_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    made_at: Mapped[str] = mapped_column(String(32))


class TakeRow(Base):
    """A rehearsal that is kept: its events, and the revision it was played on."""

    __tablename__ = "takes"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("projects.id"), index=False)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    name: Mapped[str] = mapped_column(String(80))
    made_at: Mapped[str] = mapped_column(String(32))
    thrown_at: Mapped[str | None] = mapped_column(String(32))
    events: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    __table_args__ = (Index("ix_takes_project", "project_id"),)


class TakenRow(Base):
    """The last time that the program of a board was taken away, and the revision it was printed from."""

    __tablename__ = "taken"
    project_id: Mapped[str] = mapped_column(ForeignKey("projects.id"), primary_key=True)
    host: Mapped[str] = mapped_column(String(40), primary_key=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    taken_at: Mapped[str] = mapped_column(String(32))


class EntryRow(Base):
    """An entry of a project's log: what is written in it, and what was before the last change.

    ``uid`` names it wherever it is carried; ``uses`` are the parts and schools it is about; ``version`` counts its changes,
    ``sought`` is what it is found by.
    """

    __tablename__ = "entries"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("projects.id"))
    uid: Mapped[str] = mapped_column(String(32))
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    made_at: Mapped[str] = mapped_column(String(32))
    version: Mapped[int] = mapped_column(default=0)
    thrown_at: Mapped[str | None] = mapped_column(String(32))
    kind: Mapped[str] = mapped_column(String(12))
    text: Mapped[str] = mapped_column(String(4000))
    stage: Mapped[str | None] = mapped_column(String(120))
    stage_label: Mapped[str] = mapped_column(String(120))
    minutes: Mapped[int | None]
    cost: Mapped[float | None] = mapped_column(Double)
    was: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    uses: Mapped[list[str]] = mapped_column(JSON)
    sought: Mapped[str] = mapped_column(String)
    __table_args__ = (
        Index("ix_entries_project_uid", "project_id", "uid", unique=True),
        Index("ix_entries_project_made", "project_id", "made_at"),
        Index("ix_entries_kind", "kind"),
    )


class PhotoRow(Base):
    """A photo of an entry, as it was written anew, and a small one of it; ``alt`` tells it to who can't see it."""

    __tablename__ = "photos"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    entry_id: Mapped[int] = mapped_column(ForeignKey("entries.id"), index=True)
    made_at: Mapped[str] = mapped_column(String(32))
    thrown_at: Mapped[str | None] = mapped_column(String(32))
    alt: Mapped[str] = mapped_column(String(300))
    width_px: Mapped[int]
    height_px: Mapped[int]
    sha256: Mapped[str] = mapped_column(String(64))
    size_bytes: Mapped[int]
    small: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    picture: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)


class LetGoRow(Base):
    """A note for next time that a project has let go."""

    __tablename__ = "let_go"
    project_id: Mapped[str] = mapped_column(ForeignKey("projects.id"), primary_key=True)
    uid: Mapped[str] = mapped_column(String(32), primary_key=True)
