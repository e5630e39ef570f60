"""Plan files of earlier versions, brought up to date step by step. The file itself is never changed."""

from collections.abc import Callable, Mapping
from typing import Any, Final

from oddlamp.core.plan.document import SCHEMA_VERSION, Document, refuse_deep

COLLECTIONS: Final = (
    "ends",
    "sources",
    "converters",
    "rails",
    "nodes",
    "links",
    "talks",
    "vocabularies",
    "lamps",
    "inputs",
    "signals",
    "groups",
    "cues",
    "rules",
)


def upgrade(document: Any) -> tuple[Any, int | None]:
    """Bring a plan document up to the version this program writes.

    Returns:
        The document, and the version it had where it was older; anything else is passed on for ``load_plan`` to judge.
    Raises:
        PlanInvalid: nested deeper than any plan is.
    """
    if not isinstance(document, Mapping):
        return document, None
    refuse_deep(document, "plan")
    given = document.get("schema_version", 0 if "format" not in document else None)
    if isinstance(given, bool) or not isinstance(given, int) or not 0 <= given < SCHEMA_VERSION:
        return document, None
    whole: Document = dict(document)
    for version in range(given, SCHEMA_VERSION):
        whole = UPGRADES[version](whole)
    return whole, given


def _from_0(document: Document) -> Document:
    """Version 0 was written by hand before versions were counted: no format line, and lists whose items carry their id."""
    whole = {"format": "oddlamp-plan", "title": "Untitled", **document, "schema_version": 1}
    for name in COLLECTIONS:
        items = whole.get(name)
        if isinstance(items, list) and all(isinstance(item, Mapping) and isinstance(item.get("id"), str) for item in items):
            whole[name] = {item["id"]: {key: value for key, value in item.items() if key != "id"} for item in items}
    return whole


UPGRADES: Final[dict[int, Callable[[Document], Document]]] = {0: _from_0}
