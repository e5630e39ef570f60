"""What a listener could mistake, against the plainest way to know: writing every message down and letting the parser hear it."""

import itertools
import random
from types import SimpleNamespace
from typing import Any

import pytest

from oddlamp.core.behaviour.framing import Parser
from oddlamp.core.checks.apart import no_value_looks_like_an_ending, no_word_starts_another, words_differ
from oddlamp.core.checks.words import endings_fit
from oddlamp.core.design.supplies import Picked
from oddlamp.core.design.talks import ParameterDesign, VocabularyDesign, WordDesign
from oddlamp.core.design.values import Value
from oddlamp.core.words.confusion import automaton_of, begins, holds, shared
from oddlamp.core.words.frames import CHECKS, Field, Shape, check_byte
from oddlamp.core.words.starts import could_meet
from tests.full import IS_PROOF

DRAWN = 2000 if IS_PROOF else 60
PAUSE = b"pause"  # stands for an ending that is none of bytes
LITERALS = (b"R", b"R1", b"S", b"#", b"*", b"1", b",", b"10", b"\n")
BELOW = ((-7, 7), (-1, 0), (-12, -9), (-128, 127), (3, 5))
SIGNS = [chr(it) for it in range(32, 127)]
RANGES = ((0, 1), (0, 9), (7, 12), (0, 35), (99, 101), (5, 5), (250, 255))


def word_of(name: str, *pieces: bytes | str, **fields: Field) -> WordDesign:
    shape = Shape(tuple(pieces), fields)
    told = tuple(
        ParameterDesign(key, key, it, "text" if it.kind == "text" else "decimal", "own", None)
        for key, it in fields.items()
        if it.kind not in CHECKS
    )
    content = shape.build({it.id: it.at_most for it in told})
    return WordDesign(name, name, name, content, "own", "out", told if fields else (), shape if fields else None)


def drawn_word(chance: random.Random, name: str, *, is_fixed: bool, check: Any = None) -> WordDesign:
    """A word of one to three pieces, of which decimals stand only where something ends them; and a byte that checks them."""
    pieces: list[bytes | str] = []
    fields: dict[str, Field] = {}
    for at in range(chance.randint(1, 3)):
        if pieces and isinstance(pieces[-1], str) and fields[pieces[-1]].kind == "text":
            break  # a text goes on to the end
        if chance.random() < 0.5 or (pieces and isinstance(pieces[-1], str)):
            pieces.append(chance.choice(LITERALS))
            continue
        kind: Any = chance.choice(("hex", "byte") if is_fixed else ("number", "number", "hex", "byte", "text"))
        signed: Any = chance.choice((None, None, "offset", "twos-complement", "minus" if kind == "number" else None))
        least, most = chance.choice(RANGES if signed is None else BELOW)
        bits = 4 if kind != "byte" and least >= -8 and most < 8 else 8
        pieces.append(f"v{at}")
        fields[f"v{at}"] = (
            Field(kind="text", least=1, most=chance.choice((1,) * 15 + (2,)), escape=chance.choice(("", "S", "#")))
            if kind == "text"
            else Field(kind=kind, least=least, most=most, digits_most=5, signed=signed, bits=bits)
        )
    if check is not None:
        pieces, fields = [*pieces, "c"], {**fields, "c": Field(kind=check)}
    return word_of(name, *pieces, **fields)


def shape_of(word: WordDesign) -> Shape:
    return word.shape or Shape((word.content,), {})


def every(field: Field) -> list[Any]:
    if field.kind != "text":
        return list(range(field.least, field.most + 1))
    return ["".join(it) for size in range(field.least, field.most + 1) for it in itertools.product(SIGNS, repeat=size)]


def messages(word: WordDesign) -> list[tuple[bytes, dict[str, Any]]]:
    """Every message there is of a word, with its values."""
    fields = {name: it for name, it in (word.shape.fields if word.shape is not None else {}).items() if it.kind not in CHECKS}
    rows = itertools.product(*map(every, fields.values()))
    return [(word.built(dict(zip(fields, row, strict=True))), dict(zip(fields, row, strict=True))) for row in rows]


def parser_for(words: list[WordDesign], terminator: bytes) -> Parser:
    plain = {it.content: it for it in reversed(words) if it.shape is None}
    shaped, is_gap = [it for it in words if it.shape is not None], terminator == PAUSE
    return Parser(plain, b"" if is_gap else terminator, shaped=shaped, is_fixed=not terminator, is_gap=is_gap)


def as_heard(words: list[WordDesign], terminator: bytes, sent: bytes) -> list[tuple[str | None, dict[str, Any]]]:
    parser = parser_for(words, terminator)
    heard = [it for _, it in parser.feed(sent + (terminator if terminator != PAUSE else b""))]
    last = parser.end()
    return [(it.word.id if it.word is not None else None, dict(it.values)) for it in (*heard, *([last] if last else []))]


def confusable(words: list[WordDesign], terminator: bytes) -> bool:
    """The rules' own answer: two share a message, one begins another, a value holds the ending."""
    shapes = [shape_of(it) for it in words]
    for one, other in itertools.permutations(shapes, 2):
        if shared(automaton_of(one, "sent"), automaton_of(other, "heard")):
            return True
        if not terminator and begins(automaton_of(other, "shaped"), automaton_of(one, "sent")):
            return True
    own = [automaton_of(it, "sent") for it in shapes]
    if terminator not in (b"", PAUSE) and any(holds(it, terminator) for it in own):
        return True
    return any(shared(automaton_of(it, "sent"), automaton_of(it, "heard")) is None for it in shapes)


@pytest.mark.parametrize("seed", range(0, DRAWN, 30))
def test_it_is_confusable_where_the_parser_confuses_some_message_and_nowhere_else(seed: int) -> None:
    """Every message is sent alone; a fixed one that another begins, or that a listener takes for another, comes out wrong."""
    for number in range(seed, min(seed + 30, DRAWN)):
        chance = random.Random(number)
        terminator = chance.choice((b"", b"\n", b"#", b"\r\n", PAUSE))
        check = chance.choice((None, "xor", "sum", "crc-8")) if not terminator else None
        words = [drawn_word(chance, f"w{at}", is_fixed=not terminator, check=check) for at in range(chance.randint(1, 3))]
        wrong = [
            (word.id, sent)
            for word in words
            for sent, values in messages(word)
            if as_heard(words, terminator, sent) != [(word.id, values)]
        ]
        assert bool(wrong) == confusable(words, terminator), (
            number,
            terminator,
            [it.shape or it.content for it in words],
            wrong[:3],
        )


def stops_of(words: list[WordDesign], terminator: bytes) -> set[str]:
    """The stops of the very rules of a review on these words."""
    kind = "gap" if terminator == PAUSE else "terminated" if terminator else "fixed"
    gap = Value(id="gap", stage="v", label="gap", value=0.1, unit="s", origin="own", text="100 ms") if kind == "gap" else None
    ends = b"" if kind != "terminated" else terminator
    vocabulary = VocabularyDesign("v", Picked(kind, kind, "own"), ends, "", tuple(words), None, gap=gap)
    design: Any = SimpleNamespace(vocabularies={"v": vocabulary}, vocabulary_talks=lambda _: ())
    rules = {
        "CMD-DUP": words_differ,
        "CMD-PREFIX": no_word_starts_another,
        "CMD-PAYLOAD": no_value_looks_like_an_ending,
        "CMD-ENDING": endings_fit,
    }
    return {code for code, check in rules.items() if any(it.severity == "stop" for it in check(design))}


@pytest.mark.parametrize("seed", range(0, DRAWN, 30))
def test_the_rules_stop_what_the_parser_confuses_and_nothing_else(seed: int) -> None:
    """A stop means that some message comes out wrong; what comes out wrong has a stop, or is a word that is never heard at all."""
    for number in range(seed, min(seed + 30, DRAWN)):
        chance = random.Random(number)
        terminator = chance.choice((b"", b"\n", b"#", b"\r\n", PAUSE))
        check = chance.choice((None, "xor", "sum", "crc-8")) if not terminator else None
        words = [drawn_word(chance, f"w{at}", is_fixed=not terminator, check=check) for at in range(chance.randint(1, 3))]
        told = stops_of(words, terminator)
        is_wrong = any(
            as_heard(words, terminator, sent) != [(word.id, values)] for word in words for sent, values in messages(word)
        )
        is_deaf = any(shared(automaton_of(it, "sent"), automaton_of(it, "heard")) is None for it in map(shape_of, words))
        context = (number, terminator, [it.shape or it.content for it in words], told)
        assert is_wrong or not told, context
        assert told or not is_wrong or is_deaf, context


@pytest.mark.parametrize("seed", range(0, DRAWN, 30))
def test_words_that_are_not_tried_together_never_meet(seed: int) -> None:
    """Of all pairs, those that share a message or of which one begins the other are among those whose fixed beginnings agree."""
    for number in range(seed, min(seed + 30, DRAWN)):
        chance = random.Random(number)
        words = [drawn_word(chance, f"w{at}", is_fixed=chance.random() < 0.5) for at in range(4)]
        near = could_meet([it.start for it in words])
        for at, word in enumerate(words):
            for place, other in enumerate(words[:at]):
                one, two = shape_of(word), shape_of(other)
                meets = any(
                    found
                    for a, b in ((one, two), (two, one))
                    for found in (
                        shared(automaton_of(a, "sent"), automaton_of(b, "heard")),
                        begins(automaton_of(a, "shaped"), automaton_of(b, "sent")),
                    )
                )
                assert not meets or place in near[at], (number, word.shape or word.content, other.shape or other.content)


def test_thousands_of_words_are_not_tried_in_pairs() -> None:
    words = [word_of(f"w{at}", f"w{at:04}".encode(), "v", v=Field(kind="number", least=0, most=9)) for at in range(2000)]
    assert sum(map(len, could_meet([it.start for it in words]))) == 0
    assert could_meet([b"R", b"R1", b"S"]) == [[], [0], []]


@pytest.mark.parametrize("seed", range(0, DRAWN, 30))
def test_an_automaton_has_the_messages_that_are_sent_and_no_other(seed: int) -> None:
    for number in range(seed, min(seed + 30, DRAWN)):
        word = drawn_word(random.Random(number), "w", is_fixed=False)
        automaton = automaton_of(shape_of(word), "sent")
        sent = {content for content, _ in messages(word)}
        assert all(shared(automaton, automaton_of(Shape((it,), {}), "sent")) == it for it in sent)
        longest = max(map(len, sent))
        near = {
            bytes((*it[:at], other, *it[at + 1 :])) for it in list(sent)[:20] for at in range(len(it)) for other in b"0159AR#"
        }
        for it in near - sent:
            assert len(it) > longest or shared(automaton, automaton_of(Shape((it,), {}), "sent")) is None, (word.text, it)


def test_known_confusions() -> None:
    one, ten = word_of("one", b"1"), word_of("ten", b"10")
    assert begins(automaton_of(shape_of(one), "shaped"), automaton_of(shape_of(ten), "sent")) == (b"1", b"10")
    plain, slider = word_of("r12", b"R12"), word_of("r", b"R", "v", v=Field(kind="number", most=255, digits_most=5))
    assert shared(automaton_of(shape_of(plain), "sent"), automaton_of(shape_of(slider), "heard")) == b"R12"
    stick = word_of("stick", b"*", "x", b",", "y", x=Field(kind="byte", most=255), y=Field(kind="byte", most=255))
    found = holds(automaton_of(shape_of(stick), "sent"), b"#")
    assert found is not None
    assert (found[:1], b"#" in found, len(found)) == (b"*", True, 4)
    hexed = word_of("stick", b"*", "x", b",", "y", x=Field(kind="hex", most=255), y=Field(kind="hex", most=255))
    assert holds(automaton_of(shape_of(hexed), "sent"), b"#") is None
    pair = word_of("pair", "v", v=Field(kind="two-bytes", least=0x0D00, most=0x0D0F))
    assert holds(automaton_of(shape_of(pair), "sent"), b"\r\n") == b"\r\n"


@pytest.mark.parametrize(
    ("kind", "content", "wanted"),
    [
        ("crc-8", b"123456789", 0xF4),
        ("crc-8", b"", 0),
        ("crc-8", b"\x01", 0x07),
        ("xor", b"\x01\x02\x04", 0x07),
        ("xor", b"RR", 0),
        ("sum", b"\xff\x02", 0x01),
        ("sum", b"R\x80", (0x52 + 0x80) % 256),
    ],
)
def test_check_bytes(kind: str, content: bytes, wanted: int) -> None:
    """CRC-8 of 123456789 is F4, the check value of the packet error code of SMBus in CRC catalogues (recalled); the rest by hand."""
    assert check_byte(kind, content) == wanted
