"""The sheets of the other stages: phone, air, module, behaviour, rail, input."""

from oddlamp.core.base import si
from oddlamp.core.checks.radios import key_by_board
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import air_of, partner_of, role_of, setup_of_node
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.text import short_address
from oddlamp.core.resolve.passages import RADIO_NAMES
from oddlamp.sheets.entry import entry
from oddlamp.sheets.families import families_compared
from oddlamp.sheets.models import Choice, Entry, Option, Panel, Sheet
from oddlamp.sheets.parts import own_move
from oddlamp.sheets.radios import found_as, network_choices, version_choices
from oddlamp.sheets.variants import module_variants


def air_sheet(design: Design, link_id: str) -> Sheet:
    """Build the sheet of a radio link."""
    air, link = design.airs[link_id], design.plan.links[link_id]
    options = tuple(
        Option(
            label=part.label,
            detail=f"about {si(part.latency_s.value, 's')}, {part.packet_most_bytes} bytes a packet",
            patch=at_path(("links", link_id, "transport"), name),
            is_chosen=name == air.transport.id,
        )
        for name, part in design.catalog.airs.items()
    )
    return Sheet(
        stage=air.stage,
        kind="air",
        title=link.label or "Air",
        sentence=f"A message is in the air for about {air.latency.text}.",
        detail=f"{design.nodes[link.a].label} to {inner(design.nodes[link.b].label)} by {air.transport.label}; {air.latency.spread_text}, apart from the time on the wire.",
        panels=(
            Panel(
                title="",
                choices=(
                    Choice(label="Carried by", origin=air.transport.origin, because=air.transport.why, options=options),
                    *(network_choices(design, link_id) if air.radio == "wifi" else ()),
                ),
                entries=tuple(found_as(design, link_id)),
                facts=(air.latency,),
            ),
        ),
        sets_up=next((it for it in (link.b, link.a) if design.nodes[it].node.kind == "board"), ""),
    )


def module_sheet(design: Design, node: NodeDesign) -> Sheet:
    """Build the sheet of a module: family, name, role and speed."""
    part = node.part
    setup = node.node.setup if node.node.kind == "module" else None
    path = ("nodes", node.id)
    families = tuple(
        Option(
            label=module.label,
            detail=detail,
            patch=at_path((*path, "choice"), {"part": name, "overrides": None}),
            is_chosen=part is not None and part.id == name,
        )
        for name, module, detail in families_compared(design, node)
    )
    role = role_of(design, node)
    roles = tuple(
        Option(label=label, detail=detail, patch=at_path((*path, "setup", "role"), key), is_chosen=role == key)
        for key, label, detail in (("slave", "Slave", "waits to be called"), ("master", "Master", "calls another module"))
    )
    routes = tuple(
        Option(
            label=label,
            detail=detail,
            patch=at_path((*path, "setup", "route"), key),
            is_chosen=((setup.route if setup else None) or "adapter") == key,
        )
        for key, label, detail in (
            ("adapter", "USB-serial adapter", "needs nothing of the board"),
            ("board", "The board itself", "its chip held in reset; needs the wire from the board"),
            ("pass-through", "A program on it", "passes on what is typed at its USB plug"),
        )
    )
    key_from = (setup.key_from if setup else None) or "hand"
    keys = tuple(
        Option(label=label, detail=detail, patch=patch, is_chosen=key_from == key)
        for key, label, detail, patch in (
            ("hand", "A hand", "the button on the carrier, while power comes on", at_path((*path, "setup", "key_from"), "hand")),
            ("board", "A pin of the board", "its level is judged at the hook-up", key_by_board(design, node)),
        )
    )
    is_wifi, air = part is not None and "wifi" in part.radios, air_of(design, node.id)
    name = _as_it_arrives("Name of its network" if is_wifi else "Name", (*path, "setup", "name"), setup.name if setup else None)
    has_pin = not isinstance(part, ModulePart) or bool(part.pin_code_digits)
    pin = (_as_it_arrives("PIN", (*path, "setup", "pin_code"), setup.pin_code if setup else None),) if has_pin else ()
    speeds = tuple(
        entry(wire.baud)
        for wire in design.wires.values()
        if node.id in (design.plan.links[wire.id].a, design.plan.links[wire.id].b)
    )
    known = part.name_most_characters if isinstance(part, ModulePart) else 0
    radios = " and ".join(RADIO_NAMES[radio] for radio in part.radios) if part else "nothing"
    return Sheet(
        stage=node.stage,
        kind="module",
        title=node.label,
        sentence=f"It speaks {radios} and {'waits to be called' if role == 'slave' else 'calls another module'}.",
        detail=f"{part.label if part else node.label}. Its pins stand at {node.logic.text if node.logic else NOT_YET}; its name takes {known} characters.",
        panels=(
            Panel(
                title="",
                entries=(name, *pin, *_address(node, setup.address if setup else None), *speeds, *_found_at(node, len(speeds))),
                choices=(
                    Choice(
                        label="Family",
                        origin=node.picked.origin if node.picked else "proposed",
                        because=node.picked.why if node.picked else None,
                        options=families,
                    ),
                    *(
                        network_choices(design, air)
                        if is_wifi and air is not None
                        else (
                            Choice(
                                label="Role",
                                origin="own" if setup and setup.role else "proposed",
                                because=None
                                if setup and setup.role
                                else "a phone calls, the module answers"
                                if partner_of(design, node.id) is None
                                else "of two that are bound one calls",
                                options=roles,
                            ),
                        )
                    ),
                    *version_choices(design, node),
                    Choice(
                        label="Set up through",
                        origin="own" if setup and setup.route else "proposed",
                        because=None if setup and setup.route else "it needs nothing of the board",
                        options=routes,
                    ),
                    *(
                        (
                            Choice(
                                label="Its key pin is held by",
                                origin="own" if setup and setup.key_from else "proposed",
                                because=None if setup and setup.key_from else "no wire more, and set-up is rare",
                                options=keys,
                            ),
                        )
                        if (isinstance(part, ModulePart) and part.has_key) or (setup and setup.key_from)
                        else ()
                    ),
                ),
                moves=(own_move(design, "modules", part, (*path, "choice")),) if isinstance(part, ModulePart) else (),
            ),
        ),
        moves=tuple(module_variants(design, node)),
        sets_up=node.id,
    )


def _found_at(node: NodeDesign, wires: int) -> tuple[Entry, ...]:
    """Hold the speed a module was found to speak at, where that is another than its wire's."""
    found_bd = setup_of_node(node).found_bd
    if not wires:
        return ()
    return (
        Entry(
            label="Found to speak at",
            text=si(found_bd, "Bd") if found_bd else "not told",
            path=("nodes", node.id, "setup", "found_bd"),
            origin="own" if found_bd else "proposed",
            because=None if found_bd else "taken for the wire's, which its steps set last",
        ),
    )


def _address(node: NodeDesign, told: str | None) -> tuple[Entry, ...]:
    """Hold the address of a classic module: typed in any notation, written in full, told as its commands want it."""
    if node.part is None or "classic" not in node.part.radios:
        return ()
    hint = "as it is told or printed, in any notation: 1a2b:3c:4d5e6f, 1A:2B:3C:4D:5E:6F, 1A2B3C4D5E6F"
    text, why = (told or "not asked yet"), "another module is bound to it by this"
    if told is not None:
        why = f"NAP, UAP and LAP; in commands {short_address(told, ',')}, in answers {short_address(told)}"
    at = ("nodes", node.id, "setup", "address")
    return (Entry(label="Its own address", text=text, path=at, origin="own" if told else "proposed", because=why, hint=hint),)


def open_sheet(stage: str, kind: str, label: str) -> Sheet:
    """Build the sheet of something that is kept and drawn, and has no numbers yet."""
    return Sheet(
        stage=stage,
        kind="input" if kind == "input" else "open",
        title=label,
        sentence=f"{label} is {NOT_YET}.",
        detail="It is kept in the plan and drawn; nothing about it is judged.",
    )


def _as_it_arrives(label: str, path: tuple[str, ...], settled: str | None) -> Entry:
    """Offer a setting of a module that stands as its maker left it until it is told."""
    return Entry(
        label=label,
        text=settled or "as it arrives",
        path=path,
        origin="own" if settled else "proposed",
        because=None if settled else "not set yet",
    )
