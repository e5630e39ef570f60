"""One solver for small circuits of supplies: sources, wires, diodes, transistors as switches, converters and loads.

Every part brings currents into the nodes it hangs on, at the volts these have, and tells how they change. Kirchhoff's current
law holds where all of them add up to nothing; Newton's method goes there from what a circuit that runs would have: whether it
comes up at all is another question.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Final, NamedTuple, Protocol

from oddlamp.core.electrical.diode import DiodeCurve, curve_current_a

GROUND: Final = "0"
LEAST_OHM: Final = 1e-4  # stands for none: an ampere loses a tenth of a millivolt on it
LEAK_S: Final = 1e-12  # from each node to ground, so that one which nothing feeds stands at no volts
OUTPUT_OHM: Final = 0.01  # of a converter that holds its volts; an estimate, small beside any wire
ROUNDS_MOST: Final = 20
STEP_MOST_V: Final = 1.0
EXACT_V: Final = 1e-8
HELD_S: Final = 30.0
HELD_LEAST_S: Final = 1e-9
STEPS_MOST: Final = 300
SOFT_V: Final = 0.1  # over which a load begins or ends to draw, so that there is always a slope to follow

Volts = Mapping[str, float]


class Term(NamedTuple):
    """A current that leaves a node, A, and by how much it grows for each volt more at some nodes, A/V."""

    node: str
    leaves_a: float
    slopes: tuple[tuple[str, float], ...]


class Part(Protocol):
    """Something between nodes."""

    @property
    def nodes(self) -> tuple[str, ...]:
        """The nodes it hangs on."""

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what it takes from each of its nodes."""


class NoSolution(ArithmeticError):
    """The volts of a circuit could not be found: it holds something that contradicts itself."""


def _two(a: str, b: str, through_a: float, slope_s: float) -> Iterator[Term]:
    """Yield a current that runs from one node to another and grows with the volts between them."""
    yield Term(a, through_a, ((a, slope_s), (b, -slope_s)))
    yield Term(b, -through_a, ((a, -slope_s), (b, slope_s)))


class Resistor(NamedTuple):
    """A resistor or a wire. Source: Ohm's law."""

    a: str
    b: str
    ohm: float

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its two ends."""
        return self.a, self.b

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what runs through it."""
        admits_s = 1 / max(self.ohm, LEAST_OHM)
        return _two(self.a, self.b, (volts[self.a] - volts[self.b]) * admits_s, admits_s)


class Source(NamedTuple):
    """Volts behind a resistance, such as a cell; it takes current back as it gives it."""

    plus: str
    minus: str
    volts: float
    ohm: float = 0.0

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its two ends."""
        return self.plus, self.minus

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what it gives."""
        admits_s = 1 / max(self.ohm, LEAST_OHM)
        return _two(self.plus, self.minus, (volts[self.plus] - volts[self.minus] - self.volts) * admits_s, admits_s)


class Load(NamedTuple):
    """Something that draws a current of its own from some volts on, and less in proportion under them."""

    a: str
    b: str
    current_a: float
    from_v: float

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its two ends."""
        return self.a, self.b

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what it draws."""
        v, from_v = volts[self.a] - volts[self.b], max(self.from_v, SOFT_V)
        if v >= from_v:
            return _two(self.a, self.b, self.current_a, 0.0)
        slope_s = self.current_a / from_v
        return _two(self.a, self.b, slope_s * max(v, 0.0), slope_s if v > 0 else 0.0)


class PowerLoad(NamedTuple):
    """Something that draws a power from some volts on: more current the fewer they are; under them in proportion less, as it stops."""

    a: str
    b: str
    power_w: float
    from_v: float

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its two ends."""
        return self.a, self.b

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what it draws."""
        v, from_v = volts[self.a] - volts[self.b], max(self.from_v, SOFT_V)
        if v >= from_v:
            return _two(self.a, self.b, self.power_w / v, -self.power_w / v**2)
        slope_s = self.power_w / from_v**2
        return _two(self.a, self.b, slope_s * max(v, 0.0), slope_s if v > 0 else 0.0)


class Diode(NamedTuple):
    """A diode, or LEDs in series, from its anode to its cathode. Source: diode equation."""

    anode: str
    cathode: str
    curve: DiodeCurve
    in_series: int = 1

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its two ends."""
        return self.anode, self.cathode

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what runs through it: backwards no more than its saturation current."""
        v, saturation_a = volts[self.anode] - volts[self.cathode], self.curve.saturation_a
        through_a = (
            curve_current_a(self.curve, drive_v=v, resistance_ohm=0.0, in_series=self.in_series)
            if v > 0
            else saturation_a * math.expm1(v / (self.in_series * self.curve.slope_v))
        )
        junction_s = max(through_a + saturation_a, LEAK_S * 1e-3) / (self.in_series * self.curve.slope_v)
        series_ohm = max(self.in_series * self.curve.series_ohm, LEAST_OHM)
        return _two(self.anode, self.cathode, through_a, 1 / (1 / junction_s + series_ohm))


class Switch(NamedTuple):
    """A transistor that is on or off: its channel's resistance, or what is left between collector and emitter over one."""

    a: str
    b: str
    is_on: bool
    ohm: float
    drop_v: float = 0.0

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its two ends."""
        return self.a, self.b

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what runs through it."""
        over_v = volts[self.a] - volts[self.b] - self.drop_v
        if not self.is_on or (self.drop_v > 0 and over_v <= 0):
            return _two(self.a, self.b, 0.0, 0.0)
        admits_s = 1 / max(self.ohm, LEAST_OHM)
        return _two(self.a, self.b, over_v * admits_s, admits_s)


class Linear(NamedTuple):
    """A linear regulator: it holds its volts while its input is over them by its drop-out, gives no more than its limit, and takes what it gives and a little for itself."""

    input: str
    output: str
    ground: str
    set_v: float
    dropout_v: float
    limit_a: float = math.inf
    own_a: float = 0.0

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its input, its output and its ground."""
        return self.input, self.output, self.ground

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what it passes from its input to its output, and what it takes itself."""
        into_v, out_v = volts[self.input] - volts[self.ground], volts[self.output] - volts[self.ground]
        is_dropping = into_v - self.dropout_v < self.set_v
        wanted_v = max(into_v - self.dropout_v if is_dropping else self.set_v, 0.0)
        gives_a = (wanted_v - out_v) / OUTPUT_OHM
        yield from _passed(self.input, self.output, self.ground, gives_a, self.limit_a, follows=is_dropping and wanted_v > 0)
        yield from Load(self.input, self.ground, self.own_a, self.set_v).terms(volts)


class Switching(NamedTuple):
    """A switching converter: it holds its volts while its input is over its least, gives no more than its limit, and takes the power it gives over its efficiency."""

    input: str
    output: str
    ground: str
    set_v: float
    efficiency: float
    least_v: float
    limit_a: float = math.inf
    own_a: float = 0.0

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its input, its output and its ground."""
        return self.input, self.output, self.ground

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what it gives at its output, and the power of that at its input."""
        into_v, out_v = volts[self.input] - volts[self.ground], volts[self.output] - volts[self.ground]
        share = min(max((into_v - self.least_v) / SOFT_V, 0.0), 1.0)  # it starts, and stops, within a tenth of a volt
        gives_a = (self.set_v - out_v) / OUTPUT_OHM
        is_free = 0.0 < gives_a < self.limit_a
        gives_a = share * min(max(gives_a, 0.0), self.limit_a)
        slope_s = share / OUTPUT_OHM if is_free else 0.0
        yield Term(self.output, -gives_a, ((self.output, slope_s), (self.ground, -slope_s)))
        takes_a = out_v * gives_a / (self.efficiency * into_v) if into_v > SOFT_V else 0.0
        by_input_s = -takes_a / into_v if into_v > SOFT_V else 0.0
        by_output_s = (gives_a - out_v * slope_s) / (self.efficiency * into_v) if into_v > SOFT_V else 0.0
        slopes = ((self.input, by_input_s), (self.output, by_output_s), (self.ground, -by_input_s - by_output_s))
        yield Term(self.input, takes_a, slopes)
        back = tuple((name, -slope) for name, slope in slopes)
        yield Term(self.ground, gives_a - takes_a, (*back, (self.output, -slope_s), (self.ground, slope_s)))
        yield from Load(self.input, self.ground, self.own_a, self.least_v).terms(volts)


def _passed(a: str, b: str, ground: str, gives_a: float, limit_a: float, *, follows: bool) -> Iterator[Term]:
    """Yield what a regulator passes on, between nothing and its limit; ``follows`` where its output follows its input."""
    slope_s = 1 / OUTPUT_OHM if 0.0 < gives_a < limit_a else 0.0
    held_a = min(max(gives_a, 0.0), limit_a)
    ahead = a if follows else ground
    yield Term(b, -held_a, ((b, slope_s), (ahead, -slope_s)))
    yield Term(a, held_a, ((b, -slope_s), (ahead, slope_s)))


class Solved(NamedTuple):
    """The volts of every node, ground's being none."""

    volts: dict[str, float]

    def between(self, a: str, b: str = GROUND) -> float:
        """Return the volts from one node to another."""
        return self.volts[a] - self.volts[b]

    def into_a(self, part: Part, node: str) -> float:
        """Return what a part takes from a node, A; under nothing where it gives."""
        return sum(it.leaves_a for it in part.terms(self.volts) if it.node == node)


def solved(parts: Sequence[Part], *, is_plain: bool = False) -> Solved:
    """Solve the volts of a circuit.

    Args:
        parts: what it is made of; one node is called 0 and is its ground.
        is_plain: nothing in it draws more the fewer volts it has, so that there is one answer and the straight way to it is tried first.
    Raises:
        NoSolution: none was found, as where a converter takes more than its source can ever give.
    Source: Kirchhoff's current law.
    """
    names = sorted({it for part in parts for it in part.nodes} - {GROUND})
    at = {name: place for place, name in enumerate(names)}
    volts = {GROUND: 0.0, **dict.fromkeys(names, 0.0), **_running(parts)}
    if is_plain and (straight := _settled(parts, volts, at, 0.0)) is not None:
        return Solved(straight)
    held_s = HELD_S  # as if a capacitor hung on each node, less and less of it
    for _ in range(STEPS_MOST):
        found = _settled(parts, volts, at, held_s)
        if found is None:
            held_s = max(8 * held_s, HELD_LEAST_S)
            continue
        is_still = max((abs(found[it] - volts[it]) for it in names), default=0.0) < EXACT_V
        volts = found
        if held_s == 0.0 and is_still:
            return Solved(volts)
        held_s = 0.0 if held_s < HELD_LEAST_S else held_s / 3
    raise NoSolution("what flows does not add up anywhere")


def _running(parts: Sequence[Part]) -> dict[str, float]:
    """Guess the volts of a circuit that runs: what sources and converters hold, and the same behind what leads on from there."""
    found = dict[str, float]()
    for it in parts:
        if isinstance(it, Source) and it.minus == GROUND:
            found[it.plus] = it.volts
        elif isinstance(it, Linear | Switching):
            found[it.output] = it.set_v
    for _ in parts:
        for it in parts:
            a, b = it.nodes[:2]
            if isinstance(it, Resistor | Diode | Switch) and GROUND not in (a, b) and (a in found) != (b in found):
                found.setdefault(a, found.get(b, 0.0))
                found.setdefault(b, found[a])
    return found


def _settled(parts: Sequence[Part], volts: Volts, at: Mapping[str, int], held_s: float) -> dict[str, float] | None:
    """Go from some volts to where currents add up, each node being held a little where it was; None where that is not reached."""
    now = dict(volts)
    for _ in range(ROUNDS_MOST):
        leaves, slopes = _summed(parts, now, at)
        for name, place in at.items():
            leaves[place] += held_s * (now[name] - volts[name])
            slopes[place][place] += held_s
        step = _eliminated(slopes, [-it for it in leaves])
        most = max(map(abs, step), default=0.0)
        share = min(1.0, STEP_MOST_V / most) if most > STEP_MOST_V else 1.0
        now = {GROUND: 0.0, **{name: now[name] + share * step[place] for name, place in at.items()}}
        if most < EXACT_V:
            return now
    return None


def _summed(parts: Iterable[Part], volts: Volts, at: Mapping[str, int]) -> tuple[list[float], list[list[float]]]:
    """Add up what leaves each node, and by how much it grows with each node's volts."""
    leaves = [LEAK_S * volts[name] for name in at]
    slopes = [[LEAK_S if row == column else 0.0 for column in range(len(at))] for row in range(len(at))]
    for part in parts:
        for term in part.terms(volts):
            row = at.get(term.node)
            if row is None:
                continue
            leaves[row] += term.leaves_a
            for name, slope in term.slopes:
                column = at.get(name)
                if column is not None:
                    slopes[row][column] += slope
    return leaves, slopes


def _eliminated(matrix: list[list[float]], right: list[float]) -> list[float]:
    """Solve a small set of linear equations, in place, the largest of each column first (Gaussian elimination)."""
    count = len(right)
    for column in range(count):
        pivot = max(range(column, count), key=lambda row: abs(matrix[row][column]))
        matrix[column], matrix[pivot], right[column], right[pivot] = matrix[pivot], matrix[column], right[pivot], right[column]
        head = matrix[column][column] or LEAK_S
        for row in range(column + 1, count):
            share = matrix[row][column] / head
            if share:
                right[row] -= share * right[column]
                mine, theirs = matrix[row], matrix[column]
                for place in range(column, count):
                    mine[place] -= share * theirs[place]
    out = [0.0] * count
    for row in range(count - 1, -1, -1):
        rest = right[row] - sum(matrix[row][column] * out[column] for column in range(row + 1, count))
        out[row] = rest / (matrix[row][row] or LEAK_S)
    return out
