"""Building blocks that the parts of a plan share."""

import re
from typing import Annotated, Any, Final, Literal

from pydantic import BeforeValidator, Field, StringConstraints

from oddlamp.core.base import Model
from oddlamp.core.plan.quantities import parse_quantity

Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]*$", max_length=40)]
SignalId = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]*\.[a-z][a-z0-9_]*$", max_length=81)]
OwnPartId = Annotated[str, StringConstraints(pattern=r"^own-[a-z0-9][a-z0-9-]*$", max_length=60)]
PartId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]
Label = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
Note = Annotated[str, StringConstraints(max_length=2000)]
Moment = Annotated[str, StringConstraints(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$")]

UNIT_BY_ENDING: Final = {
    "_v": "V",
    "_a": "A",
    "_ohm": "ohm",
    "_f": "F",
    "_s": "s",
    "_hz": "Hz",
    "_w": "W",
    "_bd": "Bd",
    "_ratio": "ratio",
    "ideality": "",
}
OWN_MOST: Final = {
    "V": 1000.0,
    "A": 100.0,
    "ohm": 1e8,
    "": 100.0,
    "F": 1.0,
    "s": 1e4,
    "Hz": 1e9,
    "W": 1e4,
    "Bd": 4e6,
    "ratio": 1.0,
}


def own_unit(field: str) -> str | None:
    """Return the unit that the name of a part's figure ends in; None where it ends in none."""
    return next((unit for ending, unit in UNIT_BY_ENDING.items() if field.endswith(ending)), None)


class OwnValue(Model):
    """The user's own figure for a field of a part, in the unit of the field's name; spread optional."""

    value: float
    least: float | None = None
    most: float | None = None
    note: Note | None = None


_WITH_SPREAD = re.compile(r"(?P<value>[^(]+?)\s*\(\s*(?P<least>[^()]+?)\s+to\s+(?P<most>[^()]+?)\s*\)")
_ONLY_SPREAD = re.compile(r"(?P<least>[^()]+?)\s+to\s+(?P<most>[^()]+?)")


def _read_own(text: str, unit: str) -> dict[str, float]:
    """Read ``2.1 V``, ``2.1 V (1.9 to 2.3)`` or ``1.9 to 2.3``, whose middle is then taken."""
    found = _WITH_SPREAD.fullmatch(text.strip()) or _ONLY_SPREAD.fullmatch(text.strip())
    if found is None:
        return {"value": parse_quantity(text, unit)}
    own = {key: parse_quantity(given, unit) for key, given in found.groupdict().items()}
    return own if "value" in own else {**own, "value": (own["least"] + own["most"]) / 2}


def _read_figures(given: Any) -> Any:
    """Read own figures, text by the unit in the field's name; leave refusal of the rest to the model."""
    if not isinstance(given, dict):
        return given
    read: dict[Any, Any] = {}
    for field, own in given.items():
        unit = own_unit(str(field))
        if unit is None:
            raise ValueError(f"figures whose names end in their unit, such as forward_voltage_v; not {field}")
        if isinstance(own, str):
            own = _read_own(own, unit)
        elif isinstance(own, int | float) and not isinstance(own, bool):
            own = {"value": own}
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


Figures = Annotated[dict[str, OwnValue], BeforeValidator(_read_figures)]


class PartChoice(Model):
    """Which part is used, by its id in the catalogue, and the user's own figures for it."""

    part: PartId | None = None
    overrides: Figures = Field(default_factory=dict)


class Saying(Model):
    """A word said on a talk."""

    talk: Id
    word: Id
    fill: dict[str, float | str] = Field(default_factory=dict)


LineEnding = Literal["none", "cr", "lf", "cr-lf"]
