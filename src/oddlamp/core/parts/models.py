"""Parts as models: every figure with where it was read. ``from-memory`` until someone confirms it."""

from collections import Counter
from functools import cached_property
from typing import Annotated, Final, Literal, TypeVar

from pydantic import Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.errors import UnknownPart
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.parts.packages import PackageNames
from oddlamp.core.parts.pins import PINS_MOST, Pin, PinCosts, PinLabel, Takings
from oddlamp.core.parts.sourced import Sourced, SourceKey
from oddlamp.core.parts.supply import ConverterPart, SourcePart
from oddlamp.core.plan.fields import PartId
from oddlamp.core.plan.lights import ColourOrder
from oddlamp.core.plan.own_board import Route

T = TypeVar("T")
Version = Annotated[str, Field(pattern=r"^\d{4}\.\d{1,2}(\.\d{1,3})?$")]


class InputLevels(Model):
    """What a part hears as high and low, and what its inputs stand."""

    input_high_ratio: Sourced = Field(description="V_IH as a ratio of the logic supply")
    input_low_ratio: Sourced = Field(description="V_IL as a ratio of the logic supply")
    input_high_v: Sourced | None = Field(default=None, description="V_IH where stated in volts; wins over the ratio")
    input_low_v: Sourced | None = None
    input_max_v: Sourced | None = Field(default=None, description="Absolute maximum at a pin where a fixed one is stated")
    input_leakage_a: Sourced | None = Field(default=None, description="What an input leaks at most, up or down, where stated")


class PortGroup(Model):
    """Pins of one chip that share a limit."""

    label: str
    pins: tuple[str, ...]
    sink_a: Sourced | None = None
    source_a: Sourced | None = None


class LogicPart(InputLevels):
    """What boards and modules have in common: levels in and out, pins, radios."""

    id: PartId
    label: str
    summary: str
    radios: tuple[Literal["classic", "ble", "wifi"], ...] = ()
    logic_voltage_v: Sourced | None = Field(default=None, description="Level of the pins; absent where it is the rail's own")
    supply_v: Sourced | None = Field(default=None, description="What feeds it past its own regulator: its pins stand at that")
    input_window_v: Sourced | None = Field(default=None, description="What its own regulator takes, least to most")
    regulated_v: Sourced | None = Field(default=None, description="What that makes, where its pins otherwise stand at their rail")
    chip_most_a: Sourced | None = Field(default=None, description="All pins together, absolute")
    port_groups: tuple[PortGroup, ...] = ()
    output_resistance_ohm: Sourced = Field(description="Typical, and most at worst, of a driven pin")
    pin_recommended_a: Sourced
    pin_absolute_a: Sourced | None = None
    pins: Annotated[tuple[Pin, ...], Field(max_length=PINS_MOST)] = ()
    clock_hz: Sourced | None = Field(default=None, description="What its serial times are counted by, with its worst error")
    divides_by_8_or_16: bool = Field(default=False, description="Its serial speeds are its clock by 8 or 16 and a whole number")
    tone_timer: PinLabel | None = Field(default=None, description="Which timer a tone takes from its PWM")
    deaf_on_wifi: tuple[PinLabel, ...] = Field(default=(), description="Converters that read nothing while its Wi-Fi runs")

    @model_validator(mode="after")
    def _pins_differ(self) -> "LogicPart":
        twice = [label for label, count in Counter(pin.label for pin in self.pins).items() if count > 1]
        if twice:
            raise ValueError(f"pins\n{twice[0]}\neach label once; the pin label {twice[0]} stands twice")
        unknown = set(self.deaf_on_wifi) - {pin.converter for pin in self.pins}
        if unknown:
            raise ValueError(f"deaf_on_wifi\n{min(unknown)}\nconverters that read a pin; no pin is read by this one")
        strange = [label for group in self.port_groups for label in group.pins if self.pin(label) is None]
        if strange:
            raise ValueError(
                f"port_groups\n{strange[0]}\npins of this board; a port group names pin {strange[0]}, and there is none"
            )
        return self

    @cached_property
    def usable_pins(self) -> tuple[Pin, ...]:
        """The pins a user may have: all but those that belong to the program's memory."""
        return tuple(pin for pin in self.pins if pin.busy_with != "flash")

    def pin(self, label: str) -> Pin | None:
        """Return the pin with this printed label, or None."""
        return self._by_label.get(label)

    def timer_of(self, label: str | None) -> str | None:
        """Return the timer that makes the PWM of a pin, or None."""
        pin = self._by_label.get(label or "")
        return pin.timer if pin is not None else None

    @cached_property
    def _by_label(self) -> dict[str, Pin]:
        return {pin.label: pin for pin in self.pins}


# Files of boards that were written before these were asked for stay good: what most boards take, give or take.
NOT_TOLD_A: Final = Sourced(value=0.05, least=0.02, most=0.1, source="estimate", conditions="not told; what most boards take")


class BoardPart(LogicPart):
    """A kind of microcontroller board. What it takes itself is without anything that hangs on it."""

    usual_a: Sourced = Field(default=NOT_TOLD_A, description="What it takes on average")
    peak_a: Sourced = Field(default=NOT_TOLD_A, description="What it takes at most, for moments, its own radio included")
    regulator_dropout_v: Sourced | None = Field(default=None, description="How much more its own regulator's input must have")
    regulator_most_a: Sourced | None = Field(default=None, description="What that gives at most")
    regulator_k_w: Sourced | None = Field(default=None, description="From that one's chip to the air, on the board, K/W")
    usb_drop_v: Sourced | None = Field(default=None, description="What a diode behind its USB plug keeps, where it has one")
    is_clock_bound: bool = Field(default=False, description="Whether the least of its supply is what its clock needs")
    route: Route = Field(description="How a program gets onto it")
    supply_3v3_v: Sourced | None = Field(default=None, description="Its 3.3 V output, where it has one")
    supply_3v3_a: Sourced | None = Field(default=None, description="What that output gives at most")
    pwm_frequency_hz: Sourced
    boot_s: Sourced | None = Field(default=None, description="From power-on until its program runs")
    ram_bytes: Annotated[int, Field(ge=1)] = Field(description="Memory for variables; from memory")
    flash_bytes: Annotated[int, Field(ge=1)] | None = Field(default=None, description="Memory for the program; from memory")
    is_deaf_to_pixels: bool = Field(
        default=False, description="Its interrupts are off while its program writes one-wire pixels, and it hears little"
    )
    keeps_memory: bool = Field(default=True, description="It has memory for values that outlasts a power cut; from memory")
    timer_hz: dict[PinLabel, Annotated[float, Field(gt=0)]] = Field(
        default_factory=dict, description="Timers whose PWM runs at another frequency; from memory"
    )
    pwm_steps: Annotated[int, Field(ge=2)] = 256


class Output(Model):
    """What is said to one of a module's own pins; hex where its commands are raw bytes. Duty stands in braces."""

    on: str
    off: str
    duty: str | None = None


class ModulePart(LogicPart):
    """A family of wireless serial modules."""

    roles: tuple[Literal["slave", "master"], ...]
    has_key: bool = Field(default=False, description="A pin that, held up while the power comes, brings its set-up mode")
    name_most_characters: Annotated[int, Field(ge=1)]
    data_speeds_bd: tuple[int, ...]
    default_speed_bd: Sourced
    usual_a: Sourced | None = Field(default=None, description="What it takes while somebody is linked")
    peak_a: Sourced | None = Field(default=None, description="What it takes at most, for moments")
    range_m: Sourced | None = Field(default=None, description="How far a phone may be, m")
    pin_code_digits: tuple[int, ...] = Field(description="How long its PIN may be; none where a password does its work")
    outputs: dict[PinLabel, Output] = Field(default_factory=dict, description="How each of its own pins is driven")
    is_driven_by_bytes: bool = Field(default=False, description="By raw bytes to a control of its own, not by text")
    talks: PartId | None = Field(default=None, description="Whose commands it knows, where another part has the same")
    on_carrier: PartId | None = Field(default=None, description="The same family on a carrier, where this is the bare one")
    wants_pulled: tuple[Literal["enable", "reset"], ...] = Field(default=(), description="Its pins that must not be left open")


class ChipPart(LogicPart):
    """A chip beside the board with pins of its own, told over a bus what they do."""

    wire: Literal["i2c"] = Field(description="The bus it hangs on")
    first_address: Annotated[int, Field(ge=8, le=119)] = Field(description="Of the first of several, 7 bits; from memory")
    addresses: Annotated[int, Field(ge=1, le=112)] = Field(description="How many of them one bus can tell apart; from memory")
    edge_most_s: Sourced = Field(description="Longest rise of its bus")
    pwm_frequency_hz: Sourced | None = Field(default=None, description="At which its outputs dim, where they do")
    usual_a: Sourced | None = Field(default=None, description="What it takes itself")
    tells: Literal["time"] | None = Field(default=None, description="What it tells the board, where it has no outputs")
    caution: str = ""


class LedPart(Model):
    """A colour of LED. ``caution`` where its light can hurt before it looks bright."""

    id: PartId
    label: str
    glow: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
    caution: Literal["infra-red", "ultraviolet"] | None = None
    forward_voltage_v: Sourced
    ideality: Sourced = Field(description="n of the diode curve")
    series_ohm: Sourced = Field(description="Rs of the diode curve, ohm")
    second_voltage_v: Sourced | None = Field(default=None, description="Its drop at a second, smaller current: replaces n")
    second_current_a: Sourced | None = None
    usual_current_a: Sourced
    absolute_current_a: Sourced


class TransistorPart(Model):
    """A switch between pin and load: an NPN by its saturation, a MOSFET by its resistance at a stated gate."""

    id: PartId
    label: str
    kind: Literal["npn", "mosfet"]
    current_most_a: Sourced = Field(description="Collector or drain current it carries")
    blocks_v: Sourced | None = Field(default=None, description="V_CEO or V_DSS: what it blocks at most while it is off")
    saturation_v: Sourced | None = Field(default=None, description="V_CE,sat of an NPN")
    base_emitter_v: Sourced | None = None
    on_ohm: Sourced | None = Field(default=None, description="R_DS(on) of a MOSFET at its specified gate")
    gate_specified_v: Sourced | None = Field(default=None, description="Gate volts at which R_DS(on) is specified")
    gate_threshold_v: Sourced | None = Field(default=None, description="Where it barely starts; never a drive level")

    @model_validator(mode="after")
    def _is_whole(self) -> "TransistorPart":
        npn, mosfet = (self.saturation_v, self.base_emitter_v), (self.on_ohm, self.gate_specified_v)
        if None in (npn if self.kind == "npn" else mosfet):
            raise ValueError("an npn has saturation_v and base_emitter_v, a mosfet on_ohm and gate_specified_v")
        return self


class LoadPart(Model):
    """Something that is switched and sets its own current: relay, buzzer, strip, matrix module."""

    id: PartId
    label: str
    kind: Literal["relay", "relay-module", "buzzer", "strip", "matrix", "motor"]
    voltage_v: Sourced
    works_from_v: Sourced | None = Field(
        default=None, description="Lowest volts it still works at, dimmer; rated ones are voltage_v"
    )
    coil_ohm: Sourced | None = None
    current_a: Sourced | None = Field(default=None, description="Current at its volts; for a strip, of one metre")
    is_coil: bool = False
    tone_hz: Sourced | None = Field(default=None, description="Where it is loudest, and the range it still sounds in")
    is_tone: bool = Field(default=False, description="Sounds at the frequency of its pin; else by itself")
    capacitance_f: Sourced | None = Field(default=None, description="Of a piezo disc, which holds its charge until it is let go")
    optocoupler_v: Sourced | None = Field(default=None, description="Drop of opto-coupler and indicator in an input, V")
    input_ohm: Sourced | None = None
    on_when: Literal["low", "high"] = Field(default="low", description="Level of an opto-input that switches it on")
    input_high_ratio: Sourced | None = None
    rail_ohm: Sourced | None = Field(default=None, description="Of a metre of one of a strip's rails")
    is_mains_side: bool = Field(default=False, description="Its contacts may switch mains")


class PixelPart(InputLevels):
    """An addressable pixel: its data levels, currents, timing and order of colours."""

    id: PartId
    label: str
    kind: Literal["pixels-one-wire", "pixels-clocked"]
    voltage_v: Sourced
    works_from_v: Sourced | None = Field(
        default=None, description="Lowest volts it still works at, dimmer; rated ones are voltage_v"
    )
    colour_current_a: Sourced = Field(description="One colour of one address at full")
    dark_current_a: Sourced
    edge_most_s: Sourced = Field(description="Longest rise of its data line")
    pwm_frequency_hz: Sourced | None = Field(default=None, description="At which its own driver dims")
    rail_ohm: Sourced | None = Field(default=None, description="Of a metre of one of a strip's rails")
    colour_order: ColourOrder
    bytes_each: Annotated[int, Field(ge=3, le=4)]


class ZenerPart(Model):
    """A zener with its knee: volts at stated currents, never an ideal clamp."""

    id: PartId
    label: str
    knee: tuple[tuple[float, float], ...] = Field(description="Pairs of current A and volts V, rising")
    capacitance_f: Sourced
    source: SourceKey


class AirPart(Model):
    """A kind of radio link: how long a message is in the air, and how it is cut up."""

    id: PartId
    label: str
    radio: Literal["classic", "ble", "wifi"]
    latency_s: Sourced
    packet_most_bytes: Annotated[int, Field(ge=1)]


class ResistorPart(Model):
    """A kind of resistor: its tolerance belongs to the part, not to its series."""

    id: PartId
    label: str
    tolerance_ratio: Sourced
    rating_w: Sourced


class Reference(Model):
    """A published source, or one of the three honest words for none."""

    title: str
    revision: str | None = None
    read: str = Field(description="Whether the document was read, or its values recalled")


class Proposal(Model):
    """What Odd Lamp proposes where a plan is silent, and why."""

    part: PartId | None = None
    value: float | None = None
    words: tuple[str, ...] = ()
    pairs: tuple[tuple[float, float], ...] = ()
    why: str
    source: SourceKey


class CatalogChange(Model):
    """One figure of a shipped part that a version of the catalogue changed, and what it was before."""

    version: Version
    table: str
    part: PartId
    figure: str
    was: Sourced
    why: str


class Catalog(Model):
    """All the parts, sources and proposals that the core works with."""

    version: Version
    boards: dict[str, BoardPart]
    modules: dict[str, ModulePart]
    chips: dict[str, ChipPart]
    dialects: dict[str, Dialect]
    leds: dict[str, LedPart]
    sources: dict[str, SourcePart]
    converters: dict[str, ConverterPart]
    airs: dict[str, AirPart]
    resistors: dict[str, ResistorPart]
    transistors: dict[str, TransistorPart]
    loads: dict[str, LoadPart]
    pixels: dict[str, PixelPart]
    zeners: dict[str, ZenerPart]
    references: dict[str, Reference]
    proposals: dict[str, Proposal]
    pin_costs: PinCosts
    takings: Takings
    packages: PackageNames
    code_weights: dict[str, float] = Field(description="What each mark of a printed program takes on an 8-bit chip, bytes")
    program: dict[str, str] = Field(description="The text of a printed program, in parts that are filled")
    visiting: tuple[PartId, ...] = Field(
        default=(), description="Boards of a folder of the user's own, which may be gone one day"
    )
    changes: tuple[CatalogChange, ...] = Field(default=(), description="What versions changed, the newest first")

    def board(self, part: str) -> BoardPart:
        """Return a board; raises UnknownPart."""
        return _found(self.boards, part, "board")

    def module(self, part: str) -> ModulePart:
        """Return a module family; raises UnknownPart."""
        return _found(self.modules, part, "module")

    def dialect(self, part: ModulePart) -> Dialect | None:
        """Return how a family talks, one of the user's own like the shipped one it was copied from; None where it has no commands."""
        return self.dialects.get(part.talks or part.id)

    def own_radio(self, part: BoardPart) -> Dialect | None:
        """Return how the radio on a board is let into a network; None where it has none that joins one."""
        return next((it for it in self.dialects.values() if it.on_board is not None and it.on_board in part.radios), None)

    def chip(self, part: str) -> ChipPart:
        """Return a chip beside the board; raises UnknownPart."""
        return _found(self.chips, part, "chip")

    def led(self, part: str) -> LedPart:
        """Return an LED; raises UnknownPart."""
        return _found(self.leds, part, "LED")

    def transistor(self, part: str) -> TransistorPart:
        """Return a transistor; raises UnknownPart."""
        return _found(self.transistors, part, "transistor")

    def load(self, part: str) -> LoadPart:
        """Return a load; raises UnknownPart."""
        return _found(self.loads, part, "load")

    def pixel(self, part: str) -> PixelPart:
        """Return a pixel; raises UnknownPart."""
        return _found(self.pixels, part, "pixel")

    def source(self, part: str) -> SourcePart:
        """Return a supply; raises UnknownPart."""
        return _found(self.sources, part, "supply")

    def converter(self, part: str) -> ConverterPart:
        """Return a converter; raises UnknownPart."""
        return _found(self.converters, part, "converter")


def _found(table: dict[str, T], part: str, what: str) -> T:
    try:
        return table[part]
    except KeyError:
        raise UnknownPart(field=f"{what} part", given=part, allowed="one of " + ", ".join(sorted(table))) from None


NO_SOURCE: Final = ("from-memory", "common-practice", "estimate")
