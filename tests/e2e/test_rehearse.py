"""The rehearsal over time in a browser: composed, rehearsed, troubled and mended as a new user would, and kept as takes."""

import json
import re
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR, document
from tests.conftest import CALL
from tests.e2e.desk import Hands, go
from tests.e2e.test_access import violations
from tests.full import some

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
TIME = "Time: arrows step from one thing to the next, + and - zoom"


def test_a_fade_a_knob_and_a_lost_link_rehearsed_troubled_and_mended(page: Page, server: str) -> None:
    """From the demo: what it takes is counted; two minutes are given."""
    page.emulate_media(reduced_motion="reduce")
    project = CALL.post(f"{server}/api/projects/import", json=document("footlights")).json()["id"]
    page.goto(f"/projects/{project}?stage=rules.board")
    hands = Hands(page)
    hands.at(page.get_by_text("When Moon off is heard: Moon off"))
    hands.at(page.get_by_label("fades over", exact=True))
    hands.type("0.8 s")
    hands.press("Enter")
    expect(page.get_by_text("When Moon off is heard: Moon off over 800")).to_be_visible()
    hands.at(page.get_by_role("group", name="When the link is lost").get_by_role("button", name="Off"))
    blind = page.get_by_label("Verdicts", exact=True).get_by_text("Nothing tells the board that the link is lost")
    expect(blind).to_be_visible()
    hands.at(page.get_by_label("Verdicts", exact=True).get_by_role("button", name="Wire the state pin of the module"))
    expect(blind).to_be_hidden()
    line = page.get_by_label("The line, thumb to lamp")
    hands.at(line.get_by_role("button", name="Pins").first)
    hands.point("button", "Add a knob")
    expect(page.get_by_role("status").first).to_have_text(re.compile("change 4$"))  # the line folds anew with it
    hands.at(line.get_by_role("button", name="Open the line"))
    hands.at(line.get_by_role("button", name="Knob").first)
    hands.at(page.get_by_role("combobox", name="Turned, it"))
    hands.at(page.get_by_role("option", name="Moon as bright as it is turned"))
    hands.point("button", "Rehearse")
    phone = page.get_by_label("Phone", exact=True)
    hands.at(phone.get_by_role("button", name="Moon", exact=True))
    answer = page.get_by_role("heading", level=2).first
    expect(answer).to_contain_text("none is lost")
    hands.at(page.get_by_text("Put a trouble in"))
    hands.point("button", "are swapped")
    hands.at(phone.get_by_role("button", name="Dusk", exact=True))
    expect(answer).to_contain_text("1 is lost: RX and TX are swapped")
    expect(phone.get_by_role("status")).to_contain_text("Lost at the hook-up")
    hands.point("button", "are right again: wires swapped")
    hands.at(phone.get_by_role("button", name="Dusk", exact=True))
    expect(phone.get_by_role("status")).to_contain_text("Reached Moon")
    hands.point("button", "is lost")
    expect(page.get_by_label("What was done")).to_contain_text("the link is lost")
    print(f"{hands.presses} presses, {hands.pointings} pointings: {hands.takes_s:.0f} s")
    assert hands.takes_s < 120


def moved(page: Page) -> float:
    return float(page.get_by_role("slider", name=TIME).get_attribute("aria-valuenow") or 0)


def test_time_is_walked_by_keyboard_from_byte_to_byte(page: Page, open_plan: Open) -> None:
    open_plan(document("paper-moon"))
    page.get_by_role("button", name="Rehearse").press("Enter")
    phone = page.get_by_label("Phone", exact=True)
    phone.get_by_role("button", name="Moon", exact=True).press("Enter")
    time = page.get_by_role("slider", name=TIME)
    expect(page.get_by_role("heading", level=2).first).to_contain_text("message")  # what was pressed is laid out
    time.focus()
    places = []
    for _ in range(6):
        page.keyboard.press("ArrowRight")
        places.append(moved(page))
    assert places == sorted(places)
    assert places[-1] > places[0]
    reading = page.get_by_role("status").filter(has_text="s,")
    expect(reading.first).to_be_visible()
    page.keyboard.press("+")
    expect(page.get_by_role("button", name="All of it", exact=True)).to_be_enabled()
    page.keyboard.press("-")
    expect(page.get_by_role("button", name="All of it", exact=True)).to_be_disabled()
    page.keyboard.press("Home")
    assert moved(page) == 0


def test_a_take_is_kept_compared_after_a_change_and_brought_back_as_a_file(page: Page, server: str, tmp_path: Path) -> None:
    project = CALL.post(f"{server}/api/projects/import", json=document("footlights")).json()
    page.goto(f"/projects/{project['id']}/rehearse")
    phone = page.get_by_label("Phone", exact=True)
    moon = phone.get_by_role("button", name="Moon", exact=True)
    moon.click()
    expect(phone.get_by_role("status")).to_contain_text("Reached")
    moon.click()
    expect(page.get_by_label("What was done")).to_contain_text("Moon switched off")
    page.get_by_label("Keep this as").fill("First night")
    page.get_by_role("button", name="Keep the take").click()
    takes = page.get_by_label("Takes")
    expect(takes).to_contain_text("First night")
    patch = {"rules": {"when_moon_off": {"do": [{"verb": "off", "target": "moon", "values": {"over_s": 0.4}}]}}}
    body = {"patch": patch, "base_revision": project["revision"], "summary": "slowly"}
    assert CALL.post(f"{server}/api/projects/{project['id']}/edits", json=body).status_code == 200
    page.reload()
    takes.get_by_role("button", name="then and now").click()
    expect(takes).to_contain_text("Moon ends 400")
    with page.expect_download() as taken:
        takes.get_by_role("link", name="take away as a file").click()
    file = tmp_path / "take.json"
    taken.value.save_as(file)
    assert json.loads(file.read_text())["name"] == "First night"
    takes.get_by_role("button", name="throw away").click()
    expect(page.get_by_label("Takes")).to_contain_text("is thrown away")
    takes.get_by_role("button", name="Put it back").click()
    page.get_by_label("Read a take from a file").set_input_files(file)
    expect(takes.get_by_role("listitem")).to_have_count(2)
    takes.get_by_role("button", name="play again").first.click()
    expect(page.get_by_label("What was done").get_by_role("listitem")).to_have_count(2)
    page.get_by_role("button", name="Take out: Moon switched off").click()
    expect(page.get_by_label("What was done").get_by_role("listitem")).to_have_count(1)


SIDES = [(*size, scheme) for scheme in ("light", "dark") for size in ((1280, 800), (720, 900), (375, 800))]


@pytest.mark.parametrize(("width", "height", "scheme"), some(SIDES, 5))
def test_the_rehearsal_has_no_violation_and_nothing_scrolls_sideways(
    page: Page, open_plan: Open, width: int, height: int, scheme: str
) -> None:
    page.set_viewport_size({"width": width, "height": height})
    page.emulate_media(color_scheme="dark" if scheme == "dark" else "light", reduced_motion="reduce")
    open_plan(document("paper-moon"))
    page.goto(page.url.partition("?")[0] + "/rehearse")
    page.get_by_label("Phone", exact=True).get_by_role("button", name="Moon", exact=True).click()
    page.get_by_role("slider", name=TIME).wait_for()
    page.get_by_text("Put a trouble in").click()
    assert violations(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")


def test_light_lives_on_the_line_after_the_message_has_run(page: Page, open_plan: Open) -> None:
    """A fade of two seconds: the lamp gets brighter on the phone page while nothing is pressed; 97 % is what its resistor leaves."""
    plan = document("smallest")
    slowly = {"host": "board", "when": {"heard": "on"}, "do": [{"verb": "on", "target": "lamp", "values": {"over_s": 2}}]}
    open_plan({**plan, "rules": {"r1": slowly}})
    page.goto(page.url.partition("?")[0] + "/phone")
    page.get_by_role("button", name="On", exact=True).click()
    lamps = page.get_by_label("Lamps")
    expect(lamps).not_to_contain_text("dark")
    expect(lamps).to_contain_text("97 %", timeout=10_000)


def test_a_knob_is_turned_and_a_cue_goes_on_by_itself(page: Page, open_plan: Open) -> None:
    plan = document("smallest")
    knob = {"kind": "knob", "label": "Dimmer", "host": "board"}
    blink = {"host": "board", "when": {"heard": "on"}, "do": [{"verb": "blink", "target": "lamp", "values": {"on_s": 0.3}}]}
    turned = {
        "host": "board",
        "when": {"input": "dimmer", "event": "moved"},
        "do": [{"verb": "level", "target": "lamp", "values": {"level": "input"}}],
    }
    open_plan({**plan, "inputs": {"dimmer": knob}, "rules": {"r1": blink, "r2": turned}})
    go(page, "Behaviour")
    page.goto(page.url.partition("?")[0] + "/phone")
    lamps = page.get_by_label("Lamps")
    page.get_by_role("slider", name="Turned, Dimmer").press("End")
    expect(lamps).to_contain_text("97 %")
    page.get_by_role("button", name="On", exact=True).click()
    for _ in range(2):
        expect(lamps).to_contain_text("dark")
        expect(lamps).to_contain_text("97 %")


def test_sensors_alike_a_mover_of_codes_and_silence_are_made_by_pressing(page: Page, open_plan: Open) -> None:
    """Twelve sensors that each light their own pixel, something that codes move, a keep-alive word: from a lamp and its board."""
    page.emulate_media(reduced_motion="reduce")
    chain = {"kind": "pixels-one-wire", "label": "Table", "host": "board", "layout": {"runs": [{"count": 12}]}}
    beam = {
        "kind": "led",
        "label": "Beam",
        "host": "board",
        "channels": {"main": {"led": {"part": "led-infra-red"}}},
        "sends": "codes",
    }
    board = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}}}}
    lamps = {"lamps": {"table": chain, "beam": beam}, "inputs": {"touch": {"kind": "sensor", "label": "Touch", "host": "board"}}}
    open_plan(merge_patch(merge_patch(CLEAR, board), lamps))
    line = page.get_by_label("The line, thumb to lamp")
    line.get_by_role("button", name="Touch").click()
    page.get_by_label("How many alike", exact=True).fill("12")
    page.get_by_label("How many alike", exact=True).press("Enter")
    expect(page.get_by_text("12 sensors, each by itself")).to_be_visible()
    page.get_by_role("combobox", name="Switched on, it").click()
    page.get_by_role("option", name="its own pixel of table red").click()
    phone = page.get_by_label("Phone", exact=True)
    phone.get_by_role("button", name="Phone").click()
    phone.get_by_role("button", name="Touch 7").click()
    expect(phone.get_by_role("status")).to_contain_text("Reached Table")
    line.get_by_role("button", name="Behaviour").click()
    page.get_by_role("button", name="Let codes of Beam move something").click()
    expect(page.get_by_role("heading", name="Mover: codes of Beam, speeds 7 back to 7 ahead")).to_be_visible()
    page.get_by_role("button", name="Let the phone say Alive over and over, and silence tell").click()
    expect(page.get_by_role("heading", name="Alive keeps the link alive")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("heading", name="Alive keeps the link alive")).to_be_hidden()
