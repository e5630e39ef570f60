"""What the cache of designs holds is weighed: its weight is near what the memory says, so its bound is one."""

import gc
import tracemalloc

import pytest

from oddlamp.api.workshop import CACHE_BYTES, WorkedOut, with_stage
from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review_design
from tests.abuse.crowd import many_lamps


@pytest.mark.parametrize("count", [0, 200])
def test_a_design_weighs_what_it_holds(count: int) -> None:
    catalog = load_catalog()

    def made() -> WorkedOut:
        plan = load_plan(many_lamps(count))
        design = resolve(plan, catalog)
        it = WorkedOut(plan, design, review_design(design, stages=()))
        with_stage(it, None)  # what a sheet looks up once stays with the design
        return it

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
