"""Families of modules held against each other for one plan: who can reach them, who calls, what they do without a board."""

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.modules.goals import role_of
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.resolve.passages import RADIO_NAMES, radios_of


def families_compared(design: Design, node: NodeDesign) -> list[tuple[str, ModulePart, str]]:
    """List the families for a place of the plan with what each would mean there; those that cannot be there come last."""
    told = [(name, part, *_in_short(design, node, part)) for name, part in design.catalog.modules.items()]
    return [(name, part, detail) for name, part, detail, _ in sorted(told, key=lambda it: not it[3])]


def _in_short(design: Design, node: NodeDesign, part: ModulePart) -> tuple[str, bool]:
    air = next(
        (design.plan.links[it] for it in design.airs if node.id in (design.plan.links[it].a, design.plan.links[it].b)), None
    )
    other = design.nodes[air.b if air.a == node.id else air.a] if air is not None else None
    speaks = radios_of(design, other) if other is not None else None
    meets = speaks is None or any(it in speaks for it in part.radios)
    must_call = role_of(design, node) == "master"
    calls = "master" in part.roles
    hung = [pin for pin in design.pins if pin.host == node.id]
    holds = len(hung) <= len(part.outputs) or not hung
    told = [" and ".join(RADIO_NAMES[it] for it in part.radios)]
    if other is not None:
        told.append(f"the {inner(other.label)} {'opens' if meets else 'does not open'} it")
    told.append("calls or waits" if calls else "only waits")
    if part.range_m is not None:
        told.append(f"about {si(part.range_m.value, 'm')}")
    if part.usual_a is not None and part.peak_a is not None:
        told.append(f"{si(part.usual_a.value, 'A')}, peaks of {si(part.peak_a.value, 'A')}")
    if part.outputs:
        told.append(f"holds {plural(len(part.outputs), 'lamp')} with no board")
    if part.wants_pulled:
        told.append("bare")
    return ", ".join(told), meets and holds and (calls or not must_call)
