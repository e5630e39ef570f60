"""Rules as sentences: printed, read and printed again; wishes of a stranger entered; nonsense told where it stands."""

import cProfile
import random
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.program import Open, Program
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.rules import Standing
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.sentences.forms import FORMS, WHEN
from oddlamp.core.sentences.reading import NotUnderstood
from oddlamp.core.sentences.whole import Sentences
from oddlamp.sheets.sentences import orders_of, taken, typed
from tests.builders import plan_with
from tests.core.program.drawn import STAGE, VERBS, drawn_plan
from tests.full import IS_PROOF

COUNT = 400 if IS_PROOF else 24
MISLEADING = (
    "Moon on", "Moon", "stops everything", "plays", "5 %", "and", "the time", "Moon", "nothing", "it", "on", "off after 2 s", "a, b",
    "x: y", "Moon off.", "\u201cq\u201d", "next of", "with v 5", "to 50 %", "Moon one step brighter", "link", "Lamp (lamp)",
    "unless Door is on", "", "  two   spaces ", 'a "quote',
)  # fmt: skip
LABELLED = ("lamps", "groups", "cues", "movers", "inputs")


def misled(rng: random.Random, whole: Document) -> Document:
    """Give things names that are words of the sentences themselves."""
    named = {
        it: {key: {**one, "label": rng.choice(MISLEADING) or None} for key, one in whole.get(it, {}).items()} for it in LABELLED
    }
    words = whole["vocabularies"]["words"]["words"]
    mine = {key: {**one, "label": rng.choice(MISLEADING).strip() or None} for key, one in words.items()}
    vocabulary = {**whole["vocabularies"]["words"], "words": mine}
    return {**whole, **named, "vocabularies": {**whole["vocabularies"], "words": vocabulary}}


def rules_of(plan: Plan) -> dict[str, Document]:
    return {name: rule.model_dump(mode="json", exclude_none=True) for name, rule in plan.rules.items()}


def steps(program: Program) -> dict[Any, Any]:
    """What every event sets off, without how it is told."""
    return {
        event: [([(due.after_ms, due.step) for due in run.steps], run.unless) for run in runs]
        for event, runs in program.handlers.items()
    }


@pytest.mark.parametrize("batch", range(0, COUNT, 8))
def test_what_is_printed_is_read_as_what_it_was_and_printed_the_same(batch: int) -> None:
    """Drawn rules of every verb and source, half of them in plans whose names are words of the sentences: text and program are the same."""
    for seed in range(batch, batch + 8):
        rng = random.Random(seed)
        whole = drawn_plan(rng)
        plan = load_plan(misled(rng, whole) if seed % 2 else whole)
        sentences, again = Sentences(plan, "board"), {}
        for name, rule in rules_of(plan).items():
            text = sentences.print(rule)
            assert "\n" not in text
            again[name] = sentences.read(text)
            assert sentences.print(again[name]) == text, seed
        rewritten = plan.model_copy(update={"rules": load_plan({**whole, "rules": again}).rules})
        before, after = (program_of(resolve(it, load_catalog()), "board") for it in (plan, rewritten))
        assert steps(after) == steps(before), seed


def test_every_verb_and_source_can_be_written() -> None:
    """Each form, with all that it may add, of plans drawn until all have come up."""
    verbs, whens, added = set[str](), set[Any](), set[str]()
    for seed in range(COUNT):
        for rule in rules_of(load_plan(drawn_plan(random.Random(seed)))).values():
            whens.add(tuple(sorted(rule["when"].keys() - {"heard", "input", "link"} | {rule["when"].get("event")} - {None})))
            for action in rule["do"]:
                verbs.add(action["verb"])
                added |= {f"{action['verb']} {it}" for it in action.get("values", {})}
    assert verbs == set(VERBS) == set(FORMS)
    assert len(WHEN) == 11
    assert {"blink times", "text is_reversed", "colour last", "show input", "tone for_s", "run speed", "pulse level"} <= added


# In a stranger's own words, and the sentence each comes to; written beside the forms, not before them.
WISHES: tuple[tuple[str, str], ...] = (
    ("switch the lamp on with the word A", "When A is heard: Lamp on."),
    ("fade it out slowly with B", "When B is heard: Lamp off over 2 s."),
    ("the same word on and off", "When A is heard: Lamp toggles."),
    ("half bright", "When A is heard: Lamp to 50 %."),
    ("as bright as the number the word brings", "When A is heard: Lamp as bright as {v}."),
    ("the knob dims the far lamp", "When Dial is moved: Far as bright as it is turned."),
    ("a bit brighter each time, and round again", "When A is heard: Far one step brighter going round."),
    ("ten per cent darker, but not further than off", "When B is heard: Far 10 % darker stopping at the end."),
    ("the moon in a warm orange", "When C is heard: Moon in amber."),
    ("half red and a little blue", "When C is heard: Moon in red 50 % blue 10 %."),
    ("as much red as the knob is turned", "When Dial is moved: Moon in red as it is turned."),
    ("light only the third pixel, green", "When C is heard: pixel 2 of Chain in green."),
    ("each sensor its own pixel", "When Touch is switched on: its own pixel of Chain in red."),
    ("a running light", "When C is heard: Chain runs every third along a step each 80 ms."),
    ("blink three times", "When A is heard: Lamp blinks lit for 200 ms dark for 100 ms 3 times."),
    ("on only while I hold the button", "When Cue is pressed: Lamp on while it is held."),
    ("stairway light: on, and off after half a minute", "When Cue is pressed: Lamp on, Lamp off after 30 s."),
    ("start the storm", "When A is heard: plays Storm."),
    ("next scene by the button", "When Cue is pressed: next of Storm."),
    ("stop everything at once", "When D is heard: stops everything."),
    ("say hello on the sign", 'When A is heard: Sign shows "HELLO" moving on each 80 ms.'),
    ("show how far the knob is turned", "When Dial is moved: Sign shows the value of Dial from 0 to 50."),
    ("show the time every minute", "Every 60 s: Sign shows the time."),
    ("count a point", "When B is heard: Sign counts 1 on."),
    ("a beep", "When Cue is pressed: Beak sounds 440 Hz for 200 ms."),
    ("lights out at eleven in the evening", "At 23:00: Both off over 3 s."),
    ("when it gets dark, the far lamp, but not while the door is open", "When Dusk is switched off, unless Door is on: Far on."),
    ("when the phone is gone, everything off", "When the link is lost: stops everything."),
    ("curtain to and fro", "When A is heard: Curtain turns round."),
    ("boat at half speed, and tell the phone", "When A is heard: Boat at speed 2, says Told with v {lamp.level} and w 5."),
)  # fmt: skip
NAMED: Document = {
    "vocabularies": {"words": {"words": {it: {"sent": f"{it}{{v}}", "parameters": {"v": {"most": 100}}} for it in "abcd"}}},
    "cues": {"storm": {"steps": [{"target": "lamp", "level": 1}]}},
}


def presses(sentences: Sentences, wanted: str) -> int:
    """Count the keys it takes: a letter, or Tab (with arrows before it) for one of the first twelve that could stand next."""
    text, count = "", 0
    while text.rstrip() != wanted:
        options = [f"{text[: it.place]}{it.text}" for it in sentences.next(text) if it.text.strip()][:12]
        good = [(len(it), at) for at, it in enumerate(options) if wanted.startswith(it.rstrip()) and len(it) > len(text) + 1 + at]
        if good:
            size, at = max(good)
            text, count = wanted[:size], count + 1 + at
        else:
            text, count = wanted[: len(text) + 1], count + 1
    return count + 1  # Enter


@pytest.mark.parametrize(("wish", "sentence"), WISHES, ids=[it for it, _ in WISHES])
def test_a_strangers_wish_is_entered_and_does_what_is_said(wish: str, sentence: str) -> None:
    plan = plan_with(NAMED, base=STAGE)
    design = resolve(plan, load_catalog())
    made = taken(design, "board", sentence, None)
    assert made.move is not None, made.wrong
    program = program_of(resolve(edit_plan(plan, made.move.patch), load_catalog()), "board")
    done = [due.step for runs in program.handlers.values() for run in runs for due in run.steps]
    assert done
    assert not [it for it in done if isinstance(it, Open)]
    assert presses(Sentences(plan, "board"), sentence) <= max(36, len(sentence) * 3 // 4)


@pytest.mark.parametrize(
    ("written", "printed"),
    [
        ("Curtain turns round, Curtain stops after 5 s", "Curtain turns round, stops Curtain after 5 s"),
        ("starts Storm, Storm stops after 2 s", "plays Storm, stops Storm after 2 s"),
        ("Far brighter, Far dimmer after 1 s, Lamp toggle", "Far one step brighter, Far one step darker after 1 s, Lamp toggles"),
    ],
)
def test_what_the_lists_say_may_be_written_too(written: str, printed: str) -> None:
    sentences = Sentences(plan_with(NAMED, base=STAGE), "board")
    assert sentences.print(sentences.read(f"When A is heard: {written}")) == f"When A is heard: {printed}."


@pytest.mark.parametrize(
    ("nonsense", "told"),
    [
        ("", "here could stand When"),
        ("Everything dark", "at \u201cEverything dark\u201d"),
        ("When Mood is heard: Lamp on", "at \u201cMood is heard"),
        ("When A is heard: Lamp purple", "at \u201cpurple\u201d"),
        ("When A is heard: Lamp on forever", "at \u201cforever\u201d"),
        ("When A is heard", "at its end"),
        ("At 25: Lamp on", "at \u201c25"),
        ('When A is heard: Sign shows "never ends', 'at \u201c"never ends\u201d'),
        ("x" * 100_000, "here could stand When"),
    ],
)
def test_what_means_nothing_is_told_where_it_stands(nonsense: str, told: str) -> None:
    with pytest.raises(NotUnderstood) as wrong:
        Sentences(plan_with(NAMED, base=STAGE), "board").read(nonsense)
    assert told in str(wrong.value)


def test_of_many_lines_each_that_is_none_is_named_and_nothing_is_taken() -> None:
    design = resolve(plan_with(NAMED, base=STAGE), load_catalog())
    made = taken(
        design, "board", "When A is heard: Lamp on.\n\nnonsense\nAt 25:70: Lamp on.\nWhen A is heard: Lamp to 500 %.", None
    )
    assert made.move is None
    assert [it.line for it in made.wrong] == [3, 4, 5]
    assert made.wrong[2].message == "5 cannot be: 1 at most."


def test_a_rule_is_written_anew_and_nothing_of_the_old_one_is_left() -> None:
    plan = plan_with(
        NAMED,
        {
            "rules": {
                "r": {
                    "host": "board",
                    "when": {"input": "cue", "event": "pressed"},
                    "unless": {"lamp": "lamp", "state": "on"},
                    "do": [{"verb": "on", "target": "lamp"}],
                }
            }
        },
        base=STAGE,
    )
    made = taken(resolve(plan, load_catalog()), "board", "At 07:30: Far on over 1 s.", "r")
    assert made.move is not None
    rule = edit_plan(plan, made.move.patch).rules["r"].model_dump(mode="json", exclude_none=True)
    assert rule == {"host": "board", "when": {"at": "07:30"}, "do": [{"verb": "on", "target": "far", "values": {"over_s": 1.0}}]}


def test_what_could_stand_next_comes_from_the_plan_and_leaves_out_what_a_lamp_cannot() -> None:
    design = resolve(plan_with(NAMED, base=STAGE), load_catalog())
    after_lamp = [it.adds for it in typed(design, "board", "When A is heard: Lamp ").goes_on]
    assert "on" in after_lamp
    assert "in " not in after_lamp, "one colour"
    assert "shows " not in after_lamp, "no signs"
    assert typed(design, "board", "When A is heard: Lamp on").is_whole
    assert [it.adds for it in typed(design, "board", "when a is heard: lam").goes_on] == ["Lamp"]


HOSTILE = {"Lamp on and ": 400, "Lamp to 5 % ": 900, "{": 9000, '"': 9001, "Moon in red 5 % green ": 500}


def test_long_and_hostile_sentences_are_read_as_quickly_as_they_are_long() -> None:
    """Twice as long takes about twice the calls: a square of it would be four times. What one call may take, patterns, is timed elsewhere."""
    sentences = Sentences(plan_with(NAMED, base=STAGE), "board")
    rule = sentences.read("When A is heard: " + ", ".join(["Lamp on over 1 s after 2 s"] * 200))
    assert len(rule["do"]) == 200

    def calls(hostile: str) -> int:
        with cProfile.Profile() as seen, pytest.raises(NotUnderstood):
            sentences.read(f"When A is heard: {hostile}")
        return sum(it.callcount for it in seen.getstats())

    for part, count in HOSTILE.items():
        assert calls(part * (2 * count + 1)) < 2.5 * calls(part * count) + 1000, part


def test_standing_orders_are_sentences_too() -> None:
    """Drawn orders, half of them in plans whose names mislead: printed, read and printed again, and the plan is the same."""
    for seed in range(COUNT):
        rng = random.Random(seed)
        whole = drawn_plan(rng)
        plan = load_plan(misled(rng, whole) if seed % 2 else whole)
        design = resolve(plan, load_catalog())
        said = orders_of(design, "board")
        bare = plan.model_copy(update={"standing": {}})
        made = taken(resolve(bare, load_catalog()), "board", "\n".join(said), None)
        assert made.wrong == ()
        again = bare if made.move is None else edit_plan(bare, made.move.patch)
        assert {name: it for name, it in again.standing.items() if it != Standing()} == {
            name: it for name, it in plan.standing.items() if it != Standing()
        }, seed


def test_an_order_is_offered_and_taken() -> None:
    design = resolve(plan_with(NAMED, base=STAGE), load_catalog())
    made = taken(
        design, "board", "Without its link Far is off.\nDial takes over Far from 5 % on.\nWhen A is heard: Far on.", None
    )
    assert made.move is not None
    assert made.move.label == "Write 3 sentences"
    standing = edit_plan(design.plan, made.move.patch).standing["far"]
    assert (standing.link_lost, standing.thresholds) == ("off", {"dial": 0.05})
    assert "Without its link " in [it.adds for it in typed(design, "board", "With").goes_on]
    assert typed(design, "board", "After a power cut Moon is as it was").is_whole
