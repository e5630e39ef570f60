"""Pins for every line of the plan: what each wants of its host, and the best whole assignment of it, marked proposed."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import Same
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import AirDesign
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.parts.models import Catalog, LogicPart
from oddlamp.core.parts.pins import Ability, Pin, Taking
from oddlamp.core.pins.board import Board, abilities_of, against, barred_at, costs_at, is_choosy, ports, rows_of, upload_ports
from oddlamp.core.pins.solve import Group, Placement, Wanted, can_take, competing, place
from oddlamp.core.plan.lights import sends_codes
from oddlamp.core.plan.model import Plan, Signal
from oddlamp.core.plan.signals import Line, Needs

ABILITY_NAMES = {
    "digital-out": "an output",
    "digital-in": "an input",
    "pwm": "PWM",
    "analog-in": "an analogue input",
    "uart-rx": "a serial port",
    "uart-tx": "a serial port",
    "two-wire-data": "two-wire data",
    "two-wire-clock": "two-wire clock",
    "spi-out": "SPI out",
    "spi-in": "SPI in",
    "spi-clock": "SPI clock",
}
# What a line of a bus needs of its host, where the host has such pins; where it has none, the program makes the bus on any.
BUS_NEEDS: Final[Mapping[str, Ability]] = {
    "sda": "two-wire-data",
    "scl": "two-wire-clock",
    "mosi": "spi-out",
    "miso": "spi-in",
    "sck": "spi-clock",
}
DIGITAL: Final = frozenset({"digital-out", "digital-in"})


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
    requests = _requests(plan, catalog, nodes, lines)
    for question in _questions(plan, catalog, nodes, requests, deaf):
        placed = question.placed
        for at, request in enumerate(question.requests):
            line, field, host, needs, _, signal = request
            label = placed.labels[at]
            if request.settled is not None:
                pins[line.id, field] = PinDesign(line, field, host, needs, request.settled, "own", "", signal)
            else:
                why = question.why(at, label) if label else question.why_none(at)
                pins[line.id, field] = PinDesign(line, field, host, needs, label, "proposed", why, signal)
    return tuple(pins[request.line.id, request.field] for request in requests)


NAMED: Final = 6  # more names than this are counted
TOLD: Final = 50  # what costs less is not told: that a pin could do more, or lies a little apart


class Competing(NamedTuple):
    """What competes for too few pins: the sentence, and all the names."""

    sentence: str
    names: str


def named_pins(labels: Sequence[str]) -> str:
    """Write pins as people list them, not more than a dozen."""
    return and_list(labels) if len(labels) <= 12 else f"{', '.join(labels[:10])} and {len(labels) - 10} more"


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
        return _placed(Same(self.part), self.wanted, self.groups)

    def place_of(self, line: str, field: str) -> int:
        """Return the place of one end of a line among what is asked; raises StopIteration where it asks for nothing."""
        return next(at for at, it in enumerate(self.requests) if (it.line.id, it.field) == (line, field))

    def why(self, at: int, label: str) -> str:
        """Say why a line has its pin: what speaks against it, where something does, and that it is the best of all."""
        pin = self.part.pin(label)
        spoken = self.against(at, pin) if pin is not None else []
        if self.wanted[at].shown == label:
            proven = "it was shown here before, and still fits"
        else:
            proven = "the best for all lines together" + ("" if self.placed.is_proven else " that was found, not proven best")
        return proven + (f", though {and_list(spoken)}" if spoken else "")

    def why_none(self, at: int) -> str:
        """Say in a few words why a line has none."""
        needs = self.requests[at].needs
        able = [pin for pin in self.part.usable_pins if can_take(pin, self.wanted[at])]
        return _why_none(len(able), needs)

    def competing(self, at: int) -> tuple[int, ...]:
        """Name a minimal set of lines that compete for too little, one of them the line at this place."""
        return _competing(Same(self.part), self.wanted, at)

    def rivals(self, at: int) -> set[str]:
        """Name, by the key of their pins, the lines that a line without one competes with, itself included."""
        return {self.wanted[it].key.removesuffix(".pin").replace(".far_pin", ".far") for it in self.competing(at)}

    def contested(self, at: int) -> frozenset[str]:
        """Name the scarce pins that a line without one competes for: those of the rival that could have the fewest."""
        return frozenset(pin.label for pin in self._scarcest(at)[1])

    def _scarcest(self, at: int) -> tuple[Wanted, list[Pin]]:
        """Return of the lines that compete the one to speak of: this one where it wants too little there is, else the neediest."""
        rivals = sorted(self.competing(at), key=lambda it: it != at)
        able = [(self.wanted[it], [pin for pin in self.part.usable_pins if can_take(pin, self.wanted[it])]) for it in rivals]
        return able[0] if len(able[0][1]) < len(rivals) else min(able, key=lambda it: len(it[1]))

    def told_competing(self, at: int) -> "Competing":
        """Say in a sentence what a line without a pin competes for, and with which others."""
        at_all = [self.requests[place] for place in self.competing(at)]
        lines = list(dict.fromkeys(it.line.name for it in at_all))
        tones = [it.line.name for place, it in zip(self.competing(at), at_all, strict=True) if self.wanted[place].takes]
        mine, able = self._scarcest(at)
        timers = {self.wanted[place].takes for place in self.competing(at)}
        free = [pin.label for pin in able if not ("pwm" in mine.needs and pin.timer and pin.timer in timers)]
        what = needs_in_words(mine.needs)
        if not able:
            sentence = f"No pin of this board can be {what}."
        else:
            names = and_list(lines) if len(lines) <= NAMED else f"{', '.join(lines[:NAMED])} and {len(lines) - NAMED} more"
            those = (
                f"{plural(len(free), 'pin')} can be {what}: {named_pins(free)}" if free else f"no pin is left that can be {what}"
            )
            sentence = f"{len(at_all)} lines compete: {names}. {those[:1].upper() + those[1:]}."
            if tones and len(free) < len(able):
                gone = [pin.label for pin in able if pin.label not in free]
                one = len(gone) == 1
                sentence += f" The tone of {inner(tones[0])} takes the timer of {named_pins(gone)}, which then {'dims' if one else 'dim'} nothing."
        resets = [
            pin.label for pin in self.part.usable_pins if pin.busy_with == "reset" and mine.needs - {"pwm"} <= pin.abilities
        ]
        if resets and len(at_all) > 1:
            sentence += f" {named_pins(resets)} is not one more: it resets the chip{' and cannot be dimmed' if 'pwm' in mine.needs else ''}."
        return Competing(sentence, and_list(lines) or what)

    def is_best_anew(self) -> bool:
        """Tell whether the lines would have the pins they have, were none of them shown before."""
        if not any(it.shown for it in self.wanted):
            return True
        anew = tuple(it._replace(shown=None) for it in self.wanted)
        return _placed(Same(self.part), anew, self.groups).labels == self.placed.labels

    def next_best(self, at: int) -> str:
        """Say what a line would have if not its pin, and what would have to move for it."""
        now, it = self.placed.labels, self.wanted[at]
        if now[at] is None or it.held is not None:
            return ""
        shown = [one._replace(shown=now[place_]) for place_, one in enumerate(self.wanted)]
        shown[at] = it._replace(shown=None, barred=it.barred | {str(now[at])})
        other = place(self.part.usable_pins, shown, self.groups).labels
        label, pin = other[at], self.part.pin(other[at] or "")
        moved = [place_ for place_ in range(len(now)) if place_ != at and other[place_] != now[place_]]
        names = [f"{inner(self.requests[place_].line.name)} to {other[place_] or 'none'}" for place_ in moved]
        if label is None or pin is None:
            return f"No other pin is left for it that can be {needs_in_words(self.requests[at].needs)}."
        against = self.against(at, pin)
        return (
            f"Next best is pin {label}"
            + (f", though {and_list(against)}" if against else "")
            + (f"; {and_list(names)} would have to move." if names else ", and nothing else would have to move.")
        )

    def against(self, at: int, pin: Pin) -> list[str]:
        """Say what speaks against a pin for a line, where it is worth telling."""
        request = self.requests[at]
        found = against(pin, request.needs, request.wishes, self.catalog.pin_costs)
        return list(dict.fromkeys(it.why for it in found if it.cost >= TOLD))


@lru_cache(maxsize=32)  # most edits move nothing that wants a pin; an entry of the largest plan takes 300 kB
def _placed(board: Board, wanted: tuple[Wanted, ...], groups: tuple[Group, ...]) -> Placement:
    return place(board.it.usable_pins, wanted, groups)


@lru_cache(maxsize=32)
def _competing(board: Board, wanted: tuple[Wanted, ...], at: int) -> tuple[int, ...]:
    return competing(board.it.usable_pins, wanted, at)


def questions(
    plan: Plan, catalog: Catalog, nodes: Mapping[str, NodeDesign], lines: Mapping[str, Line], deaf: Mapping[str, tuple[str, ...]]
) -> Iterator[Question]:
    """Put together what every host is asked for."""
    return _questions(plan, catalog, nodes, _requests(plan, catalog, nodes, lines), deaf)


def _questions(
    plan: Plan,
    catalog: Catalog,
    nodes: Mapping[str, NodeDesign],
    requests: Sequence[_Request],
    deaf: Mapping[str, tuple[str, ...]],
) -> Iterator[Question]:
    for host in dict.fromkeys(request.host for request in requests):
        part = nodes[host].part
        if part is None:
            continue
        mine = tuple(request for request in requests if request.host == host)
        at = {(request.line.id): place for place, request in enumerate(mine)}
        wanted = tuple(_wanted(plan, catalog, part, request, at, deaf.get(host, ())) for request in mine)
        yield Question(part, catalog, mine, once(part, wanted), tuple(_groups(catalog, part, mine, at)))


def once(part: LogicPart, wanted: tuple[Wanted, ...]) -> tuple[Wanted, ...]:
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
    barred = barred_at(Same(part), request.needs, deaf, hears_serial=is_heard(request))
    if line.is_usb:
        barred |= frozenset(pin.label for pin in part.usable_pins) - upload_ports(Same(part))
    mate = at.get(other_way(line)) if is_heard(request) and is_choosy(Same(part)) else None
    return Wanted(
        key=f"{line.id}.{request.field}",
        needs=request.needs,
        costs=costs_at(Same(part), request.needs, request.wishes, Same(catalog.pin_costs)),
        barred=barred,
        held=request.settled,
        shown=plan.shown_pins.get(line.id if request.field == "pin" else f"{line.id}.far"),
        takes=timer_taken(plan, catalog, part, line),
        mate=mate,
    )


def is_heard(it: "_Request | PinDesign") -> bool:
    """Tell whether a host hears serial words at a pin."""
    return it.line.kind == "wire" and "digital-in" in it.needs


def taken_for(plan: Plan, catalog: Catalog, line: Line) -> Taking | None:
    """Return what the printed program takes of its host for a line besides the pin itself; None for nothing."""
    if line.owner[0] == "inputs":
        return catalog.takings.remote if plan.inputs[line.owner_id].kind == "remote-receiver" else None
    lamp = plan.lamps.get(line.owner_id) if line.owner[0] == "lamps" else None
    if lamp is not None and sends_codes(lamp):
        return catalog.takings.code_sender
    if lamp is None or lamp.kind not in ("buzzer", "pixels-one-wire"):
        return None
    if lamp.kind == "pixels-one-wire":
        return catalog.takings.pixels_one_wire
    chosen = lamp.choice.part if lamp.choice is not None else catalog.proposals["buzzer"].part
    load = catalog.loads.get(chosen or "")
    return catalog.takings.tone if load is not None and load.is_tone else None


def timer_taken(plan: Plan, catalog: Catalog, part: LogicPart, line: Line) -> str | None:
    """Return the timer that the printed program takes for a line; a buzzer that is given its tone needs one to itself."""
    taking = taken_for(plan, catalog, line)
    return part.tone_timer if taking is not None and taking.timer == "tone" else None


def other_way(line: Line) -> str:
    """Return the id of the line that runs back beside a wire."""
    return f"{line.owner_id}.{'b_to_a' if line.lead == 'a_to_b' else 'a_to_b'}"


def _groups(catalog: Catalog, part: LogicPart, requests: tuple[_Request, ...], at: Mapping[str, int]) -> Iterator[Group]:
    """Keep the lines of one lamp together and in order, and both ways of a serial line on one port."""
    owners: dict[tuple[str, str], list[int]] = {}
    for place_, request in enumerate(requests):
        if request.line.owner[0] == "lamps":
            owners.setdefault(request.line.owner, []).append(place_)
        elif is_heard(request):
            sent = at.get(other_way(request.line))
            if sent is not None and (there := ports(Same(part))):
                yield Group((sent, place_), there, catalog.pin_costs.port.cost)
        elif request.line.kind == "bus":
            owners.setdefault(request.line.owner, []).append(place_)
    for members in owners.values():
        if len(members) > 1:
            yield Group(tuple(members), rows_of(Same(part), len(members)), catalog.pin_costs.apart.cost)


def needs_in_words(needs: Needs) -> str:
    """Name what a line needs of its pin."""
    return " and ".join(ABILITY_NAMES[need] for need in sorted(needs - DIGITAL or needs))


def what_lacks(pin: Pin, needs: Needs) -> str:
    """Name, by the code of its finding, what a pin lacks that a line needs."""
    lacking = needs - pin.abilities
    if lacking <= {"pwm"}:
        return "PIN-PWM"
    if not {"digital-in", "digital-out"} & pin.abilities:
        return "PIN-ANALOG-ONLY"
    return "PIN-INPUT-ONLY" if "digital-out" in lacking else "PIN-CANT"


def _why_none(count: int, needs: Needs) -> str:
    if not count:
        return f"no pin here can be {needs_in_words(needs)}"
    what = (
        f"all {count} that can be {needs_in_words(needs)} are"
        if count > 1
        else f"the one pin that can be {needs_in_words(needs)} is"
    )
    return f"{what} taken"


def _requests(plan: Plan, catalog: Catalog, nodes: Mapping[str, NodeDesign], lines: Mapping[str, Line]) -> list[_Request]:
    found: list[_Request] = []
    for line in lines.values():
        signal = plan.signals.get(line.id) or Signal()
        if signal.is_omitted:
            continue
        if line.near is not None and (part := nodes[line.near].part) is not None and not _is_in_the_chip(part, line):
            needs = line.near_needs | _bus_needs(part, line)
            taking = taken_for(plan, catalog, line)
            wishes = line.near_wishes | ({taking.wishes} if taking is not None and taking.wishes else set())
            found.append(_Request(line, "pin", line.near, needs, wishes, signal))
        if line.far_needs and (part := nodes[line.far[0]].part) is not None and not _is_in_the_chip(part, line):
            found.append(_Request(line, "far_pin", line.far[0], line.far_needs, frozenset(), signal))
    return found


def _is_in_the_chip(part: LogicPart, line: Line) -> bool:
    """Tell whether a line runs in a USB plug that takes no pins of the board: no serial port lies behind it."""
    return line.is_usb and not upload_ports(Same(part))


def _bus_needs(part: LogicPart, line: Line) -> Needs:
    need = BUS_NEEDS.get(line.lead) if line.kind == "bus" else None
    return frozenset({need}) if need is not None and need in abilities_of(Same(part)) else frozenset()
