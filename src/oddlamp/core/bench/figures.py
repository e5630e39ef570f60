"""Steps beside those of the meter: clocks timed with a watch, a strip's rails told from what it loses, and what is put in for good."""

from collections.abc import Iterator
from functools import partial
from typing import Any, Final

from oddlamp.core.base import si
from oddlamp.core.bench.circuit import Circuit, Piece
from oddlamp.core.bench.lists import FIXED
from oddlamp.core.bench.step import DIGIT, Step
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.supplies import StripDesign
from oddlamp.core.english import and_list
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.document import Document
from oddlamp.core.resolve.strips import ohms_that_lose

MINUTE_S: Final = 60.0
CRYSTAL_RATIO: Final = 0.006  # what is nearer than this from end to end is a crystal or a resonator; from memory
NAMED_MOST: Final = 4


def clocks(design: Design) -> Iterator[Step]:
    """Yield a step for each board whose clock is no crystal: by the program that tries the wiring, against a watch."""
    for node in design.nodes.values():
        clock = node.part.clock_hz if isinstance(node.part, BoardPart) else None
        if clock is None or node.part is None or clock.high - clock.low < CRYSTAL_RATIO * clock.value:
            continue
        yield Step(
            f"clock.{node.id}", "quiet", f"{node.label}: a minute by its clock.",
            "Let the program that tries the wiring run, its terminal open. It says each minute by its own clock: time one of them with a watch.",
            node.stage, unit="s", least=MINUTE_S * clock.value / clock.high, nominal=MINUTE_S, most=MINUTE_S * clock.value / clock.low,
            because=f"its clock is {si(clock.value, 'Hz')}, from {si(clock.low, 'Hz')} to {si(clock.high, 'Hz')}: its serial speeds are off as much",
            takes=("nodes", node.id, "choice"), figure=partial(_clock_taken, node.part.id, clock.value),
        )  # fmt: skip


def _clock_taken(part: str, clock_hz: float, minute_s: float) -> Document:
    """Return the clock that takes so long for its minute, with what a thumb on a watch is off."""
    value, off = clock_hz * MINUTE_S / minute_s, DIGIT["s"] / minute_s
    figure = {name: float(f"{value * by:.4g}") for name, by in (("value", 1.0), ("least", 1 - off), ("most", 1 + off))}
    return {"part": part, "overrides": {"clock_hz": {**figure, "note": "timed against a watch"}}}


def rail_taken(lamp: LampDesign, strip: StripDesign) -> dict[str, Any]:
    """Let what a chain loses be taken into the plan as the ohms of its rails: the figure that would lose so much."""
    part = lamp.load.pixel if lamp.load is not None else None
    if part is None or part.rail_ohm is None:
        return {}
    rail_ohm = part.rail_ohm.value

    def figure(lost_v: float) -> Document:
        value = float(f"{rail_ohm * ohms_that_lose(strip, lost_v):.3g}")
        return {"part": part.id, "overrides": {"rail_ohm": {"value": value, "note": "measured from end to end"}}}

    return {"takes": ("lamps", lamp.id, "choice"), "figure": figure}


def put_in_for_good(circuit: Circuit) -> Iterator[Step]:
    """Yield what changes from the mock-up to the final build: how each kind of part is put in then."""
    kinds: dict[tuple[str, str], list[Piece]] = {}
    for piece in circuit.pieces.values():
        if piece.kind in FIXED and piece.buy:
            kinds.setdefault(FIXED[piece.kind], []).append(piece)
    for (mock_up, final), pieces in kinds.items():
        named = list(dict.fromkeys(it.label for it in pieces))
        more = [f"{len(named) - NAMED_MOST} more"] if len(named) > NAMED_MOST else []
        yield Step(
            f"fixed.{pieces[0].kind}", "off", f"{and_list(named[:NAMED_MOST] + more)}: {final}.",
            f"On the mock-up: {mock_up}.", "", kind="look",
        )  # fmt: skip
