"""What the sheets say of a chip beside a board: what it is, where it hangs on its bus, and which lamps could hang on it."""

from oddlamp.core.checks.chips import feed_of
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import inner, offered, plural
from oddlamp.core.parts.models import ChipPart
from oddlamp.core.plan.chips import hosts_of, moved, with_chips, without_chip
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.signals import told_by
from oddlamp.core.resolve.passages import address_of, clock_chip
from oddlamp.sheets.models import Choice, Entry, Option, Panel


def chip_panel(design: Design, node: NodeDesign) -> Panel:
    """Build the panel of a chip: its name, its kind, what feeds it, and the address its own pins give it."""
    at, settled = ("nodes", node.id), node.node.label
    holds = any(lamp.host == node.id for lamp in design.lamps.values())
    kinds = tuple(
        Option(
            label=part.label,
            detail=part.summary,
            patch=at_path((*at, "choice"), {"part": name, "overrides": None}),
            is_chosen=node.picked is not None and node.picked.id == name,
        )
        for name, part in design.catalog.chips.items()
        if part.tells is None or not holds  # what tells something has no place for lamps
    )
    rails = tuple(
        Option(
            label=rail.label, detail=rail.voltage.text, patch=at_path((*at, "rail"), rail.id), is_chosen=rail.id == node.rail_id
        )
        for rail in design.rails.values()
        if rail.end == node.end
    )
    name = Entry(
        label="Name",
        text=node.label,
        path=(*at, "label"),
        origin="own" if settled else "proposed",
        because=None if settled else "what it is",
        settles=None if settled else node.label,
    )
    return Panel(
        title="",
        entries=(name,),
        choices=(
            Choice(label="Chip", origin="own", options=kinds),
            Choice(label="Fed from", origin="own" if node.rail_id else "proposed", because=None, options=rails),
        ),
        lines=tuple(_on_its_bus(design, node)),
    )


def _on_its_bus(design: Design, node: NodeDesign) -> list[str]:
    address, part = address_of(design, node), node.part
    if address is None or not isinstance(part, ChipPart):
        return []
    offset = address - part.first_address
    if part.tells is not None:
        return [f"Its address is {address} (hex {address:02X}).", *([part.caution] if part.caution else [])]
    return [
        f"Its address is {address} (hex {address:02X}): its address pins stand for {offset}"
        + (", all to ground." if not offset else ".")
    ]


def chip_moves(design: Design, node: NodeDesign) -> tuple[Move, ...]:
    """Offer a board's own chips beside it; and to take a chip out, its lamps going back."""
    if node.node.kind == "board":
        feed = feed_of(design, node.id)
        return tuple(
            Move(
                label=f"Add {offered(part.label.partition(',')[0])}", patch=with_chips(design.plan, node.id, part.id, feed, [[]])
            )
            for part in design.catalog.chips.values()
        )
    board = told_by(design.plan, node.id)
    mine = sum(lamp.host == node.id for lamp in design.lamps.values())
    back = (
        f"; {plural(mine, 'lamp')} go{'es' if mine == 1 else ''} back to the {inner(design.nodes[board].label)}"
        if mine and board
        else ""
    )
    return (Move(label=f"Take {node.label} out{back}", patch=without_chip(design.taking_out, node.id)),)


def host_choice(design: Design, lamp: LampDesign) -> tuple[Choice, ...]:
    """Offer where a lamp hangs; nothing where there is only one place."""
    hosts = [it for it in hosts_of(design.plan, lamp.id) if it == lamp.host or clock_chip(design, it) is None]
    if len(hosts) < 2:
        return ()
    options = tuple(
        Option(
            label=design.nodes[host].label,
            detail=_room(design, design.nodes[host]),
            patch=moved(design.plan, {lamp.id: host}),
            is_chosen=lamp.host == host,
        )
        for host in hosts
    )
    return (Choice(label="Hangs on", origin="own", options=options),)


def _room(design: Design, node: NodeDesign) -> str:
    used = {pin.label for pin in design.pins if pin.host == node.id}
    return f"{plural(sum(it.label not in used for it in node.part.usable_pins), 'pin')} free" if node.part is not None else ""
