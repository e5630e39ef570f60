"""A board of the user's own as the plan keeps it: its pin table by columns, and what is no figure of it."""

import re
from collections import Counter
from collections.abc import Mapping
from typing import Annotated, Any, Final, Literal

from pydantic import BeforeValidator, Field, ValidationInfo, field_validator, model_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.columns import (
    LABEL,
    PINS_MOST,
    Names,
    Run,
    is_span,
    read_grouped,
    read_numbers,
    read_rates,
    read_run,
    read_words,
    strangers,
    write_grouped,
    write_numbers,
    write_rates,
    write_run,
)
from oddlamp.core.plan.quantities import Ampere

Route = Literal["usb", "usb-native", "usb-drive", "usb-plugged-in", "adapter", "programmer", "over-the-air"]
EDGES: Final = ("top", "right", "bottom")
RUNS: Final = (
    "only_in", "only_out", "not_digital", "pwm", "volts", "makes_volts", "software_serial", "interrupt", "mild_straps",
)  # fmt: skip
WORD: Final = r"[A-Za-z0-9][A-Za-z0-9_+.-]{0,11}"
BUSY: Final = {
    "upload": "upload", "LED": "status-led", "memory": "flash", "reset": "reset", "USB": "usb", "programming": "programming",
}  # fmt: skip
GROUPED: Final[dict[str, Names]] = {
    "timers": Names("2: 11/3", rf"{WORD}\.{WORD}", parts=("A", "B", "C", "D")),
    "converters": Names("1: A0-A5", WORD),
    "serial": Names("0: 0/1", r"\d\.(hears|speaks)", parts=("hears", "speaks"), is_counted=True),
    "two_wire": Names("A4/A5", "data|clock", parts=("data", "clock")),
    "spi": Names("11/12/13", "out|in|clock", parts=("out", "in", "clock")),
    "straps": Names("high: 0 2; low: 15", "high|low", {it: it for it in ("high", "low")}),
    "pulls": Names("up 12k: D3 D4; down 12k: D8", r"(up|down) \d[\d.e+]{0,12}", {"up": "up", "down": "down"}),
    "busy": Names("upload: 0 1; LED: 13", "|".join(BUSY.values()), BUSY),
    "at_start": Names("high: D0; pulses: D3", "high|low|pulses|talks", {it: it for it in ("high", "low", "pulses", "talks")}),
    "sources": Names("from-memory: 0-13", r"[a-z0-9][a-z0-9-]{0,59}"),
}
# In these a pin can stand once only: it has one timer, one level it must have, one thing that hangs on it.
ONCE: Final = ("timers", "converters", "straps", "pulls", "busy", "at_start", "sources")
# What each column is called, on its sheet and in the history.
LABELS: Final = {
    "top": "Along the upper edge",
    "right": "In a block at the right",
    "bottom": "Along the lower edge",
    "numbers": "The chip's own numbers",
    "pwm": "Dim (PWM)",
    "timers": "Timers of those",
    "volts": "Read volts",
    "converters": "Converters of those",
    "makes_volts": "Make volts",
    "serial": "Serial ports",
    "software_serial": "Hear serial words in software",
    "interrupt": "Wake the program",
    "two_wire": "Two-wire",
    "spi": "SPI",
    "only_in": "Inputs only",
    "only_out": "Outputs only",
    "not_digital": "Volts only",
    "straps": "Read at start-up",
    "mild_straps": "Of those, only a nuisance",
    "pulls": "Resistors on the board",
    "at_start": "Moved by the chip itself",
    "busy": "Taken on the board",
    "sources": "Not from you",
    "route": "Its program comes by",
    "ram_bytes": "Memory for variables, bytes",
    "flash_bytes": "Memory for the program, bytes",
    "timer_hz": "Timers with another frequency",
    "pwm_steps": "Steps of its PWM",
    "tone_timer": "A tone takes timer",
    "radios": "Radio on it",
    "deaf_on_wifi": "Converters deaf beside Wi-Fi",
    "limits": "Pins that share a limit",
}
PinName = Annotated[str, Field(max_length=12)]
Pins = tuple[PinName, ...]
Grouped = dict[Annotated[str, Field(max_length=60)], Pins]
PartName = Annotated[str, Field(pattern=rf"^{WORD}$")]


class SharedLimit(Model):
    """Pins of the chip that share a limit."""

    pins: Pins
    sink_a: Ampere | None = None
    source_a: Ampere | None = None


class OwnBoard(Model):
    """A board's pin table, each column told for all pins at once; text is read as it is typed.

    Edges hold every pin once, as printed, seen from above with the USB to the left. All other columns name pins of the
    edges. A pin is an output and an input unless a column says otherwise, and floats until the program runs.
    """

    summary: Annotated[str, Field(max_length=300)] = ""
    route: Route = "usb"
    radios: Annotated[tuple[Literal["classic", "ble", "wifi"], ...], BeforeValidator(read_words)] = ()
    ram_bytes: Annotated[int, Field(ge=1, le=10**9)]
    flash_bytes: Annotated[int, Field(ge=1, le=10**9)] | None = None
    timer_hz: Annotated[dict[PartName, Annotated[float, Field(gt=0, le=1e6)]], BeforeValidator(read_rates)] = Field(
        default_factory=dict, description="Timers whose PWM runs at another frequency than the board's figure"
    )
    pwm_steps: Annotated[int, Field(ge=2, le=65536)] = 256
    divides_by_8_or_16: bool = False
    is_deaf_to_pixels: bool = False
    is_clock_bound: bool = False
    keeps_memory: bool = True
    tone_timer: PartName | None = None
    deaf_on_wifi: Annotated[tuple[PartName, ...], BeforeValidator(read_words)] = ()
    top: Pins = Field(default=(), description="Pins along the upper edge, from the left")
    right: Pins = Field(default=(), description="Pins in a block at the right edge")
    bottom: Pins = Field(default=(), description="Pins along the lower edge")
    numbers: dict[PinName, Annotated[int, Field(ge=0, le=999)]] = Field(
        default_factory=dict, description="Label to the chip's own"
    )
    only_in: Pins = Field(default=(), description="Read high or low, never driven")
    only_out: Pins = ()
    not_digital: Pins = Field(default=(), description="Neither driven nor read as high or low: volts only")
    pwm: Pins = ()
    timers: Grouped = Field(default_factory=dict, description="timer.output to the pins it makes the PWM of")
    volts: Pins = Field(default=(), description="Pins that read volts")
    converters: Grouped = Field(default_factory=dict, description="Converter to the pins it reads, where there are several")
    makes_volts: Pins = ()
    serial: Grouped = Field(default_factory=dict, description="port.hears and port.speaks to their pins")
    software_serial: Pins = Field(default=(), description="Pins that hear serial words in software, where not all do")
    two_wire: Grouped = Field(default_factory=dict, description="data and clock to their pins")
    spi: Grouped = Field(default_factory=dict, description="out, in and clock to their pins")
    interrupt: Pins = ()
    straps: Grouped = Field(default_factory=dict, description="Level the chip must find at start-up to the pins it reads then")
    mild_straps: Pins = Field(default=(), description="Those of the straps that only change what else it does")
    pulls: Grouped = Field(default_factory=dict, description="up or down and its ohm to the pins it hangs on")
    busy: Grouped = Field(default_factory=dict, description="What of the board's own hangs there")
    at_start: Grouped = Field(default_factory=dict, description="What drives a pin from power-on until the program runs")
    sources: Grouped = Field(default_factory=dict, description="Where the facts of a pin are from, if not from the user")
    limits: dict[Annotated[str, Field(min_length=1, max_length=40)], SharedLimit] = Field(default_factory=dict)

    @property
    def pins(self) -> Run:
        """All labels, edge by edge."""
        return (*self.top, *self.right, *self.bottom)

    @model_validator(mode="before")
    @classmethod
    def _let_go(cls, given: Any) -> Any:
        """Let go what columns say of pins that are typed off the edges now: an edge is told first, and wins."""
        if not isinstance(given, Mapping) or not any(isinstance(given.get(edge), str) for edge in EDGES):
            return given
        try:
            edges = [_edge(given.get(edge) or ()) for edge in EDGES]
        except ValueError:
            return given  # the edge itself tells what is wrong
        there = {label for it in edges if isinstance(it, list | tuple) for label in it if isinstance(label, str)}
        out = dict(given)
        for name in RUNS:
            out[name] = _kept(out.get(name), there)
        for name in (*GROUPED, "numbers"):
            if isinstance(out.get(name), Mapping):
                held = out[name]
                out[name] = (
                    {label: it for label, it in held.items() if label in there}
                    if name == "numbers"
                    else {key: run for key, labels in held.items() if (run := _kept(labels, there))}
                )
        limits = out.get("limits")
        if isinstance(limits, Mapping):
            out["limits"] = {
                key: {**it, "pins": _kept(it.get("pins"), there)} if isinstance(it, Mapping) else it for key, it in limits.items()
            }
        return {key: it for key, it in out.items() if it is not None}

    @field_validator(*EDGES, mode="before")
    @classmethod
    def _read_edge(cls, given: object, info: ValidationInfo) -> object:
        labels = _edge(given)
        if not isinstance(labels, list | tuple):
            return labels
        before = [label for edge in EDGES for label in info.data.get(edge, ())]
        twice = [label for label, count in Counter([*before, *labels]).items() if count > 1]
        strange = [label for label in labels if not isinstance(label, str) or not LABEL.fullmatch(label) or is_span(label)]
        if strange:
            raise ValueError(f"pins as they are printed, at most 12 letters, digits and _ + . -; not {str(strange[0])[:20]!r}")
        if twice:
            raise ValueError(f"each pin once; {twice[0]} stands twice")
        if len(before) + len(labels) > PINS_MOST:
            raise ValueError(f"at most {PINS_MOST} pins; these are {len(before) + len(labels)}")
        return labels

    @field_validator(*RUNS, mode="before")
    @classmethod
    def _read_column(cls, given: object, info: ValidationInfo) -> object:
        run = read_run(given, _there(info) or ()) if isinstance(given, str) else given
        _refuse_strangers(run, info)
        return tuple(dict.fromkeys(run)) if isinstance(run, list | tuple) else run

    @field_validator(*GROUPED, mode="before")
    @classmethod
    def _read_groups(cls, given: object, info: ValidationInfo) -> object:
        name = info.field_name or ""
        groups = read_grouped(given, GROUPED[name], _there(info) or ()) if isinstance(given, str) else given
        if not isinstance(groups, Mapping):
            return groups
        for key, run in groups.items():
            if not isinstance(key, str) or not re.fullmatch(GROUPED[name].pattern, key):
                raise ValueError(f"pins under a name, such as {GROUPED[name].told}; not {str(key)[:20]!r}")
            _refuse_strangers(run, info)
        labels = [str(label) for run in groups.values() if isinstance(run, list | tuple) for label in run]
        twice = [label for label, count in Counter(labels).items() if count > 1]
        if twice and name in ONCE:
            raise ValueError(f"each pin once; {twice[0]} stands under two")
        without = [label for label in labels if name == "timers" and label not in info.data.get("pwm", ())]
        if without:
            raise ValueError(f"timers of pins that dim; {without[0]} does not yet")
        return groups

    @field_validator("numbers", mode="before")
    @classmethod
    def _read_numbers(cls, given: object, info: ValidationInfo) -> object:
        numbers = read_numbers(given, _there(info) or ()) if isinstance(given, str) else given
        _refuse_strangers(list(numbers) if isinstance(numbers, Mapping) else (), info)
        return numbers

    @field_validator("limits")
    @classmethod
    def _limits_stand(cls, given: dict[str, SharedLimit], info: ValidationInfo) -> dict[str, SharedLimit]:
        for it in given.values():
            _refuse_strangers(it.pins, info)
        return given


def column_text(name: str, value: Any, pins: Run = ()) -> str:
    """Write a column as it is typed; empty where nothing is told in it."""
    if not value:
        return ""
    if name == "numbers":
        return write_numbers(value, pins)
    if name in GROUPED:
        return write_grouped(value, GROUPED[name], pins)
    if name == "timer_hz":
        return write_rates(value)
    if name in RUNS or name in EDGES:
        return write_run(value, pins if name in RUNS else ())
    return (
        " ".join(map(str, value))
        if isinstance(value, list | tuple)
        else ", ".join(value)
        if isinstance(value, Mapping)
        else str(value)
    )


def _edge(given: object) -> object:
    return read_run(given) if isinstance(given, str) else given


def _kept(given: Any, there: set[str]) -> Any:
    return [label for label in given if label in there] if isinstance(given, list | tuple) else given


def _there(info: ValidationInfo) -> Run | None:
    """Return the pins of all edges; None where one of them was refused, which is then told first."""
    if any(edge not in info.data for edge in EDGES):
        return None
    return tuple(label for edge in EDGES for label in info.data[edge])


def _refuse_strangers(run: object, info: ValidationInfo) -> None:
    there = _there(info)
    missing = strangers([str(it) for it in run], there) if isinstance(run, list | tuple) and there is not None else ""
    if there is not None and missing:
        raise ValueError(f"pins of its edges: {write_run(there) or 'none yet, type them first'}; not {missing[:60]}")
