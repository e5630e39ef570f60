"""What stands in the way of a lamp: too little or too much current, a switch that is not driven, volts it is not made for."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, LoadDesign, SwitchDesign
from oddlamp.core.design.lines import PinLoad
from oddlamp.core.design.passages import Obstacle, Severity
from oddlamp.core.design.supplies import NodeDesign, RailDesign
from oddlamp.core.design.values import Value
from oddlamp.core.electrical.drivers import FORCED_GAIN_MOST
from oddlamp.core.electrical.preferred import FLOAT_SLACK

HEADROOM_LOOK_V: Final = 0.5
SPREAD_LOOK_RATIO: Final = 5.0
GATE_SLACK: Final = 1e-3
OPTO_OFF_MOST_A: Final = 1e-4
OPTO_ON_LEAST_A: Final = 1e-3  # from memory: what a usual opto-coupler needs to pull its relay in
NEEDS_SWITCHING: Final = ("relay", "strip")


def over(value: float, limit: float) -> bool:
    """Tell whether a value is past a limit by more than floats make of it."""
    return value > limit * (1 + FLOAT_SLACK)


def judge_channel(
    lamp: LampDesign, channel: ChannelDesign, host: NodeDesign, rail: RailDesign | None, host_rail: RailDesign | None
) -> Iterator[Obstacle]:
    """Find what stands in the way of one channel of LEDs."""
    if lamp.open_because is not None:
        return
    yield from _polarity(lamp)
    yield from _headroom(channel, source_ohm(lamp, channel, host, rail, host_rail))
    yield from _over_current(channel)
    yield from _switch(lamp, channel.switch, host, channel.drive)
    yield from _floats(lamp, channel, host)


def judge_load(lamp: LampDesign, load: LoadDesign, host: NodeDesign) -> Iterator[Obstacle]:
    """Find what stands in the way of something that sets its own current."""
    yield from _volts(lamp, load)
    yield from _needs_driver(lamp, load, host)
    yield from _opto(lamp, load)
    if load.current.value is not None:
        yield from _switch(lamp, lamp.switch, host, load.rail)


def judge_pin_load(lamp: LampDesign, load: PinLoad, host: NodeDesign) -> Iterator[Obstacle]:
    """A pin carries no more than is recommended, and never more than its absolute limit."""
    part = host.part
    if part is None or (lamp.load is not None and lamp.switch is None and lamp.kind in NEEDS_SWITCHING):
        return  # DRV-NEEDED tells of those
    usual, absolute = part.pin_recommended_a, part.pin_absolute_a
    if absolute is not None and over(load.nominal_a, absolute.value):
        case, severity, asked_a, limit_a = "absolute", "stop", load.nominal_a, absolute.value
    elif over(load.nominal_a, usual.value):
        case, severity, asked_a, limit_a = "usual", "look", load.nominal_a, usual.value
    elif absolute is not None and over(load.most_a, absolute.value):
        case, severity, asked_a, limit_a = "worst", "look", load.most_a, absolute.value
    else:
        return
    because = f"it asks {si(asked_a, 'A')} of a pin that gives {si(limit_a, 'A')}"
    yield Obstacle("PIN-CURRENT", "stop" if severity == "stop" else "look", because, case)


def source_ohm(
    lamp: LampDesign, channel: ChannelDesign, host: NodeDesign, rail: RailDesign | None, host_rail: RailDesign | None
) -> float:
    """Return the resistance of the source behind a channel, ohm; what the pin itself adds is not the source's."""
    is_from_pin = lamp.school is not None and lamp.school.id == "pin" and not channel.is_inverted
    if is_from_pin and host.part is not None and host.part.logic_voltage_v is not None and host.logic is not None:
        # A regulator makes the pin's volts, unless its own supply is already under them.
        fed = host_rail.voltage.value if host_rail is not None else None
        if fed is None or fed >= host.part.logic_voltage_v.value:
            return 0.0
    feeds = host_rail if is_from_pin else rail
    return feeds.resistance.known if feeds and feeds.resistance and feeds.resistance.value is not None else 0.0


def _polarity(lamp: LampDesign) -> Iterator[Obstacle]:
    if lamp.common is not None and lamp.school is not None and lamp.school.id != "pin" and lamp.common.id == "cathode":
        yield Obstacle("LED-POLARITY", "stop", "its common leg is at ground and its switches pull to ground: it never lights")


def _headroom(channel: ChannelDesign, behind_ohm: float) -> Iterator[Obstacle]:
    branch = channel.branch
    if branch is None:
        return
    loaded_v = branch.drive_voltage_v.value - behind_ohm * channel.wanted.known * channel.in_parallel
    ratio = channel.point.spread_ratio if channel.point else None
    if loaded_v - branch.forward_voltage_v.least - branch.driver_drop_v.least <= FLOAT_SLACK:
        because = f"it needs at least {si(branch.forward_voltage_v.least, 'V')} and gets {si(loaded_v, 'V')}"
        yield Obstacle("LED-HEADROOM", "stop", because, "unlit")
    elif branch.left_v < HEADROOM_LOOK_V - FLOAT_SLACK:
        yield Obstacle("LED-HEADROOM", "look", f"only {si(max(branch.left_v, 0), 'V')} is left for its resistor", "little")
    elif channel.sharing != "one" and (ratio is None or ratio > SPREAD_LOOK_RATIO):
        yield Obstacle("LED-HEADROOM", "look", "its current may be nearly anything", "spread")


def _over_current(channel: ChannelDesign) -> Iterator[Obstacle]:
    if channel.point is None or channel.sharing == "one":
        return
    current, limit_a, wanted_a = channel.point.current_a, channel.limit.known, channel.wanted.known
    if over(current.value, limit_a):
        yield Obstacle("LED-OVER", "stop", f"{si(current.value, 'A')} may harm an LED that stands {si(limit_a, 'A')}", "limit")
    elif over(current.value, wanted_a):
        yield Obstacle("LED-OVER", "look", f"it gets {si(current.value, 'A')}, {si(wanted_a, 'A')} is wanted", "wanted")
    elif over(current.most, limit_a):
        yield Obstacle("LED-OVER", "look", f"at worst it gets {si(current.most, 'A')}", "worst")


def _switch(lamp: LampDesign, switch: SwitchDesign | None, host: NodeDesign, stands_at: Value | None) -> Iterator[Obstacle]:
    """A transistor is driven fully, carries what its load takes, and blocks its rail while it is off."""
    if switch is None:
        if lamp.school is not None and lamp.school.id == "npn" and host.logic is not None and host.logic.value is not None:
            yield Obstacle("DRV-BASE", "stop", f"a pin at {host.logic.text} does not drive a base", "volts")
        return
    most = switch.part.current_most_a.value
    code = "DRV-BASE" if switch.base is not None else "DRV-GATE-LEVEL"
    if over(switch.load.known, most):
        yield Obstacle(code, "stop", f"{switch.load.text} is more than its transistor carries, {si(most, 'A')}", "carries")
    elif switch.base is not None and switch.base.forced_gain > FORCED_GAIN_MOST * (1 + FLOAT_SLACK):
        severity: Severity = "stop" if switch.base.forced_gain > 5 * FORCED_GAIN_MOST else "look"
        yield Obstacle(code, severity, f"its base gets one part in {switch.base.forced_gain:.0f}", "gain")
    elif switch.gate is not None and switch.gate.value is not None and switch.part.gate_specified_v is not None:
        specified_v = switch.part.gate_specified_v.value
        if switch.gate.low < specified_v * (1 - GATE_SLACK):
            severity = "stop" if switch.gate.value < specified_v * (1 - GATE_SLACK) else "look"
            seen = switch.gate.text if severity == "stop" else f"at worst {si(switch.gate.low, 'V')}"
            yield Obstacle(code, severity, f"its gate gets {seen} and wants {si(specified_v, 'V')}", "gate")
    blocks = switch.part.blocks_v
    if blocks is not None and stands_at is not None and stands_at.value is not None and over(stands_at.high, blocks.value):
        severity = "stop" if over(stands_at.value, blocks.value) else "look"
        because = f"its transistor blocks {si(blocks.value, 'V')} and stands at {stands_at.text}"
        yield Obstacle("DRV-VOLTS", severity, because, "blocks", harms=True)


def _volts(lamp: LampDesign, load: LoadDesign) -> Iterator[Obstacle]:
    """What sets its own current stands at a rail it is made for. DRV-NEEDED tells what a pin lacks."""
    rail, rated = load.rail, load.rated
    if not lamp.takes_rail or rail is None or rail.value is None or rated.value is None:
        return
    least_v = load.works_from.known if load.works_from is not None else rated.low
    if least_v <= rail.low and rail.high <= rated.high:
        return
    is_off = not least_v <= rail.value <= rated.high
    because = f"it is made for {rated.spread_text or rated.text} and its rail gives {rail.text}"
    yield Obstacle("DRV-VOLTS", "stop" if is_off else "look", because, "rail", harms=rail.value > rated.high)


def _needs_driver(lamp: LampDesign, load: LoadDesign, host: NodeDesign) -> Iterator[Obstacle]:
    """What takes more than a pin gives, or more volts than it has, is not hung on a pin."""
    if load.current.value is None or lamp.school is None or lamp.school.id != "pin" or host.part is None:
        return
    if load.off_current is not None or host.logic is None or host.logic.value is None:
        return
    limit = host.part.pin_recommended_a
    if over(load.current.value, limit.value):
        because = f"it asks {load.current.text} of a pin that gives {si(limit.value, 'A')}"
        yield Obstacle("DRV-NEEDED", "stop", because, "current")
    elif lamp.kind in NEEDS_SWITCHING and host.logic.value < load.rated.low:
        yield Obstacle("DRV-NEEDED", "stop", f"it is made for {load.rated.text} and a pin gives {host.logic.text}", "volts")


def _opto(lamp: LampDesign, load: LoadDesign) -> Iterator[Obstacle]:
    """A relay module gets enough through its input to pull in, and next to nothing when it shall let go."""
    if load.off_current is None or load.off_current.value is None or load.current.value is None:
        return
    if load.off_current.value > OPTO_OFF_MOST_A:
        yield Obstacle("DRV-OPTO", "look", f"it may not let go: {load.off_current.text} still flows", "off")
    elif load.current.value < OPTO_ON_LEAST_A:
        yield Obstacle("DRV-OPTO", "look", f"it may not pull in: only {load.current.text} flows", "on")


def _floats(lamp: LampDesign, channel: ChannelDesign, host: NodeDesign) -> Iterator[Obstacle]:
    """A pin under a lamp that comes from a higher rail stands near that rail while it is no output yet."""
    floats = channel.floats
    if floats is None or floats.value is None or host.part is None or host.logic is None or host.logic.value is None:
        return
    limit_v = host.part.input_max_v.value if host.part.input_max_v else host.logic.value + 0.3
    if floats.high <= limit_v:
        return
    is_stop = floats.value > limit_v
    because = f"while the board starts its pin stands at {si(floats.value if is_stop else floats.high, 'V')}"
    yield Obstacle("LVL-OVER", "stop" if is_stop else "look", f"{because} and may have {si(limit_v, 'V')}", "floats")
