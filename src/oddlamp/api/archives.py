"""Routes of whole projects as files: taken away, and taken in."""

import asyncio
from tempfile import SpooledTemporaryFile
from typing import Final

from anyio import to_thread
from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.requests import ClientDisconnect

from oddlamp.api.models import ProjectState
from oddlamp.api.projects import Shop
from oddlamp.core.errors import OutOfRange
from oddlamp.store.archive import FILE_MOST_BYTES, packed, unpacked

router = APIRouter(prefix="/api/projects")
IN_MEMORY_BYTES: Final = 4 * 2**20
PIECE_WAIT_S: Final = 30


@router.get("/{project_id}/archive", response_class=Response, responses={200: {"content": {"application/zip": {}}}})
def take_away(shop: Shop, project_id: str) -> Response:
    """Return a project as one file: its plans with their history, its takes. Two times the same project are the same bytes."""
    head = {"Content-Disposition": f'attachment; filename="{project_id}.zip"'}
    return Response(packed(shop.store.archived(project_id)), media_type="application/zip", headers=head)


@router.post(
    "/import/archive",
    status_code=201,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def take_in(request: Request, shop: Shop) -> ProjectState:
    """Take in a project from its file, whole; nothing of one that cannot be read, or that does not arrive whole."""
    with SpooledTemporaryFile(max_size=IN_MEMORY_BYTES) as file:
        size, pieces = 0, aiter(request.stream())
        try:
            while True:
                async with asyncio.timeout(PIECE_WAIT_S):
                    piece = await anext(pieces, b"")
                if not piece:
                    break
                size += len(piece)
                if size > FILE_MOST_BYTES:
                    most = f"{FILE_MOST_BYTES // 2**20} MB"
                    raise OutOfRange(field="archive", given=f"over {most}", allowed=f"at most {most}, as every project has")
                await to_thread.run_sync(file.write, piece)
        except (ClientDisconnect, TimeoutError):
            raise OutOfRange(field="archive", given="a part of it", allowed="all of it") from None
        return await to_thread.run_sync(lambda: shop.take_in(unpacked(file)))
