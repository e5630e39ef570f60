"""Rails and nodes of a design: what feeds what, and the volts their pins stand at."""

from dataclasses import dataclass

from oddlamp.core.design.values import Origin, Value
from oddlamp.core.parts.models import InputLevels, LogicPart
from oddlamp.core.plan.model import Node


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
        """The node's stage: a board stands at its pins, and so does a chip whose pins are known."""
        is_at_pins = self.node.kind == "board" or (self.node.kind == "chip" and self.part is not None)
        return f"pins.{self.id}" if is_at_pins else f"nodes.{self.id}"
