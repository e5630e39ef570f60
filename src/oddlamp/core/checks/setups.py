"""Rules for what is set in modules and how they are wired for it: two that are bound, speeds nobody can follow, TX on TX."""

from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from typing import Final

from oddlamp.core.base import Working, si
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.modules import alike
from oddlamp.core.checks.ways import divider_patch
from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import LevelDesign
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.electrical.level import divide
from oddlamp.core.english import inner
from oddlamp.core.modules.goals import air_of, partner_of, pin_for, setup_of_node
from oddlamp.core.modules.script import ADAPTER_MOST_BD, EASY_MOST_BD, proposed_pin
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import at_path, join_patches
from oddlamp.core.resolve.carry import usual_pairs


def wires_cross(design: Design) -> Iterator[Breach]:
    """Between a board and a module the wires cross over."""
    for link_id, wire in design.wires.items():
        passage = design.passages.get(f"{link_id}.a_to_b")
        it = passage.found("MOD-WIRING") if passage is not None else None
        if it is not None:
            yield Breach(
                severity=it.severity,
                where=link_id,
                stage=wire.stage,
                message="Wired straight, TX is joined to TX and RX to RX: nobody hears anybody. Straight is right only to set the module up through a board whose chip is held in reset.",
                working=(Working(formula="TX to RX, RX to TX", substituted="straight", source="common-practice"),),
                fixes=(Move(label="Cross the two wires", patch=at_path(("links", link_id, "is_crossed"), None)),),
                numbers={"wires": 2},
            )


def _pairs(design: Design) -> Iterator[tuple[NodeDesign, NodeDesign]]:
    for node in design.nodes.values():
        other = partner_of(design, node.id) if node.node.kind == "module" else None
        if other is not None and node.id < other.id:
            yield node, other


def pair_has_one_pin(design: Design) -> Iterator[Breach]:
    """Two modules that are bound let each other in by one PIN."""
    for node, other in _pairs(design):
        pins = [
            pin_for(design, it, it.part) for it in (node, other) if isinstance(it.part, ModulePart) and it.part.pin_code_digits
        ]
        mine, theirs = pins if len(pins) == 2 else ("", "")
        if mine != theirs:
            yield Breach(
                severity="stop",
                where=f"nodes.{node.id}.pair",
                stage=node.stage,
                message=f"The {inner(node.label)} has PIN {mine}, the {inner(other.label)} {theirs}: neither lets the other in.",
                working=(Working(formula="one PIN on both ends", substituted=f"{mine}, {theirs}", source="from-memory"),),
                ways=partial(_one_pin, design, node, other),
                numbers={"pins": 2},
            )


def _one_pin(design: Design, node: NodeDesign, other: NodeDesign) -> Iterator[Move]:
    parts = [it.part for it in (node, other) if isinstance(it.part, ModulePart)]
    known = [pin for it in (node, other) if (pin := setup_of_node(it).pin_code)]
    shared = (
        [digits for digits in parts[0].pin_code_digits if all(digits in part.pin_code_digits for part in parts)] if parts else []
    )
    made = [proposed_pin(f"{design.plan.title} {min(node.id, other.id)}", shared[0])] if shared else []
    if not shared:  # of one family they take PINs of one length
        for move, like in zip(alike(design, air_of(design, node.id) or "", node, other), reversed(parts), strict=False):
            pin = proposed_pin(f"{design.plan.title} {min(node.id, other.id)}", like.pin_code_digits[0])
            both = [at_path(("nodes", it.id, "setup", "pin_code"), pin) for it in (node, other)]
            yield Move(label=f"{move.label}, and give both {pin}", patch=join_patches([move.patch, *both]))
    for pin in dict.fromkeys([*known, *made]):
        if all(len(pin) in part.pin_code_digits for part in parts):
            patch = join_patches(at_path(("nodes", it.id, "setup", "pin_code"), pin) for it in (node, other))
            yield Move(label=f"Give both {pin}", patch=patch)


def pair_has_two_addresses(design: Design) -> Iterator[Breach]:
    """Every radio has an address of its own: one that stands at both ends was written down twice."""
    for node, other in _pairs(design):
        address = setup_of_node(node).address
        if address is not None and address == setup_of_node(other).address:
            yield Breach(
                severity="stop",
                where=f"nodes.{node.id}.address",
                stage=node.stage,
                message=f"Both modules are said to have the address {address}. No two radios have one: one was written down twice.",
                working=(Working(formula="one address a radio", substituted=address, source="from-memory"),),
                fixes=tuple(
                    Move(label=f"Forget it at the {inner(it.label)}", patch=at_path(("nodes", it.id, "setup", "address"), None))
                    for it in (node, other)
                ),
                numbers={"addresses": 1},
            )


def pair_runs_at_one_speed(design: Design) -> Iterator[Breach]:
    """The wires of two bound modules may differ in speed; then a long stream from the faster one overruns the slower."""
    for node, other in _pairs(design):
        wires = [
            next((it for it in design.wires.values() if end.id in (design.plan.links[it.id].a, design.plan.links[it.id].b)), None)
            for end in (node, other)
        ]
        one, two = wires
        if one is None or two is None or one.baud.value is None or one.baud.value == two.baud.value:
            continue
        fast, slow = sorted((one, two), key=lambda it: -it.baud.known)
        yield Breach(
            severity="look",
            where=f"nodes.{node.id}.speeds",
            stage=node.stage,
            message=f"One end of the pair runs at {fast.baud.text}, the other at {slow.baud.text}: what streams longer than the slower can take is lost.",
            working=(
                Working(
                    formula="both wires at one speed, or short messages",
                    substituted=f"{fast.baud.text}, {slow.baud.text}",
                    source="from-memory",
                ),
            ),
            fixes=tuple(
                Move(label=f"Run both at {to.baud.text}", patch=at_path(("links", it.id, "baud_rate_bd"), int(to.baud.known)))
                for it, to in ((fast, slow), (slow, fast))
                if to.baud.known <= EASY_MOST_BD
            ),
            numbers={"ratio": fast.baud.known / slow.baud.known},
        )


def speed_can_be_taken_back(design: Design) -> Iterator[Breach]:
    """A module is only set to a speed at which something at hand can still talk to it."""
    for link_id, wire in design.wires.items():
        link = design.plan.links[link_id]
        modules = [design.nodes[it] for it in (link.a, link.b) if isinstance(design.nodes[it].part, ModulePart)]
        speed_bd = wire.baud.known if wire.baud.value is not None else 0
        if not modules or speed_bd <= EASY_MOST_BD:
            continue
        is_lost = speed_bd > ADAPTER_MOST_BD
        who = (
            "no usual adapter"
            if is_lost
            else f"only an adapter that reaches {wire.baud.text}, as most do to {si(ADAPTER_MOST_BD, 'Bd')},"
        )
        yield Breach(
            severity="stop" if is_lost else "look",
            where=f"{link_id}.baud_rate_bd",
            stage=modules[0].stage,
            message=f"Once the {inner(modules[0].label)} runs at {wire.baud.text}, {who} can set it back.",
            working=(
                Working(
                    formula="speed ≤ what something at hand can follow",
                    substituted=f"{wire.baud.text}; boards and terminals to {si(EASY_MOST_BD, 'Bd')}, adapters to {si(ADAPTER_MOST_BD, 'Bd')}",
                    source="from-memory",
                ),
            ),
            fixes=(Move(label="Use 9600 Bd", patch=at_path(("links", link_id, "baud_rate_bd"), 9600)),),
            numbers={"speed_bd": speed_bd},
        )


def set_up_through_the_board_is_heard(design: Design) -> Iterator[Breach]:
    """Set up through a board whose chip is held in reset, the module hears the board's USB chip, which has a resistor of its own."""
    for node in design.nodes.values():
        level = _from_the_board(design, node) if setup_of_node(node).route == "board" else None
        if level is None or level.divider is None or level.sent_spread is None or level.high.value is None:
            continue
        usb = design.catalog.proposals["usb-series"]
        longer = replace(level.divider, upper_ohm=level.divider.upper_ohm + (usb.value or 0.0))
        got = divide(level.sent_spread, longer).voltage_v
        is_short = got.value < level.high.known
        if not is_short and got.least >= level.high.high:
            continue
        told = si(got.value, "V") if is_short else f"{si(got.value, 'V')}, at worst {si(got.least, 'V')}"
        put_in = f"{si(level.sent_spread.value, 'V')} · {si(longer.lower_ohm, 'ohm')} / ({si(usb.value or 0.0, 'ohm')} + {si(level.divider.upper_ohm, 'ohm')} + {si(longer.lower_ohm, 'ohm')}) = {si(got.value, 'V')}, {si(got.least, 'V')} at least"
        yield Breach(
            severity="stop" if is_short else "look",
            where=f"nodes.{node.id}.route",
            stage=node.stage,
            message=f"Set up through the board, the {inner(node.label)} gets {told}: the USB chip's own {si(usb.value or 0.0, 'ohm')} adds to the divider, and a high begins at {level.high.text}.",
            working=(Working(formula="V = V_in R_2 / (R_USB + R_1 + R_2)", substituted=put_in, source="horowitz-hill"),),
            ways=partial(_heard_better, design, node, level, usb.value or 0.0),
            numbers={"short_v": level.high.high - got.least},
        )


def _from_the_board(design: Design, node: NodeDesign) -> LevelDesign | None:
    return next(
        (it for it in design.levels if it.line.is_spoken and it.receiver.id == node.id and it.sender.node.kind == "board"), None
    )


def _heard_better(design: Design, node: NodeDesign, level: LevelDesign, usb_ohm: float) -> Iterator[Move]:
    """Offer a divider that is heard both ways, by the board's own pin and through the USB chip; and to go round the board."""
    sent, now = level.sent_spread, level.divider
    for upper_ohm, lower_ohm in usual_pairs(design.catalog, design.series):
        if sent is None or now is None:
            break
        pair = replace(now, upper_ohm=upper_ohm, lower_ohm=lower_ohm)
        through = divide(sent, replace(pair, upper_ohm=upper_ohm + usb_ohm)).voltage_v
        if through.least >= level.high.high and divide(sent, pair).voltage_v.most <= level.limit.known:
            label = f"Use {si(upper_ohm, 'ohm')} over {si(lower_ohm, 'ohm')} ({si(through.value, 'V')} through the USB chip)"
            yield Move(label=label, patch=divider_patch(level, upper_ohm=upper_ohm, lower_ohm=lower_ohm))
            break
    yield Move(label="Set it up through an adapter", patch=at_path(("nodes", node.id, "setup", "route"), None))


RULES: Final = (
    Rule(
        "MOD-ROUTE",
        "module",
        set_up_through_the_board_is_heard,
        "set up through the board, the divider and the USB chip's own resistor leave less than a high",
        "only the worst case leaves less",
        "Ohm's law; the USB chip's resistor from memory",
    ),
    Rule(
        "MOD-WIRING",
        "line",
        wires_cross,
        "the wires between a board and a module, or two boards, are said to run straight",
        "",
        "common practice",
    ),
    Rule("MOD-PAIR-PIN", "module", pair_has_one_pin, "two modules of one radio link have unlike PINs", "", "from memory"),
    Rule("MOD-ADDR", "module", pair_has_two_addresses, "both ends of a pair are said to have one address", "", "from memory"),
    Rule(
        "MOD-SPEEDS",
        "module",
        pair_runs_at_one_speed,
        "",
        "the wires at the two ends of a pair run at unlike speeds",
        "from memory",
    ),
    Rule(
        "MOD-BAUD-STUCK",
        "module",
        speed_can_be_taken_back,
        "a module's speed is over 921600 Bd, which no usual adapter follows",
        "its speed is over 115200 Bd, which only some adapters follow",
        "from memory",
    ),
)
