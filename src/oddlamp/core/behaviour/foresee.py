"""What comes of an event, whatever was before it: the lamps it may light, and those it surely puts out."""

from collections.abc import Mapping
from typing import Final

from oddlamp.core.behaviour.clock import later
from oddlamp.core.behaviour.lamps import DARK, Fade, LampState
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.movers import Coded
from oddlamp.core.behaviour.program import Event, Next, Play, Program
from oddlamp.core.behaviour.stage import Came

WAKES_MOST: Final = 64


def lit_and_dark(program: Program, event: Event, carried: Mapping[str, tuple[int, int]]) -> tuple[set[str], set[str]]:
    """Return the lamps that an event may light in the dark, and those it leaves dark whatever was lit before.

    It is let happen from dark and from all lit and remembered so, with every cue running that some event starts, at every picture of
    the cues it moves, with every value it carries at its least and at its most, and followed until nothing goes on, or for
    ``WAKES_MOST`` passes. What goes on after that may be lit. An infra-red LED is lit while what its codes move runs.
    """
    cues = {
        step.cue: len(program.cues[step.cue].frames)
        for step in program.steps(event)
        if isinstance(step, Next) and step.cue in program.cues
    }
    played = (due.step for runs in program.handlers.values() for run in runs for due in run.steps)
    started = {step.cue for step in played if isinstance(step, Play) and step.cue in program.cues}
    lit, dark = set[str](), set(program.lamps)
    # Whether a chain is lit does not hang on its pixels, nor on when they are written.
    small = {name: it._replace(lights=3, is_chain=False) if it.is_chain else it for name, it in program.lamps.items()}
    program = program._replace(lamps=small)
    for begins in (DARK, LampState(is_on=True)):
        for place in range(max(cues.values(), default=1)):
            for end in (0, 1) if carried else (0,):
                machine = Machine(program)
                machine.begin_at(begins, dict.fromkeys(cues, place))
                if begins is not DARK:
                    for name in started:
                        machine.cues[name].begin(machine.now_ms)
                now, ever = _follow(machine, Came(event, {name: span[end] for name, span in carried.items()}))
                dark -= now
                if begins is DARK:
                    lit |= ever
    return lit, dark


def _follow(machine: Machine, came: Came) -> tuple[set[str], set[str]]:
    """Let something happen and all that comes of it: the lamps that are lit at the end, and those that were at any time."""
    now, ever = set[str](), set[str]()
    gap: int | None = 0
    todo, passes = [came], 0
    while gap is not None and passes < WAKES_MOST:
        passes += 1
        machine.run(later(machine.now_ms, gap), todo)
        todo = []
        for lamp in machine.lamps.values():
            lamp.goes_on = None if isinstance(lamp.goes_on, Fade) else lamp.goes_on  # what it comes to is kept already
        runs = {it.spec.sender: it.speed for it in machine.movers.values() if isinstance(it, Coded)}
        now = {name for name, lamp in machine.lamps.items() if runs.get(name, lamp.state.bright)}
        ever |= now
        gap = machine.next_ms()
    return (now if gap is None else ever), ever
