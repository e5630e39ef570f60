"""A rhythm that was tapped along with a light, matched with the blinks of a family."""

from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Final, NamedTuple

OFF_RATIO: Final = 0.35  # how far a thumb is off at a blink of a second; common practice, no source
OFF_S: Final = 0.08  # and at a quick one
TAPS_LEAST: Final = 3


class Match(NamedTuple):
    """A blink that fits, and how far off the taps were on average, as a share."""

    turns_s: tuple[float, ...]
    off_ratio: float


def period_of(turns_s: Sequence[float]) -> float:
    """Return how long a blink takes to come round, s; of a steady or a dark light nothing."""
    return sum(turns_s) if len(turns_s) > 1 else 0.0


def matched(taps_s: Sequence[float], blinks: Sequence[tuple[float, ...]]) -> tuple[Match, ...]:
    """Match taps with blinks: one tap at each time the light goes on.

    Args:
        taps_s: when it was tapped, s, rising.
        blinks: lit and dark by turns, s, of each.
    Returns:
        Those that fit, the best first; none where too little was tapped.
    """
    gaps = [later - earlier for earlier, later in pairwise(taps_s)]
    if len(gaps) < TAPS_LEAST - 1 or min(gaps) <= 0:
        return ()
    found = []
    for turns in blinks:
        if len(turns) < 2:
            continue
        wanted = [on + off for on, off in zip(turns[::2], turns[1::2], strict=False)]
        offs = [_off(gaps, [wanted[(at + begins) % len(wanted)] for at in range(len(gaps))]) for begins in range(len(wanted))]
        # Few tap as quickly as a light blinks: every second or third time is the same rhythm.
        if len(wanted) == 1:
            offs += [_off(gaps, [times * wanted[0]] * len(gaps)) for times in (2, 3) if wanted[0] < 0.4]
        best = min(offs)
        if best <= 1:
            found.append(Match(turns, round(best, 3)))
    return tuple(sorted(found, key=lambda it: it.off_ratio))


def _off(gaps: Sequence[float], wanted: Sequence[float]) -> float:
    """Return how far gaps are off, on average, of what a thumb may be off."""
    return sum(abs(gap - want) / (OFF_RATIO * want + OFF_S) for gap, want in zip(gaps, wanted, strict=True)) / len(gaps)


def means_of(matches: Sequence[Match], meanings: Mapping[tuple[float, ...], str]) -> str:
    """Say what was tapped."""
    if not matches:
        return "No blink of it goes so: tap once each time it lights up, four times at least."
    first = matches[0]
    more = f", or {meanings[matches[1].turns_s]}" if len(matches) > 1 else ""
    return f"{meanings[first.turns_s]}{more}"
