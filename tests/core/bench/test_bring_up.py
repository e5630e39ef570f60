"""The bring-up sheet says what the review says, reads what is typed, and judges it."""

import random
import re
from typing import Any

import pytest

from oddlamp.catalog.load import demo_plan, start_data
from oddlamp.core.bench.faults import Finder
from oddlamp.core.bench.judge import OPEN_OHM, judged, read_measured
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.step import PHASES, Step
from oddlamp.core.bench.wiring import wiring
from oddlamp.core.design.design import Design
from oddlamp.core.design.walk import design_values
from oddlamp.core.errors import OutOfRange
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.bench import Checked
from oddlamp.core.plan.document import Document, edit_plan, load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.bringup import all_steps, bring_up_files, bring_up_shown, measured_read
from tests.builders import CLEAR, plan_with
from tests.core.bench.drawn import CATALOG, drawn_design
from tests.core.bench.test_wiring import shipped
from tests.full import IS_PROOF

COUNT = 200 if IS_PROOF else 24
BATCH = 8
NOW = "2026-01-31T18:30:00Z"


def one_source(design: Design) -> tuple[Step, ...]:
    """What a step expects is the review's own value of that id; every probe's place is in the circuit; no id stands twice."""
    values = {it.id: it for it in design_values(design)}
    steps, made = all_steps(design, "final")
    ids = [it.id for it in steps]
    assert len(set(ids)) == len(ids)
    assert [PHASES.index(it.phase) for it in steps] == sorted(PHASES.index(it.phase) for it in steps)
    bars = {net.id for net in made.circuit.nets}
    for step in steps:
        if step.value_id:
            assert step.nominal == values[step.value_id].value, step.id
            assert values[step.value_id].unit == step.unit, step.id
        elif step.kind == "measure":
            assert step.because, step.id
        for tap in (step.red, step.black):
            assert tap is None or (tap.piece in bars if tap.pin == "" else tap in made.circuit.net_of), (step.id, tap)
    for piece in made.circuit.pieces.values():
        if piece.kind == "resistor":
            assert [it for it in steps if it.id == f"ohms.{piece.id}"] or piece.alike, piece.id
    measured = [it for it in steps if it.id.startswith("ohms.")]
    assert all(it.value_id for it in measured), [it.id for it in measured if not it.value_id]
    return steps


@pytest.mark.parametrize("name", shipped())
def test_what_ships_is_expected_as_the_review_says(name: str) -> None:
    steps = one_source(resolve(load_plan(shipped()[name]), CATALOG))
    assert steps[0].phase == "off", "nothing is measured under power before it was without"


@pytest.mark.parametrize("batch", range(COUNT // BATCH))
def test_drawn_plans_are_expected_as_the_review_says(batch: int) -> None:
    for seed in range(2000 + batch * BATCH, 2000 + (batch + 1) * BATCH):
        one_source(drawn_design(seed))


def step_of(step_id: str, *patches: Any) -> Step:
    return next(it for it in all_steps(resolve(plan_with(*patches), CATALOG), "mock_up")[0] if it.id == step_id)


IDLE = "idle.serial.b_to_a"
UPPER = "ohms.serial.b_to_a.upper"


@pytest.mark.parametrize(
    ("step", "typed", "value"),
    [
        (IDLE, "3,24", 3.24), (IDLE, "3v31", 3.31), (IDLE, " 3.2 V ", 3.2), (IDLE, "−0.1", -0.1), (IDLE, "3240mV", 3.24),
        (UPPER, "1k2", 1200.0), (UPPER, "1.19 kohm", 1190.0), (UPPER, "OL", OPEN_OHM), (UPPER, "o.l", OPEN_OHM), (UPPER, "0", 0.0),
    ],
)  # fmt: skip
def test_what_a_meter_shows_is_read(step: str, typed: str, value: float) -> None:
    assert read_measured(step_of(step), typed).value == pytest.approx(value)


@pytest.mark.parametrize(("step", "typed"), [(IDLE, "3 ohm"), (IDLE, "5 mA"), (IDLE, "x"), (IDLE, ""), (IDLE, "1e400"), (UPPER, "-5"), (UPPER, "5 V"), (IDLE, "OL"), (UPPER, "9" * 60)])  # fmt: skip
def test_what_no_meter_shows_is_refused_in_words(step: str, typed: str) -> None:
    with pytest.raises(OutOfRange) as refused:
        read_measured(step_of(step), typed)
    assert refused.value.allowed


def test_ten_times_too_much_is_asked_back_and_taken_where_it_is_meant() -> None:
    step = step_of(UPPER)
    assert read_measured(step, "12k").either == (12_000.0, pytest.approx(1200.0))
    assert read_measured(step, "120").either == (120.0, pytest.approx(1200.0))
    assert read_measured(step, "12k", is_sure=True).value == 12_000.0
    assert read_measured(step, "2k2").value == 2200.0, "a wrong part is no slip of the point"


@pytest.mark.parametrize(
    ("value", "verdict"),
    # 1.2 kΩ ± 5 %, and a meter of 1 % and a digit: by hand 1128.4 to 1272.8 Ω
    [(1130, "within"), (1128, "off"), (1272, "within"), (1273, "off"), (1200, "within"), (0, "off"), (OPEN_OHM, "off")],
)
def test_the_bounds_are_the_parts_own_and_the_meters(value: float, verdict: str) -> None:
    found = judged(step_of(UPPER), Checked(value=value, unit="ohm", taken_at=NOW))
    assert found is not None
    assert found.verdict == verdict


def test_a_value_in_another_unit_says_so() -> None:
    """A file may say anything: five amperes are no five volts."""
    found = judged(step_of(IDLE), Checked(value=3.24, unit="A", taken_at=NOW))
    assert found is not None
    assert found.verdict == "off"
    assert "volts" in found.sentence


def test_a_measured_value_is_kept_judged_taken_and_taken_back() -> None:
    plan = load_plan(demo_plan())
    design = resolve(plan, CATALOG)
    read = measured_read(design, "mock_up", "drop.moon.red", "1.93", NOW)
    assert read.patch is not None
    plan = edit_plan(plan, read.patch)
    shown = next(it for it in bring_up_shown(resolve(plan, CATALOG)).steps if it.id == "drop.moon.red")
    assert (shown.was, shown.verdict) == ("1.93\u00a0V", "within")
    assert shown.take is not None
    before = next(it for it in design_values(design) if it.id == "moon.red.current_with_pin_a").known
    taken = resolve(edit_plan(plan, shown.take), CATALOG)
    forward = next(it for it in design_values(taken) if it.id == "moon.red.forward_voltage_v")
    assert (forward.value, forward.origin) == (1.93, "measured")
    after = next(it for it in design_values(taken) if it.id == "moon.red.current_with_pin_a").known
    assert after > before, "a smaller drop leaves more for the resistor"
    again = next(it for it in bring_up_shown(taken).steps if it.id == "drop.moon.red")
    assert again.verdict == "within"
    assert shown.forget is not None
    assert (
        next(it for it in bring_up_shown(resolve(edit_plan(plan, shown.forget), CATALOG)).steps if it.id == "drop.moon.red").was
        == ""
    )


def test_the_two_passes_are_kept_apart_and_what_is_gone_is_counted() -> None:
    kept = {"bench": {"now": "final", "checked": {"mock_up": {UPPER: {"value": 1200, "unit": "ohm", "taken_at": NOW}, "ohms.gone": {"value": 1, "unit": "ohm", "taken_at": NOW}}}}}  # fmt: skip
    design = resolve(plan_with(kept), CATALOG)
    final, first = bring_up_shown(design), bring_up_shown(design, "mock_up")
    assert final.now == "final"
    more = {it.id for it in final.steps} - {it.id for it in first.steps}
    assert {it for it in more if not it.startswith("fixed.")} == {"closing"}
    assert {"fixed.module", "fixed.lamp"} <= more, "sockets for what may die, connectors where it comes apart"
    assert [it.was for it in final.steps if it.id == UPPER] == [""]
    assert [it.was for it in first.steps if it.id == UPPER] == ["1.2\u00a0kΩ"]
    assert (first.gone, final.gone) == (1, 0)


def test_a_step_that_the_plan_lost_while_the_sheet_was_open_is_told() -> None:
    with pytest.raises(OutOfRange, match="it has changed since"):
        measured_read(resolve(plan_with(), CATALOG), "mock_up", "ohms.nothing", "5", NOW)


def test_a_healthy_build_shows_nothing_off() -> None:
    """Drawn between the bounds that the review gives: what is in its parts' tolerance is never called wrong."""
    rng = random.Random(7)
    for step in all_steps(resolve(load_plan(demo_plan()), CATALOG), "mock_up")[0]:
        if step.kind != "measure" or step.least is None or step.most is None:
            continue
        for _ in range(20):
            found = judged(
                step,
                Checked(value=rng.uniform(step.least, step.most), unit=step.unit, taken_at=NOW),  # type: ignore[arg-type]
            )
            assert found is not None
            assert found.verdict == "within", step.id


def test_every_step_of_the_upload_is_there_and_the_list_is_taken_along() -> None:
    design = resolve(plan_with({"signals": {"serial.a_to_b": {"pin": "0"}}}), CATALOG)
    told = [it.title for it in all_steps(design, "mock_up")[0] if it.phase == "upload"]
    assert any(re.search(r"off pin 0", it) for it in told)
    assert any(re.search(r"back on pin 0", it) for it in told)
    files = bring_up_files(design)
    assert files["bringup.csv"].count("\r\n") == len(all_steps(design, "mock_up")[0]) + 1
    assert CLEAR["title"] in files["bringup.md"]


def test_nothing_has_no_steps_and_a_module_alone_has_its_own() -> None:
    nothing = {key: CLEAR[key] for key in ("format", "schema_version", "title")}
    design = resolve(load_plan(nothing), CATALOG)
    assert wiring(design, netlist(design)).wires == ()
    assert bring_up_shown(design).steps == ()
    alone = resolve(load_plan(start_data("16-module-alone")["plan"]), CATALOG)
    assert {it.kind for it in bring_up_shown(alone).steps} >= {"measure", "look", "wait"}


def taken_after(patches: list[Document], step_id: str, text: str) -> Design:
    """Measure a step and press what takes it into the plan."""
    design = resolve(plan_with(*patches), CATALOG)
    read = measured_read(design, "mock_up", step_id, text, NOW)
    assert read.patch is not None
    kept = resolve(edit_plan(design.plan, read.patch), CATALOG)
    (step,) = [it for it in bring_up_shown(kept, looked_at=step_id).steps if it.id == step_id]
    assert step.take is not None
    return resolve(edit_plan(kept.plan, step.take), CATALOG)


def test_a_clock_timed_against_a_watch_is_the_boards_clock() -> None:
    """A minute by a clock that takes 60.9 s is 60 / 60.9 of what it is said to be; what a thumb is off is its spread."""
    before = resolve(plan_with(), CATALOG).nodes["board"].part
    after = taken_after([], "clock.board", "60.9").nodes["board"].part
    assert isinstance(before, BoardPart)
    assert isinstance(after, BoardPart)
    assert before.clock_hz is not None
    assert after.clock_hz is not None
    assert after.clock_hz.value == pytest.approx(before.clock_hz.value * 60 / 60.9, rel=1e-3)
    assert after.clock_hz.high / after.clock_hz.value == pytest.approx(1 + 0.4 / 60.9, rel=1e-3)


@pytest.mark.parametrize("lost", ["0.3", "1.1"])
def test_what_a_chain_loses_is_taken_as_the_ohms_of_its_rails(lost: str) -> None:
    """Taken into the plan, the chain loses what was measured: its rails were better or worse than told."""
    chain = {"lamps": {"chain": {"kind": "pixels-one-wire", "label": "Chain", "host": "board", "layout": {"runs": "60"}}}}
    after = taken_after([chain], "lost.chain", lost)
    assert after.strips["chain"].lost.known == pytest.approx(float(lost), rel=0.06)
    (step,) = [it for it in bring_up_shown(after).steps if it.id == "lost.chain"]
    assert step.verdict == "within"


def test_the_final_build_begins_with_what_changes() -> None:
    design = resolve(plan_with(), CATALOG)
    final = bring_up_shown(design, "final").steps
    assert [it.id.split(".")[0] for it in final[:3]] == ["fixed"] * 3
    told = " ".join(it.title for it in final if it.id.startswith("fixed."))
    assert "socket" in told
    assert "connector" in told
    assert not [it for it in bring_up_shown(design, "mock_up").steps if it.id.startswith("fixed.")]


def off_values(step: Step) -> list[float]:
    """Values that are off on either side, as a meter may show them."""
    least, most = step.slack
    low = [least * 0.7 - 0.5, 0.0, -5.0] if step.unit == "V" else [least * 0.7, 0.0]
    return [it for it in (*low, most * 1.4 + 0.5) if not least <= it <= most and (it >= 0 or step.unit == "V") and it < 1e6]


@pytest.mark.parametrize("name", shipped())
def test_every_value_that_is_off_says_what_it_may_be(name: str) -> None:
    """Grounds, shorts, rails, currents, chains and clocks too, which no line's circuit tells of."""
    design = resolve(load_plan(shipped()[name]), CATALOG)
    steps, made = all_steps(design, "mock_up")
    finder, silent, seen = Finder(design, made), [], set[str]()
    for step in (it for it in steps if it.kind == "measure"):
        for value in off_values(step):
            kind = step.id.partition(".")[0]
            if not finder.told(step, value, {}, steps):
                silent.append((kind, value > step.slack[1]))
            seen.add(kind)
    assert silent == []
    assert {"ground", "short"} <= seen
