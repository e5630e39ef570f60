"""Colour bands of a resistor, to reach for the right one: IEC 60062, four or five bands."""

import math
from typing import Final

COLOURS: Final = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
MULTIPLIERS: Final = {-2: "silver", -1: "gold", **dict(enumerate(COLOURS))}
TOLERANCES: Final = {0.1: "silver", 0.05: "gold", 0.02: "red", 0.01: "brown", 0.005: "green", 0.0025: "blue", 0.001: "violet"}


def band_colours(value_ohm: float, tolerance_ratio: float) -> tuple[str, ...]:
    """Return the bands of a resistor: two digits, or three where the value or a fine tolerance needs them.

    Args:
        value_ohm: resistance, ohm; rounded to three significant digits.
        tolerance_ratio: tolerance; one without a colour of its own gives no band.
    Returns:
        Colour names in order; empty where the value is past what bands can say.
    Source: IEC 60062, recalled.
    """
    exponent = math.floor(math.log10(value_ohm) + 1e-12)
    three = round(value_ohm / 10.0 ** (exponent - 2))
    if three == 1000:
        three, exponent = 100, exponent + 1
    digits = 3 if three % 10 or tolerance_ratio < 0.02 else 2
    number, power = (three, exponent - 2) if digits == 3 else (three // 10, exponent - 1)
    if power not in MULTIPLIERS:
        return ()
    last = TOLERANCES.get(round(tolerance_ratio, 6))
    return (*(COLOURS[int(digit)] for digit in str(number)), MULTIPLIERS[power], *((last,) if last else ()))
