"""Known answers about words, each worked out by hand, and what holds for any bytes at all."""

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.framing import parser_of
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.words.frames import Field
from tests.builders import codes, findings_of, plan_with
from tests.core.words.test_confusion import every
from tests.full import IS_PROOF

BLE: Document = {
    "nodes": {"radio": {"choice": {"part": "family-c"}, "setup": None}, "phone": {"speaks": ["ble"], "appends": None}},
    "links": {"air": {"transport": None}},
}
AT_LISTENER: Document = {
    "nodes": {"radio": {"choice": {"part": "family-c"}, "setup": None}, "phone": {"speaks": ["ble"]}},
    "links": {"air": {"transport": None}},
}


def said(framing: Document | None = None, **words: Document | str) -> Document:
    """A vocabulary of some words, each of which does what the builder's two do."""
    told = {name: {"sent": it} if isinstance(it, str) else it for name, it in words.items()}
    gone = dict.fromkeys({"on", "off"} - told.keys())
    return {
        "vocabularies": {"words": {"framing": framing, "words": {**told, **gone}}},
        "rules": {
            "r1": {"when": {"heard": next(iter(told))}},
            "r2": {"when": {"heard": list(told)[-1]}, "do": [{"verb": "off", "target": "lamp"}]},
        },
    }


LF: Document = {"kind": "terminated", "terminator": "lf"}
HASH: Document = {"kind": "terminated", "terminator": "#"}
BYTE: Document = {"written": "byte"}


def found(code: str, *patches: Document) -> str:
    """The message of one verdict; empty where there is none."""
    return next((it.message for it in findings_of(plan_with(*patches)) if it.code == code), "")


def test_1_starts_10_where_nothing_ends_a_word() -> None:
    """The first byte of 10 is 1, and it acts at once."""
    fixed = said({"kind": "fixed"}, one="1", ten="10")
    assert "1 starts 1 0" in found("CMD-PREFIX", fixed) or "1 starts 10" in found("CMD-PREFIX", fixed)
    assert not found("CMD-PREFIX", said(LF, one="1", ten="10"))


def test_two_words_that_are_both_s() -> None:
    assert found("CMD-DUP", said(None, stop="S", slow="S")) == "Stop and Slow are both S."


def test_raw_bytes_between_signs_list_what_they_can_be_and_hex_is_offered() -> None:
    """``*x,y#`` with raw bytes: 0x2A is ``*``, 0x2C ``,`` and 0x23 ``#`` (ISO/IEC 646)."""
    raw: Document = {"sent": "*{x},{y}", "parameters": {"x": BYTE, "y": BYTE}}
    plan = plan_with(said(HASH, place=raw, dark="0"))
    (finding,) = [it for it in findings_of(plan) if it.code == "CMD-PAYLOAD"]
    assert finding.severity == "stop"
    told = " ".join([finding.message, *(it.substituted for it in finding.working)])
    assert all(it in told for it in ("0x2A", "0x2C", "0x23"))
    offered = [it.label for it in finding.fixes]
    assert any("hex" in it for it in offered)
    for fix in finding.fixes:
        assert ("CMD-PAYLOAD", "stop") not in codes(findings_of(edit_plan(plan, fix.patch))), fix.label


@pytest.mark.parametrize(
    ("parameter", "is_told"),
    [
        ({"written": "byte", "most": 1023}, True),
        ({"most": 1023}, False),
        ({"most": 125, "unit": "%"}, True),
        ({"most": 100, "unit": "%"}, False),
    ],
)
def test_a_range_that_does_not_go_into_what_carries_it(parameter: Document, is_told: bool) -> None:
    """0 to 1023 is no raw byte, and a percentage ends at 100."""
    word: Document = {"sent": "K{level}", "parameters": {"level": parameter}}
    assert bool(found("CMD-RANGE", said(LF, knob=word, dark="0"))) == is_told


def test_twelve_bytes_every_ten_milliseconds_at_9600() -> None:
    """Three sliders in one line, ``255 255 255`` and LF: 12 bytes, 120 bits, 12.5 ms at 9600 Bd and 6.25 ms at 19200."""
    line: Document = {"sent": "{r} {g} {b}"}
    moved: Document = {
        "nodes": {
            "phone": {
                "controls": {"c": {"kind": "slider", "interval_s": 0.01, "says": {"move": {"talk": "main", "word": "colour"}}}}
            }
        }
    }
    told = found("CMD-RATE", said(LF, colour=line, dark="x"), moved)
    assert "12 bytes" in told
    assert "12.5" in told
    talk = resolve(
        plan_with(said(LF, colour=line, dark="x"), {"links": {"serial": {"baud_rate_bd": 19200}}}), load_catalog()
    ).talks["main"]
    content = talk.vocabulary.word("colour").content + b"\n"
    assert (len(content), len(content) * 10 / 19200) == (12, 0.00625)


def test_thirty_bytes_over_ble_come_in_twenty_and_ten() -> None:
    """Core Specification, default ATT_MTU 23: 20 bytes in a packet."""
    long = said(LF, on="m" * 29, off="0")
    assert "30 bytes" in found("MOD-PACKET", BLE, long)


def test_a_word_that_begins_as_the_modules_own_do() -> None:
    assert found("CMD-AT-CLASH", AT_LISTENER, said(LF, on="AT1", off="0"))
    assert not found("CMD-AT-CLASH", AT_LISTENER, said(LF, on="A1", off="0"))


def test_the_character_1_is_not_the_number_1() -> None:
    told = found("CMD-CHAR-NUMBER", {"nodes": {"phone": {"sends_as": "numbers"}}})
    assert "0x01" in told
    assert "0x31" in told


def test_what_a_module_says_by_itself_as_a_word() -> None:
    assert found("CMD-CHATTER", AT_LISTENER, said(None, on="C", off="x"))


def test_a_phone_that_adds_cr_lf_to_single_bytes() -> None:
    told = found("CMD-ENDING", {"nodes": {"phone": {"appends": "cr-lf"}}})
    assert "CR" in told
    assert "2 bytes" in told


@pytest.mark.parametrize("seed", range(0, 2000 if IS_PROOF else 100, 20))
def test_the_bytes_a_value_can_be_are_those_of_every_value_written(seed: int) -> None:
    """What CMD-PAYLOAD lists, against writing every value there is."""
    for number in range(seed, seed + 20):
        chance = random.Random(number)
        kind = chance.choice(("byte", "two-bytes", "two-bytes-little"))
        signed = chance.choice((None, None, "offset", "twos-complement"))
        bits = 8 if kind == "byte" else 16
        low, high = (
            (-(1 << bits - 1), (1 << bits - 1) - 1) if signed == "twos-complement" else (0, 255 if kind == "byte" else 1500)
        )
        least = chance.randint(low, high)
        most = min(chance.randint(least, high), least + 700)
        field = Field.model_validate({"kind": kind, "least": least, "most": most, "signed": signed, "bits": bits})
        assert set(field.bytes_it_can_be()) == {byte for it in every(field) for byte in field.written("v", it)}


FRAMED: tuple[tuple[Document | None, Document], ...] = (
    (LF, {"on": "1", "off": "0", "dim": {"sent": "R{level}"}}),
    (
        HASH,
        {
            "on": "go",
            "off": "stop",
            "dim": {"sent": "*{x},{y}", "parameters": {"x": {"written": "hex"}, "y": {"written": "hex"}}},
        },
    ),
    ({"kind": "gap"}, {"on": "1", "off": "0", "dim": {"sent": "R{level}"}}),
    (
        {"kind": "terminated", "terminator": "cr-lf"},
        {"on": "1", "off": "0", "say": {"sent": "T{text}", "parameters": {"text": {"written": "text"}}}},
    ),
)
VOCABULARIES = [resolve(plan_with(said(framing, **words)), load_catalog()).vocabularies["words"] for framing, words in FRAMED]


@given(noise=st.binary(max_size=200), at=st.integers(0, len(VOCABULARIES) - 1))
def test_after_any_bytes_the_parser_is_in_step_at_the_next_ending(noise: bytes, at: int) -> None:
    """Whatever came, after an ending or a pause the next word is heard, once and as it was sent."""
    vocabulary = VOCABULARIES[at]
    parser = parser_of(vocabulary, "out")
    parser.feed(noise + vocabulary.terminator)
    parser.end()
    assert not parser.pending
    for word in vocabulary.words:
        heard = [it for _, it in parser.feed(word.content + vocabulary.terminator)]
        heard += [last] if (last := parser.end()) is not None else []
        assert [it.word.id if it.word else None for it in heard] == [word.id]


@given(noise=st.binary(max_size=60))
def test_words_of_fixed_length_are_in_step_after_as_many_bytes_as_the_longest_has(noise: bytes) -> None:
    """Nothing ends them: a stray byte may be a first one, so that at most what begins so is lost, and then all is heard."""
    vocabulary = resolve(plan_with(said({"kind": "fixed"}, on="A1", off="B2")), load_catalog()).vocabularies["words"]
    parser = parser_of(vocabulary, "out")
    parser.feed(noise)
    heard = [it.word.id for _, it in parser.feed(b"B2" * 3) if it.word]
    assert heard[-2:] == ["off", "off"]


@pytest.mark.parametrize("sent", ["*{x},{y}#", "R{x}#", "#{x}"])
def test_a_word_that_holds_what_ends_it_is_told_and_mended(sent: str) -> None:
    """The first ``#`` ends it, so that the rest is never heard as part of it; every way out that is offered ends that."""
    plan = plan_with(said(HASH, place={"sent": sent}, dark="0"))
    (finding,) = [it for it in findings_of(plan) if it.code == "CMD-ENDING" and "its own terminator" in it.message]
    assert finding.severity == "stop"
    assert finding.fixes
    for fix in finding.fixes:
        assert finding.key not in {it.key for it in findings_of(edit_plan(plan, fix.patch))}, fix.label
