"""What a text lights: the dots of a display of modules, and the pixels of a chain that stands in rows."""

from collections.abc import Mapping
from functools import lru_cache
from types import MappingProxyType
from typing import Final, NamedTuple

from oddlamp.core.layouts.glyphs import NARROW, WIDE, bars_of, columns_of
from oddlamp.core.layouts.places import Cell, bar_of, cells_of
from oddlamp.core.plan.layouts import Digits, Layout, MatrixPanel

MODULE: Final = 8
Dots = frozenset[Cell]


class Face(NamedTuple):
    """What signs are written on: rows and columns, or for digits of bars how many digits."""

    rows: int
    columns: int
    digits: int = 0


class Manner(NamedTuple):
    """How a text stands: how long it takes for each column it moves on, ms (0 for still), dark on light, and backwards."""

    column_ms: int = 0
    is_inverted: bool = False
    is_reversed: bool = False


def matrix_face(count: int, panel: MatrixPanel | None) -> Face:
    """Return the face of so many matrix modules: rows of them, of which both sides show the same where they stand back to back."""
    panel = panel or MatrixPanel()
    rows = min(panel.rows or 1, count)
    seen = (count + 1) // 2 if panel.is_back_to_back else count
    return Face(MODULE * rows, MODULE * -(-seen // rows))


def chain_face(layout: Layout | None) -> Face | None:
    """Return the face of a chain of pixels; None where it has too few rows for signs, or none."""
    if layout is None or layout.shape is None:
        return None
    shape = layout.shape
    if isinstance(shape, Digits) and shape.made_of == "bars":
        digits = layout.count // (7 * (shape.in_bar or 1))
        return Face(0, 0, digits) if digits else None
    cells = cells_of(layout)
    return Face(cells.rows, cells.columns) if cells is not None and cells.rows >= NARROW[1] else None


def digits_of(face: Face) -> int:
    """Return how many digits fit on a face, standing still."""
    return face.digits or (face.columns // _scale(face) + 1) // (NARROW[0] + 1)


def is_narrow(face: Face, text: str, *, moves: bool) -> bool:
    """Tell whether a text is written narrow: where the wide font is too high, or does not fit while the text stands still."""
    return face.rows < WIDE[1] or (not moves and ((WIDE[0] + 1) * len(text) - 1) * _scale(face) > face.columns)


def _scale(face: Face) -> int:
    """Return how many dots wide and high each dot of a sign is: two where there is room for twice its rows and a gap."""
    return max((face.rows + 1) // ((NARROW if face.rows < WIDE[1] else WIDE)[1] + 1), 1)


def long(face: Face, text: str) -> int:
    """Return how many columns a text takes standing still at least, or digits."""
    return len(text) if face.digits else max((NARROW[0] + 1) * len(text) - 1, 0) * _scale(face)


def room_of(face: Face) -> int:
    """Return how many columns a face has, or digits."""
    return face.digits or face.columns


def steps_of(face: Face, text: str) -> int:
    """Return after how many columns a moving text comes round: its own, and those of the face."""
    if face.digits:
        return len(text) + face.digits
    return len(columns_of(text, is_narrow=is_narrow(face, text, moves=True))) * _scale(face) + face.columns


def step_at(face: Face, text: str, column_ms: int, gone_ms: int) -> int:
    """Return how many columns a text has moved on, so long after it was told; it comes round again."""
    return gone_ms // column_ms % steps_of(face, text) if column_ms and text else 0


@lru_cache(maxsize=4096)
def lit(face: Face, text: str, manner: Manner, step: int) -> Dots:
    """Return the dots that a text lights, as rows and columns; of digits of bars digit and bar, a being 0.

    A still text begins at the left. A moving one comes in at the right and goes out at the left, or the other way round.
    """
    moves = bool(manner.column_ms)
    if face.digits:
        return frozenset(  # dots and ground are not exchanged there
            (digit, ord(bar) - ord("a"))
            for digit in range(face.digits)
            if (at := _source(digit, face.digits, len(text), manner, step)) is not None
            for bar in bars_of(text[at])
        )
    narrow = is_narrow(face, text, moves=moves)
    columns, height = columns_of(text, is_narrow=narrow), (NARROW if narrow else WIDE)[1]
    scale = _scale(face)
    top = max((face.rows - height * scale) // 2, 0)
    whole = {(row, column) for row in range(face.rows) for column in range(face.columns)} if manner.is_inverted else set()
    found = {
        (top + row, column)
        for column in range(face.columns)
        if (at := _source(column, face.columns, len(columns) * scale, manner, step)) is not None
        for row in range(min(height * scale, face.rows - top))
        if columns[at // scale] >> (row // scale) & 1
    }
    return frozenset(whole - found if manner.is_inverted else found)


def _source(column: int, wide: int, long: int, manner: Manner, step: int) -> int | None:
    """Return which column of a text stands at a column of the face; moving, it is just outside at step 0."""
    at = column
    if manner.column_ms:
        at = column + long - step if manner.is_reversed else column + step - wide
    return at if 0 <= at < long else None


@lru_cache(maxsize=64)
def dots_of_pixels(layout: Layout) -> tuple[Cell, ...]:
    """Return of each pixel of a chain which dot of its face it is."""
    shape = layout.shape
    if isinstance(shape, Digits) and shape.made_of == "bars":
        found = (bar_of(shape, it) for it in range(layout.count))
        return tuple((digit, ord(bar) - ord("a")) for digit, bar in found)
    cells = cells_of(layout)
    return cells.at if cells is not None else ()


@lru_cache(maxsize=64)
def modules_of(count: int, panel: MatrixPanel | None) -> Mapping[Cell, tuple[tuple[int, int, int], ...]]:
    """Return of each dot of a display where it is lit: module, and the row and column within it, as the module's driver counts them.

    On the back of a display that shows the same on both sides the chain goes on, and each row begins at its own left again.
    """
    panel = panel or MatrixPanel()
    face = matrix_face(count, panel)
    each, sides = face.columns // MODULE, 2 if panel.is_back_to_back else 1
    tall, seen = face.rows // MODULE, (count + 1) // 2 if panel.is_back_to_back else count
    found = dict[Cell, tuple[tuple[int, int, int], ...]]()
    for row in range(face.rows):
        for column in range(face.columns):
            line, at = row // MODULE, column // MODULE
            place = line * each + (each - 1 - at if panel.turns == "zig-zag" and line % 2 else at)
            if line >= tall or place >= seen:
                continue
            down, across = _turned(row % MODULE, column % MODULE, panel.turned or 0)
            modules = [place + side * seen for side in range(sides) if place + side * seen < count]
            found[row, column] = tuple((it, down, across) for it in modules)
    return MappingProxyType(found)


def _turned(row: int, column: int, degrees: int) -> Cell:
    """Return where a dot is on a module that was turned clockwise: what is seen at the top was its left edge at 90 degrees."""
    last = MODULE - 1
    return {0: (row, column), 90: (last - column, row), 180: (last - row, last - column), 270: (column, last - row)}[degrees]


def module_rows(count: int, panel: MatrixPanel | None, dots: Dots) -> tuple[tuple[int, ...], ...]:
    """Return what is written to each module: eight bytes, its rows from the top, the left dot the highest bit."""
    rows = [[0] * MODULE for _ in range(count)]
    where = modules_of(count, panel)
    for it in dots:
        for module, down, across in where.get(it, ()):
            rows[module][down] |= 1 << (MODULE - 1 - across)
    return tuple(map(tuple, rows))
