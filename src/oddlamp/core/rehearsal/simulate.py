"""The rehearsal: plan and events in, the whole course out. A pure function, so that a run can be kept and compared."""

import heapq
from collections.abc import Callable, Sequence
from functools import cache, partial
from itertools import count
from operator import itemgetter
from typing import Final, NamedTuple

from oddlamp.core.base import inner, si
from oddlamp.core.behaviour.lights import LampState, act, seen_light, step_duty
from oddlamp.core.checks.words import sent_bytes
from oddlamp.core.design import ControlDesign, Design, Hop, LampDesign, NodeDesign, TalkDesign
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.fields import Saying
from oddlamp.core.plan.model import Action, Plan
from oddlamp.core.plan.text import ENDINGS, bytes_of, shown
from oddlamp.core.rehearsal.events import ControlEvent, Event, InputEvent, LineEvent, WordEvent
from oddlamp.core.rehearsal.trace import LampPoint, Trace, TraceEvent
from oddlamp.core.resolve import resolve
from oddlamp.core.values import NOT_YET
from oddlamp.core.words.framing import Heard, Parser, byte_time_s

MOST_MESSAGES: Final = 50_000
DARK: Final = LampState()
_HEX: Final = tuple(f"{byte:02x}" for byte in range(256))
# A named tuple made from a row at once, a third of the time that naming its fields takes: the many events of a run are.
Row = tuple[float, str, str, str, float | None, str | None, str, float | None, float | None, int]
_event: Final[Callable[[Row], TraceEvent]] = partial(tuple.__new__, TraceEvent)
_point: Final[Callable[[tuple[float, float, float]], LampPoint]] = partial(tuple.__new__, LampPoint)
Arrival = tuple[float, int, TalkDesign, int, bytes | Heard, bool, int]


def rehearse(plan: Plan, catalog: Catalog, events: Sequence[Event]) -> Trace:
    """Play events through a plan, byte by byte, from the hand to the light.

    Every radio takes its typical latency, every host acts the moment a word is whole. Bytes on a wire
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
        self.wire_free_s: dict[str, float] = {}
        self.queue: list[Arrival] = []
        self.order = count()
        self.messages = count(1)
        self.message = 0
        self.controls = {control.id: control for handset in design.handsets.values() for control in handset.controls}
        self.outlets = {lamp.id: _outlets(design, lamp) for lamp in design.lamps.values()}
        self.deeds: dict[tuple[str, str | None, str | None, str | None], list[_Deed]] = {}
        for rule in design.plan.rules.values():
            mine = self.deeds.setdefault((rule.host, rule.when.heard, rule.when.input, rule.when.event), [])
            mine += [_deed(design, rule.host, action) for action in rule.do]
        # The same few links and words come up thousands of times in a run: each is looked up once.
        self.flight, self.passage, self.content = cache(self._flight), cache(self._passage), cache(self._content)
        self.effects: dict[tuple[str, LampState], list[_Effect]] = {}
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
                self.trace.append(
                    TraceEvent(event.t_s, f"inputs.{event.input}", event.input, says=event.event, message=self.message)
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
        # A line ending is the phone's habit; any other terminator is typed with the word.
        typed = b"" if vocabulary.terminator in ENDINGS.values() else vocabulary.terminator
        return sent_bytes(word, handset) + typed + ENDINGS[handset.appends.id], True

    def _send(self, t_s: float, talk: TalkDesign, content: bytes, what: str, *, goes_out: bool) -> None:
        if not content:
            return
        start = self.design.nodes[talk.a if goes_out else talk.b]
        self.trace.append(_event((t_s, start.stage, talk.id, content.hex(), None, None, what, None, None, self.message)))
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
        flight = self.flight(hop.link_id, hop.to_node if goes_out else hop.from_node)
        stage, ref, lost_because, most_bytes, latency_s, module = flight
        if lost_because is not None:
            self._lose(t_s, stage, ref, lost_because, content)
            return
        lands_s, message = t_s, self.message
        for at in range(0, len(content), most_bytes):
            packet = content[at : at + most_bytes]
            sent, lands_s = packet.hex(), lands_s + latency_s
            self.trace.append(_event((t_s, stage, ref, sent, None, None, "in the air", lands_s, None, message)))
            if module is not None:
                self.trace.append(_event((lands_s, module.stage, module.id, sent, None, None, "", None, None, message)))
            self._push(lands_s, talk, hops_done + 1, packet, goes_out)

    def _flight(self, link_id: str, to_node: str) -> "_Flight":
        air, link, nodes = self.design.airs[link_id], self.design.plan.links[link_id], self.design.nodes
        lost_because = None
        for end in (link.b, link.a):
            handset, part = self.design.handsets.get(end), nodes[end].part
            if air.radio not in (handset.speaks if handset else part.radios if part else ()):
                lost_because = f"the {inner(nodes[end].label)} does not speak this radio"
        to = nodes[to_node]
        module = to if to.node.kind == "module" else None
        return _Flight(air.stage, link_id, lost_because, air.packet_most_bytes, air.latency.known, module)

    def _wire(self, t_s: float, talk: TalkDesign, hops_done: int, content: bytes, goes_out: bool, hop: Hop) -> None:
        way = hop.way if goes_out else ("b_to_a" if hop.way == "a_to_b" else "a_to_b")
        stage, ref, lost_because, volts, byte_s, module = self.passage(hop.link_id, way)
        if lost_because is not None:
            self._lose(t_s, stage, ref, lost_because, content)
            return
        start_s, message = max(t_s, self.wire_free_s.get(ref, 0.0)), self.message
        self.trace += [
            _event((start_s + at * byte_s, stage, ref, _HEX[byte], volts, None, "", start_s + (at + 1) * byte_s, None, message))
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
            self.trace.append(_event((ends_s, module.stage, module.id, content.hex(), None, None, "", None, None, message)))

    def _passage(self, link_id: str, way: str) -> "_Passage":
        crossing = self.design.crossings[f"{link_id}.{way}"]
        got, high = crossing.received.value, crossing.high.value
        lost_because = None
        if crossing.is_omitted or got is None or high is None:
            lost_because = crossing.received.because or NOT_YET
        elif got < high:
            lost_because = f"{crossing.received.text} never counts as high, that begins at {crossing.high.text}"
        module = crossing.receiver if crossing.receiver.node.kind == "module" else None
        byte_s = byte_time_s(self.design.wires[link_id].baud.known)
        return _Passage(crossing.stage, crossing.id, lost_because, got or 0.0, byte_s, module)

    def _parser(self, talk: TalkDesign, goes_out: bool) -> Parser:
        parser = self.parsers.get((talk.id, goes_out))
        if parser is None:
            direction = "out" if goes_out else "back"
            words = {word.content: word for word in reversed(talk.vocabulary.words) if word.direction == direction}
            parser = self.parsers[(talk.id, goes_out)] = Parser(words, talk.vocabulary.terminator)
        return parser

    def _hear(self, t_s: float, talk: TalkDesign, heard: Heard, goes_out: bool) -> None:
        listener = talk.b if goes_out else talk.a
        stage = talk.vocabulary.stage if goes_out else self.design.nodes[listener].stage
        word = heard.word
        if word is None:
            names = " ".join(shown(it) for it in heard.taken) or "nothing"
            self._lose(t_s, stage, talk.id, f"{names} is no word here", heard.taken)
            return
        self.trace.append(_event((t_s, stage, word.id, heard.taken.hex(), None, None, word.label, None, None, self.message)))
        self._do(t_s, self.deeds.get((listener, word.id, None, None), ()))

    def _do(self, t_s: float, deeds: Sequence["_Deed"]) -> None:
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
            self.trace.append(_event((t_s, stage, ref, "", None, None, says, None, None, self.message)))
            for lamp_id in lamps:
                states[lamp_id] = act(states.get(lamp_id, DARK), action)
                self._light(t_s, lamp_id)

    def _light(self, t_s: float, lamp_id: str) -> None:
        """Set the pins of a lamp, and note current and light of every channel that has numbers."""
        state, append, message = self.states[lamp_id], self.trace.append, self.message
        effects = self.effects.get((lamp_id, state))
        if effects is None:
            effects = self.effects[(lamp_id, state)] = [_effect(outlet, state) for outlet in self.outlets[lamp_id]]
        for outlet, volts, pin_duty, duty, current_a, seen, flow in effects:
            append(_event((t_s, outlet.pin_stage, outlet.signal_id, "", volts, None, outlet.pin, None, pin_duty, message)))
            if current_a is None:
                self._lose(t_s, outlet.stage, outlet.signal_id, outlet.because)
                continue
            self.lamps[outlet.signal_id].append(_point((t_s, current_a, seen)))
            append(_event((t_s, outlet.stage, outlet.signal_id, "", None, None, flow, None, duty, message)))
        if not effects:
            lamp = self.design.lamps[lamp_id]
            self._lose(t_s, lamp.stage, lamp_id, lamp.open_because or NOT_YET)


def _effect(outlet: "_Outlet", state: LampState) -> "_Effect":
    duty = step_duty(state.share(outlet.channel_id))
    # A common anode is lit by a low pin: the share of time the pin is high is the rest.
    pin_duty = 1.0 - duty if outlet.is_inverted else duty
    volts = None if outlet.high_v is None else pin_duty * outlet.high_v
    if outlet.current_a is None:
        return _Effect(outlet, volts, pin_duty, duty, None, 0.0, "")
    current_a = duty * outlet.current_a
    flow = si(current_a, "A") if current_a else "dark"
    return _Effect(outlet, volts, pin_duty, duty, current_a, seen_light(current_a / outlet.wanted_a), flow)


class _Flight(NamedTuple):
    """What a run needs to know of one way through the air."""

    stage: str
    ref: str
    lost_because: str | None
    most_bytes: int
    latency_s: float
    module: NodeDesign | None


class _Passage(NamedTuple):
    """What a run needs to know of one way over a wire."""

    stage: str
    ref: str
    lost_because: str | None
    volts: float
    byte_s: float
    module: NodeDesign | None


class _Deed(NamedTuple):
    """What one action of a rule comes to."""

    action: Action
    say: Saying | None
    stage: str
    says: str
    lamps: tuple[str, ...]
    lost_because: str | None


def _deed(design: Design, host: str, action: Action) -> _Deed:
    lost_because = None
    if action.verb == "cue" or (action.values is not None and action.values.level == "input"):
        lost_because = f"{'cues' if action.verb == 'cue' else 'levels from an input'}: {NOT_YET}"
    say = action.say if action.verb == "say" else None
    says = f"says {say.word}" if say is not None else f"{action.verb} {action.target}"
    return _Deed(action, say, f"rules.{host}", says, design.targets(action.target), lost_because)


class _Effect(NamedTuple):
    """What one state of a lamp does to one channel."""

    outlet: "_Outlet"
    volts: float | None
    pin_duty: float
    duty: float
    current_a: float | None
    seen: float
    flow: str


class _Outlet(NamedTuple):
    """What a run needs to know of a channel, looked up once."""

    channel_id: str
    signal_id: str
    is_inverted: bool
    stage: str
    pin_stage: str
    pin: str
    high_v: float | None
    current_a: float | None
    wanted_a: float
    because: str


def _outlets(design: Design, lamp: LampDesign) -> tuple[_Outlet, ...]:
    logic = design.nodes[lamp.host].logic
    high_v = logic.value if logic else None
    if lamp.load is not None and lamp.school is not None:
        signal_id, load = f"{lamp.id}.main", lamp.load
        pin = design.pins.get(signal_id)
        label = f"pin {pin.label if pin and pin.label else '?'}"
        # An opto-input is on when its pin is low, as is a lamp on a common anode.
        is_inverted, current_a = load.on_when == "low", load.current.value
        because = load.current.because or NOT_YET
        return (
            _Outlet(
                "main",
                signal_id,
                is_inverted,
                lamp.stage,
                f"pins.{lamp.host}",
                label,
                high_v,
                current_a,
                current_a or 1.0,
                because,
            ),
        )
    return tuple(
        _Outlet(
            channel.id,
            channel.signal_id,
            channel.is_inverted,
            lamp.stage,
            f"pins.{lamp.host}",
            f"pin {pin.label if (pin := design.pins.get(channel.signal_id)) and pin.label else '?'}",
            high_v,
            channel.current.value,
            channel.wanted.known,
            channel.current.because or NOT_YET,
        )
        for channel in lamp.channels
    )
