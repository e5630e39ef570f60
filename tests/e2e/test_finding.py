"""When it does not work, on a phone beside the iron: from what is seen to what is mended; and three rounds of the practice bench."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.catalog.knowledge import load_knowledge
from oddlamp.catalog.load import load_catalog, start_data
from oddlamp.core.finding.build import Build
from oddlamp.core.finding.observe import TESTS
from oddlamp.core.finding.practice import round_of
from oddlamp.core.finding.symptoms import symptoms_of
from oddlamp.core.finding.table import BROKEN
from oddlamp.core.finding.way import ways_of
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from tests.builders import EMPTY
from tests.e2e.test_access import violations

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]
KNOWN, PLAN = load_knowledge(), start_data("01-one-lamp")["plan"]
WAYS = ways_of(resolve(load_plan(PLAN), load_catalog()))
PHONE, ANSWERS_MOST = {"width": 375, "height": 740}, 12


def go(page: Page, view: str) -> None:
    page.goto(f"{page.url.partition('?')[0].rstrip('/')}/{view}")


@pytest.mark.parametrize("planted", ["serial-swapped"])
def test_a_planted_fault_is_found_and_its_path_kept(page: Page, open_plan: Open, planted: str) -> None:
    page.set_viewport_size(PHONE)  # type: ignore[arg-type]
    open_plan(PLAN)
    broken = BROKEN[planted](WAYS[0])
    assert broken is not None
    build = Build(WAYS[0], broken)
    assert "links-nothing" in symptoms_of(build)
    by_do = {it.do: it for it in KNOWN.tests}
    go(page, "why")
    assert violations(page) == []
    page.get_by_role("button", name=KNOWN.symptom["links-nothing"].words).click()
    mending = page.get_by_role("heading", name=KNOWN.cause[planted].what)
    for answered in range(ANSWERS_MOST):
        question = page.locator("#question")
        question.or_(mending).first.wait_for()
        if mending.count():
            break
        test = (
            by_do[question.inner_text()]
            if question.inner_text() in by_do
            else next(it for it in KNOWN.tests if it.id == "board-volts")
        )
        words = test.outcomes[TESTS[test.id].shows(build)] if test.id in TESTS else test.outcomes[test.usual]
        page.locator("[data-answers] button").filter(has_text=re.compile(f"^{re.escape(words[0].upper() + words[1:])}")).click()
        expect(page.get_by_label("What was found:")).to_have_count(answered + 1)
    expect(mending).to_be_visible()
    assert violations(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    # What was mended is as it was: it asks on, and that is taken back; then it was that.
    page.get_by_role("button", name="Mended, and it is as it was").click()
    expect(mending).to_have_count(0)
    page.get_by_role("button", name="Take back").last.click()
    page.get_by_role("button", name="Mended, and it works now").click()
    expect(page.get_by_text("It was", exact=True)).to_be_visible()
    expect(mending).to_be_focused()
    assert violations(page) == []
    page.get_by_role("button", name="Keep this path in the log").click()
    expect(page.get_by_text("It stands in the log.")).to_be_visible()
    # An answer is changed, and it is open again what it is; over a reload too.
    page.get_by_role("button", name="Take back").last.click()
    page.get_by_label("What was found:").last.select_option(label="can't say")
    expect(mending).to_have_count(0)
    page.reload()
    expect(page.get_by_label("What was found:").last.locator("option:checked")).to_have_text("can't say")
    go(page, "../log")
    expect(page.get_by_text(KNOWN.cause[planted].what).first).to_be_visible()


def test_three_rounds_are_played(page: Page, open_plan: Open) -> None:
    page.set_viewport_size(PHONE)  # type: ignore[arg-type]
    open_plan(PLAN)
    go(page, "practice")
    page.get_by_label("Round").fill("1")
    page.get_by_role("button", name="Break it").click()
    for seed in (1, 2, 3):
        made = round_of(WAYS, KNOWN, 1, seed)
        pins = page.locator("section[aria-labelledby=meter] li button")
        pins.nth(0).click()
        pins.nth(1).click()
        page.get_by_role("button", name="Measure").click()
        expect(page.get_by_role("heading", name="What was found")).to_be_visible()
        page.get_by_role("button", name=re.compile("^" + re.escape(KNOWN.test["board-light"].do))).click()
        expect(page.get_by_text("1.5 minutes")).to_be_visible()
        if seed == 1:
            page.evaluate("document.querySelectorAll('details').forEach((it) => (it.open = true))")
            assert violations(page) == []
            page.reload()
            expect(page.get_by_text("1.5 minutes")).to_be_visible()
            other = next(it for it in made.choices if it not in made.causes)
            _mend(page, other)
            expect(page.get_by_text("Nothing changes: that was whole").first).to_be_visible()
        _mend(page, made.causes[0])
        expect(page.get_by_text(re.compile("^Found and mended"))).to_be_visible()
        expect(page.get_by_text(KNOWN.cause[made.causes[0]].what, exact=True).first).to_be_visible()
        if seed == 1:
            assert violations(page) == []
            assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
        page.get_by_role("button", name="Next round").click()
        expect(page.get_by_text("0 minutes")).to_be_visible()


def _mend(page: Page, cause: str) -> None:
    page.evaluate("document.querySelectorAll('details').forEach((it) => (it.open = true))")
    page.get_by_role("radio", name=KNOWN.cause[cause].what, exact=True).check()
    page.get_by_role("button", name="Mend it").click()


def test_a_plan_with_nothing_to_break_says_so_and_another_is_taken(page: Page, open_plan: Open) -> None:
    open_plan(EMPTY)
    go(page, "practice")
    page.get_by_role("button", name="Break it").click()
    expect(page.get_by_role("alert")).to_contain_text("no lamp can be followed")
    page.get_by_label("Which build").select_option("01-one-lamp")
    page.get_by_role("button", name="Break it").click()
    page.get_by_role("button", name="Measure").wait_for()
    go(page, "../why")
    expect(page.get_by_role("heading", name="Nothing can be followed yet.")).to_be_visible()


def test_a_search_of_a_lamp_that_is_gone_begins_anew(page: Page, open_plan: Open) -> None:
    open_plan(PLAN)
    project = page.url.partition("/projects/")[2].partition("?")[0].strip("/")
    stale = '{"lamp": "gone", "symptom": "dark", "answers": [], "lacking": []}'
    page.evaluate("([key, text]) => localStorage.setItem(key, text)", [f"oddlamp-why:{project}", stale])
    go(page, "why")
    expect(page.get_by_role("alert")).to_contain_text("lamp")
    page.get_by_role("button", name="Begin anew").click()
    page.get_by_role("heading", name="What do you see?").wait_for()


def test_it_is_searched_by_keyboard_alone(page: Page, open_plan: Open) -> None:
    open_plan(PLAN)
    page.keyboard.press("f")
    page.get_by_role("heading", name="What do you see?").wait_for()
    page.get_by_role("button", name=KNOWN.symptom["dark"].words).press("Enter")
    question = page.locator("#question")
    before = question.inner_text()
    page.locator("[data-answers] button").first.press("Enter")
    expect(question).not_to_have_text(before)
    expect(question).to_be_focused()
    page.keyboard.press("y")
    page.get_by_role("heading", name="Something is broken. Find it.").wait_for()
