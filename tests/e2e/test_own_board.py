"""A board of one's own, typed in from a printed pin table, saved, taken in elsewhere, and used, as a new user would."""

import json
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from oddlamp.catalog.load import load_catalog
from tests.builders import CLEAR
from tests.conftest import CALL
from tests.core.test_own_board import with_pin
from tests.e2e.desk import Hands, go, pick

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
# The Wi-Fi and BLE board of the catalogue, as its pin table is printed: what is typed must give its very pins.
TABLE = (
    ("Along the upper edge", "36 39 34 35 32 33 25-27 14 12 13 9-11"),
    ("Along the lower edge", "23 22 1 3 21 19 18 5 17 16 4 0 2 15 8-6"),
    ("The chip's own numbers", "as printed"),
    ("Dim (PWM)", "all but 34-36 39 6-11"),
    ("Read volts", "36 39 34 35 32 33 25-27 14 12 13 4 0 2 15"),
    ("Converters of those", "1: 36 39 34 35 32 33; 2: 25-27 14 12 13 4 0 2 15"),
    ("Make volts", "25 26"),
    ("Serial ports", "0: 3/1; 2: 16/17"),
    ("Wake the program", "all but 6-11"),
    ("Two-wire", "21/22"),
    ("SPI", "23/19/18"),
    ("Inputs only", "34-36 39"),
    ("Taken on the board", "memory: 6-11; upload: 1 3"),
    ("Resistors on the board", "down 45k: 12 2; up 45k: 5 0 15"),
    ("Read at start-up", "low: 12 2; high: 5 0 15"),
    ("Of those, only a nuisance", "5 2 15"),
    ("Moved by the chip itself", "pulses: 14 6-11 5 0 15; talks: 1"),
)


def test_a_board_is_typed_in_under_five_minutes_and_dropped_into_a_plan(page: Page, open_plan: Open, server: str) -> None:
    open_plan(CLEAR)
    hands = Hands(page)
    page.get_by_role("heading", level=2).first.click()
    hands.press("m")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("No parts of your own")
    hands.point("combobox", "Like")
    hands.point("option", "Wi-Fi board, 3.3 V")
    hands.point("link", "Its pins, a column at a time")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("12 pins")
    hands.point("button", "Begin with no pins")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("No pins yet")
    hands.point("textbox", "Name")
    hands.type("Stage board")
    for label, typed in TABLE:
        hands.to(label)
        hands.type(typed)
    hands.press("Tab")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("32 pins: 22 dim and 16 read volts; 2 serial ports")
    expect(page.get_by_text(f"change {3 + len(TABLE)}")).to_be_visible()  # copied, emptied, named, and each column is kept
    print(f"{hands.presses} presses, {hands.pointings} pointings: {hands.takes_s:.0f} s")
    project = page.url.partition("/projects/")[2].partition("?")[0]
    made = CALL.get(f"{server}/api/projects/{project}/plan").json()["parts"]
    told = CALL.get(f"{server}/api/projects/{project}/board-file", params={"part": next(iter(made)), "form": "json"}).json()
    shipped = load_catalog().boards["board-wifi-ble"]
    pins = {it["label"]: it for it in told["pins"]}
    assert [it.label for it in shipped.pins] == list(pins)
    for pin in shipped.pins:
        mine = type(pin).model_validate(pins[pin.label])
        assert mine.abilities == pin.abilities, pin.label
        assert mine.model_dump(exclude={"can", "source"}) == pin.model_dump(exclude={"can", "source"})
        assert mine.source == "own"
    go(page, "Pins")
    hands.point("combobox", "Board")
    hands.point("option", "Stage board")
    expect(page.get_by_role("link", name="Its pin table")).to_be_visible()
    expect(page.get_by_role("heading", level=2).first).to_contain_text("All 3 lines have a pin")
    assert hands.takes_s < 300


def test_a_board_goes_as_a_file_from_one_project_to_another(page: Page, open_plan: Open, tmp_path: Path) -> None:
    open_plan(CLEAR)
    go(page, "Pins")
    page.get_by_role("button", name="Keep these figures as a part of mine").click()
    page.get_by_role("link", name="Its pin table").click()
    saved = {}
    for form in ("TOML", "JSON"):
        with page.expect_download() as download:
            page.get_by_role("link", name=f"Save it as {form}").click()
        saved[form] = tmp_path / download.value.suggested_filename
        download.value.save_as(saved[form])
    bad = tmp_path / "bad.json"
    bad.write_text(with_pin(label="1"), encoding="utf-8")
    open_plan(CLEAR)
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("m")
    page.get_by_label("Board file").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("bad.json, pins: given '1', allowed: each label once")
    expect(page.get_by_role("heading", level=2).first).to_contain_text("No parts of your own")
    for count, file in enumerate(saved.values(), start=1):
        page.get_by_label("Board file").set_input_files(file)
        expect(page.get_by_role("heading", level=2).first).to_contain_text(f"{count} part")
    assert json.loads(saved["JSON"].read_text(encoding="utf-8"))["pins"][3]["timer"] == "2"
    go(page, "Pins")
    pick(page, "Board", "My 5 V 8-bit board, 20 I/O")
    expect(page.get_by_role("link", name="Its pin table")).to_be_visible()


def test_a_column_that_cannot_be_is_told_at_its_field(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    go(page, "Pins")
    page.get_by_role("button", name="Keep these figures as a part of mine").click()
    page.get_by_role("link", name="Its pin table").click()
    field = page.get_by_role("textbox", name="Dim (PWM)", exact=True)
    field.fill("3 99")
    expect(page.get_by_text("such as 3 5 6 9-11, all, or all but 4 5").first).to_be_visible()
    field.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("Give pins of its edges: 0-13 A0-A5; not 99.")
    field.press("Escape")
    expect(field).to_have_value("3 5 6 9-11")
