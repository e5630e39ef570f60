"""Over real HTTP: the tree, trials, the shelf, strange imports, and who may come in from the network."""

import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx
import pytest

from oddlamp.api.app import create_app
from oddlamp.api.lan import Lan
from tests.builders import CLEAR, lamp
from tests.conftest import CALL, caller, start_server
from tests.pictures import photo


def post(http: httpx.Client, project: Any, path: str, **body: Any) -> httpx.Response:
    return http.post(f"/api/projects/{project['id']}/{path}", json=body)


def test_two_windows_and_the_same_place(http: httpx.Client, project: Any) -> None:
    base = project["revision"]
    theirs = post(http, project, "edits", base_revision=base, patch=lamp(resistor_ohm=82)).json()
    other = post(http, project, "edits", base_revision=base, patch={"title": "Other place"}).json()
    assert other["review"]["title"] == "Other place"
    met = post(http, project, "edits", base_revision=base, patch=lamp(resistor_ohm="91"))
    assert met.status_code == 409
    assert met.json()["revision"] == other["revision"]
    assert [(it["was"], it["theirs"], it["yours"]) for it in met.json()["clashes"]] == [("75\u00a0Ω", "82\u00a0Ω", "91\u00a0Ω")]
    mine = post(http, project, "edits", base_revision=other["revision"], patch=lamp(resistor_ohm="91")).json()
    assert (mine["number"], theirs["number"]) == (3, 1)


def test_a_trial_shows_what_would_move_and_keeps_nothing(http: httpx.Client, project: Any) -> None:
    trial = post(http, project, "trials", base_revision=project["revision"], patch=lamp(resistor_ohm=47)).json()
    assert [it["after"] for it in trial["comparison"]["findings"]] == ["look", "look"]
    assert [it["code"] for it in trial["review"]["findings"]] == ["LED-OVER", "PIN-CURRENT"]
    assert http.get(f"/api/projects/{project['id']}").json()["revision"] == project["revision"]
    refused = post(http, project, "trials", base_revision=project["revision"], patch=lamp(resistor_ohm="9 V"))
    assert (refused.status_code, refused.json()["field"]) == (422, "lamps.lamp.channels.main.resistor_ohm")


def test_history_branches_compares_and_restores(http: httpx.Client, project: Any) -> None:
    left = post(http, project, "edits", base_revision=project["revision"], patch=lamp(resistor_ohm=47), summary="47").json()
    back = post(http, project, "undo", base_revision=left["revision"]).json()
    right = post(http, project, "edits", base_revision=back["revision"], patch=lamp(resistor_ohm=82), summary="82").json()
    history = http.get(f"/api/projects/{project['id']}/history").json()
    assert [(it["summary"], it["is_head"], it["lane"]) for it in history] == [
        ("82", True, 0),
        ("47", False, 1),
        ("Read from a file", False, 0),
    ]
    query = {"before": left["revision"], "after": right["revision"]}
    told = http.get(f"/api/projects/{project['id']}/compare", params=query).json()
    assert [(it["before"], it["after"]) for it in told["findings"]] == [("look", "clear"), ("look", "clear")]
    restored = post(http, project, "restore", base_revision=right["revision"], revision=left["revision"]).json()
    assert restored["undo"] == "Back to change 1: 47"
    assert post(http, project, "restore", base_revision=restored["revision"], revision=10**9).status_code == 404


def test_the_shelf_copies_puts_away_and_brings_back(http: httpx.Client, project: Any) -> None:
    copy = post(http, project, "copy").json()
    assert copy["review"]["title"] == "One lamp, copy"
    for place in ("archive", "bin", "shelf"):
        assert post(http, project, "place", place=place).json()["place"] == place
        listed = {it["id"]: it["place"] for it in http.get("/api/projects").json()}
        assert (listed[project["id"]], listed[copy["id"]]) == (place, "shelf")
    item = next(it for it in http.get("/api/projects").json() if it["id"] == project["id"])
    assert item["sentence"].startswith("Nothing to settle")
    assert set(item["thread"]) <= {"clear", "look", "stop", "unknown"}


def test_answers_come_as_text(http: httpx.Client, project: Any) -> None:
    answer = http.get(f"/api/projects/{project['id']}/answers")
    assert answer.headers["content-type"].startswith("text/plain")
    assert "14\u00a0mA flows through Lamp" in answer.text


DEEP = b'{"x":' * 5000 + b"1" + b"}" * 5000


@pytest.mark.parametrize(
    ("content", "status", "code", "told"),
    [
        (b"\xff\xfe nonsense", 400, "not-readable", "JSON"),
        (b"{", 422, "request-invalid", "JSON"),
        (b"[1, 2]", 422, "request-invalid", "dictionary"),
        (DEEP, 400, "not-readable", "no deeper than a plan"),
        (b'{"x":' * 200 + b"1" + b"}" * 200, 422, "plan-invalid", "at most 24 levels"),
        (json.dumps({**CLEAR, "mood": 1}).encode(), 422, "plan-invalid", "no field of this name here"),
        (json.dumps({**CLEAR, "schema_version": 7}).encode(), 422, "plan-too-new", "a later Odd Lamp wrote this plan"),
        (json.dumps({**CLEAR, "title": float("nan")}).encode(), 422, "plan-invalid", ""),
        (b'{"title": "' + b"x" * 2_200_000 + b'"}', 413, "too-large", "at most 2 MB"),
    ],
    ids=["bytes", "cut", "list", "5000-deep", "200-deep", "unknown", "newer", "nan", "large"],
)
def test_strange_imports_each_get_a_clear_answer(http: httpx.Client, content: bytes, status: int, code: str, told: str) -> None:
    answer = http.post("/api/projects/import", content=content, headers={"content-type": "application/json"})
    assert (answer.status_code, answer.json()["title"]) == (status, code)
    assert told in answer.text


def test_a_version_0_plan_is_upgraded_and_its_file_kept_as_it_was(http: httpx.Client) -> None:
    old = {key: value for key, value in CLEAR.items() if key not in ("format", "schema_version", "lamps")}
    old["lamps"] = [{"id": name, **it} for name, it in CLEAR["lamps"].items()]
    state = http.post("/api/projects/import", json=old).json()
    history = http.get(f"/api/projects/{state['id']}/history").json()
    assert history[0]["summary"] == "Read from a file of version 0, brought up to date"
    assert http.get(f"/api/projects/{state['id']}/original").json() == old
    assert http.get(f"/api/projects/{state['id']}/plan").json()["schema_version"] == 1


def resident_mb(pid: int) -> float:
    status = Path(f"/proc/{pid}/status").read_text(encoding="utf-8")
    return int(next(line for line in status.splitlines() if line.startswith("VmRSS")).split()[1]) / 1024


def stream(megabytes: int) -> Iterator[bytes]:
    yield b'{"title": "'
    for _ in range(megabytes * 16):
        yield b"x" * 65_536


def test_bodies_of_any_size_do_not_fill_the_memory(tmp_path: Path) -> None:
    process, address = start_server(tmp_path / "oddlamp.sqlite3")
    try:
        with caller(address) as http:
            http.headers["content-type"] = "application/json"
            for _ in range(3):
                http.post("/api/projects/import", content=json.dumps(CLEAR).encode())
            before = resident_mb(process.pid)
            for content in (b"x" * 50_000_000, DEEP):
                try:
                    assert http.post("/api/projects/import", content=content).status_code in (400, 413)
                except httpx.TransportError:
                    continue  # refused by its length: the server closes before all of it is sent
            for body in (stream(50), stream(50)):
                try:
                    assert http.post("/api/projects/import", content=body).status_code == 413
                except httpx.TransportError:
                    continue
            assert http.get("/api/projects").status_code == 200
            assert resident_mb(process.pid) - before < 20
    finally:
        process.terminate()
        process.wait()


def test_a_disk_that_refuses_is_told_and_all_before_it_stands(tmp_path: Path) -> None:
    """The server may write no file past a limit: every write beyond it fails, as on a disk that is full."""
    process, address = start_server(tmp_path / "oddlamp.sqlite3", file_limit=1_500_000)
    try:
        with caller(address) as http:
            state = http.post("/api/projects/import", json=CLEAR).json()
            log = f"/api/projects/{state['id']}/log"
            entry = http.post(f"{log}/entries", json={"kind": "built", "text": "It is in"}).json()
            answer, number = httpx.Response(200), 0
            for number in range(2000):
                patch = lamp(resistor_ohm=100 + number)
                answer = post(http, state, "edits", base_revision=state["revision"], patch=patch)
                if answer.status_code != 200:
                    break
                state = answer.json()
            assert answer.status_code == 507
            assert answer.json()["title"] == "not-kept"
            assert "Nothing of this change was kept; all before it is safe. Make room" in answer.json()["detail"]
            sent = {"content": photo(1, (1500, 1000)), "headers": {"content-type": "application/octet-stream"}}
            assert http.post(f"{log}/entries/{entry['id']}/photos", **sent).status_code == 507
            assert [it["photos"] for it in http.get(log).json()["rows"] if it["what"] == "entry"] == [[]]
            shown = http.get(f"/api/projects/{state['id']}")
            assert shown.status_code == 200
            assert shown.json()["number"] == number
    finally:
        process.terminate()
        process.wait()
    process, address = start_server(tmp_path / "oddlamp.sqlite3")
    try:
        with caller(address) as http:
            assert http.get(f"/api/projects/{state['id']}").json()["number"] == number
            after = post(http, state, "edits", base_revision=state["revision"], patch=lamp(resistor_ohm=47))
            assert after.json()["number"] == number + 1
    finally:
        process.terminate()
        process.wait()


class TestNeighbours:
    """With --lan, everybody but this machine needs the token."""

    @pytest.fixture
    def call(self, tmp_path: Path) -> Any:
        import anyio

        lan = Lan(["192.168.7.2"], 8080)
        lan.token = "spell"
        app = create_app(tmp_path / "lan.sqlite3", lan=lan)

        def go(path: str, client: str, host: str = "192.168.7.2:8080", method: str = "GET", **more: Any) -> httpx.Response:
            async def ask() -> httpx.Response:
                transport = httpx.ASGITransport(app=app, client=(client, 5000))
                async with httpx.AsyncClient(transport=transport, base_url=f"http://{host}") as http:
                    return await http.request(method, path, **more)

            with ThreadPoolExecutor(1) as pool:  # a loop of its own, whatever runs in the thread of the tests
                return pool.submit(anyio.run, ask).result()

        return go

    def test_a_neighbour_without_the_token_stays_out(self, call: Any) -> None:
        answer = call("/api/projects", "192.168.7.9")
        assert (answer.status_code, answer.json()["field"]) == (401, "token")
        assert call("/?token=wrong", "192.168.7.9").status_code == 401
        assert call("/api/projects", "192.168.7.9", headers={"cookie": "oddlamp_token=wrong"}).status_code == 401

    def test_the_address_with_the_token_lets_in_and_leaves_it_out_of_the_address(self, call: Any) -> None:
        answer = call("/?token=spell", "192.168.7.9")
        assert (answer.status_code, answer.headers["location"]) == (303, "/")
        assert "HttpOnly" in answer.headers["set-cookie"]
        assert "samesite=lax" in answer.headers["set-cookie"].lower(), "a link in a message comes from another site"
        inside = call("/api/projects", "192.168.7.9", headers={"cookie": "oddlamp_token=spell"})
        assert inside.status_code == 200

    def test_a_browser_without_it_gets_a_page_that_takes_it(self, call: Any) -> None:
        asked = {"accept": "text/html,*/*"}
        page = call("/projects/abc", "192.168.7.9", headers=asked)
        assert (page.status_code, page.headers["content-type"]) == (401, "text/html; charset=utf-8")
        assert 'name="token"' in page.text
        assert "not the token" not in page.text
        assert "form-action 'self'" in page.headers["content-security-policy"]
        assert "not the token" in call("/?token=wrong", "192.168.7.9", headers=asked).text
        assert call("/?token=+spell+", "192.168.7.9", headers=asked).status_code == 303

    def test_only_the_machine_itself_is_shown_the_way_in_and_can_renew_it(self, call: Any) -> None:
        inside = {"cookie": "oddlamp_token=spell"}
        mine = call("/api/lan", "127.0.0.1", host="127.0.0.1:8080").json()
        assert [it["address"] for it in mine["ways"]] == ["http://192.168.7.2:8080/?token=spell"]
        assert mine["ways"][0]["qr"].startswith("data:image/svg+xml")
        assert call("/api/lan", "192.168.7.9", headers=inside).json() == {"is_open": True, "is_here": False, "ways": []}
        assert call("/api/lan/token", "192.168.7.9", method="POST", headers=inside).status_code == 422
        assert call("/api/projects", "192.168.7.9", headers=inside).status_code == 200

        renewed = call("/api/lan/token", "127.0.0.1", host="127.0.0.1:8080", method="POST").json()["ways"][0]["address"]
        assert "spell" not in renewed
        assert call("/api/projects", "192.168.7.9", headers=inside).status_code == 401, "whoever had the old one is out"
        assert call(renewed.partition(":8080")[2], "192.168.7.9").status_code == 303

    def test_without_it_nobody_is_told_a_way(self, server: str) -> None:
        assert CALL.get(f"{server}/api/lan").json() == {"is_open": False, "is_here": True, "ways": []}
        refused = CALL.post(f"{server}/api/lan/token")
        assert (refused.status_code, refused.json()["given"]) == (422, "'no --lan'")

    def test_this_machine_needs_none_and_strange_names_are_refused(self, call: Any) -> None:
        assert call("/api/projects", "127.0.0.1", host="127.0.0.1:8080").status_code == 200
        assert call("/api/projects", "127.0.0.1", host="elsewhere.example").status_code == 400


def test_the_server_listens_on_this_machine_only(server: str) -> None:
    port = int(server.rpartition(":")[2])
    listening = [line.split() for line in Path("/proc/net/tcp").read_text(encoding="utf-8").splitlines()[1:]]
    assert {row[1].partition(":")[0] for row in listening if row[1].endswith(f":{port:04X}") and row[3] == "0A"} == {"0100007F"}
