"""One pin of a board as a model, and the table of what a pin costs a line that could have another."""

from functools import cached_property
from typing import Annotated, Final, Literal

from pydantic import ConfigDict, Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.parts.sourced import SourceKey
from oddlamp.core.plan.columns import is_span

Ability = Literal[
    "digital-out", "digital-in", "pwm", "analog-in", "analog-out", "uart-rx", "uart-tx", "software-serial-in", "interrupt",
    "two-wire-data", "two-wire-clock", "spi-out", "spi-in", "spi-clock",
]  # fmt: skip
PinLabel = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_+.-]{0,11}$")]
PINS_MOST: Final = 200
Level = Literal["low", "high"]
AtStart = Literal["floats", "high", "low", "pulses", "talks"]


class Pin(Model):
    """One pin: printed label, the chip's own number, what it can do and by which part of the chip, and what hangs on it or happens there."""

    label: PinLabel
    chip: Annotated[int, Field(ge=0, le=999)] | None = None
    can: tuple[Ability, ...]
    timer: PinLabel | None = Field(default=None, description="Which timer makes its PWM; absent where the program makes it")
    channel: PinLabel | None = Field(default=None, description="Which output of that timer")
    port: Annotated[int, Field(ge=0, le=9)] | None = Field(default=None, description="Which serial port it belongs to")
    converter: PinLabel | None = Field(default=None, description="Which converter reads it, where there are several")
    row: Literal["top", "right", "bottom"] = Field(description="Edge of the board seen from above, USB to the left")
    strap: Level | None = Field(default=None, description="Level it must have while the chip starts")
    strap_stops: bool = Field(default=True, description="Whether the chip does not run with the other level; else less suffers")
    board_pull: Literal["up", "down"] | None = None
    board_pull_ohm: Annotated[float, Field(gt=0)] | None = None
    busy_with: Literal["upload", "status-led", "flash", "reset", "usb", "programming"] | None = None
    at_start: AtStart = Field(default="floats", description="What drives it from power-on until the program runs")
    source: SourceKey

    @cached_property
    def abilities(self) -> frozenset[Ability]:
        """What it can do, to ask whether that is enough."""
        return frozenset(self.can)

    @property
    def is_quiet_at_start(self) -> bool:
        """Tell whether nothing of the chip's own drives it until the program runs."""
        return self.at_start == "floats"

    @model_validator(mode="after")
    def _is_whole(self) -> "Pin":
        for field, is_wrong, allowed in (
            ("label", is_span(self.label), "a label that does not read as a run of pins"),
            (
                "board_pull_ohm",
                (self.board_pull is None) != (self.board_pull_ohm is None),
                "a pull of the board and its ohm stand together",
            ),
            ("channel", (self.timer is None) != (self.channel is None), "a timer and its channel stand together"),
            ("timer", self.timer is not None and "pwm" not in self.can, "a timer, and it cannot do pwm"),
            (
                "port",
                self.port is None and bool({"uart-rx", "uart-tx"} & self.abilities),
                "a serial line wants the port it belongs to",
            ),
            ("can", len(self.abilities) != len(self.can), "an ability stands twice"),
        ):
            if is_wrong:  # where, what was given, what is allowed
                given = getattr(self, field)
                raise ValueError(
                    f"{field}\n{'nothing' if given is None else given}\nwhat goes together on pin {self.label}: {allowed}"
                )
        return self


class Taking(Model):
    """What the printed program takes of a board for one thing it does."""

    what: str
    timer: Literal["tone"] | None = Field(default=None, description="Which of the board's timers it takes, by its use there")
    wishes: Ability | None = Field(default=None, description="What its pin had better be able to do")
    deaf_s_each: Annotated[float, Field(gt=0)] | None = Field(
        default=None, description="How long it hears nothing for each of them: a pixel, a burst of a code; s"
    )
    is_one_at_a_time: bool = Field(default=False, description="Whether a second such line is not heard beside it")
    source: SourceKey


class Takings(Model):
    """The one table of what the printed program takes."""

    model_config = ConfigDict(alias_generator=lambda name: name.replace("_", "-"))

    tone: Taking
    remote: Taking
    code_sender: Taking
    pixels_one_wire: Taking
    software_serial: Taking


class PinCost(Model):
    """What it costs a line to have a pin of some kind, against another pin it could have, and why."""

    cost: Annotated[int, Field(ge=0, le=1000)]
    why: str


class PinCosts(Model):
    """The table of what a pin costs; common practice."""

    model_config = ConfigDict(alias_generator=lambda name: name.replace("_", "-"))

    strap: PinCost
    no_pull: PinCost
    upload: PinCost
    reset: PinCost
    usb: PinCost
    programming: PinCost
    status_led: PinCost
    moves: PinCost
    wish: PinCost
    wish_interrupt: PinCost
    apart: PinCost
    port: PinCost
    spare_pwm: PinCost
    spare_serial: PinCost
    spare_analog: PinCost
    spare_interrupt: PinCost
