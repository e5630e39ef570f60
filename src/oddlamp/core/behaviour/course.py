"""The light of a cue by itself: what its lamps show from the moment it begins, with nothing else going on."""

from typing import Final, NamedTuple

from oddlamp.core.behaviour.clock import later, until
from oddlamp.core.behaviour.lamps import Light
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.program import Program

POINTS_MOST: Final = 80  # a fade in so many steps looks smooth over the width of a screen
PASSES_MOST: Final = 20_000


class Shown(NamedTuple):
    """What a lamp shows from a moment on."""

    at_ms: int
    light: Light


def course_of(program: Program, cue: str) -> tuple[int, dict[str, list[Shown]]]:
    """Return how long a cue takes, ms, and what each lamp that it sets shows over that time; a round of one that loops.

    Fades are followed as finely as ``POINTS_MOST`` steps over the whole; what comes at a moment comes at that moment.
    """
    code = program.cues[cue]
    lamps = list(dict.fromkeys(lamp for frame in code.frames for picture in frame.pictures for lamp in picture.lamps))
    total_ms = sum(frame.after_ms for frame in code.frames)
    fades_ms = 0 if code.loops else max((it.over_ms for frame in code.frames for it in frame.pictures), default=0)
    ends_ms, least_ms = total_ms + fades_ms, max(1, (total_ms + fades_ms) // POINTS_MOST)
    machine = Machine(program._replace(handlers={}, orders={}, watches={}, inputs={}))
    machine.run(0)
    run = machine.cues[cue]
    run.begin(0)
    found = {name: [Shown(0, (0,) * program.lamps[name].lights)] for name in lamps}
    now, passes = 0, 0
    while passes < PASSES_MOST:
        passes += 1
        for output in machine.run(now):
            if output.lamp in found and found[output.lamp][-1].light != output.light:
                if found[output.lamp][-1].at_ms == now:
                    found[output.lamp].pop()
                found[output.lamp].append(Shown(now, output.light))
        gap = machine.next_ms()
        if gap is None or now >= ends_ms:
            break
        due = until(run.due_ms, machine.now_ms) if run.due_ms is not None else ends_ms - now
        now = min(now + max(1, min(max(gap, least_ms), due or 1)), later(0, ends_ms))
    return ends_ms, found
