"""The log of projects: entries written, changed, thrown away and put back; their photos; notes for next time."""

import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import AbstractContextManager
from typing import Any, Final
from uuid import uuid4

from sqlalchemy import ColumnElement, Select, func, select
from sqlalchemy.orm import Session

from oddlamp.core.errors import OutOfRange, StaleEntry, UnknownEntry
from oddlamp.core.plan.entries import ENTRIES_MOST, PHOTOS_EACH, PHOTOS_MOST, Entry, EntrySum, Logged, NextTime, Photo, sought
from oddlamp.photos.limits import Developed
from oddlamp.store.models import EntryRow, LetGoRow, PhotoRow, ProjectRow, RevisionRow

Transaction = Callable[[], AbstractContextManager[Session]]
NOTES_MOST: Final = 2000
IDS_MOST: Final = 5000
_PHOTO: Final = tuple(
    getattr(PhotoRow, name) for name in ("id", "made_at", "thrown_at", "alt", "width_px", "height_px", "size_bytes")
)
_E = EntryRow.__table__.c
# Plain columns in the order of Logged, behind the id and the revision: a log of ten thousand is searched while one types.
_ENTRIES: Final = select(_E.id, _E.revision_id, _E.uid, _E.made_at, _E.kind, _E.text, _E.stage, _E.stage_label, _E.minutes, _E.cost, _E.version, _E.thrown_at.is_not(None), _E.was.is_not(None))  # fmt: skip


class Logbook:
    """Keeps the logs. Every method is one transaction, and raises UnknownProject, UnknownEntry for what is not there."""

    def __init__(
        self, reading: Transaction, writing: Transaction, project: Callable[[Session, str], ProjectRow], now: Callable[[], str]
    ) -> None:
        self._reading, self._writing, self._project, self._now = reading, writing, project, now

    def entries(
        self, project_id: str, words: Iterable[str] = (), only: str | None = None, *, most: int | None = None
    ) -> list[Logged]:
        """Return entries of a project that hold all words, the newest first.

        Args:
            project_id: which project.
            words: as ``words_of`` reads them.
            only: of which kind; ``thrown`` are those thrown away, and None all that are not.
            most: how many of them; all where left out.
        """
        is_thrown = only == "thrown"
        where = [*_held(project_id, words), _E.thrown_at.is_not(None) if is_thrown else _E.thrown_at.is_(None)]
        if only is not None and not is_thrown:
            where.append(_E.kind == only)
        with self._reading() as session:
            self._project(session, project_id)
            return _logged(session, _ENTRIES.where(*where).order_by(_E.made_at.desc(), _E.id.desc()).limit(most))

    def sums(self, project_id: str, words: Iterable[str] = ()) -> list[EntrySum]:
        """Add up the entries that hold all words, of each kind at each stage."""
        told = (_E.kind, _E.thrown_at.is_not(None), _E.stage_label)
        of = select(*told, func.count(), func.total(_E.minutes), func.total(func.round(_E.cost * 100)), func.count(_E.minutes), func.count(_E.cost)).group_by(*told).order_by(*told)  # fmt: skip
        with self._reading() as session:
            rows = session.connection().execute(of.where(*_held(project_id, words)))
            return [EntrySum._make((*it[:4], int(it[4]), int(it[5]), *it[6:])) for it in rows]

    def entry(self, project_id: str, uid: str) -> Logged:
        """Return one entry."""
        with self._reading() as session:
            return _logged(session, _ENTRIES.where(_E.id == self._row(session, project_id, uid).id))[0]

    def before(self, project_id: str, uid: str) -> Entry:
        """Return what an entry said before its last change; raises UnknownEntry where it was never changed."""
        with self._reading() as session:
            return self._was(self._row(session, project_id, uid))

    @staticmethod
    def _was(row: EntryRow) -> Entry:
        if row.was is None:
            raise _unknown(row.uid, "an entry that was changed")
        return Entry.model_validate(row.was)

    def write(self, project_id: str, said: Entry, uses: tuple[str, ...]) -> Logged:
        """Write an entry, at the change the project shows; raises OutOfRange where the log is full."""
        with self._writing() as session:
            project = self._project(session, project_id)
            count = session.scalar(select(func.count()).select_from(EntryRow).where(EntryRow.project_id == project_id)) or 0
            if count >= ENTRIES_MOST:
                raise OutOfRange(field="entries", given=count + 1, allowed=f"at most {ENTRIES_MOST} entries in a log")
            row = EntryRow(project_id=project_id, uid=uuid4().hex[:16], revision_id=project.head_id or 0, made_at=self._now(), version=0, uses=list(uses), sought="", **said.model_dump())  # fmt: skip
            session.add(row)
            session.flush()
            return self._told(session, row)

    def change(self, project_id: str, uid: str, said: Entry, uses: tuple[str, ...], *, version: int) -> Logged:
        """Write an entry anew; what it said before is kept beside it. Raises StaleEntry where it was changed meanwhile."""
        with self._writing() as session:
            row = self._row(session, project_id, uid, version)
            if said_in(row) != said:
                _put(row, said, uses)
            return self._told(session, row)

    def put_before(self, project_id: str, uid: str, uses: tuple[str, ...], *, version: int) -> Logged:
        """Bring back what an entry said before its last change, which is kept in its place; raises StaleEntry, UnknownEntry."""
        with self._writing() as session:
            row = self._row(session, project_id, uid, version)
            _put(row, self._was(row), uses)
            return self._told(session, row)

    def throw(self, project_id: str, uid: str, *, is_thrown: bool) -> Logged:
        """Throw an entry away, or put it back."""
        with self._writing() as session:
            row = self._row(session, project_id, uid)
            row.thrown_at = self._now() if is_thrown else None
            return self._told(session, row)

    def add_photo(self, project_id: str, uid: str, made: Developed, alt: str) -> Logged:
        """Put a photo to an entry; raises OutOfRange where it, or its project, has as many as it may have."""
        with self._writing() as session:
            row = self._row(session, project_id, uid)
            of = select(func.count()).select_from(PhotoRow)
            here = session.scalar(of.where(PhotoRow.entry_id == row.id, PhotoRow.thrown_at.is_(None))) or 0
            ever = session.scalar(of.where(PhotoRow.entry_id == row.id)) or 0
            total = session.scalar(of.join(EntryRow).where(EntryRow.project_id == project_id)) or 0
            if here >= PHOTOS_EACH or ever >= 10 * PHOTOS_EACH or total >= PHOTOS_MOST:
                raise OutOfRange(
                    field="photos",
                    given=here + 1,
                    allowed=f"at most {PHOTOS_EACH} photos to an entry, and {PHOTOS_MOST} in a log, those thrown away included",
                )
            session.add(photo_row(row.id, made, alt=alt, made_at=self._now()))
            session.flush()
            return self._told(session, row)

    def change_photo(self, project_id: str, photo_id: int, *, alt: str | None = None, is_thrown: bool | None = None) -> Logged:
        """Tell a photo in words, throw it away, or put it back."""
        with self._writing() as session:
            photo = self._photo_row(session, project_id, photo_id)
            if alt is not None:
                photo.alt = alt
            if is_thrown is not None:
                photo.thrown_at = self._now() if is_thrown else None
            session.flush()
            return self._told(session, session.get_one(EntryRow, photo.entry_id))

    def picture(self, project_id: str, photo_id: int, *, is_small: bool = False) -> bytes:
        """Return a photo as a JPEG."""
        with self._reading() as session:
            photo = self._photo_row(session, project_id, photo_id)
            return photo.small if is_small else photo.picture

    def notes(self, project_id: str) -> list[NextTime]:
        """Return the notes for next time of all other projects that are not thrown away, and that this one has not let go."""
        with self._reading() as session:
            self._project(session, project_id)
            gone = select(LetGoRow.uid).where(LetGoRow.project_id == project_id)
            rows = session.execute(
                select(EntryRow, ProjectRow.title)
                .join(ProjectRow, ProjectRow.id == EntryRow.project_id)
                .where(EntryRow.kind == "next_time", EntryRow.project_id != project_id, EntryRow.thrown_at.is_(None))
                .where(ProjectRow.deleted_at.is_(None), EntryRow.uid.not_in(gone))
                .order_by(EntryRow.id.desc())
                .limit(NOTES_MOST)
            )
            found = {row.uid: NextTime(row.uid, row.made_at, row.project_id, title, row.text, row.stage_label, tuple(row.uses)) for row, title in rows}  # fmt: skip
            mine = set(session.scalars(select(EntryRow.uid).where(EntryRow.project_id == project_id, EntryRow.uid.in_(found))))
            return [it for uid, it in found.items() if uid not in mine]  # a copy of what stands in its own log says nothing new

    def let_go(self, project_id: str, uid: str, *, is_gone: bool) -> None:
        """Let a note for next time go, or have it offered again."""
        with self._writing() as session:
            self._project(session, project_id)
            row = session.get(LetGoRow, (project_id, uid))
            if is_gone and row is None:
                if session.scalar(select(func.count()).select_from(EntryRow).where(EntryRow.uid == uid)) == 0:
                    raise _unknown(uid, "a note for next time")
                session.add(LetGoRow(project_id=project_id, uid=uid))
            elif not is_gone and row is not None:
                session.delete(row)

    def _row(self, session: Session, project_id: str, uid: str, version: int | None = None) -> EntryRow:
        self._project(session, project_id)
        row = session.scalars(select(EntryRow).where(EntryRow.project_id == project_id, EntryRow.uid == uid)).first()
        if row is None:
            raise _unknown(uid, "an entry of this log")
        if version is not None and row.version != version:
            told = "This entry was changed elsewhere meanwhile. Nothing of either is lost: look at it as it is now, then change it again."
            raise StaleEntry(field="version", given=version, allowed=f"{row.version}, its version now", said=told)
        return row

    def _photo_row(self, session: Session, project_id: str, photo_id: int) -> PhotoRow:
        self._project(session, project_id)
        photo = session.get(PhotoRow, photo_id)
        if photo is None or session.get_one(EntryRow, photo.entry_id).project_id != project_id:
            raise _unknown(photo_id, "a photo of this log")
        return photo

    @staticmethod
    def _told(session: Session, row: EntryRow) -> Logged:
        index(session, row)
        return _logged(session, _ENTRIES.where(_E.id == row.id))[0]


def _put(row: EntryRow, said: Entry, uses: tuple[str, ...]) -> None:
    """Write an entry anew, and keep what it said."""
    row.was, row.uses = said_in(row).model_dump(), list(uses)
    for name, value in said.model_dump().items():
        setattr(row, name, value)
    row.version += 1


def index(session: Session, row: EntryRow) -> None:
    """Note what an entry is found by, as it stands now."""
    session.flush()
    alts = session.scalars(select(PhotoRow.alt).where(PhotoRow.entry_id == row.id, PhotoRow.thrown_at.is_(None)))
    said = said_in(row)
    row.sought = sought(said.kind, said.text, said.stage_label, alts)
    session.flush()


def said_in(row: EntryRow) -> Entry:
    """Return what an entry says."""
    return Entry.model_validate({name: getattr(row, name) for name in Entry.model_fields})


def photo_row(entry_id: int, made: Developed, *, alt: str, made_at: str, thrown_at: str | None = None) -> PhotoRow:
    """Make the row of a photo."""
    return PhotoRow(
        entry_id=entry_id, made_at=made_at, thrown_at=thrown_at, alt=alt, width_px=made.width_px, height_px=made.height_px,
        sha256=hashlib.sha256(made.picture).hexdigest(), size_bytes=len(made.picture), small=made.small, picture=made.picture,
    )  # fmt: skip


def _held(project_id: str, words: Iterable[str]) -> list[ColumnElement[bool]]:
    return [_E.project_id == project_id, *(func.instr(_E.sought, word) > 0 for word in words)]


def _logged(session: Session, which: Select[Any]) -> list[Logged]:
    """Read entries with their photos."""
    rows = session.connection().execute(which).all()
    photos: dict[int, list[Photo]] = {}
    for part in batched([it[0] for it in rows], IDS_MOST):
        of = select(PhotoRow.entry_id, *_PHOTO).where(PhotoRow.entry_id.in_(part)).order_by(PhotoRow.id)
        for entry_id, photo_id, made_at, thrown_at, *rest in session.execute(of):
            photos.setdefault(entry_id, []).append(Photo(photo_id, made_at, thrown_at is not None, *rest))
    numbers: dict[int, int] = {}
    for part in batched(sorted({it.revision_id for it in rows}), IDS_MOST):
        numbers |= {it.id: it.number for it in session.execute(select(RevisionRow.id, RevisionRow.number).where(RevisionRow.id.in_(part)))}  # fmt: skip
    return [
        Logged._make(("entry", uid, made_at, kind, text, numbers[revision_id], *rest, tuple(photos.get(entry_id, ()))))
        for entry_id, revision_id, uid, made_at, kind, text, *rest in rows
    ]


def batched(ids: Sequence[int], most: int) -> Iterator[Sequence[int]]:
    """Yield ids so many at a time: a statement takes no more than some ten thousand."""
    return (ids[at : at + most] for at in range(0, len(ids), most))


def _unknown(given: object, allowed: str) -> UnknownEntry:
    return UnknownEntry(field="entry", given=given, allowed=allowed, said="The log has no such entry or photo.")
