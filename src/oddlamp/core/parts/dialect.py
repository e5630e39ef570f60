"""What a family of modules understands and answers, as data: commands, replies, what they change, and the family's quirks."""

import re
from collections.abc import Mapping
from typing import Annotated, Final, Literal

from pydantic import Field as Described
from pydantic import model_validator

from oddlamp.core.base import Model, si
from oddlamp.core.parts.sourced import SourceKey
from oddlamp.core.plan.fields import PartId
from oddlamp.core.plan.text import short_address
from oddlamp.core.words.frames import Field, FieldValue, Frame

Setting = Annotated[str, Described(pattern=r"^[a-z][a-z_]{0,19}$")]
Kept = str | int
Need = Literal[
    "key", "linked", "initialised", "uninitialised", "paired", "own-network", "guest", "known-network", "many", "serving"
]
Deed = Literal["initialise", "restart", "factory", "forget", "unlink", "link", "pair", "take"]


ENDINGS: Final = {"none": b"", "cr-lf": b"\r\n"}


class Command(Model):
    """One command: how it is sent, what it wants, what it answers and what it changes.

    ``answer`` may name settings and the command's own fields in braces. ``needs`` that are not met give ``otherwise``,
    silence where there is none. ``keeps`` are fields kept as settings of the same name.
    """

    send: str
    fields: dict[str, Field] = Described(default_factory=dict)
    answer: tuple[str, ...] = ("OK",)
    needs: tuple[Need, ...] = ()
    otherwise: str | None = None
    refused: str | None = Described(default=None, description="What it answers to a value that cannot be")
    keeps: tuple[Setting, ...] = ()
    does: Deed | None = None
    takes_s: Annotated[float, Described(ge=0)] = Described(
        default=0.0, description="How long it is busy with it before it answers, s"
    )
    sets: str | None = Described(
        default=None, description="Which of its pins it drives, the last of its fields being the level or duty; a field in braces"
    )
    is_hex: bool = Described(
        default=False, description="Whether it is raw bytes, and is written to the module's control, not said on its wire"
    )

    @property
    def frame(self) -> Frame:
        """Its shape on the wire."""
        return Frame(template=self.send, fields=self.fields, is_hex=self.is_hex)

    @model_validator(mode="after")
    def _is_whole(self) -> "Command":
        missing = set(self.keeps) - set(self.frame.fields)
        if missing:
            raise ValueError(f"{self.send} keeps {min(missing)}, which is no field of it")
        return self


class Boot(Model):
    """What it says whenever it starts: a text at a speed of its own, and what tells that it is there."""

    text: str
    speed_bd: Annotated[int, Described(gt=0)]
    ready: str


class Blink(Model):
    """How the status LED blinks in a state: lit and dark by turns, s; none of them is dark, one alone is steady."""

    turns_s: tuple[Annotated[float, Described(gt=0, le=10)], ...] = ()

    @property
    def text(self) -> str:
        """Say how it goes: dark, steady, or each turn."""
        if len(self.turns_s) < 2:
            return "steady" if self.turns_s else "dark"
        return ", ".join(f"{si(it, 's')} {('lit', 'dark')[at % 2]}" for at, it in enumerate(self.turns_s))


class Join(Model):
    """One way a radio on a board is let into a network: how long its button is held for it, and what its LED shows meanwhile."""

    held_s: Annotated[float, Described(gt=0, le=60)]
    means: str
    by: Literal["handed", "asked"] = Described(
        description="Whether a phone hands it the network, or its own network's page asks for it"
    )
    blink: Blink


class Remote(Model):
    """Which setting, at which value, lets whoever is linked say commands over the air."""

    setting: Setting
    value: int


class Version(Model):
    """A version or a look-alike of a family: what it answers otherwise."""

    id: PartId
    label: str
    settings: dict[Setting, Kept] = Described(default_factory=dict)
    commands: tuple[Command, ...] = Described(default=(), description="In place of those with the same beginning, or more")
    lacks: tuple[str, ...] = Described(default=(), description="Commands it does not know, as they are sent")
    ending: Literal["none", "cr-lf"] | None = None
    answer_ending: Literal["none", "cr-lf"] | None = None
    unknown: str | None = None


class Dialect(Model):
    """How a family talks when it is being set up.

    A command ends with ``ending``, or where there is none once the line has been quiet for ``gap_s``. Set-up mode is
    entered by the key, or is there whenever nobody is linked. ``speed_from`` tells when a new speed begins.
    """

    id: PartId
    label: str
    part: PartId | None = Described(default=None, description="The module part that talks it; none for a radio on a board")
    on_board: Literal["wifi"] | None = Described(default=None, description="Which radio of a board it is, where it is one")
    ending: Literal["none", "cr-lf"]
    gap_s: Annotated[float, Described(gt=0)] | None = None
    answer_ending: Literal["none", "cr-lf"]
    answer_s: Annotated[float, Described(ge=0)] = Described(description="How long it takes to answer, s")
    enters: Literal["key", "unlinked", "always", "button"]
    setup_speed_bd: Annotated[int, Described(gt=0)] | None = Described(
        default=None, description="The speed of its set-up mode, whatever its data speed; where the key is up at power-on"
    )
    speed_from: Literal["restart", "at-once"]
    unknown: str | None = Described(
        default=None, description="What it answers to what it does not understand; silence where none"
    )
    drops_on: str | None = Described(default=None, description="What ends a link from the wire, where something does")
    boot: Boot | None = None
    echo: Setting | None = Described(default=None, description="The setting that has it repeat each line before its answer")
    arrives: str = Described(default="", description="What stands before bytes that come over the air; their count in braces")
    on_link: str = ""
    on_unlink: str = ""
    settings: dict[Setting, Kept] = Described(description="What it leaves the factory with, kept over power cuts")
    volatile: tuple[Setting, ...] = Described(default=(), description="Settings it forgets whenever it starts")
    remote: Remote | None = None
    commands: tuple[Command, ...]
    joins: tuple[Join, ...] = Described(
        default=(), description="What its button does, by how long it is held, the shortest first"
    )
    blinks: dict[Literal["setup", "waiting", "linked"], Blink]
    versions: tuple[Version, ...] = ()
    source: SourceKey

    def version(self, name: str | None) -> "Dialect":
        """Return the dialect as one of its versions talks it; raises KeyError."""
        if name is None:
            return self
        found = next((it for it in self.versions if it.id == name), None)
        if found is None:
            raise KeyError(name)
        again = {it.send.partition("{")[0]: it for it in found.commands}
        kept = [again.pop(it.send.partition("{")[0], it) for it in self.commands if it.send not in found.lacks]
        changed = {
            "commands": (*kept, *again.values()),
            "settings": {**self.settings, **found.settings},
            "ending": found.ending or self.ending,
            "answer_ending": found.answer_ending or self.answer_ending,
            "unknown": found.unknown or self.unknown,
            "label": found.label,
        }
        return self.model_copy(update=changed)


def put_in(line: str, command: Command, known: Mapping[str, FieldValue]) -> str:
    """Put settings and fields into a line of an answer: ``{name}``, an address ``{bound:short}``, what stands for a choice ``{speed:code}``."""

    def one(found: re.Match[str]) -> str:
        value = known[found[1]]
        match found[2]:
            case "short":
                return short_address(str(value))
            case "plain":
                return str(value).replace(":", "")
            case "code":
                return command.fields[found[1]].written(found[1], value).decode("ascii")
        return str(value)

    return re.sub(r"\{(\w+)(?::(\w+))?\}", one, line)


def answer_of(dialect: Dialect, command: Command, known: Mapping[str, FieldValue]) -> bytes:
    """Return what a command is answered where all goes well, as it stands on the wire."""
    ending = ENDINGS[dialect.answer_ending]
    return b"".join(put_in(line, command, known).encode("ascii") + ending for line in command.answer)
