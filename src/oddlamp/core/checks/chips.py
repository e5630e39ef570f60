"""Chips beside a board: what has to be right of them, and how lamps get onto one where the board has too few pins."""

from collections.abc import Iterator, Sequence
from functools import cache, partial
from typing import Final, Literal

from oddlamp.core.base import Working
from oddlamp.core.checks.fewer import verdicts
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.english import inner, offered, plural
from oddlamp.core.parts.models import BoardPart, ChipPart
from oddlamp.core.plan.chips import fed_like, with_chips, without_chip
from oddlamp.core.plan.document import Document, at_path, edit_plan
from oddlamp.core.plan.lights import LEADS, may_hang_on_chip
from oddlamp.core.resolve.passages import judge_chip
from oddlamp.core.resolve.resolve import resolve

CHIPS_MOST: Final = 4  # put in by one press
BUS_PINS: Final = 2
IN_HAND_RATIO: Final = 0.8  # of what a chip may carry together; the rest is for the worst case


def chips_are_told(design: Design) -> Iterator[Breach]:
    """A chip that holds lamps hangs on a board's bus, at an address of its own."""
    for node in design.nodes.values():
        for it in judge_chip(design, node):
            yield Breach(
                severity=it.severity,
                where=node.id,
                stage=node.stage,
                message=f"{node.label}: {it.because}.",
                working=(Working(formula="one bus, one address a chip", substituted=it.because, source="from-memory"),),
                ways=partial(_told_anew, design, node.id, it.case),
                numbers={"chips": 1},
            )


def _told_anew(design: Design, chip: str, case: str) -> Iterator[Move]:
    board = next((name for name, node in design.plan.nodes.items() if node.kind == "board"), None)
    if case == "untold" and board is not None:
        link = {"kind": "wire", "a": board, "b": chip, "transport": "i2c"}
        yield Move(label=f"Wire it to the {inner(design.nodes[board].label)}", patch=at_path(("links", f"{chip}_bus"[:40]), link))
    yield Move(label=f"Take {design.nodes[chip].label} out", patch=without_chip(design.taking_out, chip))


def feed_of(design: Design, board: str) -> Document:
    """Say what feeds a chip so that its pins stand at the board's own volts, where that can be had."""
    node = design.nodes[board]
    rail = design.rails.get(node.rail_id or "")
    stands_v = node.logic.value if node.logic is not None else None
    own = node.part.supply_3v3_v if isinstance(node.part, BoardPart) else None
    is_same = rail is not None and rail.voltage.value == stands_v
    return fed_like(design.plan, board, by_board=not is_same and own is not None and own.value == stands_v)


def onto_chips(design: Design, missing: Sequence[PinDesign], rivals: Sequence[PinDesign]) -> Iterator[Move]:
    """Offer to put as few lamps as will do on chips that share two pins of the board, each tried on the whole plan.

    Args:
        design: the plan as it stands.
        missing: lines of a board that have no pin, all alike in what they need.
        rivals: what competes with them for too little, themselves included.
    """
    board = missing[0].host
    if design.nodes[board].node.kind != "board":
        return
    mine = [
        pin.line.owner_id
        for pin in (*missing, *reversed(rivals), *reversed(design.pins))
        if pin.host == board and pin.line.owner[0] == "lamps"
    ]
    lamps = [it for it in dict.fromkeys(mine) if may_hang_on_chip(design.plan.lamps[it]) and not _is_built(design, it)]
    gone = {pin.line.owner for pin in missing if pin.line.owner[0] == "lamps"}
    for part in sorted(
        (it for it in design.catalog.chips.values() if it.tells is None), key=lambda it: it.pwm_frequency_hz is not None
    ):
        able = [it for it in lamps if part.pwm_frequency_hz is not None or it not in design.dimmed]
        count, is_calm = _fewest(design, board, part, able, max(1, len(gone)))
        if count:
            chips = _shared_out(design, part, able[:count])
            what = inner(part.label).partition(",")[0]
            where = f"{plural(len(chips), what) if len(chips) > 1 else offered(what)} over two wires"
            patch = with_chips(design.plan, board, part.id, feed_of(design, board), chips)
            yield Move(label=f"Put {plural(count, 'lamp')} on {where}", patch=patch)
            if len(chips) == 1 and is_calm:
                return  # the dearer chip would do no more


def _fewest(design: Design, board: str, part: ChipPart, lamps: Sequence[str], least: int) -> tuple[int, bool]:
    """Find by halving how few lamps have to go for no verdict that was not there, and whether so few do; else for no stop.

    Returns:
        How many lamps, 0 where no number of them helps; and whether no verdict comes with it.
    """

    @cache
    def outcome(count: int) -> Literal["calm", "fits", "no"]:
        chips = _shared_out(design, part, lamps[:count])
        if not least <= count <= len(lamps) or len(chips) > CHIPS_MOST:
            return "no"
        there = resolve(
            edit_plan(design.plan, with_chips(design.plan, board, part.id, feed_of(design, board), chips)), design.catalog
        )
        others = {name for name in design.nodes if name != board}
        if any(pin.label is None for pin in there.pins if pin.host not in others):
            return "no"
        new = verdicts(there) - verdicts(design)
        return "calm" if not new else "no" if any(severity == "stop" for _, _, severity in new) else "fits"

    for wanted in (("calm",), ("calm", "fits")):
        # All of them may be more than the chips can hold: then the least that could do is asked.
        high = next((it for it in (len(lamps), least + BUS_PINS) if outcome(it) in wanted), 0)
        low = least
        while low < high:
            middle = (low + high) // 2
            low, high = (low, middle) if outcome(middle) in wanted else (middle + 1, high)
        if high:
            return high, outcome(high) == "calm"
    return 0, False


def _shared_out(design: Design, part: ChipPart, lamps: Sequence[str]) -> list[list[str]]:
    """Share lamps out over chips: no more lines on each than it has pins, or can feed together."""
    most = len(part.usable_pins)
    if part.chip_most_a is not None:
        most = min(most, int(IN_HAND_RATIO * part.chip_most_a.value / part.pin_recommended_a.value))
    chips: list[list[str]] = []
    lines = most
    for lamp in lamps:
        needs = len(LEADS[design.plan.lamps[lamp].kind])
        if lines + needs > most:
            chips.append([])
            lines = 0
        chips[-1].append(lamp)
        lines += needs
    return chips


def _is_built(design: Design, lamp: str) -> bool:
    return any(signal.pin is not None and signal.pin.signal.is_built for signal in design.lamp_signals(design.lamps[lamp]))


RULES: Final = (
    Rule(
        "CHIP-BUS",
        "whole",
        chips_are_told,
        "a chip holds lamps and no bus of a board leads to it, or more of its kind hang on the bus than it has addresses",
        "",
        "board and chip parts, from memory",
    ),
)
