"""What may be wrong where a measured value is off: every usual fault tried in the circuit around the step, and ranked by what it would show."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from oddlamp.core.bench.circuit import Piece, Tap
from oddlamp.core.bench.devices import Fault
from oddlamp.core.bench.judge import OPEN_OHM
from oddlamp.core.bench.model import Model
from oddlamp.core.bench.step import Step
from oddlamp.core.bench.usual import usual
from oddlamp.core.bench.wiring import Wiring, told_pin
from oddlamp.core.design.design import Design

CLASSES_MOST: Final = 3
TOLD_MOST: Final = 4
LEAST_SHARE: Final = 0.005  # of the likeliest: what is less likely is not told
NEAR_RATIO: Final = 0.12
NEAR_V: Final = 0.12
NEAR_OHM: Final = 1.0
AGAINST: Final = 0.02  # left of a fault's odds where an earlier step speaks against it


WITHOUT_LINE: Final = ("ohms", "fed")


@dataclass(frozen=True, slots=True)
class Suggestion:
    """Faults that show the same at this step, the likeliest first, with what a meter shows where they are."""

    faults: tuple[Fault, ...]
    reading: float
    weight: float

    @property
    def told(self) -> str:
        """The faults in words."""
        told = tuple(dict.fromkeys(it.told for it in self.faults))
        more = f"; or one of {len(told) - TOLD_MOST} more" if len(told) > TOLD_MOST else ""
        return "; or ".join(told[:TOLD_MOST]) + more


def near(unit: str, a: float, b: float) -> bool:
    """Tell whether two readings cannot be told apart, with parts and meters as they are."""
    if unit == "ohm" and OPEN_OHM in (a, b):
        return a == b or min(a, b) > OPEN_OHM / 10
    return abs(a - b) <= _near_by(unit, max(abs(a), abs(b)))


def place_of(piece: Piece) -> str:
    """Return where a fault of a part is: at that part, or at those it is one of."""
    return piece.alike or piece.id


def _near_by(unit: str, value: float) -> float:
    return max(NEAR_RATIO * value, NEAR_OHM if unit == "ohm" else NEAR_V)


class Finder:
    """Finds what may be wrong in one build."""

    def __init__(self, design: Design, of: Wiring) -> None:
        self.design, self.of, self.model = design, of, Model(design, of.circuit)

    def suggestions(
        self, step: Step, value: float, found: Mapping[str, float], steps: tuple[Step, ...]
    ) -> tuple[Suggestion, ...]:
        """Rank what may be wrong.

        Args:
            step: the step whose value is off.
            value: what was measured.
            found: what was measured at other steps, by their ids.
            steps: all of them.
        Returns:
            At most three classes; faults that show the same at this step are one.
        """
        return _classes(step.unit, self.ranked(step, value, found, steps))

    def ranked(
        self, step: Step, value: float, found: Mapping[str, float], steps: tuple[Step, ...]
    ) -> list[tuple[float, float, Fault]]:
        """Return every fault that may be it, with its odds and what it shows here."""
        line = self.model.line_of(step)
        if not line and step.id.partition(".")[0] not in WITHOUT_LINE:
            return []
        ranked: list[tuple[float, float, Fault]] = []
        least, most = step.slack
        for fault in self.faults(line, step):
            shows = self.model.reading(step, fault)
            if shows is None or least <= shows <= most:
                continue  # it would not be off
            others = {name: it for name, it in found.items() if name != step.id}
            weight = fault.odds * self._fits(step, value, shows) * self.stands(fault, line, others, steps)
            if weight > 1e-6:
                ranked.append((weight, shows, fault))
        return ranked

    def stands(self, fault: Fault, line: str, found: Mapping[str, float], steps: tuple[Step, ...]) -> float:
        """Return how well a fault stands beside what was measured at other steps of its line: each that shows otherwise speaks against it."""
        share = 1.0
        for it in steps:
            if line and it.id in found and self.model.line_of(it) == line:
                shows = self.model.reading(it, fault)
                share *= AGAINST if shows is not None and not near(it.unit, shows, found[it.id]) else 1.0
        return share

    def told(self, step: Step, value: float, found: Mapping[str, float], steps: tuple[Step, ...]) -> tuple[str, ...]:
        """Say what may be wrong: what the circuit shows, else what such a value usually is."""
        shown = tuple(it.told for it in self.suggestions(step, value, found, steps))
        return shown or usual(step, value)

    @staticmethod
    def _fits(step: Step, value: float, shows: float) -> float:
        """Return how well a fault explains a value: 1 where it shows just that, next to nothing where far off."""
        if step.unit == "ohm" and OPEN_OHM in (value, shows):
            return 1.0 if min(value, shows) > OPEN_OHM / 10 else 1e-9
        by = _near_by(step.unit, abs(shows))
        if step.unit == "V" and step.nominal:
            # What parts and supply spread in a right build they spread in a wrong one too.
            by = max(by, abs(shows) * ((step.most or 0.0) - (step.least or 0.0)) / 2 / abs(step.nominal))
        return math.exp(-(((value - shows) / by) ** 2) / 2)

    def faults(self, line: str, step: Step) -> Iterator[Fault]:
        """Yield every usual fault around a step."""
        if step.id.startswith("ohms."):
            yield from self._of_resistor(self.of.circuit.pieces[step.piece])
            return
        if step.id.startswith("fed."):
            yield from self._of_supply(self.of.circuit.pieces[step.piece])
            return
        yield from self.around(line)

    def around(self, line: str) -> Iterator[Fault]:
        """Yield every usual fault in the circuit of a line."""
        nets = [net for net in self.of.circuit.nets if net.id.partition(":")[0] == line]
        pieces = (self.of.circuit.pieces[it] for it in dict.fromkeys(tap.piece for net in nets for tap in net.taps))
        alike: set[tuple[str, str]] = set()
        for piece in pieces:
            # Of several alike one stands for all: the maker types the one that is furthest off.
            if not piece.alike or (piece.alike, piece.kind) not in alike:
                alike.add((piece.alike, piece.kind))
                yield from self._of_piece(line, piece)
        yield from self._swapped(line)

    def _called(self, piece: Piece) -> str:
        """Name a part, or the ones alike that it stands for."""
        name = self.of.part(piece.id) if piece.is_inline and piece.id in self.of.designators else self.of.names[piece.id]
        return f"{name}, or one alike," if piece.alike else name

    def _of_resistor(self, piece: Piece) -> Iterator[Fault]:
        called = self._called(piece)
        one = frozenset({piece.id})
        yield Fault("resistor open", place_of(piece), f"{called} is open, or its leg is not in", 3.0, open=one)
        yield Fault("resistor short", place_of(piece), f"{called} is bridged", 1.0, shorted=one)
        yield Fault(
            "resistor tenfold",
            place_of(piece),
            f"{called} is one of ten times as much: read its bands again",
            1.5,
            factor={piece.id: 10.0},
        )
        yield Fault(
            "resistor tenth", place_of(piece), f"{called} is one of a tenth: read its bands again", 1.5, factor={piece.id: 0.1}
        )

    def _of_piece(self, line: str, piece: Piece) -> Iterator[Fault]:
        name, one = self._called(piece), frozenset({piece.id})
        match piece.kind:
            case "resistor":
                yield from self._of_resistor(piece)
            case "lamp":
                yield Fault("lamp turned", place_of(piece), f"{name} is the wrong way round", 3.0, turned=one)
                yield Fault("lamp open", place_of(piece), f"{name} is open, or a leg of it is not in", 2.0, open=one | {line})
                if piece.curve is not None:
                    yield Fault("lamp short", place_of(piece), f"{name} is shorted", 1.0, shorted=one)
            case "diode" | "zener":
                yield Fault("diode turned", place_of(piece), f"{name} is the wrong way round", 3.0, turned=one)
                yield Fault("diode open", place_of(piece), f"{name} is open, or a leg of it is not in", 2.0, open=one)
                yield Fault("diode short", place_of(piece), f"{name} is shorted", 1.0, shorted=one)
            case "transistor":
                yield Fault("switch open", place_of(piece), f"{name} does not conduct: it is broken, or not in", 1.0, open=one)
                yield Fault(
                    "switch short", place_of(piece), f"{name} always conducts: it is broken, or bridged", 1.0, shorted=one
                )
                yield Fault("switch turned", place_of(piece), f"two legs of {name} are swapped", 2.0, turned=one)
            case "contact":
                yield Fault("contact open", place_of(piece), f"{name} does not close, or its wire is off", 2.0, open=one)
                yield Fault(
                    "contact shorted",
                    place_of(piece),
                    f"{name} is always closed: its legs are joined inside, so turn it by a quarter",
                    2.0,
                    shorted=one,
                )
            case "board" | "module":
                yield from self._of_host(line, piece)
        if piece.kind not in ("board", "module") and not piece.is_inline:
            yield from self._of_supply(piece)

    def _of_host(self, line: str, piece: Piece) -> Iterator[Fault]:
        name = self.of.names[piece.id]
        for pin in piece.pins:
            tap = Tap(piece.id, pin)
            net = self.of.circuit.net_of.get(tap)
            if net is not None and net.id.partition(":")[0] == line:
                yield Fault(
                    "wire off",
                    f"{place_of(piece)}.{pin}",
                    f"the wire at {name}, {told_pin(piece, pin)} is off, or sits in the hole beside",
                    3.0,
                    lost=frozenset({tap}),
                )
            elif net is not None and net.kind == "ground":
                yield Fault("ground off", f"{place_of(piece)}.{pin}", f"{name} has no ground", 2.0, lost=frozenset({tap}))
            elif net is not None and net.kind == "supply" and net.id.startswith("rail."):
                yield Fault(
                    "supply off",
                    f"{place_of(piece)}.{pin}",
                    f"{name} has no supply: look for its light",
                    2.0,
                    lost=frozenset({tap}),
                )

    def _of_supply(self, piece: Piece) -> Iterator[Fault]:
        name = self._called(piece)
        for pin in piece.pins:
            tap = Tap(piece.id, pin)
            net = self.of.circuit.net_of.get(tap)
            if net is None or net.kind == "signal":
                continue
            if net.kind == "ground":
                yield Fault("ground off", f"{place_of(piece)}.{pin}", f"{name} has no ground", 2.0, lost=frozenset({tap}))
            else:
                yield Fault("supply off", f"{place_of(piece)}.{pin}", f"{name} gets no supply", 2.0, lost=frozenset({tap}))
                for other in self._other_rails(net.id):
                    yield Fault(
                        "wrong rail",
                        f"{place_of(piece)}.{pin}",
                        f"{name} hangs on {self.of.names[other]}",
                        1.0,
                        moved={tap: other},
                    )

    def _other_rails(self, net_id: str) -> Iterator[str]:
        for net in self.of.circuit.nets:
            if net.id.startswith("rail.") and net.id != net_id:
                yield net.id

    def _swapped(self, line: str) -> Iterator[Fault]:
        """Yield the two wires of a link, one in the place of the other."""
        signal = self.design.signals[line]
        if not signal.line.is_spoken:
            return
        for node in (signal.line.sender, signal.line.receiver):
            piece = self.of.circuit.pieces.get(node or "")
            if piece is None or not {"TX", "RX"} <= set(piece.pins):
                continue
            nets = {pin: self.of.circuit.net_of.get(Tap(piece.id, pin)) for pin in ("TX", "RX")}
            if nets["TX"] is not None and nets["RX"] is not None:
                moved = {Tap(piece.id, "TX"): nets["RX"].id, Tap(piece.id, "RX"): nets["TX"].id}
                yield Fault(
                    "wires swapped", place_of(piece), f"TX and RX of {self.of.names[piece.id]} are swapped", 3.0, moved=moved
                )


def _classes(unit: str, ranked: list[tuple[float, float, Fault]]) -> tuple[Suggestion, ...]:
    """Put faults that show the same together, and the likeliest class first."""
    ranked = sorted(ranked, key=lambda it: -it[0])
    classes: list[list[tuple[float, float, Fault]]] = []
    for it in ranked:
        mine = next((one for one in classes if near(unit, one[0][1], it[1])), None)
        if mine is None:
            classes.append([it])
        else:
            mine.append(it)
    made = [Suggestion(tuple(fault for _, _, fault in one), one[0][1], sum(weight for weight, _, _ in one)) for one in classes]
    made.sort(key=lambda it: -it.weight)
    return tuple(it for it in made[:CLASSES_MOST] if it.weight >= LEAST_SHARE * made[0].weight)
