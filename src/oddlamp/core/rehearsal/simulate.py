"""The rehearsal: plan and events in, the whole course out. A pure function, so that a run can be kept and compared."""

import heapq
from collections.abc import Sequence
from itertools import count
from operator import itemgetter
from typing import Final, NamedTuple

from oddlamp.core.base import inner, si
from oddlamp.core.behaviour.lights import LampState, act, seen_light, step_duty
from oddlamp.core.checks.words import sent_bytes
from oddlamp.core.design import ControlDesign, Design, Hop, LampDesign, TalkDesign
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.model import Action, Plan
from oddlamp.core.plan.text import ENDINGS, bytes_of, shown
from oddlamp.core.rehearsal.events import ControlEvent, Event, InputEvent, LineEvent, WordEvent
from oddlamp.core.rehearsal.trace import LampPoint, Trace, TraceEvent
from oddlamp.core.resolve import resolve
from oddlamp.core.values import NOT_YET
from oddlamp.core.words.framing import Heard, Parser, byte_time_s

MOST_MESSAGES: Final = 50_000
_HEX: Final = tuple(f"{byte:02x}" for byte in range(256))
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
        self.wire_free_s: dict[tuple[str, str], float] = {}
        self.queue: list[Arrival] = []
        self.order = count()
        self.messages = count(1)
        self.message = 0
        self.controls = {control.id: control for handset in design.handsets.values() for control in handset.controls}
        self.outlets = {lamp.id: _outlets(design, lamp) for lamp in design.lamps.values()}
        self.heard_by = {host: design.rules_of(host) for host in design.nodes}
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
                for _, rule in self.heard_by[host]:
                    if rule.when.input == event.input and rule.when.event == event.event:
                        self._do(event.t_s, host, rule.do)

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
        """Send a word with its ending: a phone adds what it adds, a board's program what the words want."""
        vocabulary = talk.vocabulary
        word = vocabulary.word(word_id)
        handset = self.design.handsets.get(talk.a)
        goes_out = word.direction == "out"
        if handset is None or not goes_out:
            content = word.content + vocabulary.terminator
        else:
            # A line ending is the phone's habit; any other terminator is typed with the word.
            typed = b"" if vocabulary.terminator in ENDINGS.values() else vocabulary.terminator
            content = sent_bytes(word, handset) + typed + ENDINGS[handset.appends.id]
        self._send(t_s, talk, content, what, goes_out=goes_out)

    def _send(self, t_s: float, talk: TalkDesign, content: bytes, what: str, *, goes_out: bool) -> None:
        if not content:
            return
        start = self.design.nodes[talk.a if goes_out else talk.b]
        self.trace.append(TraceEvent(t_s, start.stage, talk.id, content.hex(), says=what, message=self.message))
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
        air = self.design.airs[hop.link_id]
        link = self.design.plan.links[hop.link_id]
        for end in (link.a, link.b):
            radios = (
                self.design.handsets[end].speaks
                if end in self.design.handsets
                else (part.radios if (part := self.design.nodes[end].part) else ())
            )
            if air.radio not in radios:
                self._lose(
                    t_s, air.stage, hop.link_id, f"the {inner(self.design.nodes[end].label)} does not speak this radio", content
                )
                return
        for at in range(0, len(content), air.packet_most_bytes):
            packet = content[at : at + air.packet_most_bytes]
            lands_s = t_s + air.latency.known * (at // air.packet_most_bytes + 1)
            self.trace.append(
                TraceEvent(t_s, air.stage, hop.link_id, packet.hex(), says="in the air", until_s=lands_s, message=self.message)
            )
            to = self.design.nodes[hop.to_node if goes_out else hop.from_node]
            if to.node.kind == "module":
                self.trace.append(TraceEvent(lands_s, to.stage, to.id, packet.hex(), message=self.message))
            self._push(lands_s, talk, hops_done + 1, packet, goes_out)

    def _wire(self, t_s: float, talk: TalkDesign, hops_done: int, content: bytes, goes_out: bool, hop: Hop) -> None:
        way = hop.way if goes_out else ("b_to_a" if hop.way == "a_to_b" else "a_to_b")
        crossing = self.design.crossings[f"{hop.link_id}.{way}"]
        got, high = crossing.received.value, crossing.high.value
        if crossing.is_omitted or got is None or high is None:
            self._lose(t_s, crossing.stage, crossing.id, crossing.received.because or NOT_YET, content)
            return
        if got < high:
            self._lose(
                t_s,
                crossing.stage,
                crossing.id,
                f"{crossing.received.text} never counts as high, that begins at {crossing.high.text}",
                content,
            )
            return
        byte_s = byte_time_s(self.design.wires[hop.link_id].baud.known)
        free_s = self.wire_free_s.get((hop.link_id, way), 0.0)
        start_s = t_s if t_s > free_s else free_s
        stage, ref, message = crossing.stage, crossing.id, self.message
        self.trace += [
            TraceEvent(start_s + at * byte_s, stage, ref, _HEX[byte], got, None, "", start_s + (at + 1) * byte_s, None, message)
            for at, byte in enumerate(content)
        ]
        if hops_done + 1 == len(talk.hops):
            # Bytes of one talk arrive in the order sent, so the listener's parser can run ahead: only whole words wait their turn.
            for taken, heard in self._parser(talk, goes_out).feed(content):
                self._push(start_s + taken * byte_s, talk, hops_done + 1, heard, goes_out)
        else:
            for at in range(len(content)):
                self._push(start_s + (at + 1) * byte_s, talk, hops_done + 1, content[at : at + 1], goes_out)
        ends_s = start_s + len(content) * byte_s
        self.wire_free_s[(hop.link_id, way)] = ends_s
        if crossing.receiver.node.kind == "module":
            self.trace.append(TraceEvent(ends_s, crossing.receiver.stage, crossing.receiver.id, content.hex(), message=message))

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
        self.trace.append(TraceEvent(t_s, stage, word.id, heard.taken.hex(), says=word.label, message=self.message))
        for _, rule in self.heard_by[listener]:
            if rule.when.heard == word.id:
                self._do(t_s, listener, rule.do)

    def _do(self, t_s: float, host: str, actions: tuple[Action, ...]) -> None:
        for action in actions:
            if action.verb == "say" and action.say is not None:
                self.trace.append(
                    TraceEvent(t_s, f"rules.{host}", action.say.word, says=f"says {action.say.word}", message=self.message)
                )
                asked, self.message = self.message, next(self.messages)
                self._say(t_s, self.design.talks[action.say.talk], action.say.word, action.say.word)
                self.message = asked
                continue
            if action.verb == "cue" or (action.values is not None and action.values.level == "input"):
                self._lose(
                    t_s,
                    f"rules.{host}",
                    action.target or "",
                    f"{'cues' if action.verb == 'cue' else 'levels from an input'}: {NOT_YET}",
                )
                continue
            self.trace.append(
                TraceEvent(t_s, f"rules.{host}", action.target or "", says=f"{action.verb} {action.target}", message=self.message)
            )
            for lamp_id in self.design.targets(action.target):
                self.states[lamp_id] = act(self.states.get(lamp_id, LampState()), action)
                self._light(t_s, lamp_id)

    def _light(self, t_s: float, lamp_id: str) -> None:
        """Set the pins of a lamp, and note current and light of every channel that has numbers."""
        state, append, message = self.states[lamp_id], self.trace.append, self.message
        effects = self.effects.get((lamp_id, state))
        if effects is None:
            effects = self.effects[(lamp_id, state)] = [_effect(outlet, state) for outlet in self.outlets[lamp_id]]
        for outlet, volts, pin_duty, duty, current_a, seen, flow in effects:
            append(TraceEvent(t_s, outlet.pin_stage, outlet.signal_id, "", volts, None, outlet.pin, None, pin_duty, message))
            if current_a is None:
                self._lose(t_s, outlet.stage, outlet.signal_id, outlet.because)
                continue
            self.lamps[outlet.signal_id].append(LampPoint(t_s, current_a, seen))
            append(TraceEvent(t_s, outlet.stage, outlet.signal_id, "", None, None, flow, None, duty, message))
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
