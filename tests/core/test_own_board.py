"""A board of one's own: its pin table by columns and as a file, both ways, and every fault of either told with its place."""

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.board_file import read_board, write_board
from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import BoardInvalid, PlanInvalid
from oddlamp.core.parts.check import check_parts
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.parts.own import as_own_board, figures_of, own_board, with_own_parts
from oddlamp.core.parts.own_board import columns_of, pins_of
from oddlamp.core.plan.changes import changes, clashes
from oddlamp.core.plan.columns import read_grouped, read_numbers, read_run, write_grouped, write_numbers, write_run
from oddlamp.core.plan.document import Document, dump_plan, edit_plan
from oddlamp.core.plan.own_board import EDGES, GROUPED, RUNS, OwnBoard
from oddlamp.sheets.parts import own_patch
from tests.builders import plan_with
from tests.core.test_parts import resolve

BOARDS = load_catalog().boards
SMALL: Document = {"ram_bytes": 2048, "top": "D0-D5", "bottom": "A0 A1", "pwm": "D3 D5", "volts": "A0 A1"}


def same_but_source(one: BoardPart, other: BoardPart) -> None:
    """Every pin, figure and count is the same; who says so may differ."""
    for pin, back in zip(one.pins, other.pins, strict=True):
        assert pin.abilities == back.abilities
        assert pin.model_dump(exclude={"can"}) == back.model_dump(exclude={"can"})
    others = set(BoardPart.model_fields) - set(figures_of(BoardPart)) - {"id", "pins", "port_groups"}
    assert one.model_dump(include=others) == other.model_dump(include=others)
    for name in figures_of(BoardPart):
        mine, theirs = getattr(one, name), getattr(other, name)
        told = [it and (it.value, it.low, it.high, it.conditions) for it in (mine, theirs)]
        assert told[0] == told[1], name
    limits = [
        {(it.label, it.pins, *(v and v.value for v in (it.sink_a, it.source_a))) for it in b.port_groups} for b in (one, other)
    ]
    assert limits[0] == limits[1]


@pytest.mark.parametrize("board", sorted(BOARDS))
def test_every_board_is_the_same_as_columns_as_typed_text_and_as_a_file(board: str) -> None:
    shipped = BOARDS[board]
    own = as_own_board(shipped, load_catalog())
    assert own.board is not None
    assert own.like == board
    same_but_source(shipped, own_board("own", own, own.board, shipped))
    held = own.board
    typed: Document = {**columns_of(shipped), **{it: write_run(getattr(held, it)) for it in EDGES}}
    typed |= {it: write_run(getattr(held, it), held.pins) for it in RUNS}
    typed |= {it: write_grouped(getattr(held, it), names, held.pins) for it, names in GROUPED.items()}
    typed["numbers"] = write_numbers(held.numbers, held.pins)
    assert OwnBoard.model_validate(typed) == held
    for form in ("json", "toml"):
        assert read_board(f"mine.{form}", write_board(shipped, form), load_catalog()) == own


@given(st.lists(st.from_regex(r"\A[A-D_.]{0,2}(0|[1-9][0-9]{0,2}|[A-D])\Z"), max_size=60, unique=True))
def test_a_run_is_read_as_it_is_written(labels: list[str]) -> None:
    sound = [label for label in labels if label[0] not in "_."]
    assert list(read_run(write_run(sound))) == sound
    numbers = {label: (7 * at) % 100 + at for at, label in enumerate(sound)}
    assert read_numbers(write_numbers(numbers, ()), ()) == numbers


@pytest.mark.parametrize(
    ("column", "typed", "kept"),
    [
        ("pwm", "all but D0 D1", ("D2", "D3", "D4", "D5", "A0", "A1")),
        ("pwm", " D3,D5 ", ("D3", "D5")),
        ("numbers", "9 8 7", {"D0": 9, "D1": 8, "D2": 7}),
        ("numbers", "D0-D5 = 5-0 A0=17", {"D0": 5, "D1": 4, "D2": 3, "D3": 2, "D4": 1, "D5": 0, "A0": 17}),
        ("timers", "2: D5/D3", {"2.A": ("D5",), "2.B": ("D3",)}),
        ("serial", "D0/D1, D4/D5", {"0.hears": ("D0",), "0.speaks": ("D1",), "1.hears": ("D4",), "1.speaks": ("D5",)}),
        ("straps", "HIGH: D0; low: D2", {"high": ("D0",), "low": ("D2",)}),
        ("pulls", "up 12k: D3 D4; down 4k7: D5", {"up 12000": ("D3", "D4"), "down 4700": ("D5",)}),
        ("busy", "led: D3; memory: D4", {"status-led": ("D3",), "flash": ("D4",)}),
        ("two_wire", "A0/A1", {"data": ("A0",), "clock": ("A1",)}),
    ],
)  # fmt: skip
def test_a_column_is_typed_for_all_pins_at_once(column: str, typed: str, kept: object) -> None:
    board = OwnBoard.model_validate({**SMALL, column: typed})
    assert getattr(board, column) == kept
    if column in GROUPED:
        assert read_grouped(write_grouped(getattr(board, column), GROUPED[column]), GROUPED[column], board.pins) == kept


@pytest.mark.parametrize(
    ("column", "typed", "told"),
    [
        ("top", "D0 D1 D0", "D0 stands twice"),
        ("bottom", "D3 A0", "D3 stands twice"),
        ("top", "1-300", "at most 200 pins"),
        ("top", " ".join(f"X{at}Y" for at in range(250)), "at most 200 pins"),
        ("top", "0" * 40, "at most 12 letters"),
        ("top", "<b>D0", "at most 12 letters"),
        ("top", "x" * 3000, "at most 2000 characters"),
        ("pwm", "D3 D99", "not D99"),
        ("pwm", "all D3", "all, or all but"),
        ("timers", "2: D0", "D0 does not yet"),
        ("timers", "2: D3; 1: D3", "D3 stands under two"),
        ("timers", "D3", "under a name"),
        ("straps", "soon: D3", "such as high: 0 2; low: 15"),
        ("pulls", "up: D3", "such as up 12k"),
        ("pulls", "up lots: D3", "ohms"),
        ("serial", "0: D0/D1/D2", "slash"),
        ("busy", "party: D3", "such as upload"),
        ("numbers", "D0=x", "three digits"),
        ("numbers", "D0-D3=1 2", "as many numbers"),
        ("numbers", "1 2 3 4 5 6 7 8 9", "at most 8 numbers"),
        ("sources", "hearsay: D0", "one of"),
        ("ram_bytes", "lots", "integer"),
    ],
)
def test_what_cannot_be_is_refused_at_its_column_and_nothing_is_kept(column: str, typed: str, told: str) -> None:
    plan = plan_with({"parts": {"own-x": {"table": "boards", "like": "board-5v-20io", "label": "X", "board": SMALL}}})
    with pytest.raises(PlanInvalid) as refused:
        check_parts(edit_plan(plan, {"parts": {"own-x": {"board": {column: typed}}}}), load_catalog())
    assert refused.value.problems[0].field == f"parts.own-x.board.{column}"
    assert told in refused.value.problems[0].allowed


def test_pins_that_leave_an_edge_leave_their_columns() -> None:
    plan = plan_with({"parts": {"own-x": {"table": "boards", "like": "board-5v-20io", "label": "X", "board": SMALL}}})
    told = {"numbers": "as printed", "timers": "1: D3/D5", "limits": {"all": {"pins": ["D3", "A0"], "sink_a": 0.1}}}
    plan = edit_plan(plan, {"parts": {"own-x": {"board": told}}})
    board = edit_plan(plan, {"parts": {"own-x": {"board": {"top": "D0-D4"}}}}).parts["own-x"].board
    assert board is not None
    assert board.pwm == ("D3",)
    assert board.timers == {"1.A": ("D3",)}
    assert "D5" not in board.numbers
    assert board.limits["all"].pins == ("D3", "A0")
    with pytest.raises(PlanInvalid, match="not D9"):  # but a column that is told names pins there are
        edit_plan(plan, {"parts": {"own-x": {"board": {"pwm": ["D9"]}}}})


def test_a_column_is_told_and_fought_over_as_a_whole() -> None:
    """In the history as it was typed; two windows that change one column meet, two columns do not."""
    own = {"table": "boards", "like": "board-5v-20io", "label": "Stage", "board": {**SMALL, "timers": "1: D3/D5"}}
    plan = plan_with({"parts": {"own-x": own}})

    def told(**columns: str | None) -> Document:
        return dump_plan(edit_plan(plan, {"parts": {"own-x": {"board": columns}}}))

    base = dump_plan(plan)
    (change,) = changes(base, told(timers="2: D5/D3"))
    assert (change.label, change.before, change.after) == ("Part Stage, timers of those", "1: D3/D5", "2: D5/D3")
    (clash,) = clashes(base, told(timers="2: D5/D3"), told(timers="3: D3"))
    assert (clash.was, clash.theirs, clash.yours) == ("1: D3/D5", "2: D5/D3", "3: D3")
    assert clashes(base, told(interrupt="D0"), told(timers="3: D3")) == ()


def test_only_a_board_has_pins() -> None:
    own = {"table": "leds", "like": "led-red", "label": "X", "board": SMALL}
    with pytest.raises(PlanInvalid, match="no board"):
        plan_with({"parts": {"own-x": own}})


def test_what_is_not_told_of_a_board_is_not_known_and_not_borrowed() -> None:
    own = {"table": "boards", "like": "board-5v-20io", "label": "X", "board": SMALL}
    part = with_own_parts(load_catalog(), plan_with({"parts": {"own-x": own}}).parts).board("own-x")
    assert part.chip_most_a is None
    assert part.port_groups == ()
    assert part.pin_recommended_a == BOARDS["board-5v-20io"].pin_recommended_a, "every board has one"
    assert {pin.source for pin in part.pins} == {"own"}


def test_a_plan_read_again_has_the_very_board() -> None:
    """What is known of a board is kept by what it is; a fresh one for each edit would be worked out anew."""
    design = resolve(plan_with(), load_catalog())
    part_id, patch = own_patch(design, "boards", BOARDS["board-5v-70io"])
    plans = [plan_with(patch) for _ in range(2)]
    made = [with_own_parts(load_catalog(), plan.parts).board(part_id) for plan in plans]
    assert made[0] is made[1]
    assert pins_of(plans[0].parts[part_id].board or OwnBoard(ram_bytes=1)) == made[0].pins


GOOD = json.loads(write_board(BOARDS["board-5v-20io"], "json"))


def changed(**top: Any) -> str:
    return json.dumps({**GOOD, **top})


def with_pin(**told: Any) -> str:
    return changed(pins=[{**GOOD["pins"][0], **told}, *GOOD["pins"][1:]])


@pytest.mark.parametrize(
    ("text", "where", "given_", "allowed"),
    [
        ("", "pins", "none at all", "one pin or more"),
        ("{}", "pins", "none at all", "one pin or more"),
        (changed(pins=[]), "pins", "none at all", "one pin or more"),
        (changed(pins="all"), "pins", "str", "one pin or more"),
        ("{", "", "line 1", "JSON"),
        ("pins = [", "", "Invalid", "TOML"),
        ("\x00\x01", "", "line 1", "TOML"),
        ("[" * 100_000, "", "", "TOML"),
        ('{"a":' * 100, "", "line 1", "JSON"),
        ('{"a":' * 40 + "1" + "}" * 40, "board.toml", "levels deep", "levels"),
        ("x = 1\n" * 300_000, "", "MB", "1 MB"),
        ("a" + ".a" * 200_000 + " = 1", "", "dots in a row", "a part or two"),
        ("x = " + "[" * 50_000, "", "nested too deep", "TOML"),
        ("[[pins]]\nlabel = 'a'\n" * 40_000, "pins", "more than 200", "at most 200"),
        (with_pin(label="1"), "pins", "'1'", "stands twice"),
        (with_pin(can=["magic"]), "pins.0.can.0", "magic", "digital-out"),
        (with_pin(can=["pwm"], timer="1"), "pins.0.channel", "nothing", "stand together"),
        (with_pin(can=["digital-in"], timer="1", channel="A"), "pins.0.timer", "1", "cannot do pwm"),
        (with_pin(label="x" * 40), "pins.0.label", "xxx", "at most 12"),
        (with_pin(label="<img src=x>"), "pins.0.label", "img", "at most 12"),
        (with_pin(label="D0-D3"), "pins.0.label", "D0-D3", "run"),
        (with_pin(board_pull="up"), "pins.0.board_pull_ohm", "nothing", "stand together"),
        (with_pin(source="a-friend"), "pins.0.source", "a-friend", "from-memory"),
        (changed(pins=[{**GOOD["pins"][4], "label": f"X{at}Y"} for at in range(300)]), "pins", "more than 200", "at most 200"),
        (changed(pins=[3]), "pins.0", "3", "dictionary"),
        (changed(label="x" * 500), "label", "xxx", "at most 80"),
        (changed(colour="red"), "colour", "red", "no field of this name"),
        (changed(pin_recommended_a={"value": 1e9, "source": "own"}), "pin_recommended_a", "1000000000", "at most 100"),
        (changed(pin_recommended_a=None), "pin_recommended_a", "None", ""),
        (changed(ram_bytes=0), "ram_bytes", "0", "1 or more"),
        (changed(route="teleport"), "route", "teleport", "usb"),
        (changed(deaf_on_wifi=["9"]), "deaf_on_wifi", "9", "read by this one"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_is_refused_with_its_place(text: str, where: str, given_: str, allowed: str) -> None:
    with pytest.raises(BoardInvalid) as refused:
        read_board("board.toml", text, load_catalog())
    first = refused.value.problems[0]
    assert first.field.startswith("board.toml")
    assert where in first.field
    assert given_ in first.given
    assert allowed in first.allowed
