"""What feeds each rail, and the volts it has while nothing is drawn: from a source, a converter, or a board's own output."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.design.supplies import Feed, Picked, RailDesign
from oddlamp.core.design.values import NOT_YET, Slot, Value, first_known
from oddlamp.core.electrical.wire import area_m2, round_trip_ohm
from oddlamp.core.parts.models import BoardPart, Catalog
from oddlamp.core.parts.own import as_used
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.parts.supply import ConverterPart, SourcePart
from oddlamp.core.plan.model import Plan, Rail, WireRun
from oddlamp.core.resolve.chosen import is_fed_past_regulator, own_figures, pick_part

JUMPER_OHM: Final = 0.1  # of one with its contacts in a breadboard; common practice, no source
LEAD_AWG: Final = 24  # a network-cable core, or common hook-up wire
PASSES_V: Final = 0.4  # what a step-up converter's diode keeps where more comes in than it makes; from memory
FIVE: Final = "supply_5v"
THREE: Final = "supply_3v3"


def wire_ohm(wire: WireRun | None) -> float:
    """Return what a pair of wires resists, there and back, ohm; nothing where no length is told."""
    if wire is None or not wire.length_m:
        return 0.0
    contacts_ohm = 2 * JUMPER_OHM if wire.made_of == "jumper" else 0.0
    return round_trip_ohm(wire.length_m, wire_area_m2(wire), is_clad=wire.made_of == "clad", contacts_ohm=contacts_ohm)


def wire_area_m2(wire: WireRun) -> float:
    """Return the cross-section of a wire, m2; of a common gauge where none is told."""
    return area_m2(LEAD_AWG if wire.gauge_awg is None else wire.gauge_awg)


class FeedMaker:
    """Works out rail by rail what feeds it; rails are asked for their own feeders first."""

    def __init__(self, plan: Plan, catalog: Catalog, larger: Mapping[str, str]) -> None:
        self.plan, self.catalog, self.larger = plan, catalog, larger
        self.made: dict[str, RailDesign] = {}
        self.being: set[str] = set()

    def rail(self, rail_id: str) -> RailDesign | None:
        """Return a rail, or None where it is being worked out: it feeds itself."""
        if rail_id not in self.made:
            if rail_id in self.being:
                return None
            self.being.add(rail_id)
            self.made[rail_id] = self._made(rail_id, self.plan.rails[rail_id])
        return self.made[rail_id]

    def _made(self, rail_id: str, rail: Rail) -> RailDesign:
        slot = Slot(id=f"rails.{rail_id}.voltage_v", stage=f"rails.{rail_id}", label="Rail", unit="V")
        feed = rail.fed_by or next((name for name, source in self.plan.sources.items() if source.end == rail.end), None)
        made = RailDesign(id=rail_id, label="", end=rail.end, source_id=None, source=None, voltage=slot.empty("nothing feeds this rail"))  # fmt: skip
        if feed in self.plan.sources:
            made = self._from_source(made, slot, feed)
        elif feed in self.plan.converters:
            made = self._from_converter(made, slot, feed)
        elif feed is not None:
            made = self._from_board(made, slot, feed)
        reading = self.plan.measured.get(slot.id)
        if reading is not None:
            made = replace(made, voltage=slot._replace(path=made.voltage.path).measured(reading))
        return made

    def _from_source(self, rail: RailDesign, slot: Slot, feed: str) -> RailDesign:
        source = self.plan.sources[feed]
        drop = self._usb_drop(rail.id)
        part_id, choice = pick_part(source.choice, proposal="supply-past-diode" if drop else "supply", catalog=self.catalog)
        why = choice.why
        if choice.origin == "proposed" and feed in self.larger:
            part_id, why = self.larger[feed], self.catalog.proposals["supply-larger"].why
        part: SourcePart = as_used(self.catalog.source(part_id), own_figures(source))
        told_at = ("sources", feed, "choice", "overrides", "voltage_v")
        voltage = first_known(slot._replace(path=told_at), reading=None, part=part.voltage_v, because=why)
        if choice.origin == "proposed" and voltage.origin == "part":
            voltage = replace(voltage, origin="proposed")
        if part.kind == "usb" and drop is not None:
            voltage = _behind(voltage, drop)
        resistance = None
        if part.resistance_ohm is not None:
            ohm_slot = Slot(id=f"rails.{rail.id}.resistance_ohm", stage=rail.stage, label="Of the source", unit="ohm")
            resistance = ohm_slot.stated(part.resistance_ohm)
        picked = Picked(id=part_id, label=part.label, origin=choice.origin, why=why)
        fed = Feed(kind="source", id=feed, label=part.label, picked=picked, source=part, lead_ohm=wire_ohm(source.cable))
        return replace(rail, source_id=feed, source=picked, voltage=voltage, resistance=resistance, feed=fed)

    def _usb_drop(self, rail_id: str) -> Sourced | None:
        """Return what the USB plug of a board on a rail keeps, where a port would feed the rail through it."""
        for node in self.plan.nodes.values():
            if node.kind == "board" and node.rail == rail_id:
                part_id, _ = pick_part(node.choice, proposal="board", catalog=self.catalog)
                board: BoardPart = as_used(self.catalog.board(part_id), own_figures(node))
                if board.usb_drop_v is not None:
                    return board.usb_drop_v
        return None

    def _from_converter(self, rail: RailDesign, slot: Slot, feed: str) -> RailDesign:
        plan = self.plan.converters[feed]
        part_id, choice = pick_part(plan.choice, proposal="converter", catalog=self.catalog)
        part: ConverterPart = as_used(self.catalog.converter(part_id), own_figures(plan))
        before = self.rail(plan.from_rail)
        told_at = ("converters", feed, "set_point_v") if part.has_trimmer else ()
        own = plan.set_point_v if part.has_trimmer else None
        set_v = own if own is not None else part.output_v.value
        into = before.voltage if before is not None else None
        picked = Picked(id=part_id, label=part.label, origin=choice.origin, why=choice.why)
        fed = Feed(
            kind="converter", id=feed, label=part.label, picked=picked, converter=part, set_v=set_v, from_rail=plan.from_rail
        )
        made = replace(rail, feed=fed)
        if into is None or into.value is None:
            because = "it is fed from itself" if before is None else into.because if into is not None else NOT_YET
            return replace(made, voltage=slot.empty(because or NOT_YET))
        off = part.tolerance_ratio.value
        least, value, most = (
            _made_v(part, volts, set_v * share) for volts, share in ((into.low, 1 - off), (into.known, 1.0), (into.high, 1 + off))
        )
        put_in = f"{si(set_v, 'V')} ± {si(off, 'ratio')}" + ("" if value == set_v else f", and {into.text} lets it have {si(value, 'V')}")  # fmt: skip
        working = Working(formula="V = set point, as far as its input allows", substituted=put_in, source=part.output_v.source)
        because = None if own is not None or not part.has_trimmer else "what most boards take; set its trimmer to this"
        origin = "own" if own is not None else "proposed" if part.has_trimmer else "computed"
        spread = (min(least, value), max(most, value))
        voltage = slot._replace(path=told_at).filled(
            value, origin=origin, spread=spread, because=because, working=(working,)  # type: ignore[arg-type]
        )  # fmt: skip
        return replace(made, voltage=voltage)

    def _from_board(self, rail: RailDesign, slot: Slot, feed: str) -> RailDesign:
        name, _, output = feed.partition(".")
        node = self.plan.nodes[name]
        part_id, _ = pick_part(getattr(node, "choice", None), proposal="board", catalog=self.catalog)
        part: BoardPart = as_used(self.catalog.board(part_id), own_figures(node))
        before = self.rail(getattr(node, "rail", None) or "") if getattr(node, "rail", None) in self.plan.rails else None
        into = before.voltage if before is not None else None
        label = f"{node.label or 'Board'}'s {'3.3' if output == THREE else '5'} V pin"
        fed = Feed(kind="board", id=name, label=label, output=output, board=part, from_rail=getattr(node, "rail", None))
        made = replace(rail, feed=fed)
        if output == THREE:
            return replace(made, voltage=slot.stated(part.supply_3v3_v) if part.supply_3v3_v else slot.empty("this board gives no 3.3 V"))  # fmt: skip
        if into is None or into.value is None:
            return replace(made, voltage=slot.empty((into.because if into is not None else None) or "its board is not fed"))
        if part.regulated_v is None or is_fed_past_regulator(part, into.known):
            told = slot.filled(into.known, origin=into.origin, spread=(into.low, into.high), because="the pin its board is fed at", working=into.working)  # fmt: skip
            return replace(made, voltage=told)
        return replace(made, voltage=slot.stated(part.regulated_v, because=f"its board's own regulator makes it of {into.text}"))


def _behind(voltage: Value, drop: Sourced) -> Value:
    """Take what a diode keeps off a port's volts: most where these are least."""
    if voltage.value is None:
        return voltage
    value, least, most = voltage.value - drop.value, voltage.low - drop.high, voltage.high - drop.low
    put_in = f"{voltage.text} − {si(drop.value, 'V')} = {si(value, 'V')}"
    working = Working(formula="V_rail = V_USB − V_diode", substituted=put_in, source=drop.source)
    slot = Slot(id=voltage.id, stage=voltage.stage, label=voltage.label, unit="V")
    return slot.filled(value, origin=voltage.origin, spread=(least, most), because="behind the diode of the board's USB plug", working=(*voltage.working, working))  # fmt: skip


def _made_v(part: ConverterPart, into_v: float, set_v: float) -> float:
    """Return what a converter makes of some volts: what it is set to, less where too little comes in."""
    if part.kind == "boost":
        return max(set_v if into_v >= part.input_window_v.low else 0.0, into_v - PASSES_V)
    return max(0.0, min(set_v, into_v - (part.dropout_v.value if part.dropout_v is not None else 0.0)))


def of_length(wire: WireRun) -> str:
    """Say what a wire is, as its maker would."""
    gauge = LEAD_AWG if wire.gauge_awg is None else wire.gauge_awg
    of = {"clad": ", copper-clad", "jumper": ", as jumpers"}.get(wire.made_of or "", "")
    return f"{si(wire.length_m or 0.0, 'm')} of {gauge} AWG{of}"
