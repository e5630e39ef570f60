"""Every rule: a plan that breaks it, and one just inside the limit. A code that cannot fire fails here."""

import random
from typing import Any

import pytest

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.checks.registry import RULES
from oddlamp.core.plan.document import Document, edit_plan, load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.models import Schematic
from oddlamp.sheets.review import review
from tests.builders import (
    CLEAR,
    EMPTY,
    LF,
    PLANS,
    codes,
    divider,
    document,
    findings_of,
    lamp,
    own_drop,
    patches_of,
    plan_with,
    words,
)
from tests.core.supply_rows import GUEST
from tests.core.supply_rows import ROWS as SUPPLY_ROWS
from tests.full import IS_PROOF, some

OWNED = "Keep these figures as a part of mine"
DIRECT = {"signals": {"serial.b_to_a": {"shift": {"school": "direct", "values": None}}}}
STAR = document("foyer-star")
WINGS = document("two-wings")


HELD: Document = {"is_omitted": True, "pull_ohm": 10_000, "pull_to": "three"}
BARE: Document = {
    "rails": {"three": {"end": "table", "fed_by": "cells"}},
    "sources": {"cells": {"end": "table", "choice": {"part": "coin-cell-3v"}}},
    "nodes": {"radio": {"choice": {"part": "family-e-bare"}, "rail": "three"}, "phone": {"speaks": ["wifi"]}},
    "links": {"air": {"transport": None}},
    "signals": {"radio.enable": HELD, "radio.reset": HELD},
}
BY_BOARD: Document = {"nodes": {"radio": {"setup": {"route": "board"}}}}


def pair_pins(left: str, right: str) -> Document:
    return {"nodes": {"ml": {"setup": {"pin_code": left}}, "mr": {"setup": {"pin_code": right}}}}


def pair_told(left: str, right: str) -> Document:
    return {"nodes": {"ml": {"setup": {"address": left}}, "mr": {"setup": {"address": right}}}}


def pair_speeds(left: int, right: int) -> Document:
    return {"links": {"wl": {"baud_rate_bd": left}, "wr": {"baud_rate_bd": right}}}


NUDGE = document("prompters-nudge")
NO_END: Document = {"nodes": {"phone": {"appends": "none"}}}
BLE: Document = {
    "nodes": {"radio": {"choice": {"part": "family-c"}}, "phone": {"speaks": ["ble"], "appends": "lf"}},
    "links": {"air": {"transport": "ble-serial"}},
}


def command(sent: str) -> Document:
    return {"vocabularies": {"own": {"words": {"pio2_on": {"sent": sent}}}}}


def baud(speed: int) -> Document:
    return {"links": {"serial": {"baud_rate_bd": speed}}}


ON_CHIP: Document = {
    "nodes": {"expander": {"kind": "chip", "end": "table", "rail": "five", "choice": {"part": "expander-16"}}},
    "links": {"bus": {"kind": "wire", "a": "board", "b": "expander", "transport": "i2c"}},
    "lamps": {"lamp": {"host": "expander"}},
}
BUILT: Document = {"signals": {"lamp.main": {"is_built": True, "built": {"resistor_ohm": 75}}}}
RELAY: Document = {
    "lamps": {
        "lamp": None,
        "relay": {"kind": "relay", "host": "board", "drive": {"school": "mosfet", "values": {"has_flyback": True}}},
    },
    "rules": {"r1": None, "r2": None},
}
PIEZO: Document = {"lamps": {"buz": {"kind": "buzzer", "host": "board", "drive": {"school": "mosfet"}}}}
PIXELS: Document = {
    "lamps": {"px": {"kind": "pixels-one-wire", "host": "board", "rail": "five", "layout": {"runs": [{"count": 5}]}}},
    "signals": {"px.data": {"series_ohm": 330}},
}
SPLIT: Document = {
    "ends": {},
    "sources": {"other": {"end": "table", "choice": {"part": "adapter-5v-1a"}}},
    "rails": {"px": {"end": "table", "fed_by": "other"}},
    "lamps": {"px": {"rail": "px"}},
}
DIMMED: Document = {
    "rules": {
        "r3": {"host": "board", "when": {"heard": "on"}, "do": [{"verb": "level", "target": "lamp", "values": {"level": 0.5}}]}
    }
}
WIFI: Document = {"nodes": {"board": {"choice": {"part": "board-wifi"}}}}
AWAY: Document = {"ends": {"far": {}}, "sources": {"other": {"end": "far"}}, "rails": {"px": {"end": "far", "fed_by": "other"}}}
STRAIGHT: Document = {"signals": {"px.data": {"shift": {"school": "direct"}}}}
TWELVE: Document = {"sources": {"usb": {"choice": {"part": "adapter-12v-2a"}}}}
KNOB: Document = {"inputs": {"knob": {"kind": "knob", "host": "board"}}}


def drive(school: str, **more: Any) -> Document:
    return {"lamps": {"lamp": {"drive": {"school": school, **more}}}}


SMALL = drive("mosfet", choice={"part": "mosfet-2v5"})


def strings(count: int, **channel: Any) -> Document:
    return {"lamps": {f"m{n}": {"kind": "led", "host": "board", "channels": {"main": channel}} for n in range(count)}}


def level(school: str, speed: int = 9600, **values: Any) -> Document:
    return {
        "signals": {"serial.b_to_a": {"shift": {"school": school, "values": {"upper_ohm": None, "lower_ohm": None, **values}}}},
        "links": {"serial": {"baud_rate_bd": speed}},
    }


def strip(part: str) -> Document:
    return {"lamps": {"glow": {"kind": "strip", "host": "board", "choice": {"part": part}}}}


def supply(value: float, **spread: float) -> Document:
    return {"sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": value, **spread}}}}}}


def series(ohm: float) -> Document:
    return {"signals": {"px.data": {"series_ohm": ohm}}}


def opto(on_when: str) -> Document:
    choice = {"part": f"relay-module-opto-{on_when}"}
    return {"lamps": {"bell": {"kind": "relay", "host": "board", "rail": "five", "choice": choice}}}


def chain(count: int) -> Document:
    return {"lamps": {"px": {**PIXELS["lamps"]["px"], "layout": {"runs": [{"count": count}]}}}}


def buzzer(**more: Any) -> Document:
    return {"lamps": {"buzz": {"kind": "buzzer", "host": "board", **more}}}


def rgb(**ohms: float) -> Document:
    return {
        "lamps": {
            "rgb": {
                "kind": "rgb",
                "host": "board",
                "common": "anode",
                "channels": {name: {"resistor_ohm": ohm} for name, ohm in ohms.items()},
            }
        }
    }


RING = {"rails": {"loop": {"end": "table", "fed_by": "board.supply_3v3"}}}
MASTER = {"nodes": {"radio": {"setup": {"role": "master"}}}}
RGB = {"kind": "rgb", "host": "board", "channels": {"red": {}, "green": {}, "blue": {}}}
TWELVE_DIMMED: Document = {
    "lamps": {f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {"wanted_current_a": 0.001}}} for n in range(7)},
    "rules": {
        f"dim{n}": {
            "host": "board",
            "when": {"heard": "on"},
            "do": [{"verb": "level", "target": f"l{n}", "values": {"level": 0.5}}],
        }
        for n in range(7)
    },
}


def moved(pin: str, signal: str = "lamp.main") -> Document:
    return {"signals": {signal: {"pin": pin}}}


def on_board(part: str) -> Document:
    return merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": part}}}})


def pulled(pin: str, ohm: float, to: str) -> Document:
    return {"signals": {"door.in": {"pin": pin, "pull_ohm": ohm, "pull_to": to}}}


def on_wifi(pin: str, ohm: float, to: str) -> Document:
    return merge_patch(STAR, pulled(pin, ohm, to))


def clock(ratio: float) -> Document:
    figure = {"value": 8e6, "least": 8e6 * (1 - ratio), "most": 8e6 * (1 + ratio)}
    return {"nodes": {"board": {"choice": {"overrides": {"clock_hz": figure}}}}}


def dimmed(target: str) -> Document:
    do = [{"verb": "level", "target": target, "values": {"level": 0.5}}]
    return {"rules": {f"dim_{target}": {"host": "board", "when": {"heard": "on"}, "do": do}}}


DIMMED = dimmed("lamp")
SECOND_DIMMED = {
    "lamps": {"other": {"kind": "led", "host": "board", "channels": {"main": {"wanted_current_a": 0.005}}}},
    **dimmed("other"),
}
BUTTON: Document = {"inputs": {"bell": {"kind": "button", "host": "board"}}}
SECOND_MODULE: Document = {
    "nodes": {"second": {"kind": "module", "end": "table", "rail": "five", "choice": {"part": "family-a"}}},
    "links": {"back": {"kind": "wire", "a": "second", "b": "board"}},
}
KNOB = {"inputs": {"knob": {"kind": "knob", "host": "board"}}}

KEYED: Document = {"nodes": {"radio": {"setup": {"key_from": "board"}}}}
PULLED_DOWN: Document = {"signals": {"radio.key": {"pull_ohm": 10_000, "pull_to": "ground"}}}
ALIKE: Document = {"nodes": {"nudge": {"setup": {"version": "family-c-alike"}}}}
FIXED: Document = {"kind": "fixed", "terminator": None}
HASH: Document = {"kind": "terminated", "terminator": "#"}


def carrying(sent: str, framing: Document, *, takes: str = "level", **written: Any) -> Document:
    """A word that carries values, obeyed by the lamp."""
    rule = {
        "host": "board",
        "when": {"heard": "dim"},
        "do": [{"verb": "level", "target": "lamp", "values": {"level": f"{{{takes}}}"}}],
    }
    word = {"sent": sent, "parameters": written}
    return {
        "vocabularies": {"words": {"framing": framing, "words": {"dim": word}}},
        "rules": {"dims": rule},
        "nodes": {"phone": {"appends": None}},
    }


def sliding(interval_s: float) -> Document:
    """Three values in one word of twelve bytes with its ending, said at an interval."""
    return {
        "vocabularies": {"words": {"framing": LF, "words": {"dim": {"sent": "{r} {g} {level}"}}}},
        "nodes": {
            "phone": {
                "appends": None,
                "controls": {
                    "dimmer": {"kind": "slider", "interval_s": interval_s, "says": {"move": {"talk": "main", "word": "dim"}}}
                },
            }
        },
        "rules": {
            "dims": {
                "host": "board",
                "when": {"heard": "dim"},
                "do": [{"verb": "level", "target": "lamp", "values": {"level": "{level}"}}],
            }
        },
    }


# code, severity, the patches that break it, the patches that stand just inside, the plan they change
SECOND: Document = {
    "nodes": {"second": {"kind": "board", "end": "table", "rail": "five"}},
    "lamps": {"away": {"kind": "led", "label": "Away", "host": "second"}},
}
REPLY: Document = {"vocabularies": {"words": {"words": {"lit": {"direction": "back"}}}}}
BOARDS_TALK: Document = {
    "nodes": {"second": {"kind": "board", "end": "table", "rail": "five"}},
    "links": {"between": {"kind": "wire", "a": "second", "b": "board"}},
    "talks": {"two": {"a": "second", "b": "board", "via": ["between"], "vocabulary": "words"}},
}


def round_of(is_answered: bool) -> Document:
    """The board answers the second one's word, and the second says that word to the answer; or only says nothing."""
    word: Document = {"sent": "k", "direction": "back"}
    answer = [{"verb": "say", "say": {"talk": "two", "word": "ack"}}]
    again = [{"verb": "say", "say": {"talk": "two", "word": "on"}}] if is_answered else []
    return {
        "vocabularies": {"words": {"words": {"ack": word}}},
        "rules": {
            "r1": {"do": [{"verb": "on", "target": "lamp"}, *answer]},
            "r9": {"host": "second", "when": {"heard": "ack"}, "do": again},
        },
    }


def held(*, is_held: bool = False, release: str | None = None) -> Document:
    says: Document = {"press": {"talk": "main", "word": "on"}}
    says |= {} if release is None else {"release": {"talk": "main", "word": release}}
    return {"nodes": {"phone": {"controls": {"go": {"kind": "button", "is_held": is_held, "says": says}}}}}


def pixels_of(count: int, *, is_on_port: bool = True) -> Document:
    """One-wire pixels and a slider: 30 us a pixel, against two bytes of 1.042 ms at 9600 Bd or 86.8 us at 115200."""
    pins: Document = {"serial.a_to_b": {"pin": "0"}, "serial.b_to_a": {"pin": "1"}} if is_on_port else {}
    return merge_patch(
        carrying("R{level}", LF),
        {
            "lamps": {"star": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": count}]}}},
            "rules": {"r1": {"do": [{"verb": "level", "target": "star", "values": {"level": "{level}"}}]}},
            "signals": pins,
        },
    )


BARS: Document = {
    "lamps": {
        "digits": {
            "kind": "pixels-one-wire",
            "label": "Digits",
            "host": "board",
            "layout": {"runs": 28, "shape": {"kind": "digits", "made_of": "bars"}},
        }
    }
}
DISPLAY: Document = {"lamps": {"sign": {"kind": "matrix", "label": "Sign", "host": "board", "count": 1}}}
STRIP_IN: Document = {"lamps": {"tape": {"kind": "strip", "label": "Tape", "host": "board"}}}


def in_room(name: str, room_m: float) -> Document:
    return {"lamps": {name: {"layout": {"room_m": room_m}}}}


def run_of(lamps: list[str], **spread: float) -> Document:
    return {"spreads": {"shelf": {"lamps": lamps, **spread}}}


CHAIN: Document = {
    "lamps": {"chain": {"kind": "pixels-one-wire", "label": "Chain", "host": "board", "layout": {"runs": [{"count": 24}]}}}
}


MOVER: Document = {
    "lamps": {name: {"kind": "relay", "label": name.capitalize(), "host": "board"} for name in ("up", "down")},
    "movers": {"m": {"label": "Curtain", "ahead": "up", "back": "down"}},
}


CLOCK_CHIP: Document = {
    "nodes": {"clock": {"kind": "chip", "choice": {"part": "clock-chip"}, "rail": "five"}},
    "links": {"clock_bus": {"kind": "wire", "a": "board", "b": "clock", "transport": "i2c"}},
}
AT_NIGHT: Document = {"rules": {"n": {"host": "board", "when": {"at": "23:00"}, "do": [{"verb": "off", "target": "lamp"}]}}}


BOAT: Document = {
    "lamps": {
        "eye": {"kind": "led", "host": "board", "channels": {"main": {"led": {"part": "led-infra-red"}}}, "sends": "codes"}
    },
    "movers": {"m": {"sender": "eye"}},
}
ALIVE: Document = {"vocabularies": {"words": {"words": {"alive": {}}}}, "talks": {"main": {"keep_alive": {"word": "alive"}}}}


def feed(line: str) -> Document:
    """A feed beside the phone, and a word that carries a text of up to 20 signs."""
    return {
        "nodes": {"news": {"kind": "feed", "lines": [line]}},
        "links": {"news_air": {"kind": "air", "a": "news", "b": "radio"}},
        "talks": {"news": {"a": "news", "b": "board", "via": ["news_air", "serial"], "vocabulary": "words"}},
        "vocabularies": {
            "words": {
                "framing": {"kind": "terminated", "terminator": "lf"},
                "words": {"tell": {"sent": "T{line}", "parameters": {"line": {"written": "text"}}}},
            }
        },
    }


# Twelve bytes of the word and two of its answer are 14.58 ms at 9600 Bd.
ANSWERED: Document = {
    "vocabularies": {"words": {"words": {"lit": {"sent": "L", "direction": "back"}}}},
    "rules": {
        "dims": {
            "do": [
                {"verb": "level", "target": "lamp", "values": {"level": "{level}"}},
                {"verb": "say", "say": {"talk": "main", "word": "lit"}},
            ]
        }
    },
}
NO_MEMORY: Document = {"nodes": {"board": {"choice": {"part": "board-3v3-32bit"}}}}


def told(rule: str, verb: str, target: str) -> Document:
    """A rule that does one thing."""
    return {"rules": {rule: {"do": [{"verb": verb, "target": target}]}}}


def standing(**orders: str) -> Document:
    """Standing orders of the one lamp."""
    return {"standing": {"lamp": orders}}


def rule_of(verb: str, target: str, **values: Any) -> Document:
    """A rule on the first word that does one thing."""
    do = {"verb": verb, "target": target, **({"values": values} if values else {})}
    return {"rules": {"r1": {"do": [do]}}}


def cue_of(step_s: float) -> Document:
    """A chain lit and dark in turn, so long each."""
    steps = [{"target": "chain", "level": level, "after_s": step_s} for level in (1, 0)]
    return {"cues": {"c": {"steps": steps, "loop": True}}}


def input_rule(kind: str, event: str) -> Document:
    """An input with a rule on one of its events."""
    do = [{"verb": "on", "target": "lamp"}]
    return {
        "inputs": {"k": {"kind": kind, "label": "Knob", "host": "board"}},
        "rules": {"k": {"host": "board", "when": {"input": "k", "event": event}, "do": do}},
    }


ROWS: list[tuple[str, str, list[Document], list[Document], Document]] = [
    ("LED-OVER", "look", [lamp(resistor_ohm=69)], [lamp(resistor_ohm=70.1)], CLEAR),
    ("LED-OVER", "stop", [lamp(resistor_ohm=46)], [lamp(resistor_ohm=47)], CLEAR),
    ("LED-OVER", "look", [lamp(led={"overrides": {"absolute_current_a": {"value": 0.0231}}})], [lamp(led={"overrides": {"absolute_current_a": {"value": 0.0232}}})], CLEAR),
    ("LED-HEADROOM", "look", [lamp(**own_drop(4.51), resistor_ohm=None)], [lamp(**own_drop(4.2), resistor_ohm=None)], CLEAR),
    ("LED-HEADROOM", "stop", [lamp(**own_drop(5.0))], [lamp(**own_drop(5.1, least=4.9))], CLEAR),
    ("PIN-CURRENT", "look", [lamp(in_parallel=2)], [lamp()], CLEAR),
    ("PIN-CURRENT", "stop", [lamp(in_parallel=3)], [lamp(in_parallel=2)], CLEAR),
    ("LED-UNDER", "look", [lamp(resistor_ohm=141)], [lamp(resistor_ohm=139)], CLEAR),
    ("LED-SHARED-R", "look", [lamp(in_parallel=3, sharing="one")], [lamp(in_parallel=3, sharing="each")], CLEAR),
    ("LED-POWER", "look", [{"rails": {"five": {"fed_by": "usb"}}, "sources": {"usb": {"choice": {"part": "adapter-12v-2a"}}}}, drive("mosfet"), lamp(resistor_ohm=430, rating_w=0.25)], [TWELVE, drive("mosfet"), lamp(resistor_ohm=430, rating_w=0.5)], CLEAR),
    ("LED-POWER", "stop", [{"sources": {"usb": {"choice": {"part": "adapter-12v-2a"}}}}, drive("mosfet"), lamp(resistor_ohm=270, rating_w=0.25)], [TWELVE, drive("mosfet"), lamp(resistor_ohm=270, rating_w=0.5)], CLEAR),
    ("LED-RGB-UNBALANCED", "look", [rgb(red=460, green=460, blue=460)], [rgb(red=460, green=280, blue=280)], CLEAR),
    ("LED-POLARITY", "stop", [rgb(), {"lamps": {"rgb": {"common": "cathode", "drive": {"school": "mosfet"}}}}], [rgb(), {"lamps": {"rgb": {"common": "anode", "drive": {"school": "mosfet"}}}}], CLEAR),
    ("LED-GHOST", "look", [WIFI, rgb()], [rgb()], CLEAR),
    ("EYE-CAUTION", "look", [lamp(led={"part": "led-ultraviolet", "overrides": None}, resistor_ohm=None)], [lamp(led={"part": "led-red", "overrides": None}, resistor_ohm=None)], CLEAR),
    ("COIN-CAUTION", "look", [{"sources": {"usb": {"choice": {"part": "coin-cell-3v"}}}}], [{"sources": {"usb": {"choice": {"part": "aaa-3"}}}}], CLEAR),
    ("DRV-NEEDED", "stop", [RELAY, {"lamps": {"relay": {"drive": {"school": "pin"}}}}], [RELAY], CLEAR),
    ("DRV-FLYBACK", "stop", [RELAY, {"lamps": {"relay": {"drive": {"values": {"has_flyback": False}}}}}], [RELAY, {"lamps": {"relay": {"drive": {"values": None}}}}], CLEAR),
    ("DRV-FLYBACK", "look", [{"lamps": {"buz": {"kind": "buzzer", "host": "board", "choice": {"part": "buzzer-active"}, "drive": {"school": "npn", "values": {"has_flyback": False}}}}}], [{"lamps": {"buz": {"kind": "buzzer", "host": "board", "drive": {"school": "pin"}}}}], CLEAR),
    ("DRV-PIEZO", "look", [PIEZO], [PIEZO, {"lamps": {"buz": {"drive": {"values": {"across_ohm": 5600}}}}}], CLEAR),
    ("DRV-BASE", "look", [drive("npn", values={"base_ohm": 5600})], [drive("npn", values={"base_ohm": 4700})], CLEAR),
    ("DRV-BASE", "stop", [drive("npn", values={"base_ohm": 27_000})], [drive("npn", values={"base_ohm": 22_000})], CLEAR),
    ("DRV-GATE-LEVEL", "stop", [drive("mosfet", choice={"part": "mosfet-10v"})], [drive("mosfet", choice={"part": "mosfet-4v5"})], CLEAR),
    ("DRV-GATE-LEVEL", "look", [{"sources": {"usb": {"choice": {"part": "usb-port-500ma"}}}}, drive("mosfet", choice={"part": "mosfet-4v5"})], [drive("mosfet", choice={"part": "mosfet-4v5"})], CLEAR),
    ("DRV-GATE-PULLDOWN", "look", [drive("mosfet", values={"has_pull_down": False})], [drive("mosfet", values={"has_pull_down": True})], CLEAR),
    ("DRV-OPTO", "look", [WIFI, {"lamps": {"relay": {"kind": "relay", "host": "board", "choice": {"part": "relay-module-opto-low", "overrides": {}}}}}, {"sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": 6.5}}}}}}], [{"lamps": {"relay": {"kind": "relay", "host": "board", "choice": {"part": "relay-module-opto-low"}}}}], CLEAR),
    ("MAINS-CAUTION", "look", [RELAY], [], CLEAR),
    ("PORT-CURRENT", "stop", [strings(5, wanted_current_a=0.02, led={"part": "led-red"}), {"signals": {f"m{n}.main": {"pin": str(p)} for n, p in enumerate((5, 6, 7, 9, 10))}}, strings(4, wanted_current_a=0.038, led={"part": "led-red", "overrides": {"absolute_current_a": {"value": 0.05}}})], [strings(5, wanted_current_a=0.02, led={"part": "led-red"})], CLEAR),
    ("PORT-CURRENT", "look", [strings(7, wanted_current_a=0.02, led={"part": "led-red"}), {"signals": {f"m{n}.main": {"pin": str(p)} for n, p in enumerate((5, 6, 7, 9, 10, 11, 12))}}, {"signals": {"lamp.main": {"pin": "2"}}}], [strings(4, wanted_current_a=0.02, led={"part": "led-red"}), {"signals": {f"m{n}.main": {"pin": str(p)} for n, p in enumerate((5, 6, 7, 9))}}], CLEAR),
    ("CHIP-CURRENT", "stop", [strings(11, wanted_current_a=0.02, led={"part": "led-red"})], [strings(9, wanted_current_a=0.02, led={"part": "led-red"})], CLEAR),
    ("CHIP-CURRENT", "look", [strings(9, wanted_current_a=0.02, led={"part": "led-red"})], [strings(5, wanted_current_a=0.02, led={"part": "led-red"})], CLEAR),
    ("LVL-SLOW", "stop", [level("divider", 115_200, upper_ohm=100_000, lower_ohm=200_000)], [level("divider", 115_200, upper_ohm=33_000, lower_ohm=62_000)], CLEAR),
    ("LVL-SLOW", "look", [level("divider", 115_200, upper_ohm=33_000, lower_ohm=62_000)], [level("divider", 115_200, upper_ohm=10_000, lower_ohm=18_000)], CLEAR),
    ("LVL-DIRECT-RISK", "look", [level("clamp", series_ohm=10_000)], [level("divider", upper_ohm=1200, lower_ohm=2200)], CLEAR),
    ("LVL-DIRECT-RISK", "stop", [level("clamp", series_ohm=1000)], [level("clamp", series_ohm=2200)], CLEAR),
    ("PIX-DATA-LEVEL", "stop", [WIFI, PIXELS, STRAIGHT], [WIFI, PIXELS], CLEAR),
    ("PIX-DATA-LEVEL", "look", [PIXELS, SPLIT, STRAIGHT, {"sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": 5.0, "least": 3.6, "most": 5.2}}}}}}], [PIXELS, SPLIT, STRAIGHT], CLEAR),
    ("PIX-DATA-R", "look", [PIXELS, series(82)], [PIXELS, {"signals": {"px.data": {"series_ohm": None}}}], CLEAR),
    ("LVL-OVER", "stop", [WIFI, KNOB, {"inputs": {"knob": {"rail": "five"}}}], [WIFI, KNOB], CLEAR),
    ("LVL-OVER", "stop", [DIRECT], [divider(2000, 5000)], CLEAR),
    ("LVL-OVER", "look", [divider(1000, 2000)], [divider(1000, 2000, 0.01)], CLEAR),
    ("LVL-UNDER", "stop", [divider(2200, 2000)], [divider(2000, 2000)], CLEAR),
    ("LVL-MARGIN", "look", [divider(2000, 2000)], [divider(1600, 2200)], CLEAR),
    ("LVL-LOW", "stop", [level("diode", pull_ohm=10_000, diode_v=0.9)], [level("diode", pull_ohm=10_000, diode_v=0.3)], CLEAR),
    ("LVL-LOW", "look", [level("diode", pull_ohm=10_000, diode_v=0.81)], [level("diode", pull_ohm=10_000, diode_v=0.75)], CLEAR),
    ("PIN-CURRENT", "stop", [level("diode", pull_ohm=56)], [level("diode", pull_ohm=150)], CLEAR),
    ("PIN-CURRENT", "look", [level("mosfet", pull_ohm=390)], [level("mosfet", pull_ohm=470)], CLEAR),
    ("PIX-ORDER", "look", [PIXELS, {"lamps": {"px": {"order_seen": "red-green-blue"}}}], [PIXELS, {"lamps": {"px": {"order_seen": "red-green-blue", "colour_order": "red-green-blue"}}}], CLEAR),
    ("PIX-RAM", "look", [chain(342)], [chain(341)], CLEAR),
    ("PIX-RAM", "stop", [chain(513)], [chain(512)], CLEAR),
    ("LED-FLICKER", "look", [DIMMED, {"lamps": {"lamp": {"watched": "filmed"}}}], [DIMMED], CLEAR),
    ("LED-FLICKER", "look", [DIMMED, {"lamps": {"lamp": {"watched": "moving"}}}], [{"lamps": {"lamp": {"watched": "moving"}}}], CLEAR),
    ("LED-FLICKER", "look", [WIFI, DIMMED, {"lamps": {"lamp": {"watched": "filmed"}}}], [WIFI, DIMMED, {"lamps": {"lamp": {"watched": "moving"}}}], CLEAR),
    ("TONE-RANGE", "look", [buzzer(tone_hz=11_000)], [buzzer(tone_hz=10_000)], CLEAR),
    ("TONE-RANGE", "look", [buzzer(tone_hz="A4", choice={"part": "buzzer-active"})], [buzzer(choice={"part": "buzzer-active"})], CLEAR),
    ("TONE-RANGE", "stop", [buzzer(tone_hz=21_000)], [buzzer(tone_hz="A4")], CLEAR),
    ("DRV-VOLTS", "stop", [strip("strip-12v-white")], [strip("strip-5v-warm")], CLEAR),
    ("DRV-VOLTS", "stop", [SMALL, supply(20.1)], [SMALL, supply(20.0)], CLEAR),
    ("DRV-VOLTS", "look", [SMALL, supply(19.0, least=18, most=20.1)], [SMALL, supply(19.0, least=18, most=20)], CLEAR),
    ("DRV-VOLTS", "look", [strip("strip-5v-warm"), supply(5.0, least=3.6, most=5.25)], [strip("strip-5v-warm"), supply(5.0, least=3.8, most=5.25)], CLEAR),
    ("SUP-BACKFEED", "look", [PIXELS, SPLIT, series(330)], [PIXELS, series(330)], CLEAR),
    ("SUP-BACKFEED", "look", [PIXELS, SPLIT, series(3_900)], [PIXELS, SPLIT, series(4_700)], CLEAR),
    ("DRV-OPTO", "look", [WIFI, opto("high")], [opto("high")], CLEAR),
    ("SUP-RING", "stop", [RING, {"nodes": {"board": {"rail": "loop"}}}], [RING], CLEAR),
    ("SUP-INPUT-WINDOW", "stop", [supply(6.2)], [supply(5.5)], CLEAR),
    ("SUP-INPUT-WINDOW", "stop", [supply(13.0), {"nodes": {"radio": {"rail": None}}}], [supply(12.0), {"nodes": {"radio": {"rail": None}}}], CLEAR),
    ("SUP-INPUT-WINDOW", "look", [supply(5.0, least=4.5, most=5.6)], [supply(5.0, least=4.5, most=5.45)], CLEAR),
    ("LVL-GROUND", "stop", [PIXELS, SPLIT, AWAY], [PIXELS, SPLIT], CLEAR),
    ("LVL-GROUND", "stop", [strip("strip-5v-warm"), SPLIT, {"lamps": {"px": None, "glow": {"rail": "px"}}}, AWAY], [strip("strip-5v-warm"), AWAY], CLEAR),
    ("LVL-GROUND", "stop", [{"ends": {"far": {}}, "nodes": {"radio": {"end": "far"}}}], [{"ends": {"far": {}}}], CLEAR),
    ("PIN-PWM", "stop", [{"rules": {"r3": {"host": "board", "when": {"heard": "on"}, "do": [{"verb": "level", "target": "lamp", "values": {"level": 0.5}}]}}}, moved("4")], [moved("4")], CLEAR),
    ("PIN-INPUT-ONLY", "stop", [moved("34")], [moved("32")], on_board("board-wifi-ble")),
    ("PIN-ANALOG-ONLY", "stop", [moved("A6")], [moved("A5")], on_board("board-5v-20io-small")),
    ("PIN-ADC2", "stop", [KNOB, moved("4", "knob.in")], [KNOB, moved("32", "knob.in")], merge_patch(STAR, {"nodes": {"board": {"choice": {"part": "board-wifi-ble"}}}})),
    ("PIN-FLASH", "stop", [moved("6")], [moved("4")], on_board("board-wifi-ble")),
    ("PIN-STRAP", "look", [moved("15")], [moved("4")], merge_patch(on_board("board-wifi-ble"), lamp(resistor_ohm=330))),
    ("PIN-LABEL", "stop", [moved("14")], [moved("D5")], on_board("board-wifi")),
    ("PIN-TIMER", "stop", [buzzer(), DIMMED, moved("3")], [buzzer(), DIMMED, moved("5")], CLEAR),
    ("PIN-SLICE", "stop", [DIMMED, SECOND_DIMMED, moved("GP0"), moved("GP16", "other.main")], [DIMMED, SECOND_DIMMED, moved("GP0"), moved("GP18", "other.main")], on_board("board-3v3-dual-core")),
    ("PIN-PULL", "stop", [BUTTON, moved("34", "bell.in")], [BUTTON, moved("32", "bell.in")], on_board("board-wifi-ble")),
    ("PIN-RESET", "stop", [moved("P5")], [moved("P0")], on_board("board-5v-8pin")),
    ("PIN-SWSERIAL-RX", "stop", [moved("22", "serial.a_to_b")], [moved("12", "serial.a_to_b")], on_board("board-5v-70io")),
    ("PIN-SWSERIAL-TWO", "stop", [SECOND_MODULE], [], CLEAR),
    ("PIN-SWSERIAL-FAST", "look", [{"links": {"serial": {"baud_rate_bd": 57_600}}}], [{"links": {"serial": {"baud_rate_bd": 38_400}}}], CLEAR),
    ("PIN-SWSERIAL-FAST", "stop", [{"links": {"serial": {"baud_rate_bd": 115_200}}}], [{"links": {"serial": {"baud_rate_bd": 57_600}}}], CLEAR),
    ("PIN-CLOCK", "look", [], [clock(0.015)], on_board("board-bare-14pin")),
    ("PIN-CLOCK", "stop", [clock(0.1)], [clock(0.04)], on_board("board-bare-14pin")),
    ("PIN-ISP", "look", [KNOB, moved("PA4", "knob.in")], [KNOB, moved("PA0", "knob.in")], on_board("board-bare-14pin")),
    ("PIN-LED", "look", [BUTTON, moved("13", "bell.in")], [BUTTON, moved("12", "bell.in")], CLEAR),
    ("PIN-BOOT-TWITCH", "look", [buzzer(), moved("13", "buzz.main")], [buzzer(), moved("12", "buzz.main")], CLEAR),
    ("PIN-CANT", "stop", [KNOB, moved("4", "knob.in")], [KNOB, moved("A1", "knob.in")], CLEAR),
    ("PIN-CANT", "stop", [moved("D99")], [moved("A5")], CLEAR),
    ("PIN-TWICE", "stop", [moved("8"), moved("8", "serial.a_to_b")], [moved("8"), moved("9", "serial.a_to_b")], CLEAR),
    ("MOD-CLONE", "stop", [ALIKE], [{"nodes": {"nudge": {"setup": {"version": None}}}}], NUDGE),
    ("MOD-MODE", "stop", [WIFI, KEYED, moved("D0", "radio.key")], [WIFI, KEYED, PULLED_DOWN, moved("D5", "radio.key")], CLEAR),
    ("MOD-MODE", "look", [WIFI, KEYED, moved("D5", "radio.key")], [KEYED], CLEAR),
    ("MOD-CONNECTED", "look", [words(LF, on="AT+NAME=MOON")], [words(LF, on="NAME=MOON")], CLEAR),
    ("MOD-UNTOLD", "stop", [GUEST, {"signals": {"serial.b_to_a": {"is_omitted": True}}}], [{"signals": {"serial.b_to_a": {"is_omitted": True}}}], CLEAR),
    ("MOD-2G4", "stop", [GUEST, {"links": {"air": {"band": "5g"}}}], [GUEST, {"links": {"air": {"band": "both"}}}], CLEAR),
    ("MOD-2G4", "look", [GUEST], [GUEST, {"links": {"air": {"join": "access-point"}}}], CLEAR),
    ("MOD-SECRET", "look", [{"notes": "House Wi-Fi password: curtain-call-7, as on the box"}], [{"notes": "the password is asked for when the steps are copied"}], CLEAR),
    ("MOD-SECRET", "look", [words(LF, on='AT+CWJAP="house","curtain call"')], [words(LF, on='AT+CWJAP="house","<password>"')], CLEAR),
    ("MOD-WIRING", "stop", [{"links": {"serial": {"is_crossed": False}}}], [{"links": {"serial": {"is_crossed": True}}}], CLEAR),
    ("MOD-PAIR-PIN", "stop", [pair_pins("4711", "4712")], [pair_pins("4711", "4711")], WINGS),
    ("MOD-ADDR", "stop", [pair_told("1:2:3", "0001:02:000003")], [pair_told("1:2:3", "1:2:4")], WINGS),
    ("MOD-SPEEDS", "look", [pair_speeds(38_400, 9600)], [pair_speeds(38_400, 38_400)], WINGS),
    ("CMD-CHATTER", "look", [BLE, words(LF, on="moon", off="dark")], [BLE, {"nodes": {"phone": {"appends": "none"}}}], CLEAR),
    ("CMD-CHATTER", "stop", [BLE, NO_END, words(on="C", off="x")], [BLE, NO_END, words(on="c", off="x")], CLEAR),
    (
        "MOD-ROLE",
        "stop",
        [{"nodes": {"ml": {"choice": {"part": "family-b"}}}}],
        [{"nodes": {"mr": {"choice": {"part": "family-b"}}}}],
        WINGS,
    ),
    ("MOD-PACKET", "look", [BLE, words(LF, on="x" * 20)], [BLE, words(LF, on="x" * 19)], CLEAR),
    ("MOD-PIO", "stop", [command("AT+PIO31")], [command("AT+PIO21")], NUDGE),
    ("MOD-CASE", "stop", [command("at+pio21")], [command("AT+PIO21")], NUDGE),
    ("MOD-ENDING", "stop", [{"nodes": {"phone": {"appends": "cr-lf"}}}], [{"nodes": {"phone": {"appends": "none"}}}], NUDGE),
    ("MOD-ENABLE", "stop", [BARE, {"signals": {"radio.enable": None}}], [BARE], CLEAR),
    ("MOD-ROUTE", "look", [BY_BOARD, divider(1000, 2000, 0.01)], [BY_BOARD, divider(10_000, 20_000, 0.01)], CLEAR),
    ("MOD-ROUTE", "stop", [BY_BOARD, divider(1800, 2200, 0.01)], [BY_BOARD, divider(10_000, 20_000, 0.01)], CLEAR),
    ("MOD-BAUD-STUCK", "look", [baud(230_400)], [baud(115_200)], CLEAR),
    ("MOD-BAUD-STUCK", "stop", [baud(1_382_400)], [baud(57_600)], CLEAR),
    ("CHIP-BUS", "stop", [merge_patch(ON_CHIP, {"links": {"bus": None}})], [ON_CHIP], CLEAR),
    ("PIN-NO-FIT", "stop", [TWELVE_DIMMED], [merge_patch(TWELVE_DIMMED, {"lamps": {"l6": None}, "rules": {"dim6": None}})], CLEAR),
    ("PIN-UPLOAD", "look", [moved("1")], [moved("2")], CLEAR),
    ("PIN-STRAP", "stop", [], [pulled("D8", 40_000, "three")], on_wifi("D8", 10_000, "three")),
    ("PIN-STRAP", "stop", [], [pulled("D3", 47_000, "ground")], on_wifi("D3", 10_000, "ground")),
    ("MOD-PHONE", "stop", [{"nodes": {"phone": {"speaks": ["ble", "wifi"]}}}], [{"nodes": {"phone": {"speaks": ["ble", "classic"]}}}], CLEAR),
    ("MOD-PHONE", "stop", [{"nodes": {"radio": {"choice": {"part": "family-c"}}}}], [{"nodes": {"radio": {"choice": {"part": "family-c"}}, "phone": {"speaks": ["ble"]}}}], CLEAR),
    ("MOD-PIN", "stop", [{"nodes": {"radio": {"setup": {"pin_code": "471"}}}}], [{"nodes": {"radio": {"setup": {"pin_code": "4711"}}}}], CLEAR),
    ("MOD-DEFAULT-PIN", "look", [{"nodes": {"radio": {"setup": {"pin_code": "1234"}}}}], [{"nodes": {"radio": {"setup": {"pin_code": "1235"}}}}], CLEAR),
    ("MOD-NAME", "stop", [{"nodes": {"radio": {"setup": {"name": "x" * 21}}}}], [{"nodes": {"radio": {"setup": {"name": "x" * 20}}}}], CLEAR),
    ("MOD-ROLE", "stop", [MASTER], [{"nodes": {"radio": {"setup": {"role": "slave"}}}}], CLEAR),
    ("MOD-ROLE", "stop", [{"nodes": {"mr": {"setup": {"role": "master"}}}}], [{}], WINGS),
    ("MOD-BAUD-MISMATCH", "stop", [{"nodes": {"radio": {"setup": {"found_bd": 38_400}}}}], [{"nodes": {"radio": {"setup": {"found_bd": 9600}}}}], CLEAR),
    ("MOD-BAUD-MISMATCH", "stop", [{"links": {"serial": {"baud_rate_bd": 10_000}}}], [{"links": {"serial": {"baud_rate_bd": 19_200}}}], CLEAR),
    ("CMD-DUP", "stop", [words(on="S", off="S")], [words(on="S", off="s")], CLEAR),
    ("CMD-PREFIX", "stop", [words(on="1", off="10")], [words(LF, on="1", off="10")], CLEAR),
    ("CMD-ENDING", "look", [{"nodes": {"phone": {"appends": "cr-lf"}}}], [{"nodes": {"phone": {"appends": "none"}}}], CLEAR),
    ("CMD-ENDING", "stop", [{"nodes": {"phone": {"appends": "none"}}}, words(LF)], [{"nodes": {"phone": {"appends": "lf"}}}, words(LF)], CLEAR),
    ("CMD-ENDING", "stop", [{"nodes": {"phone": {"appends": "cr"}}}, words(LF)], [{"nodes": {"phone": {"appends": "cr-lf"}}}, words({"kind": "terminated", "terminator": "cr-lf"})], CLEAR),
    ("CMD-ENDING", "stop", [{"nodes": {"phone": {"appends": "lf"}}}, words(off="\\n")], [words(off="\\n")], CLEAR),
    ("CMD-ENDING", "stop", [words({"kind": "single-byte"}, on="on")], [words(LF, on="on")], CLEAR),
    ("CMD-ENDING", "stop", [words({"kind": "terminated", "terminator": "#"}, on="a#b")], [words({"kind": "terminated", "terminator": "#"}, on="ab")], CLEAR),
    ("CMD-DUP", "stop", [carrying("R{level}", LF), words(LF, on="R12")], [carrying("R{level}", LF), words(LF, on="R300")], CLEAR),
    ("CMD-PREFIX", "stop", [carrying("R{level}", FIXED, level={"written": "byte"}), words(on="Rx1")], [carrying("R{level}", FIXED, level={"written": "byte"}), words(on="Q")], CLEAR),
    ("CMD-ENDING", "stop", [carrying("R{level}", FIXED)], [carrying("R{level}", FIXED, level={"written": "hex"})], CLEAR),
    ("CMD-CASE", "look", [words(on="m", off="M")], [words(on="m", off="n")], CLEAR),
    ("CMD-AT-CLASH", "stop", [BLE, words(LF, on="x"), {"vocabularies": {"words": {"framing": None, "words": {"lit": {"sent": "AT", "direction": "back"}}}}}], [BLE, words(LF, on="x"), {"vocabularies": {"words": {"words": {"lit": {"sent": "AX", "direction": "back"}}}}}], CLEAR),
    ("CMD-AT-CLASH", "look", [BLE, words(LF, on="AT1")], [words(LF, on="AT1")], CLEAR),
    ("CMD-ENDING", "stop", [carrying("R{level}#", HASH)], [carrying("R{level}", HASH)], CLEAR),
    ("CMD-PAYLOAD", "stop", [carrying("*{x},{level}", HASH, x={"written": "byte"}, level={"written": "byte"})], [carrying("*{x},{level}", HASH, x={"written": "hex"}, level={"written": "hex"})], CLEAR),
    ("CMD-PAYLOAD", "look", [carrying("*{x},{level}", HASH, x={"written": "byte", "least": 36}, level={"written": "byte", "least": 36})], [carrying("*{x},{level}", HASH, x={"written": "byte", "least": 45}, level={"written": "byte", "least": 45})], CLEAR),
    ("CMD-RANGE", "stop", [carrying("R{level}", FIXED, level={"written": "byte", "most": 1023})], [carrying("R{level}", FIXED, level={"written": "two-bytes", "most": 1023})], CLEAR),
    ("CMD-RANGE", "look", [carrying("R{level}", LF, level={"most": 125, "unit": "%"})], [carrying("R{level}", LF, level={"most": 100, "unit": "%"})], CLEAR),
    ("CMD-NO-VALUE", "stop", [carrying("R", LF)], [carrying("R{level}", LF)], CLEAR),
    ("CMD-LONG", "stop", [words(LF, on="x" * 63)], [words(LF, on="x" * 62)], CLEAR),
    ("CMD-RATE", "stop", [sliding(0.01)], [sliding(0.0125)], CLEAR),
    ("CMD-RATE", "look", [sliding(0.03)], [sliding(0.035)], CLEAR),
    ("CMD-CHAR-NUMBER", "stop", [{"nodes": {"phone": {"sends_as": "numbers"}}}], [{"nodes": {"phone": {"sends_as": "numbers"}}}, words(on="a", off="b")], CLEAR),
    ("CMD-CHAR-NUMBER", "stop", [words(on="\\x01")], [words(on="1")], CLEAR),
    ("CMD-NO-STOP", "look", [{"rules": {"r2": None}}], [{}], CLEAR),
    ("CMD-NONE", "look", [{"vocabularies": {"words": {"words": {"on": None, "off": None}}}, "rules": {"r1": None, "r2": None}}], [{}], CLEAR),
    ("CMD-NO-RULE", "look", [{"vocabularies": {"words": {"words": {"dusk": {}}}}}], [{}], CLEAR),
    ("CMD-REACH", "stop", [SECOND, {"rules": {"r1": {"do": [{"verb": "on", "target": "lamp"}, {"verb": "on", "target": "away"}]}}}], [SECOND], CLEAR),
    ("CMD-CANNOT", "stop", [{"rules": {"r1": {"do": [{"verb": "text", "target": "lamp", "values": {"text": "HI"}}]}}}], [{"lamps": {"sign": {"kind": "matrix", "host": "board"}}, "rules": {"r1": {"do": [{"verb": "text", "target": "sign", "values": {"text": "HI"}}]}, "r2": {"do": [{"verb": "off", "target": "sign"}]}}}], CLEAR),
    ("CMD-NO-RELEASE", "look", [held(is_held=True)], [held(is_held=True, release="off")], CLEAR),
    ("CMD-NO-RELEASE", "look", [{"nodes": {"phone": {"controls": {"go": {"kind": "toggle", "says": {"on": {"talk": "main", "word": "on"}}}}}}}], [held()], CLEAR),
    ("CMD-NO-REPLY", "look", [REPLY], [REPLY, {"rules": {"r1": {"do": [{"verb": "on", "target": "lamp"}, {"verb": "say", "say": {"talk": "main", "word": "lit"}}]}}}], CLEAR),
    ("CMD-ONE-WAY", "stop", [{"signals": {"serial.a_to_b": {"is_omitted": True}}}], [{"signals": {"serial.b_to_a": {"is_omitted": True}}}], CLEAR),
    ("CMD-ONE-WAY", "stop", [REPLY, {"rules": {"r1": {"do": [{"verb": "say", "say": {"talk": "main", "word": "lit"}}]}}, "signals": {"serial.b_to_a": {"is_omitted": True}}}], [REPLY, {"rules": {"r1": {"do": [{"verb": "say", "say": {"talk": "main", "word": "lit"}}]}}}], CLEAR),
    ("CMD-UNKNOWN", "stop", [BOARDS_TALK, {"vocabularies": {"words": {"on_unknown": "answer"}}}], [BOARDS_TALK, {"vocabularies": {"words": {"on_unknown": "ignore"}}}], CLEAR),
    ("CMD-UNKNOWN", "look", [REPLY, words(lit="?"), {"vocabularies": {"words": {"on_unknown": "answer"}}}], [REPLY, words(lit="!"), {"vocabularies": {"words": {"on_unknown": "answer"}}}], CLEAR),
    ("CMD-LOOP", "stop", [BOARDS_TALK, round_of(True)], [BOARDS_TALK, round_of(False)], CLEAR),
    ("CMD-BLOCK", "look", [{"nodes": {"board": {"busy_s": 0.067}}}], [{"nodes": {"board": {"busy_s": 0.066}}}], CLEAR),
    ("CMD-BLOCK", "stop", [sliding(0.02), {"nodes": {"board": {"busy_s": 0.11}}}], [sliding(0.02), {"nodes": {"board": {"busy_s": 0.1}}}], CLEAR),
    ("CMD-PIXEL-DEAF", "look", [pixels_of(70)], [pixels_of(69)], CLEAR),
    ("CMD-PIXEL-DEAF", "look", [pixels_of(1, is_on_port=False)], [pixels_of(1)], CLEAR),
    ("CMD-PIXEL-DEAF", "look", [pixels_of(6), {"links": {"serial": {"baud_rate_bd": 115200}}}], [pixels_of(5), {"links": {"serial": {"baud_rate_bd": 115200}}}], CLEAR),
    ("CMD-MEMORY", "look", [carrying("R{level}", LF), {"nodes": {"board": {"program": "own"}}}], [carrying("R{level}", LF)], CLEAR),
    ("BUILT-DIFFERS", "look", [BUILT, lamp(resistor_ohm=82)], [BUILT, lamp(resistor_ohm=75)], CLEAR),
    ("FLASH-CAUTION", "look", [CHAIN, rule_of("blink", "chain", on_s=0.15, off_s=0.15)], [CHAIN, rule_of("blink", "chain", on_s=0.17, off_s=0.17)], CLEAR),
    ("FLASH-CAUTION", "look", [CHAIN, cue_of(0.1), rule_of("cue", "c")], [CHAIN, cue_of(0.17), rule_of("cue", "c")], CLEAR),
    ("LINK-BLIND", "look", [{"standing": {"lamp": {"link_lost": "off"}}}], [{"standing": {"lamp": {"link_lost": "off"}}, "signals": {"radio.state": {}}}], CLEAR),
    ("LINK-BLIND", "look", [{"rules": {"l": {"host": "board", "when": {"event": "link-lost", "link": "air"}, "do": [{"verb": "off", "target": "lamp"}]}}}], [], CLEAR),
    ("CUE-ROUND", "look", [CHAIN, cue_of(0.009), rule_of("cue", "c")], [CHAIN, cue_of(0.2), rule_of("cue", "c")], CLEAR),
    ("INPUT-NEVER", "look", [input_rule("knob", "pressed")], [input_rule("knob", "moved")], CLEAR),
    ("INPUT-NOISE", "look", [input_rule("knob", "moved"), {"inputs": {"k": {"settings": {"play_ratio": 0.002}}}}], [input_rule("knob", "moved"), {"inputs": {"k": {"settings": {"play_ratio": 0.003}}}}], CLEAR),
    ("INPUT-NOISE", "look", [input_rule("sensor", "on"), {"inputs": {"k": {"settings": {"reads": "value", "on_above_ratio": 0.5, "off_below_ratio": 0.497}}}}], [input_rule("sensor", "on"), {"inputs": {"k": {"settings": {"reads": "value", "on_above_ratio": 0.5, "off_below_ratio": 0.49}}}}], CLEAR),
    ("PIXEL-NONE", "look", [CHAIN, rule_of("colour", "chain", red=1, first=20, last=24)], [CHAIN, rule_of("colour", "chain", red=1, first=20, last=23)], CLEAR),
    ("MOVER-STOP", "stop", [MOVER, rule_of("on", "up"), {"rules": {"r2": {"do": [{"verb": "off", "target": "up"}]}}}], [MOVER, rule_of("on", "up"), {"rules": {"r2": {"do": [{"verb": "stop", "target": "m"}]}}}], CLEAR),
    ("MOVER-STOP", "stop", [BOAT, rule_of("run", "m", speed=3), told("r2", "step", "m")], [BOAT, rule_of("run", "m", speed=3), told("r2", "stop", "m")], CLEAR),
    ("CMD-HALF-DUPLEX", "look", [sliding(0.0145), ANSWERED], [sliding(0.0146), ANSWERED], CLEAR),
    ("FEED-LINE", "look", [feed("x" * 21)], [feed("x" * 20)], CLEAR),
    ("LINK-BLIND", "look", [standing(link_lost="off")], [standing(link_lost="off"), ALIVE], CLEAR),
    ("KEPT-NONE", "look", [NO_MEMORY, standing(power_cut="last")], [standing(power_cut="last")], CLEAR),
    ("KEPT-NONE", "look", [NO_MEMORY, standing(power_cut="on")], [NO_MEMORY, standing(power_up="on", power_cut="on")], CLEAR),
    ("SIGN-FONT", "look", [BARS, rule_of("text", "digits", text="MOON")], [BARS, rule_of("text", "digits", text="noon")], CLEAR),
    ("SIGN-ROOM", "look", [DISPLAY, rule_of("text", "sign", text="nine")], [DISPLAY, rule_of("text", "sign", text="hi")], CLEAR),
    ("SIGN-ROOM", "look", [DISPLAY, rule_of("show", "sign")], [DISPLAY, {"lamps": {"sign": {"count": 3}}}, rule_of("show", "sign")], CLEAR),
    ("CLOCK-NONE", "look", [AT_NIGHT], [AT_NIGHT, CLOCK_CHIP], CLEAR),
    ("ROOM-OVER", "look", [CHAIN, in_room("chain", 0.3999)], [CHAIN, in_room("chain", 0.4)], CLEAR),
    ("ROOM-OVER", "look", [STRIP_IN, {"lamps": {"tape": {"room_m": 0.99}}}], [STRIP_IN, {"lamps": {"tape": {"room_m": 1}}}], CLEAR),
    ("ROOM-OVER", "look", [CHAIN, run_of(["lamp", "chain"], room_m=0.19, pitch_m=0.1)], [CHAIN, run_of(["lamp", "chain"], room_m=0.2, pitch_m=0.1)], CLEAR),
    *SUPPLY_ROWS,
]  # fmt: skip
IDS = [f"{row[0]}-{row[1]}-{number}" for number, row in enumerate(ROWS)]


@pytest.mark.parametrize(("code", "severity", "breaks", "inside", "base"), ROWS, ids=IDS)
def test_one_breaks_and_one_stands_inside(
    code: str, severity: str, breaks: list[Document], inside: list[Document], base: Document
) -> None:
    assert (code, severity) in codes(findings_of(plan_with(*breaks, base=base)))
    assert (code, severity) not in codes(findings_of(plan_with(*inside, base=base)))


def test_every_code_can_fire() -> None:
    assert {row[0] for row in ROWS} == {rule.code for rule in RULES}
    assert {row[:2] for row in ROWS} == {
        (rule.code, severity) for rule in RULES for severity in ("stop", "look") if getattr(rule, severity)
    }, "every severity the handbook tells of has a plan that breaks it"


COPIED = slice(None, None, 1 if IS_PROOF else 12)  # each copy is a review of all sheets


@pytest.mark.parametrize(("breaks", "base"), [(row[2], row[4]) for row in ROWS[COPIED]], ids=IDS[COPIED])
def test_the_same_figures_as_parts_of_ones_own_give_the_same_verdicts(breaks: list[Document], base: Document) -> None:
    """Every part of a broken plan is copied as the user's own, and its source is then the user: nothing else changes."""
    plan = plan_with(*breaks, base=base)
    owned, at = plan, 0
    while at < len(copies := [patch for label, patch in patches_of(review(owned, load_catalog())) if label == OWNED]):
        owned, at = edit_plan(owned, copies[at]), at + 1
    assert len(owned.parts) == at
    wanted = [(it.key, it.severity) for it in findings_of(plan)]
    assert [(it.key, it.severity) for it in findings_of(owned)] == wanted


@pytest.mark.parametrize(
    ("field", "volts", "school", "code"),
    [
        ("input_high_v", 3.4, "divider", "LVL-UNDER"),
        ("input_low_v", 0.2, "diode", "LVL-LOW"),
        ("input_max_v", 3.0, "divider", "LVL-OVER"),
    ],
)
def test_thresholds_of_ones_own_are_judged_and_named(field: str, volts: float, school: str, code: str) -> None:
    told = {"nodes": {"radio": {"choice": {"overrides": {field: {"value": volts}}}}}}
    shift = {"signals": {"serial.b_to_a": {"shift": {"school": school, "values": None}}}}
    found = next(it for it in findings_of(plan_with(told, shift)) if it.code == code)
    assert f"{volts:.2f}\u00a0V" in found.message
    assert {step.source for step in found.working} <= set(load_catalog().references)


@pytest.mark.parametrize(("rail", "codes_told"), [("five", set()), ("far", {"LVL-OVER", "SUP-BACKFEED"})])
def test_what_stands_at_one_rail_rises_and_sags_with_it(rail: str, codes_told: set[str]) -> None:
    """5.6 V into a pin that may have its supply and 0.3 V: fine while that supply is the same 5.6 V; not from another."""
    wide = supply(5.0, least=4.0, most=5.6)
    button: Document = {
        "sources": {"far": {"end": "table", "choice": {"overrides": {"voltage_v": {"value": 5.0, "least": 4.0, "most": 5.6}}}}},
        "rails": {"far": {"end": "table", "fed_by": "far"}},
        "inputs": {"cue": {"kind": "button", "host": "board", "rail": rail}},
    }
    assert {it.code for it in findings_of(plan_with(wide, button)) if it.where.startswith("cue")} == codes_told


def test_little_headroom_at_worst_goes_by_the_curve_and_the_pins_own_resistance() -> None:
    """0.35 V at worst over 4.85 ohm would be 72 mA: a pin of 25 ohm, and a curve of 12 ohm more, let through a tenth of that."""
    plan = plan_with(lamp(**own_drop(4.9), resistor_ohm=None))
    assert "PIN-CURRENT" not in {it.code for it in findings_of(plan)}
    current = next(it for it in review(plan, load_catalog()).values if it.id == "lamp.main.current_a")
    assert 0 < current.low < current.known < current.high < 0.35 / (25 + 12 + 4.85) + 0.02
    straight: Document = {**WIFI, **lamp(led={"part": "led-white", "overrides": None}, resistor_ohm=None)}
    white = plan_with(straight, {"lamps": {"lamp": {"drive": {"school": "pin"}}}})
    worst = next(it for it in review(white, load_catalog()).values if it.id == "lamp.main.current_a").high
    assert 0.012 <= worst <= 0.018, "about 16 mA, and never 65"


@pytest.mark.parametrize(
    ("breaks", "code"),
    [
        ([WIFI, PIXELS, {"lamps": {"px": {"kind": "pixels-clocked"}}, "signals": {"px.clock": {"shift": {"school": "mosfet"}}}, "series": "E48"}], "LVL-SLOW"),
        ([{"series": "E6", "lamps": {f"l{n}": {"kind": "led", "host": "board"} for n in range(9)}}, {"lamps": {f"l{n}": {"channels": {"main": {"led": {"part": "led-red"}}}} for n in range(9)}}], "CHIP-CURRENT"),
        ([SPLIT, PIXELS, WIFI, {"sources": {"other": {"choice": {"part": "aaa-3"}}}, "signals": {"px.data": {"shift": {"school": "direct"}}}}], "PIX-DATA-LEVEL"),
        ([{"lamps": {"lamp": {"channels": {"main": {"led": {"part": "led-ultraviolet", "overrides": None}, "resistor_ohm": None}}}}}, supply(3.5, least=3.4, most=3.6)], "LED-HEADROOM"),
    ],
)  # fmt: skip
def test_ways_out_reach_what_they_aim_for(breaks: list[Document], code: str) -> None:
    """Steps of a series, first stretches of an edge, rails that sag together: counted in the way out as in the verdict."""
    plan = plan_with(*breaks)
    found = [it for it in findings_of(plan) if it.code == code]
    assert found
    for finding in found:
        for fix in finding.fixes:
            left = [it.severity for it in findings_of(edit_plan(plan, fix.patch)) if it.key == finding.key]
            assert not left or (finding.severity, left) == ("stop", ["look"]), f"{fix.label} of {finding.key}"


def test_the_clear_plan_is_clear() -> None:
    assert findings_of(plan_with()) == ()


@pytest.mark.parametrize(("breaks", "base"), [(row[2], row[4]) for row in some(ROWS, 3)], ids=some(IDS, 3))
def test_every_verdict_has_numbers_working_and_a_way_out_that_works(breaks: list[Document], base: Document) -> None:
    plan = plan_with(*breaks, base=base)
    for finding in findings_of(plan):
        assert finding.working, finding.key
        assert all(step.source in load_catalog().references for step in finding.working)
        assert finding.numbers, finding.key
        is_caution = finding.code in ("EYE-CAUTION", "MAINS-CAUTION", "COIN-CAUTION", "LITHIUM-CAUTION")
        assert finding.fixes or is_caution, f"{finding.key} has no way out"
        for fix in finding.fixes:
            mended = review(edit_plan(plan, fix.patch), load_catalog())
            left = [it for it in mended.findings if it.key == finding.key]
            assert not left or (finding.severity, left[0].severity) == ("stop", "look"), (
                f"{fix.label} does not clear {finding.key}: {left[0].message}"
            )


@pytest.mark.parametrize("source", ["coin-cell-3v", "aaa-3", "usb-port-500ma"])
@pytest.mark.parametrize("led", ["led-white", "led-red", "led-ultraviolet", "led-green"])
def test_every_way_out_of_little_headroom_works(source: str, led: str) -> None:
    """Another supply or colour clears it, or turns a stop into a look; the colour it has already is not offered."""
    patch = {"sources": {"usb": {"choice": {"part": source}}}, **lamp(led={"part": led, "overrides": None}, resistor_ohm=None)}
    plan = plan_with(patch)
    for finding in (it for it in findings_of(plan) if it.code == "LED-HEADROOM"):
        assert finding.fixes
        for fix in finding.fixes:
            left = [it.severity for it in findings_of(edit_plan(plan, fix.patch)) if it.key == finding.key]
            assert not left or (finding.severity, left) == ("stop", ["look"]), fix.label


@pytest.mark.parametrize("seed", range(6))
def test_balanced_resistors_balance_whatever_the_series_and_colours(seed: int) -> None:
    chance, leds = random.Random(seed), list(load_catalog().leds)
    for series in ("E6", "E12", "E24", "E48", "E96"):
        channels = {
            colour: {"led": {"part": chance.choice(leds)}, "resistor_ohm": chance.choice([47, 100, 220, 460, 1000, 3300])}
            for colour in ("red", "green", "blue")
        }
        common = {"kind": "rgb", "host": "board", "common": chance.choice(["anode", "cathode"])}
        plan = plan_with({"series": series, "lamps": {"rgb": {**common, "channels": channels}}})
        for finding in (it for it in findings_of(plan) if it.code == "LED-RGB-UNBALANCED"):
            after = findings_of(edit_plan(plan, finding.fixes[0].patch))
            assert not {"LED-RGB-UNBALANCED"} & {it.code for it in after}, (series, channels)
            assert not [it for it in after if it.code == "LED-OVER" and it.where.startswith("rgb") and "wanted" in it.message]


def test_what_is_built_is_rebuilt_by_a_way_out() -> None:
    """A built line does not move by an edit, so its ways out say that it is rebuilt, and do."""
    patch = lamp(resistor_ohm=47)
    built: Document = {
        "signals": {"lamp.main": {"is_built": True, "built": {"pin": "8", "resistor_ohm": 47, "led": "led-white"}}}
    }
    plan = plan_with(patch, built)
    found = next(it for it in findings_of(plan) if it.code == "LED-OVER")
    assert [fix.label.replace("\u00a0", " ") for fix in found.fixes] == ["Fit 75 Ω, and rebuild it"]
    after = edit_plan(plan, found.fixes[0].patch)
    assert after.signals["lamp.main"].is_built
    assert not [it for it in findings_of(after) if it.code in ("LED-OVER", "BUILT-DIFFERS")]


@pytest.mark.parametrize("seed", range(8 if IS_PROOF else 1))
def test_every_way_out_on_a_random_walk_works(seed: int) -> None:
    """Wherever presses lead from any plan, a way out clears its verdict, or makes a stop a look."""
    chance, base = random.Random(seed), [EMPTY, CLEAR, demo_plan(), *map(document, PLANS)][seed]
    plan = load_plan(base)
    for step in range(24):
        seen = review(plan, load_catalog())
        for finding in seen.findings if step % 6 == 5 else ():
            for fix in finding.fixes:
                left = [it.severity for it in findings_of(edit_plan(plan, fix.patch)) if it.key == finding.key]
                assert not left or (finding.severity, left) == ("stop", ["look"]), (
                    f"{fix.label} of {finding.key}: {finding.message}"
                )
        presses = [patch for label, patch in patches_of(seen) if not label.startswith("Like")]  # not My parts, which are many
        plan = edit_plan(plan, chance.choice(presses))


def test_a_ring_of_supplies_is_named_round() -> None:
    (found,) = [it for it in findings_of(plan_with(RING, {"nodes": {"board": {"rail": "loop"}}})) if it.code == "SUP-RING"]
    assert found.message == ("The board is fed in a ring: board's 3.3 V pin to board's 3.3 V pin. Nothing in it brings power in.")
    round_two = {
        "rails": {"loop": {"end": "table", "fed_by": "up"}, "low": {"end": "table", "fed_by": "board.supply_3v3"}},
        "converters": {"up": {"from_rail": "low"}},
        "nodes": {"board": {"rail": "loop"}},
    }
    (found,) = [it for it in findings_of(plan_with(round_two)) if it.code == "SUP-RING"]
    assert found.message.count(" to ") == 2


def test_a_disc_is_emptied_within_half_a_period() -> None:
    """2 kHz leaves 250 us, 2.2 R C of 20 nF: 5.7 kohm at most; 1 kohm on 5 V takes 5 mA beside the disc's 2 mA."""
    slow = plan_with(PIEZO, {"lamps": {"buz": {"drive": {"values": {"across_ohm": 6200}}}}})
    found = next(it for it in findings_of(slow) if it.code == "DRV-PIEZO")
    assert found.message.replace("\u00a0", " ") == "6.2 kΩ across Buz empties it too slowly for its tone."
    after = review(edit_plan(slow, found.fixes[0].patch), load_catalog())
    assert after.sheets["lamps.buz"].sentence.replace("\u00a0", " ") == "Buz takes 7 mA when it is on."
    assert [it.across for it in after.sheets["lamps.buz"].pictures if isinstance(it, Schematic)] == ["1\u00a0kΩ"]


def test_messages_carry_the_numbers() -> None:
    """Known answers, worked by hand: ISO/IEC 646 for the bytes, Ohm's law and the divider for the rest."""

    def message(code: str, *patches: Document, base: Document = CLEAR) -> str:
        return next(it.message for it in findings_of(plan_with(*patches, base=base)) if it.code == code).replace("\u00a0", " ")

    assert "28 mA" in message("LED-OVER", base=document("smallest"))
    assert "3.79 V" in message("LVL-OVER", base=document("smallest"))
    assert "0x0D" in message("CMD-ENDING", {"nodes": {"phone": {"appends": "cr-lf"}}})
    assert "0x0A" in message("CMD-ENDING", {"nodes": {"phone": {"appends": "cr-lf"}}})
    assert "1.80 V, which is neither a sure low nor a sure high" in message("PIN-STRAP", base=STAR)
    assert "(0x31)" in message("CMD-CHAR-NUMBER", {"nodes": {"phone": {"sends_as": "numbers"}}})


def test_a_blue_led_from_a_3v3_pin_has_too_little_headroom() -> None:
    blue = {
        "nodes": {"board": {"choice": {"part": "board-wifi"}}},
        **lamp(led={"part": "led-blue", "overrides": None}, resistor_ohm=None),
    }
    assert not [it for it in findings_of(plan_with(blue)) if it.stage == "lamps.lamp"], "a MOSFET from the rail is proposed"
    found = {it.code: it for it in findings_of(plan_with(blue, drive("pin")))}
    assert found["LED-HEADROOM"].severity == "look"
    assert "0.10" in found["LED-HEADROOM"].message


class TestAcceptance:
    """A stop the user accepts stays listed, stops counting, and comes back when it gets worse."""

    key = "LVL-OVER@serial.b_to_a"

    def accepted(self, *patches: Document) -> Any:
        before = next(it for it in findings_of(plan_with(DIRECT)) if it.key == self.key)
        risk = {self.key: {"reason": "an old module to spare", "taken_at": "2026-01-01T10:00:00Z", "numbers": before.numbers}}
        return review(plan_with(DIRECT, {"accepted": risk}, *patches), load_catalog())

    def test_it_stays_listed_with_its_reason(self) -> None:
        result = self.accepted()
        assert [it.accepted for it in result.findings if it.key == self.key] == ["an old module to spare"]
        assert result.stops == ()
        assert next(stage.state for stage in result.line.stages if stage.id == "links.serial") == "look"

    def test_it_comes_back_when_worse(self) -> None:
        result = self.accepted({"sources": {"usb": {"choice": {"overrides": {"voltage_v": {"value": 5.2, "most": 5.5}}}}}})
        assert [it.key for it in result.stops] == [self.key]


def test_a_wire_nothing_is_said_on_may_be_left_out() -> None:
    plan = plan_with(DIRECT)
    fix = next(fix for it in findings_of(plan) if it.code == "LVL-OVER" for fix in it.fixes if "Leave this wire out" in fix.label)
    assert "LVL-OVER" not in {code for code, _ in codes(findings_of(edit_plan(plan, fix.patch)))}
    spoken = plan_with(DIRECT, {"vocabularies": {"words": {"words": {"lit": {"sent": "L", "direction": "back"}}}}})
    set_up_through_it = plan_with(DIRECT, {"nodes": {"radio": {"setup": {"route": "board"}}}})
    for needed in (spoken, set_up_through_it):
        assert not [fix for it in findings_of(needed) for fix in it.fixes if "Leave" in fix.label]


def test_volts_are_read_by_either_converter_while_no_wifi_runs() -> None:
    plan = plan_with(KNOB, moved("4", "knob.in"), base=on_board("board-wifi-ble"))
    assert "PIN-ADC2" not in {code for code, _ in codes(findings_of(plan))}


def test_a_proposed_pin_is_read_by_a_converter_that_hears() -> None:
    """Six pins are read by the converter that works beside Wi-Fi: a seventh knob has none, rather than one that stands still."""
    knobs = {"inputs": {f"knob{n}": {"kind": "knob", "host": "board"} for n in range(7)}}
    found = findings_of(plan_with(knobs, base=merge_patch(STAR, {"nodes": {"board": {"choice": {"part": "board-wifi-ble"}}}})))
    assert [it.breach.where for it in found if it.code == "PIN-NO-FIT"] == ["knob6.in"]
    assert not [it for it in found if it.code == "PIN-ADC2"]


def test_a_button_is_not_proposed_where_nothing_holds_it() -> None:
    """34, 35, 36 and 39 have no pull of their own; common practice, from memory. A knob needs none."""
    inputs = {"inputs": {"door": {"kind": "button", "host": "board"}, "dim": {"kind": "knob", "host": "board"}}}
    design = resolve(plan_with(inputs, base=on_board("board-wifi-ble")), load_catalog())
    given = {name: signal.pin.label for name, signal in design.signals.items() if signal.pin is not None}
    assert given["door.in"] not in {"34", "35", "36", "39", None}
    assert given["dim.in"] in {"34", "35", "36", "39"}
