"""The score of light: a cue as threads over time, one for each lamp, and what moves its steps."""

from collections.abc import Sequence
from typing import Annotated, Any, Final, Literal

from pydantic import Field

from oddlamp.core.base import Model, first_free, si
from oddlamp.core.behaviour.arithmetic import LADDER_TOP, seen_light
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.course import Shown, course_of
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.english import plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import Document, at_path
from oddlamp.core.plan.lights import COLOUR_KINDS, PIXEL_KINDS
from oddlamp.core.plan.rules import CUE_MOST, LONGEST_S, Cue
from oddlamp.core.plan.signals import label_of, told_by
from oddlamp.core.rehearsal.trace import LampPoint, PixelPoint, Trace
from oddlamp.sheets.charts import Tick, ticks
from oddlamp.sheets.journeys import looks_of
from oddlamp.sheets.models import Entry, Knot, Score, Thread

THREADS_MOST: Final = 24
KNOTS_MOST: Final = 200
GRID_S: Final = 0.001
FIRST_S: Final = 0.5  # how long after the last one a step is added
SHADES: Final = ("red", "green", "blue")


class MoveStep(Model):
    """A step comes at another time, from the beginning of its cue on; the others stay where they are."""

    kind: Literal["move"]
    step: Annotated[int, Field(ge=0, lt=CUE_MOST)]
    at_s: Annotated[float, Field(ge=0, le=LONGEST_S)]


class BrightenStep(Model):
    """A step sets its lamps brighter, or darker."""

    kind: Literal["brighten"]
    step: Annotated[int, Field(ge=0, lt=CUE_MOST)]
    by_ratio: Annotated[float, Field(ge=-1, le=1)]


class AddStep(Model):
    """One more step, for a lamp or a group, at a time; half a second after the last one where none is told."""

    kind: Literal["add"]
    target: Annotated[str, Field(max_length=40)]
    at_s: Annotated[float, Field(ge=0, le=LONGEST_S)] | None = None


class RemoveStep(Model):
    """A step goes; the others keep their times."""

    kind: Literal["remove"]
    step: Annotated[int, Field(ge=0, lt=CUE_MOST)]


class CopyThread(Model):
    """All steps of one lamp for another one too, in the place of its own."""

    kind: Literal["copy"]
    source: Annotated[str, Field(max_length=40)]
    to: Annotated[str, Field(max_length=40)]


class EndRound(Model):
    """A cue that loops comes round after another time."""

    kind: Literal["round"]
    at_s: Annotated[float, Field(ge=0.02, le=LONGEST_S)]


ScoreEdit = Annotated[MoveStep | BrightenStep | AddStep | RemoveStep | CopyThread | EndRound, Field(discriminator="kind")]


class Scored(Model):
    """What becomes of a cue: the edit, and where the step that was touched is then; None where none is."""

    move: Move
    step: int | None
    target: str = ""
    at_s: float = 0.0


def scores_of(design: Design, host: str) -> tuple[Score, ...]:
    """Lay out every cue that a host plays, and those that set nothing yet."""
    found = list[Score]()
    for name, cue in design.plan.cues.items():
        hosts = {told_by(design.plan, design.lamps[it].host) for step in cue.steps for it in design.targets(step.target)}
        if not hosts or host in hosts:
            found.append(_score(design, host, name, cue))
    return tuple(found)


def targets_of(design: Design, host: str) -> dict[str, str]:
    """Return the names of what a step may set, by id: lamps of a host and groups; none where there is no cue."""
    if not design.plan.cues:
        return {}
    lamps = {it.id: it.label for it in design.lamps.values() if told_by(design.plan, it.host) == host}
    return lamps | {key: label_of(it.label, key) for key, it in design.plan.groups.items()}


def times_of(cue: Cue) -> list[float]:
    """Return when each step comes, s, from the beginning of its cue: of one that loops the first one at once."""
    at, found = 0.0, list[float]()
    for index, step in enumerate(cue.steps):
        at += 0.0 if not index and cue.loop else step.after_s
        found.append(round(at, 6))
    return found


def _score(design: Design, host: str, name: str, cue: Cue) -> Score:
    label = label_of(cue.label, name)
    ends_ms, course = course_of(program_of(design, host), name)
    times, whole_s = times_of(cue), max(ends_ms / 1000, 0.001)
    looks = looks_of(design, _as_trace(design, host, course), is_drawn=False)
    threads = list[Thread]()
    for lamp_id in list(course)[:THREADS_MOST]:
        lamp = design.lamps[lamp_id]
        mine = [at for at, step in enumerate(cue.steps) if lamp_id in design.targets(step.target)]
        knots = tuple(_knot(design, cue, at, times[at]) for at in mine[:KNOTS_MOST])
        groups = tuple(key for key, it in design.plan.groups.items() if lamp_id in it.members)
        threads.append(Thread(lamp=lamp_id, label=lamp.label, within=groups, looks=looks.get(lamp.stage, ()), knots=knots))
    how = "over and over" if cue.loop else "once"
    return Score(
        cue=name,
        label=label,
        sentence=_takes(label, ends_ms, how) if cue.steps else f"{label} has no steps yet.",
        loops=bool(cue.loop),
        whole_s=whole_s,
        round_s=ends_ms / 1000 if cue.loop and cue.steps else None,
        ticks=tuple(Tick(at=it.at, text=it.text) for it in ticks(whole_s, lambda s: si(s, "s"))),
        threads=tuple(threads),
        hidden=max(0, len(course) - THREADS_MOST),
        entries=(
            Entry(
                label="Name", text=label, path=("cues", name, "label"), origin="own" if cue.label else "proposed",
                settles=None if cue.label else label,
            ),
        ),
        moves=(
            Move(label="Let it play once" if cue.loop else "Let it loop", patch=at_path(("cues", name, "loop"), None if cue.loop else True)),
            Move(label=f"Take {label} out", patch=design.taking_out.without([("cues", name)])),
        ),
    )  # fmt: skip


def _takes(label: str, ends_ms: int, how: str) -> str:
    return f"{label} takes {si(ends_ms / 1000, 's')}, {how}." if ends_ms else f"{label} is there at once."


def _as_trace(design: Design, host: str, course: dict[str, list[Shown]]) -> Trace:
    """Write the light of lamps as a rehearsal does, so that it is drawn by the same rules: each as bright as it is meant."""
    specs = program_of(design, host).lamps
    points, pixels = dict[str, tuple[LampPoint, ...]](), dict[str, tuple[PixelPoint, ...]]()
    for lamp_id, shown in course.items():
        lamp, spec = design.lamps[lamp_id], specs[lamp_id]
        if spec.is_chain:
            pixels[lamp_id] = tuple(PixelPoint(it.at_ms / 1000, bytes(map(spec.shown, it.light)).hex()) for it in shown)
            continue
        wanted = {it.signal_id: it.wanted.known for it in lamp.channels} or {f"{lamp_id}.main": _load_a(lamp.load)}
        for at, (signal, wanted_a) in enumerate(wanted.items()):
            shares = [(it.at_ms, spec.shown(it.light[min(at, len(it.light) - 1)]) / LADDER_TOP) for it in shown if it.light]
            points[signal] = tuple(LampPoint(at_ms / 1000, share * wanted_a, seen_light(share)) for at_ms, share in shares)
    return Trace.model_construct(
        events=(), lamps=points, pixels=pixels, shows={}, pins={}, said={}, answered=(), ends_at_s=0.0, is_cut_short=False
    )


def _load_a(load: Any) -> float:
    return float((load.current.value if load is not None else None) or 1.0)


def _knot(design: Design, cue: Cue, at: int, at_s: float) -> Knot:
    step = cue.steps[at]
    level = "" if step.level is None else f" to {si(step.level, 'ratio')}"
    shares = {name: it for name in SHADES if (it := getattr(step, name)) is not None}
    colour = "".join(f" {name} {si(it, 'ratio')}" for name, it in shares.items())
    fade = f", over {si(step.fade_s, 's')}" if step.fade_s else ""
    who = (
        design.lamps[step.target].label
        if step.target in design.lamps
        else label_of(design.plan.groups[step.target].label, step.target)
    )
    return Knot(
        step=at,
        target=step.target,
        at_s=at_s,
        text=f"{who}{level}{colour or ('' if level else ' as it is')} at {si(at_s, 's') if at_s else '0 s'}{fade}",
    )


def step_entries(design: Design, name: str, at: int) -> tuple[Entry, ...]:
    """Return what one step sets, to be turned in place.

    Raises:
        OutOfRange: there is no such step.
    """
    cue = _cue(design, name)
    if at >= len(cue.steps):
        raise OutOfRange(field="step", given=str(at), allowed=f"one of {plural(len(cue.steps), 'step')}")
    step, items = cue.steps[at], tuple(it.model_dump(mode="json", exclude_none=True) for it in cue.steps)
    kinds = {design.plan.lamps[it].kind for it in design.targets(step.target)}

    def entry(label: str, field: str, unit: str, none: str, hint: str) -> Entry:
        value = getattr(step, field)
        text = none if value is None else si(value, unit) if unit else str(value)
        return Entry(
            label=label, text=text, path=("cues", name, "steps"), items=items, place=(at, field),
            origin="proposed" if value is None else "own", because=None if value is not None else f"{none}: nothing is said of it", hint=hint,
        )  # fmt: skip

    rows = [
        entry("Brightness", "level", "ratio", "as it is", "such as 50 %"),
        entry("Fades over", "fade_s", "s", "at once", "such as 0.8 s"),
    ]
    if kinds & set(COLOUR_KINDS):
        rows += [entry(it.capitalize(), it, "ratio", "as it is", "such as 100 %") for it in SHADES]
    if kinds & set(PIXEL_KINDS):
        rows += [
            entry("First pixel", "first", "", "all of it", "counted from 0"),
            entry("Last pixel", "last", "", "the first alone", "counted from 0"),
        ]
    return tuple(rows)


def edited(design: Design, name: str, edit: ScoreEdit) -> Scored:
    """Change the steps of a cue by their times from its beginning.

    Raises:
        OutOfRange: there is no such cue, step or lamp, or there are too many steps.
    """
    cue = _cue(design, name)
    steps: list[tuple[float, Document]] = list(
        zip(times_of(cue), (it.model_dump(mode="json", exclude_none=True) for it in cue.steps), strict=True)
    )
    round_s = sum(it.after_s for it in cue.steps) if cue.loop else 0.0
    touched: Document | None = None
    if isinstance(edit, MoveStep | BrightenStep | RemoveStep) and edit.step >= len(steps):
        raise OutOfRange(field="step", given=str(edit.step), allowed=f"one of {plural(len(steps), 'step')}")
    match edit:
        case MoveStep():
            touched = dict(steps[edit.step][1])
            steps[edit.step] = (edit.at_s, touched)
            label = "Move a step"
        case BrightenStep():
            at_s, step = steps[edit.step]
            level = min(max(step.get("level", 0.0) + edit.by_ratio, 0.0), 1.0)
            touched = {**step, "level": round(level, 4)}
            steps[edit.step] = (at_s, touched)
            label = "Make a step brighter" if edit.by_ratio > 0 else "Make a step darker"
        case AddStep():
            _known(design, edit.target)
            last_s = max((at_s for at_s, _ in steps), default=-FIRST_S)
            touched = {"target": edit.target, "level": 0.0 if _is_lit(design, steps, edit.target) else 1.0}
            at_s = last_s + FIRST_S if edit.at_s is None else edit.at_s
            steps.append((at_s, touched))
            round_s = max(round_s, at_s + FIRST_S)
            label = "Add a step"
        case RemoveStep():
            del steps[edit.step]
            touched = steps[min(edit.step, len(steps) - 1)][1] if steps else None  # the next one, to go on from
            label = "Take a step out"
        case CopyThread():
            _known(design, edit.to)
            kept = [(at_s, it) for at_s, it in steps if it["target"] != edit.to]
            steps = kept + [
                (at_s, {**it, "target": edit.to}) for at_s, it in steps if edit.source in design.targets(it["target"])
            ]
            label = "Copy a thread"
        case EndRound():
            round_s, label = edit.at_s, "Let it come round at another time"
    if len(steps) > CUE_MOST:
        raise OutOfRange(field="steps", given=str(len(steps)), allowed=f"at most {CUE_MOST} of them")
    steps.sort(key=lambda it: it[0])
    made = _in_turn(steps, round_s if cue.loop else None)
    at = next((index for index, (_, it) in enumerate(steps) if it is touched), None)
    move = Move(label=label, patch=at_path(("cues", name, "steps"), made))
    if at is None:
        return Scored(move=move, step=None)
    first_s = steps[0][0] if cue.loop else 0.0
    return Scored(move=move, step=at, target=steps[at][1]["target"], at_s=round(steps[at][0] - first_s, 6))


def _in_turn(steps: Sequence[tuple[float, Document]], round_s: float | None) -> list[Document]:
    """Write times from the beginning as times from the step before; of a loop the first waits for the rest of the round."""
    made, before_s = list[Document](), 0.0
    first_s = steps[0][0] if steps and round_s is not None else 0.0
    for index, (at_s, step) in enumerate(steps):
        after_s = at_s - first_s - before_s
        if not index and round_s is not None:
            after_s = max(round_s - (steps[-1][0] - first_s), GRID_S)
        else:
            before_s = at_s - first_s
        made.append({**step, "after_s": round(max(after_s, 0.0), 6)})
    return made


def _is_lit(design: Design, steps: Sequence[tuple[float, Document]], target: str) -> bool:
    """Tell whether the last step of a target leaves it lit, so that the next one is to put it out."""
    mine = [it for _, it in sorted(steps, key=lambda one: one[0]) if it["target"] == target]
    return bool(mine) and mine[-1].get("level", 1.0) > 0


def _known(design: Design, target: str) -> None:
    if target not in design.plan.lamps and target not in design.plan.groups:
        raise OutOfRange(field="target", given=target, allowed="a lamp or a group of the plan")


def _cue(design: Design, name: str) -> Cue:
    if name not in design.plan.cues:
        raise OutOfRange(field="cue", given=name, allowed="a cue of the plan")
    return design.plan.cues[name]


def cue_moves(design: Design) -> tuple[Move, ...]:
    """Offer one more cue, without steps."""
    name = first_free("cue", design.plan.cues.__contains__)
    return (Move(label="Add a cue", patch=at_path(("cues", name), {"steps": []})),)
