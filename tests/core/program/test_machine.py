"""The machine against one written from docs/program.md alone, and worked examples by hand."""

import os
import random
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.arithmetic import scaled, times
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.machine import Machine, lit_and_dark, rung_after
from oddlamp.core.plan.document import Document, merge_patch
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.rehearsal.trace import Trace
from oddlamp.core.resolve.resolve import resolve
from tests.builders import CLEAR, codes, findings_of, plan_with
from tests.core.program.naive import Naive

STAGE: Document = merge_patch(
    CLEAR,
    {
        "lamps": {
            "moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "anode", "brightness_cap_ratio": 0.6},
            "sign": {"kind": "matrix", "label": "Sign", "host": "board", "count": 1},
            "far": {"kind": "led", "label": "Far", "host": "board", "ladder": {"steps": 4, "even_in": "duty"}},
        },
        "groups": {"both": {"members": ["lamp", "far"]}},
        "inputs": {"cue": {"kind": "button", "label": "Cue", "host": "board"}},
        "cues": {
            "modes": {
                "steps": [
                    {"target": "lamp", "level": 1},
                    {"target": "far", "level": 0},
                    {"target": "far", "level": 0.5, "after_s": 1},
                    {"target": "lamp", "after_s": 1},
                ]
            }
        },
        "vocabularies": {"words": {"framing": {"kind": "terminated"}, "words": {"on": None, "off": None}}},
        "rules": {"r1": None, "r2": None},
    },
)
LAMPS = ("lamp", "moon", "far", "sign", "both")
PINS = ("lamp.main", "far.main", "moon.red", "moon.green", "moon.blue")


def drawn_action(rng: random.Random) -> Document:
    verb = rng.choice(
        ["on", "off", "toggle", "level", "colour", "brighter", "dimmer", "add", "next", "text", "score", "remember", "restore"]
    )
    target = rng.choice(["sign", "lamp"] if verb in ("text", "score") else LAMPS)
    ends = rng.choice([{}, {"ends": "round"}, {"ends": "stay"}])
    shades = [rng.choice([0, 1, 0.5, 0.2, 0.001, "{v}"]) for _ in range(3)]
    match verb:
        case "level":
            return {"verb": verb, "target": target, "values": {"level": shades[0]}}
        case "colour":
            chosen = rng.sample(["red", "green", "blue"], rng.randint(1, 3))
            return {"verb": verb, "target": target, "values": dict(zip(chosen, shades, strict=False))}
        case "brighter" | "dimmer":
            return {"verb": verb, "target": target, "values": ends}
        case "add":
            return {"verb": verb, "target": target, "values": {"by_ratio": rng.choice([0.1, -0.1, 1, -1, 0.33]), **ends}}
        case "next":
            return {"verb": verb, "target": "modes"}
        case "text":
            return {"verb": verb, "target": target, "values": {"text": rng.choice(["HELLO", "", "42"])}}
        case "score":
            told = rng.choice([{"by_count": 1}, {"by_count": -1}, {"by_count": 60}, {"count": 0}, {"count": 98}])
            return {"verb": verb, "target": target, "values": {**told, **ends}}
        case _:
            return {"verb": verb, "target": target}


def drawn_plan(rng: random.Random) -> Document:
    """Words with and without a value, a button, and rules that do up to four things each."""
    names = ["a", "b", "c", "d"]
    made = {name: {"sent": f"{name}{{v}}", "parameters": {"v": {"least": rng.choice([0, 10]), "most": 100}}} for name in names}
    rules = {
        f"r{at}": {
            "host": "board",
            "when": {"heard": name} if at < 4 else {"input": "cue", "event": "pressed"},
            "do": [drawn_action(rng) for _ in range(rng.randint(1, 4))],
        }
        for at, name in enumerate([*names, "-"])
    }
    standing = {"lamp": {"power_up": rng.choice(["on", "off"])}}
    return merge_patch(STAGE, {"vocabularies": {"words": {"words": made}}, "rules": rules, "standing": standing})


def at_end(trace: Trace) -> dict[str, Any]:
    return {name: trace.pins[name][-1].shows for name in PINS} | {"sign": trace.shows["sign"][-1].text}


@pytest.mark.parametrize("seed", range(400 if "ODDLAMP_PROOF" in os.environ else 25))
def test_the_machine_does_what_the_page_says(seed: int) -> None:
    """Drawn programs and events: pins and displays as the naive machine has them after each event."""
    rng = random.Random(seed)
    whole = drawn_plan(rng)
    plan = plan_with(base=whole)
    design = resolve(plan, load_catalog())
    ladders = {name: list(program_of(design, "board").lamps[name].ladder) for name in ("lamp", "far", "moon")}
    assert ladders["far"] == [64, 128, 191, 255], "four rungs even in duty, by hand"
    naive = Naive(whole, ladders, {"sign": 99})
    events: list[Document] = []
    for at in range(8):
        word = rng.choice(["a", "b", "c", "d", "-"])
        if word == "-":
            events.append({"kind": "input", "t_s": at + 1, "input": "cue", "event": "pressed"})
            naive.move("cue", "pressed")
        else:
            least = whole["vocabularies"]["words"]["words"][word]["parameters"]["v"]["least"]
            value = rng.randint(least, 100)
            events.append({"kind": "word", "t_s": at + 1, "talk": "main", "word": word, "values": {"v": value}})
            naive.hear(word, {"v": (value, least, 100)})
        told = at_end(rehearse(plan, load_catalog(), read_events(events)))
        tops = {name: 255 if name.split(".")[0] in design.dimmed else 1 for name in PINS}
        wanted = {name: scaled(naive.pin(*name.split(".")), 0, 255, tops[name]) for name in PINS}
        wanted |= {name: tops[name] - shown for name, shown in wanted.items() if name.startswith("moon")}
        assert told == wanted | {"sign": naive.shows("sign")}, events


def machine_of(*patches: Document) -> Machine:
    return Machine(program_of(resolve(plan_with(*patches, base=STAGE), load_catalog()), "board"))


def rule(*do: Document, word: str = "a") -> Document:
    return {
        "vocabularies": {"words": {"words": {word: {}}}},
        "rules": {f"when_{word}": {"host": "board", "when": {"heard": word}, "do": list(do)}},
    }


def obeyed(machine: Machine, times_over: int, lamp: str = "far") -> list[int]:
    """How bright a lamp is after each of several words alike."""
    found = []
    for _ in range(times_over):
        machine.obey(("heard", "a"))
        found.append(machine.lamps[lamp].bright)
    return found


@pytest.mark.parametrize(
    ("action", "course"),
    [
        ({"verb": "brighter"}, [64, 128, 191, 255, 255, 255]),
        ({"verb": "brighter", "values": {"ends": "round"}}, [64, 128, 191, 255, 64, 128]),
        ({"verb": "dimmer"}, [0, 0, 0]),
        ({"verb": "add", "values": {"by_ratio": 0.4}}, [102, 204, 255, 255]),
        ({"verb": "add", "values": {"by_ratio": 0.4, "ends": "round"}}, [102, 204, 255, 0, 102]),
        ({"verb": "add", "values": {"by_ratio": -0.4, "ends": "round"}}, [255, 153, 51, 0, 255]),
        ({"verb": "toggle"}, [255, 0, 255]),
    ],
)
def test_steps_go_along_their_ends_as_worked_out_by_hand(action: Document, course: list[int]) -> None:
    """Four rungs even in duty are 64, 128, 191 and 255; 40 % is 102."""
    assert obeyed(machine_of(rule({**action, "target": "far"})), len(course)) == course


def test_dimmer_from_full_stops_at_the_lowest_rung_and_never_at_dark() -> None:
    machine = machine_of(rule({"verb": "dimmer", "target": "far"}), rule({"verb": "on", "target": "far"}, word="b"))
    machine.obey(("heard", "b"))
    assert obeyed(machine, 5) == [191, 128, 64, 64, 64]
    assert rung_after((64, 255), 64, goes_up=False, goes_round=True) == 255


def test_modes_follow_one_another_and_begin_again() -> None:
    machine = machine_of(rule({"verb": "next", "target": "modes"}))
    seen = []
    for _ in range(4):
        machine.obey(("heard", "a"))
        seen.append((machine.lamps["lamp"].bright, machine.lamps["far"].bright))
    assert seen == [(255, 0), (255, 128), (255, 128), (255, 0)], "the third picture leaves the lamp as it was"


def test_a_score_stops_at_what_two_digits_show_and_a_blackout_brings_it_back() -> None:
    machine = machine_of(
        rule({"verb": "score", "target": "sign", "values": {"by_count": 60}}),
        rule({"verb": "remember", "target": "sign"}, {"verb": "off", "target": "sign"}, word="b"),
        rule({"verb": "restore", "target": "sign"}, word="c"),
    )
    machine.obey(("heard", "a"))
    machine.obey(("heard", "a"))
    assert machine.lamps["sign"].text == "99"
    machine.obey(("heard", "b"))
    assert not machine.lamps["sign"].is_on
    machine.obey(("heard", "c"))
    assert machine.lamps["sign"].is_on
    assert machine.lamps["sign"].score == 99


def test_a_cap_comes_before_the_colour() -> None:
    """255 capped to 60 % is 153, and half a share (128 of 255) of that 76.8, so 77."""
    assert times(times(255, 153), 128) == 77
    machine = machine_of(rule({"verb": "colour", "target": "moon", "values": {"red": 0.5, "green": 0, "blue": 0}}))
    machine.obey(("heard", "a"))
    assert machine.lamps["moon"].duty("red", machine.program.lamps["moon"].cap) == 77


def test_what_surely_puts_out_is_found_whatever_was_lit_before() -> None:
    program = machine_of(
        rule({"verb": "toggle", "target": "lamp"}),
        rule({"verb": "off", "target": "both"}, word="b"),
        rule({"verb": "next", "target": "modes"}, word="c"),
        rule({"verb": "restore", "target": "far"}, word="d"),
    ).program
    assert lit_and_dark(program, ("heard", "a"), {}) == ({"lamp"}, set())
    assert lit_and_dark(program, ("heard", "b"), {})[1] == {"lamp", "far"}
    assert lit_and_dark(program, ("heard", "c"), {})[0] == {"lamp", "far"}
    assert lit_and_dark(program, ("heard", "d"), {}) == (set(), set())


def test_toggling_everything_is_no_way_to_dark() -> None:
    """From dark it lights, from lit it puts out: no word that is safe to say."""
    one = rule({"verb": "toggle", "target": "lamp"})
    assert ("CMD-NO-STOP", "look") in codes(findings_of(plan_with(one, base=STAGE)))
    both = rule({"verb": "off", "target": "both"}, word="b")
    assert ("CMD-NO-STOP", "look") not in codes(findings_of(plan_with(one, both, base=STAGE)))


def test_a_lamp_at_another_board_is_out_of_reach_and_that_is_told() -> None:
    plan = plan_with(
        rule({"verb": "on", "target": "away"}),
        {
            "nodes": {"second": {"kind": "board", "end": "table", "rail": "five"}},
            "lamps": {"away": {"kind": "led", "label": "Away", "host": "second"}},
        },
        base=STAGE,
    )
    events = read_events([{"kind": "word", "t_s": 0, "talk": "main", "word": "a"}])
    trace = rehearse(plan, load_catalog(), events)
    assert any("out of this program's reach" in (it.lost_because or "") for it in trace.lost)
    assert ("CMD-REACH", "stop") in codes(findings_of(plan))
