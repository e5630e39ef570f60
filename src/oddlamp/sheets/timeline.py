"""The time view of a rehearsal: a lane a stage, what happened in each, and the light of every lamp, for a window of time."""

from bisect import bisect_right
from collections.abc import Iterable, Mapping, Sequence
from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.electrical.cells import SECONDS_PER_HOUR
from oddlamp.core.english import and_list, plural
from oddlamp.core.plan.signals import label_of
from oddlamp.core.rehearsal.drawn import RailCourse, drawn_of, shares_of
from oddlamp.core.rehearsal.events import (
    BusyEvent,
    ClockEvent,
    ControlEvent,
    CueEvent,
    Event,
    FeedEvent,
    InputEvent,
    LineEvent,
    LinkEvent,
    ModuleEvent,
    PowerEvent,
    SpokenEvent,
    StartEvent,
    TroubleEvent,
    WordEvent,
)
from oddlamp.core.rehearsal.trace import LampLook, Trace, TraceEvent
from oddlamp.core.rehearsal.troubles import NAMES
from oddlamp.sheets.charts import Tick, ticks
from oddlamp.sheets.journeys import looks_of, signs_of

SPANS_MOST: Final = 600
LOOKS_MOST: Final = 240
LAMPS_MOST: Final = 24
SHORTEST_S: Final = 0.0005
ROOM_RATIO, ROOM_S = 1.03, 0.05
Fate = Literal["clear", "look", "lost", "aside"]
GESTURES: Final = {"press": "pressed", "release": "let go", "on": "switched on", "off": "switched off", "move": "moved"}


class Load(Model):
    """What is drawn from a rail from a moment on, as a share of what feeds it."""

    t_s: float
    share: float


class Lane(Model):
    """One row of the time view: a stage and what it is called, and of a lamp its light over time."""

    stage: str
    label: str
    looks: tuple[LampLook, ...] = ()
    loads: tuple[Load, ...] = Field(default=(), description="Of a rail: what is drawn over time")


class Span(Model):
    """Something that happened at a stage, or several things too close to tell apart at this zoom."""

    lane: int
    from_s: float
    to_s: float
    text: str
    fate: Fate
    count: int = 1


class Deed(Model):
    """Something that was done in a rehearsal, in words."""

    t_s: float
    text: str


class Timeline(Model):
    """A window of a rehearsal. ``whole_s`` is how long all of it lasts."""

    sentence: str
    from_s: float
    to_s: float
    whole_s: float
    ticks: tuple[Tick, ...]
    lanes: tuple[Lane, ...]
    spans: tuple[Span, ...]
    is_close: bool = Field(description="Whether everything that happened is shown by itself")
    hidden_lamps: int = 0
    rails: tuple[str, ...] = Field(default=(), description="What was drawn from each rail, in words")
    evening: Move | None = Field(default=None, description="Reckons with each lamp as it was lit here, on average")
    deeds: tuple[Deed, ...] = Field(description="What was done, in the order it was given")
    goes_on: bool


def timeline(
    design: Design, events: Sequence[Event], trace: Trace, stages: Mapping[str, str], from_s: float, to_s: float | None
) -> Timeline:
    """Show a window of a trace.

    Args:
        design: what was rehearsed.
        events: what was done.
        trace: what happened.
        stages: every stage of the line with its label, from the thumb to the lamp.
        from_s: where the window begins, s.
        to_s: where it ends, s; the end of the rehearsal where None.
    """
    whole_s = max(trace.ends_at_s * ROOM_RATIO + ROOM_S, SHORTEST_S)  # what comes last is seen as well
    until_s = whole_s if to_s is None else max(to_s, from_s + SHORTEST_S)
    met = {event.stage for event in trace.events}
    looks = looks_of(design, trace, is_drawn=False) | signs_of(design, trace, is_drawn=False)
    lit = [stage for stage in looks if len(looks[stage]) > 1 or stage in met]
    shown = lit[:LAMPS_MOST]
    talked = [stage for stage in stages if stage in met and not stage.startswith("lamps.")]
    lanes = [Lane(stage=it, label=stages[it]) for it in talked]
    lanes += [Lane(stage=it, label=stages.get(it, it), looks=_seen(looks[it], from_s, until_s)) for it in shown]
    drawn = {name: it for name, it in drawn_of(design, trace).items() if len(it.points) > 1}
    lanes += [_rail_lane(design, name, it, from_s, until_s) for name, it in drawn.items()]
    places = {lane.stage: at for at, lane in enumerate(lanes)}
    times = [event.t_s for event in trace.events]
    inside = trace.events[: bisect_right(times, until_s)]
    mine = [it for it in inside if (it.until_s or it.t_s) >= from_s and it.stage in places]
    is_close = len(mine) <= SPANS_MOST
    spans = (
        [_span(places[it.stage], [it], trace.asides) for it in mine]
        if is_close
        else _merged(mine, places, trace.asides, until_s - from_s)
    )
    spans += [_short(design, places[f"rails.{name}"], name, it) for name, it in drawn.items() if it.short_at_s is not None]
    return Timeline(
        sentence=_sentence(trace)
        + "".join(f" {design.rails[it].label} browns out." for it in drawn if drawn[it].short_at_s is not None),
        from_s=from_s,
        to_s=until_s,
        whole_s=whole_s,
        ticks=tuple(
            Tick(at=from_s + it.at, text=si(from_s + it.at, "s")) for it in ticks(until_s - from_s, lambda s: si(s, "s"))
        ),
        lanes=tuple(lanes),
        spans=tuple(spans),
        is_close=is_close,
        hidden_lamps=len(lit) - len(shown),
        evening=_evening(design, trace) if drawn else None,
        rails=tuple(_drawn(design, name, it, trace.ends_at_s) for name, it in drawn.items()),
        deeds=tuple(Deed(t_s=it.t_s, text=_done(design, stages, it)) for it in events),
        goes_on=trace.goes_on,
    )


def _rail_lane(design: Design, rail_id: str, course: RailCourse, from_s: float, until_s: float) -> Lane:
    """Draw what is drawn from a rail as shares of what feeds it, at as many places as a window can show."""
    rail, gives = design.rails[rail_id], design.budgets[rail_id].gives
    most_a = gives.known if gives is not None else course.most_a
    times = [it.t_s for it in course.points]
    first, last = max(bisect_right(times, from_s) - 1, 0), bisect_right(times, until_s)
    inside = course.points[first:last]
    step = max(1, -(-len(inside) // LOOKS_MOST))
    # Of each stretch the most is kept: that is what browns out.
    kept = [max(inside[at : at + step], key=lambda it: it.current_a) for at in range(0, len(inside), step)]
    return Lane(stage=rail.stage, label=rail.label, loads=tuple(Load(t_s=it.t_s, share=it.current_a / most_a) for it in kept))


def _short(design: Design, lane: int, rail_id: str, course: RailCourse) -> Span:
    gives, at_s = design.budgets[rail_id].gives, course.short_at_s or 0.0
    told = f"browns out: {si(course.most_a, 'A')} is drawn, {si(gives.known, 'A') if gives is not None else ''} is what feeds it. What follows is shown as if it held"
    return Span(lane=lane, from_s=at_s, to_s=at_s, text=told, fate="lost")


def _evening(design: Design, trace: Trace) -> Move:
    """Offer to reckon warmth and run time by what was rehearsed: each lamp with the light it gave on average."""
    shares = shares_of(design, trace)
    return Move(
        label="Reckon the evening by this",
        patch={"lamps": {it: {"usage_ratio": round(share, 3)} for it, share in shares.items()}},
    )


def _drawn(design: Design, rail_id: str, course: RailCourse, ends_s: float) -> str:
    """Say what was drawn from a rail: at most, and of a charge in all."""
    rail, gives = design.rails[rail_id], design.budgets[rail_id].gives
    of = f" of {si(gives.known, 'A')}" if gives is not None else ""
    charge = rail.feed.source.charge_ah if rail.feed is not None and rail.feed.source is not None else None
    mean_a = course.drawn_ah * SECONDS_PER_HOUR / ends_s if ends_s > 0 else course.most_a
    used = f", {si(course.drawn_ah / charge.value, 'ratio')} of its charge" if charge is not None else ""
    return f"{rail.label}: {si(course.most_a, 'A')} at most{of}, {si(mean_a, 'A')} on average{used}"


def _span(lane: int, events: Sequence[TraceEvent], asides: frozenset[int]) -> Span:
    lost = next((it.lost_because for it in events if it.lost_because is not None), None)
    doubt = next((it.may_not_because for it in events if it.may_not_because is not None), None)
    told = " ".join(dict.fromkeys(_told(it) for it in events[:8])) if len(events) <= 8 else plural(len(events), "thing")
    fate: Fate = "lost" if lost else "look" if doubt else "aside" if events[0].message in asides else "clear"
    return Span(
        lane=lane,
        from_s=events[0].t_s,
        to_s=max(it.until_s or it.t_s for it in events),
        text=f"lost: {lost}" if lost else f"{told}, maybe not: {doubt}" if doubt else told,
        fate=fate,
        count=len(events),
    )


def _told(event: TraceEvent) -> str:
    said = event.says or event.bytes_hex.upper()
    return f"{said} at {event.volts:.2f} V" if event.volts is not None and event.bytes_hex else said or event.ref


def _merged(events: Iterable[TraceEvent], places: Mapping[str, int], asides: frozenset[int], window_s: float) -> list[Span]:
    """Put what is too close to tell apart into one: by lane, and lost by itself, so that no loss goes under."""
    near_s = window_s * len(places) / SPANS_MOST
    open_: dict[tuple[int, bool], list[TraceEvent]] = {}
    spans: list[Span] = []
    for it in events:
        key = places[it.stage], it.lost_because is not None
        before = open_.get(key)
        if before and it.t_s - (before[-1].until_s or before[-1].t_s) > near_s:
            spans.append(_span(key[0], before, asides))
            before = None
        if before:
            before.append(it)
        else:
            open_[key] = [it]
    spans += [_span(lane, it, asides) for (lane, _), it in open_.items()]
    return sorted(spans, key=lambda it: it.from_s)


def _seen(looks: Sequence[LampLook], from_s: float, to_s: float) -> tuple[LampLook, ...]:
    """Keep of a lamp's course what a window of so many steps can show, the look before it and all great changes among them."""
    times = [it.t_s for it in looks]
    first, last = max(bisect_right(times, from_s) - 1, 0), bisect_right(times, to_s)
    inside, least_s = looks[first:last], (to_s - from_s) / LOOKS_MOST
    kept: list[LampLook] = []
    for at, it in enumerate(inside):
        is_last = at + 1 == len(inside)
        if is_last or not kept or it.t_s - kept[-1].t_s >= least_s or inside[at + 1].t_s - it.t_s >= least_s:
            kept.append(it)
    return tuple(kept)


def _done(design: Design, stages: Mapping[str, str], event: Event) -> str:
    """Say in words what was done."""
    match event:
        case ControlEvent():
            mine = (it for handset in design.handsets.values() for it in handset.controls)
            label = next((it.label for it in mine if it.id == event.control), event.control)
            carried = ", ".join(f"{value}" for value in event.values.values())
            return f"{label} {GESTURES.get(event.gesture, event.gesture)}" + (f" to {carried}" if carried else "")
        case InputEvent():
            turned = f" to {si(event.value, 'ratio')}" if event.value is not None else ""
            name, _, number = event.input.partition(".")
            return " ".join(filter(None, (stages.get(f"inputs.{name}", name), number, event.event))) + turned
        case WordEvent():
            return f"{event.word} is sent"
        case LineEvent() | SpokenEvent():
            return f"\u201c{event.text}\u201d"
        case ModuleEvent():
            return f"{stages.get(f'nodes.{event.node}', event.node)}: {and_list([it.replace('-', ' ') for it in event.does])}"
        case BusyEvent():
            return f"the program takes nothing for {si(event.for_s, 's')}"
        case PowerEvent():
            return {"off": "the board loses its power", "on": "the board has power again", "reset": "the board is reset"}[
                event.does
            ]
        case LinkEvent():
            return "the link is lost" if event.does == "lost" else "the link is back"
        case ClockEvent():
            return f"the clock is set to {event.at}"
        case TroubleEvent():
            return f"{NAMES[event.what]}{'' if event.is_on else ', no more'}"
        case CueEvent():
            return f"{label_of(design.plan.cues[event.cue].label, event.cue) if event.cue in design.plan.cues else event.cue} is started"
        case FeedEvent():
            name = stages.get(f"nodes.{event.node}", event.node)
            return {"next": f"the next line of {name}", "go-on": f"{name} goes on by itself", "stop": f"{name} stops"}[event.does]
        case StartEvent():
            return f"the boards have run for {event.starts_at_ms} ms"
        case _:
            return "nothing, for a while"


def _sentence(trace: Trace) -> str:
    """Sum a rehearsal up: how many messages, how long, and what was lost and why."""
    messages = {it.message for it in trace.events if it.bytes_hex or it.stage.startswith("inputs.")} - trace.asides
    lost: dict[str, set[int]] = {}
    for it in trace.lost:
        lost.setdefault(it.lost_because or "", set()).add(it.message)
    if trace.is_cut_short:
        return "It never came to rest, and was stopped."
    told = f"{plural(len(messages), 'message')} in {si(trace.ends_at_s, 's')}"
    if not messages:
        return "Nothing has happened yet: press something, or turn a knob."
    if not lost:
        return f"{told}, and none is lost."
    gone = len(set().union(*lost.values()))
    whys = [f"{plural(len(who), 'time')} {because}" if len(who) > 1 else because for because, who in list(lost.items())[:2]]
    more = f", and for {plural(len(lost) - 2, 'other reason')}" if len(lost) > 2 else ""
    return f"{told}, {gone} {'is' if gone == 1 else 'are'} lost: {and_list(whys)}{more}."
