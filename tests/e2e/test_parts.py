"""Parts of the user's own, the drawer, ladders, tones and what clears a verdict, as a new user meets them."""

import json
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from oddlamp.catalog.load import DATA
from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR
from tests.conftest import CALL, running_server
from tests.core.test_moved import CHANGE, WHITE
from tests.e2e.conftest import watch
from tests.e2e.desk import fill, go, verdict

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
RED: Document = {"lamps": {"lamp": {"channels": {"main": {"led": {"part": "led-red", "overrides": None}, "resistor_ohm": None}}}}}
BELL: Document = {"lamps": {"bell": {"kind": "buzzer", "label": "Bell", "host": "board"}}}


def sheet_says(page: Page, text: str) -> None:
    expect(page.get_by_role("heading", level=2).first).to_contain_text(text)


def fill_box(page: Page, label: str, text: str) -> None:
    box = page.get_by_role("textbox", name=label, exact=True)
    box.fill(text)
    box.press("Enter")


def test_a_part_is_kept_as_mine_told_better_and_goes_with_the_file(page: Page, open_plan: Open) -> None:
    """Arithmetic: (5.00 - 1.7) V / 150 ohm is 22 mA; 25 ohm of the pin more leave 18.9 mA."""
    open_plan(merge_patch(CLEAR, RED))
    sheet_says(page, "17.1 mA flows")
    page.get_by_role("button", name="Keep these figures as a part of mine").click()
    expect(page.get_by_role("combobox", name="Colour")).to_contain_text("My red")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("m")
    sheet_says(page, "1 part of your own")
    fill(page, "Forward voltage", "1.7 V (1.6 to 1.8)")
    expect(page.get_by_label("Forward voltage", exact=True)).to_have_value("1.70 V (1.60 to 1.80 V)")
    fill(page, "Name", "Red from the tin")
    go(page, "Lamp")
    expect(page.get_by_role("combobox", name="Colour")).to_contain_text("Red from the tin")
    fill(page, "Series resistor", "150")
    sheet_says(page, "18.9 mA flows")
    with page.expect_download() as saved:
        page.get_by_role("button", name="More", exact=True).click()
        page.get_by_role("menuitem", name="Save this plan as a file").click()
    plan = json.loads(Path(saved.value.path()).read_text(encoding="utf-8"))
    assert plan["parts"]["own-led-red-1"]["figures"]["forward_voltage_v"] == {"value": 1.7, "least": 1.6, "most": 1.8}
    page.keyboard.press("Control+z")
    page.keyboard.press("m")
    page.get_by_role("button", name="Take Red from the tin out").click()
    sheet_says(page, "No parts of your own")


def test_a_figure_that_cannot_be_is_refused_at_its_field(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, RED))
    page.get_by_role("button", name="Keep these figures as a part of mine").click()
    expect(page.get_by_role("combobox", name="Colour")).to_contain_text("My red")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("m")
    sheet_says(page, "1 part of your own")
    for typed, told in (("900 kV", "at most 1000"), ("2.4 (2.5 to 2.6)", "in that order"), ("2 A", "volts")):
        fill(page, "Forward voltage", typed)
        expect(page.get_by_role("alert")).to_contain_text(told)
        page.get_by_label("Forward voltage", exact=True).press("Escape")


def test_the_drawer_is_filled_by_bands_and_offers_its_best(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, RED))
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("m")
    fill_box(page, "My drawer", "brown green brown gold, 1k, smd 471")
    shelf = page.get_by_role("list", name="Resistors to reach for")
    expect(shelf.get_by_role("listitem")).to_have_count(3)
    expect(shelf.get_by_role("img", name="Bands: yellow, violet, brown, gold")).to_be_visible()
    go(page, "Lamp")
    fill(page, "Series resistor", "1k")
    page.get_by_role("button", name="From my drawer: 150").click()
    expect(page.get_by_label("Series resistor", exact=True)).to_have_value("150 Ω")
    fill(page, "Series resistor", "yellow violet red gold")
    expect(page.get_by_label("Series resistor", exact=True)).to_have_value("4.7 kΩ")


def test_a_verdict_says_from_where_it_clears_and_takes_one_press(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {"lamps": {"lamp": {"channels": {"main": {"resistor_ohm": 47}}}}}))
    verdict(page, "look", "By its resistor alone Lamp gets 29.8 mA")
    page.get_by_role("button", name="Show working").first.click()
    page.get_by_role("button", name="from 75 Ω up", exact=True).first.click()
    expect(page.get_by_label("Series resistor", exact=True)).to_have_value("75 Ω")
    expect(page.get_by_label("Verdicts", exact=True)).to_contain_text("Nothing to settle")


def test_steps_even_to_the_eye_and_a_filmed_lamp(page: Page, open_plan: Open) -> None:
    dimmed = {
        "rules": {
            "r3": {
                "host": "board",
                "when": {"heard": "on"},
                "do": [{"verb": "level", "target": "lamp", "values": {"level": 0.5}}],
            }
        }
    }
    open_plan(merge_patch(CLEAR, dimmed))
    expect(page.get_by_role("img", name="Even to the eye: 3, 9, 20, 36, 60, 92, 135, 189, 255 of 255")).to_be_visible()
    fill(page, "Steps", "4")
    expect(page.get_by_role("img", name="Even in duty: 64, 128, 191, 255 of 255")).to_be_visible()
    page.get_by_role("button", name="Filmed").click()
    verdict(page, "look", "Lamp is dimmed by switching 977 Hz")
    fill(page, "Steps", "1000")
    expect(page.get_by_role("alert")).to_contain_text("64")


def test_a_bell_sounds_a_note(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, BELL))
    go(page, "Bell")
    fill_box(page, "Tone", "A4")
    expect(page.get_by_role("textbox", name="Tone", exact=True)).to_have_value("440 Hz")
    expect(page.get_by_text("nearest note A4")).to_be_visible()
    expect(page.get_by_text("1.136 ms").first).to_be_visible()
    fill_box(page, "Tone", "25 kHz")
    verdict(page, "stop", "cannot be heard there")


def test_numbers_moved_by_a_newer_catalogue_are_listed(browser: Browser, tmp_path: Path) -> None:
    parts = tmp_path / "parts"
    shutil.copytree(DATA, parts)
    (parts / "changes.toml").write_text(CHANGE, encoding="utf-8")
    (parts / "catalog.toml").write_text('version = "2027.2"\n', encoding="utf-8")
    with running_server(tmp_path / "moved.sqlite3", parts=parts) as address:
        plan = merge_patch(merge_patch(CLEAR, WHITE), {"catalog_version": "2026.12"})
        project = CALL.post(f"{address}/api/projects/import", json=plan).json()["id"]
        page = browser.new_context(base_url=address).new_page()
        troubles = watch(page, address)
        page.goto(f"/projects/{project}")
        news = page.get_by_role("region", name="Changed figures")
        expect(news).to_contain_text("White, forward voltage: 3.00 V is now 3.20 V")
        expect(news).to_contain_text("26.7 mA")
        news.get_by_role("button", name="Stay with 3.00 V for white").click()
        expect(news).to_be_hidden()
        expect(page.get_by_label("Forward voltage", exact=True)).to_have_value("3.00 V")
        page.context.close()
        assert troubles == []
