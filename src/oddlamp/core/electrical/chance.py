"""Many builds at once: what a lamp gets when its parts are drawn at random inside their spreads."""

from typing import TYPE_CHECKING, Final

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.electrical.led import LedBranch, Spread

if TYPE_CHECKING:
    import numpy as np

BUILDS: Final = 10_000
BINS: Final = 40


class Bin(Model):
    """How many builds fall in one stretch of current."""

    from_a: float
    to_a: float
    count: int


class ManyBuilds(Model):
    """The outcome of many builds, drawn with a seed, so that it can be drawn again."""

    sentence: str
    builds: int
    least_a: float
    median_a: float
    most_a: float
    over_limit_ratio: float = Field(description="Share of builds past the LED's limit")
    bins: tuple[Bin, ...]


def many_builds(branch: LedBranch, *, resistance_ohm: float, limit_a: float, seed: int, builds: int = BUILDS) -> ManyBuilds:
    """Draw supply, drop, switch and resistor inside their spreads and solve the diode curve of every build at once.

    Supply, drop and driver are drawn triangular around their nominal value, the resistor evenly inside its tolerance.
    Args:
        branch: with a curve.
        resistance_ohm: the resistor fitted, ohm.
        limit_a: the LED's absolute limit, A.
        seed: of the generator.
        builds: how many.
    Source: diode equation in closed form by the Wright omega function; V = a ln(1 + I/Is) + I R.
    """
    # Loaded on first use: most reviews never need them, and they take a second.
    import numpy as np
    from scipy.special import wrightomega

    draw, curve = np.random.default_rng(seed), branch.curve
    if curve is None:
        raise ValueError("many builds need the diode curve")

    def spread(it: Spread) -> "np.ndarray[tuple[int], np.dtype[np.float64]]":
        if it.most <= it.least:
            return np.full(builds, it.value)
        return draw.triangular(it.least, it.value, it.most, builds)

    drive = spread(branch.drive_voltage_v) - spread(branch.driver_drop_v)
    string = spread(branch.forward_voltage_v)
    tolerance = draw.uniform(1 - branch.tolerance_ratio, 1 + branch.tolerance_ratio, builds)
    ohm = max(resistance_ohm, 1e-3) * tolerance + spread(branch.driver_resistance_ohm) + branch.in_series * curve.series_ohm
    junction = np.maximum(string / branch.in_series - curve.at_current_a * curve.series_ohm, 1e-3)
    saturation = curve.at_current_a / np.expm1(np.minimum(junction / curve.slope_v, 600.0))
    scale = branch.in_series * curve.slope_v
    omega = wrightomega((np.maximum(drive, 0) + saturation * ohm) / scale + np.log(saturation * ohm / scale))
    current = np.maximum(scale * omega.real / ohm - saturation, 0.0)
    counts, edges = np.histogram(current, bins=BINS)
    over = float(np.mean(current > limit_a))
    low, middle, high = (float(it) for it in np.quantile(current, (0.05, 0.5, 0.95)))
    told = f"Nine in ten of {builds:,} builds get {si(low, 'A')} to {si(high, 'A')}".replace(",", "\u202f")
    told += f"; {si(over, 'ratio')} go past {si(limit_a, 'A')}." if over else f"; none goes past {si(limit_a, 'A')}."
    return ManyBuilds(
        sentence=told,
        builds=builds,
        least_a=float(current.min()),
        median_a=middle,
        most_a=float(current.max()),
        over_limit_ratio=over,
        bins=tuple(
            Bin(from_a=float(a), to_a=float(b), count=int(n)) for a, b, n in zip(edges[:-1], edges[1:], counts, strict=True)
        ),
    )
