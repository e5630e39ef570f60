"""Every way to build the chain, reached by pressing from a fresh project: each opens clear, is rehearsed, and leads back."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import edit_plan, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.events import InputEvent, WordEvent
from oddlamp.core.rehearsal.simulate import rehearse
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.opening import CAUTIONS
from oddlamp.sheets.review import review, sheet_of
from tests.builders import EMPTY, codes, document, findings_of, plan_with
from tests.full import some

CATALOG = load_catalog()


def fresh(**chosen: str) -> Plan:
    """A red LED from an empty project, after choosing a board or a module."""
    plan = load_plan(EMPTY)
    for label, option in {"Driven by": chosen.get("board"), "Words come in through": chosen.get("module")}.items():
        opening = review(plan, CATALOG).opening
        assert opening is not None
        for choice in opening.choices:
            if choice.label == label and option is not None:
                plan = edit_plan(plan, next(it.patch for it in choice.options if it.label == option))
    opening = review(plan, CATALOG).opening
    assert opening is not None
    return edit_plan(plan, opening.lamps[0].patch)


def pressed(plan: Plan, stage: str, label: str) -> Plan:
    """Press what begins so on a sheet."""
    design = resolve(plan, CATALOG)
    return edit_plan(plan, next(it.patch for it in sheet_of(design, (), stage).moves if it.label.startswith(label)))


def is_clear(plan: Plan) -> None:
    assert codes(findings_of(plan)) <= {(it, "look") for it in CAUTIONS}, [it.message for it in findings_of(plan)]


def lit(plan: Plan, event: Any) -> list[float]:
    trace = rehearse(plan, CATALOG, [event])
    assert not trace.lost, [it.lost_because for it in trace.events if it.lost_because]
    return [points[-1].current_a for points in trace.lamps.values()]


def says(plan: Plan, word: str) -> WordEvent:
    return WordEvent(kind="word", t_s=0, talk=next(iter(plan.talks)), word=word)


@pytest.mark.parametrize("board", ["board-wifi", "board-wifi-ble", "board-3v3-ble"])
def test_the_boards_own_radio_and_a_module_again(board: str) -> None:
    start = fresh(board=CATALOG.boards[board].label, module=CATALOG.modules["family-c"].label)
    own = pressed(start, "nodes.radio", "Leave it out: the board speaks by its own radio")
    assert {node.kind for node in own.nodes.values()} == {"phone", "board"}
    assert own.talks["main"].via == ("air",)
    is_clear(own)
    assert lit(own, says(own, "on"))[0] > 0
    back = pressed(own, "pins.board", "Put a module between the air and it")
    assert back.talks["main"].via == ("air", "serial")
    is_clear(back)
    assert lit(back, says(back, "on"))[0] > 0


@pytest.mark.parametrize("module", ["family-a", "family-b", "family-c", "family-d", "family-e"])
def test_no_board_at_all_and_a_board_again(module: str) -> None:
    """The phone then says the module's own commands, one for each lamp, and they light it."""
    start = fresh(module=CATALOG.modules[module].label)
    alone = pressed(start, "nodes.radio", "Leave the board out")
    assert {node.kind for node in alone.nodes.values()} == {"phone", "module"}
    is_clear(alone)
    assert lit(alone, says(alone, "lamp_on"))[0] > 0.001
    sent = alone.vocabularies["words"].words["lamp_on"].sent
    assert sent == ("\\xE7\\xF1\\x01" if module == "family-d" else "AT+PIO21")
    back = pressed(alone, "nodes.radio", "Put a board behind it")
    assert (back.lamps["lamp"].host, back.vocabularies["words"].dialect) == ("board", None)
    is_clear(back)
    assert lit(back, says(back, "lamp_on"))[0] > 0.001


def test_two_modules_bound_to_each_other_and_a_phone_again() -> None:
    start = fresh()
    pair = pressed(start, "nodes.radio", "Put a button with a module at a second place")
    assert (len(pair.ends), pair.nodes["far_radio"].setup.bound_to) == (2, "radio")  # type: ignore[union-attr]
    is_clear(pair)
    assert lit(pair, InputEvent(kind="input", t_s=0, input="far_button", event="pressed"))[0] > 0.001
    back = pressed(pair, "nodes.far_radio", "Let a phone call the module instead")
    assert set(back.nodes) == {"phone", "board", "radio"}
    assert (len(back.ends), len(back.sources), len(back.inputs)) == (1, 1, 0)
    is_clear(back)
    assert lit(back, says(back, "on"))[0] > 0.001


def test_what_cannot_be_is_not_offered() -> None:
    """A module that does not call over the air, more lamps than its pins, a board without a radio."""
    labels = [
        it.label for it in sheet_of(resolve(fresh(module=CATALOG.modules["family-c"].label), CATALOG), (), "nodes.radio").moves
    ]
    assert not [it for it in labels if it.startswith(("Put a button", "Leave it out"))]
    many = fresh()
    for _ in range(7):
        many = edit_plan(
            many, next(it.patch for it in sheet_of(resolve(many, CATALOG), (), "pins.board").moves if it.label == "Add a red LED")
        )
    labels = [it.label for it in sheet_of(resolve(many, CATALOG), (), "nodes.radio").moves]
    assert not [it for it in labels if it.startswith("Leave the board out")]


def test_a_command_nobody_obeys_is_let_do_what_it_does() -> None:
    plan = load_plan(document("prompters-nudge"))
    (found,) = [it for it in findings_of(plan) if it.code == "CMD-NO-RULE"]
    assert [fix.label for fix in found.fixes] == ["Let Pio2 off switch Go off", "Take Pio2 off out"]
    after = edit_plan(plan, found.fixes[0].patch)
    assert not [it for it in findings_of(after) if it.code.startswith(("CMD", "MOD"))]
    assert lit(after, WordEvent(kind="word", t_s=0, talk="radio", word="pio2_on"))[0] > 0.001


UNLIKE: Any = {
    "nodes": {"ml": {"choice": {"part": "family-a"}}, "mr": {"choice": {"part": "family-c"}}},
    "links": {"air": {"transport": None}},
}


@pytest.mark.parametrize(
    ("patch", "code"),
    [
        (UNLIKE, "MOD-PHONE"),
        ({"nodes": {"ml": {"setup": {"pin_code": "4711"}}, "mr": {"setup": {"pin_code": "471147"}}}}, "MOD-PAIR-PIN"),
        (
            merge_patch(UNLIKE, {"nodes": {"ml": {"setup": {"pin_code": "1234"}}, "mr": {"setup": {"pin_code": "471147"}}}}),
            "MOD-PAIR-PIN",
        ),
    ],
)
def test_two_modules_that_cannot_meet_are_made_alike(patch: Any, code: str) -> None:
    """Found by a walk over drawn plans: these verdicts had no way out."""
    plan = plan_with(patch, base=document("two-wings"))
    (found,) = [it for it in findings_of(plan) if it.code == code]
    fixes = list(found.fixes)
    assert fixes
    for fix in fixes:
        left = [it.severity for it in findings_of(edit_plan(plan, fix.patch)) if it.code == code]
        assert not left, fix.label


def test_a_phone_is_only_let_in_where_it_finds_somebody_to_talk_to() -> None:
    """The called end of a pair that is set as the master has nobody behind it who obeys a phone."""
    turned = plan_with(
        {"nodes": {"ml": {"setup": {"role": "slave"}}, "mr": {"setup": {"role": "master"}}}}, base=document("two-wings")
    )
    labels = [it.label for it in sheet_of(resolve(turned, CATALOG), (), "nodes.mr").moves]
    assert not [it for it in labels if it.startswith("Let a phone call")]


@pytest.mark.parametrize("module", ["family-c", "family-d"])
def test_one_more_lamp_on_a_module_brings_its_own_commands_until_no_pin_is_left(module: str) -> None:
    plan = pressed(fresh(module=CATALOG.modules[module].label), "nodes.radio", "Leave the board out")
    for _ in range(len(CATALOG.modules[module].outputs) - 1):
        plan = pressed(plan, "pins.radio", "Add a red LED")
        is_clear(plan)
    assert lit(plan, says(plan, list(plan.vocabularies["words"].words)[-2]))[-1] > 0.001
    assert not [it for it in sheet_of(resolve(plan, CATALOG), (), "pins.radio").moves if it.label == "Add a red LED"]


@pytest.mark.parametrize("plan", ["prompters-nudge", "two-wings", "smallest"])
def test_a_plan_whose_lamps_were_taken_out_begins_again_whatever_it_was(plan: str) -> None:
    """Found by a random walk: with a board put beside a module that had none, the first lamp rewired a talk that stood."""
    start = load_plan(document(plan))
    empty = edit_plan(start, resolve(start, CATALOG).taking_out.without_lamps(list(start.lamps)))
    for board in (None, *some(CATALOG.boards, 3)):
        opening = review(empty, CATALOG).opening
        assert opening is not None
        chosen = empty
        if board is not None:
            driven = next(it for it in opening.choices if it.label == "Driven by")
            chosen = edit_plan(empty, next(it.patch for it in driven.options if it.label == CATALOG.boards[board].label))
        again = review(chosen, CATALOG).opening
        assert again is not None
        for option in (*again.lamps, *again.others):
            if option.state != "stop":
                lamp = edit_plan(chosen, option.patch)
                assert lamp.nodes[lamp.lamps["lamp"].host].kind == "board"
    behind = pressed(start, "nodes.nudge", "Put a board behind it") if plan == "prompters-nudge" else start
    gone = edit_plan(behind, resolve(behind, CATALOG).taking_out.without_lamps(list(behind.lamps)))
    assert edit_plan(gone, review(gone, CATALOG).opening.lamps[0].patch).lamps  # type: ignore[union-attr]
