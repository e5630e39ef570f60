"""What changed between two plan documents, place by place, and where an edit meets another one."""

from collections.abc import Iterator, Mapping
from typing import Any, Final

from oddlamp.core.base import Model, si
from oddlamp.core.english import inner
from oddlamp.core.plan.document import Document
from oddlamp.core.plan.own_board import LABELS, column_text

Path = tuple[str, ...]
NOTED: Final = frozenset({"shown_pins"})  # what the program noted of its own proposals, and nobody decided
SUFFIX_UNITS: Final = {
    "ohm": "ohm",
    "v": "V",
    "a": "A",
    "w": "W",
    "s": "s",
    "m": "m",
    "f": "F",
    "bd": "Bd",
    "hz": "Hz",
    "ratio": "ratio",
    "c": "°C",
}
COLLECTION_NAMES: Final = {
    "ends": "place",
    "sources": "supply",
    "converters": "converter",
    "rails": "rail",
    "nodes": "",
    "links": "link",
    "talks": "talk",
    "vocabularies": "words",
    "lamps": "",
    "inputs": "",
    "signals": "line",
    "groups": "group",
    "cues": "cue",
    "movers": "mover",
    "rules": "rule",
    "standing": "standing of",
    "measured": "measured",
    "bench": "at the bench",
    "wires": "wire",
    "spreads": "laid out",
    "parts": "part",
    "accepted": "accepted",
}
# Steps of a path that only wrap what people speak of.
WRAPPERS: Final = frozenset(
    {
        "channels",
        "main",
        "choice",
        "overrides",
        "values",
        "value",
        "words",
        "setup",
        "controls",
        "shift",
        "drive",
        "framing",
        "figures",
    }
)
SHOWN_MOST: Final = 60


class Change(Model):
    """One place of a plan before and after, as people read it; empty where there is nothing."""

    path: tuple[str, ...]
    label: str
    before: str
    after: str


class Clash(Model):
    """One place that two edits want differently."""

    path: tuple[str, ...]
    label: str
    was: str
    theirs: str
    yours: str


def differences(before: Document, after: Document) -> dict[Path, tuple[Any, Any]]:
    """Return every place that differs, as deep as both sides are objects; None stands for nothing there."""
    return {path: it for path, it in _differences(before, after, ()) if NOTED.isdisjoint(path[:1])}


def _differences(before: Any, after: Any, at: Path) -> Iterator[tuple[Path, tuple[Any, Any]]]:
    if isinstance(before, Mapping) and isinstance(after, Mapping) and not _is_column(at):
        for key in dict.fromkeys([*before, *after]):
            yield from _differences(before.get(key), after.get(key), (*at, key))
    elif before != after or isinstance(before, bool) != isinstance(after, bool):
        yield at, (before, after)


def clashes(base: Document, head: Document, mine: Document) -> tuple[Clash, ...]:
    """Return where an edit and what was kept meanwhile want different things.

    Args:
        base: the plan the edit was made on.
        head: the plan as it is kept now.
        mine: what the edit would have made of ``base``.
    Returns:
        One clash for each place that both sides changed, not to the same; a place inside another counts as the same place.
    """
    kept = differences(base, head)
    found: dict[Path, Clash] = {}
    for path in differences(base, mine):
        for other in kept:
            shared = min(path, other, key=len)
            if path[: len(shared)] == other[: len(shared)]:
                yours, theirs, was = (value_at(document, shared) for document in (mine, head, base))
                if yours != theirs:
                    found[shared] = Clash(
                        path=shared,
                        label=place(shared, head, base),
                        was=_written(was, shared),
                        theirs=_written(theirs, shared),
                        yours=_written(yours, shared),
                    )
    return tuple(found.values())


def value_at(document: Any, path: Path) -> Any:
    """Return what stands at a path of a document, or None."""
    for step in path:
        if not isinstance(document, Mapping):
            return None
        document = document.get(step)
    return document


def changes(before: Document, after: Document) -> tuple[Change, ...]:
    """Say in plain words what changed from one plan to another, in plan order."""
    return tuple(
        Change(path=path, label=place(path, after, before), before=_written(old, path), after=_written(new, path))
        for path, (old, new) in differences(before, after).items()
    )


def place(path: Path, *documents: Document) -> str:
    """Name a place of a plan as people would: ``Footlight 3, resistor``."""
    collection, *rest = path
    if not rest:
        return _words(collection)
    owner = path[:2]
    label = next((name for document in documents if (name := value_at(document, (*owner, "label")))), None)
    # An id is no field name: the a of b_to_a is not amperes.
    name = label if isinstance(label, str) else rest[0].replace("_", " ").replace(".", ", ")
    kind = COLLECTION_NAMES.get(collection, _words(collection))
    named = f"{kind} {name}" if kind else name
    said = [inner(LABELS[path[3]])] if _is_column(path) else [_words(step) for step in rest[1:] if step not in WRAPPERS]
    return (named[:1].upper() + named[1:]) + (f", {' '.join(said)}" if said else "")


def _is_column(path: Path) -> bool:
    """Tell whether a path leads to one column of a board's pin table, which is told, shown and fought over as a whole."""
    return len(path) == 4 and path[0] == "parts" and path[2] == "board" and path[3] in LABELS


def _written(value: Any, path: Path) -> str:
    return column_text(path[3], value) if _is_column(path) else _shown(value, path)


def _words(step: str) -> str:
    stem, _, suffix = step.rpartition("_")
    return (stem if stem and suffix in SUFFIX_UNITS else step).replace("_", " ")


def unit_of(path: Path) -> str:
    """Return the unit that the last step of a path which says what a number is ends in; empty where it ends in none."""
    step = next((it for it in reversed(path) if it not in ("value", "least", "most")), "")
    return SUFFIX_UNITS.get(step.rpartition("_")[2], "")


def _told(value: Mapping[str, Any], path: Path) -> str:
    """Write a map: what its entries are called, its fields with what they hold, or else only its fields."""
    labels = [inner.get("label") for inner in value.values() if isinstance(inner, Mapping)]
    if labels and len(labels) == len(value) and all(isinstance(label, str) for label in labels):
        return ", ".join(map(str, labels))
    is_flat = not any(isinstance(inner, Mapping | list) for inner in value.values())
    return ", ".join(f"{_words(key)} {_shown(inner, (*path, key))}" if is_flat else _words(key) for key, inner in value.items())


def _shown(value: Any, path: Path) -> str:
    """Write a value for reading, with the unit its field's name carries."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case int() | float():
            return si(float(value), unit_of(path))
        case str():
            text = value
        case Mapping():
            alone = next(iter(value.values())) if len(value) == 1 else None
            told = value.get("label") or value.get("kind") or value.get("part") or (alone if isinstance(alone, str) else None)
            text = str(told or _told(value, path) or "empty")
        case _:
            text = ", ".join(_shown(item, path) for item in value) or "none"
    return text if len(text) <= SHOWN_MOST else text[: SHOWN_MOST - 1] + "…"
