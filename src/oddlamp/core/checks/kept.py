"""Rules for what outlasts a power cut: only boards with memory for it keep anything."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working
from oddlamp.core.behaviour.tables import keeps_over_cut
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, inner
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.signals import told_by


def what_is_kept_can_be(design: Design) -> Iterator[Breach]:
    """A lamp that has orders for a power cut hangs on a board that can tell one."""
    wanted: dict[str, list[str]] = {}
    for name, order in design.plan.standing.items():
        host = told_by(design.plan, design.lamps[name].host) if name in design.lamps else None
        power_up, power_cut = order.power_up or "off", order.power_cut or order.power_up or "off"
        if (power_up == "last" or power_cut != power_up) and host is not None and not keeps_over_cut(design, host):
            wanted.setdefault(host, []).append(name)
    for host, lamps in wanted.items():
        labels = [design.lamps[it].label for it in lamps]
        where = f"{host}.kept"
        yield Breach(
            severity="look",
            where=where,
            stage=f"rules.{host}",
            message=f"After a power cut the {inner(design.nodes[host].label)} knows nothing of one: it has no memory that outlasts it. For {and_list(labels[:3])} every start is a first one.",
            working=(Working(formula="memory that outlasts a power cut", substituted="none", source="from-memory"),),
            ways=partial(_to_keep, design, host, lamps, where),
            numbers={"lamps": len(lamps)},
        )


def _to_keep(design: Design, host: str, lamps: list[str], where: str) -> Iterator[Move]:
    first = {it: "off" if (power_up := design.plan.standing[it].power_up) == "last" else power_up for it in lamps}
    alike = {"standing": {it: {"power_up": order, "power_cut": None} for it, order in first.items()}}
    moves = [Move(label="Let every start be as a first one", patch=alike)]
    radios = set(getattr(design.nodes[host].part, "radios", ()))
    for board_id, board in design.catalog.boards.items():
        if board.keeps_memory and radios <= set(board.radios):
            choice = {"part": board_id, "overrides": None}
            moves.append(Move(label=f"Take a {inner(board.label)}", patch=at_path(("nodes", host, "choice"), choice)))
    yield from that_clear(design, "KEPT-NONE", where, moves)


RULES: Final = (
    Rule(
        "KEPT-NONE",
        "words",
        what_is_kept_can_be,
        "",
        "a lamp has orders of its own for a power cut, on a board without memory that outlasts one",
        "from memory",
    ),
)
