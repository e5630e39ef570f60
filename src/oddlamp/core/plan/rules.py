"""What sets what off: rules, groups of lamps, cues, and what a lamp does when nobody tells it."""

from typing import Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, Saying
from oddlamp.core.plan.quantities import Ratio, Second


class When(Model):
    """What sets a rule off: a word heard, an input's event, or an event of a link."""

    heard: Id | None = None
    input: Id | None = None
    event: Literal["pressed", "released", "on", "off", "moved", "link-lost", "link-back", "power-up"] | None = None
    link: Id | None = None


class ActionValues(Model):
    """How bright, 0 to 1 or the input's own value, and what colour, each 0 to 1."""

    level: Ratio | Literal["input"] | None = None
    red: Ratio | None = None
    green: Ratio | None = None
    blue: Ratio | None = None


class Action(Model):
    """One thing a rule does to a lamp, a group or a cue, or says back."""

    verb: Literal["on", "off", "toggle", "level", "colour", "cue", "say"]
    target: Id | None = None
    values: ActionValues | None = None
    say: Saying | None = None


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
