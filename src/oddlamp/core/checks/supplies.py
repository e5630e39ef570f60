"""Rules for supplies."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.passages import Severity
from oddlamp.core.design.supplies import NodeDesign, RailDesign
from oddlamp.core.design.values import Slot, Value
from oddlamp.core.english import inner, offered
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.parts.supply import SourcePart
from oddlamp.core.plan.document import at_path
from oddlamp.core.resolve.chosen import is_fed_past_regulator, window_of
from oddlamp.core.resolve.passages import judge_supply
from oddlamp.core.resolve.supplies import ring_behind


def coin_cells_are_warned(design: Design) -> Iterator[Breach]:
    """A cell that a child can swallow is named, with the caution that goes with it."""
    for rail in design.rails.values():
        if rail.source is None or not design.catalog.source(rail.source.id).is_swallowed:
            continue
        yield Breach(
            severity="look",
            where=rail.id,
            stage=rail.stage,
            message=f"{rail.label}: a child who swallows a coin cell is in danger. Close it in behind a screwed lid, keep spares and used ones away, never charge it.",
            working=(Working(formula="caution by kind of source", substituted=rail.source.label, source="common-practice"),),
            numbers={"cells": 1},
        )


def nodes_are_fed_inside_their_windows(design: Design) -> Iterator[Breach]:
    """A board takes its supply at its own pin or through its regulator, a module what its carrier takes."""
    for node, rail, window, severity in _fed_outside(design, "SUP-INPUT-WINDOW"):
        seen = rail.voltage.text if severity == "stop" else f"{rail.voltage.spread_text} at worst"
        through = (
            "at that pin" if node.part and is_fed_past_regulator(node.part, rail.voltage.known) else "through its own regulator"
        )
        message = f"The {inner(node.label)} takes {_limits(window)} {through}; {rail.label} gives {seen}."
        yield _fed(design, node, rail, window, severity, message, "V_least ≤ V_rail ≤ V_most of its input")


def clocks_have_their_volts(design: Design) -> Iterator[Breach]:
    """An 8-bit chip has the volts that its clock needs."""
    for node, rail, window, severity in _fed_outside(design, "SUP-CLOCK"):
        clock = node.part.clock_hz if node.part is not None else None
        speed = si(clock.value, "Hz") if clock is not None else "its clock"
        seen = rail.voltage.text if severity == "stop" else f"{si(rail.voltage.low, 'V')} at worst"
        message = f"The {inner(node.label)} runs at {speed}, which needs {si(window.low, 'V')}; {rail.label} gives {seen}: it may miscount, forget, or stand still."
        yield _fed(design, node, rail, window, severity, message, "V_rail ≥ what its clock needs")


def _fed_outside(design: Design, code: str) -> Iterator[tuple[NodeDesign, RailDesign, Sourced, Severity]]:
    for node in design.nodes.values():
        rail = design.rails.get(node.rail_id or "")
        for it in judge_supply(design, node):
            window = window_of(node.part, rail.voltage.known) if node.part is not None and rail is not None else None
            if it.code == code and rail is not None and window is not None:
                yield node, rail, window, it.severity


def _limits(window: Sourced) -> str:
    return f"{si(window.low, 'V')} to {si(window.high, 'V')}"


def _fed(
    design: Design, node: NodeDesign, rail: RailDesign, window: Sourced, severity: Severity, message: str, formula: str
) -> Breach:
    spread = f" ({rail.voltage.spread_text})" if rail.voltage.spread_text else ""
    put_in = f"{rail.voltage.text}{spread} against {_limits(window)}"
    return Breach(
        severity=severity,
        where=f"{node.id}.supply",
        stage=node.stage,
        message=message,
        working=(Working(formula=formula, substituted=put_in, source=window.source),),
        ways=partial(_other_supplies, design, node),
        numbers={"off_v": max(window.low - rail.voltage.low, rail.voltage.high - window.high)},
    )


def _other_supplies(design: Design, node: NodeDesign) -> Iterator[Move]:
    """Offer another rail at its place, and supplies that everything on its rail can stand."""
    mine = design.rails[node.rail_id or ""]
    for rail in design.rails.values():
        if rail.id != mine.id and rail.end == node.end and rail.voltage.value is not None and _suits(node, rail.voltage):
            yield Move(label=f"Feed it from {rail.label}", patch=at_path(("nodes", node.id, "rail"), rail.id))
    if mine.source_id is None:
        return
    others = [it for it in design.nodes.values() if it.rail_id == mine.id and it.part is not None]
    loads = [it.load for it in design.lamps.values() if it.load is not None and it.rail_id == mine.id and it.takes_rail]
    for part in sorted(design.catalog.sources.values(), key=_nearest_to_hand):
        if part.current_max_a is None or part.current_max_a.value < design.budgets[mine.id].wants_a:
            continue
        volts = Slot(id="", stage="", label="", unit="V").stated(part.voltage_v)
        is_fit = all(_suits(it, volts) for it in others)
        if is_fit and all(it.rated.value is None or it.rated.low <= volts.known <= it.rated.high for it in loads):
            patch = at_path(("sources", mine.source_id, "choice"), {"part": part.id, "overrides": None})
            yield Move(label=f"Take {offered(part.label)}", patch=patch)
            return


def _nearest_to_hand(it: SourcePart) -> tuple[bool, float, bool, float]:
    """Order supplies: none to be swallowed, near to 5 V, from the wall, and no larger than need be."""
    return (
        it.is_swallowed,
        abs(it.voltage_v.value - 5.0),
        it.kind != "adapter",
        it.current_max_a.value if it.current_max_a else 0.0,
    )


def _suits(node: NodeDesign, volts: Value) -> bool:
    window = window_of(node.part, volts.known) if node.part is not None else None
    return window is None or (window.low <= volts.low and volts.high <= window.high)


def nothing_feeds_itself(design: Design) -> Iterator[Breach]:
    """What feeds a board or a module comes from a source in the end, and not back from itself."""
    for node in design.nodes.values():
        ring = ring_behind(design.plan, design.rails, node.rail_id)
        if not ring:
            continue
        # The rails were walked against the power; told in the way it would flow, from this one's supply round to it again.
        around = " to ".join(inner(design.rails[rail].label) for rail in (*reversed(ring), ring[-1]))
        yield Breach(
            severity="stop",
            where=f"{node.id}.ring",
            stage=node.stage,
            message=f"The {inner(node.label)} is fed in a ring: {around}. Nothing in it brings power in.",
            working=(Working(formula="every rail ends at a source", substituted=around, source="common-practice"),),
            ways=partial(_out_of_ring, design, node, ring),
            numbers={"rails": len(ring)},
        )


def _out_of_ring(design: Design, node: NodeDesign, ring: tuple[str, ...]) -> Iterator[Move]:
    at = ("nodes", node.id, "rail")
    for rail in design.rails.values():
        is_outside = rail.id not in ring and rail.end == node.end and not ring_behind(design.plan, design.rails, rail.id)
        if is_outside and rail.voltage.value is not None and _suits(node, rail.voltage):
            yield Move(label=f"Feed it from {rail.label}", patch=at_path(at, rail.id))
    yield Move(label=f"Leave open what feeds the {inner(node.label)}", patch=at_path(at, None))


RULES: Final = (
    Rule(
        "SUP-RING",
        "whole",
        nothing_feeds_itself,
        "a board's or module's supply leads back to itself, through its own 3.3 V pin or a converter",
        "",
        "common practice",
    ),
    Rule(
        "SUP-INPUT-WINDOW",
        "module",
        nodes_are_fed_inside_their_windows,
        "a board's or module's rail stands outside what its supply pin or its own regulator takes",
        "only the rail's worst case does",
        "board and module parts, from memory",
    ),
    Rule(
        "SUP-CLOCK",
        "module",
        clocks_have_their_volts,
        "an 8-bit chip's supply is under what its clock needs",
        "only at its worst",
        "board part, from memory",
    ),
    Rule("COIN-CAUTION", "whole", coin_cells_are_warned, "", "a coin cell", "common practice"),
)
