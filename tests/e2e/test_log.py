"""The log in a real browser: written by thumb with a photo, found again, met in the next project, and carried away."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from oddlamp.catalog.load import demo_plan
from tests.builders import CLEAR
from tests.conftest import CALL
from tests.e2e.conftest import watch
from tests.e2e.test_access import violations
from tests.pictures import photo

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
SCRIPT = "<img src=x onerror=\"document.title='broken'\"><script>document.title='broken'</script>"


def test_a_photo_is_taken_to_a_stage_on_a_phone(browser: Browser, server: str, tmp_path: Path) -> None:
    """What a maker does at the bench: eight presses, and two things typed."""
    (tmp_path / "moon.jpg").write_bytes(photo(11, (1200, 900), is_noted=True))
    (tmp_path / "not.jpg").write_bytes(b"<svg onload='alert(1)'/>")
    project = CALL.post(f"{server}/api/projects/import", json=demo_plan()).json()["id"]
    context = browser.new_context(viewport={"width": 375, "height": 740}, has_touch=True, base_url=server)
    page = context.new_page()
    troubles = watch(page, server)
    page.goto(f"/projects/{project}")
    page.get_by_role("navigation", name="Views").get_by_role("button", name="Log", exact=True).tap()
    expect(page.get_by_role("heading", name="Nothing is written yet.")).to_be_visible()
    camera = page.locator("input[type=file][capture=environment]")
    expect(camera).to_have_count(1)
    page.get_by_text("measured", exact=True).tap()
    page.get_by_label("What happened?").fill("3.24 V in the middle")
    page.get_by_label("About").select_option(label="Hook-up")
    page.get_by_label("Took").fill("1 h 20")
    camera.set_input_files(tmp_path / "moon.jpg")
    page.get_by_label("What is to be seen on it?").fill("The divider, and the meter on it")
    page.get_by_role("button", name="Write it down").tap()
    entry = page.get_by_role("article", name=re.compile("measured"))
    expect(entry).to_contain_text("Hook-up")
    expect(entry).to_contain_text("1 h 20 min")
    shown = entry.get_by_role("img", name="The divider, and the meter on it")
    expect(shown).to_be_visible()
    assert page.evaluate("document.querySelector('article img').complete")
    expect(page.get_by_label("What happened?")).to_have_value("")
    assert page.evaluate("document.documentElement.scrollWidth") <= 375
    # One that is no photo does not take the words with it, and is told where it stands.
    page.get_by_label("What happened?").fill(SCRIPT)
    camera.set_input_files(tmp_path / "not.jpg")
    page.get_by_role("button", name="Write it down").tap()
    expect(page.get_by_text("Your words are kept")).to_be_visible()
    expect(page.get_by_text("This photo is not taken")).to_be_visible()
    page.get_by_role("button", name="Leave those photos out").tap()
    expect(page.get_by_text(SCRIPT, exact=True)).to_have_text(SCRIPT)  # as it was typed, and nothing of it runs
    assert "broken" not in page.title()
    page.get_by_label("Took").fill("soon")
    page.get_by_label("What happened?").fill("A loose ground")
    page.reload()
    expect(page.get_by_label("What happened?")).to_have_value("A loose ground")  # what was typed waits
    page.get_by_role("button", name="Write it down").tap()
    expect(page.get_by_role("alert")).to_contain_text("a time such as 80")
    assert violations(page) == []
    assert troubles == []
    context.close()


def test_it_is_written_changed_taken_back_and_found_by_keyboard_alone(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.keyboard.press("l")
    field = page.get_by_label("What happened?")
    field.focus()
    page.keyboard.type("Glued the moon")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("heading", name="1 entry.")).to_be_visible()
    page.get_by_role("button", name="Change Glued the moon").press("Enter")
    page.keyboard.press("Control+A")
    page.keyboard.type("Sewed the moon")
    page.keyboard.press("Control+Enter")
    entry = page.get_by_role("article", name=re.compile("built"))
    expect(entry).to_contain_text("Sewed")
    entry.get_by_role("button", name="As it was before").press("Enter")
    expect(entry).to_contain_text("Glued")
    entry.get_by_role("button", name="Throw away").press("Enter")
    expect(entry).to_have_count(0)
    page.get_by_role("button", name="thrown away 1").press("Enter")
    entry.get_by_role("button", name="Put it back").press("Enter")
    page.get_by_role("button", name="Show all again").press("Enter")
    expect(entry).to_contain_text("Glued")
    page.get_by_label("Find in it").press_sequentially("star")
    expect(page.get_by_role("heading", name="Nothing of that is written.")).to_be_visible()
    page.get_by_label("Find in it").fill("MOON")
    expect(entry).to_be_visible()


def test_a_note_for_next_time_is_met_in_a_new_project_and_let_go(page: Page, server: str) -> None:
    """From the note to the project that needs it: it stands beside what is to settle, without being looked for."""
    first = CALL.post(f"{server}/api/projects/import", json={**demo_plan(), "title": "The first moon"}).json()["id"]
    said = {"kind": "next_time", "text": "Solder the divider to the socket", "stage": "talks.serial"}
    titles = CALL.get(f"{server}/api/projects/{first}").json()["review"]["titles"]
    said["stage"] = next(it for it, title in titles.items() if title == "Hook-up")
    assert CALL.post(f"{server}/api/projects/{first}/log/entries", json=said).status_code == 201
    project = CALL.post(f"{server}/api/projects/import", json={**demo_plan(), "title": "The next moon"}).json()["id"]
    page.goto(f"/projects/{project}")
    offers = page.get_by_role("region", name="For next time")
    note = offers.get_by_role("listitem").filter(has_text="Solder the divider to the socket")
    expect(note).to_contain_text("The first moon")
    expect(note).to_contain_text("Used here too: two resistors")
    note.get_by_role("button", name="See Hook-up").click()
    expect(page.get_by_role("heading", level=2).first).to_contain_text("reaches the module")
    note.get_by_role("button", name="Let it go").click()
    expect(note).to_have_count(0)
    offers.get_by_role("button", name="Offer it again").click()
    expect(note).to_be_visible()


def test_any_two_changes_are_compared_with_pins_wires_and_program(page: Page, server: str) -> None:
    made: Any = CALL.post(f"{server}/api/projects/import", json=CLEAR).json()
    path, revision = f"{server}/api/projects/{made['id']}", made["revision"]
    for patch, summary in (({"signals": {"lamp.main": {"pin": "11"}}}, "To pin 11"), ({"notes": "x"}, "Noted")):
        edit = {"base_revision": revision, "patch": patch, "summary": summary}
        revision = CALL.post(f"{path}/edits", json=edit).json()["revision"]
    page.goto(f"/projects/{made['id']}/history")
    page.get_by_role("button", name="Compare change 0").click()
    expect(page.get_by_text("Otherwise at the bench: 1 pin, 1 wire")).to_be_visible()
    page.get_by_text("The program of Board", exact=True).click()
    expect(page.get_by_text(re.compile(r"\+.*= 11;"))).to_be_visible()
    page.get_by_role("button", name="Close change 0").click()
    page.get_by_role("button", name="Compare change 1").click()
    expect(page.get_by_text("Pins, wires and program are the same.")).to_be_visible()
    page.get_by_label("Change 1, against").select_option(label="change 0: Read from a file")
    expect(page.get_by_text("Otherwise at the bench: 1 pin, 1 wire")).to_be_visible()


def test_a_project_that_is_long_in_coming_can_be_stopped(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    held: list[Any] = []
    page.route("**/archive", lambda route: held.append(route))  # a disk that takes its time
    page.keyboard.press("/")
    page.get_by_role("combobox").fill("whole project")
    page.keyboard.press("Enter")
    going = page.get_by_role("status").filter(has_text="The whole project")
    expect(going.get_by_role("progressbar")).to_be_visible()
    going.get_by_role("button", name="Stop").click()
    expect(page.get_by_role("alert")).to_contain_text("Stopped: nothing was saved.")
    expect(going).to_have_count(0)
    page.unroute_all(behavior="ignoreErrors")
