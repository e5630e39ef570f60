"""Quantities the ways people write them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.core.base import at_most, si
from oddlamp.core.english import offered
from oddlamp.core.plan.quantities import parse_quantity


@pytest.mark.parametrize(
    ("text", "unit", "expected"),
    [
        ("220", "ohm", 220),
        ("4k7", "ohm", 4700),
        ("4,7k", "ohm", 4700),
        ("4.7 kohm", "ohm", 4700),
        ("4.7 kΩ", "ohm", 4700),
        ("2R2", "ohm", 2.2),
        ("0R5", "ohm", 0.5),
        ("1M", "ohm", 1e6),
        ("1.2e3", "ohm", 1200),
        ("50\u00a0Ω", "ohm", 50),
        ("3V3", "V", 3.3),
        ("3.3 V", "V", 3.3),
        (" 5 ", "V", 5),
        ("20m", "A", 0.02),
        ("20 mA", "A", 0.02),
        (".02", "A", 0.02),
        ("5 %", "ratio", 0.05),
        ("0.05", "ratio", 0.05),
        ("40 cm", "m", 0.4),
        ("0.4 m", "m", 0.4),
        ("9600 baud", "Bd", 9600),
        ("100 nF", "F", 1e-7),
    ],
)
def test_reads_what_people_write(text: str, unit: str, expected: float) -> None:
    assert parse_quantity(text, unit) == pytest.approx(expected, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("20 mA", "V"),
        ("3V3", "ohm"),
        ("", "V"),
        ("abc", "ohm"),
        ("4k7k", "ohm"),
        ("1 2", "ohm"),
        ("5 V V", "V"),
        ("1" * 61, "ohm"),
        ("nan", "V"),
        ("inf", "V"),
        ("--5", "V"),
        ("5 cV", "V"),
    ],
)
def test_refuses_another_unit_or_no_number(text: str, unit: str) -> None:
    with pytest.raises(ValueError, match=r".+"):
        parse_quantity(text, unit)


def test_refuses_a_comma_that_could_be_read_two_ways() -> None:
    with pytest.raises(ValueError, match=r"1,200 can be 1200 or 1\.200"):
        parse_quantity("1,200", "ohm")
    assert parse_quantity("0,250", "A") == 0.25  # a leading zero cannot be thousands


@given(mantissa=st.integers(100, 999), exponent=st.integers(-2, 5), unit=st.sampled_from(["ohm", "A", "W", "s", "Hz"]))
def test_what_is_written_is_read_back(mantissa: int, exponent: int, unit: str) -> None:
    value = float(f"{mantissa}e{exponent - 2}")
    assert parse_quantity(si(value, unit).replace("\u00a0", " "), unit) == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(
    ("value", "unit", "digits", "expected"),
    [
        (0.0186666, "A", 3, "18.7 mA"), (0.02, "A", 3, "20 mA"), (0.026133, "W", 2, "26 mW"), (3.507, "V", 3, "3.51 V"),
        (3.515, "V", 3, "3.52 V"), (5, "V", 3, "5.00 V"), (12, "V", 3, "12.0 V"), (75, "ohm", 3, "75 Ω"), (4700, "ohm", 3, "4.7 kΩ"),
        (1e6, "ohm", 3, "1 MΩ"), (0.0010417, "s", 3, "1.04 ms"), (0.05, "ratio", 3, "5 %"), (9600, "Bd", 3, "9600 Bd"),
        (0, "A", 3, "0 A"), (0.9999, "A", 3, "1 A"), (999.96, "ohm", 3, "1 kΩ"), (-0.3, "V", 3, "-0.30 V"),
    ],
)  # fmt: skip
def test_writes_no_more_digits_than_a_number_deserves(value: float, unit: str, digits: int, expected: str) -> None:
    assert si(value, unit, digits=digits).replace("\u00a0", " ") == expected


@pytest.mark.parametrize(
    ("exact", "aim"), [(0.02, 0.02), (0.02 / 3, 0.0066), (0.0299, 0.029), (0.1 / 24, 0.0041), (1.0, 1.0), (0.3 / 3, 0.1)]
)
def test_an_aim_has_two_digits_and_never_passes(exact: float, aim: float) -> None:
    assert at_most(exact) == aim


@pytest.mark.parametrize(
    ("label", "text"),
    [
        ("Red", "a red"),
        ("Orange", "an orange"),
        ("Three AAA cells, 4.5 V", "three AAA cells, 4.5 V"),
        ("USB port, 5 V 500 mA", "a USB port, 5 V 500 mA"),
    ],
)
def test_parts_are_offered_as_people_say(label: str, text: str) -> None:
    assert offered(label) == text
