"""Which true speed made the garbage that a terminal shows: every answer a family can give, at every speed, is heard as the terminal would.

Names and PINs may be anything, so answers are walked sign by sign beside the receiver: what is kept is where in the answer one is,
and how far the receiver is within its byte. Where a sample falls within the clocks' error of an edge, both levels count.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import product
from typing import Final, NamedTuple

from oddlamp.core.parts.dialect import ENDINGS, Dialect
from oddlamp.core.reading.replies import HOLE

CLOCK_RATIO: Final = 0.02  # how far two clocks may be apart, together; as in core.modules.uart
FRAME_BITS: Final = 10
SAMPLES: Final = 10  # the start bit, eight of data, the stop bit
ANY: Final = frozenset(range(32, 127))
DIGITS: Final = frozenset(b"0123456789")
HEX: Final = frozenset(b"0123456789abcdefABCDEF")
FREE: Final = {"pin": ((DIGITS, 4, 16),), "state": ((frozenset(range(65, 91)), 4, 12),)}
FREE_ADDRESS: Final = ((HEX, 1, 4), (frozenset(b":"), 1, 1), (HEX, 1, 2), (frozenset(b":"), 1, 1), (HEX, 1, 6))
FEW: Final = frozenset(b"0123")  # what roles, modes and the like may be
ONE_DIGIT: Final = ("role", "mode", "parity", "stop", "kind", "level", "echo", "mux", "server")
NUMBERS: Final = ("frequency", "pwm", "duty", "count", "port", "timeout")
SPEEDS: Final = (1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 74_880, 115_200, 230_400, 460_800, 921_600)
Heard = tuple[int | None, ...]


class Stretch(NamedTuple):
    """A stretch of an answer: which bytes may stand there, and how many of them."""

    may: frozenset[int]
    least: int
    most: int


class Made(NamedTuple):
    """A speed that would have made the garbage, with an answer that would, its free signs as dots, and whose answer that is.

    ``is_known`` where name and PIN in it are the ones told, or those it leaves the factory with; else it would take another one.
    """

    speed_bd: int
    answer: str
    family: str
    is_known: bool = True


class State(NamedTuple):
    """Where a receiver is: looking for a start from a time, in a byte that began at a time with so many samples taken, or waiting for the line to rise.

    Times are bits of the sender from the start of its byte.
    """

    mode: str
    from_bits: float
    taken: int = 0


def answers_of(dialects: Iterable[Dialect], known: Mapping[str, Sequence[str]] | None) -> dict[tuple[Stretch, ...], str]:
    """List every answer that families and their versions can give, as stretches of bytes, with whose it is.

    Args:
        dialects: the families.
        known: what names and PINs there may be besides those of the factory; None where they may be anything.
    """
    found: dict[tuple[Stretch, ...], str] = {}
    for dialect in dialects:
        for of in (dialect, *(dialect.version(it.id) for it in dialect.versions)):
            ending = ENDINGS[of.answer_ending].decode("ascii")
            texts = ["".join(line + ending for line in it.answer) for it in of.commands if not it.is_hex and it.answer]
            texts += [
                it + ending
                for it in {of.unknown, *(one.otherwise for one in of.commands), *(one.refused for one in of.commands)}
                if it
            ]
            texts += [it + ending for it in (of.on_link, of.on_unlink) if it]
            texts += [f"{of.boot.text}\r\n"] if of.boot is not None else []
            for text in dict.fromkeys(texts):
                for told in _filled(text, of, known):
                    found.setdefault(_stretches(told), of.label)
    return found


def _filled(text: str, dialect: Dialect, known: Mapping[str, Sequence[str]] | None) -> Iterator[str]:
    """Put every known name and PIN into an answer."""
    holes = {it[1] for it in HOLE.finditer(text) if not it[2]} & ({"name", "pin", "speed"} if known is not None else {"speed"})
    if not holes:
        yield text
        return
    speeds = next((tuple(map(str, it.fields["speed"].choices.values())) for it in dialect.commands if "speed" in it.keeps), ())
    names = {
        it: speeds if it == "speed" else (*(known or {}).get(it, ()), str(dialect.settings[it]))
        for it in holes
        if it in dialect.settings
    }
    for values in product(*names.values()):
        told = text
        for name, value in zip(names, values, strict=True):
            told = told.replace("{" + name + "}", value)
        yield told


def _stretches(text: str) -> tuple[Stretch, ...]:
    out: list[Stretch] = []
    at = 0
    for hole in HOLE.finditer(text):
        out += [Stretch(frozenset((ord(it),)), 1, 1) for it in text[at : hole.start()]]
        at = hole.end()
        out += [Stretch(*it) for it in _free(hole[1], hole[2])]
    out += [Stretch(frozenset((ord(it),)), 1, 1) for it in text[at:]]
    return tuple(out)


def _free(name: str, how: str | None) -> tuple[tuple[frozenset[int], int, int], ...]:
    """Return what may stand where a setting is told that nobody knows."""
    if name in ("address", "bound"):
        return ((HEX, 12, 12),) if how == "plain" else FREE_ADDRESS
    if name in ONE_DIGIT or how == "code":
        return ((FEW if name in ONE_DIGIT else HEX, 1, 1),)
    return FREE.get(name, ((DIGITS, 1, 6),) if name in NUMBERS else ((ANY, 1, 20),))


def made_by(
    heard: Heard,
    heard_bd: int,
    dialects: Sequence[Dialect],
    *,
    known: Mapping[str, Sequence[str]],
    speeds: Sequence[int] = SPEEDS,
) -> tuple[Made, ...]:
    """Return every speed at which some answer would have been heard as this, its own left out.

    Only where none does with the names and PINs that are known are others tried.

    Args:
        heard: the bytes as the terminal got them; None for one that it did not show.
        heard_bd: what the terminal was set to.
        dialects: the families.
        known: the names and PINs it may have been given, by ``name`` and ``pin``; those of the factory are tried as well.
        speeds: those a module may speak at.
    """
    sure = _made(heard, heard_bd, answers_of(dialects, known), speeds, is_known=True)
    return sure or _made(heard, heard_bd, answers_of(dialects, None), speeds, is_known=False)


def _made(
    heard: Heard, heard_bd: int, answers: Mapping[tuple[Stretch, ...], str], speeds: Iterable[int], *, is_known: bool
) -> tuple[Made, ...]:
    found = []
    for speed_bd in speeds:
        if speed_bd == heard_bd:
            continue
        for stretches, family in answers.items():
            if _could_be(stretches, heard, speed_bd / heard_bd):
                text = "".join(chr(next(iter(it.may))) if len(it.may) == 1 else "…" for it in stretches)
                found.append(Made(speed_bd, text.replace("\r\n", " ").strip(), family, is_known))
                break
    return tuple(found)


def _could_be(stretches: tuple[Stretch, ...], heard: Heard, ratio: float) -> bool:
    """Walk an answer sign by sign beside the receiver, all ways at once."""
    now: set[tuple[int, int, State, int]] = {(0, 0, State("idle", -1.0), 0)}
    while now:
        after: set[tuple[int, int, State, int]] = set()
        for place, count, state, got in now:
            stretch = stretches[place]
            ways = _places_after(stretches, place, count + 1)
            for is_last in {it is None for it in ways}:
                for ended, fits in _received(state, stretch.may, ratio, is_last, heard, got):
                    if is_last and fits == len(heard):
                        return True
                    if not is_last:
                        after |= {(*it, ended, fits) for it in ways if it is not None}
        now = after
    return False


def _places_after(stretches: tuple[Stretch, ...], place: int, count: int) -> list[tuple[int, int] | None]:
    """Return where one may be in an answer after so many signs of a stretch; None for its end."""
    stretch = stretches[place]
    found: list[tuple[int, int] | None] = [(place, count)] if count < stretch.most else []
    if count >= stretch.least:
        found.append((place + 1, 0) if place + 1 < len(stretches) else None)
    return found


def _received(
    state: State, may: frozenset[int], ratio: float, is_last: bool, heard: Heard, got: int
) -> Iterator[tuple[State, int]]:
    """Yield what a receiver may be after one byte of the sender, and how many bytes it has then: only those that are the ones heard."""
    for ended, samples in _sampled_any(state, may, round(ratio, 9), is_last):
        at, is_alike = got, True
        for number, level in samples:
            if number == SAMPLES - 1:
                at += 1
                continue
            wanted = heard[at] if at < len(heard) else -1
            if wanted == -1 or (wanted is not None and (wanted >> (number - 1) & 1) != level):
                is_alike = False
                break
        if is_alike and at <= len(heard):
            yield ended, at


Ways = tuple[tuple[State, tuple[tuple[int, int], ...]], ...]


@lru_cache(maxsize=20_000)
def _sampled_any(state: State, may: frozenset[int], ratio: float, is_last: bool) -> Ways:
    """Return every way a receiver may go through any of several bytes, each once: most of them look alike to it."""
    return tuple(dict.fromkeys(way for byte in may for way in _sampled(state, byte, ratio, is_last)))


@lru_cache(maxsize=200_000)
def _sampled(state: State, byte: int, ratio: float, is_last: bool) -> Ways:
    """Return every way a receiver may go through one byte of the sender: its state at the end, and each sample of data and stop with its level."""
    levels = (0, *((byte >> it & 1) for it in range(8)), 1)
    edges = [it for it in range(FRAME_BITS) if levels[it] != (levels[it - 1] if it else 1)] + ([] if is_last else [FRAME_BITS])
    ends = math.inf if is_last else FRAME_BITS
    found: list[tuple[State, tuple[tuple[int, int], ...]]] = []

    def may_be(at: float, begun: float) -> tuple[int, ...]:
        """Return the levels a sample may see: both, near an edge."""
        slack = CLOCK_RATIO * (at - begun) + 1e-9
        if any(abs(at - edge) <= slack for edge in edges):
            return (0, 1)
        return (levels[int(at)] if at < FRAME_BITS else 1,)

    def go(now: State, samples: tuple[tuple[int, int], ...]) -> None:
        while True:
            if now.mode == "low":
                at = now.from_bits
                if 0 <= at < FRAME_BITS and levels[int(at)] == 1:  # the sample was near an edge: the line is high again
                    go(State("idle", at), samples)
                rises = next((it for it in edges if it > at and it < FRAME_BITS and levels[it] == 1), None)
                if rises is None:
                    found.append((State("low", -1.0), samples))
                    return
                now = State("idle", float(rises))
                continue
            if now.mode == "idle":
                falls = next((it for it in edges if it > now.from_bits - 1e-9 and it < FRAME_BITS and levels[it] == 0), None)
                if falls is None:
                    found.append((State("idle", -1.0), samples))
                    return
                now = State("byte", float(falls), 0)
                continue
            at = now.from_bits + ratio * (now.taken + 0.5)
            if at >= ends:
                found.append((State("byte", round(now.from_bits - FRAME_BITS, 9), now.taken), samples))
                return
            several = may_be(at, now.from_bits)
            for level in several[1:]:
                go(*_after(now, at, level, samples))
            now, samples = _after(now, at, several[0], samples)

    go(state, ())
    return tuple(dict.fromkeys(found))


def _after(now: State, at: float, level: int, samples: tuple[tuple[int, int], ...]) -> tuple[State, tuple[tuple[int, int], ...]]:
    """Return the state after one sample."""
    if now.taken == 0:
        return (State("idle", at), samples) if level else (State("byte", now.from_bits, 1), samples)
    taken = (*samples, (now.taken, level))
    if now.taken < SAMPLES - 1:
        return State("byte", now.from_bits, now.taken + 1), taken
    return (State("idle", at) if level else State("low", at)), taken
