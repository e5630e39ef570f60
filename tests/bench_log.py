"""How fast a log of ten thousand entries is searched, and how long an archive of a hundred photos is in coming."""

import random
import statistics
import time
from io import BytesIO
from pathlib import Path
from typing import NamedTuple

import httpx
from PIL import Image
from sqlalchemy import insert

from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.entries import KINDS, Entry, sought
from oddlamp.photos.developing import develop
from oddlamp.store.database import open_database
from oddlamp.store.models import EntryRow
from oddlamp.store.projects import ProjectStore
from tests.builders import CLEAR
from tests.conftest import running_server

ENTRIES = 10_000
PHOTOS = 100
WORDS = [
    "divider",
    "solder",
    "moon",
    "glue",
    "warm",
    "café",
    "wire",
    "cut",
    "board",
    "module",
    "ground",
    "socket",
    "reading",
    "lamp",
    "again",
    "loose",
]
TYPED = ("m", "mo", "moon", "moon caf", "moon cafe gl", "socket 77", "nothing like it")


class LogBench(NamedTuple):
    """Seconds to search, at the median and at worst, and to fetch an archive of so many megabytes."""

    search_s: float
    worst_s: float
    archive_s: float
    archive_mb: float


def long_log(store: ProjectStore, project: str, revision: int) -> list[dict[str, object]]:
    """Return the rows of a long log, four days of notes and years of them alike."""
    rng, rows = random.Random(1), []
    for number in range(ENTRIES):
        kind = rng.choice(tuple(KINDS))
        said = Entry(kind=kind, text=f"{' '.join(rng.choices(WORDS, k=18))} {number}", stage_label="Hook-up", minutes=5, cost=1.1)
        at = f"20{16 + number // 1000}-{number // 90 % 12 + 1:02}-{number // 4 % 27 + 1:02}T10:{number % 60:02}:00.000Z"
        found = sought(kind, said.text, said.stage_label, ())
        rows.append({"project_id": project, "uid": f"{number:016x}", "revision_id": revision, "made_at": at, "version": 0, "uses": ["part:x"], "sought": found, **said.model_dump()})  # fmt: skip
    return rows


def log_bench(folder: Path) -> LogBench:
    """Measure over HTTP, on a server that has just started."""
    engine = open_database(folder / "log.sqlite3")
    store = ProjectStore(engine)
    made = store.create(load_plan(CLEAR), summary="Begun")
    with engine.begin() as connection:
        connection.execute(insert(EntryRow), long_log(store, made.id, made.revision))
    album = store.create(load_plan(CLEAR), summary="Begun")
    noise, out = Image.effect_noise((2048, 1536), 40).convert("RGB"), BytesIO()
    noise.save(out, "JPEG", quality=90)
    photo = develop([out.getvalue()])[0]
    for number in range(PHOTOS):
        if number % 10 == 0:
            entry = store.log.write(album.id, Entry(kind="built", text=f"Evening {number}"), ())
        store.log.add_photo(album.id, entry.id, photo, f"Photo {number}")
    store.close()
    with running_server(folder / "log.sqlite3") as address, httpx.Client(base_url=address, timeout=60) as http:
        took = []
        for typed in TYPED * 5:
            begun = time.perf_counter()
            assert http.get(f"/api/projects/{made.id}/log", params={"find": typed}).status_code == 200
            took.append(time.perf_counter() - begun)
        begun, size = time.perf_counter(), 0
        with http.stream("GET", f"/api/projects/{album.id}/archive") as answer:
            for piece in answer.iter_bytes():
                size += len(piece)
        return LogBench(statistics.median(took), max(took), time.perf_counter() - begun, size / 1e6)
