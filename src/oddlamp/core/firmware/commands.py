"""A module that is told everything by commands, while it carries words too: what a program says to it, and how it wraps words."""

from collections.abc import Callable
from typing import Final

from oddlamp.core.design.design import Design
from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.names import said
from oddlamp.core.modules.goals import air_of, dialect_of, port_of
from oddlamp.core.modules.known import links_known
from oddlamp.core.modules.wifi import said_at_every_start

UNSENT_MOST: Final = 96  # bytes that wait to be said: what a chip with 2 kB has room for


def is_told_by_commands(design: Design, node: str) -> bool:
    """Tell whether a node is a module that takes commands whenever it has power, and wraps what it carries."""
    dialect = dialect_of(design, design.nodes[node])
    return dialect is not None and dialect.enters == "always"


def commands_of(design: Design, host: str, link: str, event: Callable[[tuple[str, ...]], str], *, asks_loss: bool) -> Row | None:
    """Return what is printed for a wire to such a module; None for any other wire."""
    ends = (design.plan.links[link].a, design.plan.links[link].b)
    module = next((it for it in ends if it != host), "")
    dialect = dialect_of(design, design.nodes[module])
    if dialect is None or dialect.enters != "always":
        return None
    air = air_of(design, module)
    known = next((it for it in links_known(design) if it.board == host and it.module == module), None)
    lines = said_at_every_start(dialect, port_of(design.plan.links.get(air or "")))
    return {
        "link": air or "",
        "told": said(design.nodes[module].label),
        "lines": [it.sent.decode("ascii").strip() for it in lines.values()],
        "unsent_most": UNSENT_MOST,
        "is_loss_told": asks_loss and known is not None and known.by == "message",
        "lost_event": event(("link", air or "", "lost")),
        "back_event": event(("link", air or "", "back")),
    }
