"""The sheets of a wire and of an input: what arrives each way, between what is heard and what harms."""

from typing import Final

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.values import NOT_YET, Origin
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.signals import input_lines, is_bus_link, label_of, shared_link
from oddlamp.core.resolve.schools import SCHOOLS
from oddlamp.sheets.built import built_moves
from oddlamp.sheets.entry import entry
from oddlamp.sheets.inputs import does_panel
from oddlamp.sheets.level import level_panel, slowest_edge, window_picture
from oddlamp.sheets.line import room_v
from oddlamp.sheets.models import Choice, Entry, Option, Panel, Sheet
from oddlamp.sheets.plain import open_sheet

INPUTS_MOST: Final = 64


def hookup_sheet(design: Design, link_id: str) -> Sheet:
    """Build the sheet of one wire; the tighter direction comes first."""
    shared = shared_link(design.plan, link_id)
    ways = sorted(design.ways(shared), key=room_v)
    if not ways:
        return open_sheet(f"links.{link_id}", "wire", design.plan.links[link_id].label or "Bus")
    first, is_bus = ways[0], is_bus_link(design.plan, link_id)
    keys = [level for level in design.levels_at(first.stage) if not level.line.is_spoken and level not in ways]
    return Sheet(
        stage=f"links.{link_id}",
        kind="wire",
        title=design.plan.links[link_id].label or ("Bus" if is_bus else "Hook-up"),
        sentence=_sentence(first),
        detail=_detail(design, first),
        pictures=tuple(filter(None, (window_picture([*ways, *keys]), slowest_edge(design, ways)))),
        panels=(
            *(level_panel(design, way) for way in (*ways, *keys)),
            *(() if is_bus else (Panel(title="Speed", entries=(entry(design.wires[link_id].baud),)),)),
        ),
        moves=built_moves(design, tuple(way.id for way in ways if not way.is_omitted), "this hook-up"),
    )


def _sentence(way: LevelDesign) -> str:
    who = inner(way.receiver.label)
    if way.is_omitted:
        return f"Nothing is wired from {inner(way.sender.label)} to {who}."
    if way.received.value is None or way.limit.value is None:
        return f"This hook-up is {NOT_YET}: {way.received.because}."
    if way.high.value is not None and way.received.value < way.high.value:
        return f"{way.received.text} reaches the {who}. It hears a high only from {way.high.text.removesuffix(chr(160) + 'V')}."
    return f"{way.received.text} reaches the {who}. It can stand {way.limit.text.removesuffix(chr(160) + 'V')}."


def _detail(design: Design, way: LevelDesign) -> str:
    if way.received.value is None:
        return "No level is judged here."
    if way.line.kind == "bus" and way.pull is not None:
        return f"Both ends only pull it low: {way.pull.text} each make its highs {way.sent.text}, and the {inner(way.receiver.label)} hears them from {way.high.text}."
    pin = design.signals[way.id].pin
    at = f" pin {pin.label}" if pin and pin.label else ""
    how = SCHOOLS[way.school.id].how
    return (
        f"{way.sender.label}{at} sends {way.sent.text}; the {inner(way.receiver.label)} hears a high from {way.high.text}. {how}"
    )


def input_sheet(design: Design, name: str) -> Sheet:
    """Build the sheet of a knob, button or sensor: what reaches its pin."""
    lead = design.signals[f"{name}.in"].level
    if lead is None:
        return open_sheet(f"inputs.{name}", "input", name)
    it = design.plan.inputs[name]
    lines, label = input_lines(name, it), label_of(it.label, name)
    fed = design.rails.get(it.rail or "")
    options = (
        Option(
            label=f"The {inner(lead.receiver.label)}'s own supply",
            detail=lead.receiver.logic.text if lead.receiver.logic else "",
            patch=at_path(("inputs", name, "rail"), None),
            is_chosen=it.rail is None,
        ),
        *(
            Option(
                label=rail.label,
                detail=rail.voltage.text,
                patch=at_path(("inputs", name, "rail"), rail.id),
                is_chosen=it.rail == rail.id,
            )
            for rail in design.rails.values()
        ),
    )
    called = Entry(
        label="Name",
        text=label,
        path=("inputs", name, "label"),
        origin="own" if it.label else "proposed",
        because=None if it.label else "its id in the plan",
        settles=None if it.label else label,
    )
    count = it.count or 1
    many = Entry(
        label="How many alike",
        text=str(count),
        path=("inputs", name, "count"),
        origin="own" if it.count else "proposed",
        because=None if it.count else "one, on one pin",
        lower=count - 1 if count > 1 else None,
        higher=count + 1 if count < INPUTS_MOST else None,
        hint="each on a pin of its own; one rule is for all of them",
    )
    pins = [f"{at} on pin {pin.label}" for at, line in enumerate(lines, 1) if (pin := design.signals[line].pin) and pin.label]
    origin: Origin = "own" if it.rail else "proposed"
    because = None if it.rail else "the pin then never sees more than its own supply"
    choice = Choice(label="Its upper end stands at", origin=origin, because=because, options=options)
    if lead.received.value is None or lead.limit.value is None:
        sentence = f"{label} is {NOT_YET}: {lead.received.because}."
    else:
        sentence = f"{lead.received.text} at most reaches the pin of {label}. It can stand {si(lead.limit.known, 'V').removesuffix(chr(160) + 'V')}."
    where = f", fed from {fed.label}" if fed else ""
    noun = it.kind.replace("-", " ")
    kind = f"A {noun}" if count == 1 else f"{plural(count, noun)}, each by itself,"
    return Sheet(
        stage=lead.stage,
        kind="input",
        title=label,
        sentence=sentence,
        detail=f"{kind} on the {inner(lead.receiver.label)}{where}.",
        pictures=tuple(filter(None, (window_picture([lead]),))),
        panels=(
            does_panel(design, name),
            Panel(
                title="",
                entries=(called, many) if it.kind != "remote-receiver" else (called,),
                choices=(choice,),
                lines=(f"{and_list(pins)}.",) if len(pins) > 1 else (),
            ),
            level_panel(design, lead, ""),
        ),
        moves=(*built_moves(design, lines, label), Move(label=f"Take {label} out", patch=design.taking_out.without_input(name))),
    )
