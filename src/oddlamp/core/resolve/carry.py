"""What each school makes of a sender's level: the volts that arrive, where a low rests, and the parts it takes."""

from dataclasses import dataclass, replace
from typing import Final, NamedTuple

from oddlamp.core.base import Working, si
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.values import Origin, SlotMaker, Value
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import (
    Burden,
    Divider,
    Level,
    divide,
    first_fitting_divider,
    own_rail,
    parallel_ohm,
    pulled_between,
    straight,
    zener_level,
)
from oddlamp.core.electrical.preferred import Series, is_preferred
from oddlamp.core.english import inner
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.model import ShiftValues

CLAMP_V: Final = 0.6
GATE_OHM: Final = 50.0
LEAST_OHM: Final = 1.0


class Carried(NamedTuple):
    """What a school makes of a sender: the level, the resistance its edge comes through, and the parts it takes.

    ``source_ohm`` is what the level comes through as the receiver sees it; ``gate_v``, ``rail_v`` and ``goes_up`` belong
    to a one-MOSFET shifter.
    """

    level: Level
    edge_ohm: float
    source_ohm: Spread
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
    rail_v: float = 0.0
    goes_up: bool = False


def usual_pairs(catalog: Catalog, series: Series) -> tuple[tuple[float, float], ...]:
    """Return the usual divider pairs that a series of resistors holds, upper and lower, ohm; all where it holds none."""
    pairs = catalog.proposals["divider"].pairs
    return tuple(pair for pair in pairs if all(is_preferred(ohm, series) for ohm in pair)) or pairs


@dataclass(frozen=True, slots=True, kw_only=True)
class Carrier:
    """One line with what both ends are: works out what a school would carry across it."""

    catalog: Catalog
    slot: SlotMaker
    series: Series
    values: ShiftValues
    sender: NodeDesign
    drive: Spread
    high: Value
    limit: Value
    rail: Spread
    burden: Burden
    is_contact: bool
    in_series_ohm: float

    def carry(self, school: str, pull: Value | None, pull_v: Spread | None) -> Carried:
        """Carry the sender's level across, and let the line's own pull-up have its say.

        Args:
            school: one of the table of schools.
            pull: a resistor of the line's own, or None.
            pull_v: the volts it pulls up to; None where it pulls down, which ``burden`` holds.
        """
        carried = self._by(school, pull, pull_v)
        if pull is None or pull_v is None or school == "zener":
            return carried
        return self._pulled_up(school, carried, pull.known, pull_v)

    def _by(self, school: str, pull: Value | None, pull_v: Spread | None) -> Carried:
        match school:
            case "divider":
                return self._divided()
            case "zener":
                return self._held_by_zener(pull.known if pull and pull_v else None, pull_v)
            case "clamp":
                return self._clamped()
            case "mosfet" | "diode":
                return self._pulled_by_receiver(school)
            case "gate":
                level = own_rail(self.rail, "V_OH = V_DD of the gate, fed like the receiver")
                return Carried(level, GATE_OHM + self.in_series_ohm, self._flat(GATE_OHM + self.in_series_ohm))
            case _:
                out = self._sender_ohm
                through = Spread(least=out.least + self.in_series_ohm, value=out.value + self.in_series_ohm, most=out.most + self.in_series_ohm)  # fmt: skip
                return Carried(straight(self.drive), through.most, through)

    @property
    def _sender_ohm(self) -> Spread:
        """What the sender's pin has inside, ohm; a few tens where that is not known."""
        part = self.sender.part
        if part is None:
            return self._flat(GATE_OHM)
        ohm = part.output_resistance_ohm
        return Spread(least=max(ohm.low, LEAST_OHM), value=ohm.value, most=ohm.high)

    @staticmethod
    def _flat(value: float) -> Spread:
        return Spread(least=value, value=value, most=value)

    def _within(self, ohm: float, ratio: float) -> Spread:
        return Spread(least=ohm * (1 - ratio), value=ohm, most=ohm * (1 + ratio))

    def _tolerance(self) -> tuple[float, Value]:
        part = self.catalog.resistors[self.catalog.proposals["resistor"].part or ""]
        own = self.values.tolerance_ratio
        ratio = part.tolerance_ratio.value if own is None else own
        origin: Origin = "proposed" if own is None else "own"
        because = inner(part.label) if own is None else None
        slot = self.slot("tolerance_ratio", "Tolerance", "ratio", ("shift", "values", "tolerance_ratio"))
        return ratio, slot.filled(ratio, origin=origin, because=because)

    def _ohm(self, field: str, label: str, own: float | None, proposed: float, why: str) -> Value:
        origin: Origin = "proposed" if own is None else "own"
        return self.slot(field, label, "ohm", ("shift", "values", field)).filled(
            proposed if own is None else own, origin=origin, because=why if own is None else None
        )

    def _divided(self) -> Carried:
        ratio, tolerance = self._tolerance()
        drive, pairs, fitting = self.drive, usual_pairs(self.catalog, self.series), None
        if self.limit.value is not None and self.high.value is not None:
            fitting = first_fitting_divider(
                drive, pairs=pairs, tolerance_ratio=ratio, limit_v=self.limit.value, high_v=self.high.high, burden=self.burden
            )
        first = (fitting.upper_ohm, fitting.lower_ohm) if fitting else pairs[0]
        why = self.catalog.proposals["divider"].why
        upper = self._ohm("upper_ohm", "From the sender", self.values.upper_ohm, first[0], why)
        lower = self._ohm("lower_ohm", "To ground", self.values.lower_ohm, first[1], why)
        divider = Divider(upper_ohm=upper.known, lower_ohm=lower.known, tolerance_ratio=ratio, burden=self.burden)
        beside_ohm = self.burden.loaded_ohm(lower.known)
        whole_ohm = upper.known + beside_ohm
        return Carried(
            divide(drive, divider),
            parallel_ohm(upper.known, lower.known),
            self._within(parallel_ohm(upper.known, beside_ohm), ratio),
            upper=upper,
            lower=lower,
            divider=divider,
            tolerance=tolerance,
            carried_a=(drive.value / whole_ohm, drive.most / (whole_ohm * (1 - ratio))),
            carried_how=f"{si(drive.value, 'V')} / {si(whole_ohm, 'ohm')}",
        )

    def _held_by_zener(self, pull_ohm: float | None, pull_v: Spread | None) -> Carried:
        """A zener holds what series resistor and pull-up bring together, by its own knee."""
        ratio, tolerance = self._tolerance()
        zener, drive = self.catalog.zeners[self.catalog.proposals["zener"].part or ""], self.drive
        why = "gives the zener a few milliamperes"
        series = self._ohm("series_ohm", "In series", self.values.series_ohm, 470.0, why)
        from_v, through_ohm, low_v = drive, series.known, (0.0, 0.0)
        if pull_ohm is not None and pull_v is not None:
            both = pulled_between(
                drive, source_ohm=self._within(series.known, ratio), pull_v=pull_v, pull_ohm=pull_ohm, tolerance_ratio=ratio
            )
            from_v, through_ohm = both.voltage_v, parallel_ohm(series.known, pull_ohm)
            low_v = self._lifted(self._within(series.known, ratio), pull_ohm, pull_v)
        level = zener_level(from_v, series_ohm=through_ohm, tolerance_ratio=ratio, knee=zener.knee)
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
            self._within(series.known, ratio),
            zener.capacitance_f.value,
            tolerance=tolerance,
            extra=series,
            low_v=low_v,
            carried_a=(gives[0], gives[1]),
            carried_how=f"({si(drive.value, 'V')} − {si(level.voltage_v.value, 'V')}) / {series.text}",
        )

    def _clamped(self) -> Carried:
        """The receiver's own clamp diode holds the pin a diode above its supply; what it must take is told."""
        ratio, tolerance = self._tolerance()
        drive, rail, usual = self.drive, self.rail, self.catalog.proposals["clamp"]
        series = self._ohm("series_ohm", "In series", self.values.series_ohm, usual.value or 1e4, usual.why)
        held = Spread(
            least=min(drive.least, rail.least + CLAMP_V),
            value=min(drive.value, rail.value + CLAMP_V),
            most=min(drive.most, rail.most + CLAMP_V),
        )
        injected_a = max(0.0, drive.most - rail.least - CLAMP_V) / (series.known * (1 - ratio))
        put_in = f"({si(drive.most, 'V')} − {si(rail.least, 'V')} − {si(CLAMP_V, 'V')}) / {series.text} = {si(injected_a, 'A')} at most"
        working = Working(formula="I_clamp = (V_in − V_DD − 0.6 V) / R", substituted=put_in, source="from-memory")
        return Carried(
            Level(voltage_v=held, working=(working,)),
            series.known,
            self._within(series.known, ratio),
            tolerance=tolerance,
            extra=series,
            injected_a=injected_a,
        )

    def _pulled_by_receiver(self, school: str) -> Carried:
        """The sender pulls its low against the pull-ups: one behind a diode, or one on each side of a MOSFET."""
        drive, rail, usual = self.drive, self.rail, self.catalog.proposals["shifter"]
        pull = self._ohm("pull_ohm", "Pull-up", self.values.pull_ohm, usual.value or 1e4, usual.why)
        level, load_ohm = own_rail(rail, "V = V_DD of the receiver, through its pull-up"), self.burden.load_ohm
        if load_ohm is not None:  # a pull-down of the line's own makes a divider of the two
            both = Divider(upper_ohm=pull.known, lower_ohm=load_ohm, tolerance_ratio=self._tolerance()[0], burden=replace(self.burden, load_ohm=None))  # fmt: skip
            level = divide(rail, both)
        sender_ohm = self._sender_ohm
        if school == "mosfet":
            sinks = ((drive.value + rail.value) / pull.known, (drive.most + rail.most) / pull.known)
            return Carried(
                level,
                pull.known,
                self._flat(pull.known),
                extra=pull,
                low_v=(sinks[0] * sender_ohm.value, sinks[1] * sender_ohm.most),
                low_how=f"{si(sinks[0], 'A')} · {si(sender_ohm.value, 'ohm')} of the sender",
                carried_a=sinks,
                carried_how=f"({si(drive.value, 'V')} + {si(rail.value, 'V')}) / {pull.text}, a pull-up on each side",
                gate_v=min(drive.value, rail.value),
                rail_v=rail.value,
                goes_up=rail.value > drive.value,
            )
        drop = self._diode_drop()
        level = self._held_by_sender(level, drop)
        sinks = ((rail.value - drop.known) / pull.known, (rail.most - drop.low) / pull.known)
        return Carried(
            level,
            pull.known,
            self._flat(pull.known),
            extra=pull,
            drop=drop,
            low_v=(drop.known + sinks[0] * sender_ohm.value, drop.high + sinks[1] * sender_ohm.most),
            low_how=f"{drop.text} of the diode and {si(sinks[0], 'A')} · {si(sender_ohm.value, 'ohm')} of the sender",
            carried_a=sinks,
            carried_how=f"({si(rail.value, 'V')} − {drop.text}) / {pull.text}",
        )

    def _held_by_sender(self, level: Level, drop: Value) -> Level:
        """A diode towards a sender that drives its high holds the line no more than its drop above that."""
        drive, volts = self.drive, level.voltage_v
        held = Spread(
            least=min(volts.least, drive.least + drop.low),
            value=min(volts.value, drive.value + drop.known),
            most=min(volts.most, drive.most + drop.high),
        )
        if held.value == volts.value:
            return replace(level, voltage_v=held)
        put_in = f"{si(drive.value, 'V')} + {drop.text} = {si(held.value, 'V')}, not {si(volts.value, 'V')}"
        working = Working(formula="V = V_sent + V_diode: the diode leads the pull-up into the sender's high", substituted=put_in, source="horowitz-hill")  # fmt: skip
        return Level(voltage_v=held, working=(*level.working, working))

    def _diode_drop(self) -> Value:
        usual, own = self.catalog.proposals["diode-drop"], self.values.diode_v
        slot = self.slot("diode_v", "Its diode drops", "V", ("shift", "values", "diode_v"))
        if own is not None:
            return slot.filled(own, origin="own")
        return slot.filled(usual.value or 0.6, origin="proposed", spread=usual.pairs[0], because=usual.why)

    def _pulled_up(self, school: str, carried: Carried, pull_ohm: float, pull_v: Spread) -> Carried:
        """Add the line's own pull-up: driven, it moves highs and lows a little; while nothing drives the line, all the way."""
        ratio = self._tolerance()[0]
        if self.is_contact:
            return self._open_contact(carried, pull_ohm, pull_v)
        both = pulled_between(
            carried.level.voltage_v, source_ohm=carried.source_ohm, pull_v=pull_v, pull_ohm=pull_ohm, tolerance_ratio=ratio
        )
        floats_v = self._undriven(carried, pull_ohm, pull_v, ratio)
        volts = both.voltage_v
        if school == "clamp":
            top = self.rail.most + CLAMP_V
            volts = Spread(
                least=min(volts.least, top), value=min(volts.value, self.rail.value + CLAMP_V), most=min(volts.most, top)
            )
            floats_v = min(floats_v, top)
        if school == "diode" and carried.drop is not None:
            volts = self._held_by_sender(Level(voltage_v=volts, working=()), carried.drop).voltage_v
        told = Working(
            formula="while nothing drives the line, the pull-up alone lifts it",
            substituted=f"up to {si(floats_v, 'V')}",
            source="common-practice",
        )
        level = Level(
            voltage_v=replace(volts, most=max(volts.most, floats_v)), working=(*carried.level.working, *both.working, told)
        )
        down = self._sender_ohm if school in ("mosfet", "diode", "gate") else carried.source_ohm
        lifts = self._lifted(down, pull_ohm, pull_v)
        injected_a = carried.injected_a
        if injected_a is not None:
            injected_a += max(0.0, pull_v.most - self.rail.least - CLAMP_V) / (pull_ohm * (1 - ratio))
        return carried._replace(
            level=level,
            low_v=(carried.low_v[0] + lifts[0], carried.low_v[1] + lifts[1]),
            low_how=f"{si(pull_v.value, 'V')} · {si(down.value, 'ohm')} / ({si(pull_ohm, 'ohm')} + {si(down.value, 'ohm')})"
            + ("" if carried.low_v[0] == 0 else f", and {carried.low_how}"),
            carried_a=(carried.carried_a[0] + pull_v.value / pull_ohm, carried.carried_a[1] + pull_v.most / pull_ohm),
            carried_how=f"{si(pull_v.value, 'V')} / {si(pull_ohm, 'ohm')} of the pull-up while low"
            + ("" if carried.carried_a[0] == 0 else f", and {carried.carried_how}"),
            injected_a=injected_a,
        )

    @staticmethod
    def _lifted(down: Spread, pull_ohm: float, pull_v: Spread) -> tuple[float, float]:
        """Return how far a pull-up lifts a low that comes through a resistance, nominal and at most, V."""
        return pull_v.value * down.value / (pull_ohm + down.value), pull_v.most * down.most / (pull_ohm + down.most)

    @staticmethod
    def _undriven(carried: Carried, pull_ohm: float, pull_v: Spread, ratio: float) -> float:
        """Return the volts of a line while its sender is off or starting, at most."""
        if carried.lower is None:
            return pull_v.most
        lower_ohm = carried.lower.known * (1 + ratio)
        return pull_v.most * lower_ohm / (lower_ohm + pull_ohm * (1 - ratio))

    def _open_contact(self, carried: Carried, pull_ohm: float, pull_v: Spread) -> Carried:
        """A button or switch connects to ground or to nothing: open, its pull-up alone makes the high."""
        if carried.divider is not None:
            lower_ohm = self.burden.loaded_ohm(carried.divider.lower_ohm)
            whole = pull_ohm + carried.divider.upper_ohm + lower_ohm
            share = lower_ohm / whole
            volts = Spread(least=pull_v.least * share, value=pull_v.value * share, most=pull_v.most * share)
        else:
            volts = pull_v
        put_in = f"{si(volts.value, 'V')}, {si(volts.least, 'V')} to {si(volts.most, 'V')}, through {si(pull_ohm, 'ohm')}"
        working = Working(formula="open, a contact leaves the line to its pull-up", substituted=put_in, source="common-practice")
        return carried._replace(level=Level(voltage_v=volts, working=(working,)), edge_ohm=max(carried.edge_ohm, pull_ohm))
