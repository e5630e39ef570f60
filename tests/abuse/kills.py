"""The server killed while five write, and its file copied while they do: nothing that was said is lost."""

import os
import random
import shutil
import signal
import time
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from tests.abuse.writers import Writer, lost, projects_of, writing
from tests.conftest import PATIENCE_S, start_server


class Killed(NamedTuple):
    """What came of kills or of frozen copies."""

    rounds: int
    acknowledged: int
    lost: int
    fives: int


def until_all_have_kept(writers: Sequence[Writer], since: float) -> None:
    """Wait until every writer has kept something in this round."""
    while not all(it.said for it in writers):
        if time.monotonic() - since > PATIENCE_S:
            raise TimeoutError("a writer keeps nothing")
        time.sleep(0.002)


def kill(folder: Path, rounds: int, seed: int = 1) -> Killed:
    """Kill the server at a moment drawn at random, again and again, and look into the file each time."""
    rng, database = random.Random(seed), folder / "killed.sqlite3"
    acknowledged, gone, fives = 0, 0, 0
    projects: list[list[str]] = []
    for number in range(rounds):
        process, address = start_server(database)
        if number % 50 == 0:
            projects = projects_of(address)  # a history of thousands would slow the writers down
        with writing(address, projects, seed + number) as writers:
            until_all_have_kept(writers, time.monotonic())
            time.sleep(rng.uniform(0, 0.1))
            os.kill(process.pid, signal.SIGKILL)
            process.wait()
        said = [it for writer in writers for it in writer.said]
        acknowledged, gone = acknowledged + len(said), gone + len(lost(database, said))
        fives += sum(count for writer in writers for code, count in writer.codes.items() if code >= 500)
    return Killed(rounds, acknowledged, gone, fives)


def freeze(folder: Path, rounds: int, seed: int = 1) -> Killed:
    """Stop the server for a moment and copy its files as they stand, as a power cut would leave them."""
    rng, database = random.Random(seed), folder / "frozen.sqlite3"
    process, address = start_server(database)
    acknowledged, gone, fives = 0, 0, 0
    try:
        with writing(address, projects_of(address), seed) as writers:
            until_all_have_kept(writers, time.monotonic())
            for number in range(rounds):
                time.sleep(rng.uniform(0, 0.05))
                said = [it for writer in writers for it in list(writer.said)]
                copy = folder / f"copy{number}"
                copy.mkdir()
                os.kill(process.pid, signal.SIGSTOP)
                try:
                    for file in folder.glob("frozen.sqlite3*"):
                        if not file.name.endswith("-shm"):  # memory, which a power cut takes
                            shutil.copy(file, copy)
                finally:
                    os.kill(process.pid, signal.SIGCONT)
                acknowledged, gone = len(said), gone + len(lost(copy / "frozen.sqlite3", said))
                shutil.rmtree(copy)
        fives = sum(count for writer in writers for code, count in writer.codes.items() if code >= 500)
    finally:
        process.terminate()
        process.wait()
    return Killed(rounds, acknowledged, gone, fives)
