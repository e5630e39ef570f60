"""The console over real sockets: a stand-in talks, a real port is opened by one alone, and nobody else gets in."""

import contextlib
import os
import pty
import threading
import tty
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from wsproto.utilities import LocalProtocolError

from tests.abuse.growth import resident_mb
from tests.conftest import CALL, PATIENCE_S, running_server, start_server
from tests.full import IS_PROOF
from tests.talking import Refused, Talker

MANY = 1000 if IS_PROOF else 60


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with running_server(tmp_path_factory.mktemp("talk") / "o.sqlite3") as address:
        yield address


@pytest.fixture(scope="module")
def target(server: str) -> str:
    project = CALL.post(f"{server}/api/projects", json={"start": "demo"}).json()["id"]
    node = CALL.get(f"{server}/api/projects/{project}/module/-").json()["node"]
    return f"/api/projects/{project}/module/{node}/console"


def test_a_script_makes_the_stand_in_what_the_plan_says(server: str, target: str) -> None:
    steps = CALL.get(f"{server}{target.removesuffix('/console')}").json()["steps"]
    with Talker(server, f"{target}?speed=38400") as talk:
        for at in range(len(steps)):
            talk.say(step=at)
            found = talk.until("step", at=at)
            assert found["state"] == "done", (steps[at], found)
        light = talk.until("light") if talk.told else {"mode": "waiting"}
        assert light["mode"] in ("waiting", "off")


def test_what_is_said_and_heard_is_told_with_what_it_means(server: str, target: str) -> None:
    with Talker(server, f"{target}?speed=38400") as talk:
        for turn in ("power off", "key up", "power on"):
            talk.say(turn=turn)
        talk.say(say="AT+NAME?", ending="cr-lf")
        assert talk.until("said")["means"] == "asks its name"
        assert bytes.fromhex(talk.until("heard")["hex"]).startswith(b"+NAME:")
        assert talk.until("means")["lines"][0]["means"].startswith("its name is ")


@pytest.mark.parametrize(
    ("trouble", "heard"), [("crossed", False), ("ground", False), ("dead", False), ("speed", None), ("none", True)]
)
def test_trouble_that_is_put_in_shows(server: str, target: str, trouble: str, heard: bool | None) -> None:
    with Talker(server, f"{target}?speed=9600&trouble={trouble}&found_bd=9600") as talk:
        at_first = talk.until("light")
        assert at_first["power"] is (trouble != "dead")
        talk.say(turn="key up")
        talk.say(say="AT", ending="cr-lf")
        talk.until("said")
        talk.say(step=0)
        talk.until("step")
        came = [it for it in talk.told if it["kind"] == "heard"]
        talk.say(say="AT", ending="cr-lf")
        talk.until("said")
        if heard:
            assert set(talk.until("heard")["text"].split()) == {"OK"}
        elif heard is False:
            assert came == []


def test_nobody_from_elsewhere_gets_in(server: str, target: str) -> None:
    for strange in ({"origin": "http://evil.example"}, {"origin": None}, {"host": "evil.example"}):
        with pytest.raises(Refused):
            Talker(server, target, **strange)  # type: ignore[arg-type]


def test_the_local_network_needs_the_token_and_opens_no_real_port(tmp_path: Path) -> None:
    with running_server(tmp_path / "o.sqlite3", lan=True) as here:
        view = CALL.get(f"{here}/api/lan").json()
        way = httpx.URL(view["ways"][0]["address"])
        there = f"http://{way.host}:{way.port}"
        project = CALL.get(f"{here}/api/projects").json()[0]["id"]
        target = f"/api/projects/{project}/module/-/console"
        with pytest.raises(Refused):
            Talker(there, target)
        with pytest.raises(Refused):
            Talker(there, target, cookie="oddlamp_token=guess")
        cookie = f"oddlamp_token={way.params['token']}"
        with Talker(there, f"{target}?port=loop://", cookie=cookie) as talk:
            assert "only on the machine itself" in talk.until("gone")["why"]
        with Talker(there, target, cookie=cookie) as talk:
            assert talk.until("light")


@pytest.mark.parametrize(
    "port", ["spy://x", "alt://x", "hwgrep://.", "socket://10.0.0.1:23", "rfc2217://evil.example:1", "/etc/passwd", "loop://?x"]
)
def test_ports_of_other_kinds_are_refused(server: str, target: str, port: str) -> None:
    with Talker(server, f"{target}?port={port}") as talk:
        assert "loop://" in talk.until("gone")["why"]


def test_what_is_too_much_ends_it(server: str, target: str) -> None:
    with Talker(server, target) as talk, contextlib.suppress(OSError):  # cut off while it is still being sent
        talk.raw("x" * 10_000_000)
        assert talk.until_closed() == 1009, "too big, as RFC 6455 numbers it"
    with Talker(server, target) as talk:
        talk.raw('{"say": "' + "x" * 5000 + '"}')
        talk.until_closed()
    with Talker(server, target) as talk:
        for _ in range(400):
            talk.say(turn="key up")
        talk.until_closed()
    with Talker(server, target) as talk:  # and what is none of it is passed over
        for text in ("[]", "no json", '{"turn": "rm -rf"}', '{"step": 99}', '{"say": 3}', '{"speed": -1}', "null"):
            talk.raw(text)
        talk.say(turn="power off")
        assert talk.until("turned")["what"] == "power off"


def test_many_at_once_are_refused_and_nothing_is_left(tmp_path: Path) -> None:
    process, server = start_server(tmp_path / "o.sqlite3")
    target = f"/api/projects/{CALL.get(f'{server}/api/projects').json()[0]['id']}/module/-/console"
    with Talker(server, target) as talk:
        talk.until("light")
    before_mb = resident_mb(process.pid)
    open_, refused = [], 0
    for _ in range(MANY):
        try:
            open_.append(Talker(server, target))
        except (Refused, OSError):
            refused += 1
    assert len(open_) <= 12
    assert refused >= MANY - 12
    for it in open_:
        it.close()
    for _ in range(200):  # each is let go when its end is noticed
        try:
            Talker(server, target).close()
        except Refused:
            continue
        break
    assert CALL.get(f"{server}/api/projects").status_code == 200
    assert resident_mb(process.pid) - before_mb < 30, "a dozen conversations, whatever knocked"
    process.terminate()
    process.wait(timeout=PATIENCE_S)


@contextlib.contextmanager
def a_port() -> Iterator[tuple[str, int]]:
    """A pseudo-terminal that a maker's module could hang on: its name, and the other end."""
    mine, theirs = pty.openpty()
    tty.setraw(theirs)
    try:
        yield os.ttyname(theirs), mine
    finally:
        for it in (mine, theirs):
            os.close(it)


def test_a_real_port_is_one_owners_and_told_when_it_goes(tmp_path: Path) -> None:
    with a_port() as (name, other), running_server(tmp_path / "o.sqlite3", serial_ports=(name,)) as here:
        project = CALL.get(f"{here}/api/projects").json()[0]["id"]
        target = f"/api/projects/{project}/module/-/console?port={name}&speed=9600"
        listed = CALL.get(f"{here}/api/projects/{project}/module/-/ports").json()
        assert name in [it["name"] for it in listed["ports"]]
        with Talker(here, target) as talk:
            talk.say(say="AT", ending="cr-lf")
            talk.until("said")
            assert os.read(other, 100) == b"AT\r\n"
            os.write(other, b"OK\r\n")
            assert talk.until("heard")["text"] == "OK\r\n"
            with Talker(here, target) as second:
                assert "another window" in second.until("gone")["why"]
        # Closed, it is free again.
        for _ in range(100):
            with Talker(here, target) as again:
                try:
                    again.say(say="AT", ending="none")
                    again.until("said")
                except (Refused, LocalProtocolError):  # it may be let go while this is said
                    continue
                break


def test_115200_for_a_while_loses_no_byte(server: str, target: str) -> None:
    """A loop gives back what is said: all of it, in order."""
    said = "".join(chr(33 + at % 90) for at in range(400))
    with Talker(server, f"{target}?port=loop://&speed=115200") as talk:
        got = ""

        def speak() -> None:
            for _ in range(60):
                talk.say(say=said, ending="none")
                threading.Event().wait(0.02)

        speaker = threading.Thread(target=speak)
        speaker.start()
        while len(got) < 60 * len(said):
            got += talk.until("heard")["text"]
        speaker.join()
    assert got == said * 60
