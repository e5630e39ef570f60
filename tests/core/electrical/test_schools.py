"""Schools of level shift: what each gives by hand, and that what is offered is what one gets."""

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import rise_time_s, shifter_edge_s, zener_current_a, zener_level
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.charts import ChartPicture
from oddlamp.sheets.models import Schematic, Sheet
from oddlamp.sheets.review import review
from tests.builders import CLEAR, PLANS, document, plan_with

KNEE = ((1e-4, 1.9), (1e-3, 2.5), (5e-3, 3.3), (2e-2, 3.8))
ALL: dict[str, Document] = {**{name: document(name) for name in PLANS}, "demo": demo_plan(), "clear": CLEAR}


def crossing(school: str, *patches: Document, way: str = "b_to_a", **values: float) -> LevelDesign:
    shift = {
        "signals": {f"serial.{way}": {"shift": {"school": school, "values": {"upper_ohm": None, "lower_ohm": None, **values}}}}
    }
    return resolve(plan_with(shift, *patches), load_catalog()).signals[f"serial.{way}"].level


def test_a_zener_is_soft() -> None:
    """Kirchhoff by hand at the knee's own point: 5 mA through 340 ohm from 5 V leave 3.3 V."""
    five = Spread(least=5, value=5, most=5)
    assert zener_level(five, series_ohm=340, tolerance_ratio=0, knee=KNEE).voltage_v.value == pytest.approx(3.3, abs=1e-6)
    weak = zener_level(five, series_ohm=10_000, tolerance_ratio=0, knee=KNEE).voltage_v.value
    assert weak < 2.3, "through 10k a 3.3 V zener holds far less than its name: never an ideal clamp"


@given(st.floats(0.1, 6), st.floats(0.001, 0.5))
def test_a_zeners_current_rises_with_its_volts(volts: float, more: float) -> None:
    assert zener_current_a(volts + more, KNEE) > zener_current_a(volts, KNEE)


def test_a_clamp_must_take_what_the_resistor_lets_through() -> None:
    """Ohm's law: (5.25 - 3.234 - 0.6) V over 9.5 kohm is 0.149 mA at worst."""
    it = crossing("clamp", series_ohm=10_000)
    assert it.injected_a == pytest.approx((5.25 - 3.234 - 0.6) / 9500)
    assert it.received.value == pytest.approx(3.9)


def test_a_diode_holds_the_line_a_drop_over_what_is_sent_and_at_the_receivers_own_supply_where_that_is_less() -> None:
    """3.3 V + 0.6 V upwards, however far the pull-up would go; downwards the diode leads nothing (Kirchhoff's laws)."""
    up, down = crossing("diode", way="a_to_b"), crossing("diode")
    assert up.received.value == pytest.approx(3.9)
    assert (up.received.low, up.received.high) == (pytest.approx(up.sent.low + 0.5), pytest.approx(up.sent.high + 0.75))
    assert down.received.value == pytest.approx(3.3)


@pytest.mark.parametrize("school", ["mosfet", "gate"])
def test_pulled_and_driven_lines_reach_the_receivers_own_supply(school: str) -> None:
    assert crossing(school).received.value == pytest.approx(3.3)
    assert crossing(school, way="a_to_b").received.value == pytest.approx(5.0)


@pytest.mark.parametrize(
    ("school", "values", "ohm", "more_f"),
    [
        ("divider", {"upper_ohm": 1000, "lower_ohm": 2000}, 2000 / 3, 0),
        ("zener", {"series_ohm": 470}, 470, 3e-10),
        ("clamp", {"series_ohm": 10_000}, 10_000, 0),
        ("diode", {"pull_ohm": 10_000}, 10_000, 0),
    ],
)
def test_edges_by_resistance_and_capacitance(school: str, values: dict[str, float], ohm: float, more_f: float) -> None:
    """2.2 R C with 10 pF of input and 100 pF a metre, from memory; half a metre of wire."""
    wire: Document = {"signals": {"serial.b_to_a": {"wire": {"length_m": 0.5}}}}
    rise = crossing(school, wire, **values).rise.value
    assert rise == pytest.approx(rise_time_s(resistance_ohm=ohm, capacitance_f=6e-11 + more_f))
    assert rise_time_s(resistance_ohm=1000, capacitance_f=1e-9) == pytest.approx(2.197e-6, rel=1e-3)


def test_a_pull_down_at_the_receiver_loads_its_divider() -> None:
    """Arithmetic: 2000 beside 10 000 ohm is 1667, and 5 V over 1000 and 1667 leave 3.125 V."""
    loaded: Document = {"signals": {"serial.b_to_a": {"pull_ohm": 10_000, "pull_to": "ground"}}}
    assert crossing("divider", loaded, upper_ohm=1000, lower_ohm=2000).received.value == pytest.approx(3.125)


def hook_ups(plan_document: Document) -> list[tuple[str, Sheet]]:
    result = review(load_plan(plan_document), load_catalog())
    return [
        (stage, sheet)
        for stage, sheet in result.sheets.items()
        if any(p.choices and p.choices[-1].label == "How it crosses" for p in sheet.panels)
    ]


@pytest.mark.parametrize("name", ALL)
def test_what_a_school_is_said_to_give_is_what_one_gets(name: str) -> None:
    plan = load_plan(ALL[name])
    seen = 0
    for stage, sheet in hook_ups(ALL[name]):
        for panel in sheet.panels:
            for choice in (it for it in panel.choices if it.label == "How it crosses"):
                for option in choice.options:
                    after = review(edit_plan(plan, option.patch), load_catalog(), stages=[stage])
                    same = [it for it in after.sheets[stage].panels if it.title == panel.title]
                    again = next(it for that in same for it in that.choices if it.label == "How it crosses")
                    chosen = next(it for it in again.options if it.is_chosen)
                    assert (chosen.label, chosen.detail, chosen.state) == (option.label, option.detail, option.state)
                    seen += 1
    assert seen or name in ("foyer-star", "prompters-nudge")


@pytest.mark.parametrize("name", ALL)
def test_pictures_say_in_words_what_they_draw(name: str) -> None:
    for sheet in review(load_plan(ALL[name]), load_catalog()).sheets.values():
        for picture in (*sheet.pictures, *(it for panel in sheet.panels for it in panel.pictures)):
            assert len(picture.text) > 5


@pytest.mark.parametrize("channel", [{}, {"in_parallel": 3}, {"in_parallel": 3, "sharing": "one"}, {"resistor_ohm": 1000}])
@pytest.mark.parametrize("school", ["pin", "npn", "mosfet"])
def test_the_point_lies_on_the_curve_and_on_the_line(channel: Document, school: str) -> None:
    patch = {"lamps": {"lamp": {"drive": {"school": school}, "channels": {"main": channel}}}}
    pictures = review(plan_with(patch), load_catalog()).sheets["lamps.lamp"].pictures
    picture = next(it for it in pictures if isinstance(it, ChartPicture) and it.y is not None)
    spread, curve, line = (it.points for it in picture.strokes)
    (point,) = picture.dots
    (from_v, from_a), (to_v, _) = line
    assert point.x == pytest.approx(to_v - (to_v - from_v) / from_a * point.y, abs=1e-6)
    near = min(curve, key=lambda it: abs(it[1] - point.y))
    assert math.isclose(near[0], point.x, abs_tol=0.15)
    least, most = spread[: len(curve)], spread[: len(curve) - 1 : -1]
    assert all(low <= middle <= high for (low, _), (middle, _), (high, _) in zip(least, curve, most, strict=True))


@pytest.mark.parametrize(("school", "switch"), [("pin", None), ("npn", "npn"), ("mosfet", "mosfet")])
def test_the_circuit_shows_what_drives_it(school: str, switch: str | None) -> None:
    plan = plan_with({"lamps": {"lamp": {"drive": {"school": school}}}})
    panels = review(plan, load_catalog()).sheets["lamps.lamp"].panels
    circuit = next(it for panel in panels for it in panel.pictures if isinstance(it, Schematic))
    assert circuit.switch == switch
    assert [part.symbol for part in circuit.chain] == ["resistor", "led"]


@pytest.mark.parametrize("name", ALL)
def test_every_step_a_field_offers_is_taken(name: str) -> None:
    plan = load_plan(ALL[name])
    for sheet in review(plan, load_catalog()).sheets.values():
        for entry in (it for panel in sheet.panels for it in panel.entries):
            for step in (entry.lower, entry.higher):
                if step is not None:
                    patch: Document = {}
                    here = patch
                    for key in entry.path[:-1]:
                        here = here.setdefault(key, {})
                    here[entry.path[-1]] = step
                    edit_plan(plan, patch)


PIXELS: Document = {
    "nodes": {"board": {"choice": {"part": "board-wifi"}}},
    "lamps": {"px": {"kind": "pixels-one-wire", "host": "board", "rail": "five", "layout": {"runs": [{"count": 5}]}}},
    "signals": {"px.data": {"series_ohm": 330}},
}


def test_a_diode_lifts_the_low_and_the_sender_sinks_the_pull_up() -> None:
    """Kirchhoff by hand: (3.3 - 0.6) V / 10 kohm is 0.27 mA; it lifts the low by 0.27 mA through the board's 25 ohm to 0.607 V."""
    it = crossing("diode", pull_ohm=10_000)
    assert it.carried.value == pytest.approx(2.7e-4)
    assert it.rests.value == pytest.approx(0.6 + 2.7e-4 * 25)
    assert it.rests.high > 0.75, "at worst the diode drops 0.75 V"


def test_a_mosfet_shifters_sender_sinks_both_pull_ups() -> None:
    """Ohm's law: (5.0 + 3.3) V / 1 kohm is 8.3 mA, twice what a small radio's pin should carry."""
    it = crossing("mosfet", pull_ohm=1_000)
    assert it.carried.value == pytest.approx(8.3e-3)
    assert it.rests.value == pytest.approx(8.3e-3 * 25)


def test_a_divider_draws_from_its_sender() -> None:
    assert crossing("divider", upper_ohm=1_200, lower_ohm=2_200).carried.value == pytest.approx(5 / 3_400)
    assert crossing("direct").carried.value == 0


STRAIGHT: Document = {"signals": {"px.data": {"shift": {"school": "direct"}}}}


def test_a_first_pixel_behind_a_diode_hears_what_a_3v3_pin_says() -> None:
    """Arithmetic: 0.7 (5.0 - 0.7) V is 3.01 V, under the 3.3 V that come; straight it is 3.5 V and 0.2 V are missing."""
    assert resolve(plan_with(PIXELS), load_catalog()).signals["px.data"].level.school.id == "gate", "proposed, and clear"
    straight = resolve(plan_with(PIXELS, STRAIGHT), load_catalog()).signals["px.data"].level
    assert straight.high.known - straight.received.known == pytest.approx(0.2)
    fed = (
        resolve(plan_with(PIXELS, {"signals": {"px.data": {"shift": {"school": "diode-fed"}}}}), load_catalog())
        .signals["px.data"]
        .level
    )
    assert fed.high.known == pytest.approx(3.01)
    assert fed.received.known == pytest.approx(3.3)
    assert fed.limit.known == pytest.approx(4.3 + 0.3)
    assert fed.drop is not None
    assert fed.drop.origin == "proposed"
    own = plan_with(PIXELS, {"signals": {"px.data": {"shift": {"school": "diode-fed", "values": {"diode_v": "0.5 V"}}}}})
    assert resolve(own, load_catalog()).signals["px.data"].level.high.known == pytest.approx(0.7 * 4.5)


def test_pixels_that_do_not_hear_are_offered_the_diode() -> None:
    plan = plan_with(PIXELS, STRAIGHT)
    found = next(it for it in review(plan, load_catalog()).findings if it.code == "PIX-DATA-LEVEL")
    way = next(it for it in found.fixes if "diode" in it.label)
    mended = review(edit_plan(plan, way.patch), load_catalog())
    left = [it for it in mended.findings if it.code == "PIX-DATA-LEVEL"]
    assert [it.severity for it in left] == ["look"], "clear at nominal values; 0.02 V short at worst: 3.23 against 3.26 V"
    assert mended.sheets["lamps.px"].kind == "lamp"


def test_a_module_that_is_on_when_high_is_on_when_high() -> None:
    """Ohm's law: (5.0 - 3.0) V / 1 kohm is 2 mA from a 5 V pin; (3.3 - 3.0) V / 1 kohm is 0.3 mA, too little to pull in."""
    bell: Document = {
        "lamps": {"bell": {"kind": "relay", "host": "board", "rail": "five", "choice": {"part": "relay-module-opto-high"}}}
    }
    load = resolve(plan_with(bell), load_catalog()).lamps["bell"].load
    assert load is not None
    assert load.current.value == pytest.approx(2e-3)
    assert load.off_current is not None
    assert load.off_current.value == 0
    weak = resolve(plan_with(bell, {"nodes": {"board": {"choice": {"part": "board-wifi"}}}}), load_catalog()).lamps["bell"].load
    assert weak is not None
    assert weak.current.value == pytest.approx(3e-4)
    high = review(plan_with(bell), load_catalog())
    assert high.sheets["lamps.bell"].sentence.endswith("when its pin is high.")


def test_a_supply_of_its_own_is_fed_back_into() -> None:
    """Ohm's law: (5.0 - 0.6) V / (330 + 25) ohm is 12 mA into pixels whose adapter is off."""
    two: Document = {
        "nodes": {"board": {"choice": {"part": "board-5v-20io"}}},
        "sources": {"other": {"end": "table", "choice": {"part": "adapter-5v-1a"}}},
        "rails": {"px": {"end": "table", "fed_by": "other"}},
        "lamps": {"px": {"rail": "px"}},
    }
    found = next(it for it in review(plan_with(PIXELS, two), load_catalog()).findings if it.code == "SUP-BACKFEED")
    assert "12 mA" in found.message.replace("\u00a0", " ")
    assert found.numbers["fed_a"] == pytest.approx(4.4 / 355)


KEY: Document = {"nodes": {"radio": {"setup": {"key_from": "board"}}}}


def test_a_key_pin_held_by_a_5_v_board_is_a_wire_between_two_supplies() -> None:
    """JESD8C: the pin reaches its own 5 V; the divider proposed brings 3.24 V, under the stated 3.6 V."""
    plan = plan_with(KEY)
    design = resolve(plan, load_catalog())
    key = design.signals["radio.key"].level
    assert key.school.id == "divider"
    assert key.received.known == pytest.approx(5 * 2.2 / 3.4)
    assert design.signals["radio.key"].pin.label is not None
    shown = review(plan, load_catalog()).sheets["links.serial"]
    assert "Board to the key pin" in [panel.title for panel in shown.panels]


def test_a_straight_wire_to_a_key_pin_is_a_stop_and_no_key_is_wired_unless_asked_for() -> None:
    straight: Document = {"signals": {"radio.key": {"shift": {"school": "direct"}}}}
    found = [it for it in review(plan_with(KEY, straight), load_catalog()).findings if it.code == "LVL-OVER"]
    assert [(it.where, it.severity) for it in found] == [("radio.key", "stop")]
    assert "The module's key pin gets 5.00 V" in found[0].message.replace("\u00a0", " ")
    assert "radio.key" not in resolve(plan_with(), load_catalog()).signals
    wifi: Document = {"nodes": {"board": {"choice": {"part": "board-wifi"}}}}
    assert resolve(plan_with(KEY, wifi), load_catalog()).signals["radio.key"].level.school.id == "direct"


@pytest.mark.parametrize(("goes_up", "passes_from_v"), [(True, 1.1), (False, 2.1)])
@pytest.mark.parametrize("gate_v", [0.0, 0.5, 0.6, 0.85, 1.1, 2.0, 5.0])
def test_a_shifter_that_passes_nothing_rises_by_its_pull_up_alone(gate_v: float, goes_up: bool, passes_from_v: float) -> None:
    """RC edge: ln 9 R C where the MOSFET passes nothing, less where it passes something; its body diode only helps upwards."""
    rise_s = shifter_edge_s(
        pull_ohm=1e4, capacitance_f=3e-11, rail_v=5.0, gate_v=gate_v, threshold_v=1.6, sender_ohm=25, goes_up=goes_up
    )
    alone_s = math.log(9) * 1e4 * 3e-11
    assert rise_s == pytest.approx(alone_s) if gate_v <= passes_from_v else 0 < rise_s < alone_s


def test_other_schools_are_judged_without_the_diode_that_is_chosen() -> None:
    """3.3 V into 5 V pixels: 0.7 * 5.0 = 3.5 V is not reached by a straight wire, whatever is chosen now."""
    px = {"kind": "pixels-one-wire", "host": "board", "rail": "five", "layout": {"runs": [{"count": 8}]}}
    board = {"nodes": {"board": {"choice": {"part": "board-wifi"}}}, "lamps": {"px": px}}

    def offered(school: str) -> dict[str, tuple[str, Any]]:
        plan = plan_with({**board, "signals": {"px.data": {"shift": {"school": school}}}})
        panels = review(plan, load_catalog()).sheets["lamps.px"].panels
        choice = next(it for panel in panels for it in panel.choices if it.label == "How it crosses")
        return {it.label: (it.detail, it.state) for it in choice.options}

    assert offered("diode-fed") == offered("direct")
    assert offered("diode-fed")["Straight wire"] == ("3.30\u00a0V", "stop")


def test_a_first_pixel_behind_more_drop_than_its_rail_has_is_told_and_not_an_error() -> None:
    px = {"kind": "pixels-one-wire", "host": "board", "rail": "five", "layout": {"runs": [{"count": 8}]}}
    shift = {"school": "mosfet", "values": {"diode_v": 1000}}
    for school in ("mosfet", "diode-fed"):
        plan = plan_with({"lamps": {"px": px}, "signals": {"px.data": {"shift": {**shift, "school": school}}}})
        assert review(plan, load_catalog()).sheets["lamps.px"].pictures
    nothing = {"sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": 1e-9}}}}}}
    assert review(plan_with({"lamps": {"px": px}, "signals": {"px.data": {"shift": shift}}}, nothing), load_catalog()).findings
