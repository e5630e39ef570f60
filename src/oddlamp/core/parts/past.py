"""The catalogue as it was: what versions changed in shipped parts, undone one by one."""

import re
from typing import Any

from oddlamp.core.parts.models import Catalog, CatalogChange


def changes_since(catalog: Catalog, version: str | None) -> tuple[CatalogChange, ...]:
    """Return what changed after a version, the newest first; nothing for a version that is none or unknown."""
    since = _order(version or "")
    return tuple(change for change in catalog.changes if since and _order(change.version) > since)


def catalog_at(catalog: Catalog, version: str | None) -> Catalog:
    """Return the catalogue with the figures it had at a version; parts that came since stay."""
    tables: dict[str, dict[str, Any]] = {}
    for change in changes_since(catalog, version):
        table = tables.setdefault(change.table, dict(getattr(catalog, change.table)))
        table[change.part] = table[change.part].model_copy(update={change.figure: change.was})
    return catalog.model_copy(update=tables) if tables else catalog


def _order(version: str) -> tuple[int, ...]:
    return tuple(map(int, version.split("."))) if re.fullmatch(r"\d+(\.\d+){1,2}", version) else ()
