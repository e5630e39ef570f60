"""Rules for pixels and matrix modules: data that is heard, its resistor, the order of colours, memory for them."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.levels import unheard
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.document import at_path

# From common practice: what a small program keeps of its memory for itself, and when a chain takes much of it.
RAM_KEPT_BYTES = 512
RAM_LOOK_RATIO = 0.5
RESISTOR_LEAST_OHM, RESISTOR_MOST_OHM = 100.0, 600.0


def pixels_hear_their_data(design: Design) -> Iterator[Breach]:
    """The data of pixels and matrix modules reaches their threshold, which follows their own supply."""
    return unheard(design, "PIX-DATA-LEVEL")


def pixel_line_has_its_resistor(design: Design) -> Iterator[Breach]:
    """The data line of pixels has about its usual resistor against reflections: proposed, unless another was chosen."""
    for level in design.levels:
        series = level.series
        if not level.is_bits or series is None or RESISTOR_LEAST_OHM <= series.known <= RESISTOR_MOST_OHM:
            continue
        usual = design.catalog.proposals["pixel-series"]
        yield Breach(
            severity="look",
            where=level.id,
            stage=level.stage,
            message=f"{level.receiver.label}'s {level.line.lead} line has {series.text} in series; 220 to 470 Ω at the pin is usual against ringing.",
            working=(Working(formula="220 Ω ≤ R_series ≤ 470 Ω", substituted=series.text, source=usual.source),),
            fixes=(Move(label=f"Put in {si(usual.value or 330, 'ohm')}", patch=at_path(series.path, usual.value)),),
            numbers={"missing": 1},
        )


def colours_come_in_order(design: Design) -> Iterator[Breach]:
    """The order of colours that a test showed is the one the plan has: a wrong one is the commonest cause of wrong colours."""
    for lamp in design.lamps.values():
        pixel = lamp.load.pixel if lamp.load else None
        if pixel is None:
            continue
        plan = design.plan.lamps[lamp.id]
        seen = getattr(plan, "order_seen", None)
        if seen is None:
            continue
        planned = getattr(plan, "colour_order", None) or pixel.colour_order
        if seen == planned:
            continue
        names = seen.replace("-", ", "), planned.replace("-", ", ")
        yield Breach(
            severity="look",
            where=lamp.id,
            stage=lamp.stage,
            message=f"{lamp.label} showed its colours in the order {names[0]}; the plan sends {names[1]}: colours come out wrong.",
            working=(
                Working(
                    formula="order sent = order of the pixel", substituted=f"{names[1]} ≠ {names[0]}", source="common-practice"
                ),
            ),
            fixes=(
                Move(label=f"Send {names[0]}", patch=at_path(("lamps", lamp.id, "colour_order"), seen)),
                Move(label="Forget what was seen", patch=at_path(("lamps", lamp.id, "order_seen"), None)),
            ),
            numbers={"wrong": 1},
        )


def pixels_fit_in_memory(design: Design) -> Iterator[Breach]:
    """The colours of all pixels of a board fit in its memory, with room for the rest of the program."""
    for node in design.nodes.values():
        if not isinstance(node.part, BoardPart):
            continue
        mine = [lamp for lamp in design.lamps.values() if lamp.host == node.id and lamp.load and lamp.load.pixel]
        needs = sum(lamp.load.pixels * lamp.load.pixel.bytes_each for lamp in mine if lamp.load and lamp.load.pixel)
        has, room = node.part.ram_bytes, node.part.ram_bytes - RAM_KEPT_BYTES
        if not mine or needs <= RAM_LOOK_RATIO * has:
            continue
        is_over = needs > room
        put_in = " + ".join(
            f"{lamp.load.pixels} · {lamp.load.pixel.bytes_each}" for lamp in mine if lamp.load and lamp.load.pixel
        )
        yield Breach(
            severity="stop" if is_over else "look",
            where=f"{node.id}.memory",
            stage=node.stage,
            message=f"The colours of {plural(sum(it.load.pixels for it in mine if it.load), 'pixel')} take {needs} bytes; the {inner(node.label)} has {has} for everything.",
            working=(
                Working(
                    formula=f"n · bytes each ≤ memory − {RAM_KEPT_BYTES} for the rest",
                    substituted=f"{put_in} = {needs} of {has} bytes",
                    source="common-practice",
                ),
            ),
            fixes=tuple(_fewer(mine, int(RAM_LOOK_RATIO * has))),
            numbers={"bytes": needs},
        )


def _fewer(lamps: list[LampDesign], room_bytes: int) -> Iterator[Move]:
    """Offer to shorten the longest chain to what half the memory holds."""
    longest = max(lamps, key=lambda it: it.load.pixels if it.load else 0)
    if longest.load is None or longest.load.pixel is None:
        return
    others = sum(it.load.pixels * it.load.pixel.bytes_each for it in lamps if it is not longest and it.load and it.load.pixel)
    count = (room_bytes - others) // longest.load.pixel.bytes_each
    if count > 0:
        patch = at_path(("lamps", longest.id, "layout"), {"runs": [{"count": count}]})
        yield Move(label=f"Shorten {longest.label} to {plural(count, 'pixel')}", patch=patch)


RULES: Final = (
    Rule(
        "PIX-DATA-LEVEL",
        "line",
        pixels_hear_their_data,
        "nominal data level under the threshold of pixels or matrix modules (0.7 of their own supply unless stated)",
        "only the worst case under it, on different supplies",
        "pixel part, from memory",
    ),
    Rule(
        "PIX-DATA-R",
        "line",
        pixel_line_has_its_resistor,
        "",
        "a chosen resistor in a pixel data line outside 100 to 600 ohm",
        "common practice",
    ),
    Rule(
        "PIX-ORDER",
        "lamp",
        colours_come_in_order,
        "",
        "a test showed the colours of a chain in another order than the plan sends them",
        "common practice",
    ),
    Rule(
        "PIX-RAM",
        "whole",
        pixels_fit_in_memory,
        "the colours of all pixels leave under 512 bytes of the board's memory",
        "they take more than half of it",
        "board and pixel parts, from memory",
    ),
)
