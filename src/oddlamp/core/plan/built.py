"""What is soldered stays as it is: built lines keep their values, whatever the plan says later."""

from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from oddlamp.core.plan.changes import value_at
from oddlamp.core.plan.document import Document, at_path, dump_plan, join_patches, load_plan, merge_patch
from oddlamp.core.plan.model import Plan, Settled
from oddlamp.core.plan.signals import signals

Path = tuple[str, ...]


class BuiltDifference(NamedTuple):
    """One value of a built line that the plan now wants otherwise, in the unit of the path's last step."""

    signal_id: str
    path: Path
    built: Settled
    wanted: Settled


def place_of(path: Path) -> str:
    """Write a path as one text, as built lines keep it; ids may hold dots, never slashes."""
    return "/".join(path)


def path_of(place: str) -> Path:
    """Read such a text."""
    return tuple(place.split("/"))


def as_built(plan: Plan) -> tuple[Plan, tuple[BuiltDifference, ...]]:
    """Put the values of built lines in the place of what the plan says of them.

    Returns:
        The plan as it stands on the bench, and every value of a built line that was edited since.
    """
    frozen = list(_frozen(plan))
    if not frozen:
        return plan, ()
    document, found = dump_plan(plan), dict[Path, BuiltDifference]()
    before = document
    for signal_id, path, value in frozen:
        wanted = value_at(before, path)
        if wanted is not None and wanted != value:
            found.setdefault(path, BuiltDifference(signal_id, path, value, wanted))
        document = merge_patch(document, at_path(path, value))
    return load_plan(document), tuple(found.values())


def _frozen(plan: Plan) -> Iterator[tuple[str, Path, Settled]]:
    """Walk what built lines keep; of a lamp that is something else now only the pins stay."""
    lines = {name for name, signal in plan.signals.items() if signal.is_built and signal.built is not None}
    if not lines:
        return
    there = signals(plan)
    for name in plan.signals:
        built = plan.signals[name].built
        if name not in lines or built is None:
            continue
        for place, value in built.places.items():
            path = path_of(place)
            if path[0] == "signals" or (path[0] == "lamps" and name in there and fits(plan, path)):
                yield name, path, value


def fits(plan: Plan, path: Path) -> bool:
    """Tell whether the plan has a place of this path: its lamp, and a field of that name in a lamp of that kind."""
    lamp = plan.lamps.get(path[1])
    return lamp is not None and path[2] in type(lamp).model_fields


def freeze_patch(signal_id: str, built: Mapping[Path, Settled]) -> Document:
    """Build the merge patch that marks a line as built with these values, by their paths, and settles them in the plan."""
    kept = {place_of(path): value for path, value in built.items()}
    settled = (at_path(path, value) for path, value in built.items())
    return join_patches([at_path(("signals", signal_id), {"is_built": True, "built": {"places": kept}}), *settled])


def rework_patch(plan: Plan, patch: Document) -> Document | None:
    """Return a patch that rebuilds what it moves of built lines, or None where it moves none, or says itself what is built."""
    rebuilt = []
    for name, path, value in _frozen(plan):
        if reaches(patch, path) and not reaches(patch, ("signals", name, "built")) and value_at(patch, path) != value:
            rebuilt.append(at_path(("signals", name, "built", "places", place_of(path)), value_at(patch, path)))
    return join_patches([patch, *rebuilt]) if rebuilt else None


def reaches(patch: Document, path: Path) -> bool:
    """Tell whether a merge patch says anything of a path: a value, or a null at it or above it."""
    here: Any = patch
    for step in path:
        if not isinstance(here, dict):
            return here is None
        if step not in here:
            return False
        here = here[step]
    return True
