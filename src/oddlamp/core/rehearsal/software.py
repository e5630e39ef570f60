"""Which wires a board hears and speaks on in software, and which boards are deaf at times."""

from oddlamp.core.checks.busy import is_software
from oddlamp.core.design.design import Design
from oddlamp.core.parts.models import BoardPart


def spoken_in_software(design: Design) -> dict[str, set[str]]:
    """Return of each board the wires on which it makes each bit itself."""
    found: dict[str, set[str]] = {}
    for name, link in design.plan.links.items():
        for board in (link.a, link.b) if link.kind == "wire" and name in design.wires else ():
            if design.nodes[board].node.kind == "board" and is_software(design, design.nodes[board], name):
                found.setdefault(board, set()).add(name)
    return found


def wary_of(design: Design) -> tuple[set[str], set[str]]:
    """Return the boards that are deaf while they write one-wire pixels or speak in software, and the ways of wires they hear so."""
    chains = {it.host for it in design.lamps.values() if it.kind == "pixels-one-wire"}
    boards = {it for it in chains if isinstance(part := design.nodes[it].part, BoardPart) and part.is_deaf_to_pixels}
    spoken = spoken_in_software(design)
    soft = set()
    for board, wires in spoken.items():
        if board in boards or any(_speaks_on(design, board, it) for it in wires):
            boards.add(board)
            soft |= {f"{it}.{'b_to_a' if design.plan.links[it].a == board else 'a_to_b'}" for it in wires}
    return boards, soft


def _speaks_on(design: Design, board: str, wire: str) -> bool:
    """Tell whether a board's program says anything on a wire."""
    talks = [it for it in design.talks.values() if any(hop.link_id == wire for hop in it.hops)]
    said = {action.say.talk for _, rule in design.rules_of(board) for action in rule.do if action.say is not None}
    return any(it.id in said or it.vocabulary.answers_unknown for it in talks)
