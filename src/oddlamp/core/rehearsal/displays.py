"""The dots of displays over a rehearsal: what each text lights while it stands, column by column while it moves."""

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from oddlamp.core.design.design import Design
from oddlamp.core.layouts.can import face_of
from oddlamp.core.layouts.signs import Dots, Face, lit, module_rows, step_at
from oddlamp.core.plan.lights import MatrixLamp
from oddlamp.core.rehearsal.trace import Shown, Trace

NO_DOTS: Dots = frozenset()


class DotsPoint(NamedTuple):
    """What a display lights from a moment on, rows and columns, and the text that is."""

    t_s: float
    dots: Dots
    text: str


class RowsPoint(NamedTuple):
    """What is written to the modules of a display: eight bytes each in hex, in the order of the chain."""

    t_s: float
    rows_hex: str


def dots_of(face: Face, trace: Trace, lamp_id: str, since_s: float = 0.0) -> Iterator[DotsPoint]:
    """Yield what a display lights, from what stands there at a moment on, until the rehearsal ends."""
    shown = trace.shows[lamp_id]
    for it, after in pairwise((*shown, Shown(trace.ends_at_s + 1e-6, ""))):
        if after.t_s < since_s:
            continue
        column_ms = it.manner.column_ms
        if not it.text or not column_ms:
            yield DotsPoint(it.t_s, lit(face, it.text, it.manner, 0) if it.text else NO_DOTS, it.text)
            continue
        gone_ms = max(round((max(it.t_s, since_s) - it.told_s) * 1000), 0)
        at_s = max(it.t_s, since_s)
        while at_s < after.t_s:
            yield DotsPoint(at_s, lit(face, it.text, it.manner, step_at(face, it.text, column_ms, gone_ms)), it.text)
            gone_ms += column_ms - gone_ms % column_ms
            at_s = it.told_s + gone_ms / 1000


def rows_of(design: Design, trace: Trace) -> dict[str, tuple[RowsPoint, ...]]:
    """Return what a rehearsal writes to the modules of each display."""
    found = {}
    for name in trace.shows:
        plan = design.plan.lamps[name]
        face = face_of(plan)
        if isinstance(plan, MatrixLamp) and face is not None:
            count, rows = plan.count or 1, list[RowsPoint]()
            for it in dots_of(face, trace, name):
                written = "".join(bytes(one).hex() for one in module_rows(count, plan.panel, it.dots))
                if not rows or rows[-1].rows_hex != written:
                    rows.append(RowsPoint(it.t_s, written))
            found[name] = tuple(rows)
    return found
