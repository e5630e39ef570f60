"""What a sender gives, and what a receiver hears and stands."""

from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.values import NOT_YET, Slot, SlotMaker, Value
from oddlamp.core.parts.models import InputLevels
from oddlamp.core.parts.sourced import Sourced

VDD_SLACK_V: Final = 0.3


def sent_by(slot: Slot, sender: NodeDesign) -> Value:
    """Return what a sender gives while it is high."""
    volts = sender.logic
    if volts is None:
        return slot.empty(f"levels of a {sender.node.kind}: {NOT_YET}")
    if volts.value is None:
        return slot.empty(volts.because or NOT_YET)
    return slot.filled(
        volts.known,
        origin=volts.origin,
        spread=(volts.low, volts.high),
        because="a lightly loaded output reaches its own supply" if sender.part else "its upper end stands at this rail",
        working=volts.working,
    )


def thresholds_of(slot: SlotMaker, receiver: NodeDesign) -> tuple[Value, Value, Value]:
    """Return from where a receiver hears a high, up to where it hears a low, and what it may have at most."""
    levels, logic = receiver.inputs, receiver.logic
    names = (("high_v", "Heard as high from"), ("low_v", "Heard as low up to"), ("limit_v", "May be at most"))
    if levels is None or logic is None or logic.value is None:
        because = (logic.because if logic else None) or f"levels of a {receiver.node.kind}: {NOT_YET}"
        high, low, limit = (slot(field, label, "V").empty(because) for field, label in names)
        return high, low, limit
    high = _threshold(slot("high_v", "Heard as high from", "V"), levels.input_high_v, levels.input_high_ratio, logic, "V_IH")
    low = _threshold(slot("low_v", "Heard as low up to", "V"), levels.input_low_v, levels.input_low_ratio, logic, "V_IL")
    return high, low, _limit(slot("limit_v", "May be at most", "V"), levels, logic)


def _threshold(slot: Slot, stated: Sourced | None, ratio: Sourced, logic: Value, symbol: str) -> Value:
    if stated is not None:
        return slot.stated(stated, formula=symbol)
    volts = [ratio.value * v for v in (logic.low, logic.known, logic.high)]
    put_in = f"{ratio.value:g} · {logic.text} = {si(volts[1], 'V')}, at most {si(volts[2], 'V')}"
    return slot.filled(
        volts[1],
        origin="part",
        spread=(volts[0], volts[2]),
        working=(Working(formula=f"{symbol} = {ratio.value:g} · V_DD", substituted=put_in, source=ratio.source),),
    )


def _limit(slot: Slot, levels: InputLevels, logic: Value) -> Value:
    """A fixed limit is used as it is; otherwise nominal Vdd + 0.3 V. The receiver's own spread is not stacked on top."""
    if levels.input_max_v is not None:
        return slot.stated(
            levels.input_max_v,
            because="a fixed limit of this part",
            formula="stated absolute maximum; the receiver's own supply spread is not added",
        )
    limit_v = logic.known + VDD_SLACK_V
    put_in = f"{logic.text} + {si(VDD_SLACK_V, 'V')} = {si(limit_v, 'V')}; the receiver's own supply spread is not added"
    return slot.filled(
        limit_v,
        origin="part",
        because="its supply and a little",
        working=(Working(formula="V_max = V_DD + 0.3 V", substituted=put_in, source="from-memory"),),
    )
