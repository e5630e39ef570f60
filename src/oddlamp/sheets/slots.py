"""What to type into which slot of any terminal or button-pad program on the phone: to read, to print, as CSV and JSON."""

import csv
import json
from collections.abc import Collection, Iterator, Mapping
from io import StringIO
from typing import Final, Literal

from oddlamp.core.behaviour.framing import filled, said_by
from oddlamp.core.checks.apart import heard_out, named
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign, HandsetDesign, TalkDesign, WordDesign
from oddlamp.core.plan.controls import ControlKind
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.text import ENDINGS, typed
from oddlamp.core.words.frames import FieldValue
from oddlamp.sheets.deeds import describe
from oddlamp.sheets.helpers import told_by
from oddlamp.sheets.models import Choice, Option, Slot

HEAD: Final = ("control", "when", "type", "values", "ends with", "hex", "decimal", "does")
WHEN: Final = {"press": "pressed", "release": "let go", "on": "switched on", "off": "switched off", "move": "moved"}
SAID: Final = {"phrase": "said", "key": "pressed"}
FIRST: Final = ("press", "on")
MOVED: Final[tuple[tuple[ControlKind, str, Collection[int]], ...]] = (
    ("slider", "A slider for each value", range(1, 9)),
    ("colour", "A colour", (3,)),
    ("stick", "A stick", (2,)),
    ("number", "Typed as numbers", range(1, 9)),
)
OTHERS_MOST: Final = 12
SlotForm = Literal["csv", "json"]


def slots_of(design: Design, handset: HandsetDesign) -> Iterator[Slot]:
    """List every control of a phone with what it says for each gesture."""
    for control in handset.controls:
        for gesture, (talk_id, word_id) in control.says.items():
            talk = design.talks[talk_id]
            word = talk.vocabulary.word(word_id)
            when = SAID.get(control.kind) or WHEN.get(gesture, gesture)
            slot = _slot(design, handset, control.label, when, talk, word, filled(control.fills.get(gesture, {})))
            if control.kind in ("key", "phrase"):
                slot = slot.model_copy(update=told_by(handset, control))
            elif gesture in FIRST:
                slot = slot.model_copy(update={"is_a": _kinds(handset, control, talk, word)})
            elif gesture == "move":
                slot = slot.model_copy(update=_moved(handset, control, talk, word))
            yield slot


def _kinds(handset: HandsetDesign, control: ControlDesign, talk: TalkDesign, word: WordDesign) -> Choice | None:
    """Offer what kind of control says a word: a button, one that is held and says another when let go, or a switch of two words."""
    if word.parameters:
        return None
    path = ("nodes", handset.id, "controls", control.id)
    says = {"talk": talk.id, "word": word.id}
    others = [it for it in heard_out(talk.vocabulary, "out") if it is not word and not it.parameters][:OTHERS_MOST]
    rows: list[tuple[str, Document, dict[str, str]]] = [
        (
            "A button",
            {"kind": "button", "is_held": None, "says": {"press": says, "release": None, "on": None, "off": None}},
            {"press": word.id},
        )
    ]
    for other in others:
        then = {"talk": talk.id, "word": other.id}
        rows += [
            (
                f"Held: says {other.label} when let go",
                {"kind": "button", "is_held": True, "says": {"press": says, "release": then, "on": None, "off": None}},
                {"press": word.id, "release": other.id},
            ),
            (
                f"A switch: says {other.label} when off",
                {"kind": "toggle", "is_held": None, "says": {"press": None, "release": None, "on": says, "off": then}},
                {"on": word.id, "off": other.id},
            ),
        ]
    now = {gesture: word_id for gesture, (_, word_id) in control.says.items()}
    options = tuple(
        Option(label=label, patch=at_path(path, {"label": control.label, **told}), is_chosen=now == wanted)
        for label, told, wanted in rows
    )
    because = None if control.origin == "own" else "one button a word is the least that says them all"
    return Choice(
        label=f"{control.label} is", origin="own" if control.origin == "own" else "proposed", because=because, options=options
    )


def _moved(handset: HandsetDesign, control: ControlDesign, talk: TalkDesign, word: WordDesign) -> dict[str, object]:
    """Offer by what the values of a word are moved, and when it is said."""
    path = ("nodes", handset.id, "controls", control.id)
    whole: Document = {"label": control.label, "says": {"move": {"talk": talk.id, "word": word.id}}}
    count = 0 if any(it.written == "text" for it in word.parameters) else len(word.parameters)
    rows = [(kind, label) for kind, label, counts in MOVED if count in counts]
    origin = "own" if control.origin == "own" else "proposed"
    because = None if control.origin == "own" else "a slider for each value shows them all"
    kinds = tuple(
        Option(label=label, patch=at_path(path, {**whole, "kind": kind}), is_chosen=control.kind == kind) for kind, label in rows
    )
    said = tuple(
        Option(
            label=label, patch=at_path(path, {**whole, "kind": control.kind, "sends": key}), is_chosen=control.at_rest == at_rest
        )
        for key, label, at_rest in ((None, "While it moves", False), ("at-rest", "Once it rests", True))
    )
    told: dict[str, object] = {}
    if len(kinds) > 1:
        told["is_a"] = Choice(label=f"{control.label} is", origin=origin, because=because, options=kinds)
    if count and control.kind != "number":
        why = None if control.at_rest else "the light follows the thumb"
        told["is_said"] = Choice(
            label=f"{control.label} is said", origin="own" if control.at_rest else "proposed", because=why, options=said
        )
    return told


def _slot(
    design: Design,
    handset: HandsetDesign,
    label: str,
    when: str,
    talk: TalkDesign,
    word: WordDesign,
    fill: Mapping[str, FieldValue],
) -> Slot:
    """Write what is typed; values that the control settles stand in it, the others in braces."""
    vocabulary = talk.vocabulary
    is_line = vocabulary.terminator in ENDINGS.values()
    open_ones = [it for it in word.parameters if it.id not in fill]
    is_settled = bool(word.parameters) and not open_ones
    text = typed(word.built(fill)) if is_settled else word.text
    text += "" if is_line else vocabulary.terminator_name if vocabulary.terminator else ""
    sent = said_by(handset, vocabulary, word, fill if is_settled else None)
    do = [
        action.model_dump(mode="json", exclude_none=True)
        for _, rule in design.rules_of(talk.b)
        if rule.when.heard == word.id
        for action in rule.do
    ]
    values = ", ".join(f"{{{it.id}}} is {it.field.span}, {it.written.replace('-', ' ')}" for it in open_ones)
    does = describe(design, talk.b, do) or "nothing yet"
    for name, value in fill.items():
        does = does.replace(f"{{{name}}}", str(value))
    return Slot(
        control=label,
        when=when,
        types=text,
        values=values,
        ends="nothing" if handset.appends.id == "none" else f"{handset.appends.label}, which the phone adds",
        hex=" ".join(f"{byte:02X}" for byte in sent),
        decimal=" ".join(str(byte) for byte in sent),
        does=does,
        example=named(word.content) if open_ones else "",
    )


def slots_as(slots: Iterator[Slot], form: SlotForm) -> str:
    """Write them as a file: CSV with a head (RFC 4180), or JSON."""
    rows = [it.model_dump(exclude={"is_a", "is_said", "entries"}) for it in slots]
    if form == "json":
        return json.dumps(rows, ensure_ascii=False, indent=1) + "\n"
    out = StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    writer.writerows([it[key] for key in ("control", "when", "types", "values", "ends", "hex", "decimal", "does")] for it in rows)
    return out.getvalue()
