"""From plan and catalogue to design: every value filled in, each with its origin."""

from oddlamp.core.design import Design
from oddlamp.core.electrical.crossings import resolve_crossings, resolve_leads
from oddlamp.core.electrical.lamps import resolve_lamps
from oddlamp.core.electrical.supplies import resolve_nodes, resolve_rails
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.own import with_own_parts
from oddlamp.core.pins.assign import assign_pins
from oddlamp.core.plan.built import as_built
from oddlamp.core.plan.model import Plan
from oddlamp.core.words.resolve import resolve_handsets, resolve_links, resolve_talks, resolve_vocabularies


def resolve(plan: Plan, catalog: Catalog) -> Design:
    """Fill in what the plan leaves open.

    Args:
        plan: a plan whose parts are all in the catalogue (``check_parts``).
        catalog: parts, sources and proposals.
    Returns:
        The design; a value that cannot be computed is None with ``because``, never an error.
    """
    plan, drifts = as_built(plan)
    catalog = with_own_parts(catalog, plan.parts)
    rails = resolve_rails(plan, catalog)
    nodes = resolve_nodes(plan, catalog, rails)
    vocabularies = resolve_vocabularies(plan, catalog)
    talks = resolve_talks(plan, vocabularies)
    airs, wires = resolve_links(plan, catalog, nodes)
    lamps = resolve_lamps(plan, catalog, nodes, rails)
    crossings = resolve_crossings(plan, catalog, nodes)
    return Design(
        plan=plan,
        catalog=catalog,
        rails=rails,
        nodes=nodes,
        handsets=resolve_handsets(plan, catalog, talks),
        airs=airs,
        wires=wires,
        talks=talks,
        vocabularies=vocabularies,
        pins=assign_pins(plan, nodes, lamps, crossings),
        lamps=lamps,
        crossings=crossings,
        leads=resolve_leads(plan, catalog, nodes, rails),
        drifts=drifts,
    )
