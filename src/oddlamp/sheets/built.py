"""What marking a line as built freezes, and how to open it again."""

from collections.abc import Sequence

from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.walk import standing
from oddlamp.core.plan.built import freeze_patch
from oddlamp.core.plan.document import at_path, join_patches


def built_moves(design: Design, signal_ids: Sequence[str], what: str) -> tuple[Move, ...]:
    """Offer to freeze lines as they stand now, or to open them again where all of them are built."""
    if not signal_ids:
        return ()
    is_built = all((signal := design.plan.signals.get(signal_id)) and signal.is_built for signal_id in signal_ids)
    patch = join_patches(
        at_path(("signals", signal_id), {"is_built": None, "built": None})
        if is_built
        else freeze_patch(signal_id, standing(design, signal_id))
        for signal_id in signal_ids
    )
    label = f"Open {what} again" if is_built else f"{what[:1].upper() + what[1:]} is built: let nothing move it"
    return (Move(label=label, patch=patch),)
