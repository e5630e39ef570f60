"""The machine against one written from docs/program.md alone, and worked examples by hand."""

import math
import random
import re
from fractions import Fraction
from math import floor
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.arithmetic import times
from oddlamp.core.behaviour.clock import later
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.foresee import lit_and_dark
from oddlamp.core.behaviour.lamps import rung_after
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.stage import Came
from oddlamp.core.plan.document import Document
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from tests.builders import codes, findings_of, plan_with
from tests.core.program.drawn import STAGE, WORDS, drawn_events, drawn_plan
from tests.core.program.naive import Naive, by_eye, rounded
from tests.core.program.test_time import noted
from tests.full import IS_PROOF

MODES: Document = {
    "cues": {
        "modes": {
            "steps": [
                {"target": "lamp", "level": 1},
                {"target": "far", "level": 0},
                {"target": "far", "level": 0.5, "after_s": 1},
                {"target": "lamp", "after_s": 1},
            ]
        }
    }
}
PINS = ("lamp.main", "far.main", "moon.red", "moon.green", "moon.blue", "bell.main")


def events_of(drawn: dict[int, Any]) -> list[Document]:
    """Write what was drawn as the events of a rehearsal; what words of one moment wait for the line, they wait."""
    kinds = {"cue": ("released", "pressed"), **dict.fromkeys(("door", "touch.1", "touch.2", "touch.3"), ("off", "on"))}
    made: list[Document] = [{"kind": "wait", "t_s": ENDS_MS / 1000}]
    for at, (came, put) in sorted(drawn.items()):
        t_s = at / 1000
        for what, *rest in came:
            if what == "word":
                values = {name: it[0] for name, it in rest[1].items()}
                made.append({"kind": "word", "t_s": t_s, "talk": "main", "word": rest[0], "values": values})
            else:
                made.append({"kind": "link", "t_s": t_s, "link": rest[0], "does": rest[1]})
        for name, level in put.items():
            event = kinds[name][level] if name in kinds else "moved"
            made.append({"kind": "input", "t_s": t_s, "input": name, "event": event, "value": level / 1023})
    return made


ENDS_MS = 1500


@pytest.mark.parametrize("seed", range(400 if IS_PROOF else 10))
def test_a_rehearsal_shows_on_its_pins_what_the_page_says(seed: int) -> None:
    """Drawn programs and events from the hand to the pins: the words come when the line brings them, and the rest is the naive machine's."""
    rng = random.Random(seed)
    whole = drawn_plan(rng)
    plan = plan_with(base=whole)
    design = resolve(plan, load_catalog())
    drawn = drawn_events(rng, whole, ENDS_MS)
    trace = rehearse(plan, load_catalog(), read_events(events_of(drawn)))
    assert not trace.is_cut_short
    heard = [
        (math.ceil(1000 * it.t_s - 1e-6), it)
        for it in trace.events
        if it.stage == "vocabularies.words" and it.ref in (*WORDS, "alive")
    ]
    gone = ("word", "link") if "keep_alive" in whole["talks"]["main"] else ("word",)  # then nothing but silence tells
    events: dict[int, Any] = {at: ([it for it in came if it[0] not in gone], put) for at, (came, put) in drawn.items()}
    for at, event in heard:
        if event.ref == "alive":
            events.setdefault(at, ([], {}))[0].append(("word", "alive", {}))
            continue
        value = int(re.findall(r"V (-?[0-9]+)$", event.says)[0])
        least = whole["vocabularies"]["words"]["words"][event.ref]["parameters"]["v"]["least"]
        events.setdefault(at, ([], {}))[0].append(("word", event.ref, {"v": (value, least, 100)}))
    program = program_of(design, "board")
    naive = Naive(
        whole,
        {name: list(it.ladder) for name, it in program.lamps.items()},
        {"sign": 99, "panel": 9},
        {"chain": 3, "panel": 20},
        program.seed,
    )
    course: dict[str, list[tuple[int, Any]]] = {}
    for now in range(ENDS_MS):
        naive.tick(*events.get(now, ([], {})))
        for pin in PINS:
            lamp, lead = pin.split(".")
            top = 255 if lamp in design.dimmed else 1
            light = naive.shows(lamp)[0][{"green": 1, "blue": 2}.get(lead, 0)]
            if lamp == "moon":
                light = by_eye(rounded(Fraction(light * 153, 255)))
            shows = floor(Fraction(light * top, 255) + Fraction(1, 2))
            noted(course, pin, now, top - shows if lamp == "moon" else shows)
        noted(course, "chain", now, bytes(naive.shows("chain")[0]).hex())
        noted(course, "sign", now, naive.shows("sign")[1])
    found: dict[str, list[tuple[int, Any]]] = {}
    for name, points in {**trace.pins, **trace.pixels, **trace.shows}.items():
        for at, shows in {round(1000 * it[0]): it[1] for it in points}.items():  # the last of a moment stands
            if name in course and at < ENDS_MS:
                noted(found, name, at, shows)
    for name, wanted in course.items():
        assert found[name] == wanted, (seed, name)


def machine_of(*patches: Document) -> Machine:
    return Machine(program_of(resolve(plan_with(MODES, *patches, base=STAGE), load_catalog()), "board"))


def rule(*do: Document, word: str = "a") -> Document:
    return {
        "vocabularies": {"words": {"words": {word: {}}}},
        "rules": {f"when_{word}": {"host": "board", "when": {"heard": word}, "do": list(do)}},
    }


def hear(machine: Machine, word: str, after_ms: int = 1) -> None:
    """Let a word be heard, so long after what was before it."""
    machine.run(later(machine.now_ms, after_ms), [Came(("heard", word))])


def obeyed(machine: Machine, times_over: int, lamp: str = "far") -> list[int]:
    """How bright a lamp is after each of several words alike."""
    found = []
    for _ in range(times_over):
        hear(machine, "a")
        found.append(machine.states[lamp].bright)
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
    hear(machine, "b")
    assert obeyed(machine, 5) == [191, 128, 64, 64, 64]
    assert rung_after((64, 255), 64, goes_up=False, goes_round=True) == 255


def test_modes_follow_one_another_and_begin_again() -> None:
    machine = machine_of(rule({"verb": "next", "target": "modes"}))
    seen = []
    for _ in range(4):
        hear(machine, "a")
        seen.append((machine.states["lamp"].bright, machine.states["far"].bright))
    assert seen == [(255, 0), (255, 128), (255, 128), (255, 0)], "the third picture leaves the lamp as it was"


def test_a_score_stops_at_what_two_digits_show_and_a_blackout_brings_it_back() -> None:
    machine = machine_of(
        rule({"verb": "score", "target": "sign", "values": {"by_count": 60}}),
        rule({"verb": "remember", "target": "sign"}, {"verb": "off", "target": "sign"}, word="b"),
        rule({"verb": "restore", "target": "sign"}, word="c"),
    )
    hear(machine, "a")
    hear(machine, "a")
    assert machine.states["sign"].text == "99"
    hear(machine, "b")
    assert not machine.states["sign"].is_on
    hear(machine, "c")
    assert machine.states["sign"].is_on
    assert machine.states["sign"].score == 99


def test_a_score_told_again_stays_what_it_was_told() -> None:
    """Only a count goes round: what is told is kept within what two digits show, however often it is told."""
    machine = machine_of(rule({"verb": "score", "target": "sign", "values": {"count": 120, "ends": "round"}}))
    for _ in range(2):
        hear(machine, "a")
        assert machine.states["sign"].text == "99"


def test_half_of_the_eye_is_47_of_255_and_a_ladder_even_to_the_eye_keeps_its_light() -> None:
    """By hand: L* = 100 x 128 / 255 = 50.196, Y = (66.196 / 116)^3 = 0.18583, x 255 = 47.4. The ladder of nine is the handbook's."""
    patch = {"lamps": {"far": {"ladder": {"steps": 9, "even_in": "eye", "half_is": "eye"}}}}
    program = program_of(resolve(plan_with(patch, base=STAGE), load_catalog()), "board")
    far = program.lamps["far"]
    assert far.shown(128) == 47
    assert [far.shown(it) for it in (0, 1, 23, 255)] == [0, 1, 3, 255]
    assert [far.shown(it) for it in far.ladder] == [3, 9, 20, 36, 60, 92, 136, 189, 255], "135 lies between two of the table"


def test_a_cap_comes_after_the_colour() -> None:
    """Half a share is 128 of 255, and 60 % of that (153 of 255) 76.8, so 77."""
    assert times(times(255, 128), 153) == 77
    machine = machine_of(rule({"verb": "colour", "target": "moon", "values": {"red": 0.5, "green": 0, "blue": 0}}))
    hear(machine, "a")
    assert times(machine.outputs.shown["moon"][0][0], machine.program.lamps["moon"].cap) == 77


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


def test_each_of_forty_five_sensors_lights_its_own_pixel_by_one_rule() -> None:
    """In a dark chain the others stay dark; the last pixel is that of the last sensor, and there is no forty-sixth."""
    own: Document = {"verb": "colour", "target": "table", "values": {"red": 1, "green": 0, "blue": 0, "first": "input"}}
    when: Document = {"host": "board", "when": {"input": "touch", "event": "on"}, "do": [own]}
    plan = plan_with(
        {
            "nodes": {"board": {"choice": {"part": "board-5v-70io"}}},
            "lamps": {
                "table": {"kind": "pixels-one-wire", "label": "Table", "host": "board", "layout": {"runs": [{"count": 45}]}}
            },
            "inputs": {"touch": {"kind": "sensor", "label": "Touch", "host": "board", "count": 45}},
            "rules": {"touched": when},
        }
    )
    touched = [
        {"kind": "input", "t_s": t_s, "input": f"touch.{number}", "event": "on"} for t_s, number in ((1, 3), (2, 45), (3, 46))
    ]
    trace = rehearse(plan, load_catalog(), read_events(touched))
    lit = [[at for at in range(45) if it.shows[6 * at : 6 * at + 6] == "ff0000"] for it in trace.pixels["table"]]
    assert lit == [[], [2], [2, 44]]
    assert [it.lost_because for it in trace.lost] == ["there is no input touch.46"]
