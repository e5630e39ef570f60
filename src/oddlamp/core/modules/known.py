"""How the program of a board knows that a radio link is lost: by a pin, by a message, by its own radio, or not at all."""

from typing import Literal, NamedTuple

from oddlamp.core.behaviour.tables import watches_of
from oddlamp.core.design.design import Design
from oddlamp.core.modules.goals import dialect_of

By = Literal["silence", "radio", "pin", "message"]
HOW: dict[By, str] = {
    "silence": "by silence, where its keep-alive word is not heard",
    "radio": "its own radio tells",
    "pin": "a pin of its module tells",
    "message": "its module says so",
}


class Known(NamedTuple):
    """One radio link that a board hears words over, and how it knows of its loss; None where nothing tells it."""

    air: str
    board: str
    module: str | None
    by: By | None


def links_known(design: Design) -> tuple[Known, ...]:
    """List the radio links of all boards, each with how its loss is known."""
    found: dict[tuple[str, str], Known] = {}
    for talk in design.talks.values():
        airs = [hop for hop in talk.hops if hop.kind == "air"]
        for board, hop, near in ((talk.a, airs[:1], "from_node"), (talk.b, airs[-1:], "to_node")):
            if hop and design.nodes[board].node.kind == "board":
                found.setdefault((hop[0].link_id, board), _known(design, hop[0].link_id, board, getattr(hop[0], near)))
    return tuple(found.values())


def _known(design: Design, air: str, board: str, near: str) -> Known:
    if air in watches_of(design, board):  # agreed by the maker, so that counts
        return Known(air, board, None if near == board else near, "silence")
    if near == board:
        return Known(air, board, None, "radio")
    signal = design.plan.signals.get(f"{near}.state")
    if signal is not None and not signal.is_omitted:
        return Known(air, board, near, "pin")
    dialect = dialect_of(design, design.nodes[near])
    return Known(air, board, near, "message" if dialect is not None and dialect.on_unlink else None)
