"""LED branches: the series resistor, the current it really gives, and the worst case of it."""

from typing import Final

from pydantic import Field

from oddlamp.core.base import Model, Working, si
from oddlamp.core.electrical.preferred import FLOAT_SLACK, next_preferred
from oddlamp.core.errors import OutOfRange

OHM: Final = "horowitz-hill"
RATINGS_W: Final = (0.125, 0.25, 0.5, 1.0, 2.0)


class Spread(Model):
    """A quantity with the least and the most it may be."""

    least: float
    value: float
    most: float


class LedBranch(Model):
    """LEDs in series with one resistor between a drive and its return.

    Checks single fields only. Limits between fields belong to the function that needs them.
    """

    drive_voltage_v: Spread = Field(description="Unloaded drive behind the pin, V")
    forward_voltage_v: Spread = Field(description="Drop of the whole string, V")
    driver_resistance_ohm: Spread = Field(description="The pin's own resistance: 0 for an ideal one, ohm")
    tolerance_ratio: float = Field(ge=0, lt=1)


class LedSizing(Model):
    """The resistor that never lets more than the wanted current flow at nominal values."""

    exact_ohm: float
    resistance_ohm: float
    working: tuple[Working, ...]


class LedPoint(Model):
    """What a resistor really gives."""

    current_a: Spread = Field(description="Nominal without the pin's resistance; least and most at the corners, A")
    current_with_pin_a: float = Field(description="Nominal with the pin's typical resistance, A")
    spread_ratio: float | None = Field(
        description="Most over least without the pin's resistance; None where the least is nothing"
    )
    resistor_power_w: float
    rating_w: float | None = Field(description="Standard rating at twice the dissipation; None above 2 W")
    working: tuple[Working, ...]


def size_led_resistor(branch: LedBranch, *, wanted_current_a: float) -> LedSizing:
    """Find the smallest E24 resistor that keeps a branch at or below the wanted current.

    Assumes a fixed LED drop and an ideal pin, which errs on the safe side.
    Args:
        branch: the branch; nominal values are used.
        wanted_current_a: current wanted through the LEDs, A.
    Raises:
        OutOfRange: the drive does not exceed the LED drop.
    Source:
        Ohm's law; IEC 60063:2015, E24.
    """
    drive_v, forward_v = branch.drive_voltage_v.value, branch.forward_voltage_v.value
    if drive_v - forward_v <= 0:
        raise OutOfRange(field="drive_voltage_v", given=drive_v, allowed=f"over {si(forward_v, 'V')}, the drop of the LEDs")
    exact_ohm = (drive_v - forward_v) / wanted_current_a
    resistance_ohm = next_preferred(exact_ohm)
    put_in = f"({si(drive_v, 'V')} − {si(forward_v, 'V')}) / {si(wanted_current_a, 'A')} = {si(exact_ohm, 'ohm')}"
    return LedSizing(
        exact_ohm=exact_ohm,
        resistance_ohm=resistance_ohm,
        working=(
            Working(formula="R = (V_S − V_F) / I_F", substituted=put_in, source=OHM),
            Working(
                formula="next E24 value, upwards, so that the current is never exceeded",
                substituted=si(resistance_ohm, "ohm"),
                source="iec-60063",
            ),
        ),
    )


def led_point(branch: LedBranch, *, resistance_ohm: float) -> LedPoint:
    """Find the current a resistor gives, nominal and at the corners, and what it dissipates.

    The most: highest drive, least drop, least resistor, ideal pin. The least: the opposite corner with
    the pin's worst resistance. A corner below the LED's drop gives no current.
    Args:
        branch: the branch with its spreads.
        resistance_ohm: the resistor fitted, ohm.
    Source:
        Ohm's law; corners by the sign of each parameter's effect.
    """
    drive, forward, driver = branch.drive_voltage_v, branch.forward_voltage_v, branch.driver_resistance_ohm
    low_ohm, high_ohm = resistance_ohm * (1 - branch.tolerance_ratio), resistance_ohm * (1 + branch.tolerance_ratio)
    nominal_a = max(0.0, drive.value - forward.value) / resistance_ohm
    most_a = max(0.0, drive.most - forward.least) / low_ohm
    least_v = max(0.0, drive.least - forward.most)
    power_w = nominal_a**2 * resistance_ohm
    return LedPoint(
        current_a=Spread(least=least_v / (high_ohm + driver.most), value=nominal_a, most=most_a),
        current_with_pin_a=max(0.0, drive.value - forward.value) / (resistance_ohm + driver.value),
        spread_ratio=most_a / (least_v / high_ohm) if least_v > FLOAT_SLACK else None,
        resistor_power_w=power_w,
        rating_w=next((rating for rating in RATINGS_W if rating >= 2 * power_w), None),
        working=(
            Working(
                formula="I_F = (V_S − V_F) / R",
                substituted=f"({si(drive.value, 'V')} − {si(forward.value, 'V')}) / {si(resistance_ohm, 'ohm')} = {si(nominal_a, 'A')}",
                source=OHM,
            ),
            Working(
                formula="at most: (V_S,max − V_F,min) / (R (1 − tolerance))",
                substituted=f"({si(drive.most, 'V')} − {si(forward.least, 'V')}) / {si(low_ohm, 'ohm')} = {si(most_a, 'A')}",
                source=OHM,
            ),
            Working(
                formula="at least: (V_S,min − V_F,max) / (R (1 + tolerance) + R_pin,max)",
                substituted=f"({si(drive.least, 'V')} − {si(forward.most, 'V')}) / ({si(high_ohm, 'ohm')} + {si(driver.most, 'ohm')}) = {si(least_v / (high_ohm + driver.most), 'A')}",
                source=OHM,
            ),
        ),
    )
