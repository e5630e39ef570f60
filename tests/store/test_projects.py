"""The store: every change kept, undo and redo, stale edits refused, nothing lost to a kill."""

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy import Engine, text

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import NothingToUndo, PlanInvalid, StaleRevision, UnknownProject
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import dump_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.store.database import open_database
from oddlamp.store.projects import Kept, ProjectStore
from tests.builders import CLEAR, lamp


def ticking() -> Iterator[datetime]:
    moment = datetime(2026, 1, 1, tzinfo=UTC)
    while True:
        yield moment
        moment += timedelta(seconds=1)


@pytest.fixture
def engine(tmp_path: Path) -> Engine:
    return open_database(tmp_path / "deep" / "oddlamp.sqlite3")


@pytest.fixture
def store(engine: Engine) -> ProjectStore:
    moments = ticking()
    return ProjectStore(engine, clock=lambda: next(moments))


def check(plan: Plan) -> None:
    check_parts(plan, load_catalog())


def ohm(kept: Kept) -> object:
    return dump_plan(kept.plan)["lamps"]["lamp"]["channels"]["main"]["resistor_ohm"]


def turn(store: ProjectStore, kept: Kept, value: object) -> Kept:
    return store.edit(kept.id, lamp(resistor_ohm=value), base_revision=kept.revision, summary=f"resistor {value}", check=check)


def test_the_database_waits_checks_and_syncs(engine: Engine) -> None:
    with engine.connect() as connection:
        pragmas = {
            name: connection.execute(text(f"PRAGMA {name}")).scalar()
            for name in ("journal_mode", "synchronous", "foreign_keys", "busy_timeout")
        }
    assert pragmas == {"journal_mode": "wal", "synchronous": 2, "foreign_keys": 1, "busy_timeout": 5000}


def test_edits_undo_and_redo(store: ProjectStore) -> None:
    first = store.create(load_plan(CLEAR), summary="start")
    assert (first.undo, first.redo, ohm(first)) == (None, None, 75)
    second = turn(store, first, "82")
    third = turn(store, second, "4k7")
    assert ohm(third) == 4700
    assert third.undo == "resistor 4k7"
    back = store.undo(first.id, base_revision=third.revision)
    assert (ohm(back), back.redo) == (82, "resistor 4k7")
    again = store.redo(first.id, base_revision=back.revision)
    assert (again.revision, again.redo) == (third.revision, None)


def test_an_edit_after_undo_starts_a_branch_and_deletes_nothing(store: ProjectStore, engine: Engine) -> None:
    first = store.create(load_plan(CLEAR), summary="start")
    left = turn(store, first, 82)
    back = store.undo(first.id, base_revision=left.revision)
    right = turn(store, back, 91)
    assert right.redo is None
    back = store.undo(first.id, base_revision=right.revision)
    assert store.redo(first.id, base_revision=back.revision).revision == right.revision  # the child last left
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM revisions")).scalar() == 3


def test_an_edit_that_changes_nothing_makes_no_revision(store: ProjectStore) -> None:
    first = store.create(load_plan(CLEAR), summary="start")
    assert turn(store, first, "75 ohm").revision == first.revision


def test_refusals_keep_nothing(store: ProjectStore) -> None:
    first = store.create(load_plan(CLEAR), summary="start")
    second = turn(store, first, 82)
    with pytest.raises(StaleRevision):
        turn(store, first, 91)
    with pytest.raises(PlanInvalid):
        turn(store, second, "9 V")
    with pytest.raises(PlanInvalid):
        store.edit(first.id, lamp(led={"part": "candle"}), base_revision=second.revision, summary="x", check=check)
    with pytest.raises(NothingToUndo):
        store.redo(first.id, base_revision=second.revision)
    back = store.undo(first.id, base_revision=second.revision)
    with pytest.raises(NothingToUndo):
        store.undo(first.id, base_revision=back.revision)
    with pytest.raises(UnknownProject):
        store.open("nobody")
    assert store.read(first.id).revision == first.revision


def test_the_shelf_shows_the_last_opened_first(store: ProjectStore) -> None:
    one, two = (store.create(load_plan({**CLEAR, "title": title}), summary="start") for title in ("One", "Two"))
    assert [item.title for item in store.names()] == ["Two", "One"]
    store.open(one.id)
    assert [item.id for item in store.names()] == [one.id, two.id]
    store.edit(two.id, {"title": "Second"}, base_revision=two.revision, summary="named", check=check)
    assert {item.title for item in store.names()} == {"One", "Second"}


WRITER = """
import sys
from pathlib import Path
from oddlamp.core.plan.document import load_plan
from oddlamp.store.database import open_database
from oddlamp.store.projects import ProjectStore
store = ProjectStore(open_database(Path(sys.argv[1])))
item = store.names()[0]
kept = store.read(item.id)
while True:
    value = kept.number + 100
    kept = store.edit(item.id, {"lamps": {"lamp": {"channels": {"main": {"resistor_ohm": value}}}}}, base_revision=kept.revision, summary="x", check=lambda plan: None)
    print(value, flush=True)
"""


def test_what_was_said_to_be_kept_survives_a_kill(tmp_path: Path) -> None:
    path = tmp_path / "oddlamp.sqlite3"
    store = ProjectStore(open_database(path))
    project = store.create(load_plan(CLEAR), summary="start")
    for _ in range(5):
        writer = subprocess.Popen([sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True)
        assert writer.stdout is not None
        said = [int(writer.stdout.readline()) for _ in range(7)][-1]
        os.kill(writer.pid, signal.SIGKILL)
        said = max([said, *(int(line) for line in writer.stdout.read().split("\n") if line.strip())])
        writer.wait()
        assert float(str(ohm(store.read(project.id)))) >= said
