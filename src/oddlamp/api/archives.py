"""Routes of whole projects as files: taken away, and taken in."""

import asyncio
from contextlib import closing
from tempfile import SpooledTemporaryFile
from typing import IO, Final

from anyio import to_thread
from fastapi import APIRouter, Request
from fastapi.responses import Response, StreamingResponse
from starlette.requests import ClientDisconnect

from oddlamp.api.models import ProjectState
from oddlamp.api.projects import Shop
from oddlamp.api.workshop import Workshop
from oddlamp.core.errors import NotKept, OutOfRange
from oddlamp.store.archive import FILE_MOST_BYTES, Packing, unpacked

router = APIRouter(prefix="/api/projects")
IN_MEMORY_BYTES: Final = 4 * 2**20
PIECE_WAIT_S: Final = 30


@router.get("/{project_id}/archive", response_class=Response, responses={200: {"content": {"application/zip": {}}}})
def take_away(shop: Shop, project_id: str) -> Response:
    """Give a project as one file: its plans with their history, its takes, its log with photos. Two times the same project are the same bytes."""
    packing = Packing(shop.store.archived(project_id))
    head = {"Content-Disposition": f'attachment; filename="{project_id}.zip"', "Content-Length": str(packing.size_bytes)}
    return StreamingResponse(packing.pieces(), media_type="application/zip", headers=head)


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
        except OSError as error:
            said = "There is no room on the disk to take this in. Nothing of it was kept: make some, then try again."
            raise NotKept(field="disk", given=str(error), allowed="a disk with room", said=said) from None
        return await to_thread.run_sync(_taken_in, shop, file)


def _taken_in(shop: Workshop, file: IO[bytes]) -> ProjectState:
    file.seek(0)
    with closing(unpacked(file)) as found:
        return shop.take_in(found)
