"""The plan: everything the user decided, and nothing derived. Absent means proposed by Odd Lamp."""

import re
from typing import Annotated, Final, Literal

from pydantic import BeforeValidator, Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.electrical.preferred import Series
from oddlamp.core.plan.bench import ROWS_MOST, Bench, WireId
from oddlamp.core.plan.controls import Control, parted
from oddlamp.core.plan.fields import Figures, Id, Label, LineEnding, Moment, Note, OwnPartId, PartChoice, PartId, SignalId
from oddlamp.core.plan.lights import Channel, Lamp
from oddlamp.core.plan.old_built import by_place
from oddlamp.core.plan.own_board import OwnBoard
from oddlamp.core.plan.programs import OwnProgram
from oddlamp.core.plan.quantities import Baud, Ohm, Ratio, Second, Tolerance, Volt
from oddlamp.core.plan.references import dangling
from oddlamp.core.plan.rules import Cue, Group, Mover, Rule, Standing
from oddlamp.core.plan.spreads import Spread
from oddlamp.core.plan.supplies import Converter, End, Rail, Source, WireRun
from oddlamp.core.plan.text import RadioAddress
from oddlamp.core.plan.words import Vocabulary

FEED_S: Final = 5.0
FeedLine = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[ -:<-~]+$")]
ALIVE_S: Final = 2.0  # common practice: often enough for a lamp that should not stay lit, and the line stays free
ALIVE_MISSED: Final = 3  # common practice: one or two may be lost in the air
PinLabel = Annotated[str, Field(min_length=1, max_length=12)]
School = Literal["direct", "divider", "zener", "clamp", "mosfet", "gate", "diode", "diode-fed"]
Radio = Literal["classic", "ble", "wifi"]
Transport = Literal["classic-serial", "ble-serial", "tcp", "udp", "http", "websocket", "mqtt"]


class Handset(Model):
    """What the hand holds: its radios, how it sends what is typed, and what it adds after each message.

    A voice helper sends as a phone does, and so does a feed, whose lines come from elsewhere; a remote's codes are taken in by a receiver on a board, and stand for its words.
    """

    kind: Literal["phone", "computer", "remote", "voice", "feed"]
    label: Label | None = None
    speaks: tuple[Radio, ...] | None = None
    sends_as: Literal["characters", "numbers"] | None = None
    appends: LineEnding | None = None
    controls: dict[Id, Control] = Field(default_factory=dict)
    receiver: Id | None = Field(default=None, description="Of a remote: the input that takes in its codes")
    lines: Annotated[tuple[FeedLine, ...], BeforeValidator(parted), Field(max_length=50)] = Field(
        default=(), description="Of a feed: what it says in turn; text parted by semicolons is read too"
    )
    every_s: Annotated[Second, Field(ge=0.1, le=86_400)] | None = Field(default=None, description="Of a feed: how often, s")


class Board(Model):
    """A microcontroller board; it may carry a radio of its own."""

    kind: Literal["board"]
    label: Label | None = None
    end: Id | None = None
    rail: Id | None = None
    choice: PartChoice | None = None
    program: Literal["generated", "own"] | None = None
    busy_s: Annotated[Second, Field(le=3600)] | None = Field(
        default=None, description="The longest time in which a program of one's own takes nothing that comes in, s"
    )


class Seen(Model):
    """What a module answered last, or what was set in it last, whatever the plan wants of it. Its speed is the one it was found at."""

    name: Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[ -~]+$")] | None = None
    pin_code: Annotated[str, Field(pattern=r"^\d{1,16}$")] | None = None
    role: Literal["slave", "master"] | None = None


class Setup(Model):
    """What is set in a module. Never a Wi-Fi password; the speed it shall have stands on the wire."""

    name: Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[ -~]+$")] | None = None
    pin_code: Annotated[str, Field(pattern=r"^\d{1,16}$")] | None = None
    role: Literal["slave", "master"] | None = None
    bound_to: Id | None = None
    address: RadioAddress | None = Field(
        default=None, description="Its radio's own address as it told it: NAP:UAP:LAP; any notation is read"
    )
    version: PartId | None = Field(default=None, description="Which version or look-alike of its family it turned out to be")
    found_bd: Baud | None = Field(
        default=None, description="The speed it was found to speak at, until its steps have set the wire's"
    )
    seen: Seen | None = Field(default=None, description="What it answered last; where absent nobody has asked it")
    route: Literal["adapter", "board", "pass-through"] | None = None
    key_from: Literal["hand", "board"] | None = Field(
        default=None, description="What holds its key pin up for set-up: a hand, or a pin of the board on the line <module>.key"
    )


class RadioModule(Model):
    """A wireless module; it may host lamps on pins of its own."""

    kind: Literal["module"]
    label: Label | None = None
    end: Id | None = None
    rail: Id | None = None
    choice: PartChoice | None = None
    setup: Setup | None = None


class Chip(Model):
    """A chip beside the board, such as a matrix driver."""

    kind: Literal["chip"]
    label: Label | None = None
    end: Id | None = None
    rail: Id | None = None
    choice: PartChoice | None = None


Node = Annotated[Handset | Board | RadioModule | Chip, Field(discriminator="kind")]


class Air(Model):
    """A radio link."""

    kind: Literal["air"]
    label: Label | None = None
    a: Id
    b: Id
    transport: Transport | None = None
    join: Literal["station", "access-point"] | None = None
    name: Annotated[str, Field(min_length=1, max_length=32, pattern=r"^[ -~]+$")] | None = Field(
        default=None, description="What the radio of a board is found by; a module's stands in its set-up"
    )
    port: Annotated[int, Field(ge=1, le=65_535)] | None = None
    join_button: Id | None = Field(default=None, description="Held, it lets a board's own radio into another network")
    band: Literal["2g4", "both", "5g"] | None = Field(
        default=None, description="What the house's network has, where that is joined"
    )


class Wire(Model):
    """A wired link; for a UART the speed stands here."""

    kind: Literal["wire"]
    label: Label | None = None
    a: Id
    b: Id
    transport: Literal["uart", "i2c", "spi", "usb"] | None = None
    baud_rate_bd: Baud | None = None
    is_crossed: bool | None = None


Link = Annotated[Air | Wire, Field(discriminator="kind")]


class KeepAlive(Model):
    """A word that is said over and over, so that silence tells of a lost link."""

    word: Id
    every_s: Annotated[Second, Field(ge=0.1, le=3600)] | None = None
    lost_after_s: Annotated[Second, Field(ge=0.2, le=86_400)] | None = None

    @model_validator(mode="after")
    def _is_missed_first(self) -> "KeepAlive":
        if self.lost_after_s is not None and self.lost_after_s <= (self.every_s or ALIVE_S):
            raise ValueError(f"lost_after_s\n{self.lost_after_s}\nmore than {self.every_s or ALIVE_S:g}, how often it is said")
        return self

    @property
    def said_every_s(self) -> float:
        """How often it is said, s."""
        return ALIVE_S if self.every_s is None else self.every_s

    @property
    def silent_s(self) -> float:
        """How long nothing may be heard before the link counts as lost, s."""
        return ALIVE_MISSED * self.said_every_s if self.lost_after_s is None else self.lost_after_s


class Talk(Model):
    """What is said between two nodes, over one or several links."""

    a: Id
    b: Id
    via: Annotated[tuple[Id, ...], Field(min_length=1, max_length=16)]
    vocabulary: Id
    keep_alive: KeepAlive | None = None


class InputSettings(Model):
    """How an input counts: how long a contact settles, the play of what is turned, and where a sensor is on and off."""

    reads: Literal["contact", "value", "temperature", "humidity"] | None = None  # of a sensor: two states, a voltage, or bits
    settle_s: Annotated[Second, Field(ge=0.001, le=1)] | None = Field(default=None, description="Of a contact, s")
    play_ratio: Annotated[Ratio, Field(le=0.2)] | None = Field(default=None, description="Of what is turned: less is noise")
    on_above_ratio: Ratio | None = Field(default=None, description="Of a sensor with a value: it is on over this")
    off_below_ratio: Ratio | None = Field(default=None, description="Of a sensor with a value: it is off under this")

    @model_validator(mode="after")
    def _right_way_up(self) -> "InputSettings":
        on, off = self.on_above_ratio, self.off_below_ratio
        if on is not None and off is not None and off > on:
            raise ValueError(f"off_below_ratio\n{off}\nat most {on:g}, where it is on: between the two it stays as it is")
        return self


class Input(Model):
    """Something local that is pressed, turned or sensed."""

    kind: Literal["button", "switch", "knob", "remote-receiver", "sensor"]
    label: Label | None = None
    host: Id
    rail: Id | None = Field(default=None, description="What feeds its upper end; the host's own supply where absent")
    choice: PartChoice | None = None
    idle_high: bool | None = None
    settings: InputSettings | None = None
    count: Annotated[int, Field(ge=1, le=64)] | None = Field(default=None, description="How many alike, each on a pin of its own")

    @model_validator(mode="after")
    def _receivers_are_one(self) -> "Input":
        if self.kind == "remote-receiver" and self.count not in (None, 1):
            raise ValueError(f"count\n{self.count}\n1: a receiver takes in every code there is")
        return self

    @property
    def is_analog(self) -> bool:
        """Whether its pin reads volts: a knob, or a sensor that gives some."""
        return self.kind == "knob" or self.reads == "value"

    @property
    def reads(self) -> str | None:
        """What a sensor gives, where that is settled."""
        return self.settings.reads if self.settings is not None and self.kind == "sensor" else None


class ShiftValues(Model):
    """The parts of a level shift: a divider's resistors from the sender and to ground; one in series; one pulling up; a diode's drop."""

    upper_ohm: Ohm | None = None
    lower_ohm: Ohm | None = None
    series_ohm: Ohm | None = None
    pull_ohm: Ohm | None = None
    diode_v: Volt | None = None
    tolerance_ratio: Tolerance | None = None


class Shift(Model):
    """How a level is brought from one supply to the other."""

    school: School | None = None
    values: ShiftValues | None = None


Settled = bool | int | float | Annotated[str, Field(max_length=200)]


class Built(Model):
    """What a built line was made with, by its places in the plan; these values hold whatever the plan says later."""

    places: dict[Annotated[str, Field(max_length=300, pattern=r"^(signals|lamps)(/[a-z0-9_.-]+){2,8}$")], Settled] = Field(
        default_factory=dict, description="Path in the plan, its steps joined by slashes, to the value that stands there"
    )


class Signal(Model):
    """One physical line, such as ``serial.b_to_a``, ``moon.red`` or ``cue.in``."""

    pin: PinLabel | None = None
    far_pin: PinLabel | None = Field(default=None, description="At the other end, where that is a board too")
    is_omitted: bool | None = None
    is_built: bool | None = Field(
        default=None, description="Soldered: its values are those in built, and later edits never move it"
    )
    built: Built | None = None
    shift: Shift | None = None
    series_ohm: Ohm | None = None
    pull_ohm: Ohm | None = None
    pull_to: Annotated[str, Field(pattern=r"^([a-z][a-z0-9_]*|ground)$")] | None = Field(
        default=None, description="A rail id, or ground"
    )
    wire: WireRun | None = None


class Reading(Model):
    """A measured value that replaces a computed or stated one."""

    value: Annotated[float, Field(ge=0, le=1e8)]
    unit: Literal["V", "A", "ohm"]
    taken_at: Moment
    note: Note | None = None


class Risk(Model):
    """A finding the user accepts, with the reason and the numbers it had. Bigger numbers are worse."""

    reason: Annotated[str, Field(min_length=1, max_length=500)]
    taken_at: Moment
    numbers: dict[Annotated[str, Field(max_length=120)], float] = Field(default_factory=dict)


PartTable = Literal["boards", "modules", "leds", "sources", "converters", "transistors", "loads", "pixels"]


class OwnPart(Model):
    """A part of the user's own: a shipped one copied whole, under its own name and with figures of its own."""

    table: PartTable
    like: PartId = Field(description="The shipped part it was copied from; what is not told here stays its")
    label: Label
    figures: Figures = Field(default_factory=dict)
    board: OwnBoard | None = Field(default=None, description="Its pins and what is no figure, where it is a board told whole")
    note: Note | None = None


def _split(given: object) -> object:
    """Take a drawer typed as one line apart: values with commas between, or with spaces where there is no comma."""
    if not isinstance(given, str):
        return given
    has_words = re.search(r"[;,]|[a-z]{3}", given)  # bands and chip marks hold spaces: "yellow violet red gold"
    parts = re.split(r"[;,]", given) if has_words else given.split()
    return [part.strip() for part in parts if part.strip()]


class Plan(Model):
    """The one document of a project. Quantities are in unprefixed SI units."""

    format: Literal["oddlamp-plan"]
    schema_version: Literal[1]
    catalog_version: Annotated[str, Field(max_length=40)] | None = None
    title: Label
    notes: Annotated[str, Field(max_length=20_000)] | None = None
    order: dict[Literal["lamps", "nodes", "inputs", "words"], tuple[Id, ...]] = Field(default_factory=dict)
    ends: dict[Id, End] = Field(default_factory=dict)
    sources: dict[Id, Source] = Field(default_factory=dict)
    converters: dict[Id, Converter] = Field(default_factory=dict)
    rails: dict[Id, Rail] = Field(default_factory=dict)
    nodes: dict[Id, Node] = Field(default_factory=dict)
    links: dict[Id, Link] = Field(default_factory=dict)
    talks: dict[Id, Talk] = Field(default_factory=dict)
    vocabularies: dict[Id, Vocabulary] = Field(default_factory=dict)
    lamps: dict[Id, Lamp] = Field(default_factory=dict, max_length=2000)
    inputs: dict[Id, Input] = Field(default_factory=dict, max_length=2000)
    signals: dict[SignalId, Signal] = Field(default_factory=dict)
    shown_pins: dict[Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*\.[a-z][a-z0-9_]*(\.far)?$", max_length=90)], PinLabel] = (
        Field(default_factory=dict, description="The proposed pins as they were last shown: they stay where they still fit")
    )
    groups: dict[Id, Group] = Field(default_factory=dict)
    cues: dict[Id, Cue] = Field(default_factory=dict)
    movers: dict[Id, Mover] = Field(default_factory=dict)
    rules: dict[Id, Rule] = Field(default_factory=dict)
    standing: dict[Id, Standing] = Field(default_factory=dict)
    programs: dict[Id, OwnProgram] = Field(default_factory=dict, description="By host, what its maker adds to its program")
    spreads: dict[Id, Spread] = Field(default_factory=dict, description="Lamps along a run or in rows, each in one of them")
    bench: Bench | None = None
    wires: Annotated[dict[WireId, WireRun], Field(max_length=ROWS_MOST)] = Field(
        default_factory=dict, description="Of wires that are neither a line's nor a lamp's feed, by their place in the list"
    )
    measured: dict[Annotated[str, Field(max_length=160)], Reading] = Field(default_factory=dict)
    drawer: Annotated[tuple[Ohm, ...], BeforeValidator(_split), Field(max_length=200)] | None = Field(
        default=None, description="Resistors the user owns, ohm; text such as 100, 220, 4k7 is read too"
    )
    series: Series | None = Field(default=None, description="The series of resistors the user can get, IEC 60063")
    parts: dict[OwnPartId, OwnPart] = Field(default_factory=dict, description="Parts of the user's own, chosen by their id")
    accepted: dict[Annotated[str, Field(pattern=r"^[A-Z0-9]+(-[A-Z0-9]+)*@[a-z0-9_.]+$", max_length=160)], Risk] = Field(
        default_factory=dict
    )

    @model_validator(mode="before")
    @classmethod
    def _built_by_place(cls, given: object) -> object:
        """Read what earlier versions wrote of built lines."""
        return by_place(given)

    @model_validator(mode="after")
    def _references_stand(self) -> "Plan":
        """Refuse a plan that speaks of something it does not hold, so that no later step meets a missing piece."""
        for where, given, allowed in dangling(self):
            raise ValueError(f"{where}\n{given}\n{allowed}")
        return self


__all__ = ["Channel", "Converter", "End", "Lamp", "Plan", "Rail", "Source", "WireRun"]
