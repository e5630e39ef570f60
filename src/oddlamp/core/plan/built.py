"""What is soldered stays as it is: built lines keep their values, whatever the plan says later."""

from collections.abc import Iterator
from typing import Any, NamedTuple

from oddlamp.core.plan.document import Document, at_path, dump_plan, join_patches, load_plan, merge_patch
from oddlamp.core.plan.model import Built, Plan, Signal


class Drift(NamedTuple):
    """One value of a built line that the plan now wants otherwise, in the unit of the path's last step."""

    signal_id: str
    path: tuple[str, ...]
    field: str
    built: float | str
    wanted: float | str


def as_built(plan: Plan) -> tuple[Plan, tuple[Drift, ...]]:
    """Put the values of built lines in the place of what the plan says of them.

    Returns:
        The plan as it stands on the bench, and every value of a built line that was edited since.
    """
    lines = {name: signal for name, signal in plan.signals.items() if signal.is_built and signal.built}
    if not lines:
        return plan, ()
    document, drifts = dump_plan(plan), []
    for name, signal in lines.items():
        for field, path, value in _frozen(plan, name, signal):
            wanted = _at(document, path)
            if wanted is not None and wanted != value:
                drifts.append(Drift(name, path, field, value, wanted))
            document = merge_patch(document, at_path(path, value))
    return load_plan(document), tuple(drifts)


def _frozen(plan: Plan, name: str, signal: Signal) -> Iterator[tuple[str, tuple[str, ...], float | str]]:
    owner, _, lead = name.partition(".")
    for field, value in (signal.built or Built()).model_dump(exclude_none=True).items():
        path = built_path(name, field)
        # A lamp taken out of the plan, or without channels, has nowhere to keep its resistor.
        if path[0] != "lamps" or lead in _channels(plan, owner):
            yield field, path, value


def _channels(plan: Plan, owner: str) -> tuple[str, ...]:
    lamp = plan.lamps.get(owner)
    return {"led": ("main",), "rgb": ("red", "green", "blue")}.get(lamp.kind, ()) if lamp else ()


def built_path(signal_id: str, field: str) -> tuple[str, ...]:
    """Return where the plan keeps a value that a built line freezes."""
    owner, _, lead = signal_id.partition(".")
    line = ("signals", signal_id)
    return {
        "pin": (*line, "pin"),
        "resistor_ohm": ("lamps", owner, "channels", lead, "resistor_ohm"),
        "led": ("lamps", owner, "channels", lead, "led", "part"),
        "school": (*line, "shift", "school"),
        "upper_ohm": (*line, "shift", "values", "upper_ohm"),
        "lower_ohm": (*line, "shift", "values", "lower_ohm"),
        "series_ohm": (*line, "shift", "values", "series_ohm"),
        "pull_ohm": (*line, "shift", "values", "pull_ohm"),
        "diode_v": (*line, "shift", "values", "diode_v"),
        "tolerance_ratio": (*line, "shift", "values", "tolerance_ratio"),
    }[field]


def _at(document: Any, path: tuple[str, ...]) -> Any:
    for step in path:
        document = document.get(step) if isinstance(document, dict) else None
    return document


def freeze_patch(signal_id: str, built: dict[str, float | str]) -> Document:
    """Build the merge patch that marks a line as built with these values, and settles them in the plan."""
    settled = (at_path(built_path(signal_id, field), value) for field, value in built.items())
    return join_patches([at_path(("signals", signal_id), {"is_built": True, "built": built}), *settled])


def rework_patch(plan: Plan, patch: Document) -> Document | None:
    """Return a patch that rebuilds what it moves of built lines, or None where it moves none, or says itself what is built."""
    rebuilt = []
    for name, signal in plan.signals.items():
        if not signal.is_built or _reached(patch, ("signals", name, "built")):
            continue
        for field, path, value in _frozen(plan, name, signal):
            if _reached(patch, path) and _at(patch, path) != value:
                rebuilt.append(at_path(("signals", name, "built", field), _at(patch, path)))
    return join_patches([patch, *rebuilt]) if rebuilt else None


def _reached(patch: Document, path: tuple[str, ...]) -> bool:
    """Tell whether a merge patch says anything of a path: a value, or a null at it or above it."""
    here: Any = patch
    for step in path:
        if not isinstance(here, dict):
            return here is None
        if step not in here:
            return False
        here = here[step]
    return True
