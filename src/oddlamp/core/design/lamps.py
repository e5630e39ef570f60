"""Lamps of a design: what drives each, what flows, how it is dimmed."""

from dataclasses import dataclass
from typing import Literal

from oddlamp.core.design.supplies import Picked
from oddlamp.core.design.values import Value
from oddlamp.core.electrical.drivers import BaseDrive
from oddlamp.core.electrical.led import LedBranch, LedPoint
from oddlamp.core.parts.models import LedPart, PixelPart, TransistorPart


@dataclass(frozen=True, slots=True)
class SwitchDesign:
    """A transistor between a pin and what it switches, with the parts around it."""

    school: Picked
    part: TransistorPart
    part_picked: Picked
    load: Value
    series: Value
    pin: Value
    base: BaseDrive | None
    gate: Value | None
    pull_down: Value | None
    has_pull_down: bool


@dataclass(frozen=True, slots=True)
class ToneDesign:
    """What a buzzer sounds at: its frequency, the half period of the pin, and the range the part sounds in."""

    frequency: Value
    half_period: Value
    note: str
    least_hz: float | None
    most_hz: float | None
    makes_own: bool


@dataclass(frozen=True, slots=True)
class DimmingDesign:
    """How a lamp is dimmed: its ladder of duties, 0 to 255, and the frequency its light is chopped at."""

    steps: Value
    even_in: Picked
    half_is: Picked
    by_duty: tuple[int, ...]
    by_eye: tuple[int, ...]
    frequency: Value | None
    watched: Picked


@dataclass(frozen=True, slots=True)
class OptoInput:
    """What stands in the input of an opto module: drop of its LEDs, V, and its resistor, ohm."""

    drop_v: float
    resistance_ohm: float


@dataclass(frozen=True, slots=True)
class LoadDesign:
    """Something that sets its own current: relay, buzzer, strip, matrix modules, pixels at full white.

    ``holds_f`` is what a piezo disc holds, F, where a transistor drives it: it charges it and cannot let it go, which
    takes a resistor ``across`` it. ``supply_a`` is what a relay module's coil takes beside its input, A, ``rail_ohm``
    what a metre of one of a strip's rails resists, ohm, ``across_on`` the volts it has while it is switched on. ``works_from`` are the lowest volts it still works at, under those it is rated for.
    """

    part_id: str
    label: str
    picked: Picked
    current: Value
    rated: Value
    works_from: Value | None
    rail: Value | None
    is_coil: bool
    has_flyback: bool
    is_mains_side: bool
    is_flyback_settled: bool = False
    off_current: Value | None = None
    input: OptoInput | None = None
    on_when: Literal["low", "high"] = "high"
    tone: ToneDesign | None = None
    pixel: PixelPart | None = None
    pixels: int = 0
    holds_f: float | None = None
    across: Value | None = None
    supply_a: float | None = None
    rail_ohm: float | None = None
    across_on: Value | None = None


@dataclass(frozen=True, slots=True)
class ChannelDesign:
    """One current path with its numbers. ``branch`` and ``point`` are None where they cannot be computed.

    ``ghost`` is what still flows while it is off, ``floats`` the volts its pin stands at while the board starts, both of
    a lamp that comes from a rail above its pin.
    """

    id: str
    lamp_id: str
    led: LedPart
    led_picked: Picked
    in_series: int
    in_parallel: int
    is_inverted: bool
    forward: Value
    wanted: Value
    limit: Value
    tolerance: Value
    drive: Value
    resistor: Value
    exact: Value
    current: Value
    current_with_pin: Value
    across: Value
    power: Value
    rating: Value
    branch: LedBranch | None
    point: LedPoint | None
    curve: Value
    sharing: Literal["each", "one"] = "each"
    switch: SwitchDesign | None = None
    ghost: Value | None = None
    floats: Value | None = None

    @property
    def signal_id(self) -> str:
        """The channel's line."""
        return f"{self.lamp_id}.{self.id}"


@dataclass(frozen=True, slots=True)
class LampDesign:
    """A lamp. ``open_because`` says why its numbers are not there, if so."""

    id: str
    label: str
    kind: str
    host: str
    rail_id: str | None
    common: Picked | None
    channels: tuple[ChannelDesign, ...]
    open_because: str | None
    school: Picked | None = None
    switch: SwitchDesign | None = None
    load: LoadDesign | None = None
    dimming: DimmingDesign | None = None
    sends_codes: bool = False

    @property
    def stage(self) -> str:
        """The lamp's stage on the line."""
        return f"lamps.{self.id}"

    @property
    def takes_rail(self) -> bool:
        """Whether current comes to it from a rail, and not from its pin alone."""
        if self.school is None or self.school.id != "pin":
            return True
        if self.load is not None:
            return self.load.off_current is not None
        return self.common is not None and self.common.id == "anode"
