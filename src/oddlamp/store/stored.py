"""Plans as they stand in the file, and what the file refuses."""

import sqlite3
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.exc import DatabaseError

from oddlamp.core.errors import FileBusy, FileDamaged, NotKept, PlanInvalid, StaleRevision
from oddlamp.core.plan.changes import Clash, clashes, differences
from oddlamp.core.plan.document import Document, dump_plan, edit_document
from oddlamp.core.plan.model import Plan
from oddlamp.store.database import BUSY_MS
from oddlamp.store.models import RevisionRow


def crc(text: bytes | None) -> int:
    """Return the check sum of a plan's text."""
    return zlib.crc32(text or b"")


def stored(row: RevisionRow) -> Document:
    """Return the plan of a revision as it is kept; raises PlanInvalid where the file holds no JSON there."""
    try:
        return row.plan
    except ValueError as error:
        raise damaged(error) from error


def damaged(error: ValueError) -> PlanInvalid:
    """Say that the file holds no JSON where a plan was kept."""
    return PlanInvalid(field="plan", given=str(error), allowed="JSON, as it was when it was kept")


def is_same(one: RevisionRow, other: RevisionRow) -> bool:
    """Tell whether two revisions hold the same plan; one that cannot be read is like no other."""
    try:
        return not differences(stored(one), stored(other))
    except PlanInvalid:
        return False


@contextmanager
def told() -> Iterator[None]:
    """Say what the file refused: that another program holds it, that it is damaged, or that the disk takes nothing."""
    try:
        yield
    except DatabaseError as error:
        reason, code = str(error.orig), getattr(error.orig, "sqlite_errorcode", 0) & 0xFF
        safe = "Nothing of this change was kept; all before it is safe."
        if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
            said = f"Another program holds the file of your projects. {safe} Close that program, then try again."
            allowed = f"a file no other program holds for more than {BUSY_MS / 1000:g} s"
            raise FileBusy(field="file", given="held by another program", allowed=allowed, said=said) from error
        if code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB):
            said = f"The file of your projects is damaged ({reason}). What can still be read of it is shown, and nothing of this change was kept. Copy the file as it is, then start with the last copy you made: oddlamp serve --database COPY."
            raise FileDamaged(field="file", given=reason, allowed="a file without damage here", said=said) from error
        said = f"The disk took nothing ({reason}). {safe} Make room on it, or let it be written, then try again."
        raise NotKept(field="disk", given=reason, allowed="a disk with room that can be written", said=said) from error


def on_top(base_id: int, base: Document, head_id: int, head: Document, mine: Plan, patch: Document) -> Plan:
    """Apply an edit made on an older revision on top of what was kept since; raises StaleRevision where they meet."""
    found = clashes(base, head, dump_plan(mine))
    if not found:
        try:
            return edit_document(head, patch)
        except PlanInvalid as error:
            # What the edit speaks of was taken out meanwhile: another place, but the two cannot both stand.
            found = tuple(
                Clash(path=tuple(it.field.split(".")), label=it.field, was="", theirs=f"{it.given} is gone", yours=it.given)
                for it in error.problems
            )
    raise StaleRevision(given=base_id, revision=head_id, clashes=found)
