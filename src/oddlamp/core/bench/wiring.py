"""The wiring list: one row a wire, in the order to make them, read off the circuit so that it can say nothing else."""

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.bench.circuit import BAR, FIRST, SECOND, Circuit, Net, Piece, Tap
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import SignalDesign
from oddlamp.core.english import inner
from oddlamp.core.plan.bench import Wired
from oddlamp.core.plan.model import WireRun
from oddlamp.core.resolve.feeds import LEAD_AWG

Group = Literal["ground", "supply", "signal", "last"]
ORDER: Final[tuple[Group, ...]] = ("ground", "supply", "signal", "last")
RED: Final = "red"
BLACK: Final = "black"
BARE: Final = "bare"
# Other rails have their own, and signals what is left, so that no two beside each other are alike.
RAIL_COLOURS: Final = ("orange", "brown", "pink")
SIGNAL_COLOURS: Final = ("blue", "yellow", "green", "violet", "white", "grey", "turquoise")
COLOURS: Final = (RED, BLACK, *RAIL_COLOURS, *SIGNAL_COLOURS)
DESIGNATORS: Final = {
    "resistor": "R", "capacitor": "C", "diode": "D", "zener": "D", "fuse": "F", "transistor": "Q", "gate": "U",
}  # fmt: skip


LENGTH_WHY: Final = "a usual length; it is reckoned with until you tell yours"
LAID_OUT: Final = "as far as its place is, along the run"


class Runs(NamedTuple):
    """What a wire is made of, with why it is so long, whether the plan says so, and where it can."""

    colour: str
    gauge_awg: int
    length_m: float
    length_why: str
    is_told: bool
    path: tuple[str, ...]
    colour_path: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Wire:
    """One row: from a place, through a part that stands in it if there is one, to another place.

    ``joins`` tells what it joins whatever things are called, ``fold`` is the same for rows that are counted, ``measures`` the
    id of the value that shows it is right, ``was`` what it joined when it was made, where the plan has moved it since.
    """

    id: str
    net: Net
    group: Group
    start: Tap
    end: Tap
    through: str | None
    runs: Runs
    why: str
    measures: str
    fold: str
    joins: str
    is_made: bool = False
    was: str = ""

    @property
    def is_bare(self) -> bool:
        """Whether the legs of a part are all it takes."""
        return self.runs.length_m == 0


@dataclass(frozen=True)
class Wiring:
    """The whole list, with the circuit it was read off; ``gone`` are wires that were made and are in no plan any more."""

    circuit: Circuit
    wires: tuple[Wire, ...]
    names: dict[str, str]
    designators: dict[str, str]
    gone: dict[str, Wired] = field(default_factory=dict)

    def name(self, tap: Tap) -> str:
        """Name a place: a part with its pin, or the strip of a net."""
        if tap.pin == BAR:
            return self.names[tap.piece]
        piece = self.circuit.pieces[tap.piece]
        called = self.names[tap.piece]
        return f"{called}, {told_pin(piece, tap.pin)}" if len(piece.pins) > 1 or piece.kind in ("board", "module") else called

    def part(self, piece_id: str) -> str:
        """Name a part that stands in a wire: what it is called on the drawing, and its value."""
        piece = self.circuit.pieces[piece_id]
        return f"{self.designators[piece_id]} {piece.label}"

    def told(self, joins: str) -> str:
        """Say what a wire joined when it was made, in the names of now; what is gone keeps its id."""
        said = []
        for part in joins.split("|"):
            name, _, value = part.partition("=")
            if value:
                said.append(value)
                continue
            piece_id, _, pin = name.rpartition(".")
            piece = self.circuit.pieces.get(piece_id)
            if piece is None:
                said.append(self.names.get(piece_id, name.strip(".")))
            else:
                said.append(f"{self.names[piece_id]}, {told_pin(piece, pin)}")
        return " – ".join(said)


def told_pin(piece: Piece, pin: str) -> str:
    """Say a pin as it reads: a board's are numbered, a two-legged part's are its legs."""
    if piece.kind in ("board", "chip") and re.fullmatch(r"[A-Z]{0,2}\d+", pin):
        return f"pin {pin}"
    if pin in (FIRST, SECOND):
        return "one leg" if pin == FIRST else "other leg"
    return pin


def wiring(design: Design, circuit: Circuit) -> Wiring:
    """Read the list of wires off a circuit, in the order to make them, with what the plan says is made."""
    return _Lister(design, circuit).made()


class _Lister:
    def __init__(self, design: Design, circuit: Circuit) -> None:
        self.design, self.circuit = design, circuit
        self.designators = _designators(circuit)
        self.names = _names(circuit, self.designators)
        self.made_of = dict(design.plan.bench.wired) if design.plan.bench is not None else {}
        self.anchors = {net.id: self._anchor(net) for net in circuit.nets}
        self.colours = dict(self._coloured())
        self.folded = _counted(circuit)

    def made(self) -> Wiring:
        """Put the list in order: ground, supply, signals, and last what must be off while a program is uploaded."""
        rows = [*self._direct(), *self._through()]
        places = {net.id: at for at, net in enumerate(self.circuit.nets)}
        lines = {line: at for at, line in enumerate(self.design.signals)}
        rows.sort(key=lambda it: (ORDER.index(it.group), self._place(it, lines), places[it.net.id], not self._is_fed(it)))
        rows = [self._ticked(it) for it in rows]
        there = {row.id for row in rows}
        gone = {name: it for name, it in self.made_of.items() if name not in there}
        return Wiring(self.circuit, tuple(rows), self.names, self.designators, gone)

    def _place(self, row: Wire, lines: dict[str, int]) -> int:
        return lines.get(row.net.id.partition(":")[0], -1) if row.group in ("signal", "last") else -1

    def _is_fed(self, row: Wire) -> bool:
        """Tell whether a row brings supply in: it comes first of its net."""
        return row.start.pin != BAR and self.circuit.pieces[row.start.piece].kind == "source"

    def _anchor(self, net: Net) -> Tap:
        """Return the place that the wires of a net meet at: its own strip, else its first part with a place of its own."""
        places = [tap for tap in net.taps if not self.circuit.pieces[tap.piece].is_inline]
        if net.kind != "signal" and len(net.taps) > 2:
            return Tap(net.id, BAR)
        return places[0] if places else net.taps[0]

    def _direct(self) -> Iterator[Wire]:
        for net in self.circuit.nets:
            anchor = self.anchors[net.id]
            counts = Counter(it.piece for it in net.taps)
            for tap in net.taps:
                if tap == anchor or self.circuit.pieces[tap.piece].is_inline:
                    continue
                row_id = f"{net.id}~{tap.piece}" + (f"~{_slug(tap.pin)}" if counts[tap.piece] > 1 else "")
                is_source = self.circuit.pieces[tap.piece].kind == "source"
                yield self._row(row_id, net, *((tap, anchor) if is_source else (anchor, tap)), None)

    def _through(self) -> Iterator[Wire]:
        for piece in self.circuit.pieces.values():
            if not piece.is_inline:
                continue
            nets = [self.circuit.net_of.get(Tap(piece.id, leg)) for leg in (FIRST, SECOND)]
            if nets[0] is None or nets[1] is None:
                continue
            start, end = (self.anchors[net.id] for net in nets if net is not None)
            mine = next((net for net in nets if net is not None and net.kind == "signal"), nets[0])
            yield self._row(piece.id, mine, start, end, piece)

    def _row(self, row_id: str, net: Net, start: Tap, end: Tap, part: Piece | None) -> Wire:
        signal = self.design.signals.get(net.id.partition(":")[0])
        group: Group = "signal" if net.kind == "signal" else net.kind
        if part is not None and net.kind != "signal":
            group = "supply"
        if group == "signal" and signal is not None and self._waits(signal):
            group = "last"
        through = f"{part.id}={part.label}" if part is not None else ""
        joins = "|".join(filter(None, (".".join(start), through, ".".join(end))))
        counted = (
            part.alike or part.fold if part is not None else next((it for tap in (end, start) if (it := self._alike(tap))), "")
        )
        return Wire(
            id=row_id, net=net, group=group, start=start, end=end, through=part.id if part is not None else None,
            runs=self._runs(row_id, net, group, start, end, part, signal), why=part.why if part is not None else self._why(net, start, end),
            measures=self._measures(net, signal, part), fold=f"{counted}~{net.kind}~{part is None}" if counted else "",
            joins=joins,
        )  # fmt: skip

    def _alike(self, tap: Tap) -> str:
        return self.folded.get(tap.piece, "") if tap.pin != BAR else ""

    def _waits(self, signal: SignalDesign) -> bool:
        """Tell whether a line hangs on a pin that the upload of a program takes."""
        for pin in (signal.pin, signal.far_pin):
            part = self.design.nodes[pin.host].part if pin is not None else None
            it = part.pin(pin.label or "") if part is not None and pin is not None else None
            if it is not None and it.busy_with in ("upload", "usb", "programming") and signal.line.kind != "drive":
                return True
        return False

    def _why(self, net: Net, start: Tap, end: Tap) -> str:
        if net.kind == "ground":
            return "one ground for all that speak to each other"
        if net.kind == "supply":
            other = start if end.pin == BAR else end
            is_source = self.circuit.pieces[other.piece].kind == "source"
            return f"feeds {inner(net.label)}" if is_source else f"feeds {inner(self.names[other.piece])}"
        signal = self.design.signals.get(net.id.partition(":")[0])
        if signal is not None and signal.line.is_spoken:
            crossed = getattr(self.design.plan.links[signal.line.owner_id], "is_crossed", None)
            return "straight, as the plan says: TX to TX" if crossed is False else "crossed: what one end sends, the other hears"
        return inner(net.label)

    def _measures(self, net: Net, signal: SignalDesign | None, part: Piece | None) -> str:
        if net.kind == "supply":
            rail = net.id.removeprefix("rail.")
            return self.design.rails[rail].voltage.id if rail in self.design.rails else ""
        if signal is None or (part is not None and part.kind not in ("resistor", "diode")):
            return ""
        if signal.level is not None and net.id != signal.line.id:
            return signal.level.received.id
        lamp = self.design.lamps.get(signal.line.owner_id) if signal.line.owner[0] == "lamps" else None
        channel = next((it for it in lamp.channels if it.signal_id == signal.line.id), None) if lamp is not None else None
        return channel.current_with_pin.id if channel is not None and net.id != signal.line.id else ""

    # Colour, gauge and length

    def _coloured(self) -> Iterator[tuple[str, str]]:
        """Give each net a colour: red and black by common practice, other rails and lines each their own."""
        rails = [net for net in self.circuit.nets if net.kind == "supply"]
        first = set[str]()  # of each place the first
        for net in rails:
            rail = self.design.rails.get(net.id.removeprefix("rail."))
            if rail is not None and rail.end not in {self.design.rails[it.removeprefix("rail.")].end for it in first}:
                first.add(net.id)
        others = iter(range(10_000))
        for net in self.circuit.nets:
            if net.kind == "ground":
                yield net.id, BLACK
            elif net.kind == "supply":
                yield (
                    net.id,
                    RED
                    if net.id in first or net.id.startswith(("lead.", "plug."))
                    else RAIL_COLOURS[next(others) % len(RAIL_COLOURS)],
                )
        lines = dict.fromkeys(net.id.partition(":")[0] for net in self.circuit.nets if net.kind == "signal")
        for at, line in enumerate(lines):
            yield line, SIGNAL_COLOURS[at % len(SIGNAL_COLOURS)]

    def _runs(
        self, row_id: str, net: Net, group: Group, start: Tap, end: Tap, part: Piece | None, signal: SignalDesign | None
    ) -> Runs:
        usual_m = self.design.catalog.proposals["wire"].value or 0.2
        own: WireRun | None = None
        path: tuple[str, ...]
        lamp = self.circuit.pieces[end.piece].stage.removeprefix("lamps.") if end.pin != BAR else ""
        if group in ("signal", "last") and signal is not None:
            told = self.design.plan.signals.get(signal.line.id)
            own, path = (told.wire if told is not None else None), (*signal.line.path, "wire")
        elif lamp in self.design.plan.lamps:
            own, path = self.design.plan.lamps[lamp].feed, ("lamps", lamp, "feed")
        elif (cable := self._cable(start, end)) is not None:
            own, path = self.design.plan.sources[cable].cable, ("sources", cable, "cable")
        else:
            own, path = self.design.plan.wires.get(row_id), ("wires", row_id)
        colour_path = (*path, "colour") if path[0] in ("signals", "wires") else ("wires", row_id, "colour")
        beside = self.design.plan.wires.get(row_id)
        colour = (own.colour if own is not None and path[0] in ("signals", "wires") else None) or (beside.colour if beside is not None else None)  # fmt: skip
        if part is not None and (part.kind == "capacitor" or self._is_beside(part)):
            return Runs(BARE, LEAD_AWG, 0.0, "", False, (), ())
        lead_m, is_told = self._lead(group, start, end), own is not None and own.length_m is not None
        usual = self.colours.get(net.id.partition(":")[0] if net.kind == "signal" else net.id, BLACK)
        return Runs(
            colour=colour or usual,
            gauge_awg=own.gauge_awg if own is not None and own.gauge_awg is not None else LEAD_AWG,
            length_m=own.length_m if own is not None and own.length_m is not None else usual_m if lead_m is None else lead_m,
            length_why="" if is_told else LENGTH_WHY if lead_m is None else LAID_OUT,
            is_told=is_told,
            path=path,
            colour_path=colour_path,
        )

    def _lead(self, group: Group, *taps: Tap) -> float | None:
        """Return how far it is to the lamp that a wire ends at, where its place is told: to its string's first LED, or from its last."""
        for tap in taps:
            piece = self.circuit.pieces.get(tap.piece) if tap.pin != BAR else None
            leads = (
                self.design.leads.get(piece.stage.removeprefix("lamps."))
                if piece is not None and piece.kind in ("lamp", "load")
                else None
            )
            if piece is not None and leads:
                number = re.search(r"_(\d+)$", piece.id) if piece.alike else None
                lead = leads[min(int(number[1]), len(leads)) - 1 if number else 0]
                return lead.first_m if group in ("signal", "last") else lead.last_m
        return None

    def _is_beside(self, part: Piece) -> bool:
        """Tell whether a part stands from a line to ground or to a rail, on its own legs."""
        nets = [self.circuit.net_of[Tap(part.id, leg)] for leg in (FIRST, SECOND)]
        lamps = any(self.circuit.pieces[tap.piece].kind == "lamp" for net in nets if net.kind == "signal" for tap in net.taps)
        return any(net.kind != "signal" for net in nets) and not (lamps and part.kind == "resistor")

    def _cable(self, *taps: Tap) -> str | None:
        """Return the source whose lead this is."""
        names = (it.piece.removeprefix("source.") for it in taps if it.pin != BAR and it.piece.startswith("source."))
        return next((it for it in names if it in self.design.plan.sources), None)

    def _ticked(self, row: Wire) -> Wire:
        made = self.made_of.get(row.id)
        if made is None:
            return row
        runs = row.runs._replace(colour=made.colour) if made.colour and row.runs.colour != BARE else row.runs
        return replace(row, is_made=made.joins == row.joins, was="" if made.joins == row.joins else made.joins, runs=runs)


def _slug(pin: str) -> str:
    """Write a pin as part of an id."""
    return re.sub(r"[^a-z0-9+-]", "_", pin.lower().replace("−", "-"))


def _designators(circuit: Circuit) -> dict[str, str]:
    """Give parts that are bought by the piece a letter and a number, in the order of the circuit (letters as IEC 60617 drawings carry them, from memory)."""
    counts: Counter[str] = Counter()
    found = {}
    for piece in circuit.pieces.values():
        letter = DESIGNATORS.get(piece.kind)
        if letter is not None:
            counts[letter] += 1
            found[piece.id] = f"{letter}{counts[letter]}"
    return found


def _names(circuit: Circuit, designators: dict[str, str]) -> dict[str, str]:
    """Name every part and every net's strip so that no two are called alike."""
    wanted = {it.id: designators.get(it.id, it.label) for it in circuit.pieces.values()}
    wanted |= {net.id: net.label for net in circuit.nets if net.kind != "signal"}
    counts, seen, names = Counter(wanted.values()), Counter[str](), dict[str, str]()
    # "Moon, red" may be a part of that name, or the leg of one called "Moon".
    for label in [it for it in counts if any(it[:at] in counts for at in (m.start() for m in re.finditer(", ", it)))]:
        counts[label] += 1
    taken = {label for label, count in counts.items() if count == 1}
    for key, label in wanted.items():
        if counts[label] == 1:
            names[key] = label
            continue
        seen[label] += 1
        while (told := f"{label} ({seen[label]})") in taken:
            seen[label] += 1
        names[key] = told
        taken.add(told)
    return names


def _counted(circuit: Circuit) -> dict[str, str]:
    """Return for each part that is one of several alike what they have in common."""
    return {it.id: it.alike or it.fold for it in circuit.pieces.values() if it.alike or it.fold}


def length_told(length_m: float) -> str:
    """Write a length of wire in whole centimetres, metres from one on."""
    return si(length_m, "m") if length_m >= 1 else f"{length_m * 100:.3g}\u00a0cm"
