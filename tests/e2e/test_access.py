"""axe-core finds nothing on any screen, in both themes, wide and at 320 px."""

from pathlib import Path
from typing import Any, Literal

import pytest
from playwright.sync_api import Browser, Page

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.plan.document import load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.parts import own_patch
from oddlamp.sheets.review import review
from tests.builders import CLEAR, document
from tests.conftest import CALL
from tests.e2e.conftest import watch
from tests.full import IS_PROOF

pytestmark = pytest.mark.e2e
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
WIDE: Any = {"width": 1280, "height": 800}
NARROW: Any = {"width": 320, "height": 640}


def violations(page: Page) -> list[str]:
    """Run axe on the page as it stands; it goes in by evaluate, because the policy blocks a script tag."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    found: list[dict[str, Any]] = page.evaluate("axe.run(document, {resultTypes: ['violations']}).then((it) => it.violations)")
    return [f"{page.url} {it['id']}: {it['nodes'][0]['html'][:160]} {it['nodes'][0]['failureSummary'][:200]}" for it in found]


def owned_demo() -> Any:
    """The demo with a board of one's own in it."""
    plan, catalog = load_plan(demo_plan()), load_catalog()
    return merge_patch(demo_plan(), own_patch(resolve(plan, catalog), "boards", catalog.boards["board-wifi-ble"])[1])


def stages_of_the_demo() -> list[str]:
    """Every stage of the demo's line, and the board of one's own."""
    stages = list(review(load_plan(owned_demo()), load_catalog()).sheets)
    if IS_PROOF:
        return stages
    # Two of each kind: six lamps alike have the same sheet six times.
    kinds = [it.partition(".")[0] for it in stages]
    return [it for at, it in enumerate(stages) if kinds[:at].count(kinds[at]) < 2]


Theme = Literal["light", "dark"]
# Every theme and every width is looked at; each theme in each width in the proof.
SIDES: list[tuple[Any, Theme]] = [(WIDE, "light"), (NARROW, "dark")]
if IS_PROOF:
    SIDES += [(WIDE, "dark"), (NARROW, "light")]
STANDS = "([theme, width]) => document.documentElement.dataset.theme === theme && innerWidth === width"
SHARES = 4  # the walk in parts that run side by side
SCREENS: dict[str, tuple[str, ...]] = {  # what comes after the project's address, and the keys pressed there
    **{f"?stage={stage}": () for stage in stages_of_the_demo()},
    "/history": (),
    "/boards": (),
    "/program": (),
    "/bench": (),
    "/bring-up": (),
    "/module": (),
    "/log": (),
    "/why": (),
    "/practice": (),
    "?what-if": ("w",),
    "?keys": ("?",),
    "?find": ("/",),
    **dict.fromkeys(("foyer-star", "two-wings", "prompters-nudge", "empty", "shelf", "nobody"), ()),
}


@pytest.mark.parametrize("share", range(SHARES))
def test_no_screen_has_a_violation(browser: Browser, server: str, share: int) -> None:
    context = browser.new_context(base_url=server, reduced_motion="reduce")
    page = context.new_page()
    found = watch(page, server)

    def add(plan: Any) -> str:
        return f"/projects/{CALL.post(f'{server}/api/projects/import', json=plan).json()['id']}"

    empty = {key: CLEAR[key] for key in ("format", "schema_version", "title")}
    demo = add(owned_demo())
    for at, screen in list(enumerate(SCREENS))[share :: SHARES if IS_PROOF else 2 * SHARES]:
        page.set_viewport_size(WIDE)
        if screen in ("shelf", "nobody"):
            page.goto({"shelf": "/shelf", "nobody": "/projects/nobody"}[screen])
        elif screen[0] in "?/":
            page.goto(f"{demo}{screen}")
        else:
            page.goto(add(empty if screen == "empty" else document(screen)))
        page.get_by_role("heading").first.wait_for()
        page.evaluate("document.fonts.ready")
        for key in SCREENS[screen]:
            page.keyboard.press(key)
        page.evaluate("document.querySelectorAll('details').forEach((it) => (it.open = true))")
        for size, theme in (
            SIDES if IS_PROOF else SIDES[at // SHARES // 2 % 2 :][:1]
        ):  # one side of each here, the other of the next
            page.set_viewport_size(size)
            page.emulate_media(color_scheme=theme)
            # The page hears of both a frame later, and draws itself anew then.
            page.wait_for_function(STANDS, arg=[theme, size["width"]])
            page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
            found.extend(violations(page))
    assert found == []
    context.close()


def test_whatever_a_pointer_can_press_a_key_can_reach(browser: Browser, server: str) -> None:
    context = browser.new_context(base_url=server, viewport=WIDE)
    page = context.new_page()
    troubles = watch(page, server)
    demo = f"/projects/{CALL.post(f'{server}/api/projects', json={'start': 'demo'}).json()['id']}"
    reachable = "a[href], button, input, select, textarea, summary, label, [role=option], [role=menuitem]"
    for path in (
        demo,
        f"{demo}/history",
        f"{demo}?stage=pins.board",
        f"{demo}?stage=vocabularies.words",
        *(f"{demo}/{it}" for it in ("program", "bench", "bring-up", "module", "why", "practice")),
        "/shelf",
    ):
        page.goto(path)
        page.get_by_role("heading").first.wait_for()
        stray = page.evaluate(
            f"""[...document.querySelectorAll('body *')]
                .filter((it) => getComputedStyle(it).cursor === 'pointer' && !it.closest('{reachable}'))
                .map((it) => it.outerHTML.slice(0, 120))"""
        )
        assert stray == []
    assert troubles == []
    context.close()
