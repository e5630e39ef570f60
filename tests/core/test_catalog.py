"""The shipped parts: facts of the trade, and refusal of a broken file."""

import shutil
import tomllib
from pathlib import Path

import pytest

from oddlamp.catalog.load import DATA, CatalogBroken, load_catalog
from oddlamp.core.parts.models import BoardPart


@pytest.mark.parametrize(
    ("board", "label", "chip", "abilities"),
    [
        ("board-wifi", "D8", 15, {"pwm"}),
        ("board-wifi", "D4", 2, {"pwm"}),
        ("board-wifi", "A0", None, {"analog-in"}),
        ("board-5v-20io", "9", 15, {"pwm"}),
        ("board-5v-20io", "A5", 28, {"analog-in", "digital-out"}),
    ],
)
def test_pins(board: str, label: str, chip: int | None, abilities: set[str]) -> None:
    """Common practice, from memory."""
    pin = load_catalog().boards[board].pin(label)
    assert pin is not None
    assert pin.chip == chip
    assert abilities <= set(pin.can)


def test_straps_of_the_wifi_board() -> None:
    """Common practice, from memory: 0 and 2 high, 15 low through 12 k, 1 not held low."""
    straps = {pin.chip: pin.strap for pin in load_catalog().boards["board-wifi"].pins if pin.strap}
    assert straps == {0: "high", 2: "high", 15: "low", 1: "high"}


def test_pwm_pins_of_the_20_io_board() -> None:
    """Common practice, from memory."""
    assert [pin.label for pin in load_catalog().boards["board-5v-20io"].pins if "pwm" in pin.can] == [
        "3",
        "5",
        "6",
        "9",
        "10",
        "11",
    ]


@pytest.mark.parametrize(
    ("file", "old", "new", "said"),
    [
        ("leds/led-red.toml", 'id = "led-red"', 'id = "led-rouge"', "not the file's name"),
        ("leds/led-red.toml", 'source = "common-practice"', 'source = "hearsay"', "hearsay"),
        ("leds/led-red.toml", "least = 1.8", "least = 2.8", "out of order"),
        ("leds/led-red.toml", 'label = "Red"', 'label = "Red"\nsmell = 1', "smell"),
        ("boards/board-wifi.toml", 'label = "D1"', 'label = "D0"', "stands twice"),
        ("boards/board-wifi.toml", "[", "[[", "board-wifi.toml"),
        ("boards/board-5v-20io.toml", 'label = "9"', f'label = "{"9" * 40}"', "label"),
        ("boards/board-5v-20io.toml", 'label = "9"', 'label = "<b>9"', "label"),
        (
            "boards/board-5v-20io.toml",
            'timer = "1", channel = "A"',
            'timer = "1"',
            "pin 9: a timer and its channel stand together",
        ),
        ("boards/board-5v-20io.toml", '"digital-in", "pwm"', '"digital-in"', "a timer, and it cannot do pwm"),
        ("boards/board-wifi-ble.toml", 'deaf_on_wifi = ["2"]', 'deaf_on_wifi = ["3"]', "no pin is read by this one"),
        ("boards/board-5v-20io.toml", '"pwm"', '"magic"', "can"),
        ("boards/board-5v-20io.toml", '"uart-rx"], port = 0', '"uart-rx"]', "pin 0: a serial line wants the port it belongs to"),
        ("boards/board-5v-20io.toml", '{ label = "8", ', '{ label = "8", ' + 'label2 = "', "board-5v-20io.toml"),
        (
            "boards/board-5v-20io.toml",
            'label = "12", chip',
            'label = "twelve", chip',
            "a port group names pin 12, and there is none",
        ),
    ],
)
def test_a_broken_file_is_named(tmp_path: Path, file: str, old: str, new: str, said: str) -> None:
    shutil.copytree(DATA, tmp_path / "data")
    path = tmp_path / "data" / file
    content = path.read_text(encoding="utf-8")
    assert old in content
    path.write_text(content.replace(old, new, 1), encoding="utf-8")
    with pytest.raises(CatalogBroken, match=said):
        load_catalog(tmp_path / "data")


def test_port_groups_name_pins_that_are_there_and_leave_none_out() -> None:
    """Limits of sinking and sourcing ports, from memory: every digital pin stands in one group each way."""
    board = load_catalog().boards["board-5v-20io"]
    labels = {pin.label for pin in board.pins}
    for way in ("sink_a", "source_a"):
        grouped = [pin for group in board.port_groups if getattr(group, way) is not None for pin in group.pins]
        assert sorted(grouped) == sorted(labels), way


def test_zeners_rise_and_are_softer_than_their_name() -> None:
    for zener in load_catalog().zeners.values():
        currents, volts = zip(*zener.knee, strict=True)
        assert list(currents) == sorted(currents)
        assert list(volts) == sorted(volts)
        assert volts[0] < 3.3 < volts[-1]


def test_transistors_are_told_by_what_drives_them() -> None:
    """The threshold is where a MOSFET barely starts, always under the gate volts its resistance is specified at."""
    for part in load_catalog().transistors.values():
        if part.kind == "mosfet":
            assert part.gate_threshold_v is not None
            assert part.gate_specified_v is not None
            assert part.gate_threshold_v.high < part.gate_specified_v.value
        else:
            assert part.saturation_v is not None
            assert part.saturation_v.high < 1


@pytest.mark.parametrize(
    ("led", "least", "most"),
    [
        ("led-red", 1.8, 2.2),
        ("led-orange", 2.0, 2.2),
        ("led-yellow", 2.0, 2.2),
        ("led-yellow-green", 2.0, 2.4),
        ("led-green", 2.8, 3.6),
        ("led-blue", 2.8, 3.6),
        ("led-white", 2.8, 3.6),
        ("led-ultraviolet", 3.1, 4.0),
        ("led-infra-red", 1.2, 1.6),
    ],
)
def test_forward_voltages(led: str, least: float, most: float) -> None:
    """Typical drops at 20 mA, common practice, no source."""
    part = load_catalog().leds[led].forward_voltage_v
    assert (part.low, part.high) == (least, most)
    assert part.low <= part.value <= part.high


@pytest.mark.parametrize(
    ("board", "pwm"),
    [
        ("board-5v-20io-small", {"3", "5", "6", "9", "10", "11"}),
        ("board-5v-70io", {*(str(n) for n in range(2, 14)), "44", "45", "46"}),
        ("board-5v-native-usb", {"3", "5", "6", "9", "10", "11", "13"}),
        ("board-3v3-32bit", {"3", "4", "5", "6", "9", "10", "20", "21", "22", "23", "25", "32"}),
        ("board-3v3-ble", {"3", "5", "6", "9"}),
    ],
)
def test_pwm_pins(board: str, pwm: set[str]) -> None:
    """Common practice, from memory."""
    assert {pin.label for pin in load_catalog().boards[board].pins if "pwm" in pin.can} == pwm


@pytest.mark.parametrize(
    ("board", "ports"),
    [
        ("board-5v-20io", {0: ("0", "1")}),
        ("board-5v-70io", {0: ("0", "1"), 1: ("19", "18"), 2: ("17", "16"), 3: ("15", "14")}),
        ("board-5v-native-usb", {1: ("0", "1")}),
        ("board-3v3-32bit", {1: ("0", "1"), 2: ("9", "10"), 3: ("7", "8")}),
    ],
)
def test_serial_ports(board: str, ports: dict[int, tuple[str, str]]) -> None:
    """Receive and send of each port; common practice, from memory."""
    pins = load_catalog().boards[board].pins
    found = {
        pin.port: tuple(it.label for way in ("uart-rx", "uart-tx") for it in pins if it.port == pin.port and way in it.can)
        for pin in pins
        if pin.port is not None
    }
    assert found == ports


def test_what_can_receive_in_software() -> None:
    """Common practice, from memory: pins with a change interrupt of their own kind."""
    boards = load_catalog().boards
    heard = {it.label for it in boards["board-5v-70io"].pins if "software-serial-in" in it.can}
    assert heard == {"10", "11", "12", "13", "50", "51", "52", "53", *(f"A{n}" for n in range(8, 16))}
    heard = {it.label for it in boards["board-5v-native-usb"].pins if "software-serial-in" in it.can}
    assert heard == {"8", "9", "10", "11", "MISO", "SCK", "MOSI"}


def test_facts_of_the_wifi_and_ble_board() -> None:
    """Common practice, from memory: inputs only, straps, the second converter, what belongs to the program's memory."""
    pins = {pin.label: pin for pin in load_catalog().boards["board-wifi-ble"].pins}
    assert {it for it, pin in pins.items() if "digital-out" not in pin.can} == {"34", "35", "36", "39"}
    assert {it: (pin.strap, pin.strap_stops) for it, pin in pins.items() if pin.strap} == {
        "0": ("high", True), "2": ("low", False), "5": ("high", False), "12": ("low", True), "15": ("high", False),
    }  # fmt: skip
    assert {it for it, pin in pins.items() if pin.converter == "2"} == {"0", "2", "4", "12", "13", "14", "15", "25", "26", "27"}
    assert {it for it, pin in pins.items() if pin.busy_with == "flash"} == {"6", "7", "8", "9", "10", "11"}
    assert {it for it, pin in pins.items() if not pin.is_quiet_at_start and pin.busy_with != "flash"} == {
        "0",
        "1",
        "5",
        "14",
        "15",
    }
    assert {it for it, pin in pins.items() if "analog-out" in pin.can} == {"25", "26"}


def test_two_channels_of_a_timer_are_two_pins() -> None:
    """A timer's output reaches one pin on these boards, but for the one whose outputs sixteen apart are the same."""
    outputs = {pin.chip: (pin.timer, pin.channel) for pin in load_catalog().boards["board-3v3-dual-core"].pins}
    assert [(one, outputs[one]) for one in (0, 15, 16, 26)] == [
        (0, ("0", "A")),
        (15, ("7", "B")),
        (16, ("0", "A")),
        (26, ("5", "A")),
    ]
    for board in load_catalog().boards.values():
        if board.id == "board-3v3-dual-core":
            continue
        outputs = [(pin.timer, pin.channel) for pin in board.pins if pin.timer is not None]
        assert len(set(outputs)) == len(outputs), board.id


def test_a_file_of_a_board_from_before_its_own_current_was_asked_for_stays_good() -> None:
    shipped = tomllib.loads((DATA / "boards" / "board-5v-20io.toml").read_text(encoding="utf-8"))
    board = BoardPart.model_validate({key: it for key, it in shipped.items() if key not in ("usual_a", "peak_a")})
    assert (board.usual_a.value, board.usual_a.source) == (0.05, "estimate")
