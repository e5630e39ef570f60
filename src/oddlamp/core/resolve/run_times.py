"""How long each source lasts for this plan, down to where the chain really stops."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import NamedTuple

from oddlamp.core.base import Working, si
from oddlamp.core.design.supplies import Budget, NodeDesign, RailDesign, RunTime
from oddlamp.core.design.values import Slot
from oddlamp.core.electrical.cells import lasts
from oddlamp.core.english import inner
from oddlamp.core.parts.supply import SourcePart
from oddlamp.core.resolve.chosen import window_of


class Stop(NamedTuple):
    """Volts under which something on a chain stops, and what."""

    volts: float
    what: str


def run_times_of(
    rails: Mapping[str, RailDesign], nodes: Mapping[str, NodeDesign], budgets: Mapping[str, Budget]
) -> dict[str, RunTime]:
    """Work out how long each source with a charge lasts, by the id of its rail."""
    found = {}
    for rail in rails.values():
        part = rail.feed.source if rail.feed is not None else None
        if rail.feed is not None and part is not None and part.charge_ah is not None and rail.voltage.value is not None:
            average_a = budgets[rail.id].average.known
            made = run_time(part, average_a, stops_at(rail, rails, nodes), rail.stage, rail.feed.lead_ohm)
            if made is not None:
                found[rail.id] = made
    return found


def run_time(part: SourcePart, average_a: float, stops: Stop | None, stage: str, lead_ohm: float = 0.0) -> RunTime | None:
    """Work out how long a kind of source would last; None where it has no charge, or nothing is drawn."""
    if part.charge_ah is None or average_a <= 0:
        return None
    lost_v = average_a * (lead_ohm + (part.resistance_ohm.value if part.resistance_ohm is not None else 0.0))
    empty = Stop(part.empty_v.value if part.empty_v is not None else 0.0, "it is empty")
    last = max((empty, *((stops,) if stops is not None else ())), key=lambda it: it.volts)
    it = lasts(part.charge_ah.value, average_a, part.curve, last.volts + lost_v)
    slot = Slot(id=f"{stage}.run_time_s", stage=stage, label="It lasts", unit="s")
    put_in = f"{si(part.charge_ah.value, 'Ah')} / {si(average_a, 'A')} = {hours(it.at_best_s)}"
    steps = [Working(formula="t = Q / I, at best", substituted=put_in, source="horowitz-hill")]
    if part.curve:
        put_in = f"{last.what} at {si(last.volts, 'V')}, and {si(lost_v, 'V')} are lost inside: {si(it.used_ratio, 'ratio')} of it, {hours(it.lasts_s)}"
        steps.append(Working(formula="as much of its charge as lies above its cut-off", substituted=put_in, source="from-memory"))
    note = "self-discharge, cold and age are left out"
    value = slot.filled(it.lasts_s, origin="computed", spread=(it.lasts_s, it.at_best_s), because=note, working=tuple(steps))
    value = replace(value, text=hours(it.lasts_s), spread_text=f"{hours(it.lasts_s)} to {hours(it.at_best_s)}")
    return RunTime(value, hours(it.lasts_s), hours(it.at_best_s), average_a, last.volts + lost_v, last.what, it.used_ratio)


def stops_at(rail: RailDesign, rails: Mapping[str, RailDesign], nodes: Mapping[str, NodeDesign]) -> Stop | None:
    """Return the volts of a source's rail under which the first thing on its chain stops; None where nothing is known to."""
    found: list[Stop] = []
    for node in nodes.values():
        if node.rail_id == rail.id and node.part is not None and rail.voltage.value is not None:
            window = window_of(node.part, rail.voltage.value)
            if window is not None:
                found.append(Stop(window.low, f"the {inner(node.label)} stops"))
    for other in rails.values():
        converter = other.feed.converter if other.feed is not None and other.feed.from_rail == rail.id else None
        if converter is not None and other.feed is not None:
            drop_v = converter.dropout_v.value if converter.dropout_v is not None else 0.0
            least_v = max(converter.input_window_v.low, other.feed.set_v + drop_v if converter.kind != "boost" else 0.0)
            found.append(Stop(least_v, f"the {converter.label[:1].lower()}{converter.label[1:]} lets go"))
    return max(found, key=lambda it: it.volts, default=None)


def hours(time_s: float) -> str:
    """Write a run time as people say it: minutes, hours, days."""
    for unit_s, name, most in ((60.0, "min", 120.0), (3600.0, "h", 72.0), (86400.0, "days", float("inf"))):
        if time_s / unit_s < most:
            return f"{float(f'{time_s / unit_s:.2g}'):g}\u00a0{name}"
    return ""


def compared(
    sources: Mapping[str, SourcePart], rail: RailDesign, average_a: float, stops: Stop | None
) -> Iterator[tuple[SourcePart, RunTime]]:
    """Walk the kinds of source that would stand in a rail's place, with how long each would last."""
    volts = rail.voltage.value
    for part in sources.values():
        if volts is None or part.charge_ah is None or not 0.8 * volts <= part.voltage_v.value <= 1.25 * volts:
            continue
        made = run_time(part, average_a, stops, rail.stage)
        if made is not None:
            yield part, made
