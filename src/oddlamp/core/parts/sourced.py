"""A figure of a part, with its spread and where it was read."""

from typing import Annotated

from pydantic import Field, model_validator

from oddlamp.core.base import Model

SourceKey = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]*$")]


class Sourced(Model):
    """One figure of a part, in the unit of the field's name, with its spread and its source."""

    value: float
    least: float | None = None
    most: float | None = None
    source: SourceKey
    where: str | None = None
    conditions: str | None = None

    @model_validator(mode="after")
    def _in_order(self) -> "Sourced":
        if not self.low <= self.value <= self.high:
            raise ValueError("least, value and most are out of order")
        return self

    @property
    def low(self) -> float:
        """The least the figure may be."""
        return self.value if self.least is None else self.least

    @property
    def high(self) -> float:
        """The most the figure may be."""
        return self.value if self.most is None else self.most
