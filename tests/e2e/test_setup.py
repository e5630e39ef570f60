"""Setting a module up, read off its sheet as a new user would."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.builders import CLEAR
from tests.e2e.desk import fill, go

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def test_the_steps_follow_what_is_told_and_the_rest_is_proposed(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    go(page, "Module")
    steps = page.get_by_label("Setting it up", exact=True)
    expect(steps).to_contain_text("14 steps through the adapter make the module ONE-LAMP, 9600 Bd, PIN")
    expect(steps).to_contain_text("AT+NAME=ONE-LAMP answers OK")
    steps.get_by_role("button", name="Keep them").click()
    expect(page.get_by_label("Name", exact=True)).to_have_value("ONE-LAMP")
    expect(steps.get_by_role("button", name="Keep them")).to_have_count(0)
    fill(page, "Name", "LANTERN")
    expect(steps).to_contain_text("AT+NAME=LANTERN answers OK")
    board = page.get_by_role("button", name="The board itself")
    board.click()
    expect(board).to_have_attribute("aria-pressed", "true")
    expect(steps).to_contain_text("Straight: the board's RX pin to the module's RX")
    page.get_by_role("button", name=re.compile("^Master")).press("Enter")  # what is settled may still be moving up the sheet
    expect(steps).to_contain_text("there is none at the other end")
