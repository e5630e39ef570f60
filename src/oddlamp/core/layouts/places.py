"""Where each pixel of a chain stands, and which one stands at a place."""

import math
from collections.abc import Iterator
from functools import lru_cache
from typing import Final, NamedTuple

from oddlamp.core.layouts.glyphs import NARROW
from oddlamp.core.plan.layouts import BARS, Digits, Folded, Free, Grid, Layout, Ring, Row, Runs, Star

STAR_POINTS: Final = 5
INNER_RATIO: Final = 0.4
CELLS_MOST: Final = 20_000
Cell = tuple[int, int]


class Cells(NamedTuple):
    """Pixels that stand in rows and columns: how many of both, and the row and column of each pixel in the order of the chain."""

    rows: int
    columns: int
    at: tuple[Cell, ...]

    def by_cell(self) -> dict[Cell, int]:
        """Return the pixel at each row and column that has one."""
        return {it: index for index, it in enumerate(self.at)}


def shape_of(layout: Layout | None) -> Row | Runs | Grid | Digits | Ring | Star | Free:
    """Return how a chain stands: in one line where nothing else is said."""
    return (layout.shape if layout is not None else None) or Row(kind="line")


def in_row_of(layout: Layout) -> int:
    """Return how many pixels stand in each row of a grid: as told, else as nearly square as the count allows."""
    shape = layout.shape
    if isinstance(shape, Grid) and shape.in_row is not None:
        return shape.in_row
    return next(it for it in range(math.isqrt(max(layout.count - 1, 0)) + 1, layout.count + 1) if layout.count % it == 0)


@lru_cache(maxsize=256)
def cells_of(layout: Layout) -> Cells | None:
    """Return the rows and columns of a chain; None where it stands in none."""
    shape = shape_of(layout)
    match shape:
        case Row():
            return _packed(_folded(shape, [layout.count]))
        case Runs():
            return _packed(_folded(shape, [it.count for it in layout.runs] or [layout.count]))
        case Grid():
            each = in_row_of(layout)
            whole, rest = divmod(layout.count, each)
            return _packed(_folded(shape, [each] * whole + ([rest] if rest else []), each))
        case Digits():
            return _packed(list(_digits(shape, layout.count)))
        case Free():
            return _whole(shape)
        case _:
            return None


def _packed(at: list[Cell]) -> Cells:
    return Cells(1 + max(row for row, _ in at), 1 + max(column for _, column in at), tuple(at))


def _folded(shape: Folded, lengths: list[int], wide: int | None = None) -> list[Cell]:
    """Fold a chain into rows of such lengths, from the corner it begins at; ``wide`` is how long they would all be."""
    longest, tall = wide or max(lengths), len(lengths)
    begins, is_down = shape.begins or "top-left", shape.goes == "down"
    found = list[Cell]()
    for line, length in enumerate(lengths):
        is_back = shape.turns != "straight" and line % 2 == 1
        for at in range(length):
            across = longest - 1 - at if is_back else at
            row, column = (across, line) if is_down else (line, across)
            high, broad = (longest, tall) if is_down else (tall, longest)
            found.append((high - 1 - row if "bottom" in begins else row, broad - 1 - column if "right" in begins else column))
    return found


def _digits(shape: Digits, count: int) -> Iterator[Cell]:
    width, height = NARROW
    if shape.made_of != "bars":
        one = _folded(shape, [height] * width if shape.goes == "down" else [width] * height)
        for index in range(count):
            digit, within = divmod(index, len(one))
            row, column = one[within]
            yield row, digit * (width + 1) + column
        return
    each = shape.in_bar or 1
    bars = {bar: _bar(bar, each) for bar in BARS}
    one = [cell for bar in shape.bars or BARS for cell in bars[bar]]
    for index in range(count):
        digit, within = divmod(index, len(one))
        row, column = one[within]
        yield row, digit * (each + 3) + column


def _bar(bar: str, each: int) -> list[Cell]:
    """Return the rows and columns of one bar, in the way the chain runs round the digit."""
    ahead, back = range(1, each + 1), range(each, 0, -1)
    return {
        "a": [(0, it) for it in ahead],
        "b": [(it, each + 1) for it in ahead],
        "c": [(each + 1 + it, each + 1) for it in ahead],
        "d": [(2 * each + 2, it) for it in back],
        "e": [(each + 1 + it, 0) for it in back],
        "f": [(it, 0) for it in back],
        "g": [(each + 1, it) for it in ahead],
    }[bar]


def bar_of(shape: Digits, index: int) -> tuple[int, str]:
    """Return of a pixel of seven-bar digits which digit and which bar it belongs to."""
    each = shape.in_bar or 1
    digit, within = divmod(index, 7 * each)
    return digit, (shape.bars or BARS)[within // each]


def _whole(shape: Free) -> Cells | None:
    """Return rows and columns of places of one's own, where they are whole numbers close enough together."""
    if not all(float(it).is_integer() for place in shape.places for it in place):
        return None
    left, top = (int(min(place[axis] for place in shape.places)) for axis in (0, 1))
    found = [(int(down) - top, int(across) - left) for across, down in shape.places]
    cells = _packed(found)
    return cells if cells.rows * cells.columns <= CELLS_MOST else None


@lru_cache(maxsize=64)
def places_of(layout: Layout) -> tuple[tuple[float, float], ...]:
    """Return the place of each pixel in the order of the chain: across and down, one apart where it can be said so."""
    shape, count = shape_of(layout), layout.count
    if isinstance(shape, Free):
        return shape.places
    if isinstance(shape, Ring):
        radius, way = max(count / math.tau, 0.5), -1 if shape.way == "counter-clockwise" else 1
        turns = [way * math.tau * it / count for it in range(count)]
        return tuple((round(radius * math.sin(it), 4), round(-radius * math.cos(it), 4)) for it in turns)
    if isinstance(shape, Star):
        return tuple(_star(shape, count))
    cells = cells_of(layout)
    return () if cells is None else tuple((float(column), float(row)) for row, column in cells.at)


def _star(shape: Star, count: int) -> Iterator[tuple[float, float]]:
    """Go round the outline of a star in equal steps along its edges, from the top point."""
    points, inner = shape.points or STAR_POINTS, shape.inner_ratio or INNER_RATIO
    half, way = math.pi / points, -1 if shape.way == "counter-clockwise" else 1
    edge = math.sqrt(1 + inner * inner - 2 * inner * math.cos(half))
    radius = count / (2 * points * edge)  # so that neighbours are one apart along the outline
    corners = [(math.sin(way * half * it), -math.cos(half * it)) for it in range(2 * points + 1)]
    for index in range(count):
        at, within = divmod(index * 2 * points, count)
        share = within / count
        (x1, y1), (x2, y2) = (
            (radius * (1 if it % 2 == 0 else inner) * corners[it][0], radius * (1 if it % 2 == 0 else inner) * corners[it][1])
            for it in (at, at + 1)
        )
        yield round(x1 + (x2 - x1) * share, 4), round(y1 + (y2 - y1) * share, 4)


def index_at(layout: Layout, across: float, down: float) -> int | None:
    """Return the pixel at a place, within half of the way to its neighbour; None where there is none."""
    found = min(((math.hypot(x - across, y - down), index) for index, (x, y) in enumerate(places_of(layout))), default=None)
    return found[1] if found is not None and found[0] < 0.5 else None
