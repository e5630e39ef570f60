"""Building blocks that the parts of a plan share."""

from typing import Annotated, Any, Literal

from pydantic import BeforeValidator, Field, StringConstraints

from oddlamp.core.base import Model
from oddlamp.core.plan.quantities import parse_quantity

Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]*$", max_length=40)]
SignalId = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]*\.[a-z][a-z0-9_]*$", max_length=81)]
PartId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]
Label = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
Note = Annotated[str, StringConstraints(max_length=2000)]
Moment = Annotated[str, StringConstraints(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$")]

OWN_UNITS = {
    "forward_voltage_v": "V",
    "absolute_current_a": "A",
    "voltage_v": "V",
    "resistance_ohm": "ohm",
    "ideality": "",
    "series_ohm": "ohm",
    "coil_ohm": "ohm",
    "current_a": "A",
}
OWN_MOST = {"V": 1000.0, "A": 100.0, "ohm": 1e6, "": 100.0}


class OwnValue(Model):
    """The user's own figure for a field of a part, in the unit of the field's name; spread optional."""

    value: float
    least: float | None = None
    most: float | None = None
    note: Note | None = None


def _read_overrides(given: Any) -> Any:
    """Read text quantities by the unit in the field's name; leave refusal of the rest to the model."""
    if not isinstance(given, dict):
        return given
    read: dict[Any, Any] = {}
    for field, own in given.items():
        unit = OWN_UNITS.get(field)
        if unit is None:
            raise ValueError(f"own values for {', '.join(sorted(OWN_UNITS))}; not for {field}")
        if isinstance(own, dict):
            own = {key: parse_quantity(v, unit) if isinstance(v, str) and key != "note" else v for key, v in own.items()}
            numbers = [own[key] for key in ("value", "least", "most") if isinstance(own.get(key), int | float)]
            most = OWN_MOST[unit]
            if any(not 0 < number <= most for number in numbers):
                raise ValueError(f"over 0 and at most {most:g} for {field}")
            low, value, high = own.get("least"), own.get("value"), own.get("most")
            if isinstance(value, int | float) and (
                (isinstance(low, int | float) and low > value) or (isinstance(high, int | float) and high < value)
            ):
                raise ValueError(f"least, value and most of {field} in that order")
        read[field] = own
    return read


class PartChoice(Model):
    """Which part is used, by its id in the catalogue, and the user's own figures for it."""

    part: PartId | None = None
    overrides: Annotated[dict[str, OwnValue], BeforeValidator(_read_overrides)] = Field(default_factory=dict)


class Saying(Model):
    """A word said on a talk."""

    talk: Id
    word: Id
    fill: dict[str, float | str] = Field(default_factory=dict)


LineEnding = Literal["none", "cr", "lf", "cr-lf"]
