"""Whether a message gets through, by another road: what each verdict makes of a hop, and the hops one after the other."""

from collections.abc import Iterable
from fractions import Fraction
from typing import NamedTuple

from tests.reference.rules import Branch, current_ua, divider_verdicts, led_verdicts

F = Fraction
# A verdict of these says that a part is harmed or has no room left; the message itself may still arrive.
ONLY_HARMS = {"LVL-OVER", "LED-OVER", "LED-HEADROOM", "PIN-CURRENT", "PIN-TWICE"}
SPEEDS_BD = {9600, 19_200, 38_400, 57_600, 115_200, 230_400, 460_800, 921_600, 1_382_400, 1200, 2400, 4800}
PIN_STOP_UA = 40_000
CHIP_PIN_STOP_UA = 25_000


class Scene(NamedTuple):
    """One lamp behind a board, a module and a phone, in whole numbers: mV, uA, ohm, percent.

    ``bus_pin`` is where the data line of the bus lies that a chip between board and lamp is told over; None without one.
    """

    supply_mv: tuple[int, int, int]
    branch: Branch
    upper_ohm: int
    lower_ohm: int
    percent: int
    heard_percent: int
    baud: int
    speaks_classic: bool
    is_master: bool
    is_grounded: bool
    pin: str
    bus_pin: str | None = None


def makes_of(verdicts: Iterable[tuple[str, str]]) -> str:
    """Say what verdicts make of a hop: a stop blocks it, a look may; what only harms may where it is a stop."""
    worst = 0
    for code, severity in verdicts:
        worst = max(worst, int(severity == "stop") if code in ONLY_HARMS else 1 + int(severity == "stop"))
    return ("passes", "may not", "does not")[worst]


def judge(scene: Scene) -> dict[str, str]:
    """Judge the radio, the way to the module, the way to the board, and the lamp's pin."""
    ground = [] if scene.is_grounded else [("LVL-GROUND", "stop")]
    speed = [] if scene.baud in SPEEDS_BD else [("MOD-BAUD-MISMATCH", "stop")]
    air = [] if scene.speaks_classic else [("MOD-PHONE", "stop")]
    air += [("MOD-ROLE", "stop")] if scene.is_master else []
    module_high = (F(3234 * 3, 4), F(3300 * 3, 4), F(3366 * 3, 4))
    to_module = divider_verdicts(scene.supply_mv, scene.upper_ohm, scene.lower_ohm, scene.percent, 3600, module_high)
    _, heard_mv, heard_most_mv = (F(volts * scene.heard_percent, 100) for volts in scene.supply_mv)
    to_board = [("LVL-UNDER", "stop")] if heard_mv > 3300 else [("LVL-MARGIN", "look")] if heard_most_mv > 3234 else []
    # Heard by the program: surely to 38 400 Bd at 16 MHz, hardly at 57 600, not above.
    to_board += [] if scene.baud <= 38_400 else [("PIN-SWSERIAL-FAST", "look" if scene.baud <= 57_600 else "stop")]
    lamp = list(led_verdicts(scene.branch))
    lamp += [] if scene.pin != "99" else [("PIN-CANT", "stop")]
    nominal_ua = current_ua(F(scene.branch.drive_mv[1]), F(scene.branch.forward_mv[1]), F(scene.branch.resistor_ohm))
    lamp += [("PIN-CURRENT", "stop")] if nominal_ua > (PIN_STOP_UA if scene.bus_pin is None else CHIP_PIN_STOP_UA) else []
    lamp += [("PIN-CANT", "stop")] if scene.bus_pin not in (None, "A4") else []
    return {
        "air": makes_of(air),
        "to module": makes_of([*to_module, *ground, *speed]),
        "to board": makes_of([*to_board, *ground, *speed]),
        "lamp": makes_of(lamp),
    }


def arrives(hops: Iterable[str]) -> str:
    """Say what comes of hops one after the other: the worst of them decides."""
    return max(hops, key=("passes", "may not", "does not").index)
