"""Edits of a plan about chips beside a board: lamps go onto one, and come back."""

from collections.abc import Mapping, Sequence

from oddlamp.core.base import first_free
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import TakingOut
from oddlamp.core.plan.lights import LEADS, may_hang_on_chip
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import told_by


def moved(plan: Plan, hosts: Mapping[str, str]) -> Document:
    """Build the merge patch that hangs lamps on other hosts, by lamp; pins they were given are let go."""
    lines = (f"{lamp}.{lead}" for lamp in hosts for lead in LEADS[plan.lamps[lamp].kind])
    settled = [line for line in lines if (it := plan.signals.get(line)) is not None and it.pin is not None]
    return join_patches(
        [
            *(at_path(("lamps", lamp, "host"), host) for lamp, host in hosts.items()),
            *(at_path(("signals", line, "pin"), None) for line in settled),
        ]
    )


def with_chips(plan: Plan, board: str, part: str, feed: Document, lamps: Sequence[Sequence[str]]) -> Document:
    """Build the merge patch that puts chips on a board's two-wire bus, each with some of its lamps.

    Args:
        plan: the plan.
        board: the board that tells them what to do.
        part: what each of them is.
        feed: a patch with the rail they are fed from under ``rail``, and what else that rail needs.
        lamps: for each chip the lamps that go onto it.
    """
    end = getattr(plan.nodes[board], "end", None)
    noun = part.partition("-")[0]
    nodes: Document = {}
    links: Document = {}
    hosts: dict[str, str] = {}
    for mine in lamps:
        name = first_free(noun, lambda it: it in plan.nodes or it in nodes)
        link = first_free(f"{name}_bus", lambda it: it in plan.links or it in links)
        label = f"{noun.capitalize()} {name.removeprefix(noun).strip('_')}".strip()
        nodes[name] = {
            "kind": "chip",
            "label": label,
            "choice": {"part": part},
            "rail": feed["rail"],
            **({"end": end} if end else {}),
        }
        links[link] = {"kind": "wire", "a": board, "b": name, "transport": "i2c"}
        hosts |= dict.fromkeys(mine, name)
    more = {key: value for key, value in feed.items() if key != "rail"}
    return join_patches([more, {"nodes": nodes, "links": links}, moved(plan, hosts)])


def fed_like(plan: Plan, board: str, *, by_board: bool) -> Document:
    """Build the part of a patch that says what feeds a chip: the board's own output, or the rail the board hangs on."""
    rail = getattr(plan.nodes[board], "rail", None)
    if not by_board:
        return {"rail": rail}
    feed = f"{board}.supply_3v3"
    there = next((name for name, it in plan.rails.items() if it.fed_by == feed), None)
    if there is not None:
        return {"rail": there}
    name = first_free("three", plan.rails.__contains__)
    end = getattr(plan.nodes[board], "end", None)
    return {"rail": name, "rails": {name: {"fed_by": feed, **({"end": end} if end else {})}}}


def hosts_of(plan: Plan, lamp: str) -> tuple[str, ...]:
    """Return where a lamp could hang: on what tells it now, and on every chip that this tells as well."""
    now = plan.lamps[lamp].host
    teller = told_by(plan, now)
    if teller is None or not may_hang_on_chip(plan.lamps[lamp]):
        return (now,)
    chips = (name for name, node in plan.nodes.items() if node.kind == "chip" and told_by(plan, name) == teller)
    return (teller, *chips)


def without_chip(taking_out: TakingOut, chip: str) -> Document:
    """Build the merge patch that takes a chip and its bus out; its lamps go back to the board that told it, or out with it."""
    plan = taking_out.plan
    board = told_by(plan, chip)
    if board is None:
        return taking_out.without({("nodes", chip)})
    mine = [name for name, lamp in plan.lamps.items() if lamp.host == chip]
    links = [name for name, it in plan.links.items() if chip in (it.a, it.b)]
    lines = [name for name in plan.signals if name.partition(".")[0] in links]
    gone = {"nodes": {chip: None}, "links": dict.fromkeys(links), "signals": dict.fromkeys(lines)}
    return join_patches([moved(plan, dict.fromkeys(mine, board)), {key: value for key, value in gone.items() if value}])
