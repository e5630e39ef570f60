"""Numbers that moved: between two plans, or because shipped figures changed since a plan was made."""

from collections.abc import Iterable, Mapping

from oddlamp.core.base import Model, si
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.values import Value
from oddlamp.core.english import inner, plural
from oddlamp.core.parts.check import choices
from oddlamp.core.parts.models import Catalog, CatalogChange
from oddlamp.core.parts.past import changes_since
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.core.plan.fields import own_unit
from oddlamp.core.plan.model import Plan


class MovedValue(Model):
    """A number that differs; empty text where a side does not have it."""

    id: str
    stage: str
    label: str
    before: str
    after: str


class MovedFigure(Model):
    """A figure of a shipped part that changed since the plan was made, and how to stay with the old one."""

    label: str
    before: str
    after: str
    why: str
    keep: Move | None


class CatalogNews(Model):
    """What changed in the shipped parts since a plan was last looked through, and which of its numbers moved."""

    sentence: str
    figures: tuple[MovedFigure, ...]
    values: tuple[MovedValue, ...]
    seen: Move


def moved_values(before: Iterable[Value], after: Iterable[Value], titles: Mapping[str, str]) -> tuple[MovedValue, ...]:
    """List the numbers that read differently; ``titles`` names the stages."""
    old, new = ({value.id: value for value in side} for side in (before, after))
    moved = []
    for key in dict.fromkeys([*old, *new]):
        here, there = old.get(key), new.get(key)
        texts = tuple(
            "" if side is None else side.text + (f" ({side.spread_text} at worst)" if side.spread_text else "")
            for side in (here, there)
        )
        if texts[0] != texts[1]:
            named = there or here
            if named is not None:
                label = f"{titles.get(named.stage, named.stage)}, {named.label[:1].lower()}{named.label[1:]}"
                moved.append(MovedValue(id=key, stage=named.stage, label=label, before=texts[0], after=texts[1]))
    return tuple(moved)


def catalog_news(plan: Plan, catalog: Catalog, values: tuple[MovedValue, ...]) -> CatalogNews | None:
    """Tell what changed in the catalogue since the version a plan names; None where none of its numbers moved."""
    if not values:
        return None
    figures = tuple(_figure(plan, catalog, change) for change in changes_since(catalog, plan.catalog_version))
    return CatalogNews(
        sentence=f"Shipped figures changed since {plan.catalog_version}: {plural(len(values), 'number')} of this plan moved.",
        figures=figures,
        values=values,
        seen=Move(label="I have seen them", patch={"catalog_version": catalog.version}),
    )


def _figure(plan: Plan, catalog: Catalog, change: CatalogChange) -> MovedFigure:
    part = getattr(catalog, change.table)[change.part]
    unit = own_unit(change.figure) or ""
    name = change.figure.rpartition("_")[0].replace("_", " ") or change.figure
    # A choice that leaves the part proposed has nowhere to keep an old figure.
    mine = [
        at_path(
            (*where.split("."), "overrides", change.figure),
            change.was.model_dump(include={"value", "least", "most"}, exclude_none=True),
        )
        for where, choice, _ in choices(plan, catalog)
        if choice is not None and choice.part == change.part and change.figure not in choice.overrides and ".built." not in where
    ]
    before = si(change.was.value, unit)
    return MovedFigure(
        label=f"{part.label}, {name}",
        before=before,
        after=si(getattr(part, change.figure).value, unit),
        why=change.why,
        keep=Move(label=f"Stay with {before} for {inner(part.label)}", patch=join_patches(mine)) if mine else None,
    )
