"""The circuit of each drive and level shift: every part of it is in the drawing, by its letter, number and value; no two words on top of each other."""

import xml.etree.ElementTree as ET
from itertools import combinations

import pytest

from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.schematics import Sketch, schematics
from oddlamp.core.bench.wiring import Wiring, wiring
from oddlamp.core.design.design import Design
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.bench import list_files
from tests.builders import CLEAR, plan_with
from tests.core.bench.drawn import CATALOG, LABELS, drawn_design
from tests.core.bench.test_wiring import shipped
from tests.full import IS_PROOF

COUNT = 50 if IS_PROOF else 12
LETTER_PT = 5.6  # of a letter at 11 pt, a little more than half of its height
HIGH_PT = 10.0
SVG = "{http://www.w3.org/2000/svg}"


def sketches(design: Design) -> tuple[Wiring, list[Sketch]]:
    made = wiring(design, netlist(design))
    return made, list(schematics(design, made))


def words(svg: str) -> list[tuple[str, float, float, float, float]]:
    """Return each text of a drawing with the box it takes: left, top, right, bottom."""
    found = []
    for it in ET.fromstring(svg).iter(f"{SVG}text"):
        told = "".join(it.itertext()).strip()
        x, y, wide = float(it.attrib["x"]), float(it.attrib["y"]), LETTER_PT * len(told)
        anchor = it.attrib.get("text-anchor", "start")
        left = x - wide * {"start": 0.0, "middle": 0.5, "end": 1.0}[anchor]
        found.append((told, left, y - HIGH_PT / 2, left + wide, y + HIGH_PT / 2))
    return found


def hold(design: Design) -> int:
    """Hold every circuit of a design: its parts are in it, its words apart and inside the page."""
    made, found = sketches(design)
    for sketch in found:
        svg = sketch.draw()
        told = words(svg)
        text = " ".join(it[0] for it in told)
        lamp, _, lead = sketch.id.partition(".")
        for piece in made.circuit.pieces.values():
            is_first = piece.id.startswith(f"{sketch.id}.") and not piece.id[-1].isdigit()
            is_first |= piece.id in (f"{sketch.id}.resistor_1",)
            if is_first and piece.id in made.designators and piece.kind != "capacitor":
                assert f"{made.designators[piece.id]} " in text, (sketch.id, piece.id, text)
        left, top, wide, high = map(float, ET.fromstring(svg).attrib["viewBox"].split())
        for it in told:
            assert left <= it[1] and it[3] <= left + wide and top <= it[2] and it[4] <= top + high, (sketch.id, it)  # noqa: PT018
        for one, other in combinations(told, 2):
            apart = one[3] <= other[1] or other[3] <= one[1] or one[4] <= other[2] or other[4] <= one[2]
            assert apart, (sketch.id, one, other)
        assert lamp
        assert lead
    return len(found)


@pytest.mark.parametrize("name", shipped())
def test_what_ships_is_drawn(name: str) -> None:
    hold(resolve(load_plan(shipped()[name]), CATALOG))


def test_drawn_plans_are_drawn() -> None:
    assert sum(hold(drawn_design(seed)) for seed in range(5000, 5000 + COUNT)) > COUNT


@pytest.mark.parametrize("school", ["divider", "zener", "clamp", "mosfet", "diode", "gate"])
def test_every_school_of_shift_is_drawn_both_ways(school: str) -> None:
    shift = {"shift": {"school": school, "values": None}}
    design = resolve(plan_with({"signals": {"serial.a_to_b": shift, "serial.b_to_a": shift}}), CATALOG)
    assert hold(design) >= 3
    pulled = {name: {**shift, "pull_ohm": 10_000, "pull_to": "five"} for name in ("serial.a_to_b", "serial.b_to_a")}
    assert hold(resolve(plan_with({"signals": pulled}), CATALOG)) >= 3, "the line's own pull-up stands beside the shift's"


def test_every_load_and_drive_is_drawn_whatever_it_is_called() -> None:
    kinds = ("relay", "buzzer", "strip", "motor", "led", "rgb")
    lamps = {f"l{at}": {"kind": kind, "host": "board", "label": label} for at, (kind, label) in enumerate(zip(kinds * 2, (*LABELS, "$x$", "<script>a()</script>"), strict=False))}  # fmt: skip
    driven = {"lamp": {"rail": "five", "drive": {"school": "npn"}, "channels": {"main": {"in_parallel": 3}}}}
    board = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}}}}
    design = resolve(plan_with(board, {"lamps": lamps | driven}), CATALOG)
    assert hold(design) >= 10
    assert not [it for it in sketches(design)[1] if "<script" in it.draw()]


def test_each_is_a_file_and_another_is_refused() -> None:
    design = resolve(plan_with(), CATALOG)
    files = list_files(design, "schematics")
    assert set(files) == {f"circuit-{it.id}.svg" for it in sketches(design)[1]}
    assert list(list_files(design, "schematics", "lamp.main")) == ["circuit-lamp.main.svg"]
    with pytest.raises(OutOfRange):
        list_files(design, "schematics", "nobody.main")
    nothing = {key: CLEAR[key] for key in ("format", "schema_version", "title")}
    assert list_files(resolve(load_plan(nothing), CATALOG), "schematics") == {}
