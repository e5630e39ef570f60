"""What marking a line as built freezes, and how to open it again."""

from collections.abc import Sequence

from oddlamp.core.design import Design
from oddlamp.core.findings import Move
from oddlamp.core.plan.built import freeze_patch
from oddlamp.core.plan.document import at_path, join_patches


def built_moves(design: Design, signal_ids: Sequence[str], what: str) -> tuple[Move, ...]:
    """Offer to freeze lines as they stand now, or to open them again where all of them are built."""
    if not signal_ids or any(signal_id not in design.pins for signal_id in signal_ids):
        return ()
    is_built = all((signal := design.plan.signals.get(signal_id)) and signal.is_built for signal_id in signal_ids)
    patch = join_patches(
        at_path(("signals", signal_id), {"is_built": None, "built": None})
        if is_built
        else freeze_patch(signal_id, _standing(design, signal_id))
        for signal_id in signal_ids
    )
    label = f"Open {what} again" if is_built else f"{what[:1].upper() + what[1:]} is built: let nothing move it"
    return (Move(label=label, patch=patch),)


def _standing(design: Design, signal_id: str) -> dict[str, float | str]:
    """Return the values a line has now."""
    values: dict[str, float | str] = {}
    pin = design.pins[signal_id]
    if pin.label is not None:
        values["pin"] = pin.label
    owner, _, lead = signal_id.partition(".")
    if owner in design.lamps:
        channel = next((it for it in design.lamps[owner].channels if it.id == lead), None)
        if channel is not None:
            values["led"] = channel.led.id
            if channel.resistor.value is not None:
                values["resistor_ohm"] = channel.resistor.value
    elif signal_id in design.crossings:
        crossing = design.crossings[signal_id]
        values["school"] = crossing.school.id
        for field, value in (
            ("upper_ohm", crossing.upper),
            ("lower_ohm", crossing.lower),
            ("tolerance_ratio", crossing.tolerance),
        ):
            if value is not None and value.value is not None:
                values[field] = value.value
    return values
