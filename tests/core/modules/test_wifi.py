"""The Wi-Fi serial module: transcripts written by hand, and its script from every state. From memory."""

from itertools import product

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.script import Goal, as_text
from oddlamp.core.modules.stand_in import StandIn, transcript
from oddlamp.core.modules.walk import run
from oddlamp.core.modules.wifi import secrets_of, wifi_script
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.setup import setup_of
from tests.builders import CLEAR, plan_with

E = load_catalog().dialects["family-e"]
HOUSE = {"Backstage": "curtain call"}
SPEEDS = next(tuple(it.fields["speed"].choices.values()) for it in E.commands if "speed" in it.keeps)


def told(*events: tuple[float, str], networks: dict[str, str] = HOUSE, **kept: str | int) -> list[str]:
    """What a module says after it has started and its echo is off."""
    module = StandIn(E, dict(kept), networks=networks)
    begins = [(0.0, "power on"), (1.0, "ATE0\r\n")]
    said = [line.split(" ", 1)[1] for line in transcript(module, [*begins, *events])][4:]
    return [line for line in said if not line.startswith("misheard")]


def lines(*answers: str) -> list[str]:
    return [f"wire {answer + chr(13) + chr(10)!r}" for answer in answers]


def test_it_starts_with_garbage_at_a_speed_of_its_own_and_repeats_what_is_typed() -> None:
    module = StandIn(E)
    (boot, ready) = module.power(0.0, is_on=True)
    assert (boot.speed_bd, ready.content, ready.speed_bd) == (74_880, b"ready\r\n", 115_200)
    assert [it.content for it in module.hear(1.0, b"AT\r\n")] == [b"AT\r\n", b"OK\r\n"]
    assert [it.content for it in module.hear(2.0, b"ATE0\r\n")] == [b"ATE0\r\n", b"OK\r\n"]
    assert [it.content for it in module.hear(3.0, b"AT\r\n")] == [b"OK\r\n"]


@pytest.mark.parametrize(
    ("sent", "answers"),
    [
        ("AT+GMR", ["AT version:1.7.4", "OK"]),
        ("AT+CWMODE=4", ["ERROR"]),
        ("AT+CWMODE=2", ["OK"]),
        ('AT+CWSAP="STAGE","curtain call",6,3', ["ERROR"]),  # it is a guest as it arrives
        ('AT+CWJAP="Backstage","curtain call"', ["WIFI CONNECTED", "WIFI GOT IP", "OK"]),
        ('AT+CWJAP="Backstage","encore"', ["FAIL"]),
        ("AT+CIPSERVER=1,333", ["ERROR"]),  # several have to be let in first
        ("AT+CIPSTO=60", ["ERROR"]),
        ("AT+CIPSEND=0,4", ["ERROR"]),  # nobody is there
        ("AT+MAGIC", ["ERROR"]),
    ],
)
def test_what_it_answers(sent: str, answers: list[str]) -> None:
    assert told((2.0, f"{sent}\r\n"), (9.0, "wait")) == lines(*answers)


def test_a_command_while_it_joins_is_put_off_and_its_network_opens_only_in_that_mode() -> None:
    join = 'AT+CWJAP="Backstage","curtain call"\r\n'
    assert told((2.0, join), (3.0, "AT\r\n")) == lines("WIFI CONNECTED", "WIFI GOT IP", "OK", "busy p...")
    assert told((2.0, 'AT+CWSAP="A","12345678",6,3\r\n'), mode=2) == lines("OK")
    assert told((2.0, 'AT+CWSAP="A","1234567",6,3\r\n'), mode=2) == lines("ERROR")


def test_bytes_go_out_behind_a_prompt_and_come_in_wrapped_and_a_restart_forgets_who_is_let_in() -> None:
    module = StandIn(E)
    module.power(0.0, is_on=True)
    for at, line in enumerate((b"ATE0", b"AT+CIPMUX=1", b"AT+CIPSERVER=1,333"), 1):
        module.hear(float(at), line + b"\r\n")
    assert [it.content for it in module.link(5.0, is_there=True)] == [b"0,CONNECT\r\n"]
    assert [it.content for it in module.hear_air(6.0, b"moon\n")] == [b"+IPD,0,5:moon\n"]
    assert [it.content for it in module.hear(7.0, b"AT+CIPSEND=0,3\r\n")] == [b"OK\r\n", b"> "]
    assert [(it.to, it.content) for it in module.hear(8.0, b"ok\n")] == [("air", b"ok\n"), ("wire", b"SEND OK\r\n")]
    module.hear(9.0, b"AT+RST\r\n")
    assert (module.kept["mux"], module.kept["server"], module.is_linked) == (0, 0, False)
    assert module.link(12.0, is_there=True) == [], "nobody is let in until it is said again"


@pytest.mark.parametrize("version", [None, "family-e-older"])
@pytest.mark.parametrize("network", ["access-point", "station"])
def test_from_every_state_the_script_ends_with_phones_let_in(network: str, version: str | None) -> None:
    """Every speed it may have been left at, mode, echo and power; the end is a network, the speed, and a server."""
    goal = Goal("LANTERN", "", 9600, network=network)  # type: ignore[arg-type]
    steps, known = wifi_script(goal, E, "adapter"), secrets_of("Backstage", "curtain call")
    for speed, mode, is_powered, is_server in product(SPEEDS, (1, 2, 3), (False, True), (0, 1)):
        module = StandIn(E.version(version), {"speed": speed, "mode": mode, "server": is_server}, networks=HOUSE)
        module.power(0.0, is_on=is_powered)
        outcome = run(steps, module, secrets=known)
        assert outcome.stopped_at is None, (speed, mode, steps[outcome.stopped_at or 0].text, outcome.heard)
        assert (module.speed_bd, module.kept["server"], module.kept["timeout"]) == (9600, 1, 7200)
        found = (module.kept["mode"], module.kept["network"], module.kept["home"])
        assert found == ((2, "LANTERN", "") if network == "access-point" else (1, "", "Backstage"))
        module.link(1e4, is_there=True)
        assert module.is_linked


@pytest.mark.parametrize(
    ("network", "password", "says"),
    [("Backstage", "wrong password", "FAIL: the name or the password is another"), ("Balcony", "curtain call", "FAIL:")],
)
def test_a_wrong_network_is_named_where_the_script_stops(network: str, password: str, says: str) -> None:
    steps = wifi_script(Goal("LANTERN", "", 9600, network="station"), E, "adapter")
    outcome = run(steps, StandIn(E, networks=HOUSE), secrets=secrets_of(network, password))
    assert outcome.stopped_at is not None
    assert says in steps[outcome.stopped_at].advice
    silent = run(steps, StandIn(E, networks=HOUSE), "crossed")
    assert silent.stopped_at is not None
    assert "enable pin not pulled up" in steps[silent.stopped_at].advice


@pytest.mark.parametrize(
    ("typed", "sent"),
    [("curtain call", b'"curtain call"'), ('a"b,c\\d e', b'"a\\"b\\,c\\\\d e"'), ("x" * 63, b'"' + b"x" * 63 + b'"')],
)
def test_a_password_is_escaped_as_it_is_sent(typed: str, sent: bytes) -> None:
    assert secrets_of("", typed) == {b'"<password>"': sent}
    module = StandIn(E, {"echo": 0, "mode": 1}, networks={"Backstage": typed})
    module.power(0.0, is_on=True)
    module.hear(1.0, b"ATE0\r\n")
    answer = module.hear(2.0, b'AT+CWJAP="Backstage",' + sent + b"\r\n")
    assert [it.content for it in answer][-1] == b"OK\r\n"


@pytest.mark.parametrize("password", ["short", "x" * 64, "pässword-long", "with\nbreak-in"])
def test_a_password_that_no_network_has_is_refused(password: str) -> None:
    with pytest.raises(OutOfRange, match="8 to 63 plain characters"):
        secrets_of("", password)


def test_its_sheet_asks_for_the_secret_and_keeps_none() -> None:
    plan = plan_with(
        {
            "nodes": {"radio": {"choice": {"part": "family-e"}, "setup": None}, "phone": {"speaks": ["wifi"]}},
            "links": {"air": {"transport": None}},
        },
        base=CLEAR,
    )
    design = resolve(plan, load_catalog())
    found = setup_of(design, "radio")
    assert found.sentence == "13 steps through the adapter make the module ONE-LAMP, 9600\u00a0Bd, with a network of its own."
    assert (found.asks, found.proposed.partition(" proposed")[0]) == (("password",), "Name")
    sent = [way.sent for step in found.steps for way in step.ways]
    assert 'AT+CWSAP="ONE-LAMP","<password>",6,3' in sent
    filled = setup_of(design, "radio", password="curtain call")
    assert 'AT+CWSAP="ONE-LAMP","curtain call",6,3' in filled.text
    short = setup_of(design, "radio", password="short")
    assert (short.refused, "<password>" in short.text) == ("The password wants 8 to 63 plain characters.", True)
    guest = setup_of(
        resolve(
            plan_with({"links": {"air": {"join": "station"}}}, base=plan.model_dump(mode="json", exclude_unset=True)),
            load_catalog(),
        ),
        "radio",
    )
    assert (guest.asks, "2.4 GHz" in guest.text) == (("network", "password"), True)
    assert [as_text(it) for it in wifi_script(Goal("A", "", 9600, network="access-point"), E, "adapter")][2].endswith(
        "74880\u00a0Bd."
    )
