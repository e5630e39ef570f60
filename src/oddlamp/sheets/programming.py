"""How a program gets onto a board: what to connect, what to take off, in which order. Common practice, from memory."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.own_board import Route
from oddlamp.sheets.models import Panel

IN_THE_WAY: Final = ("upload", "usb", "programming")
STEPS: Final[dict[Route, tuple[str, ...]]] = {
    "usb": (
        "Take other supplies off, or make sure they may feed the board together with the plug.",
        "Plug the board into the computer and upload.",
    ),
    "usb-native": (
        "Take other supplies off, or make sure they may feed the board together with the plug.",
        "Plug the board into the computer and upload. Its USB is in the chip: where a program hides it, press reset (twice, on most) and upload at once.",
    ),
    "usb-drive": (
        "Hold the board's own button while you plug it into the computer: it shows up as a drive.",
        "Copy the program onto it, or upload: it starts by itself.",
    ),
    "usb-plugged-in": (
        "Start the upload with the board unplugged, and plug it in when asked, within a minute.",
        "It waits five seconds at each power-up for an upload before your program runs.",
    ),
    "adapter": (
        "Set the serial adapter to 3.3 V, and measure its TX while nothing is sent: some switches move only the supply.",
        "Feed the module from a supply that gives 400 mA; the adapter's own 3.3 V pin gives about 50. Join the grounds.",
        "Pull enable and reset up to 3.3 V.",
        "Wire the adapter's TX to RX and its RX to TX.",
        "Hold {boot} low while you switch the supply on: the module starts for an upload.",
        "Upload. Let {boot} go, and switch the supply off and on: your program runs.",
    ),
    "programmer": (
        "Wire the programmer's six wires: data to {spi-in}, data from {spi-out}, clock to {spi-clock}, reset to {reset}, supply and ground.",
        "A new chip first: burn the clock setting, once.",
        "Upload with the programmer, then take it off.",
    ),
    "over-the-air": (
        "Feed the board and keep it near: its program comes over the radio, chosen by the board's name.",
        "Upload, and wait until it starts again by itself.",
    ),
}


def programming_panel(design: Design, node: NodeDesign) -> Panel | None:
    """Lay the steps out in order; None where the host is no board."""
    if not isinstance(node.part, BoardPart):
        return None
    steps = tuple(_steps(design, node, node.part))
    return Panel(title="Putting the program on it", note=plural(len(steps), "step"), steps=steps, is_folded=True)


def _steps(design: Design, node: NodeDesign, board: BoardPart) -> Iterator[str]:
    in_the_way = [
        pin
        for pin in design.pins
        if pin.host == node.id and (at := board.pin(pin.label or "")) and at.busy_with in IN_THE_WAY and not pin.line.is_usb
    ]
    if in_the_way:
        yield "Switch every supply off before a wire is moved."
    yield from (f"Take {inner(pin.name)} off pin {pin.label}." for pin in in_the_way)
    named = _named(board)
    yield from (step.format_map(named) for step in STEPS[board.route])
    if in_the_way:
        yield "Switch everything off again."
    yield from (f"Put {inner(pin.name)} back on pin {pin.label}." for pin in in_the_way)


def _named(board: BoardPart) -> dict[str, str]:
    """Name the pins that steps speak of; in general words where the board tells none."""
    found = {it: pin.label for pin in reversed(board.pins) for it in pin.abilities}
    held = [pin for pin in board.pins if pin.strap == "high" and pin.strap_stops and pin.busy_with != "upload"]
    boot = next((pin.label for pin in sorted(held, key=lambda it: it.chip != 0)), "its pin for uploads")
    reset = next((pin.label for pin in board.pins if pin.busy_with == "reset"), "its reset")
    spi = {it: found.get(it, f"its {it.replace('-', ' ')} pin") for it in ("spi-in", "spi-out", "spi-clock")}
    return {**spi, "boot": boot, "reset": reset}
