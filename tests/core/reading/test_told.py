"""Logs read back: which family and version spoke, told only where no other fits, and settings only where two things agree."""

import random

import pytest

from oddlamp.core.modules.script import Goal, script
from oddlamp.core.plan.document import edit_plan
from oddlamp.core.reading.text import lines_of
from oddlamp.core.reading.told import beside, read_back
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.words.frames import FieldValue
from oddlamp.sheets.atmodule import module_named
from oddlamp.sheets.readback import read_back_at
from oddlamp.sheets.review import review
from tests.builders import plan_with
from tests.core.reading.logs import CATALOG, FAMILIES, Log, drawn_log, talked
from tests.full import IS_PROOF

COUNT = 200 if IS_PROOF else 12
IDS = [version or dialect.id for dialect, version in FAMILIES]
DIALECTS = list(CATALOG.dialects.values())


def also_fits(log: Log, at: int) -> list[str]:
    """The other families whose stand-in, told the same from the same beginning, answers just the same: an oracle that knows no pattern."""
    found = []
    for other, (dialect, _) in enumerate(FAMILIES):
        if other != at and talked(dialect, [it[0] for it in log.said], log.begun, is_key_up=True)[0] == log.said:
            found.append(IDS[other])
    return found


@pytest.mark.parametrize("at", range(len(FAMILIES)), ids=IDS)
def test_the_family_and_version_that_spoke_is_told(at: int) -> None:
    rng, wrong, open_, unfounded = random.Random(at), [], 0, []
    for number in range(COUNT):
        log = drawn_log(rng, FAMILIES[at][0], noise=(0.0, 0.01, 0.02)[number % 3])
        read = read_back(lines_of([log.text]), DIALECTS)
        told = [it.version or it.dialect.id for it in read.fits]
        if IDS[at] not in told:
            wrong.append((number, told, log.text[:300]))
        elif len(told) > 1:
            open_ += 1
            if number % 3 == 0 and not also_fits(log, at):
                unfounded.append((number, told, log.text[:600]))
    print(f"{IDS[at]}: {open_} of {COUNT} cannot be told from another")
    assert wrong == []
    assert unfounded == []
    assert open_ < 0.1 * COUNT + (0 if IS_PROOF else 2), "of a few more may be open"


@pytest.mark.parametrize("at", range(len(FAMILIES)), ids=IDS)
def test_no_setting_is_taken_that_is_not_so(at: int) -> None:
    rng, taken, false = random.Random(100 + at), 0, []
    for _ in range(COUNT):
        log = drawn_log(rng, FAMILIES[at][0], noise=0.02)
        for it in read_back(lines_of([log.text]), DIALECTS).settings:
            if it.is_sure and it.name in log.kept:
                taken += 1
                if not same(it.name, log.kept[it.name], it.value):
                    false.append((it, log.kept[it.name], log.text[:900]))
    assert false == []
    assert taken > COUNT / 2


def same(name: str, kept: FieldValue, told: FieldValue) -> bool:
    return str(kept).lower().replace(":", "") == str(told).lower().replace(":", "")


def test_a_script_is_laid_beside_what_was_said() -> None:
    dialect = CATALOG.dialects["family-a"]
    steps = script(Goal("LANTERN", "4711", 9600), dialect)
    log = b"> AT\r\n< OK\r\n> AT+NAME=LANTERN\r\n< OK\r\n> AT+PSWD=4711\r\n< ERROR:(0)\r\n"
    read = read_back(lines_of([log]), DIALECTS)
    found = {it.step.ways[0].sent: (it.state, it.heard) for it in beside(steps, read.exchanges)}
    assert found[b"AT\r\n"][0] == "done"
    assert found[b"AT+NAME=LANTERN\r\n"][0] == "done"
    assert found[b"AT+PSWD=4711\r\n"] == ("differs", "ERROR:(0)")
    assert found[b"AT+ROLE=0\r\n"] == ("open", "")


def test_what_was_read_back_stands_on_the_line() -> None:
    """A module that answered otherwise than the plan wants says so where it stands; taken and set, it is set."""
    log = b"> AT\r\n< OK\r\n> AT+UART=38400,0,0\r\n< OK\r\n> AT+ADDR?\r\n< +ADDR:1a2b:3c:4d5e6f\r\n< OK\r\n"
    plan = plan_with()
    design = resolve(plan, CATALOG)
    node = module_named(design, "-")
    before = next(it.numbers for it in review(plan, CATALOG).line.stages if it.id == f"nodes.{node}")
    read = read_back_at(design, node, [log])
    assert read.take is not None
    after = edit_plan(plan, read.take)
    told = next(it.numbers for it in review(after, CATALOG).line.stages if it.id == f"nodes.{node}")
    assert told == f"{before}, differs"
    assert [it.is_sure for it in read.settings if it.label == "its address"] == [False], "only one answer tells it"
    again = edit_plan(after, {"nodes": {node: {"setup": {"found_bd": 9600}}}})
    assert next(it.numbers for it in review(again, CATALOG).line.stages if it.id == f"nodes.{node}") == f"{before}, set"
