"""What to cut and what to buy: both counted off the wiring list and its circuit."""

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from oddlamp.core.bench.circuit import BAR, Circuit, Piece, PieceKind
from oddlamp.core.bench.wiring import RED, Wiring
from oddlamp.core.design.design import Design
from oddlamp.core.english import inner, plural
from oddlamp.core.layouts.strips import made_of, stretches
from oddlamp.core.plan.layouts import Layout
from oddlamp.core.plan.lights import PixelLamp
from oddlamp.core.resolve.feeds import LEAD_AWG
from oddlamp.core.resolve.loads import METRE

SLACK_RATIO: Final = 0.1  # of a wire's length, and not under what a bend at each end takes; common practice
SLACK_LEAST_M: Final = 0.02
STRIP_M: Final = 0.006  # bared at each end for a breadboard or a screw; common practice


@dataclass(frozen=True, slots=True)
class Cut:
    """So many pieces of wire of one kind and length, with what to bare at each end, m; or of strip, which has no gauge and is cut at its marks."""

    count: int
    gauge_awg: int | None
    colour: str
    length_m: float
    strip_m: float


def cut_list(design: Design, of: Wiring) -> tuple[Cut, ...]:
    """Count what is to cut: wires with slack, longest first of each gauge and colour, then strip. Parts on their own legs need no wire; a wire with a part in it is two."""
    wires, counts = of.wires, Counter[tuple[int, str, float]]()
    for it in wires:
        if it.is_bare:
            continue
        halves = 2 if it.through is not None else 1
        counts[it.runs.gauge_awg, it.runs.colour, _with_slack(it.runs.length_m / halves)] += halves
    pieces = Counter[tuple[int, float]]()
    for name, layout in _chains(design):
        ends = _wires_on(of, name)
        for stretch in stretches(layout):
            if made_of(layout) == "strip":
                pieces[stretch.count, round(stretch.length_m, 3)] += 1
            for gauge, colour in ends if stretch.then_m is not None else ():
                counts[gauge, colour, _with_slack(stretch.then_m or 0.0)] += 1
    for spread in design.spreads.values():
        for name, leads in spread.leads.items():
            each = len(spread.spots[name]) // len(leads)
            gauge, colour = next(iter(_wires_on(of, name)), (LEAD_AWG, RED))
            for at, (here, there) in enumerate(pairwise(spread.spots[name]), 1):
                if at % each:  # within a string
                    counts[gauge, colour, _with_slack(math.dist(here, there))] += 1
    for lamp in design.lamps.values():
        if lamp.kind == "strip":
            pieces[0, round(getattr(design.plan.lamps[lamp.id], "length_m", None) or METRE, 3)] += 1
    ordered = sorted(counts.items(), key=lambda it: (it[0][0], it[0][1], -it[0][2]))
    cut = [Cut(count, gauge, colour, length_m, STRIP_M) for (gauge, colour, length_m), count in ordered]
    strips = sorted(pieces.items(), key=lambda it: -it[0][1])
    cut += [
        Cut(many, None, f"strip of {count} pixels" if count else "strip", length_m, 0.0) for (count, length_m), many in strips
    ]
    return tuple(cut)


def _with_slack(length_m: float) -> float:
    return round(length_m + max(SLACK_RATIO * length_m, SLACK_LEAST_M), 3)


def _chains(design: Design) -> Iterator[tuple[str, Layout]]:
    """Walk the chains of pixels that are told with their runs or places."""
    for name, lamp in design.plan.lamps.items():
        if isinstance(lamp, PixelLamp):
            yield name, lamp.layout or Layout()


def _wires_on(of: Wiring, lamp: str) -> list[tuple[int, str]]:
    """Return gauge and colour of the wires that a chain hangs on, each once: so many go on from piece to piece."""
    found = [
        (it.runs.gauge_awg, it.runs.colour)
        for it in of.wires
        if not it.is_bare
        and any(tap.pin != BAR and of.circuit.pieces[tap.piece].stage == f"lamps.{lamp}" for tap in (it.start, it.end))
    ]
    return list(dict.fromkeys(found))


@dataclass(frozen=True, slots=True)
class Bought:
    """So many parts of one kind. ``has`` is how many there are and None where that is not told, ``has_why`` why where it is not the plan's own word; ``for_final`` tells what only the final build takes."""

    count: int
    what: str
    has: int | None
    has_why: str
    price: float | None
    mock_up: str
    final: str
    for_final: bool = False

    @property
    def missing(self) -> int:
        """How many are to be bought."""
        return max(0, self.count - (self.has or 0))


def parts_list(design: Design, circuit: Circuit) -> tuple[Bought, ...]:
    """Count the parts of a circuit, in its order, then what the final build takes besides: sockets for what may die, connectors where it comes apart.

    What is there is told by the plan's stock; of resistors also by its drawer, which says values and not how many: there is enough.
    """
    counts, more = Counter[str](), Counter[str]()
    first: dict[str, Piece] = {}
    for piece in circuit.pieces.values():
        if piece.buy:
            counts[piece.buy] += piece.in_series
            first.setdefault(piece.buy, piece)
        extra = _besides(piece)
        if extra:
            more[extra] += 1
    stock = design.plan.bench.stock if design.plan.bench is not None else {}

    def bought(what: str, count: int, fixed: tuple[str, str], *, for_final: bool = False) -> Bought:
        kept = stock.get(what)
        has = kept.has if kept is not None else None
        why = "" if has is not None else "none is taken to be there until it is told"
        if has is None and what in first and _is_in_drawer(design, first[what]):
            has, why = count, "its value is in the drawer"
        return Bought(count, what, has, why, kept.price if kept is not None else None, *fixed, for_final=for_final)

    return (
        *(bought(what, count, FIXED.get(first[what].kind, ("", ""))) for what, count in counts.items()),
        *(bought(what, count, ("", BESIDES_WHY), for_final=True) for what, count in more.items()),
    )


def _is_in_drawer(design: Design, piece: Piece) -> bool:
    drawer = design.plan.drawer
    if piece.kind != "resistor" or drawer is None or piece.made is None:
        return False
    return any(abs(it - piece.made) < 1e-6 * piece.made for it in drawer)


BESIDES_WHY: Final = "so that it comes apart, and what died can be changed"
# How each kind is put in, first on the mock-up and then for good; common practice, no source.
FIXED: Final[dict[PieceKind, tuple[str, str]]] = {
    "module": ("jumpers to its header", "in a socket: it may die, and can then be changed"),
    "board": ("jumpers to its headers", "in a socket, or on headers"),
    "chip": ("in the breadboard", "in a socket"),
    "transistor": ("legs kept long", "soldered, legs short"),
    "resistor": ("legs kept long", "soldered; those of lamps near the board"),
    "diode": ("legs kept long", "soldered; the ring as on the drawing"),
    "zener": ("legs kept long", "soldered; the ring as on the drawing"),
    "capacitor": ("beside what it steadies", "soldered right there, its stripe to minus"),
    "fuse": ("left out only while a bench supply limits the current", "in a holder near the plus of its source"),
    "load": ("jumpers or clips", "on a connector, so that it comes apart"),
    "lamp": ("in the breadboard", "on a connector; heat-shrink over its joints"),
    "knob": ("jumpers to its legs", "on a connector, its nut tight"),
    "contact": ("jumpers to its legs", "on a connector"),
    "sensor": ("jumpers to its legs", "on a connector"),
    "receiver": ("in the breadboard", "on a connector, looking out"),
    "converter": ("set with a meter before anything hangs on it", "its trimmer fixed with a drop of lacquer"),
    "source": ("with its plug, switched on last", "with strain relief; a fuse in its plus"),
}


def _besides(piece: Piece) -> str:
    """Name what the final build takes for a part: a socket for what may die, a connector where it comes apart."""
    if piece.kind in ("module", "board", "chip"):
        return f"Socket for {inner(piece.buy or piece.label)}"
    if piece.kind in ("lamp", "load", "knob", "contact", "sensor", "receiver") and piece.pins:
        return f"Connector pair, {plural(len(piece.pins), 'pin')}"
    return ""
