"""The sheet of a lamp: what flows, against what is wanted and what it can stand."""

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign, LoadDesign
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.english import and_list, inner
from oddlamp.core.plan.signals import told_by
from oddlamp.sheets.behaviour import standing_panel
from oddlamp.sheets.built import built_moves
from oddlamp.sheets.feeding import feed_panel
from oddlamp.sheets.fits import room_panel
from oddlamp.sheets.lamp_panels import channel_panel, drive_panels, figure_panels, whole_panel
from oddlamp.sheets.lamp_pictures import circuit, current_picture, curve_picture
from oddlamp.sheets.layouts import layout_panel, places_picture
from oddlamp.sheets.level import level_panel, slowest_edge, window_picture
from oddlamp.sheets.light import light_panels
from oddlamp.sheets.models import Sheet
from oddlamp.sheets.supply_pictures import strip_picture

OFF_FIRST = "Off is a high pin: the program writes that before it makes the pin an output."


def lamp_sheet(design: Design, lamp: LampDesign) -> Sheet:
    """Build the sheet of one lamp."""
    leads = tuple(design.levels_at(lamp.stage))
    return Sheet(
        stage=lamp.stage,
        kind="lamp",
        title=lamp.label,
        sentence=_sentence(lamp),
        detail=_detail(design, lamp),
        pictures=tuple(
            picture
            for picture in (
                places_picture(design, lamp),
                current_picture(lamp) or window_picture(leads),
                circuit(lamp, lamp.switch) if lamp.load is not None and not leads else None,
                *(curve_picture(lamp, it) for it in lamp.channels),
                strip_picture(design, lamp),
                slowest_edge(design, leads),
            )
            if picture is not None
        ),
        panels=(
            whole_panel(design, lamp),
            *(channel_panel(design, channel) for channel in lamp.channels),
            *drive_panels(design, lamp),
            *(filter(None, (feed_panel(design, lamp),))),
            *(level_panel(design, lead) for lead in leads),
            *(filter(None, (layout_panel(design, lamp), room_panel(design, lamp)))),
            *light_panels(design, lamp),
            *figure_panels(design, lamp),
            *([standing_panel(design, [lamp.id], is_folded=True)] if _is_told_by_board(design, lamp) else []),
        ),
        moves=(
            *built_moves(design, tuple(signal.line.id for signal in design.lamp_signals(lamp)), lamp.label),
            Move(label=f"Take {lamp.label} out", patch=design.taking_out.without_lamps({lamp.id})),
        ),
    )


def _is_told_by_board(design: Design, lamp: LampDesign) -> bool:
    host = told_by(design.plan, lamp.host)
    return host is not None and design.nodes[host].node.kind == "board"


def _sentence(lamp: LampDesign) -> str:
    if lamp.load is not None:
        return _load_sentence(lamp, lamp.load)
    if lamp.open_because is not None:
        return f"{lamp.label} is {NOT_YET}: {lamp.open_because.partition(':')[0]}."
    missing = [channel for channel in lamp.channels if channel.current.value is None]
    if missing:
        return f"{lamp.label} has no current to state: {missing[0].current.because}."
    flows = [
        channel.current_with_pin.text.removesuffix("\u00a0mA") if len(lamp.channels) > 1 else channel.current_with_pin.text
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
    pins = [signal.pin.label or "none" for signal in design.lamp_signals(lamp) if signal.pin]
    rail = f" from {load.rail.text}" if load.rail is not None and lamp.takes_rail else ""
    dim = ""
    if load.works_from is not None and load.rail is not None and load.rail.value is not None and load.rail.low < load.rated.low:
        dim = f" Made for {load.rated.spread_text}, it works from {load.works_from.text}: dimmer where its rail sags to {si(load.rail.low, 'V')}."
    how = f", {inner(lamp.school.label)}" if lamp.school else ""
    off = f" {OFF_FIRST}" if load.on_when == "low" else ""
    return f"{load.label}{rail}, on {_pins(pins)}{how}.{off}{dim}"


def _detail(design: Design, lamp: LampDesign) -> str:
    if lamp.load is not None:
        return _load_detail(design, lamp, lamp.load)
    if lamp.open_because is not None:
        return "It is kept in the plan and drawn; no number of it is judged."
    first = lamp.channels[0]
    if first.current.value is None:
        return f"Driven with {first.drive.text}."
    pins = [signal.pin.label or "none" for signal in design.lamp_signals(lamp) if signal.pin]
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
    safe = [channel.current.text for channel in lamp.channels]
    alone = "Its resistor alone would let" if len(safe) == 1 else "Its resistors alone would let"
    picked = f" {alone} {and_list(safe)} through, the safe side it is picked by." if _differs(lamp) else ""
    return f"{and_list(resistors)} on {_pins(pins)}. {way}{picked}{worst}"


def _differs(lamp: LampDesign) -> bool:
    """Tell whether what drives a lamp takes enough to be seen in its numbers."""
    return any(channel.current.text != channel.current_with_pin.text for channel in lamp.channels)


def _pins(labels: list[str]) -> str:
    return f"pin{'s' if len(labels) > 1 else ''} {and_list(labels)}"
