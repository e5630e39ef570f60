"""The database file: opening it safely and bringing it up to date."""

import sqlite3
from pathlib import Path
from typing import Any, Final

from sqlalchemy import Engine, create_engine, event, inspect, text

from oddlamp.store.models import Base

MIGRATIONS: Final = Path(__file__).parent / "migrations"
NEWEST: Final = "0002"


class DatabaseTooNew(Exception):
    """The file was written by a later Odd Lamp; it is left as it is."""


def open_database(path: Path) -> Engine:
    """Open a database file, made and migrated if need be.

    Every connection waits for a writer up to 5 s, checks foreign keys, and returns from a commit only
    once the data is on disk (WAL with synchronous FULL), so that what is shown as kept survives a kill.
    An older file is copied beside itself before it is changed.
    Raises:
        DatabaseTooNew: a later version wrote the file.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}")

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, _record: Any) -> None:
        connection.isolation_level = None  # transactions are begun below, not by the driver
        for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=5000"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def begin(connection: Any) -> None:
        # A write lock from the start: a read that turns into a write could otherwise fail half way.
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    migrate(engine, path)
    return engine


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
        keep_copy(path, path.with_name(f"{path.name}.before-{NEWEST}"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def keep_copy(path: Path, copy: Path) -> None:
    """Copy a database file whole, what still stands in its log included."""
    source, target = sqlite3.connect(path), sqlite3.connect(copy)
    try:
        source.backup(target)
    finally:
        target.close()
        source.close()
