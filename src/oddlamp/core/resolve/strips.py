"""Volts along chains of pixels and along strips, with all of them lit: both rails lose some on the way."""

import math
from collections.abc import Mapping
from functools import lru_cache
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.design.lamps import LampDesign, LoadDesign
from oddlamp.core.design.spreads import Lead
from oddlamp.core.design.supplies import Budget, RailDesign, StripDesign
from oddlamp.core.design.values import Slot
from oddlamp.core.electrical.ladder import FULL_OVER_V, Colour, Feed, Strip, solved_strip
from oddlamp.core.layouts.strips import pitch_m
from oddlamp.core.plan.layouts import Layout
from oddlamp.core.plan.lights import PIXEL_KINDS, Lamp
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.feeds import wire_ohm
from oddlamp.core.resolve.spreads import led

FORWARD_V: Final = {"red": 2.0, "green": 3.2, "blue": 3.2}  # of the LEDs in a pixel; from memory
SECTION_M: Final = 0.05  # of a plain 12 V strip from cut mark to cut mark, three LEDs at 60 a metre; common practice, no source
GOES_OUT_RATIO: Final = 0.7  # of its volts a plain strip goes out at: three LEDs of 2.8 V in 12 V; from memory
STRIP_LOSS_RATIO: Final = 0.05  # what lamps may lose unseen; common practice, no source
PLACES_MOST: Final = 300  # longer ones are solved in as many stretches: the picture has no more dots than that


def resolve_strips(
    plan: Plan,
    rails: Mapping[str, RailDesign],
    budgets: Mapping[str, Budget],
    lamps: Mapping[str, LampDesign],
    leads: Mapping[str, tuple[Lead, ...]],
) -> dict[str, StripDesign]:
    """Solve every chain and strip whose rail and figures are known; ``leads`` as in ``resolve_levels``."""
    found = {}
    for lamp in lamps.values():
        budget = budgets.get(lamp.rail_id or "")
        if lamp.load is not None and budget is not None and budget.loaded.value is not None:
            strip = _strip(plan.lamps[lamp.id], lamp, lamp.load, budget.loaded.value, leads.get(lamp.id))
            if strip is not None:
                found[lamp.id] = strip
    return found


def _strip(plan: Lamp, lamp: LampDesign, load: LoadDesign, fed_v: float, lead: tuple[Lead, ...] | None) -> StripDesign | None:
    if load.rail_ohm is None or load.current.value is None:
        return None
    layout, wire = getattr(plan, "layout", None), led(getattr(plan, "feed", None), lead)
    if lamp.kind in PIXEL_KINDS and load.pixel is not None:
        cap = getattr(plan, "brightness_cap_ratio", None)
        each_a = load.pixel.colour_current_a.value * (1.0 if cap is None else cap)
        count, per_m = load.pixels, 1 / pitch_m(layout or Layout())
        colours = (Colour(load.pixel.dark_current_a.value, 0.0), *(Colour(each_a, it) for it in FORWARD_V.values()))
        least_v, places = max(FORWARD_V.values()) + FULL_OVER_V, tuple(layout.fed_at) if layout is not None else ()
    else:
        length_m, section_m = getattr(plan, "length_m", None) or 1.0, getattr(plan, "cut_m", None) or SECTION_M
        count, per_m, places = max(1, round(length_m / section_m)), 1 / section_m, ()
        out_v = GOES_OUT_RATIO * load.rated.known
        colours = (Colour(load.current.value / count, out_v, load.rated.known - out_v),)
        least_v = 0.0
    if count < 1:
        return None
    # Of a very long chain so many pixels stand for one: their currents together, over the wire between them.
    together = -(-count // PLACES_MOST)
    stretches = -(-count // together)
    merged = tuple(it._replace(current_a=it.current_a * together) for it in colours)
    pitch_ohm = 2 * load.rail_ohm * together / per_m
    at = sorted({min(it, count - 1) // together for it in places}) or [0]
    if getattr(plan, "is_fed_at_both_ends", None):
        at = sorted({0, stretches - 1})
    feeds = tuple(Feed(it, fed_v, wire_ohm(wire)) for it in at)
    solved = solved_alike(merged, stretches, pitch_ohm, feeds)
    least_v = least_v or max(solved.volts) * (1 - STRIP_LOSS_RATIO)
    lost_v = max(solved.volts) - min(solved.volts)
    put_in = f"{si(fed_v, 'V')} where it is fed, {si(min(solved.volts), 'V')} where it has least"
    working = Working(formula="sum of currents at every pixel = 0, both rails", substituted=put_in, source="horowitz-hill")
    slot = Slot(id=f"{lamp.id}.strip_lost_v", stage=lamp.stage, label="Lost along it", unit="V")
    return StripDesign(
        lamp_id=lamp.id,
        colours=merged,
        pitch_ohm=pitch_ohm,
        feeds=feeds,
        volts=solved.volts,
        drawn_a=solved.drawn_a,
        least_v=least_v,
        place_m=together / per_m,
        lost=slot.filled(lost_v, origin="computed", working=(working,)),
    )


@lru_cache(maxsize=256)  # an edit of one lamp leaves the others as they are
def solved_alike(colours: tuple[Colour, ...], count: int, pitch_ohm: float, feeds: tuple[Feed, ...]) -> Strip:
    """Solve a strip whose places are all alike."""
    return solved_strip([colours] * count, pitch_ohm, feeds)


def thinner(strip: StripDesign, times: float) -> tuple[float, ...]:
    """Return the volts along a chain whose rails resist so many times what they are reckoned with, V."""
    return solved_alike(strip.colours, len(strip.volts), strip.pitch_ohm * times, strip.feeds).volts


def ohms_that_lose(strip: StripDesign, lost_v: float) -> float:
    """Return by how many times a chain's rails would have to resist what they are reckoned with to lose so many volts along it.

    Volts lost grow with the ohms, less and less as what is far away gets less: halved until the two agree.
    """
    low, high = 1e-3, 100.0
    for _ in range(30):
        times = math.sqrt(low * high)
        volts = thinner(strip, times)
        low, high = (times, high) if max(volts) - min(volts) < lost_v else (low, times)
    return math.sqrt(low * high)


def share_of(colour: Colour, volts: float) -> float:
    """Return how much of its current a colour gets at some volts, 0 to 1."""
    return min(max((volts - colour.forward_voltage_v) / colour.full_over_v, 0.0), 1.0)
