"""The diode curve of an LED: what flows through it behind a resistor, and what it drops at a current."""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Final

from pydantic import Field

THERMAL_V: Final = 1.380649e-23 * 300 / 1.602176634e-19  # kT/q at 300 K; both constants are exact in the SI
STEPS_MOST: Final = 80


@dataclass(frozen=True, slots=True, kw_only=True)
class DiodeCurve:
    """I = Is (exp((V - I Rs) / (n Vt)) - 1), fixed by one point of the part: its drop at a stated current."""

    forward_voltage_v: Annotated[float, Field(description="Drop of one LED at the stated current, V")]
    at_current_a: Annotated[float, Field(description="The stated current, A")]
    ideality: Annotated[float, Field(description="n; emission coefficient")]
    series_ohm: Annotated[float, Field(description="Rs of one LED, ohm")]

    @property
    def slope_v(self) -> float:
        """Return n Vt, V."""
        return self.ideality * THERMAL_V

    @property
    def saturation_a(self) -> float:
        """Return Is that puts the stated point on the curve, A; a drop too small for its series resistance gives a straight one."""
        # Asked again and again for the same LED: worth remembering, and the model is frozen.
        return _saturation_a(self.forward_voltage_v, self.at_current_a, self.series_ohm, self.slope_v)

    def drop_v(self, current_a: float) -> float:
        """Return what one LED drops at a current, V."""
        return self.slope_v * math.log1p(current_a / self.saturation_a) + current_a * self.series_ohm


def ideality_of(*, high_v: float, high_a: float, low_v: float, low_a: float, series_ohm: float) -> float:
    """Return n from two measured points of an LED: its drop at its usual current, and at a smaller one.

    Not over nothing where the points do not lie on one rising curve: the volts between them must exceed what the series
    resistance alone makes of the currents.
    Source: diode equation, V_1 - V_2 = n Vt ln(I_1 / I_2) + (I_1 - I_2) Rs.
    """
    return (high_v - low_v - (high_a - low_a) * series_ohm) / (THERMAL_V * math.log(high_a / low_a))


@lru_cache(maxsize=4096)
def _saturation_a(forward_v: float, at_current_a: float, series_ohm: float, slope_v: float) -> float:
    junction_v = max(forward_v - at_current_a * series_ohm, 1e-3)
    return at_current_a / math.expm1(min(junction_v / slope_v, 600.0))


def curve_current_a(curve: DiodeCurve, *, drive_v: float, resistance_ohm: float, in_series: int = 1) -> float:
    """Find the current that a drive pushes through LEDs in series and a resistor, by the curve, A.

    Newton's method on V = N n Vt ln(1 + I/Is) + I R, which rises and bends one way only, so that it cannot miss.
    One number at a time, without a numeric library: the first review must not wait for one to load.
    Args:
        drive_v: what stands across resistor and LEDs together, V; nothing flows at or below 0.
        resistance_ohm: everything in series but the LEDs' own, ohm.
    Source: diode equation; Horowitz and Hill, section 1.2.6 and 2.1.
    """
    if drive_v <= 0:
        return 0.0
    scale_v, saturation_a = in_series * curve.slope_v, curve.saturation_a
    total_ohm = max(resistance_ohm + in_series * curve.series_ohm, 1e-6)

    # In the logarithm u = ln(1 + I/Is) the curve is u scale + Is R (e^u - 1) = V: convex, so Newton from the right descends onto it.
    u = min(drive_v / scale_v, math.log1p(drive_v / total_ohm / saturation_a))
    for _ in range(STEPS_MOST):
        grown = saturation_a * total_ohm * math.exp(u)
        step = (u * scale_v + grown - saturation_a * total_ohm - drive_v) / (scale_v + grown)
        u -= step
        if abs(step) <= 1e-14 * max(1.0, abs(u)):
            break
    return saturation_a * math.expm1(max(u, 0.0))
