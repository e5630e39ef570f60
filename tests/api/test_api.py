"""The API over real HTTP: contracts, refusals as problem details, and what guards it."""

import json
from typing import Any

import httpx
import pytest

from oddlamp.api.app import create_app
from oddlamp.api.problems import STATUS
from oddlamp.core import errors
from oddlamp.core.plan.document import Document
from tests.builders import CLEAR, PLANS, document, lamp


def edit(http: httpx.Client, project: Any, patch: Document, **more: Any) -> httpx.Response:
    return http.post(f"/api/projects/{project['id']}/edits", json={"base_revision": project["revision"], "patch": patch, **more})


def test_first_start_opens_on_the_demo(http: httpx.Client) -> None:
    titles = [item["title"] for item in http.get("/api/projects").json()]
    assert "Paper moon" in titles


@pytest.mark.parametrize("name", PLANS)
def test_plans_go_in_and_come_out_unchanged(http: httpx.Client, name: str) -> None:
    answer = http.post("/api/projects/import", json=document(name))
    assert answer.status_code == 201
    plan = http.get(f"/api/projects/{answer.json()['id']}/plan").json()
    shown = plan.pop("shown_pins", {})
    assert plan == document(name)
    again = http.post("/api/projects/import", json={**plan, "shown_pins": shown}).json()
    assert http.get(f"/api/projects/{again['id']}/plan").json().get("shown_pins", {}) == shown


def test_the_phone_sheet_is_a_file_and_words_are_pasted(http: httpx.Client) -> None:
    project = http.post("/api/projects", json={"start": "demo"}).json()
    path = f"/api/projects/{project['id']}"
    table = http.get(f"{path}/slots", params={"node": "phone"})
    assert table.headers["content-type"].startswith("text/plain")
    assert table.text.splitlines()[0] == "control,when,type,values,ends with,hex,decimal,does"
    assert len(http.get(f"{path}/slots", params={"node": "phone", "form": "json"}).json()) == len(table.text.splitlines()) - 1
    assert http.get(f"{path}/slots", params={"node": "board"}).status_code == 422
    asked = {"base_revision": project["revision"], "vocabulary": "words", "text": "Storm\ts"}
    move = http.post(f"{path}/pasted-words", json=asked).json()
    assert (move["label"], move["patch"]["vocabularies"]["words"]["words"]) == (
        "Take in 1 word",
        {"storm": {"label": "Storm", "sent": "s"}},
    )
    refused = http.post(f"{path}/pasted-words", json={**asked, "text": "Storm\t\u00e9"})
    assert (refused.status_code, "row 1" in refused.text) == (422, True)


def test_demos_are_listed_and_each_can_be_put_on_the_shelf(http: httpx.Client) -> None:
    demos = http.get("/api/projects/demos").json()
    assert [it["title"] for it in demos] == ["Paper moon", "Foyer star", "Prompter's nudge", "Two wings"]
    for it in demos:
        project = http.post("/api/projects", json={"start": "demo", "demo": it["name"]})
        assert (project.status_code, project.json()["review"]["title"]) == (201, it["title"])
    wrong = http.post("/api/projects", json={"start": "demo", "demo": "../paper-moon"})
    assert wrong.status_code in (400, 422)
    assert "one of paper-moon" in wrong.text


def test_an_edit_is_kept_and_answers_with_its_verdict(http: httpx.Client, project: Any) -> None:
    after = edit(http, project, lamp(resistor_ohm="47"), summary="Series resistor: 47").json()
    assert after["revision"] != project["revision"]
    assert after["undo"] == "Series resistor: 47"
    assert [finding["code"] for finding in after["review"]["findings"]] == ["LED-OVER", "PIN-CURRENT"]
    back = http.post(f"/api/projects/{project['id']}/undo", json={"base_revision": after["revision"]}).json()
    assert back["review"]["findings"] == []
    forth = http.post(f"/api/projects/{project['id']}/redo", json={"base_revision": back["revision"]}).json()
    assert forth["revision"] == after["revision"]
    assert http.get(f"/api/projects/{project['id']}").json()["revision"] == after["revision"]


def test_a_rehearsal_shows_the_journey_and_the_light(http: httpx.Client, project: Any) -> None:
    events = [{"kind": "control", "t_s": 0, "control": "on"}, {"kind": "control", "t_s": 2, "control": "off"}]
    run = http.post(f"/api/projects/{project['id']}/rehearsals", json={"events": events, "since_s": 2}).json()
    assert len(run["journeys"]) == 1
    assert run["journeys"][0]["sentence"].startswith("Reached Lamp after")
    assert [look["light_ratio"] > 0 for look in run["looks"]["lamps.lamp"]] == [True, False], (
        "the look it had before, and what came of the press"
    )


@pytest.mark.parametrize(
    ("path", "body", "status", "field", "given_text", "allowed"),
    [
        ("edits", {"base_revision": 0, "patch": {}}, 404, "revision", "0", "a revision of this project"),
        ("edits", {"patch": {}}, 422, "body.base_revision", "nothing", "required"),
        ("edits", {"base_revision": "x", "patch": {}}, 422, "body.base_revision", "'x'", "integer"),
        ("edits", {"base_revision": 1, "patch": {}, "colour": 3}, 422, "body.colour", "3", "not permitted"),
        ("undo", {"base_revision": 0}, 409, "base_revision", "0", "the revision now"),
        ("rehearsals", {"events": [{"kind": "dance", "t_s": 0}]}, 422, "events.0", "dance", "kind is one of"),
        ("rehearsals", {"events": 3}, 422, "body.events", "3", "list"),
    ],
)  # fmt: skip
def test_refusals_are_problem_details(
    http: httpx.Client, project: Any, path: str, body: Any, status: int, field: str, given_text: str, allowed: str
) -> None:
    answer = http.post(f"/api/projects/{project['id']}/{path}", json=body)
    assert answer.status_code == status
    assert answer.headers["content-type"] == "application/problem+json"
    problem = answer.json()
    assert problem["field"] == field
    assert given_text in problem["given"]
    assert allowed in problem["allowed"]
    assert problem["status"] == status


@pytest.mark.parametrize(
    ("patch", "field"),
    [
        (lamp(resistor_ohm="9 V"), "lamps.lamp.channels.main.resistor_ohm"),
        (lamp(led={"part": "candle"}), "lamps.lamp.channels.main.led.part"),
        ({"x": 1}, "x"),
    ],
)
def test_a_bad_edit_names_its_field_and_keeps_nothing(http: httpx.Client, project: Any, patch: Document, field: str) -> None:
    answer = edit(http, project, patch)
    assert (answer.status_code, answer.json()["field"]) == (422, field)
    assert http.get(f"/api/projects/{project['id']}").json()["revision"] == project["revision"]


def test_unknown_fields_of_an_import_are_all_listed(http: httpx.Client) -> None:
    answer = http.post("/api/projects/import", json={**CLEAR, "colour": "blue", "mood": 3})
    assert {problem["field"] for problem in answer.json()["problems"]} == {"colour", "mood"}


def test_every_refusal_of_the_core_has_a_status() -> None:
    known = {value for value in vars(errors).values() if isinstance(value, type) and issubclass(value, errors.DomainError)}
    assert known - {errors.DomainError} == set(STATUS)


def test_what_is_not_there_is_said_so(http: httpx.Client) -> None:
    assert http.get("/api/projects/nobody").json()["field"] == "project"
    assert http.get("/api/nowhere").status_code == 404


def test_large_bodies_are_refused(http: httpx.Client) -> None:
    answer = http.post("/api/projects/import", content=b"[" + b"1," * 2_000_000, headers={"content-type": "application/json"})
    assert answer.status_code == 413
    assert answer.json()["allowed"] == "a plan of at most 2 MB"


def test_writes_from_another_page_and_strange_hosts_are_refused(http: httpx.Client, server: str) -> None:
    assert http.post("/api/projects", json={"start": "demo"}, headers={"origin": "http://elsewhere.example"}).status_code == 403
    assert http.post("/api/projects", json={"start": "demo"}, headers={"origin": server}).status_code == 201
    assert http.get("/api/projects", headers={"host": "elsewhere.example"}).status_code == 400
    policy = http.get("/").headers["content-security-policy"]
    assert "script-src 'self';" in policy
    assert "default-src 'none'" in policy


def test_the_description_is_served(http: httpx.Client) -> None:
    assert http.get("/api/plan-schema.json").json()["title"] == "Odd Lamp plan"
    assert json.loads(json.dumps(create_app().openapi())) == http.get("/api/openapi.json").json()
