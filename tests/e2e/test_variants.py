"""Other ways to build the chain and what sets their modules up, pressed as a new user would."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR, document
from tests.e2e.desk import go, press, start, whole_line

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
CLEAR_OF_ALL = "Nothing to settle"


def test_a_board_less_lamp_obeys_the_phone_and_gets_a_board_again(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    go(page, "Module")
    press(page, "Leave the board out: the module switches the lamps itself")
    expect(page.get_by_text(CLEAR_OF_ALL)).to_be_visible()
    expect(page.get_by_label("Setting it up", exact=True)).to_contain_text("AT+PIO21")
    page.get_by_role("button", name="Lamp on", exact=True).click()
    with whole_line(page) as line:
        expect(line.get_by_role("button", name=re.compile("^Lamp"))).to_be_visible()
    expect(page.get_by_text(re.compile("^Reached Lamp after"))).to_be_visible()
    press(page, "Put a board behind it")
    expect(page.get_by_text(CLEAR_OF_ALL)).to_be_visible()


def test_a_bound_pair_shows_both_sets_of_steps_to_tick_off(page: Page, open_plan: Open) -> None:
    open_plan(document("two-wings"))
    page.goto(f"{page.url.partition('?')[0]}?stage=nodes.ml")
    mine, other = (page.get_by_label(name, exact=True) for name in ("Setting it up", "Setting up Module"))
    expect(mine).to_contain_text("AT+BIND=<its address, with commas>")
    expect(other).to_contain_text("AT+ADDR?")
    other.get_by_role("button", name="Done").press("Enter")
    expect(other.locator("[aria-current=step]")).to_contain_text("See that the module has no power.")
    for _ in range(4):
        other.get_by_role("button", name="Done").click()
    other.get_by_role("button", name="It differs").click()
    expect(other.get_by_role("status")).to_contain_text("TX and RX may be swapped")
    other.get_by_role("button", name="One step back").click()
    expect(other.locator("[aria-current=step]")).to_contain_text("Set the terminal to 38400 Bd")


def test_a_password_goes_into_the_steps_and_nowhere_else(page: Page, open_plan: Open) -> None:
    radio = {"choice": {"part": "family-e"}, "setup": None}
    open_plan(
        merge_patch(CLEAR, {"nodes": {"radio": radio, "phone": {"speaks": ["wifi"]}}, "links": {"air": {"transport": None}}})
    )
    page.goto(f"{page.url.partition('?')[0]}?stage=nodes.radio")
    steps = page.get_by_label("Setting it up", exact=True)
    expect(steps).to_contain_text('AT+CWSAP="ONE-LAMP","<password>",6,3')
    page.get_by_label("Password", exact=True).fill("short")
    expect(steps.get_by_role("status")).to_have_text("The password wants 8 to 63 plain characters.")
    page.get_by_label("Password", exact=True).fill("curtain, call")
    expect(steps).to_contain_text('AT+CWSAP="ONE-LAMP","curtain\\, call",6,3')
    page.reload()
    expect(page.get_by_label("Password", exact=True)).to_have_value("")
    kept = page.request.get(page.url.replace("/projects/", "/api/projects/").partition("?")[0] + "/plan").text()
    assert "curtain" not in kept
