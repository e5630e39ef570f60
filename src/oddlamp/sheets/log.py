"""The log as a screen shows it, and as files: what was written beside what was changed, found by typing, with its sums."""

from collections.abc import Iterable, Iterator, Sequence
from heapq import merge
from itertools import groupby, islice
from operator import attrgetter
from typing import Final, Literal, cast

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.bench.tables import Rows, as_csv, as_text
from oddlamp.core.english import and_list, plural
from oddlamp.core.plan.entries import KINDS, EntrySum, Kind, Logged

PAGE: Final = 40
RUN_MOST: Final = 30  # changes of a run that an answer tells
Filter = Literal["built", "measured", "changed", "fault", "fixed", "idea", "next_time", "rehearsed", "plan", "thrown"]
FILTERS: Final[tuple[tuple[Filter, str], ...]] = (*KINDS.items(), ("rehearsed", "rehearsed"), ("plan", "changes of the plan"), ("thrown", "thrown away"))  # fmt: skip
DEEDS: Final = {"built": "wire in or out", "measured": "reading", "changed": "change of the plan", "rehearsed": "take"}
DEEDS_MANY: Final = {"built": "wires in or out", "measured": "readings", "changed": "changes of the plan", "rehearsed": "takes"}
CSV_HEAD: Final = ["When (UTC)", "What", "Stage", "Text", "Minutes", "Cost", "Change", "Photos"]


class PhotoShown(Model):
    """A photo of an entry; ``alt`` tells it to who can't see it, empty where nobody has yet."""

    id: int
    alt: str
    width_px: int
    height_px: int


class EntryShown(Model):
    """Something that was written in the log."""

    what: Literal["entry"] = "entry"
    id: str
    made_at: str
    kind: Kind
    label: str
    text: str
    stage: str | None
    stage_label: str
    minutes: int | None
    cost: float | None
    took: str = Field(description="Its minutes and its cost as people read them; empty where none is told")
    number: int = Field(description="The change of the plan it was written at")
    version: int
    is_thrown: bool
    has_before: bool = Field(description="Whether what it said before its last change is kept")
    photos: tuple[PhotoShown, ...]
    thrown_photos: tuple[PhotoShown, ...] = ()


class DeedShown(Model):
    """A change of the plan, or a take that was kept, in words."""

    made_at: str
    text: str
    number: int


class RunShown(Model):
    """What was done one after the other, with nothing written between, of one kind and on one day."""

    what: Literal["run"] = "run"
    id: str
    kind: str
    sentence: str
    deeds: tuple[DeedShown, ...]
    more: int = Field(description="How many of them stay out; the history has all")


class SumShown(Model):
    """What entries took together: of one kind, or at one stage."""

    label: str
    count: int
    took: str


class CountShown(Model):
    """How much there is of one kind, to look at it alone."""

    id: Filter
    label: str
    count: int


class LogShown(Model):
    """A page of the log, the newest first."""

    sentence: str
    detail: str
    rows: tuple[EntryShown | RunShown, ...]
    has_more: bool = Field(description="Whether more comes after this page")
    kinds: tuple[CountShown, ...]
    sums: tuple[SumShown, ...] = Field(description="By stage, the longest first; empty where there is only one")


def _filter_of(kind: str, what: str) -> Filter:
    """Tell under which filter something is found that is not thrown away."""
    return "plan" if what == "change" and kind == "changed" else cast(Filter, kind)


def sums_of(entries: Iterable[Logged]) -> tuple[EntrySum, ...]:
    """Add entries up, of each kind at each stage; money in hundredths, so that sums are exact."""
    found: dict[tuple[Kind, bool, str], list[Logged]] = {}
    for it in entries:
        found.setdefault((cast(Kind, it.kind), it.is_thrown, it.stage_label), []).append(it)
    return tuple(
        EntrySum(
            *key, len(held), sum(it.minutes or 0 for it in held), sum(round((it.cost or 0) * 100) for it in held),
            sum(it.minutes is not None for it in held), sum(it.cost is not None for it in held),
        )
        for key, held in sorted(found.items())
    )  # fmt: skip


def log_shown(
    entries: Iterable[Logged],
    deeds: Iterable[Logged],
    sums: Iterable[EntrySum],
    only: Filter | None = None,
    skip: int = 0,
    *,
    is_part: bool = False,
) -> LogShown:
    """Show a page of a log.

    Args:
        entries: of what is looked at, the newest first; no more than ``rows_wanted`` are needed.
        deeds: changes and takes, the newest first.
        sums: all entries added up, those of other kinds and those thrown away included.
        only: of which kind; all but what was thrown away where left out.
        skip: how many rows before the page.
        is_part: whether they are only those that hold what was typed.
    """
    held, done = list(sums), list(deeds)
    told = [it for it in held if it.is_thrown == (only == "thrown") and only in (None, "thrown", it.kind)]
    found = [it for it in done if only is None or _filter_of(it.kind, it.what) == only]
    counts: dict[Filter, int] = {}
    for name, count in [*(("thrown" if it.is_thrown else _filter_of(it.kind, "entry"), it.entries) for it in held), *((_filter_of(it.kind, it.what), 1) for it in done)]:  # fmt: skip
        counts[name] = counts.get(name, 0) + count
    rows = list(islice(_rows(merge(entries, found, key=attrgetter("made_at"), reverse=True)), skip + PAGE + 1))
    return LogShown(
        sentence=_sentence(told, is_part or only is not None),
        detail=_detail(found),
        rows=tuple(entry_shown(it) if isinstance(it, Logged) else _run(it) for it in rows[skip : skip + PAGE]),
        has_more=len(rows) > skip + PAGE,
        kinds=tuple(CountShown(id=name, label=label, count=counts[name]) for name, label in FILTERS if name in counts),
        sums=tuple(_by_stage(told)),
    )


def rows_wanted(skip: int) -> int:
    """Return how many entries a page may need: each is a row, so that no more can be on it or before it."""
    return skip + PAGE + 1


def _rows(found: Iterable[Logged]) -> Iterator[Logged | list[Logged]]:
    """Yield entries, and deeds of one kind and day that follow one another together."""
    for key, run in groupby(found, key=lambda it: (it.id,) if it.what == "entry" else (it.kind, it.made_at[:10])):
        if len(key) == 1:
            yield from run
        else:
            yield list(run)


def _run(run: list[Logged]) -> RunShown:
    kind = run[0].kind
    told = plural(len(run), DEEDS[kind], DEEDS_MANY[kind])
    deeds = tuple(DeedShown(made_at=it.made_at, text=it.text, number=it.number) for it in run[:RUN_MOST])
    return RunShown(id=f"{run[0].what}-{run[0].id}", kind=kind, sentence=told, deeds=deeds, more=len(run) - len(deeds))


def entry_shown(it: Logged) -> EntryShown:
    """Show one entry."""
    photos = {is_thrown: tuple(PhotoShown(id=photo.id, alt=photo.alt, width_px=photo.width_px, height_px=photo.height_px) for photo in it.photos if photo.is_thrown is is_thrown) for is_thrown in (False, True)}  # fmt: skip
    return EntryShown(
        id=it.id, made_at=it.made_at, kind=cast(Kind, it.kind), label=_label(it), text=it.text, stage=it.stage,
        stage_label=it.stage_label, minutes=it.minutes, cost=it.cost, took=took(sums_of([it])), number=it.number, version=it.version,
        is_thrown=it.is_thrown, has_before=it.has_before, photos=photos[False], thrown_photos=photos[True],
    )  # fmt: skip


def took(sums: Iterable[EntrySum]) -> str:
    """Say how long entries took and what they cost together; empty where none tells."""
    held = list(sums)
    hundredths = sum(it.hundredths for it in held)
    told = [time_told(sum(it.minutes for it in held))] if any(it.timed for it in held) else []
    told += [f"{hundredths // 100}.{hundredths % 100:02}"] if any(it.costed for it in held) else []
    return and_list(told)


def time_told(minutes: int) -> str:
    """Write minutes as people say them: ``1 h 20 min``."""
    hours, rest = divmod(minutes, 60)
    return " ".join([*([f"{hours} h"] if hours else []), *([f"{rest} min"] if rest or not hours else [])])


def _sentence(told: list[EntrySum], is_part: bool) -> str:
    count, spent = sum(it.entries for it in told), took(told)
    if not count:
        return "Nothing of that is written." if is_part else "Nothing is written yet."
    return f"{plural(count, 'entry', 'entries')}{f': {spent}' if spent else ''}{'' if is_part or not spent else ' so far'}."


def _detail(deeds: list[Logged]) -> str:
    counts = {kind: sum(it.kind == kind for it in deeds) for kind in DEEDS}
    told = [plural(count, DEEDS[kind], DEEDS_MANY[kind]) for kind, count in counts.items() if count]
    return f"Beside them {and_list(told)}." if told else ""


def _by_stage(told: list[EntrySum]) -> Iterator[SumShown]:
    by_stage: dict[str, list[EntrySum]] = {}
    for it in told:
        by_stage.setdefault(it.stage_label or "The whole project", []).append(it)
    if len(by_stage) > 1:
        longest = sorted(by_stage.items(), key=lambda pair: -sum(it.minutes for it in pair[1]))
        yield from (SumShown(label=label, count=sum(it.entries for it in held), took=took(held)) for label, held in longest if took(held))  # fmt: skip


def log_csv(entries: Iterable[Logged], deeds: Iterable[Logged]) -> str:
    """Write entries, changes and takes as a table, the oldest first."""
    rows: Rows = [
        [
            it.made_at, _label(it), it.stage_label, it.text, "" if it.minutes is None else str(it.minutes),
            "" if it.cost is None else f"{it.cost:.2f}", str(it.number), "; ".join(photo.alt or "not described" for photo in it.photos if not photo.is_thrown),
        ]
        for it in _in_order(entries, deeds)
    ]  # fmt: skip
    return as_csv(CSV_HEAD, rows)


def _in_order(entries: Iterable[Logged], deeds: Iterable[Logged]) -> list[Logged]:
    kept = [it for it in entries if not it.is_thrown]
    return list(reversed(list(merge(kept, deeds, key=attrgetter("made_at"), reverse=True))))


def _label(it: Logged) -> str:
    return KINDS[it.kind] if it.what == "entry" and it.kind != "rehearsed" else DEEDS[it.kind]


def log_markdown(title: str, entries: Sequence[Logged], deeds: Sequence[Logged]) -> str:
    """Write a log as text to read, day by day, the oldest first; what people typed cannot become markup."""
    shown = log_shown((), deeds, sums_of(entries))
    lines = [f"# {as_text(title)}: log", "", f"{shown.sentence} {shown.detail}".strip()]
    for day, held in groupby(_in_order(entries, deeds), key=lambda it: it.made_at[:10]):
        lines += ["", f"## {day}", ""]
        for row in _rows(held):
            if not isinstance(row, Logged):
                lines += [f"- {row[0].made_at[11:16]} {plural(len(row), DEEDS[row[0].kind], DEEDS_MANY[row[0].kind])}: " + "; ".join(as_text(it.text) for it in row)]  # fmt: skip
                continue
            spent = took(sums_of([row]))
            head = ", ".join([f"{row.made_at[11:16]} **{_label(row)}**", *([as_text(row.stage_label)] if row.stage_label else []), *([spent] if spent else [])])  # fmt: skip
            lines += [f"- {head}: {as_text(row.text)}"]
            lines += [f"    - photo: {as_text(photo.alt) or 'not described'}" for photo in row.photos if not photo.is_thrown]
    return "\n".join(lines) + "\n"
