"""A radio on the board: how it is found, by which line words come, and what of it is a secret of the maker's."""

from collections.abc import Mapping
from typing import Final

from oddlamp.core.design.design import Design
from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.names import said
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
    own_page_port,
    secret_line,
    secret_names,
)

GUESTS_MOST: Final = (
    4  # who is let in at once, to the page and to the line each: what a small board has room for, common practice
)
KEPT_MOST: Final = 512  # bytes of what was said last, for a page that asks twice a second
PAGE_FILE: Final = "page.h"
EXAMPLE_FILE: Final = "secrets-example.h"
LINES: Final = {"tcp": GUESTS_MOST, "mqtt": 1}
CARRIED: Final = {
    "tcp": "a line by TCP",
    "udp": "packets by UDP",
    "http": "what is asked of a page",
    "websocket": "a socket of its page",
    "mqtt": "a topic at a broker",
}


def airs_of(design: Design, host: str) -> tuple[str, ...]:
    """Return the radio links that end at a board itself, and over which words come or go."""
    used = {hop.link_id for talk in design.talks.values() for hop in talk.hops if host in (talk.a, talk.b)}
    return tuple(it for it in design.airs if it in used and host in (design.plan.links[it].a, design.plan.links[it].b))


def why_no_radio(design: Design, host: str) -> str | None:
    """Say why what a board's own radio carries cannot be printed; None where it can, or where it carries nothing."""
    airs = airs_of(design, host)
    if not airs:
        return None
    link, transport = design.plan.links[airs[0]], design.airs[airs[0]].transport
    told = said(link.label or transport.label)
    if transport.id not in OPENS:
        return f"{told}: packages of boards have no serial line by BLE in common, each names it otherwise"
    if len(airs) > 1:
        return f"{told}: two lines on one radio"
    other = link.a if link.b == host else link.b
    if other not in design.handsets:
        return f"{told}: a line between two radios of boards, where one has to call the other"
    return None


def radio_of(design: Design, host: str, *, has_clock: bool, asks_loss: bool) -> Row | None:
    """Return what is printed of a board's own radio; None where it carries no words."""
    airs = airs_of(design, host)
    if not airs or why_no_radio(design, host) is not None:
        return None
    link_id = airs[0]
    link, transport = design.plan.links[link_id], design.airs[link_id].transport.id
    name = (link.name if link.kind == "air" else None) or name_for(design, "", NETWORK_NAME_MOST)
    by = {it.by for it in links_known(design) if it.air == link_id and it.board == host}
    port, page_port = port_of(link), own_page_port(transport, port_of(link))
    has_page = transport != "tcp" or port != PAGE_PORT
    lines = LINES.get(transport, 0)
    return {
        "link": link_id,
        "transport": transport,
        "told": CARRIED[transport],
        "name": as_text(name),
        "back": as_text(name + BACK),
        "is_guest": network_of(link) == "station",
        "port": port,
        "broker_port": BROKER_PORT,
        "doors": [*([page_port] if has_page else []), *([port] if transport == "tcp" else [])],
        "has_page": has_page,
        "guests": GUESTS_MOST,
        "lines": lines,
        "guests_all": lines + (GUESTS_MOST if has_page else 0),
        "kept": KEPT_MOST,
        "is_loss_told": asks_loss and by == {"radio"},
        "has_clock": has_clock,
        "has_time": has_clock and network_of(link) == "station",
        "usb_bd": USB_BD,
    }


def beside(radio: Row | None, page: str) -> Mapping[str, str]:
    """Return the files that stand beside a program whose board has a radio of its own: its page, and where secrets go."""
    if radio is None:
        return {}
    found = {EXAMPLE_FILE: _example(radio)}
    if radio["has_page"]:
        found[PAGE_FILE] = (
            "// The page that the board serves to a phone, in one piece. It is printed from the plan: change it there.\n"
            f'static const char PAGE[] IN_FLASH = R"page({page})page";\nenum {{ PAGE_SIZE = sizeof PAGE - 1 }};\n'
        )
    return found


def _example(radio: Row) -> str:
    names = secret_names(is_guest=radio["is_guest"], transport=radio["transport"], has_time=radio["has_time"])
    lines = [f"{secret_line(name)}  // {PLACES[name][1]}\n" for name in names]
    told = f"// Copy this file to {SECRETS_FILE}, and write in it what only you know: it stays on your computer, and no plan holds it.\n"
    return told + "".join(lines)


def as_text(text: str) -> str:
    """Return a text between quotes as the language has it: plain characters, and nothing that ends it or is read otherwise."""
    return '"' + "".join(f"\\{it}" if it in '"\\?' else it for it in text if " " <= it <= "~") + '"'
