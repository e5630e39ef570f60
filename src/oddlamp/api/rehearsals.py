"""Routes of the rehearsal: a run, its time view, and takes that are kept, compared and shared as files."""

from typing import Annotated, Any

from fastapi import APIRouter, Path, Query
from fastapi.responses import JSONResponse

from oddlamp.api.models import AskedPreview, AskedTimeline, NewTake, Rehearsal, RevisionId, TakeFile, TakeName
from oddlamp.api.projects import Shop
from oddlamp.api.workshop import Workshop
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.rehearsal.trace import Run
from oddlamp.sheets.comparing import TakeCompared, compare
from oddlamp.sheets.journeys import looks_of, show_run, signs_of
from oddlamp.sheets.previews import Preview, preview
from oddlamp.sheets.timeline import Timeline, timeline
from oddlamp.store.kept import Take

router = APIRouter(prefix="/api/projects/{project_id}")
TakeId = Annotated[int, Path(ge=0, le=2**53)]


@router.post("/rehearsals")
def run_rehearsal(shop: Shop, project_id: str, rehearsal: Rehearsal) -> Run:
    """Play events through the plan as it stands, or through one that is only looked at."""
    revision = shop.store.read(project_id).revision if rehearsal.base_revision is None else rehearsal.base_revision
    design = shop.looked_at(project_id, revision, rehearsal.patch).design
    return show_run(design, rehearse_design(design, read_events(rehearsal.events)), since_s=rehearsal.since_s)


@router.post("/preview")
def show_preview(shop: Shop, project_id: str, asked: AskedPreview) -> Preview:
    """Rehearse one deed of one lamp by itself."""
    return preview(shop.looked_at(project_id, asked.base_revision, asked.patch).design, asked.lamp, asked.verb, asked.values)


@router.post("/rehearsals/timeline")
def show_timeline(shop: Shop, project_id: str, asked: AskedTimeline) -> Timeline:
    """Show a window of a rehearsal over time: a lane a stage, and the light of every lamp."""
    revision = shop.store.head(project_id) if asked.base_revision is None else asked.base_revision
    made = shop.looked_at(project_id, revision, asked.patch)
    events = read_events(asked.events)
    return timeline(made.design, events, rehearse_design(made.design, events), made.review.titles, asked.from_s, asked.to_s)


@router.get("/takes")
def list_takes(shop: Shop, project_id: str) -> list[TakeName]:
    """List the takes of a project, the last made first."""
    return [_named(it) for it in shop.store.takes(project_id)]


@router.post("/takes", status_code=201)
def keep_take(shop: Shop, project_id: str, new: NewTake) -> TakeName:
    """Keep a rehearsal under a name, with the change it was played on."""
    read_events(new.events)
    revision = shop.store.head(project_id) if new.revision is None else new.revision
    return _named(shop.store.keep_take(project_id, revision, new.name, new.events))


@router.post("/takes/import", status_code=201)
def import_take(shop: Shop, project_id: str, file: TakeFile) -> TakeName:
    """Take in a take from a file: it is played on the plan as it stands."""
    read_events(file.events)
    return _named(shop.store.keep_take(project_id, shop.store.head(project_id), file.name, file.events))


@router.get("/takes/{take_id}")
def open_take(shop: Shop, project_id: str, take_id: TakeId) -> TakeFile:
    """Give a take to be played again."""
    it = shop.store.take(project_id, take_id)
    return TakeFile(format="oddlamp-take", schema_version=1, name=it.name, events=it.events)


@router.get("/takes/{take_id}/file")
def take_away(shop: Shop, project_id: str, take_id: TakeId) -> JSONResponse:
    """Give a take as a file to share."""
    file = open_take(shop, project_id, take_id)
    name = "".join(it if it.isascii() and it.isalnum() else "-" for it in file.name.lower())[:40] or "take"
    return JSONResponse(file.model_dump(mode="json"), headers={"Content-Disposition": f'attachment; filename="{name}.take.json"'})


@router.get("/takes/{take_id}/comparison")
def compare_take(
    shop: Shop, project_id: str, take_id: TakeId, revision: Annotated[RevisionId | None, Query()] = None
) -> TakeCompared:
    """Hold a take as it ran on its own change of the plan against how it runs now."""
    it = shop.store.take(project_id, take_id)
    return _compared(shop, project_id, it, shop.store.head(project_id) if revision is None else revision)


@router.put("/takes/{take_id}/thrown")
def throw_take(shop: Shop, project_id: str, take_id: TakeId) -> list[TakeName]:
    """Throw a take away, which can be put back; returns those that are left."""
    shop.store.throw_take(project_id, take_id, is_thrown=True)
    return list_takes(shop, project_id)


@router.delete("/takes/{take_id}/thrown")
def put_back_take(shop: Shop, project_id: str, take_id: TakeId) -> list[TakeName]:
    """Put a take back that was thrown away; returns all there are."""
    shop.store.throw_take(project_id, take_id, is_thrown=False)
    return list_takes(shop, project_id)


def _compared(shop: Workshop, project_id: str, take: Take, revision: int) -> TakeCompared:
    events = read_events(take.events)
    then, now = shop.worked_out(project_id, take.revision), shop.worked_out(project_id, revision)
    traces = rehearse_design(then.design, events), rehearse_design(now.design, events)
    was, is_now = (
        looks_of(design, trace) | signs_of(design, trace, is_drawn=False)
        for design, trace in zip((then.design, now.design), traces, strict=True)
    )
    return compare(*traces, (was, is_now), {**then.review.titles, **now.review.titles})


def _named(take: Take) -> TakeName:
    times: list[Any] = [it.get("t_s", 0) for it in take.events]
    return TakeName(
        id=take.id,
        name=take.name,
        number=take.number,
        made_at=take.made_at,
        events=len(take.events),
        lasts_s=max(times, default=0),
    )
