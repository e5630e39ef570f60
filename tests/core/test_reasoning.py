"""The finder's reasoning against a dynamic programme over every way of asking, and against Bayes' rule in whole fractions."""

import random
from fractions import Fraction
from statistics import median, quantiles

import numpy as np
import pytest

from oddlamp.core.errors import KnowledgeInvalid
from oddlamp.core.reasoning import ENOUGH_SHARE, MINUTES_MOST, TELLS_BITS, Case, Question, Reasoner
from tests.full import IS_PROOF

CAUSES, TESTS, WRONG = 8, 12, Fraction(1, 10)
CASES = 200 if IS_PROOF else 2


def small(seed: int, wrong: Fraction = WRONG, tests: int = TESTS) -> Case:
    """Eight causes and twelve questions of one to ten minutes, each with two outcomes that are wrong so often."""
    rng = random.Random(seed)
    odds = tuple(rng.expovariate(1) + 1e-3 for _ in range(CAUSES))
    questions = []
    for number in range(tests):
        while len(set(says := [rng.randrange(2) for _ in range(CAUSES)])) < 2:
            continue
        yes = tuple(float(1 - wrong if it else wrong) for it in says)
        questions.append(Question(f"q{number}", float(rng.choice((1, 2, 3, 5, 8, 10))), (tuple(1 - it for it in yes), yes)))
    return Case(tuple(f"c{it}" for it in range(CAUSES)), odds, tuple(questions))


class Everything:
    """All that can have been answered in a case of questions with two outcomes, worked out from the last answer back: written apart, knows no policy."""

    def __init__(self, case: Case) -> None:
        count, minutes = len(case.questions), case.minutes
        # Causes that no question tells apart are one.
        columns = np.array([[row for it in case.questions for row in it.says]]).reshape(-1, CAUSES)
        _, first, mine = np.unique(columns, axis=1, return_index=True, return_inverse=True)
        odds = np.bincount(mine.ravel(), np.array(case.odds)) / sum(case.odds)
        weights, spent = odds[None], np.zeros(1)
        for at, question in enumerate(case.questions):
            no, yes = np.array(question.says)[:, first]
            weights = np.concatenate([weights, weights * no, weights * yes])
            spent = np.concatenate([spent, spent + minutes[at], spent + minutes[at]])
        self.whole, self.case = weights.sum(1), case
        shares = weights / self.whole[:, None]
        noise = -(weights * np.log2(np.maximum(weights, 1e-300))).sum(1) + self.whole * np.log2(self.whole)
        places = np.arange(3**count)
        self.digits = np.stack([(places // 3**at) % 3 for at in range(count)], 1)
        tells = np.zeros((3**count, count))
        for at in range(count):
            free = places[self.digits[:, at] == 0]
            tells[free, at] = (noise[free] - noise[free + 3**at] - noise[free + 2 * 3**at]) / self.whole[free]
        self.is_over = (shares.max(1) >= ENOUGH_SHARE) | (spent >= MINUTES_MOST) | (tells.max(1) < TELLS_BITS)
        self.tells = tells

    def least(self) -> float:
        """Return the expected minutes of the best way of asking there is."""
        asked = (self.digits > 0).sum(1)
        left = np.zeros(len(self.whole))
        for count in range(len(self.case.questions) - 1, -1, -1):
            here = np.flatnonzero((asked == count) & ~self.is_over)
            best = np.full(len(here), np.inf)
            for at, minutes in enumerate(self.case.minutes):
                can = (self.digits[here, at] == 0) & (self.tells[here, at] >= TELLS_BITS)
                it = here[can]
                best[can] = np.minimum(best[can], minutes * self.whole[it] + left[it + 3**at] + left[it + 2 * 3**at])
            left[here] = best
        return float(left[0])

    def of(self, reasoner: Reasoner) -> float:
        """Return the expected minutes of what a reasoner asks: every answer it may meet is followed."""

        def follow(place: int, answers: dict[str, int | None], spent: float) -> float:
            asks = reasoner.next(answers, spent)
            if asks is None or self.whole[place] < 1e-4:
                return 0.0
            at = self.case.place[asks.id]
            after = (follow(place + (it + 1) * 3**at, {**answers, asks.id: it}, spent + asks.minutes) for it in (0, 1))
            return asks.minutes * float(self.whole[place]) + sum(after)

        return follow(0, {}, 0.0)


def test_a_run_is_nearly_as_short_as_any_can_be(capsys: pytest.CaptureFixture[str]) -> None:
    ratios = []
    for seed in range(CASES):
        case = small(seed)
        every = Everything(case)
        ratios.append(every.of(Reasoner(case)) / every.least())
    assert min(ratios) > 0.999  # nothing is better than the best
    if not IS_PROOF:
        assert max(ratios) < 1.25
        return
    worst = quantiles(ratios, n=20)[-1]
    with capsys.disabled():
        print(f"\nminutes over the least: median {median(ratios):.3f}, 95th percentile {worst:.3f}, most {max(ratios):.3f}")
    assert (median(ratios) <= 1.05, worst <= 1.25) == (True, True)


@pytest.mark.parametrize("seed", range(20))
def test_odds_are_those_of_bayes_in_whole_fractions(seed: int) -> None:
    rng, case = random.Random(seed), small(seed)
    answers = {it.id: rng.choice((0, 1, None)) for it in rng.sample(case.questions, 7)}
    odds = [Fraction(it) for it in case.odds]
    for name, outcome in answers.items():
        if outcome is not None:
            odds = [it * Fraction(case.questions[case.place[name]].says[outcome][at]) for at, it in enumerate(odds)]
    shares = Reasoner(case).standing(answers).shares
    assert shares == pytest.approx([float(it / sum(odds)) for it in odds], abs=1e-9)


def test_what_nothing_tells_apart_is_one_and_ends_the_run_together() -> None:
    says = ((1.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    case = Case(("a", "b", "c"), (1.0, 3.0, 1.0), (Question("q", 2.0, says),))
    reasoner = Reasoner(case)
    assert case.alike() == (0, 0, 2)
    asks = reasoner.next({})
    assert asks is not None
    assert (asks.id, asks.minutes_left) == ("q", 2.0)
    assert asks.leaves[0] == pytest.approx((0.25, 0.75, 0.0))
    assert reasoner.ending({"q": 0}, 2.0) == "found"
    assert reasoner.standing({"q": 0}).shares == pytest.approx((0.25, 0.75, 0.0))


def test_what_cannot_be_asked_or_answered_is_passed_over() -> None:
    case = small(3)
    possible = [it.id for it in case.questions[::2]]
    reasoner, answers = Reasoner(case, possible), dict[str, int | None]()
    while (asks := reasoner.next(answers)) is not None:
        assert asks.id in possible
        assert asks.id not in answers
        answers[asks.id] = None
    assert reasoner.standing(answers).shares == pytest.approx([it / sum(case.odds) for it in case.odds])
    assert reasoner.ending(answers, 0.0) == "nothing left"


def test_an_answer_that_speaks_against_all_others_is_told() -> None:
    right = tuple((0.95, 0.05) for _ in range(4))
    questions = [Question(f"q{it}", 1.0, (right[it], tuple(1 - share for share in right[it]))) for it in range(4)]
    reasoner = Reasoner(Case(("a", "b"), (1.0, 1.0), tuple(questions)))
    assert reasoner.standing({"q0": 0, "q1": 0, "q2": 0}).doubtful == ()
    assert reasoner.standing({"q0": 0, "q1": 0, "q2": 0, "q3": 1}).doubtful == ("q3",)


def test_a_run_ends_when_its_time_is_up() -> None:
    case = small(5)
    assert Reasoner(case).next({}, spent=MINUTES_MOST) is None
    assert Reasoner(case).ending({}, MINUTES_MOST) == "time"


@pytest.mark.parametrize(
    ("odds", "says", "minutes"),
    [
        ((0.0, 1.0), ((0.5, 1.0), (0.5, 0.0)), 1.0),
        ((float("inf"), 1.0), ((0.5, 1.0), (0.5, 0.0)), 1.0),
        ((1.0,), ((0.5, 1.0), (0.5, 0.0)), 1.0),
        ((1.0, 1.0), ((0.5, 1.0), (0.4, 0.0)), 1.0),
        ((1.0, 1.0), ((0.5, 0.5), (0.5, 0.5)), 1.0),
        ((1.0, 1.0), ((-0.5, 1.0), (1.5, 0.0)), 1.0),
        ((1.0, 1.0), ((0.5, 1.0), (0.5, 0.0)), 0.0),
        ((1.0, 1.0), ((0.5, 1.0),), 1.0),
        ((1.0, 1.0), ((float("nan"), 1.0), (0.5, 0.0)), 1.0),
    ],
)
def test_knowledge_that_does_not_add_up_is_refused(
    odds: tuple[float, ...], says: tuple[tuple[float, ...], ...], minutes: float
) -> None:
    with pytest.raises(KnowledgeInvalid):
        Case(("a", "b"), odds, (Question("q", minutes, says),))
    with pytest.raises(KnowledgeInvalid):
        Reasoner(small(1)).standing({"nothing": 0})
