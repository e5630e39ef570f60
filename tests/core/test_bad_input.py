"""Zero, negative, infinite, absurd, contradictory: refused at the field in words, or reviewed; never a traceback, NaN or blank."""

import json
import re
from collections.abc import Iterator

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import Document, at_path, edit_plan, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.sheets.review import Review, review
from oddlamp.sheets.shown import in_full
from tests.builders import CLEAR, document, lamp, plan_with
from tests.full import IS_PROOF

DRIVEN: Document = merge_patch(
    CLEAR,
    {
        "lamps": {
            "npn": {"kind": "led", "host": "board", "drive": {"school": "npn"}},
            "fet": {"kind": "rgb", "host": "board", "common": "anode", "drive": {"school": "mosfet"}},
            "strip": {"kind": "strip", "host": "board"},
            "relay": {"kind": "relay", "host": "board"},
            "px": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 9}]}},
        },
        "inputs": {"knob": {"kind": "knob", "host": "board"}},
        "signals": {"serial.b_to_a": {"shift": {"school": "zener", "values": None}}},
    },
)
PLANS: dict[str, Document] = {"demo": demo_plan(), "driven": DRIVEN, "smallest": document("smallest")}
TYPED = [
    "0",
    "-5",
    "1e400",
    "inf",
    "nan",
    "900 V",
    "900",
    "1e-12",
    "1e8",
    "5 %",
    "4k7",
    "one",
    "",
    "  ",
    "٣",
    "0x10",
    "1,234",
    "9" * 60,
]


def paths(result: Review) -> Iterator[tuple[str, ...]]:
    for sheet in result.sheets.values():
        for panel in sheet.panels:
            yield from (entry.path for entry in panel.entries)
        yield from (row.sent.path for row in sheet.words)


def whole(result: Review) -> None:
    """Nothing shown is blank or no number, and all of it can be sent."""
    text = json.dumps(in_full(result).model_dump(mode="json"), allow_nan=False)
    assert not re.search(r"\b(nan|inf)\s*[pnmkMGµ]?(V|A|Ω|W|s|Bd)\b", text)
    for value in result.values:
        assert value.text, value.id
        assert value.value is not None or value.because, value.id
    for sheet in result.sheets.values():
        assert sheet.sentence
        assert sheet.detail


def taken(plan: Plan, patch: Document) -> tuple[Plan | None, PlanInvalid | None]:
    """Return the edited plan, or why it was refused."""
    try:
        return edit_plan(plan, patch), None
    except PlanInvalid as refused:
        return None, refused


@pytest.mark.parametrize("name", PLANS)
def test_every_field_takes_or_refuses_whatever_is_typed(name: str) -> None:
    plan = load_plan(PLANS[name])
    catalog = load_catalog()
    tried = 0
    # One field of each kind, and all of them in the proof: six lamps alike have the same fields six times.
    kinds = {path if IS_PROOF else (path[0], *path[2:]): path for path in paths(review(plan, catalog))}
    for number, path in enumerate(kinds.values()):
        for typed in TYPED if IS_PROOF else TYPED[number % 24 :: 24]:  # a little of it at each field, all in the proof
            after, refused = taken(plan, at_path(path, typed or None))
            if after is None:
                assert refused is not None
                assert refused.allowed, (path, typed)
                assert refused.problems[0].field, (path, typed)
                continue
            whole(review(after, catalog, stages=["lamps.lamp", "links.serial"]))
            tried += 1
    assert tried > (20 if IS_PROOF else 4)
    assert len(kinds) > 10


FIGURES = st.sampled_from([1e-9, 1e-3, 0.02, 0.5, 1.0, 3.3, 5.0, 12.0, 70.0, 1e3, 1e6, 1e8])


@settings(max_examples=150)
@given(
    supply_v=FIGURES.filter(lambda v: v <= 1000),
    drop_v=FIGURES.filter(lambda v: v <= 1000),
    ohm=FIGURES,
    wanted_a=FIGURES.filter(lambda a: a <= 100),
    series=st.integers(1, 500),
    parallel=st.integers(1, 500),
    sharing=st.sampled_from(["each", "one"]),
    school=st.sampled_from(["pin", "npn", "mosfet"]),
    tolerance=st.sampled_from([0, 0.01, 0.5]),
)
def test_absurd_lamps_are_reviewed(
    supply_v: float,
    drop_v: float,
    ohm: float,
    wanted_a: float,
    series: int,
    parallel: int,
    sharing: str,
    school: str,
    tolerance: float,
) -> None:
    channel = {
        "led": {"overrides": {"forward_voltage_v": {"value": drop_v}}},
        "resistor_ohm": ohm,
        "wanted_current_a": wanted_a,
        "in_series": series,
        "in_parallel": parallel,
        "sharing": sharing,
        "tolerance_ratio": tolerance,
    }
    patch: Document = {
        "sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": supply_v}}}}},
        "lamps": {"lamp": {"drive": {"school": school}, "channels": {"main": channel}}},
    }
    whole(review(load_plan(merge_patch(CLEAR, patch)), load_catalog(), stages=["lamps.lamp", "pins.board"]))


@settings(max_examples=150)
@given(
    school=st.sampled_from(["direct", "divider", "zener", "clamp", "mosfet", "gate", "diode"]),
    supply_v=FIGURES.filter(lambda v: v <= 1000),
    one=FIGURES,
    other=FIGURES,
    baud=st.sampled_from([50, 9600, 4_000_000]),
    length_m=st.sampled_from([0, 0.2, 10_000]),
)
def test_absurd_hook_ups_are_reviewed(school: str, supply_v: float, one: float, other: float, baud: int, length_m: float) -> None:
    values = {"upper_ohm": one, "lower_ohm": other, "series_ohm": one, "pull_ohm": other}
    signal = {"shift": {"school": school, "values": values}, "wire": {"length_m": length_m}}
    patch: Document = {
        "sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": supply_v}}}}},
        "signals": {"serial.b_to_a": signal, "serial.a_to_b": signal},
        "links": {"serial": {"baud_rate_bd": baud}},
    }
    whole(review(load_plan(merge_patch(CLEAR, patch)), load_catalog(), stages=["links.serial"]))


@pytest.mark.parametrize(
    ("patch", "field"),
    [
        ({"drawer": "100, 9 V"}, "drawer"),
        ({"drawer": ["0"]}, "drawer"),
        ({"lamps": {"lamp": {"channels": {"main": {"in_series": 0}}}}}, "lamps.lamp.channels.main.in_series"),
        ({"lamps": {"lamp": {"drive": {"values": {"base_ohm": "-1"}}}}}, "lamps.lamp.drive.values.base_ohm"),
        ({"lamps": {"lamp": {"drive": {"school": "valve"}}}}, "lamps.lamp.drive.school"),
        ({"lamps": {"lamp": {"kind": "strip", "channels": None, "length_m": "3 kohm"}}}, "lamps.lamp.length_m"),
        ({"inputs": {"k": {"kind": "knob", "host": "board", "rail": "none"}}}, "inputs.k.rail"),
        ({"signals": {"serial.b_to_a": {"shift": {"school": "magic"}}}}, "signals.serial.b_to_a.shift.school"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(patch: Document, field: str) -> None:
    with pytest.raises(PlanInvalid) as refused:
        edit_plan(load_plan(CLEAR), patch)
    assert refused.value.problems[0].field.startswith(field)


def test_a_drawer_is_read_as_people_write_it() -> None:
    for typed in ("100, 220; 4k7", "100 220 4k7", ["100", 220, "4k7"]):
        assert edit_plan(load_plan(CLEAR), {"drawer": typed}).drawer == (100, 220, 4700)


@pytest.mark.parametrize(
    ("lamp", "field"),
    [
        ({"kind": "relay", "choice": {"part": "candle"}}, "lamps.it.choice.part"),
        ({"kind": "relay", "choice": {"part": "strip-5v-warm"}}, "lamps.it.choice.part"),
        ({"kind": "strip", "choice": {"part": "buzzer-piezo"}}, "lamps.it.choice.part"),
        ({"kind": "matrix", "choice": {"part": "candle"}}, "lamps.it.choice.part"),
        ({"kind": "pixels-clocked", "choice": {"part": "pixel-one-wire-5v"}}, "lamps.it.choice.part"),
        ({"kind": "led", "drive": {"school": "npn", "choice": {"part": "mosfet-2v5"}}}, "lamps.it.drive.choice.part"),
        ({"kind": "rgb", "drive": {"choice": {"part": "valve"}}}, "lamps.it.drive.choice.part"),
        ({"kind": "led", "channels": {"main": {"led": {"part": "candle"}}}}, "lamps.it.channels.main.led.part"),
    ],
)
def test_parts_that_are_not_there_or_of_another_kind_are_refused_before_anything_is_kept(lamp: Document, field: str) -> None:
    plan = edit_plan(load_plan(CLEAR), {"lamps": {"it": {"host": "board", **lamp}}})
    with pytest.raises(PlanInvalid) as refused:
        check_parts(plan, load_catalog())
    assert [problem.field for problem in refused.value.problems] == [field]
    assert "one of " in refused.value.problems[0].allowed


@pytest.mark.parametrize("kind", ["relay", "buzzer", "strip", "matrix", "pixels-one-wire", "pixels-clocked"])
def test_every_part_a_load_is_offered_is_taken(kind: str) -> None:
    plan = edit_plan(load_plan(CLEAR), {"lamps": {"it": {"host": "board", "rail": "five", "kind": kind}}})
    choice = next(
        it
        for panel in review(plan, load_catalog(), stages=["lamps.it"]).sheets["lamps.it"].panels
        for it in panel.choices
        if it.label == "What it is"
    )
    assert sum(option.is_chosen for option in choice.options) == 1
    for option in choice.options:
        after = edit_plan(plan, option.patch)
        check_parts(after, load_catalog())
        whole(review(after, load_catalog(), stages=["lamps.it"]))


def test_more_lamps_than_can_be_worked_out_are_refused_with_how_many_may_be() -> None:
    many = dict.fromkeys(("lamp", *(f"l{number}" for number in range(1999))), CLEAR["lamps"]["lamp"])
    assert len(load_plan({**CLEAR, "lamps": many}).lamps) == 2000
    with pytest.raises(PlanInvalid) as refused:
        load_plan({**CLEAR, "lamps": {**many, "over": many["lamp"]}})
    assert [(it.field, it.given) for it in refused.value.problems] == [("lamps", "more than 2000")]
    assert "at most 2000 of them" in refused.value.allowed


def test_a_name_that_is_not_there_is_refused_without_listing_all_that_are() -> None:
    many = {f"l{number}": CLEAR["lamps"]["lamp"] for number in range(500)}
    with pytest.raises(PlanInvalid) as refused:
        load_plan({**CLEAR, "lamps": many})
    assert refused.value.allowed.endswith("and 476 more")
    assert len(refused.value.allowed) < 300


def test_a_refusal_reads_as_a_person_would_say_it() -> None:
    for channel, said in (
        ({"resistor_ohm": 1e9}, "100,000,000 at most"),
        ({"led": {"overrides": {"forward_voltage_v": -3}}}, "over 0 and at most 1000 volts"),
        ({"led": {"overrides": {"forward_voltage_v": "2 V (3 to 4 V)"}}}, "least, value and most in that order"),
    ):
        with pytest.raises(PlanInvalid) as refused:
            plan_with(lamp(**channel))
        assert refused.value.allowed.endswith(said)
