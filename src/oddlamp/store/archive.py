"""A whole project as one open file: its plans, every step of its history, its takes; out and in without loss.

A ZIP with one JSON text in it, the same bytes each time for the same project: nothing of when or where it was packed is in it.
Hostile files are refused before anything of them is unpacked further than a bound.
"""

import json
import stat
import zipfile
import zlib
from io import BytesIO
from typing import IO, Final

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from oddlamp.core.errors import FieldProblem, OutOfRange, PlanInvalid
from oddlamp.core.plan.document import field_problems, load_plan, refuse_deep
from oddlamp.core.plan.whole import FORMAT, VERSION, MoveKept, ProjectKept, RevisionKept, TakeKept, TakenKept
from oddlamp.store.models import MoveRow, ProjectRow, RevisionRow, TakenRow, TakeRow
from oddlamp.store.stored import stored

TEXT: Final = "project.json"
FILE_MOST_BYTES: Final = 64 * 2**20
TEXT_MOST_BYTES: Final = 256 * 2**20
STAMP: Final = (1980, 1, 1, 0, 0, 0)  # the earliest a ZIP can tell
WHERE: Final = "a ZIP with project.json in it, as Odd Lamp writes it"


def packed(project: ProjectKept) -> bytes:
    """Write a project as a file: the same bytes whenever, and wherever, it is packed."""
    text = json.dumps(project.model_dump(mode="json"), ensure_ascii=False, indent=1, sort_keys=True) + "\n"
    out, info = BytesIO(), zipfile.ZipInfo(TEXT, STAMP)
    info.create_system, info.external_attr = 3, (stat.S_IFREG | 0o644) << 16
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(info, text.encode("utf-8"), zipfile.ZIP_DEFLATED, 6)
    return out.getvalue()


def unpacked(file: IO[bytes]) -> ProjectKept:
    """Read a project's file, and every plan in it.

    Raises:
        OutOfRange: no such file, more in it than belongs there, larger than any project is, or of a later version.
        PlanInvalid: a field that cannot be read; all are listed.
    """
    try:
        given = json.loads(_text(file))
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


def _text(file: IO[bytes]) -> bytes:
    """Return the one text of a ZIP, unpacked no further than a project's may be long."""
    try:
        with zipfile.ZipFile(file) as archive:
            found = archive.infolist()
            odd = next((it.filename for it in found if it.filename != TEXT), None)
            if odd is not None or len(found) != 1:
                raise _refused(ascii(odd)[:80] if odd is not None else f"{len(found)} texts", f"{TEXT} and nothing beside it")
            info = found[0]
            if stat.S_ISLNK(info.external_attr >> 16) or info.flag_bits & 1:
                raise _refused("a link, or a locked text", WHERE)
            if info.file_size > TEXT_MOST_BYTES:  # no more than it says there is ever unpacked
                raise _refused(f"over {TEXT_MOST_BYTES // 2**20} MB unpacked", "less, as every project is")
            return archive.read(info)
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, OSError, ValueError) as error:
        raise _refused(str(error)[:80] or "no ZIP", WHERE) from None


def _refused(given: str, allowed: str) -> OutOfRange:
    return OutOfRange(
        field="archive",
        given=given,
        allowed=allowed,
        said=f"This is no project that can be read: {given}. Nothing of it was kept; wanted is {allowed}.",
    )


def archived(session: Session, project: ProjectRow) -> ProjectKept:
    """Return all that is kept of a project.

    Raises:
        PlanInvalid: one of its plans can no longer be read from the file.
    """
    revisions = session.scalars(select(RevisionRow).where(RevisionRow.project_id == project.id).order_by(RevisionRow.id)).all()
    at = {row.id: place for place, row in enumerate(revisions)}
    moves = session.scalars(select(MoveRow).where(MoveRow.project_id == project.id).order_by(MoveRow.id))
    takes = session.scalars(select(TakeRow).where(TakeRow.project_id == project.id).order_by(TakeRow.id))
    taken = session.scalars(select(TakenRow).where(TakenRow.project_id == project.id).order_by(TakenRow.host))
    return ProjectKept(
        created_at=project.created_at,
        original=project.original,
        head=at[project.head_id or 0],
        revisions=tuple(
            RevisionKept(parent=None if it.parent_id is None else at[it.parent_id], number=it.number, made_at=it.made_at, summary=it.summary, plan=stored(it))
            for it in revisions
        ),
        moves=tuple(MoveKept(kind=it.kind, from_at=None if it.from_id is None else at[it.from_id], to_at=at[it.to_id], made_at=it.made_at) for it in moves),
        takes=tuple(TakeKept(revision=at[it.revision_id], name=it.name, made_at=it.made_at, thrown_at=it.thrown_at, events=it.events) for it in takes),
        taken=tuple(TakenKept(host=it.host, revision=at[it.revision_id], taken_at=it.taken_at) for it in taken),
    )  # fmt: skip


def take_in(session: Session, kept: ProjectKept, *, project_id: str, now: str) -> ProjectRow:
    """Add a project as a file has it, all of it or nothing: it is one transaction's."""
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
        session.expunge(row)
    session.add_all(MoveRow(project_id=project_id, kind=it.kind, from_id=None if it.from_at is None else ids[it.from_at], to_id=ids[it.to_at], made_at=it.made_at) for it in kept.moves)  # fmt: skip
    session.add_all(TakeRow(project_id=project_id, revision_id=ids[it.revision], name=it.name, made_at=it.made_at, thrown_at=it.thrown_at, events=it.events) for it in kept.takes)  # fmt: skip
    session.add_all(TakenRow(project_id=project_id, host=it.host, revision_id=ids[it.revision], taken_at=it.taken_at) for it in kept.taken)  # fmt: skip
    project.head_id = ids[kept.head]
    session.flush()
    return project
