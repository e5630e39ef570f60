"""Pressing and typing anything, in any order: every answer stays whole, whatever road led there."""

import json
import os
import random
from collections.abc import Iterator

import pytest

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.errors import DomainError
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import Document, at_path, dump_plan, edit_plan, load_plan
from oddlamp.sheets.review import Review, review
from oddlamp.sheets.shown import in_full
from tests.builders import PLANS, document

EMPTY: Document = {"format": "oddlamp-plan", "schema_version": 1, "title": "New light"}
TYPED = (
    "0", "-1", "1e-12", "1e9", "900 V", "4k7", "yellow violet red", "smd 472", "1", "2", "47", "100k", "3.3", "5 %", "0.5",
    "10", "A4", "1.9 (1.8 to 2.0)", "1 to 5", "24", "0.001", "none", "☃",
)  # fmt: skip
STEPS = 14


def offers(result: Review, rng: random.Random) -> Iterator[Document]:
    """Walk everything that can be pressed, and something typed into every field."""
    if result.opening is not None:
        yield from (it.patch for it in (*result.opening.lamps, *result.opening.others))
        yield from (option.patch for choice in result.opening.choices for option in choice.options)
    yield from (fix.patch for finding in result.findings for fix in finding.fixes)
    for sheet in result.sheets.values():
        yield from (move.patch for move in (*sheet.moves, *([sheet.keep] if sheet.keep else [])))
        yield from (option.patch for row in sheet.pins for option in row.pin.options[:3])
        for panel in sheet.panels:
            yield from (move.patch for move in panel.moves)
            yield from (option.patch for choice in panel.choices for option in choice.options)
            for entry in panel.entries:
                yield at_path(entry.path, rng.choice([*TYPED, entry.higher, entry.lower]))


@pytest.mark.parametrize("seed", range(100 if "ODDLAMP_PROOF" in os.environ else 14))
def test_no_road_leads_to_a_broken_answer(seed: int) -> None:
    rng, catalog = random.Random(seed), load_catalog()
    plan = load_plan(rng.choice([EMPTY, demo_plan(), *(document(name) for name in PLANS)]))
    kept = 0
    for _ in range(STEPS):
        result = review(plan, catalog)
        json.dumps(in_full(result).model_dump(mode="json"), allow_nan=False)
        for value in result.values:
            if value.value is None:
                assert value.because, f"{value.id} is blank without a reason"
            else:
                assert value.low <= value.value <= value.high, value.id
        patch = rng.choice(list(offers(result, rng)))
        try:
            changed = edit_plan(plan, patch)
            check_parts(changed, catalog)
        except DomainError:
            continue  # refused in words; that the words are there is another test's
        assert load_plan(dump_plan(changed)) == changed
        plan, kept = changed, kept + 1
    assert kept, "something went through"
