"""Rules for supplies."""

from collections.abc import Iterator

from oddlamp.core.base import Working
from oddlamp.core.design import Design
from oddlamp.core.findings import Breach


def coin_cells_are_warned(design: Design) -> Iterator[Breach]:
    """A cell that a child can swallow is named, with the caution that goes with it."""
    for rail in design.rails.values():
        if rail.source is None or not design.catalog.source(rail.source.id).is_swallowed:
            continue
        yield Breach(
            severity="look",
            where=rail.id,
            stage=rail.stage,
            message=f"{rail.label}: a child who swallows a coin cell is in danger. Close it in behind a screwed lid, keep spares and used ones away, never charge it.",
            working=(Working(formula="caution by kind of source", substituted=rail.source.label, source="common-practice"),),
            numbers={"cells": 1},
        )
