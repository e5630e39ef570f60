"""Words drawn up from wishes: on drawn plans they bring no verdict, and every one of them does what it was drawn up for."""

import random

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.designer.draw import SCHOOLS, Drawn, draw_up
from oddlamp.core.designer.wishes import WISHES, fitting
from oddlamp.core.plan.document import Document, edit_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from tests.builders import CLEAR, codes, findings_of, plan_with, words
from tests.core.words.test_sliders import FRAMINGS, RADIOS
from tests.full import IS_PROOF

KINDS: dict[str, Document] = {
    "led": {"kind": "led"},
    "rgb": {"kind": "rgb", "common": "cathode"},
    "matrix": {"kind": "matrix"},
    "relay": {"kind": "relay"},
    "buzzer": {"kind": "buzzer"},
}
NOTHING: Document = {
    "vocabularies": {"words": {"framing": None, "words": {"on": None, "off": None}}},
    "rules": {"r1": None, "r2": None},
}


def drawn_plan(rng: random.Random) -> Plan:
    """Up to five lamps on any family and framing, with words that are there already or none."""
    family = rng.choice(sorted(RADIOS))
    lamps = {
        f"l{at}": {**KINDS[rng.choice(sorted(KINDS))], "label": f"L{at}", "host": "board"} for at in range(rng.randint(0, 4))
    }
    radio = {"nodes": {"radio": {"choice": {"part": family}, "setup": None}, "phone": {"speaks": [RADIOS[family]]}}}
    patches: list[Document] = [
        radio,
        {"links": {"air": {"transport": None}}},
        {"lamps": lamps},
        FRAMINGS[rng.choice(sorted(FRAMINGS))],
    ]
    patches.append(NOTHING if rng.random() < 0.5 else words(on=rng.choice(["1", "o", "L"])))
    return plan_with(*patches, base=merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": "board-5v-70io"}}}}))


def drawn(plan: Plan, *wishes: str, school: str) -> Drawn:
    return draw_up(resolve(plan, load_catalog()), "words", wishes, school)  # type: ignore[arg-type]


@pytest.mark.parametrize("seed", range(0, 2000 if IS_PROOF else 40, 20))
def test_what_is_drawn_up_is_clear_and_sets_every_lamp(seed: int) -> None:
    for number in range(seed, seed + 20):
        rng = random.Random(number)
        plan = drawn_plan(rng)
        fit = fitting(resolve(plan, load_catalog()), "board")
        wishes = rng.sample(fit, rng.randint(1, len(fit)))
        made = drawn(plan, *wishes, school=rng.choice(sorted(SCHOOLS)))
        after = edit_plan(plan, made.patch)
        new = codes(findings_of(after)) - codes(findings_of(plan))
        assert not new, (number, wishes, made.school, new, made.words)
        design = resolve(after, load_catalog())
        talk = design.talks["main"]
        for at, word in enumerate(it for it in made.words if not it.is_answer):
            shape = talk.vocabulary.word(word.id)
            values = {it.id: it.at_most for it in shape.parameters}
            events = [{"kind": "word", "t_s": 0, "talk": "main", "word": word.id, "values": values}] * 2
            trace = rehearse(after, load_catalog(), read_events([{**it, "t_s": 10 * (at + 1)} for at, it in enumerate(events)]))
            heard = [it for it in trace.events if it.stage == "vocabularies.words" and it.ref == word.id and not it.lost_because]
            assert heard, (number, word, [it.lost_because for it in trace.lost])
            assert any(it.stage.startswith("rules.") and not it.lost_because for it in trace.events), (number, word)
            if "answers" in wishes:
                last = [it for it in trace.events if it.stage == "nodes.phone"][-1]
                assert not trace.lost or "CMD-CHATTER" in {code for code, _ in codes(findings_of(after))}, (
                    number,
                    word,
                    [it.lost_because for it in trace.lost],
                )
                assert talk.vocabulary.word(last.ref).direction == "back", (number, word, last)


def test_wishes_are_those_that_some_lamp_grants() -> None:
    assert fitting(resolve(plan_with(), load_catalog()), "board") == ["switch", "level", "steps", "back", "answers"]
    assert set(WISHES) > {"text", "score", "modes"}


def test_the_letters_come_to_mind_and_no_two_begin_alike() -> None:
    plan = plan_with(
        NOTHING,
        {
            "lamps": {
                "moon": {"kind": "rgb", "label": "Moon", "host": "board"},
                "sign": {"kind": "matrix", "label": "Sign", "host": "board"},
            }
        },
    )
    made = drawn(plan, "level", "colour", "text", "score", "back", school="letter")
    sent = {it.id: it.sent for it in made.words}
    assert sent == {
        "lamp_level": "L{level}",
        "moon_colour": "C{red} {green} {blue}",
        "sign_text": "T{text}",
        "sign_point": "p",
        "sign_none": "z",
        "dark": "0",
        "back": "9",
    }
    begins = [it[0].casefold() for it in sent.values()]
    assert len(set(begins)) == len(begins)


def test_one_byte_a_word_leaves_out_what_it_cannot_carry_and_says_so() -> None:
    plan = plan_with(NOTHING, {"lamps": {"sign": {"kind": "matrix", "label": "Sign", "host": "board"}}})
    made = drawn(plan, "switch", "level", "text", school="byte")
    assert made.left_out == ("text: one byte carries none",)
    assert [it.sent for it in made.words] == ["1", "a", "2", "b", "+", "-", "0"], "brighter and dimmer stand in for how bright"


def test_all_values_in_one_line() -> None:
    plan = plan_with(NOTHING, {"lamps": {"moon": {"kind": "rgb", "label": "Moon", "host": "board"}}})
    made = drawn(plan, "level", "colour", school="fields")
    assert [it.sent for it in made.words] == ["0", "*{a},{b},{c},{d}"]
    after = edit_plan(plan, made.patch)
    values = {"a": 10, "b": 255, "c": 0, "d": 51}
    event = {"kind": "word", "t_s": 0, "talk": "main", "word": "set_all", "values": values}
    pins = rehearse(after, load_catalog(), read_events([event])).pins
    assert {name: it[-1].shows for name, it in pins.items()} == {
        "lamp.main": 10,
        "moon.red": 255,
        "moon.green": 0,
        "moon.blue": 51,
    }


def test_what_is_there_and_does_the_same_stays_as_it_is() -> None:
    """Drawn up twice, nothing more is added; what the maker settled keeps its characters."""
    plan = plan_with(words(on="Q"))
    made = drawn(plan, "switch", school="byte")
    once = edit_plan(plan, made.patch)
    assert once.vocabularies["words"].words["on"].sent == "Q"
    assert not drawn(once, "switch", school="byte").words
    assert "dark" not in [it.id for it in made.words], "Off puts everything out already"


def test_what_a_module_says_by_itself_ends_with_the_pause_that_ends_words() -> None:
    """OK+CONN and then quiet is a message of its own: the next word is heard, where an ending would tie the two together."""
    ble: Document = {
        "nodes": {"radio": {"choice": {"part": "family-c"}, "setup": None}, "phone": {"speaks": ["ble"], "appends": None}},
        "links": {"air": {"transport": None}},
    }
    paused = plan_with(ble, {"vocabularies": {"words": {"framing": {"kind": "gap", "terminator": None}}}}, words(on="moon"))
    ended = plan_with(ble, {"vocabularies": {"words": {"framing": {"kind": "terminated"}}}}, words(on="moon"))
    assert "CMD-CHATTER" not in {code for code, _ in codes(findings_of(paused))}
    assert ("CMD-CHATTER", "look") in codes(findings_of(ended))


def test_no_word_is_longer_than_a_packet_of_the_air() -> None:
    """BLE carries 20 bytes: seven values in one line are parted in two lines, and a long name makes room for what it carries."""
    lamps = {f"l{at}": {"kind": "rgb", "label": f"L{at}", "host": "board"} for at in range(2)}
    ble: Document = {"nodes": {"radio": {"choice": {"part": "family-c"}, "setup": None}, "phone": {"speaks": ["ble"]}}}
    plan = plan_with(NOTHING, ble, {"links": {"air": {"transport": None}}, "lamps": lamps})
    for school in ("line", "fields"):
        after = edit_plan(plan, drawn(plan, "level", "colour", school=school).patch)
        assert "MOD-PACKET" not in {code for code, _ in codes(findings_of(after))}
    assert len([it for it in drawn(plan, "level", "colour", school="fields").words if "{" in it.sent]) == 1
    ended = edit_plan(plan, {"vocabularies": {"words": {"framing": {"kind": "gap", "terminator": None}}}})
    assert [it.sent for it in drawn(ended, "level", "colour", school="fields").words if "{" in it.sent] == [
        "*{a},{b},{c},{d}",
        "A{a},{b},{c}",
    ]


def test_a_word_that_does_nothing_yet_is_given_something_to_do() -> None:
    plan = plan_with(NOTHING, {"vocabularies": {"words": {"words": {"dark": {"sent": "!"}}}}})
    after = edit_plan(plan, drawn(plan, "switch", school="letter").patch)
    assert [it.when.heard for it in after.rules.values() if it.when.heard == "dark"] == ["dark"]
    assert after.vocabularies["words"].words["dark"].sent == "!"


def test_a_lamp_with_words_for_on_and_off_needs_none_that_carries_which() -> None:
    relay: Document = {"lamps": {"lamp": {"kind": "relay", "channels": None}}}
    assert not drawn(plan_with(relay), "switch", school="letter").words
    assert [it.sent for it in drawn(plan_with(relay, NOTHING), "switch", school="letter").words] == ["L{is_on}", "0"]


@pytest.mark.parametrize("ends", ["x", "5", "*", "-", ",", "e", "L", "#"])
@pytest.mark.parametrize("school", sorted(SCHOOLS))
def test_whatever_ends_words_no_word_holds_it(ends: str, school: str) -> None:
    plan = plan_with(
        NOTHING,
        {"lamps": {"moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "cathode"}}},
        {"vocabularies": {"words": {"framing": {"kind": "terminated", "terminator": ends}}}},
    )
    after = edit_plan(plan, drawn(plan, "level", "colour", "steps", "answers", school=school).patch)
    assert codes(findings_of(after)) <= codes(findings_of(plan))


def arrived(plan: Plan, *events: Document) -> list[str]:
    """What the phone is told, in order."""
    trace = rehearse(plan, load_catalog(), read_events([{**it, "t_s": 1 + at} for at, it in enumerate(events)]))
    return [it.says for it in trace.events if it.stage == "nodes.phone" and it.t_s % 1 > 0.01]


def test_every_lamp_answers_how_it_is_now() -> None:
    """By hand: steps, colours, a switch and a score are told as the lamp then is; what speaks of more than one lamp comes back itself."""
    plan = plan_with(
        NOTHING,
        {
            "lamps": {
                "moon": {"kind": "rgb", "label": "Moon", "host": "board"},
                "sign": {"kind": "matrix", "label": "Sign", "host": "board"},
                "bell": {"kind": "buzzer", "label": "Bell", "host": "board"},
            }
        },
    )
    made = drawn(plan, "switch", "level", "colour", "score", "answers", school="letter")
    after = edit_plan(plan, made.patch)
    assert codes(findings_of(after)) <= codes(findings_of(plan))
    told = arrived(
        after,
        {"kind": "word", "talk": "main", "word": "lamp_level", "values": {"level": 128}},
        {"kind": "word", "talk": "main", "word": "moon_colour", "values": {"red": 255, "green": 1, "blue": 0}},
        {"kind": "word", "talk": "main", "word": "bell_switch", "values": {"is_on": 1}},
        {"kind": "word", "talk": "main", "word": "sign_point"},
        {"kind": "word", "talk": "main", "word": "sign_point"},
        {"kind": "word", "talk": "main", "word": "dark"},
    )
    assert told == [
        "Lamp now: Level 128",
        "Moon now: Red 255, Green 1, Blue 0",
        "Bell now: On 1",
        "Sign score now: Score 1",
        "Sign score now: Score 2",
        "Dark, done",
    ]
    again = drawn(after, "switch", "level", "colour", "score", "answers", school="letter")
    assert not again.words
    assert not again.patch.get("rules"), "what is answered is answered once"


def test_what_was_there_is_answered_too() -> None:
    plan = plan_with({"rules": {"r1": {"do": [{"verb": "toggle", "target": "lamp"}]}}})
    after = edit_plan(plan, drawn(plan, "answers", school="letter").patch)
    press = {"kind": "word", "talk": "main", "word": "on"}
    assert arrived(after, press, press) == ["Lamp now: On 1", "Lamp now: On 0"]
    taken = edit_plan(after, resolve(after, load_catalog()).taking_out.without([("lamps", "lamp")]))
    assert all(it.say is None for rule in taken.rules.values() for it in rule.do), "nothing is told of a lamp that is gone"


def test_the_first_press_waits_until_the_module_has_told_of_the_link() -> None:
    """Who links does not press within the pause that ends what the module says of it: the verdict is clear, and so is the rehearsal."""
    plan = plan_with(
        {
            "nodes": {"radio": {"choice": {"part": "family-c"}, "setup": None}, "phone": {"speaks": ["ble"], "appends": None}},
            "links": {"air": {"transport": None}},
            "vocabularies": {"words": {"framing": {"kind": "gap", "terminator": None, "gap_s": 0.2}}},
        }
    )
    events = [{"kind": "word", "t_s": at, "talk": "main", "word": word} for at, word in ((1, "on"), (1.05, "off"), (3, "on"))]
    trace = rehearse(plan, load_catalog(), read_events(events))
    heard = [(round(it.t_s, 2), it.ref) for it in trace.events if it.stage == "vocabularies.words" and not it.lost_because]
    assert [ref for _, ref in heard if ref != "main"][-1] == "on"
    assert "O K" not in " ".join(it.lost_because or "" for it in trace.lost)
