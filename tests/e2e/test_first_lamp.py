"""From nothing to a rehearsed lamp, as a new user would: by mouse, then by keyboard alone."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR, PLANS, document, lamp
from tests.full import some

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def line(page: Page, name: str) -> object:
    return page.get_by_label("The line, thumb to lamp").get_by_role("button", name=name)


def glows(page: Page) -> int:
    """Count the lamps that glow on the line."""
    return int(page.evaluate("[...document.querySelectorAll('nav svg circle')].filter((it) => it.style.filter).length"))


def test_from_an_empty_project_to_a_rehearsed_on_by_mouse(page: Page) -> None:
    page.goto("/")
    actions = 0

    def press(locator: object) -> None:
        nonlocal actions
        locator.click()  # type: ignore[attr-defined]
        actions += 1

    press(page.get_by_role("button", name="Projects"))
    press(page.get_by_role("button", name="New, empty"))
    press(page.get_by_role("button", name="A red LED"))
    expect(page.get_by_role("heading", name="17.1 mA flows through Lamp. Wanted: 20 mA.")).to_be_visible()
    expect(page.get_by_label("Series resistor", exact=True)).to_have_value("150 Ω")
    expect(page.get_by_role("button", name="Series resistor: proposed, why?")).to_be_visible()
    press(page.get_by_label("Phone", exact=True).get_by_role("button", name="On", exact=True))
    expect(page.get_by_text("Reached Lamp after 37 ms: 35 ms in the air, 1.04 ms on the wire.")).to_be_visible()
    expect(page.locator("nav .bead")).to_have_count(0)
    assert glows(page) == 1
    assert actions <= 10


def test_the_same_by_keyboard_alone(page: Page) -> None:
    page.goto("/")
    page.get_by_role("heading", level=2).first.wait_for()
    keys = 0

    def tab_to(name: str) -> None:
        nonlocal keys
        for _ in range(40):
            page.keyboard.press("Tab")
            keys += 1
            focused = page.evaluate("document.activeElement.getAttribute('aria-label') ?? document.activeElement.textContent")
            if focused.startswith(name):
                return
        raise AssertionError(f"{name} is not reached by Tab")

    tab_to("Projects")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="New, empty").wait_for()
    tab_to("New, empty")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="What should light?").wait_for()
    tab_to("A red LED")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="17.1 mA flows through Lamp.").wait_for()
    page.keyboard.press("p")
    keys += 1
    page.keyboard.press("Enter")
    expect(page.get_by_text("Reached Lamp after 37 ms")).to_be_visible()
    assert keys < 60


def test_the_line_is_walked_by_arrows_and_number_keys(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    line(page, "Lamp").focus()  # type: ignore[attr-defined]
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("heading", name="All 3 lines have a pin.")).to_be_visible()
    expect(line(page, "Pins")).to_be_focused()  # type: ignore[arg-type]
    page.keyboard.press("4")
    expect(page.get_by_role("heading", name="3.24 V reaches the module. It can stand 3.60.")).to_be_visible()


def test_an_edit_shows_its_verdict_and_a_fix_is_applied_and_undone(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    verdicts = page.get_by_label("Verdicts")
    field = page.get_by_label("Series resistor", exact=True)
    field.fill("50")
    field.press("Enter")
    expect(
        verdicts.get_by_text("By its resistor alone Lamp gets 28 mA, more than the 20 mA wanted. Clear from 75 Ω up.")
    ).to_be_visible()
    verdicts.get_by_role("button", name="Show working").first.click()
    expect(verdicts.get_by_text("(5.00 V − 3.60 V) / 50 Ω = 28 mA")).to_be_visible()
    verdicts.get_by_role("button", name="Fit 75 Ω").click()
    expect(field).to_have_value("75 Ω")
    expect(verdicts.get_by_text("Lamp gets")).to_have_count(0)
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("Control+z")
    expect(
        verdicts.get_by_text("By its resistor alone Lamp gets 28 mA, more than the 20 mA wanted. Clear from 75 Ω up.")
    ).to_be_visible()
    expect(field).to_have_value("50 Ω")
    page.get_by_role("button", name="Redo").click()
    expect(field).to_have_value("75 Ω")


def test_what_cannot_be_read_is_said_at_the_field_and_nothing_is_lost(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    field = page.get_by_label("Series resistor", exact=True)
    field.fill("9 V")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Give ohms, for example 220, 4k7, 4.7 kohm")
    expect(field).to_have_value("9 V")
    field.press("Escape")
    expect(field).to_have_value("75 Ω")
    field.fill("")
    field.press("Enter")  # empty goes back to what is proposed
    expect(page.get_by_role("button", name="Series resistor: proposed, why?")).to_be_visible()


def test_a_stop_is_kept_with_its_reason(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, lamp(resistor_ohm=40)))
    stop = page.get_by_role("listitem").filter(has_text="It can stand 30 mA")
    stop.get_by_role("button", name="Keep, note the risk").click()
    page.get_by_label("Why it may stay").fill("an old LED to spare")
    page.keyboard.press("Enter")
    expect(stop.get_by_text("Kept, with the risk noted: an old LED to spare")).to_be_visible()


def test_a_school_of_level_shift_is_chosen_side_by_side(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    line(page, "Hook-up").click()  # type: ignore[attr-defined]
    way = page.get_by_role("region", name="Board to module")
    way.get_by_role("button", name="Straight wire").click()
    expect(page.get_by_role("heading", name="5.00 V reaches the module. It can stand 3.60.")).to_be_visible()
    expect(way.get_by_role("button", name="Straight wire")).to_have_attribute("aria-pressed", "true")
    page.get_by_role("button", name="Leave this wire out: nothing is said on it").click()
    expect(way.get_by_role("button", name="Left out")).to_have_attribute("aria-pressed", "true")


def test_words_and_pins_are_turned_in_place(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    line(page, "Words").click()  # type: ignore[attr-defined]
    page.get_by_label("Sent for On", exact=True).fill("0")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Verdicts").get_by_text("On and Off are both 0.")).to_be_visible()
    page.get_by_role("button", name="Send o for Off").click()
    expect(page.get_by_label("Sent for Off", exact=True)).to_have_value("o")
    line(page, "Pins").click()  # type: ignore[attr-defined]
    page.get_by_role("combobox", name="Pin for Lamp").click()
    page.get_by_role("option", name="1", exact=True).click()
    expect(page.get_by_label("Verdicts").get_by_text("Pin 1 belongs to the USB upload")).to_be_visible()


def test_a_message_that_dies_says_where(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {"nodes": {"phone": {"sends_as": "numbers"}}}))
    page.get_by_label("Phone", exact=True).get_by_role("button", name="On", exact=True).click()
    expect(page.get_by_text("Lost at the words: 0x01 is no word here.")).to_be_visible()
    assert glows(page) == 0


@pytest.mark.parametrize("name", some(PLANS, 4))
def test_every_plan_is_drawn_and_every_sheet_opens(page: Page, open_plan: Open, name: str) -> None:
    open_plan(document(name))
    stages = page.get_by_label("The line, thumb to lamp").get_by_role("button")
    for index in range(stages.count()):
        stages.nth(index).click()
        expect(stages.nth(index)).to_have_attribute("aria-current", "true")
        expect(page.locator("#sheet-sentence")).not_to_be_empty()
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")


def test_a_plan_goes_out_as_a_file_and_comes_in_again(page: Page, open_plan: Open, tmp_path: object) -> None:
    open_plan({**CLEAR, "title": "Лунный свет"})
    page.get_by_role("button", name="More", exact=True).click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Save this plan as a file").click()
    assert download.value.suggested_filename == "лунный-свет.json", "letters of any script make a name that can be read"
    path = f"{tmp_path}/plan.json"
    download.value.save_as(path)
    before = page.url
    page.get_by_role("button", name="Projects").click()
    page.get_by_label("Plan file").set_input_files(path)
    page.wait_for_url(lambda url: url != before and "/projects/" in url)
    expect(page.get_by_label("Name of the project")).to_have_value("Лунный свет")


def test_both_themes_are_kept(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    before = page.evaluate("getComputedStyle(document.body).backgroundColor")
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Light or dark").click()
    after = page.evaluate("getComputedStyle(document.body).backgroundColor")
    page.reload()
    page.get_by_role("heading", level=2).first.wait_for()
    assert before != after == page.evaluate("getComputedStyle(document.body).backgroundColor")
