"""Routes of the fault finder: a search is told whole each time, so that any answer can be changed and nothing of it is kept here."""

from functools import lru_cache

from fastapi import APIRouter

from oddlamp.api.projects import Shop
from oddlamp.api.searches import ProbeGiven, RoundAsked, RoundOver, RoundProbe, WhyAsked
from oddlamp.api.workshop import Workshop
from oddlamp.catalog.knowledge import load_knowledge
from oddlamp.catalog.load import demo_names, demo_plan, load_catalog, start_data, start_names
from oddlamp.core.base import Same
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.errors import OutOfRange
from oddlamp.core.finding.practice import Probe, Round, round_of
from oddlamp.core.finding.way import Way, ways_of
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.practice import ProbeShown, RoundEnded, RoundShown, probe_shown, round_ended, round_shown, tap_of
from oddlamp.sheets.whys import WhyShown, Worded, why_shown

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
    parent = shop.store.parent(project_id, revision)
    if parent is None:
        return frozenset()
    before = shop.store.plan_at(project_id, parent)
    return frozenset(name for name in type(plan).model_fields if getattr(plan, name) != getattr(before, name))


@lru_cache(maxsize=2)  # each weighs as much as a design
def _made(ways: Same[tuple[Way, ...]], level: int, seed: int) -> Round:
    return round_of(ways.it, load_knowledge(), level, seed)


@lru_cache(maxsize=2)
def _shipped(name: str) -> tuple[str, tuple[Way, ...]]:
    """Return the title and the ways of a demo or a starting point."""
    document = demo_plan(name) if name in demo_names() else start_data(name)["plan"] if name in start_names() else None
    if document is None:
        raise OutOfRange(field="of", given=name, allowed="own, or " + ", ".join((*demo_names(), *start_names())))
    plan = load_plan(document)
    return plan.title, ways_of(resolve(plan, load_catalog()))


def _round(shop: Workshop, project_id: str, asked: RoundAsked) -> tuple[str, Round]:
    if asked.of == "own":
        made = shop.worked_out(project_id, shop.store.head(project_id))
        title, ways = made.plan.title, ways_in(Same(made.design))
    else:
        title, ways = _shipped(asked.of)
    return title, _made(Same(ways), asked.level, asked.seed)


@router.post("/practice")
def begin_round(shop: Shop, project_id: str, asked: RoundAsked) -> RoundShown:
    """Begin a round of the practice bench: what is seen, and what can be probed. The same number is the same round."""
    title, made = _round(shop, project_id, asked)
    return round_shown(made, title, asked.level, asked.seed)


@router.post("/practice/probe")
def probe_round(shop: Shop, project_id: str, asked: RoundProbe) -> ProbeShown:
    """Probe the broken build."""
    return probe_shown(_round(shop, project_id, asked)[1], _probe(asked.probe), [_probe(it) for it in asked.before])


@router.post("/practice/over")
def end_round(shop: Shop, project_id: str, asked: RoundOver) -> RoundEnded:
    """End a round, and be told what was wrong and how it went."""
    return round_ended(_round(shop, project_id, asked)[1], [_probe(it) for it in asked.probes])


@router.get("/practice/plans")
def list_benches(shop: Shop, project_id: str) -> list[Worded]:
    """List the plans that can be practised on: this one, demos and starting points."""
    own = shop.worked_out(project_id, shop.store.head(project_id)).plan.title
    demos = [Worded(id=it, words=str(demo_plan(it)["title"])) for it in demo_names()]
    starts = [Worded(id=it, words=str(start_data(it)["plan"]["title"])) for it in start_names()]
    return [Worded(id="own", words=f"This plan, {own}"), *demos, *starts]


def _probe(given: ProbeGiven) -> Probe:
    return Probe(given.what, tap_of(given.red), tap_of(given.black), given.doing, given.cause)
