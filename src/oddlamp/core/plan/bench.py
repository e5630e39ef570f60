"""What was done at the bench, as the plan keeps it: wires that are in, what was measured at each step, what waits."""

from typing import Annotated, Final, Literal

from pydantic import BeforeValidator, Field, StringConstraints

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Label, Moment

ROWS_MOST: Final = 6000
WireId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9_.:~+-]*$", max_length=160)]
StepId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9_.:~+-]*$", max_length=160)]
What = Annotated[str, StringConstraints(min_length=1, max_length=200)]
Pass = Literal["mock_up", "final"]


def read_amount(given: object) -> object:
    """Read an amount of money as people write it: 0,35 or 0.35."""
    return given.strip().replace(",", ".") if isinstance(given, str) else given


class Wired(Model):
    """A wire that is in: what it joined then, so that it can be told when the plan has moved it, and its colour."""

    joins: Annotated[str, StringConstraints(min_length=1, max_length=400)]
    colour: Label | None = None


class Checked(Model):
    """What was found at one step: a value with its unit, or only that it is as it should be, or is not."""

    value: Annotated[float, Field(ge=-1e4, le=1e9)] | None = None
    unit: Literal["V", "A", "ohm", "Hz", "s"] | None = None
    is_well: bool | None = Field(default=None, description="Of a step that is looked at and not measured")
    taken_at: Moment


class Stock(Model):
    """What is kept of one kind of part: how many there are, and what one costs, in the money of who buys."""

    has: Annotated[int, Field(ge=0, le=100_000)] | None = None
    price: Annotated[float, BeforeValidator(read_amount), Field(ge=0, le=1e6)] | None = None


class Bench(Model):
    """The work at the bench."""

    wired: Annotated[dict[WireId, Wired], Field(max_length=ROWS_MOST)] = Field(default_factory=dict)
    checked: dict[Pass, Annotated[dict[StepId, Checked], Field(max_length=ROWS_MOST)]] = Field(default_factory=dict)
    waits: Annotated[dict[StepId, Moment], Field(max_length=200)] = Field(
        default_factory=dict, description="When the wait of a step began"
    )
    stock: Annotated[dict[What, Stock], Field(max_length=2000)] = Field(
        default_factory=dict, description="By what the parts list calls it"
    )
    now: Pass | None = Field(default=None, description="The mock-up, where absent, or the final build")
