"""The fault finder of one way: the causes there is a place for with their odds, what was answered, and what to do next."""

from collections.abc import Collection, Mapping
from functools import cached_property
from typing import TYPE_CHECKING, Final, NamedTuple

from oddlamp.core.errors import OutOfRange
from oddlamp.core.finding.feeding import is_on_cells
from oddlamp.core.finding.knowledge import MEND_RIGHT, MENDED, Cause, Feature, Knowledge, Need, Test
from oddlamp.core.finding.metering import reading_class, step_ids
from oddlamp.core.finding.observe import TESTS
from oddlamp.core.finding.table import BROKEN
from oddlamp.core.finding.way import Way

if TYPE_CHECKING:
    from oddlamp.core.reasoning import Case, Ending, Next, Reasoner

LEAK: Final = 0.003  # of a cause's odds where it makes another symptom than was told: makers name them otherwise; an estimate
COILS: Final = frozenset({"relay", "motor"})
RAISED: Final = 3.0  # times for each thing in the plan that speaks for a cause; an estimate
RAISED_MOST: Final = 27.0
FELL: Final = 5.0  # an answer that makes a cause this many times less likely rules it out as far as it goes
WAS_LIKELY: Final = 0.01


class Told(NamedTuple):
    """What one answer did: the likeliest cause after it and its share, and the causes it ruled out."""

    test: str
    outcome: str | None
    first: str
    share: float
    ruled_out: tuple[str, ...]


def features(way: Way) -> frozenset[Feature]:
    """Return what a plan has, for what is told and not simulated."""
    air = way.design.airs.get(way.air)
    found: dict[Feature, bool] = {
        "board": way.is_board,
        "module": way.has_module,
        "battery": is_on_cells(way),
        "air": air is not None,
        "network": air is not None and air.radio == "wifi",
        "phone": way.is_by_phone,
        "pixels": way.is_pixels,
        "knob": way.has_knob,
        "coil": any(it.kind in COILS for it in way.design.lamps.values()),
        "told": way.dialect is not None and way.dialect.enters == "always",
        "by-hand": way.press is None,
        "one-speed": way.dialect is not None and not way.dialect.setup_speed_bd,
    }
    return frozenset(name for name, is_there in found.items() if is_there)


def has_place(way: Way, it: Cause | Test) -> bool:
    """Tell whether a cause or a test has a place on a way: by the table it is simulated by, or by what the plan has."""
    if isinstance(it, Test):
        return TESTS[it.id].fits(way) if it.id in TESTS else set(it.has) <= features(way)
    if it.id in BROKEN and BROKEN[it.id](way) is not None:
        return True
    return bool(it.has) and set(it.has) <= features(way)


class Search:
    """One search: from a symptom to a cause.

    Args:
        way: from the hand to the lamp.
        known: what is known of faults.
        symptom: what was seen first.
        lacking: what the maker has not got; tests that need it are passed over.
        facts: what the plan says that raises odds: codes of its verdicts, and how it stands.
        mended: what was mended meanwhile, which is never asked for: tests by their ids.

    Raises:
        OutOfRange: no such symptom.
    """

    def __init__(
        self,
        way: Way,
        known: Knowledge,
        symptom: str,
        *,
        lacking: Collection[Need] = (),
        facts: Collection[str] = (),
        mended: Collection[str] = (),
    ) -> None:
        if symptom not in known.symptom:
            raise OutOfRange(field="symptom", given=symptom[:60], allowed="one of " + ", ".join(known.symptom)[:600])
        self.way, self.known, self.symptom, self.lacking, self.facts = way, known, symptom, frozenset(lacking), frozenset(facts)
        self.features = features(way)
        self.causes = tuple(it for it in known.causes if has_place(way, it))
        self.mended = tuple(known.test[f"{MENDED}{it.id}"] for it in self.causes if f"{MENDED}{it.id}" in mended)
        self.tests = tuple(it for it in known.tests if has_place(way, it) and self._tells(it))

    def _tells(self, test: Test) -> bool:
        return len({test.given(it.id, self.features) for it in self.causes}) > 1

    def raised_by(self, cause: Cause) -> tuple[str, ...]:
        """Return what in the plan speaks for a cause."""
        return tuple(it for it in cause.raised if it in self.facts)

    def odds(self, cause: Cause) -> float:
        """Return the odds of a cause before anything is answered."""
        times = min(RAISED ** len(self.raised_by(cause)), RAISED_MOST)
        return cause.odds * times * (1.0 if self.symptom in cause.makes_on(self.features) else LEAK)

    @cached_property
    def case(self) -> "Case":
        """Causes and tests as the reasoner has them."""
        from oddlamp.core.reasoning import Case

        ids = tuple(it.id for it in self.causes)
        asked = [it.question(ids, self.known.right, self.features) for it in self.tests]
        asked += [it.question(ids, MEND_RIGHT) for it in self.mended]
        return Case(ids, tuple(map(self.odds, self.causes)), tuple(asked))

    @cached_property
    def possible(self) -> tuple[str, ...]:
        """The tests that can be made with what there is."""
        return tuple(it.id for it in self.tests if not self.lacking & set(it.needs))

    @property
    def there(self) -> frozenset[str]:
        """What can be answered here."""
        return frozenset(it.id for it in (*self.tests, *self.mended))

    @cached_property
    def reasoner(self) -> "Reasoner":
        """What asks and concludes."""
        from oddlamp.core.reasoning import Reasoner

        return Reasoner(self.case, self.possible)

    def numbered(self, answers: Mapping[str, str | None]) -> dict[str, int | None]:
        """Return answers by the places of their outcomes; those to tests that have no place here are left out.

        Raises:
            OutOfRange: an outcome that a test has not.
        """
        found: dict[str, int | None] = {}
        there = self.there
        for name, outcome in answers.items():
            if name not in there:
                continue
            outcomes = tuple(self.known.test[name].outcomes)
            if outcome is not None and outcome not in outcomes:
                raise OutOfRange(field=f"answers.{name}", given=outcome[:60], allowed="one of " + ", ".join(outcomes))
            found[name] = None if outcome is None else outcomes.index(outcome)
        return found

    def shares(self, answers: Mapping[str, str | None]) -> dict[str, float]:
        """Return how likely each cause is."""
        return dict(zip(self.case.causes, self.reasoner.standing(self.numbered(answers)).shares, strict=True))

    def doubtful(self, answers: Mapping[str, str | None]) -> tuple[str, ...]:
        """Return the answers that speak against what the others say."""
        return self.reasoner.standing(self.numbered(answers)).doubtful

    def minutes(self, answers: Mapping[str, str | None]) -> float:
        """Return what was spent on what was answered, minutes; what could not be said took no time."""
        return sum(
            self.known.test[it].minutes for it, outcome in answers.items() if outcome is not None and it in self.known.test
        )

    def worked(self, answers: Mapping[str, str | None]) -> str | None:
        """Return the cause that was mended so that it works: then it was that, however unlikely."""
        return next(
            (name.removeprefix(MENDED) for name, it in answers.items() if name.startswith(MENDED) and it == "works"), None
        )

    def to_mend(self, answers: Mapping[str, str | None], among: Collection[str]) -> str | None:
        """Return the likeliest of some causes that was not mended yet; None where all of them were."""
        shares = self.shares(answers)
        left = [it for it in shares if it in among and f"{MENDED}{it}" not in answers]
        return max(left, key=lambda it: shares[it], default=None)

    def next(self, answers: Mapping[str, str | None], spent: float | None = None) -> "Next | None":
        """Return what to do next; None where the search is over."""
        if self.worked(answers) is not None:
            return None
        return self.reasoner.next(self.numbered(answers), self.minutes(answers) if spent is None else spent)

    def ending(self, answers: Mapping[str, str | None], spent: float | None = None) -> "Ending | None":
        """Tell whether the search is over, and how."""
        if self.worked(answers) is not None:
            return "found"
        return self.reasoner.ending(self.numbered(answers), self.minutes(answers) if spent is None else spent)

    def alike(self, cause: str) -> tuple[str, ...]:
        """Return the causes that no test at hand tells from one, itself among them."""
        heads = dict(zip(self.case.causes, self.case.alike(self.possible), strict=True))
        return tuple(name for name, head in heads.items() if head == heads[cause])

    def told(self, answers: Mapping[str, str | None]) -> tuple[Told, ...]:
        """Tell of each answer, in their order, what it did."""
        found, before = [], self.shares({})
        for at, (name, outcome) in enumerate(answers.items()):
            now = self.shares(dict(list(answers.items())[: at + 1]))
            first = max(now, key=lambda it: now[it])
            out = [it for it in now if before[it] > WAS_LIKELY and now[it] * FELL < before[it]]
            out.sort(key=lambda it: -before[it])
            found.append(Told(name, outcome, first, now[first], tuple(out)))
            before = now
        return tuple(found)


def measured_answers(way: Way, found: Mapping[str, float]) -> dict[str, str]:
    """Return what was measured in the bring-up as answers to the tests it is one of.

    Args:
        way: from the hand to the lamp.
        found: what was measured, by the ids of the bring-up's steps.
    """
    steps = {it.id: it for it in way.steps}
    return {test: reading_class(steps[step_id], found[step_id]) for test, step_id in step_ids(way).items() if step_id in found}
