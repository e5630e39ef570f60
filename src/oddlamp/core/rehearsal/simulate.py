"""The rehearsal: plan and events in, the whole course out. A pure function, so that a run can be kept and compared."""

import heapq
from collections.abc import Callable, Sequence
from functools import cache, partial
from itertools import count
from operator import itemgetter
from typing import Final, NamedTuple

from oddlamp.core.behaviour.lights import LampState, act
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import Way
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import ControlDesign, Hop, TalkDesign
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.parts.models import Catalog, ModulePart
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.text import ENDINGS, bytes_of, shown
from oddlamp.core.rehearsal.deeds import Deed, deed_of, way_of
from oddlamp.core.rehearsal.events import ControlEvent, Event, InputEvent, LineEvent, WordEvent
from oddlamp.core.rehearsal.outlets import Effect, effect_of, lost_or_doubted, outlets_of
from oddlamp.core.rehearsal.trace import LampPoint, Trace, TraceEvent
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.words.framing import Heard, Parser, byte_time_s, parser_of, said_by

MOST_MESSAGES: Final = 50_000
DARK: Final = LampState()
_HEX: Final = tuple(f"{byte:02x}" for byte in range(256))
# A named tuple made from a row at once, a third of the time that naming its fields takes: the many events of a run are.
Row = tuple[float, str, str, str, float | None, str | None, str, float | None, float | None, int, str | None]
_event: Final[Callable[[Row], TraceEvent]] = partial(tuple.__new__, TraceEvent)
_point: Final[Callable[[tuple[float, float, float]], LampPoint]] = partial(tuple.__new__, LampPoint)
Arrival = tuple[float, int, TalkDesign, int, bytes | Heard, bool, int]


def rehearse(plan: Plan, catalog: Catalog, events: Sequence[Event]) -> Trace:
    """Play events through a plan, byte by byte, from the hand to the light.

    Whether something gets through is not judged here: the design's passages say so. What may not get through does, and
    is told. Every radio takes its typical latency, every host acts the moment a word is whole. Bytes on a wire
    queue one behind the other at ten bits each; the air before it is told apart.
    Args:
        plan: a plan whose parts are all in the catalogue.
        catalog: parts and sources.
        events: what is pressed and typed, in any order.
    Returns:
        The trace; a message that dies says where and why.
    """
    return _Run(resolve(plan, catalog)).play(events)


def rehearse_design(design: Design, events: Sequence[Event]) -> Trace:
    """Play events through a design that is resolved already."""
    return _Run(design).play(events)


class _Run:
    """One run: the state of wires, parsers and lamps while it lasts."""

    def __init__(self, design: Design) -> None:
        self.design = design
        self.trace: list[TraceEvent] = []
        self.states: dict[str, LampState] = {}
        self.parsers: dict[tuple[str, bool], Parser] = {}
        self.last_said: dict[tuple[str, bool], int] = {}
        self.linked: set[str] = set()
        self.greetings: set[int] = set()
        self.wire_free_s: dict[str, float] = {}
        self.queue: list[Arrival] = []
        self.order = count()
        self.messages = count(1)
        self.message = 0
        self.controls = {control.id: control for handset in design.handsets.values() for control in handset.controls}
        self.outlets = {lamp.id: outlets_of(design, lamp) for lamp in design.lamps.values()}
        self.deeds: dict[tuple[str, str | None, str | None, str | None], list[Deed]] = {}
        for rule in design.plan.rules.values():
            mine = self.deeds.setdefault((rule.host, rule.when.heard, rule.when.input, rule.when.event), [])
            mine += [deed_of(design, rule.host, action) for action in rule.do]
        # The same few links and words come up thousands of times in a run: each is looked up once.
        self.flight, self.passage, self.content = cache(self._flight), cache(self._passage), cache(self._content)
        self.effects: dict[tuple[str, LampState], list[Effect]] = {}
        dark = LampPoint(0.0, 0.0, 0.0)
        self.lamps = {it.signal_id: [dark] for mine in self.outlets.values() for it in mine if it.current_a is not None}

    def play(self, events: Sequence[Event]) -> Trace:
        """Take the events in time order, letting what they set off happen in between."""
        handled, is_cut_short = 0, False
        for event in [*sorted(events, key=lambda it: it.t_s), None]:
            until_s = event.t_s if event is not None else float("inf")
            while self.queue and self.queue[0][0] <= until_s and not is_cut_short:
                self._arrive(heapq.heappop(self.queue))
                handled += 1
                is_cut_short = handled >= MOST_MESSAGES
            if event is not None and not is_cut_short:
                self._start(event)
        self._lose_unended(max((it.until_s or it.t_s for it in self.trace), default=0.0))
        self.trace.sort(key=itemgetter(0))  # by t_s
        ends_at_s = max((it.until_s or it.t_s for it in self.trace), default=0.0)
        # Made here and nowhere else, tuple by tuple: checking them again would take longer than the run.
        return Trace.model_construct(
            events=tuple(self.trace),
            lamps={name: tuple(points) for name, points in self.lamps.items()},
            ends_at_s=ends_at_s,
            is_cut_short=is_cut_short,
        )

    def _start(self, event: Event) -> None:
        self.message = next(self.messages)
        match event:
            case ControlEvent():
                control = self.controls.get(event.control)
                pair = control.says.get(event.gesture) if control else None
                if control is None or pair is None:
                    self._lose(
                        event.t_s,
                        self._hand(control),
                        event.control,
                        f"there is no {event.gesture} of {event.control} that says a word",
                    )
                else:
                    self._say(event.t_s, self.design.talks[pair[0]], pair[1], control.label)
            case WordEvent():
                talk = self.design.talks.get(event.talk)
                if talk is None or not any(word.id == event.word for word in talk.vocabulary.words):
                    self._lose(event.t_s, self._hand(None), event.word, f"there is no word {event.word} on a talk {event.talk}")
                else:
                    self._say(event.t_s, talk, event.word, event.word)
            case LineEvent():
                self._type(event)
            case InputEvent():
                if event.input not in self.design.plan.inputs:
                    self._lose(event.t_s, self._hand(None), event.input, f"there is no input {event.input}")
                    return
                host = self.design.plan.inputs[event.input].host
                lost_because, may_not = lost_or_doubted(self.design.passages[f"{event.input}.in"])
                if lost_because is not None:
                    self._lose(event.t_s, f"inputs.{event.input}", event.input, lost_because)
                    return
                self.trace.append(
                    TraceEvent(
                        event.t_s,
                        f"inputs.{event.input}",
                        event.input,
                        says=event.event,
                        message=self.message,
                        may_not_because=may_not,
                    )
                )
                self._do(event.t_s, self.deeds.get((host, None, event.input, event.event), ()))

    def _hand(self, control: ControlDesign | None) -> str:
        return f"nodes.{control.node_id}" if control else next((f"nodes.{name}" for name in self.design.handsets), "nodes")

    def _lose(self, t_s: float, stage: str, ref: str, because: str, content: bytes = b"") -> None:
        self.trace.append(TraceEvent(t_s, stage, ref, content.hex(), None, because, message=self.message))

    def _type(self, event: LineEvent) -> None:
        talk = self.design.talks.get(event.talk)
        if talk is None:
            self._lose(event.t_s, self._hand(None), event.talk, f"there is no talk {event.talk}")
            return
        try:
            content = bytes_of(event.text)
        except ValueError as error:
            self._lose(event.t_s, self.design.nodes[talk.a].stage, event.talk, f"cannot be typed: {error}")
            return
        handset = self.design.handsets.get(talk.a)
        self._send(event.t_s, talk, content + (ENDINGS[handset.appends.id] if handset else b""), event.text, goes_out=True)

    def _say(self, t_s: float, talk: TalkDesign, word_id: str, what: str) -> None:
        content, goes_out = self.content(talk.id, word_id)
        self._send(t_s, talk, content, what, goes_out=goes_out)

    def _content(self, talk_id: str, word_id: str) -> tuple[bytes, bool]:
        """Give a word with its ending, and its way: a phone adds what it adds, a board's program what the words want."""
        talk = self.design.talks[talk_id]
        vocabulary = talk.vocabulary
        word = vocabulary.word(word_id)
        handset = self.design.handsets.get(talk.a)
        if handset is None or word.direction != "out":
            return word.content + vocabulary.terminator, word.direction == "out"
        return said_by(handset, vocabulary, word), True

    def _send(self, t_s: float, talk: TalkDesign, content: bytes, what: str, *, goes_out: bool) -> None:
        if not content:
            return
        start = self.design.nodes[talk.a if goes_out else talk.b]
        self.trace.append(_event((t_s, start.stage, talk.id, content.hex(), None, None, what, None, None, self.message, None)))
        if talk.vocabulary.open_because is not None:
            self._lose(t_s, talk.vocabulary.stage, talk.id, talk.vocabulary.open_because, content)
            return
        self._push(t_s, talk, 0, content, goes_out)

    def _push(self, t_s: float, talk: TalkDesign, hops_done: int, content: bytes | Heard, goes_out: bool) -> None:
        heapq.heappush(self.queue, (t_s, next(self.order), talk, hops_done, content, goes_out, self.message))

    def _arrive(self, arrival: Arrival) -> None:
        """Carry a piece of a message over its next link, or let the listener hear it."""
        t_s, _, talk, hops_done, content, goes_out, self.message = arrival
        if isinstance(content, Heard):
            self._hear(t_s, talk, content, goes_out)
            return
        if hops_done == len(talk.hops):
            for _, heard in self._parser(talk, goes_out).feed(content):
                self._hear(t_s, talk, heard, goes_out)
            return
        hop = talk.hops[hops_done] if goes_out else talk.hops[-1 - hops_done]
        if hop.kind == "air":
            self._fly(t_s, talk, hops_done, content, goes_out, hop)
        else:
            self._wire(t_s, talk, hops_done, content, goes_out, hop)

    def _fly(self, t_s: float, talk: TalkDesign, hops_done: int, content: bytes, goes_out: bool, hop: Hop) -> None:
        flight = self.flight(hop.link_id, way_of(hop, goes_out), hop.to_node if goes_out else hop.from_node)
        stage, ref, lost_because, may_not, most_bytes, latency_s, module = flight
        if lost_because is not None:
            self._lose(t_s, stage, ref, lost_because, content)
            return
        if isinstance(module_part := module.part if module is not None else None, ModulePart) and module_part.says_on_link:
            self._greet(t_s, talk, hops_done, goes_out, hop.link_id, module_part.says_on_link)
        lands_s, message = t_s, self.message
        for at in range(0, len(content), most_bytes):
            packet = content[at : at + most_bytes]
            sent, lands_s = packet.hex(), lands_s + latency_s
            self.trace.append(_event((t_s, stage, ref, sent, None, None, "in the air", lands_s, None, message, may_not)))
            if module is not None:
                self.trace.append(_event((lands_s, module.stage, module.id, sent, None, None, "", None, None, message, None)))
            self._push(lands_s, talk, hops_done + 1, packet, goes_out)

    def _greet(self, t_s: float, talk: TalkDesign, hops_done: int, goes_out: bool, link_id: str, text: str) -> None:
        """Let a module say what it says by itself, the first time somebody links to it: it goes down its wire before any word."""
        if link_id in self.linked or hops_done + 1 >= len(talk.hops):
            return
        self.linked.add(link_id)
        asked, self.message = self.message, next(self.messages)
        self.greetings.add(self.message)
        self._push(t_s, talk, hops_done + 1, text.encode("ascii"), goes_out)
        self.message = asked

    def _flight(self, link_id: str, way: Way, to_node: str) -> "_Flight":
        air, passage, to = self.design.airs[link_id], self.design.passages[f"{link_id}.{way}"], self.design.nodes[to_node]
        module = to if to.node.kind == "module" else None
        return _Flight(air.stage, link_id, *lost_or_doubted(passage), air.packet_most_bytes, air.latency.known, module)

    def _wire(self, t_s: float, talk: TalkDesign, hops_done: int, content: bytes, goes_out: bool, hop: Hop) -> None:
        stage, ref, lost_because, may_not, volts, byte_s, module = self.passage(hop.link_id, way_of(hop, goes_out))
        if lost_because is not None:
            self._lose(t_s, stage, ref, lost_because, content)
            return
        start_s, message = max(t_s, self.wire_free_s.get(ref, 0.0)), self.message
        self.trace += [
            _event(
                (
                    start_s + at * byte_s,
                    stage,
                    ref,
                    _HEX[byte],
                    volts,
                    None,
                    "",
                    start_s + (at + 1) * byte_s,
                    None,
                    message,
                    may_not,
                )
            )
            for at, byte in enumerate(content)
        ]
        if hops_done + 1 == len(talk.hops):
            # Bytes of one talk arrive in the order sent, so the listener's parser can run ahead: only whole words wait their turn.
            for taken, heard in self._parser(talk, goes_out).feed(content):
                self._push(start_s + taken * byte_s, talk, hops_done + 1, heard, goes_out)
        else:
            for at in range(len(content)):
                self._push(start_s + (at + 1) * byte_s, talk, hops_done + 1, content[at : at + 1], goes_out)
        ends_s = self.wire_free_s[ref] = start_s + len(content) * byte_s
        if module is not None:
            self.trace.append(_event((ends_s, module.stage, module.id, content.hex(), None, None, "", None, None, message, None)))

    def _passage(self, link_id: str, way: Way) -> "_Passage":
        wire, byte_s = self.design.level(f"{link_id}.{way}"), byte_time_s(self.design.wires[link_id].baud.known)
        if wire is None:
            return _Passage(f"links.{link_id}", f"{link_id}.{way}", NOT_YET, None, 0.0, byte_s, None)
        module = wire.receiver if wire.receiver.node.kind == "module" else None
        told = lost_or_doubted(self.design.passages[wire.id])
        return _Passage(wire.stage, wire.id, *told, wire.received.value or 0.0, byte_s, module)

    def _parser(self, talk: TalkDesign, goes_out: bool) -> Parser:
        self.last_said[talk.id, goes_out] = self.message
        parser = self.parsers.get((talk.id, goes_out))
        if parser is None:
            parser = self.parsers[talk.id, goes_out] = parser_of(talk.vocabulary, "out" if goes_out else "back")
        return parser

    def _lose_unended(self, t_s: float) -> None:
        """Tell of bytes that no ending came for: they wait in the buffer and are no word."""
        for (talk_id, goes_out), parser in self.parsers.items():
            if parser.pending:
                talk, names = self.design.talks[talk_id], " ".join(map(shown, parser.pending))
                stage = talk.vocabulary.stage if goes_out else self.design.nodes[talk.a].stage
                self.message = self.last_said[talk_id, goes_out]
                ending = " ".join(map(shown, talk.vocabulary.terminator))
                self._lose(t_s, stage, talk_id, f"{names} is not whole: {ending} never came", bytes(parser.pending))

    def _hear(self, t_s: float, talk: TalkDesign, heard: Heard, goes_out: bool) -> None:
        listener = talk.b if goes_out else talk.a
        stage = talk.vocabulary.stage if goes_out else self.design.nodes[listener].stage
        word = heard.word
        if word is None:
            names = " ".join(shown(it) for it in heard.taken) or "nothing"
            if self.message in self.greetings:  # said by the module itself, and rightly no word
                self.trace.append(
                    TraceEvent(t_s, stage, talk.id, heard.taken.hex(), says="the module's own, passed over", message=self.message)
                )
                return
            self._lose(t_s, stage, talk.id, f"{names} is no word here", heard.taken)
            return
        self.trace.append(
            _event((t_s, stage, word.id, heard.taken.hex(), None, None, word.label, None, None, self.message, None))
        )
        self._do(t_s, self.deeds.get((listener, word.id, None, None), ()))

    def _do(self, t_s: float, deeds: Sequence[Deed]) -> None:
        for action, say, stage, says, lamps, lost_because in deeds:
            if say is not None:
                self.trace.append(TraceEvent(t_s, stage, say.word, says=says, message=self.message))
                asked, self.message = self.message, next(self.messages)
                self._say(t_s, self.design.talks[say.talk], say.word, say.word)
                self.message = asked
                continue
            ref, states = action.target or "", self.states
            if lost_because is not None:
                self._lose(t_s, stage, ref, lost_because)
                continue
            self.trace.append(_event((t_s, stage, ref, "", None, None, says, None, None, self.message, None)))
            for lamp_id in lamps:
                states[lamp_id] = act(states.get(lamp_id, DARK), action)
                self._light(t_s, lamp_id)

    def _light(self, t_s: float, lamp_id: str) -> None:
        """Set the pins of a lamp, and note current and light of every channel that has numbers."""
        state, append, message = self.states[lamp_id], self.trace.append, self.message
        effects = self.effects.get((lamp_id, state))
        if effects is None:
            effects = self.effects[(lamp_id, state)] = [effect_of(outlet, state) for outlet in self.outlets[lamp_id]]
        for outlet, volts, pin_duty, duty, current_a, seen, flow in effects:
            is_lost_before = False
            for stage, says in outlet.bus:
                is_lost_before = outlet.lost_at == stage
                if not is_lost_before:
                    append(_event((t_s, stage, outlet.signal_id, "", None, None, says, None, None, message, None)))
            if outlet.lost_at != outlet.pin_stage and not is_lost_before:
                append(
                    _event((t_s, outlet.pin_stage, outlet.signal_id, "", volts, None, outlet.pin, None, pin_duty, message, None))
                )
            if current_a is None:
                # What never lights is told where it should; putting it out needs no telling.
                if duty:
                    self._lose(t_s, outlet.lost_at or outlet.stage, outlet.signal_id, outlet.because)
                continue
            self.lamps[outlet.signal_id].append(_point((t_s, current_a, seen)))
            may_not = outlet.may_not if duty else None
            append(_event((t_s, outlet.stage, outlet.signal_id, "", None, None, flow, None, duty, message, may_not)))
        if not effects:
            lamp = self.design.lamps[lamp_id]
            blocked = next((it.because for it in self.design.passages_of(lamp) if it.verdict == "does not"), None)
            self._lose(t_s, lamp.stage, lamp_id, blocked or lamp.open_because or NOT_YET)


class _Flight(NamedTuple):
    """What a run needs to know of one way through the air."""

    stage: str
    ref: str
    lost_because: str | None
    may_not: str | None
    most_bytes: int
    latency_s: float
    module: NodeDesign | None


class _Passage(NamedTuple):
    """What a run needs to know of one way over a wire."""

    stage: str
    ref: str
    lost_because: str | None
    may_not: str | None
    volts: float
    byte_s: float
    module: NodeDesign | None
