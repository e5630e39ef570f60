"""A line that a board hears in software: deaf while its program has interrupts off, and astray when it wakes within a byte."""

from fractions import Fraction
from typing import Final, NamedTuple

from oddlamp.core.modules.uart import Edge, Port, heard, sent

ASTRAY_MOST: Final = 64  # bytes: longer than this nothing stays astray


class Sound(NamedTuple):
    """A byte that was heard, and when."""

    byte: int
    at_s: float


class Ear:
    """The line since its board woke within a byte: what that takes it for, bit by bit, until both agree again."""

    def __init__(self, woke_s: float, byte_s: float) -> None:
        self.woke_s, self.byte_s = woke_s, byte_s
        self.port = Port(round(10 / byte_s))
        self.came: list[tuple[float, int]] = []
        self.told = 0
        self.is_astray = True

    def take(self, start_s: float, byte: int, *, is_followed: bool) -> list[Sound]:
        """Let one byte more be whole; return what is heard until then, and until the line rests where nothing follows."""
        self.came.append((start_s, byte))
        ends_s = start_s + self.byte_s
        sounds = [Sound(it.byte, float(it.at_s)) for it in heard(self._edges(), self.port)]
        known = [it for it in sounds if not is_followed or it.at_s <= ends_s]
        new = known[self.told :]
        self.told = len(known)
        is_right = bool(new) and new[-1].byte == byte and abs(new[-1].at_s - ends_s) < self.byte_s / 10
        self.is_astray = is_followed and not is_right and len(self.came) < ASTRAY_MOST
        return new

    def _edges(self) -> list[Edge]:
        """List how the line goes from when the board woke: it may be low then, which begins a byte."""
        woke, level, after = Fraction(self.woke_s), 1, list[Edge]()
        for start_s, byte in self.came:
            for edge in sent(bytes((byte,)), self.port, at_s=Fraction(start_s)):
                if edge.at_s <= woke:
                    level = edge.level
                else:
                    after.append(edge)
        return after if level else [Edge(woke, 0), *after]
