"""What stands between a pin and a load: NPN and MOSFET switches, and what they ask of the pin."""

from dataclasses import dataclass
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.electrical.preferred import Series, neighbour, next_preferred
from oddlamp.core.errors import OutOfRange

FORCED_GAIN: Final = 10.0
FORCED_GAIN_MOST: Final = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class BaseDrive:
    """The base of an NPN switch."""

    exact_ohm: float
    resistance_ohm: float
    base_current_a: float
    forced_gain: float
    working: tuple[Working, ...]


def base_drive(
    *,
    pin_v: float,
    base_emitter_v: float,
    collector_current_a: float,
    resistance_ohm: float | None = None,
    series: Series = "E24",
) -> BaseDrive:
    """Size the base resistor of an NPN switch, or judge the one fitted.

    The base gets a tenth of the collector current, so that the transistor is surely saturated; the
    largest value of the series that gives at least that is taken.
    Args:
        pin_v: volts of the pin when high.
        base_emitter_v: V_BE, about 0.8 V saturated.
        collector_current_a: what the load takes, A.
        resistance_ohm: the resistor fitted; None to choose one.
        series: the series to choose from.
    Raises:
        OutOfRange: the pin does not exceed V_BE.
    Source: Horowitz and Hill, section 2.2.1, transistor switch; forced gain 10, common practice.
    """
    left_v = pin_v - base_emitter_v
    if left_v <= 0:
        raise OutOfRange(field="pin_v", given=pin_v, allowed=f"over {si(base_emitter_v, 'V')}, the drop of base and emitter")
    exact_ohm = left_v * FORCED_GAIN / collector_current_a
    fitted = resistance_ohm
    if fitted is None:
        above = next_preferred(exact_ohm, series)
        fitted = above if above <= exact_ohm * (1 + 1e-9) else neighbour(exact_ohm, -1, series)
    current_a = left_v / fitted
    put_in = f"({si(pin_v, 'V')} − {si(base_emitter_v, 'V')}) / ({si(collector_current_a, 'A')} / 10) = {si(exact_ohm, 'ohm')}"
    gain = f"{si(collector_current_a, 'A')} / {si(current_a, 'A')} = {collector_current_a / current_a:.3g}, 20 at most"
    return BaseDrive(
        exact_ohm=exact_ohm,
        resistance_ohm=fitted,
        base_current_a=current_a,
        forced_gain=collector_current_a / current_a,
        working=(
            Working(formula="R_B = (V_pin − V_BE) / (I_C / 10)", substituted=put_in, source="horowitz-hill"),
            Working(formula="forced gain I_C / I_B", substituted=gain, source="common-practice"),
        ),
    )


def relay_module_current_a(*, module_v: float, pin_v: float, drop_v: float, resistance_ohm: float) -> float:
    """Return the input current of an active-low opto-input at a pin's volts, A; none below its drops. Source: Ohm's law."""
    return max(0.0, module_v - pin_v - drop_v) / resistance_ohm
