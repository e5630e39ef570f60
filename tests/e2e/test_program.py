"""The program taken away, changed and kept, by pointer and by keyboard, counted; and the page that shows it."""

import re
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.builders import CLEAR
from tests.conftest import CALL
from tests.e2e.desk import Hands
from tests.e2e.test_access import violations

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def test_from_the_demo_to_its_program_in_four_actions(page: Page, server: str, tmp_path: Path) -> None:
    """The shelf, the demo, Program, Take."""
    CALL.post(f"{server}/api/projects", json={"start": "demo"}).raise_for_status()  # others may have changed theirs
    page.goto("/shelf")
    hands = Hands(page)
    hands.at(page.get_by_role("link", name="Paper moon").first)
    hands.at(page.get_by_role("banner").get_by_role("button", name="Program"))
    expect(page.get_by_role("heading", name=re.compile(r"^One file, \d+ lines, and no library to fetch\.$"))).to_be_visible()
    with page.expect_download() as taken:
        hands.at(page.get_by_role("link", name="Take the program"))
    taken.value.save_as(tmp_path / "program.zip")
    names = zipfile.ZipFile(tmp_path / "program.zip").namelist()
    assert names == ["paper_moon/paper_moon.ino", "paper_moon/board.h"]
    assert hands.presses + hands.pointings <= 4
    expect(page.get_by_text("Nothing has changed in it since.")).to_be_visible()


def test_lines_lead_to_their_stage_and_a_stage_marks_its_lines(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.keyboard.press("c")
    expect(page).to_have_url(re.compile("/program$"))
    mark = page.get_by_role("article").get_by_role("button", name="Lamp", exact=True)
    mark.press("Enter")
    expect(mark).to_have_attribute("aria-pressed", "true")
    assert violations(page) == []
    knot = page.get_by_role("link", name="To Lamp").first
    knot.press("Enter")
    expect(page).to_have_url(re.compile(r"stage=lamps\.lamp"))


def test_a_region_is_written_kept_over_a_change_and_brought_back_from_a_file(page: Page, open_plan: Open, tmp_path: Path) -> None:
    open_plan(CLEAR)
    home = page.url.partition("?")[0]
    page.goto(f"{home}/program")
    page.get_by_text("Add something of your own").press("Enter")
    page.get_by_role("button", name="At every pass, once a millisecond").press("Enter")
    lines = page.get_by_label("Lines of your own")
    lines.fill("  if (x {")
    page.get_by_role("button", name="Keep it").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("every { closed")
    lines.fill("  // rings one day")
    lines.press("Control+Enter")
    expect(page.get_by_text("// rings one day")).to_be_visible()
    page.goto(f"{home}?stage=pins.board")
    page.get_by_role("heading", level=2).first.wait_for()
    page.goto(f"{home}/program")
    expect(page.get_by_text("// rings one day")).to_be_visible()
    text = page.evaluate(
        "fetch(location.pathname.replace('/projects/', '/api/projects/')).then((it) => it.json()).then((it) => it.text)"
    )
    changed = tmp_path / "changed.ino"
    changed.write_text(text.replace("// rings one day", "// rings today").replace("void setup() {", "void setup() {  // mine"))
    page.get_by_label("A program that was changed by hand").set_input_files(changed)
    expect(page.get_by_role("status").filter(has_text="1 region of yours taken from it.")).to_contain_text(
        "2 other lines of it differ"
    )
    expect(page.get_by_text("// rings today")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.get_by_text("// rings one day")).to_be_visible()
