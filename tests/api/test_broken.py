"""A project that cannot be shown stands alone: the shelf, its file, its other changes and all other projects are untouched."""

import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from oddlamp.api import workshop
from oddlamp.api.models import Edit
from oddlamp.api.workshop import Workshop
from oddlamp.catalog.load import DATA, CatalogBroken, load_catalog
from oddlamp.core.errors import Unreadable
from oddlamp.core.plan.document import load_plan
from oddlamp.store.database import open_database
from oddlamp.store.projects import ProjectStore
from tests.builders import CLEAR, lamp
from tests.conftest import caller, running_server
from tests.full import some


@pytest.fixture
def database(tmp_path: Path) -> Path:
    return tmp_path / "oddlamp.sqlite3"


def two_changes(http: httpx.Client) -> Any:
    state = http.post("/api/projects/import", json=CLEAR).json()
    body = {"base_revision": state["revision"], "patch": lamp(resistor_ohm=82), "summary": "82"}
    return http.post(f"/api/projects/{state['id']}/edits", json=body).json()


def spoil(database: Path, revision: int, text: str) -> None:
    with sqlite3.connect(database) as connection:
        connection.execute("UPDATE revisions SET plan = ? WHERE id = ?", (text, revision))
    connection.close()


@pytest.mark.parametrize(
    ("text", "said"),
    some(
        [
            ("{ half a pl", "JSON"),
            ('{"format": "oddlamp-plan"}', "schema_version"),
            ('{"format": "oddlamp-plan", "schema_version": 99, "title": "x"}', "later Odd Lamp"),
            ("[]", "object"),
        ],
        4,
    ),
)
def test_it_stands_on_the_shelf_as_broken_and_can_be_gone_back_from(database: Path, text: str, said: str) -> None:
    with running_server(database) as address, caller(address) as http:
        state = two_changes(http)
    spoil(database, state["revision"], text)
    with running_server(database) as address, caller(address) as http:
        _looked_at(http, state, text, said)


def _looked_at(http: httpx.Client, state: Any, text: str, said: str) -> None:
    shelf = {it["id"]: it for it in http.get("/api/projects").json()}
    assert said in shelf[state["id"]]["trouble"]
    assert [it["trouble"] for it in shelf.values() if it["id"] != state["id"]] == [None], "the demo beside it is well"
    shown = http.get(f"/api/projects/{state['id']}")
    assert (shown.status_code, said in shown.json()["detail"]) == (422, True)
    assert http.get(f"/api/projects/{state['id']}/raw").text == text
    history = http.get(f"/api/projects/{state['id']}/history").json()
    assert [it["is_head"] for it in history] == [True, False]
    body = {"base_revision": history[0]["revision"], "revision": history[1]["revision"]}
    back = http.post(f"/api/projects/{state['id']}/restore", json=body)
    assert (back.status_code, back.json()["number"]) == (200, 2)
    assert {it["trouble"] for it in http.get("/api/projects").json()} == {None}


def without(part: str, tmp_path: Path) -> Path:
    """Copy the shipped part files and leave one out."""
    parts = tmp_path / "parts"
    shutil.copytree(DATA, parts)
    next(parts.rglob(f"{part}.toml")).unlink()
    return parts


def test_a_part_that_is_no_longer_there_breaks_only_who_uses_it(database: Path, tmp_path: Path) -> None:
    with running_server(database) as address, caller(address) as http:
        http.post("/api/projects/import", json={**CLEAR, "title": "Well"})
        violet = {"lamps": {"lamp": {**CLEAR["lamps"]["lamp"], "channels": {"main": {"led": {"part": "led-ultraviolet"}}}}}}
        state = http.post("/api/projects/import", json={**CLEAR, **violet}).json()
    with running_server(database, parts=without("led-ultraviolet", tmp_path)) as address, caller(address) as http:
        shelf = {it["title"] if it["id"] != state["id"] else "broken": it["trouble"] for it in http.get("/api/projects").json()}
        assert "led-ultraviolet" in shelf.pop("broken")
        assert shelf["Well"] is None
        assert http.post("/api/projects", json={"start": "empty"}).status_code == 201


def test_a_board_of_a_folder_that_is_gone_stays_in_the_plans_that_use_it(database: Path, tmp_path: Path) -> None:
    """The plan takes its own copy when it is chosen; without the folder it opens, with the very pins, and goes out as a file."""
    parts = tmp_path / "parts"
    shutil.copytree(DATA, parts)
    text = (parts / "boards" / "board-5v-20io.toml").read_text(encoding="utf-8")
    text = text.replace('id = "board-5v-20io"', 'id = "bench-board"').replace(
        'label = "5 V 8-bit board, 20 I/O"', 'label = "Bench board"'
    )
    (parts / "boards" / "bench-board.toml").write_text(text.replace('"13"', '"13x"'), encoding="utf-8")
    with running_server(database, parts=parts) as address, caller(address) as http:
        state = http.post("/api/projects/import", json=CLEAR).json()
        body = {
            "base_revision": state["revision"],
            "patch": {"nodes": {"board": {"choice": {"part": "bench-board"}}}},
            "summary": "x",
        }
        chosen = http.post(f"/api/projects/{state['id']}/edits", json=body)
        assert chosen.status_code == 200, chosen.text
        plan = http.get(f"/api/projects/{state['id']}/plan").json()
        assert plan["nodes"]["board"]["choice"]["part"] == "own-bench-board"
        assert plan["parts"]["own-bench-board"]["label"] == "Bench board"
    with running_server(database) as address, caller(address) as http:
        assert {it["trouble"] for it in http.get("/api/projects").json() if it["id"] == state["id"]} == {None}
        revision = http.get(f"/api/projects/{state['id']}").json()["revision"]
        sheet = http.get(f"/api/projects/{state['id']}/stage", params={"revision": revision, "stage": "pins.board"}).json()[
            "sheet"
        ]
        assert "13x" in {pin["label"] for pin in sheet["pictures"][0]["pins"]}
        again = http.post("/api/projects/import", json=plan)
        assert again.status_code == 201


def test_a_proposal_of_a_part_that_is_not_there_is_told_at_start(tmp_path: Path) -> None:
    with pytest.raises(CatalogBroken, match=r"proposals.toml: led proposes 'led-red', and there is no led-red.toml"):
        load_catalog(without("led-red", tmp_path))


def test_nothing_is_kept_that_this_program_cannot_show(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    shop = Workshop(ProjectStore(open_database(database)), load_catalog())
    state = shop.create(load_plan(CLEAR), summary="start")

    def fails(*_: object) -> None:
        raise KeyError("a fault of ours")

    monkeypatch.setattr(workshop, "resolve", fails)
    with pytest.raises(Unreadable, match="a fault of ours"):
        shop.edit(state.id, Edit(base_revision=state.revision, patch=lamp(resistor_ohm=91)))
    with pytest.raises(Unreadable):
        shop.create(load_plan(CLEAR), summary="another")
    monkeypatch.undo()
    assert [it.id for it in shop.store.names()] == [state.id]
    assert shop.store.read(state.id).number == 0


def test_the_shelf_is_shown_from_what_is_kept_and_anew_where_the_figures_differ(
    database: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    shop = Workshop(ProjectStore(open_database(database)), load_catalog())
    state = shop.create(load_plan(CLEAR), summary="start")
    shop.edit(state.id, Edit(base_revision=state.revision, patch=lamp(resistor_ohm=47)))
    first = shop.shelf()
    assert [(it.sentence, "look" in it.thread) for it in first] == [("2 things to settle", True)]
    shop.store.close()

    def fails(*_: object) -> None:
        raise KeyError("worked out")

    monkeypatch.setattr(workshop, "resolve", fails)
    again = Workshop(ProjectStore(open_database(database)), load_catalog())
    assert again.shelf() == first, "nothing was worked out for it"
    brighter = without("led-ultraviolet", tmp_path)
    other = Workshop(ProjectStore(open_database(database)), load_catalog(brighter))
    assert [it.trouble is None for it in other.shelf()] == [False], "other figures: all is worked out again"
    monkeypatch.undo()
    assert other.shelf() == first


def test_showing_a_project_writes_nothing(database: Path, http: httpx.Client) -> None:
    state = two_changes(http)
    http.get("/api/projects")
    with sqlite3.connect(database) as connection:
        before = list(connection.iterdump())
        http.get(f"/api/projects/{state['id']}")
        http.get("/api/projects")
        assert list(connection.iterdump()) == before
        assert http.post(f"/api/projects/{state['id']}/opened").status_code == 204
        assert list(connection.iterdump()) != before
    connection.close()


@pytest.fixture
def http(database: Path) -> Iterator[httpx.Client]:
    with running_server(database) as address, caller(address) as http:
        yield http


HALF = "\\ud83d"


@pytest.mark.parametrize(
    "body",
    some(
        [
            f'{{"base_revision": REV, "patch": {{}}, "summary": "{HALF}"}}',
            f'{{"base_revision": REV, "patch": {{"notes": "{HALF}"}}}}',
            f'{{"base_revision": REV, "patch": {{"{HALF}": 1}}}}',
            f'{{"base_revision": REV, "patch": {{"rules": [{{"do": [{{"say": {{"fill": {{"{HALF}": "x"}}}}}}]}}]}}}}',
        ],
        2,
    ),
)
def test_halves_of_characters_are_refused_at_the_door(http: httpx.Client, body: str) -> None:
    state = two_changes(http)
    path, headers = f"/api/projects/{state['id']}/edits", {"content-type": "application/json"}
    refused = http.post(path, content=body.replace("REV", str(state["revision"])), headers=headers)
    assert (refused.status_code, refused.json()["title"]) == (422, "text-invalid")
    whole = body.replace("REV", str(state["revision"])).replace(HALF, "\\ud83d\\ude00")
    assert http.post(path, content=whole, headers=headers).status_code in (200, 422)
    assert http.post(path, content=whole, headers=headers).json().get("title") != "text-invalid"
