"""What sets what off: rules, groups of lamps, cues, and what a lamp does when nobody tells it."""

from typing import Annotated, Final, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, Saying
from oddlamp.core.plan.quantities import Ratio, Second
from oddlamp.core.plan.text import FIELD, SENT_MOST, STATE


class When(Model):
    """What sets a rule off: a word heard, an input's event, or an event of a link."""

    heard: Id | None = None
    input: Id | None = None
    event: Literal["pressed", "released", "on", "off", "moved", "link-lost", "link-back", "power-up"] | None = None
    link: Id | None = None


Carried = Annotated[
    str, Field(pattern=r"^\{[a-z][a-z0-9_]{0,39}\}$", description="A value that the word carries, as it stands in it")
]


class ActionValues(Model):
    """How bright, 0 to 1, the input's own value or one that the word carries, and what colour, each likewise.

    ``by_ratio`` is how much brighter, less than 0 for darker; ``text`` what a display shows, ``count`` and ``by_count`` what
    it counts to or by; at their ends they stay or go round.
    """

    level: Ratio | Literal["input"] | Carried | None = None
    red: Ratio | Carried | None = None
    green: Ratio | Carried | None = None
    blue: Ratio | Carried | None = None
    by_ratio: Annotated[float, Field(ge=-1, le=1)] | None = None
    text: Annotated[str, Field(max_length=SENT_MOST, pattern=r"^[ -~]*$")] | None = None
    count: Annotated[int, Field(ge=0, le=9999)] | Carried | None = None
    by_count: Annotated[int, Field(ge=-9999, le=9999)] | None = None
    ends: Literal["stay", "round"] | None = None

    def carried(self) -> tuple[str, ...]:
        """Return the names of the values it takes from the word."""
        given = (self.level, self.red, self.green, self.blue, self.text, self.count)
        return tuple(name for it in given if (name := carried_name(it)) is not None)


def carried_name(given: object) -> str | None:
    """Return the name of a value that the word carries, where that stands there in braces."""
    found = FIELD.fullmatch(given) if isinstance(given, str) else None
    return found[1] if found is not None else None


def state_name(given: object) -> tuple[str, str] | None:
    """Return the lamp, and what of it, that is told as it is now, where that stands there in braces."""
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
]
OF_CUES: Final = ("cue", "next")  # verbs whose target is a cue


class Action(Model):
    """One thing a rule does to a lamp, a group or a cue, or says back.

    ``brighter`` and ``dimmer`` go one rung along the lamp's own ladder, ``next`` to the next picture of a cue; ``text`` and
    ``score`` show on a display; ``restore`` brings back what was last remembered.
    """

    verb: Verb
    target: Id | None = None
    values: ActionValues | None = None
    say: Saying | None = None

    def carried(self) -> tuple[str, ...]:
        """Return the names of the values it takes from the word that sets it off: for a lamp, or to say them back."""
        said = self.say.fill.values() if self.say is not None else ()
        names = [name for it in said if (name := carried_name(it)) is not None]
        return (*(self.values.carried() if self.values is not None else ()), *names)

    def tells_of(self) -> tuple[str, ...]:
        """Return the lamps that are told as they are now."""
        said = self.say.fill.values() if self.say is not None else ()
        return tuple(state[0] for it in said if (state := state_name(it)) is not None)


class Rule(Model):
    """When this, do that, on one host."""

    host: Id
    when: When
    do: tuple[Action, ...] = ()


class Group(Model):
    """Lamps spoken of together."""

    label: Label | None = None
    members: tuple[Id, ...] = ()
    never_together: bool | None = None


class CueStep(Model):
    """One step of a cue."""

    after_s: Second = 0.0
    fade_s: Second | None = None
    level: Ratio | None = None
    target: Id


class Cue(Model):
    """Steps with times, once or over and over."""

    label: Label | None = None
    steps: tuple[CueStep, ...] = ()
    loop: bool | None = None


class Standing(Model):
    """What a lamp does when nobody tells it."""

    power_up: Literal["off", "on", "last"] | None = None
    link_lost: Literal["off", "on", "keep"] | None = None
    power_cut: Literal["off", "on", "last"] | None = None
    winner: Literal["last-moved", "phone", "local"] | None = None
    thresholds: dict[Id, Ratio] = Field(default_factory=dict)
