"""Rules for modules: can the phone reach it, and is what is set in it legal."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.passages import Obstacle
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.modules.goals import air_of, pin_for, role_of, setup_of_node
from oddlamp.core.modules.script import EASY_MOST_BD, FACTORY_PINS
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.resolve.passages import RADIO_NAMES, radios_of


def phone_can_reach(design: Design) -> Iterator[Breach]:
    """Both ends of a radio link speak one kind of radio, and it is the kind the link is meant to be."""
    for link_id, air in design.airs.items():
        link = design.plan.links[link_id]
        a, b = design.nodes[link.a], design.nodes[link.b]
        for it in _found(design, link_id, "MOD-PHONE"):
            node, other = (a, b) if it.case == a.id else (b, a)
            speaks = " and ".join(RADIO_NAMES[radio] for radio in radios_of(design, node) or ()) or "no radio"
            yield Breach(
                severity=it.severity,
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
                ways=partial(_ways_to_meet, design, link_id, node, other)
                if a.node.kind == b.node.kind or "module" in (a.node.kind, b.node.kind)
                else partial(that_clear, design, "MOD-PHONE", link_id, _ways_to_meet(design, link_id, node, other)),
                numbers={"radios_missing": 1},
            )


def _found(design: Design, link_id: str, code: str) -> list[Obstacle]:
    """Return what stands in the way of a link by a code; both directions of one have the same."""
    return [it for it in design.passages[f"{link_id}.a_to_b"].obstacles if it.code == code]


def _ways_to_meet(design: Design, link_id: str, node: NodeDesign, other: NodeDesign) -> Iterator[Move]:
    handset, module = (node, other) if node.id in design.handsets else (other, node)
    if handset.id not in design.handsets:
        yield from alike(design, link_id, node, other)
        return
    for module_id, part in design.catalog.modules.items():
        shared = [radio for radio in part.radios if radio in design.handsets[handset.id].speaks]
        if module.node.kind == "module" and shared:
            patch = {
                **at_path(("nodes", module.id, "choice"), {"part": module_id}),
                **at_path(("links", link_id, "transport"), None),
            }
            yield Move(label=f"Take a {inner(part.label)}", patch=patch)
    theirs = [it for it in design.airs if module.id in (design.plan.links[it].a, design.plan.links[it].b)]
    anew = [at_path(("links", it), {"transport": None, "band": None}) for it in theirs]
    for board_id, board in design.catalog.boards.items() if module.node.kind == "board" else ():
        if set(board.radios) & set(design.handsets[handset.id].speaks):
            choice = at_path(("nodes", module.id, "choice"), {"part": board_id, "overrides": None})
            yield Move(label=f"Take a {inner(board.label)}", patch=join_patches([choice, *anew]))
    if module.part and module.part.radios:
        speaks, is_theirs = design.handsets[handset.id].speaks, design.airs[link_id].radio in module.part.radios
        radio = design.airs[link_id].radio if is_theirs else module.part.radios[0]
        patch = {} if is_theirs else at_path(("links", link_id, "transport"), None)
        if radio not in speaks:
            label = f"Use a phone that speaks {RADIO_NAMES[radio]}"
            yield Move(label=label, patch={**at_path(("nodes", handset.id, "speaks"), [*speaks, radio]), **patch})
        elif not is_theirs:
            yield Move(label=f"Carry it by {RADIO_NAMES[radio]}", patch=patch)


def alike(design: Design, link_id: str, node: NodeDesign, other: NodeDesign) -> Iterator[Move]:
    """Offer to let two modules of a link be of one family, that of either."""
    for it, like in ((node, other), (other, node)):
        if it.node.kind == "module" and like.picked is not None and isinstance(like.part, ModulePart):
            choice = at_path(("nodes", it.id, "choice"), {"part": like.picked.id, "overrides": None})
            again = join_patches([choice, at_path(("links", link_id, "transport"), None)])
            yield Move(label=f"Let the {inner(it.label)} be a {inner(like.part.label)} too", patch=again)


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


def pin_is_legal(design: Design) -> Iterator[Breach]:
    """A module's PIN has as many digits as its family takes."""
    for node, part in _modules(design):
        pin = setup_of_node(node).pin_code
        if pin is None or len(pin) in part.pin_code_digits or not part.pin_code_digits:
            continue
        least, most = min(part.pin_code_digits), max(part.pin_code_digits)
        allowed = plural(least, "digit") if least == most else f"{least} to {most} digits"
        yield Breach(
            severity="stop",
            where=f"nodes.{node.id}.pin",
            stage=node.stage,
            message=f"The PIN {pin} has {plural(len(pin), 'digit')}. This family takes {allowed}.",
            working=(Working(formula="digits of the PIN", substituted=f"{len(pin)}, allowed: {allowed}", source="from-memory"),),
            ways=partial(_other_pin, design, node, part),
            numbers={"digits": float(abs(len(pin) - (least if len(pin) < least else most)))},
        )


def pin_is_ones_own(design: Design) -> Iterator[Breach]:
    """A PIN is none that modules leave the factory with: everybody in range knows those."""
    for node, part in _modules(design):
        pin = setup_of_node(node).pin_code
        if pin is None or pin not in FACTORY_PINS or len(pin) not in part.pin_code_digits:
            continue
        yield Breach(
            severity="look",
            where=f"nodes.{node.id}.pin",
            stage=node.stage,
            message=f"{pin} is a PIN that modules leave the factory with: anybody in range can drive your lights.",
            working=(Working(formula="a PIN of one's own", substituted=pin, source="common-practice"),),
            ways=partial(_other_pin, design, node, part),
            numbers={"pins": 1},
        )


def _other_pin(design: Design, node: NodeDesign, part: ModulePart) -> Iterator[Move]:
    pin = pin_for(design, node, part, is_anew=True)
    yield Move(label=f"Take {pin}", patch=at_path(("nodes", node.id, "setup", "pin_code"), pin))


def role_can_answer(design: Design) -> Iterator[Breach]:
    """A module a phone connects to waits as a slave; two modules are one of each."""
    for link_id in design.airs:
        link = design.plan.links[link_id]
        a, b = design.nodes[link.a], design.nodes[link.b]
        for it in _found(design, link_id, "MOD-ROLE"):
            node, other = (a, b) if it.case == a.id else (b, a)
            role = role_of(design, node)
            can_call = not isinstance(node.part, ModulePart) or "master" in node.part.roles
            message = (
                f"The {inner(node.label)} is set to call, and its family only waits to be called."
                if role == "master" and not can_call
                else f"The {inner(node.label)} is a master: it calls others and never answers the {inner(other.label)}."
                if other.id in design.handsets
                else f"Both modules are {role}s: one must call and one must answer."
            )
            turned = "slave" if role == "master" else "master"
            yield Breach(
                severity=it.severity,
                where=f"nodes.{node.id}.role",
                stage=node.stage,
                message=message,
                working=(Working(formula="one end calls, the other answers", substituted=f"role {role}", source="from-memory"),),
                ways=partial(that_clear, design, "MOD-ROLE", f"nodes.{node.id}.role", _other_role(design, node, other, turned)),
                numbers={"roles": 1},
            )


def _other_role(design: Design, node: NodeDesign, other: NodeDesign, turned: str) -> Iterator[Move]:
    """Offer the other role where the other end is called or calls then; and a family that can call where one has to."""
    if other.id in design.handsets or role_of(design, other) != turned:
        yield Move(label=f"Make it a {turned}", patch=at_path(("nodes", node.id, "setup", "role"), turned))
    if other.id in design.handsets or node.part is None:
        return
    callers = [part for part in design.catalog.modules.values() if "master" in part.roles]
    for part in callers:
        if set(part.radios) & set(node.part.radios) and part.id != node.part.id:
            chosen = at_path(("nodes", node.id, "choice"), {"part": part.id, "overrides": None})
            yield Move(label=f"Take a {inner(part.label)}", patch=chosen)
            yield Move(label=f"Take a {inner(part.label)}, a {turned}", patch=join_patches([chosen, _role(node, turned)]))
    air = at_path(("links", air_of(design, node.id) or "", "transport"), None)
    for part in callers:
        ends = [
            at_path(
                ("nodes", it.id), {"choice": {"part": part.id, "overrides": None}, "setup": None}
            )  # set up for another family
            for it in (node, other)
        ]
        yield Move(label=f"Take two of these: {inner(part.label)}", patch=join_patches([*ends, air]))


def _role(node: NodeDesign, role: str | None) -> Document:
    return at_path(("nodes", node.id, "setup", "role"), role)


def speed_is_legal(design: Design) -> Iterator[Breach]:
    """A wire runs at a speed the module can be set to."""
    for link_id, wire in design.wires.items():
        if f"{link_id}.a_to_b" not in design.passages:
            continue
        for it in _found(design, link_id, "MOD-BAUD-MISMATCH"):
            node = design.nodes[it.case]
            part = node.part
            if not isinstance(part, ModulePart):
                continue
            found_bd = setup_of_node(node).found_bd
            if wire.baud.known in part.data_speeds_bd and found_bd is not None:
                message = f"The {inner(node.label)} was found to speak at {si(found_bd, 'Bd')}, and its wire runs at {wire.baud.text}: each hears garbage."
                put_in = f"{si(found_bd, 'Bd')}, {wire.baud.text}"
            else:
                message = f"The {inner(node.label)} cannot be set to {wire.baud.text}."
                put_in = ", ".join(f"{speed}" for speed in part.data_speeds_bd)
            yield Breach(
                severity=it.severity,
                where=f"{link_id}.baud_rate_bd",
                stage=wire.stage,
                message=message,
                working=(
                    Working(formula="speed is one the family knows, at both ends", substituted=put_in, source="from-memory"),
                ),
                fixes=tuple(_other_speed(link_id, node, part, wire.baud.known, found_bd)),
                numbers={"speeds": 1},
            )


def _other_speed(link_id: str, node: NodeDesign, part: ModulePart, wire_bd: float, found_bd: float | None) -> Iterator[Move]:
    """Offer the nearest speed the family knows; of one that was found at another, that its steps have set it, and the other way round."""
    at, told = ("links", link_id, "baud_rate_bd"), ("nodes", node.id, "setup", "found_bd")
    if wire_bd in part.data_speeds_bd:
        yield Move(label=f"Its steps have set it to {si(wire_bd, 'Bd')}", patch=at_path(told, None))
        if found_bd in part.data_speeds_bd and (found_bd or 0) <= EASY_MOST_BD:
            yield Move(
                label=f"Run the wire at {si(found_bd or 0, 'Bd')}",
                patch=join_patches([at_path(at, found_bd), at_path(told, None)]),
            )
        return
    near = min(part.data_speeds_bd, key=lambda speed: abs(speed - wire_bd))
    yield Move(
        label=f"Use {near} Bd",
        patch=join_patches([at_path(at, near), at_path(told, None)] if found_bd is not None else [at_path(at, near)]),
    )


def _modules(design: Design) -> Iterator[tuple[NodeDesign, ModulePart]]:
    for node in design.nodes.values():
        if isinstance(node.part, ModulePart):
            yield node, node.part


def nothing_is_left_open(design: Design) -> Iterator[Breach]:
    """Pins that a bare module reads while it starts are pulled up, or held by the board."""
    for node, part in _modules(design):
        for lead in part.wants_pulled:
            signal = design.plan.signals.get(f"{node.id}.{lead}")
            is_held = signal is not None and (
                not signal.is_omitted or (signal.pull_ohm is not None and signal.pull_to != "ground")
            )
            if not is_held:
                yield Breach(
                    severity="stop",
                    where=f"{node.id}.{lead}",
                    stage=node.stage,
                    message=f"The {lead} pin of the {inner(node.label)} is left open: it does not start, or stops when a hand comes near.",
                    working=(Working(formula="a pin that must be high is pulled up", substituted=lead, source="from-memory"),),
                    ways=partial(_pulled_up, node, lead),
                    numbers={"pins": 1},
                )


def _pulled_up(node: NodeDesign, lead: str) -> Iterator[Move]:
    if node.rail_id is not None:
        pulled = {"is_omitted": True, "pull_ohm": PULL_UP_OHM, "pull_to": node.rail_id}
        yield Move(label=f"Pull it up with {si(PULL_UP_OHM, 'ohm')}", patch=at_path(("signals", f"{node.id}.{lead}"), pulled))
    if isinstance(node.part, ModulePart) and node.part.on_carrier is not None:
        carried = {"part": node.part.on_carrier, "overrides": None}
        yield Move(label="Take it on a carrier", patch=at_path(("nodes", node.id, "choice"), carried))


PULL_UP_OHM: Final = 10_000.0

RULES: Final = (
    Rule(
        "MOD-ENABLE",
        "module",
        nothing_is_left_open,
        "an enable or reset pin of a bare module is neither pulled up nor held by the board",
        "",
        "module part, from memory",
    ),
    Rule("MOD-PHONE", "module", phone_can_reach, "the two ends of a radio link share no radio", "", "module part, from memory"),
    Rule("MOD-NAME", "module", setup_is_legal, "a name longer than the family takes", "", "module part, from memory"),
    Rule(
        "MOD-PIN", "module", pin_is_legal, "a PIN with more or fewer digits than the family takes", "", "module part, from memory"
    ),
    Rule(
        "MOD-DEFAULT-PIN",
        "module",
        pin_is_ones_own,
        "",
        "a PIN that modules leave the factory with, such as 1234",
        "common practice, no source",
    ),
    Rule(
        "MOD-ROLE",
        "module",
        role_can_answer,
        "a module that a phone calls is set as master, or two modules of one link are both set to the same role",
        "",
        "module part, from memory",
    ),
    Rule(
        "MOD-BAUD-MISMATCH",
        "module",
        speed_is_legal,
        "the wire's speed is none of the module's data speeds, or another than the module was found to speak at",
        "",
        "module part, from memory",
    ),
)
