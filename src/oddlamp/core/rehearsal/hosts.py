"""The boards of a run: each makes its passes when something has come or is due, and its lamps and words follow."""

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Final

from oddlamp.core.behaviour.clock import WORD, since
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.each import keys_of
from oddlamp.core.behaviour.inputs import READ_MS, TURNED_MOST
from oddlamp.core.behaviour.lamps import Fade, Lamp
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.outputs import Output
from oddlamp.core.behaviour.program import Event as Cause
from oddlamp.core.behaviour.program import Frame, Open, Say
from oddlamp.core.behaviour.stage import BY_ITSELF, Came
from oddlamp.core.checks.busy import PIXEL_S
from oddlamp.core.design.design import Design
from oddlamp.core.plan.programs import OwnProgram
from oddlamp.core.rehearsal.buffers import Buffers
from oddlamp.core.rehearsal.course import Course, event_of
from oddlamp.core.rehearsal.lights import PLAIN, How, Lights
from oddlamp.core.rehearsal.troubles import Troubles
from oddlamp.core.words.frames import FieldValue

EXACT_MS: Final = 1e-6  # sums of times differ in their last digits
CLOCK_S: Final = 1.024e-3  # how often the millisecond clock ticks, and it keeps one tick while interrupts are off; from memory
PASS_MS: Final = 1  # what is no longer holds nothing up
PASSES_MOST: Final = 100_000
NO_FILL: Final[Mapping[str, FieldValue]] = {}
SayIt = Callable[[float, Say, Mapping[str, FieldValue]], None]


class Host:
    """One board and its program, and which of its passes are to come, ms since the rehearsal began."""

    def __init__(self, design: Design, name: str, starts_at_ms: int) -> None:
        self.name, self.stage = name, f"rules.{name}"
        self.starts_at_ms = starts_at_ms
        self.machine = Machine(program_of(design, name), starts_at_ms=starts_at_ms)
        self.came: list[Came] = []
        self.moved: list[tuple[str, int, int]] = []
        self.due: set[int] = set()
        self.begun_ms = 0
        self.free_ms = 0.0
        own = design.plan.programs.get(name) or OwnProgram()
        self.own_ms = {place: 1000 * own.takes_s(place) for place in own.regions}
        self.is_off = False


class Hosts:
    """All boards of a run. ``say`` sends a word off; by themselves boards go on until ``ends_s``, and what comes is always taken."""

    def __init__(
        self,
        design: Design,
        course: Course,
        lights: Lights,
        buffers: Buffers,
        troubles: Troubles,
        say: SayIt,
        *,
        ends_s: float,
        starts_at_ms: int,
    ) -> None:
        self.design, self.course, self.lights, self.buffers, self.say = design, course, lights, buffers, say
        self.troubles = troubles
        self.ends_ms = math.ceil(ends_s * 1000)
        self.passes = 0
        self.places: dict[str, int] = {}
        self.one_wire = {it.id for it in design.lamps.values() if it.kind == "pixels-one-wire"}
        self.goes_on = False
        self.ran_until_s = 0.0
        boards = [node.id for node in design.nodes.values() if node.node.kind == "board"]
        self.hosts = {name: Host(design, name, starts_at_ms) for name in boards}

    def begin(self) -> None:
        """Make the first pass of every board."""
        for host in self.hosts.values():
            self._run(0.0, host, 0)

    @property
    def is_cut_short(self) -> bool:
        """Whether so much went on by itself that it was stopped."""
        return self.passes >= PASSES_MOST

    def come(self, t_s: float, name: str, cause: Cause, values: Mapping[str, FieldValue] = NO_FILL) -> None:
        """Let something come to a board's program: it is taken in the pass after it."""
        host = self.hosts.get(name)
        if host is not None and not host.is_off:
            host.came.append(Came(cause, values, self.course.message))
            self._plan(host, _pass_after(t_s))

    def put(self, t_s: float, name: str, input_id: str, level: int) -> None:
        """Let an input be at a level from outside."""
        host = self.hosts.get(name)
        if host is not None:
            self.places[input_id] = level
            self._put(t_s, host, input_id, level)

    def _put(self, t_s: float, host: Host, input_id: str, level: int) -> None:
        name = host.name
        spec, at_ms = host.machine.inputs[input_id].spec, _pass_after(t_s)
        if spec.kind == "turned" or host.moved or host.is_off or self.buffers.free_at_s(name, t_s) > t_s:
            host.moved.append((input_id, level, self.course.message))
            self._plan(host, at_ms)
        else:  # nothing comes of a contact before it has settled
            host.machine.put(input_id, level, self.course.message, self._clock_of(host, at_ms))
            self._plan(host, at_ms + spec.settle_ms)

    def is_turned(self, name: str, input_id: str) -> bool:
        """Tell whether an input of a board has a value, and is no contact."""
        return name in self.hosts and self.hosts[name].machine.inputs[input_id].spec.kind == "turned"

    def is_off(self, name: str) -> bool:
        """Tell whether a board has no power."""
        return name in self.hosts and self.hosts[name].is_off

    def level(self, name: str, input_id: str) -> int:
        """Return what an input is from outside, or will be in the next pass."""
        host = self.hosts[name]
        waiting = [level for it, level, _ in host.moved if it == input_id]
        return waiting[-1] if waiting else host.machine.inputs[input_id].level

    def tremble(self, t_s: float, input_id: str) -> None:
        """Let an input tremble about its place for as long as it is in trouble: it is read anew every 10 ms."""
        it = self.design.plan.inputs.get(input_id)
        for key in keys_of(input_id, it) if it is not None else ():
            if it is not None and self.is_turned(it.host, key):
                self._tremble(t_s, it.host, key, self.level(it.host, key))

    def _tremble(self, t_s: float, name: str, input_id: str, place: int) -> None:
        where = input_id.partition(".")[0]
        trouble = self.troubles.of("noise", where)
        if trouble is None or t_s * 1000 > self.ends_ms:
            return
        before = self.course.message
        self.course.message = BY_ITSELF
        self.places.setdefault(input_id, place)
        level = min(max(self.places[input_id] + self.troubles.trembles(where, TURNED_MOST), 0), TURNED_MOST)
        self._put(t_s, self.hosts[name], input_id, level)
        self.course.message = before
        self.course.later(t_s + READ_MS / 1000, self._tremble, name, input_id, place)

    def block(self, name: str, until_s: float) -> None:
        """Let a board's program stand still until then: more is to be said than its port takes at once."""
        if name in self.hosts:
            self.hosts[name].free_ms = max(self.hosts[name].free_ms, 1000 * until_s)

    def set_clock(self, t_s: float, of_day_ms: int) -> None:
        """Let the clock of every board stand at a time of day."""
        for host in self.hosts.values():
            now_ms = _pass_after(t_s)
            self._run(t_s, host, now_ms)
            host.machine.set_clock(of_day_ms)
            self._go_on(host, now_ms)

    def cut(self, t_s: float, name: str, *, is_on: bool) -> None:
        """Take the power of a board away, or give it back: it begins anew, with what was put down."""
        host, now_ms = self.hosts[name], _pass_after(t_s)
        if not is_on:
            self._run(t_s, host, now_ms)
            host.is_off = True
            host.came.clear()
            for lamp_id, spec in host.machine.program.lamps.items():
                if any(host.machine.outputs.shown[lamp_id][0]) or host.machine.outputs.shown[lamp_id][1]:
                    self.lights.set(t_s, lamp_id, (0,) * spec.lights)
        elif host.is_off:
            levels = {it: self.level(name, it) for it in host.machine.inputs}
            host.is_off, host.begun_ms, host.starts_at_ms = False, now_ms, 0
            host.moved.clear()
            host.machine.start(levels, host.machine.record, 0)
            self._plan(host, now_ms)

    @staticmethod
    def _clock_of(host: Host, at_ms: int) -> int:
        """Return what a board's own clock shows at a time of the rehearsal."""
        return (at_ms - host.begun_ms + host.starts_at_ms) & WORD

    def _plan(self, host: Host, at_ms: int) -> None:
        if at_ms not in host.due:
            host.due.add(at_ms)
            self.course.later(at_ms / 1000 + EXACT_MS / 1000, self._pass, host, at_ms)  # after all that comes until then

    def _pass(self, _: float, host: Host, at_ms: int) -> None:
        host.due.discard(at_ms)
        t_s = at_ms / 1000
        free_s = max(self.buffers.free_at_s(host.name, t_s), host.free_ms / 1000)
        if free_s > t_s + EXACT_MS / 1000:
            self._plan(host, _pass_after(free_s))
        else:
            self._run(t_s, host, at_ms)

    def _run(self, t_s: float, host: Host, at_ms: int) -> None:
        if host.is_off:
            return
        machine, course = host.machine, self.course
        came, moved, message = host.came, host.moved, course.message
        host.came, host.moved = [], []
        outputs = machine.run(self._clock_of(host, at_ms), came, moved)
        self._write_pixels(t_s, host)
        self._tell_deeds(t_s, host)
        for output in outputs:
            self._show(t_s, host, output)
        course.message = message
        self._take_own_time(host, at_ms, came)
        self._go_on(host, at_ms)

    @staticmethod
    def _take_own_time(host: Host, at_ms: int, came: Sequence[Came]) -> None:
        """Let what the maker added take as long as it may: at every pass, at the start, and after the rules for a word."""
        heard = sum(host.own_ms.get(f"heard.{it.event[1]}", 0.0) for it in came if it.event[0] == "heard")
        takes_ms = host.own_ms.get("pass", 0.0) + heard + (host.own_ms.get("start", 0.0) if at_ms == host.begun_ms else 0.0)
        if takes_ms > PASS_MS:
            host.free_ms = max(host.free_ms, at_ms + takes_ms)

    def _write_pixels(self, t_s: float, host: Host) -> None:
        """Let a board that switches interrupts off be deaf while it writes its chains, and its clock miss what it misses."""
        if host.name not in self.buffers.wary or not host.machine.outputs.written:
            return
        count = sum(host.machine.program.lamps[it].lights // 3 for it in host.machine.outputs.written if it in self.one_wire)
        deaf_s = count * PIXEL_S
        if deaf_s:
            self.buffers.deafen(host.name, t_s, t_s + deaf_s)
            host.free_ms = t_s * 1000 + 1000 * deaf_s
            host.begun_ms += max(int(deaf_s / CLOCK_S) - 1, 0)

    def _tell_deeds(self, t_s: float, host: Host) -> None:
        """Write down the steps of a pass; what comes by itself is no message of a hand."""
        course = self.course
        for tag, told, step, said in host.machine.done:
            course.message = tag
            if tag == BY_ITSELF:
                course.begin_message()
                if not isinstance(step, Say):
                    course.asides.add(course.message)
            if isinstance(step, Say):
                course.note(t_s, host.stage, told.ref, says=told.says)
                course.begin_message()
                self.say(t_s, step, said)
            elif isinstance(step, Open):
                course.lose(t_s, host.stage, told.ref, step.because)
            else:
                says = told.says if not isinstance(step, Frame) else f"{told.ref}, {told.says}"
                course.trace.append(event_of((t_s, host.stage, told.ref, "", None, None, says, None, None, course.message, None)))

    def _show(self, t_s: float, host: Host, output: Output) -> None:
        lamp = host.machine.lamps[output.lamp]
        how = PLAIN if lamp.spec.lights else self._how(t_s, host, lamp)
        if not output.is_set or output.tag == BY_ITSELF:
            self.lights.move(t_s, output.lamp, output.light, output.text, how)
            return
        goal = (lamp.goal, lamp.goes_on.over_ms) if isinstance(lamp.goes_on, Fade) else None
        self.course.message = output.tag
        how = How(text=lamp.text) if lamp.writes else how
        self.lights.set(t_s, output.lamp, output.light, output.text, goal, how)

    def _how(self, t_s: float, host: Host, lamp: Lamp) -> How:
        """Return how a display shows its text; where it moves, it goes on while it is followed."""
        if lamp.text and lamp.state.manner.column_ms:
            self.goes_on, self.ran_until_s = True, self.ends_ms / 1000
        return How(lamp.state.manner, t_s - since(lamp.told_ms, host.machine.now_ms) / 1000)

    def _go_on(self, host: Host, at_ms: int) -> None:
        gap_ms = host.machine.next_ms()
        if gap_ms is None:
            return
        if at_ms + gap_ms > self.ends_ms or self.is_cut_short:
            self.goes_on, self.ran_until_s = True, self.ends_ms / 1000
            return
        self.ran_until_s = max(self.ran_until_s, (at_ms + gap_ms) / 1000)
        self.passes += 1
        self._plan(host, at_ms + gap_ms)


def _pass_after(t_s: float) -> int:
    """Return the pass that takes what comes at a moment."""
    return math.ceil(t_s * 1000 - EXACT_MS)
