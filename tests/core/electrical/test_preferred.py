"""Preferred values against IEC 60063 as recalled, its formula, and a general package."""

import eseries
import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.core.electrical.preferred import SERIES, Series, neighbour, next_preferred

PACKAGE = {"E6": eseries.E6, "E12": eseries.E12, "E24": eseries.E24, "E48": eseries.E48, "E96": eseries.E96}
# Recalled from IEC 60063, not read; the package and, for E48 and E96, the formula are the second road.
E6 = (1.0, 1.5, 2.2, 3.3, 4.7, 6.8)
E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)


@pytest.mark.parametrize("series", ["E6", "E12", "E24", "E48", "E96"])
def test_series_agree_with_a_general_package(series: Series) -> None:
    ours = sorted(SERIES[series])
    theirs = sorted(value / 10 if value >= 10 else value for value in eseries.series(PACKAGE[series]))
    scale = 10 ** round(sum(theirs) / sum(ours) - 0.5 > 5)
    assert [round(value, 3) for value in ours] == [round(value / scale, 3) for value in theirs]


def test_short_series_as_printed() -> None:
    assert SERIES["E6"] == E6, "IEC 60063:2015, E6, recalled"
    assert SERIES["E12"] == E12, "IEC 60063:2015, E12, recalled"


@pytest.mark.parametrize(
    ("wanted_ohm", "series", "expected_ohm"),
    [
        (34.0, "E24", 36.0),
        (70.0, "E24", 75.0),
        (75.0, "E24", 75.0),
        (92.0, "E24", 100.0),
        (180.00000000000003, "E24", 180.0),
        (1.0, "E24", 1.0),
        (9.2, "E12", 10.0),
        (1e6, "E6", 1e6),
        (1.01e6, "E6", 1.5e6),
        (0.5, "E24", 0.51),
        (976.5, "E96", 1000.0),
    ],
)
def test_next_preferred(wanted_ohm: float, series: Series, expected_ohm: float) -> None:
    assert next_preferred(wanted_ohm, series) == expected_ohm, "IEC 60063:2015"


@given(value=st.floats(0.5, 5e6), series=st.sampled_from(["E6", "E12", "E24", "E48", "E96"]))
def test_neighbours_enclose(value: float, series: Series) -> None:
    above = next_preferred(value, series)
    assert above >= value * (1 - 1e-8)
    assert neighbour(above, -1, series) < above < neighbour(above, 1, series)
    assert next_preferred(neighbour(above, -1, series) * 1.000001, series) == above
