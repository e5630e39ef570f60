"""Bodies that are taken piece by piece as they come, into a file that is gone when they are dealt with."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from tempfile import SpooledTemporaryFile
from typing import IO, Any, Final

from anyio import to_thread
from fastapi import Request
from starlette.requests import ClientDisconnect

from oddlamp.core.errors import NotKept, OutOfRange

IN_MEMORY_BYTES: Final = 4 * 2**20
PIECE_WAIT_S: Final = 30
OF_BYTES: Final[dict[str, Any]] = {
    "requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}
}


@asynccontextmanager
async def received(request: Request, most_bytes: int, what: str) -> AsyncIterator[IO[bytes]]:
    """Receive a body whole; raises OutOfRange where it is too long or stops half way, NotKept where there is no room for it."""
    with SpooledTemporaryFile(max_size=IN_MEMORY_BYTES) as file:
        size, pieces = 0, aiter(request.stream())
        most = f"{most_bytes // 2**20} MB"
        too_long = OutOfRange(field=what, given=f"over {most}", allowed=f"at most {most}")
        told = request.headers.get("content-length", "")
        if told.isdigit() and int(told[:20]) > most_bytes:
            raise too_long
        try:
            while True:
                async with asyncio.timeout(PIECE_WAIT_S):
                    piece = await anext(pieces, b"")
                if not piece:
                    break
                size += len(piece)
                if size > most_bytes:
                    raise too_long
                await to_thread.run_sync(file.write, piece)
        except (ClientDisconnect, TimeoutError):
            raise OutOfRange(field=what, given="a part of it", allowed="all of it") from None
        except OSError as error:
            said = "There is no room on the disk to take this in. Nothing of it was kept: make some, then try again."
            raise NotKept(field="disk", given=str(error), allowed="a disk with room", said=said) from None
        file.seek(0)
        yield file
