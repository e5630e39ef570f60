"""Pins for every line of the plan: what each wants of its host, and the best whole assignment of it, marked proposed."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal, NamedTuple

from oddlamp.core.design.lines import PinDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import AirDesign
from oddlamp.core.english import and_list
from oddlamp.core.parts.models import Catalog, LogicPart
from oddlamp.core.parts.pins import Pin, PinCost, PinCosts
from oddlamp.core.pins.solve import Group, Placement, Wanted, can_take, competing, place
from oddlamp.core.plan.model import Plan, Signal
from oddlamp.core.plan.signals import Line, Needs

ABILITY_NAMES = {
    "digital-out": "an output",
    "digital-in": "an input",
    "pwm": "PWM",
    "analog-in": "an analogue input",
    "uart-rx": "a serial port",
    "uart-tx": "a serial port",
}
# What few pins can do and lines ask for; every other ability costs a pin nothing.
SOUGHT: Final = frozenset({"digital-out", "digital-in", "pwm", "analog-in", "uart-rx", "uart-tx", "interrupt"})


class _Request(NamedTuple):
    """One end of a line that takes a pin."""

    line: Line
    field: Literal["pin", "far_pin"]
    host: str
    needs: Needs
    wishes: Needs
    signal: Signal

    @property
    def settled(self) -> str | None:
        """The pin the plan names."""
        return self.signal.pin if self.field == "pin" else self.signal.far_pin


def deaf_converters(plan: Plan, nodes: Mapping[str, NodeDesign], airs: Mapping[str, AirDesign]) -> dict[str, tuple[str, ...]]:
    """Return by host the converters that read nothing, because the Wi-Fi of their board runs."""
    ends = {end for name, air in airs.items() if air.radio == "wifi" for end in (plan.links[name].a, plan.links[name].b)}
    return {name: part.deaf_on_wifi for name in ends if (part := nodes[name].part) is not None and part.deaf_on_wifi}


def assign_pins(
    plan: Plan, catalog: Catalog, nodes: Mapping[str, NodeDesign], lines: Mapping[str, Line], deaf: Mapping[str, tuple[str, ...]]
) -> tuple[PinDesign, ...]:
    """Give every end of a line that takes a pin its pin: the best whole assignment of each host, with what is settled held.

    Lines keep the pins they were shown with where these still fit. The costs are a table of the catalogue.
    """
    pins: dict[tuple[str, str], PinDesign] = {}
    for question in questions(plan, catalog, nodes, lines, deaf):
        placed = question.placed
        for at, request in enumerate(question.requests):
            line, field, host, needs, _, signal = request
            label = placed.labels[at]
            if request.settled is not None:
                pins[line.id, field] = PinDesign(line, field, host, needs, request.settled, "own", "", signal)
            else:
                why = question.why(at, label) if label else question.why_none(at)
                pins[line.id, field] = PinDesign(line, field, host, needs, label, "proposed", why, signal)
    return tuple(pins[request.line.id, request.field] for request in _requests(plan, nodes, lines))


@dataclass(frozen=True)
class Question:
    """All that wants a pin of one host, and what it may have: what the search is asked."""

    part: LogicPart
    catalog: Catalog
    requests: tuple[_Request, ...]
    wanted: tuple[Wanted, ...]
    groups: tuple[Group, ...]

    @property
    def placed(self) -> Placement:
        """The best whole assignment."""
        return _placed(_Same(self.part), self.wanted, self.groups)

    def why(self, at: int, label: str) -> str:
        """Say why a line has its pin: what speaks against it, where something does, and that it is the best of all."""
        request, pin = self.requests[at], self.part.pin(label)
        against = [] if pin is None else list(_against(pin, request.needs, request.wishes, self.catalog.pin_costs))
        proven = "the best for all lines together" if self.placed.is_proven else "good for all lines together, not proven best"
        return proven + (f", though {and_list([it.why for it in against])}" if against else "")

    def why_none(self, at: int) -> str:
        """Say in a few words why a line has none."""
        needs = self.requests[at].needs
        able = [pin for pin in self.part.usable_pins if can_take(pin, self.wanted[at])]
        return _why_none(len(able), needs)

    def competing(self, at: int) -> tuple[int, ...]:
        """Name a minimal set of lines that compete for too little, one of them the line at this place."""
        return _competing(_Same(self.part), self.wanted, at)

    def with_line(self, request: _Request, label: str | None) -> Placement:
        """Place everything with one line held at a pin, or given another than it has."""
        at = self.requests.index(request)
        it = self.wanted[at]
        now = self.placed.labels[at]
        changed = it._replace(held=label) if label is not None else it._replace(barred=it.barred | {now} if now else it.barred)
        shown = [one._replace(shown=self.placed.labels[place]) for place, one in enumerate(self.wanted)]
        return place(self.part.usable_pins, [*shown[:at], changed, *shown[at + 1 :]], self.groups)


class _Same:
    """A part as a key: the same object, not one that looks alike, so that nothing of it is compared."""

    def __init__(self, part: LogicPart) -> None:
        self.part = part

    def __hash__(self) -> int:
        return id(self.part)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.part is self.part


@lru_cache(maxsize=32)  # most edits move nothing that wants a pin; an entry of the largest plan takes 300 kB
def _placed(board: _Same, wanted: tuple[Wanted, ...], groups: tuple[Group, ...]) -> Placement:
    return place(board.part.usable_pins, wanted, groups)


@lru_cache(maxsize=32)
def _competing(board: _Same, wanted: tuple[Wanted, ...], at: int) -> tuple[int, ...]:
    return competing(board.part.usable_pins, wanted, at)


def questions(
    plan: Plan, catalog: Catalog, nodes: Mapping[str, NodeDesign], lines: Mapping[str, Line], deaf: Mapping[str, tuple[str, ...]]
) -> Iterator[Question]:
    """Put together what every host is asked for."""
    requests = _requests(plan, nodes, lines)
    for host in dict.fromkeys(request.host for request in requests):
        part = nodes[host].part
        if part is None:
            continue
        mine = tuple(request for request in requests if request.host == host)
        at = {(request.line.id): place for place, request in enumerate(mine)}
        wanted = tuple(_wanted(plan, catalog, part, request, at, deaf.get(host, ())) for request in mine)
        yield Question(part, catalog, mine, _once(part, wanted), tuple(_groups(catalog, part, mine, at)))


def _once(part: LogicPart, wanted: tuple[Wanted, ...]) -> tuple[Wanted, ...]:
    """Hold a pin once: what the user gave twice, or gave a label the board does not have, takes no pin of the board."""
    seen: set[str] = set()
    out = []
    for it in wanted:
        if it.held is not None and (it.held in seen or part.pin(it.held) is None):
            out.append(it._replace(held="", takes=None))
        else:
            out.append(it)
            seen |= {it.held} if it.held is not None else set()
    return tuple(out)


def _wanted(
    plan: Plan, catalog: Catalog, part: LogicPart, request: _Request, at: Mapping[str, int], deaf: tuple[str, ...]
) -> Wanted:
    line = request.line
    barred = _barred(_Same(part), request.needs, deaf, hears_serial=is_heard(request))
    mate = at.get(_other_way(line)) if is_heard(request) and _is_choosy(_Same(part)) else None
    return Wanted(
        key=f"{line.id}.{request.field}",
        needs=request.needs,
        costs=_costs(_Same(part), request.needs, request.wishes, _Costs(catalog.pin_costs)),
        barred=barred,
        held=request.settled,
        shown=plan.shown_pins.get(line.id if request.field == "pin" else f"{line.id}.far"),
        takes=timer_taken(plan, catalog, part, line),
        mate=mate,
    )


def is_heard(request: "_Request") -> bool:
    """Tell whether a host hears serial words at this pin."""
    return request.line.kind == "wire" and "digital-in" in request.needs


def timer_taken(plan: Plan, catalog: Catalog, part: LogicPart, line: Line) -> str | None:
    """Return the timer that our own program takes for a line; a buzzer that is given its tone needs one to itself."""
    lamp = plan.lamps.get(line.owner_id) if line.owner[0] == "lamps" else None
    if lamp is None or lamp.kind != "buzzer":
        return None
    chosen = lamp.choice.part if lamp.choice is not None else catalog.proposals["buzzer"].part
    load = catalog.loads.get(chosen or "")
    return part.tone_timer if load is not None and load.is_tone else None


@lru_cache(maxsize=256)
def _barred(board: _Same, needs: Needs, deaf: tuple[str, ...], *, hears_serial: bool) -> frozenset[str]:
    """Name the pins a line may not have: read by a converter that is deaf, or no receiver, in software or of a port."""
    pins = board.part.usable_pins
    barred = {pin.label for pin in pins if is_deaf(pin, needs, deaf)}
    if hears_serial and _is_choosy(board):
        barred |= {pin.label for pin in pins if not pin.abilities & {"software-serial-in", "uart-rx"}}
    return frozenset(barred)


@lru_cache(maxsize=64)
def _is_choosy(board: _Same) -> bool:
    """Tell whether only some pins of a board hear serial words in software."""
    return any("software-serial-in" in pin.abilities for pin in board.part.usable_pins)


def _other_way(line: Line) -> str:
    """Return the id of the line that runs back beside a wire."""
    return f"{line.owner_id}.{'b_to_a' if line.lead == 'a_to_b' else 'a_to_b'}"


class _Costs:
    """The table of costs as a key, by what it is."""

    def __init__(self, table: PinCosts) -> None:
        self.table = table

    def __hash__(self) -> int:
        return id(self.table)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Costs) and other.table is self.table


@lru_cache(maxsize=256)
def _costs(board: _Same, needs: Needs, wishes: Needs, table: _Costs) -> tuple[int, ...]:
    return tuple(sum(it.cost for it in _against(pin, needs, wishes, table.table)) for pin in board.part.usable_pins)


def _against(pin: Pin, needs: Needs, wishes: Needs, costs: PinCosts) -> Iterator[PinCost]:
    """Yield what speaks against a pin for a line that needs and wishes this."""
    busy = {"upload": costs.upload, "reset": costs.reset, "usb": costs.usb, "status-led": costs.status_led}
    if pin.strap is not None:
        yield costs.strap
    # A pin that is no output has no pull of its own either: a button there would hang in the air.
    if "digital-in" in needs and "digital-out" not in pin.abilities:
        yield costs.no_pull
    if pin.busy_with in busy:
        yield busy[pin.busy_with]
    if not pin.is_quiet_at_start:
        yield costs.moves
    yield from [costs.wish] * len(wishes - needs - pin.abilities)
    spare = pin.abilities - needs - wishes
    if "pwm" in spare:
        yield costs.spare_pwm
    if spare & {"uart-rx", "uart-tx"}:
        yield costs.spare_serial
    if "analog-in" in spare:
        yield costs.spare_analog
    if "interrupt" in spare:
        yield costs.spare_interrupt


def _groups(catalog: Catalog, part: LogicPart, requests: tuple[_Request, ...], at: Mapping[str, int]) -> Iterator[Group]:
    """Keep the lines of one lamp together and in order, and both ways of a serial line on one port."""
    owners: dict[tuple[str, str], list[int]] = {}
    for place_, request in enumerate(requests):
        if request.line.owner[0] == "lamps":
            owners.setdefault(request.line.owner, []).append(place_)
        elif is_heard(request):
            sent = at.get(_other_way(request.line))
            if sent is not None and (ports := _ports(_Same(part))):
                yield Group((sent, place_), ports, catalog.pin_costs.port.cost)
    for members in owners.values():
        if len(members) > 1:
            yield Group(tuple(members), _rows_of(_Same(part), len(members)), catalog.pin_costs.apart.cost)


@lru_cache(maxsize=64)
def _ports(board: _Same) -> tuple[tuple[str, ...], ...]:
    """Pair the pins of each serial port: the one that speaks, the one that hears."""
    pins = board.part.usable_pins
    return tuple(
        (send.label, hear.label)
        for send in pins
        if "uart-tx" in send.abilities
        for hear in pins
        if "uart-rx" in hear.abilities and hear.port == send.port
    )


@lru_cache(maxsize=64)
def _rows_of(board: _Same, count: int) -> tuple[tuple[str, ...], ...]:
    """List what lies side by side along an edge of the board."""
    rows: dict[str, list[str]] = {}
    for pin in board.part.usable_pins:
        rows.setdefault(pin.row, []).append(pin.label)
    return tuple(tuple(row[at : at + count]) for row in rows.values() for at in range(len(row) - count + 1))


def first_free_pin(part: LogicPart, needs: Needs, taken: set[str], deaf: tuple[str, ...] = ()) -> Pin | None:
    """Return the calmest pin that can, is not taken, and is not read by a converter that is deaf, or None."""
    return next((pin for pin in _able(part, needs, deaf) if pin.label not in taken), None)


def is_deaf(pin: Pin, needs: Needs, deaf: tuple[str, ...]) -> bool:
    """Tell whether a line wants volts read at a pin whose converter reads nothing."""
    return "analog-in" in needs and pin.converter is not None and pin.converter in deaf


def needs_in_words(needs: Needs) -> str:
    """Name what a line needs of its pin."""
    return " and ".join(ABILITY_NAMES[need] for need in sorted(needs - {"digital-out"} if "pwm" in needs else needs))


def what_lacks(pin: Pin, needs: Needs) -> str:
    """Name, by the code of its finding, what a pin lacks that a line needs."""
    lacking = needs - pin.abilities
    if lacking <= {"pwm"}:
        return "PIN-PWM"
    if not {"digital-in", "digital-out"} & pin.abilities:
        return "PIN-ANALOG-ONLY"
    return "PIN-INPUT-ONLY" if "digital-out" in lacking else "PIN-CANT"


def _able(part: LogicPart | None, needs: Needs, deaf: tuple[str, ...]) -> list[Pin]:
    """List the pins that can, the calmest first."""
    pins = [pin for pin in part.usable_pins if needs <= pin.abilities and not is_deaf(pin, needs, deaf)] if part else []
    # A pin that is no output has no pull of its own either: a button there would hang in the air.
    return sorted(pins, key=lambda pin: ("digital-in" in needs and "digital-out" not in pin.can, unease(pin)))


def unease(pin: Pin) -> tuple[bool, bool, bool, bool, int]:
    """Put pins in order, the calmest first: those last that something else will want."""
    wanted = len(SOUGHT & pin.abilities)
    return (pin.strap is not None, pin.busy_with == "upload", pin.busy_with is not None, not pin.is_quiet_at_start, wanted)


def _why_none(count: int, needs: Needs) -> str:
    if not count:
        return f"no pin here can be {needs_in_words(needs)}"
    what = (
        f"all {count} pins that can be {needs_in_words(needs)} are"
        if count > 1
        else f"the one pin that can be {needs_in_words(needs)} is"
    )
    return f"{what} taken"


def _requests(plan: Plan, nodes: Mapping[str, NodeDesign], lines: Mapping[str, Line]) -> list[_Request]:
    found: list[_Request] = []
    for line in lines.values():
        signal = plan.signals.get(line.id) or Signal()
        if signal.is_omitted:
            continue
        if line.near is not None and nodes[line.near].part is not None:
            found.append(_Request(line, "pin", line.near, line.near_needs, line.near_wishes, signal))
        if line.far_needs and nodes[line.far[0]].part is not None:
            found.append(_Request(line, "far_pin", line.far[0], line.far_needs, frozenset(), signal))
    return found
