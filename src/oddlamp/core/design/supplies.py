"""Rails and nodes of a design: what feeds what, and the volts their pins stand at."""

from dataclasses import dataclass
from typing import Literal

from oddlamp.core.design.values import Origin, Value
from oddlamp.core.electrical.ladder import Colour
from oddlamp.core.electrical.ladder import Feed as StripFeed
from oddlamp.core.parts.models import BoardPart, InputLevels, LogicPart
from oddlamp.core.parts.supply import ConverterPart, SourcePart
from oddlamp.core.plan.model import Node


@dataclass(frozen=True, slots=True)
class Picked:
    """A choice of part or habit: what, where it comes from, and why it is proposed."""

    id: str
    label: str
    origin: Origin
    why: str | None = None


@dataclass(frozen=True, slots=True)
class Feed:
    """What feeds a rail: a source with the lead beside its own, a converter on another rail, or a board's output."""

    kind: Literal["source", "converter", "board"]
    id: str
    label: str
    picked: Picked | None = None
    source: SourcePart | None = None
    converter: ConverterPart | None = None
    board: BoardPart | None = None
    output: str = ""
    from_rail: str | None = None
    set_v: float = 0.0
    lead_ohm: float = 0.0


@dataclass(frozen=True, slots=True)
class Burden:
    """What something takes of a rail, A: at rest, on average, with all of it lit, and that at worst. ``why`` tells what average.

    A lamp's ``lit_a`` is what it takes fully lit, with what drives it; its worst instant is by its resistor alone, the safe side.
    """

    stage: str
    label: str
    rail_id: str
    least_a: float
    average_a: float
    worst_a: float
    most_a: float
    lamp_id: str = ""
    lit_a: float = 0.0
    why: str = ""

    @property
    def usage_ratio(self) -> float:
        """How much of its full light a lamp is reckoned with on average; all of it where it takes no more than in the dark."""
        return (self.average_a - self.least_a) / (self.lit_a - self.least_a) if self.lit_a > self.least_a else 1.0


@dataclass(frozen=True, slots=True)
class Budget:
    """What a rail carries, everything behind it included, and the volts it then has.

    ``own`` hang on it, ``on`` are the rails made from it with what each takes of it on average, at the worst instant and
    at worst. ``gives`` is what its feed gives, ``wants_a`` what one should give that carries it, ``loaded`` its volts at the worst instant, ``heat`` what its feed turns into heat.
    """

    rail_id: str
    own: tuple[Burden, ...]
    on: dict[str, tuple[float, float, float]]
    average: Value
    worst: Value
    gives: Value | None
    loaded: Value
    wants_a: float
    heat: Value | None = None


@dataclass(frozen=True, slots=True)
class StripDesign:
    """Volts along a chain of pixels or a strip, all of it lit, place by place.

    ``feeds`` are where supply comes in, ``least_v`` what every place should have, ``place_m`` how far apart two places are.
    """

    lamp_id: str
    colours: tuple[Colour, ...]
    pitch_ohm: float
    feeds: tuple[StripFeed, ...]
    volts: tuple[float, ...]
    drawn_a: tuple[float, ...]
    least_v: float
    place_m: float
    lost: Value

    @property
    def lowest_v(self) -> float:
        """The volts where it has least."""
        return min(self.volts)

    @property
    def short_of(self) -> int:
        """How many places have less than they should."""
        return sum(it < self.least_v for it in self.volts)


@dataclass(frozen=True, slots=True)
class RunTime:
    """How long a source lasts: down to ``cutoff_v`` at rest, where ``stops`` happens, and at best with all of its charge."""

    lasts: Value
    text: str
    best_text: str
    average_a: float
    cutoff_v: float
    stops: str
    used_ratio: float


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
    feed: Feed | None = None

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
        """The node's stage: a board stands at its pins, and so does a chip whose pins are known."""
        is_at_pins = self.node.kind == "board" or (self.node.kind == "chip" and self.part is not None)
        return f"pins.{self.id}" if is_at_pins else f"nodes.{self.id}"
