"""The sheet of a lamp: what flows, against what is wanted and what it can stand."""

from dataclasses import replace
from functools import lru_cache

from oddlamp.core.base import and_list, inner, si
from oddlamp.core.builds import can_be_built
from oddlamp.core.checks.drivers import suiting_supply
from oddlamp.core.checks.leds import channel_patch
from oddlamp.core.checks.pins import without_lamp
from oddlamp.core.design import ChannelDesign, Design, LampDesign, LoadDesign, SwitchDesign
from oddlamp.core.electrical.designers import best_from_drawer, best_pair
from oddlamp.core.electrical.diode import DiodeCurve
from oddlamp.core.electrical.loads import METRE
from oddlamp.core.electrical.preferred import neighbour, next_preferred
from oddlamp.core.electrical.supplies import own_figures
from oddlamp.core.electrical.switches import SCHOOLS as DRIVES
from oddlamp.core.electrical.switches import SIZED_ANEW, ease
from oddlamp.core.findings import Move
from oddlamp.core.parts.check import loads_of
from oddlamp.core.parts.models import LoadPart, PixelPart
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.lights import SIGNALS_BY_KIND
from oddlamp.core.sheets.built import built_moves
from oddlamp.core.sheets.entry import entry, marked
from oddlamp.core.sheets.hookup import level_panel, slowest_edge, window_picture
from oddlamp.core.sheets.light import light_panels
from oddlamp.core.sheets.models import (
    Choice,
    CurrentBar,
    CurrentPicture,
    CurvePicture,
    Entry,
    Option,
    Panel,
    Schematic,
    SchematicPart,
    Sheet,
    Symbol,
    ticks,
)
from oddlamp.core.sheets.parts import drawer_entry, figures_panel, own_move
from oddlamp.core.starts import own_supply
from oddlamp.core.values import NOT_YET, Slot, Value

DRIVE_NOTES = {"pin": "no more parts", "npn": "a few hundred mA", "mosfet": "amperes, and no base current"}
SAID = {"resistor": "{} resistor", "led": "LED: {}"}
CURVE_POINTS = 28
OFF_FIRST = "Off is a high pin: the program writes that before it makes the pin an output."
NEARER = 0.98  # two resistors are worth their solder from two per cent on


def lamp_sheet(design: Design, lamp: LampDesign) -> Sheet:
    """Build the sheet of one lamp."""
    leads = tuple(lead for lead in design.leads.values() if lead.stage == lamp.stage)
    return Sheet(
        stage=lamp.stage,
        kind="lamp",
        title=lamp.label,
        sentence=_sentence(lamp),
        detail=_detail(design, lamp),
        picture=_picture(lamp) or window_picture(leads),
        circuit=_circuit(lamp, lamp.switch) if lamp.load is not None and not leads else None,
        edge=slowest_edge(leads),
        curves=tuple(picture for it in lamp.channels if (picture := _curve_picture(lamp, it)) is not None),
        panels=(
            _whole(design, lamp),
            *(_panel(design, channel) for channel in lamp.channels),
            *_drive_panels(design, lamp),
            *(level_panel(design, lead) for lead in leads),
            *light_panels(design, lamp),
            *_figures(design, lamp),
        ),
        moves=(
            *built_moves(design, tuple(channel.signal_id for channel in lamp.channels), lamp.label),
            Move(label=f"Take {lamp.label} out", patch=without_lamp(design, lamp.id)),
        ),
    )


def _sentence(lamp: LampDesign) -> str:
    if lamp.load is not None:
        return _load_sentence(lamp, lamp.load)
    if lamp.open_because is not None:
        return f"{lamp.label} is {NOT_YET}: {lamp.open_because.partition(':')[0]}."
    missing = [channel for channel in lamp.channels if channel.current.value is None]
    if missing:
        return f"{lamp.label} has no current to state: {missing[0].current.because}."
    flows = [
        channel.current.text.removesuffix("\u00a0mA") if len(lamp.channels) > 1 else channel.current.text
        for channel in lamp.channels
    ]
    wanted = list(dict.fromkeys(channel.wanted.text for channel in lamp.channels))
    unit = "\u00a0mA" if len(flows) > 1 else ""
    where = f"each LED of {lamp.label}" if any(channel.in_parallel > 1 for channel in lamp.channels) else lamp.label
    return f"{and_list(flows)}{unit} {'flows' if len(flows) == 1 else 'flow'} through {where}. Wanted: {and_list(wanted)}."


def _load_sentence(lamp: LampDesign, load: LoadDesign) -> str:
    if load.current.value is None:
        return f"{lamp.label} has no current to state: {load.current.because}."
    if lamp.kind.startswith("pixels"):
        return f"{lamp.label} takes {load.current.text} when every pixel is white."
    if load.off_current is not None:
        return f"{load.current.text} through the input of {lamp.label} when its pin is {load.on_when}."
    return f"{lamp.label} takes {load.current.text} when it is on."


def _load_detail(design: Design, lamp: LampDesign, load: LoadDesign) -> str:
    pins = [pin.label or "none" for lead in SIGNALS_BY_KIND[lamp.kind] if (pin := design.pins.get(f"{lamp.id}.{lead}"))]
    rail = f" from {load.rail.text}" if load.rail is not None and lamp.takes_rail else ""
    how = f", {inner(lamp.school.label)}" if lamp.school else ""
    off = f" {OFF_FIRST}" if load.on_when == "low" else ""
    return f"{load.label}{rail}, on {_pins(pins)}{how}.{off}"


def _detail(design: Design, lamp: LampDesign) -> str:
    if lamp.load is not None:
        return _load_detail(design, lamp, lamp.load)
    if lamp.open_because is not None:
        return "It is kept in the plan and drawn; no number of it is judged."
    first = lamp.channels[0]
    if first.current.value is None:
        return f"Driven with {first.drive.text}."
    pins = [pin.label or "none" for channel in lamp.channels if (pin := design.pins.get(channel.signal_id))]
    way = (
        f"A low pin lights it: the common leg is at plus, so the drive is turned round. {OFF_FIRST}"
        if first.is_inverted
        else f"A high pin lights it, with {first.drive.text}."
        if first.switch is None
        else f"A high pin lights it through {inner(first.switch.part.label)}, with {first.drive.text}."
    )
    resistors = [channel.resistor.text for channel in lamp.channels]
    if len(resistors) > 1:
        resistors = [f"{resistors[0]} each"] if len(set(resistors)) == 1 else resistors
    worst = f" At worst {first.current.spread_text}." if len(lamp.channels) == 1 and first.current.spread_text else ""
    return f"{and_list(resistors)} on {_pins(pins)}. {way}{worst}"


def _pins(labels: list[str]) -> str:
    return f"pin{'s' if len(labels) > 1 else ''} {and_list(labels)}"


def _picture(lamp: LampDesign) -> CurrentPicture | None:
    bars = tuple(_bar(lamp, channel) for channel in lamp.channels)
    if not bars or lamp.open_because is not None:
        return None
    most = 1.15 * max(max(bar.limit_a, bar.wanted_a, bar.most_a or 0, bar.current_a or 0) for bar in bars)
    said = [
        f"{bar.label}: {si(bar.current_a, 'A')} of {si(bar.wanted_a, 'A')} wanted, {si(bar.limit_a, 'A')} at most"
        for bar in bars
        if bar.current_a is not None
    ]
    return CurrentPicture(
        text="; ".join(said) or "No current to draw", axis_most_a=most, ticks=ticks(most, lambda a: si(a, "A")), bars=bars
    )


def _bar(lamp: LampDesign, channel: ChannelDesign) -> CurrentBar:
    current = channel.current
    return CurrentBar(
        label=lamp.label if channel.id == "main" else channel.id.capitalize(),
        glow=channel.led.glow,
        wanted_a=channel.wanted.known,
        limit_a=channel.limit.known,
        current_a=current.value,
        least_a=current.min,
        most_a=current.max,
        with_pin_a=channel.current_with_pin.value,
    )


def _whole(design: Design, lamp: LampDesign) -> Panel:
    settled = design.plan.lamps[lamp.id].label
    name = Entry(
        label="Name",
        text=lamp.label,
        path=("lamps", lamp.id, "label"),
        origin="own" if settled else "proposed",
        because=None if settled else "its id in the plan",
        settles=None if settled else lamp.label,
    )
    choices: tuple[Choice, ...] = ()
    if lamp.common is not None:
        options = tuple(
            Option(
                label=label, detail=detail, patch=at_path(("lamps", lamp.id, "common"), kind), is_chosen=lamp.common.id == kind
            )
            for kind, label, detail in (
                ("cathode", "Common cathode", "to ground: a high pin lights it"),
                ("anode", "Common anode", "to plus: a low pin lights it"),
            )
        )
        choices = (Choice(label="Common leg", origin=lamp.common.origin, because=lamp.common.why, options=options),)
    drawer = drawer_entry(design)
    fed = _fed_from(design, lamp)
    if lamp.load is None:
        return Panel(title="", entries=(name, drawer), choices=(*choices, *fed))
    return Panel(
        title="", entries=(name, *_amount(design, lamp)), choices=(*choices, _load_choice(design, lamp, lamp.load), *fed)
    )


def _amount(design: Design, lamp: LampDesign) -> tuple[Entry, ...]:
    """Say how much of a load there is: pixels, modules, or metres."""
    plan, path = design.plan.lamps[lamp.id], ("lamps", lamp.id)
    if plan.kind in ("pixels-one-wire", "pixels-clocked"):
        count = lamp.load.pixels if lamp.load else 0
        return (_whole_number("Pixels", count, (*path, "layout", "runs"), is_own=True),)
    if plan.kind == "matrix":
        return (_whole_number("Modules in the chain", plan.count or 1, (*path, "count"), is_own=plan.count is not None),)
    if plan.kind == "strip":
        length = Slot(id=f"{lamp.id}.length_m", stage=lamp.stage, label="Length", unit="m")
        own_m = plan.length_m
        value = length.filled(
            METRE if own_m is None else own_m,
            origin="proposed" if own_m is None else "own",
            because="one metre of it" if own_m is None else None,
        )
        return (entry(value, *path, "length_m"),)
    return ()


def _whole_number(label: str, count: int, path: tuple[str, ...], *, is_own: bool) -> Entry:
    return Entry(
        label=label,
        text=str(count),
        path=path,
        origin="own" if is_own else "proposed",
        because=None if is_own else "one",
        lower=count - 1 if count > 1 else None,
        higher=count + 1,
    )


def _fed_from(design: Design, lamp: LampDesign) -> tuple[Choice, ...]:
    """Offer the rails at the lamp's place, and a supply of its own that suits it, where it takes anything from a rail."""
    end = design.nodes[lamp.host].end
    if not lamp.takes_rail:
        return ()
    chosen = design.plan.lamps[lamp.id].rail
    options = [
        Option(
            label=rail.label,
            detail=rail.voltage.text,
            patch=at_path(("lamps", lamp.id, "rail"), rail.id),
            is_chosen=rail.id == lamp.rail_id,
        )
        for rail in design.rails.values()
        if rail.end == end
    ]
    supply = suiting_supply(design, lamp)
    if supply is not None and not any(design.rails[it].source_id == f"{lamp.id}_supply" for it in design.rails):
        label = f"A {inner(supply.label)} of its own"
        options.append(Option(label=label, detail="a second supply", patch=own_supply(design, lamp.id, supply.id)))
    because = None if chosen else "the rail of what drives it"
    return (Choice(label="Fed from", origin="own" if chosen else "proposed", because=because, options=tuple(options)),)


def _figures(design: Design, lamp: LampDesign) -> tuple[Panel, ...]:
    if lamp.load is None:
        return ()
    table = "pixels" if lamp.load.pixel is not None else "loads"
    shipped: LoadPart | PixelPart = getattr(design.catalog, table)[lamp.load.part_id]
    part = as_used(shipped, own_figures(design.plan.lamps[lamp.id]))
    return (figures_panel(design, lamp.stage, table, part, ("lamps", lamp.id, "choice")),)


def _load_choice(design: Design, lamp: LampDesign, load: LoadDesign) -> Choice:
    """Offer the parts of the catalogue that can be this kind of lamp."""
    parts: dict[str, LoadPart | PixelPart] = {
        **loads_of(design.catalog, lamp.kind),
        **{name: it for name, it in design.catalog.pixels.items() if it.kind == lamp.kind},
    }
    options = tuple(
        Option(
            label=part.label,
            detail=f"for {si(part.voltage_v.value, 'V')}",
            patch=at_path(("lamps", lamp.id, "choice"), {"part": name, "overrides": None}),
            is_chosen=name == load.part_id,
        )
        for name, part in parts.items()
    )
    return Choice(label="What it is", origin=load.picked.origin, because=load.picked.why, options=options)


def _panel(design: Design, channel: ChannelDesign) -> Panel:
    path = ("lamps", channel.lamp_id, "channels", channel.id)
    colours = tuple(
        Option(
            label=led.label,
            detail=f"about {si(led.forward_voltage_v.value, 'V')}",
            is_chosen=led.id == channel.led.id,
            patch=channel_patch(channel, led={"part": led.id, "overrides": None}),
        )
        for led in sorted(design.catalog.leds.values(), key=lambda it: it.forward_voltage_v.value)
    )
    forward = entry(channel.forward, *path, "led", "overrides", "forward_voltage_v")
    entries = (
        forward,
        entry(channel.wanted, *path, "wanted_current_a"),
        entry(channel.resistor, *path, "resistor_ohm", series=design.series),
        entry(channel.tolerance, *path, "tolerance_ratio"),
        _count(channel, "in_series", "In series", channel.in_series),
        _count(channel, "in_parallel", "Side by side", channel.in_parallel),
    )
    choices = [Choice(label="Colour", origin=channel.led_picked.origin, because=channel.led_picked.why, options=colours)]
    if channel.in_parallel > 1:
        choices.append(_sharing(channel))
    several = []
    if channel.in_series > 1:
        several.append(f"{channel.in_series} in series")
    if channel.in_parallel > 1:
        shared = "all on one resistor" if channel.sharing == "one" else "each with its resistor"
        several.append(f"{channel.in_parallel} side by side, {shared}")
    return Panel(
        title="" if channel.id == "main" else channel.id.capitalize(),
        note=", ".join(several),
        choices=tuple(choices),
        entries=entries,
        facts=(
            channel.current,
            channel.current_with_pin,
            *((channel.curve,) if channel.curve.value is not None else ()),
            *((channel.ghost,) if channel.ghost is not None else ()),
            channel.power,
            channel.limit,
        ),
        builds=channel.signal_id if can_be_built(channel) else None,
        moves=(*_resistor_moves(design, channel), own_move(design, "leds", channel.led, (*path, "led"))),
        resistors=() if channel.resistor.value is None else (marked(channel.resistor.value, channel.tolerance.known),),
    )


def _count(channel: ChannelDesign, field: str, label: str, count: int) -> Entry:
    return Entry(
        label=label,
        text=str(count),
        path=("lamps", channel.lamp_id, "channels", channel.id, field),
        origin="own" if count > 1 else "proposed",
        because=None if count > 1 else "one LED",
        lower=count - 1 if count > 1 else None,
        higher=count + 1,
    )


def _sharing(channel: ChannelDesign) -> Choice:
    options = tuple(
        Option(
            label=label,
            detail=detail,
            patch=channel_patch(channel, sharing=key, resistor_ohm=None),
            is_chosen=channel.sharing == key,
        )
        for key, label, detail in (
            ("each", "A resistor each", "they share alike"),
            ("one", "One for all", "the one with the least drop takes most"),
        )
    )
    return Choice(label="Resistors", origin="own", options=options)


def _resistor_moves(design: Design, channel: ChannelDesign) -> tuple[Move, ...]:
    """Offer the neighbours of the exact value, and the best of the user's own drawer, each with what it gives."""
    if channel.branch is None or channel.exact.value is None or channel.resistor.value is None:
        return ()
    exact = channel.exact.value
    each_v = max(0.0, channel.branch.left_v) / channel.branch.on_one_resistor

    def fit(what: str, ohm: float) -> Move:
        patch = channel_patch(channel, resistor_ohm=float(f"{ohm:.4g}"))
        return Move(label=f"{what} gives {si(each_v / ohm, 'A')}", patch=patch)

    found = [("Nearest above", next_preferred(exact, design.series)), ("Nearest below", neighbour(exact, -1, design.series))]
    moves = [fit(f"{what}: {si(ohm, 'ohm')}", ohm) for what, ohm in found if abs(ohm - channel.resistor.known) > 1e-9 * ohm]
    pair = best_pair(exact, design.series)
    if pair.resistance_ohm < NEARER * next_preferred(exact, design.series):
        moves.append(fit(f"Two of {design.series}: {pair.label}", pair.resistance_ohm))
    if design.plan.drawer:
        best = best_from_drawer(design.plan.drawer, least_ohm=exact)
        if best is not None:
            moves.append(fit(f"From my drawer: {best.label}", best.resistance_ohm))
    return tuple(moves)


def _drive_panels(design: Design, lamp: LampDesign) -> tuple[Panel, ...]:
    """Offer how the lamp is driven, with the parts around its switch."""
    if lamp.school is None or (lamp.load is not None and lamp.load.off_current is not None):
        return ()
    path = ("lamps", lamp.id, "drive")
    is_anode_wanted = lamp.common is not None and lamp.common.id == "cathode"
    options = []
    for school, label in DRIVES.items():
        if lamp.kind == "strip" and school == "pin":
            continue
        patch: Document = at_path(path, {"school": school, "choice": None, "values": SIZED_ANEW})
        if is_anode_wanted and school != "pin":
            patch = join_patches([patch, at_path(("lamps", lamp.id, "common"), "anode")])
        options.append(Option(label=label, detail=DRIVE_NOTES[school], patch=patch, is_chosen=lamp.school.id == school))
    choices = [Choice(label="Driven by", origin=lamp.school.origin, because=lamp.school.why, options=tuple(options))]
    switch = lamp.switch or next((channel.switch for channel in lamp.channels if channel.switch), None)
    entries: list[Entry] = []
    facts: tuple[Value, ...] = ()
    if switch is not None:
        parts = tuple(
            Option(
                label=part.label,
                detail=f"up to {si(part.current_most_a.value, 'A')}",
                patch=at_path((*path, "choice"), {"part": part.id, "overrides": None}),
                is_chosen=part.id == switch.part.id,
            )
            for part in sorted(design.catalog.transistors.values(), key=ease)
            if part.kind == switch.part.kind
        )
        choices.append(Choice(label="Part", origin=switch.part_picked.origin, because=switch.part_picked.why, options=parts))
        field = "base_ohm" if switch.base else "gate_ohm"
        entries.append(entry(switch.series, *path, "values", field, series=design.series))
        if switch.pull_down is not None and switch.has_pull_down:
            entries.append(entry(switch.pull_down, *path, "values", "pull_down_ohm", series=design.series))
        if lamp.load is not None and lamp.load.across is not None:
            entries.append(entry(lamp.load.across, *path, "values", "across_ohm", series=design.series))
        facts = tuple(it for it in (switch.load, switch.pin, switch.gate) if it is not None)
    elif lamp.load is not None:
        facts = (lamp.load.current, lamp.load.rated)
    return (
        Panel(
            title="Drive",
            choices=tuple(choices),
            entries=tuple(entries),
            facts=facts,
            schematic=_circuit(lamp, switch) if lamp.channels else None,
            moves=(own_move(design, "transistors", switch.part, (*path, "choice")),) if switch is not None else (),
        ),
    )


def _circuit(lamp: LampDesign, switch: SwitchDesign | None) -> Schematic | None:
    """Say what stands in the drive's circuit, in the order from plus to ground; the screen draws it with standard symbols."""
    first, load = lamp.channels[0] if lamp.channels else None, lamp.load
    pulls_low = first.is_inverted if first else load is not None and load.input is not None and load.on_when == "low"
    chain = _chain(lamp, from_plus=switch is not None or not pulls_low)
    if not chain:
        return None
    is_from_pin = switch is None and not pulls_low
    rail = first.drive if first else load.rail if load else None
    flows = f", {load.current.text}" if load is not None and load.current.value is not None else ""
    top = ("pin" if is_from_pin else rail.text if rail is not None else "") + flows
    end = f"{switch.part.label} to ground, its {'base' if switch.base else 'gate'} through {switch.series.text}" if switch else ""
    return Schematic(
        text=", ".join(
            (
                top,
                *(SAID.get(part.symbol, "{}").format(part.label) for part in chain),
                end or ("pin that pulls low" if pulls_low else "to ground"),
            )
        ),
        top=top,
        chain=chain,
        switch=None if switch is None else "npn" if switch.base else "mosfet",
        series=switch.series.text if switch else None,
        pull_down=switch.pull_down.text if switch and switch.pull_down is not None and switch.has_pull_down else None,
        has_flyback=bool(load and load.is_coil and load.has_flyback),
        lacks_flyback=bool(load and load.is_coil and not load.has_flyback),
        across=load.across.text if load and load.across else None,
        bottom="pin" if pulls_low and switch is None else "ground",
    )


def _chain(lamp: LampDesign, *, from_plus: bool) -> tuple[SchematicPart, ...]:
    """Return the parts of a drive in their usual order: the resistor before the LED, or behind it over a pin that pulls low."""
    if lamp.load is not None and lamp.load.input is None:
        symbol: Symbol = "buzzer" if lamp.kind == "buzzer" else "coil" if lamp.load.is_coil else "load"
        return (SchematicPart(symbol=symbol, label=lamp.load.label),)
    if lamp.load is not None and lamp.load.input is not None:
        inside = lamp.load.input
        led = SchematicPart(symbol="led", label=f"opto-coupler and indicator, {si(inside.drop_v, 'V')}")
        return led, SchematicPart(symbol="resistor", label=si(inside.resistance_ohm, "ohm"))
    if not lamp.channels:
        return ()
    first = lamp.channels[0]
    led = SchematicPart(symbol="led", label=f"{first.in_series} in series" if first.in_series > 1 else first.led.label)
    if first.resistor.value is None:
        return (led,)
    resistor = SchematicPart(symbol="resistor", label=first.resistor.text)
    return (resistor, led) if from_plus else (led, resistor)


def _curve_picture(lamp: LampDesign, channel: ChannelDesign) -> CurvePicture | None:
    """Draw current over volts: the diode's curve with its spread, the resistor's line, and where they cross."""
    if channel.point is None or channel.branch is None or channel.branch.curve is None or channel.resistor.value is None:
        return None
    branch, curve = channel.branch, channel.branch.curve
    most_a = 1.25 * max(channel.limit.known, channel.wanted.known)
    most_v = max(branch.drive_voltage_v.most, 1.1 * branch.forward_voltage_v.most)
    ohm = branch.seen_ohm(channel.resistor.known)

    drive_v = branch.drive_voltage_v.value - branch.driver_drop_v.value
    flows = channel.point.curve_a
    point_a = flows.value if flows else channel.current.value or 0.0
    name = "" if channel.id == "main" else f", {channel.id}"
    return CurvePicture(
        title="" if channel.id == "main" else channel.id.capitalize(),
        text=f"{lamp.label}{name}: by its curve {si(point_a, 'A')} flows at {si(max(drive_v - point_a * ohm, 0.0), 'V')} across the LED",
        axis_most_v=most_v,
        axis_most_a=most_a,
        volts=ticks(most_v, lambda v: si(v, "V").removesuffix("\u00a0V")),
        amperes=ticks(most_a, lambda a: si(a, "A")),
        steps_a=_steps(most_a),
        curve_v=_drawn(curve, branch.forward_voltage_v.value, branch.in_series, most_a),
        least_v=_drawn(curve, branch.forward_voltage_v.least, branch.in_series, most_a),
        most_v=_drawn(curve, branch.forward_voltage_v.most, branch.in_series, most_a),
        line_from_v=max(drive_v - most_a * ohm, 0.0),
        line_from_a=min(most_a, drive_v / ohm),
        line_to_v=drive_v,
        point_v=max(drive_v - point_a * ohm, 0.0),
        point_a=point_a,
        wanted_a=channel.wanted.known,
        limit_a=channel.limit.known,
    )


@lru_cache(maxsize=64)
def _steps(most_a: float) -> tuple[float, ...]:
    return tuple(most_a * (k / CURVE_POINTS) ** 2 for k in range(1, CURVE_POINTS + 1))


@lru_cache(maxsize=512)
def _drawn(curve: DiodeCurve, forward_v: float, in_series: int, most_a: float) -> tuple[float, ...]:
    """Return the volts of a curve whose LEDs together drop ``forward_v``; remembered, because like LEDs are many."""
    shifted = replace(curve, forward_voltage_v=forward_v / in_series)
    return tuple(round(in_series * shifted.drop_v(a), 4) for a in _steps(most_a))
