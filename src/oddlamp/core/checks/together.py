"""Rules for what pins carry together: ports, and the whole chip."""

import math
from bisect import bisect_right
from collections.abc import Iterable, Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working, at_most, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import ChannelDesign, LampDesign
from oddlamp.core.design.lines import PinLoad
from oddlamp.core.design.passages import Severity
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.electrical.preferred import next_preferred
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.parts.models import PortGroup
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.resolve.burdens import lit_together_a
from oddlamp.core.resolve.judge_lamps import over


def port_carries_together(design: Design) -> Iterator[Breach]:
    """Pins that share a port carry no more together than it takes."""
    for node in design.nodes.values():
        mine = _loads_on(design, node)
        at = {pin.signal_id: pin.label for pin in design.pins if pin.host == node.id and pin.field == "pin"}
        for group in node.part.port_groups if node.part is not None else ():
            here = [(lamp, load) for lamp, load in mine if at.get(load.signal_id) in group.pins]
            for way, limit in (("source", group.source_a), ("sink", group.sink_a)):
                if limit is not None:
                    some = [(lamp, load) for lamp, load in here if load.way == way]
                    yield from _too_much(design, node, some, limit, f"Pins {group.label}", f"{_key(group)}_{way}")


def chip_carries_together(design: Design) -> Iterator[Breach]:
    """All pins of a chip carry no more together than it takes."""
    for node in design.nodes.values():
        if node.part is not None and node.part.chip_most_a is not None:
            what = f"All pins of the {inner(node.label)}"
            yield from _too_much(design, node, _loads_on(design, node), node.part.chip_most_a, what, "chip")


def _loads_on(design: Design, node: NodeDesign) -> list[tuple[LampDesign, PinLoad]]:
    if node.part is None:
        return []
    return [(lamp, load) for lamp in design.lamps.values() if lamp.host == node.id for load in design.loads(lamp)]


def _key(group: PortGroup) -> str:
    return group.label.lower().replace(" ", "_")


def _too_much(
    design: Design, node: NodeDesign, loads: list[tuple[LampDesign, PinLoad]], limit: Sourced, what: str, key: str
) -> Iterator[Breach]:
    nominal_a, most_a = together_a(design, loads)
    if not over(most_a, limit.value):
        return
    severity: Severity = "stop" if over(nominal_a, limit.value) else "look"
    asked_a = nominal_a if severity == "stop" else most_a
    at_worst = "" if severity == "stop" else "At worst "
    lamps = list(dict.fromkeys(lamp.label for lamp, _ in loads))
    lit = (
        f"{lamps[0]} is on"
        if len(lamps) == 1
        else f"{and_list(lamps) if len(lamps) < 4 else f'{len(lamps)} lamps'} are on together"
    )
    put_in = f"{plural(len(loads), 'line')}, {si(nominal_a, 'A')}, at most {si(most_a, 'A')}; {si(limit.value, 'A')} together"
    message = f"{what} carry {si(asked_a, 'A')} when {lit}; they may carry {si(limit.value, 'A')}."
    yield Breach(
        severity=severity,
        where=f"{node.id}.{key}",
        stage=node.stage,
        message=at_worst + (inner(message) if at_worst else message),
        working=(Working(formula="sum over lamps that can be on together", substituted=put_in, source=limit.source),),
        ways=partial(_shed, design, loads, limit.value),
        numbers={"current_a": nominal_a, "worst_current_a": most_a},
    )


def together_a(design: Design, loads: Iterable[tuple[LampDesign, PinLoad]]) -> tuple[float, float]:
    """Add loads up over lamps that can be on together: of a group that never is, only the largest counts, A."""
    return lit_together_a(design.plan, ((lamp.id, load.nominal_a, load.most_a) for lamp, load in loads))


def _left_of(channels: list[ChannelDesign], share: float) -> float:
    """Return what is left of the worst current once every channel aims for a share of what it wants, its resistor sized anew."""
    left = [0.0]
    for it in channels:
        if it.branch is not None and it.branch.left_v > 0 and it.resistor.value is not None and share > 0:
            aim_a = at_most(it.wanted.known * share)
            left.append(
                it.resistor.value / next_preferred(it.branch.left_v / aim_a / it.branch.on_one_resistor, it.branch.series)
            )
    return max(left)


def _shed(design: Design, loads: list[tuple[LampDesign, PinLoad]], limit_a: float) -> Iterator[Move]:
    """Offer what brings the sum under its limit at worst: less current for all, or a MOSFET for each."""
    lamps = list({lamp.id: lamp for lamp, _ in loads}.values())
    _, most_a = together_a(design, loads)
    channels = [channel for lamp in lamps for channel in lamp.channels if channel.switch is None]
    # A little under, and no more digits than an aim deserves; less yet where the steps of the series take some back.
    hundredths = range(1, math.floor(98 * limit_a / most_a) + 1)
    share = bisect_right(hundredths, limit_a, key=lambda n: most_a * _left_of(channels, n / 100)) / 100
    wanted = min((channel.wanted.known for channel in channels), default=0.0) * share
    if channels and wanted > 1e-4:
        patch: dict[str, object] = {
            "lamps": {
                lamp.id: {
                    "channels": {
                        channel.id: {
                            "wanted_current_a": at_most(channel.wanted.known * share),
                            **({} if channel.resistor.origin == "proposed" else {"resistor_ohm": None}),
                        }
                        for channel in lamp.channels
                    }
                }
                for lamp in lamps
                if lamp.channels
            }
        }
        yield Move(label=f"Aim for {si(share, 'ratio')} of the current in each", patch=patch)
    switchable = [lamp for lamp in lamps if lamp.kind in ("led", "rgb", "buzzer", "relay") and lamp.rail_id in design.rails]
    if len(switchable) == len(lamps):
        drives = {lamp.id: {"drive": {"school": "mosfet", "choice": None}} for lamp in lamps}
        for lamp in lamps:
            if lamp.common is not None and lamp.common.id == "cathode":
                drives[lamp.id]["common"] = "anode"  # type: ignore[assignment]
        yield Move(label="Put a MOSFET under each", patch={"lamps": drives})


RULES: Final = (
    Rule(
        "PORT-CURRENT",
        "whole",
        port_carries_together,
        "nominal sum over a port's pins past its limit, of lamps that can be on together",
        "only the worst case past it",
        "board part, from memory",
    ),
    Rule(
        "CHIP-CURRENT",
        "whole",
        chip_carries_together,
        "nominal sum over all pins past the chip's limit, of lamps that can be on together",
        "only the worst case past it",
        "board part, from memory",
    ),
)
