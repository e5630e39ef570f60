"""The server is killed right after it said kept, again and again: nothing that was said is lost.

Each round starts the server, keeps one more change over HTTP and kills it with SIGKILL the moment the answer is in.
``ODDLAMP_KILLS`` sets the rounds.
"""

import os
import signal
import sqlite3
from pathlib import Path

from tests.builders import CLEAR
from tests.conftest import caller, start_server

ROUNDS = int(os.environ.get("ODDLAMP_KILLS", "3"))


def test_nothing_kept_is_lost_to_a_kill(tmp_path: Path) -> None:
    database = tmp_path / "oddlamp.sqlite3"
    project, revision, said = "", 0, 75.0
    for round_number in range(ROUNDS):
        process, address = start_server(database)
        try:
            with caller(address) as http:
                if not project:
                    state = http.post("/api/projects/import", json=CLEAR).json()
                    project, revision = state["id"], state["revision"]
                plan = http.get(f"/api/projects/{project}/plan").json()
                assert plan["lamps"]["lamp"]["channels"]["main"]["resistor_ohm"] == said, f"lost in round {round_number}"
                said = 100.0 + round_number
                patch = {"lamps": {"lamp": {"channels": {"main": {"resistor_ohm": said}}}}}
                answer = http.post(f"/api/projects/{project}/edits", json={"base_revision": revision, "patch": patch})
                revision = answer.json()["revision"]
        finally:
            os.kill(process.pid, signal.SIGKILL)
            process.wait()
    connection = sqlite3.connect(database)
    assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    assert connection.execute("SELECT count(*) FROM revisions WHERE project_id = ?", (project,)).fetchone() == (ROUNDS + 1,)
    connection.close()
