"""Rules written as sentences in a browser: by keyboard alone, in place, pasted and copied."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.builders import document
from tests.conftest import CALL
from tests.e2e.desk import Hands
from tests.e2e.test_access import violations

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
NEW = "A new sentence, or several pasted a line each"


def at_behaviour(page: Page, server: str) -> None:
    project = CALL.post(f"{server}/api/projects/import", json=document("footlights")).json()["id"]
    page.goto(f"/projects/{project}?stage=rules.board")


def test_a_sentence_is_typed_with_what_could_stand_next_and_written(page: Page, server: str) -> None:
    """Letters, Tab for what is offered, Enter: the rule is there, does it, and is undone."""
    at_behaviour(page, server)
    field = page.get_by_role("combobox", name=NEW)
    field.focus()
    next_ = page.get_by_role("listbox", name="What could stand next")
    expect(next_.get_by_role("option").first).to_have_text("When")
    page.keyboard.type("W")
    expect(next_.get_by_role("option").first).to_have_text("When")
    page.keyboard.press("Tab")
    expect(field).to_have_value("When ")
    page.keyboard.type("Du")
    expect(next_.get_by_role("option")).to_have_text(["Dusk"])
    page.keyboard.press("Tab")
    page.keyboard.type(" is heard: Moon ")
    expect(next_.get_by_role("option", name="blinks")).to_be_visible()
    expect(next_.get_by_role("option", name="shows")).to_have_count(0)
    page.keyboard.type("blinks 3 times")
    page.keyboard.press("Enter")
    expect(page.get_by_text("When Dusk is heard: Moon blinks 3 times.")).to_be_visible()
    expect(field).to_have_value("")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("When Dusk is heard: Moon blinks 3 times.")).to_be_hidden()


def test_a_sentence_is_changed_in_place_and_nonsense_is_told(page: Page, server: str) -> None:
    at_behaviour(page, server)
    page.get_by_text("When Moon off is heard: Moon off.").click()
    field = page.get_by_role("combobox", name="As a sentence")
    field.fill("When Moon off is heard: Moon purple")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Not understood at \u201cpurple\u201d")
    field.fill("When Moon off is heard, unless Footlight 1 is on: Moon off over 2 s")
    assert violations(page) == []
    field.press("Enter")
    expect(page.get_by_text("When Moon off is heard, unless Footlight 1 is on: Moon off over 2 s.").first).to_be_visible()


def test_sentences_are_pasted_a_line_each_and_taken_away_as_text(page: Page, server: str) -> None:
    at_behaviour(page, server)
    field = page.get_by_role("combobox", name=NEW)
    field.focus()
    paste = """(text) => { const data = new DataTransfer(); data.setData("text/plain", text);
        document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true })); }"""
    page.evaluate(paste, "When Dusk is heard: Moon in amber.\nnonsense")
    expect(page.get_by_role("alert")).to_contain_text("Line 2: Not understood")
    page.evaluate(paste, "When Dusk is heard: Footlight 1 off.\nEvery 30 s: Moon toggles.")
    expect(page.get_by_text("Every 30 s: Moon toggles.").first).to_be_visible()
    page.get_by_text("All sentences as text").click()
    text = page.get_by_label("All sentences", exact=True).input_value()
    assert text.splitlines()[-2:] == ["When Dusk is heard: Footlight 1 off.", "Every 30 s: Moon toggles."]


def test_a_storm_of_five_steps_is_composed_by_keyboard_alone(page: Page, server: str) -> None:
    """Counted in presses (0.28 s each, keystroke-level model, from memory): two minutes are given."""
    page.emulate_media(reduced_motion="reduce")
    at_behaviour(page, server)
    hands = Hands(page)
    expect(page.get_by_role("combobox", name=NEW)).to_be_visible()

    def tab_to(name: str) -> None:
        while not page.evaluate("name => document.activeElement?.textContent === name", name):
            hands.press("Tab")
            assert hands.presses < 400, name

    tab_to("Add a cue")
    hands.press("Enter")
    score = page.get_by_role("region", name="Cue Cue")
    expect(score.get_by_role("heading", name="Cue has no steps yet.")).to_be_visible()
    while not page.evaluate("() => document.activeElement?.tagName === 'SELECT'"):
        hands.press("Shift+Tab")
        assert hands.presses < 400
    tab_to("Add a step")
    hands.press("Enter")
    knot = score.get_by_role("button", name="Moon to 100")
    expect(knot).to_be_focused()
    for _ in range(4):  # quicker than they are answered
        hands.press("+")
    expect(score.get_by_role("button", name="Moon to")).to_have_count(5)
    expect(score.get_by_role("heading", name="Cue takes 2")).to_be_visible()
    expect(score.get_by_role("button", name="at 2 s")).to_be_focused()
    for key in ("ArrowDown", "ArrowDown", "ArrowLeft"):
        hands.press(key)
    expect(score.get_by_role("button", name="Moon to 80\u00a0% at 1.9\u00a0s")).to_be_focused()
    expect(score.get_by_role("heading", name="Cue takes 1.9")).to_be_visible()
    hands.press("Delete")
    expect(score.get_by_role("button", name="Moon to")).to_have_count(4)
    assert violations(page) == []
    page.keyboard.press("Control+z")
    expect(score.get_by_role("button", name="Moon to")).to_have_count(5)
    score.get_by_role("button", name="Play").click()
    expect(page.get_by_label("Phone", exact=True).get_by_role("button", name="All dark")).to_be_visible()
    expect(score.locator("path.stroke-copper")).to_have_count(1)  # where it stands while it plays
    print(f"{hands.presses} presses, {hands.pointings} pointings: {hands.takes_s:.0f} s")
    assert hands.takes_s < 120
