"""Chips beside a board: what they bring, how lamps get onto them and back, and that they are told over a bus that works."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import edit_plan, merge_patch
from oddlamp.core.rehearsal.events import WordEvent
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.resolve.passages import address_of
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import not_worked_out, review, sheet_of
from tests.builders import CLEAR, plan_with

CATALOG = load_catalog()
BUS: Any = {"kind": "wire", "a": "board", "b": "expander", "transport": "i2c"}
CHIP: Any = {
    "nodes": {"expander": {"kind": "chip", "end": "table", "rail": "five", "choice": {"part": "expander-16"}}},
    "links": {"bus": BUS},
    "lamps": {"lamp": {"host": "expander"}},
}


def on(board: str, *patches: Any) -> Design:
    """The clear plan on another board."""
    return resolve(plan_with(*patches, base=merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": board}}}})), CATALOG)


def leds(count: int, *, is_dimmed: bool = False) -> Any:
    """So many red LEDs in place of the lamp, each told by one word."""
    deed = {"verb": "level", "values": {"level": 0.5}} if is_dimmed else {"verb": "toggle"}
    names = [f"l{n}" for n in range(count)]
    lamps = {it: {"kind": "led", "host": "board", "channels": {"main": {"led": {"part": "led-red"}}}} for it in names}
    do = [{**deed, "target": it} for it in names]
    return {"lamps": {"lamp": None, **lamps}, "rules": {"r1": {"host": "board", "when": {"heard": "on"}, "do": do}, "r2": None}}


def codes(design: Design) -> set[tuple[str, str]]:
    return {(it.code, it.where) for it in run_rules(design)}


@pytest.mark.parametrize(
    ("board", "count", "is_dimmed", "told"),
    [
        ("board-5v-20io", 20, False, "Put 12 lamps on 2 expanders over two wires"),
        ("board-5v-20io", 9, True, "Put 3 lamps on a dimmer chip over two wires"),
        ("board-5v-8pin", 6, False, "Put 5 lamps on an expander over two wires"),
        ("board-wifi", 12, True, "Put 10 lamps on a dimmer chip over two wires"),
    ],
)
def test_lamps_that_find_no_pin_go_onto_chips_and_nothing_stops(board: str, count: int, is_dimmed: bool, told: str) -> None:
    """Each way out gives every line its pin and brings no stop; on a board of few pins a look may come instead."""
    design = on(board, leds(count, is_dimmed=is_dimmed))
    (found,) = run_rules(design, codes=["PIN-NO-FIT"])
    moves = [fix for fix in found.fixes if "over two wires" in fix.label]
    assert told in [move.label for move in moves]
    for move in moves:
        after = resolve(edit_plan(design.plan, move.patch), CATALOG)
        assert all(pin.label for pin in after.pins)
        assert {it.severity for it in run_rules(after) if (it.code, it.where) not in codes(design)} <= {"look"}
        if board == "board-5v-20io":
            assert codes(after) <= codes(design)


@pytest.mark.parametrize("where", ["bus.sda", "bus.scl"])
def test_what_hangs_on_a_chip_is_lit_over_its_bus_and_not_where_that_is_broken(where: str) -> None:
    said = [WordEvent(kind="word", t_s=0, talk="main", word="on")]
    trace = rehearse_design(on("board-5v-20io", CHIP), said)
    assert [event.stage for event in trace.events[-5:]] == [
        "rules.board",
        "pins.board",
        "links.bus",
        "pins.expander",
        "lamps.lamp",
    ]
    assert trace.lamps["lamp.main"][-1].current_a > 0.001
    broken = on("board-5v-20io", CHIP, {"signals": {where: {"pin": "A6"}}})
    trace = rehearse_design(broken, said)
    assert (trace.events[-1].stage, trace.events[-1].lost_because) == ("links.bus", "there is no pin A6 on the board")
    assert "lamp.main" not in trace.lamps or trace.lamps["lamp.main"][-1].current_a == 0


@pytest.mark.parametrize(
    ("patch", "code", "label"),
    [
        ({"links": {"bus": None}}, "CHIP-BUS", "Wire it to the board"),
        ({"nodes": {"board": {"choice": {"part": "board-wifi"}}}}, "LVL-UNDER", "Take a MOSFET with two pull-ups instead"),
        ({"signals": {"bus.sda": {"wire": {"length_m": 3}}}}, "LVL-SLOW", "Pull it with 1.3\u00a0kΩ"),
    ],
)
def test_a_bus_that_does_not_carry_has_a_way_out_that_clears_it(patch: Any, code: str, label: str) -> None:
    """Two-wire inputs hear a high from 0.7 of their supply; at 100 kHz an edge takes 1 us at most; both from memory."""
    direct = (
        {"signals": {f"bus.{lead}": {"shift": {"school": "direct"}} for lead in ("sda", "scl")}} if code == "LVL-UNDER" else {}
    )
    design = on("board-5v-20io", CHIP, direct, patch)
    found = [it for it in run_rules(design) if it.code == code and it.stage in ("links.bus", "pins.expander")]
    assert {it.severity for it in found} == {"stop"}
    for it in found:
        fix = next(fix for fix in it.fixes if fix.label == label)
        assert it.key not in {left.key for left in run_rules(resolve(edit_plan(design.plan, fix.patch), CATALOG))}


def test_a_chip_at_other_volts_is_proposed_behind_a_shifter_that_passes_both_ways() -> None:
    design = on("board-wifi", CHIP)
    assert {design.signals[f"bus.{lead}"].level.school.id for lead in ("sda", "scl")} == {"mosfet"}  # type: ignore[union-attr]
    assert not [it for it in run_rules(design) if it.stage == "links.bus"]


def test_chips_of_one_kind_count_up_their_addresses_and_more_than_there_are_stop() -> None:
    more = {
        "nodes": {f"e{n}": CHIP["nodes"]["expander"] for n in range(8)},
        "links": {f"bus{n}": {**BUS, "b": f"e{n}"} for n in range(8)},
        "lamps": {f"x{n}": {"kind": "led", "host": f"e{n}"} for n in range(8)},
    }
    design = on("board-5v-20io", CHIP, more)
    assert [address_of(design, design.nodes[name]) for name in ("expander", "e0", "e6", "e7")] == [0x20, 0x21, 0x27, None]
    (found,) = run_rules(design, codes=["CHIP-BUS"])
    assert (found.where, found.severity) == ("e7", "stop")
    after = resolve(edit_plan(design.plan, found.fixes[0].patch), CATALOG)
    assert after.plan.lamps["x7"].host == "board", "its lamp goes back to the board"
    assert not run_rules(after, codes=["CHIP-BUS"])


@pytest.mark.parametrize(
    ("patch", "field"),
    [
        ({"lamps": {"px": {"kind": "pixels-one-wire", "host": "expander"}}}, "lamps.px.host"),
        ({"lamps": {"buzz": {"kind": "buzzer", "host": "expander"}}}, "lamps.buzz.host"),
        ({"lamps": {"lamp": {"sends": "codes"}}}, "lamps.lamp.host"),
        ({"inputs": {"b": {"kind": "button", "host": "expander"}}}, "inputs.b.host"),
        ({"nodes": {"expander": {"choice": {"part": "family-a"}}}}, "nodes.expander.choice.part"),
    ],
)
def test_what_a_chip_is_too_slow_for_is_refused(patch: Any, field: str) -> None:
    with pytest.raises(PlanInvalid) as refused:
        check_parts(plan_with(CHIP, patch), CATALOG)
    assert refused.value.field == field


def test_its_sheets_say_what_it_is_and_lead_in_and_out_again() -> None:
    design = on("board-5v-20io", CHIP)
    findings = run_rules(design)
    sheet = sheet_of(design, findings, "pins.expander")
    assert sheet.sentence == "The one line has its pin."
    assert sheet.panels[0].lines == ("Its address is 32 (hex 20): its address pins stand for 0, all to ground.",)
    assert "5.00\u00a0V reaches the chip." in sheet_of(design, findings, "links.bus").sentence
    (hangs,) = [it for it in sheet_of(design, findings, "lamps.lamp").panels[0].choices if it.label == "Hangs on"]
    assert [(it.label, it.is_chosen) for it in hangs.options] == [("Board", False), ("Chip", True)]
    back = edit_plan(design.plan, hangs.options[0].patch)
    assert back.lamps["lamp"].host == "board"
    gone = edit_plan(design.plan, next(it.patch for it in sheet.moves if it.label.startswith("Take ")))
    assert ("expander" in gone.nodes, "bus" in gone.links, gone.lamps["lamp"].host) == (False, False, "board")
    add = next(it for it in sheet_of(design, findings, "pins.board").moves if it.label == "Add an expander")
    assert review(edit_plan(design.plan, add.patch), CATALOG).line.stages
    more = edit_plan(design.plan, next(it.patch for it in sheet.moves if it.label == "Add a red LED"))
    assert (more.lamps["lamp2"].host, more.rules["when_lamp2"].host) == ("expander", "board")
    assert not [it for it in review(more, CATALOG).findings if it.severity == "stop"]


def test_a_code_sender_is_a_request_of_its_own_and_is_not_called_clear() -> None:
    """Its carrier is made by the program, so that any output will do; nothing of it is rehearsed yet, and it says so."""
    led = {"lamps": {"lamp": {"sends": "codes", "channels": {"main": {"led": {"part": "led-infra-red"}}}}}}
    design = on("board-5v-20io", led)
    assert not_worked_out(design)["lamps.lamp"] == "the codes it sends: not worked out yet"
    told = [line for panel in sheet_of(design, (), "pins.board").panels for line in panel.lines]
    assert told == [
        "Lamp: while a burst of a code is sent the board hears nothing, for 9 ms at most.".replace("9 ms", "9\u00a0ms")
    ]
    trace = rehearse_design(design, [WordEvent(kind="word", t_s=0, talk="main", word="on")])
    assert trace.events[-1].lost_because == "the codes it sends: not worked out yet"
    (gives,) = [it for it in sheet_of(design, (), "lamps.lamp").panels[0].choices if it.label == "It gives"]
    assert (
        edit_plan(design.plan, gives.options[0].patch).lamps["lamp"]
        == plan_with({"lamps": {"lamp": {"channels": led["lamps"]["lamp"]["channels"]}}}).lamps["lamp"]
    )


def test_a_lamp_of_three_colours_goes_onto_a_chip_as_one() -> None:
    """Three dimmed RGB LEDs want nine PWM pins of six: with one of them on a dimmer chip the rest fit."""
    names = [f"l{n}" for n in range(3)]
    do = [{"verb": "colour", "target": it, "values": {"red": 0.5, "green": 0.2, "blue": 0.1}} for it in names]
    lamps = {it: {"kind": "rgb", "host": "board", "channels": {"red": {}, "green": {}, "blue": {}}} for it in names}
    design = on(
        "board-5v-20io",
        {"lamps": {"lamp": None, **lamps}, "rules": {"r1": {"host": "board", "when": {"heard": "on"}, "do": do}, "r2": None}},
    )
    fixes = [fix for it in run_rules(design, codes=["PIN-NO-FIT"]) for fix in it.fixes if "over two wires" in fix.label]
    assert [fix.label for fix in fixes] == ["Put 1 lamp on a dimmer chip over two wires"]
    after = resolve(edit_plan(design.plan, fixes[0].patch), CATALOG)
    assert [lamp.host for lamp in after.lamps.values()].count("dimmer") == 1
    assert all(pin.label for pin in after.pins)


def test_chips_at_another_place_come_together_and_one_that_cannot_be_reached_is_fed_as_the_board() -> None:
    """Found by a walk over drawn chips: of several on one bus only one was moved, and a long bus behind a shifter had no way out."""
    two = {
        "ends": {"far": {}},
        "nodes": {"expander": {"end": "far"}, "e2": {**CHIP["nodes"]["expander"], "end": "far"}},
        "links": {"bus2": {**BUS, "b": "e2"}},
    }
    design = on("board-5v-20io", CHIP, two)
    (found,) = run_rules(design, codes=["LVL-GROUND"])
    assert [fix.label for fix in found.fixes] == ["Put the 2 chips at the same end"]
    assert not run_rules(resolve(edit_plan(design.plan, found.fixes[0].patch), CATALOG), codes=["LVL-GROUND"])
    far = {
        "rails": {"three": {"end": "table", "fed_by": "board.supply_3v3"}},
        "signals": {f"bus.{lead}": {"wire": {"length_m": 20}, "shift": {"school": "direct"}} for lead in ("sda", "scl")},
    }
    design = on("board-wifi", CHIP, far)
    unheard = [it for it in run_rules(design, codes=["LVL-UNDER"]) if it.stage == "links.bus"]
    assert len(unheard) == 2
    for it in unheard:
        assert [fix.label for fix in it.fixes] == ["Feed the chip from Board's 3.3\u00a0V pin"]
        left = run_rules(resolve(edit_plan(design.plan, it.fixes[0].patch), CATALOG), codes=["LVL-UNDER"])
        assert it.key not in {other.key for other in left}
