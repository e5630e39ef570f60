"""The panel of a board from power-on until its program runs: every pin on one axis of time, and what its lamp does meanwhile."""

from collections.abc import Iterator, Sequence

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import plural
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.pins.assign import named_pins, taken_for, timer_taken
from oddlamp.core.resolve.start_up import Waking, wakings
from oddlamp.sheets.charts import ticks
from oddlamp.sheets.models import Panel, WakingPicture, WakingRow

TOLD_MOST = 3


def waking_panel(design: Design, node: NodeDesign) -> Panel | None:
    """Build the folded panel; None where nothing hangs on the host or it is no board."""
    rows = tuple(wakings(design, node.id))
    if not rows or not isinstance(node.part, BoardPart) or node.logic is None:
        return None
    boot = node.part.boot_s
    how_long = (
        "how long it takes is not known of this board"
        if boot is None
        else f"about {si(boot.value, 's')}" + (f", {si(boot.low, 's')} to {si(boot.high, 's')}" if boot.low < boot.high else "")
    )
    loud = [row for row in rows if not row.is_quiet]
    return Panel(
        title="Until the program runs",
        note=f"{how_long}; {_told(loud)}",
        pictures=(_picture(rows, boot.value if boot else 1.0, boot.low if boot else 1.0, boot.high if boot else 1.0, node),),
        is_folded=True,
    )


def takings_panel(design: Design, node: NodeDesign) -> Panel | None:
    """Tell what the printed program takes of a host besides pins: timers, and time in which it hears nothing."""
    told = tuple(_takings(design, node))
    return Panel(title="What the program takes", note=plural(len(told), "thing"), lines=told, is_folded=True) if told else None


def _takings(design: Design, node: NodeDesign) -> Iterator[str]:
    part = node.part
    for pin in design.pins if part is not None else ():
        taking = taken_for(design.plan, design.catalog, pin.line) if pin.host == node.id else None
        if taking is None or part is None:
            continue
        timer = timer_taken(design.plan, design.catalog, part, pin.line)
        dull = [it.label for it in part.pins if timer is not None and it.timer == timer]
        if dull:
            yield f"{pin.name}: timer {timer} for {taking.what}, so {named_pins(dull)} {'dims' if len(dull) == 1 else 'dim'} nothing."
        if taking.wishes is not None:
            at = part.pin(pin.label or "")
            has = at is not None and taking.wishes in at.abilities
            yield f"{pin.name}: {'the' if has else 'no'} interrupt of its pin for {taking.what}" + (
                "." if has else "; they are timed less well."
            )
        lamp = design.lamps.get(pin.line.owner_id)
        if taking is design.catalog.takings.code_sender and taking.deaf_s_each is not None:
            yield f"{pin.name}: while a burst of a code is sent the board hears nothing, for {si(taking.deaf_s_each, 's')} at most."
        if taking.deaf_s_each is not None and lamp is not None and lamp.load is not None and lamp.load.pixels:
            deaf_s = taking.deaf_s_each * lamp.load.pixels
            yield f"{pin.name}: each time its {plural(lamp.load.pixels, 'pixel')} are written the board hears nothing for {si(deaf_s, 's')}."


def _told(loud: Sequence[Waking]) -> str:
    if not loud:
        return "nothing on its pins does anything"
    if len(loud) > TOLD_MOST:
        return f"{plural(len(loud), 'line')} do something of their own"
    return "; ".join(f"{row.pin.name} {row.does}" for row in loud)


def _picture(rows: Sequence[Waking], boot_s: float, least_s: float, most_s: float, node: NodeDesign) -> WakingPicture:
    logic_v = node.logic.known if node.logic is not None else 1.0
    end_s = most_s * 1.2
    drawn = tuple(
        WakingRow(
            pin=row.pin.label or "",
            name=row.pin.name,
            way=row.at_start,
            height_ratio=None if row.stands_v is None else min(1.0, max(0.0, row.stands_v / logic_v)),
            volts="" if row.stands_v is None else si(row.stands_v, "V"),
            because=row.because,
            does=row.does,
            is_quiet=row.is_quiet,
        )
        for row in rows
    )
    return WakingPicture(
        text="; ".join(f"{row.name} on pin {row.pin}, {row.because}, {row.does}" for row in drawn),
        most_s=end_s,
        boot_s=boot_s,
        least_s=least_s,
        latest_s=most_s,
        ticks=ticks(end_s, lambda at: si(at, "s")),
        rows=drawn,
    )
