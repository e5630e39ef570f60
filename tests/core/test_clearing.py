"""What clears a verdict: asked of the rules themselves, so it is checked by asking them again, on both sides."""

import pytest

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.electrical.preferred import neighbour
from oddlamp.core.plan.document import Document, at_path, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.clearing import Clearing, what_clears
from tests.builders import document, plan_with
from tests.core.test_findings import IDS, ROWS
from tests.full import some


def keys(plan: Plan) -> dict[str, str]:
    return {it.key: it.severity for it in run_rules(resolve(plan, load_catalog()))}


def told(found: tuple[Clearing, ...]) -> dict[str, str]:
    return {it.label: it.text.replace("\u00a0", " ") for it in found}


def leaf(patch: Document) -> tuple[tuple[str, ...], float]:
    path: list[str] = []
    inner: object = patch
    while isinstance(inner, dict):
        ((step, inner),) = inner.items()
        path.append(step)
    assert isinstance(inner, float | int)
    return tuple(path), float(inner)


def test_the_demo_tells_from_where_its_verdicts_clear() -> None:
    """Arithmetic: (5.0 - 3.2) V / 20 mA is 90 ohm, 91 in E24; 2.4 kohm over 4.7 kohm is 3.50 V at worst."""
    plan = load_plan(document("footlights"))
    assert told(what_clears(plan, load_catalog(), "LED-OVER@foot3.main")) == {"Series resistor": "from 91 Ω up"}
    hookup = told(what_clears(plan, load_catalog(), "LVL-OVER@serial.b_to_a"))
    assert hookup["From the sender"].startswith("from 2.4 kΩ to")
    assert hookup["To ground"].endswith("to 3.9 kΩ")


def test_a_verdict_that_is_not_there_is_cleared_by_nothing() -> None:
    assert what_clears(load_plan(demo_plan()), load_catalog(), "LED-OVER@nobody.main") == ()


@pytest.mark.parametrize(("breaks", "base"), [(row[2], row[4]) for row in some(ROWS, 12)], ids=some(IDS, 12))
def test_what_is_told_to_clear_does_and_brings_no_stop(breaks: list[Document], base: Document) -> None:
    plan = plan_with(*breaks, base=base)
    before = keys(plan)
    for key in before:
        for found in what_clears(plan, load_catalog(), key):
            after = keys(edit_plan(plan, found.move.patch))
            assert key not in after, f"{found.label} {found.text} does not clear {key}"
            new = [
                it
                for it, severity in after.items()
                if severity == "stop" and before.get(it) != "stop" and not it.startswith("PIN-")
            ]
            assert not new, f"{found.label} {found.text} brings {new}"


@pytest.mark.parametrize(("breaks", "base"), [(row[2], row[4]) for row in some(ROWS, 17, 1)], ids=some(IDS, 17, 1))
def test_a_resistor_told_from_some_value_up_is_the_first_that_clears(breaks: list[Document], base: Document) -> None:
    plan = plan_with(*breaks, base=base)
    for key in keys(plan):
        for found in what_clears(plan, load_catalog(), key):
            if found.text.endswith("Ω up"):
                path, ohm = leaf(found.move.patch)
                just_under = neighbour(ohm, -1)
                assert key in keys(edit_plan(plan, at_path(path, just_under))), f"{just_under} clears {key} too"
                assert key not in keys(edit_plan(plan, at_path(path, neighbour(ohm, 1))))
