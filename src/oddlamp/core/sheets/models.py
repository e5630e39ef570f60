"""What a sheet holds: a sentence that is the answer, one picture, choices, and values to turn."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.findings import Move
from oddlamp.core.line import StageKind, State
from oddlamp.core.values import Origin, Value


class Entry(Model):
    """A value that can be turned in place. ``path`` is where the typed text goes in the plan."""

    label: str
    text: str
    path: tuple[str, ...]
    origin: Origin
    because: str | None = None
    value: Value | None = Field(default=None, description="The number behind it, with working; None for plain text")
    settles: float | str | None = Field(
        default=None, description="What keeping the proposal writes; None where nothing is proposed"
    )
    lower: float | None = Field(default=None, description="The next usual value down, in the value's own unit")
    higher: float | None = Field(default=None, description="The next usual value up")


@dataclass(frozen=True, slots=True, kw_only=True)
class Option(Move):
    """One way to settle a choice, with what it would give."""

    detail: str = ""
    state: State | None = None
    is_chosen: bool = False
    glow: Annotated[str | None, Field(description="Colour of the light, #rrggbb, where it is about one")] = None


class Choice(Model):
    """A decision with its schools side by side."""

    label: str
    origin: Origin
    because: str | None = None
    options: tuple[Option, ...]


Symbol = Literal["resistor", "led", "coil", "buzzer", "load"]


class SchematicPart(Model):
    """One part of a circuit, drawn with its standard symbol."""

    symbol: Symbol
    label: str


class Schematic(Model):
    """A drive's small circuit: parts from the top down, and the switch below them where there is one."""

    text: str
    top: str
    chain: tuple[SchematicPart, ...]
    switch: Literal["npn", "mosfet"] | None = None
    series: str | None = None
    pull_down: str | None = None
    has_flyback: bool = False
    lacks_flyback: bool = False
    across: str | None = Field(default=None, description="A resistor beside the load")
    bottom: Literal["ground", "pin"]


class Rung(Model):
    """One step of a ladder: the duty out of 255, and how light it looks, 0 to 1."""

    duty: int
    seen_ratio: float


class LadderPicture(Model):
    """A ladder of brightness, even to the eye beside even in duty."""

    text: str
    glow: str
    by_eye: tuple[Rung, ...]
    by_duty: tuple[Rung, ...]
    used: Literal["eye", "duty"]


class MarkedResistor(Model):
    """A resistor to reach for: its bands, and the mark it has as a chip."""

    label: str
    bands: tuple[str, ...]
    smd: str


class Panel(Model):
    """Values that belong together, such as one colour of a lamp or one direction of a wire."""

    title: str
    note: str = ""
    choices: tuple[Choice, ...] = ()
    entries: tuple[Entry, ...] = ()
    facts: tuple[Value, ...] = ()
    resistors: tuple[MarkedResistor, ...] = ()
    moves: tuple[Move, ...] = ()
    schematic: Schematic | None = None
    ladder: LadderPicture | None = None
    is_folded: bool = Field(default=False, description="Shown as its title only, until it is opened")
    builds: str | None = Field(default=None, description="The line that can be built many times over")


class CurrentBar(Model):
    """One channel on a current axis, all in A."""

    label: str
    glow: str
    wanted_a: float
    limit_a: float
    current_a: float | None
    least_a: float | None
    most_a: float | None
    with_pin_a: float | None


class Tick(Model):
    """A mark on an axis."""

    at: float
    text: str


class CurrentPicture(Model):
    """Operating current against wanted and limit."""

    kind: Literal["current"] = "current"
    text: str
    axis_most_a: float
    ticks: tuple[Tick, ...]
    bars: tuple[CurrentBar, ...]


class CurvePicture(Model):
    """The operating point on the diode curve, with the curve's spread and the resistor's line."""

    title: str = Field(description="The colour, where a lamp has several")
    text: str
    axis_most_v: float
    axis_most_a: float
    volts: tuple[Tick, ...]
    amperes: tuple[Tick, ...]
    steps_a: tuple[float, ...] = Field(description="Currents at which the curve is drawn, A")
    curve_v: tuple[float, ...] = Field(description="Volts across the LEDs at each of them")
    least_v: tuple[float, ...]
    most_v: tuple[float, ...]
    line_from_v: float = Field(description="Where the resistor's line meets line_from_a; it ends at line_to_v with no current")
    line_from_a: float
    line_to_v: float
    point_v: float
    point_a: float
    wanted_a: float
    limit_a: float


class EdgePicture(Model):
    """A rising edge against the time of a bit, or against the time it may take where bits are not sampled in their middle."""

    text: str
    rise_s: float
    span_s: float = Field(description="What is drawn, s: a bit, or ten times the longest edge")
    rise: str
    span: str
    is_sampled: bool = Field(description="Read in the middle of what is drawn")
    state: State


class LevelWindow(Model):
    """One direction of a wire on a volts axis."""

    label: str
    low: Tick
    high: Tick
    limit: Tick
    level_v: float | None
    least_v: float | None
    most_v: float | None
    note: str


class WindowPicture(Model):
    """What arrives, between what is heard and what harms."""

    kind: Literal["window"] = "window"
    text: str
    axis_most_v: float
    windows: tuple[LevelWindow, ...]


class OutlinePin(Model):
    """One pin on the outline of the board."""

    label: str
    row: Literal["top", "bottom"]
    line: str = Field(description="What it carries; empty where free")
    state: State
    is_proposed: bool
    remark: str


class OutlinePicture(Model):
    """The board seen from above with what is used."""

    kind: Literal["outline"] = "outline"
    text: str
    label: str
    pins: tuple[OutlinePin, ...]


class TimedByte(Model):
    """One byte on the wire."""

    shown: str
    hex: str
    decimal: int
    bits: str = Field(description="The ten bits as they stand on the wire: start, eight data bits from the lowest, stop")
    starts_s: float
    ends_s: float
    role: Literal["word", "ending", "unwanted"]


class ByteRow(Model):
    """One word as it goes over the wire."""

    word: str
    bytes: tuple[TimedByte, ...]
    takes: str


class BytesPicture(Model):
    """Words as bytes on a time axis."""

    kind: Literal["bytes"] = "bytes"
    text: str
    axis_most_s: float
    ticks: tuple[Tick, ...]
    rows: tuple[ByteRow, ...]


Picture = Annotated[CurrentPicture | WindowPicture | OutlinePicture | BytesPicture, Field(discriminator="kind")]


class WordRow(Model):
    """One word: what is sent, its bytes in three notations, and what it does."""

    id: str
    label: str
    sent: Entry
    characters: str
    hex: str
    decimal: str
    direction: Literal["out", "back"]
    does: Choice
    remove: Move


class PinRow(Model):
    """One line that needs a pin."""

    id: str
    label: str
    needs: str
    pin: Choice
    remark: str


class Sheet(Model):
    """Everything under one stage of the line."""

    stage: str
    kind: StageKind
    title: str
    sentence: str
    detail: str
    picture: Picture | None = None
    circuit: Schematic | None = Field(
        default=None, description="What stands between its supply and ground, where that is the picture"
    )
    curves: tuple[CurvePicture, ...] = ()
    edge: EdgePicture | None = None
    panels: tuple[Panel, ...] = ()
    words: tuple[WordRow, ...] = ()
    pins: tuple[PinRow, ...] = ()
    moves: tuple[Move, ...] = ()
    keep: Move | None = Field(default=None, description="Settles everything proposed on this sheet")


class Opening(Model):
    """The first questions of an empty project."""

    sentence: str
    lamps: tuple[Option, ...]
    others: tuple[Option, ...]
    choices: tuple[Choice, ...]


class PhoneButton(Model):
    """Something to press on the phone tongue, for each gesture it knows."""

    control: str
    label: str
    gestures: tuple[str, ...]
    says: str = Field(description="The bytes as people read them")
    is_proposed: bool


def ticks(most: float, unit_text: Any, count: int = 4) -> tuple[Tick, ...]:
    """Place round marks from 0 to at most ``most``; ``unit_text`` writes one."""
    raw = most / count
    power = 10.0 ** (len(f"{raw:.0f}") - 1) if raw >= 1 else 10.0 ** -next(n for n in range(1, 15) if raw * 10**n >= 1)
    step = min((m * power for m in (1, 2, 5, 10) if m * power >= raw * (1 - 1e-9)), default=power * 10)
    return tuple(Tick(at=i * step, text=unit_text(i * step)) for i in range(int(most / step + 1e-9) + 1))
