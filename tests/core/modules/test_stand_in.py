"""Modules that stand in for real ones, against transcripts written by hand from what makers and the trade say; from memory."""

import random

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.stand_in import BUFFER_MOST, StandIn, transcript
from oddlamp.core.modules.uart import Port, garbage
from oddlamp.core.parts.dialect import Dialect

DIALECTS = load_catalog().dialects
A, B = DIALECTS["family-a"], DIALECTS["family-b"]
NEWER = A.version("family-a-newer")
Events = list[tuple[float, str]]
IN_SETUP: Events = [(0.0, "key up"), (0.0, "power on")]


def told(dialect: Dialect, *events: tuple[float, str], **kept: str | int) -> list[str]:
    """What a module says, without its times."""
    module = StandIn(dialect, kept=dict(kept))
    said = [line.split(" ", 1)[1] for line in transcript(module, events)]
    return [line for line in said if not line.startswith("misheard")]


def lines(*answers: str) -> list[str]:
    return [f"wire {answer + chr(13) + chr(10)!r}" for answer in answers]


@pytest.mark.parametrize(
    ("sent", "answers"),
    [
        ("AT", ["OK"]),
        ("AT+VERSION?", ["+VERSION:2.0", "OK"]),
        ("AT+NAME=LANTERN", ["OK"]),
        ("AT+NAME?", ["+NAME:SERIAL", "OK"]),
        ("AT+NAME=" + "x" * 21, ["ERROR:(3)"]),
        ("AT+PSWD?", ["+PSWD:1234", "OK"]),
        ("AT+PSWD=4711", ["OK"]),
        ("AT+PSWD=47a1", ["ERROR:(7)"]),
        ("AT+UART?", ["+UART:9600,0,0", "OK"]),
        ("AT+UART=9601,0,0", ["ERROR:(1E)"]),
        ("AT+ROLE=1", ["OK"]),
        ("AT+ROLE?", ["+ROLE:0", "OK"]),
        ("AT+CMODE=0", ["OK"]),
        ("AT+ADDR?", ["+ADDR:1a2b:3c:4d5e6f", "OK"]),
        ("AT+BIND=1a2b,3c,4d5e6f", ["OK"]),
        ("AT+BIND=1a2b:3c:4d5e6f", ["ERROR:(0)"]),
        ("AT+BIND?", ["+BIND:0:0:0", "OK"]),
        ("AT+INIT", ["OK"]),
        ("AT+LINK=1a2b,3c,4d5e6f", ["ERROR:(16)"]),
        ("AT+STATE?", ["+STATE:READY", "OK"]),
        ("at", ["ERROR:(0)"]),
        ("AT+MAGIC", ["ERROR:(0)"]),
    ],
)
def test_family_a_answers_in_its_set_up_mode(sent: str, answers: list[str]) -> None:
    assert told(A, *IN_SETUP, (1.0, f"{sent}\r\n")) == lines(*answers)


def test_family_a_says_nothing_in_data_mode_and_without_its_ending() -> None:
    assert told(A, (0.0, "power on"), (1.0, "AT\r\n")) == []
    assert told(A, *IN_SETUP, (1.0, "AT"), (9.0, "wait")) == []
    assert told(A, *IN_SETUP, (1.0, "AT"), (9.0, "\r\n")) == lines("OK")


def test_family_a_comes_up_at_38400_with_the_key_held_and_takes_its_speed_when_it_restarts() -> None:
    module = StandIn(A)
    list(transcript(module, [*IN_SETUP, (1.0, "AT+UART=115200,0,0\r\n")]))
    assert (module.mode, module.speed_bd) == ("setup", 38_400)
    list(transcript(module, [(2.0, "key down"), (2.1, "power off"), (3.0, "power on")]))
    assert (module.mode, module.speed_bd) == ("waiting", 115_200)
    list(transcript(module, [(4.0, "key up")]))
    assert (module.mode, module.speed_bd) == ("setup", 115_200), "raised later, at the data speed"


def test_family_a_tells_its_name_only_with_the_key_held_but_for_newer_versions() -> None:
    released: Events = [*IN_SETUP, (1.0, "key down"), (2.0, "AT+NAME?\r\n"), (3.0, "AT\r\n")]
    assert told(A, *released) == lines("OK")
    assert told(NEWER, *released) == lines("+NAME:SERIAL", "OK", "OK")


def test_newer_versions_of_family_a_want_quotes() -> None:
    assert told(NEWER, *IN_SETUP, (1.0, "AT+PSWD=4711\r\n"), (2.0, 'AT+PSWD="4711"\r\n'), (3.0, "AT+PSWD?\r\n")) == lines(
        "ERROR:(0)", "OK", '+PIN:"4711"', "OK"
    )


def test_two_of_family_a_are_initialised_paired_and_linked_in_that_order() -> None:
    peer = "98d3,31,70ab2c"
    said = told(
        A,
        *IN_SETUP,
        (1.0, "AT+INIT\r\n"),
        (2.0, "AT+INIT\r\n"),
        (3.0, f"AT+LINK={peer}\r\n"),
        (4.0, f"AT+PAIR={peer},9\r\n"),
        (5.0, f"AT+LINK={peer}\r\n"),
        (6.0, "AT+STATE?\r\n"),
        (7.0, "AT+DISC\r\n"),
        (8.0, "AT+DISC\r\n"),
    )
    assert said == lines(
        "OK", "ERROR:(17)", "ERROR:(16)", "OK", "OK", "+STATE:CONNECTED", "OK", "+DISC:SUCCESS", "OK", "+DISC:NO_SLC"
    )


def test_settings_of_family_a_survive_a_power_cut_and_go_with_its_defaults() -> None:
    named: Events = [*IN_SETUP, (1.0, "AT+NAME=LANTERN\r\n"), (2.0, "power off"), (3.0, "power on")]
    assert told(A, *named, (4.0, "AT+NAME?\r\n"))[1:] == lines("+NAME:LANTERN", "OK")
    assert told(A, *named, (4.0, "AT+ORGL\r\n"), (5.0, "AT+NAME?\r\n"))[2:] == lines("+NAME:SERIAL", "OK")


@pytest.mark.parametrize(
    ("sent", "answer"),
    [
        ("AT", "OK"),
        ("AT+VERSION", "OK1.04"),
        ("AT+NAMELANTERN", "OKsetname"),
        ("AT+PIN4711", "OKsetPIN"),
        ("AT+BAUD8", "OK115200"),
        ("AT+PN", "OK"),
    ],
)
def test_family_b_answers_once_the_line_is_quiet(sent: str, answer: str) -> None:
    power = (0.0, "power on")
    assert told(B, power, (1.0, sent), (1.9, "wait")) == []
    assert list(transcript(StandIn(B), [power, (1.0, sent), (3.0, "wait")])) == [f"2.02 wire {answer!r}"]
    assert told(B, power, (1.0, sent), (1.5, "\r\n"), (9.0, "wait")) == [], "two bytes too many, and it is no command of its"
    assert told(B, power, (1.0, "link"), (2.0, sent), (9.0, "wait")) == [f"air {sent!r}"], "linked, it carries bytes"


@pytest.mark.parametrize(
    ("dialect", "sent", "misheard"),
    [
        (B, "AT\r\n", "'AT\\r\\n': 2 bytes too many at its end, CR LF"),
        (B, "AT\n", "'AT\\n': 1 byte too many at its end, LF"),
        (B, "at+version", "'at+version': it is in small letters"),
        (B, "AT+PIN47", "'AT+PIN47': it knows no such command, or no such value"),
        (A, "AT+BIND=1a2b:3c:4d5e6f\r\n", "'AT+BIND=1a2b:3c:4d5e6f': it wants commas in an address: AT+BIND=1a2b,3c,4d5e6f"),
    ],
)
def test_a_transcript_says_why_something_was_no_command(dialect: Dialect, sent: str, misheard: str) -> None:
    begun: list[tuple[float, str]] = [*(IN_SETUP if dialect is A else [(0.0, "power on")]), (1.0, sent), (9.0, "wait")]
    assert [it.partition("misheard ")[2] for it in transcript(StandIn(dialect), begun) if "misheard" in it] == [misheard]


@pytest.mark.parametrize("sent", ["at", "AT+PIN47", "AT+PINabcd", "AT+BAUDZ", "AT+NAME", "HELLO"])
def test_family_b_is_silent_where_it_does_not_understand(sent: str) -> None:
    assert told(B, (0.0, "power on"), (1.0, sent), (9.0, "wait")) == []


def test_family_b_takes_its_speed_at_once_and_answers_before_at_the_old_one() -> None:
    module = StandIn(B)
    module.power(0.0, is_on=True)
    module.hear(1.0, b"AT+BAUD8")
    (said,) = module.until(3.0)
    assert (said.content, said.speed_bd) == (b"OK115200", 9600)
    assert module.speed_bd == 115_200


@pytest.mark.parametrize("dialect", [A, B], ids=lambda it: it.id)
def test_a_wrong_speed_is_heard_as_its_garbage_and_not_answered(dialect: Dialect) -> None:
    module = StandIn(dialect)
    module.key(0.0, is_up=True)
    module.power(0.0, is_on=True)
    sent, wrong = b"AT\r\n" if dialect is A else b"AT", Port(19_200)
    assert module.hear_at(1.0, sent, wrong) + module.until(9.0) == []
    assert b"AT" not in bytes(it.byte for it in garbage(sent, wrong, Port(module.speed_bd)))
    right = Port(module.speed_bd)
    module.pending.clear()
    assert b"OK" in b"".join(it.content for it in [*module.hear_at(10.0, sent, right), *module.until(19.0)])


@pytest.mark.parametrize("dialect", [A, NEWER, B], ids=lambda it: it.label)
def test_streams_drawn_from_the_dialect_never_break_it(dialect: Dialect) -> None:
    """Any command with any values, cut short, run together, in any state: an answer of its own or silence, and a bounded buffer."""
    draw = random.Random(5)
    known = {"OK", "ERROR", "+"}
    for _ in range(60):
        module, at_s = StandIn(dialect), 0.0
        for _ in range(25):
            at_s += draw.choice((0.01, 0.4, 2.0))
            match draw.randrange(6):
                case 0:
                    said = module.power(at_s, is_on=draw.random() < 0.8)
                case 1:
                    said = module.key(at_s, is_up=draw.random() < 0.5)
                case 2:
                    said = module.link(at_s, is_there=draw.random() < 0.5)
                case 3:
                    said = module.hear(at_s, draw.randbytes(draw.randint(1, 400)))
                case _:
                    text = draw.choice(dialect.commands).send.encode()[: draw.randint(1, 40)]
                    said = module.hear(at_s, text + draw.choice((b"\r\n", b"", b"\r")))
            assert len(module.pending) <= BUFFER_MOST
            for it in said:
                assert it.to == "air" or it.content.decode("ascii", "replace").startswith(tuple(known))
                assert it.at_s <= at_s + dialect.answer_s
            assert module.speed_bd > 0
            assert module.blink.turns_s or module.mode == "off"


C = DIALECTS["family-c"]
ALIKE = C.version("family-c-alike")


@pytest.mark.parametrize(
    ("sent", "answer"),
    [
        ("AT", "OK"),
        ("AT+VERR?", "V5.40"),
        ("AT+NAMELANTERN", "OK+Set:LANTERN"),
        ("AT+NAME?", "OK+NAME:SERIAL"),
        ("AT+PASS471147", "OK+Set:471147"),
        ("AT+BAUD4", "OK+Set:4"),
        ("AT+ROLE1", "OK+Set:1"),
        ("AT+ADDR?", "OK+ADDR:3A2B3C4D5E6F"),
    ],
)
def test_family_c_answers_at_once_without_an_ending(sent: str, answer: str) -> None:
    assert told(C, (0.0, "power on"), (1.0, sent), (1.2, "wait")) == [f"wire {answer!r}"]


def test_family_c_tells_of_its_link_and_lets_it_go_on_at() -> None:
    said = told(C, (0.0, "power on"), (1.0, "link"), (2.0, "hello"), (3.0, "AT"), (4.0, "AT"), (5.0, "wait"))
    assert said == ["wire 'OK+CONN'", "air 'hello'", "wire 'OK+LOST'", "wire 'OK'"]


def test_the_same_speed_command_means_another_speed_to_a_look_alike() -> None:
    """AT+BAUD4 is 115200 on the one, 9600 on the other; and the other wants a line ending."""
    for dialect, ending, speed in ((C, "", 115_200), (ALIKE, "\r\n", 9600)):
        module = StandIn(dialect, kept={"speed": 19_200})
        list(
            transcript(
                module, [(0.0, "power on"), (1.0, f"AT+BAUD4{ending}"), (2.0, "wait"), (3.0, "power off"), (4.0, "power on")]
            )
        )
        assert module.speed_bd == speed
    assert told(ALIKE, (0.0, "power on"), (1.0, "AT+PIO21\r\n")) == lines("ERROR")
    assert told(ALIKE, (0.0, "power on"), (1.0, "AT+NAME?\r\n")) == lines("+NAME=SERIAL", "OK")
