"""Routes at a module: what a terminal kept is read back, what its light says, and which ports there are."""

import asyncio
from functools import cache
from typing import Annotated, Any, Final

from anyio import CapacityLimiter, from_thread, to_thread
from fastapi import APIRouter, Query, Request
from pydantic import Field
from starlette.requests import ClientDisconnect

from oddlamp.api.lan import is_here
from oddlamp.api.models import RevisionId
from oddlamp.api.projects import Shop
from oddlamp.console import ports_here
from oddlamp.core.base import Model
from oddlamp.core.errors import OutOfRange
from oddlamp.core.reading.rhythm import matched, means_of
from oddlamp.sheets.atmodule import AtModule, at_module, module_named
from oddlamp.sheets.readback import ReadBack, read_back_at

router = APIRouter(prefix="/api/projects/{project_id}/module/{node}")
LOG_MOST_BYTES: Final = 512 * 2**20
PIECE_WAIT_S: Final = 30


class Kept(Model):
    """A log to read: as text, or bytes in hex."""

    text: Annotated[str, Field(max_length=2_000_000)] = ""
    heard_bd: Annotated[int, Field(ge=300, le=2_000_000)] | None = None


@router.get("")
def show_at_module(shop: Shop, project_id: str, node: str, revision: Annotated[RevisionId | None, Query()] = None) -> AtModule:
    """Show what there is to know at a module: its steps, its blinks, its frames, and what it is believed to be."""
    return at_module(shop.worked_out(project_id, shop.store.head(project_id) if revision is None else revision).design, node)


@router.post("/read-back")
def read_log(shop: Shop, project_id: str, node: str, given: Kept) -> ReadBack:
    """Read back what a terminal kept."""
    design = shop.worked_out(project_id, shop.store.head(project_id)).design
    return read_back_at(design, module_named(design, node), [given.text.encode("utf-8", "replace")], given.heard_bd)


@router.post(
    "/read-back/file",
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
        }
    },
)
async def read_file(
    request: Request, shop: Shop, project_id: str, node: str, heard_bd: Annotated[int | None, Query(ge=300, le=2_000_000)] = None
) -> ReadBack:
    """Read back a log as a terminal saved it, of any size: it is read while it comes, piece by piece, and let go when the sender goes."""
    design = await to_thread.run_sync(lambda: shop.worked_out(project_id, shop.store.head(project_id)).design)
    stream, taken = aiter(request.stream()), 0

    async def next_piece() -> bytes:
        nonlocal taken
        async with asyncio.timeout(PIECE_WAIT_S):
            piece = await anext(stream, b"")
        taken += len(piece)
        if taken > LOG_MOST_BYTES:
            raise OutOfRange(
                field="body", given=f"over {LOG_MOST_BYTES // 2**20} MB", allowed=f"a log of at most {LOG_MOST_BYTES // 2**20} MB"
            )
        return piece

    def read() -> ReadBack:
        pieces = iter(lambda: from_thread.run(next_piece), b"")
        return read_back_at(design, module_named(design, node), pieces, heard_bd)

    try:
        return await to_thread.run_sync(read, limiter=readings())
    except (ClientDisconnect, TimeoutError):
        raise OutOfRange(field="body", given="a part of it", allowed="all of it") from None


@cache
def readings() -> CapacityLimiter:
    """Two logs are read at once, so that nobody waits for an edit behind them."""
    return CapacityLimiter(2)


class Tapped(Model):
    """A rhythm: when it was tapped, s."""

    taps_s: Annotated[tuple[float, ...], Field(max_length=60)]


class TappedRead(Model):
    """What a rhythm says."""

    text: str
    turns_s: tuple[float, ...] = ()


@router.post("/blink")
def read_blink(shop: Shop, project_id: str, node: str, given: Tapped) -> TappedRead:
    """Tell which blink was tapped."""
    blinks = at_module(shop.worked_out(project_id, shop.store.head(project_id)).design, node).blinks
    found = matched(given.taps_s, [it.turns_s for it in blinks])
    told = means_of(found, {it.turns_s: it.means for it in blinks})
    return TappedRead(text=told, turns_s=found[0].turns_s if found else ())


class PortShown(Model):
    """A real port of the machine it runs on."""

    name: str
    label: str


class PortsShown(Model):
    """What can be talked to."""

    ports: tuple[PortShown, ...]
    is_allowed: bool = Field(
        description="Whether the one who asks may open real ports: not from the local network, unless started so"
    )


@router.get("/ports")
def list_ports(request: Request, project_id: str, node: str) -> PortsShown:
    """List the real ports of this machine; none is opened."""
    del project_id, node
    may = may_open(request.app.state, request.scope)
    found = ports_here(request.app.state.serial_ports) if may else ()
    return PortsShown(ports=tuple(PortShown(name=name, label=label) for name, label in found), is_allowed=may)


def may_open(state: Any, scope: Any) -> bool:
    """Tell whether whoever asks may open real ports."""
    return is_here(scope) or bool(getattr(state, "serial_for_lan", False))
