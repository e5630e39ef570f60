"""Rehearsing what may befall a module, from below the line and by keyboard, on a demo from the shelf."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.e2e.desk import press

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def test_two_wings_from_the_shelf_is_settled_pressed_and_parted(page: Page, server: str) -> None:
    page.goto("/shelf")
    page.get_by_label("Demos").get_by_role("button", name="Two wings").press("Enter")
    expect(page.get_by_label("Name of the project")).to_have_value("Two wings")
    page.get_by_role("heading", level=2).first.wait_for()
    page.keyboard.press("p")
    hand = page.get_by_label("By hand", exact=True)
    status = hand.get_by_role("status")
    switch = hand.get_by_role("button", name="Switch", exact=True)
    expect(switch).to_be_focused()
    page.keyboard.press("Enter")
    expect(status).to_have_text("Lost at the left module: it has not found the other module.")
    press(page, "Give both 7301")
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("7301")
    hand.get_by_role("button", name="All dark").press("Enter")
    switch.press("Enter")
    expect(status).to_contain_text("Reached Cue lamp, Beeper after")
    page.keyboard.press("/")
    page.keyboard.type("right module loses")
    page.keyboard.press("Enter")
    expect(status).to_have_text("Right module: no power.")
    switch.press("Enter")
    expect(status).to_contain_text("Lost at the left module")
    hand.get_by_role("button", name="starts again, set up").last.press("Enter")
    expect(status).to_contain_text("waits for somebody to link")


def test_a_module_that_was_never_set_up_is_heard_as_garbage(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {"links": {"serial": {"baud_rate_bd": 38_400}}}))
    page.keyboard.press("p")
    phone = page.get_by_label("Phone", exact=True)
    phone.get_by_role("button", name="was never set up").press("Enter")
    expect(phone.get_by_role("status")).to_contain_text("waits for somebody to link")
    phone.get_by_role("button", name="On", exact=True).press("Enter")
    expect(phone.get_by_role("status")).to_contain_text("the module speaks at 9600 Bd, the board listens at 38400 Bd")


def test_a_button_that_is_held_says_one_word_down_and_another_up(page: Page, open_plan: Open) -> None:
    said = {"press": {"talk": "main", "word": "on"}, "release": {"talk": "main", "word": "off"}}
    held = {"kind": "button", "label": "Lantern", "says": said}
    open_plan(merge_patch(CLEAR, {"nodes": {"phone": {"controls": {"lantern": held}}}}))
    phone = page.get_by_label("Phone", exact=True)
    button = phone.get_by_role("button", name="Lantern", exact=True)
    status = phone.get_by_role("status")
    lit, dark = (page.get_by_text(it, exact=True) for it in ("on Lamp", "off Lamp"))
    button.focus()
    page.keyboard.down("Enter")
    expect(status).to_contain_text("Reached Lamp after")
    expect(lit).to_be_visible()
    page.keyboard.up("Enter")
    expect(dark).to_be_visible()
    button.hover()
    page.mouse.down()
    expect(lit).to_be_visible()
    page.mouse.up()
    expect(dark).to_be_visible()
