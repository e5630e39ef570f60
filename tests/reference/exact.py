"""Other roads to the same numbers: whole numbers and fractions, nothing of oddlamp."""

from fractions import Fraction
from itertools import product

E24 = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)


def exact_led_resistor(drop_mv: int, current_ma: int) -> Fraction:
    """Return the smallest E24 value that passes at most current_ma at drop_mv, ohm."""
    wanted = Fraction(drop_mv, current_ma)
    decades = [Fraction(10) ** power for power in range(-4, 8)]
    return min(value * decade for decade in decades for value in E24 if value * decade >= wanted)


def corners(volts: tuple[Fraction, Fraction], upper: Fraction, lower: Fraction, tolerance: Fraction) -> tuple[Fraction, Fraction]:
    """Return least and most of a divider by trying every corner."""
    sides = (1 - tolerance, 1 + tolerance)
    outs = [v * lower * b / (upper * a + lower * b) for v, a, b in product(volts, sides, sides)]
    return min(outs), max(outs)


def frame_bits(byte: int) -> str:
    """Return the ten bits of a byte at 8N1 in the order they stand on the wire."""
    return "0" + "".join(str(byte >> place & 1) for place in range(8)) + "1"
