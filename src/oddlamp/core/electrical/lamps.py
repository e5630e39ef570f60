"""Lamps of a plan: how each is driven, what flows, and what its pins carry."""

from dataclasses import replace
from typing import Literal

from oddlamp.core.base import Working, inner, si
from oddlamp.core.design import ChannelDesign, LampDesign, NodeDesign, Picked, PinLoad, RailDesign
from oddlamp.core.electrical.dimming import resolve_dimming
from oddlamp.core.electrical.diode import DiodeCurve, curve_current_a
from oddlamp.core.electrical.led import NOTHING, LedBranch, LedPoint, Spread, led_point, size_led_resistor
from oddlamp.core.electrical.loads import resolve_load
from oddlamp.core.electrical.preferred import FLOAT_SLACK, Series, next_preferred
from oddlamp.core.electrical.supplies import pick_part
from oddlamp.core.electrical.switches import SlotMaker, pick_school, resolve_switch, switch_drop, switch_part
from oddlamp.core.parts.check import second_ideality
from oddlamp.core.parts.models import Catalog, LedPart, LogicPart, TransistorPart
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.lights import Channel, Lamp
from oddlamp.core.plan.model import Plan
from oddlamp.core.values import NOT_YET, Slot, Value, first_known

CHANNELS = {"led": ("main",), "rgb": ("red", "green", "blue")}
BARE_LEAST_OHM = 10.0
LEAST_IDEALITY = 0.1  # two points of one measured curve never come near; keeps a contradictory pair from dividing by nothing


def spread_of(value: Value) -> Spread:
    """Return a known value with its corners."""
    return Spread(least=value.low, value=value.known, most=value.high)


def resolve_lamps(
    plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign], rails: dict[str, RailDesign]
) -> dict[str, LampDesign]:
    """Resolve every lamp, in the order the plan wants them seen."""
    wanted = plan.order.get("lamps", ())
    ids = [name for name in wanted if name in plan.lamps] + [name for name in plan.lamps if name not in wanted]
    return {name: _LampMaker(plan, catalog, nodes[plan.lamps[name].host], rails, name).make() for name in ids}


class _LampMaker:
    """Works out one lamp."""

    def __init__(self, plan: Plan, catalog: Catalog, host: NodeDesign, rails: dict[str, RailDesign], lamp_id: str) -> None:
        self.plan, self.catalog, self.host, self.id = plan, catalog, host, lamp_id
        self.lamp: Lamp = plan.lamps[lamp_id]
        self.rail = rails.get(self.lamp.rail or host.rail_id or "")
        self.host_rail = rails.get(host.rail_id or "")
        self.stage = f"lamps.{lamp_id}"
        self.series: Series = plan.series or "E24"
        self.label = self.lamp.label or lamp_id.replace("_", " ").capitalize()

    def slot(self, field: str, label: str, unit: str) -> Slot:
        return Slot(id=f"{self.id}.{field}", stage=self.stage, label=label, unit=unit)

    def make(self) -> LampDesign:
        """Put the lamp together."""
        rail_id = self.rail.id if self.rail else None
        if self.lamp.kind not in CHANNELS:
            return self._load(rail_id)
        school = pick_school(getattr(self.lamp, "drive", None), needs_switch=False)
        common = self._common()
        is_sunk = common is not None and common.id == "anode" and school.id == "pin"
        takes_rail = is_sunk or school.id != "pin"
        drive = self._drive(takes_rail, school)
        because = None if self.host.part else f"lamps on this kind of host: {NOT_YET}"
        channels = tuple(
            self._channel(channel_id, drive, school, is_sunk=is_sunk, takes_rail=takes_rail, open_because=because)
            for channel_id in CHANNELS[self.lamp.kind]
        )
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
            loads=tuple(load for channel in channels if (load := self._pin_load(channel, is_sunk)) is not None),
            dimming=resolve_dimming(self.slot, self.catalog, self.lamp, self.host, None),
        )

    def _common(self) -> Picked | None:
        if self.lamp.kind != "rgb":
            return None
        if self.lamp.common:
            return Picked(self.lamp.common, self.lamp.common, "own")
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
        if self.lamp.kind in ("relay", "buzzer", "strip"):
            part, taken = self.host.part, load.current.value
            is_too_much = part is not None and taken is not None and taken > part.pin_recommended_a.value * (1 + FLOAT_SLACK)
            needs = self.lamp.kind == "strip" or (is_too_much and load.off_current is None)
            school = pick_school(getattr(self.lamp, "drive", None), needs_switch=needs)
        switch = None
        loads: tuple[PinLoad, ...] = ()
        if school is not None and load.current.value is not None:
            drive, chosen = getattr(self.lamp, "drive", None), self._switch_part(school, load.current.known, load.rail)
            switch = resolve_switch(self.slot, self.catalog, self.host, drive, school, chosen, load.current.known, self.series)
            signal_id = f"{self.id}.main"
            if switch is not None:
                loads = (PinLoad(signal_id, self.id, "source", switch.pin.known, switch.pin.known),)
            elif school.id == "pin":
                way: Literal["source", "sink"] = "sink" if load.on_when == "low" else "source"
                loads = (PinLoad(signal_id, self.id, way, load.current.known, load.current.high),)
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
            loads=loads,
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
        for name in CHANNELS[self.lamp.kind]:
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

        def slot(field: str, label: str, unit: str) -> Slot:
            return self.slot(f"{channel_id}.{field}", label, unit)

        led, choice = self._led(channel_id, channel)
        forward = first_known(
            slot("forward_voltage_v", "Forward voltage", "V"),
            reading=self.plan.measured.get(f"{path}.forward_voltage_v"),
            part=led.forward_voltage_v,
        )
        limit = slot("absolute_current_a", "Limit of the LED", "A").stated(led.absolute_current_a)
        in_series, in_parallel = channel.in_series or 1, channel.in_parallel or 1
        sharing: Literal["each", "one"] = "one" if channel.sharing == "one" and in_parallel > 1 else "each"
        wanted = self._wanted(slot("wanted_current_a", "Wanted", "A"), channel, led, part if school.id == "pin" else None)
        tolerance = self._tolerance(slot("tolerance_ratio", "Tolerance", "ratio"), channel)
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
            branch = replace(
                self._branch(drive, forward, tolerance, in_series, part, school, takes_rail, curve, chosen),
                in_parallel=in_parallel,
                is_shared=sharing == "one",
            )
        sizing, resistor = self._resistor(
            slot("resistor_ohm", "Series resistor", "ohm"), channel, branch, wanted.known, limit.known, because
        )
        point = None
        if branch is not None and resistor.value is not None:
            point = led_point(branch, resistance_ohm=resistor.known, wanted_current_a=wanted.known)
        filled = self._results(slot, branch, point, resistor, sizing, resistor.because or because or NOT_YET)
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
            switch=switch,
            ghost=self._ghost(slot, branch, resistor) if is_sunk else None,
            **filled,
        )

    def _branch(
        self,
        drive: Value,
        forward: Value,
        tolerance: Value,
        in_series: int,
        part: LogicPart,
        school: Picked,
        takes_rail: bool,
        curve: DiodeCurve,
        switch: tuple[TransistorPart, Picked] | None,
    ) -> LedBranch:
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
            series=self.series,
        )

    def _resistor(
        self, slot: Slot, channel: Channel, branch: LedBranch | None, wanted_a: float, limit_a: float, because: str | None
    ) -> tuple[tuple[float, tuple[Working, ...]] | None, Value]:
        """Return the exact value with its working, and the resistor fitted or proposed."""
        own = slot.filled(channel.resistor_ohm, origin="own") if channel.resistor_ohm else None
        if branch is None:
            return None, own or slot.empty(because or NOT_YET, origin="proposed")
        if branch.left_v <= 0:
            worst_v = branch.drive_voltage_v.most - branch.forward_voltage_v.least - branch.driver_drop_v.least
            safe = next_preferred(max(BARE_LEAST_OHM, worst_v / limit_a), self.series)
            why = "the usual drop leaves nothing to divide; this one keeps even the least drop under its limit"
            return None, own or slot.filled(safe, origin="proposed", because=why)
        sizing = size_led_resistor(branch, wanted_current_a=wanted_a)
        why = f"the smallest {self.series} value that never exceeds what is wanted"
        resistor = own or slot.filled(sizing.resistance_ohm, origin="proposed", because=why, working=sizing.working)
        return (sizing.exact_ohm, sizing.working[:1]), resistor

    def _results(
        self,
        slot: SlotMaker,
        branch: LedBranch | None,
        point: LedPoint | None,
        resistor: Value,
        sizing: tuple[float, tuple[Working, ...]] | None,
        because: str,
    ) -> dict[str, Value]:
        slots = {
            "exact": slot("exact_ohm", "Exact", "ohm"),
            "current": slot("current_a", "Through the LED", "A"),
            "current_with_pin": slot("current_with_pin_a", "With what drives it", "A"),
            "curve": slot("curve_a", "By the diode curve", "A"),
            "power": slot("resistor_power_w", "In the resistor", "W"),
        }
        if point is None or branch is None:
            return {name: it.empty(because) for name, it in slots.items()}
        current, curve = point.current_a, point.curve_a
        power = si(point.resistor_power_w, "W", digits=2)
        rating = f"; take one rated {si(point.rating_w, 'W')}" if point.rating_w else "; more than any usual rating"
        return {
            "exact": slots["exact"].filled(sizing[0], origin="computed", working=sizing[1])
            if sizing
            else slots["exact"].empty("the usual drop leaves nothing for a resistor"),
            "current": slots["current"].filled(
                current.value,
                origin="computed",
                spread=(current.least, current.most),
                because="by the diode curve: a constant drop says nothing here" if point.is_by_curve else None,
                working=point.working,
            ),
            "current_with_pin": slots["current_with_pin"].filled(
                point.current_with_pin_a,
                origin="computed",
                because=f"pin, switch and source are about {si(branch.driver_resistance_ohm.value, 'ohm')}"
                + (f" and carry all {branch.in_parallel}" if branch.in_parallel > 1 else ""),
            ),
            "curve": slots["curve"].filled(curve.value, origin="computed", spread=(curve.least, curve.most))
            if curve
            else slots["curve"].empty(NOT_YET),
            "power": slots["power"].filled(
                point.resistor_power_w,
                origin="computed",
                digits=2,
                working=(
                    Working(
                        formula="P = I² R, and twice that to the next rating",
                        substituted=f"{si(current.value * branch.on_one_resistor, 'A')}² · {resistor.text} = {power}{rating}",
                        source="horowitz-hill",
                    ),
                ),
            ),
        }

    def _ghost(self, slot: SlotMaker, branch: LedBranch | None, resistor: Value) -> Value | None:
        """Return what still flows from a rail above the pin while the pin is high, by the curve."""
        logic = self.host.logic
        if branch is None or branch.curve is None or resistor.value is None or logic is None or logic.value is None:
            return None
        above_v = branch.drive_voltage_v.value - logic.known
        ohm = branch.seen_ohm(resistor.known)
        current_a = curve_current_a(branch.curve, drive_v=above_v, resistance_ohm=ohm, in_series=branch.in_series)
        put_in = f"{si(branch.drive_voltage_v.value, 'V')} − {logic.text} = {si(above_v, 'V')} across LED and {si(ohm, 'ohm')}: {si(current_a, 'A')}"
        working = Working(formula="the curve at V_rail − V_OH", substituted=put_in, source="horowitz-hill")
        return slot("ghost_a", "While it is off", "A").filled(current_a, origin="computed", working=(working,), digits=2)

    def _wanted(self, slot: Slot, channel: Channel, led: LedPart, part: LogicPart | None) -> Value:
        if channel.wanted_current_a is not None:
            return slot.filled(channel.wanted_current_a, origin="own")
        usual = led.usual_current_a.value
        if part is not None and part.pin_recommended_a.value < usual:
            return slot.stated(part.pin_recommended_a, origin="proposed", because="what one pin of this part should give")
        return slot.stated(led.usual_current_a, origin="proposed", because="the usual full current of such an LED")

    def _tolerance(self, slot: Slot, channel: Channel) -> Value:
        if channel.tolerance_ratio is not None:
            return slot.filled(channel.tolerance_ratio, origin="own")
        part = self.catalog.resistors[self.catalog.proposals["resistor"].part or ""]
        return slot.stated(
            part.tolerance_ratio, origin="proposed", because=f"{inner(part.label)}, {self.catalog.proposals['resistor'].why}"
        )
