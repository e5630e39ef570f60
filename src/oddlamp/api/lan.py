"""The way in from the local network: addresses with a token that can be renewed, as text and as a QR code."""

import secrets
from collections.abc import Sequence
from typing import Annotated, Any

import segno
from fastapi import APIRouter, Depends, Request
from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.errors import OutOfRange


class Lan:
    """What lets a phone at the bench in, for as long as the server runs or until the token is renewed.

    Args:
        hosts: this machine's addresses on its networks.
        port: where it listens.
    """

    def __init__(self, hosts: Sequence[str], port: int) -> None:
        self.hosts, self.port = tuple(hosts), port
        self.token = ""
        self.renew()

    def renew(self) -> None:
        """Make another token; whoever has the old one is out."""
        self.token = secrets.token_urlsafe(12)

    @property
    def addresses(self) -> tuple[str, ...]:
        """The addresses to open, with the token."""
        return tuple(f"http://{host}:{self.port}/?token={self.token}" for host in self.hosts)


class WayIn(Model):
    """One address of the server on the local network."""

    address: str
    qr: Annotated[str, Field(description="The address as a QR code, an SVG picture as a data URI")]


class LanView(Model):
    """Whether the local network gets in, and how."""

    is_open: bool
    is_here: Annotated[bool, Field(description="Whether it is asked from the machine itself, which alone is shown the ways in")]
    ways: tuple[WayIn, ...] = ()


router = APIRouter(prefix="/api/lan")
LOOPBACK = ("127.0.0.1", "::1")


def is_here(scope: Any) -> bool:
    """Tell whether a request comes from this machine itself."""
    client = scope.get("client")
    return client is not None and client[0] in LOOPBACK


def seen(request: Request) -> LanView:
    """Return what a caller may know of it."""
    lan: Lan | None = request.app.state.lan
    here = is_here(request.scope)
    if lan is None or not here:
        return LanView(is_open=lan is not None, is_here=here)
    return LanView(is_open=True, is_here=True, ways=tuple(WayIn(address=it, qr=qr_code(it)) for it in lan.addresses))


def qr_code(text: str) -> str:
    """Draw a QR code, dark on white with the quiet zone a reader wants. Source: ISO/IEC 18004."""
    return str(segno.make_qr(text).svg_data_uri(scale=4, border=4, dark="#1b1428", light="#fff"))


@router.get("")
def show_ways_in(view: Annotated[LanView, Depends(seen)]) -> LanView:
    """Show how a phone gets in: to whoever sits at the machine itself."""
    return view


@router.post("/token")
def renew_token(request: Request) -> LanView:
    """Make a new token; phones with the old one have to be let in again."""
    lan: Lan | None = request.app.state.lan
    if lan is None or not is_here(request.scope):
        allowed = "the machine it runs on, started with --lan"
        raise OutOfRange(field="token", given="a request from elsewhere" if lan else "no --lan", allowed=allowed)
    lan.renew()
    return seen(request)
