"""The machine that runs a program, pass by pass, as `docs/program.md` says. It knows nothing of wires."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Final, NamedTuple

from oddlamp.core.behaviour.clock import DAY_MS, is_due, later, since, until
from oddlamp.core.behaviour.codes import drop_codes, put_code, send_on
from oddlamp.core.behaviour.cues import CueRun
from oddlamp.core.behaviour.lamps import NOTHING, Flash, LampState, after, pictured
from oddlamp.core.behaviour.movers import Coded, Later, Waiting
from oddlamp.core.behaviour.outputs import Done, Output
from oddlamp.core.behaviour.program import (
    START,
    Due,
    Next,
    Open,
    Play,
    Program,
    Remember,
    Run,
    Say,
    Send,
    Show,
    Stop,
    Switch,
    Text,
    Told,
    Turn,
)
from oddlamp.core.behaviour.saying import said_now, shown_text
from oddlamp.core.behaviour.stage import BY_ITSELF, PLAIN_ORDERS, Came, Stage, Wait
from oddlamp.core.behaviour.winners import WORDS

STILL_MS: Final = 5000
OTHERS: Final = (Say, Play, Next, Stop, Turn, Remember, Open, Send, Show)  # steps that set no lamps by themselves
ENDS_HOLD: Final = ("released", "off")


class Alive(NamedTuple):
    """When a link that is watched was last heard; None while nothing counts."""

    heard_ms: int | None = None
    is_lost: bool = False


class Machine(Stage):
    """A program and its states; everything begins dark. ``record`` is what was put down when the power went last."""

    def __init__(self, program: Program, *, starts_at_ms: int = 0, record: Mapping[str, LampState] | None = None) -> None:
        self.program, self.now_ms, self.record = program, starts_at_ms, record
        self._intervals = [event for event in program.handlers if event[0] == "every"]
        self._times = sorted({event[1] for event in program.handlers if event[0] == "at"})
        self.start({})

    def start(self, levels: Mapping[str, int], record: Mapping[str, LampState] | None = None, at_ms: int | None = None) -> None:
        """Have everything as before the first pass, with the levels that inputs have then."""
        program = self.program
        self.now_ms = self.now_ms if at_ms is None else at_ms
        self.record = record if record is not None else self.record
        self.set_up(program, levels)
        self.cues = {name: CueRun(code) for name, code in program.cues.items()}
        self._awake: set[str] = set()
        self._places = {name: at for at, name in enumerate(self.lamps)}
        self._tags: dict[str, int] = {}
        self._clock_ms: int | None = None
        self._due = [later(self.now_ms, int(event[1])) for event in self._intervals]
        self._has_begun = False
        self.done: list[Done] = []
        self.alive = {link: Alive() for link in program.watches}

    @property
    def states(self) -> dict[str, LampState]:
        """What is kept of every lamp."""
        return {name: lamp.state for name, lamp in self.lamps.items()}

    def put(self, name: str, level: int, tag: int = 0, at_ms: int | None = None) -> None:
        """Let an input be at a level from outside, from a pass on that is still to come: 0 or 1, or 0 to 1023."""
        self._tags[name] = tag
        self.inputs[name].put(level, self.now_ms if at_ms is None else at_ms)
        self._awake.add(name)

    def set_clock(self, of_day_ms: int) -> None:
        """Let the clock stand at a time of day, from the last pass on."""
        self._clock_ms = of_day_ms % DAY_MS

    def run(self, now_ms: int, came: Sequence[Came] = (), moved: Iterable[tuple[str, int, int]] = ()) -> list[Output]:
        """Make a pass: what has come, inputs that are put to a level with their marks, what is due; what lamps show then."""
        gone, self.now_ms, self.done = since(self.now_ms, now_ms), now_ms, []
        is_again = self._has_begun and not gone
        if not self._has_begun:
            self._begin()
        if self._clock_ms is not None and gone > 1:
            self._tick(gone - 1)  # of the passes in between
        for one in came:
            self._take(one)
        for name, level, tag in moved:
            self.put(name, level, tag)
        if self._awake and not is_again:
            self._look_at_inputs()
        if self._clock_ms is not None:
            self._tick(min(gone, 1))
        self._do_due()
        if self._changed_ms is not None and since(self._changed_ms, now_ms) >= STILL_MS:
            self._changed_ms, self.record = None, self.states
        return list(self.outputs.run(now_ms))

    def _look_at_inputs(self) -> None:
        for name, it in self.inputs.items():
            if name not in self._awake:
                continue
            for what in it.events(self.now_ms):
                carried = {"input": it.carried} if what == "moved" else NOTHING
                self._take(Came(("input", name, what), carried, self._tags.get(name, 0)))
            if it.next_ms(self.now_ms) is None:
                self._awake.discard(name)

    def next_ms(self) -> int | None:
        """Return in how many milliseconds something may happen by itself; None where nothing will."""
        now, found = self.now_ms, list[int]()
        for cue in self.cues.values():
            if cue.due_ms is not None:
                found.append(until(cue.due_ms, now))
        found += [until(it.waiting.due_ms, now) for it in self.movers.values() if it.waiting is not None]
        if self._waits:
            found += [until(wait.due_ms, now) for wait in self._waits.values()]
        if self._due:
            found += [until(due, now) for due in self._due]
        if self._awake:
            found += [gap for it in self._awake if (gap := self.inputs[it].next_ms(now)) is not None]
        if self.outputs.moving:
            found += self.outputs.next_ms(now)
        if self._clock_ms is not None:
            found += [(_of_day_ms(it) - self._clock_ms - 1) % DAY_MS + 1 for it in self._times]
        for link, it in self.alive.items():
            if it.heard_ms is not None:
                found.append(max(self.program.watches[link].silent_ms - since(it.heard_ms, now), 0))
        if self._changed_ms is not None:
            found.append(max(STILL_MS - since(self._changed_ms, now), 0))
        return max(min(found), 1) if found else None

    def begin_at(self, state: LampState, pictures: Mapping[str, int]) -> None:
        """Let every lamp be and have been in a state, cues stand at a picture, and no interval and no silence pass, to see what comes of that."""
        self._has_begun, self._due, self.alive = True, [], {}
        for lamp in self.lamps.values():
            lamp.state = state
        for mover in self.movers.values():
            if isinstance(mover, Coded) and state.is_on:
                mover.now = mover.earlier = mover.spec.most
        for name, at in pictures.items():
            self.cues[name].at = at
        self._kept = self.states

    # What sets off rules

    def _begin(self) -> None:
        self._has_begun = True
        for name, lamp in self.lamps.items():
            orders = self.program.orders.get(name, PLAIN_ORDERS)
            order = orders.power_up if self.record is None else orders.power_cut
            if name in self._mover_of:
                continue  # nothing moves by itself
            if order == "on":
                self._become(name, after(lamp.state, Switch((name,), "on"), lamp.spec, NOTHING), 0)
            elif order == "last" and self.record is not None and name in self.record:
                self._become(name, self.record[name], 0)
        self._take(Came(START))

    def _take(self, came: Came) -> None:
        """Let something set off its rules, and before them what hangs on it by itself."""
        event = came.event
        if self.alive and event[0] == "heard":
            self._is_heard(event[1], came)
        if event[0] == "input" and event[2] in ENDS_HOLD:
            self._let_go(event[1], came)
        elif event[0] == "link" and event[2] == "lost":
            self._let_go(WORDS, came)
            for name, lamp in self.lamps.items():
                lamp.is_claimed = False
                order = self.program.orders.get(name, PLAIN_ORDERS).link_lost
                if order == "off":
                    self._stop_coded(came, name)
                if order == "off" or (order == "on" and name not in self._mover_of):
                    self._set_lamp(name, after(lamp.state, Switch((name,), order), lamp.spec, NOTHING), 0, came)
        elif event[0] == "cue" and event[1] in self.cues:
            self.cues[event[1]].begin(self.now_ms)
        for run in self.program.handlers.get(event, ()):
            self._waits.pop(run.at, None)
            if not self._is_left_out(run):
                self._take_steps(run, 0, came, self.now_ms, set())

    def _is_heard(self, word: str, came: Came) -> None:
        """Note that a link lives; one that was lost is back, before the word acts."""
        for link, watch in self.program.watches.items():
            if word in watch.words and link in self.alive:
                was, self.alive[link] = self.alive[link], Alive(self.now_ms)
                if was.is_lost:
                    self.done.append(Done(came.tag, Told(link, "heard again: the link is back"), watch))
                    self._take(Came(("link", link, "back"), NOTHING, came.tag))

    def _let_go(self, by: str, came: Came) -> None:
        for name in [it for it, lamp in self.lamps.items() if lamp.held_by == by]:
            self._set_lamp(name, self.lamps[name].state._replace(is_on=False, pitch_hz=0), 0, came)

    def _is_left_out(self, run: Run) -> bool:
        unless = run.unless
        if unless is None:
            return False
        is_on = self.lamps[unless.lamp].state.is_on if unless.lamp is not None else self.inputs[unless.input or ""].is_on
        return is_on == unless.is_on

    def _take_steps(self, run: Run, place: int, came: Came, due_ms: int, dropped: set[str], *, has_waited: bool = False) -> None:
        """Take the steps of a rule from a place on, up to one that waits."""
        for at in range(place, len(run.steps)):
            due = run.steps[at]
            if due.after_ms and not (has_waited and at == place):
                self._waits[run.at] = Wait(later(due_ms, due.after_ms), run, at, came, dropped)
                return
            self._step(due, came, dropped)

    # What comes by itself

    def _tick(self, gone_ms: int) -> None:
        """Let the clock go on, and take the times of day that it has come to."""
        was = self._clock_ms or 0
        self._clock_ms = (was + gone_ms) % DAY_MS
        for it in self._times:
            if gone_ms and (_of_day_ms(it) - was - 1) % DAY_MS < gone_ms:
                self._take(Came(("at", it)))

    def _do_due(self) -> None:
        """Take what is due: the longest first, then intervals, steps that wait, cues and lamps, each in the order of the plan."""
        found: list[tuple[int, int, int, object]] = []
        now = self.now_ms

        def look(due_ms: int, kind: int, at: int, it: object) -> None:
            if is_due(due_ms, now):
                found.append((-since(due_ms, now), kind, at, it))

        for at, due in enumerate(self._due):
            look(due, 0, at, at)
        for wait in self._waits.values():
            look(wait.due_ms, 1, wait.run.at, wait)
        for at, cue in enumerate(self.cues.values()):
            if cue.due_ms is not None:
                look(cue.due_ms, 2, at, (cue, cue.turn))
        for name in self.outputs.moving:
            goes_on = self.lamps[name].goes_on
            if isinstance(goes_on, Flash):
                look(goes_on.due_ms, 3, self._places[name], (name, goes_on))
        found.sort(key=lambda one: one[:3])
        for at, mover in enumerate(self.movers.values()):
            if mover.waiting is not None:
                look(mover.waiting.due_ms, 4, at, (mover, mover.waiting))
        for link, alive in self.alive.items():
            if alive.heard_ms is not None:
                look(later(alive.heard_ms, self.program.watches[link].silent_ms), 5, 0, (link, alive))
        for name in self.outputs.moving:
            send_on(self.lamps[name], now)
        for _, kind, at, it in found:
            if kind == 0:
                event = self._intervals[at]
                self._due[at] = later(self._due[at], int(event[1]))
                self._take(Came(event))
            elif isinstance(it, Wait):
                if self._waits.get(it.run.at) is it:
                    del self._waits[it.run.at]
                    by_itself = it.came._replace(tag=BY_ITSELF)
                    self._take_steps(it.run, it.place, by_itself, it.due_ms, it.dropped, has_waited=True)
            elif isinstance(it, tuple) and isinstance(it[0], CueRun):
                if it[0].turn == it[1] and it[0].due_ms is not None:
                    self._picture(it[0], it[0].due_ms, BY_ITSELF)
            elif isinstance(it, tuple) and isinstance(it[1], Alive):
                if self.alive[it[0]] is it[1]:
                    self.alive[it[0]] = Alive(is_lost=True)
                    silent_ms = self.program.watches[it[0]].silent_ms
                    self.done.append(Done(BY_ITSELF, Told(it[0], f"silent for {silent_ms} ms: the link is lost"), it))
                    self._take(Came(("link", it[0], "lost")))
            elif isinstance(it, tuple) and isinstance(it[1], Waiting | Later):
                if it[0].waiting is not it[1]:
                    continue
                if isinstance(it[1], Later):
                    self._run_at(it[0], it[1].speed, BY_ITSELF)
                else:
                    self._move_on(it[0], it[1])
            elif isinstance(it, tuple) and isinstance(it[1], Flash) and self.lamps[it[0]].goes_on is it[1]:
                self._flash(it[0], it[1])

    def _picture(self, cue: CueRun, since_ms: int, tag: int) -> None:
        frame = cue.take(since_ms)
        if frame is None:
            return
        name = next(name for name, it in self.cues.items() if it is cue)
        self.done.append(Done(tag, Told(name, f"picture {cue.at + 1} of {len(cue.code.frames)}"), frame))
        for picture in frame.pictures:
            for lamp_id in picture.lamps:
                lamp = self.lamps[lamp_id]
                self._set_lamp(lamp_id, pictured(lamp.state, picture, lamp.spec), picture.over_ms, None, tag)

    def _flash(self, name: str, flash: Flash) -> None:
        lamp = self.lamps[name]
        if flash.is_lit and flash.left == 1:
            self._become(name, flash.before, 0)
        elif flash.is_lit:
            lamp.goes_on = flash._replace(due_ms=later(flash.due_ms, flash.off_ms), is_lit=False)
        else:
            left = None if flash.left is None else flash.left - 1
            lamp.goes_on = flash._replace(due_ms=later(flash.due_ms, flash.on_ms), is_lit=True, left=left)

    def _step(self, due: Due, came: Came, dropped: set[str]) -> None:
        step, tag = due.step, came.tag
        said = said_now(step, came.values, self.lamps, self.inputs) if isinstance(step, Say) else NOTHING
        self.done.append(Done(tag, due.told, step, said))
        if not isinstance(step, OTHERS):
            self._set_all(step, came, dropped)
            return
        match step:
            case Play():
                if step.cue in self.cues:
                    self.cues[step.cue].begin(self.now_ms)
            case Next():
                if step.cue in self.cues:
                    self._picture(self.cues[step.cue], self.now_ms, tag)
            case Stop():
                self._stop(step.cue, came)
            case Turn():
                self._turn(step, came)
            case Remember():
                self._kept |= {name: self.lamps[name].state for name in step.lamps}
            case Send():
                for name in step.lamps:
                    if put_code(self.lamps[name], step.code, self.now_ms):
                        self.outputs.moving[name] = self.outputs.marks[name, tag] = None
            case Show():
                text = shown_text(step, self.lamps, self.inputs, self._clock_ms)
                self._set_all(Text(step.lamps, text), came, dropped)

    def _stop(self, cue: str | None, came: Came) -> None:
        if cue is not None:
            if cue in self.cues:
                self.cues[cue].stop()
            return
        self._waits.clear()
        for it in self.cues.values():
            it.stop()
        for name, lamp in self.lamps.items():
            drop_codes(lamp)
            self._set_lamp(name, lamp.state._replace(is_on=False, pitch_hz=0), 0, came)
        self._stop_coded(came)

    def _stop_coded(self, came: Came, sender: str | None = None) -> None:
        """Stop what codes move: all of it, or what one lamp moves."""
        for mover in self.movers.values():
            if isinstance(mover, Coded) and sender in (None, mover.spec.sender):
                self._run_at(mover, 0, came.tag)


def _of_day_ms(time: str) -> int:
    hours, _, minutes = time.partition(":")
    return (60 * int(hours) + int(minutes)) * 60_000
