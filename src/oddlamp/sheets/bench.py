"""The bench as a screen shows it: the wires in the order to make them, the drawing that is the same list, what to cut and to buy."""

from collections.abc import Iterable
from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.bench.drawing import Drawing, drawing
from oddlamp.core.bench.lists import Bought, cut_list, parts_list
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.schematics import schematics
from oddlamp.core.bench.spice import spice_deck
from oddlamp.core.bench.svg import as_svg
from oddlamp.core.bench.tables import (
    CUTS_HEAD,
    PARTS_HEAD,
    WIRES_HEAD,
    Rows,
    as_csv,
    as_markdown,
    cost_told,
    cut_rows,
    part_rows,
    wire_rows,
)
from oddlamp.core.bench.wiring import BARE, COLOURS, Group, Wire, Wiring, length_told, wiring
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.sheets.bringup import bring_up_files, measured_csv
from oddlamp.sheets.fits import spread_panels
from oddlamp.sheets.models import Entry, Panel

ListName = Literal["wiring", "cut", "parts", "bringup", "measured", "drawing", "spice", "schematics"]
TITLES: Final[dict[Group, tuple[str, str]]] = {
    "ground": ("Ground first", "Power off, plug out. All grounds meet, or nothing that is said arrives."),
    "supply": ("Then supply", "Still off. Measure from plus to ground before it is switched on: never near nothing."),
    "signal": ("Then signals", "What is thin and many comes last, each in a colour of its own."),
    "last": ("Last, with the program on the board", "These hang on pins that the upload takes: leave them off until it is done, and take them off for the next."),
}  # fmt: skip
LIMITS_MOST: Final = 40


class WireShown(Model):
    """One wire: what it joins, what it is, whether it is in. ``marks`` are the nets and parts of the drawing it stands for."""

    id: str
    group: str
    start: str
    through: str
    end: str
    colour: str
    gauge: str
    length: str
    length_why: str
    is_told: bool
    why: str
    measures: str
    is_made: bool
    was: str
    fold: str
    stage: str
    marks: tuple[str, ...]
    path: tuple[str, ...]
    colour_path: tuple[str, ...]
    tick: Document
    untick: Document


class GroupShown(Model):
    """A stretch of the list with what it is about."""

    id: str
    title: str
    detail: str
    wires: int


class GoneShown(Model):
    """A wire that was made, and is in no plan any more."""

    told: str
    patch: Document


class TableShown(Model):
    """A list as a table: its heading, and its rows."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


class CircuitShown(Model):
    """One circuit that can be drawn: the id of its line, and what it is of."""

    id: str
    label: str


class BoughtShown(Model):
    """One kind of part: how many, what there is of it and what one costs, to be told in place, and how it is put in."""

    count: int
    what: str
    has: Entry
    price: Entry
    to_buy: int
    mock_up: str
    final: str
    for_final: bool


class BenchShown(Model):
    """The wiring of a plan."""

    sentence: str
    detail: str
    groups: tuple[GroupShown, ...]
    wires: tuple[WireShown, ...]
    gone: tuple[GoneShown, ...]
    open: tuple[str, ...]
    colours: tuple[str, ...]
    cuts: TableShown
    parts: tuple[BoughtShown, ...]
    drawing: Drawing
    circuits: tuple[CircuitShown, ...] = Field(description="Drives and level shifts that can be drawn, each a file")
    spreads: tuple[Panel, ...] = Field(description="Where lamps stand, and what could be laid out")
    cost: str


def bench_shown(design: Design) -> BenchShown:
    """Show the wiring of a design."""
    made = wiring(design, netlist(design))
    shower = _Shower(design, made)
    rows, bought = tuple(map(shower.shown, made.wires)), parts_list(design, made.circuit)
    counts = {group: sum(it.group == group for it in made.wires) for group in TITLES}
    return BenchShown(
        sentence=_sentence(made),
        detail=_detail(made),
        groups=tuple(GroupShown(id=it, title=TITLES[it][0], detail=TITLES[it][1], wires=count) for it, count in counts.items() if count),
        wires=rows,
        gone=tuple(GoneShown(told=made.told(it.joins), patch=at_path(("bench", "wired", name), None)) for name, it in made.gone.items()),
        open=made.circuit.open[:LIMITS_MOST],
        colours=COLOURS,
        cuts=_table(CUTS_HEAD, cut_rows(cut_list(design, made))),
        parts=tuple(map(_bought, bought)),
        drawing=drawing(design, made),
        circuits=tuple(CircuitShown(id=it.id, label=it.label) for it in schematics(design, made)),
        spreads=spread_panels(design),
        cost=cost_told(bought),
    )  # fmt: skip


def _table(head: Iterable[str], rows: Rows) -> TableShown:
    return TableShown(head=tuple(head), rows=tuple(map(tuple, rows)))


def _bought(it: Bought) -> BoughtShown:
    """Show one kind of part. What nobody told is an empty field, and no proposal."""
    at, name = ("bench", "stock", it.what), inner(it.what)
    in_drawer = it.has is not None and bool(it.has_why)
    has = Entry(
        label=f"How many there are: {name}", text="" if it.has is None else str(it.has), path=(*at, "has"),
        origin="proposed" if in_drawer else "own", because=it.has_why if in_drawer else None,
    )  # fmt: skip
    price = Entry(
        label=f"What one costs: {name}", text="" if it.price is None else f"{it.price:.2f}", path=(*at, "price"), origin="own"
    )
    return BoughtShown(
        count=it.count, what=it.what, has=has, price=price, to_buy=it.missing, mock_up=it.mock_up, final=it.final, for_final=it.for_final
    )  # fmt: skip


class _Shower:
    """Shows wires; what is asked for each of them is looked up once for all."""

    def __init__(self, design: Design, made: Wiring) -> None:
        self.made = made
        found = [it.voltage for it in design.rails.values()] + [it.received for it in design.levels]
        found += [it.current_with_pin for lamp in design.lamps.values() for it in lamp.channels]
        self.values = {it.id: it for it in found if it.value is not None}
        self.pins: dict[str, list[PinDesign]] = {}
        for pin in design.pins:
            self.pins.setdefault(pin.signal_id, []).append(pin)
        self.nets = {tap.piece: set[str]() for net in made.circuit.nets for tap in net.taps}
        for net in made.circuit.nets:
            for tap in net.taps:
                self.nets[tap.piece].add(net.id)

    def shown(self, it: Wire) -> WireShown:
        """Show one wire."""
        runs, made = it.runs, self.made
        nets = {made.circuit.net_of[tap].id for tap in (it.start, it.end) if tap in made.circuit.net_of}
        nets |= self.nets.get(it.through or "", set())
        return WireShown(
            id=it.id, group=it.group, start=made.name(it.start), through=made.part(it.through) if it.through is not None else "",
            end=made.name(it.end), colour=runs.colour, gauge="" if it.is_bare else f"{runs.gauge_awg} AWG",
            length="" if it.is_bare else length_told(runs.length_m), length_why=runs.length_why, is_told=runs.is_told, why=it.why, measures=self._value(it.measures),
            is_made=it.is_made, was=made.told(it.was) if it.was else "", fold=it.fold, stage=it.net.stage,
            marks=tuple(sorted(nets | {it.through or it.end.piece, it.start.piece})), path=runs.path, colour_path=runs.colour_path,
            tick=self._tick(it), untick=at_path(("bench", "wired", it.id), None),
        )  # fmt: skip

    def _tick(self, it: Wire) -> Document:
        """Build the patch that ticks a wire: what is in is settled, its part's value and its pin, and moves with no later proposal."""
        circuit = self.made.circuit
        colour = {"colour": it.runs.colour} if it.runs.colour != BARE else {}
        patches = [at_path(("bench", "wired", it.id), {"joins": it.joins} | colour)]
        piece = circuit.pieces.get(it.through or "")
        if piece is not None and piece.value_path and piece.made is not None and circuit.is_alone(piece):
            patches.append(at_path(piece.value_path, piece.made))
        ends = {(tap.piece, tap.pin) for tap in (it.start, it.end)}
        mine = (pin for pin in self.pins.get(it.net.id.partition(":")[0], ()) if (pin.host, pin.label) in ends)
        return join_patches([*patches, *(at_path(pin.path, pin.label) for pin in mine)])

    def _value(self, value_id: str) -> str:
        """Tell what a wire must measure, by the value of that id."""
        found = self.values.get(value_id)
        if found is None:
            return ""
        return f"{found.text} ({found.spread_text})" if found.spread_text else found.text


def _sentence(made: Wiring) -> str:
    total = len(made.wires)
    done = sum(it.is_made for it in made.wires)
    moved = sum(bool(it.was) for it in made.wires) + len(made.gone)
    if not total:
        return "Nothing to wire yet."
    if moved:
        return f"{plural(moved, 'wire')} {'is' if moved == 1 else 'are'} not where the plan has {'it' if moved == 1 else 'them'} now."
    if done == total:
        return f"All {plural(total, 'wire')} are in." if total > 1 else "The one wire is in."
    first = next(it for it in made.wires if not it.is_made)
    if not done:
        return f"{plural(total, 'wire')}, power off, ground first."
    name = f"{made.name(first.start)} to {inner(made.name(first.end))}"
    return f"Wire {made.wires.index(first) + 1} of {total}: {name}."


def _detail(made: Wiring) -> str:
    grounds = [it for it in made.wires if it.group == "ground"]
    if made.wires and not any(it.is_made for it in made.wires):
        return "In the order to make them. Tick by pressing a knot, or with Space; the list and the drawing are one."
    if grounds and not all(it.is_made for it in grounds):
        return "Power stays off; ground is not all in yet."
    return "Power stays off until all is in, and measured."


def list_files(design: Design, what: ListName, of: str | None = None) -> dict[str, str]:
    """Write a list as files: a table to open anywhere and one to read, or the drawing.

    Args:
        design: the plan worked out.
        what: which list.
        of: of the schematics only the one of this line; all where left out.
    Raises:
        OutOfRange: no circuit stands on that line.
    """
    made, title = wiring(design, netlist(design)), design.plan.title
    if what == "bringup":
        return bring_up_files(design)
    if what == "measured":
        return {"measured.csv": measured_csv(design)}
    if what == "spice":
        return {"circuits.cir": spice_deck(design, made.circuit).text}
    if what == "schematics":
        found = {it.id: it for it in schematics(design, made)}
        if of is not None and of not in found:
            raise OutOfRange(
                field="of", given=of[:90], allowed="one of " + (", ".join(found)[:600] or "none: nothing is driven yet")
            )
        return {f"circuit-{name}.svg": it.draw() for name, it in found.items() if of in (None, name)}
    if what == "drawing":
        return {"drawing.svg": as_svg(drawing(design, made), f"{title}: drawing")}
    head, rows, named = {
        "wiring": (WIRES_HEAD, wire_rows(made), "wiring"),
        "cut": (CUTS_HEAD, cut_rows(cut_list(design, made)), "wires to cut"),
        "parts": (PARTS_HEAD, part_rows(parts_list(design, made.circuit)), "parts"),
    }[what]
    return {f"{what}.csv": as_csv(head, rows), f"{what}.md": as_markdown(f"{title}: {named}", head, rows)}
