"""What a line, or a whole host, could have instead: another pin, or another board."""

from dataclasses import replace
from typing import Final

from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import PinDesign
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.pins.assign import Question, deaf_converters, once, questions
from oddlamp.core.pins.solve import Placement, place
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.signals import Line

# Where a line is not sent to be out of trouble: each of these brings trouble of its own, the second ones to what is read.
TROUBLED: Final = frozenset({"upload", "usb", "reset"})
TROUBLED_TO_READ: Final = frozenset({"programming", "status-led"})
TWITCHES: Final = ("relay", "strip", "buzzer", "motor")  # what clicks, sounds, burns or turns while it should not


def question_of(design: Design, host: str) -> Question | None:
    """Return what a host of a design is asked for; None where nothing wants a pin of it."""
    lines = {name: it.line for name, it in design.signals.items()}
    asked = questions(design.plan, design.catalog, design.nodes, lines, deaf_converters(design.plan, design.nodes, design.airs))
    return next((it for it in asked if it.requests[0].host == host), None)


def placed_on(design: Design, host: str, board: BoardPart) -> Placement:
    """Place the lines of a host on another board, all of them given anew."""
    anew = design.plan.model_copy(update={"signals": {}, "shown_pins": {}})
    there = replace(design, plan=anew, nodes={**design.nodes, host: replace(design.nodes[host], part=board)})
    question = question_of(there, host)
    return question.placed if question is not None else Placement((), (0, 0, 0), is_proven=True)


def may_not_twitch(plan: Plan, line: Line) -> bool:
    """Tell whether a line holds something that may not move while the board starts."""
    return line.owner[0] == "lamps" and plan.lamps[line.owner_id].kind in TWITCHES


def other_pin(design: Design, pin: PinDesign) -> str | None:
    """Return the best pin a line could have instead, with all others where they are; None where none brings no trouble."""
    question = question_of(design, pin.host)
    if question is None:
        return None
    at = question.place_of(pin.line.id, pin.field)
    is_read = bool(pin.needs & {"digital-in", "analog-in"})
    bad = {
        it.label
        for it in question.part.usable_pins
        if it.strap is not None
        or it.busy_with in TROUBLED
        or (is_read and it.busy_with in TROUBLED_TO_READ)
        or ("digital-in" in pin.needs and "digital-out" not in it.abilities)
        or (may_not_twitch(design.plan, pin.line) and not it.is_quiet_at_start)
    }
    now = {(it.line.id, it.field): it.label for it in design.pins}
    wanted = [
        it._replace(held=now[one.line.id, one.field] or "", takes=None if now[one.line.id, one.field] is None else it.takes)
        for it, one in zip(question.wanted, question.requests, strict=True)
    ]
    mine = question.wanted[at]
    wanted[at] = mine._replace(held=None, shown=None, barred=mine.barred | bad | ({pin.label} if pin.label else set()))
    return place(question.part.usable_pins, once(question.part, tuple(wanted))).labels[at]
