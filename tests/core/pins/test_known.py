"""Answers the trade knows, from memory: what fits which board, what does not, and why."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.plan.document import edit_plan, merge_patch
from oddlamp.core.resolve.resolve import noted, resolve
from oddlamp.sheets.boards import compare_boards
from oddlamp.sheets.models import OutlinePicture
from oddlamp.sheets.pins import able, pins_sheet
from tests.builders import CLEAR, plan_with

CATALOG = load_catalog()
MANY: Any = {
    "inputs": {f"b{n}": {"kind": "button", "host": "board"} for n in range(45)},
    "lamps": {"lamp": None, "px": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 8}]}}},
    "rules": None,
}
BUZZER: Any = {"lamps": {"buzz": {"kind": "buzzer", "host": "board"}}}


def on(part: str, *patches: Any) -> Design:
    """The clear plan on another board."""
    return resolve(plan_with(*patches, base=merge_patch(CLEAR, {"nodes": {"board": {"choice": {"part": part}}}})), CATALOG)


def dimmed(count: int) -> Any:
    """So many lamps that a word dims, in place of the one there is."""
    do = [{"verb": "level", "target": f"l{n}", "values": {"level": 0.5}} for n in range(count)]
    lamps = {f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {"wanted_current_a": 0.001}}} for n in range(count)}
    return {"lamps": {"lamp": None, **lamps}, "rules": {"r1": {"host": "board", "when": {"heard": "on"}, "do": do}, "r2": None}}


def no_fit(design: Design) -> list[str]:
    """What is said of lines without a pin."""
    return [it.message for it in run_rules(design, codes=["PIN-NO-FIT"])]


def test_forty_five_buttons_a_pixel_line_and_a_module() -> None:
    assert not no_fit(on("board-5v-70io", MANY))
    for part, count in (("board-5v-20io", 20), ("board-3v3-ble", 20), ("board-5v-native-usb", 23)):
        (said,) = no_fit(on(part, MANY))
        assert f"{count + 1} lines compete" in said, said
    fixes = [fix for it in run_rules(on("board-5v-20io", MANY), codes=["PIN-NO-FIT"]) for fix in it.fixes]
    assert fixes[0].label == "Take the 5 V 8-bit board, 70 I/O"


def test_a_tone_takes_two_of_six_dimmed_pins() -> None:
    """Common practice: on the 20-I/O board a tone takes timer 2, which dims 3 and 11."""
    assert not no_fit(on("board-5v-20io", dimmed(4), BUZZER))
    assert not no_fit(on("board-5v-20io", dimmed(6)))
    design = on("board-5v-20io", dimmed(6), BUZZER)
    (said,) = no_fit(design)
    assert said.startswith("Buzz has no pin. 6 lines compete: ")
    assert "Buzz. 4 pins can be PWM: 5, 6, 9 and 10." in said
    assert "takes the timer of 3 and 11" in said
    for fix in next(iter(run_rules(design, codes=["PIN-NO-FIT"]))).fixes:
        assert not no_fit(resolve(edit_plan(design.plan, fix.patch), CATALOG)), fix.label


def test_three_pins_dim_on_the_8_pin_chip() -> None:
    left_out = {"signals": {f"serial.{way}": {"is_omitted": True} for way in ("a_to_b", "b_to_a")}}
    said = no_fit(on("board-5v-8pin", dimmed(6), left_out))
    assert "4 lines compete" in said[-1], said
    assert "3 pins can be PWM: P0, P1 and P4." in said[-1]
    assert "P5 is not one more: it resets the chip and cannot be dimmed." in said[-1]


def test_four_buttons_with_pull_ups_on_the_wifi_board() -> None:
    """Labels D5 to D8 are the chip's 14, 12, 13 and 15; 15 must be low while it starts, and 10 k beat the board's 12 k."""
    pulls = {f"b{n}.in": {"pin": f"D{n}", "pull_ohm": 10_000, "pull_to": "three"} for n in range(5, 9)}
    three = {"rails": {"three": {"end": "table", "fed_by": "board.supply_3v3"}}}
    inputs = {f"b{n}": {"kind": "button", "host": "board"} for n in range(5, 9)}
    design = on("board-wifi", {"inputs": inputs, "signals": pulls, **three})
    assert [it.breach.where for it in run_rules(design, codes=["PIN-STRAP"])] == ["b8.in"]
    part = CATALOG.boards["board-wifi"]
    assert [able(pin, ()).partition(":")[0] for n in range(5, 9) if (pin := part.pin(f"D{n}"))] == [
        "chip pin 14",
        "chip pin 12",
        "chip pin 13",
        "chip pin 15",
    ]


def test_a_remote_receiver_on_the_pin_that_must_be_low_stops_the_board() -> None:
    """Its output rests high while the board starts."""
    receiver = {"inputs": {"eye": {"kind": "remote-receiver", "host": "board"}}, "signals": {"eye.in": {"pin": "D8"}}}
    found = run_rules(on("board-wifi", receiver), codes=["PIN-STRAP"])
    assert [(it.severity, it.breach.where) for it in found] == [("stop", "eye.in")]


def test_a_module_takes_a_port_where_one_is_free() -> None:
    design = on("board-5v-70io")
    heard, sent = (design.signals[f"serial.{way}"].pin for way in ("a_to_b", "b_to_a"))
    assert heard is not None
    assert sent is not None
    assert (sent.label, heard.label) in {("18", "19"), ("16", "17"), ("14", "15")}


def test_a_mixed_colour_lies_side_by_side() -> None:
    rgb = {"lamps": {"moon": {"kind": "rgb", "host": "board", "channels": {"red": {}, "green": {}, "blue": {}}}}}
    design = on("board-5v-20io", rgb)
    labels = [pin.label for leg in ("red", "green", "blue") if (pin := design.signals[f"moon.{leg}"].pin)]
    assert labels == ["9", "10", "11"]


@pytest.mark.parametrize(
    "change", [{"lamps": {"more": {"kind": "led", "host": "board", "channels": {"main": {}}}}}, {"title": "Other"}]
)
def test_shown_pins_stay(change: Any) -> None:
    plan = plan_with(BUZZER)
    first = resolve(plan, CATALOG)
    shown = noted(plan, first)
    after = resolve(edit_plan(shown, change), CATALOG)
    assert {pin.key: pin.label for pin in first.pins}.items() <= {pin.key: pin.label for pin in after.pins}.items()
    gone = resolve(edit_plan(noted(edit_plan(shown, change), after), {"lamps": {"buzz": None}}), CATALOG)
    assert {pin.key: pin.label for pin in gone.pins}.items() <= {pin.key: pin.label for pin in after.pins}.items()


def test_the_boards_are_compared_and_a_press_moves_the_plan() -> None:
    """A plan that outgrows its board: the 70-I/O board takes it, and pins of the old one are let go."""
    settled = {"signals": {"b0.in": {"pin": "7"}}}
    plan = plan_with(MANY, settled)
    (it,) = compare_boards(plan, resolve(plan, CATALOG))
    best = it.rows[0]
    assert (best.label, best.state) == ("5 V 8-bit board, 70 I/O", "clear")
    assert it.sentence.startswith("The 5 V 8-bit board, 70 I/O serves it best")
    assert best.move is not None
    moved = resolve(edit_plan(plan, best.move.patch), CATALOG)
    assert not [found for found in run_rules(moved) if found.code.startswith("PIN-")]
    assert len(it.rows) == len(CATALOG.boards)
    assert [row.is_now for row in it.rows].count(True) == 1


def test_built_lines_stop_the_move_and_are_named() -> None:
    plan = plan_with({"signals": {"lamp.main": {"pin": "8", "is_built": True}}})
    (it,) = compare_boards(plan, resolve(plan, CATALOG))
    assert it.sentence == "Lamp is built: open it again before the board is changed."
    assert not [row for row in it.rows if row.move is not None]


def steps_of(design: Design) -> list[str]:
    """What the sheet of the pins says of programming."""
    panel = next(it for it in pins_sheet(design, design.nodes["board"], ()).panels if it.title == "Putting the program on it")
    return list(panel.steps)


def test_what_shares_the_upload_is_taken_off_and_put_back() -> None:
    """Common practice: off the upload pins first, power off when wires move, and back afterwards."""
    wired = {"signals": {"serial.a_to_b": {"pin": "0"}, "serial.b_to_a": {"pin": "1"}}}
    steps = steps_of(on("board-5v-20io", wired))
    assert steps[0].startswith("Switch every supply off")
    assert [it for it in steps if it.startswith("Take ")][:2] == [
        "Take module to board off pin 0.",
        "Take board to module off pin 1.",
    ]
    assert steps[-2:] == ["Put module to board back on pin 0.", "Put board to module back on pin 1."]
    assert not [it for it in steps_of(on("board-5v-20io")) if "off pin" in it]


def test_the_8_pin_wifi_module_is_held_low_and_fed_well() -> None:
    """Common practice, from memory: GPIO0 low at power-on, 3.3 V, 400 mA."""
    steps = " ".join(steps_of(on("board-wifi-8pin")))
    places = [steps.index(it) for it in ("3.3 V", "400 mA", "enable and reset", "Hold GPIO0 low", "Let GPIO0 go")]
    assert places == sorted(places)


def test_the_programmers_six_wires() -> None:
    """Common practice, from memory; what hangs there must let go."""
    steps = steps_of(on("board-bare-14pin", {"signals": {"lamp.main": {"pin": "PA5"}}}))
    assert "Take lamp off pin PA5." in steps
    assert any("PA6" in it and "PA5" in it and "PA4" in it and "PB3" in it for it in steps)


def test_pins_that_stayed_are_given_anew_when_asked() -> None:
    """A module that came last got what was left; once the lamps are gone it may have a calm pin again."""
    many = {"lamps": {f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {}}} for n in range(14)}}
    crowded = plan_with(many, base=merge_patch(CLEAR, {"signals": {"serial.b_to_a": {"pin": "4"}}}))
    shown = noted(crowded, resolve(crowded, CATALOG))
    after = edit_plan(shown, {"lamps": {f"l{n}": None for n in range(9)}})
    design = resolve(after, CATALOG)
    (move,) = [it for it in pins_sheet(design, design.nodes["board"], ()).moves if it.label == "Give the proposed pins anew"]
    anew = resolve(edit_plan(after, move.patch), CATALOG)
    fresh = resolve(edit_plan(after, {"shown_pins": None}), CATALOG)
    assert [pin.label for pin in anew.pins] == [pin.label for pin in fresh.pins] != [pin.label for pin in design.pins]
    assert not [it for it in pins_sheet(fresh, fresh.nodes["board"], ()).moves if it.label == "Give the proposed pins anew"]


@pytest.mark.parametrize(
    ("board", "pins"),
    [
        ("board-5v-20io", {"sda": "A4", "scl": "A5", "sck": "13", "mosi": "11", "miso": "12", "dbg": "0 1"}),
        ("board-5v-70io", {"sda": "20", "scl": "21", "sck": "52", "mosi": "51", "miso": "50", "dbg": "0 1"}),
        ("board-5v-native-usb", {"sda": "2", "scl": "3", "sck": "SCK", "mosi": "MOSI", "miso": "MISO", "dbg": ""}),
        ("board-3v3-32bit", {"sda": "18", "scl": "19", "sck": "13", "mosi": "11", "miso": "12", "dbg": ""}),
        ("board-wifi-ble", {"sda": "21", "scl": "22", "sck": "18", "mosi": "23", "miso": "19", "dbg": "3 1"}),
        ("board-wifi", {"sda": "D2", "scl": "D1", "sck": "D5", "mosi": "D7", "miso": "D6", "dbg": "RX TX"}),
    ],
)
def test_buses_lie_on_their_pins_and_talk_over_usb_on_those_of_the_plug(board: str, pins: dict[str, str]) -> None:
    """From memory. Where the USB is in the chip, talking over it takes no pin."""
    nodes = {"pc": {"kind": "computer"}, "clock": {"kind": "chip"}, "card": {"kind": "chip"}}
    links = {
        "dbg": {"kind": "wire", "a": "pc", "b": "board", "transport": "usb"},
        "two": {"kind": "wire", "a": "board", "b": "clock", "transport": "i2c"},
        "spi": {"kind": "wire", "a": "board", "b": "card", "transport": "spi"},
    }
    left_out = {"signals": {f"serial.{way}": {"is_omitted": True} for way in ("a_to_b", "b_to_a")}}
    design = on(board, {"nodes": nodes, "links": links, "lamps": {"lamp": None}, "rules": None}, left_out)
    found = {pin.line.lead: pin.label for pin in design.pins if pin.line.owner_id in ("two", "spi")}
    told = " ".join(pin.label or "" for pin in design.pins if pin.line.owner_id == "dbg")
    assert {**found, "dbg": told} == {**pins, "select": found["select"]}
    assert not run_rules(design, codes=["PIN-UPLOAD", "PIN-NO-FIT", "PIN-SWSERIAL-TWO", "PIN-CANT"])


def test_where_a_board_has_no_bus_the_program_makes_it_on_any_pins() -> None:
    nodes = {
        "nodes": {"clock": {"kind": "chip"}},
        "links": {"two": {"kind": "wire", "a": "board", "b": "clock", "transport": "i2c"}},
    }
    design = on("board-coin-ble", nodes)
    assert None not in [pin.label for pin in design.pins if pin.line.owner_id == "two"]
    assert not no_fit(design)


def test_a_remote_receiver_wakes_the_program_where_a_pin_can() -> None:
    design = on("board-5v-20io", {"inputs": {"eye": {"kind": "remote-receiver", "host": "board"}}})
    assert [pin.label for pin in design.pins if pin.line.owner_id == "eye"] == ["2"]


@pytest.mark.parametrize(
    ("pins", "hz"), [({"main": "5"}, 977), ({"main": "9"}, 490), ({"red": "5", "green": "6", "blue": "9"}, 490)]
)
def test_a_lamp_is_dimmed_as_fast_as_the_timer_of_its_pin(pins: dict[str, str], hz: float) -> None:
    """From memory: 16 MHz / 64 / 256 is 977 Hz on timer 0 of the 20-I/O board; up and down, 490 Hz on the others."""
    kind = "led" if "main" in pins else "rgb"
    lamp = {"kind": kind, "host": "board", "channels": {it: {} for it in pins}}
    signals = {f"dim.{it}": {"pin": label} for it, label in pins.items()}
    design = on("board-5v-20io", {"lamps": {"dim": lamp}, "signals": signals})
    dimming = design.lamps["dim"].dimming
    assert dimming is not None
    assert dimming.frequency is not None
    assert dimming.frequency.value == hz
    assert hz == pytest.approx({977: 16e6 / 64 / 256, 490: 16e6 / 64 / 255 / 2}[int(hz)], rel=1e-3)


def lamps(count: int) -> Any:
    return {
        "lamps": {
            f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {"wanted_current_a": 0.004}}} for n in range(count)
        }
    }


@pytest.mark.parametrize(
    ("board", "patches", "first"),
    [
        ("board-5v-20io", [dimmed(6), BUZZER], "Let L3 and L4 be only on or off"),
        ("board-5v-8pin", [dimmed(6)], "Put L0 and L3, L1 and L4, L2 and L5 side by side on one pin"),
        ("board-5v-8pin", [lamps(3)], "Leave out board to module"),
        ("board-5v-8pin", [lamps(4)], "Put L0 and L2, L1 and L3 side by side on one pin"),
    ],
)
def test_less_is_asked_of_a_board_before_another_is_taken(board: str, patches: list[Any], first: str) -> None:
    design = on(board, *patches)
    (found,) = run_rules(design, codes=["PIN-NO-FIT"])
    assert found.fixes[0].label == first
    before = {it.key for it in run_rules(design) if it.severity == "stop"}
    for fix in found.fixes:
        after = resolve(edit_plan(design.plan, fix.patch), CATALOG)
        assert not no_fit(after), fix.label
        assert {it.key for it in run_rules(after) if it.severity == "stop"} <= before, fix.label


def test_no_way_out_asks_more_of_a_lamp_that_is_built() -> None:
    """Four lamps alike beside the first on the 8-pin chip: those that are soldered get no second LED beside them."""
    built = {"signals": {f"l{n}.main": {"pin": label, "is_built": True} for n, label in enumerate(("P0", "P2"))}}
    design = on("board-5v-8pin", lamps(4), built)
    (found,) = run_rules(design, codes=["PIN-NO-FIT"])
    assert not [fix.label for fix in found.fixes if "L0 and" in fix.label or "L1 and" in fix.label]


def test_the_pins_that_too_many_lines_want_are_ringed() -> None:
    design = on("board-5v-20io", dimmed(6), BUZZER)
    (picture,) = pins_sheet(design, design.nodes["board"], ()).pictures
    assert isinstance(picture, OutlinePicture)
    assert "too many lines want" in picture.note
    assert {pin.label for pin in picture.pins if pin.is_contested} == {"3", "5", "6", "9", "10", "11"}
    (calm,) = pins_sheet(on("board-5v-20io"), design.nodes["board"], ()).pictures
    assert isinstance(calm, OutlinePicture)
    assert not calm.note
    assert not any(pin.is_contested for pin in calm.pins)
