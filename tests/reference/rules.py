"""The verdict rules again, by another road: fractions, every corner tried, nothing of oddlamp."""

from fractions import Fraction
from itertools import product
from typing import NamedTuple

F = Fraction


class Branch(NamedTuple):
    """An LED with its resistor: volts in mV, current in uA, so that all inputs are whole numbers."""

    drive_mv: tuple[int, int, int]
    forward_mv: tuple[int, int, int]
    resistor_ohm: int
    tolerance_percent: int
    wanted_ua: int
    limit_ua: int


def current_ua(drive_mv: F, forward_mv: F, ohm: F) -> F:
    """Return the current in uA, nothing below the drop."""
    return max(F(0), drive_mv - forward_mv) / ohm * 1000


def led_verdicts(branch: Branch) -> set[tuple[str, str]]:
    """Judge a branch: wanted against nominal, limit against nominal and against every corner."""
    nominal = current_ua(F(branch.drive_mv[1]), F(branch.forward_mv[1]), F(branch.resistor_ohm))
    spread = (1 - F(branch.tolerance_percent, 100), 1 + F(branch.tolerance_percent, 100))
    cases = [
        current_ua(F(drive), F(forward), branch.resistor_ohm * side)
        for drive, forward, side in product(
            (branch.drive_mv[0], branch.drive_mv[2]), (branch.forward_mv[0], branch.forward_mv[2]), spread
        )
    ]
    found: set[tuple[str, str]] = set()
    headroom_mv = branch.drive_mv[1] - branch.forward_mv[1]
    if headroom_mv > 0:
        if nominal > branch.limit_ua:
            found.add(("LED-OVER", "stop"))
        elif nominal > branch.wanted_ua or max(cases) > branch.limit_ua:
            found.add(("LED-OVER", "look"))
    if branch.drive_mv[1] - branch.forward_mv[0] <= 0:
        found.add(("LED-HEADROOM", "stop"))
    elif headroom_mv < 500 or min(cases) == 0 or max(cases) / min(cases) > 5:
        found.add(("LED-HEADROOM", "look"))
    return found


def divider_verdicts(
    drive_mv: tuple[int, int, int], upper: int, lower: int, percent: int, limit_mv: int, high_mv: tuple[F, F, F]
) -> set[tuple[str, str]]:
    """Judge what a divider lets through against a limit and a threshold (least, nominal, most)."""

    def out(volts: int, up: F, low: F) -> F:
        return volts * low / (up + low)

    nominal = out(drive_mv[1], F(upper), F(lower))
    sides = (1 - F(percent, 100), 1 + F(percent, 100))
    cases = [out(volts, upper * a, lower * b) for volts, a, b in product((drive_mv[0], drive_mv[2]), sides, sides)]
    found: set[tuple[str, str]] = set()
    if max(cases) > limit_mv:
        found.add(("LVL-OVER", "stop" if nominal > limit_mv else "look"))
    if nominal < high_mv[1]:
        found.add(("LVL-UNDER", "stop"))
    elif min(cases) < high_mv[2]:
        found.add(("LVL-MARGIN", "look"))
    return found


class Sent(NamedTuple):
    """A message: when it leaves the phone in us, and how many bytes it has."""

    t_us: int
    count: int


def arrivals_us(messages: list[Sent], *, air_us: int, packet: int, byte_us: F) -> list[F]:
    """Return when each byte is whole at the far end of the wire: packets fly one after the other, bytes queue."""
    pieces: list[tuple[F, int, int]] = []
    for order, message in enumerate(messages):
        left, number = message.count, 1
        while left > 0:
            pieces.append((F(message.t_us + air_us * number), order, min(packet, left)))
            left -= packet
            number += 1
    out: list[F] = []
    free = F(0)
    for lands, _, count in sorted(pieces):
        start = max(lands, free)
        out += [start + byte_us * (at + 1) for at in range(count)]
        free = start + byte_us * count
    return out


class Load(NamedTuple):
    """What one lamp asks of its pin, uA, and the group it is never together with."""

    nominal_ua: int
    most_ua: int
    apart: str | None


def sum_verdict(loads: list[Load], limit_ua: int) -> str | None:
    """Judge a sum over lamps that can be on together by trying every set of lamps that can."""
    groups = sorted({load.apart for load in loads if load.apart})
    free = [load for load in loads if not load.apart]
    picks = [[load for load in loads if load.apart == group] for group in groups]
    sums = [
        (sum(load.nominal_ua for load in (*free, *picked)), sum(load.most_ua for load in (*free, *picked)))
        for picked in product(*picks)
    ]
    if max(nominal for nominal, _ in sums) > limit_ua:
        return "stop"
    return "look" if max(most for _, most in sums) > limit_ua else None


def edge_verdict(ohm: F, farad: F, bit_s: F) -> str | None:
    """Judge an edge: ln 9 R C over a tenth of a bit, over a quarter."""
    rise = F(2_197_224_577_336_219, 10**15) * ohm * farad
    if rise <= bit_s / 10:
        return None
    return "stop" if rise > bit_s / 4 else "look"


def base_verdict(pin_mv: int, load_ua: int, base_ohm: int, carries_ua: int) -> str | None:
    """Judge an NPN switch: what it carries, then the forced gain; V_BE 800 mV."""
    if load_ua > carries_ua:
        return "stop"
    gain = F(load_ua) * base_ohm / (1000 * (pin_mv - 800))
    return "stop" if gain > 100 else "look" if gain > 20 else None
