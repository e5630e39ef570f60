"""The header of a printed program, where chips are none of the 8-bit ones: compiled against what those packages bring, from memory."""

import re
import subprocess
from pathlib import Path

import pytest

from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.firmware.printing import print_program
from oddlamp.core.modules.own_radio import SECRETS_FILE
from oddlamp.core.plan.document import Document, merge_patch
from tests.core.test_findings import CLOCK_CHIP
from tests.firmware.proof import HERE, design_of
from tests.firmware.test_radio import FRAMINGS, LOSES, over
from tests.full import IS_PROOF

JOINED: Document = {
    "links": {"lan": {"join": "station", "join_button": "go"}},
    "inputs": {"go": {"kind": "button", "host": "board"}, "door": None},
    "signals": {"door.in": None},
    "lamps": {"far": None},
    "rules": {
        **dict.fromkeys(("hold", "free", "lean", "tint", "note")),
        "dusk": {"host": "board", "when": {"at": "20:00"}, "do": [{"verb": "on", "target": "lamp"}]},
    },
}
CLOCKED: Document = merge_patch(CLOCK_CHIP, {"nodes": {"clock": {"rail": "three"}}, "rules": {"dusk": JOINED["rules"]["dusk"]}})
OWN: Document = {"links": {"lan": {"join": "access-point"}}}
PIXELS: Document = {
    "lamps": {"far": {"kind": "pixels-one-wire", "layout": {"runs": [{"count": 3}]}}},
    "standing": {"lamp": {"power_cut": "last"}},
}
WHOLES = {
    **{transport: over(transport, LOSES) for transport in FRAMINGS},
    "a network of its own": over("websocket", OWN),
    "joined by a button": over("websocket", JOINED),
    "a clock chip": over("tcp", OWN, CLOCKED),
    "pixels and records": over("mqtt", PIXELS),
}
SHOWN = ("udp", "joined by a button", "pixels and records")  # all of them in the proof


@pytest.mark.parametrize("name", WHOLES if IS_PROOF else SHOWN)
def test_a_program_for_a_board_with_a_radio_compiles_as_its_packages_compile_it(name: str, tmp_path: Path) -> None:
    """Each kind of chip that the header knows, with all warnings as errors; the names of packages' files are taken from the header."""
    design = design_of(WHOLES[name])
    printed = print_program(design, program_of(design, "board"))
    files = {**printed.more, "board.h": printed.header, SECRETS_FILE: printed.more["secrets-example.h"]}
    files["program.cpp"] = "#include <stdint.h>\nuint32_t millis();\n" + printed.program
    for include in re.findall(r"#include <(\w+\.h)>", printed.header):
        if include not in ("stddef.h", "stdint.h", "string.h", "time.h", "pgmspace.h"):
            files[include] = '#include "package.h"\n'
    for file, text in files.items():
        (tmp_path / file).write_text(text)
    kinds = sorted(set(re.findall(r"#(?:el)?if defined\((\w+)\)", printed.header)) - {"__AVR__", "__has_include"})
    assert len(kinds) == 2
    asked = re.search(r"(\w+) kept;\n  return (\w+)\((\w+), &kept\) == (\w+)", printed.header)
    names = dict(zip(("KEPT", "GET_KEPT", "KEPT_AT", "KEPT_OK"), asked.groups() if asked else ("A", "B", "C", "D"), strict=True))
    chip = re.search(r"(\w+)\.getCycleCount", printed.header)
    hands_over = re.search(r"WiFi\.disconnect\(\); WiFi\.(\w+)\(\); }", printed.header)
    names |= {"CHIP": chip[1] if chip else "Chip1", "TAKE_OVER": hands_over[1] if hands_over else "E"}
    for kind in kinds:
        done = subprocess.run(
            ["g++", "-std=gnu++17", "-Wall", "-Wextra", "-Werror", "-fsyntax-only", f"-D{kind}", *(f"-D{name}={it}" for name, it in names.items()), "-I", tmp_path, "-I", HERE, tmp_path / "program.cpp"],
            check=False,
            capture_output=True,
            text=True,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr[:2000]
