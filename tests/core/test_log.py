"""What the log reads, finds and adds up, what it writes as files, and which notes for next time it offers."""

import csv
from io import StringIO
from typing import Any

import pytest
from pydantic import ValidationError

from oddlamp.catalog.load import demo_plan, load_catalog
from oddlamp.core.bench.tables import as_text
from oddlamp.core.plan.document import load_plan, merge_patch
from oddlamp.core.plan.entries import Entry, Logged, NextTime, Photo, deed_of, folded, read_minutes, words_of
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.bringup import all_steps, measured_csv
from oddlamp.sheets.log import EntryShown, LogShown, RunShown, log_csv, log_markdown, log_shown, sums_of
from oddlamp.sheets.nexttime import about, offers, uses
from oddlamp.sheets.paper import sheets_markdown
from oddlamp.sheets.review import review, review_design
from oddlamp.sheets.versions import compare_versions
from tests.builders import CLEAR, divider, plan_with


@pytest.mark.parametrize(
    ("typed", "minutes"),
    [("80", 80), ("80 min", 80), ("1:20", 80), ("1 h 20", 80), ("1h20", 80), ("1 h 20 min", 80), ("1.5 h", 90), ("1,5h", 90), (" 2 hours ", 120), ("0", 0), ("", None), (15, 15), (None, None)],
)  # fmt: skip
def test_a_time_is_read_as_people_write_it(typed: object, minutes: int | None) -> None:
    assert Entry(kind="built", text="It", minutes=typed).minutes == minutes  # type: ignore[arg-type]


@pytest.mark.parametrize("typed", ["soon", "1:75", "-5", "1.5 h 20", "1e9", "NaN", "\u0663\u0660", "999999999 h", "1 h 20 h"])
def test_what_is_no_time_is_refused(typed: str) -> None:
    with pytest.raises(ValidationError):
        Entry(kind="built", text="It", minutes=typed)  # type: ignore[arg-type]
    assert read_minutes(None) is None


@pytest.mark.parametrize(("typed", "cost"), [("3,20", 3.2), ("3.20", 3.2), ("", None), (0.1 + 0.2, 0.3), ("0", 0.0)])
def test_money_is_read_with_point_or_comma_and_kept_in_hundredths(typed: object, cost: float | None) -> None:
    assert Entry(kind="built", text="It", cost=typed).cost == cost  # type: ignore[arg-type]


@pytest.mark.parametrize("given", [{"cost": "-1"}, {"cost": "inf"}, {"text": "   "}, {"text": "x" * 4001}, {"kind": "note"}])
def test_an_entry_that_says_nothing_or_too_much_is_refused(given: Any) -> None:
    with pytest.raises(ValidationError):
        Entry.model_validate({"kind": "built", "text": "It", **given})


def logged(at: str, what: Any = "entry", kind: Any = "built", text: str = "It", **more: Any) -> Logged:
    return Logged(what, f"{at} {text}", f"2026-11-{at}:00.000Z", kind, text, 1, **more)


def told_of(log: list[Logged], only: Any = None, skip: int = 0) -> LogShown:
    """The log as it is shown, with the entries of the kind that is looked at, as the store gives them."""
    newest = sorted(log, key=lambda it: it.made_at, reverse=True)
    entries = [it for it in newest if it.what == "entry"]
    wanted = [it for it in entries if (it.is_thrown and only == "thrown") or (not it.is_thrown and only in (None, it.kind))]
    return log_shown(wanted, [it for it in newest if it.what != "entry"], sums_of(entries), only, skip)


def test_sums_of_money_are_exact_and_told_by_stage_the_longest_first() -> None:
    log = [logged("01T10:00", stage_label="Moon", minutes=50, cost=0.1) for _ in range(3)]
    log += [logged("01T11:00", stage_label="Air", minutes=200), logged("01T12:00", minutes=None)]
    shown = told_of(log)
    assert shown.sentence == "5 entries: 5 h 50 min and 0.30 so far."
    assert [(it.label, it.took) for it in shown.sums] == [("Air", "3 h 20 min"), ("Moon", "2 h 30 min and 0.30")]


def test_changes_between_entries_are_one_stretch_of_a_day_and_a_kind() -> None:
    log = [logged(f"01T10:{minute:02}", "change", "changed", f"Change {minute}") for minute in range(40)]
    log += [
        logged("01T11:00", "change", "measured", "3.3 V"),
        logged("01T12:00"),
        logged("02T09:00", "take", "rehearsed", "Opening"),
    ]
    log += [logged("01T12:30", "change", "changed", "Last one")]
    rows = told_of(log).rows
    told = [it.text if isinstance(it, EntryShown) else it.sentence for it in rows]
    assert told == ["1 take", "1 change of the plan", "It", "1 reading", "40 changes of the plan"]
    assert isinstance(rows[-1], RunShown)
    assert (len(rows[-1].deeds), rows[-1].more) == (30, 10)
    assert rows[-1].deeds[0].text == "Change 39"


def test_what_is_thrown_away_is_shown_only_where_it_is_asked_for() -> None:
    log = [logged("01T10:00", text="Gone", is_thrown=True, minutes=5), logged("01T11:00", text="Here")]
    assert [it.text for it in told_of(log).rows if isinstance(it, EntryShown)] == ["Here"]
    assert [it.text for it in told_of(log, "thrown").rows if isinstance(it, EntryShown)] == ["Gone"]
    assert {it.id: it.count for it in told_of(log).kinds} == {"built": 1, "thrown": 1}
    assert "Gone" not in log_csv(log, ()) + log_markdown("A", log, ())


def test_pages_hold_all_rows_once() -> None:
    log = [logged(f"{day:02}T10:{minute:02}", text=f"{day} {minute}") for day in range(1, 6) for minute in range(30)]
    seen: list[str] = []
    while (page := told_of(log, skip=len(seen))).rows:
        seen += [it.id for it in page.rows]
        assert page.has_more == (len(seen) < len(log))
    assert sorted(seen) == sorted(it.id for it in log)


def test_words_are_found_without_regard_to_case_and_accents() -> None:
    assert folded("CAF\u00c9 stra\u00dfe \u0106evap") == "cafe strasse cevap"
    assert words_of("  Caf\u00e9  MOON ") == ["cafe", "moon"]


def test_files_hold_what_is_typed_as_text_and_nothing_that_works() -> None:
    photo = Photo(1, "", False, '=cmd|"x"', 1, 1, 1)
    log = [logged("01T10:00", text="=HYPERLINK(1)\n# big <script>alert(1)</script> | a", stage_label="@moon", photos=(photo,))]
    (row,) = list(csv.reader(StringIO(log_csv(log, ()))))[1:]
    assert not any(cell.startswith(("=", "@", "+")) for cell in row)
    text = log_markdown("The *moon*", log, ())
    assert text.startswith("# The \\*moon\\*: log\n")
    assert text.count("<") == text.count("\\<")
    assert "\n# big" not in text


@pytest.mark.parametrize(
    ("patch", "deed"),
    [({"bench": {"wired": {"a": None}}, "signals": {}}, "built"), ({"bench": {"checked": {"final": {}}}}, "measured"), ({"measured": {"x": None}}, "measured"), ({"measured": {}, "title": "x"}, "changed"), ({"bench": {"now": "final"}}, "changed"), ({}, "changed"), ({"bench": None}, "changed")],
)  # fmt: skip
def test_an_edit_is_told_by_what_it_touches(patch: Any, deed: str) -> None:
    assert deed_of(patch) == deed


def design(plan: Any) -> Any:
    return resolve(plan if not isinstance(plan, dict) else load_plan(plan), load_catalog())


def note(*names: str) -> NextTime:
    return NextTime("0123456789ab", "2026-11-01T10:00:00.000Z", "p", "Paper moon", "Solder it", "Hook-up", names)


def test_a_note_is_offered_where_its_part_school_or_board_is_used_and_says_so() -> None:
    here = design(demo_plan())
    for stage, name, label in uses(here):
        (offer,) = offers(here, [note(name)])
        assert offer.stage in {at for at, other, _ in uses(here) if other == name}
        assert label[1:] in offer.because
        assert name in about(here, stage)
    kinds = {name.partition(":")[0] for _, name, _ in uses(here)}
    assert kinds == {"part", "school"}
    assert offers(here, [note("part:nothing-like-it")]) == ()
    assert (
        offers(design({"format": "oddlamp-plan", "schema_version": 1, "title": "Nothing yet"}), [note(*about(here, None))]) == ()
    )


def test_a_straight_wire_is_no_reason_to_offer_a_note() -> None:
    assert not any(":direct" in name for _, name, _ in uses(design(demo_plan())))


def test_versions_compared_tell_pins_wires_and_program() -> None:
    sides = []
    for plan in (plan_with(divider(1000, 2000)), plan_with(divider(1000, 2200), {"signals": {"serial.b_to_a": {"pin": "11"}}})):
        made = design(plan)
        sides.append((plan, made, review_design(made, stages=())))
    same = compare_versions(sides[0], sides[0])
    assert (same.pins, same.wires, same.programs, same.sentence) == ((), (), (), "Nothing differs.")
    compared = compare_versions(sides[0], sides[1])
    (pin,) = [it for it in compared.pins if it.after == "11"]
    assert pin.before not in ("", "11")
    assert any("2.2" in it.after and "2.2" not in it.before for it in compared.wires)
    (program,) = compared.programs
    assert any(it.startswith("+") and "11" in it for it in program.lines)
    back = compare_versions(sides[1], sides[0])
    assert [(it.after, it.before) for it in back.pins] == [(it.before, it.after) for it in compared.pins]


def test_readings_are_a_table_in_plain_units_those_of_steps_that_are_gone_too() -> None:
    made = design(CLEAR)
    step = next(it for it in all_steps(made, "mock_up")[0] if it.kind == "measure" and it.unit == "V")
    found = {"value": 0.5, "unit": "V", "taken_at": "2026-11-28T10:00:00Z"}
    patch = {"bench": {"checked": {"mock_up": {step.id: found, "no.such.step": found}, "final": {step.id: found}}}}
    rows = list(csv.DictReader(StringIO(measured_csv(design(merge_patch(CLEAR, patch))))))
    assert [(it["Where"], it["Value"], it["Unit"]) for it in rows].count(("The mock-up", "0.5", "V")) == 2
    assert {it["What"] for it in rows} == {step.title.replace("\u00a0", " "), "no.such.step"}
    assert "no longer has" in next(it["Verdict"] for it in rows if it["What"] == "no.such.step")


def test_all_sheets_are_one_text_with_every_stage_and_verdict() -> None:
    result = review(load_plan(merge_patch(demo_plan(), {"title": "<b>Moon</b>"})), load_catalog())
    text = sheets_markdown(result)
    assert text.count("<") == text.count("\\<")
    for title in result.titles.values():
        assert f"\n## {as_text(title)}\n" in text
    assert text.count("- **stop**") + text.count("- **look**") == len([it for it in result.findings if it.accepted is None])
