"""Modules that drive lamps by themselves: what is said to their pins, against bytes written by hand. From memory."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.driving import Hung, driving, in_decimal, obeys, said_to
from oddlamp.core.modules.script import Goal, as_text, script
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.modules.walk import run
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.setup import setup_of
from tests.builders import document, plan_with

DIALECTS = load_catalog().dialects
C, D = DIALECTS["family-c"], DIALECTS["family-d"]
PARTS = load_catalog().modules
OF_C, OF_D = PARTS["family-c"], PARTS["family-d"]


def frame(text: str) -> Any:
    """The command of family D that these bytes are, with its values."""
    content = bytes.fromhex(text)
    return next((it, values) for it in D.commands if it.is_hex and (values := it.frame.parse(content)) is not None)


@pytest.mark.parametrize(
    ("template", "values", "sent"),
    [
        ("E8 A2", {"frequency": 4000}, "E8 A2 0F A0"),
        ("E8 A2", {"frequency": 1}, "E8 A2 00 01"),
        ("E8 A3", {"duty": 25}, "E8 A3 19"),
        ("E8 A6", {"duty": 85}, "E8 A6 55"),
        ("E7 F1", {"level": 1}, "E7 F1 01"),
        ("E8 A1", {"pwm": 0}, "E8 A1 00"),
    ],
)
def test_frames_are_built_read_and_explained(template: str, values: dict[str, int], sent: str) -> None:
    command = next(it for it in D.commands if it.send.startswith(template))
    assert command.frame.build(**values) == bytes.fromhex(sent)
    assert frame(sent)[1] == values
    ((_, first), (_, meaning)) = command.frame.explain(bytes.fromhex(sent))
    assert (first, meaning.partition(":")[0]) == ("always there", next(iter(values)))


@pytest.mark.parametrize("sent", ["E8 A2 0F A1", "E8 A3 70", "E7 F5 01", "E7 F1 02", "E8 A3", "00"])
def test_what_is_over_the_range_is_refused_though_some_take_it(sent: str) -> None:
    """112 % and 4001 Hz; a lenient one takes the duty, which is no reason to send it."""
    assert all(it.frame.parse(bytes.fromhex(sent)) is None for it in D.commands)
    lenient = StandIn(D.version("family-d-lenient"))
    lenient.power(0.0, is_on=True)
    lenient.link(1.0, is_there=True)
    lenient.control(2.0, bytes.fromhex(sent))
    assert lenient.pins == ({"pwm1": 112} if sent == "E8 A3 70" else {})


@pytest.mark.parametrize("dialect", [C, D], ids=["family-c", "family-d"])
def test_what_is_said_to_each_pin_is_what_the_stand_in_obeys(dialect: Any) -> None:
    """One fact, two homes: the messages a maker is told, and the commands of the dialect."""
    part = PARTS[dialect.id]
    hung = [Hung(pin.label, pin.label) for pin in part.pins]
    assert set(part.outputs) == {pin.label for pin in part.pins}
    module = StandIn(dialect, {"mode": 2} if dialect is C else {})
    module.power(0.0, is_on=True)
    assert obeys(driving(part, hung), module, part, hung) is None
    module.power(2e4, is_on=False)
    assert module.pins == {}, "after a power cut all is off"


def test_a_board_less_module_is_set_up_over_its_wire_and_then_obeys_the_phone() -> None:
    goal, hung = Goal("NUDGE", "471147", 9600, is_driven=True), [Hung("Go", "pio2")]
    steps, tries = script(goal, C), driving(OF_C, hung)
    module = StandIn(C)
    assert obeys(tries, StandIn(C), OF_C, hung) == 1, "as it comes it passes what the phone says on to its wire"
    assert run(steps, module).stopped_at is None
    assert obeys(tries, module, OF_C, hung) is None
    assert [as_text(it) for it in tries][1].startswith("Go, on pio2, on: AT+PIO21. Send AT+PIO21; it answers OK+PIO2:1.")
    alike = StandIn(C.version("family-c-alike"), {"mode": 2})
    alike.power(0.0, is_on=True)
    place = obeys(tries, alike, OF_C, hung)
    assert place is not None
    assert "look-alikes do not have them" in tries[place].advice


def test_bytes_are_told_in_hex_and_in_decimal() -> None:
    assert [(it.does, it.shown) for it in said_to(OF_D, "pwm1")] == [
        ("on", "E8 A3 64"),
        ("50 %", "E8 A3 32"),
        ("off", "E8 A3 00"),
    ]
    assert in_decimal(bytes.fromhex("E8 A3 32")) == "232 163 50"


@pytest.mark.parametrize(
    ("part", "sentence", "told"),
    [
        ("family-c", "16 steps through the adapter make the module", "AT+PIO21"),
        ("family-d", "Nothing is set on a wire: 3 steps from the phone try all that hangs on the module.", "E7 F1 01"),
    ],
)
def test_the_sheet_of_a_module_without_a_board_ends_in_what_the_phone_says(part: str, sentence: str, told: str) -> None:
    plan = plan_with(
        {
            "nodes": {"nudge": {"choice": {"part": part}}},
            "vocabularies": {"own": {"dialect": part}},
            "signals": {"go.main": {"pin": None}},
        },
        base=document("prompters-nudge"),
    )
    shown = setup_of(resolve(plan, load_catalog()), "nudge")
    assert shown.sentence.startswith(sentence), shown.sentence
    assert told in [way.sent for step in shown.steps for way in step.ways]
