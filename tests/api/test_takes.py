"""Takes and the time view over HTTP: kept, shared, held against each other, and what is refused."""

import json
from typing import Any

import httpx
import pytest

from oddlamp.catalog.load import start_data
from oddlamp.core.plan.document import Document

ON: Document = {"kind": "control", "t_s": 0.0, "control": "on"}
OFF: Document = {"kind": "control", "t_s": 2.0, "control": "off"}
SLOWLY: Document = {"rules": {"r2": {"do": [{"verb": "off", "target": "lamp", "values": {"over_s": 0.6}}]}}}


def keep(http: httpx.Client, project: Any, name: str = "First night", events: list[Document] | None = None) -> Any:
    body = {"name": name, "events": events or [ON, OFF]}
    answer = http.post(f"/api/projects/{project['id']}/takes", json=body)
    assert answer.status_code == 201, answer.text
    return answer.json()


def edit(http: httpx.Client, project: Any, patch: Document) -> None:
    body = {"patch": patch, "base_revision": project["revision"], "summary": "changed"}
    assert http.post(f"/api/projects/{project['id']}/edits", json=body).status_code == 200


def then_and_now(http: httpx.Client, project: Any, take: Any) -> Any:
    return http.get(f"/api/projects/{project['id']}/takes/{take['id']}/comparison").json()


def test_a_take_is_kept_listed_and_played_again(http: httpx.Client, project: Any) -> None:
    take = keep(http, project)
    assert (take["name"], take["events"], take["lasts_s"]) == ("First night", 2, 2.0)
    listed = http.get(f"/api/projects/{project['id']}/takes").json()
    assert [it["id"] for it in listed] == [take["id"]]
    again = http.get(f"/api/projects/{project['id']}/takes/{take['id']}").json()
    assert again["events"] == [ON, OFF]


def test_a_take_runs_as_it_did_until_the_plan_changes(http: httpx.Client, project: Any) -> None:
    take = keep(http, project)
    assert then_and_now(http, project, take) == {"sentence": "It runs exactly as it did then.", "differences": []}
    edit(http, project, SLOWLY)
    now = then_and_now(http, project, take)
    assert now["sentence"].replace("\u00a0", " ") == "Lamp ends 600 ms later."
    assert [it["where"] for it in now["differences"]] == ["lamps.lamp"]


@pytest.mark.parametrize(
    ("start", "control", "change"),
    [
        (
            "08-moving-text",
            "tonight",
            {"nodes": {"phone": {"controls": {"tonight": {"says": {"press": {"fill": {"line": "Closed"}}}}}}}},
        ),
        (
            "06-five-chains",
            "run",
            {"rules": {"run": {"do": [{"verb": "pattern", "target": "garlands", "values": {"pattern": "bounce"}}]}}},
        ),
    ],
)
def test_other_signs_and_other_pixels_are_told_though_as_many_are_lit(
    http: httpx.Client, start: str, control: str, change: Document
) -> None:
    project = http.post("/api/projects/import", json=start_data(start)["plan"]).json()
    take = keep(http, project, events=[{"kind": "control", "t_s": 0.0, "control": control}])
    assert then_and_now(http, project, take)["differences"] == []
    edit(http, project, change)
    assert {it["where"].partition(".")[0] for it in then_and_now(http, project, take)["differences"]} == {"lamps"}


def test_what_is_lost_now_comes_first(http: httpx.Client, project: Any) -> None:
    take = keep(http, project)
    edit(http, project, {"signals": {"serial.a_to_b": {"is_omitted": True}}})
    now = then_and_now(http, project, take)
    assert now["sentence"].startswith("2 messages lost, 0 then: ")
    assert [it["weight"] for it in now["differences"]] == ["worse", "worse"]
    assert now["differences"][1]["text"] == "Lamp stays dark, which was lit then"


def test_a_take_goes_away_as_a_file_and_comes_back_elsewhere(http: httpx.Client, project: Any) -> None:
    take = keep(http, project, "Premi\u00e8re, 2nd")
    file = http.get(f"/api/projects/{project['id']}/takes/{take['id']}/file")
    assert file.headers["content-disposition"] == 'attachment; filename="premi-re--2nd.take.json"'
    document = json.loads(file.text)
    assert document["format"] == "oddlamp-take"
    other = http.post("/api/projects", json={"start": "demo"}).json()
    read = http.post(f"/api/projects/{other['id']}/takes/import", json=document)
    assert (read.status_code, read.json()["name"]) == (201, "Premi\u00e8re, 2nd")


def test_a_take_is_thrown_away_and_put_back(http: httpx.Client, project: Any) -> None:
    take = keep(http, project)
    place = f"/api/projects/{project['id']}/takes/{take['id']}/thrown"
    assert http.put(place).json() == []
    assert http.get(f"/api/projects/{project['id']}/takes").json() == []
    assert [it["id"] for it in http.delete(place).json()] == [take["id"]]


def test_a_take_of_another_project_is_none_of_this_one(http: httpx.Client, project: Any) -> None:
    other = http.post("/api/projects", json={"start": "demo"}).json()
    take = keep(http, project)
    refused = http.get(f"/api/projects/{other['id']}/takes/{take['id']}")
    assert (refused.status_code, refused.json()["type"].rpartition("/")[2]) == (404, "unknown-take")


@pytest.mark.parametrize(
    "event",
    [
        {"kind": "control", "t_s": -1, "control": "on"},
        {"kind": "control", "t_s": 2**32, "control": "on"},
        {"kind": "clock", "t_s": 0, "at": "25:70"},
        {"kind": "start", "starts_at_ms": 2**32},
        {"kind": "input", "t_s": 0, "input": "k", "event": "moved", "value": 2},
        {"kind": "trouble", "t_s": 0, "what": "gremlins", "where": "board"},
    ],
)
def test_events_that_cannot_be_are_refused_by_name(http: httpx.Client, project: Any, event: Document) -> None:
    for where in ("rehearsals", "rehearsals/timeline", "takes"):
        body = {"events": [event], **({"name": "x"} if where == "takes" else {})}
        refused = http.post(f"/api/projects/{project['id']}/{where}", json=body)
        assert refused.status_code == 422, (where, refused.text)
        assert refused.json()["problems"][0]["field"].startswith("events."), where


def test_events_by_the_million_are_refused_before_they_are_read(http: httpx.Client, project: Any) -> None:
    events = [{"kind": "wait", "t_s": 0}] * 100_000
    assert http.post(f"/api/projects/{project['id']}/rehearsals", json={"events": events}).status_code in (413, 422)


def lanes(http: httpx.Client, project: Any, events: list[Document], **window: float) -> Any:
    answer = http.post(f"/api/projects/{project['id']}/rehearsals/timeline", json={"events": events, **window})
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_the_time_view_has_a_lane_a_stage_and_the_light_of_each_lamp(http: httpx.Client, project: Any) -> None:
    view = lanes(http, project, [ON, OFF])
    assert [it["stage"] for it in view["lanes"]] == [
        "nodes.phone", "links.air", "nodes.radio", "links.serial", "vocabularies.words", "rules.board", "pins.board", "lamps.lamp", "rails.five",
    ]  # fmt: skip
    assert view["sentence"].replace("\u00a0", " ") == "2 messages in 2.04 s, and none is lost."
    assert view["is_close"]
    lamp = view["lanes"][-2]["looks"]
    assert [it["light_ratio"] > 0 for it in lamp] == [False, True, False]
    assert [it["text"] for it in view["deeds"]] == ["On pressed", "Off pressed"]


def test_a_window_shows_each_byte_and_a_minute_no_more_than_can_be_drawn(http: httpx.Client, project: Any) -> None:
    events = [{**ON, "t_s": at / 10} for at in range(600)]
    whole = lanes(http, project, events)
    assert not whole["is_close"]
    assert len(whole["spans"]) <= 2000
    assert sum(it["count"] for it in whole["spans"]) > 2000
    near = lanes(http, project, events, from_s=10.0, to_s=10.1)
    assert near["is_close"]
    wire = [it for it in near["spans"] if near["lanes"][it["lane"]]["stage"] == "links.serial"]
    assert [it["text"].replace("\u00a0", " ") for it in wire] == ["31 at 3.30 V"]


def test_a_loss_is_a_span_of_its_own_and_told_with_its_cause(http: httpx.Client, project: Any) -> None:
    swapped = {"kind": "trouble", "t_s": 0.5, "what": "swapped", "where": "serial"}
    view = lanes(http, project, [ON, swapped, OFF])
    lost = [it for it in view["spans"] if it["fate"] == "lost"]
    assert [view["lanes"][it["lane"]]["stage"] for it in lost] == ["links.serial"]
    assert view["sentence"].endswith(
        "1 is lost: RX and TX are swapped: what is sent meets the other sender, and no pin that listens."
    )
