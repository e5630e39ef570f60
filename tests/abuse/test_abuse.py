"""A little of each abuse; the whole, with its figures, is ``make abuse``."""

from pathlib import Path

import pytest

from tests.abuse.crowd import crowd, edits_beside
from tests.abuse.damage import damage
from tests.abuse.fuzz import feed, fuzz
from tests.abuse.growth import SPREAD_MOST, calls_a_lamp, sizes
from tests.abuse.kills import freeze, kill
from tests.full import IS_PROOF, some


def test_nothing_kept_is_lost_to_a_kill(tmp_path: Path) -> None:
    it = kill(tmp_path, 2)
    assert (it.lost, it.fives) == (0, 0)
    assert it.acknowledged >= 2 * 5


def test_nothing_kept_is_missing_from_a_copy_made_at_any_moment(tmp_path: Path) -> None:
    it = freeze(tmp_path, 4)
    assert (it.lost, it.fives) == (0, 0)
    assert it.acknowledged >= 5


def test_twenty_at_once_meet_no_error(tmp_path: Path) -> None:
    it = crowd(tmp_path, 5)
    assert (it.fives, it.others) == (0, 0)
    assert it.edits > 25


@pytest.mark.skipif(not IS_PROOF, reason="half a minute of it is for the proof")
def test_edits_go_on_beside_the_slowest_request(tmp_path: Path) -> None:
    """How long one takes of as many lamps as may be is for ``make abuse``; here, that none waits for the other to end."""
    found = edits_beside(tmp_path, only=("keeping all", "a text of 1.4 kB", "a body of junk"), lamps=300)
    took_s, most_s, count = found["keeping all"]
    assert count >= 5
    assert most_s < took_s / 2
    # Against the longest of them, so that a slow hour of the machine is none of the program's.
    assert all(took < took_s / 2 for name, (took, _, _) in found.items() if name != "keeping all")


def test_spoiled_plans_are_refused_or_shown(tmp_path: Path) -> None:
    it = fuzz(tmp_path, 70, seed=7)
    assert (it.fives, it.unreadable) == (0, 0)
    assert it.kept > 5


@pytest.mark.parametrize(
    "name", some(["an open bracket", "two bytes a character", "half a character", "colours for the terminal"], 4)
)
def test_a_hostile_file_ends_in_a_sentence(tmp_path: Path, name: str) -> None:
    assert feed(tmp_path, only=(name,)).tracebacks == 0


def test_a_damaged_file_starts_or_is_refused_in_a_sentence(tmp_path: Path) -> None:
    it = damage(tmp_path, 4, seed=3)
    assert (it.otherwise, it.fives) == (0, 0)
    assert it.served
    assert it.refused


@pytest.mark.skipif(not IS_PROOF, reason="two thousand lamps are for the proof")
def test_review_and_answer_grow_with_the_plan_and_no_faster() -> None:
    """What is called is counted, because other tests run beside this one; by the clock only what grows with the square shows."""
    few, many = sizes((200, 2000), times=1)
    assert many.bytes_a_lamp / few.bytes_a_lamp < SPREAD_MOST
    assert many.us_a_lamp / few.us_a_lamp < 2 * SPREAD_MOST, (few, many)
    calls_a_lamp(200)  # what is worked out once and kept is worked out here
    assert calls_a_lamp(2000) / calls_a_lamp(200) < 1.1
