"""A general circuit solver as an independent answer: decks of many small circuits, run in batch."""

import re
import subprocess
from pathlib import Path

HEAD = "* many small circuits\n.options reltol=1e-7 abstol=1e-15 vntol=1e-9 gmin=1e-16 temp=26.85 tnom=26.85\n"
FIGURE = re.compile(r"^\s*([a-z]\w*(?:\([\w.#]+\))?)\s*=\s*([-+0-9.e]+)", re.MULTILINE | re.IGNORECASE)


def solve(folder: Path, body: str, *, analysis: str, ask: list[str]) -> dict[str, float]:
    """Run a deck and return the figures asked for, by name.

    Args:
        folder: where the deck is written.
        body: the circuits.
        analysis: ``op`` or a ``tran`` command.
        ask: control commands that print ``name = value``.
    """
    deck = folder / "deck.cir"
    commands = "\n".join(["set numdgt=12", analysis, *ask])
    deck.write_text(f"{HEAD}{body}\n.control\n{commands}\n.endc\n.end\n", encoding="ascii")
    done = subprocess.run(["ngspice", "-b", str(deck)], capture_output=True, text=True, check=False, timeout=600)
    return {name.lower(): float(value) for name, value in FIGURE.findall(done.stdout)}
