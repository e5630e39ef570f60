"""Tables of words as they are pasted: out of a spreadsheet, a text, a note; taken in whole or refused by row."""

import contextlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.pasted import pasted_words
from tests.builders import CLEAR, codes, document, findings_of, plan_with

DESIGN = resolve(plan_with(), load_catalog())
TWENTY = "name\tsent\tdoes\n" + "\n".join(f"Shade {n}\tS{n:02}\tLamp to {'half' if n % 2 else 'quarter'}" for n in range(20))


def taken(text: str, base: object = CLEAR) -> Plan:
    plan = plan_with(base=base)  # type: ignore[arg-type]
    return edit_plan(plan, pasted_words(resolve(plan, load_catalog()), "words", text).patch)


def test_twenty_words_of_a_spreadsheet_come_in_at_once_with_what_they_do() -> None:
    plan = taken(TWENTY)
    words = plan.vocabularies["words"].words
    assert len(words) == 22
    assert (words["shade_7"].label, words["shade_7"].sent) == ("Shade 7", "S07")
    assert plan.vocabularies["words"].framing is not None
    assert plan.vocabularies["words"].framing.kind == "terminated", "words of several bytes want an ending"
    assert codes(findings_of(plan)) == set()


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("Dusk, d\nDawn, w", {"dusk": "d", "dawn": "w"}),
        ("Dusk; d\nDawn; w", {"dusk": "d", "dawn": "w"}),
        ("Dusk\nDawn", {"dusk": None, "dawn": None}),
        ('"Moon, half"\tm', {"moon_half": "m"}),
        ("Dusk\t0x64\nBell\t0x07 0x41", {"dusk": "d", "bell": "\\x07A"}),
        ("On\tz\nDusk\td", {"on": "z", "dusk": "d"}),  # one that is there has what it sends changed
        ("\n\nDusk\td\n\n", {"dusk": "d"}),
        ("Über\tu\n7 stars\ts\n🌙\tm", {"ber": "u", "w_7_stars": "s", "w": "m"}),
    ],
)
def test_tables_of_every_kind(text: str, wanted: dict[str, str | None]) -> None:
    words = taken(text).vocabularies["words"].words
    assert {name: words[name].sent for name in wanted} == wanted
    assert len(words) == len({*wanted, "on", "off"})


@pytest.mark.parametrize(
    ("text", "field", "allowed"),
    [
        ("", "table", "a word a line"),
        ("name\tsent", "row 1", "at most"),
        ("Dusk\té", "row 1", "plain ASCII"),
        ("Dusk\td\nDawn\t" + "x" * 65, "row 2", "at most 64"),
        ("x" * 81, "row 1", "at most 80"),
        ("Dusk\td\tLamp sings", "row 1", "such as Lamp on"),
        ("Dusk\t{a}{b}", "row 1", "something between"),
        ("\n".join(f"w{n}" for n in range(501)), "table", "at most 500"),
    ],
)
def test_what_cannot_be_is_refused_by_row(text: str, field: str, allowed: str) -> None:
    if text == "name\tsent":
        assert "name" in taken(text).vocabularies["words"].words, "a head alone is a word"
        return
    with pytest.raises(OutOfRange) as caught:
        pasted_words(DESIGN, "words", text)
    assert caught.value.field == field
    assert allowed in str(caught.value.allowed)


def test_a_modules_own_commands_are_not_pasted() -> None:
    with pytest.raises(OutOfRange):
        pasted_words(resolve(plan_with(base=document("prompters-nudge")), load_catalog()), "own", "Dusk\td")


@given(st.text(max_size=200))
def test_any_text_is_taken_or_refused_in_words(text: str) -> None:
    with contextlib.suppress(OutOfRange):
        move = pasted_words(DESIGN, "words", text)
        assert edit_plan(plan_with(), move.patch).vocabularies["words"].words
