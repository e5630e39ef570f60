"""From plan and catalogue to design: every value filled in, each with its origin."""

from collections.abc import Mapping
from dataclasses import replace

from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.lines import LevelDesign, PinDesign, PinLoad, SignalDesign
from oddlamp.core.design.spreads import leads_of
from oddlamp.core.design.supplies import Budget, NodeDesign, RailDesign
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.own import with_own_parts
from oddlamp.core.pins.assign import assign_pins, deaf_converters
from oddlamp.core.plan.built import as_built
from oddlamp.core.plan.edits import TakingOut
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import Line, signals
from oddlamp.core.resolve.budgets import Tree, budgets_of, larger_sources, loaded_rails
from oddlamp.core.resolve.burdens import burdens_of
from oddlamp.core.resolve.dimming import at_their_timers
from oddlamp.core.resolve.lamps import resolve_lamps
from oddlamp.core.resolve.levels import resolve_levels
from oddlamp.core.resolve.passages import resolve_passages
from oddlamp.core.resolve.run_times import run_times_of
from oddlamp.core.resolve.spreads import resolve_spreads
from oddlamp.core.resolve.straps import starts_at
from oddlamp.core.resolve.strips import resolve_strips
from oddlamp.core.resolve.supplies import resolve_nodes, resolve_rails
from oddlamp.core.resolve.words import resolve_handsets, resolve_links, resolve_talks, resolve_vocabularies


def resolve(plan: Plan, catalog: Catalog, before: Design | None = None) -> Design:
    """Fill in what the plan leaves open.

    Args:
        plan: a plan whose parts are all in the catalogue (``check_parts``).
        catalog: parts, sources and proposals.
        before: the design of a plan much like it, to take over what is the same in both; the result is as without it.
    Returns:
        The design; a value that cannot be computed is None with ``because``, never an error.
    """
    plan, differences = as_built(plan)
    catalog = with_own_parts(catalog, plan.parts)
    vocabularies = resolve_vocabularies(plan, catalog)
    talks = resolve_talks(plan, vocabularies)
    rails, nodes, lamps, loads, budgets = _supplied(plan, catalog, before)
    airs, wires = resolve_links(plan, catalog, nodes)
    lines = signals(plan)
    spreads = resolve_spreads(plan, catalog)
    leads = leads_of(spreads)
    levels = resolve_levels(plan, catalog, nodes, rails, lines, leads)
    deaf = deaf_converters(plan, nodes, airs)
    assigned = assign_pins(plan, catalog, nodes, lines, deaf)
    pins: dict[tuple[str, str], PinDesign] = {(pin.line.id, pin.field): pin for pin in assigned}
    lamps = at_their_timers(lamps, nodes, pins)
    design = Design(
        plan=plan,
        catalog=catalog,
        rails=rails,
        budgets=budgets,
        run_times=run_times_of(rails, nodes, budgets),
        strips=resolve_strips(plan, rails, budgets, lamps, leads),
        nodes=nodes,
        handsets=resolve_handsets(plan, catalog, talks),
        airs=airs,
        wires=wires,
        talks=talks,
        vocabularies=vocabularies,
        lamps=lamps,
        signals={
            name: _joined(plan, nodes, rails, lamps, line, pins, levels.get(name), loads.get(name))
            for name, line in lines.items()
        },
        taking_out=TakingOut(plan, lines),
        spreads=spreads,
        built_differences=differences,
    )
    return replace(design, passages=resolve_passages(design))


Supplied = tuple[dict[str, RailDesign], dict[str, NodeDesign], dict[str, LampDesign], dict[str, PinLoad], dict[str, Budget]]


def _supplied(plan: Plan, catalog: Catalog, before: Design | None) -> Supplied:
    """Work out rails, what hangs on them, and what that makes of the rails: what is lit follows its rail, and its rail what is lit.

    Once for rails without a load; again where a proposed supply is too small and a larger one takes its place; and once more
    with the rails as their load leaves them.
    """
    larger: dict[str, str] = {}
    for _ in range(2):
        rails = resolve_rails(plan, catalog, larger)
        nodes = resolve_nodes(plan, catalog, rails)
        lamps, loads = resolve_lamps(plan, catalog, nodes, rails, before)
        tree = Tree(plan, catalog, rails, nodes, burdens_of(plan, catalog, nodes, lamps))
        found = larger_sources(tree)
        if not found:
            break
        larger = found
    moved, loaded = loaded_rails(tree)
    if moved != rails:
        rails = moved
        nodes = resolve_nodes(plan, catalog, rails)
        lamps, loads = resolve_lamps(plan, catalog, nodes, rails, before)
    return rails, nodes, lamps, loads, budgets_of(tree, loaded)


def noted(plan: Plan, design: Design) -> Plan:
    """Note the proposed pins of a design in its plan, so that they stay where they still fit, whatever is changed next."""
    shown = {pin.key: pin.label for pin in design.pins if pin.origin == "proposed" and pin.label is not None}
    return plan if shown == plan.shown_pins else plan.model_copy(update={"shown_pins": shown})


def _joined(
    plan: Plan,
    nodes: Mapping[str, NodeDesign],
    rails: Mapping[str, RailDesign],
    lamps: Mapping[str, LampDesign],
    line: Line,
    pins: Mapping[tuple[str, str], PinDesign],
    level: LevelDesign | None,
    load: PinLoad | None,
) -> SignalDesign:
    """Put together what is worked out of one line."""
    pin = pins.get((line.id, "pin"))
    lamp = lamps.get(line.owner_id) if line.owner[0] == "lamps" else None
    starts = starts_at(plan, nodes, rails, line, pin, level, lamp)
    return SignalDesign(line, pin, pins.get((line.id, "far_pin")), level, load, starts)
