"""Nothing here touches a pointer: every kind of control on the desk is reached by Tab and worked by keys."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR, lamp
from tests.conftest import CALL
from tests.e2e.conftest import choose, find

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
NAME = """(() => { const it = document.activeElement; const by = it.getAttribute('aria-labelledby');
  const label = it.labels?.[0]?.textContent ?? (by ? document.getElementById(by)?.textContent : null);
  return (it.getAttribute('aria-label') ?? label ?? it.textContent ?? '').trim(); })()"""


def tab_to(page: Page, name: str, *, most: int = 120, back: bool = False) -> None:
    """Press Tab until the focus stands on something that begins with this name."""
    for _ in range(most):
        page.keyboard.press("Shift+Tab" if back else "Tab")
        if page.evaluate(NAME).startswith(name):
            return
    raise AssertionError(f"{name} is not reached by Tab")


def summaries(page: Page, server: str) -> list[str]:
    project = page.url.partition("/projects/")[2].partition("?")[0]
    return [it["summary"] for it in CALL.get(f"{server}/api/projects/{project}/history").json()]


def test_a_fix_is_applied_and_undone_and_its_working_read(page: Page, open_plan: Open, server: str) -> None:
    open_plan(merge_patch(CLEAR, lamp(resistor_ohm=47)))
    tab_to(page, "Fit 75")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Series resistor", exact=True)).to_have_value("75 Ω")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Series resistor", exact=True)).to_have_value("47 Ω")
    tab_to(page, "Show working")
    page.keyboard.press("Enter")
    working = page.get_by_label("Verdicts", exact=True).get_by_text("(5.00 V − 3.60 V) / 47 Ω = 29.8 mA")
    expect(working.first).to_be_visible()
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_label("Series resistor", exact=True)).to_have_value("75 Ω")
    assert summaries(page, server)[0] == "Fit 75\u00a0Ω"


def test_a_risk_is_kept_with_its_reason_and_taken_back(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, lamp(resistor_ohm=40)))
    tab_to(page, "Keep, note the risk")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Why it may stay")).to_be_focused()
    page.keyboard.type("spare LED")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Kept, with the risk noted: spare LED")).to_be_visible()
    tab_to(page, "Take that back")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Kept, with the risk noted")).to_have_count(0)


def test_colours_drives_and_counts_are_chosen(page: Page, open_plan: Open, server: str) -> None:
    open_plan(merge_patch(CLEAR, {"lamps": {"lamp": {"channels": {"main": {"led": {"overrides": None}}}}}}))
    tab_to(page, "Colour")  # the word that tells where it comes from stands first, then the list itself
    page.keyboard.press("Enter")
    expect(page.get_by_text("Red leaves the most volts", exact=False)).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Colour: proposed, why?")).to_be_focused()
    tab_to(page, "Colour")
    page.keyboard.press("Enter")
    choose(page, "Pure green", typed="Pure g")
    expect(page.get_by_role("combobox", name="Colour")).to_have_text("Pure green▾")
    tab_to(page, "Side by side")
    page.keyboard.press("Tab")
    page.keyboard.press("ArrowUp")
    expect(page.get_by_label("Side by side", exact=True)).to_have_value("2")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="One for all")).to_be_visible()
    tab_to(page, "MOSFET")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="MOSFET specified at 2.5 V gate")).to_be_visible()
    assert len(summaries(page, server)) == 4


def test_the_line_is_walked_into_every_stage_and_back(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    tab_to(page, "Lamp")
    stages = page.get_by_label("The line, thumb to lamp").get_by_role("button")
    for _ in range(7):
        page.keyboard.press("ArrowLeft")
    expect(stages.filter(has_text="Phone")).to_be_focused()
    expect(page.get_by_role("heading", name="The phone sends characters and adds nothing.")).to_be_visible()
    for name in ("Air", "Module", "Hook-up", "Words", "Behaviour", "Pins", "Lamp"):
        page.keyboard.press("ArrowRight")
        expect(stages.filter(has_text=name).first).to_be_focused()


def test_pins_and_words_are_turned(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    tab_to(page, "Lamp")
    page.keyboard.press("ArrowLeft")
    page.get_by_role("heading", name="All 3 lines have a pin.").wait_for()
    for _ in range(2):
        tab_to(page, "Pin for Lamp")
    page.keyboard.press("Enter")
    choose(page, "A3", typed="A3")
    expect(page.get_by_role("combobox", name="Pin for Lamp")).to_have_text("A3▾")
    page.keyboard.press("/")
    find(page, "words")
    page.get_by_role("heading", name="2 words, no two alike").wait_for()
    tab_to(page, "Add a word")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="3 words, no two alike")).to_be_visible()


def test_the_phone_is_pressed_and_put_away(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    tab_to(page, "On")
    page.keyboard.press("Space")
    expect(page.get_by_text("Reached Lamp after 37 ms", exact=False)).to_be_visible()
    tab_to(page, "All dark", back=True)
    page.keyboard.press("Enter")
    expect(page.get_by_text("Reached Lamp")).to_have_count(0)
    page.keyboard.press("p")
    expect(page.get_by_label("Phone", exact=True).get_by_role("button", name="Phone")).to_have_attribute("aria-expanded", "true")
    expect(page.get_by_label("Phone", exact=True).get_by_role("button", name="On", exact=True)).to_be_focused()
    page.keyboard.press("p")
    expect(page.get_by_label("Phone", exact=True).get_by_role("button", name="Phone")).to_have_attribute("aria-expanded", "false")


def test_menus_and_windows_give_the_focus_back(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    tab_to(page, "More")
    page.keyboard.press("Enter")
    page.get_by_role("menu").wait_for()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="More", exact=True)).to_be_focused()
    tab_to(page, "Find", back=True)
    page.keyboard.press("Enter")
    page.get_by_role("dialog", name="Find").wait_for()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Find", exact=True)).to_be_focused()


TITLES: Document = {**CLEAR, "title": "Before"}


def test_a_project_is_renamed_where_its_name_stands(page: Page, open_plan: Open, server: str) -> None:
    open_plan(TITLES)
    tab_to(page, "Name of the project")
    page.keyboard.press("Control+a")
    page.keyboard.type("After")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of the project")).to_have_value("After")
    expect(page.get_by_text("change 1", exact=False)).to_be_visible()
    assert summaries(page, server)[0] == "Called it After"
