"""Which true speed made the garbage that a terminal shows: every answer a family can give, at every speed, is heard as the terminal would.

Names and PINs may be anything, so answers are walked sign by sign beside the receiver: what is kept is where in the answer one is,
and how far the receiver is within its byte. Where a sample falls within the clocks' error of an edge, both levels count, but not in
any mix: a clock that is fast is fast for all of a byte. Each byte may be off in its own way, as a receiver looks for each start anew.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import pairwise, product
from typing import Final, NamedTuple

from oddlamp.core.parts.dialect import ENDINGS, Dialect
from oddlamp.core.reading.replies import HOLE
from oddlamp.core.words.frames import Field

CLOCK_RATIO: Final = 0.02  # how far two clocks may be apart, together; as in core.modules.uart
FRAME_BITS: Final = 10
SAMPLES: Final = 10  # the start bit, eight of data, the stop bit
ANY: Final = frozenset(range(32, 127))
DIGITS: Final = frozenset(b"0123456789")
HEX: Final = frozenset(b"0123456789abcdefABCDEF")
COLON: Final = frozenset(b":")
ADDRESS_SHORT: Final = ((HEX, 1, 4), (COLON, 1, 1), (HEX, 1, 2), (COLON, 1, 1), (HEX, 1, 6))
ADDRESS_PLAIN: Final = ((HEX, 12, 12),)
STATES: Final = (
    "INITIALIZED",
    "READY",
    "PAIRABLE",
    "PAIRED",
    "INQUIRING",
    "CONNECTING",
    "CONNECTED",
    "DISCONNECTED",
)  # from memory
TELLING_LEAST: Final = 3  # bytes
FEW: Final = 10  # values that are put in one by one
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
    ``needs`` is what nobody can know and would have to be just so for it, its address or a number; nothing where it fits by itself.
    """

    speed_bd: int
    answer: str
    family: str
    is_known: bool = True
    needs: str = ""


class State(NamedTuple):
    """Where a receiver is: looking for a start from a time, in a byte that began at a time with so many samples taken, or waiting for the line to rise.

    Times are bits of the sender from the start of its byte; ``least`` and ``most`` are how long a bit of the receiver may be by them.
    """

    mode: str
    from_bits: float
    taken: int = 0
    least: float = 0.0
    most: float = 0.0


class Answer(NamedTuple):
    """An answer as stretches of bytes, whose it is, and what in it nobody can know."""

    stretches: tuple[Stretch, ...]
    family: str
    needs: str


def answers_of(dialects: Iterable[Dialect], known: Mapping[str, Sequence[str]] | None) -> list[Answer]:
    """List every answer that families and their versions can give, those first that hold nothing unknown.

    Args:
        dialects: the families.
        known: what names and PINs there may be besides those of the factory; None where they may be anything.
    """
    found: dict[tuple[Stretch, ...], Answer] = {}
    for dialect in dialects:
        for of in (dialect, *(dialect.version(it.id) for it in dialect.versions)):
            ending = ENDINGS[of.answer_ending].decode("ascii")
            for text, fields in _texts(of, ending):
                for filled in _filled(text, fields, of, known):
                    stretches, needs = _stretches(filled, fields)
                    found.setdefault(stretches, Answer(stretches, of.label, needs))
    return sorted(found.values(), key=lambda it: bool(it.needs))


def _texts(of: Dialect, ending: str) -> Iterator[tuple[str, Mapping[str, Field]]]:
    """Yield each answer of a family as it is written there, with the fields its settings have."""
    settings = {name: field for it in of.commands for name, field in it.fields.items() if name in it.keeps}
    for command in of.commands:
        fields = {**settings, **command.fields}
        if not command.is_hex and command.answer:
            yield "".join(line + ending for line in command.answer), fields
        for text in (command.otherwise, command.refused):
            if text:
                yield text + ending, fields
    for text in (of.unknown, of.on_link, of.on_unlink):
        if text:
            yield text + ending, settings
    if of.boot is not None:
        yield f"{of.boot.text}\r\n", settings


def _filled(text: str, fields: Mapping[str, Field], of: Dialect, known: Mapping[str, Sequence[str]] | None) -> Iterator[str]:
    """Put into an answer every value that its settings may have, where these can be counted or are known."""
    values = {it[0]: _values(it[1], it[2], fields.get(it[1]), of, known) for it in HOLE.finditer(text)}
    holes = [it for it, may in values.items() if may is not None]
    for chosen in product(*(values[it] or () for it in holes)):
        told = text
        for hole, value in zip(holes, chosen, strict=True):
            told = told.replace(hole, value)
        yield told


def _values(
    name: str, how: str | None, field: Field | None, of: Dialect, known: Mapping[str, Sequence[str]] | None
) -> tuple[str, ...] | None:
    """List what may stand where a setting is told; None where that is anything of its kind."""
    if name == "state":
        return STATES
    if field is not None and field.choices:
        return tuple(field.choices if how == "code" else map(str, field.choices.values()))
    if name == "speed":
        return tuple(map(str, SPEEDS))
    if field is not None and field.kind in ("digit", "number") and field.most - field.least < FEW:
        return tuple(str(it) for it in range(field.least, field.most + 1))
    if name in ("name", "pin") and known is not None and name in of.settings:
        return tuple(dict.fromkeys((*known.get(name, ()), str(of.settings[name]))))
    return None


def _stretches(text: str, fields: Mapping[str, Field]) -> tuple[tuple[Stretch, ...], str]:
    out: list[Stretch] = []
    at, needs = 0, ""
    for hole in HOLE.finditer(text):
        out += [Stretch(frozenset((ord(it),)), 1, 1) for it in text[at : hole.start()]]
        at = hole.end()
        name, field = hole[1], fields.get(hole[1])
        if name in ("address", "bound"):
            out += [Stretch(*it) for it in (ADDRESS_PLAIN if hole[2] == "plain" else ADDRESS_SHORT)]
            needs = "an address"
        elif field is not None and field.kind in ("text", "digits"):
            out.append(Stretch(ANY if field.kind == "text" else DIGITS, max(field.least, 1), field.most))
        else:
            out.append(Stretch(DIGITS, 1, len(str(field.most)) if field is not None else 6))
            needs = "a number"
    out += [Stretch(frozenset((ord(it),)), 1, 1) for it in text[at:]]
    return tuple(out), needs


def made_by(
    heard: Heard,
    heard_bd: int,
    dialects: Sequence[Dialect],
    *,
    known: Mapping[str, Sequence[str]],
    speeds: Sequence[int] = SPEEDS,
) -> tuple[Made, ...]:
    """Return every speed at which some answer would have been heard as this, its own left out; those that need nothing unknown first.

    Only where none does with the names and PINs that are known are others tried, and for no less than three bytes: some name
    would make two of them at any speed.

    Args:
        heard: the bytes as the terminal got them; None for one that it did not show.
        heard_bd: what the terminal was set to.
        dialects: the families.
        known: the names and PINs it may have been given, by ``name`` and ``pin``; those of the factory are tried as well.
        speeds: those a module may speak at.
    """
    sure = _made(heard, heard_bd, answers_of(dialects, known), speeds, is_known=True)
    if sure or len(heard) < TELLING_LEAST:
        return sure
    return _made(heard, heard_bd, answers_of(dialects, None), speeds, is_known=False)


def _made(heard: Heard, heard_bd: int, answers: Sequence[Answer], speeds: Iterable[int], *, is_known: bool) -> tuple[Made, ...]:
    found = []
    for speed_bd in speeds:
        if speed_bd == heard_bd:
            continue
        fits = next((it for it in answers if _could_be(it.stretches, heard, speed_bd / heard_bd)), None)
        if fits is not None:
            text = "".join(chr(next(iter(it.may))) if len(it.may) == 1 else "…" for it in fits.stretches)
            found.append(Made(speed_bd, text.replace("\r\n", " ").strip(), fits.family, is_known, fits.needs))
    return tuple(sorted(found, key=lambda it: bool(it.needs)))


def _could_be(stretches: tuple[Stretch, ...], heard: Heard, ratio: float) -> bool:
    """Walk an answer sign by sign beside the receiver, all ways at once."""
    lasts_bits = FRAME_BITS * sum(it.most for it in stretches)
    if (len(heard) - 1) * (SAMPLES - 0.5) * ratio * (1 - CLOCK_RATIO) > lasts_bits:
        return False  # it is over before so much could be heard
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


Way = tuple[State, tuple[tuple[int, int], ...]]
Ways = tuple[Way, ...]


@lru_cache(maxsize=20_000)
def _sampled_any(state: State, may: frozenset[int], ratio: float, is_last: bool) -> Ways:
    """Return every way a receiver may go through any of several bytes, each once: most of them look alike to it."""
    return tuple(dict.fromkeys(way for byte in may for way in _sampled(state, byte, ratio, is_last)))


@lru_cache(maxsize=200_000)
def _sampled(state: State, byte: int, ratio: float, is_last: bool) -> Ways:
    """Return every way a receiver may go through one byte of the sender: its state at the end, and each sample of data and stop with its level.

    Where a sample may stand on either side of an edge, the clocks that put it on each are followed from there.
    """
    levels = (0, *((byte >> it & 1) for it in range(8)), 1)
    turns = [it for it in range(FRAME_BITS) if levels[it] != (levels[it - 1] if it else 1)]
    ends = math.inf if is_last else FRAME_BITS
    found: list[Way] = []

    def next_turn(level: int, from_bits: float) -> float | None:
        return next((float(it) for it in turns if it >= from_bits and levels[it] == level), None)

    def go(now: State, samples: tuple[tuple[int, int], ...]) -> None:
        if now.mode != "byte":
            turn = next_turn(int(now.mode == "low"), now.from_bits)
            if turn is None:
                found.append((State(now.mode, -1.0), samples))
            elif now.mode == "low":
                go(State("idle", turn), samples)
            else:
                go(State("byte", turn, 0, ratio * (1 - CLOCK_RATIO), ratio * (1 + CLOCK_RATIO)), samples)
            return
        bits = now.taken + 0.5
        first, last = now.from_bits + now.least * bits, now.from_bits + now.most * bits
        cuts = [first, *(it for it in (*turns, ends) if first < it < last), last]
        for low, high in pairwise(cuts):
            at = (low + high) / 2
            least = now.least if low == first else (low - now.from_bits) / bits
            most = now.most if high == last else (high - now.from_bits) / bits
            part = now._replace(least=least, most=most)
            if at >= ends:
                found.append((part._replace(from_bits=now.from_bits - FRAME_BITS), samples))
            else:
                go(*_after(part, at, levels[int(at)] if at < FRAME_BITS else 1, samples))

    go(state, ())
    return tuple(dict.fromkeys(found))


def _after(now: State, at: float, level: int, samples: tuple[tuple[int, int], ...]) -> Way:
    """Return the state after one sample."""
    if now.taken == 0:
        return (State("idle", at), samples) if level else (now._replace(taken=1), samples)
    taken = (*samples, (now.taken, level))
    if now.taken < SAMPLES - 1:
        return now._replace(taken=now.taken + 1), taken
    return (State("idle", at) if level else State("low", at)), taken
