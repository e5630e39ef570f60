"""Levels: what arrives at the far end of every line, by the school that carries it, and how fast its edge is."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Final, NamedTuple

from oddlamp.core.base import Working, si
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.spreads import Lead
from oddlamp.core.design.supplies import NodeDesign, Picked, RailDesign
from oddlamp.core.design.values import NOT_YET, Slot, Value, spread_of
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Burden, rise_time_s, shifter_edge_s, shifter_passes_v
from oddlamp.core.electrical.preferred import Series
from oddlamp.core.parts.models import Catalog, ChipPart, InputLevels
from oddlamp.core.parts.own import as_used
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.plan.model import Chip, Plan, ShiftValues, Signal
from oddlamp.core.plan.signals import PULLED_LEADS, Line
from oddlamp.core.resolve.carry import GATE_OHM, Carried, Carrier
from oddlamp.core.resolve.chosen import own_figures, pick_part
from oddlamp.core.resolve.schools import LEFT_OUT, OMITTED, SCHOOLS
from oddlamp.core.resolve.spreads import led
from oddlamp.core.resolve.thresholds import sent_by, thresholds_of

WIRE_F_PER_M: Final = 1e-10
CONTACTS: Final = ("button", "switch")


class Ends(NamedTuple):
    """The two ends of a line as its level sees them, what its receiver asks of an edge, and what a pull of its own pulls to."""

    sender: NodeDesign
    receiver: NodeDesign
    bit_s: float | None = None
    edge_most_s: float | None = None
    is_contact: bool = False
    pull_v: Spread | None = None


def resolve_levels(
    plan: Plan,
    catalog: Catalog,
    nodes: Mapping[str, NodeDesign],
    rails: Mapping[str, RailDesign],
    lines: Mapping[str, Line],
    leads: Mapping[str, tuple[Lead, ...]],
) -> dict[str, LevelDesign]:
    """Work out every line between two ends that have a supply: wires, module pins, inputs, pixels, matrix modules.

    ``leads`` is how long the wires are to lamps that are laid out, m.
    """
    levels: dict[str, LevelDesign] = {}
    for line in lines.values():
        ends = _ends(plan, catalog, nodes, rails, line)
        if ends is not None:
            signal = plan.signals.get(line.id) or Signal()
            lead = leads.get(line.owner_id) if line.owner[0] == "lamps" else None
            if lead is not None:
                signal = signal.model_copy(update={"wire": led(signal.wire, lead)})
            rail = rails.get(signal.pull_to or "")
            pull_v = spread_of(rail.voltage) if rail is not None and rail.voltage.value is not None else ends.pull_v
            levels[line.id] = _Maker(plan, catalog, line, ends._replace(pull_v=pull_v), signal).make()
    return levels


def _bus_ends(nodes: Mapping[str, NodeDesign], line: Line) -> Ends | None:
    """Return the ends of a two-wire bus: its lines are only ever pulled low, and pulled up to the board's own volts; None where a chip on it is not known.

    Of several chips it is the one that hears least, or stands least where all hear alike.
    """
    host, chips = nodes[line.near or ""], [nodes[it] for it in line.far]
    if line.lead not in PULLED_LEADS or not all(isinstance(it.part, ChipPart) for it in chips):
        return None
    known = [it for it in chips if it.logic is not None and it.logic.value is not None and it.part is not None]
    most = max(
        known, key=lambda it: it.logic.known * it.part.input_high_ratio.value if it.logic and it.part else 0.0, default=chips[0]
    )
    part, volts = most.part, host.logic
    edge_s = part.edge_most_s.value if isinstance(part, ChipPart) else None
    pull_v = spread_of(volts) if volts is not None and volts.value is not None else None
    return Ends(host, most, edge_most_s=edge_s, is_contact=True, pull_v=pull_v)


def try_school(
    plan: Plan,
    catalog: Catalog,
    level: LevelDesign,
    school: str | None,
    values: Mapping[str, float] | None = None,
    pull_ohm: float | None = None,
    series_ohm: float | None = None,
) -> LevelDesign:
    """Return what a line would be with another school and its proposed parts, or with some of them given.

    Args:
        plan: the plan; what else it says of the line stays.
        catalog: parts and proposals.
        level: the line as it is.
        school: one of the table of schools; None for the one it has, with the parts it has.
        values: parts of the school that are given, by the names of ``ShiftValues``; of its own school the others stay.
        pull_ohm: of the line's own pull, ohm; None for the one it has.
        series_ohm: in the data line of pixels, ohm; None for the one it has.
    """
    if school == level.school.id and values is None and pull_ohm is None and series_ohm is None:
        return level
    settings = plan.signals.get(level.id) or Signal()
    kept = settings.model_dump(exclude_none=True, exclude={"built", "is_built", "is_omitted"})
    if school is not None:
        told = (kept.get("shift") or {}).get("values") or {}
        stay = told if school == level.school.id else {it: told[it] for it in ("tolerance_ratio",) if it in told}
        kept["shift"] = {"school": school, "values": {**stay, **(values or {})}}
    kept |= {name: ohm for name, ohm in (("pull_ohm", pull_ohm), ("series_ohm", series_ohm)) if ohm is not None}
    is_contact = level.line.kind == "bus" or (level.line.kind == "input" and plan.inputs[level.line.owner_id].kind in CONTACTS)
    ends = Ends(level.sender, level.unaided, level.bit_s, level.edge_most_s, is_contact, level.pull_v)
    return _Maker(plan, catalog, level.line, ends, Signal.model_validate(kept)).make()


def _ends(
    plan: Plan, catalog: Catalog, nodes: Mapping[str, NodeDesign], rails: Mapping[str, RailDesign], line: Line
) -> Ends | None:
    match line.kind:
        case "wire":
            link = plan.links[line.owner_id]
            baud = (link.baud_rate_bd if link.kind == "wire" else None) or catalog.proposals["baud"].value or 9600
            bit_s = 1 / baud if link.transport in (None, "uart") else None
            return Ends(nodes[line.sender or ""], nodes[line.receiver or ""], bit_s)
        case "key" | "state" | "enable" | "reset":
            return Ends(nodes[line.sender or ""], nodes[line.receiver or ""])
        case "input":
            it = plan.inputs[line.owner_id]
            host, rail = nodes[it.host], rails.get(it.rail or "")
            volts, rail_id = (rail.voltage, rail.id) if rail else (host.logic, host.rail_id)
            sender = _far_end(line, host, rail.end if rail else host.end, rail_id, volts, None)
            return Ends(sender, host, is_contact=it.kind in CONTACTS)
        case "data":
            return _data_ends(plan, catalog, nodes, rails, line)
        case "bus" if line.near is not None:
            return _bus_ends(nodes, line)
        case _:
            return None


def _data_ends(
    plan: Plan, catalog: Catalog, nodes: Mapping[str, NodeDesign], rails: Mapping[str, RailDesign], line: Line
) -> Ends:
    lamp = plan.lamps[line.owner_id]
    host = nodes[lamp.host]
    rail = rails.get(lamp.rail or host.rail_id or "")
    part_id, _ = pick_part(getattr(lamp, "choice", None), proposal=lamp.kind, catalog=catalog)
    overrides = own_figures(lamp)
    levels: InputLevels | None
    edge_most_s = None
    if lamp.kind in PIXEL_KINDS:
        pixel = as_used(catalog.pixel(part_id), overrides)
        levels, edge_most_s = pixel, pixel.edge_most_s.value
    else:
        ratio = as_used(catalog.load(part_id), overrides).input_high_ratio
        low = Sourced(value=0.2, source="from-memory")
        levels = InputLevels(input_high_ratio=ratio, input_low_ratio=low) if ratio else None
    end, rail_id = (rail.end, rail.id) if rail else (host.end, None)
    return Ends(host, _far_end(line, host, end, rail_id, rail.voltage if rail else None, levels), edge_most_s=edge_most_s)


def _far_end(
    line: Line, host: NodeDesign, end: str | None, rail_id: str | None, volts: Value | None, levels: InputLevels | None
) -> NodeDesign:
    """Stand in for what hangs at the far end of a line, so that the same rules judge it."""
    label = line.name.removesuffix(f", {line.lead}")
    return NodeDesign(line.owner_id, Chip(kind="chip", label=label), label, end or host.end, rail_id, None, None, volts, levels)


class _Maker:
    """Works out one line."""

    def __init__(self, plan: Plan, catalog: Catalog, line: Line, ends: Ends, signal: Signal) -> None:
        self.plan, self.catalog, self.line, self.ends, self.signal = plan, catalog, line, ends, signal
        self.series: Series = plan.series or "E24"
        self.values = (signal.shift.values if signal.shift else None) or ShiftValues()

    def slot(self, field: str, label: str, unit: str = "V", at: tuple[str, ...] = ()) -> Slot:
        path = (*self.line.path, *at) if at else ()
        return Slot(id=f"{self.line.id}.{field}", stage=self.line.stage, label=label, unit=unit, path=path)

    def make(self) -> LevelDesign:
        """Put the line together."""
        sender, receiver = self.ends.sender, self.ends.receiver
        sent = sent_by(self.slot("sent_v", "Sent"), sender)
        high, low, limit = thresholds_of(self.slot, receiver)
        drive = spread_of(sent) if sent.value is not None else None
        school, drop = self._school(drive, high, limit), None
        if school.id == "diode-fed" and receiver.logic is not None and receiver.logic.value is not None:
            drop, receiver = self._behind_a_diode(receiver, receiver.logic)
            high, low, limit = thresholds_of(self.slot, receiver)
        pull, series, carried = self._pull(school), self._series(), None
        slots = {
            "received": self.slot("received_v", "Arrives"),
            "rests": self.slot("rests_v", "Its low arrives at"),
            "carried": self.slot("carried_a", "The sender carries", "A"),
            "rise": self.slot("rise_s", "Its edge takes", "s"),
        }
        because = self._because(drive, limit, receiver)
        if because is not None or drive is None or receiver.logic is None:
            if self.signal.is_omitted:
                school = Picked(OMITTED, LEFT_OUT, "own")
            told = {name: slot.empty(because or NOT_YET) for name, slot in slots.items()}
        else:
            carrier = Carrier(
                catalog=self.catalog,
                slot=self.slot,
                series=self.series,
                values=self.values,
                sender=sender,
                drive=drive,
                high=high,
                limit=limit,
                rail=spread_of(receiver.logic),
                burden=self.burden,
                is_contact=self.ends.is_contact,
                in_series_ohm=series.known if series is not None else 0.0,
            )
            carried = carrier.carry(school.id, pull, self.ends.pull_v)
            told = self._told(slots, carried)
        return LevelDesign(
            line=self.line,
            sender=sender,
            receiver=receiver,
            unaided=self.ends.receiver,
            is_omitted=bool(self.signal.is_omitted),
            school=school,
            upper=carried.upper if carried else None,
            lower=carried.lower if carried else None,
            divider=carried.divider if carried else None,
            burden=self.burden,
            tolerance=carried.tolerance if carried else None,
            extra=carried.extra if carried else None,
            injected_a=carried.injected_a if carried else None,
            drop=drop or (carried.drop if carried else None),
            pull=pull,
            pull_v=self.ends.pull_v,
            series=series,
            sent=sent,
            **told,
            bit_s=self.ends.bit_s,
            edge_most_s=self.ends.edge_most_s,
            high=high,
            low=low,
            limit=limit,
            sent_spread=drive,
        )

    def _because(self, drive: Spread | None, limit: Value, receiver: NodeDesign) -> str | None:
        """Say why nothing arrives that could be judged; None where something does."""
        if self.signal.is_omitted:
            return "this wire is left out"
        if drive is None:
            return sent_by(self.slot("sent_v", "Sent"), self.ends.sender).because or NOT_YET
        if receiver.logic is None or receiver.logic.value is None:
            return limit.because or NOT_YET
        return None

    def _told(self, slots: Mapping[str, Slot], carried: Carried) -> dict[str, Value]:
        volts = carried.level.voltage_v
        return {
            "received": slots["received"].filled(
                volts.value, origin="computed", spread=(volts.least, volts.most), working=carried.level.working
            ),
            "rise": self._rise(slots["rise"], carried),
            "rests": _at_most(slots["rests"], carried.low_v, carried.low_how),
            "carried": _at_most(slots["carried"], carried.carried_a, carried.carried_how),
        }

    def _school(self, drive: Spread | None, high: Value, limit: Value) -> Picked:
        """Return how the level is brought across: as the plan says, else the plainest way that brings no verdict."""
        if self.signal.shift and self.signal.shift.school:
            return Picked(self.signal.shift.school, SCHOOLS[self.signal.shift.school].label, "own")
        fits = drive is None or limit.value is None or drive.most <= limit.value
        name, why = "direct", "the sender never goes past the limit, and is heard"
        if self.line.kind == "input":
            why = "a plain wire, until something asks for more"
        elif self.line.kind == "bus":
            if not fits or (drive is not None and high.value is not None and not self._is_heard(drive, high)):
                name, why = "mosfet", "both ends pull the bus low, so that what shifts it has to pass both ways"
            else:
                why = "both ends only pull the bus low: a straight wire, pulled up to the board's own volts"
        elif not fits:
            name, why = "divider", "the sender goes past what the receiver may have"
            if self.line.kind == "data":
                name, why = "gate", "the sender goes past what the receiver may have, and its edges must stay sharp"
        elif drive is not None and high.value is not None and not self._is_heard(drive, high):
            name, why = "gate", "a straight wire is not heard for sure: a gate that hears 2.0 V, fed like the receiver, is"
        return Picked(name, SCHOOLS[name].label, "proposed", why)

    def _is_heard(self, drive: Spread, high: Value) -> bool:
        """Tell whether a straight wire is heard, at worst too; both ends of one rail rise and sag together."""
        a, b = self.ends.sender, self.ends.receiver
        is_one_rail = a.rail_id == b.rail_id and a.logic is not None and b.logic is not None and a.logic.value == b.logic.value
        inputs = b.inputs
        if is_one_rail and inputs is not None and inputs.input_high_v is None:
            return drive.value >= high.known
        return drive.value >= high.known and drive.least >= high.high

    def _behind_a_diode(self, receiver: NodeDesign, rail: Value) -> tuple[Value, NodeDesign]:
        """Feed the first pixel through a diode: its thresholds come down with its supply, and it passes full levels on."""
        usual, own = self.catalog.proposals["pixel-diode"], self.values.diode_v
        spread = usual.pairs[0] if own is None else (own, own)
        drop = self.slot("diode_v", "Its diode drops", at=("shift", "values", "diode_v")).filled(
            usual.value or 0.7 if own is None else own,
            origin="proposed" if own is None else "own",
            spread=spread,
            because=usual.why if own is None else None,
        )
        fed_v = max(rail.known - drop.known, 0.0)
        put_in = f"{rail.text} − {drop.text} = {si(fed_v, 'V')}"
        fed = self.slot("fed_v", "The first pixel is fed").filled(
            fed_v,
            origin="computed",
            spread=(max(rail.low - drop.high, 0.0), max(rail.high - drop.low, 0.0)),
            working=(Working(formula="V_first = V_rail − V_diode", substituted=put_in, source="horowitz-hill"),),
        )
        return drop, replace(receiver, logic=fed)

    def _pull(self, school: Picked) -> Value | None:
        """Return a resistor of the line's own that pulls it to a rail or to ground; a shifter on a bus has its own."""
        slot = self.slot("pull_ohm", "Pulls the line", "ohm", ("pull_ohm",))
        if self.signal.pull_ohm is not None:
            return slot.filled(self.signal.pull_ohm, origin="own")
        if self.line.kind != "bus" or school.id == "mosfet":
            return None
        usual = self.catalog.proposals["bus-pull"]
        return slot.filled(usual.value or 4700.0, origin="proposed", because=usual.why)

    def _series(self) -> Value | None:
        """Return the resistor in series in the data line of pixels: usual, and so proposed."""
        is_pixels = self.line.kind == "data" and self.plan.lamps[self.line.owner_id].kind in PIXEL_KINDS
        own = self.signal.series_ohm
        if not is_pixels and own is None:
            return None
        slot, usual = self.slot("series_ohm", "In series", "ohm", ("series_ohm",)), self.catalog.proposals["pixel-series"]
        if own is not None:
            return slot.filled(own, origin="own")
        return slot.filled(usual.value or 330.0, origin="proposed", because=usual.why)

    @property
    def length_m(self) -> float:
        """The wire's length, m."""
        wire = self.signal.wire
        return wire.length_m if wire and wire.length_m is not None else self.catalog.proposals["wire"].value or 0.2

    @property
    def burden(self) -> Burden:
        """What hangs on the line at its receiver: a pull-down, what its input leaks, input and wire."""
        inputs, usual = self.ends.receiver.inputs, self.catalog.proposals
        stated = inputs.input_leakage_a if inputs else None
        return Burden(
            load_ohm=self.signal.pull_ohm if self.signal.pull_to == "ground" else None,
            leakage_a=stated.high if stated else usual["leakage"].value or 0.0,
            capacitance_f=(usual["input"].value or 1e-11) + WIRE_F_PER_M * self.length_m,
        )

    def _rise(self, slot: Slot, carried: Carried) -> Value:
        length_m, total_f = self.length_m, self.burden.capacitance_f + carried.more_f
        if carried.gate_v is not None:
            return self._shifter_rise(slot, carried, carried.gate_v, total_f)
        rise_s = rise_time_s(resistance_ohm=carried.edge_ohm, capacitance_f=total_f)
        put_in = f"2.2 · {si(carried.edge_ohm, 'ohm')} · {si(total_f, 'F')} = {si(rise_s, 's')}, with {si(length_m, 'm')} of wire"
        working = Working(formula="t_rise = 2.2 R C, C of input, wire and parts", substituted=put_in, source="horowitz-hill")
        return slot.filled(rise_s, origin="computed", working=(working,), digits=2)

    def _shifter_rise(self, slot: Slot, carried: Carried, gate_v: float, total_f: float) -> Value:
        """Work out an edge behind a MOSFET; its body diode helps only towards the higher supply."""
        threshold = self.catalog.proposals["shifter-threshold"]
        part, rail_v = self.ends.sender.part, carried.rail_v
        if rail_v <= 0:
            return slot.empty("nothing feeds its pull-up")
        rise_s = shifter_edge_s(
            pull_ohm=carried.edge_ohm,
            capacitance_f=total_f,
            rail_v=rail_v,
            gate_v=gate_v,
            threshold_v=threshold.value or 1.6,
            sender_ohm=part.output_resistance_ohm.value if part else GATE_OHM,
            goes_up=carried.goes_up,
        )
        passed_v = shifter_passes_v(gate_v=gate_v, threshold_v=threshold.value or 1.6, goes_up=carried.goes_up)
        way = "or its body diode" if carried.goes_up else "and its body diode does not help this way"
        put_in = f"the MOSFET, which starts by {si(threshold.value or 1.6, 'V')}, {way}: passes up to {si(passed_v, 'V')}; then {si(carried.edge_ohm, 'ohm')} lifts {si(total_f, 'F')} to nine tenths of {si(rail_v, 'V')}: {si(rise_s, 's')}"
        working = Working(formula="t = R C ln((V − V_passed) / (V − 0.9 V))", substituted=put_in, source="horowitz-hill")
        return slot.filled(rise_s, origin="computed", working=(working,), digits=2)


def _at_most(slot: Slot, nominal_most: tuple[float, float], how: str) -> Value:
    """Fill a slot with a nominal and a most, and how they came."""
    nominal, most = nominal_most
    source = "common-practice" if nominal == 0 else "horowitz-hill"
    working = Working(formula=slot.label, substituted=f"{how} = {si(nominal, slot.unit)}" if nominal else how, source=source)
    return slot.filled(nominal, origin="computed", spread=(nominal, most), working=(working,), digits=2)
