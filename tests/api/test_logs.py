"""The log over HTTP: written, changed, found, with photos; notes for next time across projects; what is hostile refused."""

import socket
from typing import Any

import httpx
import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan import entries
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.entries import Entry
from oddlamp.photos.limits import PHOTO_MOST_BYTES, Developed
from oddlamp.store import logbook
from oddlamp.store.database import open_database
from oddlamp.store.models import PhotoRow
from oddlamp.store.projects import ProjectStore
from tests.builders import CLEAR
from tests.pictures import blank, photo

BYTES = {"content-type": "application/octet-stream"}


@pytest.fixture
def log(project: Any) -> str:
    return f"/api/projects/{project['id']}/log"


def written(http: httpx.Client, log: str, text: str = "It is in", **more: Any) -> Any:
    answer = http.post(f"{log}/entries", json={"kind": "built", "text": text, **more})
    assert answer.status_code == 201, answer.text
    return answer.json()


def entries_of(http: httpx.Client, log: str, **query: Any) -> list[Any]:
    return [it for it in http.get(log, params=query).json()["rows"] if it["what"] == "entry"]


def test_an_entry_is_written_changed_put_back_thrown_away_and_found(http: httpx.Client, log: str, project: Any) -> None:
    stage = next(iter(project["review"]["titles"]))
    it = written(http, log, "Caf\u00e9 moon", stage=stage, minutes="1 h 20", cost="3,20")
    assert (it["took"], it["stage_label"], it["version"]) == ("1 h 20 min and 3.20", project["review"]["titles"][stage], 0)
    assert [row["id"] for row in entries_of(http, log, find="MOON cafe")] == [it["id"]]
    assert entries_of(http, log, find="sun") == []
    path = f"{log}/entries/{it['id']}"
    changed = http.put(path, json={"kind": "fixed", "text": "Sun", "version": 0}).json()
    assert (changed["kind"], changed["version"], changed["has_before"], changed["minutes"]) == ("fixed", 1, True, None)
    assert [row["id"] for row in entries_of(http, log, find="sun")] == [it["id"]]
    stale = http.put(path, json={"kind": "fixed", "text": "Star", "version": 0})
    assert (stale.status_code, stale.json()["title"]) == (409, "stale-entry")
    before = http.post(f"{path}/before", json={"version": 1}).json()
    assert (before["text"], before["took"]) == ("Caf\u00e9 moon", "1 h 20 min and 3.20")
    assert http.post(f"{path}/before", json={"version": 2}).json()["text"] == "Sun"
    assert http.put(f"{path}/thrown").json()["is_thrown"]
    assert entries_of(http, log) == []
    assert [row["id"] for row in entries_of(http, log, only="thrown")] == [it["id"]]
    assert not http.delete(f"{path}/thrown").json()["is_thrown"]
    assert len(entries_of(http, log)) == 1


def test_changes_readings_and_takes_stand_in_it_in_plain_words(http: httpx.Client, log: str, project: Any) -> None:
    path, revision = f"/api/projects/{project['id']}", project["revision"]
    found = {"value": 3.3, "unit": "V", "taken_at": "2026-11-28T10:00:00Z"}
    for patch, summary in (({"notes": "x"}, "Noted x"), ({"bench": {"checked": {"mock_up": {"rail": found}}}}, "Measured 3.3 V"), ({"bench": {"wired": {"a": {"joins": "a|b"}}}}, "Wire a is in")):  # fmt: skip
        edit = {"base_revision": revision, "patch": patch, "summary": summary}
        revision = http.post(f"{path}/edits", json=edit).json()["revision"]
    events = [{"kind": "control", "t_s": 0.1, "control": "on"}]
    assert http.post(f"{path}/takes", json={"name": "Opening night", "events": events}).status_code == 201
    told = {it["kind"]: it["deeds"][0]["text"] for it in http.get(log).json()["rows"]}
    assert told == {"rehearsed": "Opening night", "built": "Wire a is in", "measured": "Measured 3.3 V", "changed": "Noted x"}
    assert [it["deeds"][0]["text"] for it in http.get(log, params={"find": "MEASURED"}).json()["rows"]] == ["Measured 3.3 V"]
    for form, kind in (("csv", "text/csv"), ("md", "text/markdown")):
        file = http.get(f"{log}/file", params={"form": form})
        assert file.headers["content-type"].startswith(kind)
        assert "Opening night" in file.text
    for what in ("sheets", "bench/file?what=measured"):
        assert http.get(f"{path}/{what}").status_code == 200


def test_a_photo_goes_to_an_entry_is_described_taken_off_and_carried_along(http: httpx.Client, log: str, project: Any) -> None:
    it = written(http, log)
    sent = http.post(f"{log}/entries/{it['id']}/photos", params={"alt": " The moon "}, content=photo(1, (800, 500), is_noted=True), headers=BYTES)  # fmt: skip
    assert sent.status_code == 201, sent.text
    (shown,) = sent.json()["photos"]
    assert (shown["alt"], shown["width_px"], shown["height_px"]) == ("The moon", 800, 500)
    path = f"{log}/photos/{shown['id']}"
    whole, small = http.get(path), http.get(path, params={"is_small": True})
    assert len(whole.content) > len(small.content)
    for answer in (whole, small):
        assert answer.headers["content-type"] == "image/jpeg"
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert b"Exif" not in answer.content
    assert http.put(path, json={"alt": "A star"}).json()["photos"][0]["alt"] == "A star"
    assert len(entries_of(http, log, find="star")) == 1
    assert http.put(f"{path}/thrown").json()["photos"] == []
    assert entries_of(http, log, find="star") == []  # what is taken off finds nothing
    assert http.delete(f"{path}/thrown").json()["photos"][0]["id"] == shown["id"]
    file = http.get(f"/api/projects/{project['id']}/archive").content
    assert whole.content in file
    assert b"Exif" not in file
    there = http.post("/api/projects/import/archive", content=file, headers=BYTES).json()["id"]
    assert http.get(f"/api/projects/{there}/archive").content == file
    (row,) = entries_of(http, f"/api/projects/{there}/log")
    assert http.get(f"/api/projects/{there}/log/photos/{row['photos'][0]['id']}").content == whole.content
    assert http.get(f"/api/projects/{there}/log/photos/{shown['id']}").status_code == 404  # another project's


def test_what_is_no_photo_is_refused_and_the_words_stay(http: httpx.Client, log: str) -> None:
    it = written(http, log)
    path = f"{log}/entries/{it['id']}/photos"
    for content in (b"", b"<svg onload='alert(1)'/>", blank(40_000, 40_000), photo(2)[:200], bytes(PHOTO_MOST_BYTES + 1)):
        refused = http.post(path, content=content, headers=BYTES)
        assert (refused.status_code, refused.json()["field"]) == (422, "photo"), refused.text
    assert http.post(path, content=photo(2), headers={**BYTES, "origin": "http://elsewhere.invalid"}).status_code == 403
    assert http.post(f"{log}/entries/nobody/photos", content=photo(2), headers=BYTES).status_code == 404
    where = ("127.0.0.1", int(str(http.base_url).rstrip("/").rpartition(":")[2]))
    with socket.create_connection(where) as sender:  # a phone that is out of reach half way
        sender.sendall(f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1:{where[1]}\r\nContent-Length: 5000\r\n\r\n".encode() + photo(2)[:90])  # fmt: skip
    (kept,) = entries_of(http, log)
    assert (kept["text"], kept["photos"]) == ("It is in", [])


@pytest.mark.parametrize("given", [{"kind": "note", "text": "x"}, {"kind": "idea", "text": "  "}, {"kind": "idea", "text": "x", "minutes": "soon"}, {"kind": "idea", "text": "x", "cost": "-3"}, {"kind": "idea", "text": "x" * 4001}, {"kind": "idea"}])  # fmt: skip
def test_an_entry_that_cannot_be_read_is_refused(http: httpx.Client, log: str, given: Any) -> None:
    assert http.post(f"{log}/entries", json=given).status_code == 422
    assert entries_of(http, log) == []


def test_what_is_not_there_is_told(http: httpx.Client, log: str) -> None:
    it = written(http, log)
    for method, path in (("PUT", "entries/nobody/thrown"), ("DELETE", "photos/9999/thrown"), ("GET", "photos/9999")):
        assert http.request(method, f"{log}/{path}").status_code == 404
    assert http.post(f"{log}/entries/{it['id']}/before", json={"version": 0}).status_code == 404
    assert http.put(f"{log.removesuffix('log')}next-time/nobody/gone").status_code == 404
    assert http.get("/api/projects/nobody/log").status_code == 404


def test_a_note_for_next_time_is_met_again_in_another_project_and_let_go(http: httpx.Client, log: str, project: Any) -> None:
    stage = "nodes.radio"
    note = written(http, log, "Solder it to the socket", kind="next_time", stage=stage)
    there = http.post("/api/projects/import", json={**CLEAR, "title": "Another"}).json()["id"]
    path = f"/api/projects/{there}/next-time"

    def offered() -> list[str]:
        return [it["uid"] for it in http.get(path).json()]

    assert note["id"] in offered()
    (offer,) = [it for it in http.get(path).json() if it["uid"] == note["id"]]
    assert (offer["text"], offer["title"], offer["stage"]) == ("Solder it to the socket", CLEAR["title"], stage)
    assert offer["because"].startswith("Used here too: ")
    own = http.get(f"/api/projects/{project['id']}/next-time").json()
    assert note["id"] not in [it["uid"] for it in own]
    empty = http.post("/api/projects", json={"start": "empty"}).json()["id"]
    assert http.get(f"/api/projects/{empty}/next-time").json() == []
    assert http.put(f"{path}/{note['id']}/gone").status_code == 204
    assert note["id"] not in offered()
    file = http.get(f"/api/projects/{there}/archive").content
    carried = http.post("/api/projects/import/archive", content=file, headers=BYTES).json()["id"]
    assert note["id"] not in [it["uid"] for it in http.get(f"/api/projects/{carried}/next-time").json()]
    assert http.delete(f"{path}/{note['id']}/gone").status_code == 204
    assert note["id"] in offered()
    # Said of another stage it is about something else; put back as it was, it is about this one again.
    said = {"kind": "next_time", "text": "Solder it", "stage": "lamps.lamp", "version": 0}
    assert http.put(f"{log}/entries/{note['id']}", json=said).status_code == 200
    assert "lamps.lamp" in [it["stage"] for it in http.get(path).json() if it["uid"] == note["id"]]
    assert http.post(f"{log}/entries/{note['id']}/before", json={"version": 1}).status_code == 200
    assert [it["stage"] for it in http.get(path).json() if it["uid"] == note["id"]] == [stage]
    http.put(f"{log}/entries/{note['id']}/thrown")
    assert note["id"] not in offered()
    http.delete(f"{log}/entries/{note['id']}/thrown")
    for place, is_offered in (("archive", True), ("bin", False), ("shelf", True)):
        http.post(f"/api/projects/{project['id']}/place", json={"place": place})
        assert (note["id"] in offered()) is is_offered


def test_a_log_has_bounds_that_are_told(tmp_path: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(logbook, "ENTRIES_MOST", 2)
    engine = open_database(tmp_path / "o.sqlite3")
    store = ProjectStore(engine)
    project = store.create(load_plan(CLEAR), summary="Begun").id
    entry, _ = (store.log.write(project, Entry(kind="idea", text="It"), ()) for _ in range(2))
    with pytest.raises(OutOfRange, match="at most 2 entries"):
        store.log.write(project, Entry(kind="idea", text="One more"), ())
    made = Developed(b"x", b"x", 1, 1)
    for _ in range(entries.PHOTOS_EACH):
        store.log.add_photo(project, entry.id, made, "")
    with pytest.raises(OutOfRange, match="at most 12 photos"):
        store.log.add_photo(project, entry.id, made, "")
    with Session(engine) as session:
        assert session.scalar(select(func.count()).select_from(PhotoRow)) == entries.PHOTOS_EACH
    store.close()
