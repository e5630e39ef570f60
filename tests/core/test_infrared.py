"""Codes of remotes, learned from what a receiver saw."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.core.plan.fields import read_code
from oddlamp.core.plan.infrared import code_of_timings, read_timings, timings_of_code


@given(st.integers(0, 2**32 - 1), st.lists(st.floats(0.75, 1.25), min_size=67, max_size=67))
def test_a_code_is_read_from_its_marks_and_spaces_however_the_receiver_stretches_them(code: int, by: list[float]) -> None:
    assert code_of_timings([round(it * one) for it, one in zip(timings_of_code(code), by, strict=True)]) == code


def test_a_frame_whose_second_half_of_each_pair_is_its_complement_takes_67_and_a_half_ms() -> None:
    """Sixteen 0 and sixteen 1: 13.5 + 16 x 1.12 + 16 x 2.25 ms and the last mark; common practice, from memory: 67.5 ms to its start."""
    assert sum(timings_of_code(0x20DF10EF)[:-1]) == pytest.approx(67_500, rel=0.01)


def test_what_a_receiver_prints_is_read_with_signs_and_words_around_it() -> None:
    line = "raw (67): " + ", ".join(f"{'-' if at % 2 else '+'}{it}" for at, it in enumerate(timings_of_code(0x20DF10EF)))
    assert read_code(line) == 0x20DF10EF
    assert read_code("20DF 10EF") == 0x20DF10EF
    assert read_timings("9000 4500") is None


@pytest.mark.parametrize(
    ("times", "told"),
    [
        ((560,) * 70, "no header of 9 ms and 4.5 ms"),
        (timings_of_code(1)[:40], "ends after 19 of 32 bits"),
        ((*timings_of_code(1)[:4], 560, 1000, *timings_of_code(1)[6:]), "bit 2 is 560 and 1000 us"),
    ],
)
def test_what_is_no_code_is_told_where(times: tuple[int, ...], told: str) -> None:
    with pytest.raises(ValueError, match=told):
        read_code(" ".join(map(str, times)))
