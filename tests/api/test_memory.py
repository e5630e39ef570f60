"""What the cache of designs holds is weighed: its weight is near what the memory says, so its bound is one."""

import gc
import tracemalloc

import pytest

from oddlamp.api.workshop import CACHE_BYTES, WorkedOut
from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review_design
from tests.bench import TWO_HUNDRED


@pytest.mark.parametrize("patch", [{}, TWO_HUNDRED], ids=["demo", "two hundred lamps"])
def test_a_design_weighs_what_it_holds(patch: Document) -> None:
    catalog = load_catalog()

    def made() -> WorkedOut:
        design = resolve(load_plan(merge_patch(demo_plan(), patch)), catalog)
        return WorkedOut(design, review_design(design, stages=()))

    made()  # what is remembered across plans is not this one's
    gc.collect()
    tracemalloc.start()
    try:
        before = tracemalloc.get_traced_memory()[0]
        it = made()
        gc.collect()
        held = tracemalloc.get_traced_memory()[0] - before
    finally:
        tracemalloc.stop()
    assert held / 2 < it.weight_bytes < held * 2
    assert it.weight_bytes * 10 < CACHE_BYTES
