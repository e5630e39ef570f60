"""Values: numbers with their origin, spread, working, and how they read."""

import math
from functools import lru_cache
from typing import Annotated, Final, Literal, NamedTuple, Protocol

from pydantic import Field

from oddlamp.core.base import Working, record, si
from oddlamp.core.electrical.led import Spread
from oddlamp.core.parts.own import OWN
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.model import Reading

Origin = Literal["own", "measured", "part", "proposed", "computed"]
NOT_YET: Final = "not worked out yet"


@record
class Value:
    """One number of the project, in unprefixed SI, with where it comes from. A plain record: a review makes thousands."""

    id: Annotated[str, Field(description="Dotted path, such as lamp.main.current_a")]
    stage: str
    label: str
    value: float | None
    because: Annotated[str | None, Field(description="Why there is no value, or why this one is proposed")] = None
    unit: str
    min: Annotated[float | None, Field(description="The least it may be at worst")] = None
    max: Annotated[float | None, Field(description="The most it may be at worst")] = None
    origin: Origin
    working: tuple[Working, ...] = ()
    text: Annotated[str, Field(description="The value as people read it")]
    spread_text: Annotated[str, Field(description="Least to most, as people read it; empty without a spread")] = ""
    path: Annotated[tuple[str, ...], Field(description="Where the plan keeps it; empty for what is only worked out")] = ()

    @property
    def low(self) -> float:
        """The least, or the value where there is no spread; only for values that are there."""
        return self.min if self.min is not None else self.known

    @property
    def high(self) -> float:
        """The most, or the value where there is no spread; only for values that are there."""
        return self.max if self.max is not None else self.known

    @property
    def source(self) -> str:
        """Where it comes from, as a key of the published sources; the user's own figures and readings have no working."""
        return self.working[0].source if self.working else OWN

    @property
    def known(self) -> float:
        """The number; raises ValueError where there is none."""
        if self.value is None:
            raise ValueError(f"{self.id} has no value: {self.because}")
        return self.value


class Slot(NamedTuple):
    """Where a value belongs: its id, stage, label and unit, and its place in the plan where it can be decided."""

    id: str
    stage: str
    label: str
    unit: str
    path: tuple[str, ...] = ()

    def filled(
        self,
        value: float,
        *,
        origin: Origin,
        spread: tuple[float, float] | None = None,
        because: str | None = None,
        working: tuple[Working, ...] = (),
        digits: int = 3,
    ) -> Value:
        """Put a number in. ``spread`` is (least, most). Raises ValueError for infinities and NaN, which no number here is."""
        if not math.isfinite(value) or (spread is not None and not (math.isfinite(spread[0]) and math.isfinite(spread[1]))):
            raise ValueError(f"{self.id} would be {value}, {spread}")
        least, most = spread if spread and spread != (value, value) else (None, None)
        return Value(
            id=self.id,
            stage=self.stage,
            label=self.label,
            unit=self.unit,
            value=value,
            min=least,
            max=most,
            origin=origin,
            because=because,
            working=working,
            text=si(value, self.unit, digits=digits),
            path=self.path,
            spread_text=""
            if least is None or most is None
            else f"{si(least, self.unit, digits=digits)} to {si(most, self.unit, digits=digits)}",
        )

    def empty(self, because: str, *, origin: Origin = "computed", working: tuple[Working, ...] = ()) -> Value:
        """Say why there is no number."""
        return Value(
            id=self.id,
            stage=self.stage,
            label=self.label,
            unit=self.unit,
            value=None,
            because=because,
            origin=origin,
            working=working,
            text=because,
            path=self.path,
        )

    def stated(self, figure: Sourced, *, origin: Origin = "part", because: str | None = None, formula: str = "") -> Value:
        """Take a figure of a part, with its spread and source; the user's own figure says that it is."""
        if figure.source == OWN:
            because = figure.conditions
            return self.filled(figure.value, origin="own", spread=(figure.low, figure.high), because=because)
        working = _as_stated(formula or self.label, figure.value, self.unit, figure.conditions, figure.source)
        return self.filled(figure.value, origin=origin, spread=(figure.low, figure.high), because=because, working=working)

    def measured(self, reading: Reading) -> Value:
        """Take a reading; it has no spread of its own."""
        return self.filled(reading.value, origin="measured", because=f"measured {reading.taken_at[:10]}")


@lru_cache(maxsize=2048)  # every lamp of a kind states the same figures
def _as_stated(formula: str, value: float, unit: str, conditions: str | None, source: str) -> tuple[Working, ...]:
    put_in = si(value, unit) + (f", {conditions}" if conditions else "")
    return (Working(formula=formula, substituted=put_in, source=source),)


class SlotMaker(Protocol):
    """Makes the slots of one lamp, line or rail: ``at`` is the place in the plan where the value can be decided."""

    def __call__(self, field: str, label: str, unit: str, at: tuple[str, ...] = ()) -> Slot:
        """Make the slot of a field."""


def first_known(slot: Slot, *, reading: Reading | None, part: Sourced, because: str | None = None) -> Value:
    """Choose by precedence: measured, then the part's figure, which may be the user's own."""
    return slot.measured(reading) if reading is not None else slot.stated(part, because=because)


def spread_of(value: Value) -> Spread:
    """Return a known value with its corners."""
    return Spread(least=value.low, value=value.known, most=value.high)
