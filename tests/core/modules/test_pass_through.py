"""The program that makes a board the adapter: it compiles, and speaks to the pins that the plan has."""

import re
import subprocess
from pathlib import Path
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.pass_through import Between, pass_through_program
from oddlamp.core.modules.script import Goal, script
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.modules.walk import run
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.setup import SetupShown, setup_of
from tests.builders import CLEAR, plan_with

SKETCH = Path(__file__).parents[2] / "data" / "sketch"
DIALECTS = load_catalog().dialects


def on(board: str, *patches: Any, family: str = "family-a") -> SetupShown:
    radio = {"choice": {"part": family}, "setup": {"route": "pass-through", "name": None, "pin_code": None}}
    whole = plan_with({"nodes": {"board": {"choice": {"part": board}}, "radio": radio}}, *patches, base=CLEAR)
    return setup_of(resolve(whole, load_catalog()), "radio")


@pytest.mark.parametrize("between", [Between(None, "8", "9"), Between(None, "A0", "A1"), Between(1)])
def test_it_compiles(between: Between, tmp_path: Path) -> None:
    text = (
        pass_through_program(between, 38_400, load_catalog().packages).replace("A0", "14").replace("A1", "15")
    )  # the package's names for those pins
    (tmp_path / "it.cpp").write_text(f'#include "package.h"\n{text}', encoding="utf-8")
    command = ["g++", "-std=c++11", "-Wall", "-Wextra", "-Werror", "-fsyntax-only", f"-I{SKETCH}", str(tmp_path / "it.cpp")]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")


def test_the_sheet_prints_it_for_the_pins_of_the_plan() -> None:
    found = on("board-5v-20io")
    assert found.sentence.startswith("14 steps through a program on the board make the module")
    pins = re.findall(r"const int MODULE_\w+ = (\w+);", found.program)
    design = resolve(plan_with({"nodes": {"radio": {"setup": {"route": "pass-through"}}}}), load_catalog())
    assert pins == [design.signals[line].pin.label for line in ("serial.a_to_b", "serial.b_to_a")]  # type: ignore[union-attr]
    assert "const long MODULE_SPEED = 38400;" in found.program
    assert any("MODULE_SPEED = 38400, and upload it; set the terminal to 115200" in step.text for step in found.steps)
    ports = {"signals": {"serial.a_to_b": {"pin": "19"}, "serial.b_to_a": {"pin": "18"}}}
    assert "Serial1.begin(MODULE_SPEED);" in on("board-5v-70io", ports).program


@pytest.mark.parametrize(
    ("board", "patch", "family"),
    [
        ("board-5v-20io", {"signals": {"serial.a_to_b": {"pin": "0"}, "serial.b_to_a": {"pin": "1"}}}, "family-a"),
        ("board-3v3-dual-core", {}, "family-a"),
        ("board-5v-20io", {}, "family-e"),
    ],
)
def test_where_it_cannot_be_an_adapter_is_named_instead(board: str, patch: Any, family: str) -> None:
    found = on(board, patch, family=family)
    assert found.sentence.startswith("No program of the board can pass on what it says: ")
    assert found.sentence.endswith("Take an adapter.")
    assert (found.steps, found.program) == ((), "")


@pytest.mark.parametrize("family", ["family-a", "family-b"])
def test_its_steps_reach_the_goal_from_any_speed_it_can_follow(family: str) -> None:
    steps = script(Goal("LANTERN", "4711", 19_200), DIALECTS[family], "pass-through")
    for speed in (9600, 38_400, 57_600, 115_200):
        outcome = run(steps, StandIn(DIALECTS[family], {"speed": speed}))
        is_out_of_reach = family == "family-b" and speed > 57_600
        assert (outcome.stopped_at is not None) == is_out_of_reach, (speed, outcome)
