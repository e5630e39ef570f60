"""Tables as published standards print them, recalled and not read; each has a second road elsewhere in the tests."""

import pytest

from oddlamp.core.behaviour.arithmetic import seen_light
from oddlamp.core.behaviour.framing import byte_time_s
from oddlamp.core.electrical.bands import COLOURS, MULTIPLIERS, TOLERANCES
from oddlamp.core.electrical.preferred import SERIES, Series
from oddlamp.core.plan.text import bytes_of, shown

E24 = "10 11 12 13 15 16 18 20 22 24 27 30 33 36 39 43 47 51 56 62 68 75 82 91"
E48 = (
    "100 105 110 115 121 127 133 140 147 154 162 169 178 187 196 205 215 226 237 249 261 274 287 301 "
    "316 332 348 365 383 402 422 442 464 487 511 536 562 590 619 649 681 715 750 787 825 866 909 953"
)
E96 = (
    "100 102 105 107 110 113 115 118 121 124 127 130 133 137 140 143 147 150 154 158 162 165 169 174 "
    "178 182 187 191 196 200 205 210 215 221 226 232 237 243 249 255 261 267 274 280 287 294 301 309 "
    "316 324 332 340 348 357 365 374 383 392 402 412 422 432 442 453 464 475 487 499 511 523 536 549 "
    "562 576 590 604 619 634 649 665 681 698 715 732 750 768 787 806 825 845 866 887 909 931 953 976"
)


@pytest.mark.parametrize(("series", "printed"), [("E24", E24), ("E48", E48), ("E96", E96)])
def test_preferred_values(series: Series, printed: str) -> None:
    digits = 10 if series == "E24" else 100
    assert [round(value * digits) for value in SERIES[series]] == [int(number) for number in printed.split()], (
        "IEC 60063:2015, recalled"
    )


def test_colour_code() -> None:
    """IEC 60062, recalled: digits, multipliers and tolerances."""
    assert COLOURS == ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
    assert {MULTIPLIERS[power] for power in (-2, -1)} == {"silver", "gold"}
    assert [MULTIPLIERS[power] for power in range(10)] == list(COLOURS)
    assert {0.1: "silver", 0.05: "gold", 0.02: "red", 0.01: "brown"}.items() <= TOLERANCES.items()


@pytest.mark.parametrize(
    ("character", "decimal", "hexadecimal"),
    [
        ("0", 48, 0x30),
        ("1", 49, 0x31),
        ("9", 57, 0x39),
        ("A", 65, 0x41),
        ("Z", 90, 0x5A),
        ("a", 97, 0x61),
        ("z", 122, 0x7A),
        ("#", 35, 0x23),
        ("*", 42, 0x2A),
        (";", 59, 0x3B),
        ("/", 47, 0x2F),
    ],
)
def test_characters(character: str, decimal: int, hexadecimal: int) -> None:
    assert bytes_of(character) == bytes((decimal,)) == bytes((hexadecimal,)), "ISO/IEC 646, recalled"
    assert shown(decimal) == character


@pytest.mark.parametrize(
    ("name", "code", "typed"),
    [("CR", 13, "\\r"), ("LF", 10, "\\n"), ("TAB", 9, "\\t"), ("NUL", 0, "\\x00"), ("DEL", 127, "\\x7f"), ("space", 32, " ")],
)
def test_control_characters(name: str, code: int, typed: str) -> None:
    assert shown(code) == name, "ISO/IEC 646, recalled"
    assert bytes_of(typed) == bytes((code,))


@pytest.mark.parametrize("code", range(32, 127))
def test_every_printable_character_is_its_own_byte(code: int) -> None:
    typed = "\\\\" if chr(code) == "\\" else chr(code)
    assert bytes_of(typed) == chr(code).encode("ascii")


@pytest.mark.parametrize(
    ("baud", "byte_us"),
    [
        (300, 33_333.3),
        (1200, 8333.33),
        (2400, 4166.67),
        (4800, 2083.33),
        (9600, 1041.67),
        (19_200, 520.833),
        (38_400, 260.417),
        (57_600, 173.611),
        (115_200, 86.8056),
    ],
)
def test_byte_times(baud: int, byte_us: float) -> None:
    """Common practice, no source: ten bits a byte at 8N1; 9600 Bd is 960 bytes a second."""
    assert byte_time_s(baud) * 1e6 == pytest.approx(byte_us, rel=1e-5)


@pytest.mark.parametrize(
    ("luminance", "lightness"),
    [
        (0.0, 0.0),
        (0.008856, 8.0),
        (0.0113, 10.0),
        (0.0299, 20.0),
        (0.0623, 30.0),
        (0.1125, 40.0),
        (0.1842, 50.0),
        (0.2812, 60.0),
        (0.4075, 70.0),
        (0.5668, 80.0),
        (0.7630, 90.0),
        (1.0, 100.0),
    ],
)
def test_lightness(luminance: float, lightness: float) -> None:
    """ISO/CIE 11664-4, by its inverse worked by hand: Y = ((L* + 16) / 116)^3."""
    assert seen_light(luminance) * 100 == pytest.approx(lightness, abs=0.05)
