"""Writers that keep changes over HTTP at once, and what of it was said to be kept."""

import json
import random
import sqlite3
import threading
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

import httpx

from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.conftest import caller

WRITERS = 5
LAMP = CLEAR["lamps"]["lamp"]
SHARED = merge_patch(CLEAR, {"title": "Shared", "lamps": {f"lamp{n}": LAMP for n in range(WRITERS)}})


class Said(NamedTuple):
    """One change the server said it kept."""

    project: str
    revision: int
    lamp: str
    ohm: float


class Writer:
    """Turns one lamp of its own project, and one of a project that all writers share, in turns."""

    def __init__(self, address: str, number: int, projects: Sequence[str], seed: int) -> None:
        self.address, self.lamp, self.rng = address, f"lamp{number}", random.Random(seed)
        self.bases = dict.fromkeys(projects, 0)
        self.said: list[Said] = []
        self.codes: Counter[int] = Counter()

    def work(self, stop: threading.Event) -> None:
        """Write until told to stop, or until the server is gone."""
        with caller(self.address) as http:
            try:
                for project in self.bases:
                    self.bases[project] = http.get(f"/api/projects/{project}").json()["revision"]
                while not stop.is_set():
                    for project in self.bases:
                        self._turn(http, project)
            except httpx.TransportError:
                return  # it was killed, on purpose

    def _turn(self, http: httpx.Client, project: str) -> None:
        ohm = float(self.rng.randint(100, 100_000))
        patch = {"lamps": {self.lamp: {"channels": {"main": {"resistor_ohm": ohm}}}}}
        answer = http.post(f"/api/projects/{project}/edits", json={"base_revision": self.bases[project], "patch": patch})
        self.codes[answer.status_code] += 1
        if answer.status_code == 200:
            self.bases[project] = answer.json()["revision"]
            self.said.append(Said(project, self.bases[project], self.lamp, ohm))


def projects_of(address: str) -> list[list[str]]:
    """Start the shared project and one for each writer; return which two each of them turns."""
    with caller(address) as http:
        made: list[Any] = [http.post("/api/projects/import", json=SHARED).json()["id"] for _ in range(WRITERS + 1)]
    return [[made[0], own] for own in made[1:]]


@contextmanager
def writing(address: str, projects: Sequence[Sequence[str]], seed: int) -> Iterator[list[Writer]]:
    """Let all writers write while the block runs."""
    writers = [Writer(address, n, mine, seed * WRITERS + n) for n, mine in enumerate(projects)]
    stop = threading.Event()
    with ThreadPoolExecutor(len(writers)) as pool:
        running = [pool.submit(it.work, stop) for it in writers]
        try:
            yield writers
        finally:
            stop.set()
        for it in running:
            it.result()


def lost(database: Path, said: Sequence[Said]) -> list[Said]:
    """Look into the file itself for what was said to be kept; return what is not there, with the value it had."""
    connection = sqlite3.connect(database)
    try:
        assert connection.execute("PRAGMA quick_check").fetchone() == ("ok",)
        found = []
        for it in said:
            row = connection.execute("SELECT project_id, plan FROM revisions WHERE id = ?", (it.revision,)).fetchone()
            ohm = row and json.loads(row[1])["lamps"][it.lamp]["channels"]["main"]["resistor_ohm"]
            if row is None or row[0] != it.project or ohm != it.ohm:
                found.append(it)
        heads = dict(connection.execute("SELECT id, head_id FROM projects"))
        found += [it for it in said if heads[it.project] < it.revision]
        return found
    finally:
        connection.close()
