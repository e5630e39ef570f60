"""Parts of the user's own, own figures, the drawer and the series: one way for all, kept in the plan."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.checks.findings import Move
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import Document, dump_plan, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.parts import KINDS, own_patch
from oddlamp.sheets.review import Review, review
from tests.builders import CLEAR, codes, document, lamp, plan_with

MINE = "Keep these figures as a part of mine"
RELAY: Document = {
    "lamps": {"bell": {"kind": "relay", "host": "board", "rail": "five", "choice": {"part": "relay-module-opto-low"}}}
}
PIXELS: Document = {
    "lamps": {"px": {"kind": "pixels-one-wire", "host": "board", "rail": "five", "layout": {"runs": [{"count": 5}]}}}
}
DRIVEN: Document = {"lamps": {"lamp": {"drive": {"school": "mosfet"}}}}
RED: Document = {"lamps": {"lamp": {"channels": {"main": {"led": {"part": "led-red", "overrides": None}, "resistor_ohm": None}}}}}


def reviewed(plan: Plan) -> Review:
    return review(plan, load_catalog())


def move(result: Review, stage: str, label: str) -> Move:
    return next(it for panel in result.sheets[stage].panels for it in panel.moves if it.label == label)


def keep_as_mine(plan: Plan, stage: str, at: int = 0) -> Plan:
    """Press the offer to keep a part's figures as one's own, on its sheet."""
    offers = [it for panel in reviewed(plan).sheets[stage].panels for it in panel.moves if it.label == MINE]
    kept = edit_plan(plan, offers[at].patch)
    check_parts(kept, load_catalog())
    return kept


@pytest.mark.parametrize(
    ("stage", "patches", "table"),
    [
        ("lamps.lamp", [RED], "leds"),
        ("lamps.bell", [RELAY], "loads"),
        ("lamps.px", [PIXELS], "pixels"),
        ("rails.five", [], "sources"),
        ("pins.board", [], "boards"),
        ("nodes.radio", [], "modules"),
    ],
)
def test_a_part_kept_as_mine_gives_the_same_numbers_and_verdicts(stage: str, patches: list[Document], table: str) -> None:
    plan = plan_with(*patches)
    mine = keep_as_mine(plan, stage)
    assert [own.table for own in mine.parts.values()] == [table]
    before, after = reviewed(plan), reviewed(mine)
    assert [(it.id, it.value, it.min, it.max) for it in before.values] == [
        (it.id, it.value, it.min, it.max) for it in after.values
    ]
    assert [(it.key, it.severity, it.message) for it in before.findings] == [
        (it.key, it.severity, it.message) for it in after.findings
    ]


def test_a_transistor_kept_as_mine_can_be_told_better() -> None:
    plan = plan_with(DRIVEN)
    mine = keep_as_mine(plan, "lamps.lamp", at=1)
    (part_id, own), *_ = mine.parts.items()
    assert own.table == "transistors"
    worse = edit_plan(mine, {"parts": {part_id: {"figures": {"gate_specified_v": "10 V"}}}})
    assert ("DRV-GATE-LEVEL", "stop") in codes(reviewed(worse).findings)


@pytest.mark.parametrize("table", KINDS)
def test_every_shipped_part_can_be_copied_from_the_sheet_of_my_parts(table: str) -> None:
    plan = plan_with()
    design = resolve(plan, load_catalog())
    for part in getattr(design.catalog, table).values():
        part_id, patch = own_patch(design, table, part)
        with_it = edit_plan(plan, patch)
        check_parts(with_it, load_catalog())
        assert load_plan(dump_plan(with_it)) == with_it, "it goes with the file"
        panel = next(it for it in reviewed(with_it).sheets["parts"].panels if it.title == with_it.parts[part_id].label)
        assert {it.path[-1] for it in panel.entries} >= {"label", *with_it.parts[part_id].figures}, "its name, and every figure"


def test_my_own_figure_moves_the_lamp_and_taking_it_out_brings_the_shipped_one_back() -> None:
    """Arithmetic: (5.00 - 2.9) V / 75 ohm is 28 mA."""
    plan = plan_with(lamp(led={"part": "led-white", "overrides": None}))
    mine = keep_as_mine(plan, "lamps.lamp")
    (part_id,) = mine.parts
    told = edit_plan(mine, {"parts": {part_id: {"figures": {"forward_voltage_v": "2.9 V (2.8 to 3.0 V)"}}}})
    channel = resolve(told, load_catalog()).lamps["lamp"].channels[0]
    assert channel.current.known == pytest.approx(0.028)
    assert (channel.forward.origin, channel.forward.low, channel.forward.high) == ("own", 2.8, 3.0)
    out = move(reviewed(told), "parts", "Take My white out, and go back to: White")
    back = edit_plan(told, out.patch)
    assert back.parts == {}
    assert resolve(back, load_catalog()).lamps["lamp"].channels[0].forward.known == 3.2


def test_a_copy_stays_as_it_is_when_the_shipped_part_changes() -> None:
    mine = keep_as_mine(plan_with(RED), "lamps.lamp")
    catalog = load_catalog()
    red = catalog.leds["led-red"]
    newer = catalog.model_copy(
        update={"leds": {**catalog.leds, "led-red": red.model_copy(update={"forward_voltage_v": red.absolute_current_a})}}
    )
    assert resolve(mine, newer).lamps["lamp"].channels[0].forward.known == 2.0


def test_the_volts_of_an_opto_input_are_told_in_place() -> None:
    """Arithmetic: a 3.3 V pin leaves (5.00 - 3.30 - 1.2) V / 1 kohm = 0.5 mA in an input that should be off."""
    wifi = {"nodes": {"board": {"choice": {"part": "board-wifi"}}}}
    plan = plan_with(RELAY, wifi, {"lamps": {"bell": {"choice": {"overrides": {"optocoupler_v": "1.2"}}}}})
    result = reviewed(plan)
    found = next(it for it in result.findings if it.code == "DRV-OPTO")
    assert "500 µA" in found.message.replace("\u00a0", " ")
    assert not [it for it in reviewed(plan_with(RELAY, wifi)).findings if it.code == "DRV-OPTO"]
    labels = [it.label for panel in result.sheets["lamps.bell"].panels for it in panel.entries]
    assert "Opto-coupler drops" in labels


@pytest.mark.parametrize(("series", "ohm"), [("E6", 100), ("E12", 82), ("E24", 75), ("E48", 71.5), ("E96", 71.5)])
def test_the_proposed_resistor_comes_from_the_series_one_can_get(series: str, ohm: float) -> None:
    """IEC 60063: the smallest value at or over 70 ohm, (5.0 - 3.6) V / 20 mA."""
    plan = plan_with(lamp(resistor_ohm=None), {"series": series})
    assert resolve(plan, load_catalog()).lamps["lamp"].channels[0].resistor.known == ohm


def test_steps_and_the_best_pair_keep_to_the_values_one_can_get() -> None:
    found = review(plan_with({"series": "E12"}), load_catalog())
    resistor = next(it for it in found.sheets["lamps.lamp"].panels[1].entries if it.label == "Series resistor")
    assert (resistor.lower, resistor.higher) == (68, 82), "beside 75 ohm in E12"
    moves = [move.label for panel in found.sheets["links.serial"].panels for move in panel.moves]
    assert [label for label in moves if label.startswith("Best of E12: ")]


def test_a_pull_down_counts_in_every_pair_that_is_offered() -> None:
    """Beside 2k2 a pull-down of 4k7 leaves 1.5 kohm: the usual pairs then give too little."""
    pulled = {"signals": {"serial.b_to_a": {"shift": {"school": "divider"}, "pull_ohm": 4700, "pull_to": "ground"}}}
    way = resolve(plan_with(pulled), load_catalog()).signals["serial.b_to_a"].level
    assert way.divider is not None
    assert way.divider.burden.load_ohm == 4700
    assert way.high.high <= way.received.low < way.received.high <= way.limit.known, "the one that is proposed"
    offered = review(plan_with(pulled), load_catalog()).sheets["links.serial"]
    best = next(move for panel in offered.panels for move in panel.moves if move.label.startswith("Best of E24"))
    after = resolve(plan_with(pulled, best.patch), load_catalog()).signals["serial.b_to_a"].level
    assert after.high.high <= after.received.low < after.received.high <= after.limit.known


def test_what_an_input_leaks_counts_and_can_be_told_better() -> None:
    """10 uA through 1900 ohm beside 4935 ohm move the worst case by 13.7 mV, the usual 1 uA by 1.4 mV."""
    ways = []
    for leakage in (None, "1n", "10u"):
        told = {"nodes": {"radio": {"choice": {"part": "family-a", "overrides": {"input_leakage_a": leakage}}}}}
        pair = {"signals": {"serial.b_to_a": {"shift": {"school": "divider", "values": {"upper_ohm": 2000, "lower_ohm": 4700}}}}}
        ways.append(resolve(plan_with(told, pair), load_catalog()).signals["serial.b_to_a"].level.received)
    usual, hardly, much = ways
    beside_ohm = 1 / (1 / 1900 + 1 / 4935)
    assert much.high - hardly.high == pytest.approx((1e-5 - 1e-9) * beside_ohm, rel=1e-6)
    assert usual.high - hardly.high == pytest.approx((1e-6 - 1e-9) * beside_ohm, rel=1e-6)
    assert "+ 10\u00a0µA · " in much.working[1].substituted


def test_a_divider_is_proposed_of_values_one_can_get() -> None:
    e6 = plan_with({"series": "E6", "signals": {"serial.b_to_a": {"shift": None}}})
    way = resolve(e6, load_catalog()).signals["serial.b_to_a"].level
    assert way.upper is not None
    assert way.lower is not None
    assert (way.upper.value, way.lower.value) == (2200, 3300)


@pytest.mark.parametrize(
    ("typed", "ohm"),
    [("yellow violet red gold", 4700), ("brown, black, black, brown, brown", 1000), ("smd 4R7", 4.7), ("SMD 1001", 1000)],
)
def test_bands_and_chip_marks_are_read_wherever_a_resistance_is_typed(typed: str, ohm: float) -> None:
    """IEC 60062, recalled."""
    changed = edit_plan(plan_with(), lamp(resistor_ohm=typed))
    assert changed.lamps["lamp"].channels["main"].resistor_ohm == pytest.approx(ohm)  # type: ignore[union-attr, index]


@pytest.mark.parametrize(
    ("typed", "told"), [("yellow violet", "three, four or five"), ("red pink red", "one of"), ("smd 4x7", "figures")]
)
def test_bands_that_mean_nothing_are_refused_in_words(typed: str, told: str) -> None:
    with pytest.raises(PlanInvalid) as caught:
        edit_plan(plan_with(), lamp(resistor_ohm=typed))
    assert told in str(caught.value)


def test_the_drawer_takes_values_bands_and_marks_and_shows_what_to_reach_for() -> None:
    plan = plan_with({"drawer": "100, yellow violet red gold; smd 221"})
    assert plan.drawer == (100, 4700, 220)
    shown = reviewed(plan).sheets["parts"].panels[0].resistors
    assert [(it.smd, it.bands[:3]) for it in shown] == [
        ("101", ("brown", "black", "brown")),
        ("221", ("red", "red", "brown")),
        ("472", ("yellow", "violet", "red")),
    ]


FIGURES: list[tuple[Any, str]] = [
    ({"forward_voltage_v": "900 kV"}, "at most 1000"),
    ({"forward_voltage_v": "-2"}, "over 0"),
    ({"forward_voltage_v": "0"}, "over 0"),
    ({"forward_voltage_v": "2.4 V (2.5 to 2.6)"}, "in that order"),
    ({"forward_voltage_v": "2 A"}, "volts"),
    ({"forward_voltage_v": "inf"}, "volts"),
    ({"forward_voltage_v": float("inf")}, "at most"),
    ({"coil_ohm": "70"}, "one of forward_voltage_v"),
    ({"colour": "1"}, "end in their unit"),
]


@pytest.mark.parametrize(("figures", "told"), FIGURES)
def test_figures_that_cannot_be_are_refused_in_words(figures: Document, told: str) -> None:
    part = {"own-one": {"table": "leds", "like": "led-red", "label": "One", "figures": figures}}
    with pytest.raises(PlanInvalid) as caught:
        check_parts(edit_plan(plan_with(), {"parts": part}), load_catalog())
    assert told in str(caught.value)


@pytest.mark.parametrize(
    ("parts", "told"),
    [
        ({"own-one": {"table": "leds", "like": "own-two", "label": "One"}}, "one of led-blue"),
        ({"led-red": {"table": "leds", "like": "led-red", "label": "One"}}, "own-"),
        ({"own-one": {"table": "spoons", "like": "led-red", "label": "One"}}, "leds"),
    ],
)
def test_parts_that_cannot_be_are_refused_in_words(parts: Document, told: str) -> None:
    with pytest.raises(PlanInvalid) as caught:
        check_parts(edit_plan(plan_with(), {"parts": parts}), load_catalog())
    assert told in str(caught.value)


def test_a_part_in_use_cannot_simply_vanish() -> None:
    mine = keep_as_mine(plan_with(RED), "lamps.lamp")
    with pytest.raises(PlanInvalid, match="led-red"):
        check_parts(edit_plan(mine, {"parts": None}), load_catalog())


def test_the_smallest_plan_of_all_versions_has_no_parts_and_needs_none() -> None:
    assert load_plan(document("smallest")).parts == {}
    assert load_plan(CLEAR).series is None


def test_a_second_measured_point_replaces_n() -> None:
    """Diode equation by hand: 2.00 V at 20 mA and 1.80 V at 2 mA, with 6 ohm, leave 92 mV over kT/q ln 10 = 59.5 mV: n is 1.55."""
    figures = {"forward_voltage_v": None, "second_voltage_v": "1.8 V", "second_current_a": "2 mA"}
    plan = plan_with(lamp(led={"part": "led-red", "overrides": figures}, resistor_ohm=1_500))
    channel = resolve(plan, load_catalog()).lamps["lamp"].channels[0]
    assert channel.branch is not None
    curve = channel.branch.curve
    assert curve is not None
    assert curve.ideality == pytest.approx(0.092 / (0.025852 * 2.302585), rel=1e-4)
    assert curve.drop_v(0.02) == pytest.approx(2.0, abs=1e-9)
    assert curve.drop_v(0.002) == pytest.approx(1.8, abs=1e-9), "the curve goes through both points"


@pytest.mark.parametrize(
    ("figures", "told"),
    [
        ({"second_voltage_v": "2.1 V", "second_current_a": "2 mA"}, "under 1.89 V"),
        ({"second_voltage_v": "1.8 V", "second_current_a": "30 mA"}, "under the 20 mA"),
    ],
)
def test_points_that_lie_on_no_one_curve_are_refused_in_words(figures: Document, told: str) -> None:
    with pytest.raises(PlanInvalid) as caught:
        plan_with(lamp(led={"part": "led-red", "overrides": {"forward_voltage_v": None, **figures}}))
    assert told in str(caught.value).replace("\u00a0", " ")
