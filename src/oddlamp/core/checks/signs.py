"""Rules for texts on displays: they can be drawn, and there is room for them."""

from collections.abc import Iterator
from functools import partial
from typing import Final

from oddlamp.core.base import Working
from oddlamp.core.checks.fewer import that_clear
from oddlamp.core.checks.findings import Breach, Move, Rule
from oddlamp.core.checks.rails import larger_supply
from oddlamp.core.design.design import Design
from oddlamp.core.english import and_list, inner
from oddlamp.core.layouts.can import face_of
from oddlamp.core.layouts.glyphs import cannot_write
from oddlamp.core.layouts.signs import MODULE, Face, long, room_of
from oddlamp.core.plan.document import at_path, edit_plan, join_patches
from oddlamp.core.plan.rules import Action, carried_name
from oddlamp.core.resolve.resolve import resolve

COLUMN_S: Final = 0.08  # common practice: read easily at ten to fifteen columns a second
TIME: Final = "19:30"


def _texts(design: Design) -> Iterator[tuple[str, int, Action, str, Face, str]]:
    """Yield every text that is settled, or the time, where it is shown: rule, place, deed, lamp, its face, and the text."""
    for name, rule in design.plan.rules.items():
        for at, action in enumerate(rule.do):
            values = action.values
            if action.verb == "show" and (values is None or values.input is None):
                text = TIME
            elif action.verb == "text" and values is not None and values.text and carried_name(values.text) is None:
                text = values.text
            else:
                continue
            for lamp in design.targets(action.target):
                face = face_of(design.plan.lamps[lamp])
                if face is not None:
                    yield name, at, action, lamp, face, text


def texts_can_be_drawn(design: Design) -> Iterator[Breach]:
    """Every sign of a text has a drawing: seven bars have few letters."""
    for name, at, _, lamp, face, text in _texts(design):
        missing = cannot_write(text, is_bars=bool(face.digits), is_narrow=False)
        if not missing:
            continue
        label, signs = design.lamps[lamp].label, and_list(list(missing))
        yield Breach(
            severity="look",
            where=f"rules.{name}.{lamp}",
            stage=f"rules.{design.plan.rules[name].host}",
            message=f"Seven bars cannot write {signs}: in \u201c{text}\u201d {label} leaves {'it' if len(missing) == 1 else 'them'} dark.",
            working=(Working(formula="signs that seven bars can write", substituted=f"not {signs}", source="common-practice"),),
            ways=partial(_spelled, name, at, design, text, missing),
            numbers={"signs": len(missing)},
        )


def _spelled(name: str, at: int, design: Design, text: str, missing: str) -> Iterator[Move]:
    kept = "".join(it for it in text if it not in missing)
    yield Move(label=f"Show \u201c{kept}\u201d" if kept.strip() else "Show nothing", patch=_put(design, name, at, text=kept))


def _put(design: Design, name: str, at: int, **values: object) -> dict[str, object]:
    do = [it.model_dump(mode="json", exclude_none=True) for it in design.plan.rules[name].do]
    do[at] = {**do[at], "values": {**do[at].get("values", {}), **values}}
    patch: dict[str, object] = at_path(("rules", name, "do"), do)
    return patch


def texts_have_room(design: Design) -> Iterator[Breach]:
    """A text that stands still fits on what shows it; else its end is cut off."""
    moving = {
        lamp
        for rule in design.plan.rules.values()
        for it in rule.do
        if it.values is not None and it.values.scroll_s
        for lamp in design.targets(it.target)
    }
    for name, at, action, lamp, face, text in _texts(design):
        scroll_s = action.values.scroll_s if action.values is not None else None
        if scroll_s or (scroll_s is None and lamp in moving) or long(face, text) <= room_of(face):
            continue
        label = design.lamps[lamp].label
        what = "The time" if action.verb == "show" else f"\u201c{text}\u201d"
        unit = "digits" if face.digits else "columns"
        yield Breach(
            severity="look",
            where=f"rules.{name}.{lamp}.room",
            stage=f"rules.{design.plan.rules[name].host}",
            message=f"{what} takes {long(face, text)} {unit}, {label} has {room_of(face)}: standing still, its end is cut off.",
            working=(
                Working(
                    formula="4 columns a sign but the last, in the narrow font" if not face.digits else "a digit a sign",
                    substituted=f"{long(face, text)} > {room_of(face)}",
                    source="common-practice",
                ),
            ),
            ways=partial(_roomier, design, name, at, lamp, text),
            numbers={"columns": long(face, text) - room_of(face)},
        )


def _roomier(design: Design, name: str, at: int, lamp: str, text: str) -> Iterator[Move]:
    plan = design.plan.lamps[lamp]
    moves = []
    if design.plan.rules[name].do[at].verb == "text":
        moves.append(Move(label="Let it move", patch=_put(design, name, at, scroll_s=COLUMN_S)))
    if plan.kind == "matrix":
        rows, sides = (plan.panel.rows or 1, 1 + bool(plan.panel.is_back_to_back)) if plan.panel else (1, 1)
        face = face_of(plan)
        count = -(-long(face, text) // MODULE) * rows * sides if face is not None else 1
        longer = at_path(("lamps", lamp, "count"), count)
        moves.append(Move(label=f"Chain {count} modules", patch=longer))
        tried = resolve(edit_plan(design.plan, longer), design.catalog)
        rail_id = tried.lamps[lamp].rail_id or ""
        supply = (
            next(larger_supply(tried, tried.rails[rail_id], tried.budgets[rail_id].wants_a), None)
            if rail_id in tried.rails
            else None
        )
        if supply is not None:
            together = join_patches([longer, supply.patch])
            moves.append(Move(label=f"Chain {count} modules, and {inner(supply.label)}", patch=together))
    yield from that_clear(design, "SIGN-ROOM", f"rules.{name}.{lamp}.room", moves)


RULES: Final = (
    Rule("SIGN-FONT", "words", texts_can_be_drawn, "", "a text has signs that seven bars cannot write", "common practice"),
    Rule("SIGN-ROOM", "words", texts_have_room, "", "a text that stands still is longer than what shows it", "common practice"),
)
