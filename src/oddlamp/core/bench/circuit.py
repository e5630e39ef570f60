"""The circuit of a plan as it stands on the bench: every part with its pins, and which pins are one and the same net."""

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Final, Literal, NamedTuple

from oddlamp.core.electrical.diode import DiodeCurve
from oddlamp.core.parts.models import TransistorPart

PieceKind = Literal[
    "source", "converter", "bar", "board", "module", "chip", "adapter", "lamp", "load", "contact", "knob", "receiver",
    "sensor", "transistor", "gate", "resistor", "diode", "zener", "capacitor", "fuse",
]  # fmt: skip
NetKind = Literal["ground", "supply", "signal"]
# Parts with two legs that stand in a wire, or between two, and have no place of their own.
INLINE: Final = frozenset({"resistor", "diode", "zener", "capacitor", "fuse"})
HOSTS: Final = frozenset({"board", "module", "chip"})  # of these only the pins that are wired are told
FIRST, SECOND = "1", "2"
BAR: Final = ""  # stands for the pin of a net's own strip, which all of it meets at


class Tap(NamedTuple):
    """One pin of one part."""

    piece: str
    pin: str


@dataclass(frozen=True, slots=True)
class Piece:
    """One part: its pins in the order they stand on it, what it is, and what it would be bought as.

    ``buy`` is empty for what is no part of its own, ``why`` what it is for; ``made`` is what its value is, ohm of a resistor and farad of a capacitor, and ``value_path`` where the plan keeps that;
    ``curve`` and ``in_series`` are those of LEDs, ``transistor`` of a switch. A diode's first leg is its anode, a zener's
    its cathode. ``alike`` is the
    same for strings side by side on one line, ``fold`` for parts that are counted and stand on lines of their own.
    """

    id: str
    kind: PieceKind
    label: str
    pins: tuple[str, ...]
    stage: str
    buy: str = ""
    why: str = ""
    made: float | None = None
    value_path: tuple[str, ...] = ()
    curve: DiodeCurve | None = None
    in_series: int = 1
    transistor: TransistorPart | None = None
    alike: str = ""
    fold: str = ""

    @property
    def is_inline(self) -> bool:
        """Whether it stands in a wire and has no place of its own."""
        return self.kind in INLINE


@dataclass(frozen=True, slots=True)
class Net:
    """Pins that are joined. ``id`` is that of the line, rail or end it belongs to, with what tells its nets apart."""

    id: str
    label: str
    kind: NetKind
    taps: tuple[Tap, ...]
    stage: str


@dataclass(frozen=True)
class Circuit:
    """All parts and nets of a plan; ``open`` says what has no place in it yet, and why."""

    pieces: dict[str, Piece]
    nets: tuple[Net, ...]
    open: tuple[str, ...] = ()

    @cached_property
    def net_of(self) -> dict[Tap, Net]:
        """The net of each pin."""
        return {tap: net for net in self.nets for tap in net.taps}

    def is_alone(self, piece: Piece) -> bool:
        """Tell whether a part's value in the plan is that of no other part which has another one now."""
        return len(self._made_at.get(piece.value_path, ())) <= 1

    @cached_property
    def _made_at(self) -> dict[tuple[str, ...], set[float | None]]:
        found: dict[tuple[str, ...], set[float | None]] = {}
        for it in self.pieces.values():
            found.setdefault(it.value_path, set()).add(it.made)
        return found


@dataclass
class _Tied:
    """Pins tied under one name, before names that share a pin become one net."""

    label: str
    kind: NetKind
    stage: str
    taps: dict[Tap, None] = field(default_factory=dict)


class Ties:
    """Collects parts and which of their pins are tied together."""

    def __init__(self) -> None:
        self.pieces: dict[str, Piece] = {}
        self.open: list[str] = []
        self._tied: dict[str, _Tied] = {}

    def add(self, piece: Piece) -> Piece:
        """Put a part in; the same id again is the same part."""
        return self.pieces.setdefault(piece.id, piece)

    def net(self, name: str, label: str, kind: NetKind, stage: str) -> str:
        """Give a net its label and kind, once."""
        self._tied.setdefault(name, _Tied(label, kind, stage))
        return name

    def tie(self, name: str, *taps: Tap) -> None:
        """Tie pins to a net that was named."""
        self._tied[name].taps |= dict.fromkeys(taps)

    def circuit(self) -> Circuit:
        """Join what shares a pin, and leave out nets with nothing to join: a name with one pin is no wire."""
        heads: dict[str, str] = {name: name for name in self._tied}

        def head(name: str) -> str:
            while heads[name] != name:
                heads[name] = heads[heads[name]]
                name = heads[name]
            return name

        by_tap: dict[Tap, str] = {}
        for name, it in self._tied.items():
            for tap in it.taps:
                other = by_tap.setdefault(tap, name)
                first, second = head(other), head(name)
                if first != second:
                    heads[second] = first
        rank: dict[NetKind, int] = {"ground": 0, "supply": 1, "signal": 2}
        joined: dict[str, list[str]] = {}
        for name in self._tied:
            joined.setdefault(head(name), []).append(name)
        nets = []
        for names in joined.values():
            first = min(names, key=lambda it: rank[self._tied[it].kind])
            taps = dict.fromkeys(tap for name in (first, *names) for tap in self._tied[name].taps)
            if len(taps) > 1:
                mine = self._tied[first]
                nets.append(Net(first, mine.label, mine.kind, tuple(taps), mine.stage))
        used = {tap for net in nets for tap in net.taps}
        pieces = {
            name: replace(it, pins=tuple(pin for pin in it.pins if Tap(name, pin) in used)) if it.kind in HOSTS else it
            for name, it in self.pieces.items()
        }
        return Circuit(pieces, tuple(nets), tuple(dict.fromkeys(self.open)))
