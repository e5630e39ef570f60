"""A log of any size, sent as a file: read while it comes, with bounded memory, and let go when the sender goes."""

import re
import socket
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.conftest import CALL, start_server
from tests.full import IS_PROOF

MEGABYTES = 100 if IS_PROOF else 12
SET_UP = b"AT\r\nOK\r\nAT+NAME?\r\n+NAME:LANTERN\r\nOK\r\nAT+NAME=LANTERN\r\nOK\r\nAT+ROLE?\r\n+ROLE:0\r\nOK\r\n"
TRAFFIC = b"12:00:01.123 brightness 77, humidity 41, all is as it should be\r\n"
Served = tuple[subprocess.Popen[bytes], str, str]


@pytest.fixture(scope="module")
def served(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Served]:
    process, address = start_server(tmp_path_factory.mktemp("log") / "o.sqlite3")
    project = CALL.post(f"{address}/api/projects", json={"start": "demo"}).json()["id"]
    yield process, address, f"/api/projects/{project}/module/-/read-back/file"
    process.terminate()
    process.wait()


def held_kb(process: subprocess.Popen[bytes], which: str = "VmHWM") -> int:
    found = re.search(rf"{which}:\s+(\d+) kB", Path(f"/proc/{process.pid}/status").read_text())
    assert found is not None
    return int(found[1])


def test_what_was_said_long_ago_is_found_and_no_more_is_held(served: Served) -> None:
    """The commands stand at the beginning, and all the rest is traffic: no end of a file would tell."""
    process, address, path = served
    CALL.post(f"{address}{path}", content=SET_UP + TRAFFIC * 1000)
    before_kb = held_kb(process)
    pieces = (SET_UP if at == 0 else TRAFFIC * 1000 for at in range(MEGABYTES * 16))
    read = CALL.post(f"{address}{path}", content=pieces, timeout=200).json()
    assert read["sentence"].startswith("It is ")
    assert any(it["label"] == "its name" and it["value"] == "LANTERN" and it["is_sure"] for it in read["settings"])
    assert held_kb(process) - before_kb < 16_000, "kB, whatever the size"


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "Nothing came at all."),
        (b"\r\n" * 9000, "Nothing came at all."),
        (SET_UP.decode().encode("utf-16"), "It is "),
        (SET_UP.decode().encode("utf-16-be"), "It is "),
        (bytes(range(128, 256)) * 2000, "No speed makes this"),
        (b"\x1b[31m<script>alert(1)</script>\x1b[0m\r" + SET_UP.replace(b"\r\n", b"\r"), "It is "),
        (b"x" * 3_000_000, "Nothing of this can be told."),
    ],
    ids=["empty", "blank", "utf-16", "utf-16-be", "rubbish", "colours", "one-line"],
)
def test_odd_files_are_read_or_told(served: Served, content: bytes, said: str) -> None:
    _, address, path = served
    assert CALL.post(f"{address}{path}", content=content).json()["sentence"].startswith(said)


def test_a_sender_that_goes_is_let_go(served: Served) -> None:
    """More of them, one after the other, than are read at once: each gives its place back."""
    _, address, path = served
    port = int(address.rpartition(":")[2])
    for _ in range(5):
        with socket.create_connection(("127.0.0.1", port)) as sender:
            head = f"POST {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nContent-Length: 90000000\r\n\r\n"
            sender.sendall(head.encode() + SET_UP + TRAFFIC * 5000)
    assert CALL.post(f"{address}{path}", content=SET_UP).json()["sentence"].startswith("It is ")


def test_a_log_is_taken_from_our_own_page_alone(served: Served) -> None:
    _, address, path = served
    assert CALL.post(f"{address}{path}", content=SET_UP, headers={"origin": "http://elsewhere.invalid"}).status_code == 403
    assert CALL.post(f"{address}{path.replace('/-/', '/nobody/')}", content=SET_UP).status_code == 422
