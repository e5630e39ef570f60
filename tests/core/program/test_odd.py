"""Odd values over time: refused in words, or taken and never for long."""

import time
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.inputs import Input
from oddlamp.core.behaviour.program import InputSpec
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.rehearsal.trace import Trace
from tests.builders import CLEAR, plan_with

ON: Document = {"kind": "word", "t_s": 0, "talk": "main", "word": "on"}


def rule(*do: Document, **when: Any) -> Document:
    return {"rules": {"r1": {"host": "board", "when": {"heard": None if when else "on", **when}, "do": list(do)}}}


@pytest.mark.parametrize(
    ("patch", "field", "allowed"),
    [
        (rule({"verb": "off", "target": "lamp"}, at="25:70"), "rules.r1.when.at", "a time of day from 00:00 to 23:59"),
        (rule({"verb": "off", "target": "lamp"}, every_s=0.01), "rules.r1.when.every_s", "0.1 or more"),
        (rule({"verb": "off", "target": "lamp", "after_s": -1}), "rules.r1.do.0.after_s", "0 or more"),
        (rule({"verb": "off", "target": "lamp", "after_s": "49 d"}), "rules.r1.do.0.after_s", "seconds"),
        (rule({"verb": "off", "target": "lamp", "after_s": 100_000}), "rules.r1.do.0.after_s", "86,400 at most"),
        (rule({"verb": "off", "target": "lamp", "values": {"over_s": 3601}}), "rules.r1.do.0.values.over_s", "3,600 at most"),
        (rule({"verb": "blink", "target": "lamp", "values": {"on_s": 0.001}}), "rules.r1.do.0.values.on_s", "0.02 or more"),
        (rule({"verb": "random", "target": "lamp", "values": {"least": 0.7, "most": 0.2}}), "rules.r1.do.0.values.most", "0.7"),
        (
            {"inputs": {"k": {"kind": "sensor", "host": "board", "settings": {"on_above_ratio": 0.4, "off_below_ratio": 0.6}}}},
            "inputs.k.settings.off_below_ratio",
            "at most 0.4, where it is on",
        ),
        ({"cues": {"c": {"steps": [{"target": "lamp"}] * 5000}}}, "cues.c.steps", "at most 1000 of them"),
        ({"rules": {"r1": {"unless": {"state": "on"}}}}, "rules.r1.unless.lamp", "a lamp or an input"),
        ({"inputs": {"t": {"kind": "sensor", "host": "board", "count": 65}}}, "inputs.t.count", "64 at most"),
        ({"inputs": {"t": {"kind": "sensor", "host": "board", "count": 0}}}, "inputs.t.count", "1 or more"),
        ({"inputs": {"t": {"kind": "remote-receiver", "host": "board", "count": 2}}}, "inputs.t.count", "1: a receiver"),
        (
            rule({"verb": "colour", "target": "lamp", "values": {"red": 1, "first": "input"}}),
            "rules.r1.do.0.values.first",
            "no input sets this rule off",
        ),
        ({"movers": {"m": {"ahead": "lamp"}}}, "movers.m.ahead", "a lamp for each way, or a sender"),
        ({"movers": {"m": {"sender": "lamp"}}}, "movers.m.sender", "nothing yet: add it first"),
        ({"movers": {"m": {"ahead": "lamp", "back": "lamp"}}}, "movers.m.back", "nothing yet: add it first"),
        ({"movers": {"m": {"sender": "lamp", "codes": {"speeds": 8}}}}, "movers.m.codes.speeds", "at most 7 in 4 bits"),
        (rule({"verb": "run", "target": "m", "values": {"speed": 500}}), "rules.r1.do.0.values.speed", "127 at most"),
        (
            {"talks": {"main": {"keep_alive": {"word": "on", "every_s": 5, "lost_after_s": 5}}}},
            "talks.main.keep_alive.lost_after_s",
            "more than 5",
        ),
        ({"talks": {"main": {"keep_alive": {"word": "none"}}}}, "talks.main.keep_alive.word", "one of off, on"),
        ({"nodes": {"n": {"kind": "feed", "lines": ["x"] * 51}}}, "nodes.n.lines", "at most 50"),
        ({"nodes": {"n": {"kind": "feed", "lines": "caf\u00e9"}}}, "nodes.n.lines", "no semicolon"),
    ],
)
def test_what_cannot_be_is_refused_by_name(patch: Document, field: str, allowed: str) -> None:
    with pytest.raises(PlanInvalid) as refused:
        load_plan(merge_patch(CLEAR, patch))
    found = refused.value.problems[0]
    assert (found.field, allowed in found.allowed) == (field, True), found


def played(*events: Document, patches: tuple[Document, ...]) -> tuple[Trace, float]:
    plan, begun = plan_with(*patches), time.perf_counter()
    trace = rehearse(plan, load_catalog(), read_events(list(events)))
    return trace, time.perf_counter() - begun


CHAIN: Document = {"lamps": {"chain": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 5000}]}}}}
BOARD: Document = {"nodes": {"board": {"choice": {"part": "board-3v3-32bit"}}}}


@pytest.mark.parametrize(
    ("patches", "events"),
    [
        ((CHAIN, rule({"verb": "on", "target": "chain", "values": {"over_s": 5}})), [ON]),
        ((CHAIN, rule({"verb": "pattern", "target": "chain", "values": {"pattern": "random", "step_s": 0.02}})), [ON]),
        (({"cues": {"c": {"steps": []}}}, rule({"verb": "cue", "target": "c"})), [ON]),
        (({"cues": {"c": {"loop": True, "steps": [{"target": "lamp"}] * 1000}}}, rule({"verb": "cue", "target": "c"})), [ON]),
        (
            (
                {"cues": {"c": {"steps": [{"target": "lamp", "level": 1, "after_s": 86_400}]}}},
                rule({"verb": "cue", "target": "c"}),
            ),
            [ON],
        ),
        ((rule({"verb": "blink", "target": "lamp", "values": {"on_s": 0.02}}),), [ON, {"kind": "wait", "t_s": 86_400}]),
        ((rule({"verb": "off", "target": "lamp", "after_s": 86_400}),), [ON, {"kind": "start", "starts_at_ms": 2**32 - 1}]),
    ],
)
def test_what_is_much_comes_to_an_end(patches: tuple[Document, ...], events: list[Document]) -> None:
    """Five thousand pixels, cues of no length, of a day and of a thousand steps at once, a day of blinking."""
    trace, took_s = played(*events, patches=patches)
    assert took_s < 30, "never a hang, on the slowest machine"
    assert trace.is_cut_short == (events[-1].get("t_s") == 86_400)


def test_rules_that_set_each_other_off_are_bounded_at_run_time() -> None:
    """A cue that starts itself anew by a word that comes back to it cannot be; an interval that says a word goes on for as long as it is followed."""
    told = {"verb": "say", "say": {"talk": "main", "word": "lit"}}
    words = {"vocabularies": {"words": {"words": {"lit": {"sent": "L", "direction": "back"}}}}}
    trace, _ = played({"kind": "wait", "t_s": 20}, patches=(words, rule(told, every_s=0.1)))
    assert trace.goes_on
    assert not trace.is_cut_short
    assert len(trace.said["serial.b_to_a"]) == 300, "ten a second, for 20 s and 10 more"


def test_a_contact_that_comes_back_within_a_pass_was_never_seen() -> None:
    """A program looks once in each pass: closed at 0, open and closed again within the pass at 10, it counts at 20 all the same."""
    contact = Input(InputSpec("button", 20), 0)
    for level, now_ms in ((1, 0), (0, 10), (1, 10)):
        contact.put(level, now_ms)
    assert list(contact.events(19)) == []
    assert list(contact.events(20)) == ["pressed"]
    contact.put(0, 30)
    contact.put(1, 31)
    assert list(contact.events(50)) == [], "seen open in one pass, it has to be the same again for as long"
    assert list(contact.events(51)) == []
    assert contact.is_on
