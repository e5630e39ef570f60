"""The design: a plan with every value filled in, each with its origin. Made by ``resolve``, read by all the rest."""

from dataclasses import dataclass, field
from typing import Literal

from oddlamp.core.electrical.drivers import BaseDrive
from oddlamp.core.electrical.led import LedBranch, LedPoint, Spread
from oddlamp.core.electrical.level import Burden, Divider
from oddlamp.core.electrical.preferred import Series
from oddlamp.core.parts.models import Catalog, InputLevels, LedPart, LogicPart, PixelPart, TransistorPart
from oddlamp.core.plan.built import Drift
from oddlamp.core.plan.model import Node, Plan, Rule, Signal
from oddlamp.core.values import Origin, Value

Way = Literal["a_to_b", "b_to_a"]


@dataclass(frozen=True, slots=True)
class Picked:
    """A choice of part or habit: what, where it comes from, and why it is proposed."""

    id: str
    label: str
    origin: Origin
    why: str | None = None


@dataclass(frozen=True, slots=True)
class RailDesign:
    """A rail and its volts."""

    id: str
    label: str
    end: str | None
    source_id: str | None
    source: Picked | None
    voltage: Value
    resistance: Value | None = None

    @property
    def stage(self) -> str:
        """The rail's stage on the line."""
        return f"rails.{self.id}"


@dataclass(frozen=True, slots=True)
class NodeDesign:
    """A handset, board, module or chip with its part and the volts of its pins."""

    id: str
    node: Node
    label: str
    end: str | None
    rail_id: str | None
    part: LogicPart | None
    picked: Picked | None
    logic: Value | None
    levels: InputLevels | None = None

    @property
    def inputs(self) -> InputLevels | None:
        """What its inputs hear and stand: its part's, or its own where it has no part."""
        return self.part if self.part is not None else self.levels

    @property
    def stage(self) -> str:
        """The node's stage: a board stands at its pins."""
        return f"pins.{self.id}" if self.node.kind == "board" else f"nodes.{self.id}"


@dataclass(frozen=True, slots=True)
class PinDesign:
    """The pin one physical line uses on its host, and what it needs of it."""

    signal_id: str
    host: str
    needs: frozenset[str]
    label: str | None
    origin: Origin
    why: str
    signal: Signal

    @property
    def stage(self) -> str:
        """Pins stand at their host's pin stage."""
        return f"pins.{self.host}"


@dataclass(frozen=True, slots=True)
class SwitchDesign:
    """A transistor between a pin and what it switches, with the parts around it."""

    school: Picked
    part: TransistorPart
    part_picked: Picked
    load: Value
    series: Value
    pin: Value
    base: BaseDrive | None
    gate: Value | None
    pull_down: Value | None
    has_pull_down: bool


@dataclass(frozen=True, slots=True)
class ToneDesign:
    """What a buzzer sounds at: its frequency, the half period of the pin, and the range the part sounds in."""

    frequency: Value
    half_period: Value
    note: str
    least_hz: float | None
    most_hz: float | None
    makes_own: bool


@dataclass(frozen=True, slots=True)
class DimmingDesign:
    """How a lamp is dimmed: its ladder of duties, 0 to 255, and the frequency its light is chopped at."""

    steps: Value
    even_in: Picked
    by_duty: tuple[int, ...]
    by_eye: tuple[int, ...]
    frequency: Value
    watched: Picked


@dataclass(frozen=True, slots=True)
class OptoInput:
    """What stands in the input of an opto module: drop of its LEDs, V, and its resistor, ohm."""

    drop_v: float
    resistance_ohm: float


@dataclass(frozen=True, slots=True)
class LoadDesign:
    """Something that sets its own current: relay, buzzer, strip, matrix modules, pixels at full white.

    ``holds_f`` is what a piezo disc holds, F, where a transistor drives it: it charges it and cannot let it go, which
    takes a resistor ``across`` it.
    """

    part_id: str
    label: str
    picked: Picked
    current: Value
    rated: Value
    rail: Value | None
    is_coil: bool
    has_flyback: bool
    is_mains_side: bool
    off_current: Value | None = None
    input: OptoInput | None = None
    on_when: Literal["low", "high"] = "high"
    tone: ToneDesign | None = None
    pixel: PixelPart | None = None
    pixels: int = 0
    holds_f: float | None = None
    across: Value | None = None


@dataclass(frozen=True, slots=True)
class PinLoad:
    """What one pin carries for a lamp: out of the pin, or into it where it pulls low."""

    signal_id: str
    lamp_id: str
    way: Literal["source", "sink"]
    nominal_a: float
    most_a: float


@dataclass(frozen=True, slots=True)
class ChannelDesign:
    """One current path with its numbers. ``branch`` and ``point`` are None where they cannot be computed."""

    id: str
    lamp_id: str
    led: LedPart
    led_picked: Picked
    in_series: int
    in_parallel: int
    is_inverted: bool
    forward: Value
    wanted: Value
    limit: Value
    tolerance: Value
    drive: Value
    resistor: Value
    exact: Value
    current: Value
    current_with_pin: Value
    power: Value
    branch: LedBranch | None
    point: LedPoint | None
    curve: Value
    sharing: Literal["each", "one"] = "each"
    switch: SwitchDesign | None = None
    ghost: Value | None = None

    @property
    def signal_id(self) -> str:
        """The channel's line."""
        return f"{self.lamp_id}.{self.id}"


@dataclass(frozen=True, slots=True)
class LampDesign:
    """A lamp. ``open_because`` says why its numbers are not there, if so."""

    id: str
    label: str
    kind: str
    host: str
    rail_id: str | None
    common: Picked | None
    channels: tuple[ChannelDesign, ...]
    open_because: str | None
    school: Picked | None = None
    switch: SwitchDesign | None = None
    load: LoadDesign | None = None
    loads: tuple[PinLoad, ...] = ()
    dimming: DimmingDesign | None = None

    @property
    def stage(self) -> str:
        """The lamp's stage on the line."""
        return f"lamps.{self.id}"

    @property
    def takes_rail(self) -> bool:
        """Whether current comes to it from a rail, and not from its pin alone."""
        if self.school is None or self.school.id != "pin":
            return True
        if self.load is not None:
            return self.load.off_current is not None
        return self.common is not None and self.common.id == "anode"


@dataclass(frozen=True, slots=True)
class CrossingDesign:
    """One direction of a line between two supplies, the level that arrives and its edge.

    ``bit_s`` is the shortest time a level is held, where it is a serial line; ``edge_most_s`` the longest
    edge the receiver takes; ``divider`` the two resistors where they are two,
    ``burden`` what hangs on it at the receiver; ``injected_a`` what a clamp diode must take at worst; ``rests`` where its low stands;
    ``carried`` what the sender gives or takes for it; ``unaided`` the receiver as it is without the school, which may
    feed it otherwise.
    """

    id: str
    link_id: str
    way: Way
    stage: str
    sender: NodeDesign
    receiver: NodeDesign
    unaided: NodeDesign
    is_omitted: bool
    school: Picked
    upper: Value | None
    lower: Value | None
    divider: Divider | None
    burden: Burden
    tolerance: Value | None
    extra: Value | None
    injected_a: float | None
    drop: Value | None
    sent: Value
    received: Value
    rests: Value
    carried: Value
    rise: Value
    bit_s: float | None
    edge_most_s: float | None
    high: Value
    low: Value
    limit: Value
    sent_spread: Spread | None

    @property
    def is_wire(self) -> bool:
        """Whether words run on it: a wire between two nodes, not the line of a lamp, an input or a key pin."""
        return self.stage.startswith("links.") and not self.is_key

    @property
    def is_key(self) -> bool:
        """Whether it holds a module's key pin up for set-up."""
        return self.stage.startswith("links.") and self.id.endswith(".key")


@dataclass(frozen=True, slots=True)
class WordDesign:
    """A word and the bytes that stand for it, without what ends them."""

    id: str
    label: str
    text: str
    content: bytes
    origin: Origin
    direction: Literal["out", "back"]


@dataclass(frozen=True, slots=True)
class VocabularyDesign:
    """Words with their framing. ``open_because`` where they are the module's own commands."""

    id: str
    framing: Picked
    terminator: bytes
    terminator_name: str
    words: tuple[WordDesign, ...]
    open_because: str | None

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
    kind: str
    label: str
    says: dict[str, tuple[str, str]]
    origin: Origin


@dataclass(frozen=True, slots=True)
class HandsetDesign:
    """How the phone behaves."""

    id: str
    speaks: tuple[str, ...]
    speaks_picked: Picked
    sends_as: Picked
    appends: Picked
    controls: tuple[ControlDesign, ...]


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


@dataclass(frozen=True, slots=True)
class Design:
    """Everything the rules, the review and the rehearsal read; ``plan`` is the plan with built lines as they were built."""

    plan: Plan
    catalog: Catalog
    rails: dict[str, RailDesign]
    nodes: dict[str, NodeDesign]
    handsets: dict[str, HandsetDesign]
    airs: dict[str, AirDesign]
    wires: dict[str, WireDesign]
    talks: dict[str, TalkDesign]
    vocabularies: dict[str, VocabularyDesign]
    pins: dict[str, PinDesign]
    lamps: dict[str, LampDesign]
    crossings: dict[str, CrossingDesign]
    leads: dict[str, CrossingDesign] = field(default_factory=dict)
    drifts: tuple[Drift, ...] = ()

    @property
    def levels(self) -> list[CrossingDesign]:
        """Every line whose level is judged: wires between nodes, then inputs, pixels and matrix modules."""
        return [*self.crossings.values(), *self.leads.values()]

    @property
    def series(self) -> Series:
        """The series of resistors the user can get."""
        return self.plan.series or "E24"

    def rules_of(self, host: str) -> list[tuple[str, Rule]]:
        """Return the rules that run on one host, in plan order."""
        return [(name, rule) for name, rule in self.plan.rules.items() if rule.host == host]

    def targets(self, target: str | None) -> tuple[str, ...]:
        """Return the lamps a target stands for: a lamp, or the members of a group."""
        if target in self.lamps:
            return (str(target),)
        group = self.plan.groups.get(target or "")
        return group.members if group else ()

    def vocabulary_talks(self, vocabulary_id: str) -> list[TalkDesign]:
        """Return the talks that use a vocabulary."""
        return [talk for talk in self.talks.values() if talk.vocabulary.id == vocabulary_id]
