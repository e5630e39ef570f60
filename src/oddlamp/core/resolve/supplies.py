"""Rails and the volts of every pin: what a plan says, or what is proposed."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Final

from oddlamp.core.design.supplies import NodeDesign, Picked, RailDesign
from oddlamp.core.design.values import NOT_YET, Slot, Value
from oddlamp.core.parts.models import Catalog, LogicPart
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.controls import HANDSETS
from oddlamp.core.plan.model import Node, Plan
from oddlamp.core.plan.signals import node_label
from oddlamp.core.resolve.chosen import is_fed_past_regulator, own_figures, pick_part
from oddlamp.core.resolve.feeds import FeedMaker


def resolve_rails(plan: Plan, catalog: Catalog, larger: Mapping[str, str]) -> dict[str, RailDesign]:
    """Give every rail its volts while nothing is drawn: from its source, a converter or a board's output, or say why not.

    ``larger`` are supplies that are proposed instead of the usual one, by source, because more is drawn than that gives.
    """
    maker = FeedMaker(plan, catalog, larger)
    rails = {rail_id: it for rail_id in plan.rails if (it := maker.rail(rail_id)) is not None}
    return {rail_id: replace(rail, label=_called(plan, rails, rail)) for rail_id, rail in rails.items()}


def supply_behind(plan: Plan, rails: Mapping[str, RailDesign], rail_id: str | None) -> str | None:
    """Return the source behind a rail, through converters and boards' own outputs; None where it is not known."""
    *_, last = (None, *_rails_behind(plan, rails, rail_id))
    return rails[last].source_id if last is not None else None


def ring_behind(plan: Plan, rails: Mapping[str, RailDesign], rail_id: str | None) -> tuple[str, ...]:
    """Return the rails that feed each other in a ring behind a rail, which bring no power in; empty where there is none."""
    walked = list(_rails_behind(plan, rails, rail_id))
    again = _before(plan, rails, walked[-1]) if walked else None
    return tuple(walked[walked.index(again) :]) if again in walked else ()


def _rails_behind(plan: Plan, rails: Mapping[str, RailDesign], rail_id: str | None) -> Iterator[str]:
    """Walk from a rail to what feeds it, as far as there is something, and no rail twice."""
    seen: set[str] = set()
    while rail_id in plan.rails and rail_id not in seen:
        here = str(rail_id)
        seen.add(here)
        yield here
        rail_id = _before(plan, rails, here)


def _before(plan: Plan, rails: Mapping[str, RailDesign], rail_id: str) -> str | None:
    """Return the rail a rail is made from, by a converter or a board; None where a source feeds it, or nothing."""
    if rails[rail_id].source_id is not None:
        return None
    feed = (plan.rails[rail_id].fed_by or "").partition(".")[0]
    converter = plan.converters.get(feed)
    return converter.from_rail if converter else getattr(plan.nodes.get(feed), "rail", None)


def _called(plan: Plan, rails: dict[str, RailDesign], rail: RailDesign) -> str:
    """Name a rail as plainly as the plan allows: its own label, the source that feeds no other like it, or the end it serves."""
    settled = plan.rails[rail.id]
    if settled.label:
        return settled.label
    board, _, is_output = (settled.fed_by or "").partition(".")
    if is_output:
        volts = "3.3" if is_output == "supply_3v3" else "5"
        return f"{plan.nodes[board].label or 'Board'}'s {volts}\u00a0V pin"
    by_id = rail.id.replace("_", " ").capitalize()
    source = _kind_of(rail)
    if not source:
        return by_id
    if sum(_kind_of(it) == source for it in rails.values()) == 1:
        return source
    end = plan.ends.get(rail.end or "")
    is_only_one = sum(other.end == rail.end for other in rails.values()) == 1
    return f"{end.label}, {source}" if end and end.label and is_only_one else by_id


def _kind_of(rail: RailDesign) -> str:
    return rail.source.label.partition(",")[0] if rail.source else ""


def resolve_nodes(plan: Plan, catalog: Catalog, rails: dict[str, RailDesign]) -> dict[str, NodeDesign]:
    """Give every node its part, and the volts its pins stand at."""
    nodes = {}
    for node_id, node in plan.nodes.items():
        part, picked = _part_of(plan, catalog, node_id, node)
        rail_id = getattr(node, "rail", None)
        nodes[node_id] = NodeDesign(
            id=node_id,
            node=node,
            label=node_label(plan, node_id),
            end=getattr(node, "end", None),
            rail_id=rail_id,
            part=part,
            picked=picked,
            logic=_logic(node_id, node, part, rails.get(rail_id or "")) if part else None,
        )
    return nodes


def _part_of(plan: Plan, catalog: Catalog, node_id: str, node: Node) -> tuple[LogicPart | None, Picked | None]:
    overrides = own_figures(node)
    if node.kind == "board":
        part_id, picked = pick_part(node.choice, proposal="board", catalog=catalog)
        part: LogicPart = as_used(catalog.board(part_id), overrides)
    elif node.kind == "module":
        part_id, picked = pick_part(node.choice, proposal=f"module-{_radio_met(plan, node_id)}", catalog=catalog)
        part = as_used(catalog.module(part_id), overrides)
    elif node.kind == "chip" and node.choice is not None and node.choice.part is not None:
        part_id, picked = node.choice.part, Picked(node.choice.part, "", "own")
        part = as_used(catalog.chip(part_id), overrides)
    else:
        return None, None
    return part, Picked(id=part_id, label=part.label, origin=picked.origin, why=picked.why)


def _radio_met(plan: Plan, node_id: str) -> str:
    """Return the radio that whoever shares a link with this module is met by: that of the link, else the first the other end speaks."""
    for link in plan.links.values():
        if link.kind == "air" and node_id in (link.a, link.b):
            if link.transport is not None:
                return RADIO_OF.get(link.transport, "wifi")
            other = plan.nodes[link.b if link.a == node_id else link.a]
            if other.kind in HANDSETS and other.speaks:
                return next(radio for radio in ("classic", "ble", "wifi") if radio in other.speaks)
    return "classic"


RADIO_OF: Final = {"classic-serial": "classic", "ble-serial": "ble"}


def _logic(node_id: str, node: Node, part: LogicPart, rail: RailDesign | None) -> Value:
    stage = f"nodes.{node_id}" if node.kind == "module" else f"pins.{node_id}"
    slot = Slot(id=f"nodes.{node_id}.logic_voltage_v", stage=stage, label="Level of its pins", unit="V")
    made, fed = part.logic_voltage_v or part.regulated_v, rail.voltage.value if rail is not None else None
    if part.logic_voltage_v is not None and fed is None:
        return slot.stated(part.logic_voltage_v)
    if made is not None and fed is not None and not is_fed_past_regulator(part, fed):
        why = f"its own regulator makes them of {rail.voltage.text}" if rail is not None else None
        return slot.stated(made, because=why)
    if rail is None:
        return slot.empty("no rail feeds this board")
    if rail.voltage.value is None:
        return slot.empty(rail.voltage.because or NOT_YET)
    return slot.filled(
        rail.voltage.value,
        origin=rail.voltage.origin,
        spread=(rail.voltage.low, rail.voltage.high),
        because="its pins stand at the rail's own volts"
        if part.logic_voltage_v is None
        else "fed past its own regulator, its pins stand at the rail's volts",
        working=rail.voltage.working,
    )
