"""Routes at a module: what a terminal kept is read back, and a console that talks to a stand-in or to a real port."""

import asyncio
import contextlib
import json
import re
import time
from functools import cache
from typing import Annotated, Any, Final

from anyio import CapacityLimiter, from_thread, to_thread
from fastapi import APIRouter, Query, Request, WebSocket
from pydantic import Field, ValidationError
from starlette.requests import ClientDisconnect
from starlette.websockets import WebSocketDisconnect

from oddlamp.api.lan import is_here
from oddlamp.api.models import RevisionId
from oddlamp.api.projects import Shop
from oddlamp.console import SPEEDS, Gone, Place, PortPlace, StandInPlace, Trouble, checked, ports_here
from oddlamp.core.base import Model
from oddlamp.core.design.design import Design
from oddlamp.core.errors import DomainError, OutOfRange
from oddlamp.core.modules.goals import dialect_of
from oddlamp.core.modules.script import Step
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.reading.replies import Speaker
from oddlamp.core.reading.rhythm import matched, means_of
from oddlamp.core.reading.text import Line
from oddlamp.core.reading.told import Exchange, exchange_means
from oddlamp.sheets.atmodule import AtModule, at_module, module_named
from oddlamp.sheets.readback import ReadBack, read_back_at, script_of

router = APIRouter(prefix="/api/projects/{project_id}/module/{node}")
OPEN_MOST: Final = 12  # consoles at once
MESSAGES_A_SECOND: Final = 200
MESSAGE_MOST: Final = 4096
LOG_MOST_BYTES: Final = 512 * 2**20
PIECE_WAIT_S: Final = 30
TURN_S: Final = 0.01
QUIET_S: Final = 0.08
SECRET: Final = re.compile(r'(AT\+CW(?:JAP|SAP)="(?:[^"\\]|\\.)*",)"(?:[^"\\]|\\.)*"')
TURNS: Final = ("key up", "key down", "power on", "power off", "link", "leave")


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


class Asked(Model):
    """What a console wants to talk to."""

    port: Annotated[str, Field(max_length=120)] = ""
    speed: Annotated[int, Field(ge=300, le=2_000_000)] = 9600
    version: Annotated[str, Field(max_length=60)] | None = None
    trouble: Trouble = "none"
    found_bd: Annotated[int, Field(ge=300, le=2_000_000)] | None = None


@router.websocket("/console")
async def talk(socket: WebSocket, project_id: str, node: str) -> None:
    """Talk: bytes and switches in, bytes and what they mean out, as JSON."""
    state = socket.app.state
    if len(state.consoles) >= OPEN_MOST:
        await socket.close(1013, "too many consoles are open")
        return
    me = object()
    state.consoles[me] = ""
    try:
        asked = Asked.model_validate(dict(socket.query_params))
        design = await asyncio.to_thread(
            lambda: state.workshop.worked_out(project_id, state.workshop.store.head(project_id)).design
        )
        node = module_named(design, node)
        dialect = dialect_of(design, design.nodes[node]) if node in design.nodes else None
        if dialect is None:
            raise OutOfRange(field="node", given=node, allowed="a module")
        place = await _opened(state, socket.scope, me, dialect, asked)
    except (ValidationError, DomainError, Gone, KeyError) as error:
        state.consoles.pop(me, None)
        await socket.accept()
        told = (
            error.allowed
            if isinstance(error, DomainError)
            else str(error)
            if isinstance(error, Gone)
            else "something that can be talked to"
        )
        await socket.send_json({"kind": "gone", "why": told})
        await socket.close(1008)
        return
    await socket.accept()
    console = _Console(socket, design, node, dialect, place)
    try:
        await console.run()
    finally:
        state.consoles.pop(me, None)
        await asyncio.to_thread(place.close)


async def _opened(state: Any, scope: Any, me: object, dialect: Dialect, asked: Asked) -> Place:
    """Open what is asked for: a stand-in of the module, or a real port that nobody here has."""
    if not asked.port:
        known = [it.id for it in dialect.versions]
        spoken = dialect.version(asked.version) if asked.version in known else dialect
        kept = {"speed": asked.found_bd} if asked.found_bd is not None else {}
        if asked.trouble == "speed":
            kept = {"speed": next(it for it in (115_200, 38_400) if it != asked.speed)}
        return StandInPlace(StandIn(spoken, dict(kept)), speed_bd=asked.speed, trouble=asked.trouble)
    if not may_open(state, scope):
        raise OutOfRange(field="port", given=asked.port, allowed="a stand-in: real ports are opened only on the machine itself")
    name = checked(asked.port, state.serial_ports)
    if name in state.consoles.values():
        raise Gone(f"{name} is open in another window: close it there first.")
    state.consoles[me] = name
    return await asyncio.to_thread(PortPlace, name, speed_bd=asked.speed)


class _Console:
    """One conversation."""

    def __init__(self, socket: WebSocket, design: Design, node: str, dialect: Dialect, place: Place) -> None:
        self.socket, self.dialect, self.place = socket, dialect, place
        spoken = place.module.dialect if isinstance(place, StandInPlace) else dialect
        self.speaker = Speaker(spoken)
        self.steps: tuple[Step, ...] = tuple(script_of(design, design.nodes[node], dialect))
        self.said = ""
        self.heard = ""
        self.heard_at_s = 0.0
        self.told = True
        self.light: Any = None

    async def run(self) -> None:
        """Carry both ways until one end goes."""
        tasks = [asyncio.create_task(it()) for it in (self._listen, self._pump)]
        try:
            done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
            for it in done:
                it.result()
        except Gone as error:
            with contextlib.suppress(RuntimeError, WebSocketDisconnect):
                await self._tell(kind="gone", why=str(error))
                await self.socket.close(1001)
        except (WebSocketDisconnect, RuntimeError):
            pass
        finally:
            for it in tasks:
                it.cancel()
            await asyncio.gather(*tasks, return_exceptions=True)

    async def _tell(self, **what: Any) -> None:
        await self.socket.send_json(what)

    async def _listen(self) -> None:
        begun_s, count = time.monotonic(), 0
        while True:
            text = await self.socket.receive_text()
            now_s = time.monotonic()
            if now_s - begun_s > 1:
                begun_s, count = now_s, 0
            count += 1
            if count > MESSAGES_A_SECOND or len(text) > MESSAGE_MOST:
                raise Gone("This was more than a console takes: it is closed.")
            try:
                message = json.loads(text)
            except ValueError:
                continue
            if isinstance(message, dict):
                await self._do(message)

    async def _do(self, message: dict[str, Any]) -> None:
        speed = message.get("speed")
        if isinstance(speed, int) and speed in SPEEDS:
            self.place.speed_bd = speed
        turn = message.get("turn")
        if isinstance(turn, str) and turn in TURNS:
            self.place.turn(turn)
            await self._tell(kind="turned", what=turn, at_s=time.time())
        said, step = message.get("say"), message.get("step")
        if isinstance(said, str):
            ending = {"cr-lf": b"\r\n", "cr": b"\r", "lf": b"\n"}.get(str(message.get("ending")), b"")
            with contextlib.suppress(UnicodeEncodeError):
                await self._say(said.encode("latin-1") + ending)
        if isinstance(step, int) and 0 <= step < len(self.steps):
            await self._walk(step, self.steps[step])
        await self._lit()

    async def _say(self, content: bytes) -> None:
        await self._meant()
        self.said, self.heard, self.told = content.decode("latin-1").strip("\r\n"), "", True
        found = exchange_means(self.speaker, Exchange(Line(1, self.said, "out"), ()))
        await self._tell(kind="said", text=masked(self.said), hex=masked_hex(content, self.said), means=found[0].means if found else "", at_s=time.time())  # fmt: skip
        await asyncio.to_thread(self.place.write, content)

    async def _walk(self, at: int, step: Step) -> None:
        """Do one step: what a stand-in can be told is turned; what is said is said, and its answer looked at."""
        if step.speeds_bd:
            self.place.speed_bd = step.speeds_bd[0]
        if step.does in TURNS:
            self.place.turn(step.does)
        if not step.ways:
            await self._tell(kind="step", at=at, state="done", heard="", advice="")
            return
        heard = ""
        for speed_bd in step.speeds_bd or (self.place.speed_bd,):
            self.place.speed_bd = speed_bd
            for way in step.ways:
                await self._say(way.sent)
                heard = await self._answer()
                if way.is_met_by(heard.encode("latin-1")):
                    await self._tell(kind="step", at=at, state="done", heard=masked(heard), advice="")
                    return
        await self._tell(kind="step", at=at, state="differs", heard=masked(heard) or "nothing", advice=step.advice)

    async def _answer(self) -> str:
        """Wait until an answer is whole: some quiet after it, or long enough for none."""
        gap_s = (self.dialect.gap_s or 0.0) + 0.6
        until_s = time.monotonic() + gap_s + max((it.takes_s for it in self.speaker.commands if self.said.startswith(it.send.partition("{")[0])), default=0.0)  # fmt: skip
        while time.monotonic() < until_s:
            await asyncio.sleep(TURN_S)
            if self.heard and time.monotonic() - self.heard_at_s > 2 * QUIET_S:
                break
        return self.heard

    async def _pump(self) -> None:
        is_port = not isinstance(self.place, StandInPlace)
        await self._lit()
        while True:
            content = await asyncio.to_thread(self.place.read) if is_port else self.place.read()
            if content:
                self.heard += content.decode("latin-1")
                self.heard_at_s, self.told = time.monotonic(), False
                await self._tell(kind="heard", text=content.decode("latin-1"), hex=content.hex(" ").upper(), at_s=time.time())
            elif not self.told and time.monotonic() - self.heard_at_s > QUIET_S:
                await self._meant()
            await self._lit()
            await asyncio.sleep(TURN_S)

    async def _meant(self) -> None:
        """Say what the last answer means, once it is whole."""
        if self.told:
            return
        self.told = True
        lines = tuple(Line(at, it, "in") for at, it in enumerate(filter(None, re.split(r"[\r\n]+", self.heard)), 2))
        said = Line(1, self.said, "out") if self.said else None
        found = exchange_means(self.speaker, Exchange(said, lines))
        told = [{"text": masked(it.line.text), "means": it.means} for it in found if it.line.side == "in"]
        await self._tell(kind="means", lines=told)

    async def _lit(self) -> None:
        light = self.place.light()
        now = (light, self.place.speed_bd)
        if light is not None and now != self.light:
            self.light = now
            await self._tell(
                kind="light", mode=light.mode, turns_s=list(light.blink.turns_s), text=light.blink.text, key=light.is_key_up,
                power=light.is_powered, linked=light.is_linked, speed=self.place.speed_bd,
            )  # fmt: skip


def masked(text: str) -> str:
    """Write a line without the password of a network in it."""
    return SECRET.sub(r'\1"•••"', text)


def masked_hex(content: bytes, text: str) -> str:
    """Write bytes in hex, unless there is a password among them."""
    return content.hex(" ").upper() if masked(text) == text else ""
