"""The next value up and down that a hand would reach for: preferred resistors, usual speeds, round steps."""

import math
from bisect import bisect_left, bisect_right
from typing import Final

from oddlamp.core.design.values import Value
from oddlamp.core.electrical.preferred import Series, neighbour

Steps = tuple[float | None, float | None]
TOLERANCES: Final = (0.001, 0.0025, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2)
SPEEDS_BD: Final = (1200.0, 2400.0, 4800.0, 9600.0, 19200.0, 38400.0, 57600.0, 115200.0, 230400.0, 460800.0, 921600.0)
LISTS: Final = {"ratio": TOLERANCES, "Bd": SPEEDS_BD}
OHM_LEAST, OHM_MOST = 1.0, 1e7
DUST: Final = 1e-9


def steps(value: Value, series: Series = "E24") -> Steps:
    """Return the next value below and above, in the value's own unit; None where there is none.

    Resistances step through the series one can buy (IEC 60063), tolerances and speeds through the usual ones, everything
    else by a twentieth of itself, rounded to 1, 2 or 5 of a power of ten.
    """
    now = value.value
    if now is None or now <= 0:
        return None, None
    if value.unit == "ohm":
        below = neighbour(now, -1, series) if now > OHM_LEAST else None
        return below, neighbour(now, 1, series) if now < OHM_MOST else None
    if value.unit in LISTS:
        table = LISTS[value.unit]
        before, after = bisect_left(table, now * (1 - DUST)) - 1, bisect_right(table, now * (1 + DUST))
        return table[before] if before >= 0 else None, table[after] if after < len(table) else None
    raw = now / 20
    power = 10.0 ** math.floor(math.log10(raw) + DUST)
    step = max(m * power for m in (1, 2, 5) if m * power <= raw * (1 + DUST))
    count = now / step
    below, above = (math.ceil(count - DUST) - 1) * step, (math.floor(count + DUST) + 1) * step
    return (_clean(below) if below > 0 else None), _clean(above)


def _clean(value: float) -> float:
    return float(f"{value:.6g}")
