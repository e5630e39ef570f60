"""Routes of composing: starting points, the score of light, and where pixels stand."""

from functools import lru_cache
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse

from oddlamp.api.models import Edit, PickedStart, ScoreEdited, ScoreKeep, ScoreKept, StepAsked
from oddlamp.api.projects import EMPTY, Shop
from oddlamp.catalog.load import load_catalog, start_data, start_names
from oddlamp.core.errors import OutOfRange
from oddlamp.sheets.layouts import layout_file
from oddlamp.sheets.models import Entry
from oddlamp.sheets.score import Scored, edited, step_entries
from oddlamp.sheets.starts import Begun, StartCard, begin, start_card

router = APIRouter(prefix="/api/projects")


@router.get("/starts")
def list_starts() -> list[StartCard]:
    """List the starting points, each with the light of its lamps over some seconds."""
    return [_card(name) for name in start_names()]


@lru_cache(maxsize=64)
def _card(name: str) -> StartCard:
    return start_card(name, start_data(name), load_catalog())


@router.post("/{project_id}/begin")
def begin_with(shop: Shop, project_id: str, picked: PickedStart) -> Begun:
    """Tell the edit that makes a project into a starting point."""
    if picked.start not in start_names():
        raise OutOfRange(field="start", given=picked.start, allowed="one of " + ", ".join(start_names()))
    made = shop.worked_out(project_id, picked.base_revision)
    return begin(made.design.plan, EMPTY["title"], start_data(picked.start))


@router.post("/{project_id}/score")
def edit_score(shop: Shop, project_id: str, given: ScoreEdited) -> Scored:
    """Change the steps of a cue by their times from its beginning, and tell the edit that does it."""
    made = shop.looked_at(project_id, given.base_revision, given.patch)
    return edited(made.design, given.cue, given.edit)


@router.post("/{project_id}/score-kept")
def keep_score(shop: Shop, project_id: str, given: ScoreKeep) -> ScoreKept:
    """Change the steps of a cue and keep that, in one go: keys come quickly."""
    made = edited(shop.looked_at(project_id, given.base_revision, {}).design, given.cue, given.edit)
    edit = Edit(base_revision=given.base_revision, patch=made.move.patch, summary=made.move.label[:200], stage=given.stage)
    return ScoreKept(state=shop.edit(project_id, edit), step=made.step, target=made.target, at_s=made.at_s)


@router.post("/{project_id}/score-step")
def show_score_step(shop: Shop, project_id: str, asked: StepAsked) -> list[Entry]:
    """Return what one step of a cue sets, to be turned in place."""
    made = shop.looked_at(project_id, asked.base_revision, asked.patch)
    return list(step_entries(made.design, asked.cue, asked.step))


@router.get("/{project_id}/layout", response_class=PlainTextResponse)
def write_layout(
    shop: Shop,
    project_id: str,
    lamp: Annotated[str, Query(max_length=40)],
    form: Annotated[Literal["csv", "svg"], Query()] = "csv",
) -> PlainTextResponse:
    """Give where each pixel of a chain stands as a file."""
    design = shop.worked_out(project_id, shop.store.read(project_id).revision).design
    kind = "image/svg+xml" if form == "svg" else "text/csv; charset=utf-8"
    return PlainTextResponse(
        layout_file(design, lamp, form),
        media_type=kind,
        headers={"Content-Disposition": f'attachment; filename="{lamp}.{form}"', "Content-Security-Policy": "sandbox"},
    )
