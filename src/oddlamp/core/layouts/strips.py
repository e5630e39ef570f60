"""Chains of pixels as things with a size: how many fit into some room, where each stands, and what is cut and wired between."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final, Literal

from oddlamp.core.layouts.fit import SAME, Stretched, cut_to
from oddlamp.core.layouts.places import in_row_of, places_of, shape_of
from oddlamp.core.plan.layouts import IN_ROW_MOST, PIXELS_MOST, ROWS_MOST, Folded, Grid, Layout, Ring, Row, Runs, Star

PER_M: Final = 60.0  # the commonest density; common practice, no source
MadeOf = Literal["strip", "whole", "single"]


@dataclass(frozen=True, slots=True)
class Fitted:
    """How many pixels fit: in each row and in how many of them, with what one row takes of its room."""

    in_row: int
    rows: int
    cut: Stretched

    @property
    def count(self) -> int:
        """How many that is in all."""
        return self.in_row * self.rows


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of a chain in one piece, and the wire from there to the next, m; None after the last."""

    count: int
    length_m: float
    then_m: float | None


def pitch_m(layout: Layout) -> float:
    """Return how far pixels are apart, m."""
    return 1 / (layout.per_m or PER_M)


def row_pitch_m(layout: Layout) -> float:
    """Return how far rows are apart, m: as told, else as far as pixels are, or as near as a strip allows."""
    return layout.row_pitch_m or pitch_m(layout)


def made_of(layout: Layout) -> MadeOf:
    """Return what a chain comes as: as told, else lines as strip, and what has a form ready made or pixel by pixel."""
    shape = shape_of(layout)
    usual: MadeOf = "strip" if isinstance(shape, Row | Runs) else "whole" if isinstance(shape, Grid | Ring) else "single"
    return layout.made_of or usual


def cut_every(layout: Layout) -> int:
    """Return how many pixels there are from one cut mark to the next: single ones are parted anywhere."""
    return (layout.cut_every or 1) if made_of(layout) == "strip" else 1


def fitted(layout: Layout) -> Fitted | None:
    """Return how many pixels fit into the room there is; None where none is told, or the form has a size of its own."""
    shape, room_m, every = shape_of(layout), layout.room_m, cut_every(layout)
    if room_m is None:
        return None
    if isinstance(shape, Ring):
        cut = cut_to(math.pi * max(room_m - pitch_m(layout), 0.0), pitch_m(layout), every)
        return Fitted(cut.count, 1, cut)
    if isinstance(shape, Star):
        outline_m = max(room_m - pitch_m(layout), 0.0) / _width_of_one(layout)
        cut = cut_to(outline_m, pitch_m(layout), every)
        return Fitted(cut.count, 1, cut)
    if not isinstance(shape, Row | Runs | Grid):
        return None
    is_down = isinstance(shape, Folded) and shape.goes == "down" and not isinstance(shape, Row)
    along_m, beside_m = (layout.down_m or room_m, room_m) if is_down else (room_m, layout.down_m)
    cut = cut_to(along_m, pitch_m(layout), every)
    if isinstance(shape, Row):
        return Fitted(cut.count, 1, cut)
    if beside_m is None or (is_down and layout.down_m is None):
        return Fitted(cut.count, _rows(layout), cut)
    own_m = min(pitch_m(layout), row_pitch_m(layout))  # what the outer rows take beside their middle
    rows = cut_to(max(beside_m - own_m, 0.0), row_pitch_m(layout)).count + 1 if beside_m >= own_m * (1 - SAME) else 0
    return Fitted(cut.count, rows, cut)


def _rows(layout: Layout) -> int:
    if isinstance(layout.shape, Grid):
        return -(-layout.count // in_row_of(layout))
    return max(len(layout.runs), 1)


def _width_of_one(layout: Layout) -> float:
    """Return how wide a star is for each metre of its outline: it grows with it."""
    many = Layout.model_validate({"runs": [{"count": PIXELS_MOST}], "shape": layout.shape})
    across = [x for x, _ in places_of(many)]
    return (max(across) - min(across)) / PIXELS_MOST


def places_m(layout: Layout) -> tuple[tuple[float, float], ...]:
    """Return where each pixel stands, m across and down; places of one's own count pitches."""
    shape, pitch, between = shape_of(layout), pitch_m(layout), row_pitch_m(layout)
    if not isinstance(shape, Runs | Grid):
        between = pitch
    across, down = (between, pitch) if isinstance(shape, Folded) and shape.goes == "down" else (pitch, between)
    return tuple((x * across, y * down) for x, y in places_of(layout))


def size_m(layout: Layout) -> tuple[float, float]:
    """Return how wide and how high a chain is, m: from middle to middle of its outermost pixels, and half of what each takes on both sides."""
    places, pitch, shape = places_m(layout), pitch_m(layout), shape_of(layout)
    beside = min(pitch, row_pitch_m(layout)) if isinstance(shape, Runs | Grid) else pitch
    each = (beside, pitch) if isinstance(shape, Folded) and shape.goes == "down" else (pitch, beside)
    wide, high = (max(it[at] for it in places) - min(it[at] for it in places) + each[at] for at in (0, 1))
    return wide, high


def stretches(layout: Layout) -> Iterator[Stretch]:
    """Walk the pieces a chain is cut into, with the wire between them: rows of strip, or single pixels; one piece where it comes whole."""
    places, pitch = places_m(layout), pitch_m(layout)
    counts = _pieces(layout)
    at = 0
    for index, count in enumerate(counts):
        last = at + count - 1
        then_m = math.dist(places[last], places[last + 1]) if index + 1 < len(counts) else None
        yield Stretch(count, count * pitch, then_m)
        at += count


def _pieces(layout: Layout) -> list[int]:
    shape, count = shape_of(layout), layout.count
    if made_of(layout) == "single":
        return [1] * count
    if made_of(layout) == "whole":
        return [count]
    if isinstance(shape, Runs):
        return [it.count for it in layout.runs] or [count]
    if isinstance(shape, Grid):
        whole, rest = divmod(count, in_row_of(layout))
        return [in_row_of(layout)] * whole + ([rest] if rest else [])
    return [count]


def taken(layout: Layout, fits: Fitted) -> dict[str, Any]:
    """Return what of a layout changes when as many pixels are taken as fit."""
    if isinstance(layout.shape, Runs):
        return {"runs": [{"count": fits.in_row}] * fits.rows}
    changed: dict[str, Any] = {"runs": [{"count": fits.count}]}
    return changed | ({"shape": {"in_row": fits.in_row}} if isinstance(layout.shape, Grid) else {})


def may_be_taken(layout: Layout, fits: Fitted) -> bool:
    """Tell whether a plan has a place for as many pixels as fit: a room may hold more than a chain does."""
    in_row = fits.in_row if isinstance(shape_of(layout), Grid) else 1
    return 0 < fits.count <= PIXELS_MOST and fits.rows <= ROWS_MOST and in_row <= IN_ROW_MOST


def is_over(layout: Layout, fits: Fitted) -> bool:
    """Tell whether a chain is larger than the room it has: longer in a row, or of more rows."""
    shape = shape_of(layout)
    longest = in_row_of(layout) if isinstance(shape, Grid) else max((it.count for it in layout.runs), default=1)
    if not isinstance(shape, Runs | Grid):
        longest = layout.count
    return longest > fits.in_row or (isinstance(shape, Runs | Grid) and _rows(layout) > fits.rows)
