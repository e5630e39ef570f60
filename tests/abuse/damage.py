"""A database damaged in any way: it starts with what is left, or says in one sentence why not and leaves it as it is."""

import os
import random
import re
import shutil
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path
from typing import NamedTuple

from tests.abuse.kills import until_all_have_kept
from tests.abuse.writers import projects_of, writing
from tests.conftest import PATIENCE_S, caller, free_port, start_server


class Damaged(NamedTuple):
    """What starts on damaged files came to."""

    starts: int
    served: int
    refused: int
    otherwise: int
    fives: int


def spoil(path: Path, rng: random.Random, number: int) -> None:
    """Damage a file: cut it, blank a page, flip bytes, put noise at its head, or take its log away."""
    if number % 4:  # else all of it stands in its log still, which mends the file
        with closing(sqlite3.connect(path)) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    whole = bytearray(path.read_bytes())
    log = path.with_name(f"{path.name}-wal")
    match number % 6:
        case 0:
            whole = whole[: rng.randrange(len(whole))]
        case 1:
            at = rng.randrange(0, len(whole), 4096)
            whole[at : at + 4096] = bytes(4096)
        case 2:
            for _ in range(rng.randint(1, 200)):
                whole[rng.randrange(len(whole))] = rng.randrange(256)
        case 3:
            whole[: rng.randint(1, 100)] = rng.randbytes(rng.randint(1, 100))
        case 4:
            log.unlink(missing_ok=True)
        case _:
            text = bytearray(log.read_bytes() if log.exists() else b"\0")
            text[rng.randrange(len(text))] ^= 0xFF
            log.write_bytes(text)
    path.write_bytes(whole)


def damage(folder: Path, count: int, seed: int = 1) -> Damaged:
    """Start on so many damaged copies of a file that was in use when it was cut off, and look along the shelf."""
    rng, original = random.Random(seed), folder / "original"
    original.mkdir()
    process, address = start_server(original / "it.sqlite3")
    with writing(address, projects_of(address), seed) as writers:
        until_all_have_kept(writers, time.monotonic())
        process.kill()
        process.wait()
    outcomes = [
        _start(shutil.copytree(original, folder / f"copy{number}") / "it.sqlite3", rng, number) for number in range(count)
    ]
    served = [it for it in outcomes if it is not None and it >= 0]
    return Damaged(count, len(served), outcomes.count(-2), outcomes.count(None), sum(served))


def _start(path: Path, rng: random.Random, number: int) -> int | None:
    """Start on a damaged file: how many requests met an error of ours, -2 where it was refused as it should be, else None."""
    spoil(path, rng, number)
    before = path.read_bytes()
    port = free_port()
    process = subprocess.Popen(
        [sys.executable, "-m", "oddlamp", "serve", "--database", str(path), "--port", str(port)],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONUNBUFFERED": "1"},
    )
    assert process.stdout is not None
    assert process.stderr is not None
    try:
        if "Odd Lamp is at" in process.stdout.readline():
            return _fives(f"http://127.0.0.1:{port}")
        told = process.stderr.read()
        is_right = process.wait(timeout=PATIENCE_S) == 2 and re.fullmatch(r"[^\n]+\n", told) and "Traceback" not in told
        return -2 if is_right and path.read_bytes() == before else None
    finally:
        process.terminate()
        process.wait()


def _fives(address: str) -> int:
    """Look along the shelf and open what stands there; count the answers that say nothing of what is wrong."""
    with caller(f"{address}/api/projects") as http:
        answers = [http.get("")]
        if answers[0].status_code == 200:
            answers += [http.get(f"/{it['id']}{more}") for it in answers[0].json() for more in ("", "/history", "/raw")]
        return sum(it.status_code == 500 for it in answers)
