"""The verdicts people most need, each entered as a new user would: an empty project, then presses and fields only."""

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.desk import fill, go, pick, press, start, verdict

pytestmark = pytest.mark.e2e
BOARD_3V3 = "Wi-Fi board, 3.3 V"


def test_a_white_led_on_a_coin_cell(page: Page, server: str) -> None:
    start(page, server, "A white LED")
    page.get_by_label("The line, thumb to lamp").get_by_role("button", name="USB port 5.00 V").click()
    pick(page, "Fed by", "Coin cell, 3 V")
    verdict(page, "stop", "Lamp needs at least 2.80 V and gets 2.70 V under load")
    press(page, "Take a wall adapter, 5 V 1 A")
    expect(page.get_by_text("Nothing to settle")).to_be_visible()


def test_three_leds_on_one_resistor(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    fill(page, "Side by side", "3")
    press(page, "One for all")
    verdict(page, "look", "3 LEDs share one resistor")


def test_equal_resistors_of_a_common_anode(page: Page, server: str) -> None:
    """Arithmetic: 3.0 V and 1.8 V across 460 ohm are 6.52 and 3.91 mA."""
    start(page, server, "An RGB LED")
    press(page, "Common anode")
    for colour in ("Red", "Green", "Blue"):
        box = page.get_by_role("region", name=colour).get_by_label("Series resistor", exact=True)
        box.fill("460")
        box.press("Enter")
        expect(box).to_have_value("460 Ω")
    verdict(page, "look", "Lamp's colours get 6.52 mA / 3.91 mA / 3.91 mA")
    expect(page.get_by_role("heading", name="6.19, 3.71 and 3.71 mA flow through Lamp.")).to_be_visible()


def test_red_on_a_rail_above_its_pin_still_glows(page: Page, server: str) -> None:
    start(page, server, "An RGB LED", board=BOARD_3V3)
    press(page, "Straight from the pin")
    # What is shown of the MOSFET goes with the answer, and all below moves up: no hand is quicker than that.
    expect(page.get_by_role("button", name="Straight from the pin").first).to_have_attribute("aria-pressed", "true")
    press(page, "Common anode")
    verdict(page, "look", "Lamp, red, still glows when off")


def test_a_relay_coil_on_a_pin(page: Page, server: str) -> None:
    start(page, server, "A relay")
    expect(page.get_by_role("button", name="MOSFET amperes")).to_have_attribute("aria-pressed", "true")
    press(page, "Straight from the pin")
    verdict(page, "stop", "Relay asks 71.4 mA of a pin that gives 20 mA: it needs a driver.")
    press(page, "Put an NPN between")
    page.get_by_role("group", name="Over the coil").get_by_role("button", name="Nothing").click()
    verdict(page, "stop", "Relay is a coil without a diode over it")
    press(page, "Put a diode over the coil, its ring to plus")
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("it needs a driver")
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("without a diode")
    expect(page.get_by_label("Verdicts", exact=True)).to_contain_text("can switch mains")


def test_a_mosfet_specified_at_10_v_from_a_3v3_pin(page: Page, server: str) -> None:
    start(page, server, "A red LED", board=BOARD_3V3)
    press(page, "MOSFET amperes, and no base current")
    press(page, "MOSFET specified at 10 V gate")
    verdict(page, "stop", "its resistance is specified at 10.0 V")


def test_twenty_four_leds_straight_from_an_8_bit_board(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    fill(page, "Side by side", "24")
    verdict(page, "stop", "All pins of the board carry 480 mA when Lamp is on; they may carry 200 mA.")
    expect(page.get_by_role("button", name="Aim for 33 % of the current in each")).to_be_visible()


def test_3v3_data_into_5_v_pixels(page: Page, server: str) -> None:
    start(page, server, "One-wire pixels", board=BOARD_3V3)
    fill(page, "Pixels", "24")
    page.get_by_role("region", name="Data line").get_by_role("button", name="Straight wire").click()
    verdict(page, "stop", "Pixel chain hears a high from 3.50 V and its data line gives 3.30 V: -0.20 V.")


def test_pixel_data_over_one_mosfet_with_10_k(page: Page, server: str) -> None:
    start(page, server, "One-wire pixels", board=BOARD_3V3)
    page.get_by_role("region", name="Data line").get_by_role("button", name="One MOSFET, two pull-ups").click()
    verdict(page, "stop", "its data needs edges under 100 ns")


def test_a_divider_of_large_resistors_at_a_high_speed(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    go(page, "Hook-up")
    page.get_by_role("textbox", name="Speed").fill("115200")
    page.get_by_role("textbox", name="Speed").press("Enter")
    fill(page, "From the sender", "100k")
    fill(page, "To ground", "200k")
    verdict(page, "stop", "a bit lasts 8.68 µs")


def test_a_knob_on_5_v_into_a_3v3_pin(page: Page, server: str) -> None:
    start(page, server, "A red LED", board=BOARD_3V3)
    go(page, "Pins")
    press(page, "Add a knob")
    go(page, "Knob")
    page.get_by_role("group", name="Its upper end stands at").get_by_role("button", name="USB port").click()
    verdict(page, "stop", "The board's pin of Knob gets 5.00 V; it stands 3.60 V at most.")
    press(page, "Feed it from the board's own 3.30 V")
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("pin of Knob gets")
    press(page, "Take Knob out")
    expect(page.get_by_label("The line, thumb to lamp")).not_to_contain_text("Knob")


def test_a_drawer_and_many_builds(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    fill(page, "My drawer", "68, 100, 120, 220")
    expect(page.get_by_role("button", name="From my drawer: ")).to_be_visible()
    press(page, "Build it ten thousand times")
    expect(page.get_by_text("counted, get", exact=False)).to_be_visible()
    go(page, "Hook-up")
    press(page, "Build it ten thousand times")
    expect(page.get_by_text("builds pass on", exact=False)).to_be_visible()
    expect(page.get_by_role("img", name="none goes past 3.60 V", exact=False)).to_be_visible()
