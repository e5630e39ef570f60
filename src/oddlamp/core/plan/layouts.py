"""How pixels stand where they hang: lines, rows, grids, digits, rings, stars, and places of one's own."""

import re
from typing import Annotated, Any, Final, Literal

from pydantic import BeforeValidator, Field, field_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.spreads import Room

PIXELS_MOST: Final = 5000
ROWS_MOST: Final = 500
IN_ROW_MOST: Final = 500  # of a grid
PLACE_MOST: Final = 10_000.0
Corner = Literal["top-left", "top-right", "bottom-left", "bottom-right"]
Goes = Literal["across", "down"]
Turns = Literal["straight", "zig-zag"]
BARS: Final = "abcdefg"


class PixelRun(Model):
    """A stretch of pixels in a chain."""

    count: Annotated[int, Field(ge=1, le=PIXELS_MOST)]
    start: Annotated[str, Field(max_length=20)] | None = None


class Folded(Model):
    """A chain that is folded: at which corner it begins, whether it goes across or down first, and how it turns."""

    begins: Corner | None = Field(default=None, description="Top left where absent")
    goes: Goes | None = Field(default=None, description="Across where absent")
    turns: Turns | None = Field(default=None, description="Zig-zag where absent: each row goes back the way the last one came")


class Row(Folded):
    """All in one line."""

    kind: Literal["line"]


class Runs(Folded):
    """Each run of the chain is a row, or a column, of its own."""

    kind: Literal["runs"]


class Grid(Folded):
    """Rows of so many pixels, or columns of so many where it goes down."""

    kind: Literal["grid"]
    in_row: Annotated[int, Field(ge=1, le=IN_ROW_MOST)] | None = Field(
        default=None, description="Pixels in a row, or in a column where it goes down; as square as may be where absent"
    )


class Digits(Folded):
    """Digits side by side: each three pixels wide and five high, or of seven bars."""

    kind: Literal["digits"]
    made_of: Literal["3x5", "bars"] | None = Field(default=None, description="3 x 5 where absent")
    in_bar: Annotated[int, Field(ge=1, le=50)] | None = Field(default=None, description="Pixels in each bar; one where absent")
    bars: (
        Annotated[
            str, Field(pattern=r"^[a-g]{7}$", description="The bars in the order of the chain: a top, then clockwise, g middle")
        ]
        | None
    ) = None

    @field_validator("bars")
    @classmethod
    def _each_once(cls, given: str | None) -> str | None:
        if given is not None and sorted(given) != list(BARS):
            raise ValueError(f"bars\n{given}\neach of {BARS} once, in the order of the chain")
        return given


class Ring(Model):
    """A ring; the first pixel is at the top."""

    kind: Literal["ring"]
    way: Literal["clockwise", "counter-clockwise"] | None = None


class Star(Model):
    """The outline of a star; the first pixel is at the top point."""

    kind: Literal["star"]
    points: Annotated[int, Field(ge=3, le=60)] | None = Field(default=None, description="Five where absent")
    inner_ratio: Annotated[float, Field(ge=0.05, le=1)] | None = Field(
        default=None, description="How far in its notches stand, of the way out to its points; 0.4 where absent"
    )
    way: Literal["clockwise", "counter-clockwise"] | None = None


Coordinate = Annotated[float, Field(ge=-PLACE_MOST, le=PLACE_MOST)]
Place = tuple[Coordinate, Coordinate]
_NUMBER = re.compile(r"[+-]?\d{1,6}(?:\.\d{1,6})?")
_LINES_MOST: Final = PIXELS_MOST + 1


def _places(given: object) -> object:
    """Read places that are pasted: a place a line, two numbers parted by a comma, a semicolon, a tab or a space; a heading may come first."""
    if not isinstance(given, str):
        return given
    lines = [it.strip() for it in given.splitlines()]
    told = [(at, it) for at, it in enumerate(lines, start=1) if it]
    if not told:
        raise ValueError("places\n\na place a line, across and down, such as 3, 1.5")
    if len(told) > _LINES_MOST:
        raise ValueError(f"places\n{len(told)} lines\nat most {PIXELS_MOST}")
    if not any(it.isdigit() for it in told[0][1]):
        told = told[1:]
    found = list[tuple[float, float]]()
    for at, line in told:
        parts = [it for it in re.split(r"[;,\t ]", line[:80]) if it]
        if len(parts) in (3, 5):  # its index before it, as it is written out, and its place in mm after it
            parts = parts[1:3]
        if len(parts) != 2 or not all(_NUMBER.fullmatch(it) for it in parts):
            raise ValueError(f"places\n{line[:40]}\nin line {at}: how far across and how far down, such as 3, 1.5")
        found.append((float(parts[0]), float(parts[1])))
    return found


class Free(Model):
    """Places of one's own, in the order of the chain: across and down, in any unit."""

    kind: Literal["free"]
    places: Annotated[tuple[Place, ...], BeforeValidator(_places), Field(min_length=1, max_length=PIXELS_MOST)]

    @field_validator("places")
    @classmethod
    def _apart(cls, given: tuple[Place, ...]) -> tuple[Place, ...]:
        seen = dict[Place, int]()
        for at, it in enumerate(given):
            if it in seen:
                raise ValueError(
                    f"places\n{it[0]:g}, {it[1]:g}\nno place twice: pixels {seen[it]} and {at} would be on top of each other"
                )
            seen[it] = at
        return given


Shape = Annotated[Row | Runs | Grid | Digits | Ring | Star | Free, Field(discriminator="kind")]


def _runs(given: object) -> Any:
    """Take a count typed alone for one run of so many pixels, and counts parted by commas for so many runs."""
    if isinstance(given, str):
        parts = [it.strip() for it in re.split(r"[,+;]", given[:2000]) if it.strip()]
        if parts and all(it.isdigit() and len(it) <= 9 for it in parts):
            return [{"count": int(it)} for it in parts]
        raise ValueError(f"runs\n{given[:40]}\na number of pixels, or of several runs one after the other, such as 24, 12, 12")
    return [{"count": given}] if isinstance(given, int | float) and not isinstance(given, bool) else given


def _fed_at(given: object) -> object:
    """Read places that are typed: numbers of pixels, counted from one as on the strip."""
    if not isinstance(given, str):
        return given
    parts = [it for it in re.split(r"[,;\s]+", given[:400].strip()) if it]
    if not parts or not all(it.isdigit() and len(it) <= 6 and int(it) > 0 for it in parts):
        raise ValueError(f"fed_at\n{given[:40]}\nnumbers of pixels, the first being 1, such as 1, 73, 144")
    return sorted({int(it) - 1 for it in parts})


_PITCH = re.compile(r"(\d{1,4}(?:[.,]\d{1,3})?)\s*(mm|cm|m)")
_METRES: Final = {"mm": 1e-3, "cm": 1e-2, "m": 1.0}


def _per_m(given: object) -> object:
    """Read pixels a metre, or how far they are apart: 60, 12 cm, 16.7 mm."""
    if not isinstance(given, str):
        return given
    text = given.strip()
    pitch = _PITCH.fullmatch(text)
    if pitch is not None:
        apart_m = float(pitch[1].replace(",", ".")) * _METRES[pitch[2]]
        if apart_m <= 0:
            raise ValueError(f"per_m\n{given[:40]}\nhow far pixels are apart, more than nothing")
        many = 1 / apart_m
        return float(round(many)) if abs(many - round(many)) < 0.005 * many else many
    told = re.fullmatch(r"(\d{1,4}(?:[.,]\d{1,4})?)\s*(?:a metre|per metre|/m)?", text)
    if told is None:
        raise ValueError(f"per_m\n{given[:40]}\npixels a metre such as 60, or how far they are apart such as 12 cm")
    return float(told[1].replace(",", "."))


class Layout(Model):
    """Runs of pixels, how they stand, and where supply is fed in."""

    runs: Annotated[tuple[PixelRun, ...], BeforeValidator(_runs), Field(max_length=ROWS_MOST)] = Field(
        default=(), description="A number alone is one run of so many, 24, 12, 12 are three"
    )
    shape: Shape | None = Field(default=None, description="One line where absent")
    fed_at: Annotated[
        tuple[Annotated[int, Field(ge=0, le=PIXELS_MOST)], ...], BeforeValidator(_fed_at), Field(max_length=100)
    ] = Field(default=(), description="Before which pixels supply comes in, the first being 0; there where absent")
    per_m: Annotated[float, BeforeValidator(_per_m), Field(ge=0.1, le=1000)] | None = Field(
        default=None, description="Pixels a metre; 60 where absent; a pitch such as 12 cm is read too"
    )
    made_of: Literal["strip", "whole", "single"] | None = Field(
        default=None, description="Strip that is cut, a panel or ring ready made, or single pixels with wire between them"
    )
    cut_every: Annotated[int, Field(ge=1, le=100)] | None = Field(
        default=None, description="Pixels from one cut mark of a strip to the next; one where absent"
    )
    room_m: Room | None = Field(default=None, description="The room there is for it: along a line, across anything else, m")
    down_m: Room | None = Field(default=None, description="The room there is down, for rows, m")
    row_pitch_m: Room | None = Field(default=None, description="From row to row, m; the same as from pixel to pixel where absent")

    @property
    def count(self) -> int:
        """How many pixels there are: one for each place where each was given one, else what the runs have."""
        if isinstance(self.shape, Free):
            return len(self.shape.places)
        return sum(it.count for it in self.runs) if self.runs else 1


class MatrixPanel(Model):
    """How matrix modules stand: rows of them, the way the chain goes, how each is turned, and whether both sides show the same."""

    rows: Annotated[int, Field(ge=1, le=16)] | None = Field(default=None, description="One where absent")
    turns: Turns | None = Field(default=None, description="Straight where absent: each row begins at the same side")
    turned: Literal[0, 90, 180, 270] | None = Field(default=None, description="How far each module is turned clockwise, degrees")
    is_back_to_back: bool | None = Field(
        default=None, description="The second half of the chain shows the same on the other side"
    )
