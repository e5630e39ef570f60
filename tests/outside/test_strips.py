"""Wire by its standards, and the volts along strips against a general circuit solver."""

import math
import random
from itertools import combinations
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.core.electrical.ladder import FULL_OVER_V, Colour, Feed, StripOpen, fewest_feeds, solved_strip
from oddlamp.core.electrical.wire import area_m2, diameter_m, longest_m, may_carry_a, ohm_per_m, round_trip_ohm, thinnest_awg
from tests.full import IS_PROOF
from tests.outside.spice import solve

WHITE = (Colour(0.02, 2.0), Colour(0.02, 3.2), Colour(0.02, 3.2))  # red, green and blue at their most; from memory
PITCH_OHM = 2 * 0.1 / 60  # 60 pixels a metre, 0.1 ohm a metre on each rail; from memory


@pytest.mark.parametrize(
    ("gauge", "mm", "mm2", "ohm_km"),
    [(20, 0.8118, 0.5176, 33.31), (22, 0.6438, 0.3255, 52.96), (24, 0.5106, 0.2047, 84.22), (26, 0.4049, 0.1288, 133.9), (30, 0.2546, 0.0509, 338.6)],
)  # fmt: skip
def test_gauges_are_those_of_the_standard(gauge: int, mm: float, mm2: float, ohm_km: float) -> None:
    """ASTM B258, rows of its table, with the ohms that follow from IEC 60028 at 20 degrees; recalled, not read."""
    assert 1000 * diameter_m(gauge) == pytest.approx(mm, abs=1e-4)
    assert 1e6 * area_m2(gauge) == pytest.approx(mm2, rel=1e-3)
    assert 1000 * ohm_per_m(area_m2(gauge)) == pytest.approx(ohm_km, rel=1e-3)


def test_a_core_of_a_network_cable() -> None:
    """2 m of one at 1 A lose 0.337 V there and back, and carry 4.9 A a square millimetre: more than a bundle may."""
    area = area_m2(24)
    assert round_trip_ohm(2.0, area) == pytest.approx(0.337, abs=5e-4)
    assert 1.0 / (1e6 * area) == pytest.approx(4.9, abs=0.05)
    assert may_carry_a(area) == pytest.approx(0.614, abs=1e-3)
    assert round_trip_ohm(2.0, area, is_clad=True) == pytest.approx(1.6 * 0.33685, abs=1e-3)


@given(st.floats(0.05, 1), st.floats(0.01, 3), st.floats(0.05, 20), st.booleans())
def test_longest_and_thinnest_are_two_sides_of_one_thing(drop_v: float, current_a: float, length_m: float, clad: bool) -> None:
    """The gauge that is found loses no more and carries it; the next thinner one does not."""
    gauge = thinnest_awg(drop_v, current_a, length_m, is_clad=clad)

    def does(gauge: int) -> bool:
        area = area_m2(gauge)
        return longest_m(drop_v, current_a, area, is_clad=clad) >= length_m * (1 - 1e-12) and may_carry_a(area) >= current_a

    if gauge is None:
        assert not does(0)
    else:
        assert does(gauge)
        assert gauge == 40 or not does(gauge + 1)


def test_a_warm_wire_resists_more() -> None:
    """0.393 % for each degree: IEC 60028."""
    assert ohm_per_m(1e-6, at_c=70.0) / ohm_per_m(1e-6) == pytest.approx(1 + 50 * 0.00393)


def strip(rng: random.Random) -> tuple[list[tuple[Colour, ...]], float, list[Feed]]:
    """A strip of some length, with pixels that differ, fed at one to five places."""
    count = rng.choice([2, 5, 17, 60, 144, 300])
    kinds = [
        tuple(Colour(rng.choice([0.0, 0.001, 0.005, 0.02]), rng.choice([0.5, 2.0, 3.2])) for _ in range(3)) for _ in range(3)
    ]
    pixels = [rng.choice(kinds) for _ in range(count)] if rng.random() < 0.5 else [WHITE] * count
    volts = rng.uniform(4.5, 5.5)
    places = rng.sample(range(count), min(rng.randint(1, 5), count))
    feeds = [Feed(it, volts + rng.choice([0.0, 0.0, -0.2]), rng.choice([0.01, 0.05, 0.3])) for it in places]
    return pixels, rng.choice([0.0005, PITCH_OHM, 0.02]), feeds


def deck_of(pixels: list[tuple[Colour, ...]], pitch_ohm: float, feeds: list[Feed]) -> str:
    lines = []
    for at, it in enumerate(feeds):
        lines += [f"V{at} f{at} 0 {it.volts!r}", f"RF{at} f{at} n{it.at} {it.ohm!r}"]
    lines += [f"R{at} n{at} n{at + 1} {pitch_ohm!r}" for at in range(len(pixels) - 1)]
    for at, mine in enumerate(pixels):
        for one, it in enumerate(mine):
            share = f"min(max((v(n{at})-{it.forward_voltage_v})/{FULL_OVER_V},0),1)"
            lines.append(f"B{at}_{one} n{at} 0 I={it.current_a!r}*{share}")
    return "\n".join(lines)


@pytest.mark.parametrize("seed", range(200 if IS_PROOF else 12))
def test_volts_along_a_strip_are_those_of_a_circuit_solver(seed: int, tmp_path: Path) -> None:
    """Within 0.1 %, at both ends, in the middle and where it has least: the law of each colour, up to 300 pixels, one to five feeds."""
    pixels, pitch_ohm, feeds = strip(random.Random(seed))
    found = solved_strip(pixels, pitch_ohm, feeds)
    places = sorted({0, len(pixels) // 2, len(pixels) - 1, found.volts.index(min(found.volts))})
    told = solve(tmp_path, deck_of(pixels, pitch_ohm, feeds), analysis="op", ask=[f"print v(n{it})" for it in places])
    for it in places:
        assert found.volts[it] == pytest.approx(told[f"v(n{it})"], rel=1e-3)
    assert sum(found.fed_a) == pytest.approx(sum(found.drawn_a), abs=1e-6)


def test_an_even_load_loses_what_the_handbook_says() -> None:
    """I r n (n - 1) / 2 to the last of n, the first being fed: while all have volts enough to draw all of their current."""
    found = solved_strip([WHITE] * 60, PITCH_OHM, [Feed(0, 5.0)])
    assert 5.0 - found.volts[-1] == pytest.approx(0.06 * PITCH_OHM * 60 * 59 / 2, rel=1e-6)
    assert found.fed_a == pytest.approx([3.6])


def test_far_pixels_turn_red() -> None:
    """Blue and green give up first: where little is left, red still draws all of its current."""
    found = solved_strip([WHITE] * 144, PITCH_OHM, [Feed(0, 5.0)])
    red, green, _ = WHITE
    assert found.volts[-1] < green.forward_voltage_v + FULL_OVER_V
    assert found.drawn_a[-1] < 0.06
    assert found.drawn_a[-1] > red.current_a


@settings(max_examples=200 if IS_PROOF else 40, deadline=None)
@given(st.integers(0, 2**32), st.integers(0, 299), st.floats(0.001, 0.05))
def test_more_load_raises_no_volts_anywhere(seed: int, at: int, more_a: float) -> None:
    pixels, pitch_ohm, feeds = strip(random.Random(seed))
    before = solved_strip(pixels, pitch_ohm, feeds)
    at %= len(pixels)
    after = solved_strip([*pixels[:at], (*pixels[at], Colour(more_a, 0.5)), *pixels[at + 1 :]], pitch_ohm, feeds)
    assert all(now <= then + 1e-7 for now, then in zip(after.volts, before.volts, strict=True))


@pytest.mark.parametrize("count", [1, 12, 30, 60] if IS_PROOF else [1, 12, 30])
@pytest.mark.parametrize("pitch_ohm", [0.01, 0.03])
def test_the_feeds_that_are_found_clear_it_and_one_fewer_does_not(count: int, pitch_ohm: float) -> None:
    """Every way to place one fewer is tried."""
    pixels, first, least_v = [WHITE] * count, Feed(0, 5.0, 0.02), 4.4
    found = fewest_feeds(pixels, pitch_ohm, first, least_v)
    if found is None:
        assert min(solved_strip(pixels, pitch_ohm, [first._replace(at=it) for it in range(count)]).volts) < least_v
        return
    assert min(solved_strip(pixels, pitch_ohm, found).volts) >= least_v
    for places in combinations(range(1, count), max(len(found) - 2, 0)) if len(found) > 1 else ():
        fewer = [first, *(first._replace(at=it) for it in places)]
        assert min(solved_strip(pixels, pitch_ohm, fewer).volts) < least_v, places


@pytest.mark.parametrize("feeds", [[], [Feed(9, 5.0)], [Feed(-1, 5.0)]])
def test_a_strip_that_nothing_feeds_is_refused(feeds: list[Feed]) -> None:
    with pytest.raises(StripOpen):
        solved_strip([WHITE] * 3, 0.01, feeds)


@given(st.floats(0, 1e3), st.floats(0, 1e3), st.integers(1, 40), st.floats(0, 100))
@settings(max_examples=60, deadline=None)
def test_whatever_is_given_there_is_an_answer(pitch_ohm: float, feed_ohm: float, count: int, volts: float) -> None:
    """A kilometre of wire, nothing at all of it, no volts and far too many."""
    found = solved_strip([WHITE] * count, pitch_ohm, [Feed(0, volts, feed_ohm)])
    assert all(math.isfinite(it) and -1e-6 <= it <= volts + 1e-6 for it in found.volts)
