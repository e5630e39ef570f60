"""The volts along a strip: pixels one behind the other, each drawing its current, and both rails losing volts on the way."""

from collections.abc import Sequence
from typing import Final, NamedTuple

FULL_OVER_V: Final = 0.7  # over its forward voltage a colour draws all of its current; from memory
ROUNDS_MOST: Final = 60
EXACT_V: Final = 1e-10
LEAST_OHM: Final = 1e-9  # stands for none: what is joined without a wire
STEP_MOST_V: Final = FULL_OVER_V  # a longer step may jump over a bend of what a colour draws and back, for ever


class Colour(NamedTuple):
    """One colour of a pixel: all of its current from some volts over its forward voltage on, falling evenly to nothing at that.

    0.7 V of a pixel's own; of a plain strip, whose resistors set its current, all that is between the two.
    """

    current_a: float
    forward_voltage_v: float
    full_over_v: float = FULL_OVER_V


class Feed(NamedTuple):
    """Where both rails of a strip are fed: before which pixel, at which volts, and through how much wire, ohm."""

    at: int
    volts: float
    ohm: float = 0.0


class Strip(NamedTuple):
    """A strip solved: the volts at each pixel, what each draws, and what each feed gives, A."""

    volts: tuple[float, ...]
    drawn_a: tuple[float, ...]
    fed_a: tuple[float, ...]


class StripOpen(ValueError):
    """Nothing feeds a strip, or a feed stands where it has no pixel."""


def solved_strip(colours: Sequence[Sequence[Colour]], pitch_ohm: float, feeds: Sequence[Feed]) -> Strip:
    """Solve the volts at every pixel of a strip.

    Both rails are fed at the same places, so what one loses the other loses in proportion: together they are one ladder with
    the resistance of both. What pixels draw never falls with the volts, so there is one solution; Newton's method goes to it,
    a step at a time, none of which jumps over a whole bend of what they draw.

    Args:
        colours: for each pixel what its colours draw; a strip that rests draws its dark current alone.
        pitch_ohm: from one pixel to the next, both rails together, ohm; not under nothing.
        feeds: where it is fed; several at one pixel are one behind the other.
    Raises:
        StripOpen: it is fed nowhere, or outside of it.
    Source: Kirchhoff's current law.
    """
    count = len(colours)
    if not feeds or not count or any(not 0 <= it.at < count for it in feeds):
        raise StripOpen("a strip is fed at one of its pixels at least")
    pitch_s = 1 / max(pitch_ohm, LEAST_OHM)
    admits_s, brings_a = [0.0] * count, [0.0] * count
    for it in feeds:
        one_s = 1 / max(it.ohm, LEAST_OHM)
        admits_s[it.at] += one_s
        brings_a[it.at] += it.volts * one_s
    volts = [max(it.volts for it in feeds)] * count
    drawn = [0.0] * count
    for _ in range(ROUNDS_MOST):
        most = _step(colours, pitch_s, admits_s, brings_a, volts, drawn)
        if most < EXACT_V:
            break
    given = [
        drawn[at] + sum((volts[at] - volts[it]) * pitch_s for it in (at - 1, at + 1) if 0 <= it < count) for at in range(count)
    ]
    fed = tuple(given[it.at] / (max(it.ohm, LEAST_OHM) * admits_s[it.at]) for it in feeds)
    return Strip(tuple(volts), tuple(drawn), fed)


def _step(
    colours: Sequence[Sequence[Colour]],
    pitch_s: float,
    admits_s: Sequence[float],
    brings_a: Sequence[float],
    volts: list[float],
    drawn: list[float],
) -> float:
    """Make one step for all pixels, in place, and return how long it was, V: three diagonals, solved from one end and back."""
    count = len(volts)
    last = count - 1
    diagonal, right = [0.0] * count, [0.0] * count
    before_v = share = carried_a = 0.0
    known: Sequence[Colour] = ()
    law: tuple[tuple[float, ...], tuple[float, ...], tuple[float, ...]] = ((), (), ())
    for at in range(count):
        v, mine = volts[at], colours[at]
        if mine is not known:  # most strips have the same pixel all along
            known = mine
            law = (
                tuple(it.forward_voltage_v for it in mine),
                tuple(it.current_a for it in mine),
                tuple(it.full_over_v for it in mine),
            )
        drawn_a = slope_s = 0.0
        for forward_v, current_a, full_v in zip(*law, strict=True):
            over_v = v - forward_v
            if over_v >= full_v:
                drawn_a += current_a
            elif over_v > 0.0:
                drawn_a += current_a * over_v / full_v
                slope_s += current_a / full_v
        drawn[at] = drawn_a
        leaves_a, total_s = drawn_a + admits_s[at] * v - brings_a[at], slope_s + admits_s[at]
        if at:
            leaves_a += (v - before_v) * pitch_s
            total_s += pitch_s - share * pitch_s
        if at < last:
            leaves_a += (v - volts[at + 1]) * pitch_s
            total_s += pitch_s
        carried_a = share * carried_a - leaves_a
        diagonal[at], right[at] = total_s, carried_a
        share, before_v = pitch_s / total_s, v
    beyond = most = 0.0
    steps = right
    for at in range(last, -1, -1):
        beyond = steps[at] = (right[at] + pitch_s * beyond if at < last else right[at]) / diagonal[at]
        most = max(most, beyond, -beyond)
    held = min(1.0, STEP_MOST_V / most) if most > STEP_MOST_V else 1.0
    for at in range(count):
        volts[at] += held * steps[at]
    return most


def fewest_feeds(
    colours: Sequence[Sequence[Colour]], pitch_ohm: float, first: Feed, least_v: float, *, most: int = 64
) -> tuple[Feed, ...] | None:
    """Find the fewest places to feed a strip at so that no pixel has less than some volts; None where no number does.

    It begins where it is fed now; each further place is alike, and they are spread so that the pixels furthest from any have
    the most: first as many as clear it evenly, then fewer as long as those do, moved about.

    Args:
        colours: for each pixel what its colours draw.
        pitch_ohm: from one pixel to the next, both rails together, ohm.
        first: the feed there is; the others are fed as it is.
        least_v: what every pixel is to have.
        most: how many places at most.
    """
    evenly = range(1, min(most, len(colours)) + 1)
    enough = next((it for it in evenly if _least(colours, pitch_ohm, first, _even(first, it, len(colours) - 1)) >= least_v), None)
    if enough is None:
        return None
    found = None
    for count in range(enough, 0, -1):  # moved about, one or two fewer may do
        fewer = _spread(colours, pitch_ohm, first, count, least_v)
        if fewer is None:
            break
        found = fewer
    return found


def _even(first: Feed, count: int, last: int) -> list[int]:
    return [first.at, *(round(first.at + (last - first.at) * at / (count - 0.5)) for at in range(1, count))]


def _spread(
    colours: Sequence[Sequence[Colour]], pitch_ohm: float, first: Feed, count: int, least_v: float
) -> tuple[Feed, ...] | None:
    """Place so many feeds, each moved by turns to where the pixel that has least has most; None where that is too little."""
    last = len(colours) - 1
    places = _even(first, count, last)
    best = _least(colours, pitch_ohm, first, places)
    is_moving = True
    while is_moving and best < least_v:
        is_moving = False
        for which in range(1, count):
            for step in (-4, -1, 1, 4):
                tried = [*places[:which], min(max(places[which] + step, 0), last), *places[which + 1 :]]
                found = _least(colours, pitch_ohm, first, tried)
                if found > best + EXACT_V:
                    best, places, is_moving = found, tried, True
    return tuple(first._replace(at=it) for it in sorted(places)) if best >= least_v else None


def _least(colours: Sequence[Sequence[Colour]], pitch_ohm: float, first: Feed, places: Sequence[int]) -> float:
    return min(solved_strip(colours, pitch_ohm, [first._replace(at=it) for it in sorted(set(places))]).volts)
