"""Sheets, kept proposals and many builds over real HTTP."""

from typing import Any

import httpx
import pytest

from oddlamp.api.workshop import lay_lanes
from oddlamp.catalog.load import load_catalog
from oddlamp.store.projects import RevisionName
from tests.abuse.crowd import many_verdicts
from tests.builders import CLEAR, document, lamp


def test_an_answer_brings_the_sheet_that_was_asked_for(http: httpx.Client, project: Any) -> None:
    assert list(project["review"]["sheets"]) == ["lamps.lamp"], "nothing to settle: the first lamp's"
    at = f"/api/projects/{project['id']}"
    assert list(http.get(at, params={"stage": "links.serial"}).json()["review"]["sheets"]) == ["links.serial"]
    body = {"base_revision": project["revision"], "patch": lamp(resistor_ohm=47), "stage": "pins.board"}
    edited = http.post(f"{at}/edits", json=body).json()
    assert list(edited["review"]["sheets"]) == ["pins.board"]
    assert list(http.get(at, params={"stage": "nowhere"}).json()["review"]["sheets"]) == ["lamps.lamp"], "the worst verdict's"


def test_a_sheet_is_given_by_itself(http: httpx.Client, project: Any) -> None:
    at = f"/api/projects/{project['id']}/stage"
    shown = http.get(at, params={"revision": project["revision"], "stage": "links.serial"}).json()
    sheet = shown["sheet"]
    assert {value["stage"] for value in shown["values"]} == {"links.serial"}
    assert shown["ways"] == {}
    assert sheet["sentence"].startswith("3.24")
    refused = http.get(at, params={"revision": project["revision"], "stage": "links.none"})
    assert (refused.status_code, refused.json()["field"]) == (422, "stage")


def test_all_proposals_are_kept_as_one_change(http: httpx.Client, project: Any) -> None:
    at = f"/api/projects/{project['id']}"
    kept = http.post(f"{at}/keep", json={"base_revision": project["revision"]}).json()
    assert kept["undo"].startswith("Keep ")
    again = http.post(f"{at}/keep", json={"base_revision": kept["revision"]}).json()
    assert again["revision"] == kept["revision"], "nothing is proposed any more"


@pytest.mark.parametrize(
    ("signal", "unit"),
    [("lamp.main", "A"), ("serial.b_to_a", "V"), ("serial.a_to_b", None), ("lamp.red", None), ("none.main", None)],
)
def test_what_can_be_built_many_times_is_offered_and_the_rest_refused(
    http: httpx.Client, project: Any, signal: str, unit: str | None
) -> None:
    answer = http.get(f"/api/projects/{project['id']}/builds", params={"signal": signal, "seed": 3})
    offered = []
    for stage in ("lamps.lamp", "links.serial"):
        sheet = http.get(f"/api/projects/{project['id']}/stage", params={"revision": project["revision"], "stage": stage}).json()[
            "sheet"
        ]
        offered += [panel["builds"] for panel in sheet["panels"] if panel["builds"]]
    assert (signal in offered) == (unit is not None)
    if unit is None:
        assert (answer.status_code, answer.json()["field"]) == (422, "signal")
    else:
        drawn = answer.json()
        assert all(tick["text"].endswith(unit) for tick in drawn["picture"]["x"]["ticks"])
        assert sum(it["to_y"] for it in drawn["picture"]["bands"]) == 10_000


def test_lanes_keep_the_way_to_the_newest_state_straight() -> None:
    rows = [RevisionName(n, parent, 0, "", "") for n, parent in ((1, None), (2, 1), (3, 1), (4, 2), (5, 3), (6, 5))]
    lanes = lay_lanes(rows)
    assert {n for n, lane in lanes.items() if lane == 0} == {1, 3, 5, 6}
    assert lanes[2] == lanes[4] == 1


def test_what_clears_a_verdict_is_told_and_a_stranger_is_cleared_by_nothing(http: httpx.Client) -> None:
    project = http.post("/api/projects/import", json=document("footlights")).json()
    where = f"/api/projects/{project['id']}/clearings"
    asked = {"base_revision": project["revision"], "key": "LED-OVER@foot3.main"}
    found = http.post(where, json=asked).json()
    assert [(it["label"], it["text"].replace("\u00a0", " ")) for it in found] == [("Series resistor", "from 91 Ω up")]
    assert http.post(where, json={**asked, "key": "LED-OVER@nobody"}).json() == []
    assert http.post(where, json={**asked, "base_revision": 10**9}).status_code == 404
    patch = {"lamps": {"foot3": {"channels": {"main": {"wanted_current_a": 0.005}}}}}
    tried = http.post(where, json={**asked, "patch": patch}).json()
    assert tried[0]["text"] != found[0]["text"], "of what is only looked at, and not of what is kept"


def test_the_options_of_a_row_come_when_its_list_is_opened(http: httpx.Client, project: Any) -> None:
    at = f"/api/projects/{project['id']}"
    on = {"base_revision": project["revision"]}
    sheet = http.get(f"{at}/stage", params={"revision": project["revision"], "stage": "pins.board"}).json()["sheet"]
    row = next(it for it in sheet["pins"] if it["id"] == "lamp.main")
    assert [it["is_chosen"] for it in row["pin"]["options"]] == [True]
    full = http.post(f"{at}/options", json={**on, "stage": "pins.board", "row": row["id"]}).json()
    assert len(full["options"]) == 1 + row["pin"]["more"] > 10
    assert full["more"] == 0
    assert "Next best is pin" in full["because"]
    gone = {**on, "stage": "pins.board", "row": row["id"], "patch": {"lamps": {"lamp": None}, "rules": None}}
    assert http.post(f"{at}/options", json=gone).json()["field"] == "row"
    assert http.post(f"{at}/options", json={**on, "stage": "pins.none", "row": "x"}).json()["field"] == "stage"


def test_answers_stay_small_and_leave_no_verdict_out_for_good(http: httpx.Client) -> None:
    project = http.post("/api/projects/import", json=many_verdicts(200)).json()
    at, on = f"/api/projects/{project['id']}", {"base_revision": project["revision"]}
    lamp_sheet = next(stage for stage in project["review"]["titles"] if stage.startswith("lamps.l"))
    others = [it for it in project["review"]["titles"] if not it.startswith("lamps.l")]
    taken = {stage: len(http.get(at, params={"stage": stage}).content) for stage in (lamp_sheet, *others)}
    patch = {"lamps": {"l7": {"channels": {"main": {"resistor_ohm": 333}}}}}
    for stage in others:
        body = {**on, "patch": patch, "stage": stage}
        taken[f"trial of {stage}"] = len(http.post(f"{at}/trials", json=body).content)
    assert max(taken.values()) < 150_000, max(taken.items(), key=lambda it: it[1])
    review = http.get(at).json()["review"]
    verdicts = http.post(f"{at}/verdicts", json={**on, "patch": {}}).json()
    assert len(verdicts) == len(review["findings"]) + review["more_findings"] > 100
    assert [it["key"] for it in verdicts if it["key"] in {there["key"] for there in review["findings"]}] == [
        it["key"] for it in review["findings"]
    ], "in the same order"
    last = http.post(f"{at}/ways", json={**on, "key": verdicts[-1]["key"]}).json()
    assert last["fixes"]
    assert last["working"]
    none = http.post(f"{at}/ways", json={**on, "key": verdicts[-1]["key"], "patch": {"lamps": {"l7": None}}})
    assert none.status_code == 200
    assert http.post(f"{at}/ways", json={**on, "key": "PIN-NO-FIT@nobody"}).json()["field"] == "key"


def test_a_new_project_knows_the_catalogue_it_was_made_with(http: httpx.Client) -> None:
    project = http.post("/api/projects", json={"start": "empty"}).json()
    plan = http.get(f"/api/projects/{project['id']}/plan").json()
    assert plan["catalog_version"] == load_catalog().version


def test_my_parts_have_a_sheet_and_go_with_the_file(http: httpx.Client, project: Any) -> None:
    sheet = http.get(f"/api/projects/{project['id']}/stage", params={"revision": project["revision"], "stage": "parts"}).json()[
        "sheet"
    ]
    (copy,) = [panel for panel in sheet["panels"] if panel["title"] == "A new part"]
    option = next(it for it in copy["choices"][0]["options"] if it["label"] == "Red")
    kept = http.post(
        f"/api/projects/{project['id']}/edits",
        json={"base_revision": project["revision"], "patch": option["patch"], "summary": "x"},
    )
    assert kept.status_code == 200
    plan = http.get(f"/api/projects/{project['id']}/plan").json()
    assert plan["parts"]["own-led-red-1"]["label"] == "My red"
    again = http.post("/api/projects/import", json=plan).json()
    assert http.get(f"/api/projects/{again['id']}/plan").json()["parts"] == plan["parts"]


def test_the_drawer_and_parts_of_another_project_are_offered_here(http: httpx.Client, project: Any) -> None:
    part = {"table": "leds", "like": "led-red", "label": "Red from the tin", "figures": {"forward_voltage_v": {"value": 1.9}}}
    other = {**CLEAR, "title": "The other bench", "drawer": [47, 100], "parts": {"own-tin": part}}
    there = http.post("/api/projects/import", json=other).json()
    at = f"/api/projects/{project['id']}"

    def offered() -> list[dict[str, Any]]:
        return [move for it in http.get(f"{at}/elsewhere").json() if it["title"] == "The other bench" for move in it["moves"]]

    labels = [it["label"].replace("\u00a0", " ") for it in offered()]
    assert labels == ["Add its 2 resistors to my drawer: 47 Ω, 100 Ω", "Take Red from the tin"]
    base = project["revision"]
    for move in offered():
        base = http.post(f"{at}/edits", json={"base_revision": base, "patch": move["patch"], "summary": "x"}).json()["revision"]
    plan = http.get(f"{at}/plan").json()
    assert plan["drawer"] == [47, 100]
    assert plan["parts"] == {"own-tin": part}
    assert offered() == [], "nothing is offered twice"
    http.post(f"/api/projects/{there['id']}/place", json={"place": "bin"})
