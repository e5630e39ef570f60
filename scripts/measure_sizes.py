"""Find what each mark of a printed program weighs on an 8-bit chip, by compiling many: writes src/oddlamp/data/program/sizes.toml.

Run after the text of programs has changed. It takes some minutes.
"""

import json
import random
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import tomli_w
from scipy.optimize import nnls

from oddlamp.catalog.load import demo_plan, start_data, start_names
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.firmware.printing import Printed, print_program
from oddlamp.core.firmware.sizes import MARKS, marks_of, plain, sizes_of
from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR
from tests.core.test_findings import CLOCK_CHIP
from tests.core.test_modules_on_the_line import REPLY, WIFI
from tests.firmware.chipped import CHIPS, baseline, compiled_size
from tests.firmware.drawn import drawn_for_chip, drawn_whole
from tests.firmware.proof import design_of
from tests.firmware.test_printed import CLOCKED, SENSED

OUT = Path(__file__).parent.parent / "src" / "oddlamp" / "data" / "program" / "sizes.toml"
DRAWN, SMALL, CUT, WRAPPED = 70, 30, 4, 10
RIDGE = 1e-4  # keeps functions that always come together from taking each other's weight


def cut(whole: Document, rng: random.Random, share: float) -> Document:
    """Leave out some of the rules, so that programs of all sizes come up."""
    rules = {name: it for name, it in whole["rules"].items() if rng.random() < share}
    return {**whole, "rules": rules}


def wholes(rng: random.Random) -> Iterator[Document]:
    """Yield plans large and small."""
    for seed in range(DRAWN):
        yield drawn_whole(random.Random(1000 + seed))
    for seed in range(SMALL):
        yield cut(drawn_for_chip(random.Random(500 + seed)), rng, 0.3)
    for name in start_names():
        whole = dict(start_data(name)["plan"])
        yield from (whole, *(cut(whole, rng, 0.55) for _ in range(CUT)))
    for seed in range(WRAPPED):
        whole = (drawn_for_chip if seed % 2 else drawn_whole)(random.Random(800 + seed))
        wrapped = merge_patch(whole, {**WIFI, "signals": {f"radio.{it}": None for it in ("state", "enable", "reset")}})
        yield from (wrapped, cut(wrapped, rng, 0.3))
    yield from (merge_patch(CLEAR, WIFI), merge_patch(merge_patch(CLEAR, WIFI), REPLY), SENSED, CLOCKED)
    for seed in range(6):
        for more in (SENSED, CLOCKED):
            rules = {name: it for name, it in more["rules"].items() if name not in CLEAR["rules"]}
            beside = CLOCK_CHIP if more is CLOCKED else {}
            yield merge_patch(
                drawn_whole(random.Random(900 + seed)), {"inputs": more.get("inputs", {}), **beside, "rules": rules}
            )
    yield from (demo_plan(), *(cut(demo_plan(), rng, 0.5) for _ in range(CUT)))


def programs(rng: random.Random) -> Iterator[tuple[Printed, str]]:
    """Yield programs, each with the chip of its board."""
    for whole in wholes(rng):
        design = design_of(whole)
        for host, node in design.nodes.items():
            is_by_radio = any(it.kind == "air" and host in (it.a, it.b) for it in design.plan.links.values())
            if node.node.kind == "board" and node.part is not None and node.part.id in CHIPS and not is_by_radio:
                yield print_program(design, program_of(design, host)), CHIPS[node.part.id]


def main() -> None:
    """Compile, fit, and write."""
    marks, code = list[dict[str, int]](), list[float]()
    with tempfile.TemporaryDirectory() as folder:
        for printed, mcu in programs(random.Random(5)):
            flash, _ = compiled_size(printed, mcu, Path(folder))
            marks.append(dict(marks_of(plain(printed.program))))
            code.append(flash - baseline(printed, mcu)[0] - sizes_of(printed.program, {}).tables)
    names = ["base", *MARKS, *sorted({it for one in marks for it in one if it.startswith("fn ")})]
    counted = np.array([[one.get(it, 0) for it in names] for one in marks], dtype=float)
    held = RIDGE * np.diag([float(it.startswith("fn ")) for it in names])
    weights, _ = nnls(
        np.vstack([counted / np.array(code)[:, None], held]),
        np.concatenate([np.ones(len(code)), np.zeros(len(names))]),
        maxiter=20_000,
    )
    found = {name: round(float(it), 1) for name, it in zip(names, weights, strict=True) if it >= 0.05}
    said = f"# What each mark of a printed program takes on an 8-bit chip, bytes: written by scripts/measure_sizes.py, from {len(code)} programs compiled.\n"
    OUT.write_text(said + tomli_w.dumps({"weights": found}), encoding="utf-8")
    off = counted @ weights / np.array(code) - 1
    print(json.dumps({"programs": len(code), "mean": float(abs(off).mean()), "worst": float(abs(off).max())}))


if __name__ == "__main__":
    main()
