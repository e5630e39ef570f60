"""What is drawn from each rail in the course of a rehearsal, and where that is more than its feed gives."""

from bisect import insort
from collections.abc import Mapping
from typing import NamedTuple

from oddlamp.core.design.design import Design
from oddlamp.core.electrical.cells import SECONDS_PER_HOUR
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.rehearsal.trace import LampPoint, Trace


class RailPoint(NamedTuple):
    """What is drawn from a rail from a moment on."""

    t_s: float
    current_a: float


class RailCourse(NamedTuple):
    """What was drawn from a rail: over time, at most, in all, and when it was first more than its feed gives."""

    points: tuple[RailPoint, ...]
    most_a: float
    drawn_ah: float
    short_at_s: float | None


def drawn_of(design: Design, trace: Trace) -> dict[str, RailCourse]:
    """Add up what is drawn from every rail a source feeds, rails made from it included.

    Boards and modules take what they take on average; a lamp what flows, its dimmed part of the time averaged as the trace
    has it. So it is never more than a rail's worst instant.
    """
    found = {}
    for rail in design.rails.values():
        if rail.source_id is None:
            continue
        budget = design.budgets[rail.id]
        fixed_a = sum(it.average_a for it in budget.own if not it.lamp_id)
        fixed_a += sum(average_a for average_a, _, _ in budget.on.values())
        changes = list[tuple[float, float]]()
        for it in budget.own:
            if it.lamp_id:
                fixed_a += it.least_a
                for channel, times in _channels(design, it.lamp_id).items():
                    _add(changes, trace.lamps, f"{it.lamp_id}.{channel}", times)
        found[rail.id] = _course(changes, fixed_a, trace.ends_at_s, budget.gives.known if budget.gives is not None else None)
    return found


def shares_of(design: Design, trace: Trace) -> dict[str, float]:
    """Return how much of its full light each lamp gave on average in a rehearsal, 0 to 1, by its id; nothing of one that lasts no time."""
    if trace.ends_at_s <= 0:
        return {}
    found = {}
    for lamp_id, burden in design.burdens.items():
        changes = list[tuple[float, float]]()
        for channel, times in _channels(design, lamp_id).items():
            _add(changes, trace.lamps, f"{lamp_id}.{channel}", times)
        full_a = burden.lit_a - burden.least_a
        if full_a > 0:
            mean_a = sum(more_a * (trace.ends_at_s - t_s) for t_s, more_a in changes if t_s < trace.ends_at_s) / trace.ends_at_s
            found[lamp_id] = min(1.0, max(0.0, mean_a / full_a))
    return found


def _channels(design: Design, lamp_id: str) -> dict[str, int]:
    """Return the lines of a lamp that current is told for, with how many LEDs side by side each stands for."""
    lamp = design.lamps[lamp_id]
    if lamp.channels:
        return {it.id: it.in_parallel for it in lamp.channels}
    return {"data" if lamp.kind in (*PIXEL_KINDS, "matrix") else "main": 1}


def _add(changes: list[tuple[float, float]], lamps: Mapping[str, tuple[LampPoint, ...]], name: str, times: int) -> None:
    before_a = 0.0
    for point in lamps.get(name, ()):
        if point.current_a != before_a:
            insort(changes, (point.t_s, times * (point.current_a - before_a)))
            before_a = point.current_a


def _course(changes: list[tuple[float, float]], fixed_a: float, ends_s: float, gives_a: float | None) -> RailCourse:
    points, now_a, drawn_as, last_s = [RailPoint(0.0, fixed_a)], fixed_a, 0.0, 0.0
    for t_s, more_a in changes:
        drawn_as += now_a * (t_s - last_s)
        now_a, last_s = now_a + more_a, t_s
        if points[-1].t_s == t_s:
            points[-1] = RailPoint(t_s, now_a)
        else:
            points.append(RailPoint(t_s, now_a))
    drawn_as += now_a * max(0.0, ends_s - last_s)
    short = next((it.t_s for it in points if gives_a is not None and it.current_a > gives_a * (1 + 1e-9)), None)
    return RailCourse(tuple(points), max(it.current_a for it in points), drawn_as / SECONDS_PER_HOUR, short)
