"""What a listener could mistake: two words that share a message, one that begins another, values that look like an ending.

All messages of a word are the paths through a small automaton, so that an answer is exact for every value it can carry
without writing them all down. A range of numbers is a few runs of digits, each digit free between two: 0 to 255 is one
digit, two, ``1xx``, ``20`` to ``24`` and any, ``250`` to ``255``.
"""

from collections import deque
from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import Final, Literal, NamedTuple

from oddlamp.core.words.frames import CHECKS, Shape

As = Literal["sent", "heard", "shaped"]
ALL: Final = (1 << 256) - 1
BASES: Final = {"number": 10, "digit": 10, "hex": 16, "byte": 256, "two-bytes": 256, "two-bytes-little": 256}
PLAIN: Final = sum(1 << byte for byte in b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz")
PRINTABLE: Final = sum(1 << byte for byte in range(32, 127))
Span = tuple[int, int]


class Automaton(NamedTuple):
    """All messages of a shape: from each state the bytes that lead on, as a set of bits, and where to; it ends in ``end``."""

    edges: tuple[tuple[tuple[int, int], ...], ...]
    end: int


class _Range(NamedTuple):
    """What of a field tells its messages: how it is written, and the codes its values come to; of a text its lengths."""

    kind: str
    spans: tuple[tuple[str, int, int], ...]
    digits_most: int
    width: int | None
    is_signed: bool
    escape: str


def automaton_of(shape: Shape, by: As) -> Automaton:
    """Build the automaton of a shape: of what is sent for it, of what is heard as it, or of all that has its shape whatever the values.

    What is heard takes zeros in front of a decimal and small letters in hex; a decimal before a digit takes that for its own
    and is never heard.
    """
    told = tuple(
        (name, _Range(it.kind, it.spans, it.digits_most, it.width, it.signed == "minus", it.escape))
        for name, it in shape.fields.items()
    )
    return _automaton(shape.pieces, told, by)


@lru_cache(maxsize=4096)
def _automaton(pieces: tuple[bytes | str, ...], fields: tuple[tuple[str, _Range], ...], by: As) -> Automaton:
    by_name, edges = dict(fields), list[list[tuple[int, int]]]([[]])
    at = 0
    for place, piece in enumerate(pieces):
        if isinstance(piece, str) and by_name[piece].kind == "text":
            at = _text(edges, at, by_name[piece], by)
            continue
        runs = [tuple(1 << byte for byte in piece)] if isinstance(piece, bytes) else list(_runs(by_name[piece], by))
        after = pieces[place + 1] if place + 1 < len(pieces) else b""
        takes_more = isinstance(after, bytes) and after[:1].isdigit()
        if by == "heard" and isinstance(piece, str) and by_name[piece].kind == "number" and takes_more:
            runs = []
        join = len(edges)
        edges.append([])
        for run in runs:
            here = at
            for mask in run[:-1]:
                edges[here].append((mask, len(edges)))
                here = len(edges)
                edges.append([])
            edges[here].append((run[-1], join))
        at = join
    return Automaton(tuple(map(tuple, edges)), at)


def _text(edges: list[list[tuple[int, int]]], at: int, field: _Range, by: As) -> int:
    """Add the texts of a field, of every length it may have; one that begins with the sign that escapes has it twice."""
    ((_, least, most),) = field.spans
    join, begins, any_text = len(edges), ALL, ALL if by == "shaped" else PRINTABLE
    edges.append([])
    if field.escape and by != "shaped":
        begins = PRINTABLE & ~(1 << ord(field.escape))
        edges[at].append((1 << ord(field.escape), len(edges)))
        edges.append([])
        at_second = len(edges) - 1
    here = [at]
    for length in range(1, max(most, 1) + 1):
        there = len(edges)
        edges.append([])
        for state in here:
            mask = begins & any_text if length == 1 else any_text
            edges[state].append((mask, there))
            if length >= least:
                edges[state].append((mask, join))
        if field.escape and by != "shaped" and length == 1:
            edges[at_second].append((1 << ord(field.escape), there))
            if least <= 1:
                edges[at_second].append((1 << ord(field.escape), join))
        here = [there]
    return join


def _runs(field: _Range, by: As) -> Iterator[tuple[int, ...]]:
    """List the runs of a field: for each count of digits the sets of bytes that stand one after the other."""
    if field.kind in CHECKS:  # two messages that are alike before it are alike in it
        yield (ALL,)
        return
    base, is_open = BASES[field.kind], field.kind == "number"
    if by == "shaped":
        width = field.width
        yield (ALL if base == 256 else _mask((0, base - 1), base, is_loose=True),) * (width or 1)
        return
    for sign, least, most in field.spans:
        if sign and by == "heard" and ("", 0) in {(it, low) for it, low, _ in field.spans}:
            least = 0  # -0 is heard as 0
        for run in _between(base, is_open, field, least, most, by):
            yield (1 << ord(sign), *run) if sign else run


def _between(base: int, is_open: bool, field: _Range, lowest: int, highest: int, by: As) -> Iterator[tuple[int, ...]]:
    widths = range(1, field.digits_most + 1) if is_open else [field.width or 1]
    for width in widths:
        least = lowest if by == "heard" or not is_open or width == 1 else max(lowest, 10 ** (width - 1))
        most = min(highest, base**width - 1)
        for run in _boxes(_digits(least, base, width), _digits(most, base, width), base) if least <= most else ():
            masks = tuple(_mask(span, base, is_loose=by == "heard") for span in run)
            yield masks[::-1] if field.kind == "two-bytes-little" else masks


def _digits(value: int, base: int, width: int) -> tuple[int, ...]:
    return tuple(value // base**place % base for place in range(width - 1, -1, -1))


def _boxes(low: tuple[int, ...], high: tuple[int, ...], base: int) -> Iterator[tuple[Span, ...]]:
    """Write all numbers between two of one width as runs in which each digit is free between two."""
    if not low:
        yield ()
        return
    first, last, rest = low[0], high[0], len(low) - 1
    if first == last:
        yield from (((first, first), *run) for run in _boxes(low[1:], high[1:], base))
        return
    nines = (base - 1,) * rest
    if any(low[1:]):
        yield from (((first, first), *run) for run in _boxes(low[1:], nines, base))
        first += 1
    if high[1:] != nines:
        yield from (((last, last), *run) for run in _boxes((0,) * rest, high[1:], base))
        last -= 1
    if first <= last:
        yield ((first, last), *(((0, base - 1),) * rest))


def _mask(span: Span, base: int, *, is_loose: bool) -> int:
    if base == 256:
        return (1 << span[1] + 1) - (1 << span[0])
    signs = "0123456789ABCDEF"[span[0] : span[1] + 1]
    return sum(1 << ord(it) for it in set(signs + signs.lower() if is_loose else signs))


def first_bytes(one: Automaton) -> int:
    """Return the bytes that some message begins with, as a set of bits."""
    found = 0
    for mask, _ in one.edges[0]:
        found |= mask
    return found


def shared(one: Automaton, other: Automaton) -> bytes | None:
    """Return a message that both have; None where they share none."""
    found = _walk(one, other, lambda a, b: a == one.end and b == other.end)
    return found[0] if found is not None else None


def begins(short: Automaton, long: Automaton) -> tuple[bytes, bytes] | None:
    """Return a message of the first, and one of the second that it is only the beginning of; None where there are none."""
    found = _walk(short, long, lambda a, b: a == short.end and b != long.end)
    return (found[0], found[0] + _to_end(long, found[2])) if found is not None else None


def holds(one: Automaton, ending: bytes) -> bytes | None:
    """Return a message that holds some bytes in a row; None where none does."""
    steps = [_matching(ending, matched) for matched in range(len(ending))]
    seen, todo = {(0, 0)}, deque([(0, 0, b"")])
    while todo:
        state, matched, told = todo.popleft()
        for mask, after in one.edges[state]:
            for there, bytes_that in steps[matched]:
                if not mask & bytes_that:
                    continue
                so_far = told + _one(mask & bytes_that)
                if there == len(ending):
                    return so_far + _to_end(one, after)
                if (after, there) not in seen:
                    seen.add((after, there))
                    todo.append((after, there, so_far))
    return None


def _walk(one: Automaton, other: Automaton, is_goal: Callable[[int, int], bool]) -> tuple[bytes, int, int] | None:
    """Walk two automata side by side along bytes that both take, the shortest way first; the bytes, and where it came to."""
    seen, todo = {(0, 0)}, deque([(0, 0, b"")])
    while todo:
        a, b, told = todo.popleft()
        if told and is_goal(a, b):
            return told, a, b
        for mine, after in one.edges[a]:
            for theirs, there in other.edges[b]:
                both = mine & theirs
                if both and (after, there) not in seen:
                    seen.add((after, there))
                    todo.append((after, there, told + _one(both)))
    return None


def _to_end(one: Automaton, state: int) -> bytes:
    """Return the bytes of some way from a state to the end."""
    seen, todo = {state}, deque([(state, b"")])
    while todo:
        here, told = todo.popleft()
        if here == one.end:
            return told
        for mask, after in one.edges[here]:
            if after not in seen:
                seen.add(after)
                todo.append((after, told + _one(mask)))
    return b""


def _one(mask: int) -> bytes:
    """Pick one byte of a set: a letter or a digit where it has one."""
    mask = mask & PLAIN or mask
    return bytes(((mask & -mask).bit_length() - 1,))


def _matching(ending: bytes, matched: int) -> list[tuple[int, int]]:
    """Return how far an ending is matched after one more byte, with the bytes that lead there."""
    found: dict[int, int] = {}
    for byte in range(256):
        so_far = ending[:matched] + bytes((byte,))
        there = next(size for size in range(min(len(so_far), len(ending)), -1, -1) if so_far.endswith(ending[:size]))
        found[there] = found.get(there, 0) | 1 << byte
    return list(found.items())
