"""Preferred values: IEC 60063 series E6 to E96."""

from bisect import bisect_left
from typing import Final, Literal

Series = Literal["E6", "E12", "E24", "E48", "E96"]

_E24: Final = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)
SERIES: Final[dict[Series, tuple[float, ...]]] = {
    "E6": _E24[::4],
    "E12": _E24[::2],
    "E24": _E24,
    "E48": tuple(round(10 ** (step / 48), 2) for step in range(48)),
    "E96": tuple(round(10 ** (step / 96), 2) for step in range(96)),
}
FLOAT_SLACK: Final = 1e-9
DECADES_OHM: Final = range(7)


def preferred(decade: int, mantissa: float) -> float:
    """Return mantissa x 10^decade as the nearest float to the printed decimal."""
    return float(f"{mantissa}e{decade}")


_TABLES: Final[dict[Series, tuple[float, ...]]] = {
    name: tuple(preferred(decade, mantissa) for decade in range(-12, 16) for mantissa in mantissas)
    for name, mantissas in SERIES.items()
}


def next_preferred(least_ohm: float, series: Series = "E24") -> float:
    """Return the smallest preferred value that is at least ``least_ohm``, in ohm; 1e-12 to 1e16 ohm are known.

    A value that is itself preferred, but for the dust of binary floats, is returned.
    Source: IEC 60063:2015.
    """
    table = _TABLES[series]
    return table[min(bisect_left(table, least_ohm * (1 - FLOAT_SLACK)), len(table) - 1)]


def neighbour(value_ohm: float, step: Literal[-1, 1], series: Series = "E24") -> float:
    """Return the preferred value next above (1) or below (-1) a resistance, in ohm. Source: IEC 60063:2015."""
    if step == 1:
        return next_preferred(value_ohm * (1 + 1e-6), series)
    table = _TABLES[series]
    return table[max(bisect_left(table, value_ohm * (1 - 1e-6)) - 1, 0)]


def is_preferred(value_ohm: float, series: Series = "E24") -> bool:
    """Tell whether a resistance is a value of a series. Source: IEC 60063:2015."""
    return abs(next_preferred(value_ohm, series) - value_ohm) <= FLOAT_SLACK * value_ohm
