"""What fits where: strip cut at its marks, lamps along a run, and wires as long as their places make them.

Densities and cut marks are those strips are sold with (60 a metre: one each 16.7 mm; 12 V strip of three LEDs a stretch,
50 mm at 60 a metre): common practice, no source. Spacing is the arithmetic of posts and gaps.
"""

import csv
import io
import math

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.bench.lists import cut_list
from oddlamp.core.bench.netlist import netlist
from oddlamp.core.bench.wiring import wiring
from oddlamp.core.checks.registry import run_rules
from oddlamp.core.design.design import Design
from oddlamp.core.errors import OutOfRange, PlanInvalid
from oddlamp.core.layouts.fit import cut_to, spaced
from oddlamp.core.layouts.strips import fitted, places_m, size_m, stretches, taken
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.layouts import Layout
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.bench import bench_shown
from oddlamp.sheets.fits import room_panel, spread_panels
from oddlamp.sheets.layouts import layout_file
from tests.builders import plan_with

CATALOG = load_catalog()
LAMPS = [f"l{at}" for at in range(4)]
FOUR: Document = {"lamps": {name: {"kind": "led", "host": "board", "label": name.upper()} for name in LAMPS}}


def chain(**layout: object) -> Document:
    return {"lamps": {"chain": {"kind": "pixels-one-wire", "label": "Chain", "host": "board", "layout": layout}}}


def laid_out(**spread: object) -> Design:
    return resolve(plan_with(FOUR, {"spreads": {"shelf": {"lamps": LAMPS, **spread}}}), CATALOG)


@pytest.mark.parametrize(
    ("room_m", "per_m", "every", "count", "left_mm"),
    [(1.0, 60, 1, 60, 0), (0.94, 60, 1, 56, 6.67), (0.94, 60, 3, 54, 40), (0.5, 144, 1, 72, 0), (0.049, 60, 3, 0, 49), (5, 30, 1, 150, 0)],
)  # fmt: skip
def test_strip_is_cut_at_its_marks(room_m: float, per_m: float, every: int, count: int, left_mm: float) -> None:
    cut = cut_to(room_m, 1 / per_m, every)
    assert cut.count == count
    assert cut.left_m * 1000 == pytest.approx(left_mm, abs=0.01)
    assert cut.length_m + cut.left_m == pytest.approx(room_m)


def test_what_is_no_strip_is_refused() -> None:
    for room_m, pitch_m, every in ((1, 0, 1), (-1, 0.1, 1), (1, 0.1, 0), (math.nan, 0.1, 1)):
        with pytest.raises(OutOfRange):
            cut_to(room_m, pitch_m, every)


@pytest.mark.parametrize(("ends", "gaps", "first"), [("at", 9, 0.0), ("half", 10, 0.05), ("whole", 11, 1 / 11)])
def test_posts_and_gaps(ends: str, gaps: int, first: float) -> None:
    """Ten lamps along a metre: nine gaps with posts at both ends, ten with half gaps there, eleven with whole ones."""
    filled = spaced(10, 1.0, None, ends, 0.1)  # type: ignore[arg-type]
    assert (filled.pitch_m, filled.first_m, filled.count) == (pytest.approx(1 / gaps), pytest.approx(first), 10)
    needed = spaced(10, None, 0.1, ends, 0.3)  # type: ignore[arg-type]
    assert needed.room_m == pytest.approx(gaps * 0.1), "as long as they need"
    both = spaced(10, 0.45, 0.1, ends, 0.3)  # type: ignore[arg-type]
    assert both.count == {"at": 5, "half": 4, "whole": 3}[ends]
    assert 2 * both.first_m + (both.count - 1) * 0.1 == pytest.approx(0.45), "what is left over is at both ends"


def test_pitch_and_density_are_one_figure() -> None:
    for typed, per_m in (("60", 60), ("12 cm", 100 / 12), ("16.7 mm", 60), ("6,9 mm", 145), ("144 a metre", 144), (60, 60)):
        assert Layout.model_validate({"per_m": typed}).per_m == pytest.approx(per_m, rel=0.006)
    for typed in ("0 cm", "many", "-3", "12 km", ""):
        with pytest.raises(PlanInvalid):
            plan_with(chain(per_m=typed))


def test_every_form_that_is_taken_fits_and_one_more_would_not() -> None:
    for shape, room in (
        ({"kind": "line"}, {"room_m": 0.7}),
        ({"kind": "runs"}, {"room_m": 0.7, "down_m": 0.2, "row_pitch_m": 0.03}),
        ({"kind": "grid"}, {"room_m": 0.3, "down_m": 0.2}),
        ({"kind": "grid", "goes": "down"}, {"room_m": 0.3, "down_m": 0.2}),
        ({"kind": "ring"}, {"room_m": 0.2}),
        ({"kind": "star"}, {"room_m": 0.4}),
    ):
        plan = plan_with(chain(runs="3", shape=shape, **room))
        layout = plan.lamps["chain"].layout  # type: ignore[union-attr]
        fits = fitted(layout)
        assert fits is not None
        patch = {"lamps": {"chain": {"layout": taken(layout, fits)}}}
        after = edit_plan(plan, patch).lamps["chain"].layout  # type: ignore[union-attr]
        assert after.count == fits.count
        wide, high = size_m(after)
        assert wide <= room["room_m"] * (1 + 1e-6), shape
        assert high <= room.get("down_m", math.inf) * (1 + 1e-6), shape
        if shape["kind"] in ("ring", "star"):
            more = Layout.model_validate({"runs": [{"count": fits.count + 1}], "shape": shape})
            assert size_m(more)[0] > room["room_m"] * (0.95 if shape["kind"] == "star" else 1 - 1e-6), (
                "a star has pixels beside its points"
            )
        elif shape["kind"] == "line":
            assert (fits.count + 1) / 60 > room["room_m"]
        else:
            between = room.get("row_pitch_m", 1 / 60)
            along, down = (between, 1 / 60) if shape.get("goes") == "down" else (1 / 60, between)
            assert wide + along > room["room_m"] - 1e-9
            assert high + down > room["down_m"] - 1e-9


def test_what_does_not_fit_is_a_verdict_with_ways_that_clear_it() -> None:
    for breaks in (chain(runs="24", room_m=0.3), chain(runs="24", shape={"kind": "grid"}, room_m=0.05, down_m=0.05)):
        design = resolve(plan_with(breaks), CATALOG)
        (found,) = [it for it in run_rules(design) if it.code == "ROOM-OVER"]
        assert len(found.fixes) == 2
        for way in found.fixes:
            there = resolve(edit_plan(design.plan, way.patch), CATALOG)
            assert not [it for it in run_rules(there) if it.code == "ROOM-OVER"], way.label


def test_places_are_saved_in_millimetres_and_read_back() -> None:
    design = resolve(plan_with(chain(runs="6", shape={"kind": "grid", "in_row": 3}, row_pitch_m=0.05)), CATALOG)
    text = layout_file(design, "chain", "csv")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [(float(it["across_mm"]), float(it["down_mm"])) for it in rows] == [
        (0, 0), (16.67, 0), (33.33, 0), (33.33, 50), (16.67, 50), (0, 50),
    ]  # fmt: skip
    read = Layout.model_validate({"shape": {"kind": "free", "places": text}})
    assert len(places_m(read)) == 6


def test_strip_in_rows_is_cut_and_joined_by_wire() -> None:
    design = resolve(plan_with(chain(runs="8,8,8", shape={"kind": "runs"}, row_pitch_m=0.3)), CATALOG)
    assert [(it.count, it.then_m) for it in stretches(design.plan.lamps["chain"].layout)] == [  # type: ignore[union-attr]
        (8, pytest.approx(0.3)), (8, pytest.approx(0.3)), (8, None),
    ]  # fmt: skip
    cuts = cut_list(design, wiring(design, netlist(design)))
    (strip,) = [it for it in cuts if it.gauge_awg is None]
    assert (strip.count, strip.colour, strip.length_m) == (3, "strip of 8 pixels", pytest.approx(8 / 60, abs=1e-3))
    between = [it for it in cuts if it.length_m == pytest.approx(0.33)]
    assert sum(it.count for it in between) == 6, "plus, ground and data, twice"


def test_single_pixels_are_wired_one_by_one_and_a_ready_made_panel_is_not_cut() -> None:
    for made_of, wires, strips in (("single", 3 * 7, 0), ("whole", 0, 0), ("strip", 0, 1)):
        design = resolve(plan_with(chain(runs="8", per_m=2, made_of=made_of)), CATALOG)
        cuts = cut_list(design, wiring(design, netlist(design)))
        assert sum(it.count for it in cuts if it.length_m == pytest.approx(0.55)) == wires, made_of
        assert sum(it.count for it in cuts if it.gauge_awg is None) == strips, made_of


def test_wires_are_as_long_as_places_make_them_everywhere() -> None:
    design = laid_out(room_m=4.0, away_m=0.5)
    assert [it.first_m for (it,) in design.leads.values()] == pytest.approx([1.0, 2.0, 3.0, 4.0]), (
        "half a metre in, a metre apart, and half a metre away"
    )
    made = wiring(design, netlist(design))
    for name, ((lead, _),) in design.leads.items():
        mine = [it for it in made.wires if it.net.stage == f"lamps.{name}" or f"lamps.{name}" in {made.circuit.pieces[t.piece].stage for t in (it.start, it.end) if t.pin}]  # fmt: skip
        lengths = {it.runs.length_m for it in mine if not it.is_bare}
        assert list(lengths) == pytest.approx([lead]), name
    own = resolve(plan_with(FOUR, {"spreads": {"shelf": {"lamps": LAMPS, "room_m": 4}}, "signals": {"l0.main": {"wire": {"length_m": 7}}}}), CATALOG)  # fmt: skip
    (first,) = [it for it in wiring(own, netlist(own)).wires if it.runs.length_m == 7]
    assert first.runs.is_told, "what is told goes before what its place gives"


def test_far_pixels_lose_on_the_way_that_their_place_makes() -> None:
    """The wire to a chain that is laid out is judged as if its length had been told."""
    many = chain(runs="60")
    told = resolve(plan_with(many, {"lamps": {"chain": {"feed": {"length_m": 3.2}}}, "signals": {"chain.data": {"wire": {"length_m": 3.2}}}}), CATALOG)  # fmt: skip
    placed = resolve(plan_with(many, {"spreads": {"far": {"lamps": ["chain"], "room_m": 6.0, "away_m": 0.2}}}), CATALOG)
    assert placed.leads["chain"][0].first_m == pytest.approx(3.2)
    assert placed.strips["chain"].volts == pytest.approx(told.strips["chain"].volts)
    assert placed.levels_at("lamps.chain") == told.levels_at("lamps.chain")
    assert {it.key for it in run_rules(placed)} == {it.key for it in run_rules(told)}


def test_lamps_without_room_are_told_and_a_lamp_taken_out_leaves_its_run() -> None:
    design = laid_out(room_m=0.25, pitch_m=0.1)
    (spread,) = design.spreads.values()
    assert spread.left == ("l2", "l3")
    (found,) = [it for it in run_rules(design) if it.code == "ROOM-OVER"]
    for way in found.fixes:
        assert not resolve(edit_plan(design.plan, way.patch), CATALOG).spreads["shelf"].left, way.label
    fewer = edit_plan(design.plan, design.taking_out.without_lamps({"l1"}))
    assert fewer.spreads["shelf"].lamps == ("l0", "l2", "l3")
    assert not edit_plan(design.plan, design.taking_out.without_lamps(set(LAMPS))).spreads, "an empty run goes"


def test_a_lamp_stands_at_one_place() -> None:
    for lamps in (["l0", "l0"], ["nobody"]):
        with pytest.raises(PlanInvalid):
            plan_with(FOUR, {"spreads": {"shelf": {"lamps": lamps}}})
    with pytest.raises(PlanInvalid):
        plan_with(FOUR, {"spreads": {"a": {"lamps": ["l0"]}, "b": {"lamps": ["l0"]}}})


def test_the_middle_saves_wire_and_the_offer_says_so() -> None:
    design = laid_out(room_m=4.0, away_m=0.0)
    panel = spread_panels(design)[0]
    (middle,) = [it for it in panel.moves if "middle" in it.label]
    there = resolve(edit_plan(design.plan, middle.patch), CATALOG)
    assert sum(it.first_m for (it,) in there.leads.values()) == pytest.approx(
        sum(it.first_m for (it,) in design.leads.values()) - 4.0
    )
    assert not [it for it in spread_panels(there)[0].moves if "middle" in it.label]


def test_what_is_offered_is_taken_and_is_clear() -> None:
    design = resolve(plan_with(FOUR), CATALOG)
    (offer,) = [it for it in bench_shown(design).spreads if it.title == "Where lamps stand"]
    for way in offer.moves:
        there = resolve(edit_plan(design.plan, way.patch), CATALOG)
        assert {it.key for it in run_rules(there)} == {it.key for it in run_rules(design)}, way.label
    empty = resolve(plan_with({"spreads": {"none": {"lamps": []}}}), CATALOG)
    assert "0 lamps" in spread_panels(empty)[0].note


def test_a_room_is_taken_at_the_sheet() -> None:
    design = resolve(plan_with(chain(runs="24", room_m=0.94)), CATALOG)
    panel = room_panel(design, design.lamps["chain"])
    assert panel is not None
    assert [it.label for it in panel.moves] == ["Take 56 pixels"]
    after = resolve(edit_plan(design.plan, panel.moves[0].patch), CATALOG)
    assert after.plan.lamps["chain"].layout.count == 56  # type: ignore[union-attr]
    strip = {"lamps": {"s": {"kind": "strip", "label": "S", "host": "board", "room_m": 1.23}}}
    told = resolve(plan_with(strip), CATALOG)
    panel = room_panel(told, told.lamps["s"])
    assert panel is not None
    assert panel.moves[0].patch == {"lamps": {"s": {"length_m": 1.2}}}


def test_each_led_of_a_string_has_a_spot_of_its_own() -> None:
    """Two strings of three LEDs: the first of each is led to, the last leads back, and wire joins the three."""
    lamp = {"lamps": {"lamp": {"rail": "five", "channels": {"main": {"in_series": 3, "in_parallel": 2}}}}}
    base = plan_with(lamp, {"spreads": {"shelf": {"lamps": ["lamp"], "pitch_m": 0.5, "ends": "at", "away_m": 0.1}}})
    design = resolve(base, CATALOG)
    assert design.leads["lamp"] == (pytest.approx((0.1, 1.1)), pytest.approx((1.6, 2.6)))
    made = wiring(design, netlist(design))
    far = {it.runs.length_m for it in made.wires if not it.is_bare and "lamp.main.led_2" in (it.start.piece, it.end.piece)}
    assert sorted(far) == pytest.approx([1.6, 2.6])
    between = [it for it in cut_list(design, made) if it.length_m == pytest.approx(0.55)]
    assert sum(it.count for it in between) == 4


def test_what_stands_at_the_board_is_no_longer_than_it_was() -> None:
    lamp = {"lamps": {"lamp": {"rail": "five", "drive": {"school": "mosfet"}, "channels": {"main": {"in_parallel": 4}}}}}
    design = resolve(plan_with(lamp, {"spreads": {"shelf": {"lamps": ["lamp"], "room_m": 4}}}), CATALOG)
    made = wiring(design, netlist(design))
    near = {it.runs.length_m for it in made.wires if it.through == "lamp.main.gate"}
    assert near == {0.2}, "the transistor and what is round it stand beside the board"
    far = {round(it.runs.length_m, 3) for it in made.wires if (it.through or "").startswith("lamp.main.resistor")}
    assert far == {0.7, 1.7, 2.7, 3.7}


@pytest.mark.parametrize(
    "layout",
    [{"runs": "10", "room_m": 1000}, {"runs": "10", "shape": {"kind": "grid"}, "room_m": 20, "down_m": 0.1}, {"runs": "10, 10", "shape": {"kind": "runs"}, "room_m": 0.1, "down_m": 20}],
)  # fmt: skip
def test_more_than_a_plan_holds_is_told_and_not_offered(layout: Document) -> None:
    design = resolve(plan_with(chain(**layout)), CATALOG)
    panel = room_panel(design, design.lamps["chain"])
    assert panel is not None
    assert panel.moves == ()
    assert any("more than one chain holds" in line for line in panel.lines)
    assert all(edit_plan(design.plan, way.patch) for it in run_rules(design) if it.code == "ROOM-OVER" for way in it.fixes)
