"""Circuits of lamp drives and level shifts as SPICE text that a circuit solver runs as it is.

Each circuit stands alone, as the review reckons it: one channel lit from its own pin or rail, one line held high.
"""

import math
import re
from collections.abc import Iterator
from typing import Final, NamedTuple

from oddlamp.core.bench.circuit import FIRST, SECOND, Circuit, Piece, Tap
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, SwitchDesign
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.resolve.carry import CLAMP_V

LEAST_OHM: Final = 1e-6
LEAST_A: Final = 1e-20
KEPT: Final = re.compile(r"[^ -~]|[$;\\]")
OPEN_OHM: Final = 1e9


class Asked(NamedTuple):
    """A figure that a circuit gives: the name the solver prints it by, and the review's value it stands for."""

    name: str
    value_id: str
    is_current: bool


class Deck(NamedTuple):
    """The text, and what it is asked."""

    text: str
    asked: tuple[Asked, ...]


def spice_deck(design: Design, circuit: Circuit) -> Deck:
    """Write every lamp drive and level shift of a design that resistors and diodes make.

    Source: the diode equation as SPICE has it, at 300 K; pins, switches and sources by their resistance.
    """
    body: list[str] = []
    asked: list[Asked] = []
    for lamp in design.lamps.values():
        for channel in lamp.channels:
            lines = list(_channel(circuit, lamp, channel, len(asked)))
            if lines:
                body += [f"* {_plain(lamp.label)}, {_plain(channel.id)}: the current of one of {channel.in_parallel}", *lines, ""]
                asked.append(Asked(f"i(vm{len(asked)})", channel.curve.id, True))
        switches = {it.pin.id: it for it in (lamp.switch, *(it.switch for it in lamp.channels)) if it is not None}
        for switch in switches.values():
            lines = list(_based(switch, design.nodes[lamp.host], len(asked)))
            if lines:
                body += [f"* {_plain(lamp.label)}: what its pin gives the base", *lines, ""]
                asked.append(Asked(f"i(vm{len(asked)})", switch.pin.id, True))
    for level in design.levels:
        lines = list(_shifted(circuit, level, len(asked)))
        if lines:
            body += [f"* {_plain(level.line.name)}: held high", *lines, ""]
            asked.append(Asked(f"v(far{len(asked)})", level.received.id, False))
    title = f"* {_plain(design.plan.title)}: lamp drives and level shifts"
    if not asked:
        return Deck(f"{title}\n* nothing of them is worked out yet\n.end\n", ())
    told = [f"print {it.name}" for it in asked]
    control = [".control", "set numdgt=7", "op", *told, ".endc", ".end", ""]
    return Deck("\n".join([title, ".options temp=26.85 tnom=26.85 gmin=1e-16 abstol=1e-13", *body, *control]), tuple(asked))


def _plain(text: str) -> str:
    """Write a name as it may stand in a comment: one line of plain characters."""
    return KEPT.sub("?", " ".join(text.split()))[:60]


def _ohm(value: float) -> str:
    return f"{max(value, LEAST_OHM):.6g}"


def _strings(circuit: Circuit, channel: ChannelDesign) -> list[Piece]:
    """Return the resistors of a channel that are in the circuit."""
    name = f"{channel.signal_id}.resistor"
    return [it for it in circuit.pieces.values() if it.id == name or it.id.startswith(f"{name}_")]


def _channel(circuit: Circuit, lamp: LampDesign, channel: ChannelDesign, at: int) -> Iterator[str]:
    """Yield one channel: its drive, what stands in its way, its resistors and its LEDs; the first string is measured."""
    branch, resistors = channel.branch, _strings(circuit, channel)
    if branch is None or branch.curve is None or not resistors or channel.curve.value is None:
        return
    yield f"V{at} drive{at} 0 {branch.drive_voltage_v.value:.6g}"
    yield f"RD{at} drive{at} pin{at} {_ohm(branch.driver_resistance_ohm.value)} ; pin, switch and source"
    curve, kept_v = branch.curve, branch.driver_drop_v.value
    # Solvers hold saturation currents over a least one: what is below that stands as volts ahead of the same curve.
    saturation_a = max(curve.saturation_a, LEAST_A)
    ahead_v = curve.slope_v * math.log(saturation_a / curve.saturation_a)
    low = f"low{at}" if kept_v else "0"
    if kept_v:
        yield f"VK{at} {low} 0 {kept_v:.6g} ; what the transistor keeps"
    shared = channel.sharing == "one" and channel.in_parallel > 1
    if shared:
        yield f"R{at}_1 pin{at} all{at} {_ohm(resistors[0].made or 0.0)}"
    for number in range(1, channel.in_parallel + 1):
        top = f"all{at}" if shared else f"s{at}_{number}"
        if not shared:
            made = resistors[min(number, len(resistors)) - 1].made or 0.0
            yield f"R{at}_{number} pin{at} {top} {_ohm(made)}"
        if number == 1:
            yield f"VM{at} {top} m{at} 0 ; its ammeter"
            top = f"m{at}"
        for place in range(1, channel.in_series + 1):
            bottom = low if place == channel.in_series else f"l{at}_{number}_{place}"
            if ahead_v:
                yield f"VL{at}_{number}_{place} {top} a{at}_{number}_{place} {ahead_v:.7g}"
                top = f"a{at}_{number}_{place}"
            yield f"D{at}_{number}_{place} {top} {bottom} LED{at}"
            top = bottom
    yield f".model LED{at} D(IS={saturation_a:.6e} N={curve.ideality:.6g} RS={_ohm(curve.series_ohm)})"


def _shifted(circuit: Circuit, level: LevelDesign, at: int) -> Iterator[str]:
    """Yield a line with its sender high; a zener is left to the sheet, which knows its knee, and what has no parts to itself."""
    if level.sent.value is None or level.received.value is None or level.pull is not None:
        return
    write = {"divider": _divided, "clamp": _clamped, "mosfet": _pulled, "diode": _pulled}.get(level.school.id)
    if write is not None:
        yield from write(circuit, level, at)


def _divided(circuit: Circuit, level: LevelDesign, at: int) -> Iterator[str]:
    """Yield a divider."""
    upper, lower = (circuit.pieces.get(f"{level.id}.{it}") for it in ("upper", "lower"))
    if upper is None or lower is None:
        return
    far = circuit.net_of.get(Tap(upper.id, SECOND))
    if far is None or far != circuit.net_of.get(Tap(lower.id, FIRST)):
        return
    yield f"V{at} sent{at} 0 {level.sent.known:.6g}"
    yield f"R{at}_1 sent{at} far{at} {_ohm(upper.made or 0.0)}"
    yield f"R{at}_2 far{at} 0 {_ohm(lower.made or 0.0)}"


def _clamped(circuit: Circuit, level: LevelDesign, at: int) -> Iterator[str]:
    """Yield a resistor that leans on the diode inside the receiver, as the review reckons it: with one drop, whatever flows."""
    series, rail = circuit.pieces.get(f"{level.id}.series"), level.receiver.logic
    if series is None or rail is None or rail.value is None:
        return
    yield f"V{at} sent{at} 0 {level.sent.known:.6g}"
    yield f"R{at}_1 sent{at} far{at} {_ohm(series.made or 0.0)}"
    yield from _leads(f"{at}", f"far{at}", rail.known + CLAMP_V)


def _pulled(circuit: Circuit, level: LevelDesign, at: int) -> Iterator[str]:
    """Yield the pull-up of a MOSFET or diode shift: the MOSFET is off, the diode leads where the sender stands lower."""
    name = "pull_up" if level.school.id == "diode" else "pull_high" if _goes_up(level) else "pull_low"
    pull, rail = circuit.pieces.get(f"{level.id}.{name}"), level.receiver.logic
    if pull is None or rail is None or rail.value is None:
        return
    yield f"V{at} rail{at} 0 {rail.known:.6g}"
    yield f"R{at}_1 rail{at} far{at} {_ohm(pull.made or 0.0)}"
    yield f"R{at}_2 far{at} 0 {OPEN_OHM:.6g} ; the input"
    if level.school.id == "diode" and level.drop is not None:
        yield from _leads(f"{at}", f"far{at}", level.sent.known + level.drop.known)


def _goes_up(level: LevelDesign) -> bool:
    low, high = level.sender.logic, level.receiver.logic
    return low is not None and high is not None and low.value is not None and high.value is not None and low.value <= high.value


def _leads(name: str, net: str, held_v: float) -> Iterator[str]:
    """Yield a diode that has one drop whatever it carries: what is over some volts flows off."""
    yield f"D{name}_K {net} held{name} SHARP{name}"
    yield f"VK{name}_H held{name} 0 {held_v:.6g}"
    yield f".model SHARP{name} D(IS=1e-12 N=0.01)"


def _based(switch: SwitchDesign, host: NodeDesign, at: int) -> Iterator[str]:
    """Yield what a pin gives the base of a switch: through its resistor, into a base that stands at what it is reckoned with."""
    part, logic = switch.part, host.logic
    if switch.base is None or logic is None or logic.value is None or switch.pin.value is None or part.base_emitter_v is None:
        return
    yield f"V{at} pin{at} 0 {logic.known:.6g}"
    yield f"VM{at} pin{at} m{at} 0 ; its ammeter"
    yield f"R{at}_1 m{at} base{at} {_ohm(switch.series.known)}"
    yield f"VB{at} base{at} 0 {part.base_emitter_v.value:.6g}"
