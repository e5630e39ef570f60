"""What a run writes down, and what is still to come in it."""

import heapq
from collections.abc import Callable
from functools import partial
from itertools import count
from typing import Any, Final

from oddlamp.core.rehearsal.trace import TraceEvent

MOST_MESSAGES: Final = 250_000
# A named tuple made from a row at once, a third of the time that naming its fields takes: the many events of a run are.
Row = tuple[float, str, str, str, float | None, str | None, str, float | None, float | None, int, str | None]
event_of: Final[Callable[[Row], TraceEvent]] = partial(tuple.__new__, TraceEvent)
Work = tuple[float, int, int, Callable[..., None], tuple[Any, ...]]


class Course:
    """The events of a run, and its work in order of time. All that is written down belongs to the message of the moment.

    ``asides`` are messages that are nobody's: what a module and a program say to each other, and what goes on by itself.
    """

    def __init__(self) -> None:
        self.trace: list[TraceEvent] = []
        self.message = 0
        self.asides: set[int] = set()
        self._queue: list[Work] = []
        self._order, self._messages = count(), count(1)
        self._done = 0

    @property
    def is_cut_short(self) -> bool:
        """Whether it never came to rest and was stopped."""
        return self._done >= MOST_MESSAGES

    def begin_message(self) -> int:
        """Let a new message begin; returns the one of before, to go back to."""
        before, self.message = self.message, next(self._messages)
        return before

    def later(self, t_s: float, work: Callable[..., None], *given: Any) -> None:
        """Do something at a time, for the message of the moment."""
        heapq.heappush(self._queue, (t_s, next(self._order), self.message, work, given))

    def until(self, t_s: float) -> None:
        """Do all that is due."""
        queue, done = self._queue, self._done
        while queue and queue[0][0] <= t_s and done < MOST_MESSAGES:
            at_s, _, self.message, work, given = heapq.heappop(queue)
            work(at_s, *given)
            done += 1
        self._done = done

    def note(
        self,
        t_s: float,
        stage: str,
        ref: str,
        content: bytes = b"",
        *,
        says: str = "",
        until_s: float | None = None,
        may_not: str | None = None,
    ) -> None:
        """Write down that something happened at a stage."""
        self.trace.append(event_of((t_s, stage, ref, content.hex(), None, None, says, until_s, None, self.message, may_not)))

    def lose(self, t_s: float, stage: str, ref: str, because: str, content: bytes = b"") -> None:
        """Write down that the message went no further."""
        self.trace.append(event_of((t_s, stage, ref, content.hex(), None, because, "", None, None, self.message, None)))
