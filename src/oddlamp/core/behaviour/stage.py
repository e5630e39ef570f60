"""All lamps of a machine, and everything that sets them: who may, what goes on then, and what has to wait."""

from collections.abc import Mapping
from typing import Final, NamedTuple

from oddlamp.core.behaviour.clock import later, xorshift
from oddlamp.core.behaviour.codes import put_first
from oddlamp.core.behaviour.inputs import Input
from oddlamp.core.behaviour.lamps import NOTHING, Flash, Lamp, LampState, Marching, after, after_plain
from oddlamp.core.behaviour.movers import Coded, Mover, Waiting
from oddlamp.core.behaviour.outputs import Outputs
from oddlamp.core.behaviour.program import (
    Blink,
    Chance,
    Event,
    Given,
    Level,
    March,
    MoverSpec,
    Orders,
    Program,
    Pulse,
    Restore,
    Run,
    Sets,
    Switch,
    Tone,
    Turn,
)
from oddlamp.core.behaviour.winners import WORDS, may_set
from oddlamp.core.words.frames import FieldValue

PLAIN_ORDERS: Final = Orders()
GOES_ON: Final = (Blink, Pulse, Tone, March)
BY_ITSELF: Final = 0  # the mark of what nobody has set off in this moment


class Came(NamedTuple):
    """Something that sets off rules: with what it carries, and a mark that whatever comes of it at once bears."""

    event: Event
    values: Mapping[str, FieldValue] = NOTHING
    tag: int = BY_ITSELF


class Wait(NamedTuple):
    """Steps of a rule that wait: from which place on, until when, and the lamps that were dropped meanwhile."""

    due_ms: int
    run: Run
    place: int
    came: Came
    dropped: set[str]


class Stage:
    """The lamps and inputs of a machine, and what is kept of them between passes."""

    now_ms: int
    program: Program

    def set_up(self, program: Program, levels: Mapping[str, int]) -> None:
        """Have everything as before the first pass, with the levels that inputs have then."""
        self.lamps = {name: Lamp(spec) for name, spec in program.lamps.items()}
        self.inputs = {name: Input(spec, levels.get(name, 0)) for name, spec in program.inputs.items()}
        self.movers = {
            name: Mover(spec, self.lamps) if isinstance(spec, MoverSpec) else Coded(spec) for name, spec in program.movers.items()
        }
        self._mover_of = {it: mover for mover in self.movers.values() if isinstance(mover, Mover) for it in mover.spec[:2]}
        self._turned = [name for name, spec in program.inputs.items() if spec.kind == "turned"]
        self._waits: dict[int, Wait] = {}
        self._kept: dict[str, LampState] = {}
        self._seed = program.seed
        self._keeps = program.keeps
        self._changed_ms: int | None = self.now_ms if self._keeps else None
        self.outputs = Outputs(self.lamps)
        for lamp in self.lamps.values():
            lamp.lost_at = {name: self.inputs[name].value for name in self._turned}

    def _set_all(self, step: Sets | Restore, came: Came, dropped: set[str]) -> None:
        """Take a step that sets lamps, for each that it may set."""
        for name in step.lamps:
            if name in dropped or not self._may(name, came):
                continue
            lamp = self.lamps[name]
            before = lamp.before()
            if isinstance(step, Chance):
                state = after(lamp.state, step, lamp.spec, NOTHING, drawn=self._chance(step.most - step.least + 1))
            elif isinstance(step, Restore):
                state = self._kept.get(name, lamp.state)
            elif came.values:
                state = after(lamp.state, step, lamp.spec, came.values)
            else:
                state = after_plain(lamp.state, step, lamp.spec)
            if not self._set_lamp(name, state, getattr(step, "over_ms", 0), came):
                self._mover_of[name].pulse(step.for_ms if isinstance(step, Pulse) else 0)
            elif isinstance(step, GOES_ON):
                self._let_go_on(name, step, before)
            elif isinstance(step, Switch) and step.to == "hold":
                lamp.held_by = source_of(came)

    def _let_go_on(self, name: str, step: Blink | Pulse | Tone | March, before: LampState) -> None:
        """Let what goes on with a lamp after a step begin."""
        lamp = self.lamps[name]
        if isinstance(step, Blink):
            if name not in self._mover_of:
                left = step.times or None
                lamp.goes_on = Flash(later(self.now_ms, step.on_ms), before, step.on_ms, step.off_ms, left)
        elif isinstance(step, March):
            if lamp.spec.is_chain:
                lamp.goes_on = Marching(self.now_ms, step.step_ms, step.pattern, step.rule)
        elif step.for_ms:
            lamp.goes_on = Flash(later(self.now_ms, step.for_ms), before, left=1)

    def _turn(self, step: Turn, came: Came) -> None:
        mover, speed = self.movers[step.mover], 0
        if step.to == "step":
            speed = mover.speed + step.by
        elif step.to == "run" and step.speed is not None:
            given = step.speed.of(came.values)
            if given is None:
                return
            speed = given - step.less
        if isinstance(mover, Coded):
            turned = speed if step.to in ("stop", "run", "step") else mover.turned(step.to)
            if turned is not None:
                self._run_at(mover, turned, came.tag)
        elif step.to in ("reverse", "resume"):
            if (one := mover.one_to(step.to)) is not None:
                self._set_all(Switch((one,), "on"), came, set())
        elif speed:
            name, level = mover.lamp_at(speed)
            self._set_all(Level((name,), Given(level)), came, set())
        else:
            for name in mover.spec[:2]:
                self._set_lamp(name, self.lamps[name].state._replace(is_on=False), 0, came)

    def _run_at(self, mover: Coded, speed: int, tag: int) -> None:
        """Let something that codes move run at a speed; of its codes that wait to go out only the last one counts."""
        code, sender = mover.set(speed, self.now_ms), self.lamps[mover.spec.sender]
        if code is not None:
            put_first(sender, code, mover.spec.codes, self.now_ms)
            self.outputs.moving[mover.spec.sender] = self.outputs.marks[mover.spec.sender, tag] = None

    def _move_on(self, mover: Mover, it: Waiting) -> None:
        """Let the lamp of a mover be set for which the pause has passed."""
        mover.waiting = None
        before = self.lamps[it.lamp].state
        self._set_lamp(it.lamp, it.state, it.over_ms, it.came, BY_ITSELF)
        if it.pulse_ms:
            self.lamps[it.lamp].goes_on = Flash(later(self.now_ms, it.pulse_ms), before, left=1)

    def _held_back(self, name: str, state: LampState, over_ms: int, came: Came | None) -> bool:
        """Tell whether a lamp of a mover must wait until the other has been off for the pause; the other goes off."""
        mover = self._mover_of[name]
        mover.waiting = None
        due_ms = mover.due_ms(name, self.now_ms) if state.is_on and not self.lamps[name].state.is_on else None
        if due_ms is None:
            return False
        other = mover.other(name)
        if self.lamps[other].state.is_on:
            self._set_lamp(other, self.lamps[other].state._replace(is_on=False), 0, came)
        mover.waiting = Waiting(due_ms, name, state, over_ms, came and came._replace(tag=BY_ITSELF))
        return True

    def _set_lamp(self, name: str, state: LampState, over_ms: int, came: Came | None, tag: int = 0) -> bool:
        """Let something set a lamp: it owns it then, and what others had waiting for it is dropped. False where it has to wait."""
        if name in self._mover_of and self._held_back(name, state, over_ms, came):
            return False
        lamp, source = self.lamps[name], None if came is None else source_of(came)
        lamp.owner, lamp.held_by = source, None
        lamp.is_claimed |= source == WORDS
        for it in self._turned:
            if it != source:
                lamp.lost_at[it] = self.inputs[it].value
        if came is not None and self._waits:
            for wait in self._waits.values():
                if wait.came.event != came.event:
                    wait.dropped.add(name)
        self._become(name, state, over_ms)
        self.outputs.marks[name, tag if came is None else came.tag] = None
        return True

    def _become(self, name: str, state: LampState, over_ms: int) -> None:
        lamp = self.lamps[name]
        if name in self._mover_of:
            self._mover_of[name].note(name, lamp.state, state, self.now_ms)
        if self._keeps and state != lamp.state:
            self._changed_ms = self.now_ms
        lamp.become(state, self.now_ms, over_ms)
        self.outputs.moving[name] = None

    def _may(self, name: str, came: Came) -> bool:
        """Tell whether what has come may set a lamp, as its orders say who wins."""
        orders = self.program.orders.get(name, PLAIN_ORDERS)
        return may_set(self.lamps[name], orders, source_of(came), self.inputs, is_moved=came.event[-1] == "moved")

    def _chance(self, below: int) -> int:
        self._seed = xorshift(self._seed)
        return (self._seed >> 8) % below


def source_of(came: Came) -> str | None:
    """Return who it is that wants something: words, an input, or nobody."""
    return WORDS if came.event[0] == "heard" else came.event[1] if came.event[0] == "input" else None
