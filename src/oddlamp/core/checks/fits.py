"""Rules for room: what is told to stand somewhere fits there."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, plural
from oddlamp.core.layouts.fit import Stretched, cut_to
from oddlamp.core.layouts.strips import Fitted, fitted, is_over, may_be_taken, pitch_m, taken
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.layouts import Layout
from oddlamp.core.plan.lights import LoadLamp, PixelLamp
from oddlamp.core.resolve.loads import METRE
from oddlamp.core.resolve.strips import SECTION_M

NAMED_MOST: Final = 3


def chains_have_room(design: Design) -> Iterator[Breach]:
    """Pixels, strips and lamps that are laid out fit into the room that is told for them."""
    for name, lamp in design.plan.lamps.items():
        if isinstance(lamp, PixelLamp) and lamp.layout is not None:
            yield from _chain(design, name, lamp.layout)
        elif isinstance(lamp, LoadLamp) and lamp.room_m is not None and lamp.kind == "strip":
            yield from _strip(design, name, lamp)
    for name, spread in design.spreads.items():
        if spread.left:
            labels = [design.lamps[it].label for it in spread.left]
            more = [f"{len(labels) - NAMED_MOST} more"] if len(labels) > NAMED_MOST else []
            along = spread.along
            yield Breach(
                severity="look",
                where=f"spreads.{name}",
                stage=design.lamps[spread.left[0]].stage,
                message=f"{spread.label}, {si(along.room_m, 'm')}, has no room for {and_list(labels[:NAMED_MOST] + more)} at {si(along.pitch_m, 'm')} from lamp to lamp.",
                numbers={"lamps": len(labels)},
                working=(Working(formula="lamps a row = room / pitch, less what the ends keep free", substituted=f"{si(along.room_m, 'm')} / {si(along.pitch_m, 'm')}: {along.count} of {spread.in_row}", source="common-practice"),),
                ways=partial(_spread_ways, design, name),
            )  # fmt: skip


def _spread_ways(design: Design, name: str) -> Iterator[Move]:
    at = ("spreads", name)
    moves = (
        Move(label="Space them evenly over it", patch=at_path((*at, "pitch_m"), None)),
        Move(label="Let the run be as long as they need", patch=at_path((*at, "room_m"), None)),
    )
    yield from that_clear(design, "ROOM-OVER", f"spreads.{name}", moves)


def _chain(design: Design, name: str, layout: Layout) -> Iterator[Breach]:
    fits = fitted(layout)
    if fits is None or not is_over(layout, fits):
        return
    lamp, room_m = design.lamps[name], layout.room_m or 0.0
    room = si(room_m, "m") + (f" by {si(layout.down_m, 'm')}" if layout.down_m is not None else "")
    yield Breach(
        severity="look",
        where=f"{name}.room",
        stage=lamp.stage,
        message=f"{lamp.label} has {plural(layout.count, 'pixel')}; {fits.count or 'none'} fit into {room}, {si(pitch_m(layout), 'm')} from one to the next.",
        numbers={"pixels": layout.count - fits.count},
        working=(Working(formula="pixels = room / pitch, down to a cut mark", substituted=f"{si(room_m, 'm')} / {si(pitch_m(layout), 'm')} = {fits.count}", source="common-practice"),),
        ways=partial(_chain_ways, design, name, layout, fits),
    )  # fmt: skip


def _chain_ways(design: Design, name: str, layout: Layout, fits: Fitted) -> Iterator[Move]:
    at = ("lamps", name, "layout")
    moves = [Move(label=take_label(fits), patch=at_path(at, taken(layout, fits)))] if may_be_taken(layout, fits) else []
    untold: Document = {"room_m": None, "down_m": None}
    moves.append(Move(label="Let it take the room it needs", patch=at_path(at, untold)))
    yield from that_clear(design, "ROOM-OVER", f"{name}.room", moves)


def take_label(fits: Fitted) -> str:
    """Say that as many pixels are taken as fit."""
    rows = f", {fits.rows} rows of {fits.in_row}" if fits.rows > 1 else ""
    return f"Take {plural(fits.count, 'pixel')}{rows}"


def strip_cut(lamp: LoadLamp) -> Stretched | None:
    """Return how much of a plain strip fits, cut at its marks; None where no room is told."""
    return cut_to(lamp.room_m, lamp.cut_m or SECTION_M) if lamp.room_m is not None else None


def _strip(design: Design, name: str, lamp: LoadLamp) -> Iterator[Breach]:
    cut, length_m = strip_cut(lamp), lamp.length_m or METRE
    if cut is None or lamp.room_m is None or length_m <= lamp.room_m * (1 + 1e-9):
        return
    yield Breach(
        severity="look",
        where=f"{name}.room",
        stage=design.lamps[name].stage,
        message=f"{design.lamps[name].label} is {si(length_m, 'm')} long; there are {si(lamp.room_m, 'm')} for it.",
        numbers={"over_m": length_m - lamp.room_m},
        working=(Working(formula="length ≤ room, down to a cut mark", substituted=f"{si(length_m, 'm')} > {si(lamp.room_m, 'm')}; cut to {si(cut.length_m, 'm')}", source="common-practice"),),
        ways=partial(_strip_ways, design, name, cut),
    )  # fmt: skip


def _strip_ways(design: Design, name: str, cut: Stretched) -> Iterator[Move]:
    at = ("lamps", name)
    length_m = round(cut.length_m, 6)
    moves = [Move(label=f"Cut it to {si(length_m, 'm')}", patch=at_path((*at, "length_m"), length_m))] if cut.count else []
    moves.append(Move(label="Let it take the room it needs", patch=at_path((*at, "room_m"), None)))
    yield from that_clear(design, "ROOM-OVER", f"{name}.room", moves)


RULES: Final = (
    Rule("ROOM-OVER", "whole", chains_have_room, "", "pixels, a strip or lamps that are laid out do not fit into the room told for them", "common practice"),
)  # fmt: skip
