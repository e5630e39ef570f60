"""The page that a board with a radio of its own serves: the plan's controls as a browser shows them, in one piece."""

import html
import json
import re
from collections.abc import Collection, Iterator, Sequence
from typing import Any, Final

from oddlamp.core.base import Same
from oddlamp.core.checks.carried import said_every_s
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign, HandsetDesign, WordDesign
from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.filling import template
from oddlamp.core.firmware.hearing import Hears
from oddlamp.core.plan.controls import COLOURS
from oddlamp.core.words.frames import CHECKS

PAGE: Final = "page.html.j2"
MADE: Final = {
    "light": "light",
    "colour": "colour",
    "stick": "stick",
    "number": "number:typed",
    "text": "text:typed",
}  # by functions of the page
_INDENT: Final = re.compile(r"\n\s+")
SHOWN_ON: Final = ("phone", "computer", "feed")
UNSAFE: Final = str.maketrans({it: f"\\u{ord(it):04x}" for it in "<>&?)"})
UNSAFE_SHOWN: Final = {**{ord(it): f"&#{ord(it)};" for it in "?)\\"}}


def page_of(design: Design, radio: Row, them: Sequence[Hears]) -> str:
    """Return the page as one text of plain characters: nothing of a label can end it or what it stands in."""
    hears, vocabulary = them[0], them[0].talk.vocabulary
    controls = list(_controls(design, {it.talk.id for it in them}))
    out = {name for it in controls for name, _ in it["says"].values()}
    back = {state["word"] for it in controls for state in it.get("states", ())}
    answers = [it for it in Hears(hears.talk, "back" if hears.direction == "out" else "out").words if it.id in back]
    words = {it.id: _pieces(it) for it in hears.words if it.id in out}
    used = [piece for them in (*words.values(), *map(_pieces, answers)) for piece in them]
    text = template(Same(design.catalog.program), PAGE).render(
        title=_shown(design.plan.title),
        words=_data(words),
        answers=_data({it.id: _pieces(it) for it in answers}),
        ending=_data(list(vocabulary.terminator)),
        controls=_data(controls),
        made=",".join(name for kind, name in MADE.items() if any(it["kind"] == kind for it in controls)),
        kinds={it["kind"] for it in controls} | {"held" for it in controls if "release" in it["says"]}
        | {"toggle" for it in controls if "on" in it["says"]} | {"slides" for it in controls if _slides_plainly(it)},
        pieces={name for piece in used for name in (piece.get("kind"), *(it for it in ("check", "sign") if it in piece))},
        is_asked=radio["page"]["is_asked"],
        has_clock=radio["has_clock"],
    )  # fmt: skip
    return _INDENT.sub("\n", text)


def _slides_plainly(it: Row) -> bool:
    return "slides" in it and it["kind"] not in ("colour", "stick", "number", "text")


def _controls(design: Design, talks: Collection[str]) -> Iterator[Row]:
    """Yield what can be pressed, moved and seen of the phones that reach the board over its own radio."""
    words = {word.id for it in talks for word in design.talks[it].vocabulary.words}
    for handset in design.handsets.values():
        if handset.kind not in SHOWN_ON:
            continue
        for control in handset.controls:
            says = {gesture: said for gesture, said in control.says.items() if said[0] in talks}
            if says or (control.kind == "light" and any(it.word in words for it in control.states)):
                yield _control(design, handset, control, says)


def _control(design: Design, handset: HandsetDesign, control: ControlDesign, says: dict[str, tuple[str, str]]) -> Row:
    slides = []
    if "move" in says:
        word, settled = design.talks[says["move"][0]].vocabulary.word(says["move"][1]), control.fills.get("move", {})
        slides = [
            {"id": it.id, "label": it.label, "least": it.field.least, "most": it.field.most,
             "unit": f" {it.field.unit}" if it.field.unit else "", "is_text": it.written == "text"}
            for it in word.parameters if it.id not in settled
        ]  # fmt: skip
    states = [
        _of(
            {
                "word": it.word,
                "value": it.value,
                "least": it.least,
                "most": it.most,
                "label": it.label or control.label,
                "colour": COLOURS[it.shade],
                "blink_s": it.blink_s,
            }
        )
        for it in control.states
    ]
    every = {"slides": slides, "at_rest": control.at_rest, "interval_ms": round(1000 * said_every_s(design, handset, control))}
    return {
        "kind": control.kind,
        "label": control.label,
        "says": {gesture: (word, _filled(control, gesture)) for gesture, (_, word) in says.items()},
        **({"states": states} if states else {}),
        **(every if slides else {}),
    }  # fmt: skip


def _of(row: Row) -> Row:
    """Leave out what is not settled."""
    return {name: it for name, it in row.items() if it is not None}


def _filled(control: ControlDesign, gesture: str) -> dict[str, Any]:
    return {name: it if isinstance(it, str) else round(it) for name, it in control.fills.get(gesture, {}).items()}


def _pieces(word: WordDesign) -> list[Row]:
    """Return what a word is made of, as the page writes and reads it."""
    if word.shape is None:
        return [{"fixed": list(word.content)}]
    found = list[Row]()
    for piece in word.shape.pieces:
        if isinstance(piece, bytes):
            found.append({"fixed": list(piece)})
            continue
        it = word.shape.fields[piece]
        if it.kind in CHECKS:
            found.append({"check": it.kind})
            continue
        one: Row = {"id": piece, "kind": it.kind, "least": it.least, "most": it.most}
        one |= {"width": it.width} if it.width else {}
        one |= {"digits": it.digits_most} if it.kind == "number" else {}
        one |= {"escape": it.escape} if it.escape else {}
        one |= {"sign": it.signed, "bits": it.bits} if it.signed not in (None, "minus") else {}
        found.append(one)
    return found


def _data(value: Any) -> str:
    """Write values as the page's script reads them: what is empty is left out where nothing asks for it."""
    return json.dumps(value, ensure_ascii=True, separators=(",", ":")).translate(UNSAFE)


def _shown(text: str) -> str:
    return html.escape(text).translate(UNSAFE_SHOWN).encode("ascii", "xmlcharrefreplace").decode("ascii")
