"""LED resistors: worked examples, exact fractions, and corners that bracket."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.core.electrical.bands import band_colours
from oddlamp.core.electrical.led import LedBranch, Spread, led_point, size_led_resistor
from oddlamp.core.errors import OutOfRange
from tests.reference.exact import exact_led_resistor


def flat(value: float) -> Spread:
    return Spread(least=value, value=value, most=value)


def branch(drive: Spread, forward: Spread, *, pin: Spread | None = None, tolerance: float = 0.05) -> LedBranch:
    return LedBranch(
        drive_voltage_v=drive, forward_voltage_v=forward, driver_resistance_ohm=pin or flat(0.0), tolerance_ratio=tolerance
    )


SUPPLY = Spread(least=4.75, value=5.0, most=5.25)


def test_the_worked_example() -> None:
    """1.4 V at 20 mA is 70 ohm (Ohm's law); the E24 value that never exceeds is 75 ohm (IEC 60063)."""
    sizing = size_led_resistor(branch(SUPPLY, flat(3.6)), wanted_current_a=0.02)
    assert sizing.exact_ohm == pytest.approx(70.0)
    assert sizing.resistance_ohm == 75.0
    point = led_point(branch(SUPPLY, flat(3.6)), resistance_ohm=75.0)
    assert point.current_a.value == pytest.approx(0.018667, abs=1e-6)
    assert point.current_a.most == pytest.approx(0.0232, abs=5e-5)
    assert point.resistor_power_w == pytest.approx(0.0261, abs=5e-5)
    assert point.rating_w == 0.125


def test_fifty_ohm_lets_28_ma_flow() -> None:
    point = led_point(branch(SUPPLY, flat(3.6)), resistance_ohm=50.0)
    assert point.current_a.value == pytest.approx(0.028)
    assert point.current_a.most == pytest.approx(0.03474, abs=1e-5)


@given(drop_mv=st.integers(1, 50_000), current_ma=st.integers(1, 100))
def test_sizing(drop_mv: int, current_ma: int) -> None:
    wanted = branch(flat(2.0 + drop_mv / 1000), flat(2.0))
    sizing = size_led_resistor(wanted, wanted_current_a=current_ma / 1000)
    assert sizing.resistance_ohm == float(exact_led_resistor(drop_mv, current_ma))
    assert led_point(wanted, resistance_ohm=sizing.resistance_ohm).current_a.value <= current_ma / 1000 * (1 + 1e-6)


@pytest.mark.parametrize("forward_v", [5.0, 5.1, 900.0])
def test_no_resistor_where_nothing_is_left(forward_v: float) -> None:
    with pytest.raises(OutOfRange, match="drive_voltage_v"):
        size_led_resistor(branch(SUPPLY, flat(forward_v)), wanted_current_a=0.02)


unit = st.floats(0, 1)


@given(a=unit, b=unit, c=unit, d=unit, resistance_ohm=st.floats(10, 1e4))
def test_corners_bracket_every_sampled_case(a: float, b: float, c: float, d: float, resistance_ohm: float) -> None:
    forward, pin = Spread(least=2.8, value=3.2, most=3.6), Spread(least=0.0, value=25.0, most=45.0)
    point = led_point(branch(SUPPLY, forward, pin=pin), resistance_ohm=resistance_ohm)
    drive = SUPPLY.least + a * (SUPPLY.most - SUPPLY.least)
    drop = forward.least + b * (forward.most - forward.least)
    sampled = (drive - drop) / (resistance_ohm * (0.95 + 0.1 * c) + 45.0 * d)
    assert point.current_a.least * (1 - 1e-9) <= sampled <= point.current_a.most * (1 + 1e-9)


@given(
    strings=st.lists(st.tuples(unit, unit), min_size=1, max_size=8),
    drive_at=unit,
    pin_ohm=st.floats(0, 45),
    resistance_ohm=st.floats(22, 2200),
)
def test_corners_bracket_unlike_strings_behind_one_pin(
    strings: list[tuple[float, float]], drive_at: float, pin_ohm: float, resistance_ohm: float
) -> None:
    """Kirchhoff at the pin, by halving: a constant drop and a resistor in each string, all of them through the pin."""
    forward, pin = Spread(least=1.8, value=2.0, most=2.2), Spread(least=0.0, value=25.0, most=45.0)
    point = led_point(replace(branch(SUPPLY, forward, pin=pin), in_parallel=len(strings)), resistance_ohm=resistance_ohm)
    drive = SUPPLY.least + drive_at * (SUPPLY.most - SUPPLY.least)

    def flows(at_v: float, string: tuple[float, float]) -> float:
        return max(0.0, at_v - 1.8 - 0.4 * string[0]) / (resistance_ohm * (0.95 + 0.1 * string[1]))

    low, high = 0.0, drive
    for _ in range(80):
        middle = (low + high) / 2
        low, high = (middle, high) if drive - pin_ohm * sum(flows(middle, it) for it in strings) > middle else (low, middle)
    assert point.current_a.least * (1 - 1e-9) - 1e-12 <= flows(low, strings[0]) <= point.current_a.most * (1 + 1e-9)


def test_one_resistor_for_three_is_sized_for_all_and_heats_with_all() -> None:
    """3 V at 3 x 20 mA is 50 ohm, so 51 ohm of E24; (3 / 51)^2 * 51 is 176 mW, a third of 58.8 mA is 19.6 mA."""
    shared = replace(branch(SUPPLY, flat(2.0), pin=flat(25.0)), in_parallel=3, is_shared=True)
    assert size_led_resistor(shared, wanted_current_a=0.02).resistance_ohm == 51.0
    point = led_point(shared, resistance_ohm=51.0)
    assert point.current_a.value == pytest.approx(3 / 51 / 3)
    assert (point.current_a.least, point.current_a.most) == (0.0, pytest.approx(3.25 / (51 * 0.95)))
    assert point.current_with_pin_a == pytest.approx(3 / 76 / 3)
    assert point.resistor_power_w == pytest.approx(0.1765, abs=5e-5)


@pytest.mark.parametrize(
    ("ohm", "tolerance", "bands"),
    [
        (75, 0.05, ("violet", "green", "black", "gold")),
        (4700, 0.05, ("yellow", "violet", "red", "gold")),
        (1000, 0.05, ("brown", "black", "red", "gold")),
        (2.2, 0.05, ("red", "red", "gold", "gold")),
        (220, 0.01, ("red", "red", "black", "black", "brown")),
        (10_000, 0.01, ("brown", "black", "black", "red", "brown")),
        (1_000_000, 0.05, ("brown", "black", "green", "gold")),
        (0.47, 0.05, ("yellow", "violet", "silver", "gold")),
        (332, 0.05, ("orange", "orange", "red", "black", "gold")),
        (470, 0.2, ("yellow", "violet", "brown")),
        (1e13, 0.05, ()),
    ],
)
def test_bands(ohm: float, tolerance: float, bands: tuple[str, ...]) -> None:
    assert band_colours(ohm, tolerance) == bands, "IEC 60062, recalled"
