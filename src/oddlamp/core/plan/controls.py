"""What is on the phone: things to press and move, with what they say, and lights that show what is answered."""

from typing import Annotated, Final, Literal

from pydantic import BeforeValidator, Field, StringConstraints, model_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, Saying, read_code
from oddlamp.core.plan.quantities import Second
from oddlamp.core.plan.rules import state_name

ControlKind = Literal["button", "toggle", "slider", "colour", "stick", "number", "text", "light", "key", "phrase"]
HANDSETS: Final = ("phone", "computer", "remote", "voice", "feed")
PHRASES_MOST: Final = 12
Phrase = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
Shade = Literal["dark", "red", "amber", "yellow", "green", "blue", "white"]
COLOURS: Final[dict[Shade, str | None]] = {
    "dark": None,
    "red": "#ff5a4d",
    "amber": "#ffa63d",
    "yellow": "#ffcf4d",
    "green": "#5ed08a",
    "blue": "#7fa8ff",
    "white": "#ffffff",
}


def parted(given: object) -> object:
    """Take a text parted by semicolons apart."""
    return [it.strip() for it in given.split(";") if it.strip()] if isinstance(given, str) else given


class LightState(Model):
    """One state of a light on the phone: the answer that brings it, with one value of it between bounds; its colour and its blink.

    ``blink_s`` is how long it takes from one flash to the next; steady where there is none.
    """

    word: Id
    value: Id | None = None
    least: int | None = None
    most: int | None = None
    label: Label | None = None
    shade: Shade = "yellow"
    blink_s: Annotated[Second, Field(ge=0.1, le=10)] | None = None

    @model_validator(mode="after")
    def _bounds_are_of_a_value(self) -> "LightState":
        if self.value is None and (self.least is not None or self.most is not None):
            raise ValueError("value\nnone\nwhich value of the word lies between these bounds")
        if self.least is not None and self.most is not None and self.most < self.least:
            raise ValueError(f"most\n{self.most}\n{self.least}, the least, or more")
        return self


class Control(Model):
    """Something on the phone: pressed or moved, with what it says for each gesture; or a light, with what it shows.

    A key of a remote is known by the ``code`` it was learned with, a phrase by the ``phrases`` that are said for it. Of a light's ``states`` the first that an answer fits holds. ``shows`` lights a button itself, by the answers that do.
    """

    kind: ControlKind
    label: Label | None = None
    says: dict[Literal["press", "release", "on", "off", "move"], Saying] = Field(default_factory=dict)
    shows: dict[Id, Id] = Field(default_factory=dict)
    states: tuple[LightState, ...] = Field(default=(), max_length=16)
    phrases: Annotated[tuple[Phrase, ...], BeforeValidator(parted), Field(max_length=PHRASES_MOST)] = Field(
        default=(), description="What is said for it to a voice helper; text parted by semicolons is read too"
    )
    code: Annotated[int, BeforeValidator(read_code), Field(ge=0, le=0xFFFF_FFFF)] | None = Field(
        default=None, description="What a remote's key sends, as it was learned; hexadecimal text such as 0x20DF is read too"
    )
    interval_s: Second | None = None
    sends: Literal["moving", "at-rest"] | None = Field(
        default=None, description="Whether something that is moved says its word all the while, or once it rests"
    )
    is_held: bool | None = Field(default=None, description="A button that is meant to be held: letting go says a word too")

    @model_validator(mode="after")
    def _knows_no_lamp(self) -> "Control":
        for gesture, saying in self.says.items():
            for given in saying.fill.values():
                if state_name(given) is not None:
                    raise ValueError(f"says.{gesture}.fill\n{given}\na number or a text: a phone does not know how a lamp is")
        return self
