"""The sheet of what the maker owns: the drawer of resistors, the series they can get, and parts of their own."""

import re
from collections.abc import Mapping

from oddlamp.core.base import first_free, si
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.values import Slot
from oddlamp.core.electrical.preferred import SERIES
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.parts.check import uses_of
from oddlamp.core.parts.models import BoardPart, LedPart, LoadPart, ModulePart, PixelPart, TransistorPart
from oddlamp.core.parts.own import figures_of, whole_copy
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.parts.supply import ConverterPart, SourcePart
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.plan.fields import own_unit
from oddlamp.core.plan.model import OwnPart, Plan
from oddlamp.sheets.entry import entry, marked
from oddlamp.sheets.models import Choice, Entry, Opens, Option, Panel, Sheet

PARTS = "parts"
TITLE = "My parts"
KINDS = {
    "leds": "LED",
    "transistors": "Transistor",
    "loads": "Load",
    "pixels": "Pixel",
    "sources": "Supply",
    "converters": "Converter",
    "boards": "Board",
    "modules": "Module",
}
NAMES = {
    "charge_ah": "Holds",
    "dropout_v": "Needs over its output",
    "eased_a": "Gives for long",
    "efficiency_ratio": "Efficiency",
    "empty_v": "Empty at",
    "gap_s": "Fails for",
    "heat_k_w": "Chip to air",
    "input_window_v": "Takes",
    "output_v": "Makes",
    "own_a": "Takes itself",
    "pulse_a": "Gives for moments",
    "rail_ohm": "A metre of its rail",
    "regulator_dropout_v": "Its regulator needs over 5 V",
    "regulator_k_w": "Its regulator, chip to air",
    "regulator_most_a": "Its regulator gives at most",
    "sleeps_under_a": "Sleeps under",
    "absolute_current_a": "Stands at most",
    "base_emitter_v": "V_BE",
    "blocks_v": "Blocks at most",
    "capacitance_f": "Holds, as a capacitor",
    "coil_ohm": "Coil",
    "colour_current_a": "One colour takes",
    "current_a": "Takes",
    "current_max_a": "Gives at most",
    "current_most_a": "Carries at most",
    "dark_current_a": "Takes when dark",
    "edge_most_s": "Longest edge it takes",
    "gate_specified_v": "On-resistance stated at",
    "gate_threshold_v": "Barely starts at",
    "ideality": "n of its curve",
    "input_high_ratio": "Heard as high from",
    "input_high_v": "Heard as high from, stated",
    "input_low_ratio": "Heard as low up to",
    "input_low_v": "Heard as low up to, stated",
    "input_leakage_a": "An input leaks at most",
    "input_max_v": "A pin stands at most",
    "input_ohm": "Resistor of its input",
    "on_ohm": "On-resistance",
    "optocoupler_v": "Opto-coupler drops",
    "peak_a": "Takes for moments",
    "pwm_frequency_hz": "Dims at",
    "range_m": "Reaches",
    "resistance_ohm": "Resistance inside",
    "second_current_a": "Second point, at",
    "second_voltage_v": "Second point, drops",
    "saturation_v": "V_CE when on",
    "series_ohm": "Rs of its curve",
    "supply_3v3_a": "3.3 V pin gives at most",
    "tone_hz": "Loudest at",
    "usb_drop_v": "Its USB diode keeps",
    "usual_a": "Takes on average",
    "voltage_v": "Made for",
}
DRAWER_TOLD = 6
DRAWER_MOST = 200
TOLD_LATER = {
    "second_voltage_v",
    "second_current_a",
    "input_leakage_a",
    "input_max_v",
    "resistance_ohm",
    "current_max_a",
    "charge_ah",
    "empty_v",
}
SERIES_NOTES = {"E6": "6 a decade", "E12": "12", "E24": "24", "E48": "48", "E96": "96"}
Copyable = BoardPart | ConverterPart | LedPart | LoadPart | ModulePart | PixelPart | SourcePart | TransistorPart


def parts_sheet(design: Design) -> Sheet:
    """Build the sheet of drawer, series and own parts."""
    plan = design.plan
    own = plural(len(plan.parts), "part") if plan.parts else "No parts"
    drawer = f", {plural(len(plan.drawer), 'resistor')} in the drawer" if plan.drawer else ", and the drawer is empty"
    return Sheet(
        stage=PARTS,
        kind="parts",
        title=TITLE,
        sentence=f"{own} of your own{drawer}.",
        detail="They stand in this plan and go with its file. Your own figures win over the shipped ones, which are from memory.",
        panels=(_drawer(design), *(_own(design, name, it) for name, it in plan.parts.items()), _more(design)),
    )


def _drawer(design: Design) -> Panel:
    plan = design.plan
    series = tuple(
        Option(label=name, detail=SERIES_NOTES[name], patch=at_path(("series",), name), is_chosen=name == design.series)
        for name in SERIES
    )
    because = None if plan.series else "what most shops and kits hold"
    tolerance = design.catalog.resistors[design.catalog.proposals["resistor"].part or ""].tolerance_ratio.value
    return Panel(
        title="My drawer",
        note="resistors as values, by their bands (yellow violet red gold) or a chip's mark (smd 472), with commas between",
        entries=(drawer_entry(design),),
        choices=(
            Choice(label="New ones come from", origin="own" if plan.series else "proposed", because=because, options=series),
        ),
        resistors=tuple(marked(ohm, tolerance) for ohm in sorted(plan.drawer or ())),
    )


def drawer_entry(design: Design) -> Entry:
    """Make the field that holds the resistors the user owns."""
    drawer = design.plan.drawer
    return Entry(
        label="My drawer",
        text=", ".join(si(ohm, "ohm") for ohm in drawer) if drawer else "none yet",
        path=("drawer",),
        origin="own" if drawer else "proposed",
        because=None if drawer else "type the resistors you own, such as 100, 220, 4k7; the best of them is then offered",
    )


def _own(design: Design, part_id: str, own: OwnPart) -> Panel:
    table: Mapping[str, Copyable] = getattr(design.catalog, own.table)
    users = users_of(design, part_id)
    path = ("parts", part_id)
    name = Entry(label="Name", text=own.label, path=(*path, "label"), origin="own")
    part = table.get(part_id)
    entries = figure_entries(part, PARTS, *path, "figures") if part is not None else ()
    shipped = table[own.like].label if own.like in table else own.like
    return Panel(
        title=own.label,
        note=f"{KINDS[own.table]}, copied from: {shipped}. {f'Used by {and_list(users)}' if users else 'Not used yet'}.",
        entries=(name, *entries),
        moves=(out_move(design, part_id, own),),
        opens=Opens(label="Its pins, a column at a time", stage=f"{PARTS}.{part_id}") if own.table == "boards" else None,
    )


def users_of(design: Design, part_id: str) -> list[str]:
    """Name what uses a part."""
    return [_user(design, use) for use in uses_of(design.plan, design.catalog, part_id)]


def out_move(design: Design, part_id: str, own: OwnPart) -> Move:
    """Offer to take a part of one's own out; what uses it goes back to the one it was copied from."""
    table: Mapping[str, Copyable] = getattr(design.catalog, own.table)
    uses = uses_of(design.plan, design.catalog, part_id)
    back: list[Document] = [at_path(tuple(use.split(".")), {"part": own.like, "overrides": None}) for use in uses]
    shipped = table[own.like].label if own.like in table else own.like
    return Move(
        label=f"Take {own.label} out" + (f", and go back to: {shipped}" if uses else ""),
        patch=join_patches([*back, at_path(("parts", part_id), None)]),
    )


def _user(design: Design, use: str) -> str:
    """Name what chooses a part: the lamp, the board, the module or the supply at the head of a path."""
    collection, name = use.split(".")[:2]
    if collection == "lamps":
        return design.lamps[name].label
    return design.nodes[name].label if collection == "nodes" else name.replace("_", " ")


def figure_entries(part: Copyable, stage: str, *path: str) -> tuple[Entry, ...]:
    """Make an entry for every figure of a part, at ``path`` in the plan; a spread is typed as ``2.1 V (1.9 to 2.3)``."""
    told = [(name, getattr(part, name)) for name in figures_of(type(part))]
    return tuple(
        _figure(name, figure, stage, path)
        if figure is not None
        else Entry(label=_label(name), text="not told", path=(*path, name), origin="proposed", because="none is stated for it")
        for name, figure in told
        if figure is not None or name in TOLD_LATER
    )


def _label(field: str) -> str:
    return NAMES.get(field) or field.rpartition("_")[0].replace("_", " ").capitalize()


def _figure(field: str, figure: Sourced, stage: str, path: tuple[str, ...]) -> Entry:
    unit = own_unit(field) or ""
    name = _label(field)
    value = Slot(id=".".join((*path, field)), stage=stage, label=name, unit=unit, path=(*path, field)).stated(figure)
    told = entry(value)
    return told.model_copy(update={"text": f"{told.text} ({_short(value.spread_text)})"}) if value.spread_text else told


def _short(spread: str) -> str:
    """Write ``2.80 V to 3.60 V`` as ``2.80 to 3.60 V``, where both ends have the same unit."""
    least, _, most = spread.partition(" to ")
    number, _, unit = least.partition("\u00a0")
    return f"{number} to {most}" if most.endswith(f"\u00a0{unit}") else spread


def figures_panel(design: Design, stage: str, table: str, part: Copyable, choice: tuple[str, ...]) -> Panel:
    """Build the folded panel of a part's figures, each of which may be told better, or kept as a part of one's own."""
    return Panel(
        title="Its figures",
        note=f"{part.label}; yours win over the shipped ones, a spread is typed as 5 V (4.5 to 5.5 V)",
        entries=figure_entries(part, stage, *choice, "overrides"),
        moves=(own_move(design, table, part, choice),),
        is_folded=True,
    )


def _more(design: Design) -> Panel:
    """Offer every shipped part to copy."""
    options = []
    for table, kind in KINDS.items():
        shipped: Mapping[str, Copyable] = getattr(design.catalog, table)
        options += [
            Option(label=part.label, detail=kind, patch=own_patch(design, table, part)[1])
            for name, part in shipped.items()
            if name not in design.plan.parts
        ]
    choice = Choice(label="Like", origin="own", options=tuple(options))
    return Panel(title="A new part", note="copied from a shipped one, then told better", choices=(choice,))


def own_patch(design: Design, table: str, part: Copyable) -> tuple[str, Document]:
    """Build the patch that copies a part as the user's own; returns its id and the patch."""
    stem = part.id.removeprefix("own-")
    number = 1
    while f"own-{stem}-{number}" in design.plan.parts:
        number += 1
    part_id = f"own-{stem}-{number}"
    mine = design.plan.parts.get(part.id)
    fresh = {"table": table, "like": mine.like if mine else part.id, "label": f"My {inner(part.label)}"[:80], **whole_copy(part)}
    return part_id, at_path(("parts", part_id), fresh)


def take_in(plan: Plan, part: OwnPart, part_id: str = "") -> Move:
    """Offer a part of one's own that came from outside, under the id it had there, or one made of its name."""
    stem = part_id or "own-" + (re.sub(r"[^a-z0-9]+", "-", part.label.lower()).strip("-")[:40] or "part")
    free = first_free(stem[:56], plan.parts.__contains__)
    return Move(label=f"Take {part.label}", patch=at_path(("parts", free), part.model_dump(mode="json", exclude_unset=True)))


def own_move(design: Design, table: str, part: Copyable, choice: tuple[str, ...]) -> Move:
    """Offer to copy a part, with the figures it is used with, as the user's own, and to use that."""
    part_id, patch = own_patch(design, table, part)
    used = at_path(choice, {"part": part_id, "overrides": None})
    return Move(label="Keep these figures as a part of mine", patch=join_patches([patch, used]))


def moves_from(plan: Plan, other: Plan) -> tuple[Move, ...]:
    """Offer what another project has: its drawer added to this one's, and its own parts that this one lacks."""
    moves = []
    missing = sorted(set(other.drawer or ()) - set(plan.drawer or ()))
    if missing:
        label = f"Add its {plural(len(missing), 'resistor')} to my drawer: {', '.join(si(ohm, 'ohm') for ohm in missing[:DRAWER_TOLD])}"
        more = f" and {len(missing) - DRAWER_TOLD} more" if len(missing) > DRAWER_TOLD else ""
        moves.append(Move(label=label + more, patch={"drawer": [*(plan.drawer or ()), *missing][:DRAWER_MOST]}))
    held = list(plan.parts.values())
    moves += [take_in(plan, part, name) for name, part in other.parts.items() if part not in held]
    return tuple(moves)
