"""A project carried away as one file and brought back, in a real browser."""

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.builders import CLEAR

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def test_a_project_is_saved_whole_and_comes_back_with_its_past(page: Page, open_plan: Open, tmp_path: Path) -> None:
    open_plan(CLEAR)
    page.keyboard.press("/")
    page.get_by_role("combobox").fill("whole project")
    with page.expect_download() as taken:
        page.keyboard.press("Enter")
    assert taken.value.suggested_filename.endswith(".zip")
    taken.value.save_as(tmp_path / "it.zip")
    page.goto("/shelf")
    page.locator("input[type=file]").set_input_files(tmp_path / "it.zip")
    expect(page).to_have_url(re.compile("/projects/"))
    expect(page.get_by_label("Name of the project")).to_have_value(str(CLEAR["title"]))
    page.goto("/shelf")
    (tmp_path / "cut.zip").write_bytes((tmp_path / "it.zip").read_bytes()[:-20])
    page.locator("input[type=file]").set_input_files(tmp_path / "cut.zip")
    expect(page.get_by_role("alert")).to_contain_text("This is no project that can be read")
