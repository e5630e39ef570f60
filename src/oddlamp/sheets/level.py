"""What arrives on a line: its window, its edge, and the schools that could carry it side by side."""

import math
from collections.abc import Iterable
from functools import lru_cache

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.ways import divider_patch, may_be_left_out
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.passages import Obstacle, state_of
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.electrical.designers import FoundDivider, design_divider
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Burden
from oddlamp.core.electrical.preferred import Series
from oddlamp.core.english import inner
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.resolve.judge_levels import SLOW_LOOK_RATIO, Scene, judge_level
from oddlamp.core.resolve.levels import try_school
from oddlamp.core.resolve.schools import OMITTED, SCHOOLS, offered_at, place_of
from oddlamp.sheets.builds import can_be_built
from oddlamp.sheets.charts import Axis, Band, ChartPicture, Dot, Lane, Mark, Stroke, Tick
from oddlamp.sheets.entry import entry, marked
from oddlamp.sheets.marks import State
from oddlamp.sheets.models import Choice, Option, Panel

EDGE_POINTS = 60


def direction(way: LevelDesign) -> str:
    """Name a direction: ``Board to module``; or a line that goes one way only: ``Data line``."""
    if way.is_bits:
        return f"{way.line.lead.capitalize()} line"
    if way.line.kind == "bus":
        return {"sda": "Two-wire data", "scl": "Two-wire clock"}[way.line.lead]
    if way.line.kind not in ("wire", "input"):
        return f"{way.sender.label} to the {way.line.kind} pin"
    return f"{way.sender.label} to {inner(way.receiver.label)}"


def window_picture(ways: Iterable[LevelDesign]) -> ChartPicture | None:
    """Draw what arrives on each line between what is heard and what harms; None where no level is known."""
    shown = [way for way in ways if way.high.value is not None and way.low.value is not None and way.limit.value is not None]
    if not shown:
        return None
    most = 1.06 * max(
        max([it.limit.known, *(value.high for value in (it.received, it.sent) if value.value is not None)]) for it in shown
    )
    bands, marks, dots = [], [], []
    for lane, way in enumerate(shown):
        bands += [
            Band(tone="hatch", lane=lane, to_x=way.low.known),
            Band(tone="lamp", lane=lane, from_x=way.high.known, to_x=way.limit.known),
            Band(tone="hatch", lane=lane, from_x=way.limit.known),
        ]
        if way.received.min is not None and way.received.max is not None:
            bands.append(Band(tone="spread", lane=lane, from_x=way.received.min, to_x=way.received.max, is_thin=True))
        marks += [
            Mark(at=0.0, lane=lane, weight=0, label="heard as low", short="low"),
            Mark(at=way.low.known, lane=lane),
            Mark(at=way.high.known, lane=lane, label="heard as high", short="high"),
            Mark(at=way.limit.known, lane=lane, tone="cut", weight=3, label="harm"),
        ]
        if way.received.value is not None:
            dots.append(Dot(x=way.received.value, lane=lane))
    lanes = tuple(
        Lane(
            label=direction(way),
            note="left out" if way.received.value is None else f"{way.received.spread_text or way.received.text} at worst",
            ticks=tuple(
                Tick(at=it.known, text=si(it.known, "V").removesuffix("\u00a0V")) for it in (way.low, way.high, way.limit)
            ),
        )
        for way in shown
    )
    text = "; ".join(
        f"{lane.label}: {lane.note}, heard as high from {way.high.text}, at most {way.limit.text}"
        for lane, way in zip(lanes, shown, strict=True)
    )
    return ChartPicture(
        text=text, x=Axis(most=most), lanes=lanes, bands=tuple(bands), marks=tuple(marks), dots=tuple(dots), has_axis=False
    )


def _option(design: Design, way: LevelDesign, school: str) -> Option:
    """Offer a school with what it would give, judged by the same passage as the verdicts."""
    keep: dict[str, float | None] = {}
    if school == "divider" and way.upper and way.lower and way.upper.origin == "own":
        keep = {"upper_ohm": way.upper.value, "lower_ohm": way.lower.value}
    tried = try_school(design.plan, design.catalog, way, school)
    obstacles = judge_level(Scene(design.plan, design.rails), tried)
    text: str = NOT_YET
    state: State = "unknown"
    if tried.received.value is not None and tried.limit.value is not None and tried.high.value is not None:
        text, state = tried.received.text, state_of(obstacles)
    if tried.injected_a and tried.injected_a > 0:
        text = f"{text}, {si(tried.injected_a, 'A', digits=2)} in"
    told = {"LVL-SLOW": "slow", "PIN-CURRENT": "loads the pin", "LVL-LOW": "low not heard", "SUP-BACKFEED": "feeds back"}
    text = ", ".join([text, *(told[it.code] for it in obstacles if it.code in told)])
    patch = divider_patch(way, **keep) if school == "divider" else _school_patch(way, school)
    return Option(label=SCHOOLS[school].label, detail=text, state=state, patch=patch, is_chosen=way.school.id == school)


def _school_patch(way: LevelDesign, school: str) -> Document:
    return at_path(way.line.path, {"is_omitted": None, "shift": {"school": school, "values": None}})


def level_panel(design: Design, way: LevelDesign, title: str | None = None) -> Panel:
    """Build the panel of one direction of a line: schools side by side with what each gives, then its values."""
    path = way.line.path
    lamp = design.lamps.get(way.line.owner_id) if way.is_bits else None
    offered = offered_at(place_of(way, lamp.kind if lamp else None))
    options = [_option(design, way, school) for school in offered]
    if way.school.id not in (*offered, OMITTED):
        options.append(_option(design, way, way.school.id))
    if way.line.is_spoken and (may_be_left_out(design, way) or way.is_omitted):
        state: State = "clear" if may_be_left_out(design, way) else "stop"
        options.append(
            Option(
                label="Left out",
                detail="nothing is said on it" if state == "clear" else "words need it",
                state=state,
                patch=at_path((*path, "is_omitted"), True),
                is_chosen=way.is_omitted,
            )
        )
    tolerance = way.tolerance.known if way.tolerance else 0.05
    return Panel(
        title=direction(way) if title is None else title,
        choices=(Choice(label="How it crosses", origin=way.school.origin, because=way.school.why, options=tuple(options)),),
        entries=tuple(entry(value, series=design.series, drawer=design.plan.drawer or ()) for value in way.parts),
        resistors=tuple(marked(it.known, tolerance) for it in (way.upper, way.lower, way.extra, way.series) if it is not None),
        facts=(
            way.sent,
            way.received,
            way.high,
            way.limit,
            *((way.rests,) if way.rests.value else ()),
            *((way.carried,) if way.carried.value else ()),
            way.rise,
        ),
        builds=way.id if can_be_built(way) else None,
        moves=_best_pairs(design, way),
    )


def _best_pairs(design: Design, way: LevelDesign) -> tuple[Move, ...]:
    """Offer the best pair by all constraints at once, of the series one can buy and of the drawer, and say why it wins."""
    now = way.divider
    if now is None or way.sent_spread is None or way.high.value is None or way.limit.value is None:
        return ()
    rise_most_s = SLOW_LOOK_RATIO * way.bit_s if way.bit_s else way.edge_most_s or float("inf")
    moves = []
    for what, values in ((f"Best of {design.series}", design.series), ("Best of my drawer", design.plan.drawer)):
        if not values:
            continue
        found = best_divider(
            way.sent_spread, way.limit.known, way.high.high, now.tolerance_ratio, rise_most_s, way.burden, values
        )
        if found and (found.upper_ohm, found.lower_ohm) != (now.upper_ohm, now.lower_ohm):
            label = f"{what}: {si(found.upper_ohm, 'ohm')} over {si(found.lower_ohm, 'ohm')} {found.why}"
            patch = divider_patch(way, upper_ohm=found.upper_ohm, lower_ohm=found.lower_ohm)
            moves.append(Move(label=label, patch=patch))
    return tuple(moves)


@lru_cache(maxsize=256)
def best_divider(
    sent: Spread,
    limit_v: float,
    high_v: float,
    tolerance_ratio: float,
    rise_most_s: float,
    burden: Burden,
    values: Series | tuple[float, ...],
) -> FoundDivider | None:
    """Return the best divider of a series or a drawer, remembered: the search is the same until one of these changes."""
    found = design_divider(
        sent,
        limit_v=limit_v,
        high_v=high_v,
        tolerance_ratio=tolerance_ratio,
        rise_most_s=rise_most_s,
        burden=burden,
        values=values,
        most=1,
    )
    return found[0] if found else None


def slowest_edge(design: Design, ways: Iterable[LevelDesign]) -> ChartPicture | None:
    """Draw the slowest edge of several lines against what it may take; None where no line is in a hurry."""
    return next((edge for way in sorted(ways, key=lambda it: -(it.rise.value or 0)) if (edge := _edge(design, way))), None)


def _edge(design: Design, way: LevelDesign) -> ChartPicture | None:
    """Draw a rising edge against the time of a bit, sampled in its middle, or against ten times what it may take."""
    rise, span_s = way.rise.value, way.bit_s or (10 * way.edge_most_s if way.edge_most_s else None)
    if rise is None or span_s is None:
        return None
    span = f"a bit, {si(span_s, 's')}" if way.bit_s else f"it may take {si(span_s / 10, 's')}"
    slow, tau_s = _slow(design, way), max(rise, 1e-12) / math.log(9)
    times = [span_s * (step / EDGE_POINTS) ** 2 for step in range(EDGE_POINTS + 1)]
    return ChartPicture(
        text=f"The edge takes {way.rise.text}{' of' if way.bit_s else ';'} {span}",
        size="half",
        x=Axis(most=span_s, ticks=(Tick(at=0.0, text=f"edge {way.rise.text}"), Tick(at=span_s, text=span))),
        y=Axis(most=1.1),
        bands=(Band(tone="lamp", from_x=0.0, to_x=span_s / 10),),
        strokes=(
            Stroke(
                points=tuple((round(t_s, 12), round(1 - math.exp(-t_s / tau_s), 4)) for t_s in times),
                tone="cut" if slow is not None and slow.severity == "stop" else "ink",
                weight=3,
            ),
        ),
        marks=(Mark(at=span_s / 2, tone="soft", weight=1, is_dashed=True, label="sampled here"),) if way.bit_s else (),
    )


def _slow(design: Design, way: LevelDesign) -> Obstacle | None:
    return design.passages[way.id].found("LVL-SLOW")
