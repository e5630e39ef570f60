"""Physical lines of a design: the pin each takes, the level that arrives, the current it carries."""

from dataclasses import dataclass
from typing import Literal

from oddlamp.core.design.supplies import NodeDesign, Picked
from oddlamp.core.design.values import Origin, Value
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Burden, Divider
from oddlamp.core.plan.model import Signal
from oddlamp.core.plan.signals import Line, Needs

Way = Literal["a_to_b", "b_to_a"]


@dataclass(frozen=True, slots=True)
class PinDesign:
    """The pin a line uses on a host, and what it needs of it. ``field`` is where the line keeps it: a line between two boards has two."""

    line: Line
    field: Literal["pin", "far_pin"]
    host: str
    needs: Needs
    label: str | None
    origin: Origin
    why: str
    signal: Signal

    @property
    def signal_id(self) -> str:
        """The line's id."""
        return self.line.id

    @property
    def key(self) -> str:
        """Tell this pin from the line's other one."""
        return self.line.id if self.field == "pin" else f"{self.line.id}.far"

    @property
    def name(self) -> str:
        """The line's name."""
        return self.line.name

    @property
    def path(self) -> tuple[str, ...]:
        """Where the plan keeps it."""
        return (*self.line.path, self.field)

    @property
    def stage(self) -> str:
        """Pins stand at their host's pin stage."""
        return f"pins.{self.host}"


@dataclass(frozen=True, slots=True)
class PinLoad:
    """What one pin carries for a lamp: out of the pin, or into it where it pulls low."""

    signal_id: str
    lamp_id: str
    way: Literal["source", "sink"]
    nominal_a: float
    most_a: float


@dataclass(frozen=True, slots=True)
class LevelDesign:
    """What arrives at the far end of a line, between two supplies or on one, and its edge.

    ``bit_s`` is the shortest time a level is held, where it is a serial line; ``edge_most_s`` the longest
    edge the receiver takes; ``divider`` the two resistors where they are two, ``pull`` a resistor of the line's own, and
    ``pull_v`` the volts it pulls up to, None where it pulls down; ``burden`` what hangs on it at the receiver; ``injected_a`` what a clamp diode must take at
    worst; ``rests`` where its low stands; ``carried`` what the sender gives or takes for it; ``unaided`` the receiver as
    it is without the school, which may feed it otherwise; ``series`` what stands in series in a pixel's data line.
    """

    line: Line
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
    pull: Value | None
    pull_v: Spread | None
    series: Value | None
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
    def id(self) -> str:
        """The line's id."""
        return self.line.id

    @property
    def stage(self) -> str:
        """The line's stage."""
        return self.line.stage

    @property
    def is_bits(self) -> bool:
        """Whether what hangs on it reads words of bits: pixels, matrix modules."""
        return self.line.kind == "data"

    @property
    def parts(self) -> tuple[Value, ...]:
        """Return the values of its parts that can be turned, in the order they are shown."""
        return tuple(it for it in (self.upper, self.lower, self.extra, self.drop, self.tolerance, self.series, self.pull) if it)


@dataclass(frozen=True, slots=True)
class SignalDesign:
    """One physical line with all that is worked out of it: its pins, the level that arrives, what its pin carries.

    ``starts`` is where its pin rests while the board starts, where the chip reads it then.
    """

    line: Line
    pin: PinDesign | None
    far_pin: PinDesign | None = None
    level: LevelDesign | None = None
    load: PinLoad | None = None
    starts: Value | None = None
