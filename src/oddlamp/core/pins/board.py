"""What a board means for a line: what a pin costs it, which it may not have, what lies together. Looked up once for a board."""

from collections.abc import Iterator
from functools import lru_cache

from oddlamp.core.base import Same
from oddlamp.core.parts.models import LogicPart
from oddlamp.core.parts.pins import Ability, Pin, PinCost, PinCosts
from oddlamp.core.plan.signals import Needs

Board = Same[LogicPart]


@lru_cache(maxsize=256)
def barred_at(board: Board, needs: Needs, deaf: tuple[str, ...], *, hears_serial: bool) -> frozenset[str]:
    """Name the pins a line may not have: read by a converter that is deaf, or no receiver, in software or of a port."""
    pins = board.it.usable_pins
    barred = {pin.label for pin in pins if is_deaf(pin, needs, deaf) or pin.busy_with == "reset"}
    if hears_serial and is_choosy(board):
        barred |= {pin.label for pin in pins if not pin.abilities & {"software-serial-in", "uart-rx"}}
    return frozenset(barred)


@lru_cache(maxsize=64)
def is_choosy(board: Board) -> bool:
    """Tell whether only some pins of a board hear serial words in software."""
    return any("software-serial-in" in pin.abilities for pin in board.it.usable_pins)


def hears_in_software(part: LogicPart) -> bool:
    """Tell whether serial words off its ports are heard by the program, on some pins only."""
    return is_choosy(Same(part))


@lru_cache(maxsize=256)
def costs_at(board: Board, needs: Needs, wishes: Needs, table: Same[PinCosts]) -> tuple[int, ...]:
    return tuple(sum(it.cost for it in against(pin, needs, wishes, table.it)) for pin in board.it.usable_pins)


def against(pin: Pin, needs: Needs, wishes: Needs, costs: PinCosts) -> Iterator[PinCost]:
    """Yield what speaks against a pin for a line that needs and wishes this."""
    busy = {
        "upload": costs.upload,
        "reset": costs.reset,
        "usb": costs.usb,
        "programming": costs.programming,
        "status-led": costs.status_led,
    }
    if pin.strap is not None:
        yield costs.strap
    # A pin that is no output has no pull of its own either: a button there would hang in the air.
    if "digital-in" in needs and "digital-out" not in pin.abilities:
        yield costs.no_pull
    if pin.busy_with in busy:
        yield busy[pin.busy_with]
    if not pin.is_quiet_at_start:
        yield costs.moves
    wanting = wishes - needs - pin.abilities
    yield from [costs.wish] * ("pwm" in wanting) + [costs.wish_interrupt] * ("interrupt" in wanting)
    spare = pin.abilities - needs - wishes
    if "pwm" in spare:
        yield costs.spare_pwm
    if spare & {"uart-rx", "uart-tx"}:
        yield costs.spare_serial
    if "analog-in" in spare:
        yield costs.spare_analog
    if "interrupt" in spare:
        yield costs.spare_interrupt


@lru_cache(maxsize=64)
def ports(board: Board) -> tuple[tuple[str, ...], ...]:
    """Pair the pins of each serial port: the one that speaks, the one that hears."""
    pins = board.it.usable_pins
    return tuple(
        (send.label, hear.label)
        for send in pins
        if "uart-tx" in send.abilities
        for hear in pins
        if "uart-rx" in hear.abilities and hear.port == send.port
    )


@lru_cache(maxsize=64)
def upload_ports(board: Board) -> frozenset[str]:
    """Name the pins of the serial port that lies behind a board's USB plug; none where its USB is in the chip."""
    return frozenset(pin.label for pin in board.it.usable_pins if pin.busy_with == "upload" and pin.port is not None)


@lru_cache(maxsize=64)
def abilities_of(board: Board) -> frozenset[Ability]:
    """Put together what the pins of a board can do."""
    return frozenset(it for pin in board.it.usable_pins for it in pin.abilities)


@lru_cache(maxsize=64)
def rows_of(board: Board, count: int) -> tuple[tuple[str, ...], ...]:
    """List what lies side by side along an edge of the board."""
    rows: dict[str, list[str]] = {}
    for pin in board.it.usable_pins:
        rows.setdefault(pin.row, []).append(pin.label)
    return tuple(tuple(row[at : at + count]) for row in rows.values() for at in range(len(row) - count + 1))


def ports_of(board: LogicPart) -> int:
    """Count the serial ports that nothing of the board's own uses."""
    free = {pin.label: pin for pin in board.usable_pins if pin.busy_with is None}
    return len({free[hear].port for _, hear in ports(Same(board)) if hear in free})


def is_deaf(pin: Pin, needs: Needs, deaf: tuple[str, ...]) -> bool:
    """Tell whether a line wants volts read at a pin whose converter reads nothing."""
    return "analog-in" in needs and pin.converter is not None and pin.converter in deaf
