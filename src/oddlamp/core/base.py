"""What every core model shares: strict frozen models, working, and numbers as people read them."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Final, Generic, TypeVar, dataclass_transform

from pydantic import BaseModel, ConfigDict, Field

T = TypeVar("T")


class Model(BaseModel):
    """A frozen record that refuses unknown fields, infinities and NaN."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


@dataclass_transform(frozen_default=True, kw_only_default=True)
def record(kind: type[T]) -> type[T]:
    """Make a record of what a review makes by the hundred: frozen for the type checker, and not looked after field by field at run time."""
    return dataclass(slots=True, kw_only=True, unsafe_hash=True)(kind)


class Same(Generic[T]):
    """Something as a key of a cache: the very object, not one that looks alike, so that nothing of it is compared."""

    def __init__(self, it: T) -> None:
        self.it = it

    def __hash__(self) -> int:
        return id(self.it)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other.it is self.it


@record
class Working:
    """One step of a calculation, as a reader would check it on paper.

    A plain record, like the others that a review makes by the hundred: checking each again took half of its time.
    """

    formula: Annotated[str, Field(description="The rule in symbols, as the source prints it")]
    substituted: Annotated[str, Field(description="The same with the numbers of this plan put in")]
    source: Annotated[str, Field(description="Key of the published source, or from-memory, common-practice, estimate")]


NO_BREAK: Final = "\u00a0"
UNIT_SIGNS: Final = {"ohm": "Ω", "ratio": "", "": ""}
_PREFIXES: Final = ((1e9, "G"), (1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"), (1e-12, "p"))


@lru_cache(maxsize=8192)  # a review writes the same limits and thresholds hundreds of times
def si(value: float, unit: str, *, digits: int = 3) -> str:
    """Write a quantity the way a bench note would: ``si(0.0187, "A")`` is ``18.7 mA``.

    Volts keep two decimals and no prefix (a limit of 3.60 V is compared with 3.51 V); ratios are
    per cent; all else is rounded to ``digits`` significant digits and loses trailing zeros.
    Args:
        value: the quantity in the unprefixed unit.
        unit: ``V``, ``A``, ``ohm``, ``W``, ``s``, ``Hz``, ``Bd``, ``ratio`` or empty for a count.
        digits: significant digits that the number deserves.
    """
    if unit == "ratio":
        return f"{value * 100:.3g}{NO_BREAK}%"
    sign = UNIT_SIGNS.get(unit, unit)
    if unit == "V":
        # 1.2k over 2.2k gives 3.515 V: binary floats must not decide which way the half goes.
        return f"{value + math.copysign(1e-9, value):.{2 if abs(value) < 9.995 else 1}f}{NO_BREAK}V"
    if value == 0 or unit in ("", "Bd"):
        return f"{value:.{max(digits, 6)}g}" + (f"{NO_BREAK}{sign}" if sign else "")
    rounded = float(f"{value:.{digits}g}")
    factor, prefix = next((pair for pair in _PREFIXES if abs(rounded) >= pair[0] * (1 - 1e-12)), _PREFIXES[-1])
    places = max(0, digits - 1 - math.floor(math.log10(abs(rounded) / factor) + 1e-9))
    text = f"{rounded / factor:.{places}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return f"{text}{NO_BREAK}{prefix}{sign}"


def at_most(value: float) -> float:
    """Round a positive aim down to two digits, so that it never passes what it was worked out from."""
    step = 10.0 ** (math.floor(math.log10(value)) - 1)
    return float(f"{math.floor(value / step * (1 + 1e-9)) * step:.2g}")


def first_free(stem: str, taken: Callable[[str], bool]) -> str:
    """Return ``stem``, or ``stem2``, ``stem3``, whichever is the first not taken."""
    number, name = 1, stem
    while taken(name):
        number += 1
        name = f"{stem}{number}"
    return name
