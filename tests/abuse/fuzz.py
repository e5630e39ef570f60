"""Plans with anything in them, and files that are none: refused in words or shown, never an error of ours."""

import json
import os
import random
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Callable, Collection, Iterator
from pathlib import Path
from typing import Any, NamedTuple

from oddlamp.catalog.load import demo_plan
from tests.builders import PLANS, document
from tests.conftest import PATIENCE_S, caller, running_server

ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 1e-300, 1e300, 2**63, -(2**70), 0.1, "", " ", "0", "-5", "1e400", "nan", "4k7", "900 V",
    "\x00", "\u202e", "😀", "a" * 5000, "lamps", "moon", "board", "../..", [], {}, [[]], {"a": {}}, ["on"] * 50,
    [None], {"": ""}, {"kind": "led"}, "1 (" + " " * 900 + "to",
)  # fmt: skip
ENTRIES_MOST = 40


class Fuzzed(NamedTuple):
    """What came of plans with anything in them."""

    plans: int
    kept: int
    fives: int
    unreadable: int


class Fed(NamedTuple):
    """What came of files that are no plans."""

    files: int
    tracebacks: int
    slowest_s: float


def places(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Walk every place of a document."""
    yield path
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, it in inner:
        yield from places(it, (*path, key))


def spoiled(plan: Any, rng: random.Random) -> Any:
    """Change a plan in one to four places: another value, nothing, a new entry, something from elsewhere, another name."""
    plan = json.loads(json.dumps(plan))
    for _ in range(rng.choice((1, 1, 1, 2, 4))):
        every = [it for it in places(plan) if it]
        *way, last = rng.choice(every)
        here = plan
        for step in way:
            here = here[step]
        elsewhere = plan
        for step in rng.choice(every):
            elsewhere = elsewhere[step]
        match rng.randrange(8):
            case 0:
                here[last] = rng.choice(ODD)
            case 5 | 6 | 7:
                here[last] = near(here[last], rng)
            case 1:
                del here[last]
            case 2:
                here[last] = json.loads(json.dumps(elsewhere))
            case 3 if isinstance(here, dict) and len(here) < ENTRIES_MOST:
                here[rng.choice(("moon", "x", "", "a.b", "é", "board", "__class__", "0"))] = here[last]
            case _:
                here[last] = rng.choice(ODD) if isinstance(here, list) else {"kind": rng.choice(("led", "rgb", "board", "air"))}
    return plan


def near(value: Any, rng: random.Random) -> Any:
    """Change a value into one of its kind."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        return rng.choice((value * 10 ** rng.randint(-6, 6), -value, 0, 1, round(value)))
    if isinstance(value, str):
        return rng.choice((value + "x", value[:-1], value.upper(), "4k7", "1.9 (1.8 to 2.0)", "on", "\u202e" + value, "é" * 30))
    if isinstance(value, list):
        return rng.choice((value * 2, value[::-1], value[1:]))
    return {key: it for key, it in value.items() if rng.random() < 0.7} if isinstance(value, dict) else rng.choice(ODD)


def fuzz(folder: Path, count: int, seed: int = 1) -> Fuzzed:
    """Send spoiled plans; open, export and read again what is taken, and edit by spoiled patches."""
    rng, codes, kept, unreadable = random.Random(seed), Counter[int](), 0, 0
    whole = [demo_plan(), *(document(name) for name in PLANS)]
    with running_server(folder / "fuzzed.sqlite3") as address, caller(f"{address}/api/projects") as http:
        for _ in range(count):
            base = rng.choice(whole)
            answer = http.post("/import", json=spoiled(base, rng))
            codes[answer.status_code] += 1
            if answer.status_code != 201:
                continue
            state = answer.json()
            kept += 1
            out = http.get(f"/{state['id']}/plan")
            back = http.post("/import", json=out.json())
            unreadable += out.status_code != 200 or back.status_code != 201
            patch = {key: it for key, it in spoiled(base, rng).items() if rng.random() < 0.3} if isinstance(base, dict) else {}
            body = {"base_revision": state["revision"], "patch": patch}
            codes[http.post(f"/{state['id']}/edits", json=body).status_code] += 1
        codes[http.get("").status_code] += 1
    return Fuzzed(count, kept, sum(number for code, number in codes.items() if code >= 500), unreadable)


HOSTILE: dict[str, Callable[[], bytes]] = {
    "nothing": lambda: b"",
    "zeros": lambda: b"\0" * 100_000,
    "noise": lambda: os.urandom(100_000),
    "an open bracket": lambda: b"[" * 200_000,
    "deep": lambda: b'{"a":' * 100_000 + b"1" + b"}" * 100_000,
    "a number without end": lambda: b'{"format": "oddlamp-plan", "schema_version": ' + b"9" * 100_000 + b"}",
    "no number": lambda: b'{"format": "oddlamp-plan", "schema_version": NaN}',
    "two bytes a character": lambda: json.dumps(demo_plan()).encode("utf-16"),
    "a mark at its head": lambda: b"\xef\xbb\xbf" + json.dumps(demo_plan()).encode(),
    "half a character": lambda: b'{"format": "oddlamp-plan", "schema_version": 1, "title": "\\ud800"}',
    "colours for the terminal": lambda: json.dumps({**demo_plan(), "title": "\x1b[31mred\x07"}).encode(),
    "a key twice": lambda: b'{"title": 1, "title": "x", "format": "oddlamp-plan", "schema_version": 1}',
    "a list": lambda: b"[1, 2, 3]",
    "a plan of tomorrow": lambda: json.dumps({**demo_plan(), "schema_version": 99}).encode(),
    "a million keys": lambda: ("{" + ",".join(f'"k{n}": {n}' for n in range(1_000_000)) + "}").encode(),
    "larger than any plan": lambda: b'{"title": "' + b"x" * 25_000_000 + b'"}',
}


def feed(folder: Path, only: Collection[str] = ()) -> Fed:
    """Give the command line every hostile file, and a source that never ends: exit 2 or an answer, never a traceback."""
    tracebacks, slowest = 0, 0.0
    for name, make in ((name, HOSTILE[name]) for name in only or HOSTILE):
        path = folder / name.replace(" ", "-")
        path.write_bytes(make())
        for command in (["review", str(path)], ["rehearse", str(path), str(path)]):
            bad, took_s = run(command)
            tracebacks, slowest = tracebacks + bad, max(slowest, took_s)
    bad, took_s = (False, 0.0) if only else run(["review", "/dev/zero"])
    return Fed(len(only or HOSTILE) + (not only), tracebacks + bad, max(slowest, took_s))


def run(command: list[str]) -> tuple[bool, float]:
    """Run a command; tell whether it ended otherwise than it should, and how long it took."""
    begun = time.perf_counter()
    ran = subprocess.run([sys.executable, "-m", "oddlamp", *command], capture_output=True, timeout=PATIENCE_S, check=False)
    is_bad = ran.returncode not in (0, 1, 2) or b"Traceback" in ran.stderr or b"\x1b[31mred" in ran.stdout
    return is_bad, time.perf_counter() - begun
