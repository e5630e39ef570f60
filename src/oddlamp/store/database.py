"""The database file: opening it safely and bringing it up to date."""

from pathlib import Path
from typing import Any, Final

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event

MIGRATIONS: Final = Path(__file__).parent / "migrations"


def open_database(path: Path) -> Engine:
    """Open a database file, made and migrated if need be.

    Every connection waits for a writer up to 5 s, checks foreign keys, and returns from a commit only
    once the data is on disk (WAL with synchronous FULL), so that what is shown as kept survives a kill.
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

    migrate(engine)
    return engine


def migrate(engine: Engine) -> None:
    """Bring the tables up to the newest migration."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
