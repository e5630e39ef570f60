"""Every wire between two supplies: which school brings the level across, what arrives, and how fast its edge is."""

from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

from oddlamp.core.base import Working, inner, si
from oddlamp.core.design import CrossingDesign, NodeDesign, Picked, RailDesign, Way
from oddlamp.core.electrical.lamps import spread_of
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import (
    Burden,
    Divider,
    Level,
    divide,
    first_fitting_divider,
    own_rail,
    parallel_ohm,
    rise_time_s,
    shifter_edge_s,
    straight,
    zener_level,
)
from oddlamp.core.electrical.preferred import Series, is_preferred
from oddlamp.core.electrical.supplies import own_figures, pick_part
from oddlamp.core.parts.models import Catalog, InputLevels, Sourced
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.lights import SIGNALS_BY_KIND
from oddlamp.core.plan.model import Chip, Plan, ShiftValues, Signal
from oddlamp.core.values import NOT_YET, Origin, Slot, Value

SCHOOLS = {
    "direct": "Straight wire",
    "divider": "Two resistors",
    "zener": "Resistor and zener",
    "clamp": "Resistor only",
    "mosfet": "One MOSFET, two pull-ups",
    "gate": "Gate or shifter board",
    "diode": "Diode and pull-up",
    "diode-fed": "First pixel behind a diode",
    "omitted": "Left out",
}
VDD_SLACK_V = 0.3
CLAMP_V = 0.6
GATE_OHM = 50.0
WIRE_F_PER_M = 1e-10
SlotMaker = Callable[[str, str, str], Slot]


class Carried(NamedTuple):
    """What a school makes of a sender: the level, the resistance its edge comes through, and the parts it takes."""

    level: Level
    edge_ohm: float
    more_f: float = 0.0
    upper: Value | None = None
    lower: Value | None = None
    divider: Divider | None = None
    tolerance: Value | None = None
    extra: Value | None = None
    injected_a: float | None = None
    drop: Value | None = None
    low_v: tuple[float, float] = (0.0, 0.0)
    low_how: str = "a lightly loaded output goes to ground"
    carried_a: tuple[float, float] = (0.0, 0.0)
    carried_how: str = "nothing but the input hangs on it"
    gate_v: float | None = None


def usual_pairs(catalog: Catalog, series: Series) -> tuple[tuple[float, float], ...]:
    """Return the usual divider pairs that a series of resistors holds, upper and lower, ohm; all where it holds none."""
    pairs = catalog.proposals["divider"].pairs
    return tuple(pair for pair in pairs if all(is_preferred(ohm, series) for ohm in pair)) or pairs


def resolve_crossings(plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign]) -> dict[str, CrossingDesign]:
    """Resolve both directions of every wire between two nodes."""
    crossings: dict[str, CrossingDesign] = {}
    for link_id, link in plan.links.items():
        if link.kind == "wire":
            is_uart = link.transport in (None, "uart")
            baud = link.baud_rate_bd or catalog.proposals["baud"].value or 9600
            bit_s = 1 / baud if is_uart else None
            ways: tuple[tuple[Way, str, str], ...] = (("a_to_b", link.a, link.b), ("b_to_a", link.b, link.a))
            for way, sender, receiver in ways:
                crossings[f"{link_id}.{way}"] = _Maker(
                    plan, catalog, f"{link_id}.{way}", f"links.{link_id}", nodes[sender], nodes[receiver]
                ).make(link_id, way, bit_s=bit_s, edge_most_s=None)
    return crossings


def key_line(plan: Plan, module_id: str) -> tuple[str, str] | None:
    """Return the wire and the board behind a module's key pin, where a board holds it; None where a hand does."""
    node = plan.nodes[module_id]
    if node.kind != "module" or node.setup is None or node.setup.key_from != "board":
        return None
    for name, link in plan.links.items():
        if link.kind == "wire" and module_id in (link.a, link.b):
            other = link.b if link.a == module_id else link.a
            if plan.nodes[other].kind == "board":
                return name, other
    return None


def resolve_leads(
    plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign], rails: dict[str, RailDesign]
) -> dict[str, CrossingDesign]:
    """Resolve every line between a host and something with a supply of its own: inputs, key pins, pixels, matrix modules."""
    leads: dict[str, CrossingDesign] = {}
    for name, it in plan.inputs.items():
        host = nodes[it.host]
        rail = rails.get(it.rail or "")
        source = rail.voltage if rail else host.logic
        label = it.label or name.replace("_", " ").capitalize()
        sender = _far_end(name, label, host, rail.id if rail else host.rail_id, source, None)
        path = f"{name}.in"
        leads[path] = _Maker(plan, catalog, path, f"inputs.{name}", sender, host).make(
            name, "a_to_b", bit_s=None, edge_most_s=None
        )
    for name in plan.nodes:
        key = key_line(plan, name)
        if key is not None:
            wire, board = key
            leads[f"{name}.key"] = _Maker(plan, catalog, f"{name}.key", f"links.{wire}", nodes[board], nodes[name]).make(
                name, "a_to_b", bit_s=None, edge_most_s=None
            )
    for name, lamp in plan.lamps.items():
        if lamp.kind not in ("pixels-one-wire", "pixels-clocked", "matrix"):
            continue
        host = nodes[lamp.host]
        rail = rails.get(lamp.rail or host.rail_id or "")
        part_id, _ = pick_part(lamp.choice, proposal=lamp.kind, catalog=catalog)
        overrides = own_figures(lamp)
        levels: InputLevels | None
        if lamp.kind == "matrix":
            ratio = as_used(catalog.load(part_id), overrides).input_high_ratio
            low = Sourced(value=0.2, source="from-memory")
            levels = InputLevels(input_high_ratio=ratio, input_low_ratio=low) if ratio else None
            edge_most_s = None
        else:
            pixel = as_used(catalog.pixel(part_id), overrides)
            levels, edge_most_s = pixel, pixel.edge_most_s.value
        label = lamp.label or name.replace("_", " ").capitalize()
        receiver = _far_end(name, label, host, rail.id if rail else None, rail.voltage if rail else None, levels)
        for lead in SIGNALS_BY_KIND[lamp.kind]:
            path = f"{name}.{lead}"
            leads[path] = _Maker(plan, catalog, path, f"lamps.{name}", host, receiver).make(
                name, "a_to_b", bit_s=None, edge_most_s=edge_most_s
            )
    return leads


def try_school(plan: Plan, catalog: Catalog, way: CrossingDesign, school: str) -> CrossingDesign | None:
    """Return what another school would make of a line, with its proposed parts; None where nothing is known of it."""
    if way.school.id == school:
        return way
    maker = _Maker(plan, catalog, way.id, way.stage, way.sender, way.unaided, school=school)
    return maker.make(way.link_id, way.way, bit_s=way.bit_s, edge_most_s=way.edge_most_s)


def _far_end(
    name: str, label: str, host: NodeDesign, rail_id: str | None, volts: Value | None, levels: InputLevels | None
) -> NodeDesign:
    """Stand in for what hangs at the far end of a line, so that the same rules judge it."""
    node = Chip(kind="chip", label=label)
    return NodeDesign(name, node, label, host.end, rail_id, None, None, volts, levels)


class _Maker:
    """Works out one direction of one line."""

    def __init__(
        self,
        plan: Plan,
        catalog: Catalog,
        path: str,
        stage: str,
        sender: NodeDesign,
        receiver: NodeDesign,
        *,
        school: str | None = None,
    ) -> None:
        self.catalog, self.path, self.stage = catalog, path, stage
        self.series: Series = plan.series or "E24"
        self.sender, self.receiver = sender, receiver
        self.signal = plan.signals.get(path) or Signal()
        self.values = (self.signal.shift.values if self.signal.shift else None) or ShiftValues()
        if school is not None:
            self.signal = Signal.model_validate({"shift": {"school": school}, "wire": self.signal.wire})
            self.values = ShiftValues(tolerance_ratio=self.values.tolerance_ratio)

    def slot(self, field: str, label: str, unit: str = "V") -> Slot:
        return Slot(id=f"{self.path}.{field}", stage=self.stage, label=label, unit=unit)

    def make(self, link_id: str, way: Way, *, bit_s: float | None, edge_most_s: float | None) -> CrossingDesign:
        """Put the line together."""
        sent = _sent(self.slot("sent_v", "Sent"), self.sender)
        high, low, limit = _thresholds(self.slot, self.receiver)
        drive = spread_of(sent) if sent.value is not None else None
        school, unaided = self._school(drive, limit), self.receiver
        drop: Value | None = None
        if school.id == "diode-fed" and self.receiver.logic is not None and self.receiver.logic.value is not None:
            drop, self.receiver = self._behind_a_diode(self.receiver, self.receiver.logic)
            high, low, limit = _thresholds(self.slot, self.receiver)
        received_slot, rise_slot = self.slot("received_v", "Arrives"), self.slot("rise_s", "Its edge takes", "s")
        received, rise, carried = received_slot.empty(""), rise_slot.empty("no level, no edge"), None
        rests_slot, carried_slot = self.slot("rests_v", "Its low arrives at"), self.slot("carried_a", "The sender carries", "A")
        rests, load = rests_slot.empty("no level, no low"), carried_slot.empty("no level, no current")
        if self.signal.is_omitted:
            school, received = Picked("omitted", SCHOOLS["omitted"], "own"), received_slot.empty("this wire is left out")
        elif drive is None or self.receiver.logic is None or self.receiver.logic.value is None:
            received = received_slot.empty((sent.because if drive is None else limit.because) or NOT_YET)
        else:
            carried = self._carried(school.id, drive, high, limit, spread_of(self.receiver.logic))
            volts = carried.level.voltage_v
            received = received_slot.filled(
                volts.value, origin="computed", spread=(volts.least, volts.most), working=carried.level.working
            )
            rise = self._rise(rise_slot, carried)
            rests = _told(rests_slot, carried.low_v, carried.low_how)
            load = _told(carried_slot, carried.carried_a, carried.carried_how)
        return CrossingDesign(
            id=self.path,
            link_id=link_id,
            way=way,
            stage=self.stage,
            sender=self.sender,
            receiver=self.receiver,
            unaided=unaided,
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
            sent=sent,
            received=received,
            rests=rests,
            carried=load,
            rise=rise,
            bit_s=bit_s,
            edge_most_s=edge_most_s,
            high=high,
            low=low,
            limit=limit,
            sent_spread=drive,
        )

    def _school(self, drive: Spread | None, limit: Value) -> Picked:
        if self.signal.shift and self.signal.shift.school:
            return Picked(self.signal.shift.school, SCHOOLS[self.signal.shift.school], "own")
        fits = drive is None or limit.value is None or drive.most <= limit.value
        if not self.stage.startswith("links."):
            return Picked("direct", SCHOOLS["direct"], "proposed", "a plain wire, until something asks for more")
        name = "direct" if fits else "divider"
        why = "the sender never goes past the limit" if fits else "the sender goes past what the receiver may have"
        return Picked(name, SCHOOLS[name], "proposed", why)

    def _behind_a_diode(self, receiver: NodeDesign, rail: Value) -> tuple[Value, NodeDesign]:
        """Feed the first pixel through a diode: its thresholds come down with its supply, and it passes full levels on."""
        usual, own = self.catalog.proposals["pixel-diode"], self.values.diode_v
        spread = usual.pairs[0] if own is None else (own, own)
        drop = self.slot("diode_v", "Its diode drops").filled(
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
            spread=(max(rail.low - drop.high, 0.0), rail.high - drop.low),
            working=(Working(formula="V_first = V_rail − V_diode", substituted=put_in, source="horowitz-hill"),),
        )
        return drop, replace(receiver, logic=fed)

    def _tolerance(self) -> tuple[float, Value]:
        part = self.catalog.resistors[self.catalog.proposals["resistor"].part or ""]
        own = self.values.tolerance_ratio
        ratio = part.tolerance_ratio.value if own is None else own
        origin: Origin = "proposed" if own is None else "own"
        because = inner(part.label) if own is None else None
        return ratio, self.slot("tolerance_ratio", "Tolerance", "ratio").filled(ratio, origin=origin, because=because)

    def _ohm(self, field: str, label: str, own: float | None, proposed: float, why: str) -> Value:
        origin: Origin = "proposed" if own is None else "own"
        return self.slot(field, label, "ohm").filled(
            proposed if own is None else own, origin=origin, because=why if own is None else None
        )

    def _carried(self, school: str, drive: Spread, high: Value, limit: Value, rail: Spread) -> Carried:
        ratio, tolerance = self._tolerance()
        proposals = self.catalog.proposals
        match school:
            case "divider":
                return self._divided(drive, high, limit, ratio, tolerance)
            case "zener":
                zener = self.catalog.zeners[proposals["zener"].part or ""]
                series = self._ohm("series_ohm", "In series", self.values.series_ohm, 470.0, "gives the zener a few milliamperes")
                level = zener_level(drive, series_ohm=series.known, tolerance_ratio=ratio, knee=zener.knee)
                gives = tuple(
                    max(0.0, sent_v - held_v) / ohm
                    for sent_v, held_v, ohm in (
                        (drive.value, level.voltage_v.value, series.known),
                        (drive.most, level.voltage_v.most, series.known * (1 - ratio)),
                    )
                )
                return Carried(
                    level,
                    series.known,
                    zener.capacitance_f.value,
                    tolerance=tolerance,
                    extra=series,
                    carried_a=(gives[0], gives[1]),
                    carried_how=f"({si(drive.value, 'V')} − {si(level.voltage_v.value, 'V')}) / {series.text}",
                )
            case "clamp":
                why = proposals["clamp"].why
                series = self._ohm("series_ohm", "In series", self.values.series_ohm, proposals["clamp"].value or 1e4, why)
                return self._clamped(drive, rail, series, tolerance, ratio)
            case "mosfet" | "diode":
                usual = proposals["shifter"]
                pull = self._ohm("pull_ohm", "Pull-up", self.values.pull_ohm, usual.value or 1e4, usual.why)
                level = own_rail(rail, "V = V_DD of the receiver, through its pull-up")
                return self._pulled(school, drive, rail, pull, level)
            case "gate":
                return Carried(own_rail(rail, "V_OH = V_DD of the gate, fed like the receiver"), GATE_OHM)
            case _:
                part = self.sender.part
                return Carried(straight(drive), part.output_resistance_ohm.high if part else GATE_OHM)

    def _divided(self, drive: Spread, high: Value, limit: Value, ratio: float, tolerance: Value) -> Carried:
        pairs = usual_pairs(self.catalog, self.series)
        fitting = None
        if limit.value is not None and high.value is not None:
            fitting = first_fitting_divider(
                drive, pairs=pairs, tolerance_ratio=ratio, limit_v=limit.value, high_v=high.high, burden=self.burden
            )
        first = (fitting.upper_ohm, fitting.lower_ohm) if fitting else pairs[0]
        why = self.catalog.proposals["divider"].why
        upper = self._ohm("upper_ohm", "From the sender", self.values.upper_ohm, first[0], why)
        lower = self._ohm("lower_ohm", "To ground", self.values.lower_ohm, first[1], why)
        divider = Divider(upper_ohm=upper.known, lower_ohm=lower.known, tolerance_ratio=ratio, burden=self.burden)
        level = divide(drive, divider)
        whole_ohm = upper.known + self.burden.loaded_ohm(lower.known)
        return Carried(
            level,
            parallel_ohm(upper.known, lower.known),
            upper=upper,
            lower=lower,
            divider=divider,
            tolerance=tolerance,
            carried_a=(drive.value / whole_ohm, drive.most / (whole_ohm * (1 - ratio))),
            carried_how=f"{si(drive.value, 'V')} / {si(whole_ohm, 'ohm')}",
        )

    def _pulled(self, school: str, drive: Spread, rail: Spread, pull: Value, level: Level) -> Carried:
        """The sender pulls its low against the pull-ups: one behind a diode, or one on each side of a MOSFET."""
        part = self.sender.part
        sender_ohm = (part.output_resistance_ohm.value, part.output_resistance_ohm.high) if part else (GATE_OHM, GATE_OHM)
        if school == "mosfet":
            sinks = ((drive.value + rail.value) / pull.known, (drive.most + rail.most) / pull.known)
            low = (sinks[0] * sender_ohm[0], sinks[1] * sender_ohm[1])
            how = f"({si(drive.value, 'V')} + {si(rail.value, 'V')}) / {pull.text}"
            return Carried(
                level,
                pull.known,
                extra=pull,
                low_v=low,
                low_how=f"{si(sinks[0], 'A')} · {si(sender_ohm[0], 'ohm')} of the sender",
                carried_a=sinks,
                carried_how=f"{how}, a pull-up on each side",
                gate_v=min(drive.value, rail.value),
            )
        usual = self.catalog.proposals["diode-drop"]
        own = self.values.diode_v
        spread = usual.pairs[0] if own is None else (own, own)
        drop = self.slot("diode_v", "Its diode drops").filled(
            own or usual.value or 0.6,
            origin="proposed" if own is None else "own",
            spread=spread,
            because=usual.why if own is None else None,
        )
        sinks = ((rail.value - drop.known) / pull.known, (rail.most - drop.low) / pull.known)
        return Carried(
            level,
            pull.known,
            extra=pull,
            drop=drop,
            low_v=(drop.known + sinks[0] * sender_ohm[0], drop.high + sinks[1] * sender_ohm[1]),
            low_how=f"{drop.text} of the diode and {si(sinks[0], 'A')} · {si(sender_ohm[0], 'ohm')} of the sender",
            carried_a=sinks,
            carried_how=f"({si(rail.value, 'V')} − {drop.text}) / {pull.text}",
        )

    def _clamped(self, drive: Spread, rail: Spread, series: Value, tolerance: Value, ratio: float) -> Carried:
        """The receiver's own clamp diode holds the pin a diode above its supply; what it must take is told."""
        held = Spread(
            least=min(drive.least, rail.least + CLAMP_V),
            value=min(drive.value, rail.value + CLAMP_V),
            most=min(drive.most, rail.most + CLAMP_V),
        )
        injected_a = max(0.0, drive.most - rail.least - CLAMP_V) / (series.known * (1 - ratio))
        put_in = f"({si(drive.most, 'V')} − {si(rail.least, 'V')} − {si(CLAMP_V, 'V')}) / {series.text} = {si(injected_a, 'A')} at most"
        working = Working(formula="I_clamp = (V_in − V_DD − 0.6 V) / R", substituted=put_in, source="from-memory")
        return Carried(
            Level(voltage_v=held, working=(working,)), series.known, tolerance=tolerance, extra=series, injected_a=injected_a
        )

    @property
    def length_m(self) -> float:
        """The wire's length, m."""
        wire = self.signal.wire
        return wire.length_m if wire and wire.length_m is not None else self.catalog.proposals["wire"].value or 0.2

    @property
    def burden(self) -> Burden:
        """What hangs on the line at its receiver: a pull-down, what its input leaks, input and wire."""
        inputs, usual = self.receiver.inputs, self.catalog.proposals
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
        threshold = self.catalog.proposals["shifter-threshold"]
        part, rail_v = self.sender.part, carried.level.voltage_v.value
        if rail_v <= 0:
            return slot.empty("nothing feeds its pull-up")
        rise_s = shifter_edge_s(
            pull_ohm=carried.edge_ohm,
            capacitance_f=total_f,
            rail_v=rail_v,
            gate_v=gate_v,
            threshold_v=threshold.value or 1.6,
            sender_ohm=part.output_resistance_ohm.value if part else GATE_OHM,
        )
        put_in = f"the MOSFET passes up to {si(gate_v, 'V')} − {si(threshold.value or 1.6, 'V')}, then {si(carried.edge_ohm, 'ohm')} into {si(total_f, 'F')}: {si(rise_s, 's')}"
        working = Working(formula="R C ln((V − V_passed) / 0.1 V)", substituted=put_in, source="horowitz-hill")
        return slot.filled(rise_s, origin="computed", working=(working,), digits=2)


def _told(slot: Slot, nominal_most: tuple[float, float], how: str) -> Value:
    """Fill a slot with a nominal and a most, and how they came."""
    nominal, most = nominal_most
    source = "common-practice" if nominal == 0 else "horowitz-hill"
    working = Working(formula=slot.label, substituted=f"{how} = {si(nominal, slot.unit)}" if nominal else how, source=source)
    return slot.filled(nominal, origin="computed", spread=(nominal, most), working=(working,), digits=2)


def _sent(slot: Slot, sender: NodeDesign) -> Value:
    volts = sender.logic
    if volts is None:
        return slot.empty(f"levels of a {sender.node.kind}: {NOT_YET}")
    if volts.value is None:
        return slot.empty(volts.because or NOT_YET)
    return slot.filled(
        volts.known,
        origin=volts.origin,
        spread=(volts.low, volts.high),
        because="a lightly loaded output reaches its own supply" if sender.part else "its upper end stands at this rail",
        working=volts.working,
    )


def _thresholds(slot: SlotMaker, receiver: NodeDesign) -> tuple[Value, Value, Value]:
    levels, logic = receiver.inputs, receiver.logic
    names = (("high_v", "Heard as high from"), ("low_v", "Heard as low up to"), ("limit_v", "May be at most"))
    if levels is None or logic is None or logic.value is None:
        because = (logic.because if logic else None) or f"levels of a {receiver.node.kind}: {NOT_YET}"
        high, low, limit = (slot(field, label, "V").empty(because) for field, label in names)
        return high, low, limit
    high = _threshold(slot("high_v", "Heard as high from", "V"), levels.input_high_v, levels.input_high_ratio, logic, "V_IH")
    low = _threshold(slot("low_v", "Heard as low up to", "V"), levels.input_low_v, levels.input_low_ratio, logic, "V_IL")
    return high, low, _limit(slot("limit_v", "May be at most", "V"), levels, logic)


def _threshold(slot: Slot, stated: Sourced | None, ratio: Sourced, logic: Value, symbol: str) -> Value:
    if stated is not None:
        return slot.stated(stated, formula=symbol)
    volts = [ratio.value * v for v in (logic.low, logic.known, logic.high)]
    put_in = f"{ratio.value:g} · {logic.text} = {si(volts[1], 'V')}, at most {si(volts[2], 'V')}"
    return slot.filled(
        volts[1],
        origin="part",
        spread=(volts[0], volts[2]),
        working=(Working(formula=f"{symbol} = {ratio.value:g} · V_DD", substituted=put_in, source=ratio.source),),
    )


def _limit(slot: Slot, levels: InputLevels, logic: Value) -> Value:
    """A fixed limit is used as it is; otherwise nominal Vdd + 0.3 V. The receiver's own spread is not stacked on top."""
    if levels.input_max_v is not None:
        return slot.stated(
            levels.input_max_v,
            because="a fixed limit of this part",
            formula="stated absolute maximum; the receiver's own supply spread is not added",
        )
    limit_v = logic.known + VDD_SLACK_V
    put_in = f"{logic.text} + {si(VDD_SLACK_V, 'V')} = {si(limit_v, 'V')}; the receiver's own supply spread is not added"
    return slot.filled(
        limit_v,
        origin="part",
        because="its supply and a little",
        working=(Working(formula="V_max = V_DD + 0.3 V", substituted=put_in, source="from-memory"),),
    )
