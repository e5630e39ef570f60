"""The store: every change kept, undo and redo, edits that meet, upgrades, and a full disk."""

import sqlite3
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, inspect, text

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import NothingToUndo, NotKept, PlanInvalid, StaleRevision, UnknownProject, UnknownRevision
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import dump_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.store.database import MIGRATIONS, NEWEST, DatabaseTooNew, open_database
from oddlamp.store.kept import Kept
from oddlamp.store.models import Base
from oddlamp.store.projects import ProjectStore
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
    with pytest.raises(StaleRevision) as stale:
        turn(store, first, 91)
    assert [(it.was, it.theirs, it.yours) for it in stale.value.clashes] == [("75\u00a0Ω", "82\u00a0Ω", "91\u00a0Ω")]
    assert stale.value.revision == second.revision
    with pytest.raises(PlanInvalid):
        turn(store, second, "9 V")
    with pytest.raises(PlanInvalid):
        store.edit(first.id, lamp(led={"part": "candle"}), base_revision=second.revision, summary="x", check=check)
    with pytest.raises(NothingToUndo):
        store.redo(first.id, base_revision=second.revision)
    back = store.undo(first.id, base_revision=second.revision)
    with pytest.raises(NothingToUndo):
        store.undo(first.id, base_revision=back.revision)
    with pytest.raises(StaleRevision):
        store.undo(first.id, base_revision=second.revision)
    with pytest.raises(UnknownProject):
        store.opened("nobody")
    with pytest.raises(UnknownRevision):
        store.restore(first.id, 999, base_revision=back.revision)
    assert store.read(first.id).revision == first.revision


def test_edits_of_different_places_on_an_old_revision_both_survive(store: ProjectStore) -> None:
    first = store.create(load_plan(CLEAR), summary="start")
    turn(store, first, 82)
    both = store.edit(first.id, {"title": "Both"}, base_revision=first.revision, summary="named", check=check)
    assert (ohm(both), both.plan.title, both.number) == (82, "Both", 2)


def test_an_edit_that_speaks_of_what_is_gone_is_a_clash_too(store: ProjectStore) -> None:
    first = store.create(load_plan(CLEAR), summary="start")
    extra = {"lamps": {"other": {"kind": "led", "host": "board"}}}
    second = store.edit(first.id, extra, base_revision=first.revision, summary="other", check=check)
    gone = store.edit(first.id, {"lamps": {"other": None}}, base_revision=second.revision, summary="gone", check=check)
    rule = {"rules": {"new": {"host": "board", "when": {"heard": "on"}, "do": [{"verb": "on", "target": "other"}]}}}
    with pytest.raises(StaleRevision) as stale:
        store.edit(first.id, rule, base_revision=second.revision, summary="rule", check=check)
    assert [it.label for it in stale.value.clashes] == ["rules.new.do.0.target"]
    assert store.read(first.id).revision == gone.revision


def test_any_state_is_brought_back_as_a_new_change(store: ProjectStore) -> None:
    first = store.create(load_plan(CLEAR), summary="start")
    third = turn(store, turn(store, first, 82), 91)
    back = store.restore(first.id, first.revision, base_revision=third.revision)
    assert (ohm(back), back.summary) == (75, "Back to change 0: start")
    assert ohm(store.undo(first.id, base_revision=back.revision)) == 91
    history = store.history(first.id)
    assert [row.number for row in history] == [0, 1, 2, 3]
    assert [row.parent for row in history] == [None, *(row.revision for row in history[:-1])]


def test_projects_are_put_away_thrown_away_and_brought_back(store: ProjectStore) -> None:
    first = turn(store, store.create(load_plan(CLEAR), summary="start"), 82)
    assert [store.move(first.id, place).place for place in ("archive", "bin", "shelf")] == ["archive", "bin", "shelf"]
    assert store.read(first.id)[1:] == first[1:], "nothing of the project is touched"


def test_an_older_database_is_upgraded_with_a_copy_beside_it_and_a_newer_one_refused(tmp_path: Path) -> None:
    path = tmp_path / "old.sqlite3"
    engine = open_database(path)
    project = ProjectStore(engine).create(load_plan(CLEAR), summary="start")
    with engine.begin() as connection:
        for column in ("archived_at", "deleted_at", "original"):
            connection.execute(text(f"ALTER TABLE projects DROP COLUMN {column}"))
        connection.execute(text("DROP TABLE glances"))
        connection.execute(text("DROP TABLE takes"))
        for table in ("taken", "photos", "entries", "let_go", "deeds"):
            connection.execute(text(f"DROP TABLE {table}"))
        connection.execute(text("UPDATE alembic_version SET version_num = '0001'"))
    engine.dispose()
    upgraded = ProjectStore(open_database(path))
    assert upgraded.read(project.id).plan == project.plan
    copy = sqlite3.connect(tmp_path / f"old.sqlite3.before-{NEWEST}")
    assert copy.execute("SELECT version_num FROM alembic_version").fetchone() == ("0001",)
    assert copy.execute("SELECT count(*) FROM revisions").fetchone() == (1,)
    copy.close()
    with open_database(path).begin() as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    before = path.read_bytes()
    with pytest.raises(DatabaseTooNew, match="later Odd Lamp"):
        open_database(path)
    assert path.read_bytes() == before


def test_a_file_made_new_is_the_one_the_migrations_lead_to(tmp_path: Path) -> None:
    walked = create_engine(f"sqlite:///{tmp_path / 'walked.sqlite3'}")
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    assert ScriptDirectory.from_config(config).get_current_head() == NEWEST
    with walked.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
    described = []
    for engine in (walked, open_database(tmp_path / "new.sqlite3")):
        with engine.connect() as connection:
            assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
        seen = inspect(engine)
        described.append(
            {
                table: (
                    sorted((it["name"], str(it["type"]), it["nullable"]) for it in seen.get_columns(table)),
                    sorted(map(str, seen.get_indexes(table))),
                    sorted(str(it["constrained_columns"]) + it["referred_table"] for it in seen.get_foreign_keys(table)),
                    seen.get_pk_constraint(table)["constrained_columns"],
                )
                for table in seen.get_table_names()
            }
        )
    assert described[0] == described[1]
    assert len(described[0]) == 11


def test_a_full_disk_is_told_and_nothing_is_damaged(store: ProjectStore, engine: Engine) -> None:
    """SQLite itself runs out of pages, as it does on a full disk: the same error by the same road."""
    first = store.create(load_plan(CLEAR), summary="start")

    def limit(pages: int) -> None:
        with engine.connect() as connection:
            connection.exec_driver_sql(f"PRAGMA max_page_count = {pages}")

    engine.dispose()
    with engine.connect() as connection:
        pages = int(connection.exec_driver_sql("PRAGMA page_count").scalar() or 0)
    limit(pages + 2)
    states = [first]

    def fill() -> None:
        for value in range(100, 400):
            states.append(turn(store, states[-1], value))

    with pytest.raises(NotKept, match="full"):
        fill()
    kept = states[-1]
    assert kept.revision > first.revision
    assert store.read(first.id).plan == kept.plan, "what was kept before is whole, and opens on a full disk"
    limit(1_000_000)
    again = turn(store, kept, 47)
    assert (ohm(again), again.number) == (47, kept.number + 1)
    with engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA integrity_check").scalar() == "ok"


def test_the_shelf_shows_the_last_opened_first(store: ProjectStore) -> None:
    one, two = (store.create(load_plan({**CLEAR, "title": title}), summary="start") for title in ("One", "Two"))
    assert [item.title for item in store.names()] == ["Two", "One"]
    store.opened(one.id)
    assert [item.id for item in store.names()] == [one.id, two.id]
    store.edit(two.id, {"title": "Second"}, base_revision=two.revision, summary="named", check=check)
    assert {item.title for item in store.names()} == {"One", "Second"}
