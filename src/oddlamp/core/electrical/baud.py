"""Serial speeds as a counter makes them, and how far both ends may be apart.

Facts of an 8-bit chip's serial port: speed = clock / (16 (n + 1)), or clock / (8 (n + 1)) at double speed, with n rounded to
the nearest whole number; published in the data sheets of such chips, whose tables the tests hold this against.
"""

from typing import Final, NamedTuple

# How far both ends together, and one alone, may be off; at double speed a bit is sampled fewer times. From memory.
BOTH_MOST: Final = {False: 0.045, True: 0.039}
SIDE_LOOK: Final = {False: 0.02, True: 0.015}
NO_DOUBLE_BD: Final = 57_600.0  # the usual library leaves double speed out at this one, at 16 MHz
SIXTEEN_MHZ: Final = 16e6
SOFTWARE_SURE_BD: Final = 38_400.0  # at 16 MHz, and in proportion to the clock; from memory
SOFTWARE_LOOK_BD: Final = 57_600.0


class Made(NamedTuple):
    """A speed as it comes out: its error as a ratio, and whether it runs at double speed."""

    error_ratio: float
    is_double: bool


def made_speed(clock_hz: float, baud_bd: float) -> Made:
    """Return what a divider by 8 or 16 makes of a speed, as the usual library sets it."""
    is_double = not (baud_bd == NO_DOUBLE_BD and clock_hz == SIXTEEN_MHZ)
    return Made(divided_error(clock_hz, baud_bd, 8 if is_double else 16), is_double)


def divided_error(clock_hz: float, baud_bd: float, by: int) -> float:
    """Return the error of a speed as a ratio, positive where it comes out too fast.

    Args:
        clock_hz: the chip's clock.
        baud_bd: the speed that is wanted.
        by: 16, or 8 at double speed.
    """
    steps = max(1, round(clock_hz / (by * baud_bd)))
    return clock_hz / (by * steps) / baud_bd - 1
