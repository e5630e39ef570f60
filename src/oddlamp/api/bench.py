"""Routes of the bench: the wiring list with its drawing, and its lists as files."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from oddlamp.api.models import Measured, RevisionId
from oddlamp.api.projects import Shop
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.bench import Pass
from oddlamp.sheets.bench import BenchShown, ListName, bench_shown, list_files
from oddlamp.sheets.bringup import BringUpShown, MeasuredRead, bring_up_shown, measured_read

router = APIRouter(prefix="/api/projects/{project_id}/bench")
TYPES = {
    "csv": "text/csv; charset=utf-8",
    "md": "text/markdown; charset=utf-8",
    "svg": "image/svg+xml",
    "cir": "text/plain; charset=utf-8",
}


@router.get("")
def show_bench(shop: Shop, project_id: str, revision: Annotated[RevisionId | None, Query()] = None) -> BenchShown:
    """List the wires of a plan in the order to make them, with the drawing, what to cut and what to buy."""
    return bench_shown(shop.worked_out(project_id, shop.store.head(project_id) if revision is None else revision).design)


@router.get("/bring-up")
def show_bring_up(
    shop: Shop,
    project_id: str,
    revision: Annotated[RevisionId | None, Query()] = None,
    now: Annotated[Pass | None, Query(description="The mock-up or the final build; the one at work where left out")] = None,
    step: Annotated[
        str | None, Query(max_length=160, description="The step that is looked at: what its value suggests is told")
    ] = None,
) -> BringUpShown:
    """List the steps of bringing a build up, with what should be there and what was found."""
    design = shop.worked_out(project_id, shop.store.head(project_id) if revision is None else revision).design
    return bring_up_shown(design, now, step)


@router.post("/bring-up/read")
def read_measured(shop: Shop, project_id: str, given: Measured) -> MeasuredRead:
    """Read what was measured at a step, and tell the edit that keeps it; or ask which of two it is."""
    design = shop.worked_out(project_id, given.base_revision).design
    moment = datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    return measured_read(design, given.now, given.step, given.text, moment, is_sure=given.is_sure)


@router.get("/file")
def take_list(
    shop: Shop,
    project_id: str,
    what: Annotated[ListName, Query(description="Which list, or the drawing")] = "wiring",
    revision: Annotated[RevisionId | None, Query()] = None,
    of: Annotated[str | None, Query(max_length=90, description="Of the schematics: the line whose circuit it is")] = None,
    is_to_read: Annotated[bool, Query(description="As Markdown, and not comma-separated")] = False,
) -> Response:
    """Give a list as a file."""
    design = shop.worked_out(project_id, shop.store.head(project_id) if revision is None else revision).design
    files = list_files(design, what, of)
    if not files:
        raise OutOfRange(field="what", given=what, allowed="another list: no circuit of this plan is driven yet")
    name = next((it for it in files if it.endswith(".md") == is_to_read), next(iter(files)))
    head = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(files[name].encode(), media_type=TYPES[name.rpartition(".")[2]], headers=head)
