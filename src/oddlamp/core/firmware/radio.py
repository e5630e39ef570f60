"""A radio on the board: how it is found, by which line words come, and what of it is a secret of the maker's."""

from collections.abc import Iterator, Mapping
from typing import Final

from oddlamp.core.behaviour.program import Program, Show
from oddlamp.core.behaviour.tables import ms_of
from oddlamp.core.design.design import Design
from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.hearing import heard_on
from oddlamp.core.firmware.names import named, pin_number, said
from oddlamp.core.modules.goals import name_for, network_of, port_of
from oddlamp.core.modules.known import links_known
from oddlamp.core.modules.own_radio import (
    BACK,
    BROKER_PORT,
    NETWORK_NAME_MOST,
    OPENS,
    PAGE_PORT,
    PLACES,
    SECRETS_FILE,
    USB_BD,
    line_of,
    secret_line,
    secret_names,
)
from oddlamp.core.parts.models import BoardPart

GUESTS_MOST: Final = (
    4  # who is let in at once, to the page and to the line each: what a small board has room for, common practice
)
JOINING: Final = {"handed": "JOINS_BY_PHONE", "asked": "JOINS_BY_PAGE"}
KEPT_MOST: Final = 512  # bytes of what was said last, for a page that asks twice a second
PAGE_FILE: Final = "page.h"
EXAMPLE_FILE: Final = "secrets-example.h"
CARRIED: Final = {
    "tcp": "a line by TCP",
    "udp": "packets by UDP",
    "http": "what is asked of a page",
    "websocket": "a socket of its page",
    "mqtt": "a topic at a broker",
}


def wants_clock(program: Program) -> bool:
    """Tell whether anything of a program wants the time of day."""
    steps = (due.step for runs in program.handlers.values() for run in runs for due in run.steps)
    return any(event[0] == "at" for event in program.handlers) or any(isinstance(it, Show) and it.value is None for it in steps)


def airs_of(design: Design, host: str) -> tuple[str, ...]:
    """Return the radio links that end at a board itself and over which words come or go, one for each line that is opened."""
    return tuple(it for it in heard_on(design, host) if it in design.airs)


def why_no_radio(design: Design, host: str) -> Iterator[str]:
    """Yield why what a board's own radio carries cannot be printed: nothing where it can, or where it carries nothing."""
    lines, airs = list[str](), airs_of(design, host)
    for air in airs:
        link, transport = design.plan.links[air], design.airs[air].transport
        told, line = said(link.label or transport.label), line_of(transport.id)
        if transport.id not in OPENS:
            yield f"{told}: packages of boards have no serial line by BLE in common, each names it otherwise"
        elif (link.a if link.b == host else link.b) not in design.handsets:
            yield f"{told}: a line between two radios of boards, where one has to call the other"
        elif line in lines:
            yield f"{told}: two such lines on one radio, each with words of its own"
        lines.append(line)
    for rule in design.plan.rules.values():
        link_id = rule.when.link
        if rule.host == host and link_id in design.airs and link_id not in airs and host in ends_of(design, link_id):
            yield f"{said(design.plan.links[link_id].label or link_id)}: it shares its line with another, and a rule waits for it alone"


def ends_of(design: Design, link: str) -> tuple[str, str]:
    """Return the two ends of a link."""
    return design.plan.links[link].a, design.plan.links[link].b


def radio_of(design: Design, host: str, *, has_clock: bool, asks_loss: bool) -> Row | None:
    """Return what is printed of a board's own radio; None where it carries no words."""
    airs = airs_of(design, host)
    if not airs or any(True for _ in why_no_radio(design, host)):
        return None
    lines = [_line(design, host, air, asks_loss=asks_loss) for air in airs]
    by = {line_of(it["transport"]): it for it in lines}
    is_guest = any(it["is_guest"] for it in lines)
    at_tcp = by["tcp"]["port"] if "tcp" in by else 0
    page = {**by["page"], "is_line": True} if "page" in by else {**lines[0], "is_line": False, "port": PAGE_PORT}
    page["is_asked"] = page["transport"] == "http"
    has_page = page["port"] != at_tcp
    tcp, udp, mqtt = (by.get(it) for it in ("tcp", "udp", "mqtt"))
    named = [("page", page if has_page else None), ("line", tcp), ("packet", udp), ("topic", mqtt)]
    return {
        "lines": lines,
        "page": page if has_page else None,
        "tcp": tcp,
        "udp": udp,
        "mqtt": mqtt,
        "heard": [{**it, "name": name} for name, it in named if it is not None],
        "name": as_text(_name(design, airs[0])),
        "found_as": _name(design, airs[0]),
        "is_guest": is_guest,
        "broker_port": BROKER_PORT,
        "doors": [*([page["port"]] if has_page else []), *([at_tcp] if tcp else [])],
        "guests": GUESTS_MOST,
        "guests_all": (GUESTS_MOST if has_page else 0) + (GUESTS_MOST if tcp else 0) + (mqtt is not None),
        "kept": KEPT_MOST,
        "is_loss_told": any(it["is_loss_told"] for it in lines),
        "has_clock": has_clock,
        "has_time": has_clock and is_guest,
        "joining": _joining(design, host, airs, has_page=has_page) if is_guest else None,
        "usb_bd": USB_BD,
    }


def _joining(design: Design, host: str, airs: tuple[str, ...], *, has_page: bool) -> Row | None:
    """Return what a held button does, and the pin of the board's own LED where nothing hangs on it; None for no button."""
    part = design.nodes[host].part
    links = [link for it in airs if (link := design.plan.links[it]).kind == "air" and link.join == "station"]
    button = next((it.join_button for it in links if it.join_button in design.plan.inputs), None)
    dialect = design.catalog.own_radio(part) if isinstance(part, BoardPart) else None
    if button is None or dialect is None or part is None:
        return None
    taken = {it.label for it in design.pins if it.host == host}
    led = next((it.label for it in part.pins if it.busy_with == "status-led" and it.label not in taken), None)
    ways = [
        {
            "held_ms": ms_of(it.held_s),
            "blink_ms": ms_of(it.blink.turns_s[0]),
            "by": it.by,
            "name": JOINING[it.by],
            "told": said(it.means),
        }
        for it in sorted(dialect.joins, key=lambda it: -it.held_s)
        if has_page or it.by != "asked"  # it asks on its page
    ]
    return {"button": named("INPUT", button), "ways": ways, "led": pin_number(part, led) if led is not None else ""}


def _line(design: Design, host: str, air: str, *, asks_loss: bool) -> Row:
    link, transport = design.plan.links[air], design.airs[air].transport.id
    by = {it.by for it in links_known(design) if it.air == air and it.board == host}
    name = _name(design, air)
    return {
        "link": air,
        "transport": transport,
        "told": CARRIED[transport],
        "topic": as_text(name),
        "topic_back": as_text(name + BACK),
        "port": port_of(link),
        "is_guest": network_of(link) == "station",
        "is_loss_told": asks_loss and by == {"radio"},
    }


def _name(design: Design, air: str) -> str:
    link = design.plan.links[air]
    return (link.name if link.kind == "air" else None) or name_for(design, "", NETWORK_NAME_MOST)


def beside(radio: Row | None, page: str) -> Mapping[str, str]:
    """Return the files that stand beside a program whose board has a radio of its own: its page, and where secrets go."""
    if radio is None:
        return {}
    found = {EXAMPLE_FILE: _example(radio)}
    if radio["page"] is not None:
        found[PAGE_FILE] = (
            "// The page that the board serves to a phone, in one piece. It is printed from the plan: change it there.\n"
            f'static const char PAGE[] IN_FLASH = R"page({page})page";\nenum {{ PAGE_SIZE = sizeof PAGE - 1 }};\n'
        )
    return found


def _example(radio: Row) -> str:
    names = secret_names(
        is_guest=radio["is_guest"],
        has_broker=radio["mqtt"] is not None,
        has_time=radio["has_time"],
        is_joined_by_hand=radio["joining"] is not None,
    )
    lines = [f"{secret_line(name)}  // {PLACES[name][1]}\n" for name in names]
    told = f"// Copy this file to {SECRETS_FILE}, and write in it what only you know: it stays on your computer, and no plan holds it.\n"
    return told + "".join(lines)


def as_text(text: str) -> str:
    """Return a text between quotes as the language has it: plain characters, and nothing that ends it or is read otherwise."""
    return '"' + "".join(f"\\{it}" if it in '"\\?' else it for it in text if " " <= it <= "~") + '"'
