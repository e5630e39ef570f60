"""How time, answers, memory and the file grow with a plan and with its edits."""

import cProfile
import gc
import time
from pathlib import Path
from typing import NamedTuple

from oddlamp.api.workshop import WorkedOut, with_stage
from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review_design
from tests.abuse.crowd import many_lamps
from tests.conftest import caller, start_server

COUNTS = (200, 500, 1000, 2000)
SPREAD_MOST = 1.5
OWN_LAMPS = 3  # of the demo


class Size(NamedTuple):
    """What a plan of so many lamps takes, by the lamp."""

    lamps: int
    us_a_lamp: float
    bytes_a_lamp: float


class Kept(NamedTuple):
    """What edits of a plan leave behind."""

    edits: int
    bytes_an_edit: float
    resident_mb: float
    answer_kb: float


def sizes(counts: tuple[int, ...] = COUNTS, times: int = 5) -> list[Size]:
    """Work plans of ever more lamps out, and answer with one stage: the least of some tries, by processor time."""
    catalog = load_catalog()
    plans = {count: load_plan(many_lamps(count - OWN_LAMPS)) for count in counts}
    least: dict[int, float] = {}
    held: dict[int, int] = {}
    gc.collect()
    gc.disable()  # the server's collector is set to wait; the tests' one would be timed instead of the review
    try:
        for _ in range(times):
            for count, plan in plans.items():  # in turns, because the machine is not always as fast
                begun = time.process_time()
                design = resolve(plan, catalog)
                made = WorkedOut(plan, design, review_design(design, stages=()))
                answer = with_stage(made, "lamps.l7").model_dump_json()
                least[count] = min(time.process_time() - begun, least.get(count, 1e9))
                held[count] = len(answer.encode())
            gc.collect()
    finally:
        gc.enable()
    return [Size(count, least[count] / count * 1e6, held[count] / count) for count in counts]


def calls_a_lamp(count: int) -> float:
    """Count what is called to work a plan out and answer, by the lamp: the same on a busy machine as on an idle one."""
    catalog, plan = load_catalog(), load_plan(many_lamps(count - OWN_LAMPS))
    with cProfile.Profile() as profile:
        design = resolve(plan, catalog)
        with_stage(WorkedOut(plan, design, review_design(design, stages=())), "lamps.l7").model_dump_json()
    return sum(it.callcount for it in profile.getstats()) / count


def edits(folder: Path, count: int, lamps: int) -> Kept:
    """Edit a plan again and again: what the file grows by, what the server holds, the largest answer."""
    database = folder / "grown.sqlite3"
    process, address = start_server(database)
    try:
        with caller(f"{address}/api/projects") as http:
            project = http.post("/import", json=many_lamps(lamps)).json()
            before, most, revision = written(database), 0, project["revision"]
            for n in range(count):
                patch = {"lamps": {"l7": {"channels": {"main": {"resistor_ohm": 200 + n}}}}}
                body = {"base_revision": revision, "patch": patch, "stage": "lamps.l7"}
                answer = http.post(f"/{project['id']}/edits", json=body).raise_for_status()
                revision, most = answer.json()["revision"], max(most, len(answer.content))
            for stage in answer.json()["review"]["titles"]:
                most = max(most, len(http.get(f"/{project['id']}", params={"stage": stage}).content))
        held = resident_mb(process.pid)
    finally:
        process.terminate()
        process.wait()
    return Kept(count, (written(database) - before) / count, held, most / 1000)


def written(database: Path) -> int:
    """The bytes of a database with its log."""
    return sum(it.stat().st_size for it in database.parent.glob(f"{database.name}*") if not it.name.endswith("-shm"))


def resident_mb(process: int) -> float:
    """Resident memory of a process, MB."""
    status = Path(f"/proc/{process}/status").read_text(encoding="utf-8")
    return int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1]) / 1024
