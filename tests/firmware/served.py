"""A board of the tests that runs its printed program in real time, with its radio on lines of this machine."""

import os
import subprocess
import threading
from collections import deque
from collections.abc import Callable
from pathlib import Path

from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.firmware.printing import print_program
from oddlamp.core.plan.document import Document
from tests.conftest import PATIENCE_S
from tests.firmware.proof import built, design_of


class Board:
    """A board that runs its printed program in real time, and tells what its pins show."""

    def __init__(self, whole: Document, folder: Path, **outside: str) -> None:
        self.design = design_of(whole)
        program = program_of(self.design, "board")
        self.facts = Facts(self.design, program)
        printed = print_program(self.design, program)
        for name, text in printed.more.items():
            (folder / name).write_text(text)
        made = built(printed.program, folder, is_served=True)
        self.runs = subprocess.Popen(
            [made], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env={**os.environ, **outside}
        )
        self.told, self.more = deque[list[str]](maxlen=5000), threading.Condition()
        self.ports: dict[int, int] = {}
        self.shows: dict[int, int] = {}
        threading.Thread(target=self._read, daemon=True).start()
        self.wait_for(lambda: len(self.ports) == 2)

    def _read(self) -> None:
        assert self.runs.stdout is not None
        for line in self.runs.stdout:
            parts = line.split()
            with self.more:
                self.told.append(parts)
                if parts[1] == "A":
                    self.ports[int(parts[2])] = int(parts[3])
                if parts[1] == "P":
                    self.shows[int(parts[2])] = int(parts[3])
                self.more.notify_all()

    def wait_for(self, is_so: Callable[[], bool]) -> None:
        with self.more:
            assert self.more.wait_for(is_so, timeout=PATIENCE_S), list(self.told)[-20:]

    def is_so_within(self, within_s: float, is_so: Callable[[], bool]) -> bool:
        with self.more:
            return self.more.wait_for(is_so, timeout=within_s)

    def put(self, pin: int, level: int) -> None:
        assert self.runs.stdin is not None
        self.runs.stdin.write(f"{pin} {level}\n")
        self.runs.stdin.flush()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.ports[0]}"

    def end(self) -> None:
        assert self.runs.stdin is not None
        self.runs.stdin.close()
        assert self.runs.wait(PATIENCE_S) == 0, "the sanitizers found something"
