"""What is known of faults: read with its lines, and held against the simulated build, both ways."""

import re
import tomllib
from collections import defaultdict
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

from oddlamp.catalog.knowledge import KNOWLEDGE, load_knowledge
from oddlamp.core.checks.registry import RULES
from oddlamp.core.errors import KnowledgeInvalid
from oddlamp.core.finding.build import Build
from oddlamp.core.finding.find import features, has_place
from oddlamp.core.finding.knowledge import APART, read_knowledge
from oddlamp.core.finding.observe import TESTS
from oddlamp.core.finding.states import RIGHT, states_of
from oddlamp.core.finding.symptoms import SYMPTOMS, symptoms_of
from oddlamp.core.finding.table import BROKEN
from oddlamp.core.finding.way import ways_of
from oddlamp.core.plan.document import load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.whys import STATES
from tests.core.bench.drawn import CATALOG
from tests.core.bench.test_wiring import shipped
from tests.core.finding.builds import ways
from tests.full import IS_PROOF, some

KNOWN = load_knowledge()
TEXT = KNOWLEDGE.read_text(encoding="utf-8")
EVERY = 23  # of builds, in a test run
LEAST_CAUSES, LEAST_SIMULATED = 60, 45


def test_there_is_enough_of_it_and_what_is_not_simulated_is_told() -> None:
    told = {it.id for it in KNOWN.causes if it.id not in BROKEN}
    print(f"{len(BROKEN)} causes put into builds; told and not simulated: {', '.join(sorted(told))}")
    assert len(KNOWN.causes) >= LEAST_CAUSES
    assert len(BROKEN) >= LEAST_SIMULATED
    assert {it.id for it in KNOWN.causes} - told == set(BROKEN)
    assert all(KNOWN.cause[it].has for it in told), "what is not simulated says which plans it has a place in"
    assert {it.id for it in KNOWN.tests if not it.has} == set(TESTS)
    assert {name for cause in KNOWN.causes if cause.id in BROKEN for name in cause.makes_on(APART)} == set(SYMPTOMS)


def test_what_raises_odds_is_there_to_be_found() -> None:
    codes = {it.code for it in RULES}
    assert {it for cause in KNOWN.causes for it in cause.raised} <= codes | set(STATES)


def slip(pattern: str, put: str, count: int = 1) -> str:
    changed, found = re.subn(pattern, put, TEXT, count=count, flags=re.MULTILINE)
    assert found
    return changed


SLIPS = {
    "a test that tells nothing": ('[[test]]\nid = "extra"\ndo = "Look."\nminutes = 1\nusual = "a"\n[test.outcomes]\na = "so"\nb = "other"\n[test.says]\n', "test extra.says", "tell at least one cause"),
    "a cause nothing reaches": (r'^(id = "led-turned"\n(?:.*\n)*?)makes = .*', r"\1makes = []", "cause led-turned.makes"),
    "a symptom that is none": (r'^(id = "led-turned"\n(?:.*\n)*?)makes = .*', r'\1makes = ["gloomy"]', "gloomy"),
    "odds that do not add up": (r'^(id = "led-turned"\n(?:.*\n)*?)odds = .*', r"\1odds = 900", "add up to 1000"),
    "odds that are none": (r'^(id = "led-turned"\n(?:.*\n)*?)odds = .*', r"\1odds = -3", "cause led-turned.odds"),
    "a test after that is none": (r'^(id = "led-turned"\n(?:.*\n)*?)after = .*', r'\1after = "prayer"', "prayer"),
    "an outcome that is none": (r"^\[test\.says\]\n", '[test.says]\nperhaps = ["led-turned"]\n', "perhaps"),
    "a cause that is none": (r'^(id = "arrow"\n(?:.*\n)*?towards = \[)"pixel-end"', r'\1"gremlin"', "gremlin"),
    "a key that is none": (r'^(id = "led-turned"\n)', r'\1colour = "red"\n', "cause led-turned.colour"),
    "an id that is there twice": (r'^id = "led-open"$', 'id = "led-turned"', "led-turned"),
    "minutes without end": (r'^(id = "board-light"\n(?:.*\n)*?)minutes = .*', r"\1minutes = 900", "test board-light.minutes"),
    "the same words twice": (r'^off = "it is off"$', 'off = "it is on"', "board-light"),
}  # fmt: skip


@pytest.mark.parametrize("what", SLIPS)
def test_a_slip_is_refused_with_its_file_and_line(what: str, tmp_path: Path) -> None:
    first, second, third = SLIPS[what]
    text = TEXT + first if what == "a test that tells nothing" else slip(first, second)
    expected = second if what == "a test that tells nothing" else third
    (tmp_path / "mine.toml").write_text(text, encoding="utf-8")
    with pytest.raises(KnowledgeInvalid) as refused:
        load_knowledge(tmp_path / "mine.toml")
    said = str(refused.value)
    assert expected in said
    line = int(re.search(r"mine\.toml, line (\d+)", said)[1])  # type: ignore[index]
    near = "\n".join((tmp_path / "mine.toml").read_text(encoding="utf-8").split("\n")[line - 2 : line + 1])
    assert any(
        word in near
        for word in (
            "led-turned",
            "extra",
            "board-light",
            "makes",
            "odds",
            "after",
            "gremlin",
            "perhaps",
            "says",
            "minutes",
            "outcomes",
        )
    ), near


def test_a_file_that_is_no_table_is_refused(tmp_path: Path) -> None:
    (tmp_path / "mine.toml").write_text("[[cause]\nid = 3", encoding="utf-8")
    with pytest.raises(KnowledgeInvalid, match=r"mine\.toml"):
        load_knowledge(tmp_path / "mine.toml")


def test_what_is_shipped_reads_from_its_own_text() -> None:
    assert read_knowledge("finding.toml", TEXT, tomllib.loads(TEXT)) == KNOWN


# Held against the simulated build


@cache
def builds() -> tuple[tuple[str, str, Build], ...]:
    return tuple(some(_builds(), EVERY))


def _builds() -> Iterator[tuple[str, str, Build]]:
    for name, way in ways():
        for cause, put in BROKEN.items():
            broken = put(way)
            if broken is not None:
                yield name, cause, Build(way, broken)


def test_no_fault_makes_a_symptom_that_does_not_list_it_and_each_listed_is_made() -> None:
    made = defaultdict[str, set[str]](set)
    for name, cause, build in builds():
        shown = symptoms_of(build)
        assert shown <= KNOWN.cause[cause].makes_on(features(build.way)), (name, cause)
        made[cause] |= shown
    if IS_PROOF:
        assert dict(made) == {it.id: set(it.makes_on(APART)) for it in KNOWN.causes if it.id in BROKEN}


def test_each_outcome_is_one_the_file_says_and_each_it_says_is_met() -> None:
    met = defaultdict[tuple[str, str, tuple[str, ...]], set[str]](set)
    for name, cause, build in builds():
        there = features(build.way)
        for test, it in TESTS.items():
            if it.fits(build.way):
                shown = it.shows(build)
                assert shown in KNOWN.test[test].given(cause, there), (name, cause, test)
                met[test, cause, tuple(it for it in APART if it in there)].add(shown)
    if IS_PROOF:
        for test in KNOWN.tests:
            for cause in BROKEN:
                mine = {there: outcomes for (one, other, there), outcomes in met.items() if (one, other) == (test.id, cause)}
                said = {outcome for there in mine for outcome in test.given(cause, there)}
                assert not mine or said == set().union(*mine.values()), (test.id, cause)


def test_no_test_knows_which_cause_was_put_in() -> None:
    """What a test shows and what is seen follow from what is so in the build: the name of the cause is nowhere read."""
    for name, cause, build in some(builds(), 1 if IS_PROOF else 3):
        nameless = Build(build.way, build.broken._replace(cause="something"))
        assert symptoms_of(nameless) == symptoms_of(build), (name, cause)
        for test, it in TESTS.items():
            if it.fits(build.way):
                assert it.shows(nameless) == it.shows(build), (name, cause, test)


def test_states_are_named_as_they_are() -> None:
    marks = {mark for _, way in ways() for put in BROKEN.values() if (broken := put(way)) is not None for mark in broken.marks}
    assert all(states_of({mark}) != RIGHT for mark in marks)
    assert states_of({"module.hears", "app.has_text"}).module == RIGHT.module._replace(hears=False)
    with pytest.raises(AttributeError):
        states_of({"module.sings"})


def test_a_right_build_shows_what_is_usual_and_no_symptom() -> None:
    for name, way in some(ways(), 3):
        right = Build(way)
        assert symptoms_of(right) == frozenset(), name
        for test in KNOWN.tests:
            if test.id in TESTS and has_place(way, test):
                assert TESTS[test.id].shows(right) == test.usual, (name, test.id)


def test_a_chain_of_one_pixel_passes_nothing_on() -> None:
    one = ways_of(
        resolve(
            load_plan(
                merge_patch(shipped()["foyer-star"], {"lamps": {"star": {"layout": {"runs": [{"count": 1}], "shape": None}}}})
            ),
            CATALOG,
        )
    )[0]
    assert one.is_pixels
    assert symptoms_of(Build(one)) == frozenset()
    assert BROKEN["pixel-first"](one) is None
    assert not TESTS["past-first"].fits(one)


def test_a_strip_that_is_too_long_as_planned_can_be_looked_for() -> None:
    patch = {"lamps": {"star": {"layout": {"runs": [{"count": 300}], "shape": None}}}}
    way = ways_of(resolve(load_plan(merge_patch(shipped()["foyer-star"], patch)), CATALOG))[0]
    assert way.design.strips["star"].short_of
    broken = BROKEN["strip-thin"](way)
    assert broken is not None
    build = Build(way, broken)
    assert "end" in symptoms_of(build)
    lost_v, right_v = build.strip_lost_v(), Build(way).strip_lost_v()
    assert lost_v is not None
    assert right_v is not None
    assert lost_v > right_v == way.design.strips["star"].lost.value
