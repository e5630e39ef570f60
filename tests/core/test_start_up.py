"""From power-on until the program runs: where pins stand, and what their lamps do. Facts of boards from memory."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.base import si
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.plan.document import Document, edit_plan, load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.resolve.start_up import Waking, wakings
from oddlamp.sheets.models import WakingPicture
from oddlamp.sheets.pins import pins_sheet
from tests.builders import CLEAR, PLANS, document, plan_with

CATALOG = load_catalog()
PULLED: Document = {"table": "boards", "like": "board-5v-20io", "label": "Pulled"}


def one(board: str, lamp: Document, pin: str, **more: Any) -> tuple[Waking, set[str]]:
    """A lamp on a pin of a board: what it does, and the codes told of it."""
    base = merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": board}}}})
    lamps = {"lamp": None, "it": {"host": "board", **lamp}}
    plan = plan_with({"lamps": lamps, "rules": None, "signals": {"it.main": {"pin": pin}}, **more}, base=base)
    design = resolve(plan, CATALOG)
    (found,) = [it for it in wakings(design, "board") if it.pin.line.owner_id == "it"]
    return found, {it.code for it in run_rules(design) if it.where == found.pin.key}


LED: Document = {"kind": "led", "channels": {"main": {}}}
STRIP: Document = {"kind": "strip", "drive": {"school": "mosfet", "choice": {"part": "mosfet-2v5"}}}


@pytest.mark.parametrize(
    ("board", "lamp", "pin", "does", "twitches"),
    [
        ("board-5v-20io", LED, "4", "stays dark", False),
        ("board-5v-20io", LED, "13", "flickers", False),
        ("board-5v-20io", {"kind": "buzzer"}, "13", "may click", True),
        ("board-5v-20io", {"kind": "buzzer"}, "12", "stays off", False),
        ("board-wifi", LED, "D3", "flickers", False),
        ("board-wifi", LED, "D0", "is on", False),
        ("board-wifi", {"kind": "relay", "choice": {"part": "relay-module-opto-high"}}, "D0", "is switched on", True),
        ("board-wifi", {"kind": "relay", "choice": {"part": "relay-module-opto-low"}}, "D5", "stays off", False),
        ("board-wifi", STRIP, "D0", "is on", True),
        ("board-wifi", STRIP, "D5", "stays dark", False),
        ("board-wifi-8pin", {"kind": "relay", "choice": {"part": "relay-coil-5v"}}, "GPIO0", "may click", True),
    ],
)
def test_what_a_lamp_does_before_the_program_runs(board: str, lamp: Document, pin: str, does: str, twitches: bool) -> None:
    found, codes = one(board, lamp, pin)
    assert found.does == does
    assert found.is_quiet == does.startswith("stays")
    assert ("PIN-BOOT-TWITCH" in codes) == twitches


def test_a_gate_that_nothing_holds_may_be_on() -> None:
    lamp = {**STRIP, "drive": {**STRIP["drive"], "values": {"has_pull_down": False}}}
    found, codes = one("board-5v-20io", lamp, "4")
    assert (found.stands_v, found.does) == (None, "may be on: nothing holds its gate")
    assert "DRV-GATE-PULLDOWN" in codes, "its own verdict"
    assert "PIN-BOOT-TWITCH" not in codes, "told once"


@pytest.mark.parametrize(
    ("pull", "does"), [("up 12k: 4", "glows a little"), ("up 330: 4", "is on"), ("down 12k: 4", "stays dark")]
)
def test_a_pull_of_the_board_lights_what_hangs_there(pull: str, does: str) -> None:
    """Ohm's law: 12 k from 5 V into an LED of about 2 V gives (5 - 2) V / 12 k = 0.25 mA, a hundredth of its current."""
    own = {"parts": {"own-x": {**PULLED, "board": {"ram_bytes": 2048, "top": "0-13", "pulls": pull}}}}
    plan = plan_with(own, base=merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": "own-x"}}}, **own}))
    plan = edit_plan(plan, {"signals": {"lamp.main": {"pin": "4"}}})
    (found,) = [it for it in wakings(resolve(plan, CATALOG), "board") if it.pin.line.owner_id == "lamp"]
    assert found.does.startswith(does)


@pytest.mark.parametrize("name", PLANS)
def test_where_a_strap_is_read_is_where_the_picture_has_it(name: str) -> None:
    """One fact, two views: the verdict on a strap and the start-up picture stand on the same volts."""
    design = resolve(load_plan(document(name)), CATALOG)
    seen = {it.pin.key: it for host in design.nodes for it in wakings(design, host)}
    for signal in design.signals.values():
        if signal.starts is not None and signal.pin is not None and seen[signal.pin.key].at_start == "floats":
            assert seen[signal.pin.key].stands_v == signal.starts.value


def test_the_sheet_tells_it_and_how_long_it_takes() -> None:
    plan = edit_plan(plan_with(), {"signals": {"lamp.main": {"pin": "13"}}})
    design = resolve(plan, CATALOG)
    panel = next(it for it in pins_sheet(design, design.nodes["board"], ()).panels if it.title == "Until the program runs")
    assert panel.note == "about 1\u00a0s, 70\u00a0ms to 2\u00a0s; Lamp flickers"
    (picture,) = panel.pictures
    assert isinstance(picture, WakingPicture)
    assert {row.name for row in picture.rows} == {pin.name for pin in design.pins}


def test_what_the_program_takes_is_told_of_timers_interrupts_and_deaf_times() -> None:
    """From memory: a bit of a one-wire pixel takes 1.25 us, 24 of them a pixel; a tone takes timer 2 of the 20-I/O board."""
    things = {
        "lamps": {
            "buzz": {"kind": "buzzer", "label": "Bell", "host": "board"},
            "px": {"kind": "pixels-one-wire", "label": "Storm", "host": "board", "layout": {"runs": [{"count": 100}]}},
        },
        "inputs": {"eye": {"kind": "remote-receiver", "label": "Eye", "host": "board"}},
    }
    design = resolve(plan_with(things), CATALOG)
    panel = next(it for it in pins_sheet(design, design.nodes["board"], ()).panels if it.title == "What the program takes")
    assert panel.lines == (
        "Bell: timer 2 for a tone, so 3 and 11 dim nothing.",
        f"Storm, data: each time its 100 pixels are written the board hears nothing for {si(100 * 24 * 1.25e-6, 's')}.",
        "Eye: the interrupt of its pin for the codes of a remote.",
    )
    bare = resolve(plan_with(), CATALOG)
    assert "What the program takes" not in [it.title for it in pins_sheet(bare, bare.nodes["board"], ()).panels]


def test_a_relay_on_gpio0_of_the_8_pin_module_has_verdicts_of_its_own_and_ways_out() -> None:
    """From memory: GPIO0 must be high at power-on; a base through its resistor holds it low. Each way out ends both."""
    relay = {"kind": "relay", "host": "board", "choice": {"part": "relay-coil-5v"}}
    base = merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": "board-wifi-8pin"}}}})
    left_out = {f"serial.{way}": {"is_omitted": True} for way in ("a_to_b", "b_to_a")}
    plan = plan_with(
        {"lamps": {"lamp": None, "bell": relay}, "rules": None, "signals": {"bell.main": {"pin": "GPIO0"}, **left_out}}, base=base
    )
    design = resolve(plan, CATALOG)
    found = {it.code: it for it in run_rules(design) if it.where == "bell.main" and it.code.startswith("PIN-")}
    assert (found["PIN-STRAP"].severity, found["PIN-BOOT-TWITCH"].severity) == ("stop", "look")
    for it in found.values():
        assert it.fixes
        for fix in it.fixes:
            after = run_rules(resolve(edit_plan(plan, fix.patch), CATALOG))
            assert not [left for left in after if left.code == it.code], fix.label
            assert {left.key for left in after if left.severity == "stop"} <= {left.key for left in run_rules(design)}, fix.label
