"""Every kind of lamp and input can be had from nothing by pressing, never by writing a file."""

import httpx
import pytest
from playwright.sync_api import Page, expect

from tests.e2e.test_named_verdicts import fill, go, verdict

pytestmark = pytest.mark.e2e


def start(page: Page, server: str, what: str) -> None:
    project = httpx.post(f"{server}/api/projects", json={"start": "empty"}).json()["id"]
    page.goto(f"/projects/{project}")
    page.get_by_role("button", name=what).click()
    page.get_by_role("heading", level=2).first.wait_for()


@pytest.mark.parametrize(
    ("what", "sentence"),
    [
        ("One-wire pixels", "Pixels takes 480 mA when every pixel is white"),
        ("Clocked pixels", "when every pixel is white"),
        ("A 5 V strip", "Strip takes 900 mA"),
        ("An infra-red LED", "flows through Lamp"),
        ("A relay", "Relay takes 71.4 mA"),
        ("A buzzer", "Buzzer takes 2 mA"),
        ("A matrix module", "Matrix takes 330 mA"),
    ],
)
def test_a_project_starts_from_any_kind(page: Page, server: str, what: str, sentence: str) -> None:
    start(page, server, what)
    expect(page.get_by_role("heading", level=2).first).to_contain_text(sentence)


def test_a_relay_from_nothing_needs_a_driver_and_a_diode(page: Page, server: str) -> None:
    start(page, server, "A relay")
    expect(page.get_by_role("button", name="MOSFET amperes")).to_have_attribute("aria-pressed", "true")
    verdict(page, "stop", "a coil without a diode over it")
    press(page, "Straight from the pin")
    verdict(page, "stop", "it needs a driver")
    page.get_by_role("button", name="Put a MOSFET between").first.click()
    page.get_by_role("button", name="Put a diode over the coil").click()
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("needs a driver")
    expect(page.get_by_label("Verdicts", exact=True)).to_contain_text("can switch mains")


def test_pixels_are_counted_in_place_and_told_their_order(page: Page, server: str) -> None:
    start(page, server, "One-wire pixels")
    fill(page, "Pixels", "60")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("3.6 A")
    page.get_by_role("button", name="Red, green and blue came as sent").click()
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("Nobody has seen the order")
    fill(page, "Pixels", "none")
    expect(page.get_by_role("alert")).to_be_visible()


def test_a_twelve_volt_strip_gets_a_supply_of_its_own(page: Page, server: str) -> None:
    start(page, server, "A 5 V strip")
    press(page, "White strip, 12 V")
    verdict(page, "stop", "is made for 10.8 V to 12.6 V and its rail gives 5.00 V")
    page.get_by_role("button", name="Give it a wall adapter, 12 V 2 A of its own").click()
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("is made for")
    expect(page.get_by_label("The line, thumb to lamp")).to_contain_text("Supply of Strip")
    fill(page, "Length", "2.5")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("1 A")


def press(page: Page, option: str) -> None:
    page.get_by_role("button", name=option).first.click()


def test_a_knob_is_added_wired_to_five_volts_and_taken_out(page: Page, server: str) -> None:
    """A knob wired to 5 V into the converter of a 3.3 V board."""
    start(page, server, "A red LED")
    go(page, "Pins")
    press(page, "Wi-Fi board, 3.3 V")
    page.get_by_role("button", name="Add a knob").click()
    go(page, "Knob")
    page.get_by_role("group", name="Its upper end stands at").get_by_role("button", name="USB port").click()
    verdict(page, "stop", "gets 5.00 V and may have")
    page.get_by_role("button", name="Take Knob out").click()
    expect(page.get_by_label("The line, thumb to lamp")).not_to_contain_text("Knob")


def test_another_lamp_of_any_kind_is_added_at_the_pins(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    go(page, "Pins")
    for what, name in (("Add a buzzer", "Buzzer"), ("Add clocked pixels", "Pixels"), ("Add an infra-red LED", "Lamp 2")):
        page.get_by_role("button", name=what).click()
        expect(page.get_by_label("The line, thumb to lamp")).to_contain_text(name)
    verdict(page, "look", "do not stare into it")


def test_a_key_pin_is_wired_to_the_board_and_judged_at_the_hook_up(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    go(page, "Module")
    press(page, "A pin of the board")
    go(page, "Hook-up")
    key = page.get_by_role("region", name="Board to the key pin")
    key.get_by_role("button", name="Straight wire").click()
    verdict(page, "stop", "The module's key pin gets 5.00 V and may have 3.60 V.")
    key.get_by_role("button", name="Two resistors").click()
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("key pin")


def test_twenty_four_leds_from_nothing_ask_too_much_of_the_chip(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    fill(page, "Side by side", "24")
    verdict(page, "stop", "All pins of the board carry 480 mA")


def test_pixels_from_nothing_on_a_3v3_board_do_not_hear_and_a_shifter_is_too_slow(page: Page, server: str) -> None:
    project = httpx.post(f"{server}/api/projects", json={"start": "empty"}).json()["id"]
    page.goto(f"/projects/{project}")
    press(page, "Wi-Fi board, 3.3 V")
    press(page, "One-wire pixels")
    fill(page, "Pixels", "24")
    verdict(page, "stop", "its data line gives 3.30 V: -0.20 V")
    page.get_by_role("region", name="Data line").get_by_role("button", name="One MOSFET, two pull-ups").click()
    verdict(page, "stop", "its data needs edges under 100 ns")
