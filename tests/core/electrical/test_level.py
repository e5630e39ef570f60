"""Dividers and pulls: arithmetic worked by hand, and exact corners."""

import re
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Burden, Divider, divide, first_fitting_divider, pulled_level, straight
from tests.reference.exact import corners

FIVE = Spread(least=4.75, value=5.0, most=5.25)


@pytest.mark.parametrize(
    ("upper", "lower", "expected_v"),
    [(1000, 2000, 3.333), (1000, 2200, 3.438), (1200, 2200, 3.235), (2000, 4700, 3.507), (10_000, 20_000, 3.333)],
)
def test_nominal(upper: float, lower: float, expected_v: float) -> None:
    """Arithmetic: V_in R2 / (R1 + R2) from 5.00 V."""
    level = divide(FIVE, Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=0.05))
    assert level.voltage_v.value == pytest.approx(expected_v, abs=5.01e-4)


@pytest.mark.parametrize(
    ("upper", "lower", "tolerance", "most_v"),
    [(2000, 4700, 0.05, 3.79), (1000, 2000, 0.05, 3.615), (1000, 2000, 0.01, 3.523), (1200, 2200, 0.05, 3.515)],
)
def test_worst_case(upper: float, lower: float, tolerance: float, most_v: float) -> None:
    """Arithmetic at 5.25 V with the upper resistor low and the lower one high."""
    level = divide(FIVE, Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=tolerance))
    assert level.voltage_v.most == pytest.approx(most_v, abs=1e-3)


@given(upper=st.integers(100, 100_000), lower=st.integers(100, 100_000), tolerance=st.sampled_from([1, 2, 5, 10]))
def test_corners(upper: int, lower: int, tolerance: int) -> None:
    level = divide(FIVE, Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=tolerance / 100)).voltage_v
    least, most = corners((Fraction("4.75"), Fraction("5.25")), Fraction(upper), Fraction(lower), Fraction(tolerance, 100))
    assert level.least == pytest.approx(float(least), rel=1e-12)
    assert level.most == pytest.approx(float(most), rel=1e-12)


UNIT = st.floats(-1, 1)


@given(
    st.floats(10, 1e7),
    st.floats(10, 1e7),
    st.sampled_from([0.0, 0.01, 0.05, 0.2]),
    st.builds(Burden, load_ohm=st.none() | st.floats(100, 1e7), leakage_a=st.sampled_from([0.0, 1e-7, 1e-6, 1e-5])),
    st.tuples(UNIT, UNIT, UNIT, UNIT),
)
def test_whatever_is_built_lies_between_the_corners(
    upper: float, lower: float, tolerance: float, burden: Burden, at: tuple[float, float, float, float]
) -> None:
    """Kirchhoff at the middle, by conductances: (V/R1 + I) / (1/R1 + 1/R2 + 1/R_load), never under ground."""
    pair = Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=tolerance, burden=burden)
    level = divide(FIVE, pair).voltage_v
    r1, r2 = upper * (1 + tolerance * at[0]), lower * (1 + tolerance * at[1])
    drive, leak_a = 5.0 + 0.25 * at[2], burden.leakage_a * at[3]
    siemens = 1 / r1 + 1 / r2 + (0 if burden.load_ohm is None else 1 / burden.load_ohm)
    middle = max(0.0, (drive / r1 + leak_a) / siemens)
    assert level.least * (1 - 1e-9) <= middle <= level.most * (1 + 1e-9)


PREFIX = {"": 1.0, "k": 1e3, "M": 1e6, "m": 1e-3, "µ": 1e-6, "n": 1e-9}


def sum_of(text: str) -> float:
    """Work a shown sum out as a reader with a pocket calculator would."""
    plain = re.sub(r"([\d.]+)\u00a0([kMmµn]?)[VAΩ]", lambda it: repr(float(it[1]) * PREFIX[it[2]]), text)
    for shown, meant in ((" · ", "*"), ("−", "-"), (" ∥ ", "//")):
        plain = plain.replace(shown, meant)
    if "//" in plain:
        one, other = map(float, plain.split("//"))
        return 1 / (1 / one + 1 / other)
    return float(eval(plain, {"__builtins__": {}}))


@pytest.mark.parametrize("load_ohm", [None, 10_000.0])
@pytest.mark.parametrize("leakage_a", [0.0, 1e-5])
@pytest.mark.parametrize(("upper", "lower"), [(1000, 2000), (10_000, 20_000), (330_000, 1_000_000)])
def test_what_is_shown_multiplies_out(upper: float, lower: float, leakage_a: float, load_ohm: float | None) -> None:
    """Every line of the working gives its own result, to the digits shown: load, leak, corner and all."""
    burden = Burden(load_ohm=load_ohm, leakage_a=leakage_a)
    level = divide(FIVE, Divider(upper_ohm=upper, lower_ohm=lower, tolerance_ratio=0.05, burden=burden))
    for line in level.working:
        put_in, result = line.substituted.removesuffix(", held at ground").split(" = ")
        assert sum_of(put_in) == pytest.approx(sum_of(result), rel=0.012, abs=0.012), line.formula
    nominal, most, least = (sum_of(line.substituted.split(" = ")[1].split(",")[0]) for line in level.working[-3:])
    shown = level.voltage_v
    assert (nominal, most, max(0.0, least)) == pytest.approx((shown.value, shown.most, shown.least), abs=0.051)


def test_a_straight_wire_gives_the_senders_own_rail() -> None:
    assert straight(FIVE).voltage_v == FIVE, "JESD8C: a lightly loaded CMOS output reaches its rail"


def test_a_pull_up_against_a_pull_down() -> None:
    """3.3 V through 10 k against 12 k: 3.3 * 12 / 22 = 1.80 V."""
    assert pulled_level(up_to_v=3.3, up_ohm=10_000, down_ohm=12_000).voltage_v.value == pytest.approx(1.80, abs=1e-9)


def test_the_first_fitting_divider_fits_at_every_corner() -> None:
    pairs = ((1000.0, 2000.0), (1200.0, 2200.0), (10_000.0, 20_000.0))
    found = first_fitting_divider(FIVE, pairs=pairs, tolerance_ratio=0.05, limit_v=3.6, high_v=2.475)
    assert found is not None
    assert (found.upper_ohm, found.lower_ohm) == (1200.0, 2200.0)  # 1k/2k reaches 3.615 V
    assert first_fitting_divider(FIVE, pairs=pairs, tolerance_ratio=0.05, limit_v=2.0, high_v=2.475) is None
