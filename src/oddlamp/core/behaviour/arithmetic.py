"""Whole numbers as every language has them: a value of one range in another, and the duty a share of light comes to."""

import math
from fractions import Fraction
from typing import Final

LADDER_TOP: Final = 255


def scaled(value: int, least: int, most: int, top: int = LADDER_TOP) -> int:
    """Return a value of one range in another that begins at 0: clipped to its ends, then rounded half up, in whole numbers."""
    span = most - least
    return (2 * (min(max(value, least), most) - least) * top + span) // (2 * span) if span else top


def duty_of(share: float) -> int:
    """Return a share of full light in 255 parts, rounded half up: floor(255 k/n + 1/2), the same in every language."""
    return math.floor(LADDER_TOP * share + 0.5)


def _of_eye(level: int) -> int:
    """Return the duty of a brightness to the eye, each 0 to 255: CIE 1976 lightness 100 n / 255; never dark where it is not 0.

    Source: ISO/CIE 11664-4. In whole numbers, so that every language has the same table.
    """
    lightness = Fraction(100 * level, LADDER_TOP)
    luminance = ((lightness + 16) / 116) ** 3 if lightness > 8 else lightness * Fraction(3, 29) ** 3
    return max(math.floor(LADDER_TOP * luminance + Fraction(1, 2)), min(level, 1))


EYE: Final = tuple(_of_eye(level) for level in range(LADDER_TOP + 1))


def level_for_eye(duty: int) -> int:
    """Return the least brightness to the eye that shows a duty, or more."""
    return next(level for level, shown in enumerate(EYE) if shown >= duty)


def times(level: int, share: int) -> int:
    """Return one number of 255 parts taken of another, rounded half up."""
    return (2 * level * share + LADDER_TOP) // (2 * LADDER_TOP)


def seen_light(luminance_ratio: float) -> float:
    """Return light as the eye sees it, 0 to 1 for 0 to full: CIE 1976 lightness L* / 100.

    Source: ISO/CIE 11664-4; L* = 116 (Y/Yn)^(1/3) - 16 above (6/29)^3, else (29/3)^3 Y/Yn.
    """
    if luminance_ratio > (6 / 29) ** 3:
        return (116 * math.cbrt(luminance_ratio) - 16) / 100
    return (29 / 3) ** 3 * luminance_ratio / 100
