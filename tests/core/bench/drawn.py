"""Plans drawn at random, with every kind of lamp, drive, shift, input and supply that is wired."""

import random
from typing import Any

from oddlamp.catalog.load import load_catalog
from oddlamp.core.design.design import Design
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from tests.builders import EMPTY

CATALOG = load_catalog()
BOARDS = ("board-5v-20io", "board-5v-70io", "board-wifi-ble", "board-3v3-dual-core", "board-wifi")
SHIFTS = ("divider", "zener", "clamp", "mosfet", "gate", "diode", "direct")
OHMS = (47, 100, 150, 220, 470, 1000)
LABELS = ("Moon", "Moon, red", "=1+1", "Lamp | 2", 'A "star"', "Board", "Ground", "R1", "Ä ö", "x*/")


def drawn_lamp(rng: random.Random) -> Document:
    """One lamp of any kind, with some of what can be told of it."""
    kind = rng.choice(["led", "led", "led", "rgb", "rgb", "buzzer", "relay", "strip", "motor", "matrix", "pixels-one-wire", "pixels-clocked"])  # fmt: skip
    made: Document = {"kind": kind, "host": "board", "rail": rng.choice(["five", "five", "more"])}
    if rng.random() < 0.3:
        made["label"] = rng.choice(LABELS)
    if kind in ("led", "rgb"):
        names = ("main",) if kind == "led" else ("red", "green", "blue")
        made["channels"] = {name: drawn_channel(rng, kind) for name in names if rng.random() < 0.7}
        if rng.random() < 0.5:
            made["drive"] = {"school": rng.choice(["pin", "npn", "mosfet"])}
        if kind == "rgb" and rng.random() < 0.5:
            made["common"] = "anode" if made.get("drive", {}).get("school", "pin") != "pin" else rng.choice(["anode", "cathode"])
    if kind in ("buzzer", "relay") and rng.random() < 0.4:
        made["drive"] = {"school": rng.choice(["npn", "mosfet"]), "values": {"has_pull_down": rng.random() < 0.7}}
    if kind == "strip":
        made |= {"length_m": rng.choice([0.3, 1]), "is_fed_at_both_ends": rng.random() < 0.5}
    if kind.startswith("pixels"):
        made["layout"] = {"runs": [{"count": rng.randint(2, 40)}]}
        if rng.random() < 0.3:
            made["layout"]["fed_at"] = [0, 1]
        if rng.random() < 0.3:
            made["capacitor_f"] = rng.choice([0, 4.7e-4])
    if rng.random() < 0.3:
        made["feed"] = {"length_m": rng.choice([0.2, 1]), "gauge_awg": rng.choice([20, 24, 28])}
    return made


def drawn_channel(rng: random.Random, kind: str) -> Document:
    """What may be told of a channel."""
    made: Document = {}
    if rng.random() < 0.5:
        made["resistor_ohm"] = rng.choice(OHMS)
    if kind == "led" and rng.random() < 0.5:
        made |= {"in_parallel": rng.randint(1, 4), "in_series": rng.randint(1, 2), "sharing": rng.choice(["each", "one"])}
    return made


def drawn_input(rng: random.Random) -> Document:
    """One input of any kind."""
    made: Document = {"kind": rng.choice(["button", "switch", "knob", "remote-receiver", "sensor"]), "host": "board"}
    if made["kind"] in ("button", "switch") and rng.random() < 0.3:
        made["count"] = rng.randint(1, 3)
    return made


def drawn_document(rng: random.Random) -> Document:
    """Draw a whole plan: a board fed one way or another, a module or none, lamps, inputs, a second rail."""
    source = rng.choice(["adapter-5v-2a", "adapter-5v-1a", "usb-port-500ma", "adapter-9v-1a"])
    rails: Document = {"five": {"end": "here", "fed_by": "supply"}}
    made: Document = {
        "ends": {"here": {}},
        "sources": {"supply": {"end": "here", "choice": {"part": source}, **({"fuse_a": 2} if rng.random() < 0.3 else {})}},
        "nodes": {"board": {"kind": "board", "end": "here", "rail": "five", "choice": {"part": rng.choice(BOARDS)}}},
    }
    rails["more"] = {"end": "here", "fed_by": rng.choice(["supply", "down", "board.supply_5v"])}
    if rails["more"]["fed_by"] == "down":
        made["converters"] = {"down": {"from_rail": "five"}}
    signals: Document = {}
    if rng.random() < 0.8:
        made["nodes"] |= {"phone": {"kind": "phone"}, "radio": {"kind": "module", "end": "here", "rail": "five"}}
        made["links"] = {
            "air": {"kind": "air", "a": "phone", "b": "radio"},
            "serial": {"kind": "wire", "a": "radio", "b": "board"},
        }
        for way in ("a_to_b", "b_to_a"):
            told: dict[str, Any] = {}
            if rng.random() < 0.7:
                told["shift"] = {"school": rng.choice(SHIFTS)}
            if rng.random() < 0.2:
                told |= {"pull_ohm": 1e4, "pull_to": rng.choice(["five", "ground"])}
            if rng.random() < 0.1:
                told = {"is_omitted": True}
            signals[f"serial.{way}"] = told
        for lead in ("state", "enable"):
            if rng.random() < 0.3:
                signals[f"radio.{lead}"] = {}
    made["lamps"] = {f"l{at}": drawn_lamp(rng) for at in range(rng.randint(1, 4))}
    made["inputs"] = {f"i{at}": drawn_input(rng) for at in range(rng.randint(0, 3))}
    for name, it in made["inputs"].items():
        if it["kind"] in ("button", "switch") and "count" not in it and rng.random() < 0.4:
            signals[f"{name}.in"] = {"pull_ohm": 1e4, "pull_to": rng.choice(["five", "ground"])}
    for name, lamp in made["lamps"].items():
        if lamp["kind"] == "pixels-one-wire" and rng.random() < 0.5:
            signals[f"{name}.data"] = {"shift": {"school": rng.choice(["direct", "gate", "diode-fed"])}}
    return merge_patch(EMPTY, {**made, "rails": rails, "signals": signals})


def drawn_design(seed: int) -> Design:
    """Draw a plan that is accepted, and work it out."""
    for at in range(50):
        try:
            return resolve(load_plan(drawn_document(random.Random(1000 * seed + at))), CATALOG)
        except PlanInvalid:
            continue
    raise AssertionError(f"no plan is accepted: {seed}")
