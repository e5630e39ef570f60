"""Talks of a design: links, words with their bytes, and what the phone adds."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from oddlamp.core.design.lines import Way
from oddlamp.core.design.supplies import Picked
from oddlamp.core.design.values import Origin, Value
from oddlamp.core.plan.controls import ControlKind, LightState
from oddlamp.core.plan.words import Written
from oddlamp.core.words.frames import Field, FieldValue, Shape


@dataclass(frozen=True, slots=True)
class ParameterDesign:
    """A value that a word carries: how it is written and between which bounds; proposed where the plan settles nothing of it."""

    id: str
    label: str
    field: Field
    written: Written
    origin: Origin
    why: str | None

    @property
    def at_most(self) -> FieldValue:
        """Its highest value, or a text as long as it may be."""
        return "x" * self.field.most if self.written == "text" else self.field.most

    def within(self, value: FieldValue | None) -> FieldValue:
        """Return a value as it is sent: clipped to its bounds, its least where none is given; of a text what is plain of it."""
        if self.written == "text":
            plain = "".join(it for it in str(value or "") if " " <= it <= "~")[: self.field.most]
            return plain.ljust(self.field.least)
        number = value if isinstance(value, int) else self.field.least
        return min(max(number, self.field.least), self.field.most)


@dataclass(frozen=True, slots=True)
class WordDesign:
    """A word and the bytes that stand for it, without what ends them; of one that carries values, those with every value at its most."""

    id: str
    label: str
    text: str
    content: bytes
    origin: Origin
    direction: Literal["out", "back"]
    parameters: tuple[ParameterDesign, ...] = ()
    shape: Shape | None = None

    @property
    def start(self) -> bytes:
        """The bytes that every message of it begins with: all of it, where it carries nothing."""
        if self.shape is None:
            return self.content
        first = self.shape.pieces[0] if self.shape.pieces else b""
        return first if isinstance(first, bytes) else b""

    def built(self, values: Mapping[str, FieldValue]) -> bytes:
        """Write it with values, each clipped to its bounds; those that are not given stand at their least."""
        if self.shape is None:
            return self.content
        return self.shape.build({it.id: it.within(values.get(it.id)) for it in self.parameters})


@dataclass(frozen=True, slots=True)
class VocabularyDesign:
    """Words with their framing.

    ``dialect`` is the family whose own commands they are, each all that comes at once; ``open_because`` where those drive
    nothing that is known.
    """

    id: str
    framing: Picked
    terminator: bytes
    terminator_name: str
    words: tuple[WordDesign, ...]
    open_because: str | None
    dialect: str | None = None
    gap: Value | None = None
    answers_unknown: bool = False

    @property
    def is_ended(self) -> bool:
        """Whether something ends a word: bytes of its own, or a pause."""
        return bool(self.terminator) or self.gap is not None

    @property
    def is_whole(self) -> bool:
        """Whether a word is all that comes at once."""
        return self.dialect is not None

    @property
    def stage(self) -> str:
        """The vocabulary's stage on the line."""
        return f"vocabularies.{self.id}"

    def word(self, word_id: str) -> WordDesign:
        """Return a word of this vocabulary."""
        return next(word for word in self.words if word.id == word_id)


@dataclass(frozen=True, slots=True)
class Hop:
    """One link of a talk's path, walked from its first node to its second."""

    link_id: str
    kind: Literal["air", "wire"]
    from_node: str
    to_node: str
    way: Way


def way_of(hop: Hop, *, goes_out: bool) -> Way:
    """Return the direction of a link that a message takes over a hop."""
    if goes_out:
        return hop.way
    return "b_to_a" if hop.way == "a_to_b" else "a_to_b"


@dataclass(frozen=True, slots=True)
class TalkDesign:
    """A talk with its path."""

    id: str
    a: str
    b: str
    hops: tuple[Hop, ...]
    vocabulary: VocabularyDesign


@dataclass(frozen=True, slots=True)
class ControlDesign:
    """Something to press on the phone; proposed where the plan gives a word none."""

    id: str
    node_id: str
    kind: ControlKind
    label: str
    says: dict[str, tuple[str, str]]
    origin: Origin
    fills: Mapping[str, Mapping[str, float | str]] = field(default_factory=dict)
    interval_s: float | None = None
    is_held: bool = False
    at_rest: bool = False
    phrases: tuple[str, ...] = ()
    code: int | None = None
    states: tuple[LightState, ...] = ()


@dataclass(frozen=True, slots=True)
class HandsetDesign:
    """How the phone behaves; of a remote ``receiver`` is the input that takes in its codes, None where none does."""

    id: str
    speaks: tuple[str, ...]
    speaks_picked: Picked
    sends_as: Picked
    appends: Picked
    controls: tuple[ControlDesign, ...]
    kind: str = "phone"
    receiver: str | None = None


@dataclass(frozen=True, slots=True)
class AirDesign:
    """A radio link: its kind, and how long a message is in the air."""

    id: str
    transport: Picked
    radio: str
    latency: Value
    packet_most_bytes: int

    @property
    def stage(self) -> str:
        """The link's stage on the line."""
        return f"links.{self.id}"


@dataclass(frozen=True, slots=True)
class WireDesign:
    """A wired link and its speed."""

    id: str
    baud: Value

    @property
    def stage(self) -> str:
        """The link's stage on the line."""
        return f"links.{self.id}"
