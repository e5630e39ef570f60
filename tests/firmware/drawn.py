"""Plans for the proof of printed programs: those that docs/program.md is tried with, in every framing and with every driver."""

import random
from typing import Any

from oddlamp.core.design.design import Design
from oddlamp.core.plan.document import Document, merge_patch
from tests.core.program.drawn import WORDS, drawn_events, drawn_plan
from tests.firmware.proof import WORD, Happening, Proof

FRAMINGS = ("terminated", "terminated", "single-byte", "fixed", "gap")
ENDS_MS = 1500
WRITTEN: tuple[Document, ...] = (
    {},
    {"written": "hex"},
    {"written": "byte"},
    {"written": "two-bytes"},
    {"written": "two-bytes-little"},
    {"signed": "minus", "least": -40},
    {"signed": "twos-complement", "written": "byte", "least": -30},
    {"signed": "twos-complement", "bits": 16, "least": -30},
    {"signed": "offset", "written": "byte", "least": -30},
)
NO_ENDING = tuple(it for it in WRITTEN if it.get("written") is not None)
CHIPS: Document = {
    "nodes": {
        "dims": {"kind": "chip", "choice": {"part": "dimmer-16"}},
        "more": {"kind": "chip", "choice": {"part": "expander-16"}},
    },
    "links": {
        "bus_1": {"kind": "wire", "a": "dims", "b": "board", "transport": "i2c"},
        "bus_2": {"kind": "wire", "a": "more", "b": "board", "transport": "i2c"},
    },
    "lamps": {"lamp": {"host": "dims"}, "far": {"host": "dims"}, "bell": {"host": "more"}},
}
PANELS: tuple[Document, ...] = (
    {},
    {"count": 3, "panel": {"turned": 90}},
    {"count": 4, "panel": {"rows": 2, "turns": "zig-zag", "turned": 180}},
    {"count": 2, "panel": {"is_back_to_back": True, "turned": 270}},
)
SHAPES: tuple[Document, ...] = (
    {},
    {"layout": {"runs": [{"count": 28}], "shape": {"kind": "digits", "made_of": "bars", "in_row": None}}},
    {"kind": "pixels-clocked", "choice": {"part": "pixel-clocked-5v"}},
    {"brightness_cap_ratio": 0.4},
)
KEYS: Document = {
    "nodes": {
        "remote": {
            "kind": "remote",
            "controls": {
                "up": {"kind": "key", "code": "0x20DF40BF", "says": {"press": {"talk": "main", "word": "a", "fill": {"v": 20}}}},
                "down": {"kind": "key", "code": 7, "says": {"press": {"talk": "main", "word": "b", "fill": {"v": 60}}}},
            },
        }
    },
    "inputs": {"takes": {"kind": "remote-receiver", "host": "board"}},
}


def drawn_whole(rng: random.Random) -> Document:
    """Draw a plan."""
    whole, framing = drawn_plan(rng), rng.choice(FRAMINGS)
    made: dict[str, Any] = {}
    known = whole["vocabularies"]["words"]["words"]
    for name in WORDS:
        most = known[name]["parameters"]["v"]["most"]
        how = rng.choice(NO_ENDING if framing == "fixed" else WRITTEN)
        if framing == "single-byte":
            made[name] = {"sent": name, "parameters": None}
        else:
            made[name] = {"parameters": {"v": {**how, "most": most}}}
    told: Document = {"written": rng.choice(["decimal", "two-bytes", "two-bytes-little", "hex"])}
    made["told"] = {"sent": "T{v}," + "{w}", "parameters": {"v": told, "w": told}}
    if framing != "single-byte" and rng.random() < 0.3:
        made["wide"] = (
            {"sent": "X{t}", "parameters": {"t": {"written": "text", "most": 12, **rng.choice([{}, {"escape": "!"}])}}}
            if framing != "fixed"
            else {"sent": "XY"}
        )
        made["echo"] = {"sent": "E{t}", "direction": "back", "parameters": {"t": {"written": "text", "most": 8}}}
        if framing != "fixed":
            whole = merge_patch(whole, {"rules": {"wide": {"host": "board", "when": {"heard": "wide"}, "do": [
                {"verb": "text", "target": rng.choice(["sign", "panel"]), "values": {"text": "{t}"}, **rng.choice([{}, {"after_s": 0.1}])},
                {"verb": "say", "say": {"talk": "main", "word": "echo", "fill": {"t": rng.choice(["{t}", "{sign.text}", "ok"])}}},
            ]}}})  # fmt: skip
    shape: Document = {
        "terminated": {"kind": "terminated", "terminator": rng.choice(["lf", "cr-lf", "#"])},
        "single-byte": {"kind": "single-byte"},
        "fixed": {
            "kind": "fixed",
            **rng.choice([{}, {"lead": "\\xA5"}]),
            **rng.choice([{}, {"check": rng.choice(["xor", "sum", "crc-8"])}]),
        },
        "gap": {"kind": "gap", "gap_s": 0.03},
    }[framing]
    if framing == "fixed":
        made["told"] = {"parameters": {"v": {"written": "two-bytes"}, "w": {"written": "two-bytes"}}}
    patches: list[Document] = [
        {"vocabularies": {"words": {"framing": None}}},
        {"vocabularies": {"words": {"framing": shape, "words": made, **rng.choice([{}, {"on_unknown": "answer"}])}}},
        {"lamps": {"sign": rng.choice(PANELS), "panel": rng.choice(SHAPES)}},
        rng.choice([{}, {}, CHIPS]),
        rng.choice(
            [{}, {"nodes": {"radio": {"setup": {"key_from": "board"}}}, "signals": {"radio.enable": {}, "radio.reset": {}}}]
        ),
        rng.choice([{}, {}, KEYS if framing != "single-byte" else {}]),
    ]
    for patch in patches:
        whole = merge_patch(whole, patch)
    return whole


def drawn_course(rng: random.Random, design: Design, whole: Document, proof: Proof, starts: int) -> list[Happening]:
    """Draw what happens: words and halves of words, noise, links, inputs, codes, and the time of day."""
    vocabulary = design.talks["main"].vocabulary
    ending, out = vocabulary.terminator, [it for it in vocabulary.words if it.direction == "out"]
    bounded: Any = {**whole, "vocabularies": {"words": {"words": {name: {"parameters": {"v": {"least": 0}}} for name in WORDS}}}}
    events: list[Happening] = []

    def come(content: bytes, at: int) -> None:
        events.extend(((starts + at + place * rng.choice([0, 0, 1])) % WORD, "B", byte, 0) for place, byte in enumerate(content))

    for at, (came, put) in drawn_events(rng, bounded, ENDS_MS).items():
        for what, *rest in came:
            if what == "link":
                if rest[0] in proof.state_pin:
                    events.append(((starts + at + 1) % WORD, "L", proof.state_pin[rest[0]], int(rest[1] == "back")))
                continue
            word = rng.choice(out)
            values = {
                it.id: rng.choice(["Hi", "!x", "", "a,b"]) if it.written == "text" else rng.randint(it.field.least, it.field.most)
                for it in word.parameters
            }
            whole_word = word.built(values) + ending
            come(
                rng.choice(
                    [
                        whole_word,
                        whole_word,
                        whole_word,
                        whole_word[:-1],
                        whole_word[1:],
                        rng.randbytes(rng.randint(1, 4)),
                        b"\r\n",
                        b"b99999\n",
                    ]
                ),
                at + 1,
            )
        for key, level in put.items():
            if key in proof.input_pin:
                events.append(proof.put((starts + at + 1) % WORD, key, level))
    if rng.random() < 0.1:
        come(bytes(rng.randrange(33, 127) for _ in range(80)), 1200)
    if proof.all["codes_heard"]:
        events += [((starts + rng.randint(1, 1400)) % WORD, "I", rng.choice([0x20DF40BF, 7, 99]), 0) for _ in range(3)]
    if proof.all["has"]["clock"] and rng.random() < 0.7:
        events.append(((starts + rng.randint(1, 900)) % WORD, "K", rng.choice([0, 43_259_900, 86_399_500]), 0))
    events.sort(key=lambda it: (it[0] - starts) % WORD)
    return [*_once(events), ((starts + 2 * ENDS_MS) % WORD, "E", 0, 0)]


def _once(events: list[Happening]) -> list[Happening]:
    """Leave out what a pin or the clock does a second time in one pass: it is looked at once."""
    seen, found = set[tuple[int, str, int]](), list[Happening]()
    for it in events:
        key = it[0], it[1], it[2] if it[1] == "L" else 0
        if it[1] in "BI" or key not in seen:
            found.append(it)
        seen.add(key)
    return found


def drawn_for_chip(rng: random.Random) -> Document:
    """Draw a plan without what takes a chip long, so that its passes are short: codes, displays, and chips beside the board."""
    whole = drawn_whole(rng)
    gone = dict.fromkeys(("eye", "boat", "cart", "sign", "panel"))
    rules = {
        name: {**rule, "do": [it for it in rule["do"] if it.get("target") not in gone and it["verb"] not in ("random", "say")]}
        for name, rule in whole["rules"].items()
    }
    cues = {
        name: {**cue, "steps": [it for it in cue["steps"] if it["target"] not in gone]} for name, cue in whole["cues"].items()
    }
    standing = {name: it for name, it in whole["standing"].items() if name not in gone}
    lamps = {name: {**it, "host": "board"} for name, it in whole["lamps"].items() if name not in gone}
    links = {name: it for name, it in whole["links"].items() if not name.startswith("bus")}
    nodes = {name: it for name, it in whole["nodes"].items() if it["kind"] != "chip"}
    movers = {name: it for name, it in whole["movers"].items() if name not in gone}
    return {
        **whole,
        "rules": rules,
        "cues": cues,
        "standing": standing,
        "lamps": lamps,
        "links": links,
        "nodes": nodes,
        "movers": movers,
    }
