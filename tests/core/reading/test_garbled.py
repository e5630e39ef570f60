"""Garbage to the speed that made it: never a single one that is not it, and all that are tied; and which speed it was, where one is left.

The oracle is a receiver of its own, in whole ticks, over the answers with the names and PINs drawn: it knows nothing of the reader's walk.
"""

import os
import random
from collections import Counter
from collections.abc import Iterator

import pytest

from oddlamp.core.modules.uart import Port, garbage
from oddlamp.core.parts.dialect import ENDINGS
from oddlamp.core.reading.garbled import made_by
from oddlamp.core.reading.replies import HOLE
from oddlamp.core.reading.rhythm import matched
from oddlamp.sheets.readback import garbled, read_back_at
from tests.builders import plan_with
from tests.core.reading.logs import CATALOG, FAMILIES

COUNT = 300 if "ODDLAMP_PROOF" in os.environ else 40
USUAL = (9600, 19_200, 38_400, 57_600, 115_200)
DIALECTS = list(CATALOG.dialects.values())
CLOCK = 0.02


def replies(name: str, pin: str) -> Iterator[str]:
    """Every answer that ships, with a name and a PIN put in; those with other settings in them are left to the reader."""
    seen = set[str]()
    for dialect, _ in FAMILIES:
        end = ENDINGS[dialect.answer_ending].decode("ascii")
        for command in dialect.commands:
            for lines in (command.answer, (command.otherwise,), (command.refused,), (dialect.unknown,)):
                text = "".join(f"{it}{end}" for it in lines if it).replace("{name}", name).replace("{pin}", pin)
                if text and not HOLE.search(text) and text not in seen:
                    seen.add(text)
                    yield text


def could_hear(text: str, true_bd: int, heard_bd: int, wanted: bytes) -> bool:
    """Whether a receiver may hear an answer as these bytes: in whole ticks, a sample near an edge as either."""
    bit, mine = 2 * heard_bd, 2 * true_bd  # ticks of a sender's bit and of the receiver's
    line = [1] + [it for sign in text.encode("latin-1") for it in (0, *(sign >> at & 1 for at in range(8)), 1)]
    edges = [(at - 1) * bit for at in range(1, len(line)) if line[at] != line[at - 1]]

    def levels(at: int, begun: int) -> set[int]:
        near = any(abs(edge - at) <= CLOCK * (at - begun) for edge in edges)
        place = at // bit + 1
        return {0, 1} if near else {line[place] if 0 <= place < len(line) else 1}

    def falls_after(at: int) -> int | None:
        return next((edge for edge in edges if edge >= at and line[edge // bit + 1] == 0), None)

    def rises_after(at: int) -> int | None:
        return next((edge for edge in edges if edge > at and line[edge // bit + 1] == 1), None)

    todo, seen = [(falls_after(-1), 0)], set[tuple[int | None, int]]()
    while todo:
        start, got = todo.pop()
        if (start, got) in seen:
            continue
        seen.add((start, got))
        if start is None:
            if got == len(wanted):
                return True
            continue
        first = levels(start + mine // 2, start)
        if 1 in first:
            todo.append((falls_after(start + mine // 2), got))
        if 0 not in first or got >= len(wanted):
            continue
        if all((wanted[got] >> at & 1) in levels(start + mine * (2 * at + 3) // 2, start) for at in range(8)):
            stop = start + mine * 19 // 2
            ends = levels(stop, start)
            if 1 in ends:
                todo.append((falls_after(stop), got + 1))
            if 0 in ends:
                rises = rises_after(stop)
                todo.append((falls_after(rises) if rises is not None else None, got + 1))
    return False


def test_the_true_speed_is_always_told_and_alone_where_no_other_could_be() -> None:
    rng, lost, false, counts = random.Random(8), [], [], Counter[str]()
    for _ in range(COUNT):
        name, pin = (
            "".join(rng.choice("ABCDEFGHIJ-1234") for _ in range(rng.randint(3, 10))),
            f"{rng.randrange(10**6):06d}"[: rng.choice((4, 6))],
        )
        text = rng.choice(list(replies(name, pin)))
        true_bd, heard_bd = rng.sample(USUAL, 2)
        heard = bytes(it.byte for it in garbage(text.encode("latin-1"), Port(true_bd), Port(heard_bd)))
        if not heard:
            continue
        left = [it for it in USUAL if it != heard_bd and any(could_hear(one, it, heard_bd, heard) for one in replies(name, pin))]
        assert true_bd in left, "the oracle hears what was said"
        told = [it.speed_bd for it in made_by(tuple(heard), heard_bd, DIALECTS, known={"name": [name], "pin": [pin]}, speeds=USUAL) if it.is_known]  # fmt: skip
        if true_bd not in told:
            lost.append((text, true_bd, heard_bd, told))
        if len(told) == 1 and told[0] != true_bd:
            false.append((text, true_bd, heard_bd, told))
        assert set(left) <= set(told), "all that are tied are listed"
        counts["cases"] += 1
        counts["decidable"] += len(left) == 1
        counts["told alone"] += len(told) == 1
    print(dict(counts))
    assert (lost, false) == ([], [])
    assert counts["told alone"] > 0.8 * counts["decidable"]


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
    read = read_back_at(design, node, heard.encode(), 115_200)
    assert "9600" in read.sentence.replace("\u00a0", "").replace("9.6 kBd", "9600")
    assert read.speeds[0].patch["nodes"][node]["setup"]["found_bd"] == 9600
    assert read_back_at(design, node, b"").causes, "and nothing at all has its causes"


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
