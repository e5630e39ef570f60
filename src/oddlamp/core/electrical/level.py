"""Levels between two supplies: straight wire, two-resistor divider, and pulls that fight."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.electrical.led import Spread

BODY_DIODE_V: Final = 0.6  # from memory
EXPONENT_MOST: Final = 600.0
DIVIDER: Final = "horowitz-hill"
_Corner = tuple[float, float, float, float]  # what is sent, V; upper and loaded lower, ohm; what leaks in, A


@dataclass(frozen=True, slots=True, kw_only=True)
class Burden:
    """What hangs on a line at its receiver: a resistor to ground, what the input leaks either way, input and wire."""

    load_ohm: float | None = None
    leakage_a: float = 0.0
    capacitance_f: float = 3e-11

    def loaded_ohm(self, ohm: float) -> float:
        """Return a resistance to ground with the load beside it, ohm."""
        return ohm if self.load_ohm is None else parallel_ohm(ohm, self.load_ohm)


NO_BURDEN: Final = Burden()


@dataclass(frozen=True, slots=True, kw_only=True)
class Divider:
    """Two resistors: ``upper_ohm`` from the sender, ``lower_ohm`` to ground; and what hangs on them."""

    upper_ohm: float
    lower_ohm: float
    tolerance_ratio: float
    burden: Burden = NO_BURDEN


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """A level that reaches a pin, V, with its working."""

    voltage_v: Spread
    working: tuple[Working, ...]


def divide(drive_voltage_v: Spread, divider: Divider) -> Level:
    """Return what a divider lets through, nominal and at the corners.

    Assumes a sender without resistance of its own. The input leaks up or down at worst, and nothing otherwise.
    Source: V_out = (V_in + I R1) R2 / (R1 + R2); highest with the upper low, the lower high, and the leak upwards.
    """
    burden, upper, lower = divider.burden, divider.upper_ohm, divider.lower_ohm
    beside = burden.loaded_ohm(lower)
    nominal = _middle_v(drive_voltage_v.value, upper, beside, 0.0)
    low, high = _corners(drive_voltage_v, upper, lower, divider.tolerance_ratio, burden)
    lower_end, upper_end = _middle_v(*low), _middle_v(*high)
    working = [_divided("V_out = V_in · R2 / (R1 + R2)", drive_voltage_v.value, upper, beside, 0.0, nominal)]
    if burden.load_ohm is not None:
        put_in = f"{si(lower, 'ohm')} ∥ {si(burden.load_ohm, 'ohm')} = {si(beside, 'ohm')}"
        working.insert(0, Working(formula="R2 with the pull-down beside it", substituted=put_in, source=DIVIDER))
    r1 = "low" if high[1] <= upper else "high"
    up, down = (", the input leaking up", ", the input leaking down") if burden.leakage_a else ("", "")
    working.append(_divided(f"at most: V_in,max, R1 {r1}, R2 high{up}", *high, upper_end))
    working.append(_divided(f"at least: V_in,min, R1 high, R2 low{down}", *low, lower_end))
    return Level(voltage_v=Spread(least=max(0.0, lower_end), value=nominal, most=upper_end), working=tuple(working))


def corners_v(drive: Spread, upper_ohm: float, lower_ohm: float, tolerance_ratio: float, burden: Burden) -> tuple[float, float]:
    """Return the least and the most a divider can let through, V. Source: as ``divide``."""
    low, high = _corners(drive, upper_ohm, lower_ohm, tolerance_ratio, burden)
    return max(0.0, _middle_v(*low)), _middle_v(*high)


def _corners(
    drive: Spread, upper_ohm: float, lower_ohm: float, tolerance_ratio: float, burden: Burden
) -> tuple[_Corner, _Corner]:
    """Return what stands at either end."""
    t, leak_a = tolerance_ratio, burden.leakage_a
    low, high = burden.loaded_ohm(lower_ohm * (1 - t)), burden.loaded_ohm(lower_ohm * (1 + t))
    # A leak through resistors so large that it alone lifts the middle over the sender lifts it most through the larger.
    upper = upper_ohm * (1 - t if leak_a * high <= drive.most else 1 + t)
    return (drive.least, upper_ohm * (1 + t), low, -leak_a), (drive.most, upper, high, leak_a)


def _middle_v(drive_v: float, upper_ohm: float, lower_ohm: float, leak_a: float) -> float:
    return (drive_v + leak_a * upper_ohm) * lower_ohm / (upper_ohm + lower_ohm)


def _divided(formula: str, voltage_v: float, upper: float, lower: float, leak_a: float, result: float) -> Working:
    sent = si(voltage_v, "V")
    if leak_a:
        sent = f"({sent} {'+' if leak_a > 0 else '−'} {si(abs(leak_a), 'A')} · {si(upper, 'ohm')})"
    put_in = f"{sent} · {si(lower, 'ohm')} / ({si(upper, 'ohm')} + {si(lower, 'ohm')}) = {si(result, 'V')}"
    if result < 0:
        put_in += ", held at ground"
    return Working(formula=formula, substituted=put_in, source=DIVIDER)


def straight(drive_voltage_v: Spread) -> Level:
    """Return what a plain wire lets through. Source: JESD8C, a lightly loaded CMOS output reaches its own rail."""
    put_in = f"{si(drive_voltage_v.value, 'V')}, at most {si(drive_voltage_v.most, 'V')}"
    return Level(
        voltage_v=drive_voltage_v,
        working=(Working(formula="V_OH = V_DD of the sender, lightly loaded", substituted=put_in, source="jesd8c"),),
    )


def first_fitting_divider(
    drive_voltage_v: Spread,
    *,
    pairs: Iterable[tuple[float, float]],
    tolerance_ratio: float,
    limit_v: float,
    high_v: float,
    burden: Burden = NO_BURDEN,
) -> Divider | None:
    """Return the first pair that stays at or under ``limit_v`` and over ``high_v`` at every corner, or None."""
    for upper_ohm, lower_ohm in pairs:
        divider = Divider(upper_ohm=upper_ohm, lower_ohm=lower_ohm, tolerance_ratio=tolerance_ratio, burden=burden)
        level = divide(drive_voltage_v, divider).voltage_v
        if level.most <= limit_v and level.least >= high_v:
            return divider
    return None


def pulled_level(*, up_to_v: float, up_ohm: float, down_ohm: float) -> Level:
    """Return where a pin rests between a pull-up and a pull-down, V. Source: divider."""
    level = up_to_v * down_ohm / (up_ohm + down_ohm)
    return Level(
        voltage_v=Spread(least=level, value=level, most=level),
        working=(_divided("V = V_pull · R_down / (R_up + R_down)", up_to_v, up_ohm, down_ohm, 0.0, level),),
    )


def zener_level(
    drive_voltage_v: Spread, *, series_ohm: float, tolerance_ratio: float, knee: Sequence[tuple[float, float]]
) -> Level:
    """Return what a series resistor and a zener let through, by the zener's own knee.

    Args:
        drive_voltage_v: what the sender gives, V.
        series_ohm: between sender and zener, ohm.
        tolerance_ratio: of the resistor.
        knee: pairs (current A, volts V), rising; between them volts go with the logarithm of the current.
    Source: Kirchhoff's law at the zener's node; knee from the part.
    """

    def settle(voltage_v: float, ohm: float) -> float:
        low, high = 0.0, voltage_v
        for _ in range(60):
            middle = (low + high) / 2
            if (voltage_v - middle) / ohm > zener_current_a(middle, knee):
                low = middle
            else:
                high = middle
        return (low + high) / 2

    t = tolerance_ratio
    nominal = settle(drive_voltage_v.value, series_ohm)
    most, least = settle(drive_voltage_v.most, series_ohm * (1 - t)), settle(drive_voltage_v.least, series_ohm * (1 + t))
    current_a = (drive_voltage_v.value - nominal) / series_ohm
    put_in = f"({si(drive_voltage_v.value, 'V')} − {si(nominal, 'V')}) / {si(series_ohm, 'ohm')} = {si(current_a, 'A')} through the zener"
    return Level(
        voltage_v=Spread(least=least, value=nominal, most=most),
        working=(
            Working(formula="(V_in − V_Z) / R = I_Z(V_Z), by the knee", substituted=put_in, source="from-memory"),
            Working(
                formula="at worst: both ends of supply and resistor",
                substituted=f"{si(least, 'V')} to {si(most, 'V')}",
                source="from-memory",
            ),
        ),
    )


def zener_current_a(voltage_v: float, knee: Sequence[tuple[float, float]]) -> float:
    """Return the current of a zener at a voltage, A: between its points by the logarithm, past them along the last stretch."""
    if voltage_v <= 0:
        return 0.0
    for (i1, v1), (i2, v2) in pairwise(knee):
        if voltage_v <= v2 or (i2, v2) == tuple(knee[-1]):
            # Far past the knee the exponential outgrows any number; more than can flow is enough to know.
            return math.exp(min(math.log(i1) + (voltage_v - v1) / (v2 - v1) * math.log(i2 / i1), EXPONENT_MOST))
    return knee[-1][0]


def own_rail(rail_v: Spread, why: str) -> Level:
    """Return a level that is pulled or driven to the receiver's own supply."""
    put_in = f"{si(rail_v.value, 'V')}, {si(rail_v.least, 'V')} to {si(rail_v.most, 'V')}"
    return Level(voltage_v=rail_v, working=(Working(formula=why, substituted=put_in, source="common-practice"),))


def rise_time_s(*, resistance_ohm: float, capacitance_f: float) -> float:
    """Return the 10 to 90 % rise time of a resistor into a capacitance, s: 2.2 R C. Source: RC edge, ln 9 = 2.197."""
    return math.log(9) * resistance_ohm * capacitance_f


def shifter_edge_s(
    *, pull_ohm: float, capacitance_f: float, rail_v: float, gate_v: float, threshold_v: float, sender_ohm: float, goes_up: bool
) -> float:
    """Return the 10 to 90 % rise time behind a one-MOSFET shifter, s.

    The MOSFET passes the sender's own rise up to its gate less its threshold. Its body diode points from the lower
    supply's side to the higher one's: only that way it passes up to a diode less, where that is more. The receiver's
    pull-up does the rest alone.
    Args:
        pull_ohm: on the receiver's side, ohm.
        capacitance_f: of input and wire, F.
        rail_v: the receiver's supply, V.
        gate_v: where the gate is tied, the lower of the two supplies, V.
        threshold_v: of the MOSFET, V.
        sender_ohm: what lifts the sender's side to the gate's supply: its output resistance, or its pull-up, ohm.
        goes_up: the receiver stands at the higher supply.
    Source: RC edges in two stretches, R C ln((V - V_1) / (V - V_2)).
    """
    begins_v, ends_v = 0.1 * rail_v, 0.9 * rail_v
    passed_v = min(max(shifter_passes_v(gate_v=gate_v, threshold_v=threshold_v, goes_up=goes_up), begins_v), ends_v)
    first_s = 0.0
    if passed_v > begins_v:
        together_ohm = parallel_ohm(pull_ohm, sender_ohm)
        towards_v = together_ohm * (rail_v / pull_ohm + gate_v / sender_ohm)
        first_s = together_ohm * capacitance_f * math.log((towards_v - begins_v) / (towards_v - passed_v))
    return first_s + pull_ohm * capacitance_f * math.log((rail_v - passed_v) / (rail_v - ends_v))


def shifter_passes_v(*, gate_v: float, threshold_v: float, goes_up: bool) -> float:
    """Return up to where a one-MOSFET shifter passes a rising edge by itself, V. Source: V_GS = V_th; body diode from memory."""
    return gate_v - (min(threshold_v, BODY_DIODE_V) if goes_up else threshold_v)


def pulled_between(level_v: Spread, *, source_ohm: Spread, pull_v: Spread, pull_ohm: float, tolerance_ratio: float) -> Level:
    """Return where a line stands that a sender drives through a resistance while a resistor pulls it to a rail.

    Every corner is tried: either end of both volts, of what the sender's level comes through, and of the pull.
    Args:
        level_v: what would arrive without the pull, V.
        source_ohm: what it comes through, ohm; all over 0.
        pull_v: the volts it is pulled to.
        pull_ohm: of the pull, ohm, within ``tolerance_ratio``.
    Source: Kirchhoff's law at the node, V = (V_s R_p + V_p R_s) / (R_s + R_p).
    """

    def stands_v(from_v: float, through_ohm: float, to_v: float, by_ohm: float) -> float:
        return (from_v * by_ohm + to_v * through_ohm) / (through_ohm + by_ohm)

    nominal = stands_v(level_v.value, source_ohm.value, pull_v.value, pull_ohm)
    ohms = [(through, pull_ohm * side) for through in (source_ohm.least, source_ohm.most) for side in (1 - tolerance_ratio, 1 + tolerance_ratio)]  # fmt: skip
    least = min(stands_v(level_v.least, through, pull_v.least, by) for through, by in ohms)
    most = max(stands_v(level_v.most, through, pull_v.most, by) for through, by in ohms)
    put_in = f"({si(level_v.value, 'V')} · {si(pull_ohm, 'ohm')} + {si(pull_v.value, 'V')} · {si(source_ohm.value, 'ohm')}) / ({si(source_ohm.value, 'ohm')} + {si(pull_ohm, 'ohm')}) = {si(nominal, 'V')}"
    return Level(
        voltage_v=Spread(least=least, value=nominal, most=most),
        working=(
            Working(formula="V = (V_s R_pull + V_pull R_s) / (R_s + R_pull)", substituted=put_in, source=DIVIDER),
            Working(
                formula="at worst: both ends of all four", substituted=f"{si(least, 'V')} to {si(most, 'V')}", source=DIVIDER
            ),
        ),
    )


def parallel_ohm(one_ohm: float, other_ohm: float) -> float:
    """Return two resistors side by side, ohm. Source: Ohm's law."""
    return one_ohm * other_ohm / (one_ohm + other_ohm)
