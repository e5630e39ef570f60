"""Garbage to the speed that made it: never a single one that is not it, and all that are tied; and which speed it was, where one is left.

The oracle is a receiver of its own, in whole fractions, over the answers with the names and PINs drawn: it knows nothing of the reader's walk.
"""

import random
from collections import Counter
from fractions import Fraction
from functools import cache
from itertools import pairwise

import pytest

from oddlamp.core.modules.uart import Port, garbage
from oddlamp.core.parts.dialect import ENDINGS
from oddlamp.core.reading.garbled import SPEEDS, STATES, made_by
from oddlamp.core.reading.replies import HOLE
from oddlamp.core.reading.rhythm import matched
from oddlamp.sheets.readback import garbled, read_back_at
from tests.builders import plan_with
from tests.core.reading.logs import CATALOG, FAMILIES
from tests.full import IS_PROOF, some

COUNT = 300 if IS_PROOF else 16
USUAL = (9600, 19_200, 38_400, 57_600, 115_200)
DIALECTS = list(CATALOG.dialects.values())


def replies(name: str, pin: str, address: str) -> list[str]:
    """Every answer that ships: with a name, a PIN and an address put in, those of the factory too, and every value of what has few."""
    found: list[str] = []
    for dialect, _ in FAMILIES:
        end = ENDINGS[dialect.answer_ending].decode("ascii")
        setters = {it: one.fields[it] for one in dialect.commands for it in one.keeps}
        for command in dialect.commands:
            for lines in (command.answer, (command.otherwise,), (command.refused,)):
                texts = ["".join(f"{it}{end}" for it in lines if it)] * (not command.is_hex)
                while texts:
                    text = texts.pop()
                    hole = HOLE.search(text)
                    if hole is None:
                        found += [text] * bool(text)
                        continue
                    field = command.fields.get(hole[1], setters.get(hole[1]))
                    drawn = {"name": name, "pin": pin, "bound": address, "address": address}
                    own = {hole[1]: drawn.get(hole[1]), "factory": dialect.settings.get(hole[1])}.values()
                    if field is not None and field.kind in ("choice", "digit", "number") and hole[1] != "speed":
                        own = [str(it) for it in range(field.least, field.most + 1)] if not field.choices else list(field.choices)
                    elif hole[1] == "speed":
                        own = (
                            (list(field.choices) if hole[2] else [str(it) for it in field.choices.values()])
                            if field is not None and field.choices
                            else [str(it) for it in SPEEDS]
                        )
                    elif hole[1] == "state":
                        own = [*STATES]
                    told = [str(it).replace(":", "") if hole[2] == "plain" else str(it) for it in own if it is not None]
                    texts += [text.replace(hole[0], it) for it in told]
        boot = [f"{dialect.boot.text}\r\n"] if dialect.boot is not None else []
        found += [f"{it}{end}" for it in (dialect.unknown, dialect.on_link, dialect.on_unlink) if it] + boot
    return list(dict.fromkeys(found))


def could_hear(text: str, true_bd: int, heard_bd: int, wanted: bytes) -> bool:
    """Whether a receiver may hear an answer as these bytes: a sample near an edge as either, though all of a byte by one clock."""
    line = [1] + [it for sign in text.encode("latin-1") for it in (0, *(sign >> at & 1 for at in range(8)), 1)]

    def level(at: int) -> int:
        return line[at] if at < len(line) else 1

    def falls(at: int) -> int:
        while at < len(line) and (line[at], line[at - 1]) != (0, 1):
            at += 1
        return at

    todo, seen = [(falls(1), 0)], set[tuple[int, int]]()
    while todo:
        start, got = todo.pop()
        if (start, got) in seen:
            continue
        seen.add((start, got))
        if start >= len(line):
            if got == len(wanted):
                return True
            continue
        for samples in samples_after(Fraction(true_bd, heard_bd)):
            if level(start + samples[0]):
                todo.append((falls(start + samples[0] + 1), got))
            elif got < len(wanted) and all(level(start + samples[at + 1]) == wanted[got] >> at & 1 for at in range(8)):
                at = start + samples[9]
                while not level(at):
                    at += 1
                todo.append((falls(at + 1), got + 1))
    return False


@cache
def samples_after(bit: Fraction) -> list[tuple[int, ...]]:
    """In which bit of the sender after a start each of ten samples stands: one list for every clock that changes any of them."""
    off = Fraction(2, 100)
    turns = {bit * (1 - off), bit * (1 + off)}
    for half in range(1, 20, 2):
        turns |= {Fraction(2 * it, half) for it in range(1, int(bit * half) + 2) if abs(Fraction(2 * it, half) - bit) < off * bit}
    return [tuple(int((low + high) * half / 4) for half in range(1, 20, 2)) for low, high in pairwise(sorted(turns))]


SETS = {"usual": USUAL, "within": tuple(it for it in SPEEDS if 9600 <= it <= 115_200), "all": SPEEDS}


@pytest.mark.parametrize("speeds", some(SETS.values(), 3), ids=some(SETS, 3))
def test_the_true_speed_is_always_told_and_alone_where_no_other_could_be(speeds: tuple[int, ...]) -> None:
    rng, lost, false, tied, counts = random.Random(8), [], [], [], Counter[str]()
    for _ in range(COUNT):
        name = "".join(rng.choice("ABCDEFGHIJ-1234") for _ in range(rng.randint(3, 10)))
        pin, address = f"{rng.randrange(10**6):06d}"[: rng.choice((4, 6))], f"{rng.randrange(16**4):x}:{rng.randrange(256):x}:{rng.randrange(16**6):x}"  # fmt: skip
        there = replies(name, pin, address)
        text = rng.choice(there)
        true_bd, heard_bd = rng.sample(speeds, 2)
        off = Fraction(rng.choice((0, rng.randrange(-99, 100))), 10_000)  # each clock up to 1 %
        heard = bytes(it.byte for it in garbage(text.encode("latin-1"), Port(true_bd, off), Port(heard_bd, -off)))
        if not heard:
            continue
        left = [it for it in speeds if it != heard_bd and any(could_hear(one, it, heard_bd, heard) for one in there)]
        assert true_bd in left, "the oracle hears what was said"
        told = [it for it in made_by(tuple(heard), heard_bd, DIALECTS, known={"name": [name], "pin": [pin]}, speeds=speeds) if it.is_known]  # fmt: skip
        alone = [it.speed_bd for it in told if not it.needs] or [it.speed_bd for it in told]
        case = (text, true_bd, heard_bd, heard.hex(), told)
        lost += [case] * (true_bd not in [it.speed_bd for it in told])
        false += [case] * (len(told) == 1 and told[0].speed_bd != true_bd)
        assert set(left) <= {it.speed_bd for it in told}, "all that are tied are listed"
        counts["cases"] += 1
        counts["decidable"] += len(left) == 1
        counts["tied with what an address would have to be"] += len(left) == 1 and len(told) > 1
        tied += [case] * (len(left) == 1 and alone != [true_bd])
    print(dict(counts), f"decidable {counts['decidable'] / counts['cases']:.1%}")
    assert (lost, false, tied) == ([], [], [])
    assert speeds == SPEEDS or counts["decidable"] >= (0.95 if IS_PROOF else 0.8) * counts["cases"], (
        "few cases tell little of a share"
    )


def test_bytes_that_were_not_shown_are_left_open() -> None:
    heard = [it.byte for it in garbage(b"OK+Set:LANTERN", Port(9600), Port(19_200))]
    shown = tuple(None if at % 5 == 2 else it for at, it in enumerate(heard))
    found = made_by(shown, 19_200, DIALECTS, known={"name": ["LANTERN"]}, speeds=USUAL)
    assert 9600 in [it.speed_bd for it in found]


def test_noise_is_no_speed() -> None:
    rng = random.Random(4)
    noise = tuple(rng.randrange(256) for _ in range(40))
    assert made_by(noise, 9600, DIALECTS, known={}, speeds=USUAL) == ()


def test_garbage_is_told_from_talk_however_it_is_pasted() -> None:
    assert garbled(b"AT\r\nOK\r\n") is None
    assert garbled(b"41 54 0D 0A") is None, "hex of plain text is talk"
    assert garbled(b"9F 00 E0 80") == (0x9F, 0, 0xE0, 0x80)
    assert garbled("\u0178\u00e0\ufffd".encode()) == (0x9F, 0xE0, None), "a Western terminal showed it so"


def test_garbage_at_a_module_is_told_with_what_to_do() -> None:
    from oddlamp.core.resolve.resolve import resolve

    design = resolve(plan_with(), CATALOG)
    node = next(name for name, it in design.nodes.items() if it.node.kind == "module")
    heard = bytes(it.byte for it in garbage(b"+VERSION:2.0\r\nOK\r\n", Port(9600), Port(115_200))).hex(" ")
    read = read_back_at(design, node, [heard.encode()], 115_200)
    assert "9600" in read.sentence.replace("\u00a0", "").replace("9.6 kBd", "9600")
    assert read.speeds[0].patch["nodes"][node]["setup"]["found_bd"] == 9600
    assert read_back_at(design, node, [b""]).causes, "and nothing at all has its causes"


@pytest.mark.parametrize("off", [0.0, 0.2, -0.2])
def test_a_rhythm_is_matched_by_a_thumb_that_is_off(off: float) -> None:
    slow, quick, double, steady = (2.0, 2.0), (0.1, 0.1), (0.1, 0.1, 0.1, 1.7), (10.0,)
    blinks = [slow, quick, double, steady]
    taps = [4.0 * at * (1 + off) for at in range(4)]
    assert matched(taps, blinks)[0].turns_s == slow
    pairs = [at for begun in range(3) for at in (2 * begun, 2 * begun + 0.25)]
    assert matched(pairs, blinks)[0].turns_s == double
    assert matched([0, 0.2, 0.41, 0.6, 0.8], blinks)[0].turns_s == quick
    assert matched([0, 1], blinks) == ()
    assert matched([0, 11, 30, 31], blinks) == ()
