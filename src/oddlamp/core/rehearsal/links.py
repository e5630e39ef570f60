"""How messages run over links in a rehearsal: through the air, along wires, and through the modules between them."""

from collections import deque
from collections.abc import Callable, Sequence
from functools import cache
from itertools import repeat
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.behaviour.framing import Heard, byte_time_s
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import Way
from oddlamp.core.design.talks import Hop, TalkDesign, way_of
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.modules.air import FIND_S
from oddlamp.core.modules.stand_in import Said, StandIn
from oddlamp.core.modules.uart import Port, garbage
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.text import shown
from oddlamp.core.rehearsal.actors import Actors, told
from oddlamp.core.rehearsal.buffers import PORT_HOLDS, SAYING, Buffers
from oddlamp.core.rehearsal.course import Course, event_of
from oddlamp.core.rehearsal.legs import Flight, Leg, PassageOver, legs_of, quiet_s, walk
from oddlamp.core.rehearsal.lights import Lights
from oddlamp.core.rehearsal.outlets import lost_or_doubted
from oddlamp.core.rehearsal.ports import Ports
from oddlamp.core.rehearsal.software import spoken_in_software
from oddlamp.core.rehearsal.trace import Saying
from oddlamp.core.rehearsal.troubles import Troubles

_HEX: Final = tuple(f"{byte:02x}" for byte in range(256))
PROMPT: Final = b"> "
OWN: Final = "the module's own, passed over"
WAITS: Final = "waits for the line"


class Links:
    """Wires, air and modules of a run. What arrives is given to ``hear``; what a module does to its own pins goes to the lights."""

    def __init__(
        self,
        design: Design,
        course: Course,
        lights: Lights,
        buffers: Buffers,
        troubles: Troubles,
        hear: Callable[[float, TalkDesign, Heard, bool], None],
    ) -> None:
        self.design, self.course, self.lights, self.buffers, self.hear = design, course, lights, buffers, hear
        self.troubles = troubles
        self.cut: set[str] = set()
        self.block: Callable[[str, float], None] = lambda node, until_s: None
        self.actors = Actors(design)
        self.in_software = spoken_in_software(design)
        self.legs = {(it.id, way): legs_of(it, goes_out=way) for it in design.talks.values() for way in (True, False)}
        self.own: set[int] = set()
        self.sending: set[int] = set()
        self.garbled: dict[int, str] = {}
        self.wire_free_s: dict[str, float] = {}
        self.ports = Ports(design, course, buffers, self.garbled, self.wire_free_s, hear)
        self.said: dict[str, list[Saying]] = {}
        self.ready_s: dict[str, float] = {}
        self.unsent: dict[str, deque[tuple[Leg, bytes, int]]] = {}
        # The same few links come up thousands of times in a run: each is looked up once.
        self.flight, self.passage = cache(self._flight), cache(self._passage)
        for node_id, said in self.actors.said_at_first:
            self._took(0.0, node_id, [said._replace(at_s=0.0)], None)

    def send(self, t_s: float, talk: TalkDesign, content: bytes, *, goes_out: bool) -> None:
        """Send a message off from its first node."""
        self.course.later(t_s, self._leave, self.legs[talk.id, goes_out], content)

    def _leave(self, t_s: float, leg: Leg, content: bytes, speed_bd: int = 0, carried: int | None = None) -> None:
        """Carry a message over its next link; one that a module says goes at that one's speed, its last bytes being what it carries."""
        hop = leg.hop
        if hop is None:
            return
        if hop.kind == "air":
            self._fly(t_s, leg, hop, content)
        else:
            self._wire(t_s, leg, hop, content, speed_bd, len(content) if carried is None else carried)

    def _reach(self, t_s: float, leg: Leg, content: bytes, by_bd: int = 0) -> None:
        """Let a message arrive at a node: by a wire at a speed, or over the air."""
        module = self.actors.modules.get(leg.node)
        if module is None:
            if leg.hop is not None:
                self._leave(t_s, leg, content)
                return
            parser = self.ports.parser(leg)
            for _, heard in parser.feed(content):
                self.hear(t_s, leg.talk, heard, leg.goes_out)
            self.ports.await_quiet(t_s, leg, parser)
            return
        if leg.hop is None:
            self._obey(t_s, leg, module, content)
        elif module.carries(content) and by_bd in (0, module.speed_bd) and module.parity == "none":
            self._leave(t_s, leg, content, module.speed_bd)
        else:
            if by_bd and by_bd != module.speed_bd:
                self.garbled[self.course.message] = self.actors.unlike(leg.node, by_bd)
            said = module.hear_at(t_s, content, Port(by_bd)) if by_bd else module.hear_air(t_s, content)
            self._took(t_s, leg.node, said, leg)
            if by_bd and module.dialect.enters == "always":
                return  # its program sees to it
            if not any(it.carried for it in said) and self.course.message not in self.own:
                self.course.lose(t_s, self.design.nodes[leg.node].stage, leg.node, self.actors.why_not(leg.node), content)

    def _obey(self, t_s: float, leg: Leg, module: StandIn, content: bytes) -> None:
        """Let a module that drives lamps by itself take a message: what it does to its pins is what happens."""
        node = self.design.nodes[leg.node]
        is_bytes = isinstance(node.part, ModulePart) and node.part.is_driven_by_bytes
        said = module.control(t_s, content) if is_bytes else module.hear_air(t_s, content)
        obeys = any(it.to == "pin" for it in said)
        for _, heard in self.ports.parser(leg).feed(content):
            if heard.word is not None or not obeys:
                self.hear(t_s, leg.talk, heard, leg.goes_out)
            if heard.word is not None and not obeys:
                because = (
                    f"it knows no {' '.join(map(shown, content))}" if module.mode == "linked" else self.actors.why_not(node.id)
                )
                self.course.lose(t_s, node.stage, node.id, because, content)
        self._took(t_s, node.id, said, leg)

    def _took(self, t_s: float, node_id: str, said: list[Said], leg: Leg | None) -> None:
        """Take what a module says or does: what it carries goes on with its message, what is its own is a message by itself."""
        for it in said:
            if it.to == "pin":
                top = 1.0 if self._is_on_off(node_id, it.pin) else 100.0
                self.course.later(max(it.at_s, t_s), self.lights.drive, node_id, it.pin, min(it.content[0] / top, 1.0))
                continue
            way = self._way_out(node_id, it.to, leg)
            if way is None:
                continue
            before = None if it.carried else self.course.begin_message()
            if before is not None:
                self.own.add(self.course.message)
                if it.to == "wire" and self.actors.modules[node_id].dialect.enters == "always":
                    self.course.asides.add(self.course.message)
            self.course.later(max(it.at_s, t_s), self._leave, way, it.content, it.speed_bd, it.carried)
            if before is not None:
                self.course.message = before

    def _is_on_off(self, node_id: str, pin: str) -> bool:
        part = self.design.nodes[node_id].part
        output = part.outputs.get(pin) if isinstance(part, ModulePart) else None
        return output is None or output.duty is None

    def _way_out(self, node_id: str, kind: str, leg: Leg | None) -> Leg | None:
        """Find the way that leaves a module by the air or by its wire: on the talk of the moment, else on the first there is."""
        firsts = [it for (talk_id, _), it in self.legs.items() if leg is None or talk_id == leg.talk.id]
        return next((it for first in firsts for it in walk(first) if it.node == node_id and it.hop and it.hop.kind == kind), None)

    def _fly(self, t_s: float, leg: Leg, hop: Hop, content: bytes) -> None:
        flight = self.flight(hop.link_id, way_of(hop, goes_out=leg.goes_out), leg.next.node)
        stage, ref, lost_because, may_not, most_bytes, latency_s, to_module = flight
        course = self.course
        if lost_because is not None or hop.link_id in self.cut:
            course.lose(t_s, stage, ref, lost_because or "the link is lost", content)
            return
        module = self.actors.modules.get(to_module.id) if to_module is not None else None
        if module is not None and to_module is not None and not module.is_linked:
            if hop.link_id not in self.actors.airs:
                said = module.link(t_s, is_there=True)
                self._took(t_s, to_module.id, said, leg.next)
                self.ready_s[to_module.id] = t_s + quiet_s(said, module.speed_bd, leg.talk)
            if not module.is_linked:
                course.lose(t_s, to_module.stage, to_module.id, self.actors.why_not(to_module.id), content)
                return
        if to_module is not None and t_s < (ready_s := self.ready_s.get(to_module.id, 0.0)):
            course.later(ready_s, self._fly, leg, hop, content)
            return
        lands_s, message = t_s, course.message
        for at in range(0, len(content), most_bytes):
            packet = content[at : at + most_bytes]
            sent, lands_s = packet.hex(), lands_s + latency_s
            if self.troubles.now and self.troubles.loses_packet(hop.link_id):
                course.lose(t_s, stage, ref, "the packet is lost in the air", packet)
                continue
            course.trace.append(event_of((t_s, stage, ref, sent, None, None, "in the air", lands_s, None, message, may_not)))
            if to_module is not None:
                there = (lands_s, to_module.stage, to_module.id, sent, None, None, "", None, None, message, None)
                course.trace.append(event_of(there))
            course.later(lands_s, self._reach, leg.next, packet)

    def _flight(self, link_id: str, way: Way, to_node: str) -> Flight:
        air, passage, to = self.design.airs[link_id], self.design.passages[f"{link_id}.{way}"], self.design.nodes[to_node]
        module = to if to.node.kind == "module" else None
        return Flight(air.stage, link_id, *lost_or_doubted(passage), air.packet_most_bytes, air.latency.known, module)

    def _wire(self, t_s: float, leg: Leg, hop: Hop, content: bytes, speed_bd: int, carried: int) -> None:
        stage, ref, lost_because, may_not, volts, baud_bd, to_module = self.passage(
            hop.link_id, way_of(hop, goes_out=leg.goes_out)
        )
        course, there = self.course, leg.next
        if self.troubles.now:
            lost_because = lost_because or self.troubles.wire_lost(hop.link_id)
            speed_bd = self._wrong_speed(leg, speed_bd)
        if lost_because is not None:
            course.lose(t_s, stage, ref, lost_because, content)
            return
        taker = self.actors.modules.get(there.node)
        if taker is not None and taker.dialect.enters == "always" and not self._is_under_way(course.message):
            self._ask_to_send(t_s, leg, content)
            return
        said_bd = speed_bd or baud_bd
        byte_s = byte_time_s(said_bd)
        start_s, message = max(t_s, self.wire_free_s.get(ref, 0.0)), course.message
        ends_s = self.wire_free_s[ref] = start_s + len(content) * byte_s
        if start_s > t_s + byte_s:
            giver_stage = self.design.nodes[leg.node].stage
            course.trace.append(event_of((t_s, giver_stage, leg.node, "", None, None, WAITS, start_s, None, message, None)))
        starts = [start_s + at * byte_s for at in range(len(content))]
        rows = zip(
            starts, repeat(stage), repeat(ref), map(_HEX.__getitem__, content), repeat(volts), repeat(None), repeat(""),
            [*starts[1:], ends_s], repeat(None), repeat(message), repeat(may_not),
        )  # fmt: skip
        course.trace.extend(map(event_of, rows))
        if not speed_bd:  # a board says it, and no module
            self.said.setdefault(ref, []).append(Saying(start_s, content.hex()))
            if hop.link_id in self.in_software.get(leg.node, ()):  # each byte is made by the program itself
                self.block(leg.node, ends_s)
                self.buffers.deafen(leg.node, start_s, ends_s, SAYING)
            elif ends_s - t_s > PORT_HOLDS * byte_s:  # no more wait to go out: the program stands still until they fit
                self.block(leg.node, ends_s - PORT_HOLDS * byte_s)
        if to_module is not None:
            course.trace.append(
                event_of((ends_s, to_module.stage, to_module.id, content.hex(), None, None, "", None, None, message, None))
            )
        if there.hop is not None or taker is not None:
            arrives = self._misheard(there.node, content, said_bd) if self.troubles.now else content
            if arrives:
                course.later(ends_s, self._reach, there, arrives, said_bd)
            else:
                course.lose(ends_s, stage, ref, self.garbled[message])
            return
        giver = self.actors.modules.get(leg.node)
        at_s = start_s
        if said_bd != baud_bd or (giver is not None and giver.port.parity != "none"):
            content, carried = self._garble(content, giver, said_bd, baud_bd), 0
            if not content:
                course.lose(ends_s, stage, ref, self.garbled[message])
                return
        elif giver is not None and giver.dialect.enters == "always":
            course.later(ends_s, self._program_hears, leg.node, there, content[: len(content) - carried])
            at_s += (len(content) - carried) * byte_s
            content = content[len(content) - carried :]
        self.ports.take(there, ref, content, at_s, byte_s, ends_s)

    def _wrong_speed(self, leg: Leg, speed_bd: int) -> int:
        """Return the speed that a module speaks at, where that is another than was set in it."""
        trouble = self.troubles.of("speed", leg.node)
        return trouble.baud_bd if trouble is not None and trouble.baud_bd else speed_bd

    def _misheard(self, node_id: str, content: bytes, said_bd: int) -> bytes:
        """Return what a module makes of what comes at another speed than it listens at, and note why."""
        trouble = self.troubles.of("speed", node_id)
        if trouble is None or not trouble.baud_bd:
            return content
        told = f"the module listens at {si(trouble.baud_bd, 'Bd')}, {si(said_bd, 'Bd')} came"
        self.garbled[self.course.message] = told
        return bytes(it.byte for it in garbage(content, Port(said_bd), Port(trouble.baud_bd)))

    def cut_off(self, t_s: float, link_id: str, *, is_lost: bool) -> None:
        """Let a radio link be lost, as when somebody walks away, or be there again: what both ends say of it is said."""
        link = self.design.plan.links[link_id]
        (self.cut.add if is_lost else self.cut.discard)(link_id)
        for name in (link.a, link.b):
            module = self.actors.modules.get(name)
            if module is not None and module.is_powered:
                self._took(t_s, name, module.link(t_s, is_there=not is_lost), None)

    def _is_under_way(self, message: int) -> bool:
        """Tell whether what goes to a module that wants to be asked is the asking itself, or what it was asked for."""
        return message in self.own or message in self.sending

    def _garble(self, content: bytes, giver: StandIn | None, said_bd: int, baud_bd: int) -> bytes:
        """Return what a listener at its own speed and 8N1 makes of what a module says, and note why."""
        sender = Port(said_bd, parity=giver.port.parity if giver is not None else "none")
        with_parity = "" if sender.parity == "none" else f" with {sender.parity} parity"
        self.garbled[self.course.message] = (
            f"the module speaks at {si(said_bd, 'Bd')}{with_parity}, the board listens at {si(baud_bd, 'Bd')}"
        )
        return bytes(it.byte for it in garbage(content, sender, Port(baud_bd)))

    def _ask_to_send(self, t_s: float, leg: Leg, content: bytes) -> None:
        """Let a board's program ask its module to send, one message after the other: the bytes follow at the prompt."""
        waiting = self.unsent.setdefault(leg.next.node, deque())
        waiting.append((leg, content, self.course.message))
        if len(waiting) == 1:
            self._ask(t_s, leg, content)

    def _ask(self, t_s: float, leg: Leg, content: bytes) -> None:
        before = self.course.begin_message()
        self.own.add(self.course.message)
        self.course.asides.add(self.course.message)
        self._leave(t_s, leg, f"AT+CIPSEND=0,{len(content)}\r\n".encode("ascii"))
        self.course.message = before

    def _program_hears(self, t_s: float, node_id: str, leg: Leg, own: bytes) -> None:
        """Let a board's program take what its module says by itself: the prompt, that it was sent, an error, that it has started."""
        module, waiting = self.actors.modules[node_id], self.unsent.get(node_id)
        if own and self.course.message in self.own:
            self.course.note(t_s, self.design.nodes[leg.node].stage, leg.talk.id, own, says=OWN)
        if module.dialect.boot is not None and own.strip() == module.dialect.boot.ready.encode("ascii"):
            self.actors.start_again(node_id, t_s)
        if not waiting:
            return
        to, content, message = waiting[0]
        if own.endswith(PROMPT):
            self.course.message = message
            self.sending.add(message)
            self._leave(t_s, to, content)
        elif b"SEND OK" in own or b"ERROR" in own:
            waiting.popleft()
            if b"ERROR" in own:
                self.course.message = message
                self.course.lose(t_s, self.design.nodes[node_id].stage, node_id, self.actors.why_not(node_id), content)
            if waiting:
                self.course.message = waiting[0][2]
                self._ask(t_s, *waiting[0][:2])

    def _passage(self, link_id: str, way: Way) -> PassageOver:
        wire, baud_bd = self.design.level(f"{link_id}.{way}"), self.design.wires[link_id].baud.known
        if wire is None:
            return PassageOver(f"links.{link_id}", f"{link_id}.{way}", NOT_YET, None, 0.0, int(baud_bd), None)
        module = wire.receiver if wire.receiver.node.kind == "module" else None
        heard = lost_or_doubted(self.design.passages[wire.id])
        return PassageOver(wire.stage, wire.id, *heard, wire.received.value or 0.0, int(baud_bd), module)

    def happen(self, t_s: float, node_id: str, deeds: Sequence[str]) -> None:
        """Let things happen to a module: to its power, its key, its settings, or whoever is linked leaves."""
        module, stage = self.actors.modules[node_id], self.design.nodes[node_id].stage
        said: list[Said] = []
        for does in deeds:
            match does:
                case "power-on" | "power-off":
                    said += module.power(t_s, is_on=does == "power-on")
                case "key-up" | "key-down":
                    said += module.key(t_s, is_up=does == "key-up")
                case "leave":
                    said += module.link(t_s, is_there=False)
                case _:
                    (self.actors.undo if does == "as-bought" else self.actors.redo)(node_id)
                    said += [*module.power(t_s, is_on=False), *module.power(t_s, is_on=True)]
        if not {"power-off", "as-bought", "set-up"}.isdisjoint(deeds):
            self.lights.all_dark(t_s, node_id)
        self.course.note(t_s, stage, node_id, says=told(module))
        self._took(t_s, node_id, said, None)
        pair = self.actors.pair_of(node_id)
        if pair is not None:
            self._look(t_s, pair)
            self.course.later(t_s + FIND_S, self._look, pair)

    def _look(self, t_s: float, link_id: str) -> None:
        for node_id, said in self.actors.look(link_id, t_s):
            self._took(t_s, node_id, [said], None)
