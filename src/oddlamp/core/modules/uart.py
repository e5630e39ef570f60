"""A serial line at the level of its bits: what a receiver hears of what was sent at another speed, frame or clock.

Times are exact fractions of a second. On an edge the new level counts; a start bit is looked at in its middle, every
other bit in its own; after a frame without its stop bit the receiver waits for the line to go high again.
"""

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import Final, Literal, NamedTuple

Parity = Literal["none", "even", "odd"]
DATA_BITS: Final = 8
CLOCK_MOST: Final = Fraction(2, 100)  # two clocks this far apart may lose a bit; from memory
HALF: Final = Fraction(1, 2)


class Port(NamedTuple):
    """How one end speaks or hears: its speed, how far its clock is off (0.01 is one per cent fast), and its frame."""

    speed_bd: int
    clock_error: Fraction = Fraction(0)
    parity: Parity = "none"
    stop_bits: int = 1

    @property
    def bit_s(self) -> Fraction:
        """How long one bit is by its clock, s."""
        return 1 / (self.speed_bd * (1 + self.clock_error))

    def is_heard_by(self, other: "Port") -> bool:
        """Tell whether bytes arrive whole at another end: the same speed and parity, and clocks that are little apart."""
        is_alike = self.speed_bd == other.speed_bd and self.parity == other.parity
        return is_alike and abs(self.clock_error - other.clock_error) < CLOCK_MOST

    @property
    def frame_bits(self) -> int:
        """Bits from the start of one byte to the start of the next."""
        return 1 + DATA_BITS + (self.parity != "none") + self.stop_bits


class Edge(NamedTuple):
    """The line goes to a level, 0 or 1, and stays there until the next edge."""

    at_s: Fraction
    level: int


class Heard(NamedTuple):
    """A byte as a receiver has it, when its stop bit was looked at, and whether that and its parity were right."""

    byte: int
    at_s: Fraction
    is_framed: bool = True
    is_even: bool = True

    @property
    def is_sound(self) -> bool:
        """Whether the receiver takes it for a byte and not for noise."""
        return self.is_framed and self.is_even


def bits_of(byte: int, port: Port) -> list[int]:
    """List the levels of one byte: start, data from the lowest bit, parity where there is one, stop."""
    data = [byte >> place & 1 for place in range(DATA_BITS)]
    odd = sum(data) % 2
    check = {"none": [], "even": [odd], "odd": [1 - odd]}[port.parity]
    return [0, *data, *check, *[1] * port.stop_bits]


def sent(data: bytes, port: Port, *, at_s: Fraction = Fraction(0)) -> tuple[Edge, ...]:
    """Write bytes as edges of a line that was high before, one straight after the other.

    Args:
        data: what is sent.
        port: how.
        at_s: when the first start bit begins.
    """
    edges: list[Edge] = []
    level, bit_s, place = 1, port.bit_s, 0
    for byte in data:
        for bit in bits_of(byte, port):
            if bit != level:
                edges.append(Edge(at_s + place * bit_s, bit))
                level = bit
            place += 1
    return tuple(edges)


def heard(edges: Sequence[Edge], port: Port) -> Iterator[Heard]:
    """Yield the bytes a receiver makes of a line's edges, in their order; the line is high before the first.

    Args:
        edges: by rising time, each to the other level than the one before.
        port: how it listens.
    """
    times = [edge.at_s for edge in edges]
    bit_s, checks = port.bit_s, port.parity != "none"

    def level(at_s: Fraction) -> int:
        place = bisect_right(times, at_s)
        return edges[place - 1].level if place else 1

    def next_to(low_or_high: int, at_s: Fraction) -> Fraction | None:
        place = bisect_right(times, at_s)
        place += place < len(edges) and edges[place].level != low_or_high
        return times[place] if place < len(edges) else None

    start = next_to(0, Fraction(-1))
    while start is not None:
        if level(start + bit_s * HALF):  # too short for a start bit
            start = next_to(0, start + bit_s * HALF)
            continue
        data = [level(start + bit_s * (place + 1 + HALF)) for place in range(DATA_BITS)]
        check = level(start + bit_s * (DATA_BITS + 1 + HALF)) if checks else 0
        stop_s = start + bit_s * (DATA_BITS + checks + 1 + HALF)
        is_even = not checks or (sum(data) + check) % 2 == (port.parity == "odd")
        is_framed = level(stop_s) == 1
        yield Heard(sum(bit << place for place, bit in enumerate(data)), stop_s, is_framed, is_even)
        if not is_framed:
            rises = next_to(1, stop_s)
            if rises is None:
                return
            stop_s = rises
        start = next_to(0, stop_s)


def garbage(data: bytes, sender: Port, receiver: Port) -> tuple[Heard, ...]:
    """Return what a receiver hears of bytes sent in one go; the bytes themselves where both ends agree."""
    return tuple(heard(sent(data, sender), receiver))
