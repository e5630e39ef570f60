"""Whole projects carried from one database to another, by the command line."""

import re
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import OutOfRange
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.model import Plan
from oddlamp.store.archive import FILE_MOST_BYTES, packed, unpacked
from oddlamp.store.database import CannotOpen, DatabaseTooNew, NotOurs, open_database
from oddlamp.store.kept import Kept
from oddlamp.store.projects import ProjectStore
from oddlamp.terminal import read_plan


def archive(database: Path, project: str) -> dict[str, bytes]:
    """Return the file of a project that is kept, by its name."""
    with opened(database) as store:
        return {_file_name(store.read(project).plan): packed(store.archived(project))}


def archive_of(plan: Plan) -> dict[str, bytes]:
    """Return the file of a project that is nothing but a plan."""
    with TemporaryDirectory() as folder, opened(Path(folder) / "one.sqlite3") as store:
        made = store.create(plan, summary="Read from a file")
        return {_file_name(plan): packed(store.archived(made.id))}


def plan_of(database: Path, project: str) -> Plan:
    """Return the plan that a kept project shows."""
    with opened(database) as store:
        return store.read(project).plan


def take_in(database: Path, file: Path) -> Kept:
    """Keep a project from a file: a whole one, or one that a plan starts.

    Raises:
        OutOfRange, PlanInvalid: what is in the file cannot be read; nothing of it is kept.
        OSError: the file cannot be opened.
    """
    if file.stat().st_size > FILE_MOST_BYTES:
        raise OutOfRange(field="archive", given=f"over {FILE_MOST_BYTES // 2**20} MB", allowed="less, as every project has")
    with file.open("rb") as source:
        is_plan = source.read(1) == b"{"
        source.seek(0)
        if is_plan:
            plan = read_plan(file)
            with opened(database) as store:
                return store.create(plan, summary="Read from a file")
        with closing(unpacked(source)) as found:
            check_parts(found.project.head_plan, load_catalog())
            with opened(database) as store:
                return store.take_in(found)


@contextmanager
def opened(database: Path) -> Iterator[ProjectStore]:
    """Open a database for a moment, beside a server that runs or alone; raises OutOfRange where it is none of ours."""
    try:
        store = ProjectStore(open_database(database))
    except (CannotOpen, DatabaseTooNew, NotOurs) as error:
        raise OutOfRange(field="database", given=str(database), allowed="a database of Odd Lamp", said=str(error)) from None
    try:
        yield store
    finally:
        store.close()


def _file_name(plan: Plan) -> str:
    """Return a name for the file that every system takes."""
    return (re.sub(r"[^a-z0-9]+", "-", plan.title.lower()).strip("-") or "project") + ".zip"
