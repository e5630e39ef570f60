"""What happens in a rehearsal: presses, typed lines, inputs, and what befalls a module, each at its time."""

from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter, ValidationError

from oddlamp.core.base import Model
from oddlamp.core.errors import EventsInvalid
from oddlamp.core.plan.document import field_problems, refuse_deep
from oddlamp.core.plan.fields import Id, LineEnding

AtTime = Annotated[float, Field(ge=0, le=86_400)]


Carried = dict[Id, Annotated[int, Field(ge=-32_768, le=65_535)] | Annotated[str, Field(max_length=64)]]


class ControlEvent(Model):
    """A control on the phone is pressed or moved."""

    kind: Literal["control"]
    t_s: AtTime
    control: Id
    node: Id | None = Field(default=None, description="Whose control, where two handsets have one of that id")
    gesture: Literal["press", "release", "on", "off", "move"] = "press"
    values: Carried = Field(default_factory=dict, description="What it was moved to, by the values of its word")


class WordEvent(Model):
    """A word is sent on a talk, as its first node sends it."""

    kind: Literal["word"]
    t_s: AtTime
    talk: Id
    word: Id
    values: Carried = Field(default_factory=dict, description="What it carries")


class LineEvent(Model):
    """A line is typed in the phone's terminal; what the phone adds comes after it."""

    kind: Literal["line"]
    t_s: AtTime
    talk: Id
    text: Annotated[str, Field(max_length=200)]


class InputEvent(Model):
    """Something local is pressed, released, switched, or turned to a value; without one to its other end."""

    kind: Literal["input"]
    t_s: AtTime
    input: Annotated[str, Field(max_length=43, pattern=r"^[a-z][a-z0-9_]*(\.[1-9][0-9]?)?$")] = Field(
        description="An input; of several alike one of them by its number, such as ``touch.3``, else the first"
    )
    event: Literal["pressed", "released", "on", "off", "moved"]
    value: Annotated[float, Field(ge=0, le=1)] | None = Field(
        default=None, description="What is turned, as a share of its whole way"
    )


class PowerEvent(Model):
    """The power of a board is cut, comes back, or its reset is pressed."""

    kind: Literal["power"]
    t_s: AtTime
    node: Id
    does: Literal["off", "on", "reset"]


class LinkEvent(Model):
    """A radio link is lost or comes back, and a program that can know it is told."""

    kind: Literal["link"]
    t_s: AtTime
    link: Id
    does: Literal["lost", "back"]


class ClockEvent(Model):
    """The clock of every board is set to a time of day."""

    kind: Literal["clock"]
    t_s: AtTime
    at: Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d(:[0-5]\d)?$")]


Trouble = Literal["swapped", "no-ground", "speed", "ending", "packets", "noise"]


class TroubleEvent(Model):
    """Something is wrong from now on, or right again: wires swapped, no common ground, a module that speaks at another speed,
    another ending after what the phone sends, packets lost in the air, or a knob that trembles.
    """

    kind: Literal["trouble"]
    t_s: AtTime
    what: Trouble
    where: Id = Field(description="A wire, a module, a handset, a radio link, or an input")
    is_on: bool = True
    share: Annotated[float, Field(ge=0, le=1)] = Field(
        default=0.0, description="Of packets: how many are lost; of a knob: how far it trembles, of its whole way"
    )
    ending: LineEnding | None = None
    baud_bd: Annotated[int, Field(ge=300, le=2_000_000)] | None = None


class WaitEvent(Model):
    """Nothing is done, and what goes on by itself goes on until then."""

    kind: Literal["wait"]
    t_s: AtTime


class StartEvent(Model):
    """How long the boards have been running when the rehearsal begins, ms: their clock begins anew after 2^32."""

    kind: Literal["start"]
    t_s: Literal[0] = 0
    starts_at_ms: Annotated[int, Field(ge=0, lt=2**32)]


class ModuleEvent(Model):
    """Something happens to a module: its power or its key, whoever is linked leaves, or all that was set in it is taken back or set again."""

    kind: Literal["module"]
    t_s: AtTime
    node: Id
    does: Annotated[
        tuple[Literal["power-on", "power-off", "key-up", "key-down", "leave", "as-bought", "set-up"], ...],
        Field(max_length=8, description="One after the other, at once"),
    ]


class BusyEvent(Model):
    """A board's program takes nothing that comes in for a while, as one with a pause in it."""

    kind: Literal["busy"]
    t_s: AtTime
    node: Id
    for_s: Annotated[float, Field(gt=0, le=3600)]


class SpokenEvent(Model):
    """Something is said to a voice helper."""

    kind: Literal["spoken"]
    t_s: AtTime
    node: Id
    text: Annotated[str, Field(max_length=200)]


class CueEvent(Model):
    """A cue is started by hand, to see it by itself on every board that plays it."""

    kind: Literal["cue"]
    t_s: AtTime
    cue: Id


class FeedEvent(Model):
    """A feed says its next line, goes on by itself from it, or stops."""

    kind: Literal["feed"]
    t_s: AtTime
    node: Id
    does: Literal["next", "go-on", "stop"] = "next"


Event = Annotated[
    SpokenEvent
    | FeedEvent
    | CueEvent
    | ControlEvent
    | WordEvent
    | LineEvent
    | InputEvent
    | ModuleEvent
    | BusyEvent
    | PowerEvent
    | LinkEvent
    | ClockEvent
    | WaitEvent
    | StartEvent
    | TroubleEvent,
    Field(discriminator="kind"),
]
_EVENTS: TypeAdapter[tuple[Event, ...]] = TypeAdapter(Annotated[tuple[Event, ...], Field(max_length=20_000)])


def read_events(document: Any) -> tuple[Event, ...]:
    """Read a list of events, or a take as it is shared.

    Raises:
        EventsInvalid: lists every field that cannot be read.
        PlanInvalid: the list is nested deeper than any event is.
    """
    refuse_deep(document, "events")
    if isinstance(document, dict) and document.get("format") == "oddlamp-take":
        document = document.get("events")
    try:
        return _EVENTS.validate_python(document)
    except ValidationError as error:
        problems = tuple(it.model_copy(update={"field": f"events.{it.field}"}) for it in field_problems(error, document))
        raise EventsInvalid(
            field=problems[0].field, given=problems[0].given, allowed=problems[0].allowed, problems=problems
        ) from None
