"""Many builds at once: what comes out when the parts are drawn at random inside their spreads."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Final

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.electrical.led import LedBranch, Spread
from oddlamp.core.electrical.level import Divider
from oddlamp.core.english import and_list

if TYPE_CHECKING:
    import numpy as np

    Draws = np.ndarray[tuple[int], np.dtype[np.float64]]

BUILDS: Final = 10_000
BINS: Final = 40


class Bin(Model):
    """How many builds fall in one stretch, in the unit of the whole."""

    least: float
    most: float
    count: int


class Bound(Model):
    """An end that no build should go past, and the share that does."""

    at: float
    text: str
    is_most: bool
    past_ratio: float


class ManyBuilds(Model):
    """The outcome of many builds, drawn with a seed, so that it can be drawn again."""

    sentence: str
    builds: int
    unit: str
    least: float
    median: float
    most: float
    least_text: str
    most_text: str
    bounds: tuple[Bound, ...] = Field(description="The ends they are held against")
    bins: tuple[Bin, ...]


def many_builds(branch: LedBranch, *, resistance_ohm: float, limit_a: float, seed: int, builds: int = BUILDS) -> ManyBuilds:
    """Draw supply, drop, switch and resistor inside their spreads and solve the diode curve of every build at once, A.

    Supply, drop and driver are drawn triangular around their nominal value, the resistor evenly inside its tolerance.
    Strings side by side are drawn alike: what drives them carries the current of all.
    Args:
        branch: with a curve, a resistor to each string.
        resistance_ohm: the resistor fitted, ohm.
        limit_a: the LED's absolute limit, A.
        seed: of the generator.
        builds: how many.
    Source: diode equation in closed form by the Wright omega function; V = a ln(1 + I/Is) + I R.
    """
    # Loaded on first use: most reviews never need them, and they take a second.
    import numpy as np
    from scipy.special import wrightomega

    curve = branch.curve
    if curve is None:
        raise ValueError("many builds need the diode curve")
    spread, even = _drawing(seed, builds)
    drive = spread(branch.drive_voltage_v) - spread(branch.driver_drop_v)
    string = spread(branch.forward_voltage_v)
    resistor = max(resistance_ohm, 1e-3) * even(branch.tolerance_ratio)
    driver = branch.in_parallel * spread(branch.driver_resistance_ohm)
    ohm = resistor + driver + branch.in_series * curve.series_ohm
    junction = np.maximum(string / branch.in_series - curve.at_current_a * curve.series_ohm, 1e-3)
    saturation = curve.at_current_a / np.expm1(np.minimum(junction / curve.slope_v, 600.0))
    scale = branch.in_series * curve.slope_v
    omega = wrightomega((np.maximum(drive, 0) + saturation * ohm) / scale + np.log(saturation * ohm / scale))
    current = np.maximum(scale * omega.real / ohm - saturation, 0.0)
    counted = ", the resistance of what drives it counted," if branch.driver_resistance_ohm.most > 0 else ""
    return _told(current, "A", f"builds{counted} get", most=limit_a)


def many_levels(
    drive_voltage_v: Spread, divider: Divider, *, limit_v: float, high_v: float, seed: int, builds: int = BUILDS
) -> ManyBuilds:
    """Draw supply and both resistors of a divider inside their spreads, V.

    The supply is drawn triangular around its nominal value, each resistor evenly inside its tolerance.
    Args:
        drive_voltage_v: what the sender gives, V.
        divider: with its load, which is taken as exact; its leak is drawn evenly, up or down.
        limit_v: what the receiver may have at most, V.
        high_v: from where it hears a high, V.
        seed: of the generator.
        builds: how many.
    Source: V_out = (V_in + I R1) R2 / (R1 + R2).
    """
    spread, even = _drawing(seed, builds)
    upper, lower = divider.upper_ohm * even(divider.tolerance_ratio), divider.lower_ohm * even(divider.tolerance_ratio)
    burden, drive = divider.burden, spread(drive_voltage_v)
    if burden.load_ohm is not None:
        lower = 1 / (1 / lower + 1 / burden.load_ohm)
    drive = drive + burden.leakage_a * (even(1.0) - 1) * upper
    return _told(drive * lower / (upper + lower), "V", "builds pass on", most=limit_v, least=high_v)


def _drawing(seed: int, builds: int) -> tuple[Callable[[Spread], "Draws"], Callable[[float], "Draws"]]:
    """Return how spreads are drawn, and how tolerances are, one after the other from one seed."""
    import numpy as np

    draw = np.random.default_rng(seed)

    def spread(it: Spread) -> "Draws":
        return np.full(builds, it.value) if it.most <= it.least else draw.triangular(it.least, it.value, it.most, builds)

    return spread, lambda tolerance: draw.uniform(1 - tolerance, 1 + tolerance, builds)


def _told(outcome: "Draws", unit: str, what: str, *, most: float, least: float | None = None) -> ManyBuilds:
    import numpy as np

    # Where hardly anything is drawn the outcomes differ by less than the numbers can tell: one narrow heap.
    ends = (float(outcome.min()), float(outcome.max()))
    room = max(0.0, BINS * 1e-12 * abs(ends[1]) + 1e-30 - (ends[1] - ends[0]))
    counts, edges = np.histogram(outcome, bins=BINS, range=(ends[0] - room, ends[1] + room))
    low, middle, high = (float(it) for it in np.quantile(outcome, (0.05, 0.5, 0.95)))
    over = Bound(at=most, text=si(most, unit), is_most=True, past_ratio=float(np.mean(outcome > most)))
    bounds = [over]
    if least is not None:
        bounds.append(Bound(at=least, text=si(least, unit), is_most=False, past_ratio=float(np.mean(outcome < least))))
    past = [
        f"{si(it.past_ratio, 'ratio', digits=2)} go {'past' if it.is_most else 'under'} {it.text}"
        if it.past_ratio
        else f"none goes {'past' if it.is_most else 'under'} {it.text}"
        for it in bounds
    ]
    told = "Nine in ten of " + f"{len(outcome):,}".replace(",", "\u202f")
    return ManyBuilds(
        sentence=f"{told} {what} {si(low, unit)} to {si(high, unit)}; {and_list(past)}.",
        builds=len(outcome),
        unit=unit,
        least=float(outcome.min()),
        median=middle,
        most=float(outcome.max()),
        least_text=si(float(outcome.min()), unit),
        most_text=si(float(outcome.max()), unit),
        bounds=tuple(bounds),
        bins=tuple(
            Bin(least=float(a), most=float(b), count=int(n)) for a, b, n in zip(edges[:-1], edges[1:], counts, strict=True)
        ),
    )
