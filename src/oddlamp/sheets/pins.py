"""The sheet of a board's pins: the outline with what is used, and every line that needs a pin."""

from collections.abc import Iterator, Mapping
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Finding, Move
from oddlamp.core.checks.pins import to_board
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import plural
from oddlamp.core.parts.models import BoardPart, LogicPart
from oddlamp.core.parts.pins import Pin
from oddlamp.core.pins.assign import needs_in_words
from oddlamp.core.pins.instead import question_of
from oddlamp.core.plan.document import at_path
from oddlamp.core.resolve.passages import clock_chip
from oddlamp.sheets.chip import chip_moves, chip_panel
from oddlamp.sheets.marks import State
from oddlamp.sheets.models import Choice, Opens, Option, OutlinePicture, OutlinePin, Panel, PinRow, Sheet
from oddlamp.sheets.opening import add_input_moves, add_lamp_moves
from oddlamp.sheets.parts import PARTS, own_move
from oddlamp.sheets.programming import programming_panel
from oddlamp.sheets.variants import board_variants
from oddlamp.sheets.waking import takings_panel, waking_panel


def pins_sheet(design: Design, node: NodeDesign, findings: tuple[Finding, ...]) -> Sheet:
    """Build the sheet of one host's pins."""
    mine = [pin for pin in design.pins if pin.host == node.id]
    without = [pin for pin in mine if pin.label is None]
    bad = {
        finding.where: finding.severity
        for finding in reversed(findings)
        if finding.code.startswith("PIN-") and finding.accepted is None
    }
    wrong = [pin for pin in mine if pin.label is not None and bad.get(pin.key) == "stop"]
    if without:
        sentence = f"{plural(len(without), 'line')} of {len(mine)} {'has' if len(without) == 1 else 'have'} no pin."
    elif wrong:
        sentence = f"{wrong[0].name} cannot stay on pin {wrong[0].label}."
    else:
        sentence = (
            f"All {len(mine)} lines have a pin."
            if len(mine) > 1
            else "The one line has its pin."
            if mine
            else "No line needs a pin yet."
        )
    proposed = sum(pin.origin == "proposed" and pin.label is not None for pin in mine)
    part = node.part
    used = {it.label for it in mine}
    free = [pin.label for pin in part.usable_pins if pin.label not in used and pin.busy_with != "reset"] if part else []
    is_clock = clock_chip(design, node.id) is not None
    left = f"{len(free)} free" if len(free) > FREE_LISTED else f"free: {', '.join(free) or 'none'}"
    detail = f"{part.label if part else node.label}. {plural(proposed, 'pin')} proposed; {left}."
    if is_clock and part is not None:
        sentence, detail = "It tells the board what time it is.", f"{part.label}. {part.summary}"
    return Sheet(
        stage=f"pins.{node.id}",
        kind="pins",
        title=node.label,
        sentence=sentence,
        detail=detail,
        pictures=(outline(part, _used(mine), bad, _contested(design, node.id, without)),)
        if part is not None and part.pins
        else (),
        panels=tuple(it for it in _panels(design, node) if it is not None),
        pins=tuple(_row(design, node, pin) for pin in mine),
        moves=(
            *_anew(design, node.id, mine),
            *(() if is_clock else add_lamp_moves(design, node.id)),
            *(add_input_moves(design, node.id) if node.node.kind == "board" else ()),
            *(chip_moves(design, node) if node.node.kind != "module" else ()),
            *(board_variants(design, node) if node.node.kind == "board" else ()),
        ),
    )


def _panels(design: Design, node: NodeDesign) -> Iterator[Panel | None]:
    if node.node.kind == "chip":
        yield chip_panel(design, node)
    elif node.node.kind == "board":
        yield _board_panel(design, node)
        yield waking_panel(design, node)
        yield takings_panel(design, node)
        yield programming_panel(design, node)


FREE_LISTED: Final = 16
CONTESTED_MOST: Final = 3  # lines without a pin whose rivals are looked for
CAN: Final = {
    "digital-out": "output",
    "digital-in": "input",
    "analog-in": "reads volts",
    "analog-out": "makes volts",
    "software-serial-in": "receives software serial",
    "interrupt": "interrupt",
    "two-wire-data": "two-wire data",
    "two-wire-clock": "two-wire clock",
    "spi-out": "SPI out",
    "spi-in": "SPI in",
    "spi-clock": "SPI clock",
}


def able(pin: Pin, deaf_on_wifi: tuple[str, ...], timer_hz: Mapping[str, float] = {}) -> str:
    """Say what a pin can do, which part of the chip does it, and whether that part works beside the board's Wi-Fi."""
    if pin.busy_with == "flash":
        return "nothing of yours"
    said = []
    for it in pin.can:
        match it:
            case "pwm":
                rate = timer_hz.get(pin.timer or "")
                at = f", {si(rate, 'Hz')}" if rate else ""
                said.append(f"PWM (timer {pin.timer}, output {pin.channel}{at})" if pin.timer else "PWM")
            case "uart-rx" | "uart-tx":
                said.append(f"serial port {pin.port} {'receives' if it == 'uart-rx' else 'sends'}")
            case "analog-in":
                never = ", not while Wi-Fi runs" if pin.converter in deaf_on_wifi else ""
                said.append(CAN[it] + (f" (converter {pin.converter}{never})" if pin.converter else ""))
            case _:
                said.append(CAN[it])
    number = f"chip pin {pin.chip}: " if pin.chip is not None and str(pin.chip) != pin.label else ""
    return number + ", ".join(said)


BUSY: Final = {
    "upload": "USB upload",
    "status-led": "status LED",
    "flash": "the program's memory",
    "reset": "resets the chip",
    "usb": "a line of the USB plug",
    "programming": "it is programmed over it",
}


def remark(pin: Pin) -> str:
    """Say what hangs on a pin or happens there."""
    said = []
    if pin.strap is not None:
        said.append(f"must be {pin.strap} at start-up")
    if pin.busy_with is not None:
        said.append(BUSY[pin.busy_with])
    if not pin.is_quiet_at_start:
        said.append("moves at start-up")
    return ", ".join(said)


def outline(
    part: LogicPart, used: Mapping[str, list[PinDesign]], bad: Mapping[str, str], contested: frozenset[str] = frozenset()
) -> OutlinePicture:
    """Draw a board from above.

    Args:
        part: the board.
        used: the lines that hang on its pins, by their label.
        bad: the worst verdict of each line, by its key.
        contested: the pins that more lines want than there are.
    """
    pins = []
    for pin in part.pins:
        lines = used.get(pin.label, [])
        marks = {bad.get(line.key) for line in lines}
        state: State = "stop" if "stop" in marks else "look" if "look" in marks else "clear"
        pins.append(
            OutlinePin(
                label=pin.label,
                row=pin.row,
                line=" and ".join(line.name for line in lines),
                state=state,
                is_proposed=any(line.origin == "proposed" for line in lines),
                remark=remark(pin),
                can=able(pin, part.deaf_on_wifi, part.timer_hz if isinstance(part, BoardPart) else {}),
                is_contested=pin.label in contested,
            )
        )
    text = "; ".join(f"{pin.label}: {pin.line}" for pin in pins if pin.line)
    note = f"Ringed: the {plural(len(contested), 'pin')} that too many lines want." if contested else ""
    return OutlinePicture(
        text=text or "No pin is used yet", label=part.label, note=note, has_plug=isinstance(part, BoardPart), pins=tuple(pins)
    )


def _contested(design: Design, host: str, without: list[PinDesign]) -> frozenset[str]:
    question = question_of(design, host) if without else None
    if question is None:
        return frozenset()
    return frozenset().union(*(question.contested(question.place_of(pin.line.id, pin.field)) for pin in without[:CONTESTED_MOST]))


def _used(mine: list[PinDesign]) -> dict[str, list[PinDesign]]:
    used: dict[str, list[PinDesign]] = {}
    for line in mine:
        used.setdefault(line.label or "", []).append(line)
    return used


def _board_panel(design: Design, node: NodeDesign) -> Panel:
    options = tuple(
        Option(
            label=board.label,
            detail=board.summary,
            patch=to_board(design, node.id, board_id),
            is_chosen=node.picked is not None and node.picked.id == board_id,
        )
        for board_id, board in design.catalog.boards.items()
    )
    origin = node.picked.origin if node.picked else "proposed"
    own = node.picked.id if node.picked is not None and node.picked.id in design.plan.parts else None
    return Panel(
        title="",
        choices=(Choice(label="Board", origin=origin, because=node.picked.why if node.picked else None, options=options),),
        moves=(own_move(design, "boards", node.part, ("nodes", node.id, "choice")),) if isinstance(node.part, BoardPart) else (),
        opens=Opens(label="Its pin table", stage=f"{PARTS}.{own}") if own is not None else None,
    )


def next_best(design: Design, key: str) -> str:
    """Say what a line would have if not its pin; empty where its pin is the user's own, or there is none."""
    pin = next((it for it in design.pins if it.key == key), None)
    question = question_of(design, pin.host) if pin is not None and pin.origin != "own" and pin.label is not None else None
    return question.next_best(question.place_of(pin.line.id, pin.field)) if pin is not None and question is not None else ""


def _anew(design: Design, host: str, mine: list[PinDesign]) -> tuple[Move, ...]:
    """Offer to give the proposed pins anew, where those that stayed are no longer the best."""
    question = question_of(design, host)
    if question is None or question.is_best_anew():
        return ()
    shown = {pin.key: None for pin in mine if pin.key in design.plan.shown_pins}
    return (Move(label="Give the proposed pins anew", patch={"shown_pins": shown}),)


def _row(design: Design, node: NodeDesign, pin: PinDesign) -> PinRow:
    able = [it for it in node.part.pins if pin.needs <= it.abilities] if node.part else []
    taken = {
        label: others[-1]
        for (host, label), users in design.users.items()
        if host == node.id and (others := [other for other in users if other is not pin])
    }
    path = pin.path
    options = [
        Option(
            label=it.label,
            detail=", ".join(filter(None, (f"used by {taken[it.label].name}" if it.label in taken else "", remark(it)))),
            patch=at_path(path, it.label),
            is_chosen=it.label == pin.label,
        )
        for it in able
    ]
    if pin.label is not None and not any(option.is_chosen for option in options):
        options.insert(
            0, Option(label=pin.label, detail="cannot do this", state="stop", patch=at_path(path, pin.label), is_chosen=True)
        )
    if pin.origin == "own":
        options.append(Option(label="Let it be proposed", detail="", patch=at_path(path, None)))
    at = node.part.pin(pin.label) if node.part and pin.label else None
    return PinRow(
        id=pin.key,
        label=pin.name,
        needs=needs_in_words(pin.needs),
        pin=Choice(label=f"Pin for {pin.name}", origin=pin.origin, because=pin.why or None, options=tuple(options)),
        remark=remark(at) if at else "",
    )
