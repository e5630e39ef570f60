"""Copper wire: how thick a gauge is, what a length of it resists and loses, and what it may carry."""

import math
from typing import Final

COPPER_OHM_M: Final = 1.7241e-8  # of annealed copper at 20 degrees: the International Annealed Copper Standard, IEC 60028
COPPER_PER_K: Final = 0.00393  # the same standard
CLAD_FACTOR: Final = 1.6  # of copper-clad aluminium against copper; common practice, no source
BUNDLED_A_PER_MM2: Final = 3.0  # cautious, for wires in a bundle; common practice, no source
GAUGE_THICK, GAUGE_THIN = 0, 40


def diameter_m(gauge_awg: float) -> float:
    """Return the diameter of a gauge, m. Source: ASTM B258, d = 0.127 mm x 92 ^ ((36 - n) / 39)."""
    return float(0.127e-3 * 92.0 ** ((36.0 - gauge_awg) / 39.0))


def area_m2(gauge_awg: float) -> float:
    """Return the cross-section of a gauge, m2. Source: ASTM B258."""
    return math.pi * diameter_m(gauge_awg) ** 2 / 4


def ohm_per_m(area_m2: float, *, is_clad: bool = False, at_c: float = 20.0) -> float:
    """Return what a metre of wire resists, ohm.

    Args:
        area_m2: its cross-section, m2; over nothing.
        is_clad: whether it is aluminium with a skin of copper.
        at_c: how warm it is, degrees.
    Source: IEC 60028.
    """
    copper = COPPER_OHM_M / area_m2 * (1 + COPPER_PER_K * (at_c - 20.0))
    return copper * (CLAD_FACTOR if is_clad else 1.0)


def round_trip_ohm(length_m: float, area_m2: float, *, is_clad: bool = False, contacts_ohm: float = 0.0) -> float:
    """Return what two wires of a length resist together, there and back, with their contacts, ohm."""
    return 2 * length_m * ohm_per_m(area_m2, is_clad=is_clad) + contacts_ohm


def longest_m(drop_most_v: float, current_a: float, area_m2: float, *, is_clad: bool = False, contacts_ohm: float = 0.0) -> float:
    """Return how long a wire may be that loses no more than some volts there and back, m; nothing where its contacts lose more."""
    left_ohm = drop_most_v / current_a - contacts_ohm
    return max(0.0, left_ohm / (2 * ohm_per_m(area_m2, is_clad=is_clad)))


def thinnest_awg(
    drop_most_v: float, current_a: float, length_m: float, *, is_clad: bool = False, contacts_ohm: float = 0.0
) -> int | None:
    """Return the thinnest whole gauge that loses no more than some volts and may carry the current; None where none does."""
    for gauge in range(GAUGE_THIN, GAUGE_THICK - 1, -1):
        area = area_m2(gauge)
        drop_v = current_a * round_trip_ohm(length_m, area, is_clad=is_clad, contacts_ohm=contacts_ohm)
        if drop_v <= drop_most_v and current_a <= may_carry_a(area):
            return gauge
    return None


def may_carry_a(area_m2: float) -> float:
    """Return what a wire in a bundle may carry, A: by its cross-section, cautiously. Common practice, no source."""
    return BUNDLED_A_PER_MM2 * area_m2 * 1e6
