"""What a module's sheet says of setting it up, for the plans there are."""

import json

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.errors import OutOfRange, PlanInvalid
from oddlamp.core.modules.script import FACTORY_PINS
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import sheet_of
from oddlamp.sheets.setup import SetupShown, setup_of
from tests.builders import CLEAR, divider, document, plan_with

CATALOG = load_catalog()


def shown(plan: Document, node: str = "radio", *patches: Document) -> SetupShown:
    return setup_of(resolve(plan_with(*patches, base=plan), CATALOG), node)


def setup(**told: str | None) -> Document:
    return {"nodes": {"radio": {"setup": told}}}


def test_a_module_with_all_told_is_set_up_as_told() -> None:
    found = shown(CLEAR, "radio", setup(name="LANTERN", pin_code="4711"))
    assert found.sentence == "14 steps through the adapter make the module LANTERN, 9600\u00a0Bd, PIN 4711."
    assert (found.proposed, found.keep) == ("", None)
    sent = [way.sent for step in found.steps for way in step.ways]
    assert sent == [
        "AT", "AT+ROLE=0", "AT+NAME=LANTERN", "AT+PSWD=4711", 'AT+PSWD="4711"', "AT+CMODE=1", "AT+UART=9600,0,0",
    ]  # fmt: skip
    assert found.text.startswith(found.sentence)
    assert "14. Give it power again" in found.text


def test_name_and_pin_are_proposed_from_the_project_and_kept_with_a_press() -> None:
    plan = load_plan({**CLEAR, "title": "Paper moon, no. 2"})
    found = setup_of(resolve(plan, CATALOG), "radio")
    assert "PAPER-MOON-NO-2" in found.sentence
    assert found.proposed.startswith("Name and PIN proposed")
    assert found.keep is not None
    kept = edit_plan(plan, found.keep)
    after = setup_of(resolve(kept, CATALOG), "radio")
    assert (after.sentence, after.keep) == (found.sentence, None)
    assert json.loads(kept.model_dump_json())["nodes"]["radio"]["setup"]["pin_code"] not in FACTORY_PINS


@pytest.mark.parametrize(
    ("patches", "told"),
    [
        ([setup(role="master")], "there is none at the other end: let it be a slave"),
        ([setup(pin_code="47")], "its pin is 47; give 4 to 16 digits"),
        ([setup(route="board")], "14 steps through the board"),
        ([setup(route="board"), {"nodes": {"board": {"choice": {"part": "board-5v-native-usb"}}}}], "take an adapter"),
        ([{"links": {"serial": {"baud_rate_bd": 300}}}], "its speed is 300; give one of 4800"),
        ([{"nodes": {"radio": {"choice": {"part": "family-c"}}}}], "12 steps through the adapter"),
    ],
)
def test_what_cannot_be_is_told_in_a_sentence(patches: list[Document], told: str) -> None:
    found = shown(CLEAR, "radio", *patches)
    assert told in found.sentence
    assert bool(found.steps) == ("steps through" in found.sentence)


@pytest.mark.parametrize("name", ["prompters-nudge", "two-wings", "paper-moon"])
def test_every_module_of_the_plans_there_are_says_something(name: str) -> None:
    plan = load_plan(document(name))
    modules = [it for it, found in plan.nodes.items() if found.kind == "module"]
    assert modules
    for it in modules:
        assert setup_of(resolve(plan, CATALOG), it).sentence.endswith(".")


def test_what_is_no_module_is_refused() -> None:
    with pytest.raises(OutOfRange, match="radio"):
        shown(CLEAR, "board")


def test_a_bound_pair_shows_both_one_pin_and_who_is_asked_first() -> None:
    found = shown(document("two-wings"), "ml")
    assert found.other is not None
    assert (found.other_label, found.sentence.startswith("15 steps through the adapter make the module TWO-WINGS-ML,")) == (
        "Module",
        True,
    )
    assert found.sentence.endswith("bound to the module, whose address its own steps ask for: set that one up first.")
    pins = {it.sentence.partition("PIN ")[2].rstrip(".").partition(",")[0] for it in (found, found.other)}
    assert len(pins) == 1, "one PIN on both ends"
    assert any("write it down" in step.text for step in found.other.steps)
    told = shown(document("two-wings"), "ml", {"nodes": {"mr": {"setup": {"address": "19:5d:24b7a1", "pin_code": "4711"}}}})
    sent = [way.sent for step in told.steps for way in step.ways]
    assert ("AT+BIND=19,5d,24b7a1" in sent, "AT+PSWD=4711" in sent) == (True, True)


@pytest.mark.parametrize(
    ("typed", "kept"),
    [
        ("1a2b:3c:4d5e6f", "1A2B:3C:4D5E6F"),
        ("19,5d,24b7a1", "0019:5D:24B7A1"),
        ("00:19:5D:24:B7:A1", "0019:5D:24B7A1"),
        ("00195D24B7A1", "0019:5D:24B7A1"),
        ("2:0:1", "0002:00:000001"),
    ],
)
def test_an_address_is_read_in_any_notation_and_told_in_both(typed: str, kept: str) -> None:
    design = resolve(plan_with(setup(address=typed)), CATALOG)
    assert design.plan.nodes["radio"].setup.address == kept  # type: ignore[union-attr]
    (entry,) = [it for it in sheet_of(design, (), "nodes.radio").panels[0].entries if it.label == "Its own address"]
    assert entry.text == kept
    assert entry.because is not None
    if typed.startswith("00:19"):
        assert entry.because.endswith("in commands 19,5d,24b7a1, in answers 19:5d:24b7a1")


@pytest.mark.parametrize("typed", ["1a2b:3c", "wing", "1a2b:3c:4d5e6g", "12345:6:7", "1a2b3c4d5e6", "1:2:3:4"])
def test_half_an_address_is_refused_in_words(typed: str) -> None:
    with pytest.raises(PlanInvalid, match="three parts of hex digits, such as 1a2b:3c:4d5e6f"):
        plan_with(setup(address=typed))


@pytest.mark.parametrize(
    ("pair", "told"),
    [
        ((1000, 2000), "gets 2.50 V, at worst 2.37 V: the USB chip's own 1 kΩ adds to the divider, and a high begins at 2.48 V."),
        ((10_000, 20_000), None),
    ],
)
def test_through_the_board_the_usb_chips_own_resistor_counts(pair: tuple[int, int], told: str | None) -> None:
    """5 V · 2k / (1k + 1k + 2k) = 2.50 V, 2.375 V from 4.75 V, less what a microampere of leakage takes; against 0.75 · 3.3 V. 10k/20k gives 3.23 V."""
    plan = plan_with(setup(route="board"), divider(*pair, tolerance_ratio=1e-6))
    found = run_rules(resolve(plan, CATALOG), codes=["MOD-ROUTE"])
    assert [it.severity for it in found] == (["look"] if told else [])
    assert not told or found[0].message.endswith(told), found[0].message


@pytest.mark.parametrize(
    ("family", "told"),
    [
        ("family-a", ["2 s lit, 2 s dark", "100 ms lit, 100 ms dark", "100 ms lit, 100 ms dark, 100 ms lit, 1.7 s dark"]),
        ("family-c", ["500 ms lit, 500 ms dark", "steady"]),
        ("family-e", []),
    ],
)
def test_what_the_led_shows_is_told_where_it_tells_anything(family: str, told: list[str]) -> None:
    """Slow in set-up mode, about 5 Hz unlinked, twice every two seconds linked; steady. From memory."""
    found = shown(CLEAR, "radio", {"nodes": {"radio": {"choice": {"part": family}}}})
    assert [it.text for it in found.blinks] == told


def test_families_are_held_against_each_other_for_this_plan() -> None:
    """A phone with classic serial alone opens no BLE and no Wi-Fi: those come last, and say why."""
    design = resolve(plan_with({"nodes": {"phone": {"speaks": ["classic"]}}}), CATALOG)
    (family,) = [it for it in sheet_of(design, (), "nodes.radio").panels[0].choices if it.label == "Family"]
    assert [it.detail for it in family.options] == [
        "classic serial, the phone opens it, calls or waits, about 10\u00a0m, 20\u00a0mA, peaks of 40\u00a0mA",
        "classic serial, the phone opens it, only waits, about 10\u00a0m, 20\u00a0mA, peaks of 40\u00a0mA",
        "BLE, the phone does not open it, calls or waits, about 20\u00a0m, 8.5\u00a0mA, peaks of 15\u00a0mA, holds 6 lamps with no board",
        "BLE, the phone does not open it, only waits, about 20\u00a0m, 8.5\u00a0mA, peaks of 15\u00a0mA, holds 8 lamps with no board",
        "Wi-Fi, the phone does not open it, only waits, about 30\u00a0m, 80\u00a0mA, peaks of 350\u00a0mA, bare",
        "Wi-Fi, the phone does not open it, only waits, about 30\u00a0m, 80\u00a0mA, peaks of 350\u00a0mA",
    ]
