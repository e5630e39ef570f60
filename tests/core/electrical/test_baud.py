"""Serial speeds against the tables in the data sheets of 8-bit chips with such a port: error in per cent, one decimal.

The rows are recalled from those tables, not read; they are plain arithmetic, which is done again here in whole numbers.
"""

from fractions import Fraction

import pytest

from oddlamp.core.electrical.baud import divided_error, made_speed

TABLE = [  # clock in MHz, speed, by 16, by 8
    (16, 9_600, 0.2, 0.2),
    (16, 19_200, 0.2, 0.2),
    (16, 38_400, 0.2, 0.2),
    (16, 57_600, 2.1, -0.8),
    (16, 115_200, -3.5, 2.1),
    (8, 9_600, 0.2, 0.2),
    (8, 19_200, 0.2, 0.2),
    (8, 38_400, 0.2, 0.2),
    (8, 57_600, -3.5, 2.1),
    (8, 115_200, 8.5, -3.5),
]


@pytest.mark.parametrize(("mhz", "baud", "by_16", "by_8"), TABLE)
def test_the_known_table(mhz: int, baud: int, by_16: float, by_8: float) -> None:
    for by, error in ((16, by_16), (8, by_8)):
        found = divided_error(mhz * 1e6, baud, by)
        assert round(found * 100, 1) == error
        steps = min(range(1, 5000), key=lambda it: abs(Fraction(mhz * 10**6, by * it) - baud))
        exact = Fraction(mhz * 10**6, by * steps) / baud - 1
        assert found == pytest.approx(float(exact), abs=1e-12), "the nearest there is"


def test_the_usual_library_runs_double_speed_but_for_one() -> None:
    """Common practice, from memory."""
    assert [made_speed(16e6, baud).is_double for baud in (9_600, 57_600, 115_200)] == [True, False, True]
    assert made_speed(8e6, 57_600).is_double
