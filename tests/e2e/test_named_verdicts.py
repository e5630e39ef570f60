"""The verdicts people most need, entered on the screen as a new user would, by choices and fields of the sheets."""

from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
WIFI: Document = {"nodes": {"board": {"choice": {"part": "board-wifi"}}}}
RED: Document = {"lamps": {"lamp": {"channels": {"main": {"led": {"part": "led-red", "overrides": None}, "resistor_ohm": None}}}}}
RGB: Document = {"lamps": {"moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "anode"}}}


def go(page: Page, name: str) -> None:
    page.get_by_label("The line, thumb to lamp").get_by_role("button", name=name).first.click()


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option).first.click()


def fill(page: Page, label: str, text: str) -> None:
    page.get_by_label(label, exact=True).first.fill(text)
    page.get_by_label(label, exact=True).first.press("Enter")


def verdict(page: Page, mark: str, text: str) -> None:
    row = page.get_by_label("Verdicts", exact=True).get_by_role("listitem").filter(has_text=text)
    expect(row.first.get_by_role("img", name=mark, exact=True)).to_be_visible()


def test_three_leds_on_one_resistor(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, RED))
    fill(page, "Side by side", "3")
    page.get_by_role("button", name="One for all").click()
    verdict(page, "look", "3 LEDs share one resistor")


def test_a_white_led_on_a_coin_cell(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, RED))
    page.get_by_label("The line, thumb to lamp").get_by_role("button", name="V, load").click()
    choose(page, "Fed by", "Coin cell, 3 V")
    go(page, "Lamp")
    choose(page, "Colour", "White")
    verdict(page, "stop", "Lamp needs at least 2.80 V and gets 2.70 V under load")


def test_equal_resistors_of_a_common_anode(page: Page, open_plan: Open) -> None:
    """Arithmetic: 3.0 V and 1.8 V across 460 ohm are 6.52 and 3.91 mA."""
    open_plan(merge_patch(CLEAR, RGB))
    go(page, "Moon")
    for colour in ("Red", "Green", "Blue"):
        box = page.get_by_role("region", name=colour).get_by_label("Series resistor", exact=True)
        box.fill("460")
        box.press("Enter")
        expect(box).to_have_value("460 Ω")
    verdict(page, "look", "Moon's colours get 6.52 mA / 3.91 mA / 3.91 mA")
    expect(page.get_by_role("heading", name="6.52, 3.91 and 3.91 mA flow through Moon.")).to_be_visible()


def test_red_on_a_rail_above_its_pin_still_glows(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {**WIFI, **RGB}))
    verdict(page, "look", "Moon, red, still glows when off")


def test_a_relay_coil_on_a_pin(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {"lamps": {"curtain": {"kind": "relay", "label": "Curtain", "host": "board"}}}))
    go(page, "Curtain")
    page.get_by_role("button", name="Straight from the pin").click()
    verdict(page, "stop", "Curtain asks 71.4 mA of a pin that gives 20 mA: it needs a driver.")
    verdict(page, "stop", "Curtain is a coil without a diode over it")
    page.get_by_role("button", name="Put an NPN between").click()
    page.get_by_role("button", name="Put a diode over the coil, its ring to plus").click()
    expect(page.get_by_label("Verdicts", exact=True).get_by_text("it needs a driver")).to_have_count(0)


def test_a_mosfet_specified_at_10_v_from_a_3v3_pin(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {**WIFI, **RED}))
    go(page, "Lamp")
    page.get_by_role("button", name="MOSFET amperes, and no base current").click()
    page.get_by_role("button", name="MOSFET specified at 10 V gate").click()
    verdict(page, "stop", "its resistance is specified at 10.0 V")


def test_twenty_four_leds_straight_from_an_8_bit_board(page: Page, open_plan: Open) -> None:
    lamps = {
        f"r{n}": {"kind": "led", "label": f"Row {n}", "host": "board", "channels": {"main": {"in_parallel": 2}}}
        for n in range(12)
    }
    open_plan(merge_patch(CLEAR, {"lamps": {"lamp": None, **lamps}, "rules": None}))
    verdict(page, "stop", "All pins of the board carry 480 mA when 12 lamps are on together; they may carry 200 mA.")


def test_3v3_data_into_5_v_pixels(page: Page, open_plan: Open) -> None:
    pixels = {
        "lightning": {
            "kind": "pixels-one-wire",
            "label": "Lightning",
            "host": "board",
            "rail": "five",
            "layout": {"runs": [{"count": 24}]},
        }
    }
    open_plan(merge_patch(CLEAR, {**WIFI, "lamps": pixels}))
    verdict(page, "stop", "Lightning hears a high from 3.50 V and its data line gives 3.30 V: -0.20 V.")
    go(page, "Lightning")
    page.get_by_role("region", name="Data line").get_by_role("button", name="One MOSFET, two pull-ups").click()
    verdict(page, "stop", "its data needs edges under 100 ns")


def test_a_divider_of_large_resistors_at_a_high_speed(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    go(page, "Hook-up")
    speed = page.get_by_role("textbox", name="Speed")
    speed.fill("115200")
    speed.press("Enter")
    fill(page, "From the sender", "100k")
    fill(page, "To ground", "200k")
    verdict(page, "stop", "a bit lasts 8.68 µs")


def test_a_knob_on_5_v_into_a_3v3_pin(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {**WIFI, "inputs": {"dimmer": {"kind": "knob", "label": "Dimmer", "host": "board"}}}))
    go(page, "Dimmer")
    page.get_by_role("button", name="Wall adapter 5.00 V", exact=True).click()
    verdict(page, "stop", "The board's pin of Dimmer gets 5.00 V and may have 3.60 V.")
    page.get_by_role("button", name="Feed it from the board's own 3.30 V").click()
    expect(page.get_by_label("Verdicts", exact=True).get_by_text("pin of Dimmer gets")).to_have_count(0)


def test_a_drawer_and_many_builds(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    fill(page, "My drawer", "33, 47, 68, 100")
    expect(page.get_by_role("button", name="From my drawer: 33 Ω and 47 Ω in series gives 17.5 mA")).to_be_visible()
    page.get_by_role("button", name="Build it ten thousand times").click()
    expect(page.get_by_text("Nine in ten of", exact=False)).to_be_visible()
