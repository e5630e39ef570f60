"""How a lamp is dimmed: the ladder of its steps, and how fast its light is chopped."""

from collections.abc import Mapping
from dataclasses import replace

from oddlamp.core.design.lamps import DimmingDesign, LampDesign
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.design.supplies import NodeDesign, Picked
from oddlamp.core.design.values import Origin, Slot, SlotMaker
from oddlamp.core.electrical.designers import step_ladder
from oddlamp.core.parts.models import BoardPart, Catalog, ChipPart, LogicPart, PixelPart
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.lights import Lamp

WATCHED = {"still": "By eye, standing still", "moving": "Moved about", "filmed": "Filmed"}
EVEN_IN = {"eye": "Even to the eye", "duty": "Even in duty"}
HALF_IS = {"duty": "Half of the time on", "eye": "Half as bright to the eye"}


def at_their_timers(
    lamps: Mapping[str, LampDesign], nodes: Mapping[str, NodeDesign], pins: Mapping[tuple[str, str], PinDesign]
) -> dict[str, LampDesign]:
    """Give every lamp that a pin dims the frequency of that pin's timer, the slowest of several."""
    quick = {name for name, node in nodes.items() if isinstance(node.part, BoardPart) and node.part.timer_hz}
    if not quick:
        return dict(lamps)
    mine: dict[str, list[PinDesign]] = {}
    for pin in pins.values():
        if pin.host in quick and pin.line.owner[0] == "lamps":
            mine.setdefault(pin.line.owner_id, []).append(pin)
    return {name: _at_timers(lamp, nodes[lamp.host].part, mine[name]) if name in mine else lamp for name, lamp in lamps.items()}


def _at_timers(lamp: LampDesign, part: LogicPart | None, pins: list[PinDesign]) -> LampDesign:
    dimming = lamp.dimming
    if dimming is None or dimming.frequency is None or not isinstance(part, BoardPart) or (lamp.load and lamp.load.pixel):
        return lamp
    of_pins = {pin.label: part.timer_of(pin.label) for pin in pins}
    rates = {label: part.timer_hz[timer] for label, timer in of_pins.items() if timer in part.timer_hz}
    is_quick = len(rates) == len(of_pins) and min(rates.values()) > part.pwm_frequency_hz.value
    slow = [rate for rate in rates.values() if rate < part.pwm_frequency_hz.value]
    figure = part.pwm_frequency_hz
    if is_quick or slow:
        figure = Sourced(value=min(slow or rates.values()), source="from-memory", conditions="by the timer of its pin")
    if dimming.frequency.value == figure.value:
        return lamp
    now = dimming.frequency
    stated = Slot(id=now.id, stage=now.stage, label=now.label, unit=now.unit).stated(figure)
    return replace(lamp, dimming=replace(dimming, frequency=stated))


def resolve_dimming(
    slot: SlotMaker, catalog: Catalog, lamp: Lamp, host: NodeDesign, pixel: PixelPart | None
) -> DimmingDesign | None:
    """Work out a lamp's ladder and the frequency it is dimmed at; None for what is only on or off."""
    if lamp.kind in ("relay", "buzzer", "matrix"):
        return None
    ladder, proposed = getattr(lamp, "ladder", None), catalog.proposals["ladder"]
    own_steps = ladder.steps if ladder else None
    origin: Origin = "proposed" if own_steps is None else "own"
    count = own_steps or int(proposed.value or 9)
    why = proposed.why if own_steps is None else None
    steps = slot("ladder_steps", "Steps", "", ("ladder", "steps")).filled(count, origin=origin, because=why)
    even = ladder.even_in if ladder else None
    even_in = (
        Picked(even, EVEN_IN[even], "own")
        if even
        else Picked("duty", EVEN_IN["duty"], "proposed", "a motor's speed follows its duty")
        if lamp.kind == "motor"
        else Picked("eye", EVEN_IN["eye"], "proposed", "steps of equal duty look crowded at the bright end")
    )
    half = ladder.half_is if ladder else None
    half_is = (
        Picked(half, HALF_IS[half], "own")
        if half
        else Picked("duty", HALF_IS["duty"], "proposed", "what most programs mean by it, and colours mix as they are told")
    )
    watched = getattr(lamp, "watched", None)
    watch = (
        Picked(watched, WATCHED[watched], "own")
        if watched
        else Picked("still", WATCHED["still"], "proposed", "most lamps stand where they are")
    )
    frequency = slot("pwm_frequency_hz", "PWM frequency", "Hz")
    of_host = host.part.pwm_frequency_hz if isinstance(host.part, BoardPart | ChipPart) else None
    figure = pixel.pwm_frequency_hz if pixel else of_host
    return DimmingDesign(
        steps=steps,
        even_in=even_in,
        half_is=half_is,
        by_duty=step_ladder(count, is_even_to_the_eye=False),
        by_eye=step_ladder(count, is_even_to_the_eye=True),
        frequency=frequency.stated(figure) if figure else None,
        watched=watch,
    )
