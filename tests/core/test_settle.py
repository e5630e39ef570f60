"""Keep these settles what is proposed without moving a number; what is built stays; steps go through the usual values."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.design.values import Slot, Value
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.sheets.review import Review, review
from oddlamp.sheets.steps import SPEEDS_BD, steps
from tests.builders import CLEAR, PLANS, codes, document, findings_of, lamp, plan_with

ALL: dict[str, Document] = {**{name: document(name) for name in PLANS}, "demo": demo_plan(), "clear": CLEAR}


def texts(result: Review) -> dict[str, str]:
    return {value.id: value.text for value in result.values}


@pytest.mark.parametrize("name", ALL)
def test_keeping_all_proposals_moves_nothing_and_leaves_none(name: str) -> None:
    plan = load_plan(ALL[name])
    before = review(plan, load_catalog())
    assert before.keep is not None
    kept = edit_plan(plan, before.keep.patch)
    after = review(kept, load_catalog())
    assert texts(after) == texts(before)
    assert [it.key for it in after.findings] == [it.key for it in before.findings]
    assert after.keep is None, after.keep
    assert {button.says for button in after.phone} == {button.says for button in before.phone}


@pytest.mark.parametrize(("name", "stage"), [("demo", "lamps.moon"), ("smallest", "lamps.lamp")])
def test_keeping_one_sheet_settles_only_that_sheet(name: str, stage: str) -> None:
    plan = load_plan(ALL[name])
    before = review(plan, load_catalog())
    sheet = before.sheets[stage]
    assert sheet.keep is not None
    after = review(edit_plan(plan, sheet.keep.patch), load_catalog())
    assert after.sheets[stage].keep is None
    others = [key for key, it in before.sheets.items() if it.keep is not None and key != stage]
    assert all(after.sheets[key].keep is not None for key in others)


def built(plan_document: Document = CLEAR) -> Document:
    """Mark the one lamp as built, by the move its sheet offers."""
    sheet = review(load_plan(plan_document), load_catalog()).sheets["lamps.lamp"]
    return next(move.patch for move in sheet.moves if "is built" in move.label)


def test_what_is_built_is_not_moved_by_later_edits() -> None:
    plan = plan_with(built(), lamp(resistor_ohm=100))
    values = {value.id: value for value in review(plan, load_catalog()).values}
    assert values["lamp.main.resistor_ohm"].value == 75
    found = next(it for it in findings_of(plan) if it.code == "BUILT-DIFFERS")
    assert found.message.replace("\u00a0", " ") == "Lamp is built with 75 Ω. The plan now says 100 Ω; what is built stays."
    keep, rebuild = found.fixes
    assert review(edit_plan(plan, keep.patch), load_catalog()).findings == ()
    after = edit_plan(plan, rebuild.patch)
    assert {value.id: value for value in review(after, load_catalog()).values}["lamp.main.resistor_ohm"].value == 100


def test_what_is_built_keeps_its_pin_when_others_come() -> None:
    pins = {"lamps": {f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {}}} for n in range(5)}}
    before = review(plan_with(built()), load_catalog()).sheets["pins.board"].pins
    after = review(plan_with(built(), pins), load_catalog()).sheets["pins.board"].pins
    at = {row.id: next(option.label for option in row.pin.options if option.is_chosen) for row in before}
    then = {row.id: next(option.label for option in row.pin.options if option.is_chosen) for row in after}
    assert then["lamp.main"] == at["lamp.main"]


def test_a_built_hook_up_keeps_its_school_and_can_be_opened_again() -> None:
    sheet = review(load_plan(CLEAR), load_catalog()).sheets["links.serial"]
    frozen = next(move.patch for move in sheet.moves if "is built" in move.label)
    edit = {"signals": {"serial.b_to_a": {"shift": {"school": "direct"}}}}
    plan = plan_with(frozen, edit)
    assert ("LVL-OVER", "stop") not in codes(findings_of(plan))
    assert "two resistors" in next(it.message for it in findings_of(plan) if it.code == "BUILT-DIFFERS")
    opened = next(move.patch for move in review(plan, load_catalog()).sheets["links.serial"].moves if "again" in move.label)
    assert ("LVL-OVER", "stop") in codes(findings_of(edit_plan(plan, opened)))


def value(number: float, unit: str) -> Value:
    return Slot(id="x.y", stage="x", label="X", unit=unit).filled(number, origin="own")


@pytest.mark.parametrize(
    ("number", "unit", "lower", "higher"),
    [
        (75, "ohm", 68, 82),
        (70, "ohm", 68, 75),
        (1, "ohm", None, 1.1),
        (9600, "Bd", 4800, 19200),
        (10_000, "Bd", 9600, 19200),
        (0.05, "ratio", 0.02, 0.1),
        (0.02, "A", 0.019, 0.021),
        (0.0187, "A", 0.0185, 0.019),
        (3.6, "V", 3.5, 3.7),
    ],
)
def test_steps_go_to_the_usual_values(number: float, unit: str, lower: float | None, higher: float | None) -> None:
    """E24 by IEC 60063 (recalled); speeds and tolerances as they are sold, common practice."""
    assert steps(value(number, unit)) == (pytest.approx(lower) if lower else None, pytest.approx(higher))


@given(st.floats(1e-6, 1e6), st.sampled_from(["ohm", "A", "V", "s", "Bd", "ratio"]))
def test_steps_bracket_their_value(number: float, unit: str) -> None:
    lower, higher = steps(value(number, unit))
    assert lower is None or lower < number
    assert higher is None or higher > number
    assert unit not in ("A", "V", "s") or (lower is not None and higher is not None and math.isclose(lower, higher, rel_tol=0.25))


def test_the_usual_speeds_are_in_order() -> None:
    assert list(SPEEDS_BD) == sorted(SPEEDS_BD)
