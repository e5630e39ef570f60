"""Words that carry values: typed in the row, slid on the phone, seen at the lamp."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.e2e.desk import fill, go, more, pick, press
from tests.e2e.test_access import violations

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
MOON: dict[str, object] = {"lamps": {"moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "cathode"}}}


def test_a_colour_lamp_is_given_sliders_and_obeys_them(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, MOON))
    go(page, "Words")
    press(page, "Add sliders for the colour of Moon")
    expect(page.get_by_label("Sent for Moon, colour", exact=True)).to_have_value("C{red} {green} {blue}")
    expect(page.get_by_role("heading", name="Nothing to settle")).to_be_visible()
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("p")
    red = page.get_by_role("slider", name="Red, Moon, colour")
    red.press("End")
    status = page.get_by_label("Phone", exact=True).get_by_role("status")
    expect(status).to_contain_text("Reached Moon after")
    expect(page.get_by_text("Moon, colour: Red 255, Green 0, Blue 0")).to_be_visible()
    assert violations(page) == []
    page.get_by_label("Phone", exact=True).get_by_role("button", name="All dark").press("Enter")
    expect(red).to_have_value("0")


def test_a_value_typed_in_braces_is_proposed_and_turned(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    go(page, "Words")
    fill(page, "Sent for On", "R{level}")
    expect(page.get_by_label("Level to", exact=True)).to_have_value("255")
    fill(page, "Level to", "100")
    expect(page.get_by_label("Level to", exact=True)).to_have_value("100")
    press(page, "End every word with LF")
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("read by itself")
    pick(page, "On does", "Lamp as bright as {level}")
    expect(page.get_by_role("combobox", name="On does", exact=True)).to_contain_text("Lamp as bright as {level}")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("p")
    page.get_by_role("slider", name="Level, On").fill("50")
    expect(page.get_by_text("On: Level 50")).to_be_visible()


def test_a_button_is_made_one_that_is_held_on_the_phones_sheet(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    go(page, "Phone")
    expect(page.get_by_role("heading", name="What to type into which slot of the phone's program")).to_be_visible()
    pick(page, "On is", "Held: says Off when let go")
    phone = page.get_by_label("Phone", exact=True)
    expect(phone.get_by_role("button", name="Off", exact=True)).to_have_count(0)
    phone.get_by_role("button", name="On", exact=True).focus()
    page.keyboard.down("Enter")
    expect(page.get_by_text("on Lamp", exact=True)).to_be_visible()
    page.keyboard.up("Enter")
    expect(page.get_by_text("off Lamp", exact=True)).to_be_visible()
    assert violations(page) == []


@pytest.mark.parametrize("width", [320, 1280])
def test_the_phone_stands_by_itself_with_its_lamps(page: Page, open_plan: Open, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 800})
    open_plan(merge_patch(CLEAR, MOON))
    more(page, "The phone by itself")
    expect(page.get_by_role("heading", name="One lamp", level=1)).to_be_visible()
    lamps = page.get_by_role("list", name="Lamps")
    expect(lamps).to_contain_text("Lamp dark")
    page.get_by_role("button", name="On", exact=True).press("Enter")
    expect(page.get_by_role("status")).to_contain_text("Reached Lamp after")
    expect(lamps).to_contain_text("Lamp 87 %")
    assert violations(page) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= width, "nothing scrolls sideways"
    page.get_by_role("link", name="Back to the line").press("Enter")
    expect(page.get_by_label("The line, thumb to lamp")).to_be_visible()
