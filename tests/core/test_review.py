"""The review of any plan: nothing raises, nothing unknown is called clear, everything is drawn."""

import random
from contextlib import suppress
from typing import Any

import pytest

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.design.lamps import ChannelDesign
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import Document, at_path, dump_plan, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.builds import build_many, can_be_built
from oddlamp.sheets.opening import opening
from oddlamp.sheets.review import Review, review
from tests.builders import CLEAR, EMPTY, PLANS, document, lamp, own_drop, patches_of, plan_with, presses_of
from tests.full import IS_PROOF, some

ALL: dict[str, Document] = {**{name: document(name) for name in PLANS}, "demo": demo_plan(), "clear": CLEAR, "empty": EMPTY}


def reviewed(plan: Plan) -> Review:
    return review(plan, load_catalog())


@pytest.mark.parametrize("name", ALL)
def test_every_plan_is_drawn_as_a_line(name: str) -> None:
    result = reviewed(load_plan(ALL[name]))
    line = result.line
    columns = {stage.id: stage.column for stage in line.stages}
    assert len(columns) == len(line.stages)
    assert all(columns[segment.a] < columns[segment.b] for segment in line.segments)
    assert len({(stage.column, stage.row) for stage in line.stages}) == len(line.stages)
    assert all(riser.stage in columns for riser in line.risers)
    assert {stage.id for stage in line.stages} <= set(result.sheets)
    drawn = {f"{kind}.{item}" for kind in ("lamps", "inputs", "links", "vocabularies") for item in ALL[name].get(kind, {})}
    assert drawn <= set(columns)


@pytest.mark.parametrize("name", ALL)
def test_what_is_not_worked_out_is_never_clear(name: str) -> None:
    result = reviewed(load_plan(ALL[name]))
    states = {stage.id: stage.state for stage in result.line.stages} | {rail.id: rail.state for rail in result.line.rails}
    for stage in result.not_yet:
        assert states[stage] != "clear", stage
    for value in result.values:
        assert (value.value is None) == (value.text == value.because), value.id
        if value.value is None and value.id.partition(".")[0] in ALL[name].get("lamps", {}):
            assert states[value.stage] != "clear", value.id


@pytest.mark.parametrize("name", ALL)
def test_every_rail_that_is_fed_is_worked_out(name: str) -> None:
    result = reviewed(load_plan(ALL[name]))
    assert not [it for it in result.not_yet if it.startswith("rails.")]
    assert all(" A" in it.numbers.replace("m", " ").replace("\u00a0", " ") for it in result.line.rails)


def test_an_input_that_no_rule_obeys_is_not_called_clear() -> None:
    not_yet = reviewed(load_plan(ALL["paper-moon"])).not_yet
    assert not_yet["inputs.cue"] == "no rule says yet what it sets off"
    assert "inputs.dimmer" not in not_yet, "a rule obeys it"


def test_the_smallest_plan_gives_its_known_numbers() -> None:
    result = reviewed(load_plan(document("smallest")))
    values = {value.id: value for value in result.values}
    assert values["lamp.main.current_a"].value == pytest.approx(0.028)
    assert values["serial.b_to_a.received_v"].value == pytest.approx(3.507, abs=5e-4)
    # 3.7906 V by the corners of the pair, and 1 uA through 1900 ohm beside 4935 ohm, 1.4 mV.
    assert values["serial.b_to_a.received_v"].max == pytest.approx(3.7920, abs=1e-4)
    assert values["serial.a_to_b.high_v"].max == pytest.approx(3.15), "0.6 x 5.25 V, from memory"
    assert values["serial.a_to_b.received_v"].min == pytest.approx(3.234), "3.3 V less 2 %"
    assert {(it.code, it.severity) for it in result.findings} >= {("LED-OVER", "look"), ("LVL-OVER", "look")}
    assert result.stops == ()


def test_the_proposed_resistor_is_visible_as_proposed_and_says_why() -> None:
    value = next(it for it in reviewed(plan_with(lamp(resistor_ohm=None))).values if it.id == "lamp.main.resistor_ohm")
    assert (value.value, value.origin) == (75.0, "proposed")
    assert value.because
    assert value.working[0].substituted.replace("\u00a0", " ") == "(5.00 V − 3.60 V) / 20 mA = 70 Ω"


def test_a_measured_value_wins_over_own_and_part() -> None:
    measured = {"measured": {"lamp.main.forward_voltage_v": {"value": 3.4, "unit": "V", "taken_at": "2026-01-01T10:00:00Z"}}}
    value = next(it for it in reviewed(plan_with(measured)).values if it.id == "lamp.main.forward_voltage_v")
    assert (value.value, value.origin) == (3.4, "measured")


@pytest.mark.parametrize("name", some(ALL, 8))
def test_every_press_the_screen_offers_is_understood(name: str) -> None:
    plan = load_plan(ALL[name])
    presses = list(presses_of(reviewed(plan)))
    seen: set[tuple[str, str]] = set()
    for stage, label, patch in presses:
        # Six lamps alike offer the same six times: of those that differ each sixth is pressed here, all of them in the proof.
        like = (type(plan.lamps.get(stage.partition(".")[2])).__name__ if stage.startswith("lamps.") else stage, label)
        if like in seen and not IS_PROOF:
            continue
        seen.add(like)
        if not IS_PROOF and len(seen) % PRESSED:
            continue
        after = edit_plan(plan, patch)
        check_parts(after, load_catalog())
        # The sheet it is pressed on is built again; walks of presses build any sheet.
        again = review(after, load_catalog(), stages=None if IS_PROOF else [stage])
        assert set(again.sheets) <= set(again.titles), label
        assert again.title == plan.title, label
    assert presses


PRESSED = 6
TYPED = ("0.001", "0.5", "1", "3.3", "10", "47", "1k", "1M", "20m", "1u", "100 %", "9600", "3 V (1 to 9 V)", "900")


@pytest.mark.parametrize("seed", range(60 if IS_PROOF else 4))
def test_a_long_walk_of_presses_and_typing_never_raises(seed: int) -> None:
    """From an empty project: each press is kept, what is typed is kept or refused, each plan round-trips, is reviewed and built."""
    chance = random.Random(seed)
    plan = load_plan(EMPTY)
    titles: list[str] = []
    for _ in range(40):
        seen = review(plan, load_catalog(), stages=[chance.choice(titles)] if titles and not IS_PROOF else None)
        titles = sorted(seen.titles)
        fields = [entry.path for sheet in seen.sheets.values() for panel in sheet.panels for entry in panel.entries]
        if fields and chance.random() < 0.5:
            with suppress(PlanInvalid):
                typed = edit_plan(plan, at_path(chance.choice(fields), chance.choice(TYPED)))
                check_parts(typed, load_catalog())
                plan = typed
        else:
            label, patch = chance.choice(list(patches_of(seen)) or [("nothing", {})])
            try:
                plan = edit_plan(plan, patch)
                check_parts(plan, load_catalog())
            except PlanInvalid as refused:
                raise AssertionError(f"{label} is offered and refused: {refused}") from refused
        assert load_plan(dump_plan(plan)) == plan
    design = resolve(plan, load_catalog())
    for it in [*(channel for one in design.lamps.values() for channel in one.channels), *design.levels]:
        if can_be_built(it):
            assert build_many(design, it.signal_id if isinstance(it, ChannelDesign) else it.id, seed=seed).builds == 10_000


@pytest.mark.parametrize(
    "patch",
    [
        lamp(**own_drop(900.0)),
        lamp(in_series=500),
        lamp(in_parallel=500, sharing="one"),
        lamp(tolerance_ratio=0.5),
        lamp(resistor_ohm=1e8, wanted_current_a=1e-9),
        {"rails": {"five": {"fed_by": None}}, "sources": {"usb": {"end": None}}},
        {"nodes": {"board": {"rail": None}}},
        {"rails": {"a": {"fed_by": "c"}}, "converters": {"c": {"from_rail": "a"}}, "nodes": {"board": {"rail": "a"}}},
        {"signals": {"serial.b_to_a": {"shift": {"values": {"tolerance_ratio": 0.5}}}}},
        {"links": {"second": {"kind": "wire", "a": "board", "b": "radio"}}},
        {"nodes": {"other": {"kind": "board"}}, "links": {"far": {"kind": "wire", "a": "board", "b": "other"}}},
        {"nodes": {"chip": {"kind": "chip"}}},
        {"vocabularies": {"words": {"words": {f"w{n}": {} for n in range(80)}}}},
        {"talks": {"back": {"a": "board", "b": "phone", "via": ["serial", "air"], "vocabulary": "words"}}},
        {"lamps": {"rgb": {"kind": "rgb", "host": "radio", "common": "anode"}}},
    ],
)
def test_strange_plans_are_reviewed_and_never_clear_of_what_is_missing(patch: Document) -> None:
    result = reviewed(plan_with(patch))
    assert len(result.line.stages) >= 8
    for value in result.values:
        assert value.value is not None or value.because


def test_a_common_anode_turns_the_drive_round() -> None:
    rgb: Document = {"lamps": {"moon": {"kind": "rgb", "host": "board", "common": "anode", "channels": {}}}}
    sheet = reviewed(plan_with(rgb)).sheets["lamps.moon"]
    assert "A low pin lights it" in sheet.detail
    values = {value.id: value for value in reviewed(plan_with(rgb)).values}
    assert [values[f"moon.{colour}.resistor_ohm"].value for colour in ("red", "green", "blue")] == [150.0, 91.0, 91.0]


def test_an_anode_above_its_pins_still_glows_and_says_so() -> None:
    """Kirchhoff and the curve: 1.7 V across a red LED and its resistor leaves about 0.2 mA, as is seen at the bench."""
    high: Document = {
        "nodes": {"board": {"choice": {"part": "board-wifi"}}},
        "lamps": {"moon": {"kind": "rgb", "host": "board", "common": "anode"}},
    }
    result = reviewed(plan_with(high))
    found = next(it for it in result.findings if it.key == "LED-GHOST@moon.red")
    assert found.severity == "look"
    ghost = next(value for value in result.values if value.id == "moon.red.ghost_a")
    assert ghost.value == pytest.approx(2e-4, rel=0.5)
    blue = next(value for value in result.values if value.id == "moon.blue.ghost_a")
    assert blue.value == pytest.approx(0, abs=2e-5)


def test_the_opening_asks_until_there_is_a_lamp() -> None:
    catalog = load_catalog()
    plan = load_plan(EMPTY)
    questions = opening(resolve(plan, catalog))
    assert questions is not None
    plan = edit_plan(plan, questions.choices[0].options[1].patch)  # the board with a radio of its own
    questions = opening(resolve(plan, catalog))
    assert questions is not None
    plan = edit_plan(plan, questions.lamps[0].patch)
    assert opening(resolve(plan, catalog)) is None
    result = review(plan, catalog)
    assert [stage.kind for stage in result.line.stages] == ["handset", "air", "words", "behaviour", "pins", "lamp"]


def test_pins_are_the_first_calm_ones_that_can() -> None:
    """Facts of the 20 I/O board, from memory: 0 and 1 upload, 13 lights the status LED, PWM on 3, 5, 6, 9, 10, 11."""
    design = resolve(load_plan(demo_plan()), load_catalog())
    used: dict[str, Any] = {pin.signal_id: pin.label for pin in design.pins}
    assert {used["moon.red"], used["moon.green"], used["moon.blue"]} == {"9", "10", "11"}
    assert not {"0", "1", "13"} & set(used.values())
    assert len(set(used.values())) == len(used)
