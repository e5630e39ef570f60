"""What a module of a plan shall be: what the plan says of it, and what is proposed where it is silent, one answer for all who ask."""

import re
from collections.abc import Mapping
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import and_list
from oddlamp.core.modules.script import PORT, UNKNOWN, Goal, proposed_pin
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.model import Link, Setup
from oddlamp.core.plan.signals import label_of


class Wanted(NamedTuple):
    """A goal, and which of its fields the plan is silent about: they are proposed."""

    goal: Goal
    proposed: tuple[str, ...]


class Believed(NamedTuple):
    """What a module is believed to be, by what was taken from its answers into the plan."""

    state: Literal["new", "set", "differs", "unknown"]
    text: str


OF_FAMILY: Final = {"name": "name", "pin_code": "pin", "role": "role", "found_bd": "speed"}
SEEN: Final = {"name": "name", "pin_code": "PIN", "role": "role", "found_bd": "speed"}


def wanted_settings(design: Design, node: NodeDesign, part: ModulePart) -> dict[str, str | int]:
    """Return what shall be set in a module of what can be set there, by the names of what was seen and where it was found."""
    goal, dialect = wanted_of_module(design, node, part).goal, dialect_of(design, node)
    wants: dict[str, str | int] = {"name": goal.name, "pin_code": goal.pin, "role": goal.role, "found_bd": goal.speed_bd}
    kept = dialect.settings if dialect is not None else {}
    return {name: value for name, value in wants.items() if value and OF_FAMILY[name] in kept}


def believed_of(design: Design, node: NodeDesign) -> Believed:
    """Say what a module is believed to be: new, as far as nobody asked it; else as the plan says, or not, or not wholly known."""
    setup, part = setup_of_node(node), node.part
    if not isinstance(part, ModulePart):
        return Believed("unknown", "nothing is known of it")
    wants = wanted_settings(design, node, part)
    seen = {name: getattr(setup.seen, name) for name in wants if getattr(setup.seen, name, None) is not None}
    if setup.found_bd is not None and "found_bd" in wants:
        seen["found_bd"] = setup.found_bd
    if not seen and setup.version is None and setup.address is None:
        return Believed("new", "as it left the factory, as far as anybody told")
    others = [
        f"its {SEEN[name]} is {_told(name, it)} and not {_told(name, wants[name])}"
        for name, it in seen.items()
        if it != wants[name]
    ]
    if others:
        return Believed("differs", f"not as the plan says: {and_list(others)}")
    unread = [SEEN[name] for name in wants if name not in seen]
    if unread:
        return Believed("unknown", f"known in part: nobody has read back its {and_list(unread)}")
    return Believed("set", "as the plan says, by what it answered last")


def seen_patch(node_id: str, seen: Mapping[str, str | int]) -> Document:
    """Note what a module answered, or what was set in it: name, PIN and role as seen, the speed as the one it was found at."""
    found = {name: value for name, value in seen.items() if name == "found_bd"}
    rest = {name: value for name, value in seen.items() if name != "found_bd"}
    return at_path(("nodes", node_id, "setup"), {**found, **({"seen": rest} if rest else {})})


def _told(name: str, value: str | int) -> str:
    return si(value, "Bd") if name == "found_bd" and isinstance(value, int) else str(value)


def setup_of_node(node: NodeDesign) -> Setup:
    """Return what the plan says is set in a module, nothing where it says nothing."""
    return (node.node.setup if node.node.kind == "module" else None) or Setup()


def dialect_of(design: Design, node: NodeDesign) -> Dialect | None:
    """Return how a node talks where it is a module of a known family: as the version that it was found to be."""
    if node.node.kind != "module" or not isinstance(node.part, ModulePart):
        return None
    dialect, version = design.catalog.dialect(node.part), setup_of_node(node).version
    return dialect.version(version) if dialect is not None and any(it.id == version for it in dialect.versions) else dialect


def partner_of(design: Design, node_id: str) -> NodeDesign | None:
    """Return the module that a module talks to over the air; None where that is a hand's."""
    for link in (design.plan.links[name] for name in design.airs):
        if node_id in (link.a, link.b):
            other = design.nodes[link.b if link.a == node_id else link.a]
            if other.node.kind == "module":
                return other
    return None


def wanted_of_module(design: Design, node: NodeDesign, part: ModulePart) -> Wanted:
    """Say what a module shall be. Two that are bound have one PIN: the one that is settled at either, else one made for both."""
    setup, partner = setup_of_node(node), partner_of(design, node.id)
    wires = [it for it in design.wires.values() if node.id in (design.plan.links[it.id].a, design.plan.links[it.id].b)]
    speed = next((it.baud.known for it in wires if it.baud.value is not None), part.default_speed_bd.value)
    link = design.plan.links.get(air_of(design, node.id) or "")
    name = setup.name or _name(design.plan.title, node.id if partner is not None else "", part.name_most_characters)
    role = role_of(design, node)
    goal = Goal(
        name,
        pin_for(design, node, part),
        int(speed),
        role,
        partner=(setup_of_node(partner).address or UNKNOWN) if partner is not None and role == "master" else None,
        is_bound_to=partner is not None and role == "slave",
        is_driven=any(lamp.host == node.id for lamp in design.lamps.values()),
        network=network_of(link) if "wifi" in part.radios else None,
        port=port_of(link),
    )
    silent = [("name", setup.name), *([("pin_code", setup.pin_code)] if part.pin_code_digits else [])]
    return Wanted(goal, tuple(field for field, settled in silent if not settled))


def role_of(design: Design, node: NodeDesign) -> Literal["slave", "master"]:
    """Return a module's role: the settled one. Of two that are bound the other one's opposite; where both say nothing, the first that can calls."""
    own, partner = setup_of_node(node).role, partner_of(design, node.id)
    if own is not None or partner is None:
        return own or "slave"
    theirs = setup_of_node(partner).role
    if theirs is not None:
        return "slave" if theirs == "master" else "master"
    is_first = design.plan.links[air_of(design, node.id) or ""].a == node.id
    mine, other = (isinstance(it.part, ModulePart) and "master" in it.part.roles for it in (node, partner))
    return "master" if (is_first and (mine or not other)) or (not is_first and mine and not other) else "slave"


def air_of(design: Design, node_id: str) -> str | None:
    """Return the radio link a module hangs on; None for none."""
    return next((name for name in design.airs if node_id in (design.plan.links[name].a, design.plan.links[name].b)), None)


def network_of(link: Link | None) -> Literal["access-point", "station"]:
    """Return how something of Wi-Fi is found: in a network of its own, where nothing is settled, or as a guest of the house's."""
    return (link.join if link is not None and link.kind == "air" else None) or "access-point"


def port_of(link: Link | None) -> int:
    """Return the port something of Wi-Fi is found at."""
    return (link.port if link is not None and link.kind == "air" else None) or PORT


def join_button_of(design: Design, air: str) -> str:
    """Return the label of the button that lets a board's radio into another network; empty where there is none."""
    link = design.plan.links[air]
    button = link.join_button if link.kind == "air" and link.join == "station" else None
    return label_of(design.plan.inputs[button].label, button) if button in design.plan.inputs else ""


def name_for(design: Design, end: str, most: int) -> str:
    """Make a name of a project's title and of which end it is where there are two, as every radio takes it."""
    return _name(design.plan.title, end, most)


def pin_for(design: Design, node: NodeDesign, part: ModulePart, *, is_anew: bool = False) -> str:
    """Return a module's PIN: the settled one, else that of the module it is bound to, else a proposed one; ``is_anew`` passes over the settled."""
    partner = partner_of(design, node.id)
    own = setup_of_node(node).pin_code
    if own is not None and not is_anew:
        return own
    theirs = setup_of_node(partner).pin_code if partner is not None else None
    if theirs is not None and len(theirs) in part.pin_code_digits and not is_anew:
        return theirs
    seed = min(node.id, partner.id) if partner is not None else node.id
    return proposed_pin(f"{design.plan.title} {seed}", part.pin_code_digits[0]) if part.pin_code_digits else ""


def _name(title: str, end: str, most: int) -> str:
    """Make a name of a project's title, and of which end it is where there are two: capitals and digits that every module takes."""
    texts = [re.sub(r"[^A-Z0-9]+", "-", it.upper().encode("ascii", "ignore").decode()).strip("-") for it in (title, end)]
    tail = f"-{texts[1]}"[:most] if texts[1] else ""
    return (texts[0][: most - len(tail)].strip("-") + tail).strip("-") or "LAMP"
