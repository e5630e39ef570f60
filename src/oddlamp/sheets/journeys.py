"""The course of each message stage by stage, as it is shown running along the line."""

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.behaviour.arithmetic import LADDER_TOP, duty_of, seen_light
from oddlamp.core.design.design import Design
from oddlamp.core.english import inner, plural
from oddlamp.core.layouts.can import face_of
from oddlamp.core.layouts.signs import Dots, Face
from oddlamp.core.plan.text import shown
from oddlamp.core.rehearsal.displays import DotsPoint, dots_of
from oddlamp.core.rehearsal.links import WAITS
from oddlamp.core.rehearsal.trace import Journey, LampLook, LampPoint, Leg, Run, Shown, Trace, TraceEvent
from oddlamp.sheets.dots import as_text
from oddlamp.sheets.handset import answers_shown, lights_of
from oddlamp.sheets.line import GLOW

JOURNEYS_MOST: Final = 20
SEEN_S: Final = 0.05
DOTS_SEEN: Final = 100  # of a picture twice as long as this text, half as many are sent a second
PRIMARIES: Final = ("#ff0000", "#00ff00", "#0000ff")
DARK: Final = "#000000"
SCREEN_GAMMA: Final = 2.2
PASS_S: Final = 1.05e-3  # a board looks at what has come once a millisecond: less than that is not told apart
SAYS: Final = "says "  # how a deed that says a word is told


def show_run(design: Design, trace: Trace, *, since_s: float) -> Run:
    """Show a trace from a moment on."""
    events = tuple(event for event in trace.events if event.t_s >= since_s and event.message not in trace.asides)
    return Run(
        journeys=journeys(design, events),
        looks={
            stage: thinned(looks, since_s)
            for stage, looks in (looks_of(design, trace) | signs_of(design, trace, since_s)).items()
        },
        answers=answers_shown(design, trace),
        lights=lights_of(design, trace),
        ends_at_s=trace.ends_at_s,
        is_cut_short=trace.is_cut_short,
        goes_on=trace.goes_on,
    )


def journeys(design: Design, events: Sequence[TraceEvent]) -> tuple[Journey, ...]:
    """Gather the last messages of a trace into journeys, at most ``JOURNEYS_MOST``."""
    last = max((event.message for event in events), default=0)
    by_message: dict[int, list[TraceEvent]] = {}
    for event in events:
        if event.message > last - JOURNEYS_MOST:
            by_message.setdefault(event.message, []).append(event)
    told = [_journey(design, message, mine, mine) for message, mine in sorted(by_message.items())]
    whole = dict(by_message)
    for at in range(len(told) - 2, -1, -1):
        events, after = whole[told[at].message], told[at + 1]
        speaks = events[-1].says.startswith(SAYS) and events[-1].stage.startswith("rules.") and not told[at].is_lost
        if speaks and not any(it.stage.startswith("lamps.") for it in events):
            # What it set off is a message of its own: that is what became of it.
            whole[told[at].message] = [*events, *whole[after.message]]
            became = _journey(design, after.message, whole[after.message], whole[told[at].message])
            update = {"is_lost": became.is_lost, "is_doubted": became.is_doubted, "sentence": became.sentence}
            told[at] = told[at].model_copy(update=update)
    return tuple(told)


def _journey(design: Design, message: int, events: list[TraceEvent], whole: list[TraceEvent]) -> Journey:
    """Gather a message's way; the sentence is of the whole, which begins with what set it off."""
    stages: dict[str, list[TraceEvent]] = {}
    lamps = {lamp.stage: lamp.host for lamp in design.lamps.values()}
    for event in events:
        stages.setdefault(event.stage, []).append(event)
    legs: list[Leg] = []
    before: str | None = None
    for stage, mine in stages.items():
        fans_out = stage in lamps
        kept = _kept(design, stage, mine)
        lost = None if kept else mine[-1].lost_because
        legs.append(
            Leg(
                stage=stage,
                comes_from=hung if fans_out and (hung := f"pins.{lamps[stage]}") in stages else before,
                at_s=(kept or mine)[0].t_s,
                text=_reading(design, stage, kept) if kept else "lost",
                lost_because=lost,
                may_not_because=next((event.may_not_because for event in kept if event.may_not_because), None),
            )
        )
        before = before if fans_out else stage
    is_lost = any(leg.lost_because is not None for leg in legs)
    return Journey(
        message=message,
        starts_s=events[0].t_s,
        legs=tuple(legs),
        is_lost=is_lost,
        is_doubted=any(leg.may_not_because is not None for leg in legs),
        sentence=_sentence(design, events, stages, is_lost, whole),
    )


def _kept(design: Design, stage: str, events: list[TraceEvent]) -> list[TraceEvent]:
    """Return what came to a stage and went on; nothing where a module kept it to itself."""
    node = design.nodes.get(stage.removeprefix("nodes."))
    if node is not None and node.node.kind == "module" and events[-1].lost_because is not None:
        return []
    return [event for event in events if event.lost_because is None]


def _reading(design: Design, stage: str, events: list[TraceEvent]) -> str:
    events = [it for it in events if it.says != WAITS] or events
    first = events[0]
    collection = stage.partition(".")[0]
    content = bytes.fromhex("".join(event.bytes_hex for event in events))
    if collection == "links" and first.volts is not None:
        spent = (events[-1].until_s or 0) - first.t_s
        return f"{plural(len(content), 'byte')}, {si(spent, 's')}"
    if collection == "links":
        return si((events[-1].until_s or 0) - first.t_s, "s")
    if collection == "pins" and not content:
        return ", ".join(dict.fromkeys(event.says for event in events)).replace(", pin", ",")
    if collection == "nodes" and content:
        return " ".join(f"{byte:02X}" for byte in content)
    if collection == "lamps":
        return " / ".join(event.says.removesuffix("\u00a0mA") if len(events) > 1 else event.says for event in events)
    said = dict.fromkeys(_named(design, event) for event in events if event.says)
    return ", ".join(said) or " ".join(shown(byte) for byte in content)


def _named(design: Design, event: TraceEvent) -> str:
    """Say what a program does with its lamp, group, cue or mover by the name of that."""
    plan = design.plan
    it = next((of[event.ref] for of in (plan.groups, plan.cues, plan.movers) if event.ref in of), None)
    label = design.lamps[event.ref].label if event.ref in design.lamps else getattr(it, "label", None)
    is_deed = label is not None and event.says.endswith(f" {event.ref}")
    return f"{event.says.removesuffix(event.ref)}{label}" if is_deed else event.says


def _sentence(
    design: Design, events: list[TraceEvent], stages: Mapping[str, list[TraceEvent]], is_lost: bool, whole: list[TraceEvent]
) -> str:
    lost = [event for event in events if event.lost_because is not None]
    heard = [event for event in events if event.says and event.stage.partition(".")[0] == "vocabularies"]
    lit = [lamp.stage for lamp in design.lamps.values() if lamp.stage in stages]
    if is_lost:
        first = next(
            event
            for event in events
            if event.lost_because
            and event.stage == next(stage for stage, mine in stages.items() if not _kept(design, stage, mine))
        )
        return f"Lost at {_place(design, first.stage)}: {first.lost_because}."
    befell = design.nodes.get(events[-1].ref)
    if befell is not None and events[-1].stage == befell.stage and events[-1].says and not events[0].bytes_hex:
        return f"{befell.label}: {events[-1].says}."
    last_s = max((event.until_s or event.t_s for event in events), default=0.0)
    reached = _lamps(design, lit, stages) if lit else (heard[-1].says if heard else _place(design, events[-1].stage))
    arrived_s = max((event.t_s for event in events if event.stage in lit), default=last_s)
    begun_s, spans = whole[0].t_s, [(it.t_s, min(it.until_s or it.t_s, arrived_s), it) for it in whole]
    airs = [(begins, ends) for begins, ends, it in spans if _is_air(design, it.stage)]
    wires = [(begins, ends) for begins, ends, it in spans if it.bytes_hex and it.volts is not None]
    air_s = _covered_s(airs)
    wire_s = _covered_s([*airs, *wires]) - air_s  # packets fly while those before them are on the wire
    waits_s = sum((it.until_s or it.t_s) - it.t_s for it in whole if it.says == WAITS)
    rest_s = arrived_s - begun_s - air_s - wire_s - waits_s
    parts = [f"{si(air_s, 's')} in the air"] if air_s else []
    parts += [f"{si(wire_s, 's')} on the wire"] if wire_s > 1e-6 else []
    parts += [f"{si(waits_s, 's')} waiting for the line"] if waits_s else []
    parts += [f"{si(rest_s, 's')} in the board"] if rest_s > PASS_S and (parts or lit) else []
    told = f"Reached {reached} after {si(arrived_s - begun_s, 's')}" + (f": {', '.join(parts)}." if parts else ".")
    doubts = [f"{_place(design, event.stage)}: {event.may_not_because}" for event in events if event.may_not_because]
    told += f" It may not, at {'; at '.join(dict.fromkeys(doubts))}." if doubts else ""
    ignored = [f"{event.lost_because}" for event in lost]
    return told + (f" Ignored: {'; '.join(dict.fromkeys(ignored))}." if ignored else "")


def _is_air(design: Design, stage: str) -> bool:
    return stage.removeprefix("links.") in design.airs


def _covered_s(spans: Sequence[tuple[float, float]]) -> float:
    """Return the time that spans cover together, s: packets overlap, and time that passes twice passes once."""
    covered, reached = 0.0, float("-inf")
    for begins, ends in sorted(spans):
        covered += max(0.0, ends - max(begins, reached))
        reached = max(reached, ends)
    return covered


def _lamps(design: Design, lit: list[str], events: Mapping[str, list[TraceEvent]]) -> str:
    names = [design.lamps[stage.partition(".")[2]].label for stage in lit]
    if len(lit) == 1 and events[lit[0]][-1].says.startswith("shows "):
        return f"{names[0]}, which {events[lit[0]][-1].says},"
    return ", ".join(names) if len(names) < 3 else plural(len(names), "lamp")


def _place(design: Design, stage: str) -> str:
    collection, _, name = stage.partition(".")
    if collection == "links":
        return "the air" if name in design.airs else "the hook-up"
    if collection == "lamps":
        return design.lamps[name].label
    return {"vocabularies": "the words", "rules": "the behaviour", "pins": "the pins", "inputs": "the input"}.get(
        collection
    ) or f"the {inner(design.nodes[name].label) if name in design.nodes else 'start'}"


def lamp_looks(design: Design, points: Mapping[str, Sequence[LampPoint]]) -> dict[str, tuple[LampLook, ...]]:
    """Mix the channels of every lamp into one colour over time, by its stage on the line."""
    looks = {}
    for lamp in design.lamps.values():
        mine = [
            (channel.led.glow, channel.wanted.known, points[channel.signal_id])
            for channel in lamp.channels
            if channel.signal_id in points
        ]
        if lamp.load is not None and lamp.load.current.value and f"{lamp.id}.main" in points:
            mine = [(GLOW, lamp.load.current.value, points[f"{lamp.id}.main"])]
        times = sorted({point.t_s for _, _, course in mine for point in course})
        rows: list[LampLook] = []
        at = [0] * len(mine)
        for t_s in times:
            for index, (_, _, course) in enumerate(mine):
                while at[index] + 1 < len(course) and course[at[index] + 1].t_s <= t_s:
                    at[index] += 1
            now = [(glow, wanted_a, course[at[index]]) for index, (glow, wanted_a, course) in enumerate(mine)]
            colour = _mix([(glow, point.current_a / wanted_a) for glow, wanted_a, point in now])
            rows.append(LampLook(t_s=t_s, colour=colour, light_ratio=max(point.light_ratio for _, _, point in now)))
        if rows:
            looks[lamp.stage] = tuple(rows)
    return looks


def looks_of(design: Design, trace: Trace, *, is_drawn: bool = True) -> dict[str, tuple[LampLook, ...]]:
    """Tell what every lamp that gives light looks like over time, by its stage on the line; pixel by pixel where it is to be drawn."""
    return lamp_looks(design, trace.lamps) | _chains(design, trace, is_drawn=is_drawn)


def thinned(looks: Sequence[LampLook], since_s: float) -> tuple[LampLook, ...]:
    """Keep of a course what is seen from a moment on: at most one look in ``SEEN_S``, the last of all, and the one before."""
    first = max((at for at, it in enumerate(looks) if it.t_s < since_s), default=0)
    kept: list[LampLook] = []
    for at, it in enumerate(looks[first:], first):
        seen_s = SEEN_S * max(1.0, len(it.pixels) / DOTS_SEEN)
        after = looks[at + 1] if at + 1 < len(looks) else None
        is_brief = after is not None and after.t_s - it.t_s < seen_s
        if not is_brief or not kept or it.t_s - kept[-1].t_s >= seen_s:
            kept.append(it)
    return tuple(kept)


def _chains(design: Design, trace: Trace, *, is_drawn: bool) -> dict[str, tuple[LampLook, ...]]:
    """Mix the pixels of every chain into one colour, and keep as many of them as can be drawn."""
    found = {}
    for name, course in trace.pixels.items():
        cap = getattr(design.plan.lamps[name], "brightness_cap_ratio", None)
        full = max(LADDER_TOP if cap is None else duty_of(cap), 1)
        to_screen = _to_screen(full)
        looks = list[LampLook]()
        for it in course:
            shown = bytes.fromhex(it.shows)
            shares = [sum(shown[at::3]) / (full * max(len(shown) // 3, 1)) for at in range(3)]
            colour = _mix(list(zip(PRIMARIES, shares, strict=True)))
            seen = seen_light(max(shares))
            seen_hex = shown.translate(to_screen).hex() if is_drawn else ""
            pixels = as_text([seen_hex[at : at + 6] for at in range(0, len(seen_hex), 6)]) if is_drawn else ""
            looks.append(LampLook(t_s=it.t_s, colour=colour, light_ratio=seen, pixels=pixels))
        if looks and design.lamps[name].stage:
            found[design.lamps[name].stage] = tuple(looks)
    return found


def signs_of(design: Design, trace: Trace, since_s: float = 0.0, *, is_drawn: bool = True) -> dict[str, tuple[LampLook, ...]]:
    """Tell what stands on every display, by its stage on the line; dot by dot where it is to be drawn."""
    found = {}
    for name, course in trace.shows.items():
        face = face_of(design.plan.lamps[name])
        if face is None or not is_drawn:  # or an infra-red LED, which shows the code that it sends
            looks = [_sign(it) for it in course]
        else:
            looks = [_sign(it, _dots_text(face, it.dots)) for it in dots_of(face, trace, name, since_s)]
        found[design.lamps[name].stage] = tuple(looks)
    return found


def _sign(it: Shown | DotsPoint, pixels: str = "") -> LampLook:
    is_lit = bool(it.text)
    return LampLook(t_s=it.t_s, colour=GLOW if is_lit else DARK, light_ratio=float(is_lit), text=it.text, pixels=pixels)


@lru_cache(maxsize=256)
def _to_screen(full: int) -> bytes:
    """Return what a screen is told for each number of light: as bright as the lamp can be made is as bright as the screen is."""
    return bytes(min(round(255 * (it / full) ** (1 / SCREEN_GAMMA)), 255) for it in range(256))


@lru_cache(maxsize=4096)
def _dots_text(face: Face, dots: Dots) -> str:
    return as_text(
        [GLOW[1:] if (row, column) in dots else DARK[1:] for row in range(face.rows) for column in range(face.columns)]
    )


def _mix(shares: list[tuple[str, float]]) -> str:
    """Add colours by their share of light, as light adds, then bring the sum up to full: brightness stands apart."""
    sums = [sum((int(glow[at : at + 2], 16) / 255) ** SCREEN_GAMMA * share for glow, share in shares) for at in (1, 3, 5)]
    top = max(sums)
    return DARK if top <= 0 else "#" + "".join(f"{round(255 * (part / top) ** (1 / SCREEN_GAMMA)):02x}" for part in sums)
