"""Lines of a circuit: from the pin of one part to that of another, with what its school puts in between; and inputs."""

from typing import Final

from oddlamp.core.bench.circuit import FIRST, SECOND, PieceKind, Tap
from oddlamp.core.bench.making import GND, Maker
from oddlamp.core.design.lines import LevelDesign, SignalDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import inner
from oddlamp.core.plan.model import Input
from oddlamp.core.plan.signals import Line, input_lines

MODULE_PINS: Final = {"key": "KEY", "state": "STATE", "enable": "EN", "reset": "RST"}


class Lines:
    """Puts lines and inputs in."""

    def __init__(self, maker: Maker) -> None:
        self.of, self.design, self.ties = maker, maker.design, maker.ties

    def line(self, signal: SignalDesign) -> None:
        line, level = signal.line, signal.level
        if line.is_usb or (level is not None and level.is_omitted) or (line.kind == "wire" and self._is_left_out(line)):
            return
        taps = [tap for node in (line.sender, line.receiver) if (tap := self._tap(signal, node)) is not None]
        if line.kind == "bus":
            mine = self.of.host_tap(signal, line.near)
            taps = [*([mine] if mine else []), *(Tap(chip, self._bus_pin(chip, line.lead)) for chip in line.far if chip in self.ties.pieces)]  # fmt: skip
        if len(taps) < 2 or level is None:
            for tap in taps:
                self.ties.tie(self.of.net_at(line), tap)
            return
        self.shifted(signal, level, taps[0], *taps[1:])

    def _is_left_out(self, line: Line) -> bool:
        signal = self.design.plan.signals.get(line.id)
        return signal is not None and bool(signal.is_omitted)

    def _bus_pin(self, chip: str, lead: str) -> str:
        pin = "CS" if lead == "select" else lead.upper()
        self.of.pin(chip, pin)
        return pin

    def _tap(self, signal: SignalDesign, node_id: str | None) -> Tap | None:
        """Return the pin of a line at one of its nodes."""
        line, node = signal.line, self.design.nodes.get(node_id or "")
        if node is None or line.kind == "bus":
            return None
        if node.node.kind == "board":
            return self.of.host_tap(signal, node.id)
        if node.node.kind in ("module", "chip"):
            pin = MODULE_PINS.get(line.lead) or self._spoken_pin(line, is_sender=node.id == line.sender)
            self.of.pin(node.id, pin)
            return Tap(node.id, pin)
        piece = self.of.add(f"adapter.{node.id}", "adapter", f"Serial adapter of {inner(node.label)}", ("TX", "RX", GND), node.stage, "Serial adapter, USB")  # fmt: skip
        far = self.design.nodes.get((line.receiver if node.id == line.sender else line.sender) or "")
        self.ties.tie(self.of.ground(far.end if far is not None else None), Tap(piece, GND))
        return Tap(piece, "TX" if node.id == line.sender else "RX")

    def _spoken_pin(self, line: Line, *, is_sender: bool) -> str:
        """Return the pin of a module that a serial wire takes: where the plan says straight, TX goes to TX."""
        is_crossed = getattr(self.design.plan.links[line.owner_id], "is_crossed", None) is not False
        return "TX" if is_sender == is_crossed else "RX"

    def shifted(self, signal: SignalDesign, level: LevelDesign, sender: Tap, *receivers: Tap) -> None:
        """Bring a line across as its school does; the series resistor of pixels stands behind it, the line's own pull at the receiver."""
        line, school = signal.line, level.school.id
        near, far = self.of.net_at(line), self.of.net_at(line)
        ground = self.of.ground(level.receiver.end)
        high, low = self._supply_at(level.receiver, line), self._supply_at(level.sender, line)
        at = line.id
        tolerance = f"{level.tolerance.text}" if level.tolerance is not None else ""
        if school in ("divider", "zener", "clamp", "mosfet", "gate", "diode"):
            far = self.of.net_at(line, "far")
        if school == "divider" and level.upper is not None and level.lower is not None:
            self.of.resistor(f"{at}.upper", level.upper, near, far, "upper half of the divider", more=tolerance)
            self.of.resistor(f"{at}.lower", level.lower, far, ground, "lower half of the divider", more=tolerance)
        elif school in ("zener", "clamp") and level.extra is not None:
            self.of.resistor(f"{at}.series", level.extra, near, far, "keeps small what the receiver has to take", more=tolerance)
            if school == "zener":
                self.of.between(
                    f"{at}.zener",
                    "zener",
                    "3.3 V zener",
                    far,
                    ground,
                    line.stage,
                    "Zener diode, 3.3 V",
                    "holds the line at its volts",
                )
        elif school == "diode" and level.extra is not None:
            self.of.between(
                f"{at}.diode", "diode", "diode", far, near, line.stage, "Small diode", "lets the sender pull low and no more"
            )
            if high is not None:
                self.of.resistor(
                    f"{at}.pull_up", level.extra, high, far, "lifts the line to the receiver's own volts", more=tolerance
                )
        elif school == "mosfet" and level.extra is not None:
            self._shifter(level, near, far, low, high, tolerance)
        elif school == "gate":
            gate = self.of.add(f"{at}.gate", "gate", "Gate", ("IN", "OUT", "VCC", GND), line.stage, "Logic gate that hears 2.0 V")
            self.ties.tie(near, Tap(gate, "IN"))
            self.ties.tie(far, Tap(gate, "OUT"))
            self.ties.tie(ground, Tap(gate, GND))
            if high is not None:
                self.ties.tie(high, Tap(gate, "VCC"))
        self.ties.tie(near, sender)
        if level.series is not None:
            behind = self.of.net_at(line, "behind")
            self.of.resistor(f"{at}.in_series", level.series, far, behind, "calms the edges of the data line")
            far = behind
        self.ties.tie(far, *receivers)
        self._pulled(level, far, ground, high)

    def _shifter(self, level: LevelDesign, near: str, far: str, low: str | None, high: str | None, tolerance: str) -> None:
        """Put in a MOSFET whose gate and source stand at the lower supply, with a resistor to its own supply on each side."""
        at, pull = level.id, level.extra
        if pull is None:
            return
        a, b = level.sender.logic, level.receiver.logic
        is_up = a is not None and b is not None and a.value is not None and b.value is not None and a.value <= b.value
        below, above, lower, upper = (near, far, low, high) if is_up else (far, near, high, low)
        fet = self.of.add(f"{at}.fet", "transistor", "Shifter", ("G", "S", "D"), level.stage, "Small MOSFET, for a level shift")
        self.ties.tie(below, Tap(fet, "S"))
        self.ties.tie(above, Tap(fet, "D"))
        for name, side, supply in (("low", below, lower), ("high", above, upper)):
            if supply is not None:
                self.of.resistor(f"{at}.pull_{name}", pull, supply, side, "lifts this side to its own volts", more=tolerance)
        if lower is not None:
            self.ties.tie(lower, Tap(fet, "G"))

    def _pulled(self, level: LevelDesign, far: str, ground: str, high: str | None) -> None:
        if level.pull is None:
            return
        told = self.design.plan.signals.get(level.id)
        its = self.design.plan.inputs.get(level.line.owner_id)
        fold = f"{level.line.stage}.pull" if its is not None and its.count not in (None, 1) else ""
        to = told.pull_to if told is not None else None
        if to in self.design.rails:
            self.of.resistor(
                f"{level.id}.pull", level.pull, self.of.rail(to or ""), far, "lifts the line while nothing drives it", fold=fold
            )
        elif level.line.kind == "bus" and to is None:
            host = self.design.nodes.get(level.line.near or "")
            up = self.of.logic(host) if host is not None else high
            if up is not None:
                self.of.resistor(f"{level.id}.pull", level.pull, up, far, "lifts the line while nothing drives it", fold=fold)
        else:
            self.of.resistor(f"{level.id}.pull", level.pull, far, ground, "holds the line low while nothing drives it", fold=fold)

    def _supply_at(self, node: NodeDesign, line: Line) -> str | None:
        """Return the net that feeds an end of a line; what hangs there may be no node but a lamp or an input."""
        if node.id in self.design.nodes:
            return self.of.logic(self.design.nodes[node.id])
        if node.rail_id in self.design.rails and line.owner[0] != "inputs":
            return self.of.rail(node.rail_id or "")
        it = self.design.plan.inputs.get(line.owner_id)
        if it is None:
            return None
        return self.of.rail(it.rail) if it.rail in self.design.rails else self.of.logic(self.design.nodes[it.host])

    def input(self, name: str, it: Input) -> None:
        host, stage = self.design.nodes[it.host], f"inputs.{name}"
        for at, line_id in enumerate(input_lines(name, it), 1):
            signal = self.design.signals[line_id]
            tap = self.of.host_tap(signal, it.host)
            if tap is None or (signal.level is not None and signal.level.is_omitted):
                continue
            out = self._sensed(name if it.count in (None, 1) else f"{name}_{at}", signal.line.name, it, host, line_id, stage)
            if signal.level is None:
                self.ties.tie(self.of.net_at(signal.line), out, tap)
            else:
                self.shifted(signal, signal.level, out, tap)

    def _sensed(self, name: str, label: str, it: Input, host: NodeDesign, line: str, stage: str) -> Tap:
        """Put one input in, with its supply, and return the pin its line begins at."""
        up = self.of.rail(it.rail) if it.rail in self.design.rails else self.of.logic(host)
        ground = self.of.ground(self.design.rails[it.rail].end if it.rail in self.design.rails else host.end)
        told = self.design.plan.signals.get(line)
        fold = stage if it.count not in (None, 1) else ""
        piece_id = f"inputs.{name}"
        if it.kind in ("button", "switch"):
            to = up if told is not None and told.pull_ohm is not None and told.pull_to == "ground" else ground
            piece = self.of.add(piece_id, "contact", label, (FIRST, SECOND), stage, it.kind.capitalize(), fold=fold)
            if to is not None:
                self.ties.tie(to, Tap(piece, SECOND))
            return Tap(piece, FIRST)
        kind: PieceKind = "knob" if it.kind == "knob" else "receiver" if it.kind == "remote-receiver" else "sensor"
        pins = ("top", "wiper", "bottom") if kind == "knob" else ("VCC", "OUT", GND)
        buy = {"knob": "Potentiometer, 10 kΩ, linear", "receiver": "Infra-red receiver, 38 kHz", "sensor": "Sensor"}[kind]
        piece = self.of.add(piece_id, kind, label, pins, stage, buy, fold=fold)
        if up is not None:
            self.ties.tie(up, Tap(piece, pins[0]))
        self.ties.tie(ground, Tap(piece, pins[2]))
        return Tap(piece, pins[1])
