"""The only reader of ``data/``: shipped parts and demo projects, checked and turned into core models."""

import json
import tomllib
from collections.abc import Mapping
from functools import cache, lru_cache
from pathlib import Path
from typing import Any, Final

from pydantic import BaseModel, ValidationError

from oddlamp.core.base import Model
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.own import figures_of

DATA: Final = Path(__file__).parent.parent / "data"
MAIN_DEMO: Final = "paper-moon"
PART_FILE_MOST_BYTES: Final = 1_000_000
FOLDERS: Final = {
    "boards": "boards",
    "modules": "modules",
    "chips": "chips",
    "dialects": "dialects",
    "leds": "leds",
    "sources": "supplies",
    "converters": "converters",
    "airs": "airs",
    "resistors": "resistors",
    "transistors": "transistors",
    "loads": "loads",
    "pixels": "pixels",
    "zeners": "zeners",
}


class CatalogBroken(Exception):
    """A shipped data file is wrong; the message names file and field."""


@cache
def load_catalog(folder: Path = DATA) -> Catalog:
    """Read every part file, once.

    Raises:
        CatalogBroken: an unknown key, a source that is not listed, or an id that is not the file's name.
    """
    tables = {
        field: {path.stem: _read(path) for path in sorted((folder / name).glob("*.toml"))} for field, name in FOLDERS.items()
    }
    for parts in tables.values():
        for stem, part in parts.items():
            if part.get("id") != stem:
                raise CatalogBroken(f"{stem}.toml: id is {part.get('id')!r}, not the file's name")
    whole = {
        **_read(folder / "catalog.toml"),
        **tables,
        "references": _read(folder / "references.toml"),
        "proposals": _read(folder / "proposals.toml"),
        "pin_costs": _read(folder / "pins.toml"),
        "takings": _read(folder / "takings.toml"),
        "packages": _read(folder / "packages.toml"),
        "program": {path.name: path.read_text(encoding="utf-8") for path in sorted((DATA / "program").glob("*.j2"))},
        "code_weights": _read(DATA / "program" / "sizes.toml")["weights"],
        "visiting": sorted(set(tables["boards"]) - {path.stem for path in (DATA / "boards").glob("*.toml")}),
        "changes": _read(folder / "changes.toml").get("change", []),
    }
    try:
        catalog = Catalog.model_validate(whole)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise CatalogBroken(f"{'.'.join(map(str, first['loc']))}: {', '.join(first['msg'].splitlines())}") from error
    for where, key in _source_keys(catalog, "catalog"):
        if key not in catalog.references:
            raise CatalogBroken(f"{where}: source {key!r} is not in references.toml")
    known = {part for field in FOLDERS for part in tables[field]}
    for name, proposal in catalog.proposals.items():
        if proposal.part is not None and proposal.part not in known:
            raise CatalogBroken(f"proposals.toml: {name} proposes {proposal.part!r}, and there is no {proposal.part}.toml")
    for change in catalog.changes:
        table: Mapping[str, Model] = getattr(catalog, change.table, {})
        changed = table.get(change.part)
        if changed is None or change.figure not in figures_of(type(changed)):
            raise CatalogBroken(f"changes.toml: {change.table}.{change.part}.{change.figure} is no figure of a part")
    return catalog


def demo_names(folder: Path = DATA) -> tuple[str, ...]:
    """List the demo projects by name, the main one first."""
    return tuple(sorted((path.stem for path in (folder / "demos").glob("*.json")), key=lambda name: (name != MAIN_DEMO, name)))


def demo_plan(name: str = MAIN_DEMO, folder: Path = DATA) -> dict[str, Any]:
    """Return a shipped demo project as a plan document."""
    document: dict[str, Any] = json.loads((folder / "demos" / f"{name}.json").read_text(encoding="utf-8"))
    return document


def start_names(folder: Path = DATA) -> tuple[str, ...]:
    """List the starting points by name, in the order in which they are offered."""
    return tuple(sorted(path.stem for path in (folder / "starts").glob("*.json")))


@lru_cache(maxsize=64)
def start_data(name: str, folder: Path = DATA) -> Mapping[str, Any]:
    """Return a starting point: its title, what it does, what to press first, the events of its picture, and its plan."""
    document: dict[str, Any] = json.loads((folder / "starts" / f"{name}.json").read_text(encoding="utf-8"))
    return document


def _read(path: Path) -> dict[str, Any]:
    try:
        if not path.is_file():  # a pipe of that name would be waited for without end
            raise CatalogBroken(f"{path.name}: there is no such file in {path.parent}")
        if path.stat().st_size > PART_FILE_MOST_BYTES:
            raise CatalogBroken(f"{path.name}: over {PART_FILE_MOST_BYTES // 1000} kB, more than a part file has")
        return tomllib.loads(path.read_text(encoding="utf-8"))
    except (tomllib.TOMLDecodeError, UnicodeDecodeError, OSError) as error:
        raise CatalogBroken(f"{path.name}: {error}") from error
    except RecursionError as error:
        raise CatalogBroken(f"{path.name}: nested too deep") from error


def _source_keys(model: Any, where: str) -> list[tuple[str, str]]:
    """Collect every ``source`` field below a model, with its path."""
    if isinstance(model, BaseModel):
        return [
            pair
            for name in type(model).model_fields
            for pair in (
                [(where, model.source)]
                if name == "source" and hasattr(model, "source")
                else _source_keys(getattr(model, name), f"{where}.{name}")
            )
        ]
    if isinstance(model, dict):
        return [pair for key, value in model.items() for pair in _source_keys(value, f"{where}.{key}")]
    if isinstance(model, tuple | list):
        return [pair for at, value in enumerate(model) for pair in _source_keys(value, f"{where}.{at}")]
    return []
