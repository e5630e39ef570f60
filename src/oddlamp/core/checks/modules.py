"""Rules for modules: can the phone reach it, and is what is set in it legal."""

from collections.abc import Iterator

from oddlamp.core.base import Working, inner
from oddlamp.core.design import Design, NodeDesign
from oddlamp.core.findings import Breach, Move
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import at_path

RADIO_NAMES = {"classic": "classic serial", "ble": "BLE", "wifi": "Wi-Fi"}


def phone_can_reach(design: Design) -> Iterator[Breach]:
    """Both ends of a radio link speak one kind of radio, and it is the kind the link is meant to be."""
    for link_id, air in design.airs.items():
        link = design.plan.links[link_id]
        a, b = design.nodes[link.a], design.nodes[link.b]
        for node in (a, b):
            radios = _radios(design, node)
            if radios is None or air.radio in radios:
                continue
            other = b if node is a else a
            speaks = " and ".join(RADIO_NAMES[radio] for radio in radios) or "no radio"
            yield Breach(
                severity="stop",
                where=link_id,
                stage=air.stage,
                message=f"This {inner(node.label)} cannot reach the {inner(other.label)}: it speaks {speaks}, the link needs {RADIO_NAMES[air.radio]}.",
                working=(
                    Working(
                        formula="both ends share the link's radio",
                        substituted=f"{RADIO_NAMES[air.radio]} not in {speaks}",
                        source="common-practice",
                    ),
                ),
                fixes=tuple(_ways_to_meet(design, link_id, node, other)),
                numbers={"radios_missing": 1},
            )


def _radios(design: Design, node: NodeDesign) -> tuple[str, ...] | None:
    if node.id in design.handsets:
        return design.handsets[node.id].speaks
    return node.part.radios if node.part else None


def _ways_to_meet(design: Design, link_id: str, node: NodeDesign, other: NodeDesign) -> Iterator[Move]:
    handset, module = (node, other) if node.id in design.handsets else (other, node)
    if handset.id not in design.handsets:
        return
    for module_id, part in design.catalog.modules.items():
        shared = [radio for radio in part.radios if radio in design.handsets[handset.id].speaks]
        if module.node.kind == "module" and shared:
            patch = {
                **at_path(("nodes", module.id, "choice"), {"part": module_id}),
                **at_path(("links", link_id, "transport"), None),
            }
            yield Move(label=f"Take a {inner(part.label)}", patch=patch)
    if module.part and module.part.radios:
        speaks, is_theirs = design.handsets[handset.id].speaks, design.airs[link_id].radio in module.part.radios
        radio = design.airs[link_id].radio if is_theirs else module.part.radios[0]
        patch = {} if is_theirs else at_path(("links", link_id, "transport"), None)
        if radio not in speaks:
            label = f"Use a phone that speaks {RADIO_NAMES[radio]}"
            yield Move(label=label, patch={**at_path(("nodes", handset.id, "speaks"), [*speaks, radio]), **patch})
        elif not is_theirs:
            yield Move(label=f"Carry it by {RADIO_NAMES[radio]}", patch=patch)


def setup_is_legal(design: Design) -> Iterator[Breach]:
    """A module's name fits."""
    for node, part in _modules(design):
        setup = node.node.setup if node.node.kind == "module" else None
        if setup and setup.name and len(setup.name) > part.name_most_characters:
            yield Breach(
                severity="stop",
                where=f"nodes.{node.id}.name",
                stage=node.stage,
                message=f"The name {setup.name} has {len(setup.name)} characters. This family takes {part.name_most_characters}.",
                working=(
                    Working(
                        formula="length of name",
                        substituted=f"{len(setup.name)} > {part.name_most_characters}",
                        source="from-memory",
                    ),
                ),
                fixes=(
                    Move(
                        label=f"Shorten to {setup.name[: part.name_most_characters].strip()}",
                        patch=at_path(("nodes", node.id, "setup", "name"), setup.name[: part.name_most_characters].strip()),
                    ),
                ),
                numbers={"characters": len(setup.name)},
            )


def role_can_answer(design: Design) -> Iterator[Breach]:
    """A module a phone connects to waits as a slave; two modules are one of each."""
    for link_id in design.airs:
        link = design.plan.links[link_id]
        a, b = design.nodes[link.a], design.nodes[link.b]
        for node, other in ((a, b), (b, a)):
            if node.node.kind != "module" or node.node.setup is None:
                continue
            role = node.node.setup.role
            other_role = other.node.setup.role if other.node.kind == "module" and other.node.setup else None
            if role == "master" and other.id in design.handsets:
                message = f"The {inner(node.label)} is a master: it calls others and never answers the {inner(other.label)}."
            elif role is not None and role == other_role and node is a:
                message = f"Both modules are {role}s: one must call and one must answer."
            else:
                continue
            turned = "slave" if role == "master" else "master"
            yield Breach(
                severity="stop",
                where=f"nodes.{node.id}.role",
                stage=node.stage,
                message=message,
                working=(Working(formula="one end calls, the other answers", substituted=f"role {role}", source="from-memory"),),
                fixes=(Move(label=f"Make it a {turned}", patch=at_path(("nodes", node.id, "setup", "role"), turned)),),
                numbers={"roles": 1},
            )


def speed_is_legal(design: Design) -> Iterator[Breach]:
    """A wire runs at a speed the module can be set to."""
    for link_id, wire in design.wires.items():
        link = design.plan.links[link_id]
        for node, part in _modules(design):
            if node.id not in (link.a, link.b) or wire.baud.known in part.data_speeds_bd:
                continue
            near = min(part.data_speeds_bd, key=lambda speed: abs(speed - wire.baud.known))
            yield Breach(
                severity="stop",
                where=f"{link_id}.baud_rate_bd",
                stage=wire.stage,
                message=f"The {inner(node.label)} cannot be set to {wire.baud.text}.",
                working=(
                    Working(
                        formula="speed is one the family knows",
                        substituted=", ".join(f"{speed}" for speed in part.data_speeds_bd),
                        source="from-memory",
                    ),
                ),
                fixes=(Move(label=f"Use {near} Bd", patch=at_path(("links", link_id, "baud_rate_bd"), near)),),
                numbers={"speeds": 1},
            )


def _modules(design: Design) -> Iterator[tuple[NodeDesign, ModulePart]]:
    for node in design.nodes.values():
        if isinstance(node.part, ModulePart):
            yield node, node.part
