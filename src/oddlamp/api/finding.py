"""Routes of the fault finder: a search is told whole each time, so that any answer can be changed and nothing of it is kept here."""

from functools import lru_cache

from fastapi import APIRouter

from oddlamp.api.models import WhyAsked
from oddlamp.api.projects import Shop
from oddlamp.api.workshop import Workshop
from oddlamp.catalog.knowledge import load_knowledge
from oddlamp.core.base import Same
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.finding.way import Way, ways_of
from oddlamp.core.plan.model import Plan
from oddlamp.sheets.whys import WhyShown, why_shown

router = APIRouter(prefix="/api/projects/{project_id}")


@lru_cache(maxsize=2)  # each weighs as much as the design it is of, which the workshop keeps as well
def ways_in(design: Same[Design]) -> tuple[Way, ...]:
    """Return the ways of a plan, once while it is asked about."""
    return ways_of(design.it)


@router.post("/why")
def ask_why(shop: Shop, project_id: str, asked: WhyAsked) -> WhyShown:
    """Say what may be wrong by what was answered so far, and what to do next; without a symptom what there is to choose from."""
    revision = shop.store.head(project_id)
    made = shop.worked_out(project_id, revision)
    answers = {it.test: it.outcome for it in asked.answers}
    return why_shown(
        ways_in(Same(made.design)),
        made.design,
        load_knowledge(),
        run_rules(made.design),
        lamp=asked.lamp,
        symptom=asked.symptom,
        answers=answers,
        lacking=asked.lacking,
        touched=_touched(shop, project_id, revision, made.plan),
    )


def _touched(shop: Workshop, project_id: str, revision: int, plan: Plan) -> frozenset[str]:
    """Return the parts of a plan that its last change touched."""
    row = next((it for it in shop.store.history(project_id) if it.revision == revision), None)
    if row is None or row.parent is None:
        return frozenset()
    before = shop.store.plan_at(project_id, row.parent)
    return frozenset(name for name in type(plan).model_fields if getattr(plan, name) != getattr(before, name))
