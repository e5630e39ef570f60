"""Words as a stranger would write them: whatever stands there, every verdict has a way out that works, and nothing breaks."""

import contextlib
import random
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.plan.text import fields_of
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review, sheet_of
from tests.builders import findings_of, plan_with
from tests.full import IS_PROOF

DRAWN = 400 if IS_PROOF else 12
RADIOS = {"family-a": "classic", "family-b": "classic", "family-c": "ble", "family-e": "wifi"}
TEXTS = (
    "1", "0", "10", "R", "r", "R{level}", "R12", "{level}", "*{x},{y}#", "#", "S{a} {b}", "AT", "AT1", "AT+NAME=x", "OK+CONN", "C",
    "\\x0A", "\\x00", "x" * 60, "B{level}%", "255 255 255", "{v}1", "12{v}", "on", "ON",
)  # fmt: skip
PARAMETERS: tuple[Document, ...] = (
    {}, {"written": "byte"}, {"written": "hex"}, {"written": "two-bytes"}, {"written": "two-bytes-little", "most": 1023},
    {"most": 1023}, {"written": "byte", "most": 1023}, {"least": 5, "most": 5}, {"most": 125, "unit": "%"},
)  # fmt: skip
FRAMINGS: tuple[Document | None, ...] = (
    None, {"kind": "single-byte"}, {"kind": "fixed"}, {"kind": "fixed", "lead": "0xAA", "check": "sum"}, {"kind": "gap"}, *({"kind": "terminated", "terminator": it} for it in ("lf", "#", "cr-lf")),
)  # fmt: skip


def strange(chance: random.Random) -> Plan:
    """Some words of any kind on any family; drawn again where two decimals would meet, which is refused."""
    while True:
        with contextlib.suppress(PlanInvalid):
            return drawn(chance)


def drawn(chance: random.Random) -> Plan:
    """Some words of any kind on any family; raises PlanInvalid where two decimals meet."""
    family = chance.choice(sorted(RADIOS))
    words: dict[str, Any] = {}
    rules: dict[str, Any] = {}
    for name in (f"w{n}" for n in range(chance.randint(1, 5))):
        text = chance.choice(TEXTS)
        carried = fields_of(text)
        words[name] = {
            "sent": text,
            "direction": chance.choice(["out", "out", "out", "back"]),
            "parameters": {it: chance.choice(PARAMETERS) for it in carried if chance.random() < 0.8},
        }
        takes = {"verb": "level", "target": "lamp", "values": {"level": f"{{{chance.choice(carried or ['level'])}}}"}}
        do = takes if chance.random() < 0.5 else {"verb": "toggle", "target": "lamp"}
        if chance.random() < 0.7:
            rules[f"q{name}"] = {"host": "board", "when": {"heard": name}, "do": [do]}
    phone = {
        "speaks": [RADIOS[family]],
        "appends": chance.choice([None, "lf", "cr-lf", "none"]),
        "sends_as": chance.choice([None, "numbers"]),
    }
    framing = chance.choice(FRAMINGS)
    vocabulary = {"words": words} | ({"framing": framing} if framing is not None else {})
    nodes = {"radio": {"choice": {"part": family}, "setup": None}, "phone": phone}
    return plan_with(
        {"nodes": nodes, "links": {"air": {"transport": None}}, "vocabularies": {"words": vocabulary}, "rules": rules}
    )


@pytest.mark.parametrize("seed", range(DRAWN))
def test_strange_words_have_ways_out_that_work_and_break_nothing(seed: int) -> None:
    chance = random.Random(seed)
    plan = strange(chance)
    for finding in findings_of(plan):
        assert finding.severity == "look" or finding.fixes, finding.message
        for fix in finding.fixes:
            left = [it.severity for it in findings_of(edit_plan(plan, fix.patch)) if it.key == finding.key]
            assert not left or (finding.severity, left) == ("stop", ["look"]), f"{fix.label}: {finding.message}"
    for move in sheet_of(resolve(plan, load_catalog()), (), "vocabularies.words").moves:
        assert review(edit_plan(plan, move.patch), load_catalog()).sentence
    typed = [{"kind": "line", "t_s": 10 + n, "talk": "main", "text": text} for n, text in enumerate(chance.sample(TEXTS, 4))]
    said = [{"kind": "word", "t_s": n, "talk": "main", "word": name} for n, name in enumerate(plan.vocabularies["words"].words)]
    assert not rehearse(plan, load_catalog(), read_events([*said, *typed])).is_cut_short
