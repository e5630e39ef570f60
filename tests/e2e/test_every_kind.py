"""Every kind of lamp and input can be had from nothing by pressing, never by writing a file."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.e2e.desk import fill, go, pick, press, start, verdict, whole_line

pytestmark = pytest.mark.e2e


@pytest.mark.parametrize(
    ("what", "sentence"),
    [
        ("One-wire pixels", "Pixel chain takes 480 mA when every pixel is white"),
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


def test_pixels_are_counted_in_place_and_told_their_order(page: Page, server: str) -> None:
    start(page, server, "One-wire pixels")
    fill(page, "Pixels", "60")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("3.6 A")
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("order")
    pick(page, "Order a test showed", "Blue, green, red")
    verdict(page, "look", "Pixel chain")
    pick(page, "Order a test showed", "Green, red, blue")
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("order")
    fill(page, "Pixels", "none")
    expect(page.get_by_role("alert")).to_be_visible()


def test_a_twelve_volt_strip_gets_a_supply_of_its_own(page: Page, server: str) -> None:
    start(page, server, "A 5 V strip")
    press(page, "White strip, 12 V")
    verdict(page, "stop", "is made for 10.8 V to 12.6 V; its rail gives 5.00 V")
    page.get_by_role("button", name="Give it a wall adapter, 12 V 2 A of its own").click()
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("is made for")
    with whole_line(page) as line:
        expect(line).to_contain_text("Supply of Strip")
    fill(page, "Length", "2.5")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("1 A")


def test_a_remote_receiver_is_added_and_judged(page: Page, server: str) -> None:
    start(page, server, "A red LED", board="Wi-Fi board, 3.3 V")
    go(page, "Pins")
    press(page, "Add a remote receiver")
    go(page, "Remote receiver")
    page.get_by_role("group", name="Its upper end stands at").get_by_role("button", name="USB port").click()
    verdict(page, "stop", "The board's pin of Remote receiver gets 5.00 V; it stands 3.60 V at most.")


def test_another_lamp_of_any_kind_is_added_at_the_pins(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    go(page, "Pins")
    for what, name in (("Add a buzzer", "Buzzer"), ("Add clocked pixels", "Pixel chain"), ("Add an infra-red LED", "Lamp 2")):
        page.get_by_role("button", name=what).click()
        expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile(f"^{what}"))
        with whole_line(page) as line:
            expect(line).to_contain_text(name)
    verdict(page, "look", "do not stare into it")


def test_a_key_pin_is_wired_to_the_board_and_judged_at_the_hook_up(page: Page, server: str) -> None:
    start(page, server, "A red LED")
    go(page, "Module")
    press(page, "A pin of the board")
    go(page, "Hook-up")
    key = page.get_by_role("region", name="Board to the key pin")
    key.get_by_role("button", name="Straight wire").click()
    verdict(page, "stop", "The module's key pin gets 5.00 V; it stands 3.60 V at most.")
    key.get_by_role("button", name="Two resistors").click()
    expect(page.get_by_label("Verdicts", exact=True)).not_to_contain_text("key pin")
