"""What a fault does to a simulated build, and how each kind of it is put in.

A fault is in the circuit, which the nodal solver then solves; in what the module keeps or does, which its stand-in then says;
in what the phone sends or the program is, which the rehearsal then plays; or in how a terminal is set.
"""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Final, Literal, NamedTuple

from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.devices import HEALTHY, Fault
from oddlamp.core.bench.layers import is_bar
from oddlamp.core.finding.states import Mark
from oddlamp.core.finding.way import Way
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.resolve.strips import thinner

THIN_RATIOS: Final = (2.0, 4.0, 8.0, 16.0, 32.0, 64.0)  # times the ohms that the rails of a chain should have


# What carries a fault: where that is swapped for a good one, the fault is gone. A rule is what a program does with one lamp.
Part = Literal[
    "lamp", "resistor", "switch", "wire", "pin", "supply", "module", "phone", "air", "program", "rule", "input", "terminal"
]


class Broken(NamedTuple):
    """What is wrong with a build: which cause it is, at which place, what it does to the circuit, and what else is so.

    ``place`` is the stage of the line it is at, ``part`` what carries it; ``marks`` say what is wrong outside the circuit, which
    ``states`` reads; ``is_loose`` that it comes and goes; ``source_ohm`` what the supply resists inside. ``parts`` are the
    single faults of a build that has several. Cause and part are told by the table.
    """

    place: str
    fault: Fault = HEALTHY
    marks: frozenset[Mark] = frozenset()
    is_loose: bool = False
    source_ohm: float = 0.0
    cause: str = ""
    part: Part = "wire"
    parts: "tuple[Broken, ...]" = ()

    @property
    def each(self) -> "tuple[Broken, ...]":
        """The single faults."""
        return self.parts or ((self,) if self.cause else ())

    def without(self, gone: "Callable[[Broken], bool]") -> "Broken":
        """Take some of what is wrong away."""
        return together(*(it for it in self.each if not gone(it)))

    def tight(self) -> "Broken":
        """Return it at a moment when what is loose is off."""
        return together(*(it._replace(is_loose=False) for it in self.each))


WHOLE: Final = Broken("")
Put = Callable[[Way], Broken | None]


def together(*ones: Broken) -> Broken:
    """Put several faults into one build; what is loose is not off at the moment."""
    if len(ones) < 2:
        return ones[0] if ones else WHOLE
    fault = HEALTHY
    for one in (it.fault for it in ones if not it.is_loose):
        fault = replace(
            fault,
            kind="several" if fault is not HEALTHY else one.kind,
            open=fault.open | one.open,
            shorted=fault.shorted | one.shorted,
            turned=fault.turned | one.turned,
            factor={**fault.factor, **one.factor},
            lost=fault.lost | one.lost,
            moved={**fault.moved, **one.moved},
            rails={**fault.rails, **one.rails},
            dead=fault.dead | one.dead,
        )
    return Broken(
        ones[0].place,
        fault,
        frozenset(mark for it in ones for mark in it.marks),
        any(it.is_loose for it in ones),
        sum(it.source_ohm for it in ones),
        " and ".join(it.cause for it in ones),
        parts=ones,
    )


def _usual(way: Way, place: str, line: str, kind: str, wanted: Callable[[str], bool] = lambda _: True) -> Broken | None:  # fmt: skip
    """Put in a usual fault of the circuit around a line."""
    found = next((it for it in way.finder.around(line) if it.kind == kind and wanted(it.at)), None) if line else None
    return None if found is None else Broken(place, found)


def is_lit_by_resistor(way: Way) -> bool:
    """Tell whether LEDs hang on the lamp's line."""
    return any(it.kind == "lamp" for it in way.pieces(way.line))


def turned_led(way: Way) -> Broken | None:
    """An LED of two legs the wrong way round; one of more does not fit so."""
    is_plain = any(it.kind == "lamp" and it.curve is not None for it in way.pieces(way.line))
    return at_led("lamp turned")(way) if is_plain else None


def at_led(kind: str) -> Put:
    """A fault of an LED."""
    return lambda way: _usual(way, way.lamp.stage, way.line, kind) if is_lit_by_resistor(way) else None


def at_resistor(kind: str) -> Put:
    """A fault of the resistor that an LED's current runs through."""

    def put(way: Way) -> Broken | None:
        names = {it.id for it in way.pieces(way.line) if it.id.rpartition(".")[2].startswith("resistor")}
        alike = names | {it.alike for it in way.pieces(way.line) if it.id in names}
        return _usual(way, way.lamp.stage, way.line, kind, alike.__contains__) if is_lit_by_resistor(way) else None

    return put


def at_switch(kind: str) -> Put:
    """A fault of the transistor that drives the lamp."""
    return lambda way: _usual(way, way.lamp.stage, way.line, kind)


def lamp_wire(way: Way) -> Broken | None:
    """The wire from the pin to the lamp, off."""
    return _usual(way, way.lamp.stage, way.line, "wire off", lambda at: at.startswith(f"{way.lamp.host}."))


def hung(kind: str) -> Put:
    """A lamp that has lost its ground or its supply, at every pin of it."""

    def put(way: Way) -> Broken | None:
        for piece in way.pieces(way.line):
            taps = [Tap(piece.id, pin) for pin in piece.pins if piece.kind in ("lamp", "load")]
            lost = frozenset(it for it in taps if (net := way.circuit.net_of.get(it)) is not None and net.kind == kind)
            if lost:
                fault = Fault(f"{kind} off", min(lost).piece, f"{way.lamp.label} has no {kind}", lost=lost)
                return Broken(way.lamp.stage, fault)
        return None

    return put


def common_off(way: Way) -> Broken | None:
    """The end of an LED that does not go to its resistor."""
    for piece in way.pieces(way.line):
        if piece.kind != "lamp":
            continue
        pins = [pin for pin in piece.pins if (net := way.circuit.net_of.get(Tap(piece.id, pin))) is not None and is_bar(net)]
        if pins:
            fault = Fault("common off", f"{piece.id}.{pins[0]}", "its common end is off", lost=frozenset({Tap(piece.id, pins[0])}))  # fmt: skip
            return Broken(way.lamp.stage, fault)
    return None


def pin_dead(way: Way) -> Broken | None:
    """The board's pin, which drives nothing any more."""
    tap = next((it for net in way.circuit.nets if net.id == way.line for it in net.taps if it.piece == way.lamp.host), None)
    if tap is None or way.host.node.kind != "board":
        return None
    return Broken(f"pins.{way.lamp.host}", Fault("pin dead", f"{tap.piece}.{tap.pin}", "the pin is dead", dead=frozenset({tap})))  # fmt: skip


def marked(place: Callable[[Way], str], mark: Mark, when: Callable[[Way], bool]) -> Put:
    """A fault outside the circuit."""
    return lambda way: Broken(place(way), marks=frozenset({mark})) if when(way) else None


def lamp_stage(way: Way) -> str:
    """Return the stage of the lamp."""
    return way.lamp.stage


def program_stage(way: Way) -> str:
    """Return the stage of the program that drives it."""
    return f"rules.{way.lamp.host}"


def phone_stage(way: Way) -> str:
    """Return the stage of what talks to it."""
    return f"nodes.{way.talk.a}" if way.talk is not None else "nodes"


def module_stage(way: Way) -> str:
    """Return the stage of the module on the way."""
    return way.module.stage if way.module is not None else "nodes"


def input_stage(way: Way) -> str:
    """Return the stage of the input that sets it."""
    return f"inputs.{way.input_id}"


def air_stage(way: Way) -> str:
    """Return the stage of the radio link on the way."""
    return f"links.{way.air}"


def has_serial(way: Way) -> bool:
    """Tell whether a module says words to the board over a wire."""
    return way.has_module and bool(way.to_board)


def is_ended(way: Way) -> bool:
    """Tell whether words end in something the phone has to add."""
    return way.has_words and way.talk is not None and bool(way.talk.vocabulary.terminator)


def serial_wire(*, to_module: bool) -> Put:
    """One of the two wires between board and module, off."""

    def put(way: Way) -> Broken | None:
        line = way.to_module if to_module else way.to_board
        return _usual(way, f"links.{way.wire.link_id}" if way.wire else "", line, "wire off", lambda at: way.module is not None and at.startswith(f"{way.module.id}."))  # fmt: skip

    return put


def swapped(way: Way) -> Broken | None:
    """RX and TX, one in the place of the other."""
    if not way.to_module or way.wire is None:
        return None
    return _usual(way, f"links.{way.wire.link_id}", way.to_board, "wires swapped")


def at_divider(kind: str, end: str) -> Put:
    """A fault of one of the two resistors of a divider."""

    def put(way: Way) -> Broken | None:
        return _usual(way, f"links.{way.wire.link_id}" if way.wire else "", way.to_module, kind, lambda at: at == f"{way.to_module}.{end}")  # fmt: skip

    return put


def divider_turned(way: Way) -> Broken | None:
    """The two resistors of a divider, one in the place of the other."""
    found = {it.id.rpartition(".")[2]: it for it in way.pieces(way.to_module)} if way.to_module else {}
    upper, lower = found.get("upper"), found.get("lower")
    if way.wire is None or upper is None or lower is None or not upper.made or not lower.made:
        return None
    factor: Mapping[str, float] = {upper.id: lower.made / upper.made, lower.id: upper.made / lower.made}
    fault = Fault("divider turned", way.to_module, "the two resistors of the divider have changed places", factor=factor)
    return Broken(f"links.{way.wire.link_id}", fault)


def loose(of: Put) -> Put:
    """A fault that comes and goes."""

    def put(way: Way) -> Broken | None:
        found = of(way)
        return None if found is None else found._replace(is_loose=True)

    return put


def at_contact(kind: str) -> Put:
    """A fault of the button or switch that sets the lamp."""

    def put(way: Way) -> Broken | None:
        return _usual(way, f"inputs.{way.input_id}", way.entry, kind) if way.has_contact else None

    return put


def colours(way: Way) -> Broken | None:
    """Two colours of one lamp, one wire in the place of the other."""
    if way.lamp.kind != "rgb" or len(way.lamp.channels) < 2:
        return None
    one, other = (Tap(way.lamp.id, it.id) for it in way.lamp.channels[:2])
    nets = way.circuit.net_of
    if one not in nets or other not in nets:
        return None
    fault = Fault("colours swapped", way.lamp.id, "two of its wires have changed places", moved={one: nets[other].id, other: nets[one].id})  # fmt: skip
    return Broken(way.lamp.stage, fault)


def is_linked_by_phone(way: Way) -> bool:
    """Tell whether a phone links to it over the air."""
    return bool(way.air) and way.is_by_phone


def is_paired(way: Way) -> bool:
    """Tell whether a code is asked for where a phone links."""
    return way.module is not None and way.dialect is not None and "pin" in way.dialect.settings and is_linked_by_phone(way)


def is_bound(way: Way) -> bool:
    """Tell whether its module and another one are bound by an address that one of the two keeps."""
    link = way.design.plan.links.get(way.air)
    ends = () if link is None or way.is_by_phone or way.module is None else (link.a, link.b)
    dialects = [dialect_of(way.design, way.design.nodes[it]) for it in ends if it in way.design.nodes]
    return any(it is not None and "bound" in it.settings for it in dialects)


def has_set_up(way: Way) -> bool:
    """Tell whether its module has a mode for set-up of its own, entered by a key."""
    return way.dialect is not None and way.dialect.enters == "key"


def strip_thin(way: Way) -> Broken | None:
    """Rails of a chain that resist so much that its far end has less than it should; none where even the thinnest would do."""
    strip = way.design.strips.get(way.lamp.id) if way.is_pixels else None
    if strip is None:
        return None
    ratio = next((it for it in THIN_RATIOS if min(thinner(strip, it)) < strip.least_v), None)
    if ratio is None:
        return None
    return Broken(way.lamp.stage, Fault("strip thin", way.lamp.id, "its rails are too thin", factor={way.lamp.id: ratio}))


def has_terminal(way: Way) -> bool:
    """Tell whether commands are typed to its module."""
    return way.is_asked
