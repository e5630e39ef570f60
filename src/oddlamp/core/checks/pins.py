"""Rules for pins: can it, is it free, and does it let the board start."""

from collections.abc import Iterator
from functools import lru_cache, partial
from typing import Final

from oddlamp.core.base import Same, Working, si
from oddlamp.core.checks.chips import onto_chips
from oddlamp.core.checks.fewer import brings_a_stop, fewer
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.design.passages import Obstacle
from oddlamp.core.english import and_list, plural
from oddlamp.core.parts.pins import Pin
from oddlamp.core.pins.assign import needs_in_words
from oddlamp.core.pins.board import hears_in_software, ports_of
from oddlamp.core.pins.instead import TROUBLED, other_pin, placed_on, question_of
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.signals import Needs

BOARDS_OFFERED: Final = 4
TRIED_MOST: Final = 60  # lines of a plan that is worked out on every board before one is offered; larger ones take too long


def told(design: Design, code: str) -> Iterator[tuple[PinDesign, Obstacle]]:
    """Walk the pins that have an obstacle of a code."""
    for signal in design.signals.values() if code in design.met else ():
        for it in design.passages[signal.line.id].obstacles:
            pin = signal.far_pin if it.case == "far_pin" else signal.pin
            if it.code == code and pin is not None:
                yield pin, it


def part_pin(design: Design, pin: PinDesign) -> Pin | None:
    """Return what the board says of a pin, or None where it has none of that label."""
    part = design.nodes[pin.host].part
    return part.pin(pin.label) if part and pin.label else None


def move_away(design: Design, pin: PinDesign) -> Iterator[Move]:
    """Offer the best free pin that brings no verdict of its own, with all else left where it is; where there is none, more room."""
    label = other_pin(design, pin)
    if label is not None:
        yield Move(label=f"Move {pin.name} to {label}", patch=at_path(pin.path, label))
    else:
        yield from without(design, [pin], is_calm=True)


def pin_can(design: Design, code: str = "PIN-CANT") -> Iterator[Breach]:
    """A pin can do what its line needs, and is on the board at all."""
    for pin, obstacle in told(design, code):
        it = part_pin(design, pin)
        needs = needs_in_words(pin.needs)
        what = f"There is no pin {pin.label} on this board." if it is None else SAYS[code].format(pin=pin.label, needs=needs)
        able = (
            "it is not there"
            if it is None
            else "it is the program's"
            if it.busy_with == "flash"
            else f"it can be {and_list([ability.replace('-', ' ') for ability in it.can])}"
        )
        yield Breach(
            severity=obstacle.severity,
            where=pin.key,
            stage=pin.stage,
            message=f"{pin.name} needs {needs}. {what}",
            working=(
                Working(
                    formula="a pin can do all that its line needs",
                    substituted=f"wanted: {and_list([need.replace('-', ' ') for need in sorted(pin.needs)])}; {able}",
                    source=it.source if it else "from-memory",
                ),
            ),
            ways=partial(move_away, design, pin),
            numbers={"missing": 1},
        )


# What is wrong with a pin that is on the board, by the code of the finding.
SAYS: Final = {
    "PIN-CANT": "Pin {pin} cannot be {needs}.",
    "PIN-PWM": "Pin {pin} is only on or off: none of the chip's timers reaches it.",
    "PIN-INPUT-ONLY": "Pin {pin} is an input and nothing else.",
    "PIN-ANALOG-ONLY": "Pin {pin} reads volts and nothing else: it is no digital pin.",
    "PIN-FLASH": "Pin {pin} belongs to the memory the program runs from: used, the board stops.",
}


def converter_reads(design: Design) -> Iterator[Breach]:
    """Volts are read by a converter that works beside the board's Wi-Fi."""
    for pin, obstacle in told(design, "PIN-ADC2"):
        it = part_pin(design, pin)
        if it is None:
            continue
        yield Breach(
            severity=obstacle.severity,
            where=pin.key,
            stage=pin.stage,
            message=f"Pin {pin.label} is read by converter {it.converter}, which reads nothing while the board's Wi-Fi runs: {pin.name} would stand still.",
            working=(
                Working(
                    formula="volts are read where the radio leaves the converter free",
                    substituted=f"converter {it.converter}, Wi-Fi",
                    source=it.source,
                ),
            ),
            ways=partial(move_away, design, pin),
            numbers={"converters": 1},
        )


def pin_used_once(design: Design) -> Iterator[Breach]:
    """A pin carries one line."""
    for pin, obstacle in told(design, "PIN-TWICE"):
        first = design.users[pin.host, pin.label or ""][0]
        yield Breach(
            severity=obstacle.severity,
            where=pin.key,
            stage=pin.stage,
            message=f"Pin {pin.label} is given twice: to {first.name} and to {pin.name}.",
            working=(Working(formula="one line a pin", substituted=f"{first.name}, {pin.name}", source="common-practice"),),
            ways=partial(move_away, design, pin),
            numbers={"lines": 2},
        )


def every_line_has_a_pin(design: Design) -> Iterator[Breach]:
    """Every line that needs a pin has one; lines of a host that want the same and have none are told of together."""
    left: dict[tuple[str, Needs], list[PinDesign]] = {}
    for pin, _ in told(design, "PIN-NO-FIT"):
        left.setdefault((pin.host, pin.needs), []).append(pin)
    for pins in left.values():
        pin = pins[-1]
        question = question_of(design, pin.host)
        if question is None:
            continue
        at = question.place_of(pin.line.id, pin.field)
        told_of = question.told_competing(at)
        others = f" and {plural(len(pins) - 1, 'line')} like it" if len(pins) > 1 else ""
        yield Breach(
            severity="stop",
            where=pin.key,
            stage=pin.stage,
            message=f"{pin.name}{others} {'have' if others else 'has'} no pin. {told_of.sentence}",
            working=(Working(formula="drop any one of them and the rest fit", substituted=told_of.names, source="hall-1935"),),
            ways=partial(_room_for, design, pins),
            numbers={"missing": len(pins)},
        )


def _room_for(design: Design, pins: list[PinDesign]) -> Iterator[Move]:
    """Offer what makes lines fit that have no pin: less asked of this board, another board, less altogether."""
    question = question_of(design, pins[-1].host)
    rivals = question.rivals(question.place_of(pins[-1].line.id, pins[-1].field)) if question is not None else set()
    competing = [pin for pin in design.pins if pin.host == pins[-1].host and pin.key in rivals]
    yield from fewer(design, pins, competing)
    yield from onto_chips(design, pins, competing)
    yield from without(design, pins)


def without(design: Design, pins: list[PinDesign], *, is_calm: bool = False) -> Iterator[Move]:
    """Offer boards with more room, or that what has no pin goes."""
    pin = pins[-1]
    yield from other_boards(design, pin.host, is_calm=is_calm)
    if len(pins) > 1:
        things = {it.line.owner for it in pins if it.line.owner[0] in ("lamps", "inputs")}
        if things:
            yield Move(label=f"Take {plural(len(things), 'thing')} without a pin out", patch=design.taking_out.without(things))
        return
    if pin.line.owner[0] == "lamps":
        lamp = design.lamps[pin.line.owner_id]
        yield Move(label=f"Take {lamp.label} out", patch=design.taking_out.without_lamps({lamp.id}))
    if pin.line.kind == "input":
        label = design.plan.inputs[pin.line.owner_id].label or pin.line.owner_id
        yield Move(label=f"Take {label} out", patch=design.taking_out.without_input(pin.line.owner_id))


def other_boards(design: Design, host: str, ports: int = 0, *, is_calm: bool = False) -> Iterator[Move]:
    """Offer the boards on which every line of a host finds a pin, the one with the least trouble first.

    ``ports`` is how many serial lines must be heard without the program's help, where only some pins hear in software;
    ``is_calm`` asks that no line lands on a pin that the upload, a strap or the like has a hold of.
    """
    yield from _other_boards(Same(design), host, ports, is_calm)


@lru_cache(maxsize=2)  # verdict after verdict of one design asks the same
def _other_boards(of: Same[Design], host: str, ports: int, is_calm: bool) -> tuple[Move, ...]:
    design, node = of.it, of.it.nodes[host]
    if node.node.kind != "board" or node.part is None or any(it.signal.is_built for it in design.pins if it.host == host):
        return ()
    logic_v, found = node.part.logic_voltage_v, []
    for board_id, board in design.catalog.boards.items():
        is_other = board_id != node.part.id and (not hears_in_software(board) or ports_of(board) >= ports)
        if is_other:
            placed = placed_on(design, host, board)
            landed = [board.pin(label or "") for label in placed.labels]
            is_troubled = any(it is not None and (it.strap is not None or it.busy_with in TROUBLED) for it in landed)
            if placed.level[0] == 0 and not (is_calm and is_troubled):
                found.append(((board.logic_voltage_v is None) != (logic_v is None), placed.level[2], board_id, board))
    moves: list[Move] = []
    for _, _, board_id, board in sorted(found, key=lambda it: it[:2]):
        patch = to_board(design, host, board_id)
        if len(moves) < BOARDS_OFFERED and not (len(design.signals) <= TRIED_MOST and brings_a_stop(design, patch)):
            moves.append(Move(label=f"Take the {board.label}", patch=patch))
    return tuple(moves)


def to_board(design: Design, host: str, board_id: str) -> Document:
    """Build the merge patch that moves a host's lines to another board: pins of the old one are let go."""
    settled = [it for it in design.pins if it.host == host and it.origin == "own" and not it.signal.is_built]
    letting_go = [at_path(it.path, None) for it in settled]
    return join_patches([at_path(("nodes", host, "choice"), {"part": board_id, "overrides": None}), *letting_go])


def upload_pins_are_free(design: Design) -> Iterator[Breach]:
    """Nothing hangs on the pins the upload uses."""
    for pin in design.pins:
        it = part_pin(design, pin)
        if it is not None and it.busy_with in ("upload", "usb") and not pin.line.is_usb:
            yield Breach(
                severity="look",
                where=pin.key,
                stage=pin.stage,
                message=f"Pin {pin.label} belongs to the USB upload: take the wire of {pin.name} off it before each upload.",
                working=(Working(formula="upload pins stay free", substituted=f"pin {pin.label}", source=it.source),),
                ways=partial(move_away, design, pin),
                numbers={"pins": 1},
            )


READS = {"low": "which reads as low", "high": "which reads as high", "unsure": "which is neither a sure low nor a sure high"}


def strap_lets_it_start(design: Design) -> Iterator[Breach]:
    """A pin read at start-up has the level the chip must find there."""
    for pin, obstacle in told(design, "PIN-STRAP"):
        it, host, starts = part_pin(design, pin), design.nodes[pin.host], design.signals[pin.signal_id].starts
        if it is None or starts is None or host.part is None or host.logic is None:
            continue
        low_v, high_v = (ratio.value * host.logic.known for ratio in (host.part.input_low_ratio, host.part.input_high_ratio))
        suffers = "the board may not start" if it.strap_stops else "it starts, but an upload or its first words may suffer"
        limits = Working(
            formula="low ≤ V_IL, high ≥ V_IH",
            substituted=f"V_IL {si(low_v, 'V')}, V_IH {si(high_v, 'V')}",
            source=host.part.input_low_ratio.source,
        )
        yield Breach(
            severity=obstacle.severity,
            where=pin.key,
            stage=pin.stage,
            message=f"Pin {pin.label} must be {it.strap} at start-up. {pin.name} holds it at {starts.text}, {READS[obstacle.case]}: {suffers}.",
            working=(*starts.working, limits),
            ways=partial(move_away, design, pin),
            numbers={"off_by_v": starts.known - low_v if it.strap == "low" else high_v - starts.known},
        )


RULES: Final = (
    Rule(
        "PIN-CANT",
        "line",
        pin_can,
        "the pin is not on the board, or cannot do what its line needs",
        "",
        "board part, from memory",
    ),
    Rule(
        "PIN-PWM",
        "line",
        partial(pin_can, code="PIN-PWM"),
        "a line wants PWM of a pin that no timer reaches",
        "",
        "board part, from memory",
    ),
    Rule(
        "PIN-INPUT-ONLY",
        "line",
        partial(pin_can, code="PIN-INPUT-ONLY"),
        "a line wants an output of a pin that is only an input",
        "",
        "board part, from memory",
    ),
    Rule(
        "PIN-ANALOG-ONLY",
        "line",
        partial(pin_can, code="PIN-ANALOG-ONLY"),
        "a line wants a digital pin and has one that only reads volts",
        "",
        "board part, from memory",
    ),
    Rule(
        "PIN-FLASH",
        "line",
        partial(pin_can, code="PIN-FLASH"),
        "a line hangs on a pin that belongs to the memory the program runs from",
        "",
        "board part, from memory",
    ),
    Rule(
        "PIN-ADC2",
        "line",
        converter_reads,
        "volts are read by a converter that reads nothing while the Wi-Fi of the board runs, and it does",
        "",
        "board part, from memory",
    ),
    Rule("PIN-TWICE", "whole", pin_used_once, "one pin carries two lines", "", "common practice"),
    Rule("PIN-NO-FIT", "line", every_line_has_a_pin, "a line is left without a pin", "", "board part, from memory"),
    Rule("PIN-UPLOAD", "line", upload_pins_are_free, "", "a line hangs on a pin the USB upload uses", "board part, from memory"),
    Rule(
        "PIN-STRAP",
        "line",
        strap_lets_it_start,
        "a pin read at start-up rests, between all that hangs on it and the board's own pull, past V_IL where it must be low or short of V_IH where it must be high",
        "the same at a pin that only matters for uploading or for the first words",
        "Kirchhoff's law; straps and pulls of the board part, from memory",
    ),
)
