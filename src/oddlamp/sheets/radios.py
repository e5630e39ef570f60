"""What is asked of a radio on its sheets: which network, under which name and port, and which version it turned out to be."""

from collections.abc import Iterator

from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.modules.goals import name_for, port_of, setup_of_node
from oddlamp.core.modules.own_radio import NETWORK_NAME_MOST, OPENS
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.signals import label_of
from oddlamp.sheets.models import Choice, Entry, Option

VERSION_QUERIES = ("AT+VERSION?", "AT+VERSION", "AT+VERR?", "AT+GMR")
BROKERED = "mqtt"  # found at a broker, whose port is its own


def found_as(design: Design, link_id: str) -> Iterator[Entry]:
    """Give what a radio is found as: the name of a board's own, and the port of what opens a line."""
    link, air = design.plan.links[link_id], design.airs[link_id]
    if link.kind != "air":
        return
    if any(design.nodes[it].node.kind == "board" for it in (link.a, link.b)):
        yield Entry(
            label="Found as",
            text=link.name or name_for(design, "", NETWORK_NAME_MOST),
            path=("links", link_id, "name"),
            origin="own" if link.name else "proposed",
            because=None if link.name else "from the project's title",
        )
    if air.transport.id in OPENS and air.transport.id != BROKERED:
        yield Entry(
            label="Port",
            text=str(port_of(link)),
            path=("links", link_id, "port"),
            origin="own" if link.port else "proposed",
            because=None if link.port else "any that is free will do, and this one is often used",
        )


def network_choices(design: Design, air: str) -> tuple[Choice, ...]:
    """Hold both schools of Wi-Fi against each other, a network of its own or a guest in the house's; and ask what that has."""
    link = design.plan.links[air]
    join, band = (link.join, link.band) if link.kind == "air" else (None, None)
    options = tuple(
        Option(label=label, detail=detail, patch=at_path(("links", air, "join"), key), is_chosen=(join or "access-point") == key)
        for key, label, detail in (
            ("access-point", "A network of its own", "works anywhere; phones may leave it, as it has no internet"),
            ("station", "The house's network", "phones stay where they are; it wants 2.4 GHz, and the house"),
        )
    )
    why = None if join else "it works wherever it stands, and asks nothing of a house"
    found = Choice(label="It is found in", origin="own" if join else "proposed", because=why, options=options)
    if join != "station":
        return (found,)
    bands = tuple(
        Option(label=label, detail=detail, patch=at_path(("links", air, "band"), key), is_chosen=band == key)
        for key, label, detail in (
            ("2g4", "2.4 GHz", "as these radios want it"),
            ("both", "Both", "they take the 2.4 GHz of it"),
            ("5g", "5 GHz only", "they never find it"),
        )
    )
    has = Choice(
        label="That network has", origin="own" if band else "proposed", because=None if band else "not told yet", options=bands
    )
    return (found, has, *_joining(design, air))


def _joining(design: Design, air: str) -> Iterator[Choice]:
    """Ask how a board's own radio is let into another network: by its file of secrets and an upload, or by a button that is held."""
    link = design.plan.links[air]
    board = next((it for it in (link.b, link.a) if design.nodes[it].node.kind == "board"), None)
    if board is None or link.kind != "air":
        return
    path = ("links", air, "join_button")
    buttons = {name: it for name, it in design.plan.inputs.items() if it.kind == "button" and it.host == board and not it.count}
    options = [
        Option(
            label="Its file of secrets",
            detail="the program is uploaded again",
            patch=at_path(path, None),
            is_chosen=link.join_button is None,
        ),
        *(
            Option(
                label=f"{label_of(it.label, name)}, held",
                detail="for 3 s a phone hands it the network, for 8 s it asks on a page of its own",
                patch=at_path(path, name),
                is_chosen=link.join_button == name,
            )
            for name, it in buttons.items()
        ),
    ]
    if not buttons:
        name = next(it for it in ("join", *(f"join{at}" for at in range(2, 99))) if it not in design.plan.inputs)
        new = {"inputs": {name: {"kind": "button", "label": "Join", "host": board}}, **at_path(path, name)}
        options.append(Option(label="A new button, held", detail="one more pin of the board", patch=new, is_chosen=False))
    yield Choice(
        label="Another network is joined by",
        origin="own" if link.join_button else "proposed",
        because=None if link.join_button else "it needs no button and no pin",
        options=tuple(options),
    )


def version_choices(design: Design, node: NodeDesign) -> tuple[Choice, ...]:
    """Ask which of its versions and look-alikes a module turned out to be, each with what tells it: nothing where there is one."""
    dialect = design.catalog.dialect(node.part) if isinstance(node.part, ModulePart) else None
    if dialect is None or not dialect.versions:
        return ()
    version, path = setup_of_node(node).version, ("nodes", node.id, "setup", "version")
    options = [Option(label="The usual one", detail=_told_by(dialect), patch=at_path(path, None), is_chosen=version is None)]
    for it in dialect.versions:
        told = _told_by(dialect.version(it.id))
        options.append(Option(label=it.label, detail=told, patch=at_path(path, it.id), is_chosen=version == it.id))
    because = None if version else "not told yet; its first steps find it out"
    return (
        Choice(label="It turned out to be", origin="own" if version else "proposed", because=because, options=tuple(options)),
    )


def _told_by(dialect: Dialect) -> str:
    """Say what a version answers when it is asked which one it is."""
    asked = next((it for it in dialect.commands if it.send in VERSION_QUERIES), None)
    if asked is None:
        return "cannot be asked"
    ending = "" if dialect.ending == "none" else " with CR LF"
    return f"{asked.send}{ending} gives {' '.join(asked.answer)}"
