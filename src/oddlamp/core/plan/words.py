"""Vocabularies: how words are told apart on the wire, and the words themselves with the values they carry."""

from itertools import pairwise
from typing import Annotated, Final, Literal

from pydantic import Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label, PartId
from oddlamp.core.plan.quantities import Second
from oddlamp.core.plan.text import SentText, TerminatorText, fields_of, parts_of

Written = Literal["decimal", "hex", "byte", "two-bytes", "two-bytes-little", "text"]
FIELDS_MOST: Final = 8
TEXT_MOST: Final = 60
MOST: Final[dict[Written, int]] = {
    "decimal": 65_535,
    "hex": 65_535,
    "byte": 255,
    "two-bytes": 65_535,
    "two-bytes-little": 65_535,
    "text": TEXT_MOST,
}


BITS: Final[dict[Written, Literal[4, 8, 16]]] = {"byte": 8, "two-bytes": 16, "two-bytes-little": 16}
MINUS_LEAST: Final = -32_768


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
    """A value that a word carries: how it is written, and between which bounds; of a text, how long it may be.

    A number below 0 has a minus, is its two's complement in so many ``bits``, or is counted from the least. A text that
    begins with ``escape`` is sent with that sign once more before it, so that words which begin with it are told apart.
    """

    label: Label | None = None
    written: Written | None = None
    least: Annotated[int, Field(ge=-32_768, le=65_535)] | None = None
    most: Annotated[int, Field(ge=-32_767, le=65_535)] | None = None
    signed: Literal["minus", "twos-complement", "offset"] | None = None
    bits: Literal[4, 8, 16] | None = Field(default=None, description="Of two's complement; as many as it is written in")
    escape: Annotated[str, Field(min_length=1, max_length=1, pattern=r"^[!-~]$")] | None = None
    unit: Annotated[str, Field(max_length=12)] | None = None

    @model_validator(mode="after")
    def _has_room(self) -> "Parameter":
        least, most = self.least or 0, self.most
        if most is not None and most < least:
            raise ValueError(f"most\n{most}\n{least}, the least, or more")
        if self.signed == "minus" and self.written not in (None, "decimal"):
            raise ValueError(f"signed\n{self.signed}\ntwos-complement or offset: only a decimal has a minus")
        if least < 0 and self.signed is None:
            raise ValueError(f"least\n{least}\n0 or more, or how a value below 0 is carried: minus, twos-complement, offset")
        return self


def bits_of(settled: Parameter | None) -> Literal[4, 8, 16]:
    """Return the bits of two's complement: those it is written in, else those that were chosen, else 8."""
    chosen = settled.bits if settled is not None else None
    return BITS.get((settled.written if settled is not None else None) or "decimal") or chosen or 8


def room_of(settled: Parameter | None, least: int = 0) -> tuple[int, int]:
    """Return the least and the most that a value can be, as it is written, where it counts from ``least``."""
    written = (settled.written if settled is not None else None) or "decimal"
    match settled.signed if settled is not None else None:
        case "twos-complement":
            half = 1 << bits_of(settled) - 1
            return -half, half - 1
        case "offset":
            return least, least + MOST[written]
        case "minus":
            return MINUS_LEAST, MOST[written]
    return 0, MOST[written]


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
        texts = [name for name in names if name in self.parameters and self.parameters[name].written == "text"]
        if any(not (self.sent or "").endswith(f"{{{name}}}") for name in texts):
            raise ValueError(f"sent\n{self.sent}\n{texts[0]} at its end: a text goes on to the end of the word")
        for first, second in pairwise(parts_of(self.sent or "")):
            if isinstance(first, str) and isinstance(second, str) and self._is_open(first):
                raise ValueError(f"sent\n{self.sent}\nsomething between {first} and {second}: neither has a fixed length")
        return self

    def _is_open(self, name: str) -> bool:
        settled = self.parameters.get(name)
        return settled is None or settled.written in (None, "decimal", "text")


class Vocabulary(Model):
    """The words of one talk. ``dialect`` names a module family whose own commands they are."""

    label: Label | None = None
    framing: Framing | None = None
    dialect: PartId | None = None
    words: dict[Id, Word] = Field(default_factory=dict)
    on_unknown: Literal["ignore", "answer"] | None = None
