"""Pressing and typing anything, in any order: every answer stays whole, whatever road led there."""

import json
import random
from collections.abc import Iterator
from dataclasses import fields

import pytest

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.design.design import Design
from oddlamp.core.errors import DomainError
from oddlamp.core.parts.check import check_parts
from oddlamp.core.parts.models import Catalog
from oddlamp.core.plan.document import Document, at_path, dump_plan, edit_plan, load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import Review, review
from oddlamp.sheets.shown import in_full
from tests.builders import PLANS, document
from tests.full import IS_PROOF

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


def as_from_nothing(plan: Plan, catalog: Catalog, before: Design | None) -> Design:
    """Work a plan out beside the one before it, which must give what it gives alone."""
    beside, alone = resolve(plan, catalog, before), resolve(plan, catalog)
    for it in fields(Design):
        if it.name != "taking_out":  # made of the plan alone
            assert getattr(beside, it.name) == getattr(alone, it.name), it.name
    return beside


@pytest.mark.parametrize(
    "patch",
    [
        {"nodes": {"board": {"choice": {"part": "board-wifi"}}}},
        {"nodes": {"board": {"choice": {"overrides": {"output_resistance_ohm": {"value": "90"}}}}}},
        {"measured": {"foot1.main.forward_voltage_v": {"value": 3.1, "unit": "V", "taken_at": "2026-11-26T10:00:00Z"}}},
        {"series": "E6"},
        {"sources": {"adapter": {"choice": {"part": "adapter-12v-2a"}}}},
        {"lamps": {"foot1": {"channels": {"main": {"wanted_current_a": "5 mA"}}}}},
        {"parts": {"own-warm": {"table": "leds", "like": "led-warm-white", "label": "Mine"}}},
    ],
)
def test_what_bears_on_a_lamp_works_it_out_anew(patch: Document) -> None:
    catalog = load_catalog()
    before = load_plan(document("footlights"))
    after = edit_plan(before, patch)
    check_parts(after, catalog)
    was = resolve(before, catalog)
    assert as_from_nothing(after, catalog, was).plan == after != was.plan


@pytest.mark.parametrize("seed", range(100 if IS_PROOF else 3))
def test_no_road_leads_to_a_broken_answer(seed: int) -> None:
    rng, catalog = random.Random(seed), load_catalog()
    plan = load_plan(rng.choice([EMPTY, demo_plan(), *(document(name) for name in PLANS)]))
    kept, before = 0, None
    for _ in range(STEPS):
        before = as_from_nothing(plan, catalog, before)
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
