"""What a sheet holds: a sentence that is the answer, one picture, choices, and values to turn."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.values import Origin, Value
from oddlamp.core.parts.pins import AtStart
from oddlamp.core.plan.controls import ControlKind
from oddlamp.core.rehearsal.trace import LampLook
from oddlamp.sheets.charts import ChartPicture, PlacesPicture, Tick
from oddlamp.sheets.line import StageKind
from oddlamp.sheets.marks import State


class Entry(Model):
    """A value that can be turned in place. ``path`` is where the typed text goes in the plan."""

    label: str
    text: str
    path: tuple[str, ...]
    origin: Origin
    because: str | None = None
    hint: str | None = Field(default=None, description="How it is typed, told while it is typed in")
    value: Value | None = Field(default=None, description="The number behind it, with working; None for plain text")
    settles: float | str | None = Field(
        default=None, description="What keeping the proposal writes; None where nothing is proposed"
    )
    items: tuple[Any, ...] | None = Field(
        default=None, description="Where it stands in a list: the whole of it, which is written again; path ends at the list"
    )
    place: tuple[int | str, ...] = Field(default=(), description="And where in the list it stands")
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
    more: int = Field(default=0, description="How many options stay out until the list is opened")


Symbol = Literal["resistor", "led", "coil", "buzzer", "load"]


class SchematicPart(Model):
    """One part of a circuit, drawn with its standard symbol."""

    symbol: Symbol
    label: str


class Schematic(Model):
    """A drive's small circuit: parts from the top down, and the switch below them where there is one."""

    kind: Literal["circuit"] = "circuit"
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


class MarkedResistor(Model):
    """A resistor to reach for: its bands, and the mark it has as a chip."""

    label: str
    bands: tuple[str, ...]
    smd: str


class OutlinePin(Model):
    """One pin on the outline of the board."""

    label: str
    row: Literal["top", "right", "bottom"]
    line: str = Field(description="What it carries; empty where free")
    state: State
    is_proposed: bool
    remark: str
    can: str = Field(description="What it can do, and by which part of the chip")
    is_contested: bool = Field(default=False, description="Whether more lines want it, and others like it, than there are pins")


class OutlinePicture(Model):
    """The board seen from above with what is used."""

    kind: Literal["outline"] = "outline"
    text: str
    label: str
    note: str = Field(default="", description="How to read what is marked on it")
    has_plug: bool = Field(description="A board has a plug at its edge; a chip or a module has none")
    pins: tuple[OutlinePin, ...]


class TimedByte(Model):
    """One byte on the wire."""

    shown: str
    hex: str
    decimal: int
    bits: str = Field(description="The ten bits as they stand on the wire: start, eight data bits from the lowest, stop")
    starts_s: float
    ends_s: float
    role: Literal["word", "value", "ending", "unwanted"]


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


class WakingRow(Model):
    """One pin until the program runs."""

    pin: str
    name: str
    way: AtStart
    height_ratio: float | None = Field(description="Where it rests between ground and the board's high; None where it does not")
    volts: str
    because: str
    does: str
    is_quiet: bool


class WakingPicture(Model):
    """A board's pins from power-on until its program runs; it runs at ``boot_s``, ``least_s`` to ``latest_s``."""

    kind: Literal["waking"] = "waking"
    text: str
    most_s: float
    boot_s: float
    least_s: float
    latest_s: float
    ticks: tuple[Tick, ...]
    rows: tuple[WakingRow, ...]


Picture = Annotated[
    ChartPicture | Schematic | OutlinePicture | BytesPicture | WakingPicture | PlacesPicture, Field(discriminator="kind")
]


class Opens(Model):
    """Another sheet that says more of this."""

    label: str
    stage: str


class Panel(Model):
    """Values that belong together, such as one colour of a lamp or one direction of a wire."""

    title: str
    note: str = ""
    choices: tuple[Choice, ...] = ()
    entries: tuple[Entry, ...] = ()
    facts: tuple[Value, ...] = ()
    resistors: tuple[MarkedResistor, ...] = ()
    moves: tuple[Move, ...] = ()
    steps: tuple[str, ...] = Field(default=(), description="What to do, one after the other")
    lines: tuple[str, ...] = Field(default=(), description="What there is to know, in no order")
    pictures: tuple[Picture, ...] = ()
    writes: str | None = Field(default=None, description="The rule whose sentence its title is, to be written anew")
    is_folded: bool = Field(default=False, description="Shown as its title only, until it is opened")
    opens: Opens | None = None
    builds: str | None = Field(default=None, description="The line that can be built many times over")


class ParameterRow(Model):
    """A value that a word carries: how it is written, and its bounds."""

    id: str
    written: Choice
    below: Choice | None = Field(default=None, description="How a number below nothing is carried")
    bounds: tuple[Entry, ...]


class WordRow(Model):
    """One word: what is sent, its bytes in three notations, the values it carries, and what it does."""

    id: str
    label: str
    name: Entry
    sent: Entry
    characters: str
    hex: str
    decimal: str
    direction: Literal["out", "back"]
    parameters: tuple[ParameterRow, ...] = ()
    does: Choice
    answers: Choice | None = Field(default=None, description="What is said back to it, where that can be chosen")
    moved: str = Field(default="", description="Why what is proposed for it is not what it would be: another word has that")
    remove: Move


class PinRow(Model):
    """One line that needs a pin."""

    id: str
    label: str
    needs: str
    pin: Choice
    remark: str


class Slot(Model):
    """One slot of a phone program: which control, when, what is typed there, what goes out with every value at its most, and what it does."""

    control: str
    when: str
    types: str
    values: str
    ends: str
    hex: str
    decimal: str
    does: str
    example: str
    is_a: Choice | None = Field(default=None, description="What kind of control it is")
    entries: tuple[Entry, ...] = Field(default=(), description="What is said for it, or the code it was learned with")
    is_said: Choice | None = Field(default=None, description="When it says its word, for one that is moved")


class Knot(Model):
    """One step of a cue on a thread, and what it sets: the lamp, or a group that it is in."""

    step: int
    target: str
    at_s: float
    text: str


class Thread(Model):
    """A lamp in a cue: its light over time, and the steps that set it."""

    lamp: str
    label: str
    within: tuple[str, ...] = Field(description="The groups it is of")
    looks: tuple[LampLook, ...]
    knots: tuple[Knot, ...]


class Score(Model):
    """A cue as threads of light over time."""

    cue: str
    label: str
    sentence: str
    loops: bool
    whole_s: float
    round_s: float | None = Field(description="When it comes round, where it does")
    ticks: tuple[Tick, ...]
    threads: tuple[Thread, ...]
    hidden: int = Field(default=0, description="Lamps that are not drawn")
    entries: tuple[Entry, ...]
    moves: tuple[Move, ...]


class Sheet(Model):
    """Everything under one stage of the line."""

    stage: str
    kind: StageKind
    title: str
    sentence: str
    detail: str
    pictures: tuple[Picture, ...] = Field(default=(), description="The one that answers first, then those that explain")
    panels: tuple[Panel, ...] = ()
    words: tuple[WordRow, ...] = ()
    slots_title: str = Field(default="", description="What the table of slots is")
    slots_head: str = Field(default="", description="What stands in its second column")
    try_text: str | None = Field(default=None, description="A line to type as on the phone, where one can be tried")
    orders: tuple[str, ...] = Field(default=(), description="What lamps do when nobody tells them, as sentences")
    targets: dict[str, str] = Field(default={}, description="What a step of a cue may set: names by id")
    scores: tuple[Score, ...] = Field(default=(), description="Cues, to be composed in place")
    pins: tuple[PinRow, ...] = ()
    moves: tuple[Move, ...] = ()
    slots: tuple[Slot, ...] = Field(default=(), description="What to type into which slot of a program on the phone")
    keep: Move | None = Field(default=None, description="Settles everything proposed on this sheet")
    sets_up: str = Field(default="", description="The node whose steps stand below: a module, or a board whose own radio is used")
    file: str | None = Field(default=None, description="The part of one's own that this is about and that can be saved as a file")


class Opening(Model):
    """The first questions of an empty project."""

    sentence: str
    lamps: tuple[Option, ...]
    others: tuple[Option, ...]
    choices: tuple[Choice, ...]
    leads_to: str = Field(description="The stage to look at once something is picked")


class Slide(Model):
    """A value that is moved on the phone."""

    id: str
    label: str
    least: int
    most: int
    unit: str
    is_text: bool = Field(default=False, description="Typed, at most so many signs")


class PhoneButton(Model):
    """Something to press below the line, for each gesture it knows: a control of the phone, or a button or switch of the plan."""

    kind: Literal["control", "input", "spoken"] = "control"
    control: str
    node: str | None = Field(default=None, description="The handset it is on")
    group: str = Field(default="", description="What it is on, where there is more than one handset")
    label: str
    gestures: tuple[str, ...]
    says: str = Field(description="The bytes as people read them; for what is no phone's, what it does")
    is_proposed: bool
    slides: tuple[Slide, ...] = Field(default=(), description="What is moved, where it is no button: a slider for each value")
    interval_s: float = Field(default=0.1, description="How often a slider that is moved says its word, s")
    at_rest: bool = Field(default=False, description="Whether it says its word only once it rests")
    looks: ControlKind = Field(default="button", description="What it looks like")


class WhatIf(Model):
    """Something that may befall a part of the line in a rehearsal, as the event that it is."""

    label: str
    event: dict[str, Any] = Field(description="An event of a rehearsal without its time")


class Befalls(Model):
    """What may befall a part of the line. ``is_near`` where it is offered beside the phone too, and not at the rehearsal alone."""

    node: str
    label: str
    is_near: bool = False
    what_ifs: tuple[WhatIf, ...]
