"""The shipped parts: facts of the trade, and refusal of a broken file."""

import shutil
from pathlib import Path

import pytest

from oddlamp.catalog.load import DATA, CatalogBroken, load_catalog


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
