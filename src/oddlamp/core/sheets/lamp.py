"""The sheet of a lamp: what flows, against what is wanted and what it can stand."""

from oddlamp.core.base import and_list, si
from oddlamp.core.checks.leds import channel_patch
from oddlamp.core.checks.pins import without_lamp
from oddlamp.core.design import ChannelDesign, Design, LampDesign
from oddlamp.core.electrical.bands import band_colours
from oddlamp.core.findings import Move
from oddlamp.core.plan.document import at_path
from oddlamp.core.sheets.built import built_moves
from oddlamp.core.sheets.models import Choice, CurrentBar, CurrentPicture, Entry, Option, Panel, Sheet, ticks
from oddlamp.core.sheets.steps import steps
from oddlamp.core.values import NOT_YET, Value


def lamp_sheet(design: Design, lamp: LampDesign) -> Sheet:
    """Build the sheet of one lamp."""
    return Sheet(
        stage=lamp.stage,
        kind="lamp",
        title=lamp.label,
        sentence=_sentence(lamp),
        detail=_detail(design, lamp),
        picture=_picture(lamp),
        panels=(_whole(design, lamp), *(_panel(design, channel) for channel in lamp.channels)),
        moves=(
            *built_moves(design, tuple(channel.signal_id for channel in lamp.channels), lamp.label),
            Move(label=f"Take {lamp.label} out", patch=without_lamp(design, lamp.id)),
        ),
    )


def _sentence(lamp: LampDesign) -> str:
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
    return f"{and_list(flows)}{unit} {'flows' if len(flows) == 1 else 'flow'} through {lamp.label}. Wanted: {and_list(wanted)}."


def _detail(design: Design, lamp: LampDesign) -> str:
    if lamp.open_because is not None:
        return "It is kept in the plan and drawn; no number of it is judged."
    first = lamp.channels[0]
    if first.current.value is None:
        return f"Driven with {first.drive.text}."
    pins = [pin.label or "none" for channel in lamp.channels if (pin := design.pins.get(channel.signal_id))]
    way = (
        "A low pin lights it: the common leg is at plus, so the drive is turned round."
        if first.is_inverted
        else f"A high pin lights it, with {first.drive.text}."
    )
    resistors = ", ".join(dict.fromkeys(channel.resistor.text for channel in lamp.channels))
    worst = f" At worst {first.current.spread_text}." if len(lamp.channels) == 1 and first.current.spread_text else ""
    return f"{resistors} on pin {', '.join(pins)}. {way}{worst}"


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


def entry(value: Value, *path: str, label: str | None = None) -> Entry:
    """Make a value that can be turned, at its path in the plan."""
    lower, higher = steps(value)
    return Entry(
        label=label or value.label,
        text=value.text,
        path=path,
        origin=value.origin,
        because=value.because,
        value=value,
        settles=value.value if value.origin == "proposed" else None,
        lower=lower,
        higher=higher,
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
                ("cathode", "Common to ground", "a high pin lights it"),
                ("anode", "Common to plus", "a low pin lights it"),
            )
        )
        choices = (Choice(label="Common leg", origin=lamp.common.origin, because=lamp.common.why, options=options),)
    return Panel(title="", entries=(name,), choices=choices)


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
    forward = entry(channel.forward, *path, "led", "overrides", "forward_voltage_v", "value")
    entries = (
        forward,
        entry(channel.wanted, *path, "wanted_current_a"),
        entry(channel.resistor, *path, "resistor_ohm"),
        entry(channel.tolerance, *path, "tolerance_ratio"),
    )
    several = []
    if channel.in_series > 1:
        several.append(f"{channel.in_series} in series")
    if channel.in_parallel > 1:
        several.append(f"{channel.in_parallel} side by side, each with its resistor")
    return Panel(
        title="" if channel.id == "main" else channel.id.capitalize(),
        note=", ".join(several),
        choices=(Choice(label="Colour", origin=channel.led_picked.origin, because=channel.led_picked.why, options=colours),),
        entries=entries,
        facts=(channel.current, channel.current_with_pin, channel.power, channel.limit),
        resistor_bands=() if channel.resistor.value is None else band_colours(channel.resistor.value, channel.tolerance.known),
    )
