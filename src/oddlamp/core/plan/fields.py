"""Building blocks that the parts of a plan share."""

from typing import Annotated, Any, Final, Literal

from pydantic import BeforeValidator, Field, StringConstraints

from oddlamp.core.base import Model
from oddlamp.core.plan.infrared import read_timings
from oddlamp.core.plan.quantities import UNIT_NAMES, parse_quantity

Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]*$", max_length=40)]
SignalId = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]*\.[a-z][a-z0-9_]*$", max_length=81)]
OwnPartId = Annotated[str, StringConstraints(pattern=r"^own-[a-z0-9][a-z0-9-]*$", max_length=60)]
PartId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]*$", max_length=60)]
Label = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
Note = Annotated[str, StringConstraints(max_length=2000)]
Moment = Annotated[str, StringConstraints(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$", max_length=40)]

UNIT_BY_ENDING: Final = {
    "_k_w": "K/W",
    "_ah": "Ah",
    "_v": "V",
    "_a": "A",
    "_ohm": "ohm",
    "_f": "F",
    "_s": "s",
    "_hz": "Hz",
    "_w": "W",
    "_bd": "Bd",
    "_m": "m",
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
    "m": 1e4,
    "ratio": 1.0,
    "Ah": 1e4,
    "K/W": 1e4,
}


def own_unit(field: str) -> str | None:
    """Return the unit that the name of a part's figure ends in; None where it ends in none."""
    return next((unit for ending, unit in UNIT_BY_ENDING.items() if field.endswith(ending)), None)


TIMINGS_MOST: Final = 2000
SPREAD_MOST: Final = 200


class OwnValue(Model):
    """The user's own figure for a field of a part, in the unit of the field's name; spread optional."""

    value: float
    least: float | None = None
    most: float | None = None
    note: Note | None = None
    source: Annotated[str, StringConstraints(pattern=r"^[a-z0-9-]+$", max_length=60)] | None = Field(
        default=None,
        description="Where a copied figure was read, a key of the references; absent where it is the user's own word",
    )


def _read_own(text: str, unit: str) -> dict[str, float]:
    """Read ``2.1 V``, ``2.1 V (1.9 to 2.3)`` or ``1.9 to 2.3``, whose middle is then taken."""
    if len(text) > SPREAD_MOST:  # length first: nothing below looks at a text that could be none
        return {"value": parse_quantity(text[:SPREAD_MOST], unit)}
    value, bracket, rest = " ".join(text.split()).partition("(")
    spread = rest.removesuffix(")") if bracket else value
    least, to, most = spread.partition(" to ")
    if not to or (bracket and not rest.endswith(")")):
        return {"value": parse_quantity(text, unit)}
    own = {"least": parse_quantity(least, unit), "most": parse_quantity(most, unit)}
    return {**own, "value": parse_quantity(value, unit) if bracket else (own["least"] + own["most"]) / 2}


def _read_figures(given: Any) -> Any:
    """Read own figures, text by the unit in the field's name; leave refusal of the rest to the model."""
    if not isinstance(given, dict):
        return given
    read: dict[Any, Any] = {}
    for field, own in given.items():
        unit = own_unit(str(field))
        if unit is None or not str(field).isascii():
            raise ValueError(f"figures whose names end in their unit, such as forward_voltage_v; not {field}")
        if isinstance(own, str):
            own = _read_own(own, unit)
        elif isinstance(own, int | float) and not isinstance(own, bool):
            own = {"value": own}
        if isinstance(own, dict):
            own = {
                key: parse_quantity(v, unit) if isinstance(v, str) and key not in ("note", "source") else v
                for key, v in own.items()
            }
            numbers = [own[key] for key in ("value", "least", "most") if isinstance(own.get(key), int | float)]
            most = OWN_MOST[unit]
            wrong = next((number for number in numbers if not 0 < number <= most), None)
            if wrong is not None:  # where, what was given, what is allowed
                raise ValueError(f"{field}\n{wrong}\nover 0 and at most {most:.12g} {UNIT_NAMES.get(unit, '')}".rstrip())
            low, value, high = own.get("least"), own.get("value"), own.get("most")
            if isinstance(value, int | float) and (
                (isinstance(low, int | float) and low > value) or (isinstance(high, int | float) and high < value)
            ):
                raise ValueError("least, value and most in that order")
        read[field] = own
    return read


FigureName = Annotated[str, StringConstraints(pattern=r"^[a-z0-9_]+$", max_length=60)]
Figures = Annotated[dict[FigureName, OwnValue], BeforeValidator(_read_figures)]


class PartChoice(Model):
    """Which part is used, by its id in the catalogue, and the user's own figures for it."""

    part: PartId | None = None
    overrides: Figures = Field(default_factory=dict)


FillText = Annotated[str, StringConstraints(max_length=80)]


class Saying(Model):
    """A word said on a talk, with its values: settled ones, ``{level}`` as it was carried, ``{moon.level}`` as a lamp is now."""

    talk: Id
    word: Id
    fill: dict[FillText, float | FillText] = Field(default_factory=dict)


LineEnding = Literal["none", "cr", "lf", "cr-lf"]


def read_code(given: object) -> object:
    """Read a code as it is printed, with 0x before it or without, or from the marks and spaces that a receiver saw, us."""
    if not isinstance(given, str):
        return given
    try:
        learned = read_timings(given[:TIMINGS_MOST])
    except ValueError as error:
        raise ValueError(f"code\n{given[:60]}\nmarks and spaces of a remote's code: {error}") from None
    if learned is not None:
        return learned
    try:
        return int(given.replace(" ", ""), 16)
    except ValueError:
        raise ValueError(
            f"code\n{given}\na hexadecimal number, such as 0x20DF10EF, or the marks and spaces that a receiver saw"
        ) from None
