"""What was told wrong once, so that it stays right: words without an end, pull-ups, adapters, PWM pins, sums of times."""

import re

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.design.design import Design
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.rehearsal.trace import Run
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from oddlamp.sheets.review import review
from tests.builders import CLEAR, EMPTY, LF, codes, divider, findings_of, plan_with, words

CATALOG = load_catalog()


def played(plan: Plan, *texts: str) -> Run:
    design = resolve(plan, CATALOG)
    events = read_events([{"kind": "line", "t_s": t_s, "talk": "main", "text": text} for t_s, text in enumerate(texts)])
    return show_run(design, rehearse_design(design, events), since_s=0)


def test_a_word_that_never_ends_is_lost_and_an_ignored_ending_is_not() -> None:
    (without,) = played(plan_with(words(LF, on="on"), {"nodes": {"phone": {"appends": "none"}}}), "on").journeys
    assert without.is_lost, "a listener that waits for LF never hears a word without it"
    (passed,) = played(plan_with(words(on="1"), {"nodes": {"phone": {"appends": "cr-lf"}}}), "1").journeys
    assert not passed.is_lost, "single letters pass over CR and LF"
    assert "Reached" in passed.sentence


BLE: Document = {"nodes": {"phone": {"speaks": ["ble"]}, "radio": {"choice": {"part": "family-c"}}}}
TIMES = re.compile(r"after ([\d.]+)\s(m?s): ([\d.]+)\s(m?s) in the air(?:, ([\d.]+)\s(m?s|µs) on the wire)?")
UNITS = {"s": 1.0, "ms": 1e-3, "µs": 1e-6}


@pytest.mark.parametrize("count", [1, 19, 21, 40, 64])
def test_parts_of_a_time_never_exceed_the_whole(count: int) -> None:
    """Packets of 20 bytes fly while those before them are on the wire: what is told of both is no more than the whole."""
    text = "x" * count  # said twice: the first goes under in what the module says when somebody links
    run = played(plan_with(BLE, words(LF, on=text), {"nodes": {"phone": {"appends": "lf"}}}), text, text)
    journey = next(it for it in run.journeys if it.starts_s >= 1)
    found = TIMES.search(journey.sentence)
    assert found is not None, journey.sentence
    whole, air, wire = (float(found[n]) * UNITS[found[n + 1]] if found[n] else 0.0 for n in (1, 3, 5))
    assert air + wire <= whole * 1.02, journey.sentence


def level_v(*patches: Document, way: str = "serial.b_to_a") -> float:
    found = resolve(plan_with(*patches), CATALOG).level(way)
    assert found is not None
    return found.received.known


def test_a_pull_up_moves_the_level_of_a_divided_line() -> None:
    """Kirchhoff at the tap: 5 V over 1.2 k, 5 V over 1 k, 2.2 k to ground: 5 (1/1.2 + 1) / (1/1.2 + 1 + 1/2.2) = 4.01 V."""
    fitted = divider(1200, 2200)
    pulled: Document = {"signals": {"serial.b_to_a": {"pull_to": "five", "pull_ohm": 1000}}}
    assert level_v(fitted) == pytest.approx(5 * 2200 / 3400)
    expected = 5 * (1 / 1.2 + 1) / (1 / 1.2 + 1 + 1 / 2.2)
    assert level_v(fitted, pulled) == pytest.approx(expected, rel=0.02), "25 ohm of the pin counted or not"
    assert ("LVL-OVER", "stop") in codes(findings_of(plan_with(fitted, pulled)))


def adapter(volts: float) -> Document:
    return {"sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": volts, "least": volts, "most": volts}}}}}}


def test_a_board_on_twelve_volts_has_pins_of_its_own_five() -> None:
    own_rail: Document = {"nodes": {"radio": {"rail": None}}}
    design = resolve(plan_with(adapter(12.0), own_rail), CATALOG)
    logic = design.nodes["board"].logic
    assert logic is not None
    assert logic.known == pytest.approx(5.0), "what its regulator makes of it"


def needs(design: Design, lamp: str) -> list[bool]:
    return ["pwm" in pin.needs for pin in design.pins if pin.key.startswith(f"{lamp}.")]


def test_what_is_dimmed_asks_for_pwm_and_an_rgb_lamp_gets_its_colours() -> None:
    dim: Document = {
        "lamps": {"lamp": None, "glow": {"kind": "strip", "host": "board", "rail": "five", "choice": {"part": "strip-5v-warm"}}},
        "rules": {
            "r1": {
                "host": "board",
                "when": {"heard": "on"},
                "do": [{"verb": "level", "target": "glow", "values": {"level": 0.5}}],
            },
            "r2": None,
        },
    }
    assert needs(resolve(plan_with(dim), CATALOG), "glow") == [True]
    opening = review(load_plan(EMPTY), CATALOG).opening
    assert opening is not None
    rgb = next(it for it in opening.lamps if it.label == "An RGB LED")
    plan = edit_plan(load_plan(EMPTY), rgb.patch)
    colours = [deed for rule in plan.rules.values() for deed in rule.do if deed.verb == "colour"]
    assert len(colours) >= 3
    design = resolve(plan, CATALOG)
    part = design.nodes["board"].part
    assert part is not None
    labels = [pin.label for pin in design.pins if pin.line.owner[0] == "lamps"]
    able = {pin.label: pin.can for pin in part.pins}
    assert all("pwm" in able[label] for label in labels if label is not None)
    assert len(labels) == 3


def test_a_second_thing_has_a_name_of_its_own() -> None:
    plan = plan_with(base=CLEAR)
    moves = review(plan, CATALOG, stages=["pins.board"]).sheets["pins.board"].moves
    again = edit_plan(plan, next(it for it in moves if it.label == "Add one-wire pixels").patch)
    moves = review(again, CATALOG, stages=["pins.board"]).sheets["pins.board"].moves
    twice = edit_plan(again, next(it for it in moves if it.label == "Add one-wire pixels").patch)
    labels = [lamp.label for lamp in twice.lamps.values()]
    assert len(set(labels)) == len(labels)


@pytest.mark.parametrize("school", ["diode", "mosfet"])
def test_a_pull_down_against_a_receivers_pull_up_makes_a_divider_of_the_two(school: str) -> None:
    """10 kΩ over 10 kΩ leave half of 3.3 V, by hand, and no part hears that as a high."""
    shift = {"signals": {"serial.b_to_a": {"shift": {"school": school, "values": {"upper_ohm": None, "lower_ohm": None, "pull_ohm": 10_000}}, "pull_ohm": 10_000, "pull_to": "ground"}}}  # fmt: skip
    plan = plan_with(shift)
    level = resolve(plan, CATALOG).level("serial.b_to_a")
    assert level is not None
    assert level.received.known == pytest.approx(1.65)
    assert any(severity == "stop" for code, severity in codes(findings_of(plan)) if code.startswith("LVL"))
