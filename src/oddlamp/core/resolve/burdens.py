"""What hangs on each rail, and what it takes of it: at rest, on average, and with all of it lit."""

from collections.abc import Iterable, Iterator, Mapping

from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.supplies import Burden, NodeDesign
from oddlamp.core.parts.models import BoardPart, Catalog, ChipPart, ModulePart
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.plan.model import Plan


def burdens_of(
    plan: Plan, catalog: Catalog, nodes: Mapping[str, NodeDesign], lamps: Mapping[str, LampDesign]
) -> Iterator[Burden]:
    """Walk everything that takes supply, boards and modules first; what is not known takes nothing, and is told elsewhere.

    A lamp takes it from its own rail where one comes to it, else from that of its host, through its pin. Dimmed lamps take
    all of it for moments; pixels follow the cap on their brightness, which their program keeps.
    """
    for node in nodes.values():
        if node.rail_id is not None and node.rail_id in plan.rails and (found := _of_node(node, node.rail_id)) is not None:
            yield found
    for lamp in lamps.values():
        rail_id = lamp.rail_id if lamp.takes_rail else nodes[lamp.host].rail_id
        if rail_id is not None and rail_id in plan.rails:
            yield _of_lamp(plan, catalog, lamp, rail_id)


def _of_node(node: NodeDesign, rail_id: str) -> Burden | None:
    part = node.part
    if not isinstance(part, BoardPart | ModulePart | ChipPart) or part.usual_a is None:
        return None
    usual, peak = part.usual_a, (None if isinstance(part, ChipPart) else part.peak_a) or part.usual_a
    least_a = 0.0 if isinstance(part, ModulePart) else usual.low
    return Burden(node.stage, node.label, rail_id, least_a, usual.value, peak.value, peak.high, why="while it works")


def _of_lamp(plan: Plan, catalog: Catalog, lamp: LampDesign, rail_id: str) -> Burden:
    dark_a, worst_a, most_a = 0.0, 0.0, 0.0
    if lamp.load is not None:
        dark_a, worst_a, most_a = _of_load(plan, lamp)
    lit_a = worst_a
    for channel in lamp.channels:
        if channel.point is None:
            continue
        current = channel.point.current_a
        worst_a += current.value * channel.in_parallel
        lit_a += (channel.current_with_pin.value or current.value) * channel.in_parallel
        # On one shared resistor the most through one LED is already all there is.
        most_a += current.most * (1 if channel.sharing == "one" else channel.in_parallel)
    own = getattr(plan.lamps[lamp.id], "usage_ratio", None)
    usual = catalog.proposals[f"usage-{_habit(lamp)}" if _habit(lamp) else "usage"]
    share = own if own is not None else float(usual.value or 1.0)
    return Burden(
        lamp.stage,
        lamp.label,
        rail_id,
        dark_a,
        dark_a + share * (lit_a - dark_a),
        worst_a,
        max(most_a, worst_a),
        lamp_id=lamp.id,
        lit_a=lit_a,
        why="your own share" if own is not None else usual.why,
    )


def _habit(lamp: LampDesign) -> str:
    return "pixels" if lamp.kind in PIXEL_KINDS else lamp.kind if lamp.kind in ("buzzer", "matrix") else ""


def _of_load(plan: Plan, lamp: LampDesign) -> tuple[float, float, float]:
    """Return what a load takes dark, lit, and lit at worst, A."""
    load = lamp.load
    if load is None or load.current.value is None:
        return 0.0, 0.0, 0.0
    if load.pixel is not None:
        cap = getattr(plan.lamps[lamp.id], "brightness_cap_ratio", None)
        share = 1.0 if cap is None else cap
        dark_a = load.pixels * load.pixel.dark_current_a.value
        each = load.pixel.colour_current_a
        return dark_a, dark_a + share * load.current.value, dark_a + share * load.current.value * each.high / each.value
    coil_a = load.supply_a or 0.0
    return 0.0, load.current.value + coil_a, load.current.high + coil_a


def lit_together_a(plan: Plan, taken: Iterable[tuple[str, float, float]]) -> tuple[float, float]:
    """Add up what lamps take, by their ids, nominal and at most, A: of a group that is never lit together only the largest counts."""
    apart = {member: name for name, group in plan.groups.items() if group.never_together for member in group.members}
    by_lamp: dict[str, tuple[float, float]] = {}
    for lamp_id, one, other in taken:
        before = by_lamp.get(lamp_id, (0.0, 0.0))
        by_lamp[lamp_id] = (before[0] + one, before[1] + other)
    nominal: dict[str, float] = {}
    most: dict[str, float] = {}
    for lamp_id, (one, other) in by_lamp.items():
        key = apart.get(lamp_id, f"lamp {lamp_id}")
        nominal[key], most[key] = max(nominal.get(key, 0.0), one), max(most.get(key, 0.0), other)
    return sum(nominal.values()), sum(most.values())
