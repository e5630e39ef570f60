"""One step of bringing a build up: what is measured, where, and what should be there."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Literal

from oddlamp.core.bench.circuit import Tap
from oddlamp.core.plan.document import Document

Phase = Literal["off", "bare", "upload", "quiet", "lit", "whole"]
PHASES: Final[tuple[Phase, ...]] = ("off", "bare", "upload", "quiet", "lit", "whole")
METER_RATIO: Final = 0.01  # of a usual meter, with a digit; common practice
DIGIT: Final = {"V": 0.01, "A": 1e-4, "ohm": 0.2, "s": 0.4}  # s: of a thumb on a watch, twice; common practice


@dataclass(frozen=True, slots=True)
class Step:
    """One step. ``value_id`` is the review's value that is measured; without one, ``least`` and ``most`` are fixed, or it is looked at.

    ``red`` and ``black`` are where the probes go, ``piece`` the part that is measured, ``takes`` the key under which what
    was measured replaces the value in the plan; ``settles`` are values that are fitted by then, and must not move with it.
    ``figure`` makes of what was measured what is put there, where that is not the value itself.
    """

    id: str
    phase: Phase
    title: str
    how: str
    stage: str
    kind: Literal["measure", "look", "wait"] = "measure"
    unit: str = ""
    value_id: str = ""
    least: float | None = None
    nominal: float | None = None
    most: float | None = None
    because: str = ""
    red: Tap | None = None
    black: Tap | None = None
    piece: str = ""
    wait_s: float | None = None
    takes: tuple[str, ...] = ()
    settles: tuple[tuple[tuple[str, ...], float], ...] = ()
    figure: Callable[[float], Document] | None = None
    caution: str = ""

    @property
    def slack(self) -> tuple[float, float]:
        """The least and the most that count as right, with what a usual meter adds; infinite where there is no bound."""
        margin = DIGIT.get(self.unit, 0.0)
        least = -float("inf") if self.least is None else self.least - METER_RATIO * abs(self.least) - margin
        most = float("inf") if self.most is None else self.most + METER_RATIO * abs(self.most) + margin
        return least, most
