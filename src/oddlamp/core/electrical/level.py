"""Levels between two supplies: straight wire, two-resistor divider, and pulls that fight."""

from collections.abc import Iterable
from typing import Final

from pydantic import Field

from oddlamp.core.base import Model, Working, si
from oddlamp.core.electrical.led import Spread

DIVIDER: Final = "horowitz-hill"


class Divider(Model):
    """Two resistors: ``upper_ohm`` from the sender, ``lower_ohm`` to ground."""

    upper_ohm: float = Field(gt=0)
    lower_ohm: float = Field(gt=0)
    tolerance_ratio: float = Field(ge=0, lt=1)


class Level(Model):
    """A level that reaches a pin, V, with its working."""

    voltage_v: Spread
    working: tuple[Working, ...]


def divide(drive_voltage_v: Spread, divider: Divider) -> Level:
    """Return what a divider lets through, nominal and at the corners.

    Assumes a sender without resistance of its own and a receiver that draws nothing.
    Source: V_out = V_in R2 / (R1 + R2); highest with the upper low and the lower high.
    """
    t = divider.tolerance_ratio

    def out(voltage_v: float, upper: float, lower: float) -> float:
        return voltage_v * lower / (upper + lower)

    upper, lower = divider.upper_ohm, divider.lower_ohm
    nominal = out(drive_voltage_v.value, upper, lower)
    most = out(drive_voltage_v.most, upper * (1 - t), lower * (1 + t))
    least = out(drive_voltage_v.least, upper * (1 + t), lower * (1 - t))
    return Level(
        voltage_v=Spread(least=least, value=nominal, most=most),
        working=(
            Working(
                formula="V_out = V_in · R2 / (R1 + R2)",
                substituted=_put_in(drive_voltage_v.value, upper, lower, nominal),
                source=DIVIDER,
            ),
            Working(
                formula="at most: V_in,max, R1 low, R2 high",
                substituted=_put_in(drive_voltage_v.most, upper * (1 - t), lower * (1 + t), most),
                source=DIVIDER,
            ),
            Working(
                formula="at least: V_in,min, R1 high, R2 low",
                substituted=_put_in(drive_voltage_v.least, upper * (1 + t), lower * (1 - t), least),
                source=DIVIDER,
            ),
        ),
    )


def _put_in(voltage_v: float, upper: float, lower: float, result: float) -> str:
    return f"{si(voltage_v, 'V')} · {si(lower, 'ohm')} / ({si(upper, 'ohm')} + {si(lower, 'ohm')}) = {si(result, 'V')}"


def straight(drive_voltage_v: Spread) -> Level:
    """Return what a plain wire lets through. Source: JESD8C, a lightly loaded CMOS output reaches its own rail."""
    put_in = f"{si(drive_voltage_v.value, 'V')}, at most {si(drive_voltage_v.most, 'V')}"
    return Level(
        voltage_v=drive_voltage_v,
        working=(Working(formula="V_OH = V_DD of the sender, lightly loaded", substituted=put_in, source="jesd8c"),),
    )


def first_fitting_divider(
    drive_voltage_v: Spread, *, pairs: Iterable[tuple[float, float]], tolerance_ratio: float, limit_v: float, high_v: float
) -> Divider | None:
    """Return the first pair that stays at or under ``limit_v`` and over ``high_v`` at every corner, or None."""
    for upper_ohm, lower_ohm in pairs:
        divider = Divider(upper_ohm=upper_ohm, lower_ohm=lower_ohm, tolerance_ratio=tolerance_ratio)
        level = divide(drive_voltage_v, divider).voltage_v
        if level.most <= limit_v and level.least >= high_v:
            return divider
    return None


def pulled_level(*, up_to_v: float, up_ohm: float, down_ohm: float) -> Level:
    """Return where a pin rests between a pull-up and a pull-down, V. Source: divider."""
    level = up_to_v * down_ohm / (up_ohm + down_ohm)
    return Level(
        voltage_v=Spread(least=level, value=level, most=level),
        working=(
            Working(
                formula="V = V_pull · R_down / (R_up + R_down)",
                substituted=_put_in(up_to_v, up_ohm, down_ohm, level),
                source=DIVIDER,
            ),
        ),
    )
