"""Stand-ins on a real wire: a serial library talks to them over a pseudo-terminal and a TCP port, as a terminal program would."""

import os
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

import pytest
import serial
from paho.mqtt.client import CallbackAPIVersion, Client

from oddlamp.core.modules.uart import Port, garbage
from tests.conftest import PATIENCE_S, free_port
from tests.full import some


@contextmanager
def standing_in(*options: str) -> Iterator[str]:
    """Start a stand-in; yields where it is, once it says so; of a pair both places with a blank between."""
    started = subprocess.Popen(
        [sys.executable, "-m", "oddlamp", "stand-in", *options], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    )
    try:
        assert started.stdout is not None
        said = [started.stdout.readline() for _ in range(1 + ("--pair" in options))]
        assert " at " in said[0], said
        yield " ".join(line.partition(" at ")[2].partition(",")[0] for line in said)
    finally:
        started.send_signal(signal.SIGTERM)
        started.wait(PATIENCE_S)


@contextmanager
def orders(port: int) -> Iterator[socket.socket]:
    with socket.create_connection(("127.0.0.1", port), timeout=PATIENCE_S) as line:
        yield line


def order(line: socket.socket, text: str) -> str:
    line.sendall(f"{text}\n".encode())
    return line.makefile("r").readline().strip()


def asked(wire: serial.SerialBase, sent: bytes, ends: bytes) -> bytes:
    wire.write(sent)
    return bytes(wire.read_until(ends))


def test_a_slave_is_set_up_over_a_pseudo_terminal(tmp_path: Path) -> None:
    """In set-up mode at 38400; key and power by the second line, and its settings survive."""
    control, link = free_port(), tmp_path / "module"
    with standing_in("--family", "family-a", "--key-up", "--link", str(link), "--control", str(control)) as name:
        assert os.readlink(link) == name
        with serial.Serial(str(link), 38_400, timeout=PATIENCE_S) as wire, orders(control) as hand:
            assert asked(wire, b"AT\r\n", b"OK\r\n") == b"OK\r\n"
            assert asked(wire, b"AT+NAME=LANTERN\r\n", b"OK\r\n") == b"OK\r\n"
            assert asked(wire, b"AT+NAME?\r\n", b"OK\r\n") == b"+NAME:LANTERN\r\nOK\r\n"
            assert asked(wire, b"AT+UART=19200,0,0\r\n", b"OK\r\n") == b"OK\r\n"
            assert order(hand, "key down") == "setup, 38400 Bd"
            assert order(hand, "power off") == "off, 19200 Bd"
            assert order(hand, "key up") == "off, 19200 Bd"
            assert order(hand, "power on") == "setup, 38400 Bd"
            assert order(hand, "dance").startswith("one of: key up")


def test_a_wrong_speed_gives_exactly_the_computed_garbage() -> None:
    """A module that tells of its link by itself, heard at another speed than its own."""
    control = free_port()
    with (
        standing_in("--family", "family-c", "--control", str(control)) as name,
        serial.Serial(name, 38_400, timeout=PATIENCE_S) as wire,
        orders(control) as hand,
    ):
        expected = bytes(it.byte for it in garbage(b"OK+CONN", Port(9600), Port(38_400)))
        assert order(hand, "link") == "linked, 9600 Bd"
        assert wire.read(len(expected)) == expected
        wire.baudrate = 9600
        assert order(hand, "leave") == "waiting, 9600 Bd"
        assert wire.read(7) == b"OK+LOST"


def test_a_terse_module_answers_over_tcp_once_the_line_is_quiet() -> None:
    with standing_in("--family", "family-b", "--port", "tcp:0") as name:
        with serial.serial_for_url(name, timeout=PATIENCE_S) as wire:
            assert asked(wire, b"AT+NAMELANTERN", b"OKsetname") == b"OKsetname"
            host, _, port = name.removeprefix("socket://").partition(":")
            with socket.create_connection((host, int(port)), timeout=PATIENCE_S) as second:
                assert second.recv(20) == b"taken\r\n", "one client at a time"
            assert asked(wire, b"AT", b"OK") == b"OK"
        with serial.serial_for_url(name, timeout=PATIENCE_S) as again:  # who hangs up is forgotten
            assert asked(again, b"AT", b"OK") == b"OK"


def test_a_flood_is_borne() -> None:
    with (
        standing_in("--family", "family-a", "--key-up", "--port", "tcp:0") as name,
        serial.serial_for_url(name, timeout=PATIENCE_S) as wire,
    ):
        for _ in range(50):
            wire.write(b"A" * 4000)
        wire.write(b"\r\n")
        assert asked(wire, b"AT\r\n", b"OK\r\n").endswith(b"OK\r\n")


@pytest.mark.parametrize(
    ("options", "told"),
    some(
        [
            (["--family", "family-z"], "There is no family-z here: one of family-a"),
            (["--family", "family-a", "--version", "x"], "There is no x here"),
            (["--family", "family-a", "--port", "usb"], "give pty, or tcp:"),
            (["--family", "family-a", "--port", "tcp:99999"], "It cannot stand there"),
            (["--family", "family-a", "--link", "/nowhere/at/all"], "It cannot stand there"),
        ],
        3,
    ),
)
def test_what_cannot_be_is_told_in_one_sentence(options: list[str], told: str) -> None:
    done = subprocess.run([sys.executable, "-m", "oddlamp", "stand-in", *options], capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert told in done.stderr
    assert done.stderr.count("\n") == 1


def test_a_file_of_the_users_own_is_never_taken_away_for_a_link(tmp_path: Path) -> None:
    mine = tmp_path / "notes.txt"
    mine.write_text("mine", encoding="utf-8")
    options = ["--family", "family-a", "--link", str(mine)]
    done = subprocess.run([sys.executable, "-m", "oddlamp", "stand-in", *options], capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert "It cannot stand there" in done.stderr
    assert mine.read_text(encoding="utf-8") == "mine"


@pytest.mark.parametrize("port", ["pty", "rfc2217:0"])
def test_a_bound_pair_carries_bytes_both_ways_and_finds_itself_again_after_a_power_cut(port: str) -> None:
    """Set up by the commands of the two scripts, through a serial library; the clock runs a hundred times as fast."""
    control = free_port()
    options = ("--family", "family-a", "--key-up", "--pair", "--port", port, "--control", str(control), "--times", "100")
    with standing_in(*options) as names, orders(control) as hand:
        one, two = (serial.serial_for_url(name, 38_400, timeout=PATIENCE_S) for name in names.split())
        assert asked(two, b"AT+ADDR?\r\n", b"OK\r\n") == b"+ADDR:1a2b:3c:4d5e70\r\nOK\r\n"
        for line in (b"AT+ROLE=1", b"AT+CMODE=0", b"AT+BIND=1a2b,3c,4d5e70", b"AT+UART=9600,0,0"):
            assert asked(one, line + b"\r\n", b"OK\r\n") == b"OK\r\n"
        assert asked(two, b"AT+UART=9600,0,2\r\n", b"OK\r\n") == b"OK\r\n"
        for told in ("key down", "power off", "power on", "2 key down", "2 power off", "2 power on"):
            order(hand, told)
        one.baudrate = two.baudrate = 9600
        if port == "pty":  # which has no parity of its own
            assert order(hand, "2 parity even") == "waiting, 9600 Bd"
        else:
            two.parity = serial.PARITY_EVEN
        meet(hand)
        one.write(b"on\n")
        assert two.read(3) == b"on\n"
        two.write(b"ok\n")
        assert one.read(3) == b"ok\n"
        order(hand, "2 power off")
        assert order(hand, "status") == "waiting, 9600 Bd"
        order(hand, "2 power on")
        meet(hand)
        one.write(b"again")
        assert two.read(5) == b"again"
        one.close()
        two.close()


def meet(hand: socket.socket) -> None:
    """Ask until both are linked: a stand-in has no other way to tell."""
    while not order(hand, "status").startswith("linked"):
        pass


def test_what_comes_with_another_parity_than_its_own_is_thrown_away() -> None:
    """Even parity after a restart; what is sent with odd parity is no command, and not the beginning of one. From memory."""
    control = free_port()
    with (
        standing_in("--family", "family-a", "--key-up", "--port", "rfc2217:0", "--control", str(control)) as name,
        orders(control) as hand,
        serial.serial_for_url(name, 38_400, timeout=PATIENCE_S) as wire,
    ):
        assert asked(wire, b"AT+UART=9600,0,2\r\n", b"OK\r\n") == b"OK\r\n"
        for told in ("key down", "power off", "power on", "key up"):
            order(hand, told)
        wire.baudrate, wire.parity = 9600, serial.PARITY_ODD
        wire.write(b"AT+NAME=LOST\r\n")
        wire.parity = serial.PARITY_EVEN
        assert asked(wire, b"AT\r\n", b"OK\r\n") == b"OK\r\n"


def test_a_broker_tells_each_word_that_goes_through_it() -> None:
    """Started as a user starts it, spoken to by a library, and stopped; a port that is taken is told in one sentence."""
    broker = [sys.executable, "-m", "oddlamp", "stand-in-broker", "--port"]
    # What was itself started in the background would pass on that Ctrl+C is not heard.
    heeds = partial(signal.signal, signal.SIGINT, signal.default_int_handler)
    started = subprocess.Popen([*broker, "0"], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, preexec_fn=heeds)
    assert started.stdout is not None
    try:
        port = int(started.stdout.readline().partition("port ")[2].partition(";")[0])
        phone = Client(CallbackAPIVersion.VERSION2, client_id="phone")
        phone.connect("127.0.0.1", port)
        phone.loop_start()
        phone.publish("STAR", b"d\n", qos=1).wait_for_publish(PATIENCE_S)
        assert started.stdout.readline() == "STAR: d LF\n"
        taken = subprocess.run([*broker, str(port)], capture_output=True, text=True, check=False)
        assert (taken.returncode, taken.stderr.count("\n")) == (2, 1)
        assert "It cannot stand there" in taken.stderr
        phone.disconnect()
        phone.loop_stop()
    finally:
        started.send_signal(signal.SIGINT)
        assert started.wait(PATIENCE_S) == 0
