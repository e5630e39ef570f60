"""A board with a radio of its own, and a phone with a control of every kind: drawn up for tests of printed programs."""

from typing import Any

from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import document

TITLE = 'Star & <b>"moon"</b> )page" ??! \u00e9'


def word(sent: str, **values: Any) -> Document:
    return {"sent": sent, "parameters": {name: {"written": "decimal", "most": most} for name, most in values.items()}}


def control(kind: str, label: str, **says: Any) -> Document:
    return {"kind": kind, "label": label, "says": {gesture: {"talk": "t", "word": it} for gesture, it in says.items()}}


WORDS: Document = {
    "on": word("+"), "off": word("-"), "dim": word("d{v}", v=255), "hold": word("h"), "free": word("f"),
    "tint": word("c{r} {g} {b}", r=255, g=255, b=255), "lean": word("x{x},{y}", x=255, y=255),
    "note": {"sent": "t{text}", "parameters": {"text": {"written": "text", "most": 12}}},
    "now": {**word("n{v}", v=255), "direction": "back"},
}  # fmt: skip
CONTROLS: Document = {
    "moon": control("toggle", "Moon", on="on", off="off"), "dim": control("slider", "Dim it", move="dim"),
    "tint": control("colour", "Tint", move="tint"), "lean": control("stick", "Lean", move="lean"),
    "note": control("text", "Note", move="note"), "bell": {**control("button", "Bell", press="hold", release="free"), "is_held": True},
    "is": {"kind": "light", "label": "Is it lit", "states": [
        {"word": "now", "value": "v", "most": 99, "label": "dim", "shade": "dark"},
        {"word": "now", "value": "v", "least": 100, "label": "bright", "shade": "green", "blink_s": 1},
    ]},
}  # fmt: skip
SAY: Document = {"verb": "say", "say": {"talk": "t", "word": "now", "fill": {"v": "{lamp.level}"}}}


def does(heard: str, *deeds: Document) -> Document:
    return {"host": "board", "when": {"heard": heard}, "do": list(deeds)}


STAR: Document = {
    **merge_patch(
        document("foyer-star"),
        {
            "title": TITLE, "lamps": {"star": None, "lamp": {"kind": "led", "host": "board", "rail": "three"}, "far": {"kind": "led", "host": "board", "rail": "three"}},
            "nodes": {"phone": {"controls": None}}, "links": {"mq": None}, "talks": {"u": None},
        },
    ),
    "vocabularies": {"words": {"framing": {"kind": "terminated", "terminator": "lf"}, "words": WORDS}},
    "rules": {
        "on": does("on", {"verb": "on", "target": "lamp"}, SAY), "off": does("off", {"verb": "off", "target": "lamp"}, SAY),
        "dim": does("dim", {"verb": "level", "target": "lamp", "values": {"level": "{v}"}}, SAY),
        "hold": does("hold", {"verb": "on", "target": "far"}), "free": does("free", {"verb": "off", "target": "far"}),
        "lean": does("lean", {"verb": "level", "target": "far", "values": {"level": "{x}"}}),
        "tint": does("tint", {"verb": "level", "target": "far", "values": {"level": "{b}"}}),
        "note": does("note", {"verb": "off", "target": "far"}),
    },
}  # fmt: skip
STAR["nodes"]["phone"]["controls"] = CONTROLS
