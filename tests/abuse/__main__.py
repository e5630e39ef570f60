"""All of the abuse, whole, with figures: ``make abuse``; ``python -m tests.abuse kills 200`` for one of it."""

import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from tests.abuse.crowd import crowd, edits_beside
from tests.abuse.damage import damage
from tests.abuse.fuzz import feed, fuzz
from tests.abuse.growth import SPREAD_MOST, edits, sizes
from tests.abuse.kills import freeze, kill

BESIDE_MOST_S = 0.3
EDIT_MOST_S = 1.0
HELD_MOST_MB = 250.0
SLOW_FILE_MOST_S = 10.0
# What is measured, in words, and whether it is as it should be.
Row = tuple[str, bool]


def kills(folder: Path, count: int) -> Iterator[Row]:
    it = kill(folder, count)
    yield f"{it.rounds:,} kills under five writers: {it.acknowledged:,} edits said to be kept, {it.lost} lost", it.lost == 0
    yield f"    answers of 5xx: {it.fives}", it.fives == 0


def copies(folder: Path, count: int) -> Iterator[Row]:
    it = freeze(folder, count)
    yield f"{it.rounds} frozen copies under five writers: {it.acknowledged:,} edits in the last, {it.lost} lost", it.lost == 0
    yield f"    answers of 5xx: {it.fives}", it.fives == 0


def clients(folder: Path, count: int) -> Iterator[Row]:
    it = crowd(folder, count)
    yield f"20 clients: {it.edits:,} edits, 5xx {it.fives}, others refused {it.others}", it.fives + it.others == 0
    yield f"    an edit at the 95th percentile: {it.p95_s * 1000:.0f} ms", it.p95_s < EDIT_MOST_S


def beside(folder: Path, _count: int) -> Iterator[Row]:
    for name, (took_s, most_s, count) in edits_beside(folder).items():
        yield f"beside {name} ({took_s:.1f} s): an edit at most {most_s * 1000:.0f} ms of {count}", most_s < BESIDE_MOST_S


def fuzzed(folder: Path, count: int) -> Iterator[Row]:
    it = fuzz(folder, count)
    yield f"{it.plans:,} spoiled plans: {it.kept:,} taken, 5xx {it.fives}, not read back {it.unreadable}", it.fives + it.unreadable == 0  # fmt: skip


def hostile(folder: Path, _count: int) -> Iterator[Row]:
    it = feed(folder)
    yield f"{it.files} hostile files on the command line: tracebacks {it.tracebacks}", it.tracebacks == 0
    yield f"    the slowest: {it.slowest_s:.1f} s", it.slowest_s < SLOW_FILE_MOST_S


def damaged(folder: Path, count: int) -> Iterator[Row]:
    it = damage(folder, count)
    told = f"{it.starts} starts on damaged files: {it.served} served, {it.refused} refused in one sentence"
    yield f"{told}, otherwise {it.otherwise}, errors without a word {it.fives}", it.otherwise + it.fives == 0


def growth(folder: Path, count: int) -> Iterator[Row]:
    found = sizes()
    for it in found:
        yield f"{it.lamps:,} lamps: {it.us_a_lamp:.0f} us and {it.bytes_a_lamp:.0f} bytes of answer a lamp", True
    for name in ("us_a_lamp", "bytes_a_lamp"):
        every = [getattr(it, name) for it in found]
        ratio = max(every) / every[0]
        yield f"    {name.replace('_', ' ')} grow by {ratio:.2f}", ratio < SPREAD_MOST
    kept = edits(folder, count, 200)
    yield f"{kept.edits} edits of 200 lamps: {kept.bytes_an_edit / 1000:.1f} kB of file an edit, answers up to {kept.answer_kb:.0f} kB", True  # fmt: skip
    yield f"    held in memory: {kept.resident_mb:.0f} MB", kept.resident_mb < HELD_MOST_MB


WHOLE: dict[str, tuple[Callable[[Path, int], Iterator[Row]], int]] = {
    "growth": (growth, 300),
    "clients": (clients, 100),
    "beside": (beside, 0),
    "hostile": (hostile, 0),
    "damaged": (damaged, 100),
    "fuzzed": (fuzzed, 7000),
    "copies": (copies, 110),
    "kills": (kills, 1000),
}


def main() -> None:
    """Run what is named, or all, and end with 1 where something is not as it should be."""
    asked = sys.argv[1:2] or list(WHOLE)
    bad = 0
    for name in asked:
        work, usual = WHOLE[name]
        begun = time.monotonic()
        with tempfile.TemporaryDirectory() as folder:
            for told, is_right in work(Path(folder), int(sys.argv[2]) if len(sys.argv) > 2 else usual):
                bad += not is_right
                print(f"{told}{'' if is_right else '   MISSED'}", flush=True)
        print(f"    ({name}: {time.monotonic() - begun:.0f} s)", flush=True)
    sys.exit(1 if bad else 0)


if __name__ == "__main__":
    main()
