"""The trace of a rehearsal: what happened at each stage and when, and the light that came of it."""

from typing import NamedTuple

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.layouts.signs import Manner
from oddlamp.core.words.frames import FieldValue


class TraceEvent(NamedTuple):
    """One thing that happened at a stage. A tuple, because a minute of talk makes thousands.

    ``lost_because`` says why it went no further, ``may_not_because`` why it might not have.
    """

    t_s: float
    stage: str
    ref: str
    bytes_hex: str = ""
    volts: float | None = None
    lost_because: str | None = None
    says: str = ""
    until_s: float | None = None
    duty_ratio: float | None = None
    message: int = 0
    may_not_because: str | None = None


class LampPoint(NamedTuple):
    """Current through a channel and the light it gives, from a moment on."""

    t_s: float
    current_a: float
    light_ratio: float


class PinPoint(NamedTuple):
    """What a pin shows from a moment on: its level, 0 or 1, or where it is dimmed its duty of 255 and the frequency of that."""

    t_s: float
    shows: int
    frequency_hz: float | None = None


class PixelPoint(NamedTuple):
    """What a chain of pixels shows from a moment on: red, green and blue of each in hex, in the order of the wire."""

    t_s: float
    shows: str


class Shown(NamedTuple):
    """What a display shows from a moment on, how, and since when its text moves."""

    t_s: float
    text: str
    manner: Manner = Manner()
    told_s: float = 0.0


class Answered(NamedTuple):
    """A word that has come back to a phone, with what it carries."""

    t_s: float
    handset: str
    talk: str
    word: str
    values: dict[str, FieldValue]


class Saying(NamedTuple):
    """What a host says on one of its ports, and when its first start bit begins."""

    t_s: float
    bytes_hex: str


class Trace(Model):
    """The whole course of a rehearsal."""

    events: tuple[TraceEvent, ...] = Field(description="In order of time; until_s where something takes time")
    lamps: dict[str, tuple[LampPoint, ...]] = Field(
        description="By channel, such as moon.red; mean current in A, and light as the eye sees it, 0 to 1 for the wanted current"
    )
    pins: dict[str, tuple[PinPoint, ...]] = Field(
        default_factory=dict, description="By line, what the pins of boards show, from the moment the program runs"
    )
    pixels: dict[str, tuple[PixelPoint, ...]] = Field(default_factory=dict, description="By chain, what its pixels show")
    shows: dict[str, tuple[Shown, ...]] = Field(default_factory=dict, description="By display, what stands on it")
    said: dict[str, tuple[Saying, ...]] = Field(
        default_factory=dict, description="By direction of a wire, such as serial.b_to_a, what boards say on it"
    )
    answered: tuple[Answered, ...] = Field(default=(), description="What has come back to phones, in order of time")
    asides: frozenset[int] = Field(
        default=frozenset(), description="Messages that a module and its board's program say to each other about others"
    )
    ends_at_s: float
    is_cut_short: bool = Field(description="True where the talk never came to rest and was stopped")
    goes_on: bool = Field(default=False, description="True where something still goes on by itself at its end")

    @property
    def lost(self) -> tuple[TraceEvent, ...]:
        """Everything that got lost on the way."""
        return tuple(event for event in self.events if event.lost_because is not None)


class LampLook(Model):
    """What a lamp looks like from a moment on: its mixed colour, and light as the eye sees it."""

    t_s: float
    colour: str = Field(description="#rrggbb, brought up to full brightness")
    light_ratio: float
    text: str = Field(default="", description="What a display shows")
    pixels: str = Field(
        default="",
        description="Of a chain or a display, each dot: how many bits tell its colour, the colours as rrggbb, and the bits in hex; "
        "where there are more than 16 colours 12 and no list, and each dot as rgb",
    )


class Leg(Model):
    """A message reaching one stage of the line."""

    stage: str
    comes_from: str | None
    at_s: float
    text: str = Field(description="What is read off here: bytes, time, volts, word, pin or current")
    lost_because: str | None = None
    may_not_because: str | None = Field(default=None, description="Why it may not get through here, where that is not sure")


class Journey(Model):
    """One message from where it was said to where it ended, and the sentence that sums it up."""

    message: int
    starts_s: float
    legs: tuple[Leg, ...]
    sentence: str
    is_lost: bool
    is_doubted: bool = Field(description="It may not get through everywhere")


class AnswerShown(Model):
    """What has come back to a phone, in words."""

    t_s: float
    text: str


class LightLook(Model):
    """What a light on a phone shows from a moment on; dark where it has no colour, steady where it has no blink."""

    t_s: float
    label: str
    colour: str | None = Field(description="#rrggbb")
    blink_s: float | None


class Run(Model):
    """A trace as it is shown: the journeys of its last messages, what the lamps look like, and what came back to the phone."""

    journeys: tuple[Journey, ...]
    looks: dict[str, tuple[LampLook, ...]] = Field(
        description="By the stage of a lamp: what it looks like, and from when on; at most twenty times a second"
    )
    answers: tuple[AnswerShown, ...] = Field(description="The last of them")
    lights: dict[str, tuple[LightLook, ...]] = Field(description="By control of a phone: what its light shows, and from when on")
    ends_at_s: float
    is_cut_short: bool
    goes_on: bool = Field(default=False, description="Something still goes on by itself at its end")
