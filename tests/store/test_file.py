"""The one file everything is kept in: closed whole, copied while in use, held by others, taken away, and named strangely."""

import os
import shutil
import signal
import sqlite3
from pathlib import Path
from typing import Any

import httpx
import pytest

from oddlamp.core.errors import FileBusy, FileDamaged, NotKept, PlanInvalid, StaleRevision
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.store import database
from oddlamp.store.database import NEWEST, keep_copy, open_database
from oddlamp.store.kept import Kept
from oddlamp.store.projects import ProjectStore
from tests.builders import CLEAR, lamp
from tests.conftest import caller, start_server

BEFORE = Path(__file__).parent.parent / "data" / "before" / "projects.sqlite3"


def ohm(store: ProjectStore, project: str) -> Any:
    channel = store.read(project).plan.lamps["lamp"].model_dump()["channels"]["main"]
    return channel["resistor_ohm"]


def turn(store: ProjectStore, kept: Kept, value: float) -> Kept:
    return store.edit(kept.id, lamp(resistor_ohm=value), base_revision=kept.revision, summary=f"{value}", check=lambda plan: None)


def edit(http: httpx.Client, state: Any, value: float) -> httpx.Response:
    body = {"base_revision": state["revision"], "patch": lamp(resistor_ohm=value)}
    return http.post(f"/api/projects/{state['id']}/edits", json=body)


@pytest.mark.parametrize("stop", [signal.SIGINT, signal.SIGTERM])
def test_a_clean_stop_leaves_everything_in_the_one_file(tmp_path: Path, stop: signal.Signals) -> None:
    process, address = start_server(tmp_path / "here" / "oddlamp.sqlite3")
    with caller(address) as http:
        state = http.post("/api/projects/import", json=CLEAR).json()
        for value in range(100, 130):
            state = edit(http, state, value).json()
    os.kill(process.pid, stop)
    process.wait()
    assert [path.name for path in (tmp_path / "here").iterdir()] == ["oddlamp.sqlite3"]
    shutil.copy(tmp_path / "here" / "oddlamp.sqlite3", tmp_path / "alone.sqlite3")
    assert ohm(ProjectStore(open_database(tmp_path / "alone.sqlite3")), state["id"]) == 129


def test_a_copy_of_everything_is_made_while_the_server_runs(tmp_path: Path) -> None:
    process, address = start_server(tmp_path / "oddlamp.sqlite3")
    try:
        with caller(address) as http:
            state = edit(http, http.post("/api/projects/import", json=CLEAR).json(), 82).json()
            keep_copy(tmp_path / "oddlamp.sqlite3", tmp_path / "copy.sqlite3")
            (tmp_path / "taken.sqlite3").write_bytes(http.get("/api/copy").content)
            edit(http, state, 91)
    finally:
        process.terminate()
        process.wait()
    for name in ("copy", "taken"):
        assert ohm(ProjectStore(open_database(tmp_path / f"{name}.sqlite3")), state["id"]) == 82
    with pytest.raises(FileExistsError):
        keep_copy(tmp_path / "oddlamp.sqlite3", tmp_path / "copy.sqlite3")
    with pytest.raises((OSError, sqlite3.DatabaseError)):
        keep_copy(tmp_path / "none.sqlite3", tmp_path / "other.sqlite3")
    assert not (tmp_path / "other.sqlite3").exists()
    assert not list(tmp_path.glob("*.half"))


@pytest.mark.parametrize("name", ["a?b.sqlite3", "50%20.sqlite3", "x#y.sqlite3", "file:z.sqlite3", "мой свет.sqlite3"])
def test_the_path_is_taken_as_it_is(tmp_path: Path, name: str) -> None:
    path = tmp_path / name
    store = ProjectStore(open_database(path))
    kept = store.create(load_plan(CLEAR), summary="start")
    store.close()
    assert [it.name for it in tmp_path.iterdir()] == [name]
    assert ohm(ProjectStore(open_database(path)), kept.id) == 75
    keep_copy(path, tmp_path / "copy")
    assert ohm(ProjectStore(open_database(tmp_path / "copy")), kept.id) == 75


def test_the_copy_before_a_migration_is_whole_whatever_the_name(tmp_path: Path) -> None:
    path = tmp_path / "x#y?.sqlite3"
    shutil.copy(BEFORE, path)
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '0001'")
        for column in ("archived_at", "deleted_at", "original"):
            connection.execute(f"ALTER TABLE projects DROP COLUMN {column}")
        connection.execute("DROP TABLE IF EXISTS glances")
        count = connection.execute("SELECT count(*) FROM revisions").fetchone()
    connection.close()
    open_database(path).dispose()
    with sqlite3.connect(tmp_path / f"x#y?.sqlite3.before-{NEWEST}") as copied:
        assert copied.execute("SELECT count(*) FROM revisions").fetchone() == count != (0,)
    copied.close()


def test_reads_wait_for_nobody_and_a_lock_of_another_program_is_told_as_that(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(database, "BUSY_MS", 100)
    store = ProjectStore(open_database(tmp_path / "oddlamp.sqlite3"))
    kept = store.create(load_plan(CLEAR), summary="start")
    other = sqlite3.connect(tmp_path / "oddlamp.sqlite3", isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    assert ohm(store, kept.id) == 75
    assert store.history(kept.id)
    with pytest.raises(FileBusy, match="Another program holds"):
        turn(store, kept, 82)
    other.execute("ROLLBACK")
    other.close()
    assert turn(store, kept, 82).number == 1


def test_an_edit_that_comes_between_is_kept_and_so_is_the_one_it_came_between(tmp_path: Path) -> None:
    store = ProjectStore(open_database(tmp_path / "oddlamp.sqlite3"))
    kept = store.create(load_plan(CLEAR), summary="start")
    between: list[Kept] = []

    def check(plan: Plan) -> None:
        if not between:
            between.append(turn(store, kept, 82))

    after = store.edit(kept.id, {"title": "Named"}, base_revision=kept.revision, summary="named", check=check)
    assert (after.plan.title, ohm(store, kept.id), after.number) == ("Named", 82, 2)
    with pytest.raises(StaleRevision):
        store.edit(kept.id, lamp(resistor_ohm=91), base_revision=kept.revision, summary="late", check=lambda plan: None)


@pytest.mark.parametrize("replaced", [False, True], ids=["deleted", "another in its place"])
def test_a_file_taken_away_while_it_is_in_use_loses_nothing(tmp_path: Path, replaced: bool) -> None:
    path = tmp_path / "oddlamp.sqlite3"
    store = ProjectStore(open_database(path))
    kept = turn(store, store.create(load_plan(CLEAR), summary="start"), 82)
    path.unlink()
    if replaced:
        ProjectStore(open_database(tmp_path / "new.sqlite3")).close()
        (tmp_path / "new.sqlite3").rename(path)
    store.copy_to(tmp_path / "copy.sqlite3")
    assert ohm(ProjectStore(open_database(tmp_path / "copy.sqlite3")), kept.id) == 82
    with pytest.raises(NotKept, match="What is kept is as it was"):
        store.copy_to(tmp_path / "no" / "such" / "folder")
    after = turn(store, kept, 91)
    assert store.notice is not None
    assert "oddlamp-rescued.sqlite3" in store.notice
    assert after.number == 2
    store.close()
    rescued = ProjectStore(open_database(tmp_path / "oddlamp-rescued.sqlite3"))
    assert ohm(rescued, kept.id) == 91
    assert [it.number for it in rescued.history(kept.id)] == [0, 1, 2]


def test_with_no_place_beside_it_nothing_is_said_to_be_kept(tmp_path: Path) -> None:
    folder = tmp_path / "there"
    store = ProjectStore(open_database(folder / "oddlamp.sqlite3"))
    kept = store.create(load_plan(CLEAR), summary="start")
    shutil.rmtree(folder)
    folder.write_text("a file where the folder was", encoding="utf-8")
    with pytest.raises(NotKept, match="taken away"):
        turn(store, kept, 82)
    folder.unlink()
    assert turn(store, kept, 82).number == 1, "once there is a place, nothing that was kept is missing"


def test_what_could_not_be_read_from_a_file_again_is_not_kept(tmp_path: Path) -> None:
    store = ProjectStore(open_database(tmp_path / "oddlamp.sqlite3"))
    kept = store.create(load_plan(CLEAR), summary="start")
    reading = {"value": 3.3, "unit": "V", "taken_at": "2026-01-01T10:00:00Z", "note": "x" * 1900}
    many = {"measured": {f"lamp.main.x{number}": reading for number in range(1200)}}
    with pytest.raises(PlanInvalid, match="MB as a file"):
        store.edit(kept.id, many, base_revision=kept.revision, summary="many", check=lambda plan: None)
    assert store.read(kept.id).number == 0


def test_a_damaged_letter_hides_nothing_and_a_damaged_page_is_told(tmp_path: Path) -> None:
    path = tmp_path / "oddlamp.sqlite3"
    store = ProjectStore(open_database(path))
    kept = turn(store, store.create(load_plan(CLEAR), summary="start"), 82)
    store.close()
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE projects SET title = CAST(x'4c6967ff74' AS TEXT)")
        connection.execute("UPDATE revisions SET plan = CAST(x'7b22ff' AS TEXT) WHERE id = ?", (kept.revision,))
        root = connection.execute("SELECT rootpage FROM sqlite_master WHERE name = 'revisions'").fetchone()[0]
    connection.close()
    store = ProjectStore(open_database(path))
    assert [it.title for it in store.names()] == ["Lig\ufffdt"]
    assert store.raw(kept.id) == b'{"\xff'
    store.close()
    with path.open("r+b") as file:
        file.seek((root - 1) * 4096)
        file.write(b"\xff" * 100)
    store = ProjectStore(open_database(path))
    with pytest.raises(FileDamaged, match="is damaged") as told:
        store.read(kept.id)
    assert "start with the last copy you made" in told.value.said
    store.close()
