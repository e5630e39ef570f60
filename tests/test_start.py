"""A start that cannot be: one sentence, exit 2, nothing said to run, and what is there is left as it is."""

import http.client
import os
import shutil
import socket
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import pytest
import uvicorn
from typer.testing import CliRunner

from oddlamp import serving
from oddlamp.api.app import create_app
from oddlamp.catalog.load import DATA
from oddlamp.cli import app
from oddlamp.store.database import open_database
from tests.conftest import CALL, PATIENCE_S, free_port, running_server
from tests.talking import Talker


def serve(*options: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "oddlamp", "serve", *options]
    return subprocess.run(command, capture_output=True, text=True, timeout=PATIENCE_S, check=False)


def serve_here(*options: str) -> subprocess.CompletedProcess[str]:
    """The same in this process, where nothing can be waited for."""
    done = CliRunner().invoke(app, ["serve", *options])
    return subprocess.CompletedProcess([], done.exit_code, done.stdout, done.stderr)


def is_refused(result: subprocess.CompletedProcess[str], said: str) -> None:
    assert result.returncode == 2
    assert said in result.stderr
    assert "Traceback" not in result.stderr
    assert result.stderr.count("\n") == 1, result.stderr
    assert result.stdout == ""


def empty_folder(path: Path) -> None:
    path.mkdir()


def garbage(path: Path) -> None:
    path.write_bytes(os.urandom(8192))


def torn(path: Path) -> None:
    open_database(path).dispose()
    whole = path.read_bytes()
    path.write_bytes(whole[:100] + b"\xff" * (len(whole) - 100))


def of_another_program(path: Path) -> None:
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE songs (title TEXT)")
    connection.close()


def pipe(path: Path) -> None:
    os.mkfifo(path)


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (empty_folder, "is no file but a folder"),
        (garbage, "is no database Odd Lamp can read, or it is damaged"),
        (torn, "is no database Odd Lamp can read, or it is damaged"),
        (of_another_program, "is a database of another program"),
        (pipe, "is no file but a device"),
    ],
)
def test_what_is_no_database_of_ours(tmp_path: Path, make: Callable[[Path], None], said: str) -> None:
    path = tmp_path / "it"
    make(path)
    before = path.read_bytes() if path.is_file() else b""
    start = serve if make is pipe else serve_here  # what could be waited for has a process of its own
    is_refused(start("--database", str(path), "--port", str(free_port())), said)
    assert not path.is_file() or path.read_bytes() == before


def test_a_database_held_by_another_program(tmp_path: Path) -> None:
    path = tmp_path / "oddlamp.sqlite3"
    open_database(path).dispose()
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    is_refused(serve("--database", str(path), "--port", str(free_port())), "held by another program")
    other.close()


def test_no_place_to_write(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("", encoding="utf-8")
    is_refused(
        serve_here("--database", str(tmp_path / "file" / "oddlamp.sqlite3"), "--port", str(free_port())), "cannot be opened"
    )


def test_a_port_that_cannot_be_had(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        is_refused(serve("--database", str(tmp_path / "it.sqlite3"), "--port", port), f"Port {port} cannot be used")
    assert not (tmp_path / "it.sqlite3").exists()
    for port in ("0", "65536", "-1"):
        result = serve_here("--database", str(tmp_path / "it.sqlite3"), "--port", port)
        assert (result.returncode, result.stdout, "Traceback" in result.stderr) == (2, "", False)


def parts_missing(folder: Path) -> None:
    shutil.rmtree(folder)


def parts_binary(folder: Path) -> None:
    (folder / "leds" / "led-red.toml").write_bytes(b"\xff\xfe\x00")


def parts_deep(folder: Path) -> None:
    (folder / "leds" / "led-red.toml").write_text("id = " + "[" * 5000 + "]" * 5000, encoding="utf-8")


def parts_pipe(folder: Path) -> None:
    (folder / "catalog.toml").unlink()
    os.mkfifo(folder / "catalog.toml")


@pytest.mark.parametrize("spoil", [parts_missing, parts_binary, parts_deep, parts_pipe])
def test_parts_that_cannot_be_read(tmp_path: Path, spoil: Callable[[Path], None]) -> None:
    folder = tmp_path / "parts"
    shutil.copytree(DATA, folder)
    spoil(folder)
    options = ("--database", str(tmp_path / "it.sqlite3"), "--port", str(free_port()), "--parts", str(folder))
    start = serve if spoil is parts_pipe else serve_here
    is_refused(start(*options), f"A part file in {folder} is wrong: ")


@contextmanager
def impatient(monkeypatch: pytest.MonkeyPatch, database: Path | None = None) -> Iterator[tuple[str, int]]:
    """Serve in this process, with little patience for requests; yield where."""
    monkeypatch.setattr(serving, "REQUEST_WAIT_S", 0.3)
    server = uvicorn.Server(uvicorn.Config(create_app(database), http=serving.Patient, ws="wsproto", log_level="error"))
    with socket.socket() as listener, ThreadPoolExecutor(1) as pool:
        listener.bind(("127.0.0.1", 0))
        listener.listen()
        running = pool.submit(server.run, sockets=[listener])
        try:
            yield listener.getsockname()
        finally:
            server.should_exit = True
            running.result()


def test_a_line_that_says_nothing_or_half_of_something_is_closed(monkeypatch: pytest.MonkeyPatch) -> None:
    with impatient(monkeypatch) as where:
        for sent in (b"", b"GET / HTTP/1.1\r\nHost: loc", b"\x00\xff" * 10):
            with socket.create_connection(where, timeout=PATIENCE_S) as line:
                line.sendall(sent)
                while line.recv(1000):  # ends once the server has closed it
                    pass
        whole = b"GET /api/nothing HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n"
        with socket.create_connection(where, timeout=PATIENCE_S) as line:
            line.sendall(whole)
            assert line.recv(1000).startswith(b"HTTP/1.1 404")


def test_a_conversation_goes_on_for_as_long_as_both_want(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """A stream over a minute showed it: every console was closed as a request that never came."""
    with impatient(monkeypatch, tmp_path / "o.sqlite3") as (host, port):
        address = f"http://{host}:{port}"
        project = CALL.post(f"{address}/api/projects", json={"start": "demo"}).json()["id"]
        with Talker(address, f"/api/projects/{project}/module/-/console") as talk:
            with socket.create_connection((host, port), timeout=PATIENCE_S) as line:
                assert line.recv(1) == b"", "a line that says nothing was closed meanwhile"
            talk.say(turn="power off")
            assert talk.until("turned")["what"] == "power off"


def test_an_answer_does_not_wait_for_the_first_half_of_it_to_be_acknowledged(tmp_path: Path) -> None:
    """Where small segments are held back (RFC 896), every answer over one line takes the 40 ms of a delayed acknowledgement."""
    with running_server(tmp_path / "quick.sqlite3") as address:
        host, port = address.removeprefix("http://").split(":")
        line = http.client.HTTPConnection(host, int(port), timeout=PATIENCE_S)
        took_s = []
        for _ in range(20):
            begun = time.perf_counter()
            line.request("GET", "/api/nothing")
            line.getresponse().read()
            took_s.append(time.perf_counter() - begun)
        line.close()
    assert min(took_s[1:]) < 0.03
