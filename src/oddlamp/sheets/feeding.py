"""How a lamp is fed: its share of the evening, the cap on its brightness, its wire, and for chains where supply comes in."""

from collections.abc import Iterator

from oddlamp.core.base import si
from oddlamp.core.checks.wires import run_at
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.values import Slot
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.layouts import Layout
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.resolve.spreads import led
from oddlamp.sheets.entry import entry
from oddlamp.sheets.models import Choice, Entry, Option, Panel
from oddlamp.sheets.rail import usage_entry, wire_choice, wire_entries, wire_lines

CAP_STEP = 0.05


def feed_panel(design: Design, lamp: LampDesign) -> Panel | None:
    """Build the panel of how a lamp is fed; None for what takes nothing from a rail."""
    mine = design.burdens.get(lamp.id)
    if mine is None or lamp.sends_codes:
        return None
    path, plan = ("lamps", lamp.id), design.plan.lamps[lamp.id]
    own, wire = getattr(plan, "feed", None), led(getattr(plan, "feed", None), design.leads.get(lamp.id))
    usage = usage_entry(design, mine).model_copy(update={"label": "Of its full light, on average"})
    strip = design.strips.get(lamp.id)
    entries = (
        *_cap(design, lamp),
        usage,
        *(wire_entries(own, (*path, "feed"), "at its rail", design.leads.get(lamp.id)) if lamp.takes_rail else ()),
        *_along(design, lamp),
        *_capacitor(design, lamp),
    )
    return Panel(
        title="Fed",
        note=f"{si(mine.average_a, 'A')} on average, {si(mine.worst_a, 'A')} with all of it lit",
        entries=entries,
        choices=(*wire_choice(wire, (*path, "feed")), *_ends(design, lamp)),
        facts=(strip.lost,) if strip is not None else (),
        lines=wire_lines(run_at(design, (*path, "feed"))),
        is_folded=lamp.kind not in (*PIXEL_KINDS, "strip"),
    )


def _cap(design: Design, lamp: LampDesign) -> Iterator[Entry]:
    """Hold the cap that a program keeps on the brightness of pixels."""
    if lamp.kind not in PIXEL_KINDS:
        return
    own = getattr(design.plan.lamps[lamp.id], "brightness_cap_ratio", None)
    share = 1.0 if own is None else own
    yield Entry(
        label="Capped at",
        text=si(share, "ratio"),
        path=("lamps", lamp.id, "brightness_cap_ratio"),
        origin="proposed" if own is None else "own",
        because="no cap: all of its light" if own is None else None,
        hint="the program never gives more of its light than this",
        lower=round(max(0.01, share - CAP_STEP), 4),
        higher=round(min(1.0, share + CAP_STEP), 4) if share < 1 else None,
    )


def _along(design: Design, lamp: LampDesign) -> Iterator[Entry]:
    """Hold before which pixels of a chain supply comes in, counted from one."""
    if lamp.kind not in PIXEL_KINDS:
        return
    path = ("lamps", lamp.id, "layout")
    layout = getattr(design.plan.lamps[lamp.id], "layout", None) or Layout()
    yield Entry(
        label="Fed at pixel",
        text=", ".join(str(it + 1) for it in layout.fed_at) or "1",
        path=(*path, "fed_at"),
        origin="own" if layout.fed_at else "proposed",
        because=None if layout.fed_at else "at its start",
        hint="their numbers, the first being 1, such as 1, 73, 144",
    )


def _capacitor(design: Design, lamp: LampDesign) -> Iterator[Entry]:
    if lamp.kind not in (*PIXEL_KINDS, "strip"):
        return
    own, usual = getattr(design.plan.lamps[lamp.id], "capacitor_f", None), design.catalog.proposals["capacitor"]
    slot = Slot(
        id=f"{lamp.id}.capacitor_f", stage=lamp.stage, label="Capacitor there", unit="F", path=("lamps", lamp.id, "capacitor_f")
    )
    value = (usual.value or 1e-3) if own is None else own
    told = slot.filled(value, origin="proposed" if own is None else "own", because=usual.why if own is None else None)
    yield entry(told) if value > 0 else entry(told).model_copy(update={"text": "none"})


def _ends(design: Design, lamp: LampDesign) -> tuple[Choice, ...]:
    """Offer to feed a plain strip at one end or both."""
    if lamp.kind != "strip":
        return ()
    both, at = bool(getattr(design.plan.lamps[lamp.id], "is_fed_at_both_ends", None)), ("lamps", lamp.id, "is_fed_at_both_ends")
    options = (
        Option(label="At its start", patch=at_path(at, None), is_chosen=not both),
        Option(label="At both ends", detail="four times as long for the same loss", patch=at_path(at, True), is_chosen=both),
    )
    return (
        Choice(label="Fed", origin="own" if both else "proposed", because=None if both else "the fewest wires", options=options),
    )
