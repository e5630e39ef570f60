"""A cue that runs: where it stands, and when its next picture comes."""

from oddlamp.core.behaviour.clock import later
from oddlamp.core.behaviour.program import CueCode, Frame


class CueRun:
    """One cue of a machine. ``due_ms`` is None while it does not run.

    ``turn`` is another one whenever it has begun, gone on or stopped.
    """

    def __init__(self, code: CueCode) -> None:
        self.code = code
        self.at = -1
        self.due_ms: int | None = None
        self.turn = 0

    def begin(self, now_ms: int) -> None:
        """Start it, from its first picture."""
        frames, self.turn = self.code.frames, self.turn + 1
        self.at = -1
        self.due_ms = later(now_ms, 0 if self.code.loops else frames[0].after_ms) if frames else None

    def stop(self) -> None:
        """Let it run no more."""
        self.due_ms, self.turn = None, self.turn + 1

    def take(self, since_ms: int) -> Frame | None:
        """Go on to the next picture, from a moment on; None where it has none."""
        frames = self.code.frames
        if not frames:
            return None
        self.at, self.turn = (self.at + 1) % len(frames), self.turn + 1
        if self.due_ms is not None:
            is_last = self.at + 1 == len(frames)
            self.due_ms = (
                None if is_last and not self.code.loops else later(since_ms, frames[(self.at + 1) % len(frames)].after_ms)
            )
        return frames[self.at]
