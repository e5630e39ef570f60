"""Starting points: each opens clear, does what it says at once, and takes the place of whatever a project held."""

from typing import Any

import pytest

from oddlamp.api.projects import EMPTY
from oddlamp.catalog.load import load_catalog, start_data, start_names
from oddlamp.core.plan.document import Document, dump_plan, edit_plan, load_plan, merge_patch
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.opening import CAUTIONS
from oddlamp.sheets.starts import begin, start_card
from tests.builders import CLEAR, codes, findings_of

NAMES = start_names()


def test_there_are_about_sixteen() -> None:
    assert 15 <= len(NAMES) <= 18
    assert len({start_data(it)["title"] for it in NAMES}) == len(NAMES)


@pytest.mark.parametrize("name", NAMES)
def test_each_opens_clear_but_for_what_is_said_of_a_thing_however_it_is_built(name: str) -> None:
    assert {code for code, _ in codes(findings_of(load_plan(start_data(name)["plan"])))} <= CAUTIONS


@pytest.mark.parametrize("name", NAMES)
def test_each_does_what_its_picture_shows_and_nothing_is_lost(name: str) -> None:
    data = start_data(name)
    design = resolve(load_plan(data["plan"]), load_catalog())
    trace = rehearse_design(design, read_events([*data["events"], {"kind": "wait", "t_s": 6}]))
    assert {it.lost_because for it in trace.lost} == set()
    card = start_card(name, data, load_catalog())
    brights = [[look.light_ratio for look in it.looks] for it in card.lights]
    assert all(max(it) > 0 for it in brights), "every lamp of it is lit"
    assert all(min(it) == 0 for it in brights), "and none all the while"


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize(
    "held", [EMPTY, CLEAR, merge_patch(CLEAR, {"title": "Mine", "drawer": "100, 220"})], ids=["empty", "one", "mine"]
)
def test_a_project_becomes_a_starting_point_and_keeps_what_is_the_makers(name: str, held: Document) -> None:
    """The merge patch is held to the documents: all of the starting point is there, and nothing else but title and drawer."""
    plan, data = load_plan(held), start_data(name)
    begun = begin(plan, EMPTY["title"], data)
    made = dump_plan(edit_plan(plan, begun.move.patch))
    wanted: dict[str, Any] = {**dump_plan(load_plan(data["plan"]))}
    wanted |= {field: dump_plan(plan)[field] for field in ("drawer", "catalog_version") if field in held}
    wanted["title"] = data["title"] if held["title"] == EMPTY["title"] else held["title"]
    assert {field: it for field, it in made.items() if it} == wanted
    assert begun.leads_to.partition(".")[2] in made["lamps"]
