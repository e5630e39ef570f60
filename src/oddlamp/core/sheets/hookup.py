"""The sheet of a wire: what arrives each way, between what is heard and what harms."""

from oddlamp.core.base import si
from oddlamp.core.checks.levels import divider_patch, may_be_left_out
from oddlamp.core.design import CrossingDesign, Design
from oddlamp.core.electrical.bands import band_colours
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Divider, divide, straight
from oddlamp.core.line import State
from oddlamp.core.plan.document import at_path
from oddlamp.core.sheets.built import built_moves
from oddlamp.core.sheets.lamp import entry
from oddlamp.core.sheets.models import Choice, Entry, LevelWindow, Option, Panel, Sheet, Tick, WindowPicture
from oddlamp.core.values import NOT_YET, Value


def hookup_sheet(design: Design, link_id: str) -> Sheet:
    """Build the sheet of one wire; the tighter direction comes first."""
    ways = sorted((design.crossings[f"{link_id}.{way}"] for way in ("a_to_b", "b_to_a")), key=_room)
    first = ways[0]
    return Sheet(
        stage=first.stage,
        kind="wire",
        title=design.plan.links[link_id].label or "Hook-up",
        sentence=_sentence(first),
        detail=_detail(design, first),
        picture=_picture(design, ways),
        panels=(
            *(_panel(design, way) for way in ways),
            Panel(title="Speed", entries=(entry(design.wires[link_id].baud, "links", link_id, "baud_rate_bd"),)),
        ),
        moves=built_moves(design, tuple(way.id for way in ways if not way.is_omitted), "this hook-up"),
    )


def _room(way: CrossingDesign) -> float:
    if way.received.value is None or way.limit.value is None:
        return float("inf")
    return way.limit.value - way.received.high


def direction(way: CrossingDesign) -> str:
    """Name a direction: ``Board to module``."""
    return f"{way.sender.label} to {way.receiver.label.lower()}"


def _sentence(way: CrossingDesign) -> str:
    who = way.receiver.label.lower()
    if way.is_omitted:
        return f"Nothing is wired from {way.sender.label.lower()} to {who}."
    if way.received.value is None or way.limit.value is None:
        return f"This hook-up is {NOT_YET}: {way.received.because}."
    return f"{way.received.text} reaches the {who}. It can stand {way.limit.text.removesuffix(chr(160) + 'V')}."


def _detail(design: Design, way: CrossingDesign) -> str:
    if way.received.value is None:
        return "No level is judged here."
    pin = design.pins.get(way.id)
    at = f" pin {pin.label}" if pin and pin.label else ""
    how = {"direct": "A straight wire carries it across.", "divider": "Two resistors bring it down."}[way.school.id]
    return (
        f"{way.sender.label}{at} sends {way.sent.text}; the {way.receiver.label.lower()} hears a high from {way.high.text}. {how}"
    )


def _tick(value: Value) -> Tick:
    return Tick(at=value.known, text=si(value.known, "V").removesuffix("\u00a0V"))


def _picture(design: Design, ways: list[CrossingDesign]) -> WindowPicture | None:
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


def _panel(design: Design, way: CrossingDesign) -> Panel:
    path = ("signals", way.id)
    sent = way.sent_spread
    direct_text, direct_state = _judged(straight(sent).voltage_v if sent else None, way)
    divider = _divider_in_reach(design, way)
    divided_text, divided_state = _judged(divide(sent, divider).voltage_v if sent else None, way)
    keep = (
        {"upper_ohm": way.upper.value, "lower_ohm": way.lower.value}
        if way.upper and way.lower and way.upper.origin == "own"
        else {}
    )
    options = [
        Option(
            label="Straight wire",
            detail=direct_text,
            state=direct_state,
            patch=at_path(path, {"is_omitted": None, "shift": {"school": "direct", "values": None}}),
            is_chosen=way.school.id == "direct",
        ),
        Option(
            label="Two resistors",
            detail=divided_text,
            state=divided_state,
            patch=divider_patch(way, **keep),
            is_chosen=way.school.id == "divider",
        ),
    ]
    if may_be_left_out(design, way) or way.is_omitted:
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
    entries: tuple[Entry, ...] = ()
    bands: tuple[str, ...] = ()
    if way.upper and way.lower and way.tolerance:
        values = (*path, "shift", "values")
        entries = tuple(
            entry(value, *values, field)
            for value, field in ((way.upper, "upper_ohm"), (way.lower, "lower_ohm"), (way.tolerance, "tolerance_ratio"))
        )
        bands = band_colours(way.upper.known, way.tolerance.known)
    return Panel(
        title=direction(way),
        choices=(Choice(label="How it crosses", origin=way.school.origin, because=way.school.why, options=tuple(options)),),
        entries=entries,
        resistor_bands=bands,
        facts=tuple(value for value in (way.sent, way.received, way.high, way.limit)),
    )


def _divider_in_reach(design: Design, way: CrossingDesign) -> Divider:
    """Return the divider that stands, or the one that pressing the school would propose."""
    if way.upper and way.lower and way.tolerance:
        return Divider(upper_ohm=way.upper.known, lower_ohm=way.lower.known, tolerance_ratio=way.tolerance.known)
    upper_ohm, lower_ohm = design.catalog.proposals["divider"].pairs[0]
    return Divider(
        upper_ohm=upper_ohm,
        lower_ohm=lower_ohm,
        tolerance_ratio=design.catalog.resistors[design.catalog.proposals["resistor"].part or ""].tolerance_ratio.value,
    )
