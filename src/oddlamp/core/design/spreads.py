"""Lamps laid out along a run or in rows: where each stands, and how far its wires go."""

from dataclasses import dataclass, field
from typing import NamedTuple

from oddlamp.core.layouts.fit import Ends, Spaced

Place = tuple[float, float]


class Lead(NamedTuple):
    """How far it is to the first LED of a string and to its last, m: the same where it has one."""

    first_m: float
    last_m: float


@dataclass(frozen=True, slots=True)
class SpreadDesign:
    """One layout. ``spots`` are those of each lamp, one for each LED, m along the run and down to the row; ``leads`` are the wires to each of its strings.

    Lamps that find no room are in ``left`` and in neither of the others.
    """

    id: str
    label: str
    along: Spaced
    ends: Ends
    rows: int
    in_row: int
    row_pitch_m: float
    board_m: float
    away_m: float
    spots: dict[str, tuple[Place, ...]] = field(default_factory=dict)
    leads: dict[str, tuple[Lead, ...]] = field(default_factory=dict)
    left: tuple[str, ...] = ()

    @property
    def count(self) -> int:
        """How many spots there are, those without room too."""
        return sum(map(len, self.spots.values()))


def leads_of(spreads: dict[str, SpreadDesign]) -> dict[str, tuple[Lead, ...]]:
    """Return how long the wires to the strings of each lamp are that is laid out, m."""
    return {lamp: it for spread in spreads.values() for lamp, it in spread.leads.items()}
