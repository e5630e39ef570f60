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
