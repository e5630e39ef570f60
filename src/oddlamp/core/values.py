"""Values: numbers with their origin, spread, working, and how they read."""

from dataclasses import dataclass
from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model, Working, si
from oddlamp.core.parts.models import Sourced
from oddlamp.core.plan.fields import OwnValue
from oddlamp.core.plan.model import Reading

Origin = Literal["own", "measured", "part", "proposed", "computed"]
NOT_YET: Final = "not worked out yet"
Spread = tuple[float, float, float]


class Value(Model):
    """One number of the project, in unprefixed SI, with where it comes from."""

    id: str = Field(description="Dotted path, such as lamp.main.current_a")
    stage: str
    label: str
    value: float | None
    because: str | None = Field(default=None, description="Why there is no value, or why this one is proposed")
    unit: str
    min: float | None = Field(default=None, description="The least it may be at worst")
    max: float | None = Field(default=None, description="The most it may be at worst")
    origin: Origin
    working: tuple[Working, ...] = ()
    text: str = Field(description="The value as people read it")
    spread_text: str = Field(default="", description="Least to most, as people read it; empty without a spread")

    @property
    def low(self) -> float:
        """The least, or the value where there is no spread; only for values that are there."""
        return self.min if self.min is not None else self.known

    @property
    def high(self) -> float:
        """The most, or the value where there is no spread; only for values that are there."""
        return self.max if self.max is not None else self.known

    @property
    def known(self) -> float:
        """The number; raises ValueError where there is none."""
        if self.value is None:
            raise ValueError(f"{self.id} has no value: {self.because}")
        return self.value


@dataclass(frozen=True, slots=True, kw_only=True)
class Slot:
    """Where a value belongs: its id, stage, label and unit."""

    id: str
    stage: str
    label: str
    unit: str

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
        """Put a number in. ``spread`` is (least, most)."""
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
        )

    def stated(self, figure: Sourced, *, origin: Origin = "part", because: str | None = None, formula: str = "") -> Value:
        """Take a figure of a part, with its spread and source."""
        working = Working(
            formula=formula or self.label,
            substituted=si(figure.value, self.unit) + (f", {figure.conditions}" if figure.conditions else ""),
            source=figure.source,
        )
        return self.filled(figure.value, origin=origin, spread=(figure.low, figure.high), because=because, working=(working,))

    def measured(self, reading: Reading) -> Value:
        """Take a reading; it has no spread of its own."""
        return self.filled(reading.value, origin="measured", because=f"measured {reading.taken_at[:10]}")

    def own(self, own: OwnValue) -> Value:
        """Take the user's own figure for a part."""
        spread = (own.value if own.least is None else own.least, own.value if own.most is None else own.most)
        return self.filled(own.value, origin="own", spread=spread, because=own.note)


def first_known(slot: Slot, *, reading: Reading | None, own: OwnValue | None, part: Sourced, because: str | None = None) -> Value:
    """Choose by precedence: measured, own, part."""
    if reading is not None:
        return slot.measured(reading)
    return slot.own(own) if own is not None else slot.stated(part, because=because)
