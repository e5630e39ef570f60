"""From nothing to a rehearsed light by a starting point, and pixels put where they hang: by pointer and by keyboard, counted."""

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from oddlamp.catalog.load import start_data, start_names
from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.conftest import CALL
from tests.e2e.desk import Hands, pick, whole_line
from tests.e2e.test_access import violations
from tests.full import some

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
STARTS = {it: start_data(it) for it in start_names()}
DROP: dict[str, object] = {
    "lamps": {"drop": {"kind": "pixels-one-wire", "label": "Back drop", "host": "board", "layout": {"runs": [{"count": 60}]}}}
}


@pytest.mark.parametrize("name", some(STARTS, 6))
def test_from_nothing_to_a_rehearsed_light_in_six_actions(page: Page, server: str, name: str) -> None:
    """A new project, the starting point, the phone, and a press."""
    data = STARTS[name]
    page.emulate_media(reduced_motion="reduce")
    page.goto("/shelf")
    hands = Hands(page)
    hands.point("button", "New, empty")
    hands.at(page.get_by_role("button", name=re.compile(f"^{re.escape(data['title'])}")))
    expect(page.get_by_label("Name of the project")).to_have_value(data["title"])
    tongue = page.locator("section.tongue")
    hands.at(tongue.get_by_role("button", name=data["press"], exact=True).first)
    expect(tongue.get_by_role("status")).to_contain_text(re.compile("^Reached|^answered"))
    assert hands.presses + hands.pointings <= 6


def test_the_opening_offers_them_with_their_light_and_is_clean(page: Page, server: str) -> None:
    project = CALL.post(f"{server}/api/projects", json={"start": "empty"}).json()["id"]
    page.goto(f"/projects/{project}")
    cards = page.get_by_role("list", name="Or begin with something whole, and change it").get_by_role("button")
    expect(cards).to_have_count(len(STARTS))
    lit = page.locator("ul[aria-labelledby='starts'] circle[fill^='#']")
    lit.first.wait_for(state="attached")
    assert violations(page) == []
    cards.filter(has_text="Duel").press("Enter")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("Knights")
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.get_by_role("heading", name="What should light?")).to_be_visible()


def test_pixels_are_put_in_rows_found_tried_and_saved_by_keyboard(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, DROP))
    page.goto(f"{page.url}?stage=lamps.drop")
    pixel = page.get_by_role("slider", name="Pixel: arrows go to the next one that way")
    expect(pixel).to_have_attribute("aria-valuetext", "Pixel 0 of 60: row 1, column 1")
    pick(page, "They stand in", "A grid")
    page.get_by_label("In each row", exact=True).fill("10")
    page.keyboard.press("Enter")
    expect(page.get_by_text("60 pixels, 6 rows of 10; it can show signs")).to_be_visible()
    pixel.focus()
    for key in ("End", "ArrowUp", "ArrowRight"):
        page.keyboard.press(key)
    expect(pixel).to_have_attribute(
        "aria-valuetext", "Pixel 41 of 60: row 5, column 2"
    )  # by the table: 40 41 42 in the fifth row
    find = page.get_by_label("Find by number, or row, column")
    find.fill("2, 1")
    find.press("Enter")
    expect(pixel).to_have_attribute("aria-valuenow", "19")
    find.fill("7, 1")
    find.press("Enter")
    expect(page.get_by_text("No pixel there")).to_be_visible()
    lit = pixel.locator("circle[fill='#ffffff']")
    page.get_by_role("button", name="Rain", exact=True).press("Enter")
    lit.first.wait_for(state="attached")
    assert violations(page) == []
    page.get_by_role("button", name="Stop", exact=True).press("Enter")
    expect(lit).to_have_count(0)
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the places as CSV").click()
    rows = Path(saved.value.path()).read_text().splitlines()
    assert rows[:3] == ["pixel,across,down,across_mm,down_mm", "0,0,0,0.00,0.00", "1,1,0,16.67,0.00"]


def test_places_are_pasted_and_a_line_that_is_none_is_told(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, DROP))
    page.goto(f"{page.url}?stage=lamps.drop")
    page.get_by_text("Paste places", exact=True).click()
    field = page.get_by_label("Places to take in")
    field.fill("0, 0\n1, here")
    page.get_by_role("button", name="Take them in").press("Enter")
    expect(page.get_by_role("alert").filter(has_text="in line 2")).to_be_visible()
    expect(field).to_have_value("0, 0\n1, here")
    field.fill("across;down\n0;0\n3;0\n3;4")
    page.get_by_role("button", name="Take them in").press("Enter")
    expect(page.get_by_role("slider", name="Pixel: arrows")).to_have_attribute("aria-valuetext", "Pixel 0 of 3: row 1, column 1")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("slider", name="Pixel: arrows")).to_have_attribute("aria-valuetext", "Pixel 0 of 60: row 1, column 1")


def test_a_display_shows_its_text_dot_by_dot_in_the_rehearsal(page: Page, open_plan: Open) -> None:
    open_plan(dict(STARTS["08-moving-text"]["plan"]))
    page.get_by_label("Phone", exact=True).get_by_role("button", name="Tonight").click()
    page.locator("article circle[fill='#ffd569'], article circle[fill^='#ff']").first.wait_for(state="attached")
    expect(page.get_by_role("status").filter(has_text="Reached")).to_contain_text('shows "Tonight: PAPER MOON"')


def test_a_lamp_a_word_and_a_slider_are_added_troubled_and_mended(page: Page, server: str) -> None:
    """From the demo; what it takes is counted, three minutes are given."""
    page.emulate_media(reduced_motion="reduce")
    project = CALL.post(f"{server}/api/projects", json={"start": "demo"}).json()["id"]
    page.goto(f"/projects/{project}")
    hands = Hands(page)
    with whole_line(page) as line:
        hands.at(line.get_by_role("button", name="Pins").first)
        hands.point("button", "Add a warm white LED")
        hands.at(line.get_by_role("button", name="Words").first)
        hands.point("button", "Add a slider for Lamp")
    hands.point("button", "Rehearse")
    phone = page.get_by_label("Phone", exact=True)
    hands.at(phone.get_by_role("button", name="Phone"))
    slider = phone.get_by_role("slider", name=re.compile("Lamp")).first
    hands.at(slider)
    status = phone.get_by_role("status")
    expect(status).to_contain_text("Reached Lamp")
    hands.at(page.get_by_text("Put a trouble in"))
    hands.point("button", "are swapped")
    hands.at(slider)
    hands.press("ArrowRight")
    expect(status).to_contain_text("Lost at the hook-up: RX and TX are swapped")
    hands.point("button", "are right again: wires swapped")
    hands.at(slider)
    hands.press("ArrowRight")
    expect(status).to_contain_text("Reached Lamp")
    print(f"{hands.presses} presses, {hands.pointings} pointings: {hands.takes_s:.0f} s")
    assert hands.takes_s < 180
