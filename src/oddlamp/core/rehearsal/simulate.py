"""The rehearsal: plan and events in, the whole course out. A pure function, so that a run can be kept and compared."""

import math
from collections.abc import Mapping, Sequence
from functools import cache
from operator import itemgetter
from types import MappingProxyType
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.behaviour.each import keys_of
from oddlamp.core.behaviour.framing import UNKNOWN, Heard, filled, said_by
from oddlamp.core.behaviour.inputs import TURNED_MOST
from oddlamp.core.behaviour.program import Say
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign, TalkDesign
from oddlamp.core.english import and_list
from oddlamp.core.modules.known import links_known
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import input_lines
from oddlamp.core.plan.text import ENDINGS, bytes_of, shown
from oddlamp.core.rehearsal.buffers import Buffers
from oddlamp.core.rehearsal.by_itself import ByItself
from oddlamp.core.rehearsal.course import Course
from oddlamp.core.rehearsal.events import (
    BusyEvent,
    ClockEvent,
    ControlEvent,
    CueEvent,
    Event,
    FeedEvent,
    InputEvent,
    LineEvent,
    LinkEvent,
    ModuleEvent,
    PowerEvent,
    SpokenEvent,
    StartEvent,
    TroubleEvent,
    WaitEvent,
    WordEvent,
)
from oddlamp.core.rehearsal.hosts import Hosts
from oddlamp.core.rehearsal.lights import Lights
from oddlamp.core.rehearsal.links import OWN, Links
from oddlamp.core.rehearsal.outlets import lost_or_doubted
from oddlamp.core.rehearsal.software import wary_of
from oddlamp.core.rehearsal.trace import Answered, Trace
from oddlamp.core.rehearsal.troubles import NAMES, Troubles
from oddlamp.core.rehearsal.voice import understand
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.words.frames import FieldValue

PHRASES_TOLD: Final = 6
TAIL_S: Final = 10.0  # how long after the last event what goes on by itself is followed
LINK_ENDS: Final = frozenset({"leave", "power-off", "as-bought", "set-up"})
NO_FILL: Final[Mapping[str, FieldValue]] = MappingProxyType({})


def rehearse(plan: Plan, catalog: Catalog, events: Sequence[Event]) -> Trace:
    """Play events through a plan, byte by byte, from the hand to the light.

    Whether something gets through is not judged here: the design's passages say so. What may not get through does, and
    is told. Every radio takes its typical latency, every host acts the moment a word is whole. Bytes on a wire
    queue one behind the other at ten bits each; the air before it is told apart. Modules are the stand-ins that a
    terminal would meet, with power and set up long before the first event; a phone links with its first message.
    Args:
        plan: a plan whose parts are all in the catalogue.
        catalog: parts and sources.
        events: what is pressed and typed, in any order.
    Returns:
        The trace; a message that dies says where and why.
    """
    return _Run(resolve(plan, catalog), events).play()


def rehearse_design(design: Design, events: Sequence[Event]) -> Trace:
    """Play events through a design that is resolved already."""
    return _Run(design, events).play()


class _Run:
    """One run: what is said, heard and done while it lasts."""

    def __init__(self, design: Design, events: Sequence[Event]) -> None:
        self.design, self.events = design, events
        self.course = Course()
        self.lights = Lights(design, self.course)
        self.buffers = Buffers(events, *wary_of(design))
        self.troubles = Troubles()
        self.links = Links(design, self.course, self.lights, self.buffers, self.troubles, self._hear)
        self.known = {(it.air, it.board): it for it in links_known(design)}
        self.controls = dict[str, ControlDesign]()
        for handset in design.handsets.values():
            for it in handset.controls:
                self.controls.setdefault(it.id, it)
                self.controls[f"{handset.id}.{it.id}"] = it
        ends_s = max((it.t_s for it in events), default=0.0) + TAIL_S
        starts_at_ms = next((it.starts_at_ms for it in events if isinstance(it, StartEvent)), 0)
        self.hosts = Hosts(
            design, self.course, self.lights, self.buffers, self.troubles, self._said, ends_s=ends_s, starts_at_ms=starts_at_ms
        )
        self.links.block = self.hosts.block
        self.by_itself = ByItself(design, self.course, self._say, self.links.cut.__contains__, ends_s)
        self.answered = list[Answered]()
        self.content = cache(self._content)  # the same few words come up thousands of times in a run

    def play(self) -> Trace:
        """Take the events in time order, letting what they set off happen in between."""
        course = self.course
        self.hosts.begin()
        for event in sorted(self.events, key=lambda it: it.t_s):
            course.until(event.t_s)
            if not course.is_cut_short:
                self._start(event)
        course.until(float("inf"))
        trace = course.trace
        ends_at_s = max((it.until_s or it.t_s for it in trace), default=0.0)
        ends_at_s = max([ends_at_s, self.hosts.ran_until_s, *(it.t_s for it in self.events if isinstance(it, WaitEvent))])
        self.links.ports.lose_unended(ends_at_s)
        trace.sort(key=itemgetter(0))  # by t_s
        # Made here and nowhere else, tuple by tuple: checking them again would take longer than the run.
        return Trace.model_construct(
            events=tuple(trace),
            lamps={name: tuple(points) for name, points in self.lights.points.items()},
            pixels={name: tuple(points) for name, points in self.lights.pixels.items()},
            shows={name: tuple(it) for name, it in self.lights.shown.items()},
            pins={name: tuple(points) for name, points in self.lights.pins.items()},
            said={ref: tuple(it) for ref, it in self.links.said.items()},
            answered=tuple(self.answered),
            asides=frozenset(course.asides),
            ends_at_s=ends_at_s,
            is_cut_short=course.is_cut_short or self.hosts.is_cut_short,
            goes_on=self.hosts.goes_on,
        )

    def _start(self, event: Event) -> None:
        self.course.begin_message()
        match event:
            case ControlEvent():
                control = self.controls.get(f"{event.node}.{event.control}" if event.node else event.control)
                pair = control.says.get(event.gesture) if control else None
                if control is None or pair is None:
                    told = f"there is no {event.gesture} of {event.control} that says a word"
                    self.course.lose(event.t_s, self._hand(control), event.control, told)
                else:
                    self._press(event.t_s, control, event.gesture, event.values)
            case SpokenEvent():
                self._hear_said(event)
            case CueEvent():
                if event.cue not in self.design.plan.cues:
                    self.course.lose(event.t_s, self._hand(None), event.cue, f"there is no cue {event.cue}")
                for host in self.hosts.hosts:
                    self.hosts.come(event.t_s, host, ("cue", event.cue))
            case FeedEvent():
                if (because := self.by_itself.feed(event)) is not None:
                    self.course.lose(event.t_s, self._hand(None), event.node, because)
            case WordEvent():
                talk = self.design.talks.get(event.talk)
                if talk is None or not any(word.id == event.word for word in talk.vocabulary.words):
                    told = f"there is no word {event.word} on a talk {event.talk}"
                    self.course.lose(event.t_s, self._hand(None), event.word, told)
                else:
                    self._say(event.t_s, talk, event.word, event.word, event.values)
            case LineEvent():
                self._type(event)
            case InputEvent():
                self._move(event)
            case BusyEvent():
                told = f"takes nothing for {si(event.for_s, 's')}"
                if event.node in self.hosts.hosts:
                    self.course.note(event.t_s, self.design.nodes[event.node].stage, event.node, says=told)
                else:
                    self.course.lose(event.t_s, self._hand(None), event.node, f"there is no board {event.node}")
            case PowerEvent():
                self._power(event)
            case LinkEvent():
                self._link(event)
            case ClockEvent():
                hours, minutes, seconds = map(int, f"{event.at}:00".split(":")[:3])
                self.hosts.set_clock(event.t_s, 1000 * (3600 * hours + 60 * minutes + seconds))
            case TroubleEvent():
                self._trouble(event)
            case WaitEvent() | StartEvent():
                pass
            case ModuleEvent():
                if event.node in self.links.actors.modules:
                    self.links.happen(event.t_s, event.node, event.does)
                    self._leaves(event)
                else:
                    self.course.lose(
                        event.t_s, self._hand(None), event.node, f"there is no module {event.node} that talks in a known way"
                    )

    def _press(self, t_s: float, control: ControlDesign, gesture: str, values: Mapping[str, FieldValue]) -> None:
        """Let a control say its word; a key of a remote is taken in by its receiver, and stands for the word."""
        talk_id, word_id = control.says[gesture]
        talk, handset = self.design.talks[talk_id], self.design.handsets[control.node_id]
        values = {**filled(control.fills.get(gesture, {})), **values}
        if control.kind != "key":
            self._say(t_s, talk, word_id, control.label, values)
            return
        self.course.note(t_s, self._hand(control), control.id, says=control.label)
        if handset.receiver is None:
            self.course.lose(t_s, self._hand(control), control.id, "no receiver hangs on a board")
            return
        host = self.design.plan.inputs[handset.receiver].host
        lost_because, may_not = lost_or_doubted(self.design.passages[f"{handset.receiver}.in"])
        stage = f"inputs.{handset.receiver}"
        if lost_because is None and talk.b != host:
            lost_because = f"{talk.vocabulary.word(word_id).label} is no word of the board that its receiver hangs on"
        if lost_because is not None:
            self.course.lose(t_s, stage, handset.receiver, lost_because)
            return
        code = f"code 0x{control.code:08X}" if control.code is not None else "a code, to be learned"
        self.course.note(t_s, stage, handset.receiver, says=code, may_not=may_not)
        self.hosts.come(t_s, host, ("heard", word_id), values)

    def _hear_said(self, event: SpokenEvent) -> None:
        handset = self.design.handsets.get(event.node)
        if handset is None or handset.kind != "voice":
            self.course.lose(event.t_s, self._hand(None), event.node, f"there is no voice helper {event.node}")
            return
        meant = understand(handset.controls, event.text)
        if meant is None or not meant.control.says:
            known = and_list([it.phrases[0] for it in handset.controls if it.phrases][:PHRASES_TOLD])
            told = f"it knows no \u201c{event.text}\u201d; it knows {known}" if known else "it knows nothing yet"
            self.course.lose(event.t_s, f"nodes.{handset.id}", handset.id, told)
            return
        self._press(event.t_s, meant.control, next(iter(meant.control.says)), meant.values)

    def _move(self, event: InputEvent) -> None:
        name, _, number = event.input.partition(".")
        stage, it = f"inputs.{name}", self.design.plan.inputs.get(name)
        place = int(number or 1) - 1
        if it is None or place >= (it.count or 1):
            self.course.lose(event.t_s, self._hand(None), event.input, f"there is no input {event.input}")
            return
        key = keys_of(name, it)[place]
        lost_because, may_not = lost_or_doubted(self.design.passages[input_lines(name, it)[place]])
        if lost_because is not None:
            self.course.lose(event.t_s, stage, name, lost_because)
            return
        host, kind = it.host, it.kind
        level, says = int(event.event in ("pressed", "on")), str(event.event)
        if self.hosts.is_turned(host, key):
            ratio = event.value
            if ratio is None:
                ratio = float(self.hosts.level(host, key) <= TURNED_MOST // 2)
            level, says = _of_turned(ratio), f"turned to {si(ratio, 'ratio')}" if kind == "knob" else f"at {si(ratio, 'ratio')}"
        says = f"{number or 1} {says}" if len(keys_of(name, it)) > 1 else says
        self.course.note(event.t_s, stage, name, says=says, may_not=may_not)
        self.hosts.put(event.t_s, host, key, level)

    def _power(self, event: PowerEvent) -> None:
        if event.node not in self.hosts.hosts:
            self.course.lose(event.t_s, self._hand(None), event.node, f"there is no board {event.node}")
            return
        says = {"off": "no power", "on": "has power again", "reset": "starts anew"}[event.does]
        self.course.note(event.t_s, self.design.nodes[event.node].stage, event.node, says=says)
        if event.does != "on":
            self.hosts.cut(event.t_s, event.node, is_on=False)
        if event.does != "off":
            self.hosts.cut(event.t_s, event.node, is_on=True)

    def _link(self, event: LinkEvent) -> None:
        link = self.design.airs.get(event.link)
        if link is None:
            self.course.lose(event.t_s, self._hand(None), event.link, f"there is no radio link {event.link}")
            return
        self.course.note(event.t_s, link.stage, event.link, says="is lost" if event.does == "lost" else "is back")
        self.links.cut_off(event.t_s, event.link, is_lost=event.does == "lost")
        for (air, board), known in self.known.items():
            if air != event.link:
                continue
            if known.by == "silence":
                continue  # its program finds out by itself
            if known.by is None:
                self.course.lose(event.t_s, f"rules.{board}", board, f"nothing tells the board that its link is {event.does}")
            else:
                self.hosts.come(event.t_s, board, ("link", event.link, event.does))

    def _leaves(self, event: ModuleEvent) -> None:
        """Tell boards that a link is lost with what befalls its module, where they can know: a pin tells of all, a message of who leaves."""
        for known in self.known.values():
            tells = {"pin": LINK_ENDS, "message": {"leave"}}.get(known.by or "", set())
            if known.module == event.node and not tells.isdisjoint(event.does):
                self.hosts.come(event.t_s, known.board, ("link", known.air, "lost"))

    def _trouble(self, event: TroubleEvent) -> None:
        """Put a trouble in, or take it away; a place that is none is told."""
        places = {
            **{it: link.stage for it, link in self.design.airs.items()},
            **{it: f"links.{it}" for it in self.design.wires},
            **{it: node.stage for it, node in self.design.nodes.items()},
            **{it: f"inputs.{it}" for it in self.design.plan.inputs},
        }
        if event.where not in places:
            self.course.lose(event.t_s, self._hand(None), event.where, f"there is no {event.where}")
            return
        self.troubles.put(event)
        says = NAMES[event.what] if event.is_on else f"no more: {NAMES[event.what]}"
        self.course.note(event.t_s, places[event.where], event.where, says=says)
        if event.what == "noise":
            self.hosts.tremble(event.t_s, event.where)

    def _hand(self, control: ControlDesign | None) -> str:
        return f"nodes.{control.node_id}" if control else next((f"nodes.{name}" for name in self.design.handsets), "nodes")

    def _type(self, event: LineEvent) -> None:
        talk = self.design.talks.get(event.talk)
        if talk is None:
            self.course.lose(event.t_s, self._hand(None), event.talk, f"there is no talk {event.talk}")
            return
        try:
            content = bytes_of(event.text)
        except ValueError as error:
            self.course.lose(event.t_s, self.design.nodes[talk.a].stage, event.talk, f"cannot be typed: {error}")
            return
        handset = self.design.handsets.get(talk.a)
        self._send(event.t_s, talk, content + (ENDINGS[handset.appends.id] if handset else b""), event.text, goes_out=True)

    def _say(self, t_s: float, talk: TalkDesign, word_id: str, what: str, fill: Mapping[str, FieldValue] = NO_FILL) -> None:
        content, goes_out = self.content(talk.id, word_id, tuple(fill.items()))
        wrong = self.troubles.of("ending", talk.a) if goes_out and talk.a in self.design.handsets else None
        if wrong is not None and wrong.ending is not None:
            content = content.removesuffix(ENDINGS[self.design.handsets[talk.a].appends.id]) + ENDINGS[wrong.ending]
        self._send(t_s, talk, content, what, goes_out=goes_out)

    def _content(self, talk_id: str, word_id: str, fill: tuple[tuple[str, FieldValue], ...]) -> tuple[bytes, bool]:
        """Give a word with its values and its ending, and its way: a phone adds what it adds, a board's program what the words want."""
        talk = self.design.talks[talk_id]
        vocabulary = talk.vocabulary
        word = vocabulary.word(word_id)
        handset = self.design.handsets.get(talk.a)
        if handset is None or word.direction != "out":
            return word.built(dict(fill)) + vocabulary.terminator, word.direction == "out"
        return said_by(handset, vocabulary, word, dict(fill) if word.shape is not None else None), True

    def _send(self, t_s: float, talk: TalkDesign, content: bytes, what: str, *, goes_out: bool) -> None:
        if not content:
            return
        start = self.design.nodes[talk.a if goes_out else talk.b]
        self.course.note(t_s, start.stage, talk.id, content, says=what)
        if talk.vocabulary.open_because is not None:
            self.course.lose(t_s, talk.vocabulary.stage, talk.id, talk.vocabulary.open_because, content)
            return
        self.links.send(t_s, talk, content, goes_out=goes_out)
        if goes_out and self.by_itself.kept_alive:
            self.by_itself.begin(t_s, talk)

    def _hear(self, t_s: float, talk: TalkDesign, heard: Heard, goes_out: bool) -> None:
        listener = talk.b if goes_out else talk.a
        if (free_s := self.buffers.free_at_s(listener, t_s)) > t_s:
            self.course.later(free_s, self._hear, talk, heard, goes_out)
            return
        stage = talk.vocabulary.stage if goes_out else self.design.nodes[listener].stage
        if self.hosts.is_off(listener):
            self.course.lose(t_s, self.design.nodes[listener].stage, listener, "it has no power", heard.taken)
            return
        word = heard.word
        if word is None:
            names = " ".join(shown(it) for it in heard.taken) or "nothing"
            garbled = self.links.garbled.get(self.course.message)
            if self.course.message in self.links.own:  # said by the module itself, and rightly no word
                self.course.note(t_s, stage, talk.id, heard.taken, says=OWN)
                return
            why = garbled or heard.because
            self.course.lose(t_s, stage, talk.id, f"{names} is no word here{f': {why}' if why else ''}", heard.taken)
            if talk.vocabulary.answers_unknown and listener in self.hosts.hosts:
                asked = self.course.begin_message()
                self._send(t_s, talk, UNKNOWN + talk.vocabulary.terminator, "?", goes_out=not goes_out)
                self.course.message = asked
            return
        carried = ", ".join(f"{it.label} {heard.values[it.id]}" for it in word.parameters)
        self.course.note(t_s, stage, word.id, heard.taken, says=f"{word.label}: {carried}" if carried else word.label)
        if listener in self.design.handsets:
            self.answered.append(Answered(t_s, listener, talk.id, word.id, dict(heard.values)))
        if listener not in self.links.actors.modules:  # a module does what it knows, whatever a rule says of it
            self.hosts.come(t_s, listener, ("heard", word.id), heard.values)

    def _said(self, t_s: float, step: Say, values: Mapping[str, FieldValue]) -> None:
        """Send off a word that a program says."""
        talk = self.design.talks[step.talk]
        self._say(t_s, talk, step.word, talk.vocabulary.word(step.word).label, values)


def _of_turned(ratio: float) -> int:
    return math.floor(TURNED_MOST * ratio + 0.5)
