"""Rules for a listener that is busy: bytes that come while its program waits, while pixels are written, and text it puts together."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Same, Working, si
from oddlamp.core.behaviour.framing import byte_time_s
from oddlamp.core.checks.apart import heard_out
from oddlamp.core.checks.carried import BUFFER_HOLDS, needs_s, said_every_s
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import ControlDesign, TalkDesign
from oddlamp.core.english import inner, plural
from oddlamp.core.parts.models import BoardPart, LogicPart
from oddlamp.core.pins.board import hears_in_software, ports
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.fields import Saying

PIXEL_S: Final = 30e-6  # 24 bits of 1.25 us; from memory
KEPT_BYTES: Final = 2  # of those that arrive while interrupts are off, besides the one still arriving; from memory
SMALL_RAM_BYTES: Final = 2048
CALM_S: Final = (0.02, 0.05, 0.1, 0.2, 0.5, 1.0)
SAFE_SPEEDS: Final = (57_600, 38_400, 19_200, 9_600, 4_800)


def heard_at(design: Design, host: str) -> Iterator[tuple[str, float]]:
    """Walk the wires on which a host hears, with their speeds, Bd."""
    for link_id, wire in design.wires.items():
        link = design.plan.links[link_id]
        if host in (link.a, link.b) and link.kind == "wire" and link.transport in (None, "uart", "usb"):
            yield link_id, wire.baud.known


def nothing_runs_over(design: Design) -> Iterator[Breach]:
    """While a program or what the maker added to it is busy, no more comes in than its port holds."""
    for node in design.nodes.values():
        busy_s, path = max(_pauses(design, node), default=(0.0, ("",)), key=lambda it: it[0])
        for link_id, speed_bd in heard_at(design, node.id) if busy_s else ():
            most = int(busy_s / byte_time_s(speed_bd))
            if most <= BUFFER_HOLDS:
                continue
            streamed = _streamed(design, node.id, link_id, busy_s)
            held_s = BUFFER_HOLDS * byte_time_s(speed_bd)
            told = f"sliders send {streamed} of them" if streamed > BUFFER_HOLDS else "a full line brings as many"
            yield Breach(
                severity="stop" if streamed > BUFFER_HOLDS else "look",
                where=f"{node.id}.{link_id}.busy",
                stage=node.stage,
                message=f"{si(busy_s, 's')} without looking at {si(speed_bd, 'Bd')} can bring {most} bytes ({told}), and the port holds {BUFFER_HOLDS}: the rest is lost.",
                working=(
                    Working(
                        formula="pause × baud / 10 ≤ 63",
                        substituted=f"{si(busy_s, 's')} × {speed_bd:.0f} / 10 = {most}",
                        source="from-memory",
                    ),
                ),
                fixes=(Move(label=f"Look every {si(_below(held_s), 's')}", patch=at_path(path, _below(held_s))),),
                numbers={"bytes": most},
            )


def _pauses(design: Design, node: NodeDesign) -> Iterator[tuple[float, tuple[str, ...]]]:
    """Yield how long a board's program takes nothing, and where that is told: by itself, and by each region of the maker's own."""
    if node.node.kind == "board" and node.node.busy_s:
        yield node.node.busy_s, ("nodes", node.id, "busy_s")
    own = design.plan.programs.get(node.id)
    for place in own.regions if own is not None else ():
        if place != "top":
            yield own.takes_s(place) if own is not None else 0.0, ("programs", node.id, "regions", place, "longest_s")


def _below(held_s: float) -> float:
    """Return a round time that is within what the port holds."""
    return next((it for it in (0.5, 0.2, 0.1, 0.05, 0.02, 0.01, 0.005, 0.002, 0.001) if it <= held_s), held_s)


def _streamed(design: Design, host: str, link_id: str, within_s: float) -> int:
    """Return how many bytes sliders send over a wire in some time, as often as they were set to."""
    total = 0.0
    for handset in design.handsets.values():
        for control in handset.controls:
            said, need = control.says.get("move"), needs_s(design, handset, control)
            if said is None or need is None or not control.interval_s:
                continue
            talk = design.talks[said[0]]
            if talk.b == host and any(hop.link_id == link_id for hop in talk.hops):
                total += need.size * within_s / control.interval_s
    return int(total)


def pixels_leave_time_to_hear(design: Design) -> Iterator[Breach]:
    """While one-wire pixels are written with interrupts off, no more comes in than the port keeps."""
    for node in design.nodes.values():
        if not isinstance(node.part, BoardPart) or not node.part.is_deaf_to_pixels:
            continue
        count = sum(it.load.pixels for it in _written(design, node.id) if it.load)
        streams = {hop.link_id for talk in _slid(design, node.id) for hop in talk.hops}
        for link_id, speed_bd in heard_at(design, node.id) if count else ():
            if link_id not in streams:
                continue  # a thumb leaves more time between two words than any chain takes
            deaf_s, byte_s, soft = count * PIXEL_S, byte_time_s(speed_bd), is_software(design, node, link_id)
            if deaf_s <= (0 if soft else KEPT_BYTES * byte_s):
                continue
            is_sure = soft or deaf_s > (KEPT_BYTES + 1) * byte_s
            what = (
                "hears in software, and nothing meanwhile" if soft else f"keeps {plural(KEPT_BYTES, 'byte')} and the one arriving"
            )
            yield Breach(
                severity="look",
                where=f"{node.id}.{link_id}.deaf",
                stage=node.stage,
                message=f"Writing {plural(count, 'pixel')} takes {si(deaf_s, 's')} with interrupts off, {deaf_s / byte_s:.2g} bytes at {si(speed_bd, 'Bd')}; the port {what}: bytes of a word that come then {'are' if is_sure else 'may be'} lost.",
                working=(
                    Working(
                        formula="n × 30 µs ≤ 2 × 10 / baud",
                        substituted=f"{count} × 30 µs = {si(deaf_s, 's')}, a byte takes {si(byte_s, 's')}",
                        source="from-memory",
                    ),
                ),
                ways=partial(_to_hear, design, node, link_id, deaf_s),
                numbers={"bytes": deaf_s / byte_s},
            )


def _written(design: Design, host: str) -> list[LampDesign]:
    """List the chains of one-wire pixels that some rule of a host writes."""
    told = {lamp for _, rule in design.rules_of(host) for action in rule.do for lamp in design.targets(action.target)}
    return [it for it in design.lamps.values() if it.id in told and it.host == host and it.kind == "pixels-one-wire" and it.load]


def _slid(design: Design, host: str) -> Iterator[TalkDesign]:
    """Walk the talks over which sliders send one word after another to a host."""
    for handset in design.handsets.values():
        for control in handset.controls:
            if "move" in control.says and not control.at_rest and design.talks[control.says["move"][0]].b == host:
                yield design.talks[control.says["move"][0]]


def is_software(design: Design, node: NodeDesign, link_id: str) -> bool:
    """Tell whether a wire's receiving pin is no port's, so that the program itself hears each bit."""
    link = design.plan.links[link_id]
    way = "a_to_b" if link.b == node.id else "b_to_a"
    signal = design.signals.get(f"{link_id}.{way}")
    pin = signal.pin if signal is not None else None
    if node.part is None or pin is None or pin.label is None or pin.host != node.id:
        return False
    found = node.part.pin(pin.label)
    return hears_in_software(node.part) and (found is None or found.port is None)


def _to_hear(design: Design, node: NodeDesign, link_id: str, deaf_s: float) -> Iterator[Move]:
    slower = [it for it in SAFE_SPEEDS if deaf_s <= KEPT_BYTES * byte_time_s(it) and it < design.wires[link_id].baud.known]
    moves = [
        Move(label=f"Run the wire at {si(it, 'Bd')}", patch=at_path(("links", link_id, "baud_rate_bd"), it)) for it in slower[:1]
    ]
    if is_software(design, node, link_id) and node.part is not None:
        moves += [_on_port(design, node, link_id, node.part)] if ports(Same(node.part)) else []
    elif (room := int(KEPT_BYTES * byte_time_s(design.wires[link_id].baud.known) / PIXEL_S)) > 0:
        longest = max(_written(design, node.id), key=lambda it: it.load.pixels if it.load else 0)
        count = room - sum(it.load.pixels for it in _written(design, node.id) if it is not longest and it.load)
        if count > 0:
            patch = at_path(("lamps", longest.id, "layout"), {"runs": [{"count": count}]})
            moves.append(Move(label=f"Shorten {longest.label} to {plural(count, 'pixel')}", patch=patch))
    for board_id, board in design.catalog.boards.items():
        if not board.is_deaf_to_pixels and node.part is not None and set(node.part.radios) <= set(board.radios):
            choice = {"part": board_id, "overrides": None}
            moves.append(Move(label=f"Take a {inner(board.label)}", patch=at_path(("nodes", node.id, "choice"), choice)))
    yield from that_clear(design, "CMD-PIXEL-DEAF", f"{node.id}.{link_id}.deaf", moves)


def _on_port(design: Design, node: NodeDesign, link_id: str, part: LogicPart) -> Move:
    """Offer the pins of a port of the chip's own, which hears by itself."""
    send, hear = ports(Same(part))[0]
    hears, speaks = ("a_to_b", "b_to_a") if design.plan.links[link_id].b == node.id else ("b_to_a", "a_to_b")
    patch = {"signals": {f"{link_id}.{hears}": {"pin": hear}, f"{link_id}.{speaks}": {"pin": send}}}
    return Move(label=f"Put the wire on the chip's own port, pins {hear} and {send}", patch=patch)


def text_is_not_put_together(design: Design) -> Iterator[Breach]:
    """A program of one's own on a small chip takes words that vary in length into a buffer of fixed length."""
    for node in design.nodes.values():
        is_own = node.node.kind == "board" and node.node.program == "own"
        if not is_own or not isinstance(node.part, BoardPart) or node.part.ram_bytes > SMALL_RAM_BYTES:
            continue
        talks = [it for it in design.talks.values() if it.b == node.id]
        sizes = [len(word.content) for talk in talks for word in heard_out(talk.vocabulary, "out") if word.parameters]
        if sizes:
            yield Breach(
                severity="look",
                where=f"{node.id}.text",
                stage=node.stage,
                message=f"Your own program has {node.part.ram_bytes} bytes for everything: text that grows letter by letter breaks them up until nothing fits. Take words into a fixed {max(sizes) + 1} bytes.",
                working=(
                    Working(
                        formula="a fixed buffer: longest word and one",
                        substituted=f"{max(sizes)} + 1 of {node.part.ram_bytes} bytes",
                        source="common-practice",
                    ),
                ),
                fixes=(Move(label="Let Odd Lamp write the program", patch=at_path(("nodes", node.id, "program"), "generated")),),
                numbers={"bytes": max(sizes)},
            )


def answers_leave_time_to_hear(design: Design) -> Iterator[Breach]:
    """What a board hears in software it does not hear while it speaks: answers are said before the next word of a slider comes."""
    for handset in design.handsets.values():
        for control in handset.controls:
            need, said = needs_s(design, handset, control), control.says.get("move")
            if need is None or said is None:
                continue
            talk = design.talks[said[0]]
            node, every_s = design.nodes[talk.b], said_every_s(design, handset, control)
            wire = next((hop.link_id for hop in talk.hops if hop.link_id in design.wires and hop.to_node == talk.b), None)
            if wire is None or not isinstance(node.part, BoardPart) or not is_software(design, node, wire):
                continue
            size = sum(
                _answer(design, wire, say)
                for _, rule in design.rules_of(talk.b)
                if rule.when.heard == said[1]
                for it in rule.do
                if (say := it.say) is not None
            )
            byte_s = byte_time_s(design.wires[wire].baud.known)
            if size * byte_s + need.wire_s <= every_s:
                continue
            yield Breach(
                severity="look",
                where=f"{control.node_id}.{control.id}.over",
                stage=node.stage,
                message=f"{control.label} says a word every {si(every_s, 's')}; the word and its answer take {si(size * byte_s + need.wire_s, 's')}, and what is heard in software is not heard while the board speaks: the next word is lost.",
                working=(
                    Working(
                        formula="(bytes of the word + bytes of its answer) × 10 / baud ≤ interval",
                        substituted=f"({need.size} + {size}) × {si(byte_s, 's')} = {si(size * byte_s + need.wire_s, 's')} against {si(every_s, 's')}",
                        source="from-memory",
                    ),
                ),
                ways=partial(_to_answer, design, node, wire, control, size * byte_s + need.wire_s),
                numbers={"bytes": size},
            )


def _answer(design: Design, wire: str, say: Saying) -> int:
    """Return how many bytes an answer has on a wire, at its longest; none where it goes another way."""
    talk = design.talks[say.talk]
    word = talk.vocabulary.word(say.word)
    if not any(hop.link_id == wire for hop in talk.hops):
        return 0
    longest = word.built({it.id: "x" * it.field.most if it.written == "text" else it.field.most for it in word.parameters})
    return len(longest) + len(talk.vocabulary.terminator)


def _to_answer(design: Design, node: NodeDesign, wire: str, control: ControlDesign, takes_s: float) -> Iterator[Move]:
    path = ("nodes", control.node_id, "controls", control.id)
    says = {gesture: {"talk": talk, "word": word} for gesture, (talk, word) in control.says.items()}
    told = {"kind": control.kind, "says": says}
    calm_s = next((it for it in CALM_S if it >= takes_s), takes_s)
    moves = [
        Move(label=f"Say it every {si(calm_s, 's')}", patch=at_path(path, {**told, "interval_s": calm_s})),
        Move(label="Say it once it rests", patch=at_path(path, {**told, "sends": "at-rest"})),
    ]
    if node.part is not None and ports(Same(node.part)):
        moves.insert(0, _on_port(design, node, wire, node.part))
    yield from that_clear(design, "CMD-HALF-DUPLEX", f"{control.node_id}.{control.id}.over", moves)


RULES: Final = (
    Rule(
        "CMD-HALF-DUPLEX",
        "words",
        answers_leave_time_to_hear,
        "",
        "on a wire that is heard in software, a word and its answer take longer than until the next word of a slider",
        "from memory",
    ),
    Rule(
        "CMD-BLOCK",
        "words",
        nothing_runs_over,
        "while the program is busy, sliders send more bytes than its port holds",
        "a full line would bring more than its port holds",
        "63 bytes, from memory",
    ),
    Rule(
        "CMD-PIXEL-DEAF",
        "words",
        pixels_leave_time_to_hear,
        "",
        "writing one-wire pixels with interrupts off takes longer than the port keeps bytes",
        "30 us a pixel and two bytes kept, from memory",
    ),
    Rule(
        "CMD-MEMORY",
        "words",
        text_is_not_put_together,
        "",
        "a program of one's own on a chip of 2 kB takes words that vary in length",
        "common practice",
    ),
)
