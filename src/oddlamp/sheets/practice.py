"""The practice bench as it is shown: what was seen, where the probes can go, what can be tried, and how it went."""

from collections.abc import Sequence

from pydantic import Field

from oddlamp.core.base import Model
from oddlamp.core.bench.circuit import Tap
from oddlamp.core.bench.wiring import told_pin
from oddlamp.core.english import inner, plural
from oddlamp.core.finding.find import features
from oddlamp.core.finding.knowledge import PLACES, Need
from oddlamp.core.finding.practice import LEVELS, MEND, Path, Probe, Round, Shown
from oddlamp.sheets.whys import Worded, minutes_text

LEADS_MOST = 3
POINT = "/"


class PointShown(Model):
    """A place for a probe: a pin of a part."""

    id: str
    pin: str


class PartShown(Model):
    """A part on the bench with its pins."""

    id: str
    label: str
    points: tuple[PointShown, ...]


class TryShown(Model):
    """Something that can be looked at, tried or swapped, and what it takes, minutes."""

    id: str
    do: str
    minutes: float
    needs: tuple[Need, ...]


class Group(Model):
    """Causes at one place."""

    where: str
    causes: tuple[Worded, ...]


class RoundShown(Model):
    """A round as it begins."""

    plan: str
    level: str
    seed: int
    lamp: str
    told: str = Field(description="What is seen, in the maker's words")
    things: int = Field(description="How many things are wrong")
    parts: tuple[PartShown, ...]
    tries: tuple[TryShown, ...]
    groups: tuple[Group, ...]


class ProbeShown(Model):
    """What a probe showed, and what it took."""

    text: str
    minutes: float
    is_over: bool


class ProbeTold(Model):
    """A probe at the end of a round: what it showed, what it would show with nothing wrong, and what it could have told."""

    do: str
    text: str
    right: str
    could_tell: str
    minutes: float


class RoundEnded(Model):
    """How a round went."""

    is_right: bool
    sentence: str
    wrong: tuple[Worded, ...] = Field(description="What was wrong, and what mends it")
    minutes: float
    best_minutes: float
    probes: tuple[ProbeTold, ...]
    best: tuple[ProbeTold, ...]


def tap_of(text: str) -> Tap | None:
    """Read a point as it is told: part, then pin."""
    piece, _, pin = text.rpartition(POINT)
    return Tap(piece, pin) if piece else None


def round_shown(it: Round, plan: str, level: int, seed: int) -> RoundShown:
    """Show a round as it begins: never what is wrong."""
    way, known = it.way, it.known
    by_part: dict[str, list[Tap]] = {}
    for tap in it.points:
        by_part.setdefault(tap.piece, []).append(tap)
    parts = tuple(
        PartShown(id=name, label=_called(it, name), points=tuple(PointShown(id=f"{name}{POINT}{tap.pin}", pin=told_pin(way.circuit.pieces[name], tap.pin)) for tap in taps))
        for name, taps in by_part.items()
    )  # fmt: skip
    tries = tuple(
        TryShown(id=name, do=known.test[name].do, minutes=known.test[name].minutes, needs=known.test[name].needs)
        for name in it.tests
    )
    groups = tuple(
        Group(
            where=words,
            causes=tuple(
                Worded(id=name, words=known.cause[name].what) for name in it.choices if known.cause[name].where == place
            ),
        )
        for place, words in PLACES.items()
        if any(known.cause[name].where == place for name in it.choices)
    )
    told = it.said(it.build())
    told = f"{told[0].upper()}{told[1:]}."
    return RoundShown(plan=plan, level=LEVELS[level], seed=seed, lamp=way.lamp.label, told=told, things=len(it.causes), parts=parts, tries=tries, groups=groups)  # fmt: skip


def _called(it: Round, name: str) -> str:
    of = it.way.of
    return of.part(name) if name in of.designators else of.names[name]


def probe_shown(it: Round, probe: Probe, before: Sequence[Probe]) -> ProbeShown:
    """Show what a probe shows."""
    shown = it.probed(probe, before)
    return ProbeShown(text=shown.text, minutes=shown.minutes, is_over=shown.is_over)


def _told(it: Round, probe: Probe, shown: Shown) -> ProbeTold:
    known = it.known
    if probe.what in ("volts", "ohms"):
        assert probe.red is not None
        assert probe.black is not None
        where = (
            f"{'Volts' if probe.what == 'volts' else 'Ohms'} from {it.way.of.name(probe.red)} to {it.way.of.name(probe.black)}"
        )
        could = "It is as it would be with nothing wrong." if shown.text == shown.right else "That is not as it would be: something on this way is wrong."  # fmt: skip
        return ProbeTold(do=where, text=shown.text, right=shown.right, could_tell=could, minutes=shown.minutes)
    if probe.what == MEND:
        do = f"Mended: {inner(known.cause[probe.cause].what)}"
        return ProbeTold(do=do, text=shown.text, right="", could_tell="", minutes=shown.minutes)
    test = known.test[probe.what]
    outcome = next(name for name, words in test.outcomes.items() if words == shown.text)
    there = features(it.way)
    told = [known.cause[name].what for name in it.choices if outcome in test.given(name, there)]
    if outcome == test.usual:
        others = {name for name in it.choices if test.usual not in test.given(name, there)}
        against = plural(len(others), "cause")
        could = f"It speaks against {against}." if others else "It tells nothing here."
    else:
        more = f", and {len(told) - LEADS_MOST} more" if len(told) > LEADS_MOST else ""
        could = f"It speaks for: {'; '.join(told[:LEADS_MOST])}{more}."
    return ProbeTold(do=test.do, text=shown.text, right=shown.right, could_tell=could, minutes=shown.minutes)


def round_ended(it: Round, probes: Sequence[Probe]) -> RoundEnded:
    """Tell how a round went: whether all of it was mended, the minutes beside the finder's own, and what each probe could have told."""
    known, shown = it.known, [it.probed(probe, probes[:at]) for at, probe in enumerate(probes)]
    minutes, path = sum(each.minutes for each in shown), it.best()
    best_minutes = sum(each.minutes for each in path)
    is_right = not it.build(probes).broken.each
    beside = f"{minutes_text(minutes)}; the finder takes {minutes_text(best_minutes)}."
    return RoundEnded(
        is_right=is_right,
        sentence=f"{'Found and mended' if is_right else 'Not found'}: {beside}",
        wrong=tuple(Worded(id=known.cause[name].what, words=known.cause[name].mend) for name in it.causes),
        minutes=minutes,
        best_minutes=best_minutes,
        probes=tuple(_told(it, probe, each) for probe, each in zip(probes, shown, strict=True)),
        best=tuple(_step(it, each) for each in path),
    )


def _step(it: Round, step: Path) -> ProbeTold:
    known = it.known
    if step.test == MEND:
        return ProbeTold(do="Mend it", text=inner(known.cause[step.outcome].what), right="", could_tell="", minutes=step.minutes)
    test = known.test[step.test]
    return ProbeTold(do=test.do, text=test.outcomes[step.outcome], right="", could_tell="", minutes=step.minutes)
