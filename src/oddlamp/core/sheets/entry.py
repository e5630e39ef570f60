"""Values that can be turned in place, and resistors to reach for, made from the numbers of the design."""

from oddlamp.core.base import si
from oddlamp.core.electrical.bands import band_colours, smd_marking
from oddlamp.core.electrical.preferred import Series
from oddlamp.core.sheets.models import Entry, MarkedResistor
from oddlamp.core.sheets.steps import steps
from oddlamp.core.values import Value


def entry(value: Value, *path: str, label: str | None = None, series: Series = "E24") -> Entry:
    """Make a value that can be turned, at its path in the plan.

    ``series`` is the one its resistances step through. Keeping a proposed part keeps its figures with it: written as one's own they would lose their spread.
    """
    is_figure = "overrides" in path
    lower, higher = steps(value, series)
    return Entry(
        label=label or value.label,
        text=value.text,
        path=path,
        origin=value.origin,
        because=value.because,
        value=value,
        settles=value.value if value.origin == "proposed" and not is_figure else None,
        lower=lower,
        higher=higher,
    )


def marked(ohm: float, tolerance_ratio: float) -> MarkedResistor:
    """Describe a resistor as it looks: bands and chip mark. Source: IEC 60062."""
    return MarkedResistor(label=si(ohm, "ohm"), bands=band_colours(ohm, tolerance_ratio), smd=smd_marking(ohm))
