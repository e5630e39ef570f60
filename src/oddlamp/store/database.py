"""The database file: opening it safely and bringing it up to date."""

import itertools
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from functools import partial
from pathlib import Path
from typing import Any, Final

from sqlalchemy import URL, Engine, create_engine, event, inspect, text
from sqlalchemy.exc import DatabaseError

from oddlamp.store.models import Base

MIGRATIONS: Final = Path(__file__).parent / "migrations"
NEWEST: Final = "0006"
BUSY_MS: Final = 5000
DAMAGED: Final = (
    "{database} is no database Odd Lamp can read, or it is damaged. It is left as it is: give another --database, or a copy."
)


class NotOurs(Exception):
    """The file is a database of another program; it is left as it is."""


class CannotOpen(Exception):
    """The file cannot be used; the message says why, that it is as it was, and what to do."""


class DatabaseTooNew(Exception):
    """The file was written by a later Odd Lamp; it is left as it is."""


def open_database(path: Path) -> Engine:
    """Open a database file, made and migrated if need be; the path is taken as it is, whatever characters are in it.

    Every connection waits for another program's lock up to 5 s, checks foreign keys, and returns from a commit only
    once the data is on disk (WAL with synchronous FULL), so that what is shown as kept survives a kill.
    A connection with the option ``reads`` takes no lock: it sees the file as it stood when it began.
    An older file is copied beside itself before it is changed.
    Raises:
        DatabaseTooNew: a later version wrote the file.
        NotOurs: the file is a database of another program.
        CannotOpen: it is no database, damaged, held by another program, or in no place that can be written.
    """
    with opening(path):
        path.parent.mkdir(parents=True, exist_ok=True)
        _leave_alone(path)
        return _opened(path)


@contextmanager
def opening(path: Path) -> Iterator[None]:
    """Say in one sentence why a file cannot be opened; raises CannotOpen."""
    try:
        yield
    except (DatabaseError, sqlite3.DatabaseError, OSError) as error:
        raise CannotOpen(_why(path, error)) from error
    except UnicodeDecodeError as error:  # what is damaged is the very text that would say so
        raise CannotOpen(DAMAGED.format(database=path)) from error


def _opened(path: Path) -> Engine:
    engine = create_engine(URL.create("sqlite", database=str(path)))

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, _record: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, not by the driver
        connection.text_factory = partial(str, encoding="utf-8", errors="replace")  # one damaged letter must not hide the rest
        for pragma in (f"busy_timeout={BUSY_MS}", "journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def begin(connection: Any) -> None:
        # A write lock from the start: a read that turns into a write could otherwise fail half way.
        connection.exec_driver_sql("BEGIN" if connection.get_execution_options().get("reads") else "BEGIN IMMEDIATE")

    migrate(engine, path)
    return engine


def _leave_alone(path: Path) -> None:
    """Look before touching: setting up a connection writes to the file, which another program's must not feel."""
    if not path.exists() or not path.stat().st_size:
        return
    with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if tables and "projects" not in tables:
        raise NotOurs(f"{path} is a database of another program")


def _why(database: Path, error: Exception) -> str:
    """Say what is wrong with a file that cannot be opened."""
    reason = error.orig if isinstance(error, DatabaseError) else error
    code = getattr(reason, "sqlite_errorcode", 0) & 0xFF
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return f"{database} is held by another program. Stop that one, then start again; the file is as it was."
    if code in (sqlite3.SQLITE_NOTADB, sqlite3.SQLITE_CORRUPT):
        return DAMAGED.format(database=database)
    if code == sqlite3.SQLITE_FULL:
        return f"There is no room on the disk for {database}. Make some, then start again; what is kept is safe."
    return f"{database} cannot be opened and written ({reason}). Choose a --database in a folder you may write to."


def close_database(engine: Engine) -> None:
    """Bring everything into the one file, and let go of it; what another program holds open stays in the log beside it."""
    with suppress(DatabaseError, sqlite3.DatabaseError), closing(engine.raw_connection()) as connection:
        connection.cursor().execute("PRAGMA wal_checkpoint(TRUNCATE)")
    engine.dispose()


def migrate(engine: Engine, path: Path) -> None:
    """Bring the tables up to the newest migration, with a copy of an older file beside it.

    Raises:
        DatabaseTooNew: the file stands at a migration this program does not know.
    """
    with engine.begin() as connection:
        tables = inspect(connection).get_table_names()
        if not tables:  # a new file is made as the newest is, without walking through its past; a test holds the two alike
            Base.metadata.create_all(connection)
            connection.execute(text("CREATE TABLE alembic_version (version_num VARCHAR(32) NOT NULL PRIMARY KEY)"))
            connection.execute(text("INSERT INTO alembic_version VALUES (:newest)"), {"newest": NEWEST})
            return
        has_stamp = "alembic_version" in tables
        stands_at = connection.execute(text("SELECT version_num FROM alembic_version")).scalar() if has_stamp else None
    if stands_at == NEWEST:
        return

    # Only an old file needs what brings it up to date, and that takes a while to load.
    from alembic import command
    from alembic.config import Config
    from alembic.script import ScriptDirectory

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    if stands_at is not None and stands_at not in known:
        engine.dispose()
        raise DatabaseTooNew(f"{path} was written by a later Odd Lamp (migration {stands_at}); this one knows up to {NEWEST}")
    if stands_at is not None:
        keep_copy(path, free_name(path.with_name(f"{path.name}.before-{NEWEST}")))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def free_name(wanted: Path) -> Path:
    """Return a path nothing stands at: the wanted one, else with the first number that is free."""
    names = (wanted.with_name(f"{wanted.stem}-{count}{wanted.suffix}") for count in itertools.count(2))
    return wanted if not wanted.exists() else next(name for name in names if not name.exists())


def keep_copy(path: Path, copy: Path) -> None:
    """Copy a database file whole, what still stands in its log included, while it may be in use.

    Raises:
        FileExistsError: there is something of this name already.
        OSError, sqlite3.DatabaseError: the one cannot be read or the other not be written; no half copy is left.
    """
    if copy.exists():
        raise FileExistsError(f"{copy} is there already")
    half = copy.with_name(f"{copy.name}.half")
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as source:
            copy_out(source, half)
        half.rename(copy)
    finally:
        half.unlink(missing_ok=True)


def copy_out(source: sqlite3.Connection, target: Path) -> None:
    """Write what a connection sees into a new file, complete in itself."""
    with closing(sqlite3.connect(target)) as copied:
        source.backup(copied)
        copied.execute("PRAGMA journal_mode=DELETE")
