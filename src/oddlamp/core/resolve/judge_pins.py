"""Whether a pin serves its line: what it can do, who else uses it or its timer, and whether serial words are heard there."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign, SignalDesign
from oddlamp.core.design.passages import Obstacle
from oddlamp.core.electrical.baud import BOTH_MOST, SIDE_LOOK, SIXTEEN_MHZ, SOFTWARE_LOOK_BD, SOFTWARE_SURE_BD, made_speed
from oddlamp.core.english import inner
from oddlamp.core.parts.models import BoardPart, LogicPart
from oddlamp.core.parts.pins import Pin
from oddlamp.core.pins.assign import deaf_converters, is_heard, needs_in_words, other_way, timer_taken, what_lacks
from oddlamp.core.pins.board import hears_in_software, is_deaf
from oddlamp.core.resolve.straps import judge_strap

PULLED_INPUTS: Final = ("button", "switch")
CLOCK_SLACK: Final = 1e-9  # 2 % that come from 8.16 and 8 MHz are 2 %
Output = tuple[str, str, str]


@dataclass(frozen=True)
class PinScene:
    """What the pins of a design share, looked up once: timers, their outputs, software ports, converters."""

    design: Design

    @cached_property
    def deaf(self) -> Mapping[str, tuple[str, ...]]:
        """Converters by host that read nothing while its Wi-Fi runs."""
        return deaf_converters(self.design.plan, self.design.nodes, self.design.airs)

    @cached_property
    def dimming(self) -> Mapping[Output, PinDesign]:
        """The first line on each output of each timer of each host."""
        first: dict[Output, PinDesign] = {}
        for pin in self.design.pins:
            part = self.part_pin(pin)
            if part is not None and "pwm" in pin.needs and part.timer and part.channel:
                first.setdefault((pin.host, part.timer, part.channel), pin)
        return first

    @cached_property
    def tones(self) -> Mapping[tuple[str, str], PinDesign]:
        """The line that takes a timer of a host."""
        found: dict[tuple[str, str], PinDesign] = {}
        for pin in self.design.pins:
            part = self.design.nodes[pin.host].part
            timer = timer_taken(self.design.plan, self.design.catalog, part, pin.line) if part is not None else None
            if timer is not None and pin.label is not None:
                found.setdefault((pin.host, timer), pin)
        return found

    @cached_property
    def software(self) -> Mapping[str, list[PinDesign]]:
        """The lines a host hears in software, in their order."""
        found: dict[str, list[PinDesign]] = {}
        for pin in self.design.pins:
            if pin.label is not None and self.is_software(pin):
                found.setdefault(pin.host, []).append(pin)
        return found

    def part_pin(self, pin: PinDesign) -> Pin | None:
        """What the board says of a pin."""
        part = self.design.nodes[pin.host].part
        return part.pin(pin.label) if part is not None and pin.label is not None else None

    def is_software(self, pin: PinDesign) -> bool:
        """Tell whether serial words are heard there by the program, on a board where that matters."""
        part, at = self.design.nodes[pin.host].part, self.part_pin(pin)
        if not is_heard(pin) or part is None or at is None or not hears_in_software(part):
            return False
        mate = self.design.signals.get(other_way(pin.line))
        sends = next((it for it in (mate.pin, mate.far_pin) if it is not None and it.host == pin.host), None) if mate else None
        there = self.part_pin(sends) if sends is not None else None
        is_port = "uart-rx" in at.abilities and there is not None and "uart-tx" in there.abilities and there.port == at.port
        return not is_port


def judge_pins(scene: PinScene, signal: SignalDesign) -> Iterator[Obstacle]:
    """Judge both ends of a line that stand on a pin."""
    design = scene.design
    for pin in (signal.pin, signal.far_pin):
        if pin is None:
            continue
        host = design.nodes[pin.host]
        if pin.label is None:
            yield Obstacle("PIN-NO-FIT", "stop", f"it has no pin: {pin.why}", pin.field)
            continue
        at = host.part.pin(pin.label) if host.part else None
        if at is None or host.part is None:
            printed = next((it.label for it in host.part.pins if str(it.chip) == pin.label), None) if host.part else None
            because = f"there is no pin {pin.label} on the {inner(host.label)}"
            if printed is None:
                yield Obstacle("PIN-CANT", "stop", because, pin.field)
            else:
                yield Obstacle("PIN-LABEL", "stop", f"{because}: the chip's own pin {pin.label} is printed {printed}", pin.field)
        elif at.busy_with == "flash":
            yield Obstacle("PIN-FLASH", "stop", f"pin {pin.label} belongs to the memory the program runs from", pin.field)
        elif not pin.needs <= at.abilities:
            yield Obstacle(what_lacks(at, pin.needs), "stop", f"pin {pin.label} cannot be {needs_in_words(pin.needs)}", pin.field)
        else:
            yield from _judge_use(scene, pin, at, host.part)
        first = design.users[pin.host, pin.label][0]
        if first.key != pin.key:
            yield Obstacle("PIN-TWICE", "stop", f"pin {pin.label} carries {first.name} too", pin.field)
        yield from judge_strap(signal, pin, host)


def _judge_use(scene: PinScene, pin: PinDesign, at: Pin, part: LogicPart) -> Iterator[Obstacle]:
    if is_deaf(at, pin.needs, scene.deaf.get(pin.host, ())):
        yield Obstacle("PIN-ADC2", "stop", f"converter {at.converter} reads nothing while the Wi-Fi runs", pin.field)
    if at.busy_with == "reset":
        said = f"pin {at.label} resets the chip, and is weak: what hangs there keeps it from starting"
        yield Obstacle("PIN-RESET", "stop", said, pin.field)
    if "pwm" in pin.needs and at.timer and at.channel:
        taker = scene.tones.get((pin.host, at.timer))
        if taker is not None and taker.key != pin.key:
            said = f"pin {at.label} is dimmed by timer {at.timer}, which {inner(taker.name)} takes for its tone"
            yield Obstacle("PIN-TIMER", "stop", said, pin.field)
        first = scene.dimming[pin.host, at.timer, at.channel]
        if first.key != pin.key and first.label != pin.label:
            said = f"pins {first.label} and {at.label} share one output of the chip: {inner(first.name)} and this dim alike"
            yield Obstacle("PIN-SLICE", "stop", said, pin.field)
    it = scene.design.plan.inputs.get(pin.line.owner_id) if pin.line.kind == "input" else None
    if it is not None and it.kind in PULLED_INPUTS and "digital-out" not in at.abilities and pin.signal.pull_ohm is None:
        said = f"pin {at.label} has no pull of its own: open, the contact leaves it in the air"
        yield Obstacle("PIN-PULL", "stop", said, pin.field)
    if is_heard(pin) and isinstance(part, BoardPart):
        yield from _judge_serial(scene, pin, at, part)


def _judge_serial(scene: PinScene, pin: PinDesign, at: Pin, part: BoardPart) -> Iterator[Obstacle]:
    """Words are heard by a port of the chip, or in software: only on some pins, one at a time, and not too fast."""
    is_software = scene.is_software(pin)
    if is_software:
        if "software-serial-in" not in at.abilities:
            yield Obstacle("PIN-SWSERIAL-RX", "stop", f"pin {at.label} hears no serial words in software", pin.field)
        first = scene.software[pin.host][0]
        if first.key != pin.key:
            said = f"the program hears one line in software at a time, and {inner(first.name)} is one already"
            yield Obstacle("PIN-SWSERIAL-TWO", "stop", said, pin.field)
    speed_bd = scene.design.wires[pin.line.owner_id].baud.known
    for it in judge_speed(part, speed_bd, is_software=is_software):
        yield replace(it, case=pin.field)


def judge_speed(part: BoardPart, speed_bd: float, *, is_software: bool) -> Iterator[Obstacle]:
    """Judge whether a board keeps a serial speed: its program, where that hears, and its clock with its divider."""
    clock = part.clock_hz
    if is_software:
        share = (clock.value if clock else SIXTEEN_MHZ) / SIXTEEN_MHZ
        if speed_bd > SOFTWARE_SURE_BD * share:
            is_lost = speed_bd > SOFTWARE_LOOK_BD * share
            sure, runs = si(SOFTWARE_SURE_BD * share, "Bd"), si(speed_bd, "Bd")
            said = f"in software words are heard surely up to {sure}, and this runs at {runs}"
            yield Obstacle("PIN-SWSERIAL-FAST", "stop" if is_lost else "look", said)
    if clock is not None:
        made = made_speed(clock.value, speed_bd) if part.divides_by_8_or_16 and not is_software else None
        off = max(clock.high / clock.value - 1, 1 - clock.low / clock.value) + (abs(made.error_ratio) if made else 0.0)
        is_double = made.is_double if made else False
        if off > SIDE_LOOK[is_double] - CLOCK_SLACK:
            said = (
                f"its speed may be {si(off, 'ratio')} off at this end, and less than {si(SIDE_LOOK[is_double], 'ratio')} is sure"
            )
            yield Obstacle("PIN-CLOCK", "stop" if off > BOTH_MOST[is_double] else "look", said)
