"""The wiring list made wire by wire, by keyboard; moved by an edit; taken along, printed and on a phone."""

import csv
import io
import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from oddlamp.catalog.load import demo_plan
from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.conftest import CALL
from tests.e2e.test_access import violations
from tests.full import some

pytestmark = pytest.mark.e2e
Open = Callable[[dict[str, object]], None]


def test_wires_are_ticked_by_keyboard_undone_and_told_when_the_plan_moves_one(page: Page, open_plan: Open, server: str) -> None:
    open_plan(CLEAR)
    page.keyboard.press("n")
    expect(page).to_have_url(re.compile("/bench$"))
    heading = page.get_by_role("article").get_by_role("heading", level=2)
    expect(heading).to_have_text(re.compile(r"^\d+ wires, power off, ground first\.$"))
    assert violations(page) == []
    knots = page.get_by_role("checkbox")
    count = knots.count()
    knots.first.focus()
    page.keyboard.press("Space")
    expect(heading).to_have_text(re.compile(rf"^Wire 2 of {count}: "))
    page.keyboard.press("ArrowDown")
    expect(knots.nth(1)).to_be_focused()
    page.keyboard.press("Space")
    expect(heading).to_have_text(re.compile(rf"^Wire 3 of {count}: "))
    page.keyboard.press("Control+z")
    expect(heading).to_have_text(re.compile(rf"^Wire 2 of {count}: "))
    lamp = page.get_by_role("checkbox", name=re.compile("^Board, pin .*Lamp, anode: "))
    lamp.press("Space")
    expect(lamp).to_be_checked()
    project = page.url.split("/projects/")[1].partition("/")[0]
    state = CALL.get(f"{server}/api/projects/{project}").json()
    edit = {"base_revision": state["revision"], "patch": {"signals": {"lamp.main": {"pin": "6"}}}, "summary": "moved"}
    CALL.post(f"{server}/api/projects/{project}/edits", json=edit).raise_for_status()
    page.reload()
    expect(heading).to_have_text("1 wire is not where the plan has it now.")
    expect(page.get_by_text(re.compile("moved; it was Board, pin "))).to_be_visible()


def test_what_is_counted_folds_into_one_row_and_a_length_is_told_in_place(page: Page, open_plan: Open) -> None:
    open_plan(demo_plan())
    page.get_by_role("banner").get_by_role("button", name="At the bench").click()
    fold = page.get_by_role("button", name="and 5 more like it").first
    fold.wait_for()
    before = page.get_by_role("checkbox").count()
    fold.press("Enter")
    expect(page.get_by_role("checkbox")).to_have_count(before + 5)
    page.get_by_role("checkbox", name=re.compile("^Board, pin 9")).focus()
    length = page.get_by_label("Length", exact=True)
    length.fill("35 cm")
    length.press("Enter")
    expect(length).to_have_value("35 cm")
    expect(page.get_by_role("cell", name="19.5 cm").first).to_be_visible()


def test_lists_are_taken_along(page: Page, open_plan: Open) -> None:
    open_plan(merge_patch(CLEAR, {"title": "A =list"}))
    page.goto(f"{page.url.partition('?')[0]}/bench")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Wiring list as a table").click()
    rows = list(csv.DictReader(io.StringIO(taken.value.path().read_text(encoding="utf-8"))))
    assert len(rows) == page.get_by_role("checkbox").count()
    assert rows[0]["Order"] == "1 ground"
    with page.expect_download() as drawn:
        page.get_by_role("link", name="Drawing").click()
    assert "<script" not in drawn.value.path().read_text(encoding="utf-8")


@pytest.mark.parametrize("width", some([320, 375, 720], 3))
def test_nothing_scrolls_sideways_and_axe_finds_nothing(page: Page, open_plan: Open, width: int) -> None:
    page.emulate_media(color_scheme="dark" if width == 375 else "light")
    page.set_viewport_size({"width": width, "height": 700})
    open_plan(demo_plan())
    page.goto(f"{page.url.partition('?')[0]}/bench")
    page.get_by_role("checkbox").first.wait_for()
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    assert violations(page) == []


@pytest.mark.parametrize("size", ["A4", "Letter"])
def test_on_paper_all_of_it_is_there_and_nothing_to_press(page: Page, open_plan: Open, size: str) -> None:
    """Chromium prints it: every row is shown, no row is wider than the page, the phone and the bar are not there."""
    open_plan(demo_plan())
    page.goto(f"{page.url.partition('?')[0]}/bench")
    page.get_by_role("checkbox").first.wait_for()
    made = page.pdf(format=size)
    pages = len(re.findall(rb"/Type\s*/Page\b", made))
    assert 1 <= pages <= 5
    page.emulate_media(media="print")
    width = {"A4": 794, "Letter": 816}[size] - 76  # less its margins, at 96 to the inch
    page.set_viewport_size({"width": width, "height": 1000})
    # The drawing has a page of its own, turned: all else is no wider than this one.
    wide = page.evaluate(
        "[...document.querySelectorAll('article li, article table, article h2')].filter((it) => it.getBoundingClientRect().right > innerWidth).length"
    )
    assert wide == 0
    expect(page.get_by_role("link", name="Wiring list as a table")).to_be_hidden()


def test_lamps_are_laid_out_and_parts_are_told(page: Page, open_plan: Open) -> None:
    """The footlights along three metres by keyboard: their wires are as long as that takes; what is there and what it costs."""
    open_plan(demo_plan())
    page.goto(f"{page.url.partition('?')[0]}/bench")
    page.get_by_role("button", name="Lay out Footlights, 6 LEDs").press("Enter")
    room = page.get_by_label("Length of the run", exact=True)
    room.fill("3 m")
    room.press("Enter")
    expect(page.get_by_text("6 lamps, 500 mm from one to the next, the first 250 mm from the end")).to_be_visible()
    expect(page.get_by_role("cell", name="3.25 m").first).to_be_visible()
    page.get_by_role("button", name=re.compile("^Let the wires come in at its middle")).press("Enter")
    expect(page.get_by_role("cell", name="3.25 m")).to_have_count(0)
    has = page.get_by_label(re.compile("^How many there are: LED")).last
    has.fill("many")
    has.press("Enter")
    expect(page.get_by_text(re.compile("^Give "))).to_be_visible()
    has.fill("6")
    has.press("Enter")
    price = page.get_by_label(re.compile("^What one costs: classic serial module"))
    price.fill("3,50")
    price.press("Enter")
    expect(page.get_by_text(re.compile(r"pieces to buy, 3\.50 together and \d+ kinds without a price\."))).to_be_visible()
    page.get_by_text(re.compile("^Circuits, ")).click()
    picture = page.get_by_role("img", name="Circuit of Moon, red")
    expect(picture).to_be_visible()
    assert picture.evaluate("(it) => it.decode().then(() => it.naturalWidth > 50)")
    assert violations(page) == []


def test_a_room_says_how_many_pixels_fit_and_they_are_taken(page: Page, open_plan: Open) -> None:
    chain = {"kind": "pixels-one-wire", "label": "Chain", "host": "board", "layout": {"runs": [{"count": 60}]}}
    open_plan(merge_patch(CLEAR, {"lamps": {"chain": chain}}))
    page.goto(f"{page.url.partition('?')[0]}?stage=lamps.chain")
    page.get_by_text(re.compile("^Room: 16.7.mm from pixel to pixel")).click()
    room = page.get_by_label("Room along it", exact=True)
    room.fill("94 cm")
    room.press("Enter")
    expect(page.get_by_text("56 pixels fit: 933 mm; 6.67 mm left over.")).to_be_visible()
    page.get_by_role("button", name="Take 56 pixels").first.press("Enter")
    expect(page.get_by_text(re.compile("56 pixels, 933.mm long"))).to_be_visible()
    assert violations(page) == []
