"""Colour bands of a resistor, to reach for the right one: IEC 60062, four or five bands."""

import math
from typing import Final

from oddlamp.core.errors import OutOfRange

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


def read_bands(colours: tuple[str, ...]) -> tuple[float, float]:
    """Read three, four or five bands back into a value.

    Args:
        colours: names as ``band_colours`` gives them; three bands have no tolerance band and mean 20 %.
    Returns:
        Resistance in ohm, tolerance as a ratio.
    Raises:
        OutOfRange: a count or a colour that means nothing there.
    Source: IEC 60062, recalled.
    """
    if not 3 <= len(colours) <= 5:
        raise OutOfRange(field="bands", given=len(colours), allowed="three, four or five bands")
    digits = colours[:2] if len(colours) < 5 else colours[:3]
    powers = {name: power for power, name in MULTIPLIERS.items()}
    tolerances = {name: ratio for ratio, name in TOLERANCES.items()}
    for colour, known in (
        *((it, COLOURS) for it in digits),
        (colours[len(digits)], powers),
        *((it, tolerances) for it in colours[len(digits) + 1 :]),
    ):
        if colour not in known:
            raise OutOfRange(field="bands", given=colour, allowed="one of " + ", ".join(known))
    number = int("".join(str(COLOURS.index(colour)) for colour in digits))
    value = float(f"{number}e{powers[colours[len(digits)]]}")
    return value, tolerances[colours[-1]] if len(colours) > len(digits) + 1 else 0.2


def smd_marking(value_ohm: float) -> str:
    """Return the marking of a chip resistor: three figures, four where the value needs them, R for the point under 10 ohm.

    Source: IEC 60062, recalled: two or three digits and a power of ten.
    """
    exponent = math.floor(math.log10(value_ohm) + 1e-12)
    three = round(value_ohm / 10.0 ** (exponent - 2))
    if three == 1000:
        three, exponent = 100, exponent + 1
    digits = 3 if three % 10 else 2
    power = exponent - digits + 1
    if power < 0:
        text = f"{value_ohm:.{-power}f}"
        return text.replace(".", "R") if "." in text else f"{text}R"
    return f"{three if digits == 3 else three // 10}{power}"


def read_smd(marking: str) -> float:
    """Read a chip resistor's marking back, ohm: 472, 4701, 4R7, R10.

    Raises:
        OutOfRange: it is none of these.
    Source: IEC 60062, recalled.
    """
    text = marking.strip().upper()
    if "R" in text and text.replace("R", "", 1).isdigit() and len(text) <= 5:
        return float(text.replace("R", ".") if text[0] != "R" else "0." + text[1:])
    if text.isdigit() and len(text) in (3, 4):
        return float(f"{text[:-1]}e{text[-1]}")
    raise OutOfRange(field="marking", given=marking, allowed="three or four figures, or R for the point, such as 472, 4701, 4R7")
