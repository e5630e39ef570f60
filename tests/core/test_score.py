"""The score of light: the course of a cue is the rehearsal's, and its steps are moved by their times from its beginning."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.course import course_of
from oddlamp.core.design.design import Design
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import looks_of
from oddlamp.sheets.score import (
    AddStep,
    BrightenStep,
    CopyThread,
    EndRound,
    MoveStep,
    RemoveStep,
    ScoreEdit,
    edited,
    scores_of,
    step_entries,
    times_of,
)
from tests.builders import plan_with
from tests.core.program.drawn import STAGE
from tests.full import IS_PROOF

STORM: Document = {
    "cues": {
        "storm": {
            "steps": [
                {"target": "far", "level": 1, "after_s": 0.1, "fade_s": 0.5},
                {"target": "moon", "red": 0.3, "green": 0.5, "blue": 1, "after_s": 0.4},
                {"target": "chain", "level": 1, "first": 0, "last": 1, "after_s": 0.5},
                {"target": "far", "level": 0, "after_s": 0.6, "fade_s": 0.8},
            ]
        }
    }
}
TIMES = [0.1, 0.5, 1.0, 1.6]


def design_of(*patches: Document) -> Design:
    return resolve(plan_with(STORM, *patches, base=STAGE), load_catalog())


def after(edit: ScoreEdit, *patches: Document) -> tuple[list[tuple[str, float]], int | None]:
    """What is set when after a change, and which step was touched."""
    design = design_of(*patches)
    made = edited(design, "storm", edit)
    cue = edit_plan(design.plan, made.move.patch).cues["storm"]
    return [(it.target, at) for it, at in zip(cue.steps, times_of(cue), strict=True)], made.step


def test_the_threads_are_what_a_rehearsal_of_the_cue_shows() -> None:
    """Started by hand in a rehearsal, one millisecond later: lit and dark at the same times.

    The score shows what is meant, the rehearsal what flows: as bright but for what a pin and a resistor leave of it.
    """
    design = design_of()
    trace = rehearse_design(design, read_events([{"kind": "cue", "t_s": 0.001, "cue": "storm"}]))
    wanted = looks_of(design, trace)
    (score,) = [it for it in scores_of(design, "board") if it.cue == "storm"]
    assert score.sentence == "Storm takes 2.4\u00a0s, once."
    for thread in score.threads:
        seen = wanted[f"lamps.{thread.lamp}"]
        for look in thread.looks:
            there = [it for it in seen if it.t_s <= look.t_s + 0.0011]
            assert there[-1].light_ratio == pytest.approx(look.light_ratio, abs=0.15), thread.label
            assert bool(there[-1].light_ratio) == bool(look.light_ratio), thread.label


def test_a_step_moves_by_itself_and_the_others_keep_their_times() -> None:
    assert after(MoveStep(kind="move", step=0, at_s=1.2)) == ([("moon", 0.5), ("chain", 1.0), ("far", 1.2), ("far", 1.6)], 2)
    assert after(RemoveStep(kind="remove", step=1)) == ([("far", 0.1), ("chain", 1.0), ("far", 1.6)], 1)
    assert after(AddStep(kind="add", target="lamp")) == (
        [*zip(("far", "moon", "chain", "far"), TIMES, strict=True), ("lamp", 2.1)],
        4,
    )
    assert after(CopyThread(kind="copy", source="far", to="lamp"))[0] == [
        ("far", 0.1), ("lamp", 0.1), ("moon", 0.5), ("chain", 1.0), ("far", 1.6), ("lamp", 1.6),
    ]  # fmt: skip


def test_a_loop_keeps_its_round_while_a_step_in_it_moves() -> None:
    """The first picture comes at once; the time before it is what is left of the round."""
    loop: Document = {"cues": {"storm": {"loop": True}}}
    design = design_of(loop)
    assert times_of(design.plan.cues["storm"]) == [0.0, 0.4, 0.9, 1.5]
    (score,) = [it for it in scores_of(design, "board") if it.cue == "storm"]
    assert score.round_s == pytest.approx(1.6)
    moved = edited(design, "storm", MoveStep(kind="move", step=1, at_s=1.0)).move.patch
    assert sum(it["after_s"] for it in moved["cues"]["storm"]["steps"]) == pytest.approx(1.6)
    longer = edited(design, "storm", EndRound(kind="round", at_s=3.0)).move.patch
    assert sum(it["after_s"] for it in longer["cues"]["storm"]["steps"]) == pytest.approx(3.0)


@settings(max_examples=100 if IS_PROOF else 25)
@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 5000)), max_size=6))
def test_times_are_what_they_were_told_whatever_is_moved(moves: list[tuple[int, int]]) -> None:
    """Against a list of times that is sorted anew each time."""
    design = design_of()
    wanted = list(zip(TIMES, ("far", "moon", "chain", "far"), strict=True))
    for step, at_ms in moves:
        made = edited(design, "storm", MoveStep(kind="move", step=step, at_s=at_ms / 1000))
        wanted[step] = (at_ms / 1000, wanted[step][1])
        wanted.sort(key=lambda it: it[0])
        design = resolve(edit_plan(design.plan, made.move.patch), load_catalog())
    cue = design.plan.cues["storm"]
    assert [it.target for it in cue.steps] == [target for _, target in wanted]
    assert times_of(cue) == pytest.approx([at for at, _ in wanted], abs=1e-5)


def test_a_step_is_dimmed_to_its_ends_and_turned_in_place() -> None:
    design = design_of()
    darker = edited(design, "storm", BrightenStep(kind="brighten", step=0, by_ratio=-0.1)).move.patch
    assert darker["cues"]["storm"]["steps"][0]["level"] == pytest.approx(0.9)
    brighter = edited(design, "storm", BrightenStep(kind="brighten", step=0, by_ratio=0.1)).move.patch
    assert brighter["cues"]["storm"]["steps"][0]["level"] == 1
    assert [it.label for it in step_entries(design, "storm", 0)] == ["Brightness", "Fades over"]
    assert [it.label for it in step_entries(design, "storm", 2)][-2:] == ["First pixel", "Last pixel"]


@pytest.mark.parametrize(
    ("cue", "edit", "field"),
    [
        ("gone", RemoveStep(kind="remove", step=0), "cue"),
        ("storm", RemoveStep(kind="remove", step=9), "step"),
        ("storm", AddStep(kind="add", target="nobody"), "target"),
    ],
)
def test_what_is_not_there_is_refused_by_name(cue: str, edit: ScoreEdit, field: str) -> None:
    with pytest.raises(OutOfRange) as refused:
        edited(design_of(), cue, edit)
    assert refused.value.field == field


def test_a_cue_of_nobody_stays_on_the_sheet_and_one_without_time_says_so() -> None:
    """A group that has no members any more, and two pictures at once."""
    design = design_of(
        {
            "groups": {"nobody": {"members": []}},
            "cues": {
                "lost": {"steps": [{"target": "nobody", "level": 1}]},
                "none": {"steps": []},
                "flash": {"steps": [{"target": "lamp", "level": 1}, {"target": "far", "level": 1}]},
            },
        }
    )
    said = {it.cue: it.sentence for it in scores_of(design, "board")}
    assert said["lost"] == "Lost is there at once."
    assert said["none"] == "None has no steps yet."
    assert said["flash"] == "Flash is there at once."


def test_a_day_long_cue_and_a_thousand_steps_are_laid_out_at_once() -> None:
    long: Document = {
        "cues": {"storm": {"steps": [{"target": "far", "level": at % 2, "after_s": 86, "fade_s": 80} for at in range(1000)]}}
    }
    ends_ms, course = course_of(program_of(design_of(long), "board"), "storm")
    assert ends_ms == 86_080_000
    assert len(course["far"]) < 5000
