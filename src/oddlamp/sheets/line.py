"""The line of a project: stages in columns from thumb to lamp, what joins them, and the supply below."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from oddlamp.core.base import si
from oddlamp.core.checks.findings import Finding
from oddlamp.core.design.design import Design
from oddlamp.core.design.lamps import LampDesign
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.english import plural
from oddlamp.core.modules.goals import believed_of, role_of
from oddlamp.core.plan.signals import is_bus_link, label_of, shared_link, told_by
from oddlamp.sheets.marks import Marks, State, state_at
from oddlamp.sheets.supply_line import RailLine, Riser, lay_supply

BELIEVED = {"set": "set", "differs": "differs", "unknown": "known in part"}
HAS = {"remote": "key", "voice": "phrase", "feed": "line"}
GLOW = "#ffd56b"
BRANCH_ROW = 2  # the first that lies under a fan of lamps
TWO = 2  # channels that are told one by one; more of them need more room than there is
StageKind = Literal["handset", "air", "module", "wire", "words", "behaviour", "pins", "lamp", "input", "rail", "parts", "open"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One knot of the line: its name, the one or two numbers that decide it, and its state."""

    id: str
    kind: StageKind
    label: str
    numbers: str
    state: State
    column: int
    row: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Segment:
    """A stretch of thread between two stages; its state is that of the stage it leads to, or of the input it comes from."""

    a: str
    b: str
    state: State


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """What the screen draws, and nothing it would have to work out."""

    stages: tuple[Stage, ...]
    segments: tuple[Segment, ...]
    rails: tuple[RailLine, ...]
    risers: tuple[Riser, ...]
    columns: int


def draw_line(design: Design, findings: tuple[Finding, ...], opens: dict[str, str]) -> Line:
    """Lay a design out as a line.

    Args:
        design: the design.
        findings: what the rules found; they give each stage its state.
        opens: stage id to what is not worked out yet there.
    """
    edges = _edges(design)
    columns = _columns(design, edges)
    marks = _marks(findings)
    states = {stage: state_at(stage, marks, opens) for stage in columns}
    rows = _rows(columns) | _branches(design, columns)
    stages = tuple(_stage(design, stage, columns[stage], rows[stage], states[stage]) for stage in columns)
    segments = tuple(Segment(a=a, b=b, state=states[a if a.startswith("inputs.") else b]) for a, b in edges)
    rails, risers = lay_supply(design, columns, marks, opens)
    return Line(stages=stages, segments=segments, rails=rails, risers=risers, columns=max(columns.values(), default=-1) + 1)


def _marks(findings: Iterable[Finding]) -> Marks:
    """Gather the marks of every stage; an accepted stop is still worth a look."""
    marks: dict[str, set[str]] = {}
    for it in findings:
        marks.setdefault(it.stage, set()).add(("look" if it.severity == "stop" else "clear") if it.accepted else it.severity)
    return marks


def _edges(design: Design) -> list[tuple[str, str]]:
    """Follow every talk from hand to lamp; an edge that would close a ring is left out."""
    wanted: list[tuple[str, str]] = []
    for talk in design.talks.values():
        path = [design.nodes[talk.a].stage]
        for hop in talk.hops:
            path += [f"links.{hop.link_id}", design.nodes[hop.to_node].stage]
        last = design.nodes[talk.b]
        arrival = [
            *path[:-1],
            *([last.stage] if last.node.kind == "module" else []),
            talk.vocabulary.stage,
            f"rules.{talk.b}",
            f"pins.{talk.b}",
        ]
        wanted += pairwise(arrival)
        sender = design.nodes[talk.a]
        if sender.node.kind in ("board", "module"):
            wanted.append((f"rules.{talk.a}", sender.stage))
    wanted += [(f"pins.{lamp.host}", lamp.stage) for lamp in design.lamps.values()]
    for host in dict.fromkeys(lamp.host for lamp in design.lamps.values()):
        wanted += _told(design, host)
    wanted += [step for name, node in design.nodes.items() if node.node.kind == "chip" for step in _told(design, name)]
    receivers = [(it.id, it.receiver) for it in design.handsets.values() if it.receiver is not None]
    wanted += [(f"nodes.{name}", f"inputs.{receiver}") for name, receiver in receivers]
    wanted += [(f"inputs.{name}", f"rules.{it.host}") for name, it in design.plan.inputs.items()]
    edges: list[tuple[str, str]] = []
    after: dict[str, set[str]] = {}
    for a, b in dict.fromkeys(wanted):
        if a != b and a not in _reach(after, b):
            edges.append((a, b))
            after.setdefault(a, set()).add(b)
    return edges


def _told(design: Design, host: str) -> list[tuple[str, str]]:
    """Lead from the behaviour to a host's pins: at once, or for a chip over the pins of the board that tells it and the bus."""
    teller, stage = told_by(design.plan, host), design.nodes[host].stage
    if design.nodes[host].node.kind != "chip":
        return [(f"rules.{host}", f"pins.{host}")]
    links = design.buses[host]
    if teller is None or not links:
        return []
    return [(f"rules.{teller}", f"pins.{teller}"), (f"pins.{teller}", f"links.{links[0]}"), (f"links.{links[0]}", stage)]


def _reach(after: dict[str, set[str]], start: str) -> set[str]:
    seen, todo = {start}, [start]
    while todo:
        for nxt in after.get(todo.pop(), ()):
            if nxt not in seen:
                seen.add(nxt)
                todo.append(nxt)
    return seen


def _columns(design: Design, edges: list[tuple[str, str]]) -> dict[str, int]:
    """Put every stage as far right as the longest way to it; inputs stand just before what reads them."""
    order: dict[str, int] = {}
    for stage in [*(stage for edge in edges for stage in edge), *_loose(design)]:
        order.setdefault(stage, 0)
    for _ in order:
        moved = False
        for a, b in edges:
            if order[b] <= order[a]:
                order[b], moved = order[a] + 1, True
        if not moved:
            break
    for a, b in edges:
        if a.startswith("inputs."):
            order[a] = max(order[a], order[b] - 1)
    last, lamps = max(order.values(), default=0), {lamp.stage for lamp in design.lamps.values()}
    placed = {stage: last if stage in lamps else column for stage, column in order.items()}
    return dict(sorted(placed.items(), key=lambda it: it[1]))


def _loose(design: Design) -> list[str]:
    """List stages of things that no talk joins yet, so that nothing of the plan is left undrawn."""
    links = [f"links.{name}" for name in design.plan.links]
    return [*(node.stage for node in design.nodes.values()), *links, *(it.stage for it in design.vocabularies.values())]


def _branches(design: Design, columns: dict[str, int]) -> dict[str, int]:
    """Lay each chip and its bus in a row of its own, under the fan of the board's lamps; where that has none, the first goes on straight."""
    hosts = {lamp.host for lamp in design.lamps.values()}
    row = BRANCH_ROW if any(design.nodes[host].node.kind != "chip" for host in hosts) else 0
    rows: dict[str, int] = {}
    for chip, links in design.buses.items():
        stages = [it for it in (*(f"links.{link}" for link in links), design.nodes[chip].stage) if it in columns]
        rows |= dict.fromkeys(stages, row)
        row = max(row + 1, BRANCH_ROW)
    return rows


def _rows(columns: dict[str, int]) -> dict[str, int]:
    """Number the stages of a column; the thread's own stage first, then inputs and side links."""
    rows: dict[str, int] = {}
    used: dict[int, int] = {}
    for stage in sorted(columns, key=lambda it: it.startswith("inputs.")):
        column = columns[stage]
        rows[stage] = used.get(column, 0)
        used[column] = rows[stage] + 1
    return rows


def _stage(design: Design, stage: str, column: int, row: int, state: State) -> Stage:
    collection, _, name = stage.partition(".")
    kind, label, numbers = _DRAWN[collection](design, name)
    if state == "unknown" and not numbers:
        numbers = NOT_YET
    return Stage(id=stage, kind=kind, label=label, numbers=numbers, state=state, column=column, row=row)


Drawn = tuple[StageKind, str, str]


def _draw_node(design: Design, name: str) -> Drawn:
    node = design.nodes[name]
    if node.node.kind == "module":
        wires = [
            wire.baud.text
            for link_id, wire in design.wires.items()
            if name in (design.plan.links[link_id].a, design.plan.links[link_id].b)
        ]
        role = role_of(design, node)
        believed = BELIEVED.get(believed_of(design, node).state, "")  # a new one says nothing: that is what most are
        return "module", node.label, ", ".join(filter(None, (*wires[:1], role, believed)))
    if name in design.handsets:
        handset = design.handsets[name]
        if of := HAS.get(handset.kind):
            has = getattr(node.node, "lines", ()) if of == "line" else handset.controls
            return "handset", node.label, plural(len(has), of)
        return "handset", node.label, f"adds {handset.appends.label}"
    return "open", node.label, NOT_YET


def _draw_link(design: Design, name: str) -> Drawn:
    if name in design.airs:
        air = design.airs[name]
        return "air", design.plan.links[name].label or "Air", f"about {si(air.latency.known, 's', digits=2)}"
    ways = design.ways(shared_link(design.plan, name))
    numbers = _level_numbers(min(ways, key=room_v)) if ways else NOT_YET
    is_bus = is_bus_link(design.plan, name)
    return "wire", design.plan.links[name].label or ("Bus" if is_bus else "Hook-up"), numbers


def _level_numbers(way: LevelDesign) -> str:
    """Write what decides a level: against where a high begins where it is not heard, else against what harms."""
    got, high, limit = way.received, way.high, way.limit
    if got.value is None or limit.value is None or high.value is None:
        return got.text
    bound, word = (high, "wants") if got.value < high.value else (limit, "limit")
    return f"{got.text}, {word} {bound.text.removesuffix(chr(160) + 'V')}"


def room_v(way: LevelDesign) -> float:
    """Return how far the worst case stays from what harms and, for what must be heard, from what is not, V.

    Lines without numbers come last.
    """
    if way.received.value is None or way.limit.value is None or way.high.value is None:
        return float("inf")
    unheard_v = way.received.value - way.high.value
    return unheard_v if unheard_v < 0 else way.limit.value - way.received.high


def _draw_words(design: Design, name: str) -> Drawn:
    vocabulary = design.vocabularies[name]
    ending = {"none": "no ending", "cr": "end CR", "lf": "end LF", "cr-lf": "end CR LF"}.get(
        vocabulary.terminator_name, f"end {vocabulary.terminator_name}"
    )
    return ("words", design.plan.vocabularies[name].label or "Words", f"{plural(len(vocabulary.words), 'word')}, {ending}")


def _draw_rules(design: Design, name: str) -> Drawn:
    return "behaviour", "Behaviour", plural(len(design.rules_of(name)), "rule")


def _draw_pins(design: Design, name: str) -> Drawn:
    node = design.nodes[name]
    mine = [pin for pin in design.pins if pin.host == name]
    count = len(node.part.usable_pins) if node.part else 0
    label = "Pins" if node.node.kind == "module" or node.label == "Board" else node.label
    told = f"{sum(pin.label is not None for pin in mine)} of {count}" if count or node.part is None else "tells the time"
    return "pins", label, told


def _draw_lamp(design: Design, name: str) -> Drawn:
    lamp = design.lamps[name]
    return "lamp", lamp.label, lamp_numbers(lamp)


def lamp_numbers(lamp: LampDesign) -> str:
    """Write what decides a lamp: ``18.7 of 20 mA``, for two channels both, for more from least to most; for loads what they take."""
    if lamp.load is not None and lamp.load.current.value is not None:
        return f"{lamp.load.current.text}" + (" all white" if lamp.kind.startswith("pixels") else "")
    if lamp.open_because is not None or not lamp.channels:
        return NOT_YET
    if any(channel.current.value is None for channel in lamp.channels):
        return "no current to state"
    parts = [channel.current_with_pin.text for channel in lamp.channels]
    if len(parts) == 1:
        return f"{_bare(parts[0])} of {lamp.channels[0].wanted.text}"
    if len(parts) == TWO:
        return f"{_bare(parts[0])} / {parts[1]}"
    ordered = [it.current_with_pin.text for it in sorted(lamp.channels, key=lambda it: it.current_with_pin.known)]
    return ordered[0] if ordered[0] == ordered[-1] else f"{_bare(ordered[0])} to {ordered[-1]}"


def _bare(text: str) -> str:
    return text.removesuffix("\u00a0mA")


def _draw_input(design: Design, name: str) -> Drawn:
    lead = design.level(f"{name}.in")
    numbers = (
        NOT_YET
        if lead is None or lead.received.value is None
        else f"{lead.received.text}, limit {si(lead.limit.known, 'V')}"
        if lead.limit.value
        else lead.received.text
    )
    it = design.plan.inputs[name]
    return "input", label_of(it.label, name), numbers if it.count in (None, 1) else f"{it.count} alike, {numbers}"


_DRAWN = {
    "nodes": _draw_node,
    "links": _draw_link,
    "vocabularies": _draw_words,
    "rules": _draw_rules,
    "pins": _draw_pins,
    "lamps": _draw_lamp,
    "inputs": _draw_input,
}
