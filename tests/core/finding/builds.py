"""Plans and ways that faults are put into: all that ships, the plans of the tests, and two with what those lack."""

from collections.abc import Iterator
from functools import cache

from oddlamp.core.finding.build import Build
from oddlamp.core.finding.symptoms import symptoms_of
from oddlamp.core.finding.way import Way, ways_of
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from tests.builders import CLEAR, LF, PLANS, document
from tests.core.bench.drawn import CATALOG
from tests.core.bench.test_wiring import shipped

# Many lamps behind a converter that is set by hand, on cells, and words that end in something.
ON_CELLS: Document = {
    "sources": {"adapter": {"choice": {"part": "pack-7v2"}}},
    "rails": {"pack": {"end": "theatre", "fed_by": "adapter"}, "five": {"fed_by": "step"}},
    "converters": {"step": {"from_rail": "pack", "choice": {"part": "buck-trimmer"}, "set_point_v": 5, "is_set": True}},
    "vocabularies": {"words": {"framing": LF}},
}
EACH_MOST = 3


def plans() -> dict[str, Document]:
    """Name every plan."""
    own = {f"test {it}": document(it) for it in PLANS}
    return {**shipped(), **own, "cells": merge_patch(shipped()["paper-moon"], ON_CELLS), **families()}


def families() -> dict[str, Document]:
    """The same plan with a module of each other family."""
    parts = {"family-b": "classic", "family-c": "ble", "family-d": "ble", "family-e": "wifi"}
    return {
        part: merge_patch(CLEAR, {"nodes": {"radio": {"choice": {"part": part}}, "phone": {"speaks": [speaks]}}})
        for part, speaks in parts.items()
    }


@cache
def ways() -> tuple[tuple[str, Way], ...]:
    """List the ways of all plans whose build does as it should while nothing is wrong with it."""
    return tuple(_ways())


def _ways() -> Iterator[tuple[str, Way]]:
    for name, plan in plans().items():
        for way in ways_of(resolve(load_plan(plan), CATALOG))[:EACH_MOST]:
            if not symptoms_of(Build(way)):
                yield f"{name}, {way.lamp.id}", way
