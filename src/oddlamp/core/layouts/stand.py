"""How the pixels of a chain stand, as a program needs it: for signs, and for patterns that know of rows and neighbours."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from oddlamp.core.layouts.places import cells_of
from oddlamp.core.layouts.signs import Face, Manner, chain_face, dots_of_pixels, lit, step_at
from oddlamp.core.plan.layouts import Layout

WORD: Final = 2**32 - 1


@dataclass(frozen=True, eq=False, slots=True)
class Stand:
    """Of each pixel its row and column, and the dot of the face that it is. Told apart by what it is, as a key of caches."""

    rows: int
    rain: tuple[tuple[int, int], ...]  # of each pixel its row, and its column
    face: Face | None = None
    dots: tuple[tuple[int, int], ...] = ()

    def written(self, text: str, manner: Manner, gone_ms: int) -> Sequence[bool]:
        """Return which pixels a text lights, so long after it was told; all where there is none to show."""
        return _written(self, text, manner, step_at(self.face, text, manner.column_ms, gone_ms) if self.face else 0)


@lru_cache(maxsize=4096)
def _written(stand: Stand, text: str, manner: Manner, step: int) -> tuple[bool, ...]:
    if stand.face is None or not text:
        return (True,) * len(stand.rain)
    found = lit(stand.face, text, manner, step)
    return tuple(it in found for it in stand.dots) + (False,) * (len(stand.rain) - len(stand.dots))


@lru_cache(maxsize=256)
def stand_of(layout: Layout | None) -> Stand:
    """Return how a chain stands: where it stands in less than two rows, as one column."""
    layout = layout or Layout()
    cells = cells_of(layout)
    if cells is None or cells.rows < 2:
        rows, rain = layout.count, tuple((it, 0) for it in range(layout.count))
    else:
        rows, rain = cells.rows, cells.at
    face = chain_face(layout)
    return Stand(rows, rain, face, dots_of_pixels(layout) if face is not None else ())


class Neighbours:
    """A row of pixels, each lit or not, that follows from the one before by a rule of three neighbours; its ends are joined.

    Source: Wolfram, Statistical mechanics of cellular automata, Rev. Mod. Phys. 55, 1983: the rule's number in binary tells
    what follows from 111, 110 ... 000.
    """

    def __init__(self, count: int, rule: int) -> None:
        self.count, self.rule = count, rule
        self._at = 0, 1 << (count // 2)

    def row(self, step: int) -> int:
        """Return the row of a step as bits, the first pixel lowest; the one in the middle alone is lit at first."""
        now, row = self._at if self._at[0] <= step else (0, 1 << (self.count // 2))
        whole, count = (1 << self.count) - 1, self.count
        while now < step:
            before, after = ((row << 1) | (row >> (count - 1))) & whole, ((row >> 1) | (row << (count - 1))) & whole
            found = 0
            for case in range(8):
                if self.rule >> case & 1:
                    found |= (before if case & 4 else ~before) & (row if case & 2 else ~row) & (after if case & 1 else ~after)
            now, row = now + 1, found & whole
        self._at = now, row
        return row


@lru_cache(maxsize=64)
def neighbours(count: int, rule: int) -> Neighbours:
    """Return such a row, remembered with how far it has come."""
    return Neighbours(count, rule)
