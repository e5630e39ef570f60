"""The assignment of pins against an integer programme written apart, and what it is held to."""

import pytest

from oddlamp.core.pins.solve import Wanted, competing, place
from tests.core.pins.drawn import drawn, fifty
from tests.full import IS_PROOF
from tests.reference.pins import best_level

FIFTY_FROM = 1000
DRAWN = [*range(500 if IS_PROOF else 40), *range(FIFTY_FROM, FIFTY_FROM + (20 if IS_PROOF else 3))]
TOO_MANY = [it for it in range(300 if IS_PROOF else 20) if None in place(*drawn(it)).labels]


def most_of(seed: int) -> int:
    """Up to twenty lines; up to fifty from a seed on."""
    return 50 if seed >= FIFTY_FROM else 20


@pytest.mark.parametrize("seed", DRAWN)
def test_as_good_as_the_integer_programme(seed: int) -> None:
    pins, wanted, groups = drawn(seed, most_of(seed))
    found = place(pins, wanted, groups)
    assert found.is_proven
    assert found.level == best_level(pins, wanted, groups)
    held = [it._replace(held=label, shown=None) for it, label in zip(wanted, found.labels, strict=True) if label is not None]
    assert len({it.held for it in held}) == len(held), "no pin twice"
    assert best_level(pins, [it._replace(mate=None) for it in held], [])[0] == 0, "and every line on a pin it may have"


@pytest.mark.parametrize("seed", TOO_MANY)
def test_what_competes_is_minimal(seed: int) -> None:
    """Together they do not fit; without any one of them they do: by the integer programme."""
    pins, wanted, _ = drawn(seed)
    labels = place(pins, wanted).labels
    kept = competing(pins, wanted, labels.index(None))
    assert best_level(pins, alone(wanted, kept), [])[0] > 0
    for one in kept:
        rest = [it for it in kept if it != one]
        assert not rest or best_level(pins, alone(wanted, rest), [])[0] == 0


def alone(wanted: list[Wanted], kept: tuple[int, ...] | list[int]) -> list[Wanted]:
    """These lines, as if there were no others."""
    at = {line: place for place, line in enumerate(kept)}
    return [wanted[it]._replace(mate=at.get(wanted[it].mate) if wanted[it].mate is not None else None) for it in kept]


def test_one_question_has_one_answer() -> None:
    pins, wanted, groups = drawn(7, 20)
    assert place(pins, wanted, groups) == place(list(pins), list(wanted), list(groups))


@pytest.mark.parametrize("seed", range(40))
def test_what_is_shown_stays(seed: int) -> None:
    """Taking a line out, or another one in, moves no shown pin that still fits."""
    pins, wanted, groups = drawn(seed)
    labels = place(pins, wanted, groups).labels
    shown = [it._replace(shown=label) if it.held is None else it for it, label in zip(wanted, labels, strict=True)]
    found = place(pins, shown, groups)
    assert found.labels == labels
    assert found.level == best_level(pins, shown, groups)
    if shown[-1].mate is None and not any(len(shown) - 1 in group.members for group in groups):
        assert place(pins, shown[:-1], groups).labels[: len(shown) - 1] == labels[:-1] or None in labels


@pytest.mark.parametrize("groups", [0, 11])
def test_fifty_lines_are_proven(groups: int) -> None:
    """With the serial lines that is twelve groups; HiGHS takes seconds over them, so its answer is a figure of ``make proof``."""
    question = fifty(groups)
    found = place(question.part.usable_pins, question.wanted, question.groups)
    assert (len(question.wanted), len(question.groups)) == (50, groups + 1)
    assert found.is_proven
    if IS_PROOF:
        assert found.level == best_level(question.part.usable_pins, question.wanted, question.groups)
