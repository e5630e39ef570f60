"""Designers: the best resistor from a series or a drawer, and the best divider pair by all constraints at once."""

import math
from bisect import bisect_left
from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import combinations_with_replacement
from typing import Final

from oddlamp.core.base import Model, si
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import NO_BURDEN, Burden, Divider, corners_v, divide, parallel_ohm, rise_time_s
from oddlamp.core.electrical.preferred import SERIES, Series, next_preferred, preferred

SLACK: Final = 1e-9
DECADES: Final = range(2, 6)


class FoundResistance(Model):
    """One resistor, or two in series or side by side."""

    resistance_ohm: float
    label: str


def best_from_drawer(drawer: Sequence[float], *, least_ohm: float) -> FoundResistance | None:
    """Return the value nearest above ``least_ohm`` that a drawer can give: one resistor, or two in series or side by side.

    One resistor is preferred to two unless two come at least twice as near.
    """
    wanted = least_ohm * (1 - SLACK)
    ones = [FoundResistance(resistance_ohm=ohm, label=si(ohm, "ohm")) for ohm in drawer if ohm >= wanted]
    twos = [
        found
        for one, other in combinations_with_replacement(sorted(set(drawer)), 2)
        for found in (
            FoundResistance(resistance_ohm=one + other, label=f"{si(one, 'ohm')} and {si(other, 'ohm')} in series"),
            FoundResistance(
                resistance_ohm=parallel_ohm(one, other), label=f"{si(one, 'ohm')} and {si(other, 'ohm')} side by side"
            ),
        )
        if found.resistance_ohm >= wanted
    ]
    one = min(ones, key=lambda it: it.resistance_ohm, default=None)
    two = min(twos, key=lambda it: it.resistance_ohm, default=None)
    if one is None or two is None:
        return one or two
    return two if 2 * (two.resistance_ohm - least_ohm) < one.resistance_ohm - least_ohm else one


@lru_cache(maxsize=1024)
def best_pair(least_ohm: float, series: Series = "E24") -> FoundResistance:
    """Return the two values of a series that come nearest above a resistance, in series or side by side. Source: IEC 60063."""
    found = []
    for mantissa in SERIES[series]:
        for decade in (math.floor(math.log10(least_ohm)) + it for it in (-1, 0, 1)):
            one = preferred(decade, mantissa)
            if one < least_ohm:
                other = next_preferred(least_ohm - one, series)
                found.append((one + other, f"{si(max(one, other), 'ohm')} and {si(min(one, other), 'ohm')} in series"))
            elif one > least_ohm * (1 + SLACK):
                other = next_preferred(1 / (1 / least_ohm - 1 / one), series)
                label = f"{si(one, 'ohm')} and {si(other, 'ohm')} side by side"
                found.append((parallel_ohm(one, other), label))
    ohm, label = min(found)
    return FoundResistance(resistance_ohm=ohm, label=label)


class FoundDivider(Model):
    """A divider that satisfies everything, with what it gives and how good it is."""

    upper_ohm: float
    lower_ohm: float
    voltage_v: Spread
    current_a: float
    rise_s: float
    spare_v: float
    why: str


def design_divider(
    drive_voltage_v: Spread,
    *,
    limit_v: float,
    high_v: float,
    tolerance_ratio: float,
    current_most_a: float = 2e-3,
    rise_most_s: float = math.inf,
    burden: Burden = NO_BURDEN,
    values: Series | Iterable[float] = "E24",
    most: int = 5,
) -> tuple[FoundDivider, ...]:
    """Search all pairs of a series, or of a drawer, for dividers that satisfy every constraint; the best first.

    Best is the pair whose worst cases stay farthest from both ends of the window; ties go to the smaller current.
    Args:
        drive_voltage_v: what the sender gives, V.
        limit_v: what the receiver may have at most, V.
        high_v: from where it hears a high, V.
        tolerance_ratio: of both resistors.
        current_most_a: what the divider may draw, A.
        rise_most_s: the longest edge, s.
        burden: what hangs on it: a pull-down, what the input leaks, input and wire.
        values: a series from 100 ohm to 1 Mohm, or the resistors of a drawer.
        most: how many to return.
    Source: divider and RC edge, as ``divide`` and ``rise_time_s``; IEC 60063.
    """
    ohms = [preferred(d, m) for d in DECADES for m in SERIES[values]] if isinstance(values, str) else sorted(set(values))
    t, found = tolerance_ratio, []

    for upper in ohms:
        # A larger lower resistor only gives more, so those that fit stand side by side: the first is searched by halves.
        def least_v(lower: float, upper: float = upper) -> float:
            return corners_v(drive_voltage_v, upper, lower, t, burden)[0]

        for lower in ohms[bisect_left(ohms, high_v, key=least_v) :]:
            worst_low, worst_high = corners_v(drive_voltage_v, upper, lower, t, burden)
            if worst_high > limit_v:
                break
            current_a = drive_voltage_v.most / (upper + burden.loaded_ohm(lower))
            rise_s = rise_time_s(resistance_ohm=parallel_ohm(upper, lower), capacitance_f=burden.capacitance_f)
            if current_a <= current_most_a and rise_s <= rise_most_s:
                found.append((min(limit_v - worst_high, worst_low - high_v), -current_a, upper, lower, rise_s))
    found.sort(reverse=True)
    out = []
    for spare_v, minus_a, upper, lower, rise_s in found[:most]:
        level = divide(drive_voltage_v, Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=t, burden=burden))
        why = f"stays {si(spare_v, 'V')} from both ends at worst, draws {si(-minus_a, 'A')}, edge {si(rise_s, 's', digits=2)}"
        out.append(
            FoundDivider(
                upper_ohm=upper,
                lower_ohm=lower,
                voltage_v=level.voltage_v,
                current_a=-minus_a,
                rise_s=rise_s,
                spare_v=spare_v,
                why=why,
            )
        )
    return tuple(out)


@lru_cache(maxsize=256)
def step_ladder(steps: int, *, is_even_to_the_eye: bool) -> tuple[int, ...]:
    """Return 8-bit duties for brightness steps: linear, or even in CIE 1976 lightness.

    Linear: floor(255 k/n + 1/2). To the eye: the duty nearest the luminance whose L* is 100 k/n.
    Source: ISO/CIE 11664-4; rounding the same in every language.
    """
    if not is_even_to_the_eye:
        return tuple(math.floor(255 * k / steps + 0.5) for k in range(1, steps + 1))
    duties = []
    for k in range(1, steps + 1):
        lightness = 100 * k / steps
        luminance = ((lightness + 16) / 116) ** 3 if lightness > 8 else lightness * (3 / 29) ** 3
        duties.append(math.floor(255 * luminance + 0.5))
    return tuple(duties)
