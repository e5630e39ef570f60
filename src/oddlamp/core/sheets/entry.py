"""Values that can be turned in place, made from the numbers of the design."""

from oddlamp.core.sheets.models import Entry
from oddlamp.core.sheets.steps import steps
from oddlamp.core.values import Value


def entry(value: Value, *path: str, label: str | None = None) -> Entry:
    """Make a value that can be turned, at its path in the plan."""
    lower, higher = steps(value)
    return Entry(
        label=label or value.label,
        text=value.text,
        path=path,
        origin=value.origin,
        because=value.because,
        value=value,
        settles=value.value if value.origin == "proposed" else None,
        lower=lower,
        higher=higher,
    )
