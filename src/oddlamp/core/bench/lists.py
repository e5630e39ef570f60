"""What to cut and what to buy: both counted off the wiring list and its circuit."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from oddlamp.core.bench.circuit import Circuit, Piece
from oddlamp.core.bench.wiring import Wire
from oddlamp.core.design.design import Design

SLACK_RATIO: Final = 0.1  # of a wire's length, and not under what a bend at each end takes; common practice
SLACK_LEAST_M: Final = 0.02
STRIP_M: Final = 0.006  # bared at each end for a breadboard or a screw; common practice


@dataclass(frozen=True, slots=True)
class Cut:
    """So many pieces of wire of one kind and length, with what to bare at each end, m."""

    count: int
    gauge_awg: int
    colour: str
    length_m: float
    strip_m: float


def cut_list(wires: Sequence[Wire]) -> tuple[Cut, ...]:
    """Count the wires to cut: longest first of each gauge and colour, with slack. Parts on their own legs need none; a wire with a part in it is two."""
    counts: Counter[tuple[int, str, float]] = Counter()
    for it in wires:
        if it.is_bare:
            continue
        halves = 2 if it.through is not None else 1
        length_m = it.runs.length_m / halves
        counts[it.runs.gauge_awg, it.runs.colour, round(length_m + max(SLACK_RATIO * length_m, SLACK_LEAST_M), 3)] += halves
    ordered = sorted(counts.items(), key=lambda it: (it[0][0], it[0][1], -it[0][2]))
    return tuple(Cut(count, gauge, colour, length_m, STRIP_M) for (gauge, colour, length_m), count in ordered)


@dataclass(frozen=True, slots=True)
class Bought:
    """So many parts of one kind; ``has`` of them are in the drawer, None where that is not told."""

    count: int
    what: str
    has: bool | None
    advice: str


def parts_list(design: Design, circuit: Circuit) -> tuple[Bought, ...]:
    """Count the parts of a circuit, in its order: what is in the drawer is told of resistors, whose values the plan keeps there."""
    counts: Counter[str] = Counter()
    first: dict[str, Piece] = {}
    for piece in circuit.pieces.values():
        if piece.buy:
            counts[piece.buy] += 1
            first.setdefault(piece.buy, piece)
    drawer = design.plan.drawer

    def has(piece: Piece) -> bool | None:
        if piece.kind != "resistor" or drawer is None or piece.made is None:
            return None
        return any(abs(it - piece.made) < 1e-6 * piece.made for it in drawer)

    return tuple(Bought(count, what, has(first[what]), _advice(first[what])) for what, count in counts.items())


def _advice(piece: Piece) -> str:
    """Say what it is fixed with: what may die goes into a socket, what comes apart gets a connector."""
    return {
        "module": "in a socket: it may die, and can then be changed",
        "board": "on headers, or in a socket",
        "chip": "in a socket",
        "transistor": "legs kept long until it works",
        "load": "on a connector, so that it comes apart",
        "lamp": "on a connector where it is on the move",
        "knob": "on a connector",
        "contact": "on a connector",
        "converter": "set with a meter before anything hangs on it",
    }.get(piece.kind, "")
