"""Watches the file by its name: one that is deleted or moved while in use would go on taking changes that nobody finds again."""

import sqlite3
from contextlib import suppress
from pathlib import Path

from sqlalchemy import Engine

from oddlamp.core.errors import NotKept
from oddlamp.store.database import CannotOpen, copy_out, free_name, keep_copy, open_database


class Watch:
    """Holds one connection to the file that was opened, and goes on in a copy of it where that file lost its name."""

    def __init__(self, engine: Engine) -> None:
        self.notice: str | None = None
        self._begin(engine)

    def _begin(self, engine: Engine) -> None:
        name = engine.url.database
        self.path = Path(name) if name and name != ":memory:" else None
        if self.path is None:
            return
        self._identity = _identity(self.path)
        self._keeper = sqlite3.connect(self.path, check_same_thread=False)
        self._keeper.execute("SELECT count(*) FROM projects").fetchone()  # so that it holds the log beside it too

    def end(self) -> None:
        """Let go of the file."""
        if self.path is not None:
            self._keeper.close()

    def copy_to(self, target: Path) -> None:
        """Copy the file whole into a new one; raises OSError, sqlite3.DatabaseError."""
        if self.path is not None:
            keep_copy(self.path, target)

    def is_gone(self) -> bool:
        """Tell whether another file, or none, stands where ours was."""
        return self.path is not None and _identity(self.path) != self._identity

    def rescue(self) -> Engine:
        """Write everything kept so far into a new file beside, and open that.

        Raises:
            NotKept: there is no place to write it to.
        """
        was = self.path
        if was is None:
            raise ValueError("what is only in memory has no file to lose")
        beside = free_name(was.with_name(f"{was.stem}-rescued{was.suffix}"))
        try:
            beside.parent.mkdir(parents=True, exist_ok=True)
            copy_out(self._keeper, beside)
            engine = open_database(beside)
        except (OSError, sqlite3.DatabaseError, CannotOpen) as error:
            with suppress(OSError):
                beside.unlink()
            raise NotKept(
                field="file",
                given=str(error),
                allowed="a place beside it to write to",
                said=f"{was} was taken away while Odd Lamp ran, and {beside} cannot be written ({error}). All that was kept is still held: leave Odd Lamp running, give it a place beside it to write to, then try again.",
            ) from error
        self._keeper.close()
        self._begin(engine)
        self.notice = (
            f"The file {was} was taken away while Odd Lamp ran. Nothing is lost: everything is kept in {beside} since then."
        )
        return engine


def _identity(path: Path) -> tuple[int, int] | None:
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino
