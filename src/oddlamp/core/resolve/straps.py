"""What holds a pin while its board starts: the level that a strap pin is read at."""

from collections.abc import Iterator, Mapping
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, SwitchDesign
from oddlamp.core.design.lines import LevelDesign, PinDesign, SignalDesign
from oddlamp.core.design.passages import Obstacle, Severity
from oddlamp.core.design.supplies import NodeDesign, RailDesign
from oddlamp.core.design.values import Slot, Value
from oddlamp.core.electrical.node import Hang, drop_down, drop_up, led_down, led_up, resistor_to, settles_v
from oddlamp.core.english import and_list, inner
from oddlamp.core.parts.pins import Pin
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import Line

IDLE_HIGH: Final = ("remote-receiver",)


def starts_at(
    plan: Plan,
    nodes: Mapping[str, NodeDesign],
    rails: Mapping[str, RailDesign],
    line: Line,
    pin: PinDesign | None,
    level: LevelDesign | None,
    lamp: LampDesign | None,
) -> Value | None:
    """Work out where a line's pin rests while the board starts, where the chip reads it then and the line has a say in it."""
    host = nodes[pin.host] if pin is not None else None
    part = host.part.pin(pin.label) if host is not None and host.part is not None and pin is not None and pin.label else None
    if pin is None or host is None or part is None or part.strap is None or host.logic is None or host.logic.value is None:
        return None
    mine = hung_on(plan, nodes, rails, line, pin, level, lamp)
    if not mine:
        return None
    everything = [*mine, *board_pull(part, host.logic.value)]
    volts = settles_v(everything, most_v=highest_v(rails, host.logic.value))
    put_in = f"{and_list([hang.name for hang in everything])}: {si(volts, 'V')}"
    working = Working(formula="currents into the pin add up to nothing", substituted=put_in, source="horowitz-hill")
    slot = Slot(id=f"{line.id}.starts_v", stage=pin.stage, label=f"Pin {pin.label} while the board starts", unit="V")
    return slot.filled(volts, origin="computed", working=(working,))


def hung_on(
    plan: Plan,
    nodes: Mapping[str, NodeDesign],
    rails: Mapping[str, RailDesign],
    line: Line,
    pin: PinDesign,
    level: LevelDesign | None,
    lamp: LampDesign | None,
) -> list[Hang]:
    """List what a plan hangs on a pin: a pull of the line's own, and what the line leads to."""
    return [*_pull(plan, rails, line), *_hangs(plan, nodes, line, pin, level, lamp)]


def highest_v(rails: Mapping[str, RailDesign], logic_v: float) -> float:
    """Return the highest volts there are, V: no pin stands higher."""
    return max([logic_v, *(rail.voltage.value or 0.0 for rail in rails.values())])


def judge_strap(signal: SignalDesign, pin: PinDesign, host: NodeDesign) -> Iterator[Obstacle]:
    """A pin read at start-up has the level the chip must find there."""
    starts, logic = signal.starts, host.logic
    part = host.part.pin(pin.label) if host.part is not None and pin.label else None
    if starts is None or pin.field != "pin" or part is None or host.part is None or logic is None or logic.value is None:
        return
    low_v, high_v = host.part.input_low_ratio.value * logic.value, host.part.input_high_ratio.value * logic.value
    if starts.known <= low_v if part.strap == "low" else starts.known >= high_v:
        return
    reads = "low" if starts.known <= low_v else "high" if starts.known >= high_v else "unsure"
    severity: Severity = "stop" if part.strap_stops else "look"
    yield Obstacle("PIN-STRAP", severity, f"pin {pin.label} must be {part.strap} at start-up and stands at {starts.text}", reads)


def board_pull(part: Pin, logic_v: float) -> Iterator[Hang]:
    """Yield the resistor that the board itself has on a pin."""
    if part.board_pull is not None and part.board_pull_ohm is not None:
        to_v = logic_v if part.board_pull == "up" else 0.0
        yield resistor_to(to_v, part.board_pull_ohm, f"the board's {si(part.board_pull_ohm, 'ohm')} {part.board_pull}")


def _pull(plan: Plan, rails: Mapping[str, RailDesign], line: Line) -> Iterator[Hang]:
    it = plan.signals.get(line.id)
    if it is None or it.pull_ohm is None or it.pull_to is None:
        return
    rail = rails.get(it.pull_to)
    volts = 0.0 if it.pull_to == "ground" else rail.voltage.value if rail is not None else None
    if volts is not None:
        yield resistor_to(volts, it.pull_ohm, f"{si(it.pull_ohm, 'ohm')} to {'ground' if volts == 0 else si(volts, 'V')}")


def _hangs(
    plan: Plan, nodes: Mapping[str, NodeDesign], line: Line, pin: PinDesign, level: LevelDesign | None, lamp: LampDesign | None
) -> Iterator[Hang]:
    if lamp is not None and level is None:
        yield from _of_lamp(lamp, line)
    elif level is not None and level.received.value is not None:
        yield from _of_level(plan, nodes, line, pin, level)


def _of_level(plan: Plan, nodes: Mapping[str, NodeDesign], line: Line, pin: PinDesign, level: LevelDesign) -> Iterator[Hang]:
    """What hears a module stands high while nothing is said; what sends into resistors is held by them. A contact holds nothing."""
    if line.receiver == pin.host:
        is_high = line.kind == "wire" and line.sender is not None and nodes[line.sender].part is not None
        if line.kind == "input":
            it = plan.inputs[line.owner_id]
            is_high = it.idle_high is not False if it.kind in IDLE_HIGH else it.kind == "sensor" and it.idle_high is True
        if is_high:
            yield resistor_to(level.received.known, 50.0, f"{inner(level.sender.label)}, high while idle")
    elif level.upper is not None and level.lower is not None:
        ohm = level.upper.known + level.lower.known
        yield resistor_to(0.0, ohm, f"{level.upper.text} and {level.lower.text} to ground")
    elif level.school.id == "mosfet" and level.extra is not None and level.sender.logic is not None:
        yield resistor_to(level.sender.logic.known, level.extra.known, f"{level.extra.text} of the shifter")


def _of_lamp(lamp: LampDesign, line: Line) -> Iterator[Hang]:
    channel = next((it for it in lamp.channels if it.signal_id == line.id), None)
    switch = channel.switch if channel is not None else lamp.switch
    if switch is not None:
        yield from _of_switch(switch)
    elif channel is not None:
        yield from of_leds(channel)
    elif (
        lamp.load is not None and lamp.load.input is not None and lamp.load.rail is not None and lamp.load.rail.value is not None
    ):
        inside = lamp.load.input
        if lamp.load.on_when == "low":
            yield drop_up(
                inside.drop_v, inside.resistance_ohm, lamp.load.rail.value, f"the opto-input from {lamp.load.rail.text}"
            )
        else:
            yield drop_down(inside.drop_v, inside.resistance_ohm, "the opto-input to ground")
    elif lamp.load is not None and lamp.load.current.value and lamp.load.holds_f is None and lamp.school is not None:
        ohm = lamp.load.rated.known / lamp.load.current.value
        yield resistor_to(0.0, ohm, f"{inner(lamp.load.label)}, about {si(ohm, 'ohm')}")


def _of_switch(switch: SwitchDesign) -> Iterator[Hang]:
    if switch.base is not None and switch.part.base_emitter_v is not None:
        drop_v = switch.part.base_emitter_v.value
        yield drop_down(drop_v, switch.series.known, f"a base through {switch.series.text}")
    elif switch.pull_down is not None and switch.has_pull_down:
        yield resistor_to(0.0, switch.series.known + switch.pull_down.known, f"{switch.pull_down.text} from gate to ground")


def of_leds(channel: ChannelDesign) -> Iterator[Hang]:
    """Yield the LEDs of a channel that hang on its pin themselves."""
    branch = channel.branch
    if branch is None or branch.curve is None or channel.resistor.value is None:
        return
    ohm = channel.resistor.value / (1 if branch.is_shared else branch.in_parallel)
    if channel.is_inverted:
        name = f"LED and {channel.resistor.text} from {channel.drive.text}"
        yield led_up(branch.curve, branch.in_series, ohm, branch.drive_voltage_v.value, name)
    else:
        yield led_down(branch.curve, branch.in_series, ohm, f"LED and {channel.resistor.text} to ground")
