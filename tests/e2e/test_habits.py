"""The habits of the desk in a real browser, by keyboard wherever a hand could use it: what if, history, shelf, conflict."""

import os
import re
import signal
from collections.abc import Callable
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from oddlamp.core.plan.document import Document, merge_patch
from tests.abuse.crowd import many_verdicts
from tests.builders import CLEAR, document, lamp
from tests.conftest import CALL, running_server, start_server
from tests.e2e.conftest import find, watch
from tests.e2e.desk import fill, go, more

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
FIELD = "Series resistor"
NARROW = {"width": 320, "height": 640}


def revisions(page: Page, server: str) -> list[str]:
    project = page.url.partition("/projects/")[2].partition("?")[0]
    return [it["summary"] for it in CALL.get(f"{server}/api/projects/{project}/history").json()]


def test_a_value_is_turned_by_arrows_and_kept_as_one_change(page: Page, open_plan: Open, server: str) -> None:
    open_plan(CLEAR)
    page.get_by_label(FIELD, exact=True).focus()
    for shown in ("68 Ω", "62 Ω", "56 Ω"):
        page.keyboard.press("ArrowDown")
        expect(page.get_by_label(FIELD, exact=True)).to_have_value(shown)
    expect(page.get_by_role("heading", name="17.3 mA flows through Lamp.")).to_be_visible()
    expect(page.get_by_text("only tried, not kept")).to_be_visible()
    assert revisions(page, server) == ["Read from a file"]
    page.keyboard.press("Enter")
    expect(page.get_by_text("change 1", exact=False)).to_be_visible()
    assert revisions(page, server) == ["Series resistor: 56", "Read from a file"]
    page.keyboard.press("ArrowUp")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("62 Ω")
    page.keyboard.press("Escape")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("56 Ω")
    assert len(revisions(page, server)) == 2


def test_what_if_shows_what_moves_and_keeps_it_only_when_asked(page: Page, open_plan: Open, server: str) -> None:
    open_plan(CLEAR)
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("w")
    trial = page.get_by_label("What if", exact=True)
    page.get_by_label(FIELD, exact=True).fill("47")
    page.keyboard.press("Enter")
    expect(trial.get_by_text("2 verdicts get worse", exact=False)).to_be_visible()
    expect(page.get_by_label("Verdicts", exact=True).get_by_text("By its resistor alone Lamp gets 29.8 mA")).to_be_visible()
    page.get_by_label("Wanted", exact=True).fill("10m")
    page.keyboard.press("Enter")
    expect(trial.get_by_text("Wanted: 10m", exact=False)).to_be_visible()
    assert revisions(page, server) == ["Read from a file"]
    trial.get_by_role("button", name="Let it go").press("Enter")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("75 Ω")
    page.get_by_role("button", name="What if").press("Enter")
    page.get_by_label(FIELD, exact=True).fill("82")
    page.keyboard.press("Enter")
    trial.get_by_role("button", name="Keep this change").press("Enter")
    expect(trial).to_have_count(0)
    expect(page.get_by_text("change 1", exact=False)).to_be_visible()
    assert revisions(page, server) == ["Series resistor: 82", "Read from a file"]


def test_what_if_refuses_at_the_field(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.get_by_role("button", name="What if").click()
    page.get_by_label(FIELD, exact=True).fill("9 V")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Give ohms, for example 220, 4k7, 4.7 kohm")


def test_history_is_compared_and_brought_back_by_keyboard(page: Page, open_plan: Open, server: str) -> None:
    open_plan(CLEAR)
    for value in ("47", "82"):
        page.get_by_label(FIELD, exact=True).fill(value)
        page.keyboard.press("Enter")
        expect(page.get_by_label(FIELD, exact=True)).to_have_value(f"{value} Ω")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("h")
    expect(page.get_by_role("heading", name="2 changes, none of them lost.")).to_be_visible()
    page.get_by_role("button", name="Compare change 1").press("Enter")
    moved = page.get_by_role("list", name="Verdicts that move")
    expect(moved.get_by_text("No longer: By its resistor alone Lamp gets 29.8 mA", exact=False)).to_be_visible()
    page.get_by_role("button", name="Bring back change 0").press("Enter")
    expect(page.get_by_role("heading", name="3 changes, none of them lost.")).to_be_visible()
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("h")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("75 Ω")
    assert revisions(page, server)[0] == "Back to change 0: Read from a file"


def test_two_windows_lose_neither_value(page: Page, open_plan: Open, browser: Browser, server: str) -> None:
    open_plan(CLEAR)
    other = browser.new_context(base_url=server).new_page()  # a context of its own: no channel between the two
    troubles = watch(other, server)
    other.goto(page.url)
    other.get_by_label(FIELD, exact=True).fill("82")
    other.keyboard.press("Enter")
    expect(other.get_by_label(FIELD, exact=True)).to_have_value("82 Ω")
    page.get_by_label("Wanted", exact=True).fill("19m")
    page.keyboard.press("Enter")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("82 Ω")  # both survive
    expect(page.get_by_label("Wanted", exact=True)).to_have_value("19 mA")
    page.get_by_label(FIELD, exact=True).fill("91")
    page.keyboard.press("Enter")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("91 Ω")
    other.get_by_label(FIELD, exact=True).fill("100")
    other.keyboard.press("Enter")
    conflict = other.get_by_role("dialog", name="Another window changed the same place")
    expect(conflict.get_by_role("row", name="Lamp, resistor 82 Ω 91 Ω 100 Ω")).to_be_visible()
    conflict.get_by_role("button", name="Put mine in its place").press("Enter")
    expect(other.get_by_label(FIELD, exact=True)).to_have_value("100 Ω")
    assert revisions(page, server)[:2] == ["Series resistor: 100", "Series resistor: 91"]
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("alert")).to_contain_text("Something else was kept here meanwhile")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("100 Ω")
    other.context.close()
    assert troubles == []


READING = re.compile(r"/api/projects/[0-9a-f]{12}(\?.*)?$")


def hold_readings(page: Page) -> list[Route]:
    """Keep what this page reads of its project on the way, until the test lets it go."""
    held: list[Route] = []
    page.route(READING, lambda route: held.append(route) if route.request.method == "GET" else route.fallback())
    return held


def elsewhere(url: str, patch: Document) -> None:
    """Change the project from outside the browser."""
    address = url.replace("/projects/", "/api/projects/").partition("?")[0]
    call = {"base_revision": CALL.get(address).json()["revision"], "patch": patch, "summary": "elsewhere"}
    assert CALL.post(f"{address}/edits", json=call).status_code == 200


def test_a_reading_that_comes_late_does_not_put_the_old_value_back(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    neighbour = page.context.new_page()
    neighbour.goto(page.url)
    held = hold_readings(page)
    neighbour.get_by_label("Wanted", exact=True).fill("19m")
    with page.expect_request(READING) as reading:
        neighbour.keyboard.press("Enter")
    before = CALL.get(reading.value.url).text
    page.get_by_label(FIELD, exact=True).fill("91")
    page.keyboard.press("Enter")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("91 Ω")
    with page.expect_response(READING) as late:
        held[0].fulfill(body=before, content_type="application/json")
    late.value.finished()
    page.evaluate("new Promise(requestAnimationFrame)")
    expect(page.get_by_label("Wanted", exact=True)).to_have_value("19 mA")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("91 Ω")
    elsewhere(page.url, lamp(tolerance_ratio=0.02))
    held[1].fallback()  # what was on its way is asked for again, since it may have told of more than this window's own change
    expect(page.get_by_label("Tolerance", exact=True)).to_have_value("2 %")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("91 Ω")


def test_what_is_kept_elsewhere_is_read_before_a_conflict_is_settled(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    elsewhere(page.url, lamp(resistor_ohm=82))
    held = hold_readings(page)
    page.get_by_label(FIELD, exact=True).fill("100")
    with page.expect_request(READING):
        page.keyboard.press("Enter")
    conflict = page.get_by_role("dialog", name="Another window changed the same place")
    expect(conflict).to_have_count(0)
    held[0].fallback()
    conflict.get_by_role("button", name="Put mine in its place").press("Enter")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("100 Ω")


def test_windows_of_one_browser_tell_each_other(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    other = page.context.new_page()
    other.goto(page.url)
    other.get_by_label(FIELD, exact=True).fill("82")
    other.keyboard.press("Enter")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("82 Ω")
    other.close()


def test_a_server_that_is_away_loses_nothing(browser: Browser, tmp_path: Path) -> None:
    process, address = start_server(tmp_path / "oddlamp.sqlite3")
    project = CALL.post(f"{address}/api/projects/import", json=CLEAR).json()["id"]
    context = browser.new_context(base_url=address)
    page = context.new_page()
    page.goto(f"/projects/{project}")
    page.get_by_label(FIELD, exact=True).wait_for()
    os.kill(process.pid, signal.SIGSTOP)  # away without a word; then gone
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    page.get_by_label(FIELD, exact=True).fill("82")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("The server does not answer")
    expect(page.get_by_text("the last change is not kept")).to_be_visible()
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("82")
    process, _ = start_server(tmp_path / "oddlamp.sqlite3", port=int(address.rpartition(":")[2]))
    expect(page.get_by_role("alert")).to_contain_text("The server answers again")
    page.get_by_role("button", name="Try that again").press("Enter")
    expect(page.get_by_text("change 1", exact=False)).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
    context.close()
    process.terminate()
    process.wait()


def test_the_shelf_by_keyboard(page: Page, open_plan: Open, server: str) -> None:
    open_plan({**CLEAR, "title": "Shelf one"})
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("s")
    mine = page.get_by_role("listitem").filter(has=page.get_by_role("link", name="Shelf one", exact=True))
    mine.get_by_role("button", name="Rename Shelf one").press("Enter")
    page.get_by_label("New name of Shelf one").fill("Shelf two")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Shelf two", exact=True)).to_be_visible()
    page.get_by_role("button", name="Put away Shelf two").press("Enter")
    away = page.get_by_label("Put away", exact=True)
    expect(away.get_by_role("link", name="Shelf two")).to_be_visible()
    away.get_by_role("button", name="Throw away Shelf two").press("Enter")
    expect(page.get_by_label("Thrown away, until you bring it back").get_by_role("link", name="Shelf two")).to_be_visible()
    page.get_by_role("button", name="Undo").press("Enter")
    expect(away.get_by_role("link", name="Shelf two")).to_be_visible()
    away.get_by_role("button", name="Bring back Shelf two").press("Enter")
    page.get_by_role("button", name="Copy Shelf two").press("Enter")
    expect(page.get_by_label("Name of the project")).to_have_value("Shelf two, copy")
    page.goto("/")
    expect(page.get_by_label("Name of the project")).to_have_value("Shelf two, copy")  # the last one opened
    page.goto("/shelf")
    page.get_by_label("Demos").get_by_role("button", name="Paper moon").press("Enter")
    expect(page.get_by_label("Name of the project")).to_have_value("Paper moon")


def test_the_finder_finds_stages_ways_out_and_actions(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, lamp(resistor_ohm=47)))
    page.get_by_label(FIELD, exact=True).focus()
    page.keyboard.press("Control+k")  # from a field too
    find(page, "fit 75")
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("75 Ω")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("/")
    find(page, "hook")
    expect(page.get_by_role("heading", name="3.24 V reaches the module. It can stand 3.60.")).to_be_visible()
    page.keyboard.press("/")
    find(page, "copy the answers")
    expect(page.get_by_label("Answers as text")).to_contain_text("14\u00a0mA flows through Lamp")
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    page.keyboard.type("zzzz")
    expect(page.get_by_text("Nothing here goes by that.")).to_be_visible()


def test_single_keys_act_only_outside_fields_and_can_be_switched_off(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.get_by_label("Name", exact=True).fill("w2h")
    assert page.get_by_label("What if", exact=True).count() == 0
    page.keyboard.press("Escape")
    page.get_by_role("heading", level=2).first.click()
    page.keyboard.press("?")
    page.get_by_label("Single keys do something outside fields").press("Space")
    page.keyboard.press("Escape")
    page.keyboard.press("w")
    page.keyboard.press("1")
    expect(page.get_by_role("heading", name="14 mA flows through Lamp.")).to_be_visible()
    assert page.get_by_label("What if", exact=True).count() == 0
    page.keyboard.press("Control+k")
    expect(page.get_by_role("dialog", name="Find")).to_be_visible()


def test_proposals_are_kept_in_one_go_and_a_built_lamp_stays(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, lamp(resistor_ohm=None)))
    expect(page.get_by_role("button", name="Series resistor: proposed, why?")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"Keep \d+ proposals")).press("Enter")
    expect(page.get_by_role("button", name="Series resistor: yours, why?")).to_be_visible()
    page.get_by_role("button", name="Lamp is built: let nothing move it").press("Enter")
    page.get_by_label(FIELD, exact=True).fill("100")
    page.keyboard.press("Enter")
    verdicts = page.get_by_label("Verdicts", exact=True)
    expect(verdicts.get_by_text("Lamp is built with 75 Ω. The plan now says 100 Ω; what is built stays.")).to_be_visible()
    expect(page.get_by_label(FIELD, exact=True)).to_have_value("75 Ω")
    verdicts.get_by_role("button", name="Keep 75 Ω").press("Enter")
    expect(verdicts.get_by_text("is built with")).to_have_count(0)


def test_every_number_can_be_asked_where_it_comes_from(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.get_by_text("numbers of this stage come from").click()
    expect(page.get_by_text("(5.00 V − 3.60 V) / 75 Ω = 18.7 mA")).to_be_visible()
    expect(page.get_by_text("lamp.main.current_a", exact=True)).to_be_visible()


def test_the_line_folds_in_a_narrow_window_and_nothing_scrolls_sideways(browser: Browser, server: str) -> None:
    context = browser.new_context(base_url=server, viewport=NARROW, reduced_motion="reduce")
    page = context.new_page()
    troubles = watch(page, server)
    for name in ("two-wings", "paper-moon", "foyer-star"):
        project = CALL.post(f"{server}/api/projects/import", json=document(name)).json()["id"]
        page.goto(f"/projects/{project}")
        page.get_by_role("heading", level=2).first.wait_for()
        opener = page.get_by_role("button", name="Open the line")
        stages = ("Words", "Hook-up", "Pins") if name != "foyer-star" else ("Words", "Pins")
        for stage in stages:
            opener.press("Enter")
            page.get_by_label("The line, thumb to lamp").get_by_role("listitem").get_by_role("button", name=stage).first.press(
                "Enter"
            )
            expect(opener).to_contain_text(stage)
            assert page.evaluate("document.documentElement.scrollWidth") <= NARROW["width"], f"{name}, {stage}"
        page.get_by_role("navigation", name="Views").get_by_role("button", name="Log", exact=True).click()
        page.get_by_role("heading", name="Nothing is written yet.").wait_for()
        assert page.evaluate("document.documentElement.scrollWidth") <= NARROW["width"]
        page.get_by_role("button", name="Compare changes").click()
        page.get_by_role("heading", name="Nothing has been changed yet.").wait_for()
        assert page.evaluate("document.documentElement.scrollWidth") <= NARROW["width"]
    page.goto("/shelf")
    page.get_by_role("button", name="New, empty").wait_for()
    assert page.evaluate("document.documentElement.scrollWidth") <= NARROW["width"]
    context.close()
    assert troubles == []


def test_what_is_printed_holds_the_sheet_and_no_controls(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.emulate_media(media="print")
    expect(page.get_by_role("heading", name="14 mA flows through Lamp.")).to_be_visible()
    expect(page.get_by_role("button", name="Undo")).to_be_hidden()
    expect(page.get_by_label("Phone", exact=True)).to_be_hidden()
    assert page.evaluate("getComputedStyle(document.body).backgroundColor") == "rgb(255, 255, 255)"


def test_a_phone_is_let_in_and_put_out_again(page: Page, open_plan: Open, browser: Browser, tmp_path: Path) -> None:
    open_plan(document("paper-moon"))
    more(page, "Open on a phone")
    expect(page.get_by_role("dialog", name="Open on a phone")).to_contain_text("oddlamp serve --lan")
    with running_server(tmp_path / "lan.sqlite3", lan=True) as address:
        ways = CALL.get(f"{address}/api/lan").json()["ways"]
        desk = browser.new_page(base_url=address)
        troubles = watch(desk, address)
        desk.goto("/")
        more(desk, "Open on a phone")
        window = desk.get_by_role("dialog", name="Open on a phone")
        if not ways:
            expect(window).to_contain_text("on no network now")
        for way in ways:
            expect(window.get_by_role("img", name=f"QR code of {way['address']}")).to_be_visible()
        window.get_by_role("button", name="Make a new token").press("Enter")
        expect(window.get_by_role("status")).to_contain_text("phones with the old one are out")
        for way in ways:
            expect(window.get_by_text(way["address"])).to_have_count(0)
        desk.close()
        assert troubles == []


def test_of_many_verdicts_the_first_are_shown_and_the_rest_when_asked(page: Page, open_plan: Open) -> None:
    open_plan(many_verdicts(60))
    verdicts = page.get_by_label("Verdicts").locator("> ul > li")
    expect(verdicts).to_have_count(30)
    page.get_by_role("button", name=re.compile(r"^Show 7\d more")).press("Enter")
    expect(verdicts.nth(99)).to_be_visible()
    last = verdicts.last
    last.get_by_role("button", name="Ways out and working").press("Enter")
    expect(last.get_by_role("button", name="Hide working")).to_be_visible()
    expect(last.get_by_role("button", name="Let the phone add nothing")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile(r"^Show 7\d more"))).to_have_count(0)


def test_a_verdict_of_what_is_only_tried_tells_its_ways_out(page: Page, open_plan: Open) -> None:
    open_plan(CLEAR)
    page.keyboard.press("w")
    fill(page, "Series resistor", "47")
    go(page, "Hook-up")
    expect(page.get_by_role("button", name=re.compile("^Fit 75"))).to_be_visible()
