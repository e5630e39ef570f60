"""The bring-up sheet as a phone or a desk shows it: one step after the other, what it should be, and what it was."""

from collections.abc import Iterator, Mapping
from typing import Final

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.bench.asking import NextStep, next_step
from oddlamp.core.bench.faults import Finder
from oddlamp.core.bench.judge import OPEN_OHM, Judged, judged, read_measured
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.step import Phase, Step
from oddlamp.core.bench.steps import steps_of
from oddlamp.core.bench.tables import Rows, as_csv, as_markdown
from oddlamp.core.bench.wiring import Wiring, wiring
from oddlamp.core.design.design import Design
from oddlamp.core.english import plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.bench import Checked, Pass
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.sheets.programming import programming_panel

PHASE_NAMES: Final[dict[Phase, str]] = {
    "off": "Power off",
    "bare": "Supply alone",
    "upload": "The program goes on",
    "quiet": "Nothing is sent",
    "lit": "Lamp by lamp",
    "whole": "All of it",
}
PASSES: Final[dict[Pass, str]] = {"mock_up": "The mock-up", "final": "The final build"}
MEASURED_HEAD: Final = ["When (UTC)", "Where", "What", "Value", "Unit", "Should be", "Verdict"]
STEPS_HEAD: Final = ["No.", "When", "What", "How", "Should be", "Was", "Verdict"]


class NextShown(Model):
    """The step to measure next where a value is off: what it takes, and of each reading what would show it first."""

    id: str
    title: str
    minutes: float
    tells: tuple[str, ...]


class StepShown(Model):
    """One step. ``should_be`` is told as text, ``was`` what was found; ``take`` puts that into the plan."""

    id: str
    phase: str
    title: str
    how: str
    kind: str
    unit: str
    should_be: str
    because: str
    caution: str
    stage: str
    red: str
    black: str
    was: str = ""
    verdict: str = Field(default="", description="within or off; empty where nothing was found yet")
    told: str = ""
    suggests: tuple[str, ...] = Field(default=(), description="What that value suggests, the likeliest first")
    next: NextShown | None = Field(
        default=None, description="What tells those apart in the fewest minutes, of the step that is looked at"
    )
    waits_s: float | None = None
    waits_since: str | None = Field(default=None, description="When its wait began")
    take: Document | None = Field(default=None, description="The patch that puts what was measured into the plan")
    take_label: str = ""
    forget: Document | None = Field(default=None, description="The patch that takes back what was found")


class PassShown(Model):
    """One of the two passes of the sheet."""

    id: Pass
    label: str
    done: int


class BringUpShown(Model):
    """The sheet: its steps in order, those of one pass."""

    sentence: str
    detail: str
    now: Pass
    passes: tuple[PassShown, ...]
    steps: tuple[StepShown, ...]
    gone: int = Field(description="How many findings belong to steps the plan no longer has")


class MeasuredRead(Model):
    """What was typed, as it was read: the patch that keeps it, or the two values it could be."""

    patch: Document | None = None
    summary: str = ""
    either: tuple[str, ...] = ()
    verdict: str = ""
    told: str = ""
    suggests: tuple[str, ...] = Field(default=(), description="What it suggests where it is off: shown before it is kept")


def all_steps(design: Design, now: Pass) -> tuple[tuple[Step, ...], Wiring]:
    """Return every step of a build, those of getting the program onto a board among them."""
    made = wiring(design, netlist(design))
    steps = list(steps_of(design, made, now))
    at = next((place for place, it in enumerate(steps) if it.phase not in ("off", "bare")), len(steps))
    return (*steps[:at], *_uploads(design), *steps[at:]), made


def _uploads(design: Design) -> Iterator[Step]:
    """Yield what there is to do to get a program onto each board: what to unplug, and what to put back."""
    for node in design.nodes.values():
        panel = programming_panel(design, node)
        for number, told in enumerate(panel.steps if panel is not None else (), 1):
            yield Step(f"upload.{node.id}.{number}", "upload", told, f"{node.label}: the program that tries the wiring first, then the program itself.", node.stage, kind="look")  # fmt: skip


def _suggested(
    finder: Finder, steps: tuple[Step, ...], step: Step, checked: Checked | None, values: Mapping[str, float]
) -> tuple[str, ...]:
    """Say what is likely wrong where a measured value is off."""
    verdict = judged(step, checked)
    if step.kind != "measure" or checked is None or checked.value is None or verdict is None or verdict.verdict == "within":
        return ()
    return finder.told(step, checked.value, values, steps)


def at_work(design: Design, now: Pass | None) -> Pass:
    """Return which pass is at work, where none is asked for."""
    bench = design.plan.bench
    return now or (bench.now if bench is not None and bench.now is not None else "mock_up")


def _told_next(it: NextStep | None) -> NextShown | None:
    if it is None:
        return None
    tells = tuple(f"{_read(it.step.unit, reading)}: {told}" for reading, told in it.told)
    return NextShown(id=it.step.id, title=it.step.title, minutes=it.minutes, tells=tells)


def _next(
    finder: Finder, steps: tuple[Step, ...], step: Step, found: Mapping[str, Checked], values: Mapping[str, float]
) -> NextShown | None:
    """Say what to measure next where a value is off."""
    checked = found.get(step.id)
    verdict = judged(step, checked)
    if step.kind != "measure" or checked is None or checked.value is None or verdict is None or verdict.verdict == "within":
        return None
    return _told_next(next_step(finder, step, checked.value, values, steps))


def _read(unit: str, value: float) -> str:
    return "open" if unit == "ohm" and value >= OPEN_OHM else si(value, unit)


def bring_up_shown(design: Design, now: Pass | None = None, looked_at: str | None = None) -> BringUpShown:
    """Show the sheet of a pass: the one that is at work, where none is asked for. What an off value suggests is told of the step that is looked at, of all where none is."""
    bench = design.plan.bench
    here = at_work(design, now)
    found = bench.checked if bench is not None else {}
    steps, made = all_steps(design, here)
    mine = found.get(here, {})
    values = {name: it.value for name, it in mine.items() if it.value is not None}
    finder = Finder(design, made)

    def suggests(step: Step) -> tuple[str, ...]:
        """What an off value suggests; asked of the step that is looked at, or of all."""
        return _suggested(finder, steps, step, mine.get(step.id), values) if looked_at in (None, step.id) else ()

    waits = bench.waits if bench is not None else {}
    onward = next((_next(finder, steps, it, mine, values) for it in steps if it.id == looked_at), None)
    shown = tuple(
        _shown(made, here, it, mine, waits.get(it.id), suggests(it), onward if it.id == looked_at else None) for it in steps
    )
    ids = {it.id for it in steps}
    passes = tuple(
        PassShown(id=it, label=label, done=sum(name in ids for name in found.get(it, {}))) for it, label in PASSES.items()
    )
    return BringUpShown(
        sentence=_sentence(shown), detail=_detail(here), now=here, passes=passes, steps=shown, gone=sum(it not in ids for it in mine),
    )  # fmt: skip


def _sentence(steps: tuple[StepShown, ...]) -> str:
    off = [it for it in steps if it.verdict == "off"]
    left = [it for it in steps if not it.verdict]
    if off:
        return (
            f"{plural(len(off), 'step')} {'is' if len(off) == 1 else 'are'} not as {'it' if len(off) == 1 else 'they'} should be."
        )
    if not left:
        return "All of it is as it should be."
    if len(left) == len(steps):
        return f"{plural(len(steps), 'step')}, meter in hand, power off."
    return f"{len(steps) - len(left)} of {plural(len(steps), 'step')} done, all as they should be."


def _detail(now: Pass) -> str:
    if now == "mock_up":
        return "On a breadboard first, with sockets for what may die. What is found here is kept for this pass."
    return "Soldered: the same steps once more, connectors where it comes apart, trimmers fixed, and a last test before it is closed."


def _shown(
    made: Wiring,
    now: Pass,
    step: Step,
    found: Mapping[str, Checked],
    waits_since: str | None,
    suggests: tuple[str, ...],
    onward: NextShown | None,
) -> StepShown:
    checked = found.get(step.id)
    verdict: Judged | None = judged(step, checked)
    measured = checked is not None and checked.value is not None
    return StepShown(
        id=step.id, phase=PHASE_NAMES[step.phase], title=step.title, how=step.how, kind=step.kind, unit="Ω" if step.unit == "ohm" else step.unit,
        should_be=should_be(step), because=step.because, caution=step.caution, stage=step.stage,
        red=made.name(step.red) if step.red is not None else "", black=made.name(step.black) if step.black is not None else "",
        was=_was(step, checked), verdict=verdict.verdict if verdict is not None else "", told=verdict.sentence if verdict is not None else "",
        suggests=suggests, next=onward, waits_s=step.wait_s, waits_since=waits_since, take=_take(step, checked), take_label=f"Take {_was(step, checked)} into the plan" if measured and step.takes else "",
        forget=None if checked is None else at_path(("bench", "checked", now, step.id), None),
    )  # fmt: skip


def should_be(step: Step) -> str:
    """Say what a step should measure."""
    if step.kind != "measure":
        return ""
    if step.nominal is not None and step.least is not None and step.most is not None:
        if step.least == step.most:
            return si(step.nominal, step.unit)
        if step.least <= 0 < step.nominal:
            return f"at most {si(step.most, step.unit)}, {si(step.nominal, step.unit)} as reckoned"
        if step.nominal == 0:
            return f"under {si(step.most, step.unit)}"
        return f"{si(step.nominal, step.unit)}, between {si(step.least, step.unit)} and {si(step.most, step.unit)}"
    if step.most is not None:
        return f"under {si(step.most, step.unit)}"
    return f"over {si(step.least or 0.0, step.unit)}"


def _was(step: Step, checked: Checked | None) -> str:
    if checked is None:
        return ""
    if checked.value is None:
        return "as it should be" if checked.is_well else "not as it should be"
    return _read(step.unit, checked.value)


def _take(step: Step, checked: Checked | None) -> Document | None:
    """Build the patch that puts a measured value where the plan keeps it: a reading, or a part's own value."""
    if checked is None or checked.value is None or not step.takes or checked.value <= 0 or checked.value >= OPEN_OHM:
        return None
    if step.figure is not None:
        return at_path(step.takes, step.figure(checked.value))
    if step.takes[0] != "measured":
        return at_path(step.takes, checked.value)
    reading = at_path(step.takes, {"value": checked.value, "unit": step.unit, "taken_at": checked.taken_at})
    return join_patches([reading, *(at_path(path, value) for path, value in step.settles)])


def measured_read(design: Design, now: Pass, step_id: str, text: str, taken_at: str, *, is_sure: bool = False) -> MeasuredRead:
    """Read what was typed at a step, and build the patch that keeps it.

    Args:
        design: the plan worked out.
        now: which pass.
        step_id: the step.
        text: as it was typed; ``well`` or ``not`` at a step that is looked at.
        taken_at: the moment, UTC.
        is_sure: keep it though it is ten times what it should be.
    Raises:
        OutOfRange: there is no such step any more, or it cannot be read.
    """
    steps, made = all_steps(design, now)
    step = next((it for it in steps if it.id == step_id), None)
    if step is None:
        raise OutOfRange(
            field="step", given=step_id[:60], allowed="a step of this plan: it has changed since, so look at the sheet anew"
        )
    at = ("bench", "checked", now, step.id)
    if step.kind != "measure":
        if text not in ("well", "not"):
            raise OutOfRange(field="measured", given=text[:60], allowed="whether it is as it should be")
        is_well = text == "well"
        return MeasuredRead(
            patch=at_path(at, {"is_well": is_well, "taken_at": taken_at}), summary=f"{step.title} {'As it should be.' if is_well else 'Not as it should be.'}"
        )  # fmt: skip
    typed = read_measured(step, text, is_sure=is_sure)
    if typed.either is not None:
        return MeasuredRead(either=tuple(si(it, step.unit) for it in typed.either))
    kept: Document = {"value": typed.value, "unit": step.unit, "taken_at": taken_at}
    checked = Checked.model_validate(kept)
    before = design.plan.bench.checked.get(now, {}) if design.plan.bench is not None else {}
    values = {name: it.value for name, it in before.items() if it.value is not None and name != step.id}
    verdict = judged(step, checked)
    told = "open" if step.unit == "ohm" and (typed.value or 0) >= OPEN_OHM else si(typed.value or 0.0, step.unit)
    return MeasuredRead(
        patch=at_path(at, kept),
        summary=f"Measured {told}: {step.title}",
        verdict=verdict.verdict if verdict is not None else "",
        told=verdict.sentence if verdict is not None else "",
        suggests=_suggested(Finder(design, made), steps, step, checked, values),
    )


def measured_csv(design: Design) -> str:
    """Write every value that was measured as a table: of both passes, and those that stand in the plan; in unprefixed units."""
    rows: Rows = []
    bench = design.plan.bench
    for now, label in PASSES.items():
        steps = {it.id: it for it in all_steps(design, now)[0]}
        for name, it in (bench.checked.get(now, {}) if bench is not None else {}).items():
            step = steps.get(name)
            verdict = None if step is None else judged(step, it)
            value = ("well" if it.is_well else "not well") if it.value is None else f"{it.value:.6g}"
            rows.append([it.taken_at, label, name if step is None else step.title, value, it.unit or "", "" if step is None else should_be(step), "a step the plan no longer has" if step is None else verdict.verdict if verdict else ""])  # fmt: skip
    rows += [[it.taken_at, "Taken into the plan", name, f"{it.value:.6g}", it.unit, "", ""] for name, it in design.plan.measured.items()]  # fmt: skip
    return as_csv(MEASURED_HEAD, sorted(rows))


def bring_up_files(design: Design) -> dict[str, str]:
    """Write the sheet as a table and as text to read."""
    shown = bring_up_shown(design)
    rows: Rows = [
        [str(number), it.phase, it.title, it.how, it.should_be, it.was, it.told] for number, it in enumerate(shown.steps, 1)
    ]
    return {
        "bringup.csv": as_csv(STEPS_HEAD, rows),
        "bringup.md": as_markdown(f"{design.plan.title}: bringing it up", STEPS_HEAD, rows),
    }
