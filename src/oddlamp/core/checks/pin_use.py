"""Rules for what a pin is shared with: timers and their outputs, serial words in software, and what the board does there."""

from collections.abc import Callable, Iterator
from functools import partial
from typing import Final, NamedTuple

from oddlamp.core.base import Working, si
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.pins import move_away, other_boards, part_pin, told, without
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.parts.pins import Pin
from oddlamp.core.pins.assign import is_heard
from oddlamp.core.pins.board import ports_of
from oddlamp.core.pins.instead import may_not_twitch
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.core.resolve.judge_pins import PinScene, judge_speed
from oddlamp.core.resolve.start_up import waking

PULL_OHM: Final = 10_000.0
SPEEDS_BD: Final = (9_600, 19_200, 38_400, 57_600)
TUNED_RATIO: Final = 0.01


class _Told(NamedTuple):
    """What the rules here say beside the sentence that comes with a judgement."""

    formula: str
    ways: Callable[[Design, PinDesign], Iterator[Move]]


def _pulled(design: Design, pin: PinDesign) -> Iterator[Move]:
    """Offer a resistor to the supply the board's own pins stand at, then another pin."""
    host = design.nodes[pin.host]
    volts = host.logic.known if host.logic is not None and host.logic.value is not None else 0.0
    rail = next(
        (it for it in design.rails.values() if it.voltage.value is not None and abs(it.voltage.value - volts) < 0.2), None
    )
    to = rail.id if rail is not None else "ground"
    label = f"Fit 10 kΩ from {pin.name} to {rail.label if rail is not None else 'ground'}"
    yield Move(label=label, patch=at_path(pin.line.path, {"pull_ohm": PULL_OHM, "pull_to": to}))
    yield from move_away(design, pin)


def _slower(design: Design, pin: PinDesign, *, at_any_clock: bool = True) -> Iterator[Move]:
    """Offer speeds that are heard surely, the fastest first: a slow one every module has and every chip makes."""
    scene, host = PinScene(design), design.nodes[pin.host].part
    if not isinstance(host, BoardPart):
        return
    now = design.wires[pin.line.owner_id].baud.known
    slower = {bd: list(judge_speed(host, float(bd), is_software=scene.is_software(pin))) for bd in SPEEDS_BD if bd < now}
    sure = [bd for bd, found in slower.items() if not found]
    if not sure and at_any_clock:
        sure = [bd for bd, found in slower.items() if {it.code for it in found} == {"PIN-CLOCK"}]
    for speed in sure[-2:][::-1]:
        yield Move(label=f"Run it at {si(speed, 'Bd')}", patch=at_path(("links", pin.line.owner_id, "baud_rate_bd"), speed))


def _truer(design: Design, pin: PinDesign) -> Iterator[Move]:
    """Offer a slower speed, then a clock that was tuned, where the clock is what is off."""
    yield from _slower(design, pin, at_any_clock=False)
    part = design.nodes[pin.host].part
    if isinstance(part, BoardPart) and part.clock_hz is not None and part.clock_hz.high > part.clock_hz.value * (1 + TUNED_RATIO):
        value = part.clock_hz.value
        figure = {"value": value, "least": value * (1 - TUNED_RATIO), "most": value * (1 + TUNED_RATIO)}
        patch = at_path(("nodes", pin.host, "choice"), {"part": part.id, "overrides": {"clock_hz": figure}})
        yield Move(label="Tune its clock to 1 %, and note that", patch=patch)


def _to_ports(design: Design, pin: PinDesign) -> Iterator[Move]:
    """Offer pins given anew where the board has ports to spare, else a board that has."""
    heard = [it for it in design.pins if it.host == pin.host and is_heard(it)]
    part = design.nodes[pin.host].part
    wires = [it for it in design.pins if it.host == pin.host and it.line.kind == "wire" and it.origin == "own"]
    if part is not None and ports_of(part) >= len(heard) and wires and not any(it.signal.is_built for it in wires):
        yield Move(label="Let the serial lines take its ports", patch=join_patches(at_path(it.path, None) for it in wires))
    yield from other_boards(design, pin.host, len(heard))


def _to_printed(design: Design, pin: PinDesign) -> Iterator[Move]:
    """Offer the pin whose number in the chip was typed for its label."""
    part = design.nodes[pin.host].part
    printed = next((it.label for it in part.pins if str(it.chip) == pin.label), None) if part else None
    if printed is not None:
        yield Move(label=f"Take {printed}, the chip's pin {pin.label}", patch=at_path(pin.path, printed))


def _off_the_timer(design: Design, pin: PinDesign) -> Iterator[Move]:
    """Offer another pin that no tone takes the timer of, or a board with more; all other pins may hang on the same timer."""
    return that_clear(design, "PIN-TIMER", pin.key, [*move_away(design, pin), *without(design, [pin], is_calm=True)])


SAID: Final = {
    "PIN-TIMER": _Told("a timer makes a tone, or dims", _off_the_timer),
    "PIN-SLICE": _Told("each output of a timer dims one line", move_away),
    "PIN-PULL": _Told("an open contact is held by a pull, inside or outside", _pulled),
    "PIN-RESET": _Told("what resets the chip carries nothing else", move_away),
    "PIN-LABEL": _Told("pins are named as they are printed", _to_printed),
    "PIN-SWSERIAL-RX": _Told("software serial hears where a change wakes the program", move_away),
    "PIN-SWSERIAL-TWO": _Told("one line is heard in software at a time", _to_ports),
    "PIN-SWSERIAL-FAST": _Told("38 400 Bd at 16 MHz, in proportion to the clock", _slower),
    "PIN-CLOCK": _Told("clock error + divider error: one side ≤ 2 % (1.5 % at double speed), both ≤ 4.5 % (3.9 %)", _truer),
}


def judged(design: Design, code: str) -> Iterator[Breach]:
    """Tell of every judgement of a code at a pin, in its own words."""
    for pin, it in told(design, code):
        said, part = SAID[code], part_pin(design, pin)
        yield Breach(
            severity=it.severity,
            where=pin.key,
            stage=pin.stage,
            message=f"{pin.name}: {it.because}.",
            working=(
                Working(formula=said.formula, substituted=it.because, source=part.source if part is not None else "from-memory"),
            ),
            ways=partial(said.ways, design, pin),
            numbers={"lines": 1},
        )


def _at(design: Design, busy: str) -> Iterator[tuple[PinDesign, Pin]]:
    for pin in design.pins:
        it = part_pin(design, pin)
        if it is not None and it.busy_with == busy:
            yield pin, it


def _hangs(design: Design, busy: str, sentence: str, formula: str) -> Iterator[Breach]:
    """Tell of what is heard or read at a pin that something of the board's own hangs on."""
    for pin, it in _at(design, busy):
        if pin.needs & {"digital-in", "analog-in"}:
            yield Breach(
                severity="look",
                where=pin.key,
                stage=pin.stage,
                message=sentence.format(name=pin.name, pin=pin.label),
                working=(Working(formula=formula, substituted=f"pin {pin.label}", source=it.source),),
                ways=partial(move_away, design, pin),
                numbers={"pins": 1},
            )


def programming_lets_go(design: Design) -> Iterator[Breach]:
    """What drives a pin that a bare chip is programmed over lets go of it, or is unplugged."""
    sentence = "{name} holds pin {pin} against the programmer: take it off while the chip is programmed."
    yield from _hangs(design, "programming", sentence, "the programmer drives its wires alone")


def led_pulls(design: Design) -> Iterator[Breach]:
    """The board's own LED pulls at what is read beside it."""
    sentence = "{name} is read at pin {pin}, where the board's own LED and its resistor pull."
    yield from _hangs(design, "status-led", sentence, "nothing pulls at what is read")


def nothing_twitches(design: Design) -> Iterator[Breach]:
    """What clicks, sounds or burns stays off from power-on until the program runs."""
    for pin in design.pins:
        at, line = part_pin(design, pin), pin.line
        it = waking(design, design.signals[line.id], pin) if at is not None and may_not_twitch(design.plan, line) else None
        if at is None or it is None or it.is_quiet:
            continue
        if it.at_start == "floats" and it.stands_v is None:
            continue  # where nothing at all holds a gate, the verdict on its pull-down tells it
        yield Breach(
            severity="look",
            where=pin.key,
            stage=pin.stage,
            message=f"Before your program runs, pin {at.label} is {it.because}: {design.lamps[line.owner_id].label} {it.does}.",
            working=(
                Working(
                    formula="off from power-on until the program runs",
                    substituted=f"pin {at.label} {it.because}" + ("" if it.stands_v is None else f", {si(it.stands_v, 'V')}"),
                    source=at.source,
                ),
            ),
            ways=partial(move_away, design, pin),
            numbers={"pins": 1},
        )


def _rule(code: str, stop: str, look: str = "") -> Rule:
    return Rule(code, "line", partial(judged, code=code), stop, look, "board part, from memory")


RULES: Final = (
    _rule("PIN-LABEL", "a pin is named by the chip's own number, and the board prints another label"),
    _rule("PIN-TIMER", "a line is dimmed by a timer that a tone takes"),
    _rule("PIN-SLICE", "two lines are dimmed by pins that share one output of a timer"),
    _rule("PIN-PULL", "a contact without a pull resistor on a pin that has none inside"),
    _rule("PIN-RESET", "a line hangs on the pin that resets the chip"),
    _rule("PIN-SWSERIAL-RX", "serial words are to be heard in software on a pin that cannot"),
    _rule("PIN-SWSERIAL-TWO", "a second line is heard in software"),
    _rule("PIN-SWSERIAL-FAST", "heard in software past 57 600 Bd at 16 MHz, in proportion to the clock", "past 38 400 Bd"),
    Rule(
        "PIN-CLOCK",
        "line",
        partial(judged, code="PIN-CLOCK"),
        "the speed is off by more than 4.5 % (3.9 % at double speed) at the board's end alone",
        "by more than 2 % (1.5 %)",
        "8-bit chips' serial tables; limits from memory",
    ),
    Rule("PIN-ISP", "line", programming_lets_go, "", "something drives a pin the chip is programmed over", "from memory"),
    Rule("PIN-LED", "line", led_pulls, "", "something is read at the pin of the board's own LED", "from memory"),
    Rule(
        "PIN-BOOT-TWITCH",
        "line",
        nothing_twitches,
        "",
        "a relay, strip or buzzer that is on, or may be, before the program runs",
        "board part, from memory",
    ),
)
