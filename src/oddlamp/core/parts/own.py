"""The user's own figures and parts: one way for both, so that every figure of every part can be told better."""

from collections.abc import Mapping
from functools import cache, lru_cache
from typing import Any, Final, TypeVar

from oddlamp.core.base import Model, Same, first_free
from oddlamp.core.parts.models import BoardPart, Catalog, ModulePart
from oddlamp.core.parts.own_board import board_of, columns_of
from oddlamp.core.parts.sourced import Sourced
from oddlamp.core.plan.fields import OwnValue, PartChoice
from oddlamp.core.plan.model import OwnPart, Plan
from oddlamp.core.plan.own_board import OwnBoard

OWN: Final = "own"
P = TypeVar("P", bound=Model)


@cache
def figures_of(part_type: type[Model]) -> tuple[str, ...]:
    """Return the names of a part's figures, in the order of its model."""
    return tuple(name for name, field in part_type.model_fields.items() if field.annotation in (Sourced, Sourced | None))


def as_used(part: P, figures: Mapping[str, OwnValue]) -> P:
    """Return a part with the user's own figures in place of its stated ones."""
    return part.model_copy(update=_sourced(figures)) if figures else part


def _sourced(figures: Mapping[str, OwnValue]) -> dict[str, Sourced]:
    return {
        field: Sourced(value=own.value, least=own.least, most=own.most, source=own.source or OWN, conditions=own.note)
        for field, own in figures.items()
    }


def with_own_parts(catalog: Catalog, parts: Mapping[str, OwnPart]) -> Catalog:
    """Return a catalogue that holds the user's own parts beside the shipped ones; those like an unknown part are left out."""
    if not parts:
        return catalog
    tables: dict[str, dict[str, Any]] = {}
    for part_id, own in parts.items():
        table = tables.setdefault(own.table, dict(getattr(catalog, own.table)))
        like = getattr(catalog, own.table).get(own.like)
        if like is not None:
            table[part_id] = _made(Same(like), part_id, own.model_dump_json())
    return catalog.model_copy(update=tables)


def own_board(part_id: str, own: OwnPart, board: OwnBoard, like: BoardPart) -> BoardPart:
    """Make a board that is told whole; figures that every board has and that are not told are those of the one it is like.

    Raises:
        ValidationError: what is told does not go together.
    """
    stated = {name: getattr(like, name) for name in figures_of(BoardPart) if BoardPart.model_fields[name].is_required()}
    return board_of(part_id, own.label, board, stated | _sourced(own.figures))


@lru_cache(maxsize=64)  # what is known of a board is looked up by the very part, so the same one has to come back
def _made(like: Same[Any], part_id: str, told: str) -> Any:
    own = OwnPart.model_validate_json(told)
    if own.board is not None and isinstance(like.it, BoardPart):
        return own_board(part_id, own, own.board, like.it)
    talks = {"talks": like.it.talks or like.it.id} if isinstance(like.it, ModulePart) else {}
    return as_used(like.it, own.figures).model_copy(update={"id": part_id, "label": own.label, **talks})


def whole_copy(part: Model) -> dict[str, Any]:
    """Write what a copy of a part holds besides its name: its figures, and a board's pins as well."""
    return {"figures": copied(part)} | ({"board": columns_of(part)} if isinstance(part, BoardPart) else {})


def as_own_board(part: BoardPart, catalog: Catalog) -> OwnPart:
    """Make a board that was read from a file a part of the user's own, like the shipped one that is nearest to it.

    Raises:
        ValidationError: a figure that is none of a board, or out of bounds.
    """
    labels = {pin.label for pin in part.pins}

    def likeness(it: BoardPart) -> tuple[bool, float]:
        theirs = {pin.label for pin in it.pins}
        return (it.logic_voltage_v is None) == (part.logic_voltage_v is None), len(labels & theirs) / len(labels | theirs)

    shipped = [it for it in catalog.boards.values() if not it.id.startswith("own-") and it.id not in catalog.visiting]
    like = max(shipped, key=likeness).id
    return OwnPart.model_validate({"table": "boards", "like": like, "label": part.label, **whole_copy(part)})


def with_copies(plan: Plan, catalog: Catalog) -> Plan:
    """Take boards that a plan chooses from a folder of the user's into the plan itself, so that it stays whole without that folder.

    Each becomes a board of the user's own, and is chosen as that.
    """
    away = {
        name: str(node.choice.part)
        for name, node in plan.nodes.items()
        if node.kind == "board" and node.choice is not None and node.choice.part in catalog.visiting
    }
    if not away:
        return plan
    parts, nodes = dict(plan.parts), dict(plan.nodes)
    for name, board in away.items():
        copy = as_own_board(catalog.boards[board], catalog)
        stem = f"own-{board}"[:50].rstrip("-")
        own = next((key for key, it in parts.items() if it == copy), None) or first_free(stem, parts.__contains__)
        parts[own] = copy
        node = nodes[name]
        choice = (getattr(node, "choice", None) or PartChoice()).model_copy(update={"part": own})
        nodes[name] = node.model_copy(update={"choice": choice})
    return plan.model_copy(update={"parts": parts, "nodes": nodes})


def copied(part: Model) -> dict[str, dict[str, float | str]]:
    """Write all figures of a part as own figures, so that a copy stays as it is when shipped data changes."""
    told = {name: getattr(part, name) for name in figures_of(type(part))}
    return {
        name: {key: number for key in ("value", "least", "most") if (number := getattr(figure, key)) is not None}
        | ({"note": figure.conditions} if figure.conditions else {})
        | ({"source": figure.source} if figure.source != OWN else {})
        for name, figure in told.items()
        if figure is not None and figure.value > 0
    }
