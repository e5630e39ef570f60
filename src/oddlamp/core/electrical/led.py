"""LED branches: the series resistor, the current it really gives, and the worst case of it."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Final

from pydantic import Field

from oddlamp.core.base import Working, si
from oddlamp.core.electrical.diode import DiodeCurve, curve_current_a
from oddlamp.core.electrical.preferred import FLOAT_SLACK, Series, next_preferred
from oddlamp.core.errors import OutOfRange

OHM: Final = "horowitz-hill"
RATINGS_W: Final = (0.125, 0.25, 0.5, 1.0, 2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Spread:
    """A quantity with the least and the most it may be."""

    least: float
    value: float
    most: float


NOTHING: Final = Spread(least=0.0, value=0.0, most=0.0)
CURVE_BELOW_V: Final = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class LedBranch:
    """LEDs in series with one resistor between a drive and its return.

    A plain record, because a review makes hundreds: limits of a field are those of the plan, and limits between fields
    belong to the function that needs them.
    """

    drive_voltage_v: Annotated[Spread, Field(description="Unloaded drive behind the pin, transistor or strip, V")]
    forward_voltage_v: Annotated[Spread, Field(description="Drop of the whole string, V")]
    driver_drop_v: Annotated[Spread, Field(description="Volts a saturated transistor keeps, V")] = NOTHING
    driver_resistance_ohm: Annotated[Spread, Field(description="Of pin, switch and source: 0 for ideal ones, ohm")]
    tolerance_ratio: float
    curve: Annotated[DiodeCurve | None, Field(description="The curve of one LED; None to use a constant drop only")] = None
    in_series: int = 1
    series: Annotated[Series, Field(description="The series its resistor is chosen from, IEC 60063")] = "E24"
    in_parallel: Annotated[int, Field(description="Strings alike, side by side, that one driver carries")] = 1
    is_shared: Annotated[bool, Field(description="All of them on one resistor, instead of one each")] = False

    @property
    def on_one_resistor(self) -> int:
        """How many strings the current of one resistor feeds."""
        return self.in_parallel if self.is_shared else 1

    def seen_ohm(self, fitted_ohm: float) -> float:
        """Return what one string sees, all being alike: what carries the current of several counts as often, ohm."""
        return fitted_ohm * self.on_one_resistor + self.driver_resistance_ohm.value * self.in_parallel

    @property
    def left_v(self) -> float:
        """What is left for the resistor at nominal values, V."""
        return self.drive_voltage_v.value - self.forward_voltage_v.value - self.driver_drop_v.value


@dataclass(frozen=True, slots=True, kw_only=True)
class LedSizing:
    """The resistor that never lets more than the wanted current flow at nominal values."""

    exact_ohm: float
    resistance_ohm: float
    working: tuple[Working, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class LedPoint:
    """What a resistor really gives."""

    current_a: Annotated[Spread, Field(description="Nominal without the pin's resistance; least and most at the corners, A")]
    current_with_pin_a: Annotated[float, Field(description="Nominal with the pin's typical resistance, A")]
    curve_a: Annotated[Spread | None, Field(description="By the diode curve, with pin and source; None without a curve, A")] = (
        None
    )
    is_by_curve: Annotated[bool, Field(description="Whether a constant drop says nothing here, and current_a is the curve's")] = (
        False
    )
    spread_ratio: Annotated[
        float | None, Field(description="Most over least without the pin's resistance; None where the least is nothing")
    ]
    resistor_power_w: float
    rating_w: Annotated[float | None, Field(description="Standard rating at twice the dissipation; None above 2 W")]
    working: tuple[Working, ...]


@lru_cache(maxsize=1024)  # an edit turns one channel; all others ask for what they asked before
def size_led_resistor(branch: LedBranch, *, wanted_current_a: float) -> LedSizing:
    """Find the smallest resistor of the branch's series that keeps a branch at or below the wanted current.

    Assumes a fixed LED drop and an ideal pin, which errs on the safe side.
    Args:
        branch: the branch; nominal values are used.
        wanted_current_a: current wanted through each string, A.
    Raises:
        OutOfRange: the drive does not exceed the LED drop.
    Source:
        Ohm's law; IEC 60063:2015.
    """
    left_v = branch.left_v
    if left_v <= 0:
        raise OutOfRange(
            field="drive_voltage_v",
            given=branch.drive_voltage_v.value,
            allowed=f"over {si(branch.forward_voltage_v.value + branch.driver_drop_v.value, 'V')}, the drop of the LEDs and their switch",
        )
    through_a = wanted_current_a * branch.on_one_resistor
    exact_ohm = left_v / through_a
    resistance_ohm = next_preferred(exact_ohm, branch.series)
    put_in = f"({_minus(branch)}) / {si(through_a, 'A')} = {si(exact_ohm, 'ohm')}"
    return LedSizing(
        exact_ohm=exact_ohm,
        resistance_ohm=resistance_ohm,
        working=(
            Working(formula=f"R = ({_minus_formula(branch)}) / I_F", substituted=put_in, source=OHM),
            Working(
                formula=f"next {branch.series} value, upwards, so that the current is never exceeded",
                substituted=si(resistance_ohm, "ohm"),
                source="iec-60063",
            ),
        ),
    )


def _minus(branch: LedBranch) -> str:
    drop = branch.driver_drop_v.value
    tail = f" − {si(drop, 'V')}" if drop else ""
    return f"{si(branch.drive_voltage_v.value, 'V')} − {si(branch.forward_voltage_v.value, 'V')}{tail}"


def _minus_formula(branch: LedBranch) -> str:
    return "V_S − V_F − V_CE" if branch.driver_drop_v.value else "V_S − V_F"


@lru_cache(maxsize=1024)  # records of one size, about 3 kB each
def led_point(branch: LedBranch, *, resistance_ohm: float, wanted_current_a: float | None = None) -> LedPoint:
    """Find the current a resistor gives, nominal and at the corners, and what it dissipates.

    The most: highest drive, least drop, least resistor, ideal pin. The least: the opposite corner with
    the pin's worst resistance, which the others at their most load too. A corner below the LED's drop gives no current
    by a constant drop. On one shared resistor nothing makes the strings share alike: one may take all, or nothing.
    Where under half a volt is left for the resistor only the curve says anything, worst case too, and stands in the
    place of the constant drop.
    Args:
        branch: the branch with its spreads.
        resistance_ohm: the resistor fitted, ohm; 0 for none.
        wanted_current_a: what is wanted, A; None never asks the curve.
    Source:
        Ohm's law; diode equation; corners by the sign of each parameter's effect.
    """
    drive, forward, driver, drop = (
        branch.drive_voltage_v,
        branch.forward_voltage_v,
        branch.driver_resistance_ohm,
        branch.driver_drop_v,
    )
    fitted_ohm = max(resistance_ohm, 1e-3)
    low_ohm, high_ohm = fitted_ohm * (1 - branch.tolerance_ratio), fitted_ohm * (1 + branch.tolerance_ratio)
    nominal_a = max(0.0, branch.left_v) / (fitted_ohm * branch.on_one_resistor)
    most_a = max(0.0, drive.most - forward.least - drop.least) / low_ohm
    least_v = max(0.0, drive.least - forward.most - drop.most)
    others_a = max(0.0, drive.least - forward.least - drop.most) / (low_ohm + (branch.in_parallel - 1) * driver.most)
    others_v = (branch.in_parallel - 1) * others_a * driver.most
    least_a = 0.0 if branch.is_shared else max(0.0, least_v - others_v) / (high_ohm + driver.most)
    curve_a = _by_curve(branch, fitted_ohm)
    is_by_curve = curve_a is not None and wanted_current_a is not None and branch.left_v < CURVE_BELOW_V
    if is_by_curve and curve_a is not None:
        current_a, with_pin_a, working = curve_a, curve_a.value, _curve_working(branch, fitted_ohm, curve_a)
        spread_ratio = curve_a.most / curve_a.least if curve_a.least > 0 else None  # none where one may take nothing
    else:
        current_a = Spread(least=least_a, value=nominal_a, most=most_a)
        with_pin_a = max(0.0, branch.left_v) / branch.seen_ohm(fitted_ohm)
        spread_ratio = most_a / (least_v / high_ohm) if least_v > FLOAT_SLACK and not branch.is_shared else None
        working = _drop_working(branch, fitted_ohm, low_ohm, high_ohm, others_v, current_a)
    power_w = (current_a.value * branch.on_one_resistor) ** 2 * fitted_ohm
    return LedPoint(
        current_a=current_a,
        current_with_pin_a=with_pin_a,
        curve_a=curve_a,
        is_by_curve=is_by_curve,
        spread_ratio=spread_ratio,
        resistor_power_w=power_w,
        rating_w=next((rating for rating in RATINGS_W if rating >= 2 * power_w), None),
        working=working,
    )


def _by_curve(branch: LedBranch, fitted_ohm: float) -> Spread | None:
    """Solve the curve at its middle and at both corners; the least with the worst pin, the most with the best.

    The middle takes strings side by side as alike. The most lets the others take nothing; the least lets them take
    what they can while this one takes nothing, which is more than they do.
    """
    if branch.curve is None:
        return None
    drive, drop, driver, t = branch.drive_voltage_v, branch.driver_drop_v, branch.driver_resistance_ohm, branch.tolerance_ratio

    def at(drive_v: float, string_v: float, kept_v: float, ohm: float) -> float:
        known = branch.curve
        if known is None:
            return 0.0
        # Built outright: a review makes hundreds, and replacing one field of a record takes ten times as long.
        curve = DiodeCurve(
            forward_voltage_v=string_v / branch.in_series,
            at_current_a=known.at_current_a,
            ideality=known.ideality,
            series_ohm=known.series_ohm,
        )
        return curve_current_a(curve, drive_v=drive_v - kept_v, resistance_ohm=ohm, in_series=branch.in_series)

    forward, others, least_a = branch.forward_voltage_v, branch.in_parallel - 1, 0.0
    if not branch.is_shared:
        others_a = at(drive.least, forward.least, drop.most, fitted_ohm * (1 - t) + others * driver.most) if others else 0.0
        least_v = max(0.0, drive.least - others * others_a * driver.most)
        least_a = at(least_v, forward.most, drop.most, fitted_ohm * (1 + t) + driver.most)
    return Spread(
        least=least_a,
        value=at(drive.value, forward.value, drop.value, branch.seen_ohm(fitted_ohm)),
        most=at(drive.most, forward.least, drop.least, fitted_ohm * (1 - t) + driver.least),
    )


def _curve_working(branch: LedBranch, fitted_ohm: float, curve_a: Spread) -> tuple[Working, ...]:
    curve = branch.curve
    if curve is None:
        return ()
    total = branch.seen_ohm(fitted_ohm)
    put_in = f"{si(branch.drive_voltage_v.value, 'V')} over {branch.in_series} LED and {si(total, 'ohm')}: {si(curve_a.value, 'A')}; n {curve.ideality:g}, R_s {si(curve.series_ohm, 'ohm')}"
    worst = f"{si(curve_a.least, 'A')} to {si(curve_a.most, 'A')}"
    return (
        Working(formula="V_S = N n V_t ln(1 + I/I_s) + I (R + R_pin + N R_s)", substituted=put_in, source=OHM),
        Working(formula="at worst: both ends of supply, drop, resistor and pin", substituted=worst, source=OHM),
    )


def _drop_working(
    branch: LedBranch, fitted_ohm: float, low_ohm: float, high_ohm: float, others_v: float, current_a: Spread
) -> tuple[Working, ...]:
    drive, forward, driver, drop = (
        branch.drive_voltage_v,
        branch.forward_voltage_v,
        branch.driver_resistance_ohm,
        branch.driver_drop_v,
    )
    kept = "" if not drop.most else " − V_CE"
    least_kept, most_kept = (f" − {si(v, 'V')}" if drop.most else "" for v in (drop.least, drop.most))
    count = branch.on_one_resistor
    resistor, seen = ("R", si(fitted_ohm, "ohm")) if count == 1 else ("(n R)", f"({count} · {si(fitted_ohm, 'ohm')})")
    nominal = Working(
        formula=f"I_F = ({_minus_formula(branch)}) / {resistor}",
        substituted=f"({_minus(branch)}) / {seen} = {si(current_a.value, 'A')}",
        source=OHM,
    )
    alone = ", all through one" if count > 1 else ""
    most = Working(
        formula=f"at most{alone}: (V_S,max − V_F,min{kept}) / (R (1 − tolerance))",
        substituted=f"({si(drive.most, 'V')} − {si(forward.least, 'V')}{least_kept}) / {si(low_ohm, 'ohm')} = {si(current_a.most, 'A')}",
        source=OHM,
    )
    if count > 1:
        told = "nothing makes them share alike: one may take nothing"
        return nominal, most, Working(formula="at least: 0 A", substituted=told, source="common-practice")
    others, others_put_in = (" − V_others", f" − {si(others_v, 'V')}") if others_v > 0 else ("", "")
    least = Working(
        formula=f"at least: (V_S,min − V_F,max{kept}{others}) / (R (1 + tolerance) + R_pin,max)",
        substituted=f"({si(drive.least, 'V')} − {si(forward.most, 'V')}{most_kept}{others_put_in}) / ({si(high_ohm, 'ohm')} + {si(driver.most, 'ohm')}) = {si(current_a.least, 'A')}",
        source=OHM,
    )
    if not others:
        return nominal, most, least
    count = branch.in_parallel - 1
    put_in = f"{count} · R_pin,max · what each of them takes at its most = {si(others_v, 'V')}"
    return (
        nominal,
        most,
        least,
        Working(formula="V_others: what the others keep in pin or switch", substituted=put_in, source=OHM),
    )
