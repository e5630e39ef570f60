"""The demo projects: each opens with something honest to settle, each way out can be followed, and then it does what it is for."""

import pytest

from oddlamp.catalog.load import demo_names, demo_plan, load_catalog
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from tests.builders import codes, findings_of

SWITCH: Document = {"kind": "input", "input": "sw", "event": "on", "t_s": 0}
PRESSES: dict[str, tuple[list[Document], str]] = {
    "two-wings": ([SWITCH], "cue.main"),
    "prompters-nudge": ([{"kind": "control", "control": "stand_by", "gesture": "press", "t_s": 0}], "ready.main"),
    "foyer-star": ([{"kind": "control", "control": "gold", "gesture": "press", "t_s": 0}], "star.data"),
    "paper-moon": ([{"kind": "control", "control": "foot", "gesture": "press", "t_s": 0}], "foot.main"),
}


def settled(plan: Plan) -> Plan:
    """The plan once the first way out of every verdict that has one was followed, one after the other."""
    for _ in range(20):
        fixes = [fix for it in run_rules(resolve(plan, load_catalog())) if it.code != "COIN-CAUTION" for fix in it.fixes[:1]]
        if not fixes:
            return plan
        plan = edit_plan(plan, fixes[0].patch)
    raise AssertionError("it never came to rest")


def lights(plan: Plan, events: list[Document], line: str) -> bool:
    return any(it.current_a > 0 for it in rehearse(plan, load_catalog(), read_events(events)).lamps[line])


def test_the_demos_are_those_that_are_shipped() -> None:
    assert demo_names() == ("paper-moon", "foyer-star", "prompters-nudge", "two-wings")
    assert all(demo_plan(name)["notes"] for name in demo_names())


@pytest.mark.parametrize(
    ("name", "told"),
    [
        ("paper-moon", {("LED-OVER", "stop"), ("LVL-OVER", "look"), ("CMD-ENDING", "look"), ("SUP-RAIL-PEAK", "look")}),
        ("foyer-star", {("PIN-STRAP", "stop"), ("MOD-2G4", "look"), ("SUP-RAIL-PEAK", "stop")}),
        ("two-wings", {("MOD-PAIR-PIN", "stop"), ("MOD-SPEEDS", "look")}),
        ("prompters-nudge", {("MOD-CASE", "stop"), ("LED-HEADROOM", "look"), ("COIN-CAUTION", "look"), ("SUP-COIN", "look")}),
    ],
)
def test_what_they_open_with(name: str, told: set[tuple[str, str]]) -> None:
    assert codes(findings_of(load_plan(demo_plan(name)))) == told


@pytest.mark.parametrize("name", demo_names())
def test_all_of_it_can_be_settled_by_pressing_and_then_it_lights(name: str) -> None:
    plan = load_plan(demo_plan(name))
    done = settled(plan)
    assert codes(findings_of(done)) <= {("COIN-CAUTION", "look")}
    events, line = PRESSES[name]
    assert lights(done, events, line)


def test_unlike_pins_keep_the_wings_apart_in_the_rehearsal_too() -> None:
    plan = load_plan(demo_plan("two-wings"))
    assert not lights(plan, [SWITCH], "cue.main")
    assert lights(settled(plan), [SWITCH], "seen.main"), "and once they are one the lamp on the left tells that it was seen"


def test_the_storm_comes_by_phone_and_by_button_and_the_knob_dims_the_footlights() -> None:
    plan = settled(load_plan(demo_plan("paper-moon")))
    by_phone: Document = {"kind": "control", "control": "storm", "gesture": "press", "t_s": 0}
    by_hand: Document = {"kind": "input", "input": "cue", "event": "pressed", "t_s": 0}
    turned: Document = {"kind": "input", "input": "dimmer", "event": "moved", "value": 0.5, "t_s": 0}
    for pressed in (by_phone, by_hand):
        trace = rehearse(plan, load_catalog(), read_events([pressed]))
        flashes = [it for it in trace.pixels["lightning"] if set(it.shows) != {"0"}]
        assert len(flashes) > 5
        assert set(trace.pixels["lightning"][-1].shows) == {"0"}
    assert lights(plan, [turned], "foot.main")
