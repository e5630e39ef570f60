"""The shortest way to why: how likely each cause is by what was answered, and what to ask next.

Odds follow Bayes' rule. What is worth asking is not what tells most for its minutes at this moment: over whole runs that
takes an eighth longer than the best there is, because a run ends at a share and not at certainty. So each question is
tried with what would come after it: two plain ways of asking on are followed to their end from every answer, and the
question with the fewest minutes to come is asked. Source: policy rollout, Bertsekas, Dynamic Programming and Optimal
Control, vol. I, section 6.4 (from memory); the two ways are mutual information a minute (Shannon 1948), and the growth of
the log-odds of what is likeliest, a minute, up to those that end the run.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Final, Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from oddlamp.core.errors import KnowledgeInvalid

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
Places = NDArray[np.int_]
ENOUGH_SHARE: Final = 0.9
MINUTES_MOST: Final = 60.0
TELLS_BITS: Final = 0.01  # less than this and a question tells nothing worth a minute
TRIED_MOST: Final = 6  # questions whose ways on are followed, the best at this moment by either way
GROWN_MOST: Final = 4  # and those that are looked at for how much they bring up what is likeliest
BRANCH_LEAST: Final = 0.025  # what is less likely than this is not followed any further
DEEP_MOST: Final = 8
UNLIKELY: Final = 0.25  # an answer that what is believed makes less likely than this speaks against it
SUM_SLACK: Final = 1e-6
Ending = Literal["found", "nothing left", "time"]


class Question(NamedTuple):
    """Something to find out: what it takes, and of each of its outcomes how likely it is with each cause."""

    id: str
    minutes: float
    says: tuple[tuple[float, ...], ...]


class Next(NamedTuple):
    """What to ask next, and why: how much it tells, bits, and what each outcome would leave of each cause."""

    id: str
    minutes: float
    bits: float
    minutes_left: float
    leaves: tuple[tuple[float, ...], ...]


class Standing(NamedTuple):
    """How likely each cause is, and which answers speak against what the others say."""

    shares: tuple[float, ...]
    doubtful: tuple[str, ...]


@dataclass(frozen=True)
class Case:
    """Causes with their odds before anything is asked, and what can be asked.

    Raises:
        KnowledgeInvalid: odds or outcomes that do not add up, or a question that tells nothing whatever is answered.
    """

    causes: tuple[str, ...]
    odds: tuple[float, ...]
    questions: tuple[Question, ...]

    def __post_init__(self) -> None:
        if not self.causes or len(self.odds) != len(self.causes) or min(self.odds) <= 0 or not np.isfinite(self.odds).all():
            raise _invalid("odds", len(self.odds), "odds over nothing for each cause")
        for it in self.questions:
            table = np.array(it.says, dtype=float)
            if table.ndim != 2 or table.shape[1] != len(self.causes) or len(table) < 2:
                raise _invalid(it.id, table.shape, "two outcomes or more, each with a share for every cause")
            if not np.isfinite(table).all() or table.min() < 0 or np.abs(table.sum(0) - 1).max() > SUM_SLACK:
                raise _invalid(
                    it.id, "shares that do not add up to one", "shares of the outcomes that add up to one, for every cause"
                )
            if np.ptp(table, axis=1).max() < SUM_SLACK:
                raise _invalid(it.id, "the same for every cause", "a question that tells something of at least one cause")
            if not 0 < it.minutes <= MINUTES_MOST:
                raise _invalid(it.id, it.minutes, f"minutes over 0, and at most {MINUTES_MOST:g}")

    @cached_property
    def table(self) -> Floats:
        """How likely each outcome of each question is with each cause; nothing where a question has fewer outcomes."""
        most = max((len(it.says) for it in self.questions), default=2)
        filled = [(*it.says, *(((0.0,) * len(self.causes),) * (most - len(it.says)))) for it in self.questions]
        return np.array(filled, dtype=float).reshape(len(self.questions), most, len(self.causes))

    @cached_property
    def minutes(self) -> Floats:
        """What each question takes, minutes."""
        return np.array([it.minutes for it in self.questions], dtype=float)

    @cached_property
    def place(self) -> dict[str, int]:
        """The place of each question."""
        return {it.id: at for at, it in enumerate(self.questions)}

    def alike(self, possible: Sequence[str] | None = None) -> tuple[int, ...]:
        """Return for each cause the first that no possible question tells from it; itself where there is none before it."""
        at = range(len(self.questions)) if possible is None else [self.place[it] for it in possible]
        columns = np.round(self.table[list(at)].reshape(-1, len(self.causes)).T, 9)
        first: dict[bytes, int] = {}
        return tuple(first.setdefault(column.tobytes(), number) for number, column in enumerate(columns))


class Reasoner:
    """Asks and concludes in one case, with the questions that are possible in it."""

    def __init__(self, case: Case, possible: Sequence[str] | None = None) -> None:
        self.case = case
        self._at = np.array([case.place[it] for it in (case.place if possible is None else possible)], dtype=int)
        alike = case.alike([case.questions[it].id for it in self._at])
        self._heads = sorted(set(alike))
        self._class = np.array([self._heads.index(it) for it in alike])
        odds = np.array(case.odds) / sum(case.odds)
        self._within = odds / np.bincount(self._class, odds)[self._class]  # of its class: no answer changes it
        self._prior = np.bincount(self._class, odds)
        table = case.table[self._at][:, :, self._heads]
        self._table, self._minutes = table, case.minutes[self._at]
        with np.errstate(divide="ignore", invalid="ignore"):
            self._noise = -np.where(table > 0, table * np.log2(table), 0.0).sum(1)  # what each question's answer would not tell
        self._flat = table.reshape(-1, len(self._heads)).T

    def standing(self, answers: Mapping[str, int | None]) -> Standing:
        """Return how likely each cause is. An answer of None is one that could not be given, and says nothing.

        Raises:
            KnowledgeInvalid: an answer to no question of the case, or none of its outcomes.
        """
        given = {name: it for name, it in answers.items() if it is not None}
        shares = self._shares(given)
        doubtful = []
        for name, outcome in given.items() if len(given) > 2 else ():
            others = self._shares({other: it for other, it in given.items() if other != name})
            told = self.case.table[self.case.place[name], outcome]
            if others @ told < UNLIKELY and others.max() > ENOUGH_SHARE / 2:
                doubtful.append(name)
        return Standing(tuple(shares.tolist()), tuple(doubtful))

    def _shares(self, given: Mapping[str, int]) -> Floats:
        odds = np.log(np.array(self.case.odds, dtype=float))
        for name, outcome in given.items():
            at = self.case.place.get(name)
            if at is None or not 0 <= outcome < len(self.case.questions[at].says):
                raise _invalid(name, outcome, "an outcome of a question of this case")
            odds = odds + np.log(np.maximum(self.case.table[at, outcome], 1e-12))
        shares: Floats = np.exp(odds - odds.max())
        shares /= shares.sum()
        return shares

    def ending(self, answers: Mapping[str, int | None], spent: float) -> Ending | None:
        """Tell whether a run is over: one cause, or those alike, is likely enough; nothing left tells more; or time is up."""
        beliefs, asked = self._begin(answers)
        if beliefs.max() >= ENOUGH_SHARE:
            return "found"
        if not len(self._at) or self._bits(beliefs[None], asked[None]).max() < TELLS_BITS:
            return "nothing left"
        return "time" if spent >= MINUTES_MOST else None

    def next(self, answers: Mapping[str, int | None], spent: float = 0.0) -> Next | None:
        """Return what to ask next; None where the run is over."""
        if self.ending(answers, spent) is not None:
            return None
        beliefs, asked = self._begin(answers)
        bits = self._bits(beliefs[None], asked[None])[0]
        growth = self._growth(beliefs[None], bits[None])[0]
        # Whatever is best at this moment by either way is tried.
        telling = np.where(bits < TELLS_BITS, -np.inf, bits)
        wanted = np.unique(
            [*np.argsort(-telling / self._minutes)[:TRIED_MOST], *np.argsort(-growth / self._minutes)[:TRIED_MOST]]
        )
        wanted = wanted[bits[wanted] >= TELLS_BITS]
        left = self._minutes_left(beliefs, asked, wanted, spent)
        best = int(wanted[int(np.argmin(left))])
        after = beliefs[None] * self._table[best]
        told = after.sum(1)
        spread = (after / np.maximum(told, 1e-12)[:, None])[:, self._class] * self._within
        question = self.case.questions[self._at[best]]
        return Next(question.id, question.minutes, float(bits[best]), float(left.min()), tuple(tuple(it) for it in spread[: len(question.says)].tolist()))  # fmt: skip

    def _begin(self, answers: Mapping[str, int | None]) -> tuple[Floats, Flags]:
        given = {name: it for name, it in answers.items() if it is not None}
        beliefs: Floats = np.bincount(self._class, self._shares(given)).astype(np.float64)
        return beliefs, np.array([self.case.questions[it].id in answers for it in self._at], dtype=np.bool_)

    def _bits(self, beliefs: Floats, asked: Flags) -> Floats:
        """Return for each set of beliefs what each question would tell, bits; nothing where it was asked."""
        questions, outcomes, _ = self._table.shape
        told = (beliefs @ self._flat).reshape(len(beliefs), questions, outcomes)
        with np.errstate(divide="ignore", invalid="ignore"):
            bits = -np.where(told > 0, told * np.log2(told), 0.0).sum(2) - beliefs @ self._noise.T
        return np.where(asked, 0.0, bits)

    def _growth(self, beliefs: Floats, bits: Floats) -> Floats:
        """Return by how much each of the best questions would bring up what is likeliest; of the others it is not looked for."""
        found = np.full(bits.shape, -np.inf)
        some = np.argsort(-np.where(bits < TELLS_BITS, -np.inf, bits) / self._minutes, 1)[:, :GROWN_MOST]
        joint = beliefs[:, None, None, :] * self._table[some]
        told = joint.sum(3)
        after = joint / np.maximum(told, 1e-12)[..., None]
        rows = np.arange(len(bits))[:, None]
        found[rows, some] = (told * _certainty(after)).sum(2) - _certainty(beliefs)[:, None]
        return np.where(bits < TELLS_BITS, -np.inf, found)

    def _minutes_left(self, beliefs: Floats, asked: Flags, firsts: Places, spent: float) -> Floats:
        """Return the minutes to come where each of some questions is asked, and then on by the better of two ways after each answer."""
        joint = beliefs[None, None, :] * self._table[firsts]
        chance = joint.sum(2)
        which, outcome = np.nonzero(chance > 0)
        nodes = joint[which, outcome] / chance[which, outcome][:, None]
        gone = np.repeat(asked[None], len(nodes), 0)
        gone[np.arange(len(nodes)), firsts[which]] = True
        used = spent + self._minutes[firsts[which]]
        ways = [self._followed(nodes, gone, used, chance[which, outcome], by_growth=it) for it in (False, True)]
        left: Floats = self._minutes[firsts] + np.bincount(which, chance[which, outcome] * np.minimum(*ways), len(firsts))
        return left

    def _followed(self, nodes: Floats, gone: Flags, used: Floats, weight: Floats, *, by_growth: bool) -> Floats:
        """Return for each set of beliefs the minutes that one way of asking takes from there to its end."""
        total = np.zeros(len(nodes))
        root, chance = np.arange(len(nodes)), np.ones(len(nodes))
        for _ in range(DEEP_MOST):
            on = (nodes.max(1) < ENOUGH_SHARE) & (used < MINUTES_MOST) & (chance * weight[root] >= BRANCH_LEAST)
            nodes, root, chance, gone, used = nodes[on], root[on], chance[on], gone[on], used[on]
            if not len(nodes):
                break
            bits = self._bits(nodes, gone)
            telling = np.where(bits < TELLS_BITS, -np.inf, bits)
            chosen = np.argmax((self._growth(nodes, bits) if by_growth else telling) / self._minutes, 1)
            goes = bits[np.arange(len(nodes)), chosen] >= TELLS_BITS
            nodes, root, chance, gone, used, chosen = nodes[goes], root[goes], chance[goes], gone[goes], used[goes], chosen[goes]
            np.add.at(total, root, chance * self._minutes[chosen])
            joint = nodes[:, None, :] * self._table[chosen]
            share = joint.sum(2)
            gone = gone.copy()
            gone[np.arange(len(gone)), chosen] = True
            nodes = (joint / np.maximum(share, 1e-12)[..., None]).reshape(-1, nodes.shape[1])
            outcomes = share.shape[1]
            root, used = np.repeat(root, outcomes), np.repeat(used + self._minutes[chosen], outcomes)
            chance, gone = (chance[:, None] * share).reshape(-1), np.repeat(gone, outcomes, 0)
        return total


def _certainty(shares: Floats) -> Floats:
    """Return the log-odds of each cause, up to those that end a run, weighed by how likely it is."""
    most = np.log(ENOUGH_SHARE / (1 - ENOUGH_SHARE))
    kept = np.clip(shares, 1e-12, 1 - 1e-12)
    weighed: Floats = (shares * np.minimum(np.log(kept / (1 - kept)), most)).sum(-1)
    return weighed


def _invalid(field: str, given: object, allowed: str) -> KnowledgeInvalid:
    return KnowledgeInvalid(field=field, given=given, allowed=allowed)
