"""Schools of level shift: what each gives by hand, and that what is offered is what one gets."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.design import CrossingDesign
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import rise_time_s, zener_current_a, zener_level
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.resolve import resolve
from oddlamp.core.review import review
from oddlamp.core.sheets.models import CurvePicture, Sheet
from tests.builders import CLEAR, PLANS, document, plan_with

KNEE = ((1e-4, 1.9), (1e-3, 2.5), (5e-3, 3.3), (2e-2, 3.8))
ALL: dict[str, Document] = {**{name: document(name) for name in PLANS}, "demo": demo_plan(), "clear": CLEAR}


def crossing(school: str, *patches: Document, way: str = "b_to_a", **values: float) -> CrossingDesign:
    shift = {
        "signals": {f"serial.{way}": {"shift": {"school": school, "values": {"upper_ohm": None, "lower_ohm": None, **values}}}}
    }
    return resolve(plan_with(shift, *patches), load_catalog()).crossings[f"serial.{way}"]


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


@pytest.mark.parametrize("school", ["mosfet", "gate", "diode"])
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
        for picture in (sheet.picture, sheet.curve, sheet.edge, *(panel.schematic for panel in sheet.panels)):
            assert picture is None or len(picture.text) > 5


def test_the_point_lies_on_the_curve_and_on_the_line() -> None:
    picture = review(plan_with(), load_catalog()).sheets["lamps.lamp"].curve
    assert isinstance(picture, CurvePicture)
    slope = (picture.line_to_v - picture.line_from_v) / picture.line_from_a
    assert picture.point_v == pytest.approx(picture.line_to_v - slope * picture.point_a, abs=1e-6)
    near = min(range(len(picture.steps_a)), key=lambda k: abs(picture.steps_a[k] - picture.point_a))
    assert math.isclose(picture.curve_v[near], picture.point_v, abs_tol=0.15)
    assert all(low <= middle <= high for low, middle, high in zip(picture.least_v, picture.curve_v, picture.most_v, strict=True))


@pytest.mark.parametrize(("school", "switch"), [("pin", None), ("npn", "npn"), ("mosfet", "mosfet")])
def test_the_circuit_shows_what_drives_it(school: str, switch: str | None) -> None:
    plan = plan_with({"lamps": {"lamp": {"drive": {"school": school}}}})
    panel = next(it for it in review(plan, load_catalog()).sheets["lamps.lamp"].panels if it.schematic is not None)
    assert panel.schematic is not None
    assert panel.schematic.switch == switch
    assert [part.symbol for part in panel.schematic.chain] == ["resistor", "led"]


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
