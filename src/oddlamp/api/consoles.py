"""A console at a module: one conversation over a socket, with a stand-in, two that are bound, or a real port."""

import asyncio
import contextlib
import json
import re
import time
from dataclasses import dataclass
from typing import Annotated, Any, Final, Literal

from fastapi import APIRouter, WebSocket
from pydantic import Field, ValidationError
from starlette.websockets import WebSocketDisconnect

from oddlamp.api.modules import may_open
from oddlamp.console import SPEEDS, Gone, Light, Place, PortPlace, StandInPlace, Trouble, checked
from oddlamp.core.base import Model
from oddlamp.core.design.design import Design
from oddlamp.core.errors import DomainError, OutOfRange
from oddlamp.core.modules.goals import dialect_of, partner_of, setup_of_node
from oddlamp.core.modules.script import ADDRESS_TOLD, UNKNOWN_SENT, Step, filled
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.modules.walk import run
from oddlamp.core.modules.wifi import HOUSE, SECRET, secrets_of
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.plan.text import short_address
from oddlamp.core.reading.replies import Speaker
from oddlamp.core.reading.text import VEIL, Line, passwords_in, veiled
from oddlamp.core.reading.told import Exchange, exchange_means
from oddlamp.sheets.atmodule import module_named
from oddlamp.sheets.readback import script_of

router = APIRouter(prefix="/api/projects/{project_id}/module/{node}")
OPEN_MOST: Final = 12  # consoles at once
MESSAGES_A_SECOND: Final = 200
MESSAGE_MOST: Final = 4096
HEARD_MOST: Final = 4096  # signs of one answer that are explained: what goes on for longer is traffic
TURN_S: Final = 0.01
QUIET_S: Final = 0.08
AT_HOME: Final = {HOUSE: SECRET}
TURNS: Final = (
    "key up",
    "key down",
    "power on",
    "power off",
    "link",
    "leave",
    "wires swapped",
    "grounds joined",
    "another module",
)


class Asked(Model):
    """What a console wants to talk to. ``begins`` is how a stand-in is at first: as from the factory, or as the plan says."""

    port: Annotated[str, Field(max_length=120)] = ""
    speed: Annotated[int, Field(ge=300, le=2_000_000)] = 9600
    version: Annotated[str, Field(max_length=60)] | None = None
    begins: Literal["new", "set"] = "new"
    trouble: Trouble = "none"
    found_bd: Annotated[int, Field(ge=300, le=2_000_000)] | None = None


@dataclass
class Member:
    """One module of a conversation, and how far what it says has been told and explained."""

    node: str
    label: str
    dialect: Dialect
    speaker: Speaker
    steps: tuple[Step, ...]
    said: str = ""
    heard: str = ""
    heard_at_s: float = 0.0
    is_told: bool = True
    held: str = ""
    light: tuple[Light, int] | None = None


def member_of(design: Design, node_id: str, version: str | None = None) -> Member:
    """Return a module of a plan as one to talk to.

    Raises:
        OutOfRange: no module of a known family.
    """
    node = design.nodes.get(node_id)
    dialect = dialect_of(design, node) if node is not None else None
    if node is None or dialect is None:
        raise OutOfRange(field="node", given=node_id, allowed="a module")
    spoken = dialect.version(version) if version in [it.id for it in dialect.versions] else dialect
    return Member(node_id, node.label, spoken, Speaker(spoken), tuple(script_of(design, node, dialect)))


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
        members = [member_of(design, module_named(design, node), None if asked.port else asked.version)]
        partner = partner_of(design, members[0].node) if not asked.port else None
        members += [member_of(design, partner.id)] if partner is not None else []
        place = await _opened(state, socket.scope, me, design, members, asked)
    except (ValidationError, DomainError, Gone, KeyError) as error:
        state.consoles.pop(me, None)
        await socket.accept()
        told = error.allowed if isinstance(error, DomainError) else "something that can be talked to"
        await socket.send_json({"kind": "gone", "why": str(error) if isinstance(error, Gone) else told})
        await socket.close(1008)
        return
    await socket.accept()
    try:
        await Console(socket, members, place).run()
    finally:
        state.consoles.pop(me, None)
        await asyncio.to_thread(place.close)


async def _opened(state: Any, scope: Any, me: object, design: Design, members: list[Member], asked: Asked) -> Place:
    """Open what is asked for: stand-ins of the modules, or a real port that nobody here has."""
    if not asked.port:
        modules = [
            _stand_in(design, it, members, asked if at == 0 else asked.model_copy(update={"trouble": "none", "found_bd": None}))
            for at, it in enumerate(members)
        ]
        return StandInPlace(modules, speed_bd=asked.speed, trouble=asked.trouble)
    if not may_open(state, scope):
        raise OutOfRange(field="port", given=asked.port, allowed="a stand-in: real ports are opened only on the machine itself")
    name = checked(asked.port, state.serial_ports)
    if name in state.consoles.values():
        raise Gone(f"{name} is open in another window: close it there first.")
    state.consoles[me] = name
    return await asyncio.to_thread(PortPlace, name, speed_bd=asked.speed)


def _stand_in(design: Design, member: Member, members: list[Member], asked: Asked) -> StandIn:
    """Make a stand-in as it is at first: new, set as the plan says, or at a speed that was not expected."""
    told = setup_of_node(design.nodes[member.node]).address
    kept: dict[str, Any] = {"address": told} if told and "address" in member.dialect.settings else {}
    if asked.begins == "set":
        made = StandIn(member.dialect, dict(kept), networks=dict(AT_HOME))
        others = [
            setup_of_node(design.nodes[it.node]).address or str(it.dialect.settings.get("address", ""))
            for it in members
            if it is not member
        ]
        run(member.steps, made, address=next(filter(None, others), None))
        kept = dict(made.kept)
    if asked.found_bd is not None:
        kept["speed"] = asked.found_bd
    if asked.trouble == "speed":
        kept["speed"] = next(it for it in (115_200, 38_400) if it != asked.speed)
    return StandIn(member.dialect, kept, networks=dict(AT_HOME))


class Console:
    """One conversation, with one module or with two that are bound."""

    def __init__(self, socket: WebSocket, members: list[Member], place: Place) -> None:
        self.socket, self.members, self.place = socket, members, place
        self.known: dict[bytes, bytes] = {}
        self.secrets: set[str] = set()

    @property
    def now(self) -> Member:
        """Whom one talks to."""
        return self.members[self.place.side]

    async def run(self) -> None:
        """Carry both ways until one end goes."""
        tasks = [asyncio.create_task(it()) for it in (self._listen, self._pump)]
        try:
            done, _ = await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
            for it in done:
                it.result()
        except Gone as error:
            with contextlib.suppress(RuntimeError, WebSocketDisconnect):
                await self._tell(self.now, kind="gone", why=str(error))
                await self.socket.close(1001)
        except (WebSocketDisconnect, RuntimeError):
            pass
        finally:
            for it in tasks:
                it.cancel()
            await asyncio.gather(*tasks, return_exceptions=True)

    async def _tell(self, member: Member, **what: Any) -> None:
        await self.socket.send_json({"who": member.node, **what})

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
        to = next((at for at, it in enumerate(self.members) if it.node == message.get("to")), None)
        if to is not None:
            self.place.side = to
        speed = message.get("speed")
        if isinstance(speed, int) and speed in SPEEDS:
            self.place.speed_bd = speed
        turn = message.get("turn")
        if isinstance(turn, str) and turn in TURNS:
            self.place.turn(turn)
            await self._tell(self.now, kind="turned", what=turn, at_s=time.time())
        said, step = message.get("say"), message.get("step")
        if isinstance(said, str):
            ending = {"cr-lf": b"\r\n", "cr": b"\r", "lf": b"\n"}.get(str(message.get("ending")), b"")
            with contextlib.suppress(UnicodeEncodeError):
                await self._say(said.encode("latin-1") + ending)
        if isinstance(step, int) and 0 <= step < len(self.now.steps):
            known = dict(self.known)
            try:
                known |= secrets_of(str(message.get("network", ""))[:80], str(message.get("password", ""))[:80])
                await self._walk(step, filled(self.now.steps[step], known))
            except OutOfRange as error:
                await self._tell(
                    self.now,
                    kind="step",
                    at=step,
                    state="differs",
                    heard="",
                    advice=f"{error.field.capitalize()}: {error.allowed}.",
                )
        await self._lit()

    async def _say(self, content: bytes) -> None:
        it = self.now
        await self._meant(it)
        it.said, it.heard, it.is_told = content.decode("latin-1").strip("\r\n"), "", True
        self.secrets |= passwords_in(it.said) - {SECRET}
        means = exchange_means(it.speaker, Exchange(Line(1, self._veiled(it.said), "out"), ()))
        is_open = self._veiled(it.said) == it.said
        await self._tell(
            it,
            kind="said",
            text=self._veiled(it.said),
            hex=content.hex(" ").upper() if is_open else "",
            means=means[0].means if means else "",
            at_s=time.time(),
        )
        if isinstance(self.place, StandInPlace):
            self.place.write(content)  # at once, and here: what it answers is read by the same loop
        else:
            await asyncio.to_thread(self.place.write, content)

    async def _walk(self, at: int, step: Step) -> None:
        """Do one step: what a stand-in can be told is turned; what is said is said, and its answer looked at."""
        it = self.now
        # A stand-in's house is called as the script calls it: only a real one has a name and a password of its own.
        asked_for = WANTED if isinstance(self.place, PortPlace) else WANTED[:1]
        wants = next((advice for stands, advice in asked_for if any(stands in way.sent for way in step.ways)), None)
        if wants is not None:
            await self._tell(it, kind="step", at=at, state="differs", heard="", advice=wants)
            return
        if step.speeds_bd:
            self.place.speed_bd = step.speeds_bd[0]
        if step.does in TURNS:
            self.place.turn(step.does)
        if not step.ways:
            await self._tell(it, kind="step", at=at, state="done", heard="", advice="")
            return
        heard = ""
        for speed_bd in step.speeds_bd or (self.place.speed_bd,):
            self.place.speed_bd = speed_bd
            for way in step.ways:
                await self._say(way.sent)
                heard = await self._answer(it)
                if way.is_met_by(heard.encode("latin-1")):
                    self._noted(heard)
                    await self._tell(it, kind="step", at=at, state="done", heard=self._veiled(heard), advice="")
                    return
        await self._tell(it, kind="step", at=at, state="differs", heard=self._veiled(heard) or "nothing", advice=step.advice)

    def _noted(self, heard: str) -> None:
        """Keep the address that was told: the other one's script asks for it."""
        if heard.startswith(ADDRESS_TOLD.decode("ascii")):
            told = heard.removeprefix(ADDRESS_TOLD.decode("ascii")).partition("\r\n")[0]
            with contextlib.suppress(OutOfRange):
                self.known[UNKNOWN_SENT] = short_address(told, ",").encode("ascii")

    async def _answer(self, it: Member) -> str:
        """Wait until an answer is whole: some quiet after it, or long enough for none."""
        gap_s = (it.dialect.gap_s or 0.0) + 0.6
        until_s = (
            time.monotonic()
            + gap_s
            + max((one.takes_s for one in it.speaker.commands if it.said.startswith(one.send.partition("{")[0])), default=0.0)
        )
        while time.monotonic() < until_s:
            await asyncio.sleep(TURN_S)
            if it.heard and time.monotonic() - it.heard_at_s > 2 * QUIET_S:
                break
        return it.heard

    async def _pump(self) -> None:
        is_port = not isinstance(self.place, StandInPlace)
        await self.socket.send_json(
            {"kind": "open", "members": [{"id": it.node, "label": it.label} for it in self.members], "is_real": is_port}
        )
        await self._lit()
        while True:
            for side, content in await asyncio.to_thread(self.place.read) if is_port else self.place.read():
                if content:
                    await self._heard(self.members[side], content.decode("latin-1"))
            for it in self.members:
                if not it.is_told and time.monotonic() - it.heard_at_s > QUIET_S:
                    await self._meant(it)
            await self._lit()
            await asyncio.sleep(TURN_S)

    async def _heard(self, it: Member, text: str) -> None:
        """Tell what was heard; where a password may be in it, line by line."""
        it.heard, it.heard_at_s, it.is_told = (it.heard + text)[-HEARD_MOST:], time.monotonic(), False
        whole, cut, it.held = (it.held + text).rpartition("\n") if self.secrets else ("", "", it.held)
        await self._told(it, whole + cut if self.secrets else text)

    async def _told(self, it: Member, text: str) -> None:
        if text:
            told = self._veiled(text)
            await self._tell(
                it, kind="heard", text=told, hex=text.encode("latin-1").hex(" ").upper() if told == text else "", at_s=time.time()
            )

    async def _meant(self, it: Member) -> None:
        """Say what the last answer means, once it is whole."""
        if it.is_told:
            return
        it.is_told = True
        rest, it.held = it.held, ""
        await self._told(it, rest)
        lines = tuple(Line(at, line, "in") for at, line in enumerate(filter(None, re.split(r"[\r\n]+", it.heard)), 2))
        found = exchange_means(it.speaker, Exchange(Line(1, it.said, "out") if it.said else None, lines))
        told = [{"text": self._veiled(one.line.text), "means": one.means} for one in found if one.line.side == "in"]
        await self._tell(it, kind="means", lines=told)

    async def _lit(self) -> None:
        for it, light in zip(self.members, self.place.lights(), strict=False):
            speed_bd = (
                self.place.speeds_bd[self.members.index(it)] if isinstance(self.place, StandInPlace) else self.place.speed_bd
            )
            if (light, speed_bd) != it.light:
                it.light = (light, speed_bd)
                await self._tell(
                    it,
                    kind="light",
                    mode=light.mode,
                    turns_s=list(light.blink.turns_s),
                    text=light.blink.text,
                    key=light.is_key_up,
                    power=light.is_powered,
                    linked=light.is_linked,
                    speed=speed_bd,
                )

    def _veiled(self, text: str) -> str:
        """Write a text without any password of a network in it."""
        text = veiled(text)
        for secret in self.secrets:
            text = text.replace(f'"{secret}"', f'"{VEIL}"')
        return text


WANTED: Final = (
    (
        UNKNOWN_SENT,
        "It needs the other one's address: walk the other one's script first, or read its address back into the plan.",
    ),
    (SECRET.encode("ascii"), "Type the network's password first; it is sent and not kept."),
    (HOUSE.encode("ascii"), "Type the name of your network first; it is sent and not kept."),
)
