"""What sets what off: rules, groups of lamps, cues, and what a lamp does when nobody tells it."""

from typing import Annotated, Final, Literal

from pydantic import BeforeValidator, Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, Saying, read_code
from oddlamp.core.plan.quantities import Ratio, Second, Tone
from oddlamp.core.plan.text import FIELD, SENT_MOST, STATE

LONGEST_S: Final = 86_400.0
FADE_LONGEST_S: Final = 3600.0
CUE_MOST: Final = 1000
SPEED_BITS: Final = 4
Delay = Annotated[Second, Field(ge=0, le=LONGEST_S)]
Span = Annotated[Second, Field(ge=0.02, le=LONGEST_S)]
Over = Annotated[Second, Field(ge=0, le=FADE_LONGEST_S)]
Pixel = Annotated[int, Field(ge=0, le=4999)]


class When(Model):
    """What sets a rule off: a word heard, an input's event, an event of a link, a time of day, or an interval."""

    heard: Id | None = None
    input: Id | None = None
    event: Literal["pressed", "released", "on", "off", "moved", "link-lost", "link-back", "power-up"] | None = None
    link: Id | None = None
    at: Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$", description="A time of day, 00:00 to 23:59")] | None = None
    every_s: Annotated[Second, Field(ge=0.1, le=LONGEST_S)] | None = Field(default=None, description="From power-on, s")


class Unless(Model):
    """What has a rule left out: how a lamp is kept, or how an input last counted."""

    lamp: Id | None = None
    input: Id | None = None
    state: Literal["on", "off"] = Field(description="On is pressed, for a button")

    @model_validator(mode="after")
    def _of_one(self) -> "Unless":
        if (self.lamp is None) == (self.input is None):
            raise ValueError(f"lamp\n{self.lamp}\na lamp or an input, and one of them")
        return self


Carried = Annotated[
    str, Field(pattern=r"^\{[a-z][a-z0-9_]{0,39}\}$", description="A value that the word carries, as it stands in it")
]


class ActionValues(Model):
    """How bright, 0 to 1, the input's own value or one that the word carries, and what colour, each likewise.

    ``by_ratio`` is how much brighter, less than 0 for darker; ``text`` what a display shows, ``count`` and ``by_count`` what
    it counts to or by; at their ends they stay or go round.
    """

    level: Ratio | Literal["input"] | Carried | None = None
    red: Ratio | Literal["input"] | Carried | None = None
    green: Ratio | Literal["input"] | Carried | None = None
    blue: Ratio | Literal["input"] | Carried | None = None
    by_ratio: Annotated[float, Field(ge=-1, le=1)] | None = None
    text: Annotated[str, Field(max_length=SENT_MOST, pattern=r"^[ -~]*$")] | None = None
    count: Annotated[int, Field(ge=0, le=9999)] | Carried | None = None
    by_count: Annotated[int, Field(ge=-9999, le=9999)] | None = None
    ends: Literal["stay", "round"] | None = None
    over_s: Over | None = Field(default=None, description="How long it fades, s")
    for_s: Span | None = Field(default=None, description="Of a pulse, s")
    on_s: Span | None = Field(default=None, description="Of blinking: how long it is lit, s")
    off_s: Span | None = Field(default=None, description="Of blinking: how long it is dark, s; as long as it is lit where absent")
    times: Annotated[int, Field(ge=1, le=1000)] | None = Field(default=None, description="Of blinking; for ever where absent")
    speed: Annotated[int, Field(ge=-127, le=127)] | Literal["input"] | Carried | None = Field(
        default=None, description="Of a mover: 0 stops it, less than 0 is back"
    )
    least: Ratio | None = Field(default=None, description="By chance: at least so bright")
    most: Ratio | None = Field(default=None, description="By chance: at most so bright")
    tone_hz: Tone | None = Field(default=None, description="What a buzzer sounds at, Hz; a note such as A4 is read too")
    pattern: Literal["wipe", "chase", "bounce", "random", "rain", "neighbours"] | None = None
    rule: Annotated[int, Field(ge=0, le=255)] | None = Field(
        default=None, description="Of neighbours: what follows from three of them, as the bits of a number; 90 where absent"
    )
    step_s: Span | None = Field(default=None, description="Of a pattern: how long each step of it lasts, s")
    code: Annotated[int, Field(ge=0, lt=2**32)] | None = Field(default=None, description="What an infra-red LED sends")
    input: Id | None = Field(default=None, description="What a display shows the value of; the time of day where absent")
    shows_least: Annotated[int, Field(ge=-999, le=9999)] | None = Field(
        default=None, description="The value's least, as it is shown"
    )
    shows_most: Annotated[int, Field(ge=-999, le=9999)] | None = None
    scroll_s: Annotated[Second, Field(ge=0, le=10)] | None = Field(
        default=None, description="Of a text: how long for each column"
    )
    is_inverted: bool | None = None
    is_reversed: bool | None = None
    first: Pixel | Literal["input"] | None = Field(
        default=None,
        description="The first of the pixels that take a colour, counted from 0; the one at the place of the input that sets the rule off",
    )
    last: Pixel | None = Field(default=None, description="The last of them; the first alone where absent")

    @model_validator(mode="after")
    def _in_order(self) -> "ActionValues":
        for low, high in (("least", "most"), ("first", "last"), ("shows_least", "shows_most")):
            first, last = getattr(self, low), getattr(self, high)
            if first == "input" and last is not None:
                raise ValueError(f"{high}\n{last}\nnone, where the input tells the pixel")
            if first is not None and last is not None and last < first:
                raise ValueError(f"{high}\n{last}\n{first}, the {low}, or more")
        return self

    def carried(self) -> tuple[str, ...]:
        """Return the names of the values it takes from the word."""
        given = (self.level, self.red, self.green, self.blue, self.text, self.count, self.speed)
        return tuple(name for it in given if (name := carried_name(it)) is not None)


def carried_name(given: object) -> str | None:
    """Return the name of a value that the word carries, where that stands there in braces."""
    found = FIELD.fullmatch(given) if isinstance(given, str) else None
    return found[1] if found is not None else None


OF_INPUTS: Final = "value"  # the part of a state that is an input's


def state_name(given: object) -> tuple[str, str] | None:
    """Return the lamp or input, and what of it, that is told as it is now, where that stands there in braces."""
    found = STATE.fullmatch(given) if isinstance(given, str) else None
    return (found[1], found[2]) if found is not None else None


Verb = Literal[
    "on",
    "off",
    "toggle",
    "level",
    "colour",
    "brighter",
    "dimmer",
    "add",
    "cue",
    "next",
    "text",
    "score",
    "remember",
    "restore",
    "say",
    "hold",
    "blink",
    "pulse",
    "random",
    "stop",
    "tone",
    "pattern",
    "send",
    "show",
    "reverse",
    "resume",
    "run",
    "step",
]
OF_CUES: Final = ("cue", "next", "stop")  # verbs whose target is a cue


TURNS: Final = ("reverse", "resume", "stop", "run", "step")  # verbs whose target may be a mover


class Action(Model):
    """One thing a rule does to a lamp, a group or a cue, or says back.

    ``brighter`` and ``dimmer`` go one rung along the lamp's own ladder, ``next`` to the next picture of a cue; ``text`` and
    ``score`` show on a display; ``restore`` brings back what was last remembered; ``stop`` without a target ends everything.
    """

    verb: Verb
    target: Id | None = None
    after_s: Delay | None = Field(default=None, description="Waits so long from when the action before it was due, s")
    values: ActionValues | None = None
    say: Saying | None = None

    @property
    def of_pixels(self) -> bool:
        """Whether it speaks of some pixels of a chain."""
        return self.values is not None and self.values.first is not None

    def carried(self) -> tuple[str, ...]:
        """Return the names of the values it takes from the word that sets it off: for a lamp, or to say them back."""
        said = self.say.fill.values() if self.say is not None else ()
        names = [name for it in said if (name := carried_name(it)) is not None]
        return (*(self.values.carried() if self.values is not None else ()), *names)

    def tells_of(self) -> tuple[str, ...]:
        """Return the lamps that are told as they are now."""
        said = self.say.fill.values() if self.say is not None else ()
        return tuple(state[0] for it in said if (state := state_name(it)) is not None and state[1] != OF_INPUTS)


class Rule(Model):
    """When this, do that, on one host."""

    host: Id
    when: When
    unless: Unless | None = None
    do: Annotated[tuple[Action, ...], Field(max_length=200)] = ()

    @model_validator(mode="after")
    def _has_a_place(self) -> "Rule":
        for at, action in enumerate(self.do):
            if self.when.input is None and action.values is not None and action.values.first == "input":
                raise ValueError(f"do.{at}.values.first\ninput\na pixel: no input sets this rule off")
        return self


class Group(Model):
    """Lamps spoken of together."""

    label: Label | None = None
    members: tuple[Id, ...] = ()
    never_together: bool | None = None


class CueStep(Model):
    """One step of a cue: lamps in a brightness, a colour, or some pixels of a chain in a colour."""

    after_s: Delay = 0.0
    fade_s: Over | None = None
    level: Ratio | None = None
    red: Ratio | None = None
    green: Ratio | None = None
    blue: Ratio | None = None
    first: Pixel | None = None
    last: Pixel | None = None
    target: Id

    @model_validator(mode="after")
    def _in_order(self) -> "CueStep":
        if self.first is not None and self.last is not None and self.last < self.first:
            raise ValueError(f"last\n{self.last}\n{self.first}, the first, or more")
        return self


class Cue(Model):
    """Steps with times, once or over and over."""

    label: Label | None = None
    steps: Annotated[tuple[CueStep, ...], Field(max_length=CUE_MOST)] = ()
    loop: bool | None = None


class MoverCodes(Model):
    """The codes of the speeds of something that an infra-red LED moves: the first one with a speed added to it, as that is written."""

    first_code: Annotated[int, BeforeValidator(read_code), Field(ge=0, le=0xFFFF_0000)] | None = Field(
        default=None, description="What a speed is added to; hexadecimal text such as 0x20DF00 is read too"
    )
    speeds: Annotated[int, Field(ge=1, le=127)] | None = Field(default=None, description="How many each way")
    bits: Literal[4, 8, 16] | None = None
    signed: Literal["twos-complement", "offset"] | None = None

    @model_validator(mode="after")
    def _fits(self) -> "MoverCodes":
        if self.speeds is not None and self.speeds > 2 ** ((self.bits or SPEED_BITS) - 1) - 1:
            raise ValueError(
                f"speeds\n{self.speeds}\nat most {2 ** ((self.bits or SPEED_BITS) - 1) - 1} in {self.bits or SPEED_BITS} bits"
            )
        return self


class Mover(Model):
    """Something that runs ahead and back, with a pause between: two lamps that are never on together, or codes of an infra-red LED."""

    label: Label | None = None
    ahead: Id | None = None
    back: Id | None = None
    sender: Id | None = Field(default=None, description="An infra-red LED, where codes move it")
    codes: MoverCodes | None = None
    pause_s: Annotated[Second, Field(ge=0.02, le=60)] | None = None

    @model_validator(mode="after")
    def _of_two_or_of_codes(self) -> "Mover":
        if (self.ahead is None) != (self.back is None) or (self.ahead is None) == (self.sender is None):
            raise ValueError(f"ahead\n{self.ahead}\na lamp for each way, or a sender of codes")
        return self

    @property
    def lamps(self) -> tuple[str, ...]:
        """The lamps it is made of: one for each way, or the one that sends its codes."""
        return tuple(it for it in (self.ahead, self.back, self.sender) if it is not None)


class Standing(Model):
    """What a lamp does when nobody tells it."""

    power_up: Literal["off", "on", "last"] | None = None
    link_lost: Literal["off", "on", "keep"] | None = None
    power_cut: Literal["off", "on", "last"] | None = None
    winner: Literal["last-moved", "phone", "local"] | None = None
    thresholds: dict[Id, Ratio] = Field(default_factory=dict)
