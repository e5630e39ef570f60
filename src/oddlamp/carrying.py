"""Whole projects carried from one database to another, by the command line."""

import re
from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import OutOfRange
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.model import Plan
from oddlamp.sheets.log import log_csv, log_markdown
from oddlamp.store.archive import FILE_MOST_BYTES, Packing, unpacked
from oddlamp.store.database import CannotOpen, DatabaseTooNew, NotOurs, open_database
from oddlamp.store.kept import Kept
from oddlamp.store.projects import ProjectStore
from oddlamp.terminal import read_plan


def archive(database: Path, project: str, to: Path) -> list[Path]:
    """Write the file of a project that is kept into a folder, a photo at a time; raises OutOfRange where it can't be written."""
    with opened(database) as store:
        packing = Packing(store.archived(project))
        return [_written(to / _file_name(store.read(project).plan), packing.pieces())]


def archive_of(plan: Plan, to: Path) -> list[Path]:
    """Write the file of a project that is nothing but a plan into a folder; raises OutOfRange where it can't be written."""
    with TemporaryDirectory() as folder:
        one = Path(folder) / "one.sqlite3"
        with opened(one) as store:
            made = store.create(plan, summary="Read from a file")
        return archive(one, made.id, to)


def log(database: Path, project: str, to: Path) -> list[Path]:
    """Write the log of a project into a folder, to read and as a table; raises OutOfRange where it can't be written."""
    with opened(database) as store:
        entries, deeds = store.log.entries(project), store.deeds(project)
        texts = {"log.md": log_markdown(store.title(project), entries, deeds), "log.csv": log_csv(entries, deeds)}
    return [_written(to / name, [text.encode()]) for name, text in texts.items()]


def _written(path: Path, pieces: Iterable[bytes]) -> Path:
    """Write a file whole, or leave the one that is there; raises OutOfRange."""
    half = path.with_name(f"{path.name}.half")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with half.open("wb") as file:
            for piece in pieces:
                file.write(piece)
        half.replace(path)
    except OSError as error:
        raise OutOfRange(field="to", given=str(path), allowed=f"a folder that can be written ({error.strerror})") from None
    finally:
        with suppress(OSError):
            half.unlink(missing_ok=True)
    return path


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
