"""Boards compared: the same plan on every board there is, what it would say there, and the press that moves it over."""

from typing import NamedTuple

from oddlamp.core.base import Model, si
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.checks.pins import to_board
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.marks import State

ROOM = 2  # pins that had better stay free: something is always added


class BoardRow(Model):
    """The plan on one board."""

    label: str
    is_now: bool
    state: State
    because: str
    pins: str
    upload: str
    levels: str
    current: str
    move: Move | None


class BoardsCompared(Model):
    """One host of a plan on every board, the one to take first."""

    host: str
    label: str
    sentence: str
    rows: tuple[BoardRow, ...]


def compare_boards(plan: Plan, design: Design) -> tuple[BoardsCompared, ...]:
    """Try every shipped and own board under each host of a plan.

    Args:
        plan: the plan as it stands.
        design: what it resolves to.
    """
    return tuple(
        _compared(plan, design, node.id)
        for node in design.nodes.values()
        if node.node.kind == "board" and isinstance(node.part, BoardPart)
    )


class _Tried(NamedTuple):
    """The plan on one board, with what is to settle there and nowhere else."""

    board_id: str
    board: BoardPart
    design: Design
    stops: list[Finding]
    looks: list[Finding]


def _compared(plan: Plan, design: Design, host: str) -> BoardsCompared:
    built = [pin for pin in design.pins if pin.host == host and pin.signal.is_built]
    picked = design.nodes[host].picked
    now = picked.id if picked is not None else None
    there = {
        board_id: design if board_id == now else resolve(edit_plan(plan, to_board(design, host, board_id)), design.catalog)
        for board_id in design.catalog.boards
    }
    found = {name: [it for it in run_rules(it) if it.accepted is None] for name, it in there.items()}
    everywhere = set.intersection(*({it.key for it in findings} for findings in found.values()))
    tried = []
    for name, findings in found.items():
        own = [it for it in findings if it.key not in everywhere]
        stops, looks = ([it for it in own if it.severity == severity] for severity in ("stop", "look"))
        tried.append(_Tried(name, design.catalog.boards[name], there[name], stops, looks))
    rows = []
    for it in sorted(tried, key=lambda it: _rank(it, host, is_now=it.board_id == now)):
        patch = None if it.board_id == now or built else to_board(design, host, it.board_id)
        rows.append(_row(it, host, patch, is_now=it.board_id == now))
    sentence = _sentence(rows[0], [pin.name for pin in built], len(everywhere))
    return BoardsCompared(host=host, label=design.nodes[host].label, sentence=sentence, rows=tuple(rows))


def _free(design: Design, host: str, board: BoardPart) -> list[str]:
    used = {label for (at, label) in design.users if at == host}
    return [pin.label for pin in board.usable_pins if pin.label not in used and pin.busy_with in (None, "status-led")]


def _rank(it: _Tried, host: str, *, is_now: bool) -> tuple[int, int, bool, bool, int]:
    """Put the boards in order: the fewest stops, then looks, room to grow, the one there is, the smallest."""
    return len(it.stops), len(it.looks), len(_free(it.design, host, it.board)) < ROOM, not is_now, len(it.board.pins)


def _row(it: _Tried, host: str, patch: Document | None, *, is_now: bool) -> BoardRow:
    design, board, told = it.design, it.board, [*it.stops, *it.looks]
    more = f" And {len(told) - 1} more." if len(told) > 1 else ""
    free, mine = _free(design, host, board), [pin for pin in design.pins if pin.host == host]
    upload = [
        pin.name
        for pin in mine
        if (at := board.pin(pin.label or "")) and at.busy_with in ("upload", "usb", "programming") and not pin.line.is_usb
    ]
    shifted = [
        it.line.name
        for it in design.signals.values()
        if it.level is not None and it.level.school.id != "direct" and host in (it.line.near, *it.line.far)
    ]
    placed = sum(pin.label is not None for pin in mine)
    return BoardRow(
        label=board.label,
        is_now=is_now,
        state="stop" if it.stops else "look" if it.looks else "clear",
        because=told[0].message + more if told else "Nothing of its own to settle.",
        pins=f"{placed} of {plural(len(mine), 'line')} placed, {plural(len(free), 'pin')} free",
        upload=f"unplug {and_list([inner(it) for it in upload])} for each upload"
        if upload
        else "nothing to unplug for an upload",
        levels=f"{plural(len(shifted), 'line')} brought to another level" if shifted else "no level to shift",
        current=f"{si(board.pin_recommended_a.value, 'A')} a pin",
        move=None if patch is None else Move(label=f"Move to the {board.label}", patch=patch),
    )


def _sentence(best: BoardRow, built: list[str], everywhere: int) -> str:
    if built:
        it = "it" if len(built) == 1 else "them"
        return f"{and_list(built)} {'is' if len(built) == 1 else 'are'} built: open {it} again before the board is changed."
    same = (
        f" {plural(everywhere, 'thing')} to settle {'is' if everywhere == 1 else 'are'} the same on every board."
        if everywhere
        else ""
    )
    if best.state == "stop":
        return f"No board takes all of this as it is: the first has the fewest stops.{same}"
    name = "Your board" if best.is_now else f"The {best.label}"
    says = "nothing of its own to settle" if best.state == "clear" else "no stop of its own"
    return f"{name} serves it best: {says}, {best.pins.partition(', ')[2]}.{same}"
