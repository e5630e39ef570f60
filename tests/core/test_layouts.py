"""Where pixels stand and what signs light, against tables drawn by hand; index to place and back for everything that can be drawn."""

import csv
import io
import itertools
import math
from typing import Any
from xml.etree import ElementTree

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import DomainError
from oddlamp.core.layouts.glyphs import NARROW_FONT, WIDE_FONT, bars_of, columns_of
from oddlamp.core.layouts.places import cells_of, index_at, places_of
from oddlamp.core.layouts.signs import (
    Face,
    Manner,
    chain_face,
    digits_of,
    dots_of_pixels,
    lit,
    matrix_face,
    module_rows,
    steps_of,
)
from oddlamp.core.layouts.stand import Neighbours
from oddlamp.core.plan.document import load_plan, merge_patch
from oddlamp.core.plan.layouts import Layout, MatrixPanel
from oddlamp.core.rehearsal.displays import rows_of
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from oddlamp.sheets.layouts import layout_file
from oddlamp.sheets.previews import preview
from tests.builders import CLEAR, document

STILL = Manner()


def layout(runs: Any, **shape: Any) -> Layout:
    return Layout.model_validate({"runs": runs, **({"shape": shape} if shape else {})})


def drawn(table: str) -> dict[int, tuple[int, int]]:
    """Read a table drawn by hand: the number of the pixel at each row and column."""
    rows = [line.split() for line in table.strip().splitlines()]
    return {int(it): (row, column) for row, line in enumerate(rows) for column, it in enumerate(line) if it != "."}


def picture(dots: Any, face: Face) -> str:
    return "\n".join("".join("#" if (row, column) in dots else "." for column in range(face.columns)) for row in range(face.rows))


TABLES = [
    (
        layout(60, kind="grid", in_row=10),
        """
         0  1  2  3  4  5  6  7  8  9
        19 18 17 16 15 14 13 12 11 10
        20 21 22 23 24 25 26 27 28 29
        39 38 37 36 35 34 33 32 31 30
        40 41 42 43 44 45 46 47 48 49
        59 58 57 56 55 54 53 52 51 50
        """,
    ),
    (
        layout(6, kind="grid", in_row=3, begins="bottom-right", goes="down"),
        """
        3 2
        4 1
        5 0
        """,
    ),
    (
        layout(7, kind="grid", in_row=3, turns="straight", begins="top-right"),
        """
        2 1 0
        5 4 3
        . . 6
        """,
    ),
    (
        layout("5, 3, 2", kind="runs"),
        """
        0 1 2 3 4
        . . 7 6 5
        8 9 . . .
        """,
    ),
    (
        layout("4, 2, 3", kind="runs", turns="straight", begins="bottom-left"),
        """
        6 7 8 .
        4 5 . .
        0 1 2 3
        """,
    ),
    (
        layout(60, kind="digits"),
        """
         0  1  2 . 15 16 17 . 30 31 32 . 45 46 47
         5  4  3 . 20 19 18 . 35 34 33 . 50 49 48
         6  7  8 . 21 22 23 . 36 37 38 . 51 52 53
        11 10  9 . 26 25 24 . 41 40 39 . 56 55 54
        12 13 14 . 27 28 29 . 42 43 44 . 57 58 59
        """,
    ),
    (
        layout(14, kind="digits", made_of="bars", in_bar=2),
        """
        .  0  1  .
        11 .  .  2
        10 .  .  3
        . 12 13  .
        9  .  .  4
        8  .  .  5
        .  7  6  .
        """,
    ),
]


@pytest.mark.parametrize(("made", "table"), TABLES)
def test_pixels_stand_as_drawn_by_hand(made: Layout, table: str) -> None:
    cells = cells_of(made)
    assert cells is not None
    assert dict(enumerate(cells.at)) == drawn(table)


def test_a_star_of_seven_points_has_its_tips_on_a_heptagon_and_its_notches_between() -> None:
    """84 pixels: twelve for each point, six along each edge. The corners by plane trigonometry, worked out apart from the code."""
    places = places_of(layout(84, kind="star", points=7, inner_ratio=0.5))
    tips, notches = places[::12], places[6::12]
    radius = math.dist((0, 0), tips[0])
    for at, (x, y) in enumerate(tips):
        angle = math.radians(90 - 360 / 7 * at)
        assert (x, -y) == pytest.approx((radius * math.cos(angle), radius * math.sin(angle)), abs=1e-3)
    for at, (x, y) in enumerate(notches):
        angle = math.radians(90 - 360 / 7 * (at + 0.5))
        assert (x, -y) == pytest.approx((radius / 2 * math.cos(angle), radius / 2 * math.sin(angle)), abs=1e-3)
    gaps = [math.dist(one, other) for one, other in itertools.pairwise(places)]
    assert gaps == pytest.approx([1.0] * 83, abs=1e-3)


@pytest.mark.parametrize("way", ["clockwise", "counter-clockwise"])
def test_a_ring_begins_on_top_and_goes_its_way(way: str) -> None:
    places = places_of(layout(12, kind="ring", way=way))
    radius = 12 / math.tau
    assert places[0] == pytest.approx((0, -radius), abs=1e-3)
    assert places[3] == pytest.approx((radius if way == "clockwise" else -radius, 0), abs=1e-3)
    assert places[6] == pytest.approx((0, radius), abs=1e-3)


FOLDS = st.fixed_dictionaries(
    {},
    optional={
        "begins": st.sampled_from(["top-left", "top-right", "bottom-left", "bottom-right"]),
        "goes": st.sampled_from(["across", "down"]),
        "turns": st.sampled_from(["straight", "zig-zag"]),
    },
)
WAYS = st.fixed_dictionaries({}, optional={"way": st.sampled_from(["clockwise", "counter-clockwise"])})
SHAPES = st.one_of(
    st.just({"kind": "line"}),
    FOLDS.map(lambda it: {"kind": "runs", **it}),
    st.builds(lambda it, each: {"kind": "grid", "in_row": each, **it}, FOLDS, st.integers(1, 40)),
    FOLDS.map(lambda it: {"kind": "grid", **it}),
    FOLDS.map(lambda it: {"kind": "digits", **it}),
    st.builds(
        lambda each, bars: {"kind": "digits", "made_of": "bars", "in_bar": each, "bars": "".join(bars)},
        st.integers(1, 6),
        st.permutations("abcdefg"),
    ),
    WAYS.map(lambda it: {"kind": "ring", **it}),
    st.builds(lambda it, points: {"kind": "star", "points": points, "inner_ratio": 0.5, **it}, WAYS, st.integers(3, 12)),
    st.lists(st.tuples(st.integers(-50, 50), st.integers(-50, 50)), min_size=1, max_size=60, unique=True).map(
        lambda it: {"kind": "free", "places": it}
    ),
)


@settings(max_examples=150, deadline=None)
@given(st.lists(st.integers(1, 40), min_size=1, max_size=6), SHAPES)
def test_an_index_leads_to_a_place_and_the_place_back(runs: list[int], shape: dict[str, Any]) -> None:
    made = layout([{"count": it} for it in runs], **shape)
    places = places_of(made)
    assert len(places) == made.count
    assert len(set(places)) == made.count
    for at, (x, y) in enumerate(places):
        near = index_at(made, x, y)
        assert near is not None
        assert math.dist(places[near], (x, y)) < 1e-6
        assert near == at
    cells = cells_of(made)
    if cells is not None:
        assert sorted(cells.by_cell().values()) == list(range(made.count))
        assert all(0 <= row < cells.rows and 0 <= column < cells.columns for row, column in cells.at)


@settings(max_examples=60, deadline=None)
@given(
    st.integers(1, 16),
    st.integers(1, 4),
    st.sampled_from(["straight", "zig-zag"]),
    st.sampled_from([0, 90, 180, 270]),
    st.booleans(),
)
def test_each_dot_of_modules_is_one_of_a_module_and_none_twice(
    count: int, rows: int, turns: str, turned: int, back: bool
) -> None:
    panel = MatrixPanel.model_validate({"rows": rows, "turns": turns, "turned": turned, "is_back_to_back": back})
    face = matrix_face(count, panel)
    written = set[tuple[int, int, int]]()
    for row in range(face.rows):
        for column in range(face.columns):
            bits = module_rows(count, panel, frozenset({(row, column)}))
            mine = {
                (module, at, bit)
                for module, it in enumerate(bits)
                for at, byte in enumerate(it)
                for bit in range(8)
                if byte >> bit & 1
            }
            assert len(mine) <= (2 if back else 1)
            assert not mine & written
            written |= mine
    assert len(written) == 64 * count


def test_a_module_that_was_turned_is_written_turned_back() -> None:
    """An arrow of three dots in the top left corner, seen upright: worked out with a sheet of paper, turned clockwise by a quarter."""
    corner = frozenset({(0, 0), (0, 1), (1, 0)})
    top = {0: {0: 0xC0, 1: 0x80}, 90: {7: 0xC0, 6: 0x80}, 180: {7: 0x03, 6: 0x01}, 270: {0: 0x03, 1: 0x01}}
    for turned, rows in top.items():
        assert module_rows(1, MatrixPanel.model_validate({"turned": turned}), corner)[0] == tuple(
            rows.get(it, 0) for it in range(8)
        )


def test_four_digits_of_pixels_write_as_drawn_by_hand() -> None:
    made = layout(60, kind="digits")
    face = chain_face(made)
    assert face == Face(5, 15)
    dots = lit(face, "1234", STILL, 0)
    wanted = [".#..###.###.#.#", "##....#...#.#.#", ".#..###.###.###", ".#..#.....#...#", "###.###.###...#"]
    assert picture(dots, face) == "\n".join(wanted)
    by_pixel = [at for at, dot in enumerate(dots_of_pixels(made)) if dot in dots]
    assert by_pixel[:9] == [1, 4, 5, 7, 10, 12, 13, 14, 15]  # the 1, along its zig-zag, and the first dot of the 2


def test_bars_write_digits_as_every_meter_does() -> None:
    """Which bars each digit lights: common practice, no source; a on top, clockwise, g in the middle."""
    table = ["abcdef", "bc", "abged", "abgcd", "fgbc", "afgcd", "afgedc", "abc", "abcdefg", "abcfgd"]
    assert [set(bars_of(str(it))) for it in range(10)] == [set(it) for it in table]


def test_every_sign_of_a_keyboard_is_drawn_and_no_two_alike() -> None:
    keyboard = [chr(it) for it in range(32, 127)]
    assert set(WIDE_FONT) == set(keyboard)
    assert len(set(WIDE_FONT.values())) == len(keyboard)
    assert {it.upper() for it in keyboard} == set(NARROW_FONT)
    assert all(any(WIDE_FONT[it]) for it in keyboard[1:])


def test_a_wide_text_stands_and_moves_as_drawn_by_hand() -> None:
    """Ten dots across for eleven of a text: it stands narrow, and moves wide; in from the right, out to the left."""
    face = matrix_face(1, None)
    assert (steps_of(face, "HI"), digits_of(face)) == (11 + 8, 2)
    assert picture(lit(face, "HI", STILL, 0), face).splitlines()[1:6] == [
        "#.#.###.",
        "#.#..#..",
        "###..#..",
        "#.#..#..",
        "#.#.###.",
    ]
    moving = Manner(80)
    assert lit(face, "HI", moving, 0) == frozenset()
    assert picture(lit(face, "HI", moving, 3), face).splitlines()[:2] == [".....#..", ".....#.."]
    whole = columns_of("HI", is_narrow=False)
    for step in range(steps_of(face, "HI")):
        dots = lit(face, "HI", moving, step)
        back = lit(face, "HI", Manner(80, is_reversed=True), step)
        for column in range(8):
            for which, at in ((dots, column + step - 8), (back, column + len(whole) - step)):
                bits = whole[at] if 0 <= at < len(whole) else 0
                assert [(row, column) in which for row in range(7)] == [bool(bits >> row & 1) for row in range(7)]
    ground = lit(face, "HI", Manner(0, is_inverted=True), 0)
    assert len(ground) + len(lit(face, "HI", STILL, 0)) == 64


def test_a_rule_of_neighbours_makes_the_triangle_it_is_known_for() -> None:
    """Wolfram 1983: by rule 90 the n-th row is Pascal's triangle by its odd numbers."""
    row = Neighbours(65, 90)
    for n in range(33):
        found = {at - 32 for at in range(65) if row.row(n) >> at & 1}
        assert found == {2 * k - n for k in range(n + 1) if math.comb(n, k) % 2}
    assert Neighbours(65, 90).row(20) == row.row(20)


SIGN = merge_patch(
    CLEAR,
    {
        "lamps": {
            "sign": {"kind": "matrix", "label": "Sign", "host": "board", "count": 4},
            "drop": {
                "kind": "pixels-one-wire",
                "label": "Drop",
                "host": "board",
                "layout": {"runs": 70, "shape": {"kind": "grid", "in_row": 10}},
            },
        },
        "vocabularies": {"words": {"words": {"hello": {"sent": "h"}}}},
        "rules": {
            "hello": {
                "host": "board",
                "when": {"heard": "hello"},
                "do": [
                    {"verb": "text", "target": "sign", "values": {"text": "Hi 5!", "scroll_s": 0.08}},
                    {"verb": "text", "target": "drop", "values": {"text": "A", "scroll_s": 0.1}},
                ],
            }
        },
        "nodes": {"phone": {"controls": {"hello": {"kind": "button", "says": {"press": {"talk": "main", "word": "hello"}}}}}},
    },
)


def test_what_the_screen_draws_of_a_moving_text_is_what_the_modules_are_written_bit_by_bit() -> None:
    design = resolve(load_plan(SIGN), load_catalog())
    events = read_events([{"kind": "control", "control": "hello", "gesture": "press", "t_s": 0}, {"kind": "wait", "t_s": 5}])
    trace = rehearse_design(design, events)
    rows = rows_of(design, trace)["sign"]
    looks = show_run(design, trace, since_s=0.0).looks["lamps.sign"]
    assert len(rows) > 40
    by_time = {round(it.t_s, 6): it for it in rows}
    seen = 0
    for look in looks:
        written = by_time.get(round(look.t_s, 6))
        if written is None or not look.pixels:
            continue
        seen += 1
        _, colours, digits = look.pixels.split(":")
        is_dark_first = colours.startswith("000000")
        on = [(it == "1") == is_dark_first for digit in digits for it in f"{int(digit, 16):04b}"]
        modules = bytes.fromhex(written.rows_hex)
        for row in range(8):
            across = "".join(f"{modules[8 * module + row]:08b}" for module in range(4))
            assert [it == "1" for it in across] == on[32 * row : 32 * row + 32]
    assert seen > 30


def test_a_chain_that_shows_a_text_lights_the_dots_of_it() -> None:
    """The first column of an A comes in at the right after a tenth of a second."""
    design = resolve(load_plan(SIGN), load_catalog())
    events = read_events([{"kind": "control", "control": "hello", "gesture": "press", "t_s": 0}, {"kind": "wait", "t_s": 5}])
    trace = rehearse_design(design, events)
    told = next(it.t_s for it in trace.events if it.stage == "lamps.drop")
    made = layout(70, kind="grid", in_row=10)
    cells = cells_of(made)
    assert cells is not None
    shown = [it for it in trace.pixels["drop"] if it.t_s <= told + 0.105][-1].shows
    found = {cells.at[at] for at in range(70) if shown[6 * at : 6 * at + 6] != "000000"}
    assert found == {(row, 9) for row in (1, 2, 3, 4, 5, 6)}
    assert any('shows "A"' in it.says for it in trace.events)


@pytest.mark.parametrize(
    ("shape", "said"),
    [
        ({"kind": "free", "places": "1, 2\nhere, there"}, "in line 2"),
        ({"kind": "free", "places": "x,y\n1;2\n1 2"}, "pixels 0 and 1 would be on top of each other"),
        ({"kind": "free", "places": ""}, "a place a line"),
        ({"kind": "free", "places": "\n".join(f"{it} 0" for it in range(5002))}, "at most 5000"),
        ({"kind": "free", "places": [[1e9, 0]]}, "10,000 at most"),
        ({"kind": "star", "points": 2}, "3 or more"),
        ({"kind": "grid", "in_row": 0}, "1 or more"),
        ({"kind": "digits", "bars": "abcdefa"}, "each of abcdefg once"),
        ({"kind": "digits", "bars": "abc"}, "the letters a to g"),
        ({"kind": "spiral"}, "line"),
    ],
)
def test_nonsense_is_told_where_it_stands(shape: dict[str, Any], said: str) -> None:
    plan = merge_patch(SIGN, {"lamps": {"drop": {"layout": {"shape": None}}}})
    with pytest.raises(DomainError) as told:
        load_plan(merge_patch(plan, {"lamps": {"drop": {"layout": {"shape": shape}}}}))
    assert told.value.problems[0].field.startswith("lamps.drop.layout")
    assert said in f"{told.value.problems[0].allowed}"


def test_places_are_saved_and_read_again() -> None:
    design = resolve(load_plan(SIGN), load_catalog())
    text = layout_file(design, "drop", "csv")
    table = list(csv.DictReader(io.StringIO(text)))
    assert (table[11]["pixel"], table[11]["across"], table[11]["down"]) == ("11", "8", "1")
    again = Layout.model_validate({"shape": {"kind": "free", "places": text}})
    assert places_of(again) == places_of(layout(70, kind="grid", in_row=10))
    drawing = ElementTree.fromstring(layout_file(design, "drop", "svg"))
    assert len(list(drawing.iter("{http://www.w3.org/2000/svg}circle"))) == 70


def test_five_thousand_places_are_taken_and_their_sheet_stays_small() -> None:
    places = "\n".join(f"{it % 100},{it // 100}" for it in range(5000))
    plan = load_plan(
        merge_patch(
            SIGN, {"lamps": {"drop": {"layout": {"runs": None, "shape": {"kind": "free", "in_row": None, "places": places}}}}}
        )
    )
    design = resolve(plan, load_catalog())
    assert design.lamps["drop"].load is not None
    assert design.lamps["drop"].load.pixels == 5000
    cells = cells_of(plan.lamps["drop"].layout)  # type: ignore[union-attr,arg-type]
    assert cells is not None
    assert (cells.rows, cells.columns) == (50, 100)


def test_a_lamp_is_tried_by_itself() -> None:
    design = resolve(load_plan(SIGN), load_catalog())
    found = preview(design, "drop", "pattern", {"pattern": "wipe", "step_s": 0.5})
    lit_then = [it.pixels.count("f") for it in found.looks]
    assert len(found.looks) > 10
    assert lit_then[0] < lit_then[-1]
    with pytest.raises(DomainError):
        preview(design, "nobody", "on", {})
    with pytest.raises(DomainError):
        preview(design, "drop", "pattern", {"pattern": "waltz"})


def test_old_plans_with_runs_stand_as_they_did() -> None:
    plan = load_plan(document("foyer-star"))
    star: Any = plan.lamps["star"]
    assert (star.layout.count, cells_of(star.layout).rows) == (84, 1)
