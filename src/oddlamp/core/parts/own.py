"""The user's own figures and parts: one way for both, so that every figure of every part can be told better."""

from collections.abc import Mapping
from functools import cache
from typing import Any, Final, TypeVar

from oddlamp.core.base import Model
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.fields import OwnValue
from oddlamp.core.plan.model import OwnPart

OWN: Final = "own"
P = TypeVar("P", bound=Model)


@cache
def figures_of(part_type: type[Model]) -> tuple[str, ...]:
    """Return the names of a part's figures, in the order of its model."""
    return tuple(name for name, field in part_type.model_fields.items() if field.annotation in (Sourced, Sourced | None))


def as_used(part: P, figures: Mapping[str, OwnValue]) -> P:
    """Return a part with the user's own figures in place of its stated ones."""
    if not figures:
        return part
    mine = {
        field: Sourced(value=own.value, least=own.least, most=own.most, source=OWN, conditions=own.note)
        for field, own in figures.items()
    }
    return part.model_copy(update=mine)


def with_own_parts(catalog: Catalog, parts: Mapping[str, OwnPart]) -> Catalog:
    """Return a catalogue that holds the user's own parts beside the shipped ones; those like an unknown part are left out."""
    if not parts:
        return catalog
    tables: dict[str, dict[str, Any]] = {}
    for part_id, own in parts.items():
        table = tables.setdefault(own.table, dict(getattr(catalog, own.table)))
        if own.like in getattr(catalog, own.table):
            table[part_id] = as_used(table[own.like], own.figures).model_copy(update={"id": part_id, "label": own.label})
    return catalog.model_copy(update=tables)


def copied(part: Model) -> dict[str, dict[str, float]]:
    """Write all figures of a part as own figures, so that a copy stays as it is when shipped data changes."""
    told = {name: getattr(part, name) for name in figures_of(type(part))}
    return {
        name: {key: number for key in ("value", "least", "most") if (number := getattr(figure, key)) is not None}
        for name, figure in told.items()
        if figure is not None and figure.value > 0
    }
