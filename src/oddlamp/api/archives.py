"""Routes of whole projects as files: taken away, and taken in."""

from contextlib import closing
from typing import IO, Final

from anyio import CapacityLimiter, to_thread
from fastapi import APIRouter, Request
from fastapi.responses import Response, StreamingResponse

from oddlamp.api.models import ProjectState
from oddlamp.api.projects import Shop
from oddlamp.api.receiving import OF_BYTES, received
from oddlamp.api.workshop import Workshop
from oddlamp.store.archive import FILE_MOST_BYTES, Packing, unpacked

router = APIRouter(prefix="/api/projects")
READERS: Final = CapacityLimiter(1)  # a project that comes in may bring hundreds of photos


@router.get("/{project_id}/archive", response_class=Response, responses={200: {"content": {"application/zip": {}}}})
def take_away(shop: Shop, project_id: str) -> Response:
    """Give a project as one file: its plans with their history, its takes, its log with photos. Two times the same project are the same bytes."""
    packing = Packing(shop.store.archived(project_id))
    head = {"Content-Disposition": f'attachment; filename="{project_id}.zip"', "Content-Length": str(packing.size_bytes)}
    return StreamingResponse(packing.pieces(), media_type="application/zip", headers=head)


@router.post("/import/archive", status_code=201, openapi_extra=OF_BYTES)
async def take_in(request: Request, shop: Shop) -> ProjectState:
    """Take in a project from its file, whole; nothing of one that cannot be read, or that does not arrive whole."""
    async with received(request, FILE_MOST_BYTES, "archive") as file:
        return await to_thread.run_sync(_taken_in, shop, file, limiter=READERS)


def _taken_in(shop: Workshop, file: IO[bytes]) -> ProjectState:
    with closing(unpacked(file)) as found:
        return shop.take_in(found)
