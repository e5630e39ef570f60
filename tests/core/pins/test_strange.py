"""Plans no one would draw: too much on every board, pins typed at random. Each verdict has a way out, and each way out clears it."""

import random
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.plan.document import edit_plan, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import noted, resolve
from tests.builders import CLEAR
from tests.full import IS_PROOF

CATALOG = load_catalog()
KINDS = ("led", "led", "rgb", "buzzer", "relay", "pixels-one-wire", "pixels-clocked", "matrix", "strip")
INPUTS = ("button", "knob", "switch", "sensor", "remote-receiver")
LEGS = {"led": ("main",), "rgb": ("red", "green", "blue")}


def strange(seed: int) -> Plan:
    """Draw a plan."""
    rng = random.Random(seed)
    board = rng.choice(list(CATALOG.boards))
    labels = [pin.label for pin in CATALOG.boards[board].pins]
    lamps: Any = {}
    rules: Any = {}
    signals: Any = {}
    for n in range(rng.randint(1, 24)):
        kind = rng.choice(KINDS)
        lamps[f"x{n}"] = {"kind": kind, "host": "board"}
        if kind in LEGS:
            lamps[f"x{n}"]["channels"] = {leg: {} for leg in LEGS[kind]}
            if rng.random() < 0.5:
                do = [{"verb": "level", "target": f"x{n}", "values": {"level": 0.4}}]
                rules[f"d{n}"] = {"host": "board", "when": {"heard": "on"}, "do": do}
        elif kind.startswith("pixels"):
            lamps[f"x{n}"]["layout"] = {"runs": [{"count": 4}]}
        elif kind == "strip":
            lamps[f"x{n}"]["choice"] = {"part": "strip-5v-warm"}
        if kind == "led" and rng.random() < 0.3:
            signals[f"x{n}.main"] = {"pin": rng.choice([*labels, "99", "14"])}
    inputs: Any = {}
    for n in range(rng.randint(0, 8)):
        inputs[f"i{n}"] = {"kind": rng.choice(INPUTS), "host": "board"}
        if rng.random() < 0.3:
            signals[f"i{n}.in"] = {"pin": rng.choice(labels)}
    speed = rng.choice([9600, 57_600, 115_200])
    patch = {
        "nodes": {"board": {"choice": {"part": board}}},
        "links": {"serial": {"baud_rate_bd": speed}},
        "lamps": lamps,
        "rules": rules,
        "inputs": inputs,
        "signals": signals,
    }
    return load_plan(merge_patch(CLEAR, patch))


@pytest.mark.parametrize("seed", range(60 if IS_PROOF else 4))
def test_every_verdict_of_a_pin_has_a_way_out_that_clears_it(seed: int) -> None:
    plan = strange(seed)
    for found in run_rules(resolve(plan, CATALOG)):
        if not found.code.startswith("PIN-"):
            continue
        assert found.fixes or found.severity == "look", f"{found.key} has no way out"
        for fix in found.fixes:
            left = [it for it in run_rules(resolve(edit_plan(plan, fix.patch), CATALOG)) if it.key == found.key]
            assert not left or (found.severity, left[0].severity) == ("stop", "look"), (found.key, fix.label)


@pytest.mark.parametrize("seed", range(60 if IS_PROOF else 8))
def test_noting_the_shown_pins_changes_none(seed: int) -> None:
    plan = strange(seed)
    design = resolve(plan, CATALOG)
    again = resolve(noted(plan, design), CATALOG)
    assert [(pin.key, pin.label) for pin in again.pins] == [(pin.key, pin.label) for pin in design.pins]
