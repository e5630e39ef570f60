"""The board from above: every pin can be come to and read, on boards of any size and in any window."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.e2e.desk import whole_line
from tests.full import IS_PROOF

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def show(page: Page, open_plan: Open, board: str) -> None:
    open_plan(merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": board}}}}))
    page.goto(f"{page.url.partition('?')[0]}?stage=pins.board")


def test_a_pin_says_what_it_can_do_by_keyboard_and_by_pointer(page: Page, open_plan: Open) -> None:
    show(page, open_plan, "board-5v-20io")
    page.get_by_role("button", name="Pin 0, USB upload", exact=True).focus()
    for _ in range(9):
        page.keyboard.press("ArrowRight")
    expect(page.get_by_role("button", name="Pin 9", exact=True)).to_be_focused()
    expect(page.get_by_text("chip pin 15: output, input, PWM (timer 1, output A), receives software serial")).to_be_visible()
    page.locator("#pin-13 circle").first.hover()
    expect(page.get_by_text("status LED, moves at start-up")).to_be_visible()
    show(page, open_plan, "board-wifi-ble")
    page.locator("#pin-4 circle").first.hover()
    expect(page.get_by_text("reads volts (converter 2, not while Wi-Fi runs)")).to_be_visible()


SIZES = ["board-5v-70io", "board-wifi-ble", "board-3v3-dual-core", "board-5v-8pin"]


@pytest.mark.parametrize("board", list(load_catalog().boards) if IS_PROOF else SIZES)
def test_labels_of_a_board_do_not_touch(page: Page, open_plan: Open, board: str) -> None:
    show(page, open_plan, board)
    for wide in (1280, 375):
        page.set_viewport_size({"width": wide, "height": 800})
        assert labels_off_or_touching(page, board, wide) == ([], [])


def labels_off_or_touching(page: Page, board: str, wide: int) -> tuple[list[object], list[object]]:
    """Labels that leave the window, and pairs that lie on each other."""
    part = load_catalog().boards[board]
    # The picture is drawn anew once it has the width of the window.
    page.wait_for_function("wide => (document.querySelector('g[id^=pin-]')?.closest('svg').clientWidth ?? 1e9) <= wide", arg=wide)
    labels = page.locator("g[id^=pin-] > text:last-of-type")
    expect(page.locator("g[id^=pin-]")).to_have_count(len(part.pins))
    boxes = page.evaluate(
        """() => [...document.querySelectorAll("g[id^=pin-]")].map((pin) => [...pin.querySelectorAll("text")]
            .find((it) => it.textContent === pin.id.slice(4)).getBoundingClientRect().toJSON())"""
    )
    assert labels.count() == len(boxes) == len(part.pins)
    inside = [it for it in boxes if it["left"] < 0 or it["right"] > wide]
    touching = [
        (a["x"], b["x"])
        for at, a in enumerate(boxes)
        for b in boxes[at + 1 :]
        if a["left"] < b["right"] and b["left"] < a["right"] and a["top"] + 3 < b["bottom"] and b["top"] + 3 < a["bottom"]
    ]
    return inside, touching


def test_a_plan_moves_to_another_board_with_one_press(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {"signals": {"lamp.main": {"pin": "11"}}}))
    page.keyboard.press("b")
    expect(
        page.get_by_role("heading", level=2, name=re.compile("^Your board serves it best: nothing of its own"))
    ).to_be_visible()
    row = page.get_by_role("listitem").filter(has_text="3.3 V 32-bit board, 5 V tolerant").first
    row.get_by_role("button", name="Move to the 3.3 V 32-bit board, 5 V tolerant").press("Enter")
    expect(row.get_by_text("your board now")).to_be_visible()
    page.keyboard.press("b")
    page.goto(f"{page.url.partition('?')[0]}?stage=pins.board")
    expect(page.get_by_role("heading", name="All 3 lines have a pin.")).to_be_visible()
    page.get_by_role("button", name="Undo").press("Enter")
    expect(page.get_by_role("combobox", name="Pin for Lamp")).to_have_text("11▾")


def test_a_pin_says_why_and_what_else_it_could_be(page: Page, open_plan: Open) -> None:
    show(page, open_plan, "board-5v-20io")
    page.get_by_role("combobox", name="Pin for Lamp").press("Enter")
    expect(page.get_by_text("The best for all lines together. Next best is pin", exact=False)).to_be_visible()


def test_lamps_without_a_pin_go_onto_a_chip_with_one_press_and_come_back(page: Page, open_plan: Open) -> None:
    lamps = {f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {"led": {"part": "led-red"}}}} for n in range(20)}
    do = [{"verb": "on", "target": name} for name in lamps]
    rules = {"r1": {"host": "board", "when": {"heard": "on"}, "do": do}, "r2": None}
    open_plan(merge_patch(CLEAR, {"lamps": {"lamp": None, **lamps}, "rules": rules}))
    page.goto(f"{page.url.partition('?')[0]}?stage=pins.board")
    expect(page.get_by_role("heading", level=2, name="2 lines of 22 have no pin.")).to_be_visible()
    page.get_by_role("button", name="Put 12 lamps on a dimmer chip over two wires").first.press("Enter")
    expect(page.get_by_role("heading", level=2, name="All 12 lines have a pin.")).to_be_visible()
    with whole_line(page) as line:
        line.get_by_role("button", name=re.compile("^Dimmer")).click()
        expect(page.get_by_text("Its address is 64 (hex 40)")).to_be_visible()
        line.get_by_role("button", name=re.compile("^Bus")).click()
        expect(page.get_by_role("heading", level=2, name="5.00 V reaches the dimmer. It can stand 5.30.")).to_be_visible()
        line.get_by_role("button", name=re.compile("^L19")).click()
    board = page.get_by_role("button", name=re.compile("^Board.*pins free"))
    board.click()
    expect(board).to_have_attribute("aria-pressed", "true")
    page.goto(f"{page.url.partition('?')[0]}?stage=pins.dimmer")
    page.get_by_role("button", name="Take Dimmer out; 11 lamps go back to the board").click()
    expect(page.get_by_role("button", name=re.compile("^Dimmer"))).to_have_count(0)
