"""Passages against a naive judge on drawn plans, and the rehearsal against passages: it judges nothing itself."""

from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from tests.builders import plan_with
from tests.full import IS_PROOF
from tests.reference.passages import Scene, arrives, judge
from tests.reference.rules import Branch

DRAWN = 2000 if IS_PROOF else 100
ON = [{"kind": "word", "t_s": 0, "talk": "main", "word": "on"}]


def spread(low: int, high: int) -> st.SearchStrategy[tuple[int, int, int]]:
    """Three whole numbers in order."""
    return st.tuples(*(st.integers(low, high),) * 3).map(lambda three: (sorted(three)[0], sorted(three)[1], sorted(three)[2]))


@st.composite
def scenes(draw: st.DrawFn) -> Scene:
    """A scene, most of it fit: so that each fault is also met alone."""
    supply_mv = draw(st.one_of(st.just((5000, 5000, 5000)), spread(4500, 5400)))
    forward_mv = draw(st.one_of(st.just((1800, 2000, 2200)), spread(1200, 4200)))
    resistor_ohm = draw(st.one_of(st.just(220), st.integers(20, 2000)))
    fit = st.one_of(st.just((1200, 2200)), st.tuples(st.integers(800, 9000), st.integers(800, 9000)))
    upper_ohm, lower_ohm = draw(fit)
    percent = draw(st.sampled_from([1, 5, 10]))
    seldom = st.integers(0, 5).map(lambda it: it == 0)
    return Scene(
        supply_mv=supply_mv,
        branch=Branch(supply_mv, forward_mv, resistor_ohm, percent, 20_000, 30_000),
        upper_ohm=upper_ohm,
        lower_ohm=lower_ohm,
        percent=percent,
        heard_percent=draw(st.sampled_from([60, 60, 55, 64, 66, 68, 75])),
        baud=draw(st.sampled_from([9600, 9600, 9600, 12_345])),
        speaks_classic=not draw(seldom),
        is_master=draw(seldom),
        is_grounded=not draw(seldom),
        pin=draw(st.sampled_from(["8", "9", "99"])),
        bus_pin=draw(st.sampled_from([None, None, "A4", "7", "99"])),
    )


def document_of(scene: Scene) -> tuple[Document, ...]:
    least, value, most = (volts / 1000 for volts in scene.supply_mv)
    low, drop, high = (volts / 1000 for volts in scene.branch.forward_mv)
    tolerance = scene.percent / 100
    led = {
        "overrides": {
            "forward_voltage_v": {"value": drop, "least": low, "most": high},
            "absolute_current_a": {"value": scene.branch.limit_ua / 1e6},
        }
    }
    channel = {
        "led": led,
        "resistor_ohm": scene.branch.resistor_ohm,
        "tolerance_ratio": tolerance,
        "wanted_current_a": scene.branch.wanted_ua / 1e6,
    }
    board = {"choice": {"overrides": {"input_high_ratio": {"value": scene.heard_percent / 100}}}}
    radio: Document = {"setup": {"role": "master" if scene.is_master else "slave"}}
    far: Document = {} if scene.is_grounded else {"ends": {"wing": {"label": "Wing"}}, "nodes": {"radio": {"end": "wing"}}}
    host = "board" if scene.bus_pin is None else "chip"
    chip: Document = {
        "nodes": {"chip": {"kind": "chip", "end": "table", "rail": "five", "choice": {"part": "expander-16"}}},
        "links": {"bus": {"kind": "wire", "a": "board", "b": "chip", "transport": "i2c"}},
        "signals": {"bus.sda": {"pin": scene.bus_pin}},
    }
    divider = {"upper_ohm": scene.upper_ohm, "lower_ohm": scene.lower_ohm, "tolerance_ratio": tolerance}
    return (
        chip if host == "chip" else {},
        {
            "sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": value, "least": least, "most": most}}}}},
            "nodes": {"phone": {"speaks": ["classic" if scene.speaks_classic else "wifi"]}, "board": board, "radio": radio},
            "links": {"serial": {"baud_rate_bd": scene.baud}},
            "lamps": {"lamp": {"host": host, "channels": {"main": channel}}},
            "signals": {
                "serial.b_to_a": {"shift": {"school": "divider", "values": divider}},
                "serial.a_to_b": {"shift": {"school": "direct"}},
                "lamp.main": {"pin": scene.pin if host == "board" else f"P{scene.pin}"},
            },
        },
        far,
    )


@settings(max_examples=DRAWN)
@given(scenes())
def test_passages_and_rehearsal_agree_with_a_naive_judge(scene: Scene) -> None:
    design = resolve(plan_with(*document_of(scene)), load_catalog())
    names = {"air": "air.a_to_b", "to module": "serial.b_to_a", "to board": "serial.a_to_b", "lamp": "lamp.main"}
    expected = judge(scene)
    assert {hop: design.passages[name].verdict for hop, name in names.items()} == expected
    (journey, *_) = show_run(design, rehearse_design(design, read_events(ON)), since_s=0).journeys
    comes = arrives(expected[hop] for hop in ("air", "to board", "lamp"))
    assert journey.is_lost == (comes == "does not")
    assert journey.is_lost or journey.is_doubted == (comes == "may not")
