"""Who wins a lamp when more than one thing sets it."""

from collections.abc import Mapping
from typing import Final

from oddlamp.core.behaviour.inputs import TURNED_MOST, Input
from oddlamp.core.behaviour.lamps import Lamp
from oddlamp.core.behaviour.program import Orders

WORDS: Final = "words"
TAKES_OVER_RATIO: Final = 0.02  # common practice: more than a knob moves when the table is knocked
TAKES_OVER: Final = round(TURNED_MOST * TAKES_OVER_RATIO)


def may_set(lamp: Lamp, orders: Orders, source: str | None, inputs: Mapping[str, Input], *, is_moved: bool) -> bool:
    """Tell whether words, an input (by its id) or nobody in particular (None) may set a lamp, as its orders say who wins."""
    if source == WORDS:
        owner = inputs.get(lamp.owner or "")
        return orders.winner != "local" or owner is None or not owner.is_up
    if source is None:
        return True
    if orders.winner == "phone" and lamp.is_claimed:
        return False
    if not is_moved or lamp.owner == source:
        return True
    return abs(inputs[source].value - lamp.lost_at[source]) > orders.thresholds.get(source, TAKES_OVER)
