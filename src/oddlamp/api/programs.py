"""Routes of the printed program: to read, to take away, and to bring back what was changed in it by hand."""

import io
import zipfile
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import Response

from oddlamp.api.models import ProgramBack, ProgramTaken, RevisionId
from oddlamp.api.projects import Shop
from oddlamp.api.workshop import Workshop
from oddlamp.core.firmware.files import MADE_AT, folder_of
from oddlamp.sheets.program import NO_BOARD, ProgramShown, TakenBack, files_for, host_named, hosts_of, program_shown, taken_back

router = APIRouter(prefix="/api/projects/{project_id}/program")
Host = Annotated[str | None, Query(max_length=40, description="Which board; the first where left out")]


@router.get("")
def show_program(
    shop: Shop, project_id: str, host: Host = None, revision: Annotated[RevisionId | None, Query()] = None
) -> ProgramShown:
    """Print the program of a board, line by line with the stage each comes from."""
    return _shown(shop, project_id, shop.store.head(project_id) if revision is None else revision, host)


@router.get("/file")
def take_program(
    shop: Shop,
    project_id: str,
    host: Host = None,
    revision: Annotated[RevisionId | None, Query()] = None,
    what: Annotated[Literal["program", "wiring"], Query(description="The program, or one that tries the wiring")] = "program",
) -> Response:
    """Give the program of a board as a folder in a ZIP, or one that tries its wiring pin by pin."""
    design = shop.worked_out(project_id, shop.store.head(project_id) if revision is None else revision).design
    named = host_named(design, host)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, text in files_for(design, named, what).items():
            archive.writestr(zipfile.ZipInfo(path, MADE_AT), text, zipfile.ZIP_DEFLATED)
    folder = folder_of(design, named) + ("_wiring" if what == "wiring" else "")
    name = f'attachment; filename="{folder}.zip"'
    return Response(packed.getvalue(), media_type="application/zip", headers={"Content-Disposition": name})


@router.post("/taken")
def note_taken(shop: Shop, project_id: str, taken: ProgramTaken) -> ProgramShown:
    """Note that the program was taken away: what changes from now on is told."""
    host = host_named(shop.worked_out(project_id, taken.revision).design, taken.host)
    shop.store.note_taken(project_id, host, taken.revision)
    return _shown(shop, project_id, taken.revision, host)


@router.post("/back")
def bring_back(shop: Shop, project_id: str, given: ProgramBack) -> TakenBack:
    """Read the regions of a file that was changed by hand, and tell the edit that keeps them."""
    design = shop.worked_out(project_id, given.base_revision).design
    return taken_back(design, host_named(design, given.host), given.text)


def _shown(shop: Workshop, project_id: str, revision: int, host: str | None) -> ProgramShown:
    design = shop.worked_out(project_id, revision).design
    if host is None and not hosts_of(design):
        return NO_BOARD
    named = host_named(design, host)
    taken = shop.store.taken(project_id, named)
    before = shop.worked_out(project_id, taken.revision).design if taken is not None else None
    return program_shown(design, named, before, taken.taken_at if taken is not None else None)
