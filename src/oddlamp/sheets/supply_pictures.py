"""Pictures of supply: what a rail carries against what feeds it, a source's volts over an evening, volts along a strip."""

from collections.abc import Sequence
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.supplies import RailDesign, StripDesign
from oddlamp.core.english import and_list
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.resolve.strips import share_of
from oddlamp.sheets.charts import Axis, Band, ChartPicture, Dot, Key, Lane, Mark, Stroke, Tick, ticks

TINTS: Final = ("#9ccaf5", "#ffd39a", "#fff0bd", "#bfe5c9", "#f3bcb8", "#dcc9f3")
OTHERS: Final = "#e3dfea"
AT_WORK: Final = ("#a9a3b5", "#c8c3d2")  # boards and modules
TOLD_MOST: Final = 6
DOTS_MOST: Final = 40
GAMMA: Final = 2.2
HOUR_S: Final = 3600.0


def budget_picture(design: Design, rail: RailDesign) -> ChartPicture | None:
    """Draw what hangs on a rail, one behind the other, with all of it lit and on average, and what feeds it as a line across."""
    budget = design.budgets[rail.id]
    if budget.worst.known <= 0:
        return None
    own = [(it.label, it.worst_a, it.average_a, bool(it.lamp_id)) for it in budget.own]
    made = [(design.rails[name].label, it[1], it[0], False) for name, it in budget.on.items()]
    every = sorted((it for it in (*own, *made) if it[1] > 0), key=lambda it: (not it[3], -it[1]))
    shown, rest = every[:TOLD_MOST], every[TOLD_MOST:]
    parts = [(*it, _tint(it[3], at)) for at, it in enumerate(shown)]
    if rest:
        parts.append((f"{len(rest)} more", sum(it[1] for it in rest), sum(it[2] for it in rest), True, OTHERS))
    gives_a = budget.gives.known if budget.gives is not None else None
    most_a = 1.15 * max(budget.worst.high, gives_a or 0.0, sum(it[1] for it in parts))
    lanes, bands, marks = [], list[Band](), list[Mark]()
    for lane, (title, value, which) in enumerate((("With all of it lit", budget.worst, 1), ("On average", budget.average, 2))):
        at_a = 0.0
        for part in parts:
            taken_a = float((part[1], part[2])[which - 1])
            bands.append(Band(lane=lane, glow=part[4], from_x=at_a, to_x=at_a + taken_a))
            at_a += taken_a
        if gives_a is not None:
            tone = "cut" if value.high > gives_a else "ink"
            marks.append(
                Mark(at=gives_a, lane=lane, tone=tone, weight=3, label=f"{si(gives_a, 'A')} is what it gives", short="gives")
            )
        marks.append(Mark(at=at_a, lane=lane, tone="soft", weight=0, label=""))
        spread = f", {si(value.high, 'A')} at worst" if value.high > value.known * 1.005 else ""
        lanes.append(Lane(label=title, note=value.text + spread, ticks=ticks(most_a, lambda a: si(a, "A") if a else "0")))
    told = and_list([f"{name} {si(worst_a, 'A')}" for name, worst_a, *_ in parts])
    against = f"; {si(gives_a, 'A')} is what feeds it" if gives_a is not None else ""
    return ChartPicture(
        text=f"{told}: {budget.worst.text} with all of it lit, {budget.average.text} on average{against}.",
        x=Axis(most=most_a),
        lanes=tuple(lanes),
        bands=tuple(bands),
        marks=tuple(it for it in marks if it.label),
        legend=tuple(Key(glow=it[4], label=it[0]) for it in parts),
        has_axis=False,
    )


def _tint(is_lamp: bool, at: int) -> str:
    return TINTS[at % len(TINTS)] if is_lamp else AT_WORK[at % len(AT_WORK)]


def run_picture(design: Design, rail: RailDesign) -> ChartPicture | None:
    """Draw a source's volts over an evening, at rest, down to where the first thing on its chain stops."""
    run, part = design.run_times.get(rail.id), rail.feed.source if rail.feed is not None else None
    if run is None or part is None or not part.curve or run.lasts.known <= 0:
        return None
    best_h = run.lasts.high / HOUR_S
    points = tuple((used * best_h, volts) for used, volts in part.curve)
    top_v, foot_v = max(it[1] for it in points), 0.9 * min(*(it[1] for it in points), run.cutoff_v)
    at_h = run.lasts.known / HOUR_S
    wanted_s = design.plan.sources[rail.source_id].wanted_run_time_s if rail.source_id is not None else None
    marks = [Mark(at=run.cutoff_v, is_across=True, tone="cut", weight=1.6, is_dashed=True, label=f"{run.stops} at {si(run.cutoff_v, 'V')}")]  # fmt: skip
    if wanted_s and wanted_s / HOUR_S < 1.1 * best_h:
        marks.append(Mark(at=wanted_s / HOUR_S, tone="soft", is_dashed=True))
    span = top_v - foot_v
    return ChartPicture(
        title="How long it lasts",
        text=f"{part.label} at {si(run.average_a, 'A')}: from {si(top_v, 'V')} down to {si(run.cutoff_v, 'V')} after {run.text}; {run.best_text} with all of its charge.",
        size="half",
        x=Axis(most=1.1 * best_h, ticks=ticks(1.1 * best_h, lambda h: f"{h:g} h" if h else "0")),
        y=Axis(least=foot_v, most=top_v + 0.15 * span, ticks=tuple(_volts(foot_v, top_v))),
        bands=(Band(tone="hatch", to_y=run.cutoff_v),),
        strokes=(Stroke(points=points, tone="copper", weight=3),),
        marks=tuple(marks),
        dots=(Dot(x=at_h, y=run.cutoff_v, shape="dot"),) if run.used_ratio > 0 else (),
    )


def _volts(least: float, most: float) -> list[Tick]:
    return [Tick(at=it, text=si(it, "V")) for it in (least + 0.15 * (most - least), (least + most) / 2, most)]


def strip_picture(design: Design, lamp: LampDesign) -> ChartPicture | None:
    """Draw the volts along a chain or a strip with all of it lit, in the white one would see there."""
    strip = design.strips.get(lamp.id)
    if strip is None or len(strip.volts) < 2:
        return None
    count = len(strip.volts)
    step = max(1, -(-count // DOTS_MOST))
    places = sorted({*range(0, count, step), count - 1, *(it.at for it in strip.feeds)})
    fed_v, low_v = max(it.volts for it in strip.feeds), min(strip.lowest_v, strip.least_v)
    room_v = max(fed_v - low_v, 0.05)
    length_m = (count - 1) * strip.place_m
    is_pixel = lamp.kind in PIXEL_KINDS
    says = f"every colour down to {si(strip.least_v, 'V')}" if is_pixel else f"dimmer below {si(strip.least_v, 'V')}"
    ends = f"{si(strip.volts[0], 'V')} at its start, {si(strip.volts[-1], 'V')} at its end"
    where = f", {si(strip.lowest_v, 'V')} where it has least" if strip.lowest_v < strip.volts[-1] - 5e-3 else ""
    return ChartPicture(
        title=f"Volts along {lamp.label}, all lit",
        text=f"{lamp.label} with all of it lit: {ends}{where}; {says}.",
        x=Axis(
            least=-0.03 * max(length_m, strip.place_m),
            most=max(length_m, strip.place_m),
            ticks=tuple(
                tick for at in sorted({0, *(it.at for it in strip.feeds), count - 1}) for tick in _along(strip, at, length_m)
            ),
        ),
        y=Axis(least=low_v - 0.4 * room_v, most=fed_v + 0.25 * room_v, ticks=tuple(_volts(low_v, fed_v))),
        marks=(Mark(at=strip.least_v, is_across=True, tone="ink", weight=1.4, is_dashed=True, label=says),),
        dots=tuple(Dot(x=at * strip.place_m, y=strip.volts[at], shape="dot", glow=_seen(strip, at)) for at in places),
    )


def _along(strip: StripDesign, at: int, length_m: float) -> Sequence[Tick]:
    is_fed = any(it.at == at for it in strip.feeds)
    return (Tick(at=at * strip.place_m, text="fed" if is_fed else si(length_m, "m")),)


def _seen(strip: StripDesign, at: int) -> str:
    """Return the colour that white has at a place: what each of its LEDs still gets; of a plain strip, warm white, dimmed."""
    lit = strip.colours[-3:] if len(strip.colours) > 2 else ()
    shares = [share_of(it, strip.volts[at]) for it in lit] or [share_of(strip.colours[0], strip.volts[at])] * 3
    full = (255, 255, 255) if lit else (255, 233, 176)
    return "#" + "".join(f"{round(most * share ** (1 / GAMMA)):02x}" for most, share in zip(full, shares, strict=True))
