"""Lamps spread along a run or in rows: where each stands, and so how far its wires go."""

from typing import Annotated, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.plan.fields import Id, Label
from oddlamp.core.plan.quantities import Metre

Room = Annotated[Metre, Field(ge=0.001, le=1000)]


class Spread(Model):
    """Lamps along a run, in their order, or in rows of so many; from the board on their wires are laid along it."""

    label: Label | None = None
    lamps: Annotated[tuple[Id, ...], Field(max_length=500)] = ()
    in_row: Annotated[int, Field(ge=1, le=500)] | None = Field(default=None, description="All in one row where absent")
    room_m: Room | None = Field(default=None, description="The length of the run, m; as long as they need where absent")
    pitch_m: Room | None = Field(default=None, description="From lamp to lamp, m; as the room has it where absent")
    row_pitch_m: Room | None = Field(default=None, description="From row to row, m; the same as from lamp to lamp where absent")
    ends: Literal["at", "half", "whole"] | None = Field(
        default=None, description="Where the first and last stand: at the very ends, or half or a whole pitch from them"
    )
    board_m: Annotated[Metre, Field(ge=0, le=1000)] | None = Field(
        default=None, description="Where along the run their wires come from, m; its start where absent"
    )
    away_m: Annotated[Metre, Field(ge=0, le=1000)] | None = Field(default=None, description="From there to the board itself, m")
