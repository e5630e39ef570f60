"""axe-core finds nothing on any screen, in both themes, wide and at 320 px."""

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.plan.document import load_plan
from oddlamp.sheets.review import review
from tests.builders import CLEAR, document
from tests.conftest import CALL
from tests.e2e.conftest import watch

pytestmark = pytest.mark.e2e
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
WIDE, NARROW = {"width": 1280, "height": 800}, {"width": 320, "height": 640}


def violations(page: Page, theme: str) -> list[str]:
    """Run axe on the page as it stands; it goes in by evaluate, because the policy blocks a script tag.

    A theme changes nothing but colours, so in the dark one only the rule that looks at them is run.
    """
    only = ", runOnly: ['color-contrast']" if theme == "dark" else ""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    found: list[dict[str, Any]] = page.evaluate(
        f"axe.run(document, {{resultTypes: ['violations']{only}}}).then((it) => it.violations)"
    )
    return [f"{page.url} {it['id']}: {it['nodes'][0]['html'][:160]} {it['nodes'][0]['failureSummary'][:200]}" for it in found]


@pytest.mark.parametrize("viewport", [WIDE, NARROW], ids=["wide", "320"])
@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_screen_has_a_violation(browser: Browser, server: str, theme: Any, viewport: Any) -> None:
    context = browser.new_context(base_url=server, viewport=viewport, color_scheme=theme, reduced_motion="reduce")
    page = context.new_page()
    found = watch(page, server)

    def look(path: str, *keys: str) -> None:
        page.goto(path)
        page.get_by_role("heading").first.wait_for()
        page.evaluate("document.fonts.ready")
        for key in keys:
            page.keyboard.press(key)
        found.extend(violations(page, theme))

    def add(plan: Any) -> str:
        return f"/projects/{CALL.post(f'{server}/api/projects/import', json=plan).json()['id']}"

    demo = add(demo_plan())
    stages = [stage for stage in review(load_plan(demo_plan()), load_catalog()).sheets if not stage.startswith("lamps.foot")]
    for stage in [*stages, "lamps.foot3"]:
        look(f"{demo}?stage={stage}")
    look(f"{demo}/history")
    look(demo, "w")
    look(demo, "?")
    look(demo, "/")
    for name in ("foyer-star", "two-wings", "prompters-nudge"):
        look(add(document(name)))
    look(add({key: CLEAR[key] for key in ("format", "schema_version", "title")}))
    look("/shelf")
    look("/projects/nobody")
    assert found == []
    context.close()


def test_whatever_a_pointer_can_press_a_key_can_reach(browser: Browser, server: str) -> None:
    context = browser.new_context(base_url=server, viewport=WIDE)
    page = context.new_page()
    troubles = watch(page, server)
    demo = f"/projects/{CALL.post(f'{server}/api/projects', json={'start': 'demo'}).json()['id']}"
    reachable = "a[href], button, input, select, textarea, summary, label, [role=option], [role=menuitem]"
    for path in (demo, f"{demo}/history", f"{demo}?stage=pins.board", f"{demo}?stage=vocabularies.words", "/shelf"):
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
