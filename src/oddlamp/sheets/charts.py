"""One general chart: axes, lanes, bands, lines, marks and dots, in the units of what is drawn. The screen only scales it."""

from typing import Any, Literal

from pydantic import Field

from oddlamp.core.base import Model

Tone = Literal["ink", "soft", "copper", "cut", "lamp", "hatch", "spread"]


class Tick(Model):
    """A mark on an axis."""

    at: float
    text: str


class Axis(Model):
    """One axis: its ends and its round marks."""

    least: float = 0.0
    most: float
    ticks: tuple[Tick, ...] = ()


class Lane(Model):
    """One row of a chart of rows: its name, and what is said at its end."""

    label: str
    note: str = ""
    ticks: tuple[Tick, ...] = Field(default=(), description="Marks of its own under it, instead of the axis's")


class Band(Model):
    """A filled stretch: from edge to edge of what is left out. On a lane it fills that lane; ``glow`` is a colour of light."""

    tone: Tone = "lamp"
    glow: str | None = None
    lane: int = 0
    from_x: float | None = None
    to_x: float | None = None
    from_y: float | None = None
    to_y: float | None = None
    is_thin: bool = Field(default=False, description="A rounded bar in the middle of its lane")
    label: str = Field(default="", description="Under it, on the axis")


class Stroke(Model):
    """A line through points, or the outline of an area where it is closed."""

    points: tuple[tuple[float, float], ...]
    tone: Tone = "ink"
    weight: float = 2.4
    is_dashed: bool = False
    is_area: bool = False


class Mark(Model):
    """A line across a chart: up at an x, or over at a y, with a word beside it, or a shorter one where there is little room."""

    at: float
    is_across: bool = False
    lane: int = 0
    tone: Tone = "ink"
    weight: float = 1.6
    is_dashed: bool = False
    label: str = ""
    short: str = ""


class Dot(Model):
    """A value: a bar on a lane, a ring, or a lamp-yellow dot."""

    x: float
    y: float = 0.0
    lane: int = 0
    shape: Literal["bar", "ring", "dot"] = "bar"
    glow: str | None = Field(default=None, description="Its colour of light, #rrggbb, where it is about one")


class Key(Model):
    """What a colour of a chart stands for."""

    glow: str
    label: str


class ChartPicture(Model):
    """A chart with the text that stands for it."""

    kind: Literal["chart"] = "chart"
    title: str = ""
    text: str = Field(description="What it shows, for who cannot see it")
    note: str = Field(default="", description="How to read it")
    size: Literal["wide", "half", "small"] = "wide"
    x: Axis
    y: Axis | None = Field(default=None, description="None for a chart of rows")
    lanes: tuple[Lane, ...] = ()
    bands: tuple[Band, ...] = ()
    strokes: tuple[Stroke, ...] = ()
    marks: tuple[Mark, ...] = ()
    dots: tuple[Dot, ...] = ()
    legend: tuple[Key, ...] = ()
    has_axis: bool = Field(default=True, description="Whether the axes are drawn")


def ticks(most: float, unit_text: Any, count: int = 4) -> tuple[Tick, ...]:
    """Place round marks from 0 to at most ``most``; ``unit_text`` writes one."""
    raw = most / count
    power = 10.0 ** (len(f"{raw:.0f}") - 1) if raw >= 1 else 10.0 ** -next(n for n in range(1, 15) if raw * 10**n >= 1)
    step = min((m * power for m in (1, 2, 5, 10) if m * power >= raw * (1 - 1e-9)), default=power * 10)
    return tuple(Tick(at=i * step, text=unit_text(i * step)) for i in range(int(most / step + 1e-9) + 1))


class Frame(Model):
    """A module round some dots, with its number in the chain."""

    across: int
    down: int
    wide: int
    high: int
    label: str


class Tried(Model):
    """Something that a lamp can be tried with, to see its light by itself."""

    label: str
    verb: str
    values: dict[str, Any]


class PlacesPicture(Model):
    """Where the pixels of a chain stand, in its order, or the dots of modules row by row; lit by the rehearsal."""

    kind: Literal["places"] = "places"
    text: str
    note: str = ""
    stage: str
    lamp: str
    places: tuple[tuple[float, ...], ...] = Field(description="Across and down")
    in_rows: bool = Field(description="Whether they stand in rows and columns that can be counted")
    frames: tuple[Frame, ...]
    tries: tuple[Tried, ...]
    pasted: dict[str, Any] | None = Field(default=None, description="The patch that takes places of one's own, but for these")
