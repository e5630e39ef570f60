"""The phone's side: what a word is answered with, lights that show it, lines typed to try, controls that are moved."""

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.design.design import Design
from oddlamp.core.errors import OutOfRange, PlanInvalid
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.drawn import drawn_up
from oddlamp.sheets.handset import lights_of
from oddlamp.sheets.phone_lights import light_moves
from oddlamp.sheets.slots import slots_of
from oddlamp.sheets.typed import typed_line
from oddlamp.sheets.words import words_sheet
from tests.builders import codes, findings_of, plan_with, words

ENDED: Document = {"vocabularies": {"words": {"framing": {"kind": "terminated", "terminator": "lf"}}}}
CARRIES: Document = {
    "nodes": {"phone": {"appends": "lf"}},
    "vocabularies": {"words": {"words": {"slide": {"sent": "S{level}", "label": "Slide"}}}},
    "rules": {
        "s": {
            "host": "board",
            "when": {"heard": "slide"},
            "do": [{"verb": "level", "target": "lamp", "values": {"level": "{level}"}}],
        }
    },
}
BACK: Document = {
    "vocabularies": {"words": {"words": {"now": {"sent": "L{level}", "label": "Lamp now", "direction": "back"}}}},
    "rules": {
        "s": {
            "do": [
                {"verb": "level", "target": "lamp", "values": {"level": "{level}"}},
                {"verb": "say", "say": {"talk": "main", "word": "now", "fill": {"level": "{lamp.level}"}}},
            ]
        }
    },
}


def design_of(*patches: Document) -> Design:
    return resolve(plan_with(ENDED, CARRIES, *patches), load_catalog())


@pytest.mark.parametrize(
    ("text", "sentence", "is_heard"),
    [
        ("S128", "Slide: Level 128", True),
        ("S256", "S 2 5 6: no word here, Slide takes Level 0 to 255", False),
        ("S", "S: no word here, Slide takes Level 0 to 255", False),
        ("S1\\nS2", "Slide: Level 1; Slide: Level 2", True),
        ("\\x53\\x31", "Slide: Level 1", True),
    ],
)
def test_a_typed_line_is_what_the_program_hears(text: str, sentence: str, is_heard: bool) -> None:
    line = typed_line(design_of(), "words", text)
    assert (line.sentence, line.is_heard) == (sentence, is_heard)


def test_a_typed_line_without_its_ending_waits() -> None:
    line = typed_line(design_of({"nodes": {"phone": {"appends": "none"}}}), "words", "S1")
    assert line.sentence == "S 1 waits: LF does not come"
    assert not line.is_heard


def test_a_typed_line_marks_its_values_and_what_nobody_wants() -> None:
    """``S128`` and LF at 9600 Bd: five bytes, ISO/IEC 646, 5.21 ms by hand."""
    row = typed_line(design_of(), "words", "S128").picture.rows[0]
    assert [(it.decimal, it.role) for it in row.bytes] == [
        (83, "word"),
        (49, "value"),
        (50, "value"),
        (56, "value"),
        (10, "ending"),
    ]
    assert row.takes == "5.21\u00a0ms"
    unwanted = typed_line(design_of({"nodes": {"phone": {"appends": "cr-lf"}}}), "words", "S1").picture.rows[0]
    assert [it.role for it in unwanted.bytes][-2:] == ["unwanted", "ending"]


@pytest.mark.parametrize("text", ["", "é", "\\q", "x" * 65])
def test_what_cannot_be_typed_is_refused(text: str) -> None:
    with pytest.raises(OutOfRange):
        typed_line(design_of(), "words", text)


def light_states(plan: Plan, *levels: int) -> list[str]:
    """The labels of what the only light shows after each of some levels."""
    events = read_events(
        [
            {"kind": "word", "t_s": 1 + at, "talk": "main", "word": "slide", "values": {"level": it}}
            for at, it in enumerate(levels)
        ]
    )
    design = resolve(plan, load_catalog())
    (looks,) = lights_of(design, rehearse(plan, load_catalog(), events)).values()
    return [f"{it.label} {it.colour}" for it in looks]


def test_a_light_shows_what_is_answered() -> None:
    plan = plan_with(ENDED, CARRIES, BACK)
    design = resolve(plan, load_catalog())
    (move,) = light_moves(design, design.handsets["phone"])
    assert move.label == "Show Lamp now as a light"
    lit = edit_plan(plan, move.patch)
    assert codes(findings_of(lit)) == codes(findings_of(plan))
    assert not list(light_moves(resolve(lit, load_catalog()), resolve(lit, load_catalog()).handsets["phone"]))
    assert light_states(lit, 0, 127, 128, 255) == [
        "Level 0 None",
        "Level under 128 #ffa63d",
        "Level 128 and more #ffcf4d",
        "Level 128 and more #ffcf4d",
    ]
    gone = edit_plan(lit, resolve(lit, load_catalog()).taking_out.without_word("words", "now"))
    assert "now_light" not in gone.nodes["phone"].controls, "a light of a word that is gone goes with it"


@pytest.mark.parametrize(
    "state",
    [
        {"word": "nothing"},
        {"word": "now", "least": 1},
        {"word": "now", "value": "level", "least": 5, "most": 4},
        {"word": "now", "blink_s": 0},
        {"word": "now", "shade": "pink"},
    ],
)
def test_a_state_that_cannot_be_is_refused(state: Document) -> None:
    with pytest.raises(PlanInvalid):
        plan_with(ENDED, CARRIES, BACK, {"nodes": {"phone": {"controls": {"l": {"kind": "light", "states": [state]}}}}})


def test_a_phone_knows_no_lamp() -> None:
    says = {"move": {"talk": "main", "word": "slide", "fill": {"level": "{lamp.level}"}}}
    with pytest.raises(PlanInvalid, match="a phone does not know how a lamp is"):
        plan_with(ENDED, CARRIES, {"nodes": {"phone": {"controls": {"s": {"kind": "slider", "says": says}}}}})


def test_every_kind_that_is_offered_can_be_taken() -> None:
    design = design_of({"vocabularies": {"words": {"words": {"two": {"sent": "T{x} {y}"}, "three": {"sent": "C{a} {b} {c}"}}}}})
    slots = [it for it in slots_of(design, design.handsets["phone"]) if it.is_a is not None]
    kinds = {it.control: [option.label for option in it.is_a.options] for it in slots if it.is_a}
    assert kinds["Two"] == ["A slider for each value", "A stick", "Typed as numbers"]
    assert kinds["Three"] == ["A slider for each value", "A colour", "Typed as numbers"]
    for slot in slots:
        for choice in (it for it in (slot.is_a, slot.is_said) if it):
            for option in choice.options:
                after = resolve(edit_plan(design.plan, option.patch), load_catalog())
                again = next(it for it in slots_of(after, after.handsets["phone"]) if it.control == slot.control)
                shown = next(it for it in (again.is_a, again.is_said) if it and it.label == choice.label)
                assert [it.label for it in shown.options if it.is_chosen] == [option.label]


def test_what_is_said_at_rest_asks_nothing_of_the_line() -> None:
    """A slider every 10 ms at 9600 Bd is too quick (5 bytes are 5.2 ms, the air takes 35); said once it rests it is not."""
    quick: Document = {
        "nodes": {
            "phone": {
                "controls": {"s": {"kind": "slider", "interval_s": 0.01, "says": {"move": {"talk": "main", "word": "slide"}}}}
            }
        }
    }
    rest: Document = {"nodes": {"phone": {"controls": {"s": {"sends": "at-rest"}}}}}
    assert "CMD-RATE" in {code for code, _ in codes(findings_of(plan_with(ENDED, CARRIES, quick)))}
    assert "CMD-RATE" not in {code for code, _ in codes(findings_of(plan_with(ENDED, CARRIES, quick, rest)))}


def test_each_answer_that_is_offered_is_taken_and_let_go() -> None:
    design = design_of()
    for row in words_sheet(design, design.vocabularies["words"], ()).words:
        assert row.answers is not None
        wanted = row.answers.options[1]
        after = edit_plan(design.plan, wanted.patch)
        assert codes(findings_of(after)) == codes(findings_of(design.plan)), row.id
        there = resolve(after, load_catalog())
        shown = next(it for it in words_sheet(there, there.vocabularies["words"], ()).words if it.id == row.id).answers
        assert shown is not None
        assert [it.label for it in shown.options if it.is_chosen] == [wanted.label]
        gone = edit_plan(after, shown.options[0].patch)
        assert gone.vocabularies == design.plan.vocabularies
        assert gone.rules == design.plan.rules


def test_the_schools_stand_side_by_side_and_what_brings_a_verdict_cannot_be_taken() -> None:
    made = drawn_up(design_of(), "words", ("switch", "level", "answers"))
    assert [it.label for it in made.schools] == [
        "One byte a word",
        "A letter and a number",
        "A word a line",
        "All values in one line",
    ]
    assert all(it.move is not None or "everything wished for can be said already" in it.remarks for it in made.schools)
    nothing = drawn_up(design_of(), "words", ())
    assert not nothing.schools
    assert nothing.wishes
    with pytest.raises(OutOfRange):
        drawn_up(design_of(), "nowhere", None)


def test_a_reply_of_several_bytes_needs_an_end_too() -> None:
    """Where each byte is read by itself, a reply of two bytes is read as two; what a word said back starts is told as well."""
    long = plan_with(words(on="1", off="0"), {"vocabularies": {"words": {"words": {"ok": {"sent": "OK", "direction": "back"}}}}})
    found = [it for it in findings_of(long) if it.code == "CMD-ENDING"]
    assert [it.where for it in found] == ["words.ok"]


def test_a_proposal_that_moves_because_of_what_was_typed_says_so() -> None:
    """A word called dusk would be d; once another sends that, it is u, and says why."""

    def dusk(*patches: Document) -> tuple[str, str]:
        design = resolve(plan_with(*patches), load_catalog())
        row = next(it for it in words_sheet(design, design.vocabularies["words"], ()).words if it.id == "dusk")
        return row.sent.text, row.moved

    named: Document = {"vocabularies": {"words": {"words": {"dusk": {}}}}}
    assert dusk(named) == ("d", "")
    assert dusk(named, words(on="d")) == ("u", "u, because On sends d already")
    assert dusk(named, words(on="d", dusk="k")) == ("k", ""), "settled"


def test_another_answer_leaves_none_that_nobody_says() -> None:
    """One byte a word with answers says each word back; told how the lamp is instead, the old answer goes."""
    plan = plan_with(ENDED, CARRIES)
    byte = next(
        it
        for it in drawn_up(resolve(plan, load_catalog()), "words", ("switch", "answers")).schools
        if it.label == "One byte a word"
    )
    assert byte.move is not None
    answered = edit_plan(plan, byte.move.patch)
    design = resolve(answered, load_catalog())
    for row in words_sheet(design, design.vocabularies["words"], ()).words:
        for option in row.answers.options if row.answers is not None else ():
            after = edit_plan(answered, option.patch) if option.patch else answered
            assert "CMD-NO-REPLY" not in {code for code, _ in codes(findings_of(after))}, (row.id, option.label)


def test_an_answer_that_a_light_shows_can_be_let_go() -> None:
    """The light goes with the word it shows, from the words' sheet and from the way out of a wire that is left out."""
    plan = plan_with(ENDED, CARRIES, BACK)
    (move,) = light_moves(resolve(plan, load_catalog()), resolve(plan, load_catalog()).handsets["phone"])
    lit = edit_plan(plan, move.patch)
    design = resolve(lit, load_catalog())
    row = next(it for it in words_sheet(design, design.vocabularies["words"], ()).words if it.id == "slide")
    assert row.answers is not None
    silent = edit_plan(lit, row.answers.options[0].patch)
    assert not silent.nodes["phone"].controls
    assert list(silent.vocabularies["words"].words) == ["on", "off", "slide"]
    cut = edit_plan(lit, {"signals": {"serial.b_to_a": {"is_omitted": True}}})
    (finding,) = [it for it in findings_of(cut) if it.code == "CMD-ONE-WAY"]
    assert "Say nothing back" in [it.label for it in finding.fixes]


def test_a_value_has_a_unit_that_is_told_and_not_sent() -> None:
    percent = plan_with(
        ENDED, CARRIES, {"vocabularies": {"words": {"words": {"slide": {"parameters": {"level": {"most": 100, "unit": "%"}}}}}}}
    )
    design = resolve(percent, load_catalog())
    row = next(it for it in words_sheet(design, design.vocabularies["words"], ()).words if it.id == "slide")
    unit = row.parameters[0].bounds[-1]
    assert (unit.label, unit.text, unit.path[-2:]) == ("Level in", "%", ("level", "unit"))
    assert design.vocabularies["words"].word("slide").content == b"S100"
