"""Where a node settles that several things feed or load: a pin at start-up, between pulls, LEDs and bases."""

from collections.abc import Callable, Sequence
from typing import Final, NamedTuple

from oddlamp.core.electrical.diode import DiodeCurve, curve_current_a

HALVINGS: Final = 60


class Hang(NamedTuple):
    """Something that hangs on a node: its name, and the current it brings into the node at a voltage, A. Falls with it."""

    name: str
    brings_a: Callable[[float], float]


def resistor_to(volts: float, resistance_ohm: float, name: str) -> Hang:
    """A resistor to fixed volts. Source: Ohm's law."""
    return Hang(name, lambda v: (volts - v) / resistance_ohm)


def led_down(curve: DiodeCurve, in_series: int, resistance_ohm: float, name: str) -> Hang:
    """LEDs with their resistor to ground: they only take. Source: diode equation."""
    return Hang(name, lambda v: -curve_current_a(curve, drive_v=v, resistance_ohm=resistance_ohm, in_series=in_series))


def led_up(curve: DiodeCurve, in_series: int, resistance_ohm: float, from_v: float, name: str) -> Hang:
    """LEDs with their resistor from a rail: they only bring. Source: diode equation."""
    return Hang(name, lambda v: curve_current_a(curve, drive_v=from_v - v, resistance_ohm=resistance_ohm, in_series=in_series))


def drop_down(drop_v: float, resistance_ohm: float, name: str) -> Hang:
    """A junction with a resistor to ground, such as a base: it takes what is over its drop. Source: constant drop."""
    return Hang(name, lambda v: -max(0.0, v - drop_v) / resistance_ohm)


def drop_up(drop_v: float, resistance_ohm: float, from_v: float, name: str) -> Hang:
    """A junction with a resistor from a rail: it brings what is over its drop. Source: constant drop."""
    return Hang(name, lambda v: max(0.0, from_v - drop_v - v) / resistance_ohm)


def settles_v(hangs: Sequence[Hang], *, most_v: float) -> float:
    """Return the volts at which the currents into a node add up to nothing, V; the lowest such where there is a stretch of them.

    Args:
        hangs: each brings no more at higher volts.
        most_v: no source is higher.
    Source: Kirchhoff's current law, by halving.
    """

    def is_rising(v: float) -> bool:
        return sum(hang.brings_a(v) for hang in hangs) > 1e-15

    low, high = 0.0, most_v
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if is_rising(middle) else (low, middle)
    return high if is_rising(high) else low
