"""The SPICE text of a plan runs in a circuit solver as it is, and gives the review's currents and levels within a hundredth."""

import re
import subprocess
from pathlib import Path

import pytest

from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.spice import Deck, spice_deck
from oddlamp.core.design.design import Design
from oddlamp.core.design.walk import design_values
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from tests.builders import CLEAR, plan_with
from tests.core.bench.drawn import CATALOG, LABELS, drawn_design
from tests.core.bench.test_wiring import shipped
from tests.full import IS_PROOF

COUNT = 100 if IS_PROOF else 16
WITHIN = 0.01
FIGURE = re.compile(r"^([iv]\(\w+\)) = (\S+)$", re.MULTILINE)


def run(folder: Path, deck: Deck) -> dict[str, float]:
    """Run a deck with nothing added to it."""
    path = folder / "plan.cir"
    path.write_text(deck.text, encoding="ascii")
    done = subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, check=False, timeout=120)
    return {name: float(value) for name, value in FIGURE.findall(done.stdout)}


def agrees(folder: Path, design: Design) -> int:
    """Hold every figure to the review's value of that id; return how many there were."""
    deck = spice_deck(design, netlist(design))
    if not deck.asked:
        return 0
    figures, values = run(folder, deck), {it.id: it for it in design_values(design)}
    for it in deck.asked:
        wanted = values[it.value_id].known
        assert figures[it.name] == pytest.approx(wanted, rel=WITHIN, abs=1e-7), it
    return len(deck.asked)


@pytest.mark.parametrize("name", shipped())
def test_what_ships_runs_as_it_is(name: str, tmp_path: Path) -> None:
    agrees(tmp_path, resolve(load_plan(shipped()[name]), CATALOG))


def test_drawn_plans_give_the_reviews_currents(tmp_path: Path) -> None:
    found = [agrees(tmp_path, drawn_design(seed)) for seed in range(3000, 3000 + COUNT)]
    print(f"{sum(found)} figures of {sum(map(bool, found))} plans")
    assert sum(map(bool, found)) > COUNT / 3


def test_names_of_any_kind_are_no_commands(tmp_path: Path) -> None:
    """A label cannot end its comment, nor begin a card of its own."""
    lamps = {
        f"l{at}": {"kind": "led", "host": "board", "label": label}
        for at, label in enumerate((*LABELS, ".control quit", "$ x ; y", "\\n.end"))
    }
    board = {"nodes": {"board": {"choice": {"part": "board-5v-70io"}}}}
    design = resolve(plan_with(board, {"lamps": lamps, "title": "\u2028.end"}), CATALOG)
    assert agrees(tmp_path, design) == len(lamps) + 2, "each lamp, that of the plan, and its divider"


def test_a_plan_of_nothing_is_a_deck_too(tmp_path: Path) -> None:
    nothing = {key: CLEAR[key] for key in ("format", "schema_version", "title")}
    deck = spice_deck(resolve(load_plan(nothing), CATALOG), netlist(resolve(load_plan(nothing), CATALOG)))
    assert deck.asked == ()
    assert run(tmp_path, deck) == {}


@pytest.mark.parametrize("school", ["divider", "clamp", "mosfet", "diode"])
@pytest.mark.parametrize("way", ["a_to_b", "b_to_a"])
def test_every_shift_of_resistors_and_diodes_is_in_it(school: str, way: str, tmp_path: Path) -> None:
    design = resolve(plan_with({"signals": {f"serial.{way}": {"shift": {"school": school, "values": None}}}}), CATALOG)
    (level,) = [it for it in design.levels if it.id == f"serial.{way}"]
    deck = spice_deck(design, netlist(design))
    assert level.received.id in {it.value_id for it in deck.asked}
    assert agrees(tmp_path, design) == len(deck.asked)


def test_what_a_pin_gives_a_base_is_in_it(tmp_path: Path) -> None:
    design = resolve(plan_with({"lamps": {"lamp": {"rail": "five", "drive": {"school": "npn"}}}}), CATALOG)
    switch = design.lamps["lamp"].channels[0].switch
    assert switch is not None
    assert switch.pin.id in {it.value_id for it in spice_deck(design, netlist(design)).asked}
    assert agrees(tmp_path, design) >= 2
