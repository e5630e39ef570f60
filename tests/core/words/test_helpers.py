"""A remote and a voice helper: keys and phrases for the words that the phone says, heard by the same rules."""

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.rehearsal.trace import Trace
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review
from oddlamp.sheets.slots import slots_of
from tests.builders import codes, findings_of, plan_with
from tests.core.words.test_phone import CARRIES, ENDED


def with_helpers(*patches: Document) -> Plan:
    """A lamp, a phone, and both helpers as the phone's sheet adds them."""
    plan = plan_with(ENDED, CARRIES, *patches)
    for wanted in ("Add a voice helper", "Add an infra-red remote"):
        moves = review(plan, load_catalog(), stages=["nodes.phone"]).sheets["nodes.phone"].moves
        plan = edit_plan(plan, next(it.patch for it in moves if it.label == wanted))
    return plan


def played(plan: Plan, **event: object) -> Trace:
    return rehearse(plan, load_catalog(), read_events([{"t_s": 1, **event}]))


def lit(trace: Trace) -> list[int]:
    return [it.shows for it in trace.pins["lamp.main"]]


def test_both_are_added_without_a_verdict_and_stand_on_the_line() -> None:
    plan = with_helpers()
    assert codes(findings_of(plan)) == codes(findings_of(plan_with(ENDED, CARRIES)))
    line = review(plan, load_catalog()).line
    stages = {it.id: it for it in line.stages}
    assert {"nodes.helper", "nodes.remote", "inputs.receiver"} <= stages.keys()
    assert (stages["nodes.helper"].numbers, stages["nodes.remote"].numbers) == ("3 phrases", "2 keys")
    assert ("nodes.remote", "inputs.receiver") in {(it.a, it.b) for it in line.segments}
    for name in ("helper", "remote"):
        gone = next(
            it
            for it in review(plan, load_catalog(), stages=[f"nodes.{name}"]).sheets[f"nodes.{name}"].moves
            if "without" in it.label
        )
        after = edit_plan(plan, gone.patch)
        assert name not in after.nodes
        assert codes(findings_of(after)) == codes(findings_of(plan))


@pytest.mark.parametrize(
    ("said", "shows"),
    [
        ("on", [0, 255]),
        ("  On! ", [0, 255]),
        ("slide 128", [0, 128]),
        ("Slide 999", [0, 255]),
        ("slide", [0]),
        ("on on", [0]),
        ("", [0]),
        ("é" * 200, [0]),
    ],
)
def test_what_is_said_is_sent_as_its_word(said: str, shows: list[int]) -> None:
    trace = played(with_helpers(), kind="spoken", node="helper", text=said)
    assert lit(trace) == shows
    if shows == [0]:
        assert "it knows" in (trace.lost[0].lost_because or "")


def test_several_ways_to_say_it_and_a_text_at_the_end() -> None:
    phrases = {
        "nodes": {
            "helper": {
                "controls": {
                    "on": {
                        "kind": "phrase",
                        "phrases": "Moon on; let there be light",
                        "says": {"press": {"talk": "helper", "word": "on"}},
                    }
                }
            }
        }
    }
    plan = edit_plan(with_helpers(), phrases)
    for said in ("moon ON", "Let there be light."):
        assert lit(played(plan, kind="spoken", node="helper", text=said)) == [0, 255]
    assert lit(played(plan, kind="spoken", node="helper", text="on")) == [0], "what was proposed is no longer said"


def test_a_key_is_taken_in_by_its_receiver_and_heard_as_its_word() -> None:
    plan = edit_plan(
        with_helpers(),
        {
            "nodes": {
                "remote": {
                    "controls": {
                        "k1": {"kind": "key", "code": "20DF10EF", "label": "1", "says": {"press": {"talk": "main", "word": "on"}}}
                    }
                }
            }
        },
    )
    trace = played(plan, kind="control", control="k1", node="remote")
    assert [(it.stage, it.says) for it in trace.events][:2] == [("nodes.remote", "1"), ("inputs.receiver", "code 0x20DF10EF")]
    assert lit(trace) == [0, 255]
    assert not [it for it in trace.events if it.stage.startswith("links.")], "no radio has to do with it"


def test_a_key_without_a_receiver_or_of_another_board_is_lost() -> None:
    plan = with_helpers()
    without = edit_plan(plan, {"inputs": {"receiver": None}, "signals": {"receiver.in": None}})
    key = {"nodes": {"remote": {"controls": {"k1": {"kind": "key", "says": {"press": {"talk": "main", "word": "on"}}}}}}}
    lost = played(edit_plan(without, key), kind="control", control="k1", node="remote").lost
    assert [it.lost_because for it in lost] == ["no receiver hangs on a board"]


def test_two_handsets_have_their_own_buttons() -> None:
    """Each control has an id of its own, and where two were given the same one, whose it is says which is meant."""
    plan = with_helpers()
    names = [control.id for it in resolve(plan, load_catalog()).handsets.values() for control in it.controls]
    assert len(names) == len(set(names))
    same = edit_plan(
        plan,
        {
            "nodes": {
                "phone": {"controls": {"x": {"kind": "button", "says": {"press": {"talk": "main", "word": "on"}}}}},
                "remote": {"controls": {"x": {"kind": "key", "says": {"press": {"talk": "main", "word": "off"}}}}},
            }
        },
    )
    assert lit(played(same, kind="control", control="x", node="phone")) == [0, 255]
    assert next(it.stage for it in played(same, kind="control", control="x", node="remote").events) == "nodes.remote"


@pytest.mark.parametrize("code", ["moon", -1, 2**32, "0x1FFFFFFFF"])
def test_a_code_that_is_none_is_refused(code: object) -> None:
    with pytest.raises(PlanInvalid):
        plan_with({"nodes": {"remote": {"kind": "remote", "controls": {"k": {"kind": "key", "code": code}}}}})


def test_a_receiver_must_be_one() -> None:
    with pytest.raises(PlanInvalid):
        plan_with(
            {"inputs": {"cue": {"kind": "button", "host": "board"}}, "nodes": {"remote": {"kind": "remote", "receiver": "cue"}}}
        )


def test_a_word_of_two_values_is_a_switch_on_the_phone_and_two_things_where_there_is_none() -> None:
    """0 and 1: one switch says both; a helper has a phrase and a remote a key for each."""
    two: Document = {
        "vocabularies": {"words": {"words": {"slide": {"label": "Lamp, on or off", "parameters": {"level": {"most": 1}}}}}}
    }
    plan = with_helpers(two)
    design = resolve(plan, load_catalog())
    told = {
        node: [
            (it.kind, it.label, {way: dict(fill) for way, fill in it.fills.items()})
            for it in design.handsets[node].controls
            if "Lamp" in it.label
        ]
        for node in ("phone", "helper", "remote")
    }
    both = [("Lamp on", {"press": {"level": 1}}), ("Lamp off", {"press": {"level": 0}})]
    assert told == {
        "phone": [("toggle", "Lamp, on or off", {"on": {"level": 1}, "off": {"level": 0}})],
        "helper": [("phrase", *it) for it in both],
        "remote": [("key", *it) for it in both],
    }
    assert lit(played(plan, kind="spoken", node="helper", text="lamp on")) == [0, 1]
    assert lit(played(plan, kind="control", node="phone", control="slide", gesture="on")) == [0, 1]
    key = next(it.id for it in design.handsets["remote"].controls if it.label == "Lamp on")
    assert lit(played(plan, kind="control", node="remote", control=key)) == [0, 1]
    slots = {it.when: it.types for it in slots_of(design, design.handsets["phone"]) if it.control == "Lamp, on or off"}
    assert slots == {"switched on": "S1", "switched off": "S0"}


@pytest.mark.parametrize("label", ["Mond über See", "月", "ÉTOILE", "-", "Moon_2"])
def test_a_word_of_any_name_can_be_said(label: str) -> None:
    plan = with_helpers({"vocabularies": {"words": {"words": {"on": {"label": label}}}}})
    phrase = next(it.phrases[0] for it in resolve(plan, load_catalog()).handsets["helper"].controls if it.label == label)
    assert lit(played(plan, kind="spoken", node="helper", text=phrase.upper())) == [0, 255]
