"""Drivers and loads: base and gate parts, what loads take, what the pins carry."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.checks.together import together_a
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.electrical.drivers import base_drive
from oddlamp.core.electrical.preferred import SERIES, preferred
from oddlamp.core.plan.document import Document
from oddlamp.core.resolve.resolve import resolve
from tests.builders import lamp, plan_with

E24 = sorted(preferred(d, m) for d in range(-2, 8) for m in SERIES["E24"])


def design(*patches: Document) -> Design:
    return resolve(plan_with(*patches), load_catalog())


def driven(school: str, **more: Any) -> Document:
    return {"lamps": {"lamp": {"drive": {"school": school, **more}}}}


def with_lamp(**fields: Any) -> LampDesign:
    return design({"lamps": {"it": {"host": "board", "rail": "five", **fields}}}).lamps["it"]


@given(st.floats(1.2, 12), st.floats(1e-3, 0.8))
def test_a_base_gets_a_tenth_by_the_largest_value_that_gives_it(pin_v: float, load_a: float) -> None:
    base = base_drive(pin_v=pin_v, base_emitter_v=0.8, collector_current_a=load_a)
    assert base.base_current_a >= load_a / 10 * (1 - 1e-9)
    larger = next(value for value in E24 if value > base.resistance_ohm * (1 + 1e-9))
    assert (pin_v - 0.8) / larger < load_a / 10


@given(st.floats(1.2, 12), st.floats(1e-3, 0.8), st.floats(10, 1e5))
def test_a_fitted_base_resistor_is_judged_as_it_is(pin_v: float, load_a: float, ohm: float) -> None:
    base = base_drive(pin_v=pin_v, base_emitter_v=0.8, collector_current_a=load_a, resistance_ohm=ohm)
    assert base.resistance_ohm == ohm
    assert base.forced_gain == pytest.approx(load_a * ohm / (pin_v - 0.8))


def test_an_npn_takes_its_saturation_from_the_led() -> None:
    """Arithmetic: (5.0 - 3.6 - 0.2) V over 20 mA is 60 ohm, and 62 ohm is the next of E24: 19.4 mA."""
    channel = design(driven("npn"), lamp(resistor_ohm=None)).lamps["lamp"].channels[0]
    assert channel.exact.value == pytest.approx(60)
    assert channel.resistor.value == 62
    assert channel.current.value == pytest.approx(1.2 / 62)
    assert channel.switch is not None
    assert channel.switch.base is not None
    assert channel.switch.base.forced_gain <= 10
    assert [design(driven("npn")).signals["lamp.main"].load.nominal_a] == [
        pytest.approx(channel.switch.base.base_current_a, rel=0.2)
    ]


def test_a_mosfet_gate_is_divided_by_its_pull_down() -> None:
    """Arithmetic: 5.0 V x 10k / (10k + 1k) is 4.55 V at the gate."""
    channel = design(driven("mosfet", values={"gate_ohm": 1000, "pull_down_ohm": 10_000})).lamps["lamp"].channels[0]
    assert channel.switch is not None
    assert channel.switch.gate is not None
    assert channel.switch.gate.value == pytest.approx(5 * 10 / 11)
    bare = design(driven("mosfet", values={"has_pull_down": False})).lamps["lamp"].channels[0].switch
    assert bare is not None
    assert bare.gate is not None
    assert bare.gate.value == pytest.approx(5.0)


@pytest.mark.parametrize(
    ("fields", "current_a"),
    [
        ({"kind": "relay"}, 5 / 70),
        ({"kind": "relay", "choice": {"part": "relay-coil-5v", "overrides": {"coil_ohm": {"value": 125}}}}, 0.04),
        ({"kind": "relay", "choice": {"part": "relay-module-opto-low"}}, 2e-3),
        ({"kind": "buzzer"}, 0.002),
        ({"kind": "buzzer", "choice": {"part": "buzzer-active"}}, 0.03),
        ({"kind": "strip", "choice": {"part": "strip-5v-warm"}, "length_m": "50 cm"}, 0.45),
        ({"kind": "strip", "choice": {"part": "strip-5v-warm"}}, 0.9),
        ({"kind": "matrix", "count": 4}, 4 * 0.33),
        ({"kind": "pixels-one-wire", "layout": {"runs": [{"count": 24}]}}, 1.44),
        ({"kind": "pixels-clocked", "layout": {"runs": [{"count": 12}, {"count": 12}]}}, 1.44),
    ],
)
def test_what_loads_take(fields: Document, current_a: float) -> None:
    """Arithmetic on part values from memory: V / R, metres, counts; a pixel is three colours of 20 mA."""
    load = with_lamp(**fields).load
    assert load is not None
    assert load.current.value == pytest.approx(current_a)


def test_a_coils_spread_is_that_of_supply_and_coil() -> None:
    """Arithmetic: 4.75 V over 77 ohm and 5.25 V over 63 ohm."""
    load = with_lamp(kind="relay").load
    assert load is not None
    assert (load.current.low, load.current.high) == (pytest.approx(4.75 / 77), pytest.approx(5.25 / 63))


@pytest.mark.parametrize("kind", ["relay", "strip", "pixels-one-wire"])
def test_loads_without_numbers_say_why(kind: str) -> None:
    bare: Document = {"nodes": {"board": {"rail": None}}, "lamps": {"it": {"kind": kind, "host": "board"}}}
    it = design(bare).lamps["it"]
    assert it.load is not None
    assert it.load.current.value is not None or it.open_because


def test_a_strip_is_driven_by_a_mosfet_unless_said() -> None:
    it = with_lamp(kind="strip")
    assert it.school is not None
    assert (it.school.id, it.school.origin) == ("mosfet", "proposed")
    assert it.switch is not None


def test_lamps_that_are_never_together_are_not_added_up() -> None:
    """Arithmetic: of a group that is never together only the largest counts."""
    lamps: Document = {
        "lamps": {f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {"led": {"part": "led-red"}}}} for n in range(4)}
    }
    alone: Document = {"groups": {"one": {"members": ["l0", "l1", "l2"], "never_together": True}}}
    for patches, count in (([lamps], 4), ([lamps, alone], 2)):
        made = design(*patches)
        loads = [(made.lamps[f"l{n}"], made.signals[f"l{n}.main"].load) for n in range(4)]
        assert together_a(made, loads)[0] == pytest.approx(count * 0.02, rel=0.01)


def test_a_source_with_resistance_of_its_own_sags_under_the_led() -> None:
    """Ohm's law: a coin cell of 15 ohm stands before the pin's own 25."""
    cell: Document = {"sources": {"usb": {"choice": {"part": "coin-cell-3v"}}}}
    channel = design(cell, lamp(led={"part": "led-red", "overrides": None}, resistor_ohm=100)).lamps["lamp"].channels[0]
    assert channel.branch is not None
    assert channel.branch.driver_resistance_ohm.value == 40
    assert channel.current_with_pin.value == pytest.approx(1.0 / 140)


def test_a_board_under_its_regulators_volts_stands_at_its_supply() -> None:
    cell: Document = {
        "sources": {"usb": {"choice": {"part": "coin-cell-3v"}}},
        "nodes": {"board": {"choice": {"part": "board-wifi"}}},
    }
    logic = design(cell).nodes["board"].logic
    assert logic is not None
    assert logic.value == 3.0
