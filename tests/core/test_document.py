"""Plan documents: reading, writing, refusing with the field named, merge patches."""

import json
from collections.abc import Iterator
from typing import Any

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.api.app import published_schema
from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.errors import PlanInvalid, PlanTooNew
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import PATTERNS, Document, dump_plan, edit_plan, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from tests.builders import CLEAR, PLANS, document, lamp

ALL_PLANS = [*PLANS, "demo"]


def any_plan(name: str) -> Document:
    return demo_plan() if name == "demo" else document(name)


@pytest.mark.parametrize("name", ALL_PLANS)
def test_every_plan_round_trips_and_fits_the_published_schema(name: str) -> None:
    given_document = any_plan(name)
    plan = load_plan(given_document)
    check_parts(plan, load_catalog())
    assert dump_plan(plan) == given_document
    assert load_plan(json.loads(json.dumps(dump_plan(plan)))) == plan
    jsonschema.validate(dump_plan(plan), published_schema())


@pytest.mark.parametrize(
    ("patch", "field", "given_text", "allowed"),
    [
        (lamp(resistor_ohm="twelve"), "lamps.lamp.channels.main.resistor_ohm", "'twelve'", "ohms, for example 220, 4k7"),
        (lamp(resistor_ohm="9 V"), "lamps.lamp.channels.main.resistor_ohm", "'9 V'", "ohms"),
        (lamp(resistor_ohm=0), "lamps.lamp.channels.main.resistor_ohm", "0", "over 0"),
        (lamp(resistor_ohm=-3), "lamps.lamp.channels.main.resistor_ohm", "-3", "over 0"),
        (lamp(resistor_ohm=float("inf")), "lamps.lamp.channels.main.resistor_ohm", "inf", "finite"),
        (lamp(resistor_ohm=True), "lamps.lamp.channels.main.resistor_ohm", "True", "not true or false"),
        (lamp(in_series=0), "lamps.lamp.channels.main.in_series", "0", "1 or more"),
        (lamp(led={"overrides": {"colour": {"value": 1}}}), "lamps.lamp.channels.main.led.overrides", "colour", "figures whose names end in their unit"),
        (lamp(led={"overrides": {"forward_voltage_v": {"value": 2000}}}), "lamps.lamp.channels.main.led.overrides.forward_voltage_v", "2000", "at most 1000"),
        (lamp(led={"overrides": {"forward_voltage_v": {"value": 2, "least": 3}}}), "lamps.lamp.channels.main.led.overrides", "least", "in that order"),
        ({"lamps": {"lamp": {"host": "nobody"}}}, "lamps.lamp.host", "'nobody'", "one of board, radio"),
        ({"lamps": {"lamp": {"kind": "lava"}}}, "lamps.lamp", "lava", "kind is one of"),
        ({"lamps": {"Big One": {"kind": "led", "host": "board"}}}, "lamps.Big One", "'Big One'", "a short id"),
        ({"bogus": 1}, "bogus", "1", "no field of this name"),
        ({"title": ""}, "title", "''", "at least 1 character"),
        ({"title": "x" * 81}, "title", "xxx", "at most 80"),
        ({"nodes": {"board": {"speed": 3}}}, "nodes.board.speed", "3", "no field of this name"),
        ({"nodes": {"phone": {"speaks": ["smoke"]}}}, "nodes.phone.speaks.0", "'smoke'", "'classic', 'ble' or 'wifi'"),
        ({"talks": {"main": {"via": ["serial"]}}}, "talks.main.via", "'serial'", "a link that starts at phone"),
        ({"talks": {"main": {"via": ["air"]}}}, "talks.main.via", "'air'", "links that lead from phone to board"),
        ({"rails": {"five": {"fed_by": "moonlight"}}}, "rails.five.fed_by", "'moonlight'", "one of board.supply_3v3, board.supply_5v, usb"),
        ({"signals": {"lamp.tail": {"pin": "3"}}}, "signals.lamp.tail", "'lamp.tail'", "lamp.main"),
        ({"vocabularies": {"words": {"words": {"on": {"sent": "é"}}}}}, "vocabularies.words.words.on.sent", "'é'", "plain ASCII"),
        ({"vocabularies": {"words": {"words": {"on": {"sent": "\\q"}}}}}, "vocabularies.words.words.on.sent", "q", "after a backslash"),
        ({"rules": {"r1": {"when": {"heard": "boo"}}}}, "rules.r1.when.heard", "'boo'", "one of off, on"),
        ({"links": {"serial": {"baud_rate_bd": "fast"}}}, "links.serial.baud_rate_bd", "'fast'", "baud"),
        ({"accepted": {"nonsense": {"reason": "x", "taken_at": "2026-01-01T00:00:00Z"}}}, "accepted.nonsense", "'nonsense'", "LED-UNDER@moon.main"),
    ],
)  # fmt: skip
def test_refusals_name_the_field_what_was_given_and_what_is_allowed(
    patch: Document, field: str, given_text: str, allowed: str
) -> None:
    with pytest.raises(PlanInvalid) as caught:
        edit_plan(load_plan(CLEAR), patch)
    first = caught.value.problems[0]
    assert first.field == field
    assert given_text in first.given
    assert allowed in first.allowed


def test_all_faults_are_listed_at_once() -> None:
    with pytest.raises(PlanInvalid) as caught:
        edit_plan(load_plan(CLEAR), {"bogus": 1, "title": "", **lamp(resistor_ohm=-1)})
    assert {problem.field for problem in caught.value.problems} == {"bogus", "title", "lamps.lamp.channels.main.resistor_ohm"}


@pytest.mark.parametrize("nonsense", [None, 7, "plan", [], {}, {"format": "other"}])
def test_what_is_no_plan_is_refused(nonsense: Any) -> None:
    with pytest.raises(PlanInvalid):
        load_plan(nonsense)


def test_a_later_version_is_refused_politely() -> None:
    with pytest.raises(PlanTooNew, match="later Odd Lamp"):
        load_plan({**CLEAR, "schema_version": 2, "unheard_of": {}})


@pytest.mark.parametrize(
    ("patch", "field", "allowed"),
    [
        ({"nodes": {"board": {"choice": {"part": "board-of-wood"}}}}, "nodes.board.choice.part", "board-5v-20io-small, "),
        ({"nodes": {"radio": {"choice": {"part": "led-red"}}}}, "nodes.radio.choice.part", "family-a, family-b, family-c"),
        (lamp(led={"part": "candle"}), "lamps.lamp.channels.main.led.part", "led-red"),
        ({"sources": {"usb": {"choice": {"part": "sun"}}}}, "sources.usb.choice.part", "usb-port-500ma"),
    ],
)
def test_parts_that_are_not_in_the_catalogue_are_refused(patch: Document, field: str, allowed: str) -> None:
    with pytest.raises(PlanInvalid) as caught:
        check_parts(edit_plan(load_plan(CLEAR), patch), load_catalog())
    assert caught.value.field == field
    assert allowed in caught.value.allowed


@pytest.mark.parametrize(
    ("target", "patch", "result"),
    [
        ({"a": "b"}, {"a": "c"}, {"a": "c"}),
        ({"a": "b"}, {"b": "c"}, {"a": "b", "b": "c"}),
        ({"a": "b"}, {"a": None}, {}),
        ({"a": "b", "b": "c"}, {"a": None}, {"b": "c"}),
        ({"a": ["b"]}, {"a": "c"}, {"a": "c"}),
        ({"a": "c"}, {"a": ["b"]}, {"a": ["b"]}),
        ({"a": {"b": "c"}}, {"a": {"b": "d", "c": None}}, {"a": {"b": "d"}}),
        ({"a": [{"b": "c"}]}, {"a": [1]}, {"a": [1]}),
        (["a", "b"], ["c", "d"], ["c", "d"]),
        ({"a": "b"}, ["c"], ["c"]),
        ({"a": "foo"}, None, None),
        ({"a": "foo"}, "bar", "bar"),
        ({"e": None}, {"a": 1}, {"e": None, "a": 1}),
        ([1, 2], {"a": "b", "c": None}, {"a": "b"}),
        ({}, {"a": {"bb": {"ccc": None}}}, {"a": {"bb": {}}}),
    ],
    ids=lambda value: json.dumps(value),
)
def test_merge_patch(target: Any, patch: Any, result: Any) -> None:
    assert merge_patch(target, patch) == result, "RFC 7396, appendix A"


@given(ohm=st.floats(1, 1e7), amps=st.floats(1e-4, 1))
def test_an_edit_changes_what_it_names_and_nothing_else(ohm: float, amps: float) -> None:
    plan = load_plan(CLEAR)
    edited = edit_plan(plan, lamp(resistor_ohm=ohm, wanted_current_a=amps))
    before = dump_plan(plan)["lamps"]["lamp"]["channels"]["main"]
    assert edit_plan(edited, lamp(resistor_ohm=before["resistor_ohm"], wanted_current_a=before["wanted_current_a"])) == plan


def unbounded(node: Any, path: str = "") -> list[str]:
    """The places of a JSON Schema where text of any length or any characters may stand, as a value or as a name."""
    if isinstance(node, list):
        return [it for at, inner in enumerate(node) for it in unbounded(inner, f"{path}/{at}")]
    if not isinstance(node, dict):
        return []
    found = [it for key, inner in node.items() for it in unbounded(inner, f"{path}/{key}")]
    if node.get("type") == "string" and not {"pattern", "maxLength", "enum", "const"} & set(node):
        found.append(path)
    names = {"propertyNames", "patternProperties"} & set(node)
    if node.get("type") == "object" and isinstance(node.get("additionalProperties"), dict) and not names:
        found.append(f"{path} (names)")
    return found


def test_no_text_of_a_plan_is_without_bound() -> None:
    assert unbounded(Plan.model_json_schema()) == []
    assert unbounded({"type": "string"}) == [""], "what looks can see"


def test_no_refusal_shows_a_pattern() -> None:
    """A maker reads what a text must look like, never how a program checks it."""
    assert len(found := set(patterns(Plan.model_json_schema()))) > 10
    assert found <= set(PATTERNS)


def patterns(schema: Any) -> Iterator[str]:
    if isinstance(schema, dict):
        yield from [schema["pattern"]] if isinstance(schema.get("pattern"), str) else []
        yield from schema.get("patternProperties", {})
    for inner in schema.values() if isinstance(schema, dict) else schema if isinstance(schema, list) else ():
        yield from patterns(inner)
