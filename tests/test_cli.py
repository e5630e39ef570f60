"""The command line: JSON contracts and exit codes 0, 1 and 2."""

import gc
import json
import sqlite3
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from oddlamp import __version__
from oddlamp.__main__ import main
from oddlamp.catalog.load import load_catalog
from oddlamp.cli import app, own_addresses
from oddlamp.core.plan.document import Document, merge_patch
from oddlamp.store.database import open_database
from tests.builders import CLEAR, DATA, lamp, words
from tests.conftest import free_port

ON = [{"kind": "control", "t_s": 0, "control": "on"}]


def run(tmp_path: Path, command: str, plan: Any, events: Any = None, *more: str) -> Any:
    names = []
    for name, content in (("plan.json", plan), ("events.json", events)):
        if content is not None:
            (tmp_path / name).write_text(content if isinstance(content, str) else json.dumps(content), encoding="utf-8")
            names.append(str(tmp_path / name))
    return CliRunner().invoke(app, [command, *names, *more])


@pytest.mark.parametrize(
    ("patch", "code", "said"),
    [
        ({}, 0, "Nothing to settle"),
        (lamp(resistor_ohm=60), 0, "LED-OVER (look)"),
        (lamp(resistor_ohm=40), 1, "LED-OVER (stop)"),
        (words(on="S", off="S"), 1, "CMD-DUP (stop)"),
    ],
)
def test_review_exit_codes(tmp_path: Path, patch: Document, code: int, said: str) -> None:
    result = run(tmp_path, "review", merge_patch(CLEAR, patch))
    assert (result.exit_code, said in result.stdout) == (code, True), result.stdout


def test_an_accepted_stop_no_longer_counts(tmp_path: Path) -> None:
    plan = merge_patch(CLEAR, lamp(resistor_ohm=40))
    findings = json.loads(run(tmp_path, "review", plan, None, "--json").stdout)["findings"]
    risks = {
        it["key"]: {"reason": "known", "taken_at": "2026-01-01T00:00:00Z", "numbers": it["numbers"]}
        for it in findings
        if it["severity"] == "stop"
    }
    assert run(tmp_path, "review", {**plan, "accepted": risks}).exit_code == 0


@pytest.mark.parametrize(
    ("plan", "said"),
    [
        ("{", "not JSON"),
        ([], "plan: given 'list'"),
        ({**CLEAR, "colour": 1}, "colour: given 1"),
        ({**CLEAR, "schema_version": 9}, "schema_version: given 9"),
        ("[" * 100_000, "not JSON"),
    ],
)
def test_what_cannot_be_read_is_exit_2_and_says_why(tmp_path: Path, plan: Any, said: str) -> None:
    for command, events in (("review", None), ("rehearse", ON)):
        result = run(tmp_path, command, plan, events)
        assert result.exit_code == 2
        assert said in result.stderr


def test_a_missing_file_is_exit_2(tmp_path: Path) -> None:
    result = CliRunner().invoke(app, ["review", str(tmp_path / "none.json")])
    assert (result.exit_code, "No such file" in result.stderr) == (2, True)


def test_what_a_file_brings_in_does_not_steer_the_terminal(tmp_path: Path) -> None:
    shown = run(tmp_path, "review", {**CLEAR, "title": "Moon\x1b[2J\x07\u202eeno"})
    assert shown.stdout.startswith(r"Moon\x1b[2J\x07\u202eeno: ")
    refused = run(tmp_path, "review", {**CLEAR, "\x1b]0;gone\x07": 1})
    assert "\x1b" not in refused.stderr
    assert "colour" in run(tmp_path, "review", {**CLEAR, "colour": "\x1b"}).stderr


def test_a_file_of_the_first_version_is_read_as_the_screen_reads_it(tmp_path: Path) -> None:
    old = {key: value for key, value in CLEAR.items() if key not in ("format", "schema_version")}
    assert run(tmp_path, "review", old).exit_code == 0


def test_input_without_end_is_refused_early(tmp_path: Path) -> None:
    result = CliRunner().invoke(app, ["review", "/dev/zero"])
    assert (result.exit_code, "over 20 MB" in result.stderr) == (2, True)


def test_a_copy_of_everything_is_made_once_and_never_over_something(tmp_path: Path) -> None:
    path, copy = tmp_path / "oddlamp.sqlite3", tmp_path / "copy.sqlite3"
    open_database(path).dispose()
    made = CliRunner().invoke(app, ["keep-copy", "--database", str(path), "--to", str(copy)])
    assert (made.exit_code, str(copy) in made.stdout) == (0, True)
    before = copy.read_bytes()
    again = CliRunner().invoke(app, ["keep-copy", "--database", str(path), "--to", str(copy)])
    assert (again.exit_code, "is there already" in again.stderr) == (2, True)
    assert copy.read_bytes() == before
    none = CliRunner().invoke(app, ["keep-copy", "--database", str(tmp_path / "none"), "--to", str(tmp_path / "other")])
    assert (none.exit_code, (tmp_path / "other").exists()) == (2, False)


def test_review_as_json(tmp_path: Path) -> None:
    shown = json.loads(run(tmp_path, "review", merge_patch(CLEAR, lamp(resistor_ohm=60)), None, "--json").stdout)
    assert set(shown) == {"line", "values", "findings"}
    assert set(shown["line"]) == {"stages", "segments", "rails", "risers", "columns"}
    finding = shown["findings"][0]
    assert set(finding) == {"code", "severity", "where", "stage", "message", "numbers", "working", "fixes", "accepted", "key"}
    assert set(finding["working"][0]) == {"formula", "substituted", "source"}
    assert set(finding["fixes"][0]) == {"label", "patch"}
    value = next(it for it in shown["values"] if it["id"] == "lamp.main.current_a")
    assert {"id", "stage", "label", "value", "because", "unit", "min", "max", "origin", "working"} <= set(value)
    assert (value["unit"], value["value"]) == ("A", pytest.approx(1.4 / 60))


def test_rehearse_as_json_and_its_exit_codes(tmp_path: Path) -> None:
    result = run(tmp_path, "rehearse", CLEAR, ON, "--json")
    shown = json.loads(result.stdout)
    assert result.exit_code == 0
    assert {"t_s", "stage", "ref", "bytes_hex", "volts", "lost_because"} <= set(shown["events"][0])
    assert shown["lamps"]["lamp.main"][-1][:2] == pytest.approx([0.037, 1.4 / (75 + 25)]), "35 ms and ten bits, in the pass after"
    lost = run(tmp_path, "rehearse", merge_patch(CLEAR, {"nodes": {"phone": {"speaks": ["wifi"]}}}), ON)
    assert (lost.exit_code, "lost: the phone does not speak classic serial" in lost.stdout) == (1, True)
    assert run(tmp_path, "rehearse", CLEAR, [{"kind": "dance"}]).exit_code == 2


def test_a_newer_database_is_left_alone_and_said_so(tmp_path: Path) -> None:
    path = tmp_path / "newer.sqlite3"
    open_database(path).dispose()
    connection = sqlite3.connect(path)
    connection.execute("UPDATE alembic_version SET version_num = '9999'")
    connection.commit()
    connection.close()
    result = CliRunner().invoke(app, ["serve", "--database", str(path), "--port", "1"])
    assert result.exit_code == 2
    assert "later Odd Lamp" in result.stderr
    assert "left as it is" in result.stderr


def test_the_addresses_told_for_the_local_network_are_not_this_machines_loop() -> None:
    assert not [address for address in own_addresses() if address.startswith("127.")]


def test_the_collector_waits_while_loading_and_is_awake_while_serving(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    awake: list[bool] = []
    monkeypatch.setattr("uvicorn.Server.run", lambda *_, **__: awake.append(gc.isenabled()))
    monkeypatch.setattr(
        "sys.argv", ["oddlamp", "serve", "--database", str(tmp_path / "oddlamp.sqlite3"), "--port", str(free_port())]
    )
    monkeypatch.setattr("gc.freeze", lambda: awake.append(gc.isenabled()))
    with pytest.raises(SystemExit, match="0"):
        main()
    assert awake == [False, True]


def test_it_says_which_one_it_is() -> None:
    result = CliRunner().invoke(app, ["--version"])
    assert result.exit_code == 0
    assert result.output == f"oddlamp {__version__}, figures of {load_catalog().version}\n"


def test_script_writes_the_steps_and_says_why_not(tmp_path: Path) -> None:
    plan = tmp_path / "plan.json"

    def written(patch: Any, *options: str) -> Any:
        plan.write_text(json.dumps(merge_patch(CLEAR, patch)), encoding="utf-8")
        return CliRunner().invoke(app, ["script", str(plan), *options])

    done = written({}, "--node", "radio")
    assert done.exit_code == 0
    assert done.output.startswith("14 steps through the adapter")
    assert "AT+UART=9600,0,0" in done.output
    listed = json.loads(written({}, "--node", "radio", "--json").output)
    assert len(listed["steps"]) == 14
    master = written({"nodes": {"radio": {"setup": {"role": "master"}}}}, "--node", "radio")
    assert (master.exit_code, "there is none at the other end" in master.output) == (1, True)
    assert written({}, "--node", "board").exit_code == 2
    assert "Straight: the board's RX pin" in written({}, "--node", "radio", "--route", "board").output
    printed = written({}, "--node", "radio", "--route", "pass-through").output
    assert "const long MODULE_SPEED = 38400;" in printed
    assert written({}, "--node", "radio", "--route", "owl").exit_code == 2
    assert written({}, "--node", "owl", "--route", "board").exit_code == 2


def test_script_asks_for_secrets_and_keeps_them_out_of_the_plan(tmp_path: Path) -> None:
    plan = tmp_path / "plan.json"
    guest = {
        "nodes": {"radio": {"choice": {"part": "family-e"}, "setup": None}, "phone": {"speaks": ["wifi"]}},
        "links": {"air": {"transport": None, "join": "station"}},
    }
    plan.write_text(json.dumps(merge_patch(CLEAR, guest)), encoding="utf-8")
    before = plan.read_bytes()
    asked = ["script", str(plan), "--node", "radio", "--secrets"]
    done = CliRunner().invoke(app, asked, input="house\ncurtain call\n")
    assert done.exit_code == 0, done.output
    assert 'AT+CWJAP="house","curtain call"' in done.stdout
    assert "curtain call" not in done.stderr, "what is typed is not shown"
    assert plan.read_bytes() == before
    assert CliRunner().invoke(app, asked, input="house\nshort\n").exit_code == 2
    star = CliRunner().invoke(app, ["script", str(DATA / "foyer-star.json"), "--node", "board", "--over", "mq"])
    assert (star.exit_code, "at the broker" in star.output) == (0, True)
