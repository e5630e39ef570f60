"""What a meter would show in a build, right or wrong: the part of its circuit around a step, solved with a fault in it."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Final

from oddlamp.core.bench.circuit import HOSTS, Circuit, Tap
from oddlamp.core.bench.devices import OFF_OHM, WIRE_OHM, Devices, Fault, State
from oddlamp.core.bench.judge import OPEN_OHM
from oddlamp.core.bench.step import Step
from oddlamp.core.design.design import Design
from oddlamp.core.electrical.nodal import GROUND, Diode, NoSolution, Part, Resistor, Solved, Source, solved

METER_OHM: Final = 1e7  # of a usual meter; common practice
ROUNDS: Final = 3
VOLTS: Final = frozenset({"idle", "high", "low", "lit", "dark", "drop", "on", "still"})  # steps that measure volts around a line
OHM_V: Final = 0.3  # of an ohmmeter: under what any diode conducts at


class Model:
    """The circuit of a build with a fault in it."""

    def __init__(self, design: Design, circuit: Circuit) -> None:
        self.design, self.circuit, self.devices = design, circuit, Devices(design, circuit)
        self.by_tap = circuit.net_of

    def line_of(self, step: Step) -> str:
        """Return the line whose circuit a step measures; empty where it is none."""
        if step.id.startswith("fed."):
            return ""
        for name in (step.id.partition(".")[2], step.piece):
            found = next((it for it in self.design.signals if name == it or name.startswith(f"{it}.")), "")
            if found:
                return found
        return ""

    def reading(self, step: Step, fault: Fault) -> float | None:
        """Return what a meter shows at a step, V or ohm; None where this does not tell."""
        if step.id.startswith("ohms."):
            return self._ohm(step.piece, fault)
        kind = step.id.partition(".")[0]
        line = self.line_of(step)
        if kind == "fed":
            return self._fed_v(step, fault)
        if kind == "joined":
            return self._way(line, step, fault)
        if kind not in VOLTS or not line:
            return None
        state = self._state(kind, line, step)
        red, black = step.red, step.black
        if red is None or black is None:
            return None
        found = self._volts((line,), state, red, black, fault)
        # Across a resistor it does not matter which way round the probes are.
        return abs(found) if found is not None and kind in ("lit", "dark") else found

    def _ohm(self, piece_id: str, fault: Fault) -> float | None:
        piece = self.circuit.pieces.get(piece_id)
        if piece is None or piece.made is None:
            return None
        alike = {
            it.id for it in self.circuit.pieces.values() if piece.alike and it.alike == piece.alike and it.kind == piece.kind
        } | {piece_id}
        if alike & fault.open:
            return OPEN_OHM
        if alike & fault.shorted:
            return 0.0
        factor = next((fault.factor[it] for it in sorted(alike) if it in fault.factor), 1.0)
        return piece.made * factor

    def _fed_v(self, step: Step, fault: Fault) -> float | None:
        """Return what is left at the pins that feed a part: nothing where one is off, another rail's volts where it hangs there."""
        if step.red is None or step.black is None:
            return None
        if {step.red, step.black} & fault.lost:
            return 0.0
        net = self.by_tap.get(step.red)
        return self.devices.rail_v(fault.moved.get(step.red, net.id if net is not None else ""), fault)

    def _way(self, line: str, step: Step, fault: Fault) -> float | None:
        """Return what an ohmmeter shows from one place to another, by what conducts at its few volts: wires and resistors."""
        if step.red is None or step.black is None:
            return None
        names = {tap.piece for net in self.circuit.nets if net.id.partition(":")[0] == line for tap in net.taps}
        parts: list[Part] = []
        for name in names:
            piece = self.circuit.pieces[name]
            if piece.kind == "resistor":
                parts += self.devices.part(line, piece, State(), fault, {})
        a, b = self.devices.node(step.red, fault), self.devices.node(step.black, fault)
        return self._ohms(a, b, parts)

    def _state(self, kind: str, line: str, step: Step) -> State:
        signal = self.design.signals[line]
        if signal.line.kind != "input":
            return State(lit=line if kind in ("lit", "drop", "on") else "")
        it = self.design.plan.inputs[signal.line.owner_id]
        if it.kind == "knob":
            return State(turned_up=line if kind == "high" else "")
        told = self.design.plan.signals.get(line)
        is_down = told is not None and told.pull_ohm is not None and told.pull_to == "ground"
        return State(closed=line if (kind == "high") == is_down else "")

    # The circuit around lines

    def light_a(self, line: str, fault: Fault, *, is_lit: bool) -> float | None:
        """Return what runs through the LED or the load of a line, A, while its pin lights it or not; None where there is none, or it can't be told."""
        lamps = [it for it in self._pieces(line) if self.circuit.pieces[it].kind in ("lamp", "load")]
        state = State(lit=line if is_lit else "")
        made = self._solved((line,), state, fault) if lamps else None
        if made is None:
            return None
        found, decided = made
        parts = list(self.devices.part(line, self.circuit.pieces[lamps[0]], state, fault, decided))
        if self.circuit.pieces[lamps[0]].kind == "load":
            between = parts[-1] if parts and isinstance(parts[-1], Resistor) and parts[-1].ohm < OFF_OHM else None
            return abs(next(iter(between.terms(found.volts))).leaves_a) if between is not None else 0.0
        through = [next(iter(it.terms(found.volts))).leaves_a for it in parts if isinstance(it, Diode)]
        return max(through, default=0.0)

    def volts(self, red: Tap, black: Tap, state: State, fault: Fault) -> float | None:
        """Return what a voltmeter shows between any two pins, V; None where the circuit around them has no solution.

        Args:
            red: where its red probe is; a tap with no pin is a net's strip.
            black: and its black one.
            state: what the build does meanwhile.
            fault: what is wrong with it.
        """
        lines = tuple(dict.fromkeys(it for tap in (red, black) for it in self._lines_at(tap, fault) if it))
        return self._volts(lines, state, red, black, fault, is_each=True)

    def ohms(self, red: Tap, black: Tap, state: State, fault: Fault) -> float | None:
        """Return what an ohmmeter shows between any two pins, power off, by what conducts at its few volts: wires, resistors, contacts."""
        lines = tuple(dict.fromkeys(it for tap in (red, black) if (it := self._line_at(tap))))
        parts: list[Part] = []
        for line in lines:
            for name in self._pieces(line, is_each=True):
                piece = self.circuit.pieces[name]
                if piece.kind in ("resistor", "contact", "knob"):
                    parts += self.devices.part(line, piece, state, fault, {})
        return self._ohms(self.devices.node(red, fault), self.devices.node(black, fault), parts)

    def _lines_at(self, tap: Tap, fault: Fault) -> list[str]:
        """Return the lines whose circuits hold a pin: of one that is off its rail those of its part, which it hangs on then."""
        piece = self.circuit.pieces.get(tap.piece)
        is_off = piece is not None and piece.kind not in HOSTS and tap in fault.lost
        moved = fault.moved.get(tap, "").partition(":")[0]
        at = (tap, *(Tap(tap.piece, pin) for pin in (piece.pins if piece and is_off else ())))
        return [*(self._line_at(it) for it in at), moved if moved in self.design.signals else ""]

    def _line_at(self, tap: Tap) -> str:
        net = self.by_tap.get(tap)
        name = (tap.piece if tap.pin == "" else net.id if net is not None and net.kind == "signal" else "").partition(":")[0]
        return name if name in self.design.signals else ""

    @staticmethod
    def _ohms(a: str, b: str, parts: list[Part]) -> float | None:
        through = Source("meter", b, OHM_V, 0.0)
        try:
            found = solved(
                [through, Resistor("meter", a, 1000.0), *parts, Resistor(b, GROUND, WIRE_OHM), Resistor(a, b, OFF_OHM)],
                is_plain=True,
            )
        except NoSolution:
            return None
        across = found.between(a, b)
        flows_a = (found.between("meter", a)) / 1000.0
        return OPEN_OHM if flows_a < 1e-8 else across / flows_a

    def _pieces(self, line: str, *, is_each: bool = False) -> dict[str, None]:
        nets = [net for net in self.circuit.nets if net.id.partition(":")[0] == line]
        names = (tap.piece for net in nets for tap in net.taps)
        return dict.fromkeys(names) if is_each else self._told_apart(names)

    def _volts(
        self, lines: tuple[str, ...], state: State, red: Tap, black: Tap, fault: Fault, *, is_each: bool = False
    ) -> float | None:
        a, b = self.devices.node(red, fault), self.devices.node(black, fault)
        made = self._solved(lines, state, fault, Resistor(a, b, METER_OHM), is_each=is_each)
        return None if made is None else made[0].volts.get(a, 0.0) - made[0].volts.get(b, 0.0)

    def _solved(
        self, lines: tuple[str, ...], state: State, fault: Fault, *more: Part, is_each: bool = False
    ) -> tuple[Solved, Mapping[str, bool]] | None:
        """Solve the circuit around lines, until what is switched in it stands still; None where it has no solution."""
        around = [(line, self._pieces(line, is_each=is_each)) for line in lines]
        pieces = {name: None for _, names in around for name in names}
        rails = {node for part in more for node in part.nodes if node.startswith(("rail.", "own."))}
        decided: dict[str, bool] = {}
        for _ in range(ROUNDS):
            try:
                found = solved([*self._parts(around, rails, state, fault, decided), *more], is_plain=True)
            except NoSolution:
                return None
            again = dict(self.devices.decisions(pieces, found.volts, fault))
            if again == decided:
                break
            decided = again
        return found, decided

    def _told_apart(self, names: Iterable[str]) -> dict[str, None]:
        """Leave out all but the first of what is alike: strings side by side hardly know of each other."""
        found: dict[str, None] = {}
        alike: set[tuple[str, str]] = set()
        for name in dict.fromkeys(names):
            piece = self.circuit.pieces[name]
            if not piece.alike or (piece.alike, piece.kind) not in alike:
                alike.add((piece.alike, piece.kind))
                found[name] = None
        return found

    def _parts(
        self, around: list[tuple[str, dict[str, None]]], more: set[str], state: State, fault: Fault, decided: Mapping[str, bool]
    ) -> Iterator[Part]:
        rails = dict.fromkeys(sorted(more))
        there: set[str] = set()
        for line, pieces in around:
            for name in pieces:
                piece = self.circuit.pieces[name]
                for tap in (Tap(name, pin) for pin in piece.pins):
                    net = self.by_tap.get(tap)
                    if net is not None and net.kind == "supply":
                        rails[net.id] = None
                if name not in there or piece.kind in HOSTS:  # a host has pins of its own on every line
                    there.add(name)
                    yield from self.devices.part(line, piece, state, fault, decided)
        for net_id in fault.moved.values():
            rails[net_id] = None
        for net_id in rails:
            volts = self.devices.rail_v(net_id, fault)
            if volts is not None:
                yield Source(net_id, GROUND, volts, WIRE_OHM)
