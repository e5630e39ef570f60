"""Where lamps stand that are laid out, and so how long the wires to them are: told once, read by levels, supply and bench."""

from typing import Final

from oddlamp.core.design.spreads import Lead, Place, SpreadDesign
from oddlamp.core.layouts.fit import Ends, lead_m, spaced
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.lights import Lamp
from oddlamp.core.plan.model import Plan, WireRun
from oddlamp.core.plan.spreads import Spread

PITCH_M: Final = 0.1  # a hand's breadth; common practice, no source
ENDS: Final[Ends] = "half"
SPOTS_MOST: Final = 5000


def resolve_spreads(plan: Plan, catalog: Catalog) -> dict[str, SpreadDesign]:
    """Lay out the lamps of every run."""
    usual_m = catalog.proposals["wire"].value or 0.2
    return {name: _spread(plan, name, it, usual_m) for name, it in plan.spreads.items()}


def strings_of(lamp: Lamp) -> tuple[int, int]:
    """Return how many strings of LEDs a lamp has side by side, and how many LEDs are in each; one of one where it has none."""
    channels = getattr(lamp, "channels", {}).values() if lamp.kind in ("led", "rgb") else ()
    return max((it.in_parallel or 1 for it in channels), default=1), max((it.in_series or 1 for it in channels), default=1)


def _spread(plan: Plan, name: str, it: Spread, usual_m: float) -> SpreadDesign:
    strings = {lamp: strings_of(plan.lamps[lamp]) for lamp in it.lamps}
    count = sum(many * each for many, each in strings.values())
    in_row = min(it.in_row or count, count) or 1
    ends: Ends = it.ends or ENDS
    along = spaced(in_row, it.room_m, it.pitch_m, ends, PITCH_M)
    row_pitch_m = it.row_pitch_m or along.pitch_m
    board_m, away_m = it.board_m or 0.0, usual_m if it.away_m is None else it.away_m

    def place(at: int) -> Place | None:
        row, column = divmod(at, in_row)
        return (along.first_m + column * along.pitch_m, row * row_pitch_m) if column < along.count and at < SPOTS_MOST else None

    def lead(spot: Place) -> float:
        return lead_m(*spot, board_m, away_m)

    spots, leads, left, at = dict[str, tuple[Place, ...]](), dict[str, tuple[Lead, ...]](), list[str](), 0
    for lamp, (many, each) in strings.items():
        mine = [place(at + index) for index in range(many * each)]
        found = tuple(spot for spot in mine if spot is not None)
        at += len(mine)
        if len(found) < len(mine):
            left.append(lamp)
            continue
        spots[lamp] = found
        leads[lamp] = tuple(Lead(lead(found[first]), lead(found[first + each - 1])) for first in range(0, len(found), each))
    return SpreadDesign(
        id=name, label=it.label or name.replace("_", " ").capitalize(), along=along, ends=ends, rows=-(-count // in_row),
        in_row=in_row, row_pitch_m=row_pitch_m, board_m=board_m, away_m=away_m, spots=spots, leads=leads, left=tuple(left),
    )  # fmt: skip


def led(wire: WireRun | None, leads: tuple[Lead, ...] | None) -> WireRun | None:
    """Return the wire to a lamp with the length that its place gives it, where none is told: that of the farthest of its strings."""
    if not leads or (wire is not None and wire.length_m is not None):
        return wire
    return (wire or WireRun()).model_copy(update={"length_m": max(max(it) for it in leads)})
