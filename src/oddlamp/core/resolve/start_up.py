"""From power-on until the program runs: where every pin stands, what holds it there, and what the lamp on it does meanwhile."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, SwitchDesign
from oddlamp.core.design.lines import PinDesign, SignalDesign
from oddlamp.core.electrical.node import settles_v
from oddlamp.core.parts.pins import AtStart
from oddlamp.core.resolve.straps import board_pull, highest_v, hung_on, of_leds

# Of the current a lamp takes when its pin switches it on: under the first it is dark; from the second on it is on, half as
# light to the eye as with all of it (CIE 1976 L* of 50).
DARK_RATIO: Final = 0.002
ON_RATIO: Final = 0.184
SATURATED_RATIO: Final = 0.2  # a base that gets a fifth of its current still switches: the gain is several times the forced ten
NOISY: Final[Mapping[str, tuple[str, str]]] = {
    "relay": ("is switched on", "may click"),
    "buzzer": ("sounds", "may click"),
    "motor": ("turns", "may turn"),
}


@dataclass(frozen=True, slots=True)
class Waking:
    """One line until the program runs.

    ``stands_v`` is where its pin rests, None where it moves or where nothing holds it; ``because`` says what holds it;
    ``does`` what hangs on it does meanwhile; ``is_quiet`` whether that is nothing.
    """

    pin: PinDesign
    at_start: AtStart
    stands_v: float | None
    because: str
    does: str
    is_quiet: bool


def wakings(design: Design, host: str) -> Iterator[Waking]:
    """Work out every line that has a pin on a host, in plan order."""
    for signal in design.signals.values():
        for pin in (signal.pin, signal.far_pin):
            it = waking(design, signal, pin) if pin is not None and pin.host == host else None
            if it is not None:
                yield it


def key_at_start(design: Design, node_id: str) -> Waking | None:
    """Work out what the board does to a module's key pin while both get their power; None where no pin of a board holds it."""
    signal = design.signals.get(f"{node_id}.key")
    pin = signal.pin if signal is not None else None
    return waking(design, signal, pin) if signal is not None and pin is not None else None


def waking(design: Design, signal: SignalDesign, pin: PinDesign) -> Waking | None:
    """Work out one line at one of its pins; None where it has none, or what the pins stand at is not known."""
    node = design.nodes[pin.host]
    at = node.part.pin(pin.label) if node.part is not None and pin.label is not None else None
    if at is None or node.logic is None or node.logic.value is None:
        return None
    logic_v = node.logic.value
    line = signal.line
    lamp = design.lamps.get(line.owner_id) if line.owner[0] == "lamps" else None
    mine = hung_on(design.plan, design.nodes, design.rails, line, pin, signal.level, lamp)
    hangs = [*mine, *board_pull(at, logic_v)]
    moves: tuple[float, ...] = {"high": (logic_v,), "low": (0.0,), "floats": ()}.get(at.at_start, (0.0, logic_v))
    stands_v = moves[0] if len(moves) == 1 else None
    if at.at_start == "floats" and hangs:
        stands_v = settles_v(hangs, most_v=highest_v(design.rails, logic_v))
    because = {
        "high": "driven high by the chip",
        "low": "driven low by the chip",
        "pulses": "pulsed by the chip",
        "talks": "talked on by the chip",
        "floats": "held by " + " and ".join(it.name for it in hangs) if hangs else "held by nothing",
    }[at.at_start]
    does, is_quiet = _does(design, signal, pin, lamp, moves or (() if stands_v is None else (stands_v,)), logic_v)
    return Waking(pin, at.at_start, stands_v, because, does, is_quiet)


def _does(
    design: Design, signal: SignalDesign, pin: PinDesign, lamp: LampDesign | None, stands: Sequence[float], logic_v: float
) -> tuple[str, bool]:
    """Say what hangs on a line does while its pin stands at one of these volts, or nowhere sure."""
    moves = len(stands) > 1
    if lamp is None or pin.needs & {"digital-in", "analog-in"}:
        if "digital-out" not in pin.needs:
            return "is not read yet", True
        if signal.line.kind == "key":
            is_up = not stands or max(stands) > logic_v / 2
            return ("may start the module in its set-up mode", False) if is_up else ("lets the module start as usual", True)
        is_low = bool(stands) and max(stands) < logic_v / 2
        return (
            ("says what is no word of yours", False)
            if moves
            else ("stands low, which is no word" if is_low else "says nothing", True)
        )
    if signal.level is not None:
        return ("may flash at its first pixels", False) if moves else ("stays dark until it is told", True)
    parts = [_on_ratio(lamp, signal, volts, logic_v) for volts in stands]
    known = [it for it in parts if it is not None]
    verb, twitch = NOISY.get(lamp.kind, ("is on", "flickers"))
    if not stands and _is_gate(lamp, signal):
        return "may be on: nothing holds its gate", False
    if len(known) < len(parts):
        return "is not worked out", False
    most, least = max(known, default=0.0), min(known, default=0.0)
    if most < DARK_RATIO:
        return ("stays off" if lamp.kind in NOISY else "stays dark"), True
    if moves:
        return twitch, False
    if least >= ON_RATIO:
        return verb, False
    return ("may be on" if lamp.kind in NOISY else f"glows a little, {si(most, 'ratio')} of its current"), False


def _switch_of(lamp: LampDesign, signal: SignalDesign) -> tuple[ChannelDesign | None, SwitchDesign | None]:
    channel = next((it for it in lamp.channels if it.signal_id == signal.line.id), None)
    return channel, channel.switch if channel is not None else lamp.switch


def _is_gate(lamp: LampDesign, signal: SignalDesign) -> bool:
    _, switch = _switch_of(lamp, signal)
    return switch is not None and switch.base is None


def _on_ratio(lamp: LampDesign, signal: SignalDesign, volts: float, logic_v: float) -> float | None:
    """Return how much of its current a lamp takes while its pin stands at some volts, 0 to 1; None where that is not known."""
    channel, switch = _switch_of(lamp, signal)
    if switch is not None:
        return _switched_ratio(switch, volts, logic_v)
    if channel is not None:
        hang = next(of_leds(channel), None)
        if hang is None:
            return None
        full_a = abs(hang.brings_a(0.0 if channel.is_inverted else logic_v))
        return min(1.0, abs(hang.brings_a(volts)) / full_a) if full_a > 0 else 0.0
    load = lamp.load
    if load is None:
        return None
    if load.input is not None:
        if load.rail is None or load.rail.value is None:
            return None
        span_v = (load.rail.value if load.on_when == "low" else logic_v) - load.input.drop_v
        over_v = load.rail.value - volts - load.input.drop_v if load.on_when == "low" else volts - load.input.drop_v
        return min(1.0, max(0.0, over_v) / span_v) if span_v > 0 else 0.0
    return volts / logic_v


def _switched_ratio(switch: SwitchDesign, volts: float, logic_v: float) -> float:
    """A base is on from a part of its current; a gate is off under its threshold and on where its resistance is stated."""
    part = switch.part
    if part.base_emitter_v is not None:
        over_v, full_v = volts - part.base_emitter_v.value, logic_v - part.base_emitter_v.value
        base = max(0.0, over_v) / full_v if full_v > 0 else 0.0
        return min(1.0, base / SATURATED_RATIO)
    specified_v = part.gate_specified_v.value if part.gate_specified_v is not None else logic_v
    threshold_v = part.gate_threshold_v.low if part.gate_threshold_v is not None else 0.0
    if volts <= threshold_v:
        return 0.0
    return 1.0 if volts >= specified_v else max(DARK_RATIO, (volts - threshold_v) / (specified_v - threshold_v))
