"""What to type into which slot of any terminal or button-pad program on the phone: to read, to print, as CSV and JSON."""

import csv
import json
from collections.abc import Iterator
from io import StringIO
from typing import Final, Literal

from oddlamp.core.behaviour.framing import said_by
from oddlamp.core.checks.apart import named
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import HandsetDesign, TalkDesign, WordDesign
from oddlamp.core.plan.text import ENDINGS
from oddlamp.sheets.models import Slot
from oddlamp.sheets.words import describe

HEAD: Final = ("control", "when", "type", "values", "ends with", "hex", "decimal", "does")
WHEN: Final = {"press": "pressed", "release": "let go", "on": "switched on", "off": "switched off", "move": "moved"}
SlotForm = Literal["csv", "json"]


def slots_of(design: Design, handset: HandsetDesign) -> Iterator[Slot]:
    """List every control of a phone with what it says for each gesture."""
    for control in handset.controls:
        for gesture, (talk_id, word_id) in control.says.items():
            talk = design.talks[talk_id]
            word = talk.vocabulary.word(word_id)
            yield _slot(design, handset, control.label, WHEN.get(gesture, gesture), talk, word)


def _slot(design: Design, handset: HandsetDesign, label: str, when: str, talk: TalkDesign, word: WordDesign) -> Slot:
    vocabulary = talk.vocabulary
    is_line = vocabulary.terminator in ENDINGS.values()
    typed = word.text + ("" if is_line else vocabulary.terminator_name if vocabulary.terminator else "")
    sent = said_by(handset, vocabulary, word)
    do = [
        action.model_dump(mode="json", exclude_none=True)
        for _, rule in design.rules_of(talk.b)
        if rule.when.heard == word.id
        for action in rule.do
    ]
    values = ", ".join(f"{{{it.id}}} is {it.field.span}, {it.written.replace('-', ' ')}" for it in word.parameters)
    return Slot(
        control=label,
        when=when,
        types=typed,
        values=values,
        ends="nothing" if handset.appends.id == "none" else f"{handset.appends.label}, which the phone adds",
        hex=" ".join(f"{byte:02X}" for byte in sent),
        decimal=" ".join(str(byte) for byte in sent),
        does=describe(design, do) or "nothing yet",
        example=named(word.content) if word.parameters else "",
    )


def slots_as(slots: Iterator[Slot], form: SlotForm) -> str:
    """Write them as a file: CSV with a head (RFC 4180), or JSON."""
    rows = [it.model_dump() for it in slots]
    if form == "json":
        return json.dumps(rows, ensure_ascii=False, indent=1) + "\n"
    out = StringIO()
    writer = csv.writer(out)
    writer.writerow(HEAD)
    writer.writerows([it[key] for key in ("control", "when", "types", "values", "ends", "hex", "decimal", "does")] for it in rows)
    return out.getvalue()
