"""Lamps as the plan knows them: kinds, channels, drives and layouts."""

from typing import Annotated, Final, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, PartChoice
from oddlamp.core.plan.layouts import Layout, MatrixPanel
from oddlamp.core.plan.quantities import Ampere, Metre, Ohm, Ratio, Tolerance, Tone, Watt
from oddlamp.core.plan.spreads import Room
from oddlamp.core.plan.supplies import Fed, Steadied

Few = Annotated[int, Field(ge=1, le=500)]


class Channel(Model):
    """One current path of a lamp: its LEDs, the current wanted through each, and the resistor."""

    led: PartChoice | None = None
    in_series: Few | None = None
    in_parallel: Few | None = None
    sharing: Literal["each", "one"] | None = None
    wanted_current_a: Ampere | None = None
    resistor_ohm: Ohm | None = None
    tolerance_ratio: Tolerance | None = None
    rating_w: Watt | None = Field(default=None, description="What its resistor is rated for, W")


class DriveValues(Model):
    """The parts around a transistor: in its base or gate, from gate to ground, and over a coil or a piezo disc."""

    base_ohm: Ohm | None = None
    gate_ohm: Ohm | None = None
    pull_down_ohm: Ohm | None = None
    has_pull_down: bool | None = None
    has_flyback: bool | None = None
    across_ohm: Ohm | None = None


class Drive(Model):
    """What stands between the pin and the lamp."""

    school: Literal["pin", "mosfet", "npn"] | None = None
    choice: PartChoice | None = None
    values: DriveValues | None = None


class Ladder(Model):
    """Brightness steps: how many, and whether they are even in duty or even to the eye; and which of both a number means."""

    steps: Annotated[int, Field(ge=2, le=64)] | None = None
    even_in: Literal["eye", "duty"] | None = None
    half_is: Literal["duty", "eye"] | None = Field(
        default=None, description="What a brightness of one half is: half of the time on, or half as bright to the eye"
    )


Watched = Literal["still", "moving", "filmed"]
ColourOrder = Literal["red-green-blue", "red-blue-green", "green-red-blue", "green-blue-red", "blue-red-green", "blue-green-red"]


class LedLamp(Fed):
    """One LED or several alike on one channel, ``main``."""

    kind: Literal["led"]
    label: Label | None = None
    host: Id
    rail: Id | None = None
    drive: Drive | None = None
    channels: dict[Literal["main"], Channel] = Field(default_factory=dict)
    sends: Literal["codes"] | None = Field(default=None, description="Sends the codes of a remote, and gives no light")
    ladder: Ladder | None = None
    watched: Watched | None = None
    brightness_cap_ratio: Ratio | None = None


class RgbLamp(Fed):
    """Three LEDs with one common leg."""

    kind: Literal["rgb"]
    label: Label | None = None
    host: Id
    rail: Id | None = None
    common: Literal["anode", "cathode"] | None = None
    drive: Drive | None = None
    channels: dict[Literal["red", "green", "blue"], Channel] = Field(default_factory=dict)
    ladder: Ladder | None = None
    watched: Watched | None = None
    brightness_cap_ratio: Ratio | None = None


class PixelLamp(Steadied):
    """A chain of addressable pixels, one-wire or clocked."""

    kind: Literal["pixels-one-wire", "pixels-clocked"]
    label: Label | None = None
    host: Id
    rail: Id | None = None
    choice: PartChoice | None = None
    layout: Layout | None = None
    colour_order: ColourOrder | None = Field(default=None, description="The order its colours are sent in")
    order_seen: ColourOrder | None = Field(default=None, description="The order a test at the bench showed")
    ladder: Ladder | None = None
    watched: Watched | None = None
    brightness_cap_ratio: Ratio | None = None


class LoadLamp(Steadied):
    """A load that sets its own current and is only switched; a motor is one input of its driver, for one way."""

    kind: Literal["buzzer", "relay", "strip", "motor"]
    label: Label | None = None
    host: Id
    rail: Id | None = None
    choice: PartChoice | None = None
    drive: Drive | None = None
    channels: dict[Literal["main"], Channel] = Field(default_factory=dict)
    length_m: Metre | None = Field(default=None, description="Of a strip, m")
    cut_m: Annotated[Metre, Field(ge=0.001, le=10)] | None = Field(
        default=None, description="Of a strip: from one cut mark to the next, m; 5 cm where absent"
    )
    room_m: Room | None = Field(default=None, description="Of a strip: the room there is along it, m")
    is_fed_at_both_ends: bool | None = Field(default=None, description="Of a strip; at its start alone where absent")
    tone_hz: Tone | None = Field(default=None, description="What a buzzer sounds at, Hz; a note such as A4 is read too")
    ladder: Ladder | None = None
    watched: Watched | None = None


class MatrixLamp(Fed):
    """Matrix modules with their drivers in a chain."""

    kind: Literal["matrix"]
    label: Label | None = None
    host: Id
    rail: Id | None = None
    choice: PartChoice | None = None
    count: Few | None = None
    panel: MatrixPanel | None = None


Lamp = Annotated[LedLamp | RgbLamp | PixelLamp | LoadLamp | MatrixLamp, Field(discriminator="kind")]

# The lines of each kind of lamp. Those of LEDs are channels, each with a resistor; those of LEVEL_KINDS carry words of bits.
LEADS: Final[dict[str, tuple[str, ...]]] = {
    "led": ("main",),
    "rgb": ("red", "green", "blue"),
    "pixels-one-wire": ("data",),
    "pixels-clocked": ("data", "clock"),
    "buzzer": ("main",),
    "relay": ("main",),
    "strip": ("main",),
    "motor": ("main",),
    "matrix": ("data", "clock", "select"),
}
CHANNEL_KINDS: Final = ("led", "rgb")
PIXEL_KINDS: Final = ("pixels-one-wire", "pixels-clocked")
LEVEL_KINDS: Final = (*PIXEL_KINDS, "matrix")
LOAD_KINDS: Final = ("buzzer", "relay", "strip", "motor")
DIMMED_KINDS: Final = ("led", "rgb", "strip", "motor")
CHIP_KINDS: Final = ("led", "rgb", "strip", "relay", "motor")
DISPLAY_KINDS: Final = ("matrix",)
COLOUR_KINDS: Final = ("rgb", *PIXEL_KINDS)
SWITCHED_KINDS: Final = ("buzzer", "relay")


def may_hang_on_chip(lamp: Lamp) -> bool:
    """Tell whether a chip that is told over a bus can hold a lamp: it is too slow for bits, tones and codes."""
    return lamp.kind in CHIP_KINDS and not sends_codes(lamp)


def sends_codes(lamp: Lamp) -> bool:
    """Tell whether a lamp speaks to something else as a remote does, and gives no light."""
    return isinstance(lamp, LedLamp) and lamp.sends == "codes"
