"""How long a charge lasts, what holds a rail up for a moment, and how warm a regulator gets."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Final, NamedTuple

SECONDS_PER_HOUR: Final = 3600.0


class Lasts(NamedTuple):
    """How long a source lasts: at best, with all of its charge, and down to where it is of no use; the share of it used till then."""

    at_best_s: float
    lasts_s: float
    used_ratio: float


def used_until(curve: Sequence[tuple[float, float]], cutoff_v: float) -> float:
    """Return the share of a charge that is used up when a source falls to some volts; 1 where it never does, 0 where it begins under them.

    Args:
        curve: shares used and volts, the first full; straight between them.
        cutoff_v: the volts under which it is of no use, at the source, its own loss included.
    """
    for (used, volts), (more, lower) in pairwise(curve):
        if lower < cutoff_v <= volts:
            return used + (more - used) * (volts - cutoff_v) / (volts - lower)
    return 0.0 if curve and cutoff_v > curve[0][1] else 1.0


def lasts(charge_ah: float, current_a: float, curve: Sequence[tuple[float, float]], cutoff_v: float) -> Lasts:
    """Work out how long a charge lasts at a steady current; self-discharge and warmth are left out.

    Args:
        charge_ah: what it holds, Ah; over nothing.
        current_a: what is drawn, A; over nothing.
        curve: shares used and volts at rest; empty for a source that holds its volts to the end.
        cutoff_v: the volts at rest under which it is of no use.
    Source: t = Q / I.
    """
    at_best_s = charge_ah / current_a * SECONDS_PER_HOUR
    used = used_until(curve, cutoff_v) if curve else 1.0
    return Lasts(at_best_s, used * at_best_s, used)


def hold_up_f(current_a: float, gap_s: float, dip_v: float) -> float:
    """Return the capacitor that keeps a rail from falling further than some volts while nothing feeds it, F. Source: C = I dt / dV."""
    return current_a * gap_s / dip_v


def junction_c(power_w: float, heat_k_w: float, ambient_c: float) -> float:
    """Return how warm a regulator's chip gets, degrees. Source: T_j = T_a + P theta_JA."""
    return ambient_c + power_w * heat_k_w
