"""Values that can be turned in place, and resistors to reach for, made from the numbers of the design."""

from collections.abc import Sequence

from oddlamp.core.base import si
from oddlamp.core.design.values import Value
from oddlamp.core.electrical.bands import band_colours, smd_marking
from oddlamp.core.electrical.preferred import Series, is_preferred, neighbour
from oddlamp.sheets.models import Entry, MarkedResistor
from oddlamp.sheets.steps import steps


def entry(value: Value, *, label: str | None = None, series: Series = "E24", drawer: Sequence[float] = ()) -> Entry:
    """Make a value that can be turned, at its own path in the plan.

    ``series`` is the one its resistances step through. Keeping a proposed part keeps its figures with it: written as one's own they would lose their spread.
    """
    is_figure = "overrides" in value.path
    lower, higher = steps(value, series)
    return Entry(
        label=label or value.label,
        text=value.text,
        path=value.path,
        origin=value.origin,
        because=value.because or _not_to_be_had(value, series, drawer),
        value=value,
        settles=value.value if value.origin == "proposed" and not is_figure else None,
        lower=lower,
        higher=higher,
    )


def _not_to_be_had(value: Value, series: Series, drawer: Sequence[float]) -> str | None:
    """Say of a resistor that was typed that nobody sells it, and what is next to it; None where it can be had."""
    ohm = value.value
    if value.unit != "ohm" or value.origin != "own" or ohm is None or not 1 <= ohm <= 1e7 or "overrides" in value.path:
        return None
    if is_preferred(ohm, series) or any(abs(ohm - own) < 1e-6 * ohm for own in drawer):
        return None
    below, above = neighbour(ohm, -1, series), neighbour(ohm, 1, series)
    return f"no value of {series}: {si(below, 'ohm')} and {si(above, 'ohm')} are the nearest one can buy"


def marked(ohm: float, tolerance_ratio: float) -> MarkedResistor:
    """Describe a resistor as it looks: bands and chip mark. Source: IEC 60062."""
    return MarkedResistor(label=si(ohm, "ohm"), bands=band_colours(ohm, tolerance_ratio), smd=smd_marking(ohm))
