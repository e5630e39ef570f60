"""What tests share: no examples at random in CI, and a real server to talk to."""

import os
import resource
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import httpx
import pytest
from hypothesis import HealthCheck, settings

# No example fails for the time it takes: that tells of the machine.
settings.register_profile("steady", derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("steady")

# A machine that is busy with other things, or whose disk is, gives the same answers, later.
PATIENCE_S = int(os.environ.get("ODDLAMP_PATIENCE_S", "120"))
# Without connections kept open: a server that is killed and started again on its port is called anew.
CALL = httpx.Client(timeout=PATIENCE_S, limits=httpx.Limits(max_keepalive_connections=0))


def caller(address: str) -> httpx.Client:
    """A client of one server that waits as long as a busy machine needs."""
    return httpx.Client(base_url=address, timeout=PATIENCE_S)


def free_port() -> int:
    """Ask the system for a port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


def limit_files(most_bytes: int) -> None:
    """Let this process write no file past a size: writes beyond it fail, as on a disk that is full."""
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (most_bytes, most_bytes))


def start_server(
    database: Path,
    *,
    file_limit: int | None = None,
    port: int | None = None,
    parts: Path | None = None,
    lan: bool = False,
    serial_ports: Sequence[str] = (),
) -> tuple[subprocess.Popen[bytes], str]:
    """Serve from a database in a process of its own; return it with its address once it answers."""
    port = port or free_port()
    command = [sys.executable, "-m", "oddlamp", "serve", "--database", str(database), "--port", str(port)]
    command += [word for name in serial_ports for word in ("--serial-port", name)]
    process = subprocess.Popen(
        [*command, *(["--parts", str(parts)] if parts else []), *(["--lan"] if lan else [])],
        stdout=subprocess.PIPE,
        env={**os.environ, "PYTHONUNBUFFERED": "1"},
        preexec_fn=None if file_limit is None else lambda: limit_files(file_limit),
    )
    assert process.stdout is not None
    said = process.stdout.readline()  # it says where it is just before it listens; no line at all means it ended
    address = f"http://127.0.0.1:{port}"
    give_up = time.monotonic() + PATIENCE_S
    while True:
        try:
            CALL.get(f"{address}/api/nothing")
            return process, address
        except httpx.TransportError:
            if not said or time.monotonic() > give_up or process.poll() is not None:
                process.kill()
                raise


@contextmanager
def running_server(
    database: Path, *, parts: Path | None = None, lan: bool = False, serial_ports: Sequence[str] = ()
) -> Iterator[str]:
    """Serve while the block runs, from another folder of parts if one is given; yield the address."""
    process, address = start_server(database, parts=parts, lan=lan, serial_ports=serial_ports)
    try:
        yield address
    finally:
        process.terminate()
        process.wait(timeout=PATIENCE_S)


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """One server for all tests that only need a fresh project each."""
    with running_server(tmp_path_factory.mktemp("store") / "oddlamp.sqlite3") as address:
        yield address
