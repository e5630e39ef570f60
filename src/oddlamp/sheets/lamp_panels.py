"""The panels of a lamp: what it is, its resistor, what drives it, and the figures of its part."""

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.leds import channel_patch
from oddlamp.core.checks.loads import suiting_supply
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign, LoadDesign
from oddlamp.core.design.values import Slot, Value
from oddlamp.core.electrical.designers import best_from_drawer, best_pair
from oddlamp.core.electrical.preferred import neighbour, next_preferred
from oddlamp.core.english import inner
from oddlamp.core.parts.check import loads_of
from oddlamp.core.parts.models import LoadPart, PixelPart
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.edits import TakingOut, own_supply
from oddlamp.core.plan.layouts import Free, Layout
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.resolve.chosen import own_figures
from oddlamp.core.resolve.loads import METRE
from oddlamp.core.resolve.switches import SCHOOLS as DRIVES
from oddlamp.core.resolve.switches import SIZED_ANEW, ease
from oddlamp.sheets.builds import can_be_built
from oddlamp.sheets.chip import host_choice
from oddlamp.sheets.entry import entry, marked
from oddlamp.sheets.lamp_pictures import circuit
from oddlamp.sheets.models import Choice, Entry, Option, Panel
from oddlamp.sheets.parts import drawer_entry, figures_panel, own_move

DRIVE_NOTES = {"pin": "no more parts", "npn": "a few hundred mA", "mosfet": "amperes, and no base current"}
NEARER = 0.98  # two resistors are worth their solder from two per cent on


def whole_panel(design: Design, lamp: LampDesign) -> Panel:
    """Build the panel of what a lamp is as a whole: its name, what it is, what feeds it."""
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
    if lamp.sends_codes or any(channel.led.caution == "infra-red" for channel in lamp.channels):
        choices = (*choices, _gives(design, lamp))
    drawer = drawer_entry(design)
    fed, hangs = _fed_from(design, lamp), host_choice(design, lamp)
    if lamp.load is None:
        return Panel(title="", entries=(name, drawer), choices=(*choices, *hangs, *fed))
    return Panel(
        title="", entries=(name, *_amount(design, lamp)), choices=(*choices, _load_choice(design, lamp, lamp.load), *hangs, *fed)
    )


def _gives(design: Design, lamp: LampDesign) -> Choice:
    """Offer what an infra-red LED is there for: to be on, as for a camera, or to speak as a remote does."""
    moved = [("movers", name) for name, it in design.plan.movers.items() if it.sender == lamp.id]
    out = TakingOut(design.plan).without(moved) if moved else {}
    options = tuple(
        Option(
            label=label,
            detail=detail,
            patch={**at_path(("lamps", lamp.id, "sends"), told), **(out if told is None else {})},
            is_chosen=lamp.sends_codes == bool(told),
        )
        for label, detail, told in (
            ("Light", "on, off or dimmed, as any lamp", None),
            ("The codes of a remote", "in bursts of 38 kHz, which the program makes on any pin", "codes"),
        )
    )
    return Choice(
        label="It gives",
        origin="own" if lamp.sends_codes else "proposed",
        because=None if lamp.sends_codes else "what an LED is for",
        options=options,
    )


def _amount(design: Design, lamp: LampDesign) -> tuple[Entry, ...]:
    """Say how much of a load there is: pixels, modules, or metres."""
    plan, path = design.plan.lamps[lamp.id], ("lamps", lamp.id)
    if plan.kind in PIXEL_KINDS:
        layout = getattr(plan, "layout", None) or Layout()
        if isinstance(layout.shape, Free):
            return ()  # its places tell how many there are
        pixels = _whole_number("Pixels", layout.count, (*path, "layout", "runs"), is_own=True)
        runs = ", ".join(str(it.count) for it in layout.runs)
        return (
            pixels
            if len(layout.runs) < 2
            else pixels.model_copy(update={"label": "Pixels in each run", "text": runs, "lower": None, "higher": None}),
        )
    if plan.kind == "matrix":
        return (_whole_number("Modules in the chain", plan.count or 1, (*path, "count"), is_own=plan.count is not None),)
    if plan.kind == "strip":
        length = Slot(id=f"{lamp.id}.length_m", stage=lamp.stage, label="Length", unit="m", path=(*path, "length_m"))
        own_m = plan.length_m
        value = length.filled(
            METRE if own_m is None else own_m,
            origin="proposed" if own_m is None else "own",
            because="one metre of it" if own_m is None else None,
        )
        return (entry(value),)
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
        options.append(Option(label=label, detail="a second supply", patch=own_supply(design.plan, lamp.id, supply.id)))
    because = None if chosen else "the rail of what drives it"
    return (Choice(label="Fed from", origin="own" if chosen else "proposed", because=because, options=tuple(options)),)


def figure_panels(design: Design, lamp: LampDesign) -> tuple[Panel, ...]:
    """Build the panel of a load's own figures."""
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


def channel_panel(design: Design, channel: ChannelDesign) -> Panel:
    """Build the panel of one channel: its colour, its resistor, what flows."""
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
    forward = entry(channel.forward)
    entries = (
        forward,
        entry(channel.wanted),
        entry(channel.resistor, series=design.series, drawer=design.plan.drawer or ()),
        entry(channel.tolerance),
        *((entry(channel.rating),) if channel.rating.value is not None else ()),
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

    # What was typed is what its neighbours are asked of; nothing typed, it is the exact value.
    typed = channel.resistor.known if channel.resistor.origin == "own" else exact
    found = [
        (f"Nearest above {si(typed, 'ohm')}", next_preferred(typed * (1 + 1e-6), design.series)),
        (f"Nearest below {si(typed, 'ohm')}", neighbour(typed, -1, design.series)),
    ]
    moves = [fit(f"{what}: {si(ohm, 'ohm')}", ohm) for what, ohm in found if abs(ohm - channel.resistor.known) > 1e-9 * ohm]
    pair = best_pair(exact, design.series)
    if pair.resistance_ohm < NEARER * next_preferred(exact, design.series):
        moves.append(fit(f"Two of {design.series}: {pair.label}", pair.resistance_ohm))
    if design.plan.drawer:
        best = best_from_drawer(design.plan.drawer, least_ohm=exact)
        if best is not None:
            moves.append(fit(f"From my drawer: {best.label}", best.resistance_ohm))
    return tuple(moves)


def _flyback(lamp: LampDesign, load: LoadDesign) -> Choice:
    """Offer the diode over a coil, proposed because nothing that drives one lives long without."""
    path = ("lamps", lamp.id, "drive", "values", "has_flyback")
    options = tuple(
        Option(label=label, detail=detail, patch=at_path(path, has), is_chosen=load.has_flyback == has)
        for has, label, detail in (
            (True, "A diode", "its ring to plus: it takes what the coil kicks back"),
            (False, "Nothing", "tens of volts kill what drives it"),
        )
    )
    because = None if load.is_flyback_settled else "letting go, a coil kicks back tens of volts"
    return Choice(
        label="Over the coil", origin="own" if load.is_flyback_settled else "proposed", because=because, options=options
    )


def drive_panels(design: Design, lamp: LampDesign) -> tuple[Panel, ...]:
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
        entries.append(entry(switch.series, series=design.series, drawer=design.plan.drawer or ()))
        if switch.pull_down is not None and switch.has_pull_down:
            entries.append(entry(switch.pull_down, series=design.series, drawer=design.plan.drawer or ()))
        if lamp.load is not None and lamp.load.across is not None:
            entries.append(entry(lamp.load.across, series=design.series, drawer=design.plan.drawer or ()))
        facts = tuple(it for it in (switch.load, switch.pin, switch.gate) if it is not None)
    elif lamp.load is not None:
        facts = (lamp.load.current, lamp.load.rated)
    if lamp.load is not None and lamp.load.is_coil:
        choices.append(_flyback(lamp, lamp.load))
    return (
        Panel(
            title="Drive",
            choices=tuple(choices),
            entries=tuple(entries),
            facts=facts,
            pictures=tuple(filter(None, (circuit(lamp, switch) if lamp.channels else None,))),
            moves=(own_move(design, "transistors", switch.part, (*path, "choice")),) if switch is not None else (),
        ),
    )
