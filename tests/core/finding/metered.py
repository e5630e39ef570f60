"""The broken build of a practice round for a circuit solver: written from the parts and the fault by itself, with the same figures.

What a meter shows at the bench is the core's own nodal solver; here the same circuit, fault and all, is told to another program.
"""

import math
import re
import subprocess
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

from oddlamp.core.bench.circuit import Net, Piece, Tap
from oddlamp.core.bench.devices import BASE, CLAMP, KNOB_OHM, OWN_PULL_OHM, PLAIN_DIODE
from oddlamp.core.electrical.diode import DiodeCurve
from oddlamp.core.finding.practice import Doing
from oddlamp.core.finding.wired import Wired

METER_OHM = 1e7
LEAST_A = 1e-20
FIGURE = re.compile(r"^m(\d+) = (\S+)$", re.MULTILINE)


class Asked(NamedTuple):
    """Where the probes are, and what is done meanwhile."""

    red: Tap
    black: Tap
    doing: Doing


class Deck:
    """One broken build, once for each place that is measured in it."""

    def __init__(self, build: Wired) -> None:
        self.build, self.way, self.fault = build, build.way, build.fault
        self.circuit = build.way.circuit
        self.gates: list[str] = []

    def word(self, k: int, text: str) -> str:
        return f"n{k}_" + re.sub(r"[^a-z0-9]", lambda it: f"z{ord(it[0])}", text.lower())

    def net(self, net: Net, k: int) -> str:
        return "0" if net.kind == "ground" else self.word(k, net.id)

    def node(self, tap: Tap, k: int) -> str:
        if tap in self.fault.lost:
            return self.word(k, f"off {tap.piece} {tap.pin}")
        if tap in self.fault.moved:
            return self.net(next(it for it in self.circuit.nets if it.id == self.fault.moved[tap]), k)
        return self.net(self.circuit.net_of[tap], k)

    def cards(self, asked: Asked, k: int) -> Iterator[str]:
        """Yield the whole way at once: every line of it, and every rail."""
        way, self.fault = self.way, self.build.fault_while(is_lit=asked.doing == "lit")
        moved = (it.partition(":")[0] for it in self.fault.moved.values())
        lines = [
            it for it in dict.fromkeys((way.line, way.to_module, way.to_board, way.entry, *moved)) if it in way.design.signals
        ]
        for net in self.circuit.nets:
            volts = way.finder.model.devices.rail_v(net.id, self.fault) if net.kind == "supply" else None
            if volts is not None:
                yield f"V{self.net(net, k)} {self.net(net, k)} 0 {volts:.9g}"
        seen: set[str] = set()
        for line in lines:
            for piece in way.pieces(line):
                if piece.id not in seen:
                    seen.add(piece.id)
                    yield from self.piece(piece, asked, k, lines)

    def piece(self, piece: Piece, asked: Asked, k: int, lines: list[str]) -> Iterator[str]:
        fault, it = self.fault, f"{k}_{re.sub('[^a-z0-9]', lambda x: f'z{ord(x[0])}', piece.id.lower())}"
        at = [
            self.node(Tap(piece.id, pin), k) if Tap(piece.id, pin) in self.circuit.net_of else f"free{it}{pin}"
            for pin in piece.pins
        ]
        yield from (f"RL{it}_{place} {node} 0 1e12" for place, node in enumerate(at) if node != "0")
        if piece.id in fault.turned:
            at[0], at[1] = at[1], at[0]
        if piece.id in fault.open and piece.kind not in ("board", "module"):
            return
        if piece.id in fault.shorted:
            a, b = (at[1], at[2]) if piece.kind == "transistor" else (at[0], at[1])
            yield f"R{it} {a} {b} 0.02"
            return
        match piece.kind:
            case "resistor":
                yield f"R{it} {at[0]} {at[1]} {(piece.made or 0) * fault.factor.get(piece.id, 1):.9g}"
            case "lamp":
                yield from self.lamp(piece, at, it)
            case "transistor":
                yield from self.transistor(piece, at, it)
            case "contact":
                yield f"R{it} {at[0]} {at[1]} {0.02 if asked.doing == 'pressed' else 1e9}"
            case "knob":
                share = 0.999 if asked.doing == "pressed" else 0.001
                yield f"RA{it} {at[0]} {at[1]} {KNOB_OHM * (1 - share):.9g}"
                yield f"RB{it} {at[1]} {at[2]} {KNOB_OHM * share:.9g}"
            case "gate":
                vcc = at[piece.pins.index("VCC")]
                yield f"B{it} o{it} 0 V = V({at[0]}) > 1.4 ? V({vcc}) : 0"
                yield f"RG{it} o{it} {at[1]} 50"
            case "board" | "module":
                yield from self.host(piece, asked, k, it, lines)
            case "load":
                yield from self.load(piece, at, it)
            case _:
                yield from (f"RF{it}_{place} {node} 0 1e9" for place, node in enumerate(at) if node != "0")

    def diode(self, name: str, anode: str, cathode: str, curve: DiodeCurve, in_series: int = 1) -> Iterator[str]:
        saturation_a = max(curve.saturation_a, LEAST_A)  # less than a solver takes: the rest is a source ahead of it
        if saturation_a > curve.saturation_a:
            ahead_v = in_series * curve.slope_v * math.log(saturation_a / curve.saturation_a)
            yield f"VA{name} {anode} a{name} {ahead_v:.9g}"
            anode = f"a{name}"
        yield f".model M{name} D(IS={saturation_a:.9e} N={curve.ideality * in_series:.9g} RS={max(curve.series_ohm * in_series, 1e-4):.9g})"
        yield f"D{name} {anode} {cathode} M{name}"

    def lamp(self, piece: Piece, at: list[str], it: str) -> Iterator[str]:
        if piece.curve is not None:
            yield from self.diode(it, at[0], at[1], piece.curve, piece.in_series)
            return
        lamp = self.way.design.lamps[piece.id]
        common = at[piece.pins.index("common")]
        for channel in lamp.channels:
            if channel.branch is None or channel.branch.curve is None or channel.id not in piece.pins:
                continue
            if f"{piece.id}.{channel.id}" in self.fault.open:
                continue
            ends = [common, at[piece.pins.index(channel.id)]]
            if (lamp.common is None or lamp.common.id != "anode") != (piece.id in self.fault.turned):
                ends.reverse()
            yield from self.diode(f"{it}{channel.id}", ends[0], ends[1], channel.branch.curve)

    def transistor(self, piece: Piece, at: list[str], it: str) -> Iterator[str]:
        """A switch by the volts of its first leg, and the diode it has besides."""
        part = piece.transistor
        assert part is not None
        gate, low, source = at
        if part.kind == "npn":
            yield from self.diode(f"{it}b", gate, source, BASE)
            on_v, ohm = 0.55, 1.0
            drop = part.saturation_v.value if part.saturation_v is not None else 0.1
            yield f"V{it}s x{it} {source} {drop}"
            yield f"S{it} {low} x{it} {gate} {source} SW{it}"
        else:
            assert part.gate_threshold_v is not None
            assert part.on_ohm is not None
            yield from self.diode(f"{it}b", source, low, PLAIN_DIODE)
            yield f"RI{it} {gate} 0 1e9"  # of the gate
            on_v, ohm = part.gate_threshold_v.high, part.on_ohm.value
            yield f"S{it} {low} {source} {gate} {source} SW{it}"
        yield f".model SW{it} SW(VT={on_v} VH=0 RON={ohm} ROFF=1e12)"
        yield f"RO{it} {low} {source} 1e9"

    def host(self, piece: Piece, asked: Asked, k: int, it: str, lines: list[str]) -> Iterator[str]:
        devices, node = self.way.finder.model.devices, self.way.design.nodes[piece.id]
        logic_v = devices.logic_v(node, self.fault) or 0.0
        yield f"V{it}l l{it} 0 {logic_v:.9g}"
        for place, pin in enumerate(piece.pins):
            tap = Tap(piece.id, pin)
            net = self.circuit.net_of.get(tap)
            if net is None or net.kind != "signal" or tap in self.fault.dead or tap in self.fault.lost:
                continue
            line = net.id.partition(":")[0]
            signal, at = self.way.design.signals[line].line, self.node(tap, k)
            drives = None
            if logic_v and signal.receiver != piece.id and signal.kind in ("wire", "data", "drive") and line in lines:
                drives = (
                    logic_v
                    if signal.kind != "drive" or (asked.doing == "lit" and line == self.way.line) != self.is_low(line)
                    else 0.0
                )
            if line not in lines:
                continue
            if drives is not None and node.part is not None:
                yield f"V{it}d{place} d{it}{place} 0 {drives:.9g}"
                yield f"R{it}d{place} d{it}{place} {at} {node.part.output_resistance_ohm.value:.9g}"
                continue
            yield from self.diode(f"{it}u{place}", at, f"l{it}", CLAMP)
            yield from self.diode(f"{it}n{place}", "0", at, CLAMP)
            told = self.way.design.plan.signals.get(line)
            if (
                signal.kind == "input"
                and self.way.design.plan.inputs[signal.owner_id].kind in ("button", "switch")
                and (told is None or told.pull_ohm is None)
                and logic_v
            ):
                yield f"RP{it}{place} l{it} {at} {OWN_PULL_OHM}"

    def is_low(self, line: str) -> bool:
        """Whether the lamp of a line is lit by a low pin."""
        lamp = self.way.design.lamps[line.partition(".")[0]]
        found = next((it.is_inverted for it in lamp.channels if it.signal_id == line), None)
        return found if found is not None else lamp.load is not None and lamp.load.on_when == "low"

    def load(self, piece: Piece, at: list[str], it: str) -> Iterator[str]:
        lamp, by_pin = self.way.design.lamps[piece.id], dict(zip(piece.pins, at, strict=True))
        plus, minus = (
            next((by_pin[name] for name in names if name in by_pin), None) for names in (("+", "V+", "VCC"), ("−", "GND"))
        )
        yield from (f"RF{it}_{place} {node} 0 1e9" for place, node in enumerate(at) if node != "0")
        if lamp.load is None or plus is None or minus is None:
            return
        amps = 1e-3 if "+" not in by_pin else lamp.load.current.value or 1e-3
        yield f"R{it} {plus} {minus} {(lamp.load.rated.value or 5.0) / amps:.9g}"


def solved_by_spice(build: Wired, asked: list[Asked], folder: Path) -> list[float]:
    """Return what a meter of 10 megohm shows at each place, V, as ngspice has it."""
    deck = Deck(build)
    cards = ["* a practice round", ".options gmin=1e-15 abstol=1e-14 reltol=1e-6 temp=26.85 tnom=26.85 itl1=1000"]
    for k, it in enumerate(asked):
        a, b = deck.node(it.red, k), deck.node(it.black, k)
        cards += [
            *deck.cards(it, k),
            f"RM{k} {a} {b} {METER_OHM}",
            f"RX{k} {a} 0 1e13",
            f"BM{k} m{k} 0 V = V({a}) - V({b})".replace("V(0)", "0"),
            f"RMM{k} m{k} 0 1",
        ]
    told = [f"let m{k} = v(m{k})\nprint m{k}" for k in range(len(asked))]
    file = folder / "round.cir"
    file.write_text("\n".join([*cards, ".control", "set numdgt=7", "op", *told, ".endc", ".end", ""]), encoding="ascii")
    done = subprocess.run(["ngspice", "-b", str(file)], capture_output=True, text=True, check=False, timeout=120)
    found: Mapping[int, float] = {int(at): float(value) for at, value in FIGURE.findall(done.stdout)}
    assert len(found) == len(asked), done.stdout[-800:] + done.stderr[-800:]
    return [found[k] for k in range(len(asked))]
