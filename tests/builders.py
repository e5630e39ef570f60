"""Plans for tests: the smallest one, changed by merge patches."""

import json
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from oddlamp.catalog.load import load_catalog
from oddlamp.core.checks.findings import Finding
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import Review

DATA = Path(__file__).parent / "data"
PLANS = sorted(path.stem for path in DATA.glob("*.json"))


def document(name: str) -> Document:
    """Read a plan kept beside the tests."""
    read: Document = json.loads((DATA / f"{name}.json").read_text(encoding="utf-8"))
    return read


# One lamp that is clear in every way: a measured 3.6 V LED behind 75 ohm, a divider that fits, words that differ.
CLEAR = merge_patch(
    document("smallest"),
    {
        "sources": {"usb": {"choice": {"part": "adapter-5v-1a"}}},
        "lamps": {"lamp": {"channels": {"main": {"resistor_ohm": 75}}}},
        "signals": {"serial.b_to_a": {"shift": {"values": {"upper_ohm": 1200, "lower_ohm": 2200}}}},
        "rules": {"r2": {"host": "board", "when": {"heard": "off"}, "do": [{"verb": "off", "target": "lamp"}]}},
    },
)


def plan_with(*patches: Document, base: Document = CLEAR) -> Plan:
    """Load the clear plan with patches applied one after the other."""
    whole: Any = base
    for patch in patches:
        whole = merge_patch(whole, patch)
    plan = load_plan(whole)
    check_parts(plan, load_catalog())
    return plan


def findings_of(plan: Plan) -> tuple[Finding, ...]:
    """Run every rule on a plan."""
    return run_rules(resolve(plan, load_catalog()))


def codes(findings: Iterable[Finding]) -> set[tuple[str, str]]:
    """Return code and severity of each finding."""
    return {(finding.code, finding.severity) for finding in findings}


def lamp(**channel: Any) -> Document:
    """Patch the one lamp's channel."""
    return {"lamps": {"lamp": {"channels": {"main": channel}}}}


def own_drop(value: float, **spread: float) -> Document:
    """Say what the LED drops, V."""
    return {"led": {"overrides": {"forward_voltage_v": {"value": value, **spread}}}}


def divider(upper_ohm: float, lower_ohm: float, tolerance_ratio: float | None = None) -> Document:
    """Patch the divider between board and module."""
    return {
        "signals": {
            "serial.b_to_a": {
                "shift": {"values": {"upper_ohm": upper_ohm, "lower_ohm": lower_ohm, "tolerance_ratio": tolerance_ratio}}
            }
        }
    }


def words(framing: Document | None = None, **sent: str) -> Document:
    """Patch the vocabulary: what each word sends."""
    patch: Document = {"words": {word: {"sent": text} for word, text in sent.items()}}
    if framing is not None:
        patch["framing"] = framing
    return {"vocabularies": {"words": patch}}


LF = {"kind": "terminated", "terminator": "lf"}


EMPTY: Document = {"format": "oddlamp-plan", "schema_version": 1, "title": "Nothing yet"}


def presses_of(result: Review) -> Iterator[tuple[str, str, Document]]:
    """Yield every patch the screen could send by one press, with the stage it is pressed at and its label."""
    for finding in result.findings:
        yield from ((finding.stage, fix.label, fix.patch) for fix in finding.fixes)
    for stage, sheet in result.sheets.items():
        choices = [choice for panel in sheet.panels for choice in panel.choices]
        choices += [row.does for row in sheet.words] + [row.pin for row in sheet.pins]
        moves = [*sheet.moves, *(move for panel in sheet.panels for move in panel.moves), *(row.remove for row in sheet.words)]
        yield from ((stage, f"{choice.label}: {option.label}", option.patch) for choice in choices for option in choice.options)
        yield from ((stage, move.label, move.patch) for move in moves)
    if result.opening:
        lamps = (*result.opening.lamps, *result.opening.others)
        yield from ((result.opening.leads_to, option.label, option.patch) for option in lamps)
        yield from (("", option.label, option.patch) for choice in result.opening.choices for option in choice.options)


def patches_of(result: Review) -> Iterator[tuple[str, Document]]:
    """Yield every patch the screen could send by one press, with its label."""
    yield from ((label, patch) for _, label, patch in presses_of(result))
