"""A simulated build with a fault in it: its circuit solved, its module stood in for, and what is pressed rehearsed.

What is wrong with the module is put into its stand-in, which is then linked to, asked and fed; what is wrong with app,
program, air and input is played in the rehearsal, with what the stand-in and the circuit let through.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Final, Literal

from oddlamp.core.behaviour.framing import filled
from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.devices import FED_RATIO, Fault, State
from oddlamp.core.design.design import Design
from oddlamp.core.design.passages import Obstacle, Passage
from oddlamp.core.finding.states import RIGHT
from oddlamp.core.finding.way import APART_S, PRESS_S, looks_lit
from oddlamp.core.finding.wired import DIM_RATIO, Look, Wired
from oddlamp.core.modules.air import MASTER
from oddlamp.core.modules.stand_in import BOOT_S, StandIn
from oddlamp.core.modules.uart import Port, garbage
from oddlamp.core.parts.dialect import ENDINGS as FAMILY_ENDINGS
from oddlamp.core.plan.text import ENDINGS, typed
from oddlamp.core.rehearsal.actors import Actors
from oddlamp.core.rehearsal.events import (
    BusyEvent,
    ControlEvent,
    Event,
    LineEvent,
    LinkEvent,
    ModuleEvent,
    PowerEvent,
    TroubleEvent,
    WaitEvent,
    WordEvent,
)
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.rehearsal.trace import Trace

By = Literal["phone", "terminal", "input", "wiring"]
SOON_S: Final = 4.0
WAITS_S: Final = 12.0
OTHER_BD: Final = {9600: 38400, 38400: 9600}
TREMBLES: Final = 0.3
MET_S: Final = 3.0  # by then two modules have found each other, and a phone links
ASKED_S: Final = 4.0
ANSWER_S: Final = 5.0
LOOPED: Final = b"?"
OTHER_CODE: Final = "0001"
OTHER_ADDRESS: Final = "0000:00:0000FE"
LINE_MOST: Final = 200


@dataclass(frozen=True)
class Build(Wired):
    """One simulated build: its circuit, its module, and what comes of a press."""

    # The module

    @cached_property
    def is_module_up(self) -> bool:
        """Whether the module runs."""
        module = self.way.module
        return module is not None and self.is_fed(module.id) and self.states.module.is_alive

    @property
    def program_runs(self) -> bool:
        """Whether the plan's program runs on the board that drives the lamp."""
        return self.is_fed(self.way.lamp.host) and self.states.program.is_there

    def passes(self, line: str) -> bool:
        """Tell whether what is sent on a serial line is heard: it arrives by its volts, and the module's pin at its end is whole."""
        module = self.states.module
        return self.arrives(line) and (module.hears if line == self.way.to_module else module.says)

    def stood(self) -> Actors | None:
        """Return the modules as they stand in this build before anybody links to them; None where the module is none that talks."""
        node, state = self.way.module, self.states.module
        found = Actors(self.hindered())
        module = found.modules.get(node.id) if node is not None else None
        if node is None or module is None:
            return None
        if not state.is_at_speed:
            module.kept["speed"] = self.other_bd
        if not state.has_code:
            module.kept["pin"] = OTHER_CODE
        caller = self._caller(found)
        if caller is not None and not state.is_bound:
            caller.kept |= {"bound": OTHER_ADDRESS, "mode": 0}
        if state != RIGHT.module or not self.is_module_up or not self.program_runs:
            module.power(0.0, is_on=False)
            module.key(0.0, is_up=not state.is_key_low)
            module.power(0.0, is_on=self.is_module_up)
            module.key(0.0, is_up=False)
            if self.is_module_up and self.program_runs:
                found.start_again(node.id, BOOT_S)
        for at_s in (0.0, MET_S) if self.way.air in found.airs else ():
            found.look(self.way.air, at_s)
        if not state.is_free:
            module.link(MET_S, is_there=True)
        return found

    def _caller(self, found: Actors) -> StandIn | None:
        """Return the module of a pair that calls the other."""
        pair = found.airs.get(self.way.air)
        return next((it for it in pair.sides if it.kept.get("role") == MASTER), None) if pair is not None else None

    @cached_property
    def module(self) -> StandIn | None:
        """The module as it stands before anybody links to it."""
        found, node = self.stood(), self.way.module
        return found.modules[node.id] if found is not None and node is not None else None

    @property
    def is_bound_right(self) -> bool:
        """Whether the module that calls its partner is bound to the address that the partner has."""
        found = self.stood()
        caller = self._caller(found) if found is not None else None
        if found is None or caller is None or "bound" not in caller.kept:
            return True
        return any(it.kept.get("address") == caller.kept["bound"] for it in found.airs[self.way.air].sides)

    @property
    def other_bd(self) -> int:
        """The speed that a module has which has another than the board."""
        wire = self.way.wire
        planned = int(self.design.wires[wire.link_id].baud.known) if wire is not None else 9600
        return OTHER_BD.get(planned, 9600)

    @cached_property
    def links(self) -> bool:
        """Whether the phone, or the other module, can link: within reach, tried at all, let in by the module as it stands and by its code."""
        way, state = self.way, self.states
        if not state.app.is_linked or not state.rest.is_near:
            return False
        found, node = self.stood(), way.module
        if node is None:
            return self.is_fed(way.lamp.host)
        if found is None:  # of a kind that nothing stands in for
            return self.is_module_up and state.module.is_free
        module = found.modules[node.id]
        if way.air in found.airs:
            return module.mode == "linked"
        if module.is_linked or module.kept.get("pin") != Actors(self.design).modules[node.id].kept.get("pin"):
            return False
        module.link(MET_S, is_there=True)
        return module.is_linked

    def answers_at(self, *, by_adapter: bool) -> Literal["answers", "nothing", "garbage"]:
        """Return what comes back where AT is typed to the module, set up as its family wants it, by the terminal at hand or by one that is known to be right."""
        dialect, found, node = self.way.dialect, self.stood(), self.way.module
        if dialect is None or found is None or node is None or (not by_adapter and not self._reaches_by_board(node.id)):
            return "nothing"
        state, terminal = self.states.module, RIGHT.terminal if by_adapter else self.states.terminal
        module = found.modules[node.id]
        module.power(ASKED_S, is_on=False)
        module.key(ASKED_S, is_up=dialect.enters == "key" and terminal.is_key_up)
        module.power(ASKED_S, is_on=state.is_alive)
        speed_bd = module.speed_bd if by_adapter else self._terminal_bd(module)
        if not terminal.is_at_speed:
            speed_bd = OTHER_BD.get(speed_bd, 9600)
        ending = FAMILY_ENDINGS[dialect.ending]
        if not terminal.has_ending:
            ending = b"" if ending else b"\r\n"
        said = module.hear_at(ANSWER_S, b"AT" + ending, Port(speed_bd)) + module.until(2 * ANSWER_S) if state.hears else []
        back = b"".join(it.content for it in said if it.to == "wire" and state.says)
        heard = (
            bytes(it.byte for it in garbage(back, module.port, Port(speed_bd))) if back and speed_bd != module.speed_bd else back
        )
        return "answers" if b"OK" in heard else "garbage" if heard else "nothing"

    @property
    def comes_back(self) -> bool:
        """Whether what a phone sends comes back to it with the module's TX on its own RX."""
        found, node = self.stood(), self.way.module
        if found is None or node is None or not self.links:
            return False
        module, state = found.modules[node.id], self.states.module
        module.link(MET_S, is_there=True)
        out = b"".join(it.content for it in module.hear_air(ASKED_S, LOOPED) if it.to == "wire" and state.says)
        return any(it.to == "air" for it in module.hear(ANSWER_S, out)) if out and state.hears else False

    def _reaches_by_board(self, module_id: str) -> bool:
        """Tell whether what is typed through the board gets to its module, and back; where no wire leads there, an adapter of one's own does."""
        if not self.is_fed(module_id):
            return False
        lines = [it for it in (self.way.to_module, self.way.to_board) if it]
        return not self.way.to_module or (self.is_fed(self.way.lamp.host) and all(map(self.arrives, lines)))

    def _terminal_bd(self, module: StandIn) -> int:
        """The speed a maker's terminal is at: that of the plan's module, as set up."""
        dialect = module.dialect
        if dialect.enters == "key" and dialect.setup_speed_bd:
            return dialect.setup_speed_bd
        wire = self.way.wire
        return int(self.design.wires[wire.link_id].baud.known) if wire is not None else 9600

    def heard(self) -> Literal["words", "garbage", "nothing"]:
        """Return what comes in at the board where the phone sends a word, as its program may print it."""
        if not self.links or not self.is_fed(self.way.lamp.host):
            return "nothing"
        if not self.way.to_board:
            return "words"
        if not self.passes(self.way.to_board):
            return "nothing"
        if not self.states.module.is_at_speed and self.way.wire is not None and self.way.talk is not None:
            content = next(it.content for it in self.way.talk.vocabulary.words)
            board_bd = int(self.design.wires[self.way.wire.link_id].baud.known)
            return "garbage" if list(garbage(content, Port(self.other_bd), Port(board_bd))) else "nothing"
        return "words"

    # What is pressed, rehearsed

    def hindered(self) -> Design:
        """Return the plan worked out with what does not arrive in this build: by the volts of its circuit."""
        stopped = {}
        for line in (self.way.to_module, self.way.to_board):
            if line and not self.passes(line):
                before = self.design.passages[line]
                stopped[line] = Passage(line, before.stage, (Obstacle("BUILD", "stop", "nothing arrives there"),))
        return replace(self.design, passages={**self.design.passages, **stopped}) if stopped else self.design

    def _put(self, by: By) -> Iterator[Event]:
        """Yield what is wrong from the beginning on."""
        way, state = self.way, self.states
        board = way.lamp.host
        if way.is_board and not self.program_runs:
            yield PowerEvent(kind="power", t_s=0, node=board, does="off")
        if way.module is not None and way.dialect is not None:
            if not self.is_module_up:
                yield ModuleEvent(kind="module", t_s=0, node=way.module.id, does=("power-off",))
            elif not state.module.is_key_low:
                yield ModuleEvent(kind="module", t_s=0, node=way.module.id, does=("power-off", "key-up", "power-on"))
        if way.air and not self.links:
            yield LinkEvent(kind="link", t_s=0, link=way.air, does="lost")
        if not state.module.is_at_speed and way.module is not None:
            yield TroubleEvent(kind="trouble", t_s=0, what="speed", where=way.module.id, baud_bd=self.other_bd)
        if not state.app.has_ending and by == "phone" and way.talk is not None and self._appended:
            yield TroubleEvent(kind="trouble", t_s=0, what="ending", where=way.talk.a, ending="none")
        if not state.program.is_prompt:
            yield BusyEvent(kind="busy", t_s=0, node=board, for_s=PRESS_S + WAITS_S)
        if not state.rest.is_still and way.input_id:
            yield TroubleEvent(kind="trouble", t_s=0, what="noise", where=way.input_id, share=TREMBLES)

    def _pressed(self, by: By) -> Event | None:
        way = self.way
        if by == "input":
            return None if way.local is None else way.local.model_copy(update={"t_s": PRESS_S})
        if way.press is None:
            return None
        app = self.states.app if by == "phone" else RIGHT.app
        wrong = not self.states.program.has_words or not app.has_text
        is_bare = not app.has_ending and not self._appended
        if (by == "terminal" or wrong or is_bare) and way.is_by_phone and isinstance(way.press, ControlEvent | WordEvent):
            return self._typed(way.press, is_wrong=wrong, is_bare=is_bare)
        return way.press.model_copy(update={"t_s": PRESS_S})

    @property
    def _appended(self) -> bytes:
        """What the phone adds to all it sends."""
        handset = self.design.handsets.get(self.way.talk.a) if self.way.talk is not None else None
        return ENDINGS[handset.appends.id] if handset is not None else b""

    def _typed(self, press: ControlEvent | WordEvent, *, is_wrong: bool, is_bare: bool) -> Event:
        """Return a word as it is typed in a terminal, or another text where that is wrong, or without its ending."""
        talk = self.way.talk
        assert talk is not None
        fills = dict[str, float | str]()
        if isinstance(press, ControlEvent):
            control = next(it for it in self.design.handsets[talk.a].controls if it.id == press.control)
            word_id, fills = control.says[press.gesture][1], dict(control.fills.get(press.gesture, {}))
        else:
            word_id = press.word
        content = talk.vocabulary.word(word_id).built({**filled(fills), **press.values}).removesuffix(self._appended)
        content = content.removesuffix(talk.vocabulary.terminator) if is_bare else content
        text = typed(_other(content) if is_wrong else content)
        if len(text) > LINE_MOST:
            return press.model_copy(update={"t_s": PRESS_S})
        return LineEvent(kind="line", t_s=PRESS_S, talk=talk.id, text=text)

    @cached_property
    def _courses(self) -> dict[By, Trace | None]:
        return {}

    @cached_property
    def _looks(self) -> dict[By, Look | None]:
        return {}

    def course(self, by: By) -> Trace | None:
        """Play a press, once; None where the way has none of that kind."""
        if by not in self._courses:
            self._courses[by] = self._played(by)
        return self._courses[by]

    def _played(self, by: By) -> Trace | None:
        event = self._pressed(by)
        if event is None:
            return None
        wait = WaitEvent(kind="wait", t_s=PRESS_S + APART_S)
        return rehearse_design(self.hindered(), [*self._put(by), event, wait])

    def after(self, by: By) -> Look | None:
        """Return how the lamp looks after something is pressed, typed, or lit by the program that tries the wiring."""
        if by not in self._looks:
            self._looks[by] = self._looked(by)
        return self._looks[by]

    def _looked(self, by: By) -> Look | None:
        if by == "wiring":
            if not self.is_fed(self.way.lamp.host):
                return "dark"
            return self._shown(is_on=True, by=by)
        trace = self.course(by)
        if trace is None:
            return None
        if by == "input" and self._is_input_stuck():
            return self._shown(is_on=False, by=by)
        lamp = self.way.lamp
        is_soon = looks_lit(trace, lamp, PRESS_S, PRESS_S + SOON_S)
        is_lit = is_soon or looks_lit(trace, lamp, PRESS_S, PRESS_S + APART_S)
        if is_lit and not is_soon:
            return "late"
        if is_lit and not self.states.rest.is_still and by == "phone":
            return "wanders"
        return self._shown(is_on=is_lit, by=by)

    def _is_input_stuck(self) -> bool:
        """Tell whether the contact of the input gives the same whatever is done: by the volts at its board."""
        line = self.way.entry
        level = self.design.level(line)
        tap = self._heard_at(line) if line else None
        if level is None or tap is None or not self.way.has_contact:
            return False
        ground = Tap(f"ground.{level.receiver.end or 'here'}", "")
        shut, let_go = (self.volts(tap, ground, State(closed=it)) or 0.0 for it in (line, ""))
        return abs(shut - let_go) < DIM_RATIO

    def _shown(self, *, is_on: bool, by: By) -> Look:
        """Return how the lamp looks where the program would have it on or off."""
        program = self.states.program if by != "wiring" else RIGHT.program
        is_on = is_on and program.is_there and program.is_on_pin
        if not program.is_upright and self.is_fed(self.way.lamp.host):
            is_on = not is_on
        if self.broken.is_loose and is_on and self.at_bad_moment.lit_look != self.lamp_look(is_on=True):
            return "flickers"
        if self.lamp_look(is_on=False) != "dark":
            return "on"
        if not is_on:
            return "dark"
        look = self.lamp_look(is_on=True)
        is_sagging = self.broken.source_ohm and self.rail_v(is_lit=True) < FED_RATIO * (self._nominal_v or 0.0)
        return "resets" if is_sagging and look != "dark" else look

    @cached_property
    def at_bad_moment(self) -> "Build":
        """The build while what is loose is off."""
        return Build(self.way, self.broken.tight())

    def with_fault(self, fault: Fault) -> "Build":
        """Return the build with its circuit as it is now, and as a fault has it, as where a part is turned round for a try."""
        return Build(self.way, self.broken._replace(fault=fault, is_loose=False, parts=()))

    @property
    def lit_look(self) -> Look:
        """How the lamp looks while it is told to be lit, by a board that may have no supply."""
        return self.lamp_look(is_on=True) if self.is_fed(self.way.lamp.host) else "dark"

    @property
    def is_lit_at_rest(self) -> bool:
        """Whether the lamp is lit before anything is pressed."""
        return self.is_fed(self.way.lamp.host) and self._shown(is_on=False, by="phone") not in ("dark", "flickers")


def _other(content: bytes) -> bytes:
    """Return a text that means nothing: in other letters where there are any."""
    return content.swapcase() if content.swapcase() != content else b"?" * len(content)
