"""The way from a hand to one lamp: what is pressed, what it runs through, and which faults there is a place for on it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Final, TypeVar

from oddlamp.core.bench.circuit import Circuit, Piece
from oddlamp.core.bench.faults import Finder
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.step import Step
from oddlamp.core.bench.steps import steps_of
from oddlamp.core.bench.wiring import Wiring, wiring
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.supplies import NodeDesign, RailDesign
from oddlamp.core.design.talks import Hop, TalkDesign
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.rehearsal.events import ControlEvent, Event, InputEvent, WordEvent
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.rehearsal.trace import Trace

PRESS_S: Final = 1.0
APART_S: Final = 20.0
TRIED_MOST: Final = 24
LIT_RATIO: Final = 0.05
LIT_KINDS: Final = frozenset({"led", "rgb", "strip", *PIXEL_KINDS})

Point = TypeVar("Point", bound=tuple[Any, ...])


@dataclass(frozen=True)
class Way:
    """One lamp and what leads to it.

    ``press`` lights it from afar, ``local`` by an input of its own board; ``to_module`` and ``to_board`` are the serial
    lines between the board and its module, ``line`` that of the lamp's pin.
    """

    design: Design
    circuit: Circuit
    of: Wiring
    lamp: LampDesign
    channel: str
    press: Event | None
    local: Event | None
    talk: TalkDesign | None

    @property
    def line(self) -> str:
        """The line of the lamp's first pin."""
        if self.lamp.kind in PIXEL_KINDS:
            return f"{self.lamp.id}.data"
        return f"{self.lamp.id}.{self.channel}"

    @cached_property
    def finder(self) -> Finder:
        """Usual faults of the circuit, and the circuit with one in it."""
        return Finder(self.design, self.of)

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """The bring-up steps of its plan."""
        return steps_of(self.design, self.of, "mock_up")

    @property
    def host(self) -> NodeDesign:
        """The board, or the module, that drives the lamp."""
        return self.design.nodes[self.lamp.host]

    @property
    def rail(self) -> RailDesign | None:
        """What feeds the host."""
        return self.design.rails.get(self.host.rail_id or "")

    @cached_property
    def wire(self) -> Hop | None:
        """The serial wire that ends at the host."""
        hops = self.talk.hops if self.talk is not None else ()
        return next((it for it in hops if it.kind == "wire" and self.lamp.host in (it.from_node, it.to_node)), None)

    @cached_property
    def air(self) -> str:
        """The radio link nearest to the host; empty where there is none."""
        hops = self.talk.hops if self.talk is not None else ()
        return next((it.link_id for it in reversed(hops) if it.kind == "air"), "")

    @cached_property
    def module(self) -> NodeDesign | None:
        """The module that the host talks to, or that it is."""
        if self.host.node.kind == "module":
            return self.host
        if self.wire is None:
            return None
        other = self.wire.to_node if self.wire.from_node == self.lamp.host else self.wire.from_node
        node = self.design.nodes[other]
        return node if node.node.kind == "module" else None

    @property
    def dialect(self) -> Dialect | None:
        """How that module talks."""
        return dialect_of(self.design, self.module) if self.module is not None else None

    def _serial(self, receiver: str | None) -> str:
        if self.wire is None or receiver is None:
            return ""
        return next(
            (it for it, signal in self.design.signals.items() if signal.line.kind == "wire" and signal.line.owner_id == self.wire.link_id and signal.line.receiver == receiver and not signal.line.is_usb),
            "",
        )  # fmt: skip

    @cached_property
    def to_module(self) -> str:
        """The line on which the module listens; empty where there is none."""
        found = self._serial(self.module.id if self.module is not None and self.module is not self.host else None)
        level = self.design.level(found) if found else None
        return "" if level is None or level.is_omitted else found

    @cached_property
    def to_board(self) -> str:
        """The line on which the board listens."""
        return self._serial(self.lamp.host if self.module is not None and self.module is not self.host else None)

    @property
    def is_board(self) -> bool:
        """Whether a board drives the lamp, and no module by itself."""
        return self.host.node.kind == "board"

    @property
    def is_pixels(self) -> bool:
        """Whether the lamp is a chain that is told what to show."""
        return self.lamp.kind in PIXEL_KINDS

    @property
    def is_chain(self) -> bool:
        """Whether it is a chain of more than one such."""
        return self.is_pixels and self.lamp.load is not None and self.lamp.load.pixels > 1

    @property
    def is_by_phone(self) -> bool:
        """Whether a phone talks to it."""
        handset = self.design.handsets.get(self.talk.a) if self.talk is not None else None
        return handset is not None and handset.kind == "phone"

    @property
    def has_module(self) -> bool:
        """Whether a module of its own stands between the air and the board."""
        return self.module is not None and self.module is not self.host and self.dialect is not None

    @property
    def is_asked(self) -> bool:
        """Whether a module of its own answers to AT."""
        return self.has_module and self.dialect is not None and any(it.send == "AT" for it in self.dialect.commands)

    @property
    def has_words(self) -> bool:
        """Whether a board's own program hears words of a phone that light the lamp."""
        return (
            self.press is not None
            and self.is_by_phone
            and self.is_board
            and self.talk is not None
            and self.talk.vocabulary.dialect is None
        )

    @cached_property
    def input_id(self) -> str:
        """The input that lights the lamp; empty where there is none."""
        return self.local.input.partition(".")[0] if isinstance(self.local, InputEvent) else ""

    @cached_property
    def entry(self) -> str:
        """The line of that input."""
        return next(
            (it for it, s in self.design.signals.items() if s.line.kind == "input" and s.line.owner_id == self.input_id), ""
        )

    @property
    def has_contact(self) -> bool:
        """Whether that input is a contact, as of a button or a switch."""
        return bool(self.entry) and any(it.kind == "contact" for it in self.pieces(self.entry))

    @property
    def has_knob(self) -> bool:
        """Whether that input is turned, and a phone sets the same lamp."""
        return (
            self.press is not None
            and self.input_id in self.design.plan.inputs
            and self.design.plan.inputs[self.input_id].is_analog
        )

    def pieces(self, line: str) -> list[Piece]:
        """List the parts of the circuit around a line."""
        nets = [net for net in self.circuit.nets if net.id.partition(":")[0] == line]
        return [self.circuit.pieces[it] for it in dict.fromkeys(tap.piece for net in nets for tap in net.taps)]

    @cached_property
    def others(self) -> tuple[str, ...]:
        """Other lamps on the same board."""
        return tuple(it.id for it in self.design.lamps.values() if it.host == self.lamp.host and it.id != self.lamp.id)


def looks_lit(trace: Trace, lamp: LampDesign, from_s: float, until_s: float = float("inf")) -> bool:
    """Tell whether any light of a lamp is on at some time of a span."""
    if lamp.kind in PIXEL_KINDS:
        points = trace.pixels.get(lamp.id, ())
        return any(any(ch != "0" for ch in it.shows) for it in _within(points, from_s, until_s))
    return any(
        it.light_ratio > LIT_RATIO
        for name, points in trace.lamps.items()
        if name.partition(".")[0] == lamp.id
        for it in _within(points, from_s, until_s)
    )


def _within(points: Sequence[Point], from_s: float, until_s: float) -> Iterator[Point]:
    """Yield what stands at the beginning of a span, and all that comes in it."""
    before = None
    for it in points:
        if it[0] <= from_s:
            before = it
        elif it[0] < until_s:
            if before is not None:
                yield before
                before = None
            yield it
    if before is not None:
        yield before


def ways_of(design: Design) -> tuple[Way, ...]:
    """List the ways of a plan that a rehearsal lights, one for each lamp; raises nothing: what stays dark is left out."""
    circuit = netlist(design)
    of = wiring(design, circuit)
    afar, near = _presses(design), _inputs(design)
    events = [event.model_copy(update={"t_s": PRESS_S + APART_S * at}) for at, event in enumerate((*afar, *near))]
    if not events or not design.lamps:
        return ()
    trace = rehearse_design(design, events)
    found = []
    for lamp in design.lamps.values():
        if lamp.kind not in LIT_KINDS:
            continue
        presses = [it for it in afar if not isinstance(it, InputEvent) or design.plan.inputs[it.input.partition(".")[0]].host != lamp.host]  # fmt: skip
        press = _lights(trace, lamp, events, afar, presses)
        local = _lights(trace, lamp, events, (*afar, *near), [it for it in near if design.plan.inputs[it.input.partition(".")[0]].host == lamp.host])  # fmt: skip
        if press is None and local is None:
            continue
        talk = next((it for it in design.talks.values() if lamp.host in (it.a, it.b)), None)
        channel = next(iter(lamp.channels)).id if lamp.channels else "main"
        found.append(Way(design, circuit, of, lamp, channel, press, local, talk))
    return tuple(found)


def way_of(design: Design, lamp_id: str) -> Way:
    """Return the way to one lamp; raises OutOfRange where nothing that is pressed lights it in a rehearsal."""
    ways = {it.lamp.id: it for it in ways_of(design)}
    if lamp_id not in ways:
        raise OutOfRange(field="lamp", given=lamp_id[:60], allowed="a lamp that something lights in a rehearsal: " + (", ".join(ways)[:300] or "none here"))  # fmt: skip
    return ways[lamp_id]


def _lights(
    trace: Trace, lamp: LampDesign, events: Sequence[Event], untimed: Sequence[Event], ones: Sequence[Event]
) -> Event | None:
    """Return the first event after which a dark lamp is lit."""
    for at, it in enumerate(untimed):
        t_s = events[at].t_s
        if it in ones and not looks_lit(trace, lamp, t_s - 1e-3, t_s) and looks_lit(trace, lamp, t_s, t_s + APART_S - 1e-3):
            return it
    return None


def _presses(design: Design) -> list[Event]:
    """List what may be pressed far from the boards: controls, words of boards, and inputs of boards that talk to others."""
    found: list[Event] = []
    for handset in design.handsets.values():
        for control in handset.controls:
            gesture = next(iter(control.says), None)
            if gesture is not None and control.kind != "key":
                talk, word = control.says[gesture]
                asked = [
                    it
                    for it in design.talks[talk].vocabulary.word(word).parameters
                    if gesture == "move" or it.id not in control.fills.get(gesture, {})
                ]
                values = {it.id: it.at_most for it in asked}  # what is slid goes all the way up
                found.append(ControlEvent(kind="control", t_s=0, control=control.id, node=handset.id, gesture=gesture, values=values))  # fmt: skip
    if not found:
        found += _inputs(design)
        found += [
            WordEvent(kind="word", t_s=0, talk=talk.id, word=word.id)
            for talk in design.talks.values()
            for word in talk.vocabulary.words
            if word.direction == "out"
        ]
    return found[:TRIED_MOST]


def _inputs(design: Design) -> list[InputEvent]:
    found = []
    for name, it in design.plan.inputs.items():
        if it.kind in ("button", "switch", "knob", "sensor"):
            does = "moved" if it.is_analog else "pressed" if it.kind == "button" else "on"
            value = 0.9 if does == "moved" else None
            found.append(InputEvent.model_validate({"kind": "input", "t_s": 0, "input": name, "event": does, "value": value}))
    return found[:TRIED_MOST]
