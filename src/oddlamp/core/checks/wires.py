"""Rules for the wires that feed things, and for volts along strips."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.fewer import tried
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.supplies import StripDesign
from oddlamp.core.electrical.ladder import Colour, fewest_feeds
from oddlamp.core.electrical.wire import BUNDLED_A_PER_MM2, longest_m, may_carry_a, thinnest_awg
from oddlamp.core.english import plural
from oddlamp.core.layouts.strips import pitch_m
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.layouts import Layout
from oddlamp.core.plan.lights import PIXEL_KINDS
from oddlamp.core.plan.model import WireRun
from oddlamp.core.resolve.feeds import JUMPER_OHM, LEAD_AWG, of_length, wire_area_m2, wire_ohm
from oddlamp.core.resolve.spreads import led
from oddlamp.core.resolve.strips import STRIP_LOSS_RATIO, solved_alike

LAMP_DROP_RATIO: Final = 0.05  # common practice, no source
LOGIC_DROP_RATIO, LOGIC_DROP_V = 0.03, 0.2  # the greater of both; common practice, no source
FREE_A_PER_MM2: Final = 10.0  # a single wire in free air gets hot and lives; common practice, no source
CAPACITOR_LEAST_F: Final = 4.7e-4
FEEDS_MOST: Final = 24


class Run:
    """One pair of wires: where the plan keeps it, what it feeds, its current, the volts at its head and what it may lose."""

    def __init__(
        self, name: str, path: tuple[str, ...], stage: str, wire: WireRun, current_a: float, volts: float, drop_v: float
    ) -> None:
        self.name, self.path, self.stage, self.wire = name, path, stage, wire
        self.current_a, self.volts, self.may_lose_v = current_a, volts, drop_v

    @property
    def where(self) -> str:
        """Its place, as verdicts name it."""
        return f"{self.path[1]}.{self.path[2]}"

    @property
    def is_clad(self) -> bool:
        """Whether it is copper-clad aluminium."""
        return self.wire.made_of == "clad"

    @property
    def contacts_ohm(self) -> float:
        """What its contacts resist, there and back."""
        return 2 * JUMPER_OHM if self.wire.made_of == "jumper" else 0.0

    @property
    def lost_v(self) -> float:
        """What it loses there and back."""
        return wire_ohm(self.wire) * self.current_a

    def thinnest(self) -> int | None:
        """Return the thinnest gauge that loses no more than it may, and carries it; None where none does."""
        return thinnest_awg(
            self.may_lose_v, self.current_a, self.wire.length_m or 0.0, is_clad=self.is_clad, contacts_ohm=self.contacts_ohm
        )

    def longest(self) -> float:
        """Return how long it may be at its gauge, m."""
        return longest_m(
            self.may_lose_v, self.current_a, wire_area_m2(self.wire), is_clad=self.is_clad, contacts_ohm=self.contacts_ohm
        )


def run_at(design: Design, path: tuple[str, ...]) -> Run | None:
    """Return the wire that the plan keeps at a place, with what it carries; None where none is told."""
    if path[0] == "lamps" and getattr(design.plan.lamps[path[1]], "feed", None) is None and path[1] not in design.leads:
        return None
    return next((it for it in _runs(design) if it.path == path), None)


def _runs(design: Design) -> Iterator[Run]:
    for rail in design.rails.values():
        source, volts = design.plan.sources.get(rail.source_id or ""), rail.voltage
        cable = source.cable if source is not None else None
        if cable is not None and cable.length_m and volts.value is not None and rail.source_id is not None:
            limit_v = max(LOGIC_DROP_RATIO * volts.known, LOGIC_DROP_V)
            yield Run(f"The lead of {rail.label}", ("sources", rail.source_id, "cable"), rail.stage, cable, design.budgets[rail.id].worst.known, volts.known, limit_v)  # fmt: skip
    for lamp in design.lamps.values():
        wire, rail_ = (
            led(getattr(design.plan.lamps[lamp.id], "feed", None), design.leads.get(lamp.id)),
            design.rails.get(lamp.rail_id or ""),
        )
        if wire is not None and wire.length_m and rail_ is not None and rail_.voltage.value is not None:
            volts_v, burden = rail_.voltage.known, design.burdens.get(lamp.id)
            yield Run(f"The wire to {lamp.label}", ("lamps", lamp.id, "feed"), lamp.stage, wire, burden.worst_a if burden is not None else 0.0, volts_v, LAMP_DROP_RATIO * volts_v)  # fmt: skip


def wires_lose_little(design: Design) -> Iterator[Breach]:
    """A wire that feeds something loses no more there and back than that can do without."""
    for run in _runs(design):
        ohm = wire_ohm(run.wire)
        lost_v = ohm * run.current_a
        if lost_v <= run.may_lose_v * (1 + 1e-9):
            continue
        put_in = f"{si(run.current_a, 'A')} · {si(ohm, 'ohm')} = {si(lost_v, 'V', digits=3)}"
        yield Breach(
            severity="look",
            where=run.where,
            stage=run.stage,
            message=f"{run.name}, {of_length(run.wire)}, loses {lost_v:.3f} V of {si(run.volts, 'V')} there and back at {si(run.current_a, 'A')}; {si(run.may_lose_v, 'V')} is what it may.",
            working=(Working(formula="V = I · 2 L R′", substituted=put_in, source="iec-60028"),),
            ways=partial(_thicker, run),
            numbers={"lost_v": lost_v},
        )


def wires_stay_cool(design: Design) -> Iterator[Breach]:
    """A wire in a bundle carries no more than 3 A for each square millimetre."""
    for run in _runs(design):
        area = wire_area_m2(run.wire)
        if run.current_a <= may_carry_a(area) * (1 + 1e-9):
            continue
        dense = run.current_a / (area * 1e6)
        put_in = f"{si(run.current_a, 'A')} / {area * 1e6:.3g} mm² = {dense:.1f} A/mm²"
        yield Breach(
            severity="stop" if dense > FREE_A_PER_MM2 else "look",
            where=run.where,
            stage=run.stage,
            message=f"{run.name} carries {si(run.current_a, 'A')}, {dense:.1f} A for each mm²; {BUNDLED_A_PER_MM2:g} are usual in a bundle"
            + (", and over ten burn its skin." if dense > FREE_A_PER_MM2 else "."),
            working=(Working(formula="J = I / A", substituted=put_in, source="astm-b258"),),
            ways=partial(_thicker, run),
            numbers={"current_a": run.current_a},
        )


def _thicker(run: Run) -> Iterator[Move]:
    """Offer the thinnest gauge that does, and the longest this gauge may be."""
    gauge = run.thinnest()
    if gauge is not None:
        yield Move(label=f"Take {gauge} AWG", patch=at_path((*run.path, "gauge_awg"), gauge))
    area = wire_area_m2(run.wire)
    may_m = run.longest() if run.current_a > 0 else 0.0
    if run.current_a <= may_carry_a(area) and 0.05 <= may_m < (run.wire.length_m or 0.0):
        short_m = int(may_m * 20) / 20
        yield Move(label=f"Keep it to {si(short_m, 'm')}", patch=at_path((*run.path, "length_m"), short_m))


def sources_are_fused(design: Design) -> Iterator[Breach]:
    """Where a source can push more than the thinnest wire behind it stands, a fuse stands between them."""
    for rail in design.rails.values():
        part, source = rail.feed.source if rail.feed is not None else None, design.plan.sources.get(rail.source_id or "")
        if part is None or source is None or part.current_max_a is None or rail.source_id is None:
            continue
        mine = [run for run in _runs(design) if run.stage == rail.stage or (run.path[0] == "lamps" and design.lamps[run.path[1]].rail_id == rail.id)]  # fmt: skip
        pushes_a = part.current_max_a.high if source.fuse_a is None else min(source.fuse_a, part.current_max_a.high)
        thin = min(mine, key=lambda it: wire_area_m2(it.wire), default=None)
        if thin is None:
            continue
        stands_a = FREE_A_PER_MM2 * wire_area_m2(thin.wire) * 1e6
        if pushes_a <= stands_a:
            continue
        fuse_a = next((it for it in (5.0, 3.0, 2.0, 1.0, 0.5, 0.25) if it <= stands_a), None)
        gauge = LEAD_AWG if thin.wire.gauge_awg is None else thin.wire.gauge_awg
        yield Breach(
            severity="look",
            where=f"{rail.source_id}.fuse",
            stage=rail.stage,
            message=f"{rail.label} can push {si(pushes_a, 'A')} through {gauge} AWG, which stands {si(stands_a, 'A')}: a short makes it glow.",
            working=(Working(formula="I_source ≤ 10 A/mm² · A", substituted=f"{si(pushes_a, 'A')} > {si(stands_a, 'A')}", source="common-practice"),),
            fixes=(Move(label=f"Put a fuse of {si(fuse_a, 'A')} at its source", patch=at_path(("sources", rail.source_id, "fuse_a"), fuse_a)),) if fuse_a is not None else (),
            numbers={"over_a": pushes_a - stands_a},
        )  # fmt: skip


def strips_reach_their_end(design: Design) -> Iterator[Breach]:
    """Every pixel has volts for all of its colours, and a plain strip loses no more than lamps may."""
    for lamp_id, strip in design.strips.items():
        lamp = design.lamps[lamp_id]
        if strip.short_of == 0:
            continue
        is_pixel = lamp.kind in PIXEL_KINDS
        fed_v = strip.feeds[0].volts
        if is_pixel:
            what = "turn warm, blue and green first" if fed_v >= strip.least_v else "are warm all along, blue and green first"
            message = f"{lamp.label}: {plural(strip.short_of, 'pixel')} of {len(strip.volts)} {what}: {si(strip.lowest_v, 'V')} where it has least, {si(strip.least_v, 'V')} light every colour."
        else:
            message = f"{lamp.label} loses {strip.lost.text} along its length: {si(strip.lowest_v, 'V')} at its far end, visibly dimmer."
        yield Breach(
            severity="look",
            where=f"{lamp_id}.strip",
            stage=lamp.stage,
            message=message,
            working=strip.lost.working,
            ways=partial(tried, design, "STRIP-DROP", f"{lamp_id}.strip", partial(_fed_again, design, lamp, strip)),
            numbers={"short_v": strip.least_v - strip.lowest_v},
        )


def _fed_again(design: Design, lamp: LampDesign, strip: StripDesign) -> Iterator[Move]:
    """Offer the fewest places to feed it at, and the brightness at which it needs none of them."""
    if lamp.kind not in PIXEL_KINDS:
        yield from _plain_again(design, lamp, strip)
        return
    count, first = len(strip.volts), strip.feeds[0]
    together = max(1, round(strip.place_m / pitch_m(getattr(design.plan.lamps[lamp.id], "layout", None) or Layout())))
    feeds = fewest_feeds([strip.colours] * count, strip.pitch_ohm, first, strip.least_v, most=FEEDS_MOST)
    if feeds is not None and len(feeds) > 1:
        last = lamp.load.pixels - 1 if lamp.load is not None else count - 1
        places = [min(it.at * together, last) for it in feeds]
        told = ", ".join(str(it + 1) for it in places[1:])
        label = f"Feed it at the start and at pixel {told}" if len(places) < 6 else f"Feed it at {len(places)} places"
        yield Move(label=label, patch=at_path(("lamps", lamp.id, "layout", "fed_at"), places))
    now = getattr(design.plan.lamps[lamp.id], "brightness_cap_ratio", None) or 1.0
    share = _share_that_reaches(strip, count)
    if share is not None:
        cap = int(share * now * 100) / 100
        if cap >= 0.01:
            yield Move(
                label=f"Cap its brightness at {si(cap, 'ratio')}", patch=at_path(("lamps", lamp.id, "brightness_cap_ratio"), cap)
            )


def _plain_again(design: Design, lamp: LampDesign, strip: StripDesign) -> Iterator[Move]:
    """Offer a plain strip's other end, and the length at which it needs nothing."""
    count, limit = len(strip.volts), 1 - STRIP_LOSS_RATIO

    def is_even(places: int, *, both: bool) -> bool:
        feeds = tuple(strip.feeds[0]._replace(at=it) for it in ((0, places - 1) if both else (0,)))
        volts = solved_alike(strip.colours, places, strip.pitch_ohm, feeds).volts
        return min(volts) >= limit * max(volts)

    if len(strip.feeds) == 1 and is_even(count, both=True):
        yield Move(label="Feed it at both ends", patch=at_path(("lamps", lamp.id, "is_fed_at_both_ends"), True))
    places = next((it for it in range(count - 1, 0, -1) if is_even(it, both=len(strip.feeds) > 1)), None)
    if places is not None:
        short_m = int(places * strip.place_m * 20) / 20
        yield Move(label=f"Keep it to {si(short_m, 'm')}", patch=at_path(("lamps", lamp.id, "length_m"), short_m))


def _share_that_reaches(strip: StripDesign, count: int) -> float | None:
    """Find by halving at which share of its currents every place has its volts; None where none does."""

    def reaches(share: float) -> bool:
        dimmed = tuple(Colour(it.current_a * (share if it.forward_voltage_v > 0 else 1.0), it.forward_voltage_v, it.full_over_v) for it in strip.colours)  # fmt: skip
        return min(solved_alike(dimmed, count, strip.pitch_ohm, strip.feeds).volts) >= strip.least_v

    if not reaches(0.01):
        return None
    low, high = 0.01, 1.0
    for _ in range(8):
        middle = (low + high) / 2
        low, high = (middle, high) if reaches(middle) else (low, middle)
    return low


def strips_are_steadied(design: Design) -> Iterator[Breach]:
    """Pixels and strips have a capacitor where they are fed: proposed, unless less is told."""
    for lamp in design.lamps.values():
        own_f = getattr(design.plan.lamps[lamp.id], "capacitor_f", None)
        if lamp.kind not in (*PIXEL_KINDS, "strip") or own_f is None or own_f >= CAPACITOR_LEAST_F:
            continue
        usual = design.catalog.proposals["capacitor"]
        has = si(own_f, "F") if own_f else "no capacitor"
        yield Breach(
            severity="look",
            where=f"{lamp.id}.capacitor",
            stage=lamp.stage,
            message=f"{lamp.label} has {has} where it is fed; 470 to 1000 µF there take the jolt when it is switched on, and when it jumps from dark to white.",
            working=(Working(formula="C ≥ 470 µF", substituted=has, source=usual.source),),
            fixes=(Move(label=f"Put in {si(usual.value or 1e-3, 'F')}", patch=at_path(("lamps", lamp.id, "capacitor_f"), None)),),
            numbers={"missing_f": CAPACITOR_LEAST_F - own_f},
        )


RULES: Final = (
    Rule("WIRE-DROP", "whole", wires_lose_little, "", "a wire that feeds lamps loses over 5 % of their volts, or a lead the greater of 3 % and 0.2 V", "IEC 60028, ASTM B258; limits common practice"),
    Rule("WIRE-CURRENT", "whole", wires_stay_cool, "a wire carries over 10 A for each mm²", "over 3 A", "ASTM B258; limits common practice"),
    Rule("WIRE-FUSE", "whole", sources_are_fused, "", "a source can push over 10 A for each mm² through the thinnest wire behind it, and has no fuse", "common practice"),
    Rule("STRIP-DROP", "whole", strips_reach_their_end, "", "with all of it lit a pixel has too few volts for all of its colours, or a strip loses over 5 %", "solved at every pixel; volts of its LEDs from memory"),
    Rule("PIX-CAP", "lamp", strips_are_steadied, "", "under 470 µF are told where pixels or a strip are fed", "common practice"),
)  # fmt: skip
