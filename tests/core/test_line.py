"""The line as laid out by the core, for every variant of the chain."""

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.sheets.line import Line
from oddlamp.sheets.review import review
from oddlamp.sheets.supply_line import RailLine
from tests.builders import CLEAR, document, lamp, plan_with

CHAINS: dict[str, list[list[str]]] = {
    "smallest": [["handset"], ["air"], ["module"], ["wire"], ["words"], ["behaviour"], ["pins"], ["lamp"]],
    "paper-moon": [
        ["handset"],
        ["air"],
        ["module"],
        ["wire"],
        ["words", "input", "input"],
        ["behaviour"],
        ["pins"],
        ["lamp", "lamp", "lamp"],
    ],
    "foyer-star": [["handset"], ["air", "air"], ["words", "input"], ["behaviour"], ["pins"], ["lamp"]],
    "prompters-nudge": [["handset"], ["air"], ["module"], ["words"], ["behaviour"], ["pins"], ["lamp"]],
    "two-wings": [
        ["input", "input"],
        ["behaviour"],
        ["pins"],
        ["wire"],
        ["module"],
        ["air"],
        ["module"],
        ["wire"],
        ["words"],
        ["behaviour"],
        ["pins"],
        ["lamp", "lamp"],
    ],
}


OWN_SUPPLY: Document = {
    "sources": {"usb": {"choice": {"part": "usb-port-500ma"}}, "big": {"end": "table", "choice": {"part": "adapter-24v-1a"}}},
    "rails": {"big": {"fed_by": "big"}},
    "lamps": {"lamp": None, "glow": {"kind": "strip", "host": "board", "rail": "big", "choice": {"part": "strip-24v-warm"}}},
    "rules": None,
    "groups": None,
}


def rail_of(name: str, rail: str) -> RailLine:
    plan = merge_patch(document("smallest"), OWN_SUPPLY) if name == "strip-of-its-own" else document(name)
    return next(it for it in drawn(plan).rails if it.id == rail)


def drawn(plan: Document) -> Line:
    return review(load_plan(plan), load_catalog()).line


@pytest.mark.parametrize("name", CHAINS)
def test_the_chain_from_thumb_to_lamp(name: str) -> None:
    line = drawn(document(name))
    columns = [[stage.kind for stage in line.stages if stage.column == column] for column in range(line.columns)]
    assert columns == CHAINS[name]


@pytest.mark.parametrize(
    ("name", "rail", "first", "last", "depth"),
    [
        ("smallest", "rails.five", 2, 6, 0),
        ("paper-moon", "rails.five", 2, 7, 0),
        ("paper-moon", "rails.three", 2, 6, 1),
        ("two-wings", "rails.la", 2, 4, 0),
        ("two-wings", "rails.rb", 6, 10, 0),
        ("prompters-nudge", "rails.three", 2, 2, 0),
        ("strip-of-its-own", "rails.five", 2, 6, 0),
        ("strip-of-its-own", "rails.big", 7, 7, 1),
    ],
)
def test_rails_lie_under_what_they_feed(name: str, rail: str, first: int, last: int, depth: int) -> None:
    it = rail_of(name, rail)
    assert (it.first_column, it.last_column, it.depth) == (first, last, depth)


@pytest.mark.parametrize(
    ("name", "rail", "label"),
    [
        ("smallest", "rails.five", "USB port"),
        ("two-wings", "rails.la", "Left, USB port"),
        ("two-wings", "rails.rb", "Right, USB port"),
        ("foyer-star", "rails.three", "Board's 3.3\u00a0V pin"),
        ("strip-of-its-own", "rails.five", "USB port"),
        ("strip-of-its-own", "rails.big", "Wall adapter"),
    ],
)
def test_rails_have_names(name: str, rail: str, label: str) -> None:
    assert rail_of(name, rail).label == label


@pytest.mark.parametrize(
    ("patch", "stage", "state"),
    [
        ({}, "lamps.lamp", "clear"),
        (lamp(resistor_ohm=60), "lamps.lamp", "look"),
        (lamp(resistor_ohm=40), "lamps.lamp", "stop"),
        ({"lamps": {"lamp": {"drive": {"school": "npn"}}}}, "lamps.lamp", "clear"),
        ({"nodes": {"phone": {"speaks": ["wifi"]}}}, "links.air", "stop"),
        ({"nodes": {"phone": {"appends": "cr"}}}, "vocabularies.words", "look"),
        ({"vocabularies": {"words": {"dialect": "family-a"}}}, "vocabularies.words", "unknown"),
        ({"signals": {"lamp.main": {"pin": "1"}}}, "pins.board", "look"),
        ({"rules": {"r9": {"host": "board", "when": {"event": "link-lost"}}}}, "rules.board", "unknown"),
        ({"rules": {"r9": {"host": "board", "when": {"event": "power-up"}}}}, "rules.board", "clear"),
        ({"nodes": {"radio": {"setup": {"role": "master"}}}}, "nodes.radio", "stop"),
        ({"nodes": {"board": {"rail": None}}}, "pins.board", "unknown"),
        (
            {
                "rails": {"loose": {"end": "table", "fed_by": "board.supply_3v3"}},
                "nodes": {"board": {"choice": {"part": "board-5v-8pin"}}},
            },
            "rails.loose",
            "unknown",
        ),
        ({}, "rails.five", "clear"),
    ],
)
def test_states_and_the_thread_that_leads_there(patch: Document, stage: str, state: str) -> None:
    line = review(plan_with(patch), load_catalog()).line
    states = {it.id: it.state for it in (*line.stages, *line.rails)}
    assert states[stage] == state
    assert all(segment.state == state for segment in line.segments if segment.b == stage)


@pytest.mark.parametrize(
    ("stage", "label", "numbers"),
    [
        ("nodes.phone", "Phone", "adds CR LF"),
        ("links.radio", "Air", "about 35 ms"),
        ("nodes.lantern", "Module", "9600 Bd, slave"),
        ("links.serial", "Hook-up", "3.51 V, limit 3.60"),
        ("vocabularies.words", "Words", "6 words, no ending"),
        ("rules.board", "Behaviour", "5 rules"),
        ("pins.board", "Pins", "11 of 20"),
        ("lamps.moon", "Moon", "15.5 to 17.1 mA"),
        ("lamps.foot3", "Footlight 3", "25 of 20 mA"),
    ],
)
def test_each_stage_shows_what_decides_it(stage: str, label: str, numbers: str) -> None:
    it = next(it for it in drawn(document("footlights")).stages if it.id == stage)
    assert (it.label, it.numbers.replace("\u00a0", " ")) == (label, numbers)


def test_lamps_stand_in_the_order_of_the_plan() -> None:
    plan = {
        **CLEAR,
        "lamps": {**CLEAR["lamps"], "b": {"kind": "led", "host": "board"}, "a": {"kind": "led", "host": "board"}},
        "order": {"lamps": ["a", "lamp"]},
    }
    assert [stage.id for stage in drawn(plan).stages if stage.kind == "lamp"] == ["lamps.a", "lamps.lamp", "lamps.b"]


def test_many_lamps_are_all_there() -> None:
    many = {f"l{n}": {"kind": "led", "host": "board"} for n in range(200)}
    line = drawn({**CLEAR, "lamps": {**CLEAR["lamps"], **many}})
    assert sum(stage.kind == "lamp" for stage in line.stages) == 201


def test_a_ring_of_talks_is_still_a_line() -> None:
    back: Document = {"talks": {"back": {"a": "board", "b": "phone", "via": ["serial", "air"], "vocabulary": "words"}}}
    line = review(plan_with(back), load_catalog()).line
    columns = {stage.id: stage.column for stage in line.stages}
    assert all(columns[it.a] < columns[it.b] for it in line.segments)
