"""What each part of a build does, for the solver: as it should, or with a fault in it."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Final, NamedTuple

from oddlamp.core.bench.circuit import Circuit, Net, Piece, Tap
from oddlamp.core.bench.layers import is_bar
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import SignalDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.electrical.diode import DiodeCurve
from oddlamp.core.electrical.nodal import GROUND, Diode, Part, Resistor, Source, Switch, Term, Volts

WIRE_OHM: Final = 0.02
OFF_OHM: Final = 1e9
KNOB_OHM: Final = 1e4
GATE_HEARS_V: Final = 1.4  # where a gate that hears 2.0 V turns over; from memory
PLAIN_DIODE: Final = DiodeCurve(forward_voltage_v=0.65, at_current_a=1e-3, ideality=1.8, series_ohm=0.5)  # from memory
CLAMP: Final = DiodeCurve(
    forward_voltage_v=0.66, at_current_a=1e-3, ideality=1.2, series_ohm=5.0
)  # of a chip's input; from memory
BASE: Final = DiodeCurve(forward_voltage_v=0.75, at_current_a=1e-3, ideality=1.0, series_ohm=1.0)  # from memory
STARTS_V: Final = 1.6
FED_RATIO: Final = 0.7  # of its volts that a board or module still runs at; from memory, parts stop at 60 to 90 %
OWN_PULL_OHM: Final = 35_000.0  # of a board's own pull-up; from memory, 20 to 50 kΩ


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing that is wrong with a build. ``kind`` names it in general, ``at`` the part or pin it is at, ``told`` says it to the maker, ``odds`` how usual it is beside others.

    What it changes: parts that are ``open``, ``shorted`` or ``turned`` round, resistors by a ``factor``, pins that are
    ``lost`` from their net or ``moved`` to another one, ``rails`` that stand at other volts, and pins of boards and modules
    that are ``dead``: they neither drive nor hear.
    """

    kind: str
    at: str
    told: str
    odds: float = 1.0
    open: frozenset[str] = frozenset()
    shorted: frozenset[str] = frozenset()
    turned: frozenset[str] = frozenset()
    factor: Mapping[str, float] = field(default_factory=dict)
    lost: frozenset[Tap] = frozenset()
    moved: Mapping[Tap, str] = field(default_factory=dict)
    rails: Mapping[str, float] = field(default_factory=dict)
    dead: frozenset[Tap] = frozenset()


HEALTHY: Final = Fault("nothing", "", "nothing is wrong")


class State(NamedTuple):
    """What the build does while it is measured: the line that is driven on, if one is, inputs closed or turned up, and the serial line that is held low, as by a start bit."""

    lit: str = ""
    closed: str = ""
    turned_up: str = ""
    held_low: str = ""


class Knee(NamedTuple):
    """A zener by its knee: currents at stated volts, and a plain diode the other way. Source: straight lines in the logarithm between them."""

    cathode: str
    anode: str
    knee: tuple[tuple[float, float], ...]

    @property
    def nodes(self) -> tuple[str, ...]:
        """Its two ends."""
        return self.cathode, self.anode

    def terms(self, volts: Volts) -> Iterator[Term]:
        """Yield what runs through it."""
        v = volts[self.cathode] - volts[self.anode]
        if v < 0:
            yield from Diode(self.anode, self.cathode, PLAIN_DIODE).terms(volts)
            return
        (first_a, first_v), (second_a, second_v) = self.knee[0], self.knee[1]
        for (a1, v1), (a2, v2) in zip(self.knee, self.knee[1:], strict=False):
            if v >= v1:
                (first_a, first_v), (second_a, second_v) = (a1, v1), (a2, v2)
        slope = math.log(second_a / first_a) / max(second_v - first_v, 1e-6)
        through_a = first_a * math.exp(min(slope * (v - first_v), 40.0))
        if v < self.knee[0][1]:
            through_a = self.knee[0][0] * math.exp(slope * (v - self.knee[0][1]))
        slope_s = through_a * slope
        yield Term(self.cathode, through_a, ((self.cathode, slope_s), (self.anode, -slope_s)))
        yield Term(self.anode, -through_a, ((self.cathode, -slope_s), (self.anode, slope_s)))


class Devices:
    """Turns parts of a circuit into what the solver knows, with a fault in them."""

    def __init__(self, design: Design, circuit: Circuit) -> None:
        self.design, self.circuit, self.by_tap = design, circuit, circuit.net_of

    def node(self, tap: Tap, fault: Fault) -> str:
        """Name the node of a pin, or of a net's strip."""
        if tap.pin == "":
            net = next((it for it in self.circuit.nets if it.id == tap.piece), None)
            return self._named(net) if net is not None else GROUND
        if tap in fault.lost:
            return f"lost {tap.piece} {tap.pin}"
        if tap in fault.moved:
            net = next((it for it in self.circuit.nets if it.id == fault.moved[tap]), None)
            return self._named(net) if net is not None else f"moved {tap.piece}"
        net = self.by_tap.get(tap)
        return self._named(net) if net is not None else f"free {tap.piece} {tap.pin}"

    @staticmethod
    def _named(net: Net) -> str:
        return GROUND if net.kind == "ground" else net.id

    def rail_v(self, net_id: str, fault: Fault = HEALTHY) -> float | None:
        """Return the volts a supply net stands at, with a fault: what a board or a converter makes of another rail goes with that."""
        if net_id in fault.rails:
            return fault.rails[net_id]
        rail = self.design.rails.get(net_id.removeprefix("rail."))
        if rail is None:
            node = self.design.nodes.get(net_id.removeprefix("own."))
            return None if node is None else self.logic_v(node, fault)
        volts, feed = rail.voltage.value, rail.feed
        if volts is None or feed is None:
            return volts
        if feed.kind == "board" and feed.id in self.design.nodes:
            return volts if self.is_fed(feed.id, fault) else 0.0
        if feed.from_rail in self.design.rails and fault.rails:
            from_v, before_v = self.rail_v(f"rail.{feed.from_rail}", fault), self.design.rails[feed.from_rail].voltage.value
            if from_v is not None and before_v and from_v < FED_RATIO * before_v:
                return min(volts, max(from_v, 0.0))
        return volts

    def logic_v(self, node: NodeDesign, fault: Fault) -> float | None:
        """Return the volts a board or module speaks with; nothing where it is not fed, and no more than its rail has."""
        if node.logic is None or node.logic.value is None:
            return None
        if not self.is_fed(node.id, fault):
            return 0.0
        rail_v = self.rail_v(f"rail.{node.rail_id}", fault) if fault.rails and node.rail_id else None
        return node.logic.value if rail_v is None else min(node.logic.value, rail_v)

    def part(self, line: str, piece: Piece, state: State, fault: Fault, decided: Mapping[str, bool]) -> Iterator[Part]:
        name = piece.id
        nodes = [self.node(Tap(name, pin), fault) for pin in piece.pins]
        if name in fault.turned and len(nodes) > 1:
            nodes[0], nodes[1] = nodes[1], nodes[0]
        if name in fault.open and piece.kind not in ("board", "module"):
            return
        if name in fault.shorted and len(nodes) > 1:
            a, b = (nodes[1], nodes[2]) if piece.kind == "transistor" else (nodes[0], nodes[1])
            yield Resistor(a, b, WIRE_OHM)
            return
        match piece.kind:
            case "resistor":
                yield Resistor(nodes[0], nodes[1], (piece.made or 0.0) * fault.factor.get(name, 1.0))
            case "diode":
                yield Diode(nodes[0], nodes[1], PLAIN_DIODE)
            case "zener":
                zener = self.design.catalog.zeners[self.design.catalog.proposals["zener"].part or ""]
                yield Knee(nodes[0], nodes[1], zener.knee)
            case "lamp":
                yield from self._leds(piece, nodes, fault)
            case "transistor":
                yield from self._switch(piece, nodes, is_on=decided.get(name, False))
            case "gate":
                volts = self._rail_of(Tap(name, "VCC"), fault)
                yield Source(f"{name} out", GROUND, volts if decided.get(name, False) else 0.0)
                yield Resistor(f"{name} out", nodes[1], 50.0)
                yield Resistor(nodes[0], GROUND, OFF_OHM)
            case "contact":
                yield Resistor(nodes[0], nodes[1], WIRE_OHM if state.closed == line else OFF_OHM)
            case "knob":
                share = 0.999 if state.turned_up == line else 0.001
                yield Resistor(nodes[0], nodes[1], max(KNOB_OHM * (1 - share), WIRE_OHM))
                yield Resistor(nodes[1], nodes[2], max(KNOB_OHM * share, WIRE_OHM))
            case "board" | "module":
                yield from self._host(line, piece, state, fault)
            case "load":
                yield from self._load(piece, nodes)
            case _:
                for node in nodes:
                    yield Resistor(node, GROUND, OFF_OHM)

    def _rail_of(self, tap: Tap, fault: Fault) -> float:
        node = self.node(tap, fault)
        return 0.0 if node == GROUND else self.rail_v(node, fault) or 0.0

    def _leds(self, piece: Piece, nodes: list[str], fault: Fault) -> Iterator[Part]:
        if piece.curve is not None:
            yield Diode(nodes[0], nodes[1], piece.curve, piece.in_series)
            return
        lamp = self.design.lamps.get(piece.id)
        common = nodes[piece.pins.index("common")]
        for channel in lamp.channels if lamp is not None else ():
            if channel.branch is None or channel.branch.curve is None or f"{piece.id}.{channel.id}" in fault.open:
                continue
            own = nodes[piece.pins.index(channel.id)]
            anode, cathode = (
                (common, own) if lamp is not None and lamp.common is not None and lamp.common.id == "anode" else (own, common)
            )
            if piece.id in fault.turned:
                anode, cathode = cathode, anode
            yield Diode(anode, cathode, channel.branch.curve)

    def _load(self, piece: Piece, nodes: list[str]) -> Iterator[Part]:
        """A load draws what it does at its own volts between its ends; one that is told what to do draws little while it is dark."""
        lamp = self.design.lamps.get(piece.id)
        by_pin = dict(zip(piece.pins, nodes, strict=True))
        for node in nodes:
            yield Resistor(node, GROUND, OFF_OHM)
        plus, minus = (next((by_pin[it] for it in names if it in by_pin), None) for names in (("+", "V+", "VCC"), ("−", "GND")))
        if lamp is None or lamp.load is None or plus is None or minus is None:
            return
        load, rated = lamp.load, lamp.load.rated.value or 5.0
        is_told = "+" not in by_pin
        amps = 1e-3 if is_told else load.current.value or 1e-3
        yield Resistor(plus, minus, rated / amps)

    def _switch(self, piece: Piece, nodes: list[str], *, is_on: bool) -> Iterator[Part]:
        """A transistor: between its last two pins while it is on; a MOSFET's body diode always, a base towards its emitter."""
        gate, low, ground = nodes[0], nodes[1], nodes[2]
        part = piece.transistor
        if part is None or part.kind == "mosfet":
            if part is None:  # of a level shift: gate, source, drain
                low, ground = nodes[2], nodes[1]
            yield Diode(ground, low, PLAIN_DIODE)
            yield Resistor(gate, GROUND, OFF_OHM)
            ohm = part.on_ohm.value if part is not None and part.on_ohm is not None else 2.0
            yield Switch(low, ground, is_on, ohm)
            yield Resistor(low, ground, OFF_OHM)
            return
        yield Diode(gate, ground, BASE)
        yield Switch(low, ground, is_on, 1.0, part.saturation_v.value if part.saturation_v is not None else 0.1)
        yield Resistor(low, ground, OFF_OHM)

    def _host(self, line: str, piece: Piece, state: State, fault: Fault) -> Iterator[Part]:
        """What a board or a module does at its pins of this line: it drives one, or listens and clamps."""
        node = self.design.nodes[piece.id]
        is_fed, own_v = self.is_fed(piece.id, fault), self.logic_v(node, fault) or 0.0
        here = {net.id for net in self.circuit.nets if net.id.partition(":")[0] == line}
        for pin in piece.pins:
            tap = Tap(piece.id, pin)
            net, at = self.by_tap.get(tap), self.node(tap, fault)
            if net is None or net.kind != "signal" or at not in here or tap in fault.dead:
                continue
            signal = self.design.signals.get(net.id.partition(":")[0])
            drives = self._drives(signal, node, state) if is_fed and signal is not None else None
            if drives is not None and node.part is not None:
                yield Source(f"{piece.id} {pin} drives", GROUND, min(drives, own_v))
                yield Resistor(f"{piece.id} {pin} drives", at, node.part.output_resistance_ohm.value)
                continue
            yield Source(f"{piece.id} logic", GROUND, own_v)
            yield Diode(at, f"{piece.id} logic", CLAMP)
            yield Diode(GROUND, at, CLAMP)
            if signal is not None and self._pulls(signal, node) and is_fed:
                yield Resistor(f"{piece.id} logic", at, OWN_PULL_OHM)

    def is_fed(self, node_id: str, fault: Fault) -> bool:
        """Tell whether a board or module has both its supply and its ground, and its rail its volts."""
        piece, node = self.circuit.pieces.get(node_id), self.design.nodes[node_id]
        if node_id in fault.open:
            return False
        for pin in piece.pins if piece is not None else ():
            tap = Tap(node_id, pin)
            net = self.by_tap.get(tap)
            if net is not None and net.kind != "signal" and is_bar(net) and (tap in fault.lost or tap in fault.moved):
                return False
        rail = self.design.rails.get(node.rail_id or "") if fault.rails or fault.open else None
        if rail is None or rail.voltage.value is None or (rail.feed is not None and rail.feed.id == node_id):
            return True
        return (self.rail_v(f"rail.{rail.id}", fault) or 0.0) >= FED_RATIO * rail.voltage.value

    def _drives(self, signal: SignalDesign, node: NodeDesign, state: State) -> float | None:
        """Return the volts at which a host holds its pin of a line; None where it listens."""
        line, logic = signal.line, node.logic
        if logic is None or logic.value is None or line.receiver == node.id or line.kind == "input":
            return None
        if line.kind in ("wire", "data"):
            return 0.0 if state.held_low == line.id else logic.known  # an idle line is high
        if line.kind != "drive":
            return None
        lamp = self.design.lamps[line.owner_id]
        channel = next((it for it in lamp.channels if it.signal_id == line.id), None)
        is_low = channel.is_inverted if channel is not None else lamp.load is not None and lamp.load.on_when == "low"
        is_on = state.lit == line.id
        return 0.0 if is_on == is_low else logic.known

    def _pulls(self, signal: SignalDesign, node: NodeDesign) -> bool:
        """Tell whether a board's own pull-up holds a contact's line."""
        if signal.line.kind != "input" or node.node.kind != "board":
            return False
        told = self.design.plan.signals.get(signal.line.id)
        return self.design.plan.inputs[signal.line.owner_id].kind in ("button", "switch") and (
            told is None or told.pull_ohm is None
        )

    def decisions(self, pieces: Mapping[str, None], volts: Mapping[str, float], fault: Fault) -> Iterator[tuple[str, bool]]:
        """Decide which switches are on, and which gates hear a high, by the volts they have."""
        for name in pieces:
            piece = self.circuit.pieces[name]
            if piece.kind not in ("transistor", "gate"):
                continue
            nodes = [self.node(Tap(name, pin), fault) for pin in piece.pins]
            if name in fault.turned:
                nodes[0], nodes[1] = nodes[1], nodes[0]
            at = [volts.get(it, 0.0) for it in nodes]
            if piece.kind == "gate":
                yield name, at[0] > GATE_HEARS_V
            elif piece.transistor is None:
                yield name, at[0] - at[1] > STARTS_V
            elif piece.transistor.kind == "mosfet":
                threshold = piece.transistor.gate_threshold_v
                yield name, at[0] - at[2] > (threshold.high if threshold is not None else STARTS_V)
            else:
                yield name, at[0] - at[2] > 0.55
