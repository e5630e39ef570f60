"""Parts that give supply: sources, and converters that make one rail out of another."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from oddlamp.core.base import Model
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.fields import PartId

Share = Annotated[float, Field(ge=0, le=1)]


class SourcePart(Model):
    """A kind of supply. ``curve`` are shares of its charge that are used up, with the volts it then has at rest."""

    id: PartId
    label: str
    kind: Literal["usb", "bank", "adapter", "cells", "coin", "lithium", "track"]
    voltage_v: Sourced
    current_max_a: Sourced | None = None
    resistance_ohm: Sourced | None = Field(default=None, description="Of the source itself, where its volts sag under load")
    charge_ah: Sourced | None = Field(default=None, description="What it holds, Ah; the trade's unit, of 3600 C")
    empty_v: Sourced | None = Field(default=None, description="Where it is empty, or cuts off by itself, V")
    sleeps_under_a: Sourced | None = Field(default=None, description="It switches itself off where less is drawn for long")
    eased_a: Sourced | None = Field(default=None, description="What it gives for long; more costs much of its charge")
    pulse_a: Sourced | None = Field(default=None, description="What it gives for moments without a capacitor beside it")
    gap_s: Sourced | None = Field(default=None, description="How long it fails for moments, as wheels on a track do")
    curve: tuple[tuple[Share, float], ...] = Field(default=(), description="From full to empty; from memory")
    cells_in_series: Annotated[int, Field(ge=1, le=12)] | None = None
    is_swallowed: bool = Field(default=False, description="Small enough for a child to swallow")

    @property
    def is_lithium(self) -> bool:
        """Whether it is made of cells that want a charger of their own, and never a short."""
        return self.kind == "lithium"


class ConverterPart(Model):
    """A converter: a linear regulator, or one that switches. ``output_v`` of one with a trimmer is what it is set to."""

    id: PartId
    label: str
    kind: Literal["linear", "buck", "boost", "charger"]
    input_window_v: Sourced = Field(description="What may be fed to it, least to most")
    output_v: Sourced = Field(description="What it makes; least to most where a trimmer sets it")
    tolerance_ratio: Sourced = Field(description="How far off it may be once it is made, or set")
    has_trimmer: bool = False
    dropout_v: Sourced | None = Field(default=None, description="How much more its input must have, of a linear or step-down one")
    efficiency_ratio: Sourced | None = Field(default=None, description="Power out over power in, of one that switches")
    current_max_a: Sourced
    own_a: Sourced = Field(description="What it takes itself")
    heat_k_w: Sourced | None = Field(default=None, description="From its chip to the air, K/W, of a linear one")

    @model_validator(mode="after")
    def _is_whole(self) -> "ConverterPart":
        if self.kind == "linear" and (self.dropout_v is None or self.heat_k_w is None):
            raise ValueError("a linear regulator has dropout_v and heat_k_w")
        if self.kind != "linear" and (self.efficiency_ratio is None or not 0 < self.efficiency_ratio.high <= 1):
            raise ValueError("efficiency_ratio\n\nover 0 and at most 1")
        return self
