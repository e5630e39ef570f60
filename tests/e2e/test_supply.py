"""Supply as a new user meets it: a rail that is too weak, what hangs on it, wire, cells, and a chain that turns warm."""

import re
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.core.supply_rows import NO_LIGHT, ON_70, chain, fed_by
from tests.e2e.desk import go, start, whole_line
from tests.e2e.test_access import violations

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
CLEAR_OF_ALL = re.compile("^Nothing to settle")


def whole(*patches: dict[str, Any]) -> dict[str, Any]:
    made: dict[str, Any] = CLEAR
    for it in patches:
        made = merge_patch(made, it)
    return made


def at(page: Page, stage: str) -> None:
    page.goto(f"{page.url.partition('?')[0]}?stage={stage}")


def test_a_rail_that_is_too_weak_is_cut_and_mended_by_a_press(page: Page, open_plan: Open) -> None:
    open_plan(whole(NO_LIGHT, fed_by("usb-port-500ma"), chain(24)))
    at(page, "rails.five")
    expect(page.get_by_role("heading", name="All of it lit wants 1.55 A; what feeds it gives 500 mA.")).to_be_visible()
    expect(page.get_by_role("img", name="what feeds it")).to_be_visible()
    with whole_line(page) as line:
        expect(line.get_by_role("button", name="USB port 5.00 V, 1.55 A of 500 mA stop")).to_be_visible()
    page.get_by_role("button", name="Cap Px at 26 %").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("carries 1.55 A with all of it lit")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_text("carries 1.55 A with all of it lit")).to_be_visible()
    assert violations(page) == []


def test_an_evening_is_asked_for_and_what_it_leaves_is_told(page: Page, open_plan: Open) -> None:
    open_plan(whole(fed_by("aaa-3")))
    at(page, "rails.five")
    page.get_by_role("textbox", name="Shall last").fill("6 h")
    page.keyboard.press("Enter")
    expect(page.get_by_text("6 h are wanted")).to_be_visible()
    expect(page.get_by_text("of the light reckoned with")).to_be_visible()
    page.get_by_role("button", name="Reckon with its lamps at").click()
    expect(page.get_by_text("6 h are wanted")).to_have_count(0)


def test_a_long_wire_is_typed_and_told_how_long_it_may_be(page: Page, server: str) -> None:
    start(page, server, "A 5 V strip")
    go(page, "Strip")
    length = page.get_by_role("textbox", name="Length of its wire")
    length.fill("6 m")
    length.press("Enter")
    expect(page.get_by_text("there and back at")).to_be_visible()
    expect(page.get_by_text("At this gauge it may be")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"^Take \d+ AWG")).first.click()
    expect(page.get_by_text("there and back at")).to_have_count(0)


def test_a_chain_that_turns_warm_is_fed_a_second_time(page: Page, open_plan: Open) -> None:
    open_plan(whole(ON_70, fed_by("adapter-5v-10a"), chain(144)))
    at(page, "lamps.px")
    expect(page.get_by_role("img", name="at its end; every colour down to 3.90 V")).to_be_visible()
    page.get_by_role("button", name="Feed it at the start and at pixel").click()
    expect(page.get_by_text(CLEAR_OF_ALL)).to_be_visible()
    expect(page.get_by_role("textbox", name="Fed at pixel")).to_have_value("1, 96")


def test_what_was_rehearsed_is_taken_as_the_evening(page: Page, open_plan: Open) -> None:
    open_plan(whole(fed_by("aaa-3")))
    page.get_by_role("button", name="Lamp on", exact=True).or_(page.get_by_role("button", name="On", exact=True)).first.click()
    page.get_by_role("button", name="Rehearse", exact=True).click()
    expect(
        page.get_by_text(re.compile("^Three AAA cells: .* at most of 500.mA, .* on average, .*% of its charge$"))
    ).to_be_visible()
    page.get_by_role("button", name="Reckon the evening by this").click()
    page.get_by_role("button", name="Plan", exact=True).click()
    at(page, "rails.five")
    expect(page.get_by_role("textbox", name="Lamp", exact=True)).not_to_have_value("100 %")
