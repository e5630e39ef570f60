"""How much fits where: lamps spread along a run or in rows, and strip cut at its marks. Lengths in metres."""

import math
from dataclasses import dataclass
from typing import Final, Literal

from oddlamp.core.errors import OutOfRange

Ends = Literal["at", "half", "whole"]
# How far from an end the first lamp stands, of the way from lamp to lamp. All three are in use; common practice, no source.
END_RATIO: Final[dict[Ends, float]] = {"at": 0.0, "half": 0.5, "whole": 1.0}
SAME: Final = 1e-9


@dataclass(frozen=True, slots=True)
class Stretched:
    """How many pitches of a strip fit into some room, how long they are together, and what is left over, m."""

    count: int
    length_m: float
    left_m: float


@dataclass(frozen=True, slots=True)
class Spaced:
    """Lamps along a run: from lamp to lamp, from the end to the first one, the room they stand in, and how many have one there."""

    pitch_m: float
    first_m: float
    room_m: float
    count: int


def cut_to(room_m: float, pitch_m: float, every: int = 1) -> Stretched:
    """Return how much of a strip fits: each pixel has half a pitch on both sides, and it is cut only at its marks.

    Args:
        room_m: the room along it, m.
        pitch_m: from pixel to pixel, m.
        every: pixels from one cut mark to the next.
    Raises:
        OutOfRange: a pitch or a number between marks that is not above nothing, or room below nothing.
    """
    if not pitch_m > 0 or every < 1:
        raise OutOfRange(field="pitch", given=pitch_m if every >= 1 else every, allowed="more than nothing")
    if not room_m >= 0:
        raise OutOfRange(field="room", given=room_m, allowed="0 m or more")
    stretch_m = pitch_m * every
    count = every * math.floor(room_m / stretch_m + SAME)
    return Stretched(count, count * pitch_m, max(0.0, room_m - count * pitch_m))


def spaced(count: int, room_m: float | None, pitch_m: float | None, ends: Ends, usual_m: float) -> Spaced:
    """Space lamps evenly along a run.

    With the room alone they fill it; with the pitch alone they take the room they need; with both, as many as fit stand
    in its middle and share at both ends what is left over.

    Args:
        count: how many there are, one at least.
        room_m: the length of the run, m.
        pitch_m: from lamp to lamp, m.
        ends: whether the first and last stand at the very ends, or half or a whole pitch from them.
        usual_m: the pitch where neither is told, m.
    """
    at_ends = 2 * END_RATIO[ends]
    if room_m is None:
        each = pitch_m or usual_m
        return Spaced(each, END_RATIO[ends] * each, (count - 1 + at_ends) * each, count)
    if pitch_m is None:
        gaps = count - 1 + at_ends
        if gaps == 0:  # one lamp, and no end to stand at
            return Spaced(room_m, room_m / 2, room_m, 1)
        return Spaced(room_m / gaps, END_RATIO[ends] * room_m / gaps, room_m, count)
    fits = max(0, min(count, math.floor(room_m / pitch_m - at_ends + SAME) + 1))
    return Spaced(pitch_m, (room_m - max(fits - 1, 0) * pitch_m) / 2, room_m, fits)


def lead_m(across_m: float, down_m: float, board_m: float, away_m: float) -> float:
    """Return how long the wire to a lamp is that is laid along the run and then along its row, m."""
    return away_m + abs(across_m - board_m) + down_m
