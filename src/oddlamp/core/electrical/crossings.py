"""Every wire between two nodes, both directions: which school brings the level across, and what arrives."""

from collections.abc import Callable

from oddlamp.core.base import Working, si
from oddlamp.core.design import CrossingDesign, NodeDesign, Picked, Way
from oddlamp.core.electrical.lamps import spread_of
from oddlamp.core.electrical.led import Spread
from oddlamp.core.electrical.level import Divider, divide, first_fitting_divider, straight
from oddlamp.core.parts.models import Catalog, LogicPart, Sourced
from oddlamp.core.plan.model import Plan, Shift, ShiftValues, Signal
from oddlamp.core.values import NOT_YET, Origin, Slot, Value

SCHOOLS = {"direct": "Straight wire", "divider": "Two resistors", "omitted": "Left out"}
VDD_SLACK_V = 0.3
SlotMaker = Callable[[str, str], Slot]


def resolve_crossings(plan: Plan, catalog: Catalog, nodes: dict[str, NodeDesign]) -> dict[str, CrossingDesign]:
    """Resolve both directions of every wire."""
    crossings: dict[str, CrossingDesign] = {}
    for link_id, link in plan.links.items():
        if link.kind == "wire":
            ways: tuple[tuple[Way, str, str], ...] = (("a_to_b", link.a, link.b), ("b_to_a", link.b, link.a))
            for way, sender, receiver in ways:
                crossings[f"{link_id}.{way}"] = _crossing(plan, catalog, link_id, way, nodes[sender], nodes[receiver])
    return crossings


def _crossing(plan: Plan, catalog: Catalog, link_id: str, way: Way, sender: NodeDesign, receiver: NodeDesign) -> CrossingDesign:
    path, stage = f"{link_id}.{way}", f"links.{link_id}"
    signal = plan.signals.get(path) or Signal()

    def slot(field: str, label: str, unit: str = "V") -> Slot:
        return Slot(id=f"{path}.{field}", stage=stage, label=label, unit=unit)

    sent = _sent(slot("sent_v", "Sent"), sender)
    high, low, limit = _thresholds(slot, receiver)
    drive = spread_of(sent) if sent.value is not None else None
    school, divider, origins = _choose(signal.shift, catalog, drive, high, limit)
    received_slot = slot("received_v", "Arrives")
    upper = lower = tolerance = None
    if signal.is_omitted:
        school, received = Picked("omitted", SCHOOLS["omitted"], "own"), received_slot.empty("this wire is left out")
    elif drive is None or limit.value is None:
        received = received_slot.empty(sent.because or limit.because or NOT_YET)
    else:
        level = divide(drive, divider) if divider else straight(drive)
        volts = level.voltage_v
        received = received_slot.filled(volts.value, origin="computed", spread=(volts.least, volts.most), working=level.working)
    if divider and not signal.is_omitted:
        why = catalog.proposals["divider"].why
        upper = slot("upper_ohm", "From the sender", "ohm").filled(
            divider.upper_ohm, origin=origins[0], because=why if origins[0] == "proposed" else None
        )
        lower = slot("lower_ohm", "To ground", "ohm").filled(
            divider.lower_ohm, origin=origins[1], because=why if origins[1] == "proposed" else None
        )
        resistor = catalog.resistors[catalog.proposals["resistor"].part or ""]
        tolerance = slot("tolerance_ratio", "Tolerance", "ratio").filled(
            divider.tolerance_ratio, origin=origins[2], because=resistor.label.lower() if origins[2] == "proposed" else None
        )
    return CrossingDesign(
        id=path,
        link_id=link_id,
        way=way,
        sender=sender,
        receiver=receiver,
        is_omitted=bool(signal.is_omitted),
        school=school,
        upper=upper,
        lower=lower,
        tolerance=tolerance,
        sent=sent,
        received=received,
        high=high,
        low=low,
        limit=limit,
        sent_spread=drive,
    )


def _sent(slot: Slot, sender: NodeDesign) -> Value:
    if sender.part is None:
        return slot.empty(f"levels of a {sender.node.kind}: {NOT_YET}")
    if sender.logic is None or sender.logic.value is None:
        return slot.empty((sender.logic.because if sender.logic else None) or NOT_YET)
    volts = sender.logic
    return slot.filled(
        volts.known,
        origin=volts.origin,
        spread=(volts.low, volts.high),
        because="a lightly loaded output reaches its own supply",
        working=volts.working,
    )


def _thresholds(slot: SlotMaker, receiver: NodeDesign) -> tuple[Value, Value, Value]:
    part, logic = receiver.part, receiver.logic
    names = (("high_v", "Heard as high from"), ("low_v", "Heard as low up to"), ("limit_v", "May be at most"))
    if part is None or logic is None or logic.value is None:
        because = (logic.because if logic else None) or f"levels of a {receiver.node.kind}: {NOT_YET}"
        high, low, limit = (slot(field, label).empty(because) for field, label in names)
        return high, low, limit
    high = _threshold(slot("high_v", "Heard as high from"), part.input_high_v, part.input_high_ratio, logic, "V_IH")
    low = _threshold(slot("low_v", "Heard as low up to"), part.input_low_v, part.input_low_ratio, logic, "V_IL")
    return high, low, _limit(slot("limit_v", "May be at most"), part, logic)


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


def _limit(slot: Slot, part: LogicPart, logic: Value) -> Value:
    """A fixed limit is used as it is; otherwise nominal Vdd + 0.3 V. The receiver's own spread is not stacked on top."""
    if part.input_max_v is not None:
        return slot.stated(
            part.input_max_v,
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


def _choose(
    shift: Shift | None, catalog: Catalog, drive: Spread | None, high: Value, limit: Value
) -> tuple[Picked, Divider | None, tuple[Origin, Origin, Origin]]:
    """Return the school, the divider where it is one, and the origins of its three values."""
    values = (shift.values if shift else None) or ShiftValues()
    tolerance = values.tolerance_ratio
    if tolerance is None:
        tolerance = catalog.resistors[catalog.proposals["resistor"].part or ""].tolerance_ratio.value
    fits = drive is None or limit.value is None or drive.most <= limit.value
    name = shift.school if shift else ("direct" if fits else "divider")
    why = (
        None if shift else ("the sender never goes past the limit" if fits else "the sender goes past what the receiver may have")
    )
    school = Picked(name, SCHOOLS[name], "own" if shift else "proposed", why)
    if name == "direct":
        return school, None, ("own", "own", "own")
    pairs = catalog.proposals["divider"].pairs
    proposed = None
    if drive is not None and limit.value is not None and high.value is not None:
        proposed = first_fitting_divider(drive, pairs=pairs, tolerance_ratio=tolerance, limit_v=limit.value, high_v=high.high)
    first = (proposed.upper_ohm, proposed.lower_ohm) if proposed else pairs[0]
    divider = Divider(upper_ohm=values.upper_ohm or first[0], lower_ohm=values.lower_ohm or first[1], tolerance_ratio=tolerance)
    origins: tuple[Origin, Origin, Origin] = (
        "own" if values.upper_ohm else "proposed",
        "own" if values.lower_ohm else "proposed",
        "own" if values.tolerance_ratio is not None else "proposed",
    )
    return school, divider, origins
