"""What a rehearsal needs to know of the lines it lights, looked up once: each as its passage lets it."""

from typing import NamedTuple

from oddlamp.core.base import si
from oddlamp.core.behaviour.arithmetic import LADDER_TOP, seen_light
from oddlamp.core.behaviour.lamps import COLOURS, Light
from oddlamp.core.behaviour.program import LampSpec
from oddlamp.core.behaviour.tables import spec_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.passages import Passage
from oddlamp.core.design.values import NOT_YET, Value
from oddlamp.core.english import and_list
from oddlamp.core.plan.lights import SWITCHED_KINDS
from oddlamp.core.plan.signals import bus_lines, told_by


class Outlet(NamedTuple):
    """What a run needs to know of a channel, looked up once.

    ``current_a`` is None where it never lights, ``lost_at`` says where that shows. ``bus`` has the stages a chip is told
    over, for what hangs on one, and what is read there.
    """

    channel_id: str
    signal_id: str
    is_inverted: bool
    stage: str
    pin_stage: str
    pin: str
    high_v: float | None
    current_a: float | None
    wanted_a: float
    because: str
    may_not: str | None
    lost_at: str | None
    spec: LampSpec
    is_switched: bool
    bus: tuple[tuple[str, str], ...] = ()


class Effect(NamedTuple):
    """What a light of a lamp does to one channel."""

    outlet: Outlet
    volts: float | None
    pin_duty: float
    duty: float
    current_a: float | None
    seen: float
    flow: str


def effect_of(outlet: Outlet, light: Light) -> Effect:
    """Return what a light of a lamp does to one channel: its number of it, as its pin shows it."""
    duty = outlet.spec.shown(light[COLOURS.get(outlet.channel_id, 0)]) / LADDER_TOP
    if outlet.is_switched:
        duty = float(duty >= 0.5)
    # A common anode is lit by a low pin: the share of time the pin is high is the rest.
    pin_duty = 1.0 - duty if outlet.is_inverted else duty
    volts = None if outlet.high_v is None else pin_duty * outlet.high_v
    if outlet.current_a is None:
        return Effect(outlet, volts, pin_duty, duty, None, 0.0, "")
    current_a = duty * outlet.current_a
    flow = si(current_a, "A") if current_a else "dark"
    return Effect(outlet, volts, pin_duty, duty, current_a, seen_light(current_a / outlet.wanted_a), flow)


def outlets_of(design: Design, lamp: LampDesign) -> tuple[Outlet, ...]:
    """List the lines of a lamp that a run lights, each as its passage lets it."""
    if lamp.load is not None and lamp.school is not None:
        load = lamp.load
        # An opto-input is on when its pin is low, as is a lamp on a common anode.
        return (_outlet(design, lamp, "main", load.on_when == "low", load.current, load.current.value or 1.0),)
    return tuple(_outlet(design, lamp, it.id, it.is_inverted, it.current_with_pin, it.wanted.known) for it in lamp.channels)


def _outlet(design: Design, lamp: LampDesign, channel_id: str, is_inverted: bool, current: Value, wanted_a: float) -> Outlet:
    signal_id, logic = f"{lamp.id}.{channel_id}", design.nodes[lamp.host].logic
    signal, passage = design.signals[signal_id], design.passages[signal_id]
    lost_because, may_not = lost_or_doubted(passage)
    is_at_pin = passage.worst is not None and passage.worst.code.startswith("PIN-")
    pin_stage = f"pins.{lamp.host}"
    bus = _bus(design, lamp.host)
    is_on_bus = lost_because is not None and any(it.verdict == "does not" for it in passage.behind)
    return Outlet(
        channel_id,
        signal_id,
        is_inverted,
        lamp.stage,
        pin_stage,
        f"pin {signal.pin.label if signal.pin and signal.pin.label else '?'}",
        logic.value if logic else None,
        None if lost_because is not None else current.value,
        wanted_a,
        lost_because or current.because or NOT_YET,
        may_not,
        None if lost_because is None else bus[-1][0] if bus and is_on_bus else pin_stage if is_at_pin else lamp.stage,
        spec_of(design, lamp),
        lamp.kind in SWITCHED_KINDS,
        bus,
    )


def _bus(design: Design, host: str) -> tuple[tuple[str, str], ...]:
    """Return the stages a chip is told over and what is read there: its board's pins, then the bus."""
    board, links = told_by(design.plan, host), design.buses.get(host)
    if not links or board is None:
        return ()
    pins = [pin.label or "?" for line in bus_lines(design.plan, host) if (pin := design.signals[line].pin) is not None]
    return ((f"pins.{board}", f"pins {and_list(pins)}"), (f"links.{links[0]}", "told"))


def lost_or_doubted(passage: Passage) -> tuple[str | None, str | None]:
    """Return why something does not get through, and why it may not."""
    match passage.verdict:
        case "does not":
            return passage.because, None
        case "may not":
            return None, passage.because
        case _:
            return None, None
