"""Passages: whether something gets through a hop of a talk, a line, or a pin to its lamp. Judged once, read by all."""

from dataclasses import dataclass
from typing import Final, Literal

Severity = Literal["stop", "look"]
Verdict = Literal["passes", "may not", "does not"]

# Codes of what harms a part or spends its room, and does not by itself keep a message or a light from arriving.
HARMS: Final = frozenset(
    {"LVL-OVER", "LVL-DIRECT-RISK", "LED-OVER", "LED-HEADROOM", "PIN-CURRENT", "PIN-TWICE", "PIN-STRAP", "SUP-BACKFEED"}
)


@dataclass(frozen=True, slots=True)
class Obstacle:
    """What stands in a passage: the code of the verdict that tells of it, how bad it is, and why, as a rehearsal says it.

    ``case`` tells apart what one code may mean, ``harms`` marks a case that only harms though its code may also block.
    """

    code: str
    severity: Severity
    because: str
    case: str = ""
    harms: bool = False

    @property
    def verdict(self) -> Verdict:
        """What it makes of the passage.

        A stop blocks it, a look may. What only harms may block it where it is a stop, and does not where it is a look.
        """
        if self.harms or self.code in HARMS:
            return "may not" if self.severity == "stop" else "passes"
        return "does not" if self.severity == "stop" else "may not"


@dataclass(frozen=True, slots=True)
class Passage:
    """One direction of a radio link, one physical line, or one pin with its lamp, and all that stands in its way.

    ``open_because`` says why nothing can be judged, where so: nothing gets through that is not worked out. ``behind`` are
    the lines that have to be passed first: those a chip is told over, for what hangs on the chip.
    """

    id: str
    stage: str
    obstacles: tuple[Obstacle, ...] = ()
    open_because: str | None = None
    behind: tuple["Passage", ...] = ()

    @property
    def worst(self) -> Obstacle | None:
        """The obstacle that decides, if any: of its own first."""
        rank: dict[Verdict, int] = {"does not": 0, "may not": 1, "passes": 2}
        before = [it for passage in self.behind for it in passage.obstacles]
        return min((*self.obstacles, *before), key=lambda it: rank[it.verdict], default=None)

    @property
    def not_known(self) -> str | None:
        """Why nothing can be judged, of its own or of what has to be passed first."""
        return next((it for it in (self.open_because, *(one.open_because for one in self.behind)) if it is not None), None)

    @property
    def verdict(self) -> Verdict:
        """Whether it gets through."""
        if self.not_known is not None:
            return "does not"
        return self.worst.verdict if self.worst is not None else "passes"

    @property
    def because(self) -> str | None:
        """Why it does not, or may not; None where it passes."""
        if self.not_known is not None:
            return self.not_known
        return self.worst.because if self.worst is not None and self.verdict != "passes" else None

    def found(self, code: str) -> Obstacle | None:
        """Return the obstacle of a code, or None."""
        return next((it for it in self.obstacles if it.code == code), None)


def state_of(obstacles: tuple[Obstacle, ...]) -> Literal["clear", "look", "stop"]:
    """Return the worst severity of some obstacles."""
    severities = {it.severity for it in obstacles}
    return "stop" if "stop" in severities else "look" if "look" in severities else "clear"
