"""Twenty clients at once, and an edit beside the slowest request that is allowed."""

import random
import statistics
import threading
import time
from collections import Counter
from collections.abc import Callable, Collection
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any, NamedTuple

import httpx

from oddlamp.catalog.load import demo_plan
from oddlamp.core.plan.document import merge_patch
from tests.abuse.writers import SHARED
from tests.conftest import caller, running_server

CLIENTS = 20
LAMPS_MOST = 2000


class Crowd(NamedTuple):
    """What twenty clients met."""

    edits: int
    fives: int
    others: int
    p95_s: float


def many_lamps(count: int) -> Any:
    """A plan with so many lamps, half of them through a MOSFET."""
    kinds = ({}, {"drive": {"school": "mosfet"}})
    return merge_patch(
        demo_plan(),
        {"lamps": {f"l{n}": {"kind": "led", "host": "board", "channels": {"main": {}}, **kinds[n % 2]} for n in range(count)}},
    )


def many_verdicts(count: int) -> Any:
    """The same, and every one of those lamps gets far too much."""
    low = {"channels": {"main": {"resistor_ohm": 10}}}
    return merge_patch(many_lamps(count), {"lamps": {f"l{n}": low for n in range(count)}})


def crowd(folder: Path, requests: int) -> Crowd:
    """Let every client do so many things in any order: edit, open, export, look along the shelf."""
    took_s: list[float] = []
    codes: Counter[int] = Counter()

    def work(address: str, number: int) -> None:
        rng = random.Random(number)
        with caller(address) as http:
            state = http.post("/api/projects/import", json={**SHARED, "title": f"Light {number}"}).json()
            at = f"/api/projects/{state['id']}"
            for _ in range(requests):
                kind = rng.choice(("edit", "edit", "edit", "open", "export", "shelf"))
                begun = time.perf_counter()
                if kind == "edit":
                    patch = {"lamps": {"lamp1": {"channels": {"main": {"resistor_ohm": rng.randint(100, 9999)}}}}}
                    answer = http.post(f"{at}/edits", json={"base_revision": state["revision"], "patch": patch})
                    took_s.append(time.perf_counter() - begun)
                    state = answer.json() if answer.status_code == 200 else state
                else:
                    answer = http.get({"open": at, "export": f"{at}/plan", "shelf": "/api/projects"}[kind])
                codes[answer.status_code] += 1

    with running_server(folder / "crowd.sqlite3") as address, ThreadPoolExecutor(CLIENTS) as pool:
        for done in [pool.submit(work, address, number) for number in range(CLIENTS)]:
            done.result()
    fives = sum(count for code, count in codes.items() if code >= 500)
    return Crowd(len(took_s), fives, codes.total() - codes[200] - fives, statistics.quantiles(took_s, n=20)[-1])


def slow_requests(http: httpx.Client, lamps: int = LAMPS_MOST) -> dict[str, Callable[[httpx.Client], httpx.Response]]:
    """The slowest things that may be asked: of as many lamps as a plan may have, or fewer."""
    plan = many_lamps(lamps - len(demo_plan()["lamps"]))
    state = http.post("/api/projects/import", json=plan).raise_for_status().json()
    at, on = f"/api/projects/{state['id']}", {"base_revision": state["revision"]}
    title = {**on, "patch": {"series": "E12"}, "stage": "lamps.l7"}
    verdicts = http.post(f"{at}/verdicts", json={**on, "patch": {}}).json()
    finding = next(it for it in verdicts if it["stage"].startswith("lamps."))
    where = {**on, "key": finding["key"]}
    return {
        "reading its file": lambda it: it.post("/api/projects/import", json=plan),
        "trying a change of all lamps": lambda it: it.post(f"{at}/trials", json=title),
        "keeping all": lambda it: it.post(f"{at}/keep", json=on),
        "all answers": lambda it: it.get(f"{at}/answers"),
        "what clears a verdict": lambda it: it.post(f"{at}/clearings", json=where),
        "exporting": lambda it: it.get(f"{at}/plan"),
        "a body of junk": lambda it: it.post(f"{at}/edits", json={**on, "patch": {}, **{f"k{n}": n for n in range(120_000)}}),
        "a plan of junk": lambda it: it.post("/api/projects/import", json={**plan, **{f"k{n}": n for n in range(60_000)}}),
        "a text of 1.4 kB": lambda it: it.post(
            f"{at}/trials",
            json={**on, "patch": {"lamps": {"l7": {"channels": {"main": {"resistor_ohm": "1 (" + " " * 1200 + "to"}}}}}},
        ),
    }


def edits_beside(folder: Path, only: Collection[str] = (), lamps: int = LAMPS_MOST) -> dict[str, tuple[float, float, int]]:
    """By request: how long it takes, the longest an edit of a small project took meanwhile, s, and how many edits there were."""
    found = {}
    with running_server(folder / "beside.sqlite3") as address, caller(address) as http:
        slow = slow_requests(http, lamps)
        state = http.post("/api/projects/import", json=SHARED).json()
        for name, ask in ((name, slow[name]) for name in only or slow):
            done = threading.Event()
            took: list[float] = []

            def other(ask: Any = ask, done: threading.Event = done, took: list[float] = took) -> None:
                begun = time.perf_counter()
                with caller(address) as mine:
                    status = ask(mine).status_code
                took.append(time.perf_counter() - begun)
                done.set()
                assert status < 500, status

            thread = threading.Thread(target=other)
            thread.start()
            edits = []
            while not done.is_set():
                patch = {"lamps": {"lamp1": {"channels": {"main": {"resistor_ohm": 100 + len(edits)}}}}}
                begun = time.perf_counter()
                answer = http.post(
                    f"/api/projects/{state['id']}/edits", json={"base_revision": state["revision"], "patch": patch}
                )
                edits.append(time.perf_counter() - begun)
                state = answer.raise_for_status().json()
            thread.join()
            found[name] = (took[0], max(edits, default=0.0), len(edits))
    return found
