"""What a maker reads when something of theirs cannot be shown, or the file was taken away, and what they can do."""

import sqlite3
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, expect

from tests.builders import CLEAR, lamp
from tests.conftest import CALL, running_server
from tests.e2e.conftest import watch

pytestmark = pytest.mark.e2e


def changed(address: str) -> Any:
    state = CALL.post(f"{address}/api/projects/import", json={**CLEAR, "title": "Hall light"}).json()
    body = {"base_revision": state["revision"], "patch": lamp(resistor_ohm=82), "summary": "Took 82 ohm"}
    return CALL.post(f"{address}/api/projects/{state['id']}/edits", json=body).json()


def test_a_broken_project_is_found_on_the_shelf_and_gone_back_from(browser: Browser, tmp_path: Path) -> None:
    database = tmp_path / "oddlamp.sqlite3"
    with running_server(database) as address:
        state = changed(address)
    with sqlite3.connect(database) as connection:
        connection.execute("UPDATE revisions SET plan = '{ half' WHERE id = ?", (state["revision"],))
    connection.close()
    with running_server(database) as address:
        page = browser.new_page(base_url=address)
        troubles = watch(page, address)
        page.goto("/shelf")
        page.get_by_role("link", name="What can be done Hall light").click()
        expect(page.get_by_role("heading", name="This project cannot be shown.")).to_be_visible()
        with page.expect_download() as taken:
            page.get_by_role("link", name="Take its file away as it is").click()
        assert Path(taken.value.path()).read_text(encoding="utf-8") == "{ half"
        page.get_by_role("button", name="Go back to this").press("Enter")
        expect(page.get_by_role("heading", name="14 mA flows through Lamp.")).to_be_visible()
        expect(page.get_by_text("change 2", exact=False)).to_be_visible()
        page.close()
        assert troubles == []


def test_a_file_taken_away_is_told_and_a_copy_of_everything_can_be_had(browser: Browser, tmp_path: Path) -> None:
    database = tmp_path / "oddlamp.sqlite3"
    with running_server(database) as address:
        state = changed(address)
        page = browser.new_page(base_url=address)
        troubles = watch(page, address)
        page.goto(f"/projects/{state['id']}")
        page.get_by_role("heading", level=2).first.wait_for()
        database.unlink()
        page.keyboard.press("Control+z")
        expect(page.get_by_role("alert")).to_contain_text("Nothing is lost: everything is kept in")
        page.get_by_role("button", name="More", exact=True).press("Enter")
        with page.expect_download() as taken:
            page.get_by_role("menuitem", name="Save a copy of everything").press("Enter")
        with sqlite3.connect(taken.value.path()) as copied:
            assert ("Hall light",) in copied.execute("SELECT title FROM projects").fetchall()
        copied.close()
        page.close()
        assert troubles == []
