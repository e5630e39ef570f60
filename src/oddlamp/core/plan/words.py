"""Vocabularies: how words are told apart on the wire, and the words themselves with the values they carry."""

from itertools import pairwise
from typing import Annotated, Final, Literal

from pydantic import Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, PartId
from oddlamp.core.plan.quantities import Second
from oddlamp.core.plan.text import SentText, TerminatorText, fields_of, parts_of

Written = Literal["decimal", "hex", "byte", "two-bytes", "two-bytes-little"]
FIELDS_MOST: Final = 8
MOST: Final[dict[Written, int]] = {"decimal": 65_535, "hex": 65_535, "byte": 255, "two-bytes": 65_535, "two-bytes-little": 65_535}


class SingleByte(Model):
    """Every byte is a word of its own; nothing ends it."""

    kind: Literal["single-byte"]


class Fixed(Model):
    """Words of fixed length, one after the other: each acts at its last byte, and nothing ends it.

    All may begin with the same bytes, their ``lead``, and end with a byte that checks all before it.
    """

    kind: Literal["fixed"]
    lead: SentText | None = None
    check: Literal["xor", "sum", "crc-8"] | None = None

    @model_validator(mode="after")
    def _lead_is_bytes(self) -> "Fixed":
        if fields_of(self.lead or ""):
            raise ValueError(f"lead\n{self.lead}\nbytes that are always the same: no value in braces")
        return self


class Gap(Model):
    """A word is all that comes until the line has been quiet for a while."""

    kind: Literal["gap"]
    gap_s: Annotated[Second, Field(ge=0.005, le=10)] | None = None


class Terminated(Model):
    """A word is what stands before its terminator: cr, lf, cr-lf, or any one character."""

    kind: Literal["terminated"]
    terminator: TerminatorText | None = None


Framing = Annotated[SingleByte | Fixed | Gap | Terminated, Field(discriminator="kind")]


class Parameter(Model):
    """A value that a word carries, a whole number: how it is written, and between which bounds."""

    label: Label | None = None
    written: Written | None = None
    least: Annotated[int, Field(ge=0, le=65_535)] | None = None
    most: Annotated[int, Field(ge=0, le=65_535)] | None = None
    unit: Annotated[str, Field(max_length=12)] | None = None

    @model_validator(mode="after")
    def _has_room(self) -> "Parameter":
        least, most = self.least or 0, self.most
        if most is not None and most < least:
            raise ValueError(f"most\n{most}\n{least}, the least, or more")
        return self


class Word(Model):
    """One word: the characters that are sent, without what ends them; a value it carries stands in braces, ``R{level}``."""

    label: Label | None = None
    sent: SentText | None = None
    parameters: dict[Id, Parameter] = Field(
        default_factory=dict, description="What is settled of the values that stand in braces"
    )
    direction: Literal["out", "back"] | None = None
    repeat_safe: bool | None = None

    @model_validator(mode="after")
    def _fields_are_told_apart(self) -> "Word":
        names = fields_of(self.sent or "")
        if len(names) != len(set(names)):
            raise ValueError(f"sent\n{self.sent}\neach value once")
        if len(names) > FIELDS_MOST:
            raise ValueError(f"sent\n{self.sent}\nat most {FIELDS_MOST} values in a word")
        for first, second in pairwise(parts_of(self.sent or "")):
            if isinstance(first, str) and isinstance(second, str) and self._is_open(first):
                raise ValueError(f"sent\n{self.sent}\nsomething between {first} and {second}: a decimal has no fixed length")
        return self

    def _is_open(self, name: str) -> bool:
        settled = self.parameters.get(name)
        return settled is None or settled.written in (None, "decimal")


class Vocabulary(Model):
    """The words of one talk. ``dialect`` names a module family whose own commands they are."""

    label: Label | None = None
    framing: Framing | None = None
    dialect: PartId | None = None
    words: dict[Id, Word] = Field(default_factory=dict)
    on_unknown: Literal["ignore", "answer"] | None = None
