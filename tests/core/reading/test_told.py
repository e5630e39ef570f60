"""Logs read back: which family and version spoke, told only where no other fits, and settings only where two things agree."""

import random

import pytest

from oddlamp.core.modules.script import Goal, script
from oddlamp.core.plan.document import edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.reading.text import ending_of, lines_of
from oddlamp.core.reading.told import beside, read_back
from oddlamp.core.resolve.resolve import resolve
from oddlamp.core.words.frames import FieldValue
from oddlamp.sheets.atmodule import at_module
from oddlamp.sheets.readback import read_back_at
from oddlamp.sheets.review import review
from tests.builders import findings_of, plan_with
from tests.core.reading.logs import CATALOG, FAMILIES, Log, drawn_log, talked
from tests.full import IS_PROOF

COUNT = 200 if IS_PROOF else 6
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


def told_at(plan: Plan) -> str:
    """What stands at the module on the line."""
    return next(it.numbers for it in review(plan, CATALOG).line.stages if it.id == "nodes.radio")


def test_what_was_read_back_stands_on_the_line() -> None:
    """New says nothing; then that it is known in part, that it differs, and that it is set: each from what was read or done last."""
    log = b"> AT\r\n< OK\r\n> AT+UART=38400,0,0\r\n< OK\r\n> AT+ADDR?\r\n< +ADDR:1a2b:3c:4d5e6f\r\n< OK\r\n"
    plan = plan_with()
    new, design = told_at(plan), resolve(plan, CATALOG)
    read = read_back_at(design, "radio", [log])
    assert read.take is not None
    assert [it.is_sure for it in read.settings if it.label == "its address"] == [False], "only one answer tells it"
    after = edit_plan(plan, read.take)
    assert told_at(after) == f"{new}, differs"
    found = edit_plan(after, {"nodes": {"radio": {"setup": {"found_bd": 9600}}}})
    assert told_at(found) == f"{new}, known in part", "its speed alone says nothing of its name"
    assert "nobody has read back its name, PIN and role" in at_module(resolve(found, CATALOG), "radio").believed
    done = edit_plan(found, at_module(resolve(found, CATALOG), "radio").done)
    assert told_at(done) == f"{new}, set"
    assert not [it for it in findings_of(done) if it.code.startswith("MOD-") and it not in findings_of(plan)]
    renamed = edit_plan(done, {"nodes": {"radio": {"setup": {"name": "OTHER"}}}})
    assert "and not OTHER" in at_module(resolve(renamed, CATALOG), "radio").believed


def test_what_was_read_is_noted_beside_what_the_plan_wants() -> None:
    log = b"> AT\r\n< OK\r\n> AT+NAME=ATTIC\r\n< OK\r\n> AT+PSWD=4711\r\n< OK\r\n"
    plan = edit_plan(plan_with(), {"nodes": {"radio": {"setup": {"name": "LANTERN"}}}})
    read = read_back_at(resolve(plan, CATALOG), "radio", [log])
    assert read.note is not None
    assert read.take is not None
    noted, taken = edit_plan(plan, read.note), edit_plan(plan, read.take)
    assert "its name is ATTIC and not LANTERN" in at_module(resolve(noted, CATALOG), "radio").believed
    assert noted.nodes["radio"].setup.name == "LANTERN"  # type: ignore[union-attr]
    assert "ATTIC" not in at_module(resolve(taken, CATALOG), "radio").believed


def test_a_password_in_a_log_is_shown_to_nobody() -> None:
    log = b'> AT\r\n< OK\r\n> AT+CWJAP="Attic","s3cret \\"word"\r\n< WIFI CONNECTED\r\n< WIFI GOT IP\r\n< OK\r\n> AT+CWSAP_DEF="L","s3cret-two",6,3\r\n< OK\r\n'
    read = read_back_at(resolve(plan_with(), CATALOG), "radio", [log])
    assert "Attic" in read.model_dump_json()
    assert "s3cret" not in read.model_dump_json()


@pytest.mark.parametrize(
    ("log", "ending"),
    [(b"AT\r\nOK\r\n", "CR LF"), (b"AT\rOK\r", "CR"), (b"AT\nOK\n", "LF"), (b"AT\r\nOK\n", "CR LF and LF"), (("AT\nOK\n" * 9).encode("utf-16"), "LF"), (b"AT", "nothing")],
)  # fmt: skip
def test_how_lines_end_is_told(log: bytes, ending: str) -> None:
    assert ending_of(log) == ending
