"""Programs and events drawn by chance, of everything that docs/program.md knows."""

import random
from typing import Any

from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR

STAGE: Document = merge_patch(
    CLEAR,
    {
        "nodes": {"board": {"choice": {"part": "board-5v-70io"}}},
        "lamps": {
            "moon": {"kind": "rgb", "label": "Moon", "host": "board", "common": "anode", "brightness_cap_ratio": 0.6, "ladder": {"half_is": "eye"}},
            "sign": {"kind": "matrix", "label": "Sign", "host": "board", "count": 1},
            "far": {"kind": "led", "label": "Far", "host": "board", "ladder": {"steps": 4, "even_in": "duty"}},
            "bell": {"kind": "relay", "label": "Bell", "host": "board"},
            "up": {"kind": "relay", "label": "Up", "host": "board"},
            "down": {"kind": "relay", "label": "Down", "host": "board"},
            "fore": {"kind": "motor", "label": "Fore", "host": "board", "ladder": {"steps": 4}},
            "aft": {"kind": "motor", "label": "Aft", "host": "board", "ladder": {"steps": 3}},
            "beak": {"kind": "buzzer", "label": "Beak", "host": "board"},
            "eye": {"kind": "led", "label": "Eye", "host": "board", "channels": {"main": {"led": {"part": "led-infra-red"}}}, "sends": "codes"},
            "chain": {"kind": "pixels-one-wire", "label": "Chain", "host": "board", "layout": {"runs": [{"count": 3}]}},
            "panel": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 20}], "shape": {"kind": "grid", "in_row": 4}}},
        },
        "signals": {"radio.state": {}},
        "movers": {
            "curtain": {"label": "Curtain", "ahead": "up", "back": "down", "pause_s": 0.3},
            "gate": {"ahead": "fore", "back": "aft"},
            "boat": {"sender": "eye", "codes": {"first_code": 512, "speeds": 3, "bits": 4, "signed": "twos-complement"}, "pause_s": 0.25},
            "cart": {"sender": "eye", "codes": {"first_code": 768, "speeds": 5, "bits": 8, "signed": "offset"}},
        },
        "groups": {"both": {"members": ["lamp", "far"]}, "shine": {"members": ["moon", "chain"]}},
        "inputs": {
            "cue": {"kind": "button", "label": "Cue", "host": "board"},
            "door": {"kind": "switch", "label": "Door", "host": "board", "settings": {"settle_s": 0.005}},
            "dial": {"kind": "knob", "label": "Dial", "host": "board"},
            "touch": {"kind": "sensor", "label": "Touch", "host": "board", "count": 3, "settings": {"settle_s": 0.003}},
            "dusk": {
                "kind": "sensor", "label": "Dusk", "host": "board",
                "settings": {"reads": "value", "on_above_ratio": 0.6, "off_below_ratio": 0.4},
            },
        },
        "vocabularies": {"words": {"framing": {"kind": "terminated"}, "words": {
            "on": None, "off": None,
            "told": {"sent": "T{v}{w}", "direction": "back", "parameters": {
                "v": {"written": "two-bytes", "most": 1000}, "w": {"written": "two-bytes", "most": 1000}}},
        }}},
        "rules": {"r1": None, "r2": None},
    },
)  # fmt: skip
LAMPS = (
    "lamp",
    "moon",
    "far",
    "sign",
    "both",
    "bell",
    "chain",
    "panel",
    "shine",
    "beak",
    "eye",
    "up",
    "down",
    "up",
    "down",
    "fore",
    "aft",
)
WORDS = ("a", "b", "c", "d")
SHOWN = ("lamp", "moon", "far", "sign", "bell", "chain", "panel", "beak", "eye", "up", "down", "fore", "aft")
VERBS = (
    "on", "off", "toggle", "hold", "level", "colour", "brighter", "dimmer", "add", "random", "blink", "pulse", "cue", "next",
    "stop", "text", "score", "remember", "restore", "say",
    "tone", "pattern", "send", "show", "reverse", "resume", "run", "step",
)  # fmt: skip
PATTERNS = ("wipe", "chase", "bounce", "random", "rain", "neighbours")
TIMES = (0.02, 0.03, 0.1, 0.25, 0.5, 1, 2.5)
OVERS = (0.01, 0.1, 0.3333, 1, 3)
STATES = ("{lamp.level}", "{moon.red}", "{moon.on}", "{sign.score}", "{dial.value}", "{door.value}", "{v}")


def drawn_values(rng: random.Random, verb: str) -> Document:
    """What an action takes."""
    ends = rng.choice([{}, {"ends": "round"}, {"ends": "stay"}])
    over = rng.choice([{}, {}, {"over_s": rng.choice(OVERS)}])
    shades = [rng.choice([0, 1, 0.5, 0.2, 0.001, "{v}"]) for _ in range(3)]
    match verb:
        case "on" | "off" | "toggle" | "restore":
            return over
        case "level":
            return {"level": shades[0], **over}
        case "colour":
            chosen = rng.sample(["red", "green", "blue"], rng.randint(1, 3))
            some = rng.choice([{}, {}, {"first": rng.randint(0, 3)}, {"first": 1, "last": rng.randint(1, 9)}])
            return {**dict(zip(chosen, shades, strict=False)), **some, **over}
        case "brighter" | "dimmer":
            return {**ends, **over}
        case "add":
            return {"by_ratio": rng.choice([0.1, -0.1, 1, -1, 0.33]), **ends, **over}
        case "random":
            return {**rng.choice([{}, {"least": 0.5}, {"least": 0.2, "most": 0.7}]), **over}
        case "blink":
            lit = rng.choice([{}, {"on_s": rng.choice(TIMES)}, {"on_s": rng.choice(TIMES), "off_s": rng.choice(TIMES)}])
            return {**lit, **rng.choice([{}, {"times": rng.randint(1, 4)}])}
        case "pulse":
            return {**rng.choice([{}, {"for_s": rng.choice(TIMES)}]), **rng.choice([{}, {"level": shades[0]}])}
        case "text":
            manner = rng.choice([{}, {"scroll_s": 0.08}, {"is_inverted": True}, {"is_reversed": True, "is_inverted": False}])
            return {"text": rng.choice(["HELLO", "", "42"]), **manner}
        case "show":
            of = rng.choice([{"input": "dial"}, {"input": "dusk", "shows_least": -20, "shows_most": 50}, {"input": "cue"}])
            return rng.choice([{}, of])
        case "tone":
            return {"tone_hz": rng.choice([440, 1000]), **rng.choice([{}, {"for_s": rng.choice(TIMES)}])}
        case "pattern":
            step = rng.choice([{}, {"step_s": rng.choice([0.02, 0.05, 0.25])}])
            return {"pattern": rng.choice(PATTERNS), **rng.choice([{}, {"rule": rng.choice([30, 110, 1, 255])}]), **step}
        case "send":
            return {"code": rng.choice([0x20DF10EF, 1, 2**32 - 1])}
        case "score":
            return {**rng.choice([{"by_count": 1}, {"by_count": -1}, {"by_count": 60}, {"count": 0}, {"count": 98}]), **ends}
    return {}


def drawn_action(rng: random.Random, *, moved: bool = False) -> Document:
    """One action, which may wait."""
    wait = {"after_s": rng.choice(TIMES)} if rng.random() < 0.25 else {}
    if moved and rng.random() < 0.15:
        return {"verb": "run", "target": rng.choice(["gate", "boat"]), "values": {"speed": "input"}, **wait}
    if moved and rng.random() < 0.7:
        return {"verb": "level", "target": rng.choice(LAMPS), "values": {"level": "input"}, **wait}
    verb = rng.choice(VERBS)
    if verb == "say":
        fill = {name: rng.choice(STATES) for name in ("v", "w")}
        return {"verb": "say", "say": {"talk": "main", "word": "told", "fill": fill}, **wait}
    if verb == "stop" and rng.random() < 0.3:
        return {"verb": "stop", **wait}
    if verb in ("reverse", "resume", "run", "step") or (verb == "stop" and rng.random() < 0.4):
        some = {
            "run": {"values": {"speed": rng.choice([0, 1, -1, 2, -2, 9, -9, "{v}"])}},
            "step": rng.choice([{}, {"values": {"by_count": rng.choice([1, -1, 2, -3])}}]),
        }
        return {"verb": verb, "target": rng.choice(["curtain", "gate", "boat", "boat", "cart"]), **some.get(verb, {}), **wait}
    if verb in ("cue", "next", "stop"):
        return {"verb": verb, "target": rng.choice(["storm", "glow"]), **wait}
    values = drawn_values(rng, verb)
    mine = {
        "text": ("sign", "panel", "panel", "lamp"),
        "score": ("sign", "panel", "lamp"),
        "show": ("sign", "panel"),
        "tone": ("beak",),
        "send": ("eye",),
        "pattern": ("chain", "panel", "shine"),
    }
    target = rng.choice(mine.get(verb, LAMPS))
    return {"verb": verb, "target": target, **({"values": values} if values else {}), **wait}


def drawn_cue(rng: random.Random) -> Document:
    """Up to five steps, some at once, some of pixels."""
    steps = []
    for _ in range(rng.choice([0, 1, 2, 3, 5])):
        what = rng.choice(
            [{"level": rng.choice([0, 1, 0.5])}, {"red": 1}, {"green": 0.5, "blue": 0.2}, {}, {"level": 0.3, "red": 1}]
        )
        some = rng.choice([{}, {}, {"first": rng.randint(0, 3)}, {"first": 0, "last": 1}])
        fade = rng.choice([{}, {"fade_s": rng.choice(OVERS)}])
        steps.append({"after_s": rng.choice([0, 0.01, 0.1, 0.25, 0.8]), "target": rng.choice(LAMPS), **what, **some, **fade})
    return {"steps": steps, "loop": rng.random() < 0.5}


def drawn_when(rng: random.Random) -> Document:
    """What sets a rule off."""
    return rng.choice(
        [
            *({"heard": word} for word in WORDS),
            *({"heard": word} for word in WORDS),
            {"input": "cue", "event": "pressed"},
            {"input": "cue", "event": "pressed"},
            {"input": "cue", "event": "released"},
            {"input": "cue", "event": "released"},
            {"input": "door", "event": rng.choice(["on", "off"])},
            {"input": "dial", "event": "moved"},
            {"input": "dusk", "event": rng.choice(["on", "off"])},
            {"input": "touch", "event": rng.choice(["on", "off"])},
            {"event": "link-lost", "link": "air"},
            {"event": "link-back", "link": "air"},
            {"event": "power-up"},
            {"at": rng.choice(["00:00", "12:01", "12:02"])},
            {"every_s": rng.choice([0.25, 0.7, 1])},
        ]
    )


def drawn_standing(rng: random.Random) -> Document:
    """Orders of some lamps."""
    made: Document = {}
    for name in rng.sample(SHOWN, rng.randint(0, 4)):
        orders = {
            "power_up": rng.choice(["off", "on"]),
            "power_cut": rng.choice(["off", "on", "last"]),
            "link_lost": rng.choice(["off", "on", "keep"]),
            "winner": rng.choice(["last-moved", "last-moved", "phone", "local"]),
        }
        made[name] = {key: it for key, it in orders.items() if rng.random() < 0.6}
        if rng.random() < 0.4:
            made[name]["thresholds"] = {"dial": rng.choice([0.01, 0.1])}
    return made


def drawn_plan(rng: random.Random) -> Document:
    """Words with a value, inputs, cues, standing orders, and rules that do up to five things each."""
    made = {name: {"sent": f"{name}{{v}}", "parameters": {"v": {"least": rng.choice([0, 10]), "most": 100}}} for name in WORDS}
    rules = {}
    for at in range(rng.randint(4, 9)):
        when = drawn_when(rng)
        is_moved = when.get("event") == "moved"
        rules[f"r{at}"] = {
            "host": "board",
            "when": when,
            "do": [drawn_action(rng, moved=is_moved) for _ in range(rng.randint(1, 5))],
        }
        if when.get("input") == "touch" and rng.random() < 0.8:
            own = {"first": "input", **rng.choice([{"red": 1}, {"green": 0.5, "blue": 0}, {"red": 0, "green": 0, "blue": 0}])}
            rules[f"r{at}"]["do"].append({"verb": "colour", "target": "chain", "values": own})
        if rng.random() < 0.2:
            told = rng.choice(
                [{"lamp": "lamp"}, {"lamp": "moon"}, {"input": "door"}, {"input": "cue"}, {"input": "dusk"}, {"input": "touch"}]
            )
            rules[f"r{at}"]["unless"] = {**told, "state": rng.choice(["on", "off"])}
    if rng.random() < 0.3:  # by chance alone a cue is seldom stopped while it runs
        for word, verb in (("a", "cue"), ("b", "stop")):
            rules[verb] = {"host": "board", "when": {"heard": word}, "do": [{"verb": verb, "target": "storm"}]}
    talks: Document = {}
    if rng.random() < 0.4:
        made["alive"] = {"sent": "L"}
        talks = {"main": {"keep_alive": {"word": "alive", "every_s": 0.2, "lost_after_s": rng.choice([0.25, 0.7])}}}
    return merge_patch(
        STAGE,
        {
            "talks": talks,
            "vocabularies": {"words": {"words": made}},
            "rules": rules,
            "standing": drawn_standing(rng),
            "cues": {"storm": drawn_cue(rng), "glow": drawn_cue(rng)},
        },
    )


def drawn_events(rng: random.Random, whole: Document, ends_ms: int) -> dict[int, tuple[list[Any], dict[str, int]]]:
    """What comes in which pass: words and links in order, and what inputs are from then on. Some come together."""
    events: dict[int, tuple[list[Any], dict[str, int]]] = {}
    moments = [rng.randrange(ends_ms) for _ in range(rng.randint(6, 24))]
    for at in moments:
        came, put = events.setdefault(rng.choice([at, at, rng.choice(moments)]), ([], {}))
        roll = rng.random()
        if roll < 0.55:
            known = whole["vocabularies"]["words"]["words"]
            word = rng.choice(WORDS)
            if "alive" in known and rng.random() < 0.3:
                came.append(("word", "alive", {}))
                continue
            least = known[word]["parameters"]["v"]["least"]
            came.append(("word", word, {"v": (rng.randint(least, 100), least, 100)}))
        elif roll < 0.62:
            came.append(("link", "air", rng.choice(["lost", "back"])))
        elif roll < 0.82:
            put[rng.choice(["cue", "cue", "cue", "door", "touch.1", "touch.2", "touch.3"])] = rng.randint(0, 1)
        else:
            put[rng.choice(["dial", "dusk"])] = rng.choice([0, 1023, 512, rng.randrange(1024)])
    return events
