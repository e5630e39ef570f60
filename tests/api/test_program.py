"""The printed program over HTTP and at the command line: read, taken away, changed by hand and brought back, and refused."""

import io
import json
import re
import zipfile
from pathlib import Path
from typing import Any

import httpx
import pytest
from typer.testing import CliRunner

from oddlamp.catalog.load import demo_plan, start_data
from oddlamp.cli import app
from oddlamp.core.plan.document import Document, merge_patch
from oddlamp.core.plan.programs import BEGINS, ENDS, wrong_in
from tests.builders import CLEAR


def shown(http: httpx.Client, project: Any) -> Any:
    answer = http.get(f"/api/projects/{project['id']}/program")
    assert answer.status_code == 200, answer.text
    return answer.json()


def edit(http: httpx.Client, project: Any, patch: Document) -> httpx.Response:
    head = http.get(f"/api/projects/{project['id']}").json()["revision"]
    return http.post(f"/api/projects/{project['id']}/edits", json={"patch": patch, "base_revision": head, "summary": "changed"})


def region(place: str, code: str) -> Document:
    return {"programs": {"board": {"regions": {place: {"code": code}}}}}


def test_each_line_knows_its_stage(http: httpx.Client, project: Any) -> None:
    program = shown(http, project)
    lines = program["text"].split("\n")
    assert len(lines) == len(program["of"])
    stage = {line: program["stages"][at] for line, at in zip(lines, program["of"], strict=True) if at >= 0}
    assert stage[next(it for it in stage if "PIN_LAMP_MAIN" in it)] == "lamps.lamp"
    assert {"lamps.lamp", "rules.board", "vocabularies.words"} <= set(program["stages"])
    assert program["sentence"] == f"One file, {len(lines) - 1} lines, and no library to fetch."
    assert program["taken_at"] is None
    assert program["steps"]


def test_a_folder_in_a_zip_is_the_same_each_time(http: httpx.Client, project: Any) -> None:
    """The folder and the program have one name, as the packages of boards want it."""
    answers = [http.get(f"/api/projects/{project['id']}/program/file") for _ in range(2)]
    assert answers[0].content == answers[1].content
    archive = zipfile.ZipFile(io.BytesIO(answers[0].content))
    names = archive.namelist()
    folder = names[0].partition("/")[0]
    assert names == [f"{folder}/{folder}.ino", f"{folder}/board.h"]
    program = shown(http, project)
    assert archive.read(names[0]).decode("ascii") == program["text"]
    assert archive.read(names[1]).decode("ascii") == program["header"]


def test_a_program_that_tries_the_wiring_comes_in_a_folder_of_its_own(http: httpx.Client, project: Any) -> None:
    answer = http.get(f"/api/projects/{project['id']}/program/file?what=wiring")
    archive = zipfile.ZipFile(io.BytesIO(answer.content))
    folder = archive.namelist()[0].partition("/")[0]
    assert folder.endswith("_wiring")
    assert '"Lamp, pin ' in archive.read(f"{folder}/{folder}.ino").decode("ascii")


def test_what_changed_since_it_was_taken_is_told(http: httpx.Client, project: Any) -> None:
    taken = http.post(
        f"/api/projects/{project['id']}/program/taken", json={"host": "board", "revision": project["revision"]}
    ).json()
    assert taken["changed"] == []
    assert taken["taken_at"]
    assert edit(http, project, {"signals": {"lamp.main": {"pin": "6"}}}).status_code == 200
    changed = [it for it in shown(http, project)["changed"] if it[:1] in "+-"]
    assert len(changed) == 2
    assert changed[1] == "+static const uint8_t PIN_LAMP_MAIN = 6;  // Lamp"


def test_a_region_outlives_a_change_of_pins_and_is_undone_like_any_edit(http: httpx.Client, project: Any) -> None:
    assert edit(http, project, region("pass", "  // a bell, one day")).status_code == 200
    assert edit(http, project, {"signals": {"lamp.main": {"pin": "6"}}}).status_code == 200
    lines = shown(http, project)["text"].split("\n")
    at = lines.index("  // a bell, one day")
    assert lines[at - 1].startswith(f"{BEGINS}pass")
    assert lines[at + 1] == ENDS
    assert "  at_every_pass();" in lines
    told = http.get(f"/api/projects/{project['id']}").json()["review"]["not_yet"]["rules.board"]
    assert re.fullmatch(
        r"what was written into its program by hand, 1\sms at most: its time is rehearsed, and not what it does", told
    )
    for _ in range(2):
        head = http.get(f"/api/projects/{project['id']}").json()["revision"]
        http.post(f"/api/projects/{project['id']}/undo", json={"base_revision": head})
    assert "a bell" not in shown(http, project)["text"]


def test_a_changed_file_brings_its_regions_back_and_the_rest_is_listed(http: httpx.Client, project: Any) -> None:
    edit(http, project, region("heard.on", "  on(LAMP_LAMP, 0);"))
    text = (
        shown(http, project)["text"]
        .replace("  on(LAMP_LAMP, 0);", "  off(LAMP_LAMP, 0);\n  // twice")
        .replace("PIN_LAMP_MAIN = ", "PIN_LAMP_MAIN = 1 + ")
    )
    head = http.get(f"/api/projects/{project['id']}").json()["revision"]
    back = http.post(
        f"/api/projects/{project['id']}/program/back", json={"host": "board", "base_revision": head, "text": text}
    ).json()
    assert back["patch"] == region("heard.on", "  off(LAMP_LAMP, 0);\n  // twice")
    assert [it[:1] for it in back["others"] if it[:1] in "+-"] == ["-", "+"]
    assert edit(http, project, back["patch"]).status_code == 200
    assert "  // twice" in shown(http, project)["text"]


def test_a_region_whose_place_is_gone_is_kept_and_told(http: httpx.Client, project: Any) -> None:
    edit(http, project, region("heard.off", "  // mine"))
    gone: Document = {
        "vocabularies": {"words": {"words": {"off": None}}},
        "rules": {"r2": None},
        "nodes": {"phone": {"controls": None}},
    }
    assert edit(http, project, gone).status_code == 200
    program = shown(http, project)
    assert "// mine" not in program["text"]
    (lost,) = program["regions"]
    assert (lost["has_place"], lost["code"]) == (False, "  // mine")
    assert "no such word any more" in lost["told"]


HOSTILE = {
    "an open bracket": "if (x) {",
    "a bracket too many": "}\nint y;\nvoid z() {",
    "an open comment": "/* for ever",
    "an open text": 'say("x);',
    "a line joined to the next": "int x; \\",
    "a directive": "#if 0",
    "a raw string": 'R"(}',
    "a trigraph": "??/",
    "the end of a region": ENDS,
    "another script": "int \u00e9;",
    "another bracket": "a[(b])",
}


@pytest.mark.parametrize("name", HOSTILE)
def test_what_would_not_stay_in_its_region_is_refused_with_why(http: httpx.Client, project: Any, name: str) -> None:
    answer = edit(http, project, region("pass", HOSTILE[name]))
    assert answer.status_code == 422
    assert wrong_in(HOSTILE[name]) in answer.text


@pytest.mark.parametrize(
    "code", ["x('}');", 'y("{ // \\" }");', "// it's {\nz();", "/* ( */", "#define A 1\n#include <math.h>", "a[b(c{1})];", ""]
)
def test_what_stays_in_its_region_is_kept(code: str) -> None:
    assert wrong_in(code) is None


def test_a_ble_radio_of_the_boards_own_is_refused_in_a_sentence(http: httpx.Client) -> None:
    project = http.post("/api/projects/import", json=start_data("14-coin-cell")["plan"]).json()
    program = shown(http, project)
    assert program["text"] == ""
    assert program["refused"].startswith("It wants a program without BLE serial: packages of boards have no serial line by BLE")
    assert program["is_wiring_tried"]
    assert http.get(f"/api/projects/{project['id']}/program/file?what=wiring").status_code == 200
    assert http.get(f"/api/projects/{project['id']}/program/file").status_code == 422


def test_a_board_with_a_radio_has_its_page_and_a_place_for_secrets(http: httpx.Client) -> None:
    """The folder has what the steps speak of, and nothing that would be written over what the maker put there."""
    project = http.post("/api/projects/import", json=demo_plan("foyer-star")).json()
    program = shown(http, project)
    assert program["beside"] == ["board.h", "secrets-example.h", "page.h"]
    assert "Copy secrets-example.h to secrets.h" in program["steps"][0]
    assert "Open http://(that address):333/ in any browser" in program["steps"][-1]
    packed = http.get(f"/api/projects/{project['id']}/program/file").content
    names = {it.partition("/")[2] for it in zipfile.ZipFile(io.BytesIO(packed)).namelist()}
    assert names == {"foyer_star.ino", "board.h", "page.h", "secrets-example.h"}


def test_a_plan_without_a_board_says_so(http: httpx.Client) -> None:
    for start in ({"start": "empty"}, {"start": "demo", "demo": "prompters-nudge"}):
        program = shown(http, http.post("/api/projects", json=start).json())
        assert program["sentence"] == "No board, so no program."
        assert program["text"] == ""


def test_the_command_line_writes_the_folder(tmp_path: Path) -> None:
    plan = tmp_path / "plan.json"
    plan.write_text(json.dumps(merge_patch(CLEAR, {"title": "1 \u00e9 !"})), encoding="utf-8")
    done = CliRunner().invoke(app, ["export", str(plan), "--as", "program", "--host", "board", "--to", str(tmp_path / "out")])
    assert done.exit_code == 0, done.output
    assert sorted(it.name for it in (tmp_path / "out" / "program_1").iterdir()) == ["board.h", "program_1.ino"]
    assert CliRunner().invoke(app, ["export", str(plan), "--host", "moon", "--to", str(tmp_path)]).exit_code == 2
    (tmp_path / "file").write_text("")
    assert CliRunner().invoke(app, ["export", str(plan), "--to", str(tmp_path / "file")]).exit_code == 2
    plan.write_text(json.dumps(start_data("14-coin-cell")["plan"]), encoding="utf-8")
    done = CliRunner().invoke(app, ["export", str(plan), "--to", str(tmp_path / "out")])
    assert (done.exit_code, "by BLE in common" in done.output) == (1, True)


@pytest.mark.parametrize("what", ["wiring", "cut", "parts", "bringup", "drawing", "spice"])
def test_the_lists_of_the_bench_are_written_from_a_terminal(tmp_path: Path, what: str) -> None:
    plan = tmp_path / "plan.json"
    plan.write_text(json.dumps(CLEAR), encoding="utf-8")
    done = CliRunner().invoke(app, ["export", str(plan), "--as", what, "--to", str(tmp_path / "out")])
    assert done.exit_code == 0, done.output
    written = sorted(path.name for path in (tmp_path / "out").iterdir())
    assert written == {"drawing": ["drawing.svg"], "spice": ["circuits.cir"]}.get(what, [f"{what}.csv", f"{what}.md"])
