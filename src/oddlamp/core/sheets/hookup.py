"""The sheet of a wire: what arrives each way, between what is heard and what harms."""

from collections.abc import Iterable
from functools import lru_cache

from oddlamp.core.base import inner, si
from oddlamp.core.builds import can_be_built
from oddlamp.core.checks.levels import CLAMP_STOP_A, SLOW_LOOK_RATIO, SLOW_STOP_RATIO, divider_patch, may_be_left_out
from oddlamp.core.checks.pins import without_input
from oddlamp.core.design import CrossingDesign, Design
from oddlamp.core.electrical.crossings import SCHOOLS, try_school
from oddlamp.core.electrical.designers import FoundDivider, design_divider
from oddlamp.core.electrical.lamps import spread_of
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Burden
from oddlamp.core.electrical.preferred import Series
from oddlamp.core.findings import Move
from oddlamp.core.line import State, room_v
from oddlamp.core.plan.document import at_path
from oddlamp.core.sheets.built import built_moves
from oddlamp.core.sheets.entry import entry, marked
from oddlamp.core.sheets.models import Choice, EdgePicture, Entry, LevelWindow, Option, Panel, Sheet, Tick, WindowPicture
from oddlamp.core.values import NOT_YET, Origin, Value

HOW = {
    "direct": "A straight wire carries it across.",
    "divider": "Two resistors bring it down.",
    "zener": "A resistor and a zener hold it, softly.",
    "clamp": "A resistor only: the receiver's own clamp diode holds it.",
    "mosfet": "One MOSFET passes lows, pull-ups make the highs.",
    "gate": "A gate drives it to the receiver's own supply.",
    "diode-fed": "The first pixel is fed through a diode, so that it hears less, and passes full levels on.",
    "diode": "A diode passes lows, a pull-up makes the highs.",
}


def hookup_sheet(design: Design, link_id: str) -> Sheet:
    """Build the sheet of one wire; the tighter direction comes first."""
    ways = sorted((design.crossings[f"{link_id}.{way}"] for way in ("a_to_b", "b_to_a")), key=room_v)
    first = ways[0]
    keys = [lead for lead in design.leads.values() if lead.stage == first.stage]
    return Sheet(
        stage=first.stage,
        kind="wire",
        title=design.plan.links[link_id].label or "Hook-up",
        sentence=_sentence(first),
        detail=_detail(design, first),
        picture=window_picture([*ways, *keys]),
        edge=slowest_edge(ways),
        panels=(
            *(level_panel(design, way) for way in (*ways, *keys)),
            Panel(title="Speed", entries=(entry(design.wires[link_id].baud, "links", link_id, "baud_rate_bd"),)),
        ),
        moves=built_moves(design, tuple(way.id for way in ways if not way.is_omitted), "this hook-up"),
    )


def direction(way: CrossingDesign) -> str:
    """Name a direction: ``Board to module``; or a line that goes one way only: ``Data line``."""
    if way.stage.startswith("lamps."):
        return f"{way.id.partition('.')[2].capitalize()} line"
    if way.is_key:
        return f"{way.sender.label} to the key pin"
    return f"{way.sender.label} to {inner(way.receiver.label)}"


def _sentence(way: CrossingDesign) -> str:
    who = inner(way.receiver.label)
    if way.is_omitted:
        return f"Nothing is wired from {inner(way.sender.label)} to {who}."
    if way.received.value is None or way.limit.value is None:
        return f"This hook-up is {NOT_YET}: {way.received.because}."
    if way.high.value is not None and way.received.value < way.high.value:
        return f"{way.received.text} reaches the {who}. It hears a high only from {way.high.text.removesuffix(chr(160) + 'V')}."
    return f"{way.received.text} reaches the {who}. It can stand {way.limit.text.removesuffix(chr(160) + 'V')}."


def _detail(design: Design, way: CrossingDesign) -> str:
    if way.received.value is None:
        return "No level is judged here."
    pin = design.pins.get(way.id)
    at = f" pin {pin.label}" if pin and pin.label else ""
    how = HOW[way.school.id]
    return (
        f"{way.sender.label}{at} sends {way.sent.text}; the {inner(way.receiver.label)} hears a high from {way.high.text}. {how}"
    )


def _tick(value: Value) -> Tick:
    return Tick(at=value.known, text=si(value.known, "V").removesuffix("\u00a0V"))


def window_picture(ways: Iterable[CrossingDesign]) -> WindowPicture | None:
    """Draw what arrives on each line between what is heard and what harms; None where no level is known."""
    shown = [way for way in ways if way.high.value is not None and way.low.value is not None and way.limit.value is not None]
    if not shown:
        return None
    most = 1.06 * max(
        max(
            way.limit.known,
            way.received.high if way.received.value is not None else 0,
            way.sent.high if way.sent.value is not None else 0,
        )
        for way in shown
    )
    windows = tuple(
        LevelWindow(
            label=direction(way),
            low=_tick(way.low),
            high=_tick(way.high),
            limit=_tick(way.limit),
            level_v=way.received.value,
            least_v=way.received.min,
            most_v=way.received.max,
            note="left out" if way.received.value is None else f"{way.received.spread_text or way.received.text} at worst",
        )
        for way in shown
    )
    text = "; ".join(
        f"{window.label}: {window.note}, heard as high from {window.high.text} V, at most {window.limit.text} V"
        for window in windows
    )
    return WindowPicture(text=text, axis_most_v=most, windows=windows)


def _judged(volts: Spread | None, way: CrossingDesign) -> tuple[str, State]:
    """Say what a school would give here, with the same bounds as the rules."""
    if volts is None or way.limit.value is None or way.high.value is None:
        return NOT_YET, "unknown"
    text = si(volts.value, "V")
    if volts.value > way.limit.value or volts.value < way.high.value:
        return text, "stop"
    return text, "look" if volts.most > way.limit.value or volts.least < way.high.high else "clear"


OFFERED = {
    "wire": ("direct", "divider", "zener", "clamp", "mosfet", "gate"),
    "up": ("direct", "gate", "mosfet", "diode"),
    "pixels": ("direct", "gate", "mosfet", "diode-fed"),
    "matrix": ("direct", "gate", "mosfet"),
    "input": ("direct", "divider"),
}


def _offered(design: Design, way: CrossingDesign) -> tuple[str, ...]:
    if way.stage.startswith("lamps."):
        return OFFERED["matrix" if design.lamps[way.link_id].kind == "matrix" else "pixels"]
    if way.stage.startswith("inputs."):
        return OFFERED["input"]
    goes_up = way.sent.value is not None and way.limit.value is not None and way.sent.value + 1 < way.limit.value
    return OFFERED["up"] if goes_up else OFFERED["wire"]


def _option(design: Design, way: CrossingDesign, school: str) -> Option:
    path = ("signals", way.id)
    keep: dict[str, float | None] = {}
    if school == "divider" and way.upper and way.lower and way.upper.origin == "own":
        keep = {"upper_ohm": way.upper.value, "lower_ohm": way.lower.value}
    tried = try_school(design.plan, design.catalog, way, school)
    # A school may move what the receiver hears, not only what reaches it.
    text, state = _judged(spread_of(tried.received) if tried and tried.received.value is not None else None, tried or way)
    if tried is not None and tried.injected_a and tried.injected_a > 0:
        text, state = f"{text}, {si(tried.injected_a, 'A', digits=2)} in", "stop" if tried.injected_a > CLAMP_STOP_A else "look"
    slow = _slowness(tried) if tried else "clear"
    if slow != "clear":
        text, state = f"{text}, slow", "stop" if "stop" in (slow, state) else "look"
    if school == "divider":
        patch = divider_patch(way, **keep)
    else:
        patch = at_path(path, {"is_omitted": None, "shift": {"school": school, "values": None}})
    return Option(label=SCHOOLS[school], detail=text, state=state, patch=patch, is_chosen=way.school.id == school)


def _slowness(way: CrossingDesign) -> State:
    rise = way.rise.value
    if rise is None:
        return "clear"
    if way.edge_most_s is not None:
        return "stop" if rise > way.edge_most_s else "clear"
    if way.bit_s is None or rise <= SLOW_LOOK_RATIO * way.bit_s:
        return "clear"
    return "stop" if rise > SLOW_STOP_RATIO * way.bit_s else "look"


def level_panel(design: Design, way: CrossingDesign, title: str | None = None) -> Panel:
    """Build the panel of one direction of a line: schools side by side with what each gives, then its values."""
    path = ("signals", way.id)
    offered = _offered(design, way)
    options = [_option(design, way, school) for school in offered]
    if way.school.id not in (*offered, "omitted"):
        options.append(_option(design, way, way.school.id))
    if way.is_wire and (may_be_left_out(design, way) or way.is_omitted):
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
    entries: list[Entry] = []
    values = (*path, "shift", "values")
    for value in (way.upper, way.lower, way.extra, way.drop, way.tolerance):
        if value is not None:
            entries.append(entry(value, *values, value.id.rpartition(".")[2], series=design.series))
    tolerance = way.tolerance.known if way.tolerance else 0.05
    return Panel(
        title=direction(way) if title is None else title,
        choices=(Choice(label="How it crosses", origin=way.school.origin, because=way.school.why, options=tuple(options)),),
        entries=tuple(entries),
        resistors=tuple(marked(it.known, tolerance) for it in (way.upper, way.lower, way.extra) if it is not None),
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


def _best_pairs(design: Design, way: CrossingDesign) -> tuple[Move, ...]:
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


def slowest_edge(ways: Iterable[CrossingDesign]) -> EdgePicture | None:
    """Draw the slowest edge of several lines against what it may take; None where no line is in a hurry."""
    return next((edge for way in sorted(ways, key=lambda it: -(it.rise.value or 0)) if (edge := _edge(way))), None)


def _edge(way: CrossingDesign) -> EdgePicture | None:
    rise, span_s = way.rise.value, way.bit_s or (10 * way.edge_most_s if way.edge_most_s else None)
    if rise is None or span_s is None:
        return None
    span = f"a bit, {si(span_s, 's')}" if way.bit_s else f"it may take {si(span_s / 10, 's')}"
    return EdgePicture(
        text=f"The edge takes {way.rise.text}{' of' if way.bit_s else ';'} {span}",
        rise_s=rise,
        span_s=span_s,
        rise=way.rise.text,
        span=span,
        is_sampled=way.bit_s is not None,
        state=_slowness(way),
    )


def input_sheet(design: Design, name: str) -> Sheet:
    """Build the sheet of a knob, button or sensor: what reaches its pin."""
    lead = design.leads[f"{name}.in"]
    it = design.plan.inputs[name]
    fed = design.rails.get(it.rail or "")
    options = (
        Option(
            label=f"The {inner(lead.receiver.label)}'s own supply",
            detail=lead.receiver.logic.text if lead.receiver.logic else "",
            patch=at_path(("inputs", name, "rail"), None),
            is_chosen=it.rail is None,
        ),
        *(
            Option(
                label=rail.label,
                detail=rail.voltage.text,
                patch=at_path(("inputs", name, "rail"), rail.id),
                is_chosen=it.rail == rail.id,
            )
            for rail in design.rails.values()
        ),
    )
    called = Entry(
        label="Name",
        text=lead.sender.label,
        path=("inputs", name, "label"),
        origin="own" if it.label else "proposed",
        because=None if it.label else "its id in the plan",
        settles=None if it.label else lead.sender.label,
    )
    origin: Origin = "own" if it.rail else "proposed"
    because = None if it.rail else "the pin then never sees more than its own supply"
    choice = Choice(label="Its upper end stands at", origin=origin, because=because, options=options)
    if lead.received.value is None or lead.limit.value is None:
        sentence = f"{lead.sender.label} is {NOT_YET}: {lead.received.because}."
    else:
        sentence = f"{lead.received.text} at most reaches the pin of {lead.sender.label}. It can stand {si(lead.limit.known, 'V').removesuffix(chr(160) + 'V')}."
    where = f", fed from {fed.label}" if fed else ""
    return Sheet(
        stage=lead.stage,
        kind="input",
        title=lead.sender.label,
        sentence=sentence,
        detail=f"A {it.kind.replace('-', ' ')} on the {inner(lead.receiver.label)}{where}. What it sets off is {NOT_YET}.",
        picture=window_picture([lead]),
        panels=(Panel(title="", entries=(called,), choices=(choice,)), level_panel(design, lead, "")),
        moves=(Move(label=f"Take {lead.sender.label} out", patch=without_input(design, name)),),
    )
