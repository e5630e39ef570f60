"""A whole project as one open file: its plans, every step of its history, its takes, its log with photos; out and in without loss.

A ZIP with one JSON text in it and a JPEG a photo, the same bytes each time for the same project: nothing of when or where it
was packed is in it. Hostile files are refused before anything of them is unpacked further than a bound.
"""

import hashlib
import json
import re
import stat
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator, Sequence
from errno import ENOSPC
from io import SEEK_END
from tempfile import TemporaryFile
from typing import IO, Any, Final, NamedTuple, cast

from pydantic import ValidationError
from sqlalchemy import func, insert, select
from sqlalchemy.orm import Session

from oddlamp.core.errors import FieldProblem, NotKept, OutOfRange, PhotoRefused, PlanInvalid
from oddlamp.core.plan.document import field_problems, load_plan, refuse_deep
from oddlamp.core.plan.entries import PHOTOS_MOST, Entry, sought
from oddlamp.core.plan.whole import (
    FORMAT,
    VERSION,
    EntryKept,
    MoveKept,
    PhotoKept,
    ProjectKept,
    RevisionKept,
    TakeKept,
    TakenKept,
    photo_name,
)
from oddlamp.photos.developing import BATCH_MOST, develop
from oddlamp.photos.limits import KEPT_MOST_BYTES, PHOTO_MOST_BYTES, Developed
from oddlamp.store.logbook import photo_row, said_in
from oddlamp.store.models import DeedRow, EntryRow, LetGoRow, MoveRow, PhotoRow, ProjectRow, RevisionRow, TakenRow, TakeRow
from oddlamp.store.stored import stored

TEXT: Final = "project.json"
FILE_MOST_BYTES: Final = 1024 * 2**20
TEXT_MOST_BYTES: Final = 256 * 2**20
LIST_MOST_BYTES: Final = 256 * 2**10
END: Final = struct.Struct("<4s4H2LH")  # the last of a ZIP, where nobody has written a remark after it
WIDE: Final = b"PK\6\7"  # and what stands before it where there is more in it than it can count
STAMP: Final = (1980, 1, 1, 0, 0, 0)  # the earliest a ZIP can tell
PHOTO_NAME: Final = re.compile(r"photos/\d{4}\.jpg", re.ASCII)
WHERE: Final = "a ZIP with project.json in it, as Odd Lamp writes it"


class Archive(NamedTuple):
    """All that is kept of a project, and how to come by each of its photos: one at a time, for they are many."""

    project: ProjectKept
    sizes_bytes: tuple[int, ...]
    picture: Callable[[int], bytes]


class Unpacked:
    """A project as it was read from a file, with its photos in a file of their own until they are kept or let go."""

    def __init__(self, project: ProjectKept) -> None:
        self.project = project
        self._pictures = TemporaryFile()  # noqa: SIM115 # it is there for as long as this is
        self._smalls: list[tuple[int, int, bytes, int, int]] = []

    def add(self, made: Developed) -> None:
        """Put a photo beside those there are."""
        at = self._pictures.seek(0, SEEK_END)
        if at + len(made.picture) > FILE_MOST_BYTES:
            raise _refused(f"over {FILE_MOST_BYTES // 2**20} MB of photos", "less, as every project has")
        self._pictures.write(made.picture)
        self._smalls.append((at, len(made.picture), made.small, made.width_px, made.height_px))

    def photo(self, number: int) -> Developed:
        """Return a photo by its place from 0."""
        at, size, small, width_px, height_px = self._smalls[number]
        self._pictures.seek(at)
        return Developed(self._pictures.read(size), small, width_px, height_px)

    def close(self) -> None:
        """Let the photos go."""
        self._pictures.close()


class _Drain:
    """Takes what is written to it and gives it out in pieces; it cannot be gone back in, and is never closed under a writer."""

    def __init__(self) -> None:
        self.held = bytearray()

    def write(self, piece: bytes) -> int:
        """Take a piece."""
        self.held += piece
        return len(piece)

    def flush(self) -> None:
        """Do nothing: all of it is here."""

    def taken(self) -> bytes:
        """Return what came since the last time."""
        piece = bytes(self.held)
        self.held.clear()
        return piece


class Packing:
    """A project on its way into a file: how long that will be, and its pieces. The same bytes whenever and wherever it is packed."""

    def __init__(self, archive: Archive) -> None:
        self._archive = archive
        text = json.dumps(archive.project.model_dump(mode="json"), ensure_ascii=False, indent=1, sort_keys=True) + "\n"
        self._head = _Drain()
        self._zip = zipfile.ZipFile(cast(IO[bytes], self._head), "w")
        self._zip.writestr(_info(TEXT), text.encode("utf-8"), zipfile.ZIP_DEFLATED, 6)
        # A photo does not get smaller: it stands there as it is, behind what is said of it and before its check sum, and is listed at the end.
        names = [photo_name(at) for at in range(len(archive.sizes_bytes))]
        listed = [TEXT, *names]
        self.size_bytes = (
            len(self._head.held)
            + sum(30 + len(name) + size + 16 for name, size in zip(names, archive.sizes_bytes, strict=True))
            + sum(46 + len(name) for name in listed)
            + 22
        )

    def pieces(self) -> Iterator[bytes]:
        """Yield the file, a photo at a time."""
        yield self._head.taken()
        for at in range(len(self._archive.sizes_bytes)):
            self._zip.writestr(_info(photo_name(at)), self._archive.picture(at), zipfile.ZIP_STORED)
            yield self._head.taken()
        self._zip.close()
        yield self._head.taken()


def packed(archive: Archive) -> bytes:
    """Write a project as a file, held whole."""
    return b"".join(Packing(archive).pieces())


def _info(name: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, STAMP)
    info.create_system, info.external_attr = 3, (stat.S_IFREG | 0o644) << 16
    return info


def unpacked(file: IO[bytes]) -> Unpacked:
    """Read a project's file, every plan and every photo in it; whoever calls closes it.

    Raises:
        OutOfRange: no such file, more or less in it than belongs there, larger than any project is, or of a later version.
        PlanInvalid: a field that cannot be read; all are listed.
        PhotoRefused: a photo that is none.
    """
    try:
        _look_at_end(file)
        with zipfile.ZipFile(file) as archive:
            project = _project(_whole(archive, _listed(archive)[TEXT], TEXT_MOST_BYTES))
            _expect(archive, project)
            found = Unpacked(project)
            try:
                for batch in range(0, len(project.photos), BATCH_MOST):
                    for made in _developed(archive, project.photos[batch : batch + BATCH_MOST]):
                        found.add(made)
            except BaseException:
                found.close()
                raise
            return found
    except OSError as error:
        if error.errno == ENOSPC:
            said = "There is no room on the disk to unpack this project. Nothing of it was kept: make some, then try again."
            raise NotKept(field="disk", given=str(error), allowed="a disk with room", said=said) from None
        raise _refused(str(error)[:80], WHERE) from None
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, ValueError) as error:
        raise _refused(str(error)[:80] or "no ZIP", WHERE) from None


def _look_at_end(file: IO[bytes]) -> None:
    """Read how many texts an archive lists before they are listed: a list of millions would fill the memory."""
    end = file.seek(0, SEEK_END)
    file.seek(max(0, end - len(WIDE) - 16 - END.size))
    tail = file.read()
    if len(tail) < END.size or not tail[-END.size :].startswith(b"PK\5\6"):
        raise _refused("no ZIP, or not all of one", WHERE)
    count, size_bytes = END.unpack(tail[-END.size :])[4:6]
    if tail.startswith(WIDE) or count > 1 + PHOTOS_MOST or size_bytes > LIST_MOST_BYTES:
        raise _refused(f"{count} texts or more", f"{TEXT} and at most {PHOTOS_MOST} photos")
    file.seek(0)


def _developed(archive: zipfile.ZipFile, photos: tuple[PhotoKept, ...]) -> list[Developed]:
    """Read some photos of an archive; what our own writer wrote stays as it is."""
    contents = [_whole(archive, archive.getinfo(it.file), PHOTO_MOST_BYTES) for it in photos]
    for photo, content in zip(photos, contents, strict=True):
        if hashlib.sha256(content).hexdigest() != photo.sha256:
            raise _refused(f"{photo.file} with another check sum", "photos as they were packed")
    try:
        made = develop(contents)
    except PhotoRefused as error:
        raise _refused(f"a photo of {photos[0].file} and after that is {error.given}", "photos") from None
    if any(len(it.picture) > KEPT_MOST_BYTES for it in made):
        raise _refused("a photo that stays too large", f"photos of at most {KEPT_MOST_BYTES // 2**20} MB")
    return made


def _project(text: bytes) -> ProjectKept:
    """Read the text of a project, and every plan in it."""
    try:
        given = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise _refused(f"{TEXT}: {error}"[:120], "JSON") from None
    if not isinstance(given, dict) or given.get("format") != FORMAT:
        raise _refused("a text of another kind", WHERE)
    version = given.get("schema_version")
    if isinstance(version, int) and version > VERSION:
        raise _refused(f"version {version}", f"version {VERSION} or older; a later Odd Lamp wrote this one")
    try:
        project = ProjectKept.model_validate(given)
    except ValidationError as error:
        problems = field_problems(error, given)
        raise PlanInvalid(
            field=problems[0].field, given=problems[0].given, allowed=problems[0].allowed, problems=problems
        ) from None
    for loose in (project.original, *(it.events for it in project.takes)):
        refuse_deep(loose, "archive")
    for at, it in enumerate(project.revisions):
        try:
            load_plan(it.plan)
        except PlanInvalid as error:
            problems = tuple(
                FieldProblem(field=f"revisions.{at}.plan.{one.field}", given=one.given, allowed=one.allowed)
                for one in error.problems
            )
            raise PlanInvalid(
                field=problems[0].field, given=problems[0].given, allowed=problems[0].allowed, problems=problems
            ) from None
    return project


def _listed(archive: zipfile.ZipFile) -> dict[str, zipfile.ZipInfo]:
    """Return what is in an archive by name, where it is no more than can be in a project's."""
    found = archive.infolist()
    listed = {it.filename: it for it in found}
    odd = next((it for it in listed if it != TEXT and not PHOTO_NAME.fullmatch(it)), None)
    if odd is not None or len(listed) != len(found) or TEXT not in listed:
        raise _refused(ascii(odd)[:80] if odd is not None else f"{len(found)} texts", f"{TEXT} and nothing beside it but photos")
    if any(stat.S_ISLNK(it.external_attr >> 16) or it.flag_bits & 1 for it in found):
        raise _refused("a link, or a locked text", WHERE)
    return listed


def _expect(archive: zipfile.ZipFile, project: ProjectKept) -> None:
    """Refuse an archive whose photos are not those the project tells of."""
    there = {it.filename for it in archive.infolist()} - {TEXT}
    told = {it.file for it in project.photos}
    if there != told:
        name = min(there ^ told)
        raise _refused(f"{name} {'that nothing tells of' if name in there else 'that is missing'}", "each photo once")


def _whole(archive: zipfile.ZipFile, info: zipfile.ZipInfo, most_bytes: int) -> bytes:
    """Unpack one text of an archive, no further than it may be long."""
    if info.file_size > most_bytes:  # no more than it says there is ever unpacked
        raise _refused(f"over {most_bytes // 2**20} MB unpacked", "less, as every project is")
    return archive.read(info)


def _refused(given: str, allowed: str) -> OutOfRange:
    return OutOfRange(
        field="archive",
        given=given,
        allowed=allowed,
        said=f"This is no project that can be read: {given}. Nothing of it was kept; wanted is {allowed}.",
    )


def archived(session: Session, project: ProjectRow) -> tuple[ProjectKept, list[tuple[int, int]]]:
    """Return all that is kept of a project, and each photo's id and its length in bytes.

    Raises:
        PlanInvalid: one of its plans can no longer be read from the file.
    """
    revisions = session.scalars(select(RevisionRow).where(RevisionRow.project_id == project.id).order_by(RevisionRow.id)).all()
    at = {row.id: place for place, row in enumerate(revisions)}
    told = select(DeedRow).join(RevisionRow, RevisionRow.id == DeedRow.revision_id).where(RevisionRow.project_id == project.id)
    deeds = {row.revision_id: row.deed for row in session.scalars(told)}
    moves = session.scalars(select(MoveRow).where(MoveRow.project_id == project.id).order_by(MoveRow.id))
    takes = session.scalars(select(TakeRow).where(TakeRow.project_id == project.id).order_by(TakeRow.id))
    taken = session.scalars(select(TakenRow).where(TakenRow.project_id == project.id).order_by(TakenRow.host))
    entries = session.execute(select(EntryRow).where(EntryRow.project_id == project.id).order_by(EntryRow.id)).scalars().all()
    photos: dict[int, list[Any]] = {}
    columns = (PhotoRow.entry_id, PhotoRow.id, PhotoRow.size_bytes, PhotoRow.sha256, PhotoRow.made_at, PhotoRow.thrown_at, PhotoRow.alt)  # fmt: skip
    for entry_id, *photo in session.execute(
        select(*columns).join(EntryRow).where(EntryRow.project_id == project.id).order_by(PhotoRow.id)
    ):
        photos.setdefault(entry_id, []).append(photo)
    in_order = [photo for entry in entries for photo in photos.get(entry.id, ())]
    names = {photo[0]: photo_name(at) for at, photo in enumerate(in_order)}
    kept = ProjectKept(
        created_at=project.created_at,
        original=project.original,
        head=at[project.head_id or 0],
        revisions=tuple(
            RevisionKept(parent=None if it.parent_id is None else at[it.parent_id], number=it.number, made_at=it.made_at, summary=it.summary, deed=deeds.get(it.id), plan=stored(it))
            for it in revisions
        ),
        moves=tuple(MoveKept(kind=it.kind, from_at=None if it.from_id is None else at[it.from_id], to_at=at[it.to_id], made_at=it.made_at) for it in moves),
        takes=tuple(TakeKept(revision=at[it.revision_id], name=it.name, made_at=it.made_at, thrown_at=it.thrown_at, events=it.events) for it in takes),
        taken=tuple(TakenKept(host=it.host, revision=at[it.revision_id], taken_at=it.taken_at) for it in taken),
        entries=tuple(
            EntryKept(
                uid=it.uid, revision=at[it.revision_id], made_at=it.made_at, version=it.version, thrown_at=it.thrown_at,
                said=said_in(it), was=None if it.was is None else Entry.model_validate(it.was), uses=tuple(it.uses),
                photos=tuple(PhotoKept(file=names[photo_id], sha256=sha256, made_at=made_at, thrown_at=thrown_at, alt=alt) for photo_id, _, sha256, made_at, thrown_at, alt in photos.get(it.id, ())),
            )
            for it in entries
        ),
        let_go=tuple(session.scalars(select(LetGoRow.uid).where(LetGoRow.project_id == project.id).order_by(LetGoRow.uid))),
    )  # fmt: skip
    return kept, [(photo[0], photo[1]) for photo in in_order]


def take_in(session: Session, found: Unpacked, *, project_id: str, now: str) -> ProjectRow:
    """Add a project as a file has it, all of it or nothing: it is one transaction's."""
    kept = found.project
    title = str(kept.revisions[kept.head].plan["title"])[:80]
    project = ProjectRow(id=project_id, title=title, created_at=kept.created_at, opened_at=now, original=kept.original)
    session.add(project)
    session.flush()
    ids: list[int] = []
    for it in kept.revisions:
        row = RevisionRow(project_id=project_id, parent_id=None if it.parent is None else ids[it.parent], number=it.number, made_at=it.made_at, summary=it.summary, plan=it.plan)  # fmt: skip
        session.add(row)
        session.flush()
        ids.append(row.id)
        if it.deed is not None:
            session.add(DeedRow(revision_id=row.id, deed=it.deed))
        session.expunge(row)
    session.add_all(MoveRow(project_id=project_id, kind=it.kind, from_id=None if it.from_at is None else ids[it.from_at], to_id=ids[it.to_at], made_at=it.made_at) for it in kept.moves)  # fmt: skip
    session.add_all(TakeRow(project_id=project_id, revision_id=ids[it.revision], name=it.name, made_at=it.made_at, thrown_at=it.thrown_at, events=it.events) for it in kept.takes)  # fmt: skip
    session.add_all(TakenRow(project_id=project_id, host=it.host, revision_id=ids[it.revision], taken_at=it.taken_at) for it in kept.taken)  # fmt: skip
    session.add_all(LetGoRow(project_id=project_id, uid=it) for it in kept.let_go)
    _take_log_in(session, found, project_id, ids)
    project.head_id = ids[kept.head]
    session.flush()
    return project


def _take_log_in(session: Session, found: Unpacked, project_id: str, ids: Sequence[int]) -> None:
    """Add the entries of a project all at once, and its photos one at a time: they are many, and each is held no longer than it takes to write it."""
    entries = found.project.entries
    rows = [
        {
            "project_id": project_id, "uid": it.uid, "revision_id": ids[it.revision], "made_at": it.made_at, "version": it.version,
            "thrown_at": it.thrown_at, **it.said.model_dump(), "was": None if it.was is None else it.was.model_dump(), "uses": list(it.uses),
            "sought": sought(it.said.kind, it.said.text, it.said.stage_label, [photo.alt for photo in it.photos if photo.thrown_at is None]),
        }
        for it in entries
    ]  # fmt: skip
    # Their numbers are told, and not asked for one by one: the file is ours alone until this is written.
    first = (session.scalar(select(func.max(EntryRow.id))) or 0) + 1
    made = range(first, first + len(rows))
    if rows:
        session.execute(insert(EntryRow), [{"id": entry_id, **row} for entry_id, row in zip(made, rows, strict=True)])
    of = ((entry_id, photo) for entry_id, it in zip(made, entries, strict=True) for photo in it.photos)
    for number, (entry_id, photo) in enumerate(of):
        picture = photo_row(entry_id, found.photo(number), alt=photo.alt, made_at=photo.made_at, thrown_at=photo.thrown_at)
        session.add(picture)
        session.flush()
        session.expunge(picture)
