"""Builds with a fault in them, for a circuit solver: written from the circuit by other means than the core's own model.

Transistors, zeners and clamps are the solver's devices; resistors, LEDs, pins and supplies lie anywhere within their tolerance.
"""

import math
import random
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

from oddlamp.core.bench.circuit import Circuit, Piece, Tap
from oddlamp.core.bench.step import Step
from oddlamp.core.design.design import Design

MODELS = """.model PLAIN D(IS=3e-9 N=1.8 RS=0.4)
.model CLAMP D(IS=2e-13 N=1.1 RS=8)
.model NPN NPN(IS=2e-14 BF=180 VAF=80 RB=5)
.model NFET NMOS(LEVEL=1 VTO=1.3 KP=2 LAMBDA=0.01)
.model SMALL NMOS(LEVEL=1 VTO=1.4 KP=0.3 LAMBDA=0.01)"""
SHUT = 1e9
MANY = 1000
FIGURE = re.compile(r"^m(\d+) = (\S+)$", re.MULTILINE)
LEAST_A = 1e-20


class Wrong(NamedTuple):
    """One thing that is wrong: what, at which part or pin, and with what."""

    kind: str
    at: str
    pin: str = ""
    to: str = ""

    def key(self, circuit: Circuit) -> tuple[str, str]:
        """As the suggestions name it: of several alike, at all of them."""
        at = circuit.pieces[self.at].alike or self.at
        return self.kind, f"{at}.{self.pin}" if self.pin else at


def wrongs(circuit: Circuit, lines: set[str]) -> Iterator[Wrong]:
    """Everything a maker may do wrong around some lines (common practice, no source)."""
    rails = [net.id for net in circuit.nets if net.id.startswith("rail.") and len(net.taps) > 2]
    nets = [net for net in circuit.nets if net.id.partition(":")[0] in lines]
    for name in dict.fromkeys(tap.piece for net in nets for tap in net.taps):
        piece = circuit.pieces[name]
        if piece.kind == "resistor":
            yield from (Wrong(f"resistor {it}", name) for it in ("open", "short", "tenfold", "tenth"))
        elif piece.kind == "lamp":
            yield from (Wrong(f"lamp {it}", name) for it in ("turned", "open", *(("short",) if piece.curve is not None else ())))
        elif piece.kind in ("diode", "zener"):
            yield from (Wrong(f"diode {it}", name) for it in ("turned", "open", "short"))
        elif piece.kind == "transistor":
            yield from (Wrong(f"switch {it}", name) for it in ("open", "short", "turned"))
        elif piece.kind == "contact":
            yield from (Wrong(f"contact {it}", name) for it in ("open", "shorted"))
        for pin in piece.pins:
            net = circuit.net_of.get(Tap(name, pin))
            if net is None:
                continue
            if piece.kind in ("board", "module"):
                if net in nets:
                    yield Wrong("wire off", name, pin)
                elif net.kind == "ground":
                    yield Wrong("ground off", name, pin)
                elif net.id.startswith("rail."):
                    yield Wrong("supply off", name, pin)
            elif not piece.is_inline and net.kind == "ground":
                yield Wrong("ground off", name, pin)
            elif not piece.is_inline and net.kind == "supply":
                yield Wrong("supply off", name, pin)
                yield from (Wrong("wrong rail", name, pin, it) for it in rails if it != net.id)
        if piece.kind == "module" and {"TX", "RX"} <= set(piece.pins):
            yield Wrong("wires swapped", name)


class Build:
    """One build: parts drawn within their tolerance, and a fault or none."""

    def __init__(self, design: Design, circuit: Circuit, rng: random.Random, wrong: Wrong | None) -> None:
        self.design, self.circuit, self.rng, self.wrong = design, circuit, rng, wrong
        self.ohms = {it.id: (it.made or 0.0) * self._by(0.05) for it in circuit.pieces.values() if it.kind == "resistor"}
        if wrong is not None and wrong.kind in ("resistor tenfold", "resistor tenth"):
            self.ohms[wrong.at] *= 10.0 if wrong.kind.endswith("tenfold") else 0.1
        self.rails = {
            f"rail.{it.id}": rng.uniform(it.voltage.low, it.voltage.high)
            for it in design.rails.values()
            if it.voltage.value is not None
        }
        self.logic = {
            it.id: self._logic(it.id) for it in design.nodes.values() if it.logic is not None and it.logic.value is not None
        }
        self.drops: dict[str, float] = {}

    def _by(self, ratio: float) -> float:
        return self.rng.uniform(1 - ratio, 1 + ratio)

    def _logic(self, node_id: str) -> float:
        node = self.design.nodes[node_id]
        rail = self.design.rails.get(node.rail_id or "")
        assert node.logic is not None
        if rail is not None and rail.voltage.value == node.logic.value:
            return self.rails[f"rail.{rail.id}"]  # both rise and sag together
        return self.rng.uniform(node.logic.low, node.logic.high)

    def is_(self, kind: str, piece: Piece) -> bool:
        """Tell whether a part is wrong in one way."""
        return self.wrong is not None and self.wrong.kind == kind and self.wrong.at == piece.id

    def node(self, tap: Tap, k: int) -> str:
        """Name the node that a pin hangs on in this build."""
        wrong, net = self.wrong, self.circuit.net_of.get(tap)
        if wrong is not None and wrong.at == tap.piece and wrong.pin == tap.pin:
            if wrong.kind in ("wire off", "ground off", "supply off"):
                return f"x{k}_{_word(tap.piece)}_{_word(tap.pin)}"
            if wrong.kind == "wrong rail":
                return f"n{k}_{_word(wrong.to)}"
        if wrong is not None and wrong.kind == "wires swapped" and wrong.at == tap.piece and tap.pin in ("TX", "RX"):
            net = self.circuit.net_of.get(Tap(tap.piece, "RX" if tap.pin == "TX" else "TX"))
        if tap.pin == "":
            net = next((it for it in self.circuit.nets if it.id == tap.piece), None)
        if net is None:
            return f"x{k}_{_word(tap.piece)}_{_word(tap.pin)}"
        return "0" if net.kind == "ground" else f"n{k}_{_word(net.id)}"

    def cards(self, line: str, step: Step, k: int) -> Iterator[str]:
        """Yield the circuit around a line as it is at one step."""
        yield from (f"VR{k}_{_word(name)} n{k}_{_word(name)} 0 {volts:.6g}" for name, volts in self.rails.items())
        for name, volts in self.logic.items():
            if any(net.id == f"own.{name}" for net in self.circuit.nets):
                yield f"VO{k}_{_word(name)} n{k}_{_word(f'own.{name}')} 0 {volts:.6g}"
        here = {net.id for net in self.circuit.nets if net.id.partition(":")[0] == line}
        nodes = {f"n{k}_{_word(it)}" for it in here}
        names = [tap.piece for net in self.circuit.nets if net.id in here for tap in net.taps]
        for name in dict.fromkeys(names):
            piece = self.circuit.pieces[name]
            yield from self._piece(piece, step, line, k, nodes)
        for node in sorted(nodes):
            yield f"RL{k}_{node} {node} 0 1e11"

    def _piece(self, piece: Piece, step: Step, line: str, k: int, nodes: set[str]) -> Iterator[str]:
        it, at = _word(piece.id), [self.node(Tap(piece.id, pin), k) for pin in piece.pins]
        yield from (f"RX{k}_{it}_{place} {node} 0 1e10" for place, node in enumerate(at) if node.startswith("x"))
        if any(self.is_(f"{what} open", piece) for what in ("resistor", "lamp", "diode", "switch", "contact")):
            return
        if any(self.is_(f"{what} short", piece) for what in ("resistor", "lamp", "diode", "switch")):
            a, b = (at[1], at[2]) if piece.kind == "transistor" else (at[0], at[1])
            yield f"RS{k}_{it} {a} {b} 0.05"
            return
        if any(self.is_(f"{what} turned", piece) for what in ("lamp", "diode", "switch")):
            at[0], at[1] = at[1], at[0]
        match piece.kind:
            case "resistor":
                yield f"R{k}_{it} {at[0]} {at[1]} {max(self.ohms[piece.id], 1e-3):.6g}"
            case "diode":
                yield f"D{k}_{it} {at[0]} {at[1]} PLAIN"
            case "zener":
                yield from self._zener(k, it, at)
            case "lamp":
                yield from self._lamp(piece, at, k)
            case "transistor":
                yield from self._transistor(piece, at, k, it)
            case "gate":
                vcc = at[piece.pins.index("VCC")]
                yield f"B{k}_{it} o{k}_{it} 0 V = V({at[0]}) > 1.4 ? V({vcc}) : 0"
                yield f"RG{k}_{it} o{k}_{it} {at[1]} 45"
            case "contact":
                shut = self.is_("contact shorted", piece) or self._shut(step, line)
                yield f"R{k}_{it} {at[0]} {at[1]} {0.1 if shut else SHUT}"
            case "knob":
                up = 0.998 if step.id.startswith("high.") else 0.002
                yield f"RA{k}_{it} {at[0]} {at[1]} {9800 * (1 - up):.6g}"
                yield f"RB{k}_{it} {at[1]} {at[2]} {9800 * up:.6g}"
            case "board" | "module":
                yield from self._host(piece, line, step, k, nodes)
            case "load":
                by_pin = dict(zip(piece.pins, at, strict=True))
                load = self.design.lamps[piece.id].load
                ends = [
                    next((by_pin[name] for name in names if name in by_pin), None) for names in (("+", "V+", "VCC"), ("−", "GND"))
                ]
                if load is not None and None not in ends:
                    amps = 2e-3 if "+" not in by_pin else load.current.value or 1e-3
                    yield f"R{k}_{it} {ends[0]} {ends[1]} {(load.rated.value or 5) / amps * self._by(0.1):.6g}"

    def _shut(self, step: Step, line: str) -> bool:
        told = self.design.plan.signals.get(line)
        is_down = told is not None and told.pull_ohm is not None and told.pull_to == "ground"
        return step.id.startswith("high.") == is_down

    def _zener(self, k: int, it: str, at: list[str]) -> Iterator[str]:
        """A soft knee near its volts: a plain diode forwards, two slopes backwards, by the figures of the part."""
        zener = self.design.catalog.zeners[self.design.catalog.proposals["zener"].part or ""]
        yield f"D{k}_{it} {at[1]} {at[0]} PLAIN"
        points = ", ".join(f"{volts}, {math.log(amps):.6g}" for amps, volts in zener.knee)
        yield f"B{k}_{it} {at[0]} {at[1]} I = V({at[0]},{at[1]}) > 0.5 ? exp(pwl(V({at[0]},{at[1]}), 0, -30, {points}, 6, -0.5)) : 0"

    def _lamp(self, piece: Piece, at: list[str], k: int) -> Iterator[str]:
        lamp = self.design.lamps[piece.stage.removeprefix("lamps.")]
        for channel in lamp.channels:
            if channel.branch is None or channel.branch.curve is None:
                continue
            if piece.curve is None:
                if channel.id not in piece.pins or "common" not in piece.pins:
                    continue
                own, common = at[piece.pins.index(channel.id)], at[piece.pins.index("common")]
                ends = (common, own) if lamp.common is not None and lamp.common.id == "anode" else (own, common)
                if self.is_("lamp turned", piece):
                    ends = (ends[1], ends[0])
            elif piece.id.startswith(f"{lamp.id}.{channel.id}.led"):
                ends = (at[0], at[1])
            else:
                continue
            key = f"{piece.id} {channel.id}"
            forward = channel.forward
            shift = self.drops.setdefault(key, self.rng.uniform(forward.low, forward.high) - forward.known)
            curve, it = channel.branch.curve, f"{_word(piece.id)}_{_word(channel.id)}"
            saturation_a = max(curve.saturation_a, LEAST_A)
            ahead_v = piece.in_series * (curve.slope_v * math.log(saturation_a / curve.saturation_a) + shift)
            yield f".model L{k}_{it} D(IS={saturation_a:.6e} N={curve.ideality * piece.in_series:.6g} RS={max(curve.series_ohm * piece.in_series, 1e-3):.6g})"
            yield f"V{k}_{it} {ends[0]} a{k}_{it} {ahead_v:.6g}"
            yield f"D{k}_{it} a{k}_{it} {ends[1]} L{k}_{it}"

    def _transistor(self, piece: Piece, at: list[str], k: int, it: str) -> Iterator[str]:
        part = piece.transistor
        if part is None:
            yield f"M{k}_{it} {at[2]} {at[0]} {at[1]} {at[1]} SMALL"
            yield f"D{k}_{it} {at[1]} {at[2]} PLAIN"
        elif part.kind == "npn":
            yield f"Q{k}_{it} {at[1]} {at[0]} {at[2]} NPN"
        else:
            yield f"M{k}_{it} {at[1]} {at[0]} {at[2]} {at[2]} NFET"
            yield f"D{k}_{it} {at[2]} {at[1]} PLAIN"

    def _host(self, piece: Piece, line: str, step: Step, k: int, nodes: set[str]) -> Iterator[str]:
        wrong = self.wrong
        is_dead = wrong is not None and wrong.at == piece.id and wrong.kind in ("ground off", "supply off")
        node = self.design.nodes[piece.id]
        for pin in piece.pins:
            tap, it = Tap(piece.id, pin), f"{_word(piece.id)}_{_word(pin)}"
            net, at = self.circuit.net_of.get(tap), self.node(tap, k)
            if net is None or net.kind != "signal" or at not in nodes:
                continue
            volts = None if is_dead else self._drives(net.id.partition(":")[0], piece.id, step)
            if volts is not None and node.part is not None:
                ohm = node.part.output_resistance_ohm
                yield f"V{k}_{it} d{k}_{it} 0 {volts:.6g}"
                yield f"R{k}_{it} d{k}_{it} {at} {self.rng.uniform(max(ohm.low, 1), ohm.high):.6g}"
                continue
            logic_v = 0.0 if is_dead else self.logic.get(piece.id, 0.0)
            yield f"V{k}_{it} d{k}_{it} 0 {logic_v:.6g}"
            yield f"DU{k}_{it} {at} d{k}_{it} CLAMP"
            yield f"DD{k}_{it} 0 {at} CLAMP"
            its = self.design.plan.inputs.get(line.partition(".")[0])
            told = self.design.plan.signals.get(line)
            if (
                its is not None
                and its.kind in ("button", "switch")
                and node.node.kind == "board"
                and (told is None or told.pull_ohm is None)
                and not is_dead
            ):
                yield f"RP{k}_{it} d{k}_{it} {at} {self.rng.uniform(20_000, 50_000):.6g}"

    def _drives(self, line: str, node: str, step: Step) -> float | None:
        signal = self.design.signals.get(line)
        logic_v = self.logic.get(node)
        if signal is None or logic_v is None or signal.line.receiver == node or signal.line.kind not in ("wire", "data", "drive"):
            return None
        if signal.line.kind != "drive":
            return logic_v
        lamp = self.design.lamps[signal.line.owner_id]
        is_low = next((it.is_inverted for it in lamp.channels if it.signal_id == line), False)
        is_on = step.id in (f"lit.{line}", f"drop.{line}", f"on.{line}")
        return 0.0 if is_on == is_low else logic_v


def _word(text: str) -> str:
    return re.sub(r"[^a-z0-9]", lambda it: f"z{ord(it[0])}", text.lower())


def readings(build: Build, steps: list[tuple[Step, str]], folder: Path) -> list[float | None]:
    """Measure every step of a build, as a solver has it; resistors alone are measured before they go in."""
    cards = ["* a build", ".options gmin=1e-15 abstol=1e-13 reltol=1e-5 itl1=500", MODELS]
    asked: list[int] = []
    found: list[float | None] = [None] * len(steps)
    for k, (step, line) in enumerate(steps):
        if step.id.startswith("ohms."):
            found[k] = _ohm(build, step)
            continue
        if step.red is None or step.black is None:
            continue
        if step.id.startswith("joined."):
            found[k] = _way(build, step, line)
            continue
        if step.id.startswith("fed."):
            found[k] = _fed(build, step)
            continue
        cards += list(build.cards(line, step, k))
        for place, (red, black) in enumerate(_ends(build.circuit, step, step.red, step.black)):
            at, a, b = MANY * k + place, build.node(red, k), build.node(black, k)
            cards.append(f"RM{at} {a} {b} 1e7")
            asked.append(at)
            cards.append(f"BM{at} m{at} 0 V = V({a}) - V({b})".replace("V(0)", "0"))
            cards.append(f"RMM{at} m{at} 0 1")
    told = [f"let m{at} = v(m{at})\nprint m{at}" for at in asked]
    deck = folder / "build.cir"
    deck.write_text("\n".join([*cards, ".control", "set numdgt=7", "op", *told, ".endc", ".end", ""]), encoding="ascii")
    done = subprocess.run(["ngspice", "-b", str(deck)], capture_output=True, text=True, check=False, timeout=120)
    shown: dict[int, list[float]] = {}
    for at, value in FIGURE.findall(done.stdout):
        shown.setdefault(int(at) // MANY, []).append(float(value))
    for k, values in shown.items():
        nominal = steps[k][0].nominal or 0.0
        found[k] = max(values, key=lambda it: abs(abs(it) - nominal))  # the one furthest off is typed
    return found


def _ends(circuit: Circuit, step: Step, red: Tap, black: Tap) -> list[tuple[Tap, Tap]]:
    """Where the probes go: across each of several alike."""
    piece = circuit.pieces.get(step.piece)
    if piece is None or not piece.alike or piece.kind != "resistor":
        return [(red, black)]
    alike = [it.id for it in circuit.pieces.values() if it.alike == piece.alike and it.kind == "resistor"]
    return [(Tap(it, red.pin), Tap(it, black.pin)) for it in alike]


def _fed(build: Build, step: Step) -> float:
    """What arrives at the pins that feed a part: next to nothing where one of them hangs in the air."""
    assert step.red is not None
    assert step.black is not None
    red, black = build.node(step.red, 0), build.node(step.black, 0)
    if red.startswith("x") or black.startswith("x"):
        return build.rng.uniform(0, 0.05)
    return next((volts for name, volts in build.rails.items() if red == f"n0_{_word(name)}"), 0.0)


def _way(build: Build, step: Step, line: str) -> float:
    """What an ohmmeter shows along a line, by walking it: the resistors on the way added up, open where it does not arrive."""
    assert step.red is not None
    assert step.black is not None
    start, end = build.node(step.red, 0), build.node(step.black, 0)
    reached = {start: 0.3}  # of wire and probes
    for _ in range(6):
        for name, ohm in build.ohms.items():
            piece = build.circuit.pieces[name]
            if build.is_("resistor open", piece):
                continue
            a, b = (build.node(Tap(name, leg), 0) for leg in piece.pins)
            through = 0.0 if build.is_("resistor short", piece) else ohm
            for x, y in ((a, b), (b, a)):
                if x in reached and "0" not in (x, y) and y not in reached:
                    reached[y] = reached[x] + through
    return reached.get(end, 1e8)


def _ohm(build: Build, step: Step) -> float:
    piece = build.circuit.pieces[step.piece]
    alike = [
        it
        for it in build.circuit.pieces.values()
        if it.kind == "resistor" and (it.id == piece.id or (piece.alike and it.alike == piece.alike))
    ]
    wrong = build.wrong
    for it in alike:
        if wrong is not None and wrong.at == it.id and wrong.kind == "resistor open":
            return 1e8
        if wrong is not None and wrong.at == it.id and wrong.kind == "resistor short":
            return 0.1
    return max((build.ohms[it.id] for it in alike), key=lambda ohm: abs(ohm - (piece.made or 0.0)))
