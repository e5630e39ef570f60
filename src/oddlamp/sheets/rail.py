"""The sheet of a rail: what it carries, what feeds it, through which wire, and how long that lasts."""

from collections.abc import Iterator

from oddlamp.core.base import first_free, si
from oddlamp.core.checks.cells import share_for
from oddlamp.core.checks.findings import Move
from oddlamp.core.checks.regulators import board_heats
from oddlamp.core.checks.wires import Run, run_at
from oddlamp.core.design.design import Design
from oddlamp.core.design.spreads import Lead
from oddlamp.core.design.supplies import Burden, RailDesign
from oddlamp.core.design.values import Slot
from oddlamp.core.english import and_list, inner
from oddlamp.core.parts.own import as_used
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.plan.model import WireRun
from oddlamp.core.resolve.chosen import own_figures
from oddlamp.core.resolve.feeds import LEAD_AWG
from oddlamp.core.resolve.run_times import compared, hours, stops_at
from oddlamp.core.resolve.spreads import led
from oddlamp.core.resolve.strips import STRIP_LOSS_RATIO
from oddlamp.sheets.entry import entry
from oddlamp.sheets.models import Choice, Entry, Option, Panel, Picture, Sheet
from oddlamp.sheets.parts import figures_panel
from oddlamp.sheets.supply_pictures import budget_picture, run_picture, strip_picture

HOUR_S = 3600.0
EVENING_S = 6 * HOUR_S  # what is told where no run time is wanted yet
STEP_RATIO = 0.05
USAGES_MOST = 24


def rail_sheet(design: Design, rail: RailDesign) -> Sheet:
    """Build the sheet of a rail: what it carries against what feeds it, and all that decides that."""
    budget = design.budgets[rail.id]
    strips = (
        strip_picture(design, lamp) for lamp in design.lamps.values() if lamp.rail_id == rail.id and _is_told(design, lamp.id)
    )
    pictures: list[Picture] = [it for it in (budget_picture(design, rail), *strips, run_picture(design, rail)) if it is not None]
    heats = tuple(heat for node_id, _, heat in board_heats(design) if design.nodes[node_id].rail_id == rail.id)
    facts = (budget.worst, budget.average, *((budget.loaded,) if budget.loaded.value is not None else ()), *((budget.heat,) if budget.heat is not None else ()), *heats)  # fmt: skip
    return Sheet(
        stage=rail.stage,
        kind="rail",
        title=rail.label,
        sentence=_sentence(design, rail),
        detail=_detail(design, rail),
        pictures=tuple(pictures[:3]),
        panels=(
            Panel(title="", choices=tuple(_choices(design, rail)), entries=tuple(_volts(design, rail)), facts=facts),
            *_lasting(design, rail),
            *_usages(design, budget.own),
            *_lead(design, rail),
            *_figures(design, rail),
        ),
        moves=tuple(_more(design, rail)),
    )


def _is_told(design: Design, lamp_id: str) -> bool:
    """Tell whether a strip loses enough for its rail to speak of it; its own sheet shows it in any case."""
    strip = design.strips.get(lamp_id)
    return strip is not None and (strip.short_of > 0 or strip.lost.known > STRIP_LOSS_RATIO * strip.feeds[0].volts)


def _sentence(design: Design, rail: RailDesign) -> str:
    budget = design.budgets[rail.id]
    if rail.voltage.value is None:
        return f"{rail.label} has no volts to state: {rail.voltage.because}."
    if budget.gives is None or rail.feed is None:
        return f"{rail.label} carries {budget.worst.text} with all of it lit."
    if budget.worst.known <= 0:
        return f"Nothing hangs on it yet, and it gives {budget.gives.text}."
    run = design.run_times.get(rail.id)
    lasts = f" It lasts {run.text}." if run is not None else ""
    if budget.worst.known > budget.gives.known:
        return f"All of it lit wants {budget.worst.text}; what feeds it gives {budget.gives.text}.{lasts}"
    return f"All of it lit takes {budget.worst.text} of the {budget.gives.text} there are.{lasts}"


def _detail(design: Design, rail: RailDesign) -> str:
    budget, volts = design.budgets[rail.id], rail.voltage
    names = list(dict.fromkeys([*(it.label for it in budget.own), *(design.rails[name].label for name in budget.on)]))
    few = and_list([inner(it) for it in names[:5]] + ([f"{len(names) - 5} more"] if len(names) > 5 else []))
    spread = f", {volts.spread_text} between all dark and all lit, at worst" if volts.spread_text else ""
    stands = f"{volts.text}{spread}. " if volts.value is not None else ""
    assumed = " Pixels are reckoned all white, as they may be at power-up; other lamps full on." if any(design.lamps[it.lamp_id].kind in PIXEL_KINDS for it in budget.own if it.lamp_id) else ""  # fmt: skip
    return f"{stands}It feeds {few or 'nothing yet'}.{assumed}"


def _choices(design: Design, rail: RailDesign) -> Iterator[Choice]:
    feed = rail.feed
    if feed is None or feed.picked is None:
        return
    picked = feed.picked
    if feed.source is not None:
        path, shipped = ("sources", feed.id, "choice"), design.catalog.sources.values()
        options = [
            (it.id, it.label, f"{si(it.voltage_v.low, 'V')} to {si(it.voltage_v.high, 'V')}")
            for it in sorted(
                shipped, key=lambda it: (it.kind, it.voltage_v.value, it.current_max_a.value if it.current_max_a else 0.0)
            )
        ]
    else:
        path = ("converters", feed.id, "choice")
        options = [
            (it.id, it.label, f"from {si(it.input_window_v.low, 'V')} to {si(it.input_window_v.high, 'V')}")
            for it in design.catalog.converters.values()
        ]
    chosen = tuple(
        Option(label=label, detail=detail, patch=at_path(path, {"part": name, "overrides": None}), is_chosen=name == picked.id)
        for name, label, detail in options
    )
    yield Choice(
        label="Fed by" if feed.source is not None else "Made by", origin=picked.origin, because=picked.why, options=chosen
    )
    if feed.converter is not None:
        charges = bool(design.plan.converters[feed.id].charges)
        at = ("converters", feed.id, "charges")
        yield Choice(
            label="It is there to",
            origin="own" if charges else "proposed",
            because=None if charges else "what most converters do",
            options=(
                Option(label="Feed this rail", patch=at_path(at, None), is_chosen=not charges),
                Option(label="Charge cells", detail="only a charger may", patch=at_path(at, True), is_chosen=charges),
            ),
        )


def _volts(design: Design, rail: RailDesign) -> Iterator[Entry]:
    if rail.voltage.value is None:
        return
    if rail.voltage.path:
        yield entry(rail.voltage, label="Set to" if rail.feed is not None and rail.feed.converter is not None else None)
    own_f, path = design.plan.rails[rail.id].decoupling_f, ("rails", rail.id, "decoupling_f")
    has_radio = any(it.rail_id == rail.id and it.part is not None and it.part.radios for it in design.nodes.values())
    if own_f is not None or has_radio:
        usual = design.catalog.proposals["decoupling"]
        slot = Slot(id=f"{rail.stage}.decoupling_f", stage=rail.stage, label="Capacitors on it", unit="F", path=path)
        yield entry(slot.filled(own_f or usual.value or 0.0, origin="proposed" if own_f is None else "own", because=usual.why if own_f is None else None))  # fmt: skip


def _lasting(design: Design, rail: RailDesign) -> Iterator[Panel]:
    """Tell how long a source with a charge lasts, what is wanted of it, what light that leaves, and what others would give."""
    run, source = design.run_times.get(rail.id), design.plan.sources.get(rail.source_id or "")
    if run is None or source is None or rail.source_id is None or rail.feed is None:
        return
    wanted_s = source.wanted_run_time_s
    path = ("sources", rail.source_id, "wanted_run_time_s")
    wanted = Entry(
        label="Shall last",
        text=hours(wanted_s) if wanted_s else "not told",
        path=path,
        origin="own" if wanted_s else "proposed",
        because=None if wanted_s else "tell it, and it is held to that",
        hint="such as 6 h, 90 min or 3 days",
    )
    lines = []
    share = share_for(design, rail, wanted_s or EVENING_S)
    if share is not None:
        some = (
            "all of the light reckoned with"
            if share >= 1
            else f"{si(int(share * 100) / 100, 'ratio')} of the light reckoned with"
        )
        lines.append(
            f"For {hours(wanted_s or EVENING_S)} it feeds {some if share > 0 else 'no light: what is on all the time is too much'}."
        )
    stops = stops_at(rail, design.rails, design.nodes)
    lines += [f"{part.label}: {other.text}" for part, other in compared(design.catalog.sources, rail, run.average_a, stops)]
    note = (
        f"{run.best_text} at best; {run.stops} at {si(run.cutoff_v, 'V')}"
        if run.text != run.best_text
        else "self-discharge, cold and age left out"
    )
    yield Panel(title=f"It lasts {run.text}", note=note, entries=(wanted,), facts=(run.lasts,), lines=tuple(lines))


def _usages(design: Design, burdens: tuple[Burden, ...]) -> Iterator[Panel]:
    """Hold how much of its full light each lamp gives on average."""
    lit = [it for it in burdens if it.lamp_id and it.worst_a > it.least_a]
    if lit:
        more = f"; {len(lit) - USAGES_MOST} more on their own sheets" if len(lit) > USAGES_MOST else ""
        note = f"of its full light each gives on average; run time and warmth follow from it{more}"
        entries = tuple(usage_entry(design, it) for it in lit[:USAGES_MOST])
        yield Panel(title="How much of the evening", note=note, entries=entries, is_folded=len(lit) > 6)


def usage_entry(design: Design, it: Burden) -> Entry:
    """Hold how much of its full light a lamp gives on average."""
    own = getattr(design.plan.lamps[it.lamp_id], "usage_ratio", None)
    share = it.usage_ratio
    return Entry(
        label=it.label,
        text=si(share, "ratio"),
        path=("lamps", it.lamp_id, "usage_ratio"),
        origin="proposed" if own is None else "own",
        because=it.why if own is None else None,
        settles=round(share, 4) if own is None else None,
        lower=max(0.0, round(share - STEP_RATIO, 4)),
        higher=min(1.0, round(share + STEP_RATIO, 4)),
    )


def wire_entries(
    own: WireRun | None, path: tuple[str, ...], none: str, leads: tuple[Lead, ...] | None = None
) -> tuple[Entry, ...]:
    """Hold a pair of wires: how long, how thick; its gauge is asked for once there is a length. ``leads`` is what its place makes of it."""
    wire = led(own, leads)
    length_m, is_own = wire.length_m if wire is not None else None, bool(own is not None and own.length_m)
    length = Entry(
        label="Length of its wire",
        text=si(length_m, "m") if length_m else none,
        path=(*path, "length_m"),
        origin="own" if is_own else "proposed",
        because=None
        if is_own
        else "as far as its place is, along the run"
        if length_m
        else "a few centimetres lose nothing to speak of",
        hint="one way, such as 2 m or 40 cm",
    )
    if wire is None or not length_m:
        return (length,)
    gauge = LEAD_AWG if wire.gauge_awg is None else wire.gauge_awg
    return (
        length,
        Entry(
            label="Gauge, AWG",
            text=f"{gauge}",
            path=(*path, "gauge_awg"),
            origin="own" if wire.gauge_awg is not None else "proposed",
            because=None if wire.gauge_awg is not None else "a core of network cable, or common hook-up wire",
            settles=None if wire.gauge_awg is not None else gauge,
            lower=gauge - 2 if gauge > 1 else None,
            higher=gauge + 2 if gauge < 39 else None,
        ),
    )


def wire_choice(wire: WireRun | None, path: tuple[str, ...]) -> tuple[Choice, ...]:
    """Offer what a wire is made of, once there is one."""
    if wire is None or not wire.length_m:
        return ()
    at, is_of = (*path, "made_of"), wire.made_of or "copper"
    options = tuple(
        Option(label=label, detail=detail, patch=at_path(at, name), is_chosen=is_of == name)
        for name, label, detail in (
            ("copper", "Copper", "hook-up wire, network cable"),
            ("clad", "Copper-clad aluminium", "much cheap network cable; 1.6 times the ohms"),
            ("jumper", "Jumpers in a breadboard", "0.1 Ω more for each contact"),
        )
    )
    return (Choice(label="Made of", origin="own" if wire.made_of else "proposed", because=None if wire.made_of else "what hook-up wire is", options=options),)  # fmt: skip


def wire_lines(run: Run | None) -> tuple[str, ...]:
    """Tell what a wire loses, how long it may be, and how thin one would do."""
    if run is None or run.current_a <= 0:
        return ()
    gauge, longest = run.thinnest(), run.longest()
    lost = f"It loses {si(run.lost_v, 'V')} at {si(run.current_a, 'A')}, and may lose {si(run.may_lose_v, 'V')}."
    long = (
        f" At this gauge it may be {si(float(f'{longest:.2g}'), 'm')} long."
        if longest > 0
        else " At this gauge its contacts alone lose more."
    )
    thin = f" {gauge} AWG would do for its length." if gauge is not None else " No gauge does for its length."
    return (lost + long + thin,)


def _lead(design: Design, rail: RailDesign) -> Iterator[Panel]:
    """Hold the lead between a source and its rail, and the fuse in it."""
    source = design.plan.sources.get(rail.source_id or "")
    if source is None or rail.source_id is None:
        return
    path = ("sources", rail.source_id, "cable")
    fuse = Entry(
        label="Fuse",
        text=si(source.fuse_a, "A") if source.fuse_a else "none told",
        path=("sources", rail.source_id, "fuse_a"),
        origin="own" if source.fuse_a else "proposed",
        because=None if source.fuse_a else "asked for where a short could make a wire glow",
    )
    entries = [*wire_entries(source.cable, path, "its own lead"), fuse]
    if rail.feed is not None and rail.feed.source is not None and rail.feed.source.gap_s is not None:
        entries.append(
            Entry(
                label="May fall in a gap by",
                text=si(source.dip_v or 1.0, "V"),
                path=("sources", rail.source_id, "dip_v"),
                origin="own" if source.dip_v else "proposed",
                because=None if source.dip_v else "what most boards sleep through",
            )
        )
    yield Panel(title="Lead and fuse", note="a lead beside the one it comes with", entries=tuple(entries), choices=wire_choice(source.cable, path), lines=wire_lines(run_at(design, path)), is_folded=source.cable is None and source.fuse_a is None)  # fmt: skip


def _figures(design: Design, rail: RailDesign) -> Iterator[Panel]:
    feed = rail.feed
    if feed is None:
        return
    if feed.source is not None:
        part = as_used(design.catalog.source(feed.source.id), own_figures(design.plan.sources[feed.id]))
        yield figures_panel(design, rail.stage, "sources", part, ("sources", feed.id, "choice"))
    elif feed.converter is not None:
        converter = as_used(design.catalog.converter(feed.converter.id), own_figures(design.plan.converters[feed.id]))
        yield figures_panel(design, rail.stage, "converters", converter, ("converters", feed.id, "choice"))


def _more(design: Design, rail: RailDesign) -> Iterator[Move]:
    """Offer rails made from this one: by each converter that its volts suit, and from the pins of boards on it."""
    if rail.voltage.value is None:
        return
    for part in design.catalog.converters.values():
        makes_v = part.output_v.value
        drop_v = part.dropout_v.value if part.dropout_v is not None else 0.0
        fits = part.input_window_v.low <= rail.voltage.low and rail.voltage.high <= part.input_window_v.high
        goes_up = part.kind == "boost"
        if not fits or part.kind == "charger" or abs(makes_v - rail.voltage.value) < 0.2:
            continue
        if goes_up != (makes_v > rail.voltage.value) or (not goes_up and rail.voltage.low < makes_v + drop_v):
            continue
        name = first_free("made", lambda it: it in design.plan.converters or it in design.plan.rails)
        at = {"end": rail.end} if rail.end else {}
        converter = at_path(("converters", name), {"from_rail": rail.id, "choice": {"part": part.id}})
        patch = join_patches([converter, at_path(("rails", name), {"fed_by": name, "label": f"{si(makes_v, 'V')} rail", **at})])
        yield Move(label=f"Make {si(makes_v, 'V')} of it: {inner(part.label)}", patch=patch)
    if rail.feed is not None and rail.feed.converter is not None and not design.budgets[rail.id].own:
        yield Move(label=f"Take {rail.label} out", patch={"rails": {rail.id: None}, "converters": {rail.feed.id: None}})
