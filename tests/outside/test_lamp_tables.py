"""Lamps, resistors and levels against printed tables and worked examples, each with its source."""

import math
from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.electrical.bands import band_colours, read_bands, read_smd, smd_marking
from oddlamp.core.electrical.chance import many_builds, many_levels
from oddlamp.core.electrical.designers import best_from_drawer, best_pair, design_divider, step_ladder
from oddlamp.core.electrical.diode import DiodeCurve, curve_current_a
from oddlamp.core.electrical.drivers import base_drive, relay_module_current_a
from oddlamp.core.electrical.led import LedBranch, Spread, led_point
from oddlamp.core.electrical.level import Burden, Divider, divide
from oddlamp.core.electrical.preferred import SERIES, Series, is_preferred, preferred
from oddlamp.core.electrical.tones import nearest_note, note_frequency_hz, tone_half_period_s
from oddlamp.core.errors import OutOfRange

E24_OHM = st.builds(preferred, st.integers(0, 6), st.sampled_from(SERIES["E24"]))
E96_OHM = st.builds(preferred, st.integers(0, 6), st.sampled_from(SERIES["E96"]))


@given(E24_OHM)
def test_four_bands_and_markings_read_back(ohm: float) -> None:
    """IEC 60062, recalled: what is painted is what is read."""
    assert read_bands(band_colours(ohm, 0.05)) == (pytest.approx(ohm), 0.05)
    assert read_smd(smd_marking(ohm)) == pytest.approx(ohm)


@given(E96_OHM)
def test_five_bands_and_markings_read_back(ohm: float) -> None:
    colours = band_colours(ohm, 0.01)
    assert len(colours) == 5
    assert read_bands(colours) == (pytest.approx(ohm), 0.01)
    assert read_smd(smd_marking(ohm)) == pytest.approx(ohm)


@pytest.mark.parametrize(
    ("bands", "ohm", "ratio", "marking"),
    [
        (("yellow", "violet", "red", "gold"), 4700, 0.05, "472"),
        (("brown", "black", "orange"), 10_000, 0.2, "103"),
        (("red", "red", "brown", "silver"), 220, 0.1, "221"),
        (("yellow", "violet", "gold", "gold"), 4.7, 0.05, "4R7"),
        (("green", "blue", "black", "gold"), 56, 0.05, "560"),
        (("brown", "brown", "blue", "black", "brown"), 116, 0.01, "1160"),
    ],
)
def test_colour_code_examples(bands: tuple[str, ...], ohm: float, ratio: float, marking: str) -> None:
    """Worked examples of the colour code as taught, common practice; IEC 60062, recalled."""
    assert read_bands(bands) == (pytest.approx(ohm), ratio)
    assert read_smd(marking) == pytest.approx(ohm)


@pytest.mark.parametrize("bands", [("red",), ("red", "pink", "red"), ("gold", "red", "red"), ("red", "red", "red", "black")])
def test_bands_that_mean_nothing_are_refused(bands: tuple[str, ...]) -> None:
    with pytest.raises(OutOfRange):
        read_bands(bands)


@pytest.mark.parametrize("marking", ["", "47", "R", "12345", "4K7", "4R7R"])
def test_markings_that_mean_nothing_are_refused(marking: str) -> None:
    with pytest.raises(OutOfRange):
        read_smd(marking)


def test_a_ladder_even_to_the_eye() -> None:
    """ISO/CIE 11664-4: nine even steps of L*, recalled; the linear ladder by its own rounding rule."""
    assert step_ladder(9, is_even_to_the_eye=True) == (3, 9, 20, 36, 60, 92, 135, 189, 255)
    assert step_ladder(4, is_even_to_the_eye=False) == (64, 128, 191, 255)


@given(st.floats(11, 9e5))
def test_the_best_two_of_a_series_are_found_by_trying_all(least_ohm: float) -> None:
    """IEC 60063, E6: no pair of all in reach comes nearer from above; found by the slow road of trying every one."""
    assume(not is_preferred(least_ohm, "E6"))
    found = best_pair(least_ohm, "E6").resistance_ohm
    assert found >= least_ohm * (1 - 1e-9)
    values = [preferred(decade, mantissa) for decade in range(7) for mantissa in SERIES["E6"]]
    pairs = [total for a in values for b in values for total in (a + b, a * b / (a + b)) if total >= least_ohm]
    near = [total for total in pairs if total <= 1.5 * least_ohm]
    assert found <= min(near) * (1 + 1e-3), "but for a hair's breadth of a pair farther apart than a hundred to one"


@pytest.mark.parametrize(("tone_hz", "half_s"), [(440, 1.136e-3), (250, 2e-3), (500, 1e-3), (261.63, 1.911e-3)])
def test_tones(tone_hz: float, half_s: float) -> None:
    """ISO 16: A is 440 Hz; equal temperament puts middle C at 261.63 Hz."""
    assert tone_half_period_s(tone_hz) == pytest.approx(half_s, rel=1e-3)


@pytest.mark.parametrize(
    ("note", "hz"), [("A0", 27.50), ("E2", 82.41), ("C4", 261.63), ("F#4", 369.99), ("Bb4", 466.16), ("C8", 4186.01)]
)
def test_notes_have_the_frequencies_of_equal_temperament(note: str, hz: float) -> None:
    """ISO 16, A4 = 440 Hz; the printed table of equal temperament, to its two decimals, recalled."""
    assert note_frequency_hz(note) == pytest.approx(hz, abs=0.005)


@given(st.floats(20, 20_000))
def test_the_nearest_note_is_within_half_a_semitone_and_reads_back(hz: float) -> None:
    name, cents = nearest_note(hz)
    there = note_frequency_hz(name)
    if there is not None:  # above the ninth octave a note has no one-figure name
        assert -50.001 <= cents <= 50.001
        assert hz == pytest.approx(there * 2 ** (cents / 1200))


@pytest.mark.parametrize("text", ["H4", "A", "A44", "4A", ""])
def test_what_is_no_note_is_none(text: str) -> None:
    assert note_frequency_hz(text) is None


def test_levels_of_the_interface_standard() -> None:
    """JESD8C.01, recalled: V_IH 2.0 V, V_IL 0.8 V, and a lightly loaded output reaches its rail; 0.6 and 0.7 Vcc from memory."""
    board = load_catalog().board("board-5v-20io")
    assert board.input_high_ratio.value * 5.0 == pytest.approx(3.0)
    pixel = load_catalog().pixel("pixel-one-wire-5v")
    assert pixel.input_high_ratio.value * 5.0 == pytest.approx(3.5)
    assert pixel.input_high_ratio.value * 4.3 == pytest.approx(3.01)


@pytest.mark.parametrize(
    ("upper", "lower", "volts"), [(1000, 2000, 3.333), (1000, 2200, 3.438), (1200, 2200, 3.235), (2000, 4700, 3.507), (10_000, 20_000, 3.333)]
)  # fmt: skip
def test_divider_check_values(upper: float, lower: float, volts: float) -> None:
    """Arithmetic: V R2 / (R1 + R2) from 5.00 V."""
    five = Spread(least=5, value=5, most=5)
    level = divide(five, Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=0)).voltage_v.value
    assert level == pytest.approx(volts, abs=6e-4)


def test_driver_check_values() -> None:
    """Arithmetic: (5 - 0.8) V over a tenth of 100 mA is 420 ohm, 390 ohm is the E24 value that gives at least that."""
    base = base_drive(pin_v=5, base_emitter_v=0.8, collector_current_a=0.1)
    assert (base.exact_ohm, base.resistance_ohm) == (pytest.approx(420), 390)
    assert base.forced_gain == pytest.approx(0.1 / (4.2 / 390))
    assert relay_module_current_a(module_v=5, pin_v=0, drop_v=3.0, resistance_ohm=1000) == pytest.approx(2e-3)
    with pytest.raises(OutOfRange):
        base_drive(pin_v=0.7, base_emitter_v=0.8, collector_current_a=0.01)


POINTS = st.fixed_dictionaries(
    {
        "drive": st.integers(2500, 12_000),
        "spread": st.integers(0, 15),
        "forward": st.integers(1500, 3600),
        "ohm": st.sampled_from(SERIES["E24"]).map(lambda m: m * 100),
        "tolerance": st.sampled_from([0.01, 0.05, 0.1]),
        "at": st.lists(st.floats(-1, 1), min_size=5, max_size=5),
    }
)


@given(POINTS)
def test_the_worst_case_brackets_every_sampled_case(it: dict[str, object]) -> None:
    """Corners by the sign of each effect: whatever is drawn inside the spreads lies between them, by the curve."""
    drive, forward, ohm = it["drive"] / 1000, it["forward"] / 1000, it["ohm"]  # type: ignore[operator]
    wide, t = it["spread"] / 100, it["tolerance"]  # type: ignore[operator]
    branch = LedBranch(
        drive_voltage_v=Spread(least=drive * (1 - wide), value=drive, most=drive * (1 + wide)),
        forward_voltage_v=Spread(least=forward * 0.9, value=forward, most=forward * 1.1),
        driver_resistance_ohm=Spread(least=0, value=25, most=45),
        tolerance_ratio=t,  # type: ignore[arg-type]
        curve=DiodeCurve(forward_voltage_v=forward, at_current_a=0.02, ideality=2, series_ohm=6),
    )
    bounds = led_point(branch, resistance_ohm=ohm).curve_a  # type: ignore[arg-type]
    assert bounds is not None
    a, b, c, d, _ = it["at"]  # type: ignore[misc]
    drawn = curve_current_a(
        DiodeCurve(forward_voltage_v=forward * (1 + 0.1 * a), at_current_a=0.02, ideality=2, series_ohm=6),
        drive_v=drive * (1 + wide * b),
        resistance_ohm=ohm * (1 + t * c) + 22.5 * (1 + d),  # type: ignore[operator]
    )
    assert bounds.least * (1 - 1e-9) <= drawn <= bounds.most * (1 + 1e-9) + 1e-15


BURDENS = st.builds(Burden, load_ohm=st.none() | st.floats(1e3, 1e6), leakage_a=st.sampled_from([0.0, 1e-6, 1e-5]))


@given(st.integers(2500, 6000), st.integers(1500, 3300), st.sampled_from([0.01, 0.05]), BURDENS)
def test_a_designed_divider_keeps_every_promise(drive_mv: int, limit_mv: int, tolerance: float, burden: Burden) -> None:
    drive = Spread(least=drive_mv / 1050, value=drive_mv / 1000, most=drive_mv / 952)
    limit_v, high_v = limit_mv / 1000, limit_mv / 1000 * 0.6
    for found in design_divider(
        drive, limit_v=limit_v, high_v=high_v, tolerance_ratio=tolerance, rise_most_s=1e-5, burden=burden
    ):
        pair = Divider(upper_ohm=found.upper_ohm, lower_ohm=found.lower_ohm, tolerance_ratio=tolerance, burden=burden)
        level = divide(drive, pair).voltage_v
        assert high_v - 1e-9 <= level.least
        assert level.most <= limit_v + 1e-9
        assert found.current_a <= 2e-3
        assert found.rise_s <= 1e-5


@pytest.mark.parametrize(("series", "load_ohm"), [("E24", math.inf), ("E12", math.inf), ("E24", 22_000.0), ("E6", 4_700.0)])
def test_the_best_pair_is_the_best_of_all_pairs(series: Series, load_ohm: float) -> None:
    """By brute force from 100 ohm to 910 kohm, loaded and not: no allowed pair stays farther from both ends."""
    five, t = Spread(least=4.75, value=5, most=5.25), 0.05
    burden = Burden(load_ohm=load_ohm if math.isfinite(load_ohm) else None)
    best = design_divider(five, limit_v=3.6, high_v=2.475, tolerance_ratio=t, burden=burden, values=series)[0]
    values = [preferred(d, m) for d in range(2, 6) for m in SERIES[series]]
    spare = 0.0
    for upper in values:
        for lower in values:
            most, least, usual = (1 / (1 / it + 1 / load_ohm) for it in (lower * (1 + t), lower * (1 - t), lower))
            high, low = 5.25 * most / (upper * (1 - t) + most), 4.75 * least / (upper * (1 + t) + least)
            if high <= 3.6 and low >= 2.475 and 5.25 / (upper + usual) <= 2e-3:
                spare = max(spare, min(3.6 - high, low - 2.475))
    assert best.spare_v == pytest.approx(spare)


def test_the_drawer_gives_the_nearest_above() -> None:
    found = best_from_drawer([100, 220, 1000], least_ohm=90)
    assert found is not None
    assert found.resistance_ohm == pytest.approx(1000 / 11), "100 and 1000 ohm side by side are 90.9 ohm"
    one = best_from_drawer([100, 220, 1000], least_ohm=99)
    assert one is not None
    assert one.resistance_ohm == 100
    assert best_from_drawer([100, 220], least_ohm=1000) is None
    two = best_from_drawer([100, 220], least_ohm=320)
    assert two is not None
    assert two.resistance_ohm == 320


def test_many_builds_agree_with_one_build_and_with_the_corners() -> None:
    """Differential: the closed form by SciPy's Wright omega against Newton's method, one build at a time."""
    branch = LedBranch(
        drive_voltage_v=Spread(least=4.4, value=5.0, most=5.25),
        forward_voltage_v=Spread(least=2.8, value=3.2, most=3.6),
        driver_resistance_ohm=Spread(least=25, value=25, most=45),
        tolerance_ratio=0.05,
        curve=DiodeCurve(forward_voltage_v=3.2, at_current_a=0.02, ideality=3, series_ohm=12),
    )
    bounds = led_point(branch, resistance_ohm=91).curve_a
    assert bounds is not None
    drawn = many_builds(branch, resistance_ohm=91, limit_a=0.03, seed=7)
    again = many_builds(branch, resistance_ohm=91, limit_a=0.03, seed=7)
    assert drawn == again, "the same seed draws the same builds"
    assert bounds.least <= drawn.least <= drawn.most <= bounds.most
    assert sum(it.count for it in drawn.bins) == drawn.builds == 10_000
    still = replace(
        branch,
        drive_voltage_v=Spread(least=5, value=5, most=5),
        forward_voltage_v=Spread(least=3.2, value=3.2, most=3.2),
        driver_resistance_ohm=Spread(least=25, value=25, most=25),
        tolerance_ratio=0.0,
    )
    one = many_builds(still, resistance_ohm=91, limit_a=0.03, seed=1, builds=10)
    point = led_point(still, resistance_ohm=91).curve_a
    assert point is not None
    assert one.median == pytest.approx(point.value, rel=1e-9)
    for tiny in (3e-16, 1e-15, 1e-13, 1e-10):
        heap = many_builds(replace(still, tolerance_ratio=tiny), resistance_ohm=91, limit_a=0.03, seed=1)
        assert sum(it.count for it in heap.bins) == heap.builds, "differences finer than numbers can tell are one heap"


@pytest.mark.parametrize("burden", [Burden(), Burden(load_ohm=22_000.0), Burden(load_ohm=47_000.0, leakage_a=1e-4)])
def test_many_dividers_spread_as_the_law_of_propagation_says(burden: Burden) -> None:
    """JCGM 100 (the GUM), 5.1.2 and 4.3, recalled: u^2 adds the squares of each part's share.

    A part even inside +/-t has u = t/sqrt(3), a triangular supply u^2 = (a^2 + b^2 + c^2 - ab - ac - bc)/18; the
    pair counts by U = V R1/(R1 + R2). With a load, by a difference quotient.
    """
    supply, t = Spread(least=4.75, value=5.0, most=5.25), 0.02
    pair = Divider(upper_ohm=1000, lower_ohm=2000, tolerance_ratio=t, burden=burden)
    drawn = many_levels(supply, pair, limit_v=3.4, high_v=3.2, seed=5, builds=200_000)

    def out(drive: float, upper: float, lower: float) -> float:
        loaded = 1 / (1 / lower + (0 if burden.load_ohm is None else 1 / burden.load_ohm))
        return drive * loaded / (upper + loaded)

    at = (5.0, 1000.0, 2000.0)
    shares = [out(*(it * (1 + 1e-6 * (n == k)) for k, it in enumerate(at))) - out(*at) for n in range(3)]
    u_supply = math.sqrt((4.75**2 + 5**2 + 5.25**2 - 4.75 * 5 - 4.75 * 5.25 - 5 * 5.25) / 18) / 5
    leaking = burden.leakage_a / 3**0.5 * 1000 * out(1.0, 1000, 2000)  # a current at the middle sees R1 beside the rest
    wanted = math.hypot(leaking, *(share * 1e6 * u for share, u in zip(shares, (u_supply, t / 3**0.5, t / 3**0.5), strict=True)))
    middles = [(it.least + it.most) / 2 for it in drawn.bins]
    mean = sum(m * it.count for m, it in zip(middles, drawn.bins, strict=True)) / drawn.builds
    spread = math.sqrt(sum((m - mean) ** 2 * it.count for m, it in zip(middles, drawn.bins, strict=True)) / drawn.builds)
    assert spread == pytest.approx(wanted, rel=0.01)
    assert drawn.median == pytest.approx(out(*at), rel=1e-3)
    corners = divide(supply, pair).voltage_v
    assert corners.least <= drawn.least < drawn.most <= corners.most
    over, under = drawn.bounds
    assert over.past_ratio == pytest.approx(sum(it.count for it in drawn.bins if it.least >= 3.4) / drawn.builds, abs=0.03)
    assert 0 < under.past_ratio < 0.5
    still = replace(pair, tolerance_ratio=0.0, burden=replace(burden, leakage_a=0.0))
    flat = many_levels(Spread(least=5, value=5, most=5), still, limit_v=3.6, high_v=2.5, seed=1, builds=10)
    assert flat.median == pytest.approx(divide(Spread(least=5, value=5, most=5), still).voltage_v.value)
    assert [it.past_ratio for it in flat.bounds] == [0, 0]
