"""Lamps of a plan: how each is driven, what flows, and what its pins carry."""

from dataclasses import replace
from typing import Literal

from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign
from oddlamp.core.design.lines import PinLoad
from oddlamp.core.design.supplies import NodeDesign, Picked, RailDesign
from oddlamp.core.design.values import NOT_YET, Slot, Value, first_known, spread_of
from oddlamp.core.electrical.diode import DiodeCurve
from oddlamp.core.electrical.led import CURVE_BELOW_V, NOTHING, LedBranch, Spread, led_point
from oddlamp.core.electrical.preferred import FLOAT_SLACK, Series
from oddlamp.core.english import inner
from oddlamp.core.parts.check import second_ideality
from oddlamp.core.parts.models import Catalog, LedPart, LogicPart, TransistorPart
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.lights import CHANNEL_KINDS, LEADS, LOAD_KINDS, Channel, Lamp, sends_codes
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import label_of
from oddlamp.core.resolve.channels import floats_of, flows_of, ghost_of, rating_of, resistor_of, tolerance_of, wanted_of
from oddlamp.core.resolve.chosen import pick_part
from oddlamp.core.resolve.dimming import resolve_dimming
from oddlamp.core.resolve.loads import on_volts, resolve_load
from oddlamp.core.resolve.switches import pick_school, resolve_switch, switch_drop, switch_part

LEAST_IDEALITY = 0.1  # two points of one measured curve never come near; keeps a contradictory pair from dividing by nothing


def resolve_lamps(
    plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign], rails: dict[str, RailDesign], before: Design | None = None
) -> tuple[dict[str, LampDesign], dict[str, PinLoad]]:
    """Resolve every lamp, in the order the plan wants them seen, and what each of their lines asks of its pin.

    Lamps that stand in ``before`` with all that bears on them are taken from there: an edit turns one of many.
    """
    stay = _unmoved(plan, catalog, nodes, rails, before) if before is not None else {}
    wanted = plan.order.get("lamps", ())
    ids = [name for name in wanted if name in plan.lamps] + [name for name in plan.lamps if name not in wanted]
    lamps: dict[str, LampDesign] = {}
    loads: dict[str, PinLoad] = {}
    for name in ids:
        if before is not None and name in stay:
            lamps[name] = stay[name]
            loads |= {load.signal_id: load for load in before.loads(stay[name])}
            continue
        maker = _LampMaker(plan, catalog, nodes[plan.lamps[name].host], rails, name)
        lamps[name] = maker.make()
        loads |= {load.signal_id: load for load in maker.loads}
    return lamps, loads


def _unmoved(
    plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign], rails: dict[str, RailDesign], before: Design
) -> dict[str, LampDesign]:
    """Find the lamps of an earlier design that nothing a lamp is made from has changed for."""
    was = before.plan
    if before.catalog is not catalog or plan.series != was.series or plan.measured != was.measured:
        return {}
    hosts = {name for name, node in nodes.items() if before.nodes.get(name) == node}
    fed = {name for name, rail in rails.items() if before.rails.get(name) == rail} | {None}
    return {
        name: before.lamps[name]
        for name, lamp in plan.lamps.items()
        if lamp.host in hosts and {lamp.rail, nodes[lamp.host].rail_id} <= fed and was.lamps.get(name) == lamp
    }


class _LampMaker:
    """Works out one lamp."""

    def __init__(self, plan: Plan, catalog: Catalog, host: NodeDesign, rails: dict[str, RailDesign], lamp_id: str) -> None:
        self.plan, self.catalog, self.host, self.id = plan, catalog, host, lamp_id
        self.lamp: Lamp = plan.lamps[lamp_id]
        self.rail = rails.get(self.lamp.rail or host.rail_id or "")
        self.host_rail = rails.get(host.rail_id or "")
        self.stage = f"lamps.{lamp_id}"
        self.series: Series = plan.series or "E24"
        self.label = label_of(self.lamp.label, lamp_id)
        self.loads: list[PinLoad] = []

    def slot(self, field: str, label: str, unit: str, at: tuple[str, ...] = ()) -> Slot:
        path = ("lamps", self.id, *at) if at else ()
        return Slot(id=f"{self.id}.{field}", stage=self.stage, label=label, unit=unit, path=path)

    def make(self) -> LampDesign:
        """Put the lamp together."""
        rail_id = self.rail.id if self.rail else None
        if self.lamp.kind not in CHANNEL_KINDS:
            return self._load(rail_id)
        why = f"a pin at {self.host.logic.text if self.host.logic else '?'} leaves this light too little for its resistor; the rail leaves enough"
        school = pick_school(getattr(self.lamp, "drive", None), needs_switch=self._lacks_headroom(), why=why)
        common = self._common(school)
        is_sunk = common is not None and common.id == "anode" and school.id == "pin"
        takes_rail = is_sunk or school.id != "pin"
        drive = self._drive(takes_rail, school)
        because = None if self.host.part else f"lamps on this kind of host: {NOT_YET}"
        channels = tuple(
            self._channel(channel_id, drive, school, is_sunk=is_sunk, takes_rail=takes_rail, open_because=because)
            for channel_id in LEADS[self.lamp.kind]
        )
        self.loads += [load for channel in channels if (load := self._pin_load(channel, is_sunk)) is not None]
        return LampDesign(
            id=self.id,
            label=self.label,
            kind=self.lamp.kind,
            host=self.lamp.host,
            rail_id=rail_id,
            common=common,
            channels=channels,
            open_because=because,
            school=school,
            dimming=resolve_dimming(self.slot, self.catalog, self.lamp, self.host, None),
            sends_codes=sends_codes(self.lamp),
        )

    def _lacks_headroom(self) -> bool:
        """Tell whether a pin leaves some colour under half a volt for its resistor, and the rail behind a switch does not."""
        logic, rail = self.host.logic, self.rail.voltage if self.rail is not None else None
        if logic is None or logic.value is None or rail is None or rail.value is None or rail.value <= logic.value:
            return False
        if self.lamp.kind == "rgb" and self.lamp.common is not None:
            return False  # how its common leg is wired settles how it is driven
        drops_v = [self._led(name, said)[0].forward_voltage_v.value * (said.in_series or 1) for name in LEADS[self.lamp.kind] if (said := self._said(name))]  # fmt: skip
        return logic.value - max(drops_v) < CURVE_BELOW_V <= rail.value - max(drops_v)

    def _common(self, school: Picked) -> Picked | None:
        if self.lamp.kind != "rgb":
            return None
        if self.lamp.common:
            return Picked(self.lamp.common, self.lamp.common, "own")
        if school.id != "pin":
            return Picked("anode", "anode", "proposed", "its switches pull to ground, so its common leg goes to plus")
        proposed = self.catalog.proposals["common"]
        return Picked(proposed.words[0], proposed.words[0], "proposed", proposed.why)

    def _drive(self, takes_rail: bool, school: Picked) -> Value:
        """Return the volts across LED, resistor and switch together: the pin's own high, or the rail above."""
        slot = self.slot("drive_v", "Drive", "V")
        if takes_rail and self.rail is None:
            return slot.empty("no rail feeds the common leg" if school.id == "pin" else "no rail feeds this lamp")
        source = self.rail.voltage if takes_rail and self.rail else self.host.logic
        if source is None or source.value is None:
            return slot.empty((source.because if source else None) or "its host has no supply")
        if takes_rail and self.rail:
            end = "into a pin that pulls low" if school.id == "pin" else f"through the {school.label}"
            what = f"{self.rail.label}, {end}"
        else:
            what = f"a pin of the {inner(self.host.label)}, high"
        return slot.filled(
            source.value, origin=source.origin, spread=(source.low, source.high), because=what, working=source.working
        )

    def _pin_load(self, channel: ChannelDesign, is_sunk: bool) -> PinLoad | None:
        if channel.switch is not None:
            base_a = channel.switch.pin.known
            return PinLoad(channel.signal_id, self.id, "source", base_a, base_a)
        if channel.point is None:
            return None
        current, count = channel.point.current_a, channel.in_parallel
        way: Literal["source", "sink"] = "sink" if is_sunk else "source"
        # On one shared resistor the most through one LED is already all there is.
        most_a = current.most * (1 if channel.sharing == "one" else count)
        return PinLoad(channel.signal_id, self.id, way, current.value * count, most_a)

    def _load(self, rail_id: str | None) -> LampDesign:
        load = resolve_load(self.slot, self.catalog, self.lamp, self.host, self.rail)
        school = None
        if self.lamp.kind in LOAD_KINDS:
            part, taken = self.host.part, load.current.value
            is_too_much = part is not None and taken is not None and taken > part.pin_recommended_a.value * (1 + FLOAT_SLACK)
            needs = self.lamp.kind == "strip" or (is_too_much and load.off_current is None)
            school = pick_school(getattr(self.lamp, "drive", None), needs_switch=needs)
        switch = None
        if school is not None and load.current.value is not None:
            drive, chosen = getattr(self.lamp, "drive", None), self._switch_part(school, load.current.known, load.rail)
            switch = resolve_switch(self.slot, self.catalog, self.host, drive, school, chosen, load.current.known, self.series)
            signal_id = f"{self.id}.main"
            if switch is not None:
                self.loads.append(PinLoad(signal_id, self.id, "source", switch.pin.known, switch.pin.known))
            elif school.id == "pin":
                way: Literal["source", "sink"] = "sink" if load.on_when == "low" else "source"
                self.loads.append(PinLoad(signal_id, self.id, way, load.current.known, load.current.high))
        load = replace(load, across_on=on_volts(self.slot, load, switch, self.host)) if school is not None else load
        return LampDesign(
            id=self.id,
            label=self.label,
            kind=self.lamp.kind,
            host=self.lamp.host,
            rail_id=rail_id,
            common=None,
            channels=(),
            open_because=None if load.current.value is not None else load.current.because,
            school=school,
            switch=switch,
            load=load,
            dimming=resolve_dimming(self.slot, self.catalog, self.lamp, self.host, load.pixel),
        )

    def _said(self, channel_id: str) -> Channel:
        """Return what the plan says of a channel."""
        return getattr(self.lamp, "channels", {}).get(channel_id) or Channel()

    def _led(self, channel_id: str, channel: Channel) -> tuple[LedPart, Picked]:
        usual = "led" if channel_id == "main" else f"led-{channel_id}"
        led_id, choice = pick_part(channel.led, proposal=usual, catalog=self.catalog)
        return as_used(self.catalog.led(led_id), channel.led.overrides if channel.led else {}), choice

    def _most_wanted_a(self) -> float:
        """Return the current its colour that takes most asks of a switch."""
        asked = [0.0]
        for name in LEADS[self.lamp.kind]:
            channel = self._said(name)
            usual_a = channel.wanted_current_a or self._led(name, channel)[0].usual_current_a.value
            asked.append(usual_a * (channel.in_parallel or 1))
        return max(asked)

    def _switch_part(self, school: Picked, load_a: float | None, stands_at: Value | None) -> tuple[TransistorPart, Picked] | None:
        """Return the transistor for a load, or for LEDs, whose current comes of it; None where a pin drives it."""
        if school.id == "pin":
            return None
        logic = self.host.logic
        return switch_part(
            getattr(self.lamp, "drive", None),
            school.id,
            self.catalog,
            load_a=self._most_wanted_a() if load_a is None else load_a,
            rail_v=stands_at.high if stands_at is not None and stands_at.value is not None else 0.0,
            pin_v=logic.low if logic is not None and logic.value is not None else 0.0,
        )

    def _channel(
        self, channel_id: str, drive: Value, school: Picked, *, is_sunk: bool, takes_rail: bool, open_because: str | None
    ) -> ChannelDesign:
        channel = self._said(channel_id)
        path, part = f"{self.id}.{channel_id}", self.host.part

        def slot(field: str, label: str, unit: str, at: tuple[str, ...] = ()) -> Slot:
            inside = ("channels", channel_id, *at) if at and at[0] != "drive" else at
            return self.slot(f"{channel_id}.{field}", label, unit, inside)

        led, choice = self._led(channel_id, channel)
        forward = first_known(
            slot("forward_voltage_v", "Forward voltage", "V", ("led", "overrides", "forward_voltage_v")),
            reading=self.plan.measured.get(f"{path}.forward_voltage_v"),
            part=led.forward_voltage_v,
        )
        limit = slot("absolute_current_a", "Limit of the LED", "A").stated(led.absolute_current_a)
        in_series, in_parallel = channel.in_series or 1, channel.in_parallel or 1
        sharing: Literal["each", "one"] = "one" if channel.sharing == "one" and in_parallel > 1 else "each"
        wanted = wanted_of(
            slot("wanted_current_a", "Wanted", "A", ("wanted_current_a",)), channel, led, part if school.id == "pin" else None
        )
        tolerance = tolerance_of(slot("tolerance_ratio", "Tolerance", "ratio", ("tolerance_ratio",)), self.catalog, channel)
        because = open_because or (drive.because if drive.value is None else None)
        chosen = self._switch_part(school, None, drive)
        branch = None
        if because is None and part is not None:
            curve = DiodeCurve(
                forward_voltage_v=forward.known,
                at_current_a=led.usual_current_a.value,
                ideality=max(second_ideality(led), LEAST_IDEALITY),
                series_ohm=led.series_ohm.value,
            )
            strings = (in_series, in_parallel, sharing == "one")
            branch = self._branch(drive, forward, tolerance, strings, part, takes_rail, curve, chosen)
        sizing, resistor = resistor_of(
            slot("resistor_ohm", "Series resistor", "ohm", ("resistor_ohm",)),
            self.series,
            channel,
            branch,
            wanted.known,
            limit.known,
            because,
        )
        point = None
        if branch is not None and resistor.value is not None:
            point = led_point(branch, resistance_ohm=resistor.known, wanted_current_a=wanted.known)
        filled = flows_of(slot, branch, point, resistor, sizing, resistor.because or because or NOT_YET)
        switched_a = filled["current"].value or wanted.known
        switch = resolve_switch(
            slot,
            self.catalog,
            self.host,
            getattr(self.lamp, "drive", None),
            school,
            chosen,
            switched_a * in_parallel,
            self.series,
        )
        return ChannelDesign(
            id=channel_id,
            lamp_id=self.id,
            led=led,
            led_picked=Picked(choice.id, led.label, choice.origin, choice.why),
            in_series=in_series,
            in_parallel=in_parallel,
            is_inverted=is_sunk,
            forward=forward,
            wanted=wanted,
            limit=limit,
            tolerance=tolerance,
            drive=drive,
            resistor=resistor,
            branch=branch,
            point=point,
            sharing=sharing,
            rating=rating_of(slot("rating_w", "Its rating", "W", ("rating_w",)), self.catalog, channel, point),
            switch=switch,
            ghost=ghost_of(slot, self.host.logic, branch, resistor) if is_sunk else None,
            floats=floats_of(slot, self.host.logic, branch) if is_sunk else None,
            **filled,
        )

    def _branch(
        self,
        drive: Value,
        forward: Value,
        tolerance: Value,
        strings: tuple[int, int, bool],
        part: LogicPart,
        takes_rail: bool,
        curve: DiodeCurve,
        switch: tuple[TransistorPart, Picked] | None,
    ) -> LedBranch:
        """Put a branch together; ``strings`` are LEDs in series, strings side by side, and whether those share a resistor."""
        in_series, in_parallel, is_shared = strings
        drop, ohm = NOTHING, Spread(
            least=part.output_resistance_ohm.low, value=part.output_resistance_ohm.value, most=part.output_resistance_ohm.high
        )  # fmt: skip
        if switch is not None:
            drop, ohm = switch_drop(switch[0])
        feeds = self.rail if takes_rail else self.host_rail if part.logic_voltage_v is None else None
        if feeds is not None and feeds.resistance is not None and feeds.resistance.value is not None:
            inner = feeds.resistance
            ohm = Spread(least=ohm.least + inner.low, value=ohm.value + inner.known, most=ohm.most + inner.high)
        return LedBranch(
            drive_voltage_v=spread_of(drive),
            forward_voltage_v=Spread(
                least=in_series * forward.low, value=in_series * forward.known, most=in_series * forward.high
            ),
            driver_drop_v=drop,
            driver_resistance_ohm=ohm,
            tolerance_ratio=tolerance.known,
            curve=curve,
            in_series=in_series,
            in_parallel=in_parallel,
            is_shared=is_shared,
            series=self.series,
        )
