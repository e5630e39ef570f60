"""Supply, wire, strips and run time on whole plans: known answers by hand, what always holds, and careful plans that stay clear."""

import random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import demo_names, demo_plan, load_catalog, start_data, start_names
from oddlamp.core.checks.findings import Finding
from oddlamp.core.design.design import Design
from oddlamp.core.errors import PlanInvalid
from oddlamp.core.plan.document import Document, edit_plan, load_plan, merge_patch
from oddlamp.core.plan.model import Plan
from oddlamp.core.rehearsal.drawn import drawn_of, shares_of
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import first_stage, review
from tests.builders import codes, findings_of, plan_with
from tests.core.program.drawn import drawn_plan
from tests.core.supply_rows import BY_3V3, GUEST, NO_LIGHT, ON_70, chain, fed_by, glow, made, on_track, through_regulator
from tests.full import IS_PROOF

CATALOG = load_catalog()
COUNT = 300 if IS_PROOF else 25


def design_of(*patches: Document) -> Design:
    return resolve(plan_with(*patches), CATALOG)


def only(found: tuple[Finding, ...], code: str) -> Finding:
    (it,) = [it for it in found if it.code == code]
    return it


def figures(**own: float) -> Document:
    return {name: {"value": value} for name, value in own.items()}


def plain(text: str) -> str:
    return text.replace("\u00a0", " ")


# Known answers, worked by hand


def test_24_white_pixels_are_too_much_for_a_usb_port() -> None:
    """24 · 60 mA is 1.44 A, and 45 mA of the board, 40 mA of the module, 24 mA of dark pixels: capped so that all fits."""
    plan = plan_with(NO_LIGHT, fed_by("usb-port-500ma"), chain(24), {"nodes": {"board": {"choice": {"overrides": figures(peak_a=0.045)}}, "radio": {"choice": {"overrides": figures(peak_a=0.04)}}}})  # fmt: skip
    found = only(findings_of(plan), "SUP-RAIL-PEAK")
    assert found.severity == "stop"
    assert "1.55 A with all of it lit" in plain(found.message)
    cap = found.fixes[0]
    assert plain(cap.label) == "Cap Px at 27 %", "(500 - 45 - 40 - 24) / 1440"
    assert "SUP-RAIL-PEAK" not in {it.code for it in findings_of(edit_plan(plan, cap.patch))}


def test_a_wifi_radio_wants_more_than_a_pin_or_a_small_regulator_gives() -> None:
    pin = {"nodes": {"board": {"choice": {"overrides": figures(supply_3v3_a=0.05)}}}}
    assert ("SUP-33V-PIN", "stop") in codes(findings_of(plan_with(BY_3V3, GUEST, pin)))
    small = made("regulator-3v3-250ma", "adapter-5v-1a")
    assert ("SUP-RAIL-PEAK", "stop") in codes(
        findings_of(plan_with(small, GUEST, {"nodes": {"radio": {"rail": "low", "choice": {"part": "family-e-bare"}}}}))
    )


def test_nine_volts_into_a_boards_own_regulator_get_it_hot() -> None:
    """(9 - 5) V · 445 mA is 1.78 W: 45 mA of the board, 40 of the module, 360 of a strip of 0.4 m."""
    plan = plan_with(through_regulator(0.4), NO_LIGHT)
    found = only(findings_of(plan), "SUP-HEAT")
    assert "turns 1.78 W into heat" in plain(found.message)
    assert found.severity == "stop", "25 + 1.78 · 90 is 185 degrees"
    for fix in found.fixes:
        assert "SUP-HEAT" not in {it.code for it in findings_of(edit_plan(plan, fix.patch))}


def test_two_metres_of_a_network_cables_core_at_an_ampere() -> None:
    """0.337 V there and back, 4.9 A/mm² (ASTM B258, IEC 60028); at 100 mA and half a metre nothing is said."""
    found = findings_of(plan_with(fed_by("adapter-5v-2a"), glow(1 / 0.9, feed={"length_m": 2, "gauge_awg": 24})))
    assert "loses 0.337 V" in plain(only(found, "WIRE-DROP").message)
    assert "4.9 A for each mm²" in plain(only(found, "WIRE-CURRENT").message)
    assert findings_of(plan_with(glow(0.1 / 0.9, feed={"length_m": 0.5, "gauge_awg": 24}))) == ()


def test_copper_clad_wire_loses_more() -> None:
    clad = {"length_m": 2, "gauge_awg": 24, "made_of": "clad"}
    found = findings_of(plan_with(fed_by("adapter-5v-2a"), glow(1 / 0.9, feed=clad)))
    assert "loses 0.539 V" in plain(only(found, "WIRE-DROP").message)


def test_a_power_bank_falls_asleep_at_30_ma() -> None:
    little = {"nodes": {"board": {"choice": {"overrides": figures(usual_a=0.02)}}, "radio": {"choice": {"overrides": figures(usual_a=0.01)}}}}  # fmt: skip
    found = only(findings_of(plan_with(NO_LIGHT, fed_by("power-bank-5v"), little)), "SUP-BANK-SLEEP")
    assert "gives 30 mA on average" in plain(found.message)


def test_two_cells_on_a_plain_converter_are_not_charged() -> None:
    plan = plan_with(made("buck-trimmer", "adapter-12v-2a", charges=True, set_point_v=8.4, is_set=True))
    assert codes(findings_of(plan)) == {("SUP-NOT-A-CHARGER", "stop"), ("LITHIUM-CAUTION", "look")}
    fix = only(findings_of(plan), "SUP-NOT-A-CHARGER").fixes[0]
    assert codes(findings_of(edit_plan(plan, fix.patch))) == {("LITHIUM-CAUTION", "look")}


def test_a_gap_of_50_ms_is_held_by_15_mf() -> None:
    """300 mA · 50 ms / 1 V."""
    found = only(findings_of(plan_with(on_track(0.75))), "SUP-HOLDUP")
    assert "it wants 15 mF" in plain(found.message)


def test_a_board_of_16_mhz_on_one_lithium_cell() -> None:
    found = only(findings_of(plan_with(fed_by("lithium-1s"))), "SUP-CLOCK")
    assert found.severity == "stop"
    assert "runs at 16 MHz, which needs 3.80 V" in plain(found.message)


def test_600_pixels_are_too_many_for_2_kb() -> None:
    assert ("PIX-RAM", "stop") in codes(findings_of(plan_with(fed_by("adapter-5v-10a"), chain(600, brightness_cap_ratio=0.1))))


def test_144_pixels_fed_from_one_end_turn_warm_and_are_fed_again() -> None:
    plan = plan_with(ON_70, fed_by("adapter-5v-10a"), chain(144))
    found = only(findings_of(plan), "STRIP-DROP")
    assert "of 144 turn warm" in found.message
    feed = found.fixes[0]
    assert feed.label.startswith("Feed it at the start and at pixel")
    assert "STRIP-DROP" not in {it.code for it in findings_of(edit_plan(plan, feed.patch))}


def test_3000_mah_at_half_an_ampere_are_six_hours_at_best() -> None:
    """And fewer down to where the board stops: 3.8 V, with what is lost inside the cells on top."""
    full = fed_by("aaa-3", charge_ah=3, current_max_a=1)
    asks = {"nodes": {"board": {"choice": {"overrides": figures(usual_a=0.48, peak_a=0.48)}}, "radio": {"choice": {"overrides": figures(usual_a=0.02)}}}}  # fmt: skip
    run = design_of(NO_LIGHT, full, asks).run_times["five"]
    assert plain(run.best_text) == "6 h"
    assert 0 < run.lasts.known < 6 * 3600
    assert run.cutoff_v == pytest.approx(3.8 + 0.5 * 0.6)


def test_white_light_on_three_cells_for_an_evening() -> None:
    """What the brightness may be for six hours is offered as a way out, and then it lasts."""
    plan = plan_with(fed_by("aaa-3"), {"sources": {"usb": {"wanted_run_time_s": 6 * 3600}}})
    found = only(findings_of(plan), "SUP-RUNTIME")
    assert found.fixes
    for fix in found.fixes:
        assert "SUP-RUNTIME" not in {it.code for it in findings_of(edit_plan(plan, fix.patch))}, fix.label


# What always holds


@given(st.floats(0.001, 0.5), st.floats(0.001, 0.5), st.sampled_from(["aaa-3", "lithium-1s", "aa-4", "block-9v"]))
@settings(max_examples=COUNT, deadline=None, derandomize=True)
def test_more_load_raises_no_rail_and_shortens_every_evening(one_a: float, more_a: float, source: str) -> None:
    def at(current_a: float) -> Design:
        return design_of(NO_LIGHT, fed_by(source), {"nodes": {"board": {"choice": {"overrides": figures(usual_a=current_a, peak_a=current_a)}}}})  # fmt: skip

    less, more = at(one_a), at(one_a + more_a)
    assert more.rails["five"].voltage.low <= less.rails["five"].voltage.low + 1e-9
    assert more.budgets["five"].loaded.known <= less.budgets["five"].loaded.known + 1e-9
    assert more.run_times["five"].lasts.known <= less.run_times["five"].lasts.known + 1e-9


@pytest.mark.parametrize("seed", range(COUNT))
def test_no_rehearsal_draws_more_than_the_worst_instant(seed: int) -> None:
    """Drawn behaviours and presses; the rail's worst instant is over all that they ever draw."""
    rng = random.Random(seed)
    whole = merge_patch(drawn_plan(rng), {"sources": {"usb": {"choice": {"part": "adapter-5v-10a"}}}})
    design = resolve(load_plan(whole), CATALOG)
    words = design.vocabularies["words"].words
    events = [{"kind": "word", "talk": "main", "word": rng.choice(words).id, "t_s": 0.1 * at, "values": {}} for at in range(20)]
    for it in events:
        word = next(one for one in words if one.id == it["word"])
        it["values"] = {p.id: rng.randint(p.field.least, p.field.most) for p in word.parameters}
    trace = rehearse_design(design, read_events(events))
    for rail, course in drawn_of(design, trace).items():
        assert course.most_a <= design.budgets[rail].worst.high * (1 + 1e-9), rail


@pytest.mark.parametrize("name", [*demo_names(), *start_names()])
def test_what_is_shipped_is_worked_out_and_draws_no_more_than_told(name: str) -> None:
    whole: Any = demo_plan(name) if name in demo_names() else start_data(name)["plan"]
    design = resolve(load_plan(whole), CATALOG)
    assert all("not worked out" not in it.numbers for it in review(load_plan(whole), CATALOG).line.rails)
    events = [] if name in demo_names() else start_data(name)["events"]
    for rail, course in drawn_of(design, rehearse_design(design, read_events(list(events)))).items():
        assert course.most_a <= design.budgets[rail].worst.high * (1 + 1e-9)


CAREFUL: dict[str, list[Document]] = {
    "a USB port with eight pixels under a cap": [fed_by("usb-port-500ma"), chain(8, brightness_cap_ratio=0.5)],
    "a larger port": [fed_by("usb-port-900ma"), {"signals": {"serial.b_to_a": {"shift": {"values": {"upper_ohm": 1500}}}}}],
    "an adapter with a strip": [fed_by("adapter-5v-2a"), glow(0.5, feed={"length_m": 1, "gauge_awg": 20})],
    "a power bank that stays awake": [fed_by("power-bank-5v"), glow(0.2)],
    "nine volts for the board and five for the light": [fed_by("adapter-9v-1a"), {"rails": {"low": {"end": "table", "fed_by": "conv"}}, "converters": {"conv": {"from_rail": "five", "choice": {"part": "regulator-5v-1a"}}}}, {"nodes": {"radio": {"rail": "low"}}}],
    "a converter that was set": [made("buck-trimmer", "adapter-12v-2a", is_set=True), glow(0.3, rail="low")],
    "cells that are stepped up": [made("boost-5v", "aa-4", overrides={"voltage_v": {"value": 3.0, "least": 2.4, "most": 3.2}}), glow(0.1, rail="low")],
    "a strip of twelve volts on its own adapter": [{"sources": {"other": {"end": "table", "choice": {"part": "adapter-12v-2a"}}}, "rails": {"high": {"end": "table", "fed_by": "other"}}}, glow(1, part="strip-12v-white", rail="high")],
}  # fmt: skip


@pytest.mark.parametrize("name", CAREFUL)
def test_a_careful_plan_stays_clear(name: str) -> None:
    assert [it.message for it in findings_of(plan_with(*CAREFUL[name]))] == []


def test_a_supply_is_proposed_that_carries_what_hangs_on_it() -> None:
    """A port where that is enough, the smallest adapter else; told as proposed, with the reason."""
    few, many = (
        design_of({"sources": {"usb": {"choice": None}}}),
        design_of({"sources": {"usb": {"choice": None}}}, ON_70, chain(60)),
    )
    assert few.rails["five"].source is not None
    assert few.rails["five"].source.id == "usb-port-500ma"
    assert many.rails["five"].source is not None
    assert (many.rails["five"].source.id, many.rails["five"].source.origin) == ("adapter-5v-4a", "proposed")
    assert "a USB port does not" in (many.rails["five"].source.why or "")


# Bad input


@pytest.mark.parametrize(
    ("patch", "field"),
    [
        (chain(10_000), "layout.runs"),
        ({"rails": {"five": {"decoupling_f": -1}}}, "decoupling_f"),
        (made("boost-5v", "aa-4", overrides={}, choice={"part": "boost-5v", "overrides": {"efficiency_ratio": {"value": 1.2}}}), "choice"),
        (glow(0.5, feed={"length_m": 1_000_000}), "length_m"),
        (glow(0.5, usage_ratio=1.5), "usage_ratio"),
        ({"sources": {"usb": {"wanted_run_time_s": "soon"}}}, "wanted_run_time_s"),
        ({"converters": {"conv": {"from_rail": "nowhere"}}}, "from_rail"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_at_its_field(patch: Document, field: str) -> None:
    with pytest.raises(PlanInvalid) as refused:
        plan_with(patch)
    assert any(field in it.field for it in refused.value.problems)


@pytest.mark.parametrize(
    "patches",
    [
        [{"rails": {"a": {"fed_by": "one"}, "b": {"fed_by": "two"}}, "converters": {"one": {"from_rail": "b"}, "two": {"from_rail": "a"}}}],
        [{"rails": {"a": {"fed_by": "one"}}, "converters": {"one": {"from_rail": "a"}}, "nodes": {"board": {"rail": "a"}}}],
        [made("boost-5v", "aa-4", choice={"part": "boost-trimmer"}, set_point_v=25)],
        [made("buck-trimmer", "adapter-5v-1a", set_point_v=12)],
        [fed_by("aaa-3", resistance_ohm=1e-9), glow(0.5)],
        [fed_by("coin-cell-3v", resistance_ohm=1000), glow(2)],
        [fed_by("adapter-5v-1a"), {"sources": {"usb": {"cable": {"length_m": 1000, "gauge_awg": 40}}}}],
        [ON_70, fed_by("adapter-5v-10a"), chain(5000)],
        [fed_by("lithium-1s", voltage_v={"value": 0.1}), chain(5), glow(1)],
        [made("regulator-3v3-250ma", "coin-cell-3v", overrides={"resistance_ohm": {"value": 500}}), glow(1, rail="low")],
        [chain(12, layout={"fed_at": [0, 5, 4000]})],
    ],
)  # fmt: skip
def test_odd_supplies_are_told_and_never_break(patches: list[Document]) -> None:
    """Rails in a ring, converters to above their input, nearly no ohms, a kilometre of wire, far too much: an answer, always a finite one."""
    plan: Plan = plan_with(*patches)
    result = review(plan, CATALOG)
    assert first_stage(result)
    for it in result.values:
        assert it.value is None or abs(it.value) < 1e12
    for found in result.findings:
        assert found.message
        assert "nan" not in found.message.lower().split()
        assert isinstance(found.fixes, tuple)


def test_a_kilometre_of_wire_is_told_with_what_it_does() -> None:
    found = findings_of(plan_with({"sources": {"usb": {"cable": {"length_m": 1000}}}}))
    assert {"WIRE-DROP", "SUP-SAG"} <= {it.code for it in found}


def test_a_rehearsed_evening_is_reckoned_with_as_it_was_lit() -> None:
    """Lit for half of the time it lasts: half of its full light. What is drawn on average is the same by either road."""
    plan = plan_with()
    design = resolve(plan, CATALOG)
    events: list[Document] = [
        {"kind": "word", "talk": "main", "word": word, "t_s": at} for word, at in (("on", 0.0), ("off", 5.0))
    ]
    trace = rehearse_design(design, read_events([*events, {"kind": "word", "talk": "main", "word": "off", "t_s": 10.0}]))
    shares = shares_of(design, trace)
    assert shares["lamp"] == pytest.approx(0.5, abs=0.01)
    after = resolve(edit_plan(plan, {"lamps": {"lamp": {"usage_ratio": shares["lamp"]}}}), CATALOG)
    course = drawn_of(design, trace)["five"]
    assert after.budgets["five"].average.known == pytest.approx(course.drawn_ah * 3600 / trace.ends_at_s, rel=1e-3)


def test_a_measured_rail_is_still_turned_where_its_source_keeps_its_volts() -> None:
    """And a verdict asks for nothing that no field of its sheet takes."""
    reading = {"value": 4.9, "unit": "V", "taken_at": "2026-01-01T10:00:00Z"}
    volts = design_of({"measured": {"rails.five.voltage_v": reading}}).rails["five"].voltage
    assert (volts.origin, volts.path) == ("measured", ("sources", "usb", "choice", "overrides", "voltage_v"))
    told = only(findings_of(plan_with(made("buck-trimmer", "adapter-9v-1a"))), "SUP-SETPOINT")
    assert told.message.endswith("then fix its trimmer.")
