"""What to measure next where a value is off: the step that tells most of what may be wrong for its minutes, with what would come after it.

What each fault shows at each step is worked out in the circuit with it; the odds are those of the suggestions, and the
choice is the reasoner's. Nothing here judges a reading for itself.
"""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Final, NamedTuple

from oddlamp.core.bench.devices import Fault
from oddlamp.core.bench.faults import Finder, near
from oddlamp.core.bench.step import Phase, Step

if TYPE_CHECKING:
    from oddlamp.core.reasoning import Question

# What measuring takes, minutes: with power off it has to be switched off first. Common practice, no source.
MINUTES: Final[Mapping[Phase, float]] = {"off": 3.0, "bare": 2.0}
RIGHT_SHARE: Final = 0.95  # of readings: a probe slips, a pin is counted wrong; common practice, no source
READINGS_MOST: Final = 4


class NextStep(NamedTuple):
    """A step that tells apart what may be wrong: what it takes, minutes, and of each reading what would show it first."""

    step: Step
    minutes: float
    told: tuple[tuple[float, str], ...]


class _Shown(NamedTuple):
    """What a step shows with each fault: the place of its reading among those a meter can tell apart; None where it can't be said."""

    step: Step
    readings: tuple[float, ...]
    of: tuple[int | None, ...]

    def question(self) -> "Question":
        """Write it as a question: each reading with the share it has with every fault."""
        from oddlamp.core.reasoning import Question

        count = len(self.readings)
        rest = (1 - RIGHT_SHARE) / (count - 1)
        says = tuple(
            tuple(1 / count if it is None else RIGHT_SHARE if it == at else rest for it in self.of) for at in range(count)
        )
        return Question(self.step.id, MINUTES.get(self.step.phase, 1.0), says)


def next_step(finder: Finder, step: Step, value: float, found: Mapping[str, float], steps: tuple[Step, ...]) -> NextStep | None:
    """Return the step to measure next; None where none tells more, or one thing that may be wrong is likely enough.

    Args:
        finder: of the build.
        step: the step whose value is off.
        value: what was measured.
        found: what was measured at other steps, by their ids; those are not measured again.
        steps: all of them.
    """
    ranked = [(weight, fault) for weight, _, fault in finder.ranked(step, value, found, steps)]
    return _best(finder, finder.model.line_of(step), ranked, {**found, step.id: value}, steps)


def _best(
    finder: Finder, line: str, ranked: Sequence[tuple[float, Fault]], found: Mapping[str, float], steps: tuple[Step, ...]
) -> NextStep | None:
    """Return the best step; of each reading what would show it first is told."""
    from oddlamp.core.reasoning import Case, Reasoner  # half a second to import, and not needed before something is off

    faults = tuple(fault for _, fault in ranked)
    others = (it for it in steps if it.kind == "measure" and it.id not in found and line and finder.model.line_of(it) == line)
    shown = {it.id: made for it in others if (made := _shown(finder, it, faults))}
    if not shown:
        return None
    case = Case(
        tuple(map(str, range(len(faults)))), tuple(weight for weight, _ in ranked), tuple(it.question() for it in shown.values())
    )
    best = Reasoner(case).next({})
    if best is None:
        return None
    here, told = shown[best.id], list[tuple[float, str]]()
    for at, reading in enumerate(here.readings):
        shows = [it for it in zip(case.odds, faults, here.of, strict=True) if it[2] == at]
        if shows:
            told.append((reading, max(shows, key=lambda it: it[0])[1].told))
    return NextStep(here.step, best.minutes, tuple(told[:READINGS_MOST]))


def _shown(finder: Finder, step: Step, faults: tuple[Fault, ...]) -> _Shown | None:
    """Return what a step shows with each fault; None where a meter could tell none from another."""
    readings: list[float] = []
    of: list[int | None] = []
    for fault in faults:
        it = finder.model.reading(step, fault)
        place = (
            None if it is None else next((at for at, other in enumerate(readings) if near(step.unit, it, other)), len(readings))
        )
        if it is not None and place == len(readings):
            readings.append(it)
        of.append(place)
    return _Shown(step, tuple(readings), tuple(of)) if len(readings) > 1 else None
