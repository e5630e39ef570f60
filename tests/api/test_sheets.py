"""Sheets, kept proposals and many builds over real HTTP."""

from typing import Any

import httpx
import pytest

from oddlamp.api.workshop import lay_lanes
from oddlamp.store.projects import RevisionName
from tests.builders import lamp


def test_an_answer_brings_the_sheet_that_was_asked_for(http: httpx.Client, project: Any) -> None:
    assert list(project["review"]["sheets"]) == ["lamps.lamp"], "nothing to settle: the first lamp's"
    at = f"/api/projects/{project['id']}"
    assert list(http.get(at, params={"stage": "links.serial"}).json()["review"]["sheets"]) == ["links.serial"]
    body = {"base_revision": project["revision"], "patch": lamp(resistor_ohm=47), "stage": "pins.board"}
    edited = http.post(f"{at}/edits", json=body).json()
    assert list(edited["review"]["sheets"]) == ["pins.board"]
    assert list(http.get(at, params={"stage": "nowhere"}).json()["review"]["sheets"]) == ["lamps.lamp"], "the worst verdict's"


def test_a_sheet_is_given_by_itself(http: httpx.Client, project: Any) -> None:
    at = f"/api/projects/{project['id']}/sheet"
    sheet = http.get(at, params={"revision": project["revision"], "stage": "links.serial"}).json()
    assert sheet["sentence"].startswith("3.24")
    refused = http.get(at, params={"revision": project["revision"], "stage": "links.none"})
    assert (refused.status_code, refused.json()["field"]) == (422, "stage")


def test_all_proposals_are_kept_as_one_change(http: httpx.Client, project: Any) -> None:
    at = f"/api/projects/{project['id']}"
    kept = http.post(f"{at}/keep", json={"base_revision": project["revision"]}).json()
    assert kept["undo"].startswith("Keep ")
    again = http.post(f"{at}/keep", json={"base_revision": kept["revision"]}).json()
    assert again["revision"] == kept["revision"], "nothing is proposed any more"


@pytest.mark.parametrize(("lamp_id", "channel", "status"), [("lamp", "main", 200), ("lamp", "red", 422), ("none", "main", 422)])
def test_many_builds(http: httpx.Client, project: Any, lamp_id: str, channel: str, status: int) -> None:
    answer = http.get(f"/api/projects/{project['id']}/builds", params={"lamp": lamp_id, "channel": channel, "seed": 3})
    assert answer.status_code == status
    if status == 200:
        assert sum(it["count"] for it in answer.json()["bins"]) == answer.json()["builds"] == 10_000


def test_lanes_keep_the_way_to_the_newest_state_straight() -> None:
    rows = [RevisionName(n, parent, 0, "", "") for n, parent in ((1, None), (2, 1), (3, 1), (4, 2), (5, 3), (6, 5))]
    lanes = lay_lanes(rows)
    assert {n for n, lane in lanes.items() if lane == 0} == {1, 3, 5, 6}
    assert lanes[2] == lanes[4] == 1
