"""Room: how many pixels fit, cut at their marks; where lamps stand along a run, and how far their wires go. Drawn to scale."""

import math
from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import first_free, si
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.fits import strip_cut, take_label
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.spreads import SpreadDesign
from oddlamp.core.english import plural
from oddlamp.core.layouts.places import shape_of
from oddlamp.core.layouts.strips import (
    PER_M,
    Fitted,
    cut_every,
    fitted,
    made_of,
    may_be_taken,
    pitch_m,
    places_m,
    row_pitch_m,
    size_m,
    taken,
)
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.layouts import IN_ROW_MOST, PIXELS_MOST, ROWS_MOST, Digits, Free, Grid, Layout, Ring, Row, Runs, Star
from oddlamp.core.plan.lights import LoadLamp
from oddlamp.core.resolve.loads import METRE
from oddlamp.core.resolve.spreads import PITCH_M, strings_of
from oddlamp.core.resolve.strips import SECTION_M
from oddlamp.sheets.charts import Axis, Band, ChartPicture, Dot, Lane, Mark, Tick, ticks
from oddlamp.sheets.layouts import layout_of
from oddlamp.sheets.models import Choice, Entry, Option, Panel

DRAWN_MOST: Final = 60
OFFERED_MOST: Final = 6
LAMPS_MOST: Final = 500
COMES: Final = (
    ("strip", "Strip, cut to length", "cut at its marks"),
    ("whole", "Ready made", "a panel, a ring, a string of its own"),
    ("single", "Single pixels", "wire from one to the next"),
)
ENDS: Final = (
    ("half", "Half a pitch from the ends", "even, also where the next run goes on"),
    ("at", "At the very ends", "the first and the last at its ends"),
    ("whole", "A whole pitch from the ends", "as far from the ends as from each other"),
)
SAVED_RATIO: Final = 0.05  # less is not worth a move
NO_ROOM: Final = "not told"


def room_panel(design: Design, lamp: LampDesign) -> Panel | None:
    """Offer the room a chain or a strip has, and how much of it fits; None for all else."""
    plan = design.plan.lamps[lamp.id]
    if isinstance(plan, LoadLamp):
        return _strip_panel(lamp, plan) if plan.kind == "strip" else None
    if not lamp.kind.startswith("pixels"):
        return None
    layout = layout_of(design, lamp.id)
    path = ("lamps", lamp.id, "layout")
    shape, pitch = shape_of(layout), pitch_m(layout)
    has_room, is_in_rows = isinstance(shape, Row | Runs | Grid | Ring | Star), isinstance(shape, Runs | Grid)
    entries = [
        Entry(
            label="Pixels a metre", text=f"{layout.per_m or PER_M:.4g}", path=(*path, "per_m"), origin="own" if layout.per_m else "proposed",
            because=None if layout.per_m else "the commonest strip", settles=None if layout.per_m else PER_M,
            hint="or how far they are apart, such as 12 cm",
        )
    ]  # fmt: skip
    if made_of(layout) == "strip":
        entries.append(_marks(layout, path))
    if has_room:
        entries.append(_length("Room along it" if isinstance(shape, Row) else "Room across", layout.room_m, (*path, "room_m"), NO_ROOM, "tell it, and it says how many fit"))  # fmt: skip
    if is_in_rows:
        entries.append(_length("Room down", layout.down_m, (*path, "down_m"), NO_ROOM, "tell it, and it says how many rows fit"))
        entries.append(_length("From row to row", layout.row_pitch_m, (*path, "row_pitch_m"), si(row_pitch_m(layout), "m"), "as far as from pixel to pixel"))  # fmt: skip
    fits = fitted(layout)
    moves = (Move(label=take_label(fits), patch=at_path(path, taken(layout, fits))),) if fits is not None and fits.count != layout.count and may_be_taken(layout, fits) else ()  # fmt: skip
    choice = Choice(
        label="It comes as",
        origin="own" if layout.made_of else "proposed",
        because=None if layout.made_of else "as most of this form do",
        options=tuple(
            Option(label=label, detail=detail, patch=at_path((*path, "made_of"), key), is_chosen=key == made_of(layout))
            for key, label, detail in COMES
        ),
    )
    wide, high = size_m(layout)
    size = f"{si(wide, 'm')} long" if isinstance(shape, Row) else f"{si(wide, 'm')} by {si(high, 'm')}"
    if isinstance(shape, Free | Digits):
        size += ", one step from place to place being a pitch"
    return Panel(
        title="Room",
        note=f"{si(pitch, 'm')} from pixel to pixel; {plural(layout.count, 'pixel')}, {size}",
        choices=(choice,),
        entries=tuple(entries),
        lines=tuple(_fits_told(layout, fits)),
        moves=moves,
        pictures=(_ruler(lamp.label, layout, fits),) if isinstance(shape, Row) and layout.count > 1 else (),
        is_folded=layout.room_m is None,
    )


def _marks(layout: Layout, path: tuple[str, ...]) -> Entry:
    own = layout.cut_every
    every = own or 1
    return Entry(
        label="Cut mark every",
        text=f"{every}",
        path=(*path, "cut_every"),
        origin="own" if own else "proposed",
        because=None if own else "one pixel a mark, as on 5 V strips; three on many 12 V ones",
        hint="pixels from one mark to the next",
        lower=every - 1 if every > 1 else None,
        higher=every + 1,
        settles=None if own else every,
    )


def _length(label: str, own_m: float | None, path: tuple[str, ...], usual: str, why: str) -> Entry:
    return Entry(
        label=label,
        text=si(own_m, "m") if own_m is not None else usual,
        path=path,
        origin="own" if own_m is not None else "proposed",
        because=None if own_m is not None else why,
        hint="such as 94 cm",
    )


def _fits_told(layout: Layout, fits: Fitted | None) -> Iterator[str]:
    """Say how many fit, where it is cut, and what is left over."""
    if fits is None or layout.room_m is None:
        return
    every, stretch_m = cut_every(layout), pitch_m(layout) * cut_every(layout)
    if not fits.count:
        yield f"None fits: {si(stretch_m, 'm')} is the least that can be cut."
        return
    row = f"{plural(fits.in_row, 'pixel')} fit" + (f" in each of {plural(fits.rows, 'row')}" if fits.rows > 1 else "")
    cut = f", cut at a mark every {plural(every, 'pixel')}" if every > 1 else ""
    yield f"{row}: {si(fits.cut.length_m, 'm')}{cut}; {si(fits.cut.left_m, 'm')} left over."
    if not may_be_taken(layout, fits):
        yield f"That is more than one chain holds here: {PIXELS_MOST} pixels, {ROWS_MOST} rows, {IN_ROW_MOST} in a row of a grid."


def _ruler(label: str, layout: Layout, fits: Fitted | None) -> ChartPicture:
    """Draw a line of pixels to scale: where each stands, where it is cut, and the room there is."""
    along = [x for x, _ in places_m(layout)]
    pitch = pitch_m(layout)
    first, length_m = min(along) - pitch / 2, layout.count * pitch
    room_m = layout.room_m if layout.room_m is not None else length_m
    step = -(-layout.count // DRAWN_MOST)
    bands = [Band(tone="soft", from_x=0, to_x=min(length_m, room_m), is_thin=True)]
    if length_m > room_m * (1 + 1e-9):
        bands.append(Band(tone="cut", from_x=room_m, to_x=length_m, is_thin=True))
    most = max(room_m, length_m)
    return ChartPicture(
        title=f"{label}, to scale",
        text=f"{label}: {plural(layout.count, 'pixel')} along {si(length_m, 'm')}" + (f" in {si(room_m, 'm')} of room" if layout.room_m else ""),
        note=f"Every {step}. pixel is drawn." if step > 1 else "",
        x=Axis(most=most, ticks=_scaled(most)),
        lanes=(Lane(label="", note=""),),
        bands=tuple(bands),
        marks=(Mark(at=room_m, tone="copper", label="room ends", short="end"),) if layout.room_m is not None else (),
        dots=tuple(Dot(x=x - first, shape="dot") for x in along[::step]),
    )  # fmt: skip


def _scaled(most_m: float) -> tuple[Tick, ...]:
    """Place round marks on a length: reckoned in millimetres, which are whole."""
    return tuple(Tick(at=it.at / 1000, text=it.text) for it in ticks(most_m * 1000, lambda mm: si(mm / 1000, "m") if mm else "0"))


def _strip_panel(lamp: LampDesign, plan: LoadLamp) -> Panel:
    path = ("lamps", lamp.id)
    cut, cut_m = strip_cut(plan), plan.cut_m or SECTION_M
    length_m = plan.length_m or METRE
    lines: tuple[str, ...] = ()
    moves: tuple[Move, ...] = ()
    if cut is not None:
        lines = (f"{si(cut.length_m, 'm')} fit, cut at a mark; {si(cut.left_m, 'm')} left over.",) if cut.count else (f"None fits: {si(cut_m, 'm')} is the least that can be cut.",)  # fmt: skip
        if cut.count and abs(cut.length_m - length_m) > 1e-6:
            moves = (Move(label=f"Take {si(cut.length_m, 'm')}", patch=at_path((*path, "length_m"), round(cut.length_m, 6))),)
    return Panel(
        title="Room",
        note=f"{si(length_m, 'm')}, {plural(max(1, round(length_m / cut_m)), 'stretch', 'stretches')} from mark to mark",
        entries=(
            _length("From cut mark to cut mark", plan.cut_m, (*path, "cut_m"), si(SECTION_M, "m"), "three LEDs at 60 a metre, as on most 12 V strips"),
            _length("Room along it", plan.room_m, (*path, "room_m"), NO_ROOM, "tell it, and it says how much fits"),
        ),
        lines=lines,
        moves=moves,
        is_folded=plan.room_m is None,
    )  # fmt: skip


# Lamps along a run


def spread_panels(design: Design) -> tuple[Panel, ...]:
    """Show where lamps stand that are laid out, and offer to lay out those that are not."""
    return (*(_spread_panel(design, it) for it in design.spreads.values()), *_offered(design))


def _offered(design: Design) -> Iterator[Panel]:
    """Offer to lay out all lamps of a host, or those of a group, that have no place yet."""
    placed = {lamp for it in design.plan.spreads.values() for lamp in it.lamps}
    found: list[tuple[str, list[str]]] = []
    leds = {it.id: math.prod(strings_of(design.plan.lamps[it.id])) for it in design.lamps.values()}
    for name, node in design.nodes.items():
        mine = [it.id for it in design.lamps.values() if it.host == name and it.id not in placed]
        if len(mine) > 1:
            found.append((f"the {plural(len(mine), 'lamp')} of {node.label}", mine))
    for name, group in design.plan.groups.items():
        mine = [it for it in group.members if it not in placed]
        found.append((f"{group.label or name.replace('_', ' ')}, {plural(len(mine), 'lamp')}", mine))
    found += [(f"{design.lamps[it].label}, {plural(leds[it], 'LED')}", [it]) for it in leds if leds[it] > 1 and it not in placed]
    moves = []
    for label, lamps in found:
        if len(lamps) <= LAMPS_MOST and sum(leds[it] for it in lamps) > 1:
            named = first_free("run", design.plan.spreads.__contains__)
            moves.append(Move(label=f"Lay out {label}", patch=at_path(("spreads", named), {"lamps": lamps})))
    if moves:
        note = "Along a run or in rows: it says where each stands, and its wires are as long as that takes."
        yield Panel(title="Where lamps stand", note=note, moves=tuple(moves[:OFFERED_MOST]))


def _spread_panel(design: Design, it: SpreadDesign) -> Panel:
    plan, path, along = design.plan.spreads[it.id], ("spreads", it.id), it.along
    total_m = sum(lead.first_m for leads in it.leads.values() for lead in leads)
    choice = Choice(
        label="The first and the last",
        origin="own" if plan.ends else "proposed",
        because=None if plan.ends else "makers do all three; this one looks even wherever it ends",
        options=tuple(
            Option(label=label, detail=detail, patch=at_path((*path, "ends"), key), is_chosen=key == it.ends)
            for key, label, detail in ENDS
        ),
    )
    count = it.rows * it.in_row
    rows = Entry(
        label="Lamps in a row", text=f"{it.in_row}", path=(*path, "in_row"), origin="own" if plan.in_row else "proposed",
        because=None if plan.in_row else "all in one", lower=it.in_row - 1 if it.in_row > 1 else None,
        higher=it.in_row + 1 if it.in_row < count else None,
    )  # fmt: skip
    pitch_why = "as the room has it" if plan.room_m is not None else "a hand's breadth"
    entries = [
        _length("Length of the run", plan.room_m, (*path, "room_m"), si(along.room_m, "m"), "as long as they need"),
        _length("From lamp to lamp", plan.pitch_m, (*path, "pitch_m"), si(along.pitch_m, "m"), pitch_why),
        rows,
        *([_length("From row to row", plan.row_pitch_m, (*path, "row_pitch_m"), si(it.row_pitch_m, "m"), "as far as from lamp to lamp")] if it.rows > 1 else []),
        _length("Wires come in at", plan.board_m, (*path, "board_m"), "its start", "where a board usually sits"),
        _length("From there to the board", plan.away_m, (*path, "away_m"), si(it.away_m, "m"), "a usual length"),
    ]  # fmt: skip
    middle = along.room_m / 2
    here = sum(abs(x - it.board_m) for spots in it.spots.values() for x, _ in spots)
    saved_m = here - sum(abs(x - middle) for spots in it.spots.values() for x, _ in spots)
    moves = [Move(label="Take it out of the run", patch=at_path(path, None))]
    if saved_m > SAVED_RATIO * total_m:
        moves.insert(0, Move(label=f"Let the wires come in at its middle: {si(saved_m, 'm')} shorter in all, each way", patch=at_path((*path, "board_m"), round(middle, 4))))  # fmt: skip
    longest = max((lead.last_m for leads in it.leads.values() for lead in leads), default=0.0)
    lines = [f"The longest way is {si(longest, 'm')}; to all of them {si(total_m, 'm')}, there and back twice that."]
    if it.left:
        lines.append(f"No room for {plural(len(it.left), 'lamp')}: told as a verdict on its sheet.")
    return Panel(
        title=it.label,
        note=f"{plural(it.count, 'lamp')}, {si(along.pitch_m, 'm')} from one to the next, the first {si(along.first_m, 'm')} from the end",
        choices=(choice,),
        entries=tuple(entries),
        lines=tuple(lines),
        moves=tuple(moves),
        pictures=(_run_picture(design, it),),
    )  # fmt: skip


def _run_picture(design: Design, it: SpreadDesign) -> ChartPicture:
    """Draw lamps where they stand along their run, a lane a row, and where their wires come in."""
    spots = [(lamp, spot) for lamp, mine in it.spots.items() for spot in mine][:DRAWN_MOST]
    rows = min(it.rows, 12)
    most = max(it.along.room_m, it.board_m, PITCH_M / 10)
    lanes = [round(y / it.row_pitch_m) if it.row_pitch_m else 0 for _, (_, y) in spots]
    told = ", ".join(f"{design.lamps[lamp].label} {si(x, 'm')}" for lamp, (x, _) in spots[:12])
    return ChartPicture(
        title=f"{it.label}, to scale",
        text=f"{it.label}, from its start: {told}" + (" and more" if len(spots) > 12 else ""),
        x=Axis(most=most, ticks=_scaled(most)),
        lanes=tuple(Lane(label=f"row {at + 1}" if rows > 1 else "") for at in range(rows)),
        bands=tuple(Band(tone="soft", lane=at, from_x=0, to_x=it.along.room_m, is_thin=True) for at in range(rows)),
        marks=(Mark(at=it.board_m, tone="copper", label="wires come in", short="in"),),
        dots=tuple(Dot(x=x, lane=lane, shape="dot") for (_, (x, _)), lane in zip(spots, lanes, strict=True) if lane < rows),
    )
