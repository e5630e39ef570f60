"""One declaration builds, parses and explains: what is built is read back, and what cannot be is refused."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from oddlamp.core.errors import OutOfRange
from oddlamp.core.words.frames import Field, Frame, read_address

NAME = Frame(template="AT+NAME={name}", fields={"name": Field(kind="text", least=1, most=20)})
UART = Frame(
    template="AT+UART={speed},{stop},{parity}",
    fields={
        "speed": Field(kind="number", least=4800, most=1_382_400),
        "stop": Field(kind="number", most=1),
        "parity": Field(kind="number", most=2),
    },
)
BIND = Frame(template="AT+BIND={address}", fields={"address": Field(kind="address")})
SPEED = Frame(template="AT+BAUD{speed}", fields={"speed": Field(kind="choice", choices={"4": 9600, "8": 115_200, "A": 460_800})})
FREQUENCY = Frame(
    template="E8 A2 {frequency}", fields={"frequency": Field(kind="two-bytes", least=1, most=4000, unit="Hz")}, is_hex=True
)
DUTY = Frame(template="E8 A3 {duty}", fields={"duty": Field(kind="byte", most=100, unit="%")}, is_hex=True)


@pytest.mark.parametrize(
    ("frame", "values", "sent"),
    [
        (NAME, {"name": "LANTERN"}, b"AT+NAME=LANTERN"),
        (UART, {"speed": 9600, "stop": 0, "parity": 0}, b"AT+UART=9600,0,0"),
        (BIND, {"address": "1A2B:3C:4D5E6F"}, b"AT+BIND=1a2b,3c,4d5e6f"),
        (BIND, {"address": "0002:05:00004F"}, b"AT+BIND=2,5,4f"),
        (SPEED, {"speed": 460_800}, b"AT+BAUDA"),
        (FREQUENCY, {"frequency": 4000}, bytes.fromhex("E8A20FA0")),
        (DUTY, {"duty": 25}, bytes.fromhex("E8A319")),
        (DUTY, {"duty": 85}, bytes.fromhex("E8A355")),
    ],
)
def test_known_messages(frame: Frame, values: dict[str, Any], sent: bytes) -> None:
    """Common practice, from memory: 4000 Hz is 0FA0, 25 % is 19 hex, 85 % is 55 hex."""
    assert frame.build(**values) == sent
    assert frame.parse(sent) == values


def test_an_address_among_other_fields_keeps_its_own_commas() -> None:
    fields = {"peer": Field(kind="address"), "wait": Field(kind="number", least=1, most=60)}
    pair = Frame(template="AT+PAIR={peer},{wait}", fields=fields)
    assert pair.parse(b"AT+PAIR=1a2b,3c,4d5e6f,9") == {"peer": "1A2B:3C:4D5E6F", "wait": 9}
    assert pair.parse(b"AT+PAIR=1a2b,3c,9") is None
    assert pair.parse(b"AT+PAIR=9") is None


@pytest.mark.parametrize(
    ("frame", "values", "field"),
    [
        (NAME, {"name": "x" * 21}, "name"),
        (NAME, {"name": ""}, "name"),
        (NAME, {"name": "Lanterné"}, "name"),
        (NAME, {"name": "a\r\nAT"}, "name"),
        (NAME, {}, "name"),
        (UART, {"speed": 300, "stop": 0, "parity": 0}, "speed"),
        (SPEED, {"speed": 9601}, "speed"),
        (BIND, {"address": "1a2b:3c"}, "address"),
        (BIND, {"address": "1a2b:3c:4d5e6g"}, "address"),
        (DUTY, {"duty": 112}, "duty"),
        (DUTY, {"duty": "many"}, "duty"),
    ],
)
def test_what_cannot_be_sent_is_refused_by_its_field(frame: Frame, values: dict[str, Any], field: str) -> None:
    with pytest.raises(OutOfRange) as refused:
        frame.build(**values)
    assert refused.value.field == field


@pytest.mark.parametrize(
    ("frame", "message"),
    [
        (NAME, b"AT+NAME"),
        (NAME, b"AT+NAMES=x"),
        (NAME, b""),
        (UART, b"AT+UART=9600,0"),
        (UART, b"AT+UART=9600,0,0,0"),
        (UART, b"AT+UART=x,0,0"),
        (BIND, b"AT+BIND=1a2b:3c:4d5e6f"),
        (SPEED, b"AT+BAUDZ"),
        (FREQUENCY, bytes.fromhex("E8A20F")),
        (FREQUENCY, bytes.fromhex("E8A2FFFF")),
        (DUTY, bytes.fromhex("E8A370")),
    ],
)
def test_what_has_another_shape_is_not_read(frame: Frame, message: bytes) -> None:
    assert frame.parse(message) is None


@pytest.mark.parametrize(
    "text", ["1a2b:3c:4d5e6f", "1A2B,3C,4D5E6F", "1a2b3c4d5e6f", "1a:2b:3c:4d:5e:6f", "1A-2B-3C-4D-5E-6F", " 1a2b.3c.4d5e6f "]
)
def test_an_address_is_read_in_any_notation(text: str) -> None:
    assert read_address(text) == ("1A2B", "3C", "4D5E6F")


def test_dropped_zeros_come_back() -> None:
    assert read_address("2:5:4f") == ("0002", "05", "00004F")


def test_a_message_is_explained_piece_by_piece() -> None:
    assert FREQUENCY.explain(bytes.fromhex("E8A20FA0")) == (("E8 A2", "always there"), ("0F A0", "frequency: 4000 Hz"))
    assert DUTY.explain(bytes.fromhex("E8A370")) == (("E8 A3", "always there"), ("70", "duty: no value of it"))
    assert NAME.explain(b"AT+PSWD=1") is None


@given(
    speed=st.integers(4800, 1_382_400),
    stop=st.integers(0, 1),
    parity=st.integers(0, 2),
    name=st.text(st.characters(min_codepoint=32, max_codepoint=126), min_size=1, max_size=20),
    noise=st.binary(max_size=30),
)
def test_what_is_built_is_read_back_and_noise_is_no_error(speed: int, stop: int, parity: int, name: str, noise: bytes) -> None:
    assert UART.parse(UART.build(speed=speed, stop=stop, parity=parity)) == {"speed": speed, "stop": stop, "parity": parity}
    assert NAME.parse(NAME.build(name=name)) == {"name": name}
    for frame in (NAME, UART, BIND, SPEED, FREQUENCY, DUTY):
        read = frame.parse(noise)
        assert read is None or frame.build(**read).lower() == noise.lower()
