"""Words drawn up, taken, answered, tried and printed, as a new user would, with what it takes counted."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.e2e.desk import Hands, go, pick, press
from tests.e2e.test_access import violations
from tests.full import some

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
MOON: dict[str, object] = {"lamps": {"moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "cathode"}}}
WISHED = ("brighter and dimmer", "answers, how each lamp is now")


def test_a_colour_lamp_with_sliders_buttons_and_answers_from_nothing_in_two_minutes(page: Page) -> None:
    """From an empty project to sliders and buttons for a colour lamp with answers, rehearsed, their sheet printed."""
    page.emulate_media(reduced_motion="reduce")  # what is answered shows once the message has run
    page.goto("/")
    hands = Hands(page)
    hands.point("button", "Projects")
    hands.point("button", "New, empty")
    hands.point("button", "An RGB LED")
    page.get_by_role("heading", level=2).first.wait_for()
    line = page.get_by_label("The line, thumb to lamp")
    hands.at(line.get_by_role("button", name="Words").first)
    hands.at(page.get_by_text("Draw up words for me"))
    for wish in WISHED:
        hands.at(page.get_by_label(wish, exact=True))
    hands.point("button", "Take these 4 words: A letter and a number")
    expect(page.get_by_label("Sent for Lamp, colour", exact=True)).to_have_value("C{red} {green} {blue}")
    expect(page.get_by_role("heading", name="Nothing to settle")).to_be_visible()
    hands.at(page.get_by_role("heading", level=2).first)
    hands.press("p")
    phone = page.get_by_label("Phone", exact=True)
    expect(phone.get_by_role("slider")).to_have_count(3)
    for name in ("Red", "Green", "Blue", "White", "Off", "Brighter", "Dimmer"):
        expect(phone.get_by_role("button", name=name, exact=True)).to_be_visible()
    hands.at(phone.get_by_role("slider", name="Red, Lamp, colour"))
    hands.press("End")
    expect(phone.get_by_role("status")).to_contain_text("answered: Lamp now: Red 255, Green 0, Blue 0")
    hands.at(phone.get_by_role("button", name="Dimmer", exact=True))
    expect(phone.get_by_role("status")).to_contain_text("answered: Lamp now")
    hands.at(line.get_by_role("button", name="Phone").first)
    sheet = page.get_by_role("table")
    expect(sheet).to_contain_text("C{red} {green} {blue}")
    page.evaluate("window.print = () => { window.printed = true }")
    hands.point("button", "Print this sheet")
    assert page.evaluate("window.printed") is True
    print(f"{hands.presses} presses, {hands.pointings} pointings: {hands.takes_s:.0f} s")
    assert hands.takes_s < 120


TWENTY = "\n".join(f"Word {at}\tw{at:02}\t{'Lamp on' if at % 2 else 'Lamp off'}" for at in range(20))


def test_twenty_words_pasted_from_a_table(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    hands = Hands(page)
    hands.at(page.get_by_label("The line, thumb to lamp").get_by_role("button", name="Words").first)
    hands.at(page.get_by_text("Paste a list of words"))
    box = page.get_by_label("Words to take in")
    hands.at(box)
    box.fill(TWENTY)
    hands.presses += 2  # Ctrl+V
    hands.point("button", "Take them in")
    expect(page.get_by_label("Sent for Word 19", exact=True)).to_have_value("w19")
    expect(page.get_by_role("combobox", name="Word 19 does", exact=True)).to_have_text("Lamp on▾")
    expect(page.get_by_role("heading", name="Nothing to settle")).to_be_visible()
    print(f"{hands.presses} presses, {hands.pointings} pointings: {hands.takes_s:.0f} s")
    assert hands.takes_s < 10


def test_a_word_is_added_by_keyboard_renamed_and_answered(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, MOON))
    go(page, "Words")
    page.get_by_label("Name of the new word").focus()
    for text in ("Dusk", "Tab", "D", "Tab", "moon amber", "Enter"):
        page.keyboard.press(text) if text in ("Tab", "Enter") else page.keyboard.type(text)
    expect(page.get_by_label("Sent for Dusk", exact=True)).to_have_value("D")
    expect(page.get_by_role("combobox", name="Dusk does", exact=True)).to_have_text("Moon amber▾")
    expect(page.get_by_label("Name of the new word")).to_be_focused()
    name = page.get_by_label("Name of Dusk", exact=True)
    name.fill("Evening")
    name.press("Enter")
    expect(page.get_by_role("combobox", name="Evening does", exact=True)).to_have_text("Moon amber▾")
    pick(page, "What answers Evening", "The word itself, once it is done")
    expect(page.get_by_label("Name of Evening, done", exact=True)).to_be_visible()
    pick(page, "What answers Evening", "Nothing")
    expect(page.get_by_label("Name of Evening, done", exact=True)).to_have_count(0)
    assert violations(page) == []


def test_a_line_is_typed_as_on_the_phone_and_its_bytes_are_shown(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, MOON))
    go(page, "Words")
    press(page, "Add sliders for the colour of Moon")
    expect(page.get_by_label("Sent for Moon, colour", exact=True)).to_be_visible()
    line = page.get_by_label("Type a line as on the phone, and see what is heard")
    line.fill("C128 0 255")
    expect(page.get_by_text("Moon, colour: Red 128, Green 0, Blue 255")).to_be_visible()
    expect(page.get_by_role("img", name="C128 0 255: C 0x43 67 1 0x31 49 2 0x32 50 8 0x38 56")).to_be_visible()
    line.fill("C256 0 0")
    expect(page.get_by_text("Moon, colour takes Red 0 to 255")).to_be_visible()
    line.fill("é")
    expect(page.get_by_text("characters of plain ASCII", exact=False)).to_be_visible()


def test_a_colour_a_stick_and_a_light_on_the_phone(page: Page, open_plan: Open) -> None:
    page.emulate_media(reduced_motion="reduce")  # what is answered shows once the message has run
    two = {
        "nodes": {"phone": {"appends": "lf"}},
        "vocabularies": {
            "words": {
                "framing": {"kind": "terminated", "terminator": "lf"},
                "words": {
                    "shade": {"sent": "C{red} {green} {blue}", "label": "Shade"},
                    "lean": {"sent": "X{x} {y}", "label": "Lean"},
                    "is": {"sent": "L{on}", "label": "Lamp now", "direction": "back", "parameters": {"on": {"most": 1}}},
                },
            }
        },
        "rules": {
            "c": {
                "host": "board",
                "when": {"heard": "shade"},
                "do": [{"verb": "colour", "target": "moon", "values": {it: f"{{{it}}}" for it in ("red", "green", "blue")}}],
            },
            "x": {
                "host": "board",
                "when": {"heard": "lean"},
                "do": [
                    {"verb": "level", "target": "lamp", "values": {"level": "{x}"}},
                    {"verb": "say", "say": {"talk": "main", "word": "is", "fill": {"on": "{lamp.on}"}}},
                ],
            },
        },
    }
    open_plan(merge_patch(merge_patch(CLEAR, MOON), two))
    go(page, "Phone")
    pick(page, "Shade is", "A colour")
    pick(page, "Lean is", "A stick")
    press(page, "Show Lamp now as a light")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("p")
    phone = page.get_by_label("Phone", exact=True)
    expect(phone).to_contain_text("Lamp now nothing yet")
    phone.get_by_label("Shade, a colour", exact=True).fill("#ff8000")
    expect(page.get_by_text("Shade: Red 255, Green 128, Blue 0")).to_be_visible()
    stick = phone.get_by_role("slider", name="Lean, a stick")
    expect(stick).to_have_attribute("aria-valuetext", "X 128, Y 128")
    stick.press("ArrowRight")
    expect(stick).to_have_attribute("aria-valuetext", "X 154, Y 128")
    expect(phone).to_contain_text("Lamp now On 1")
    stick.press("Home")
    expect(stick).to_have_attribute("aria-valuetext", "X 128, Y 128")
    assert violations(page) == []


def test_a_voice_helper_and_a_remote_say_the_same_words(page: Page, open_plan: Open) -> None:
    page.emulate_media(reduced_motion="reduce")  # what is answered shows once the message has run
    open_plan(CLEAR)
    go(page, "Phone")
    press(page, "Add a voice helper")
    go(page, "Phone")
    press(page, "Add an infra-red remote")
    expect(page.get_by_role("heading", name="Nothing to settle")).to_be_visible()
    go(page, "Voice helper")
    press(page, "Settle these phrases, to change them")
    phrase = page.get_by_label("Say for On", exact=True)
    phrase.fill("moon on; let there be light")
    phrase.press("Enter")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("p")
    phone = page.get_by_label("Phone", exact=True)
    expect(phone.get_by_role("button", name="“moon on”")).to_be_visible()
    said = page.get_by_label("Say to the Voice helper")
    said.fill("Let there be light!")
    said.press("Enter")
    expect(phone.get_by_role("status")).to_contain_text("Reached Lamp after")
    said.fill("make tea")
    said.press("Enter")
    expect(phone.get_by_role("status")).to_contain_text("it knows no “make tea”; it knows moon on and off")
    phone.get_by_role("button", name="Off", exact=True).last.press("Enter")
    expect(page.get_by_text("a code, to be learned").first).to_be_visible()
    assert violations(page) == []
    page.goto(page.url.partition("?")[0] + "/phone")
    expect(page.get_by_role("heading", name="Remote", level=2)).to_be_visible()
    assert violations(page) == []


@pytest.mark.parametrize("width", some([320, 375, 720, 1280], 2))
def test_the_words_and_the_schools_fit_any_window(page: Page, open_plan: Open, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 800})
    open_plan(merge_patch(CLEAR, MOON))
    page.goto(page.url + "?stage=vocabularies.words")
    page.get_by_text("Draw up words for me").click()
    page.get_by_role("heading", name="A word a line").wait_for()
    page.get_by_label("Type a line as on the phone, and see what is heard").fill("1")
    expect(page.get_by_role("img", name="1: 1 0x31 49")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= width, "nothing scrolls sideways"
    assert violations(page) == []


@pytest.mark.parametrize("width", some([375, 720, 1280], 3))
def test_no_row_of_a_word_is_cut(page: Page, open_plan: Open, width: int) -> None:
    """What belongs to a word stands within its sheet, however narrow that is beside the verdicts."""
    page.set_viewport_size({"width": width, "height": 800})
    open_plan(CLEAR)
    page.goto(page.url + "?stage=vocabularies.words")
    sheet = page.get_by_role("article").first.bounding_box()
    does = page.get_by_role("combobox", name="On does", exact=True)
    does.scroll_into_view_if_needed()
    row = does.bounding_box()
    assert sheet is not None
    assert row is not None
    assert row["x"] + row["width"] <= sheet["x"] + sheet["width"]
