"""The script of a Wi-Fi serial module: its own access point or a guest of the house's, and what the program says at every start."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import si
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.script import LIKELY_BD, PORT, WIRING, Goal, Route, Step, Way, taken_back
from oddlamp.core.parts.dialect import ENDINGS, Dialect, answer_of
from oddlamp.core.words.frames import Field, FieldValue

SECRET: Final = "<password>"
HOUSE: Final = "<your network>"
CHANNEL: Final = 6
CIPHER: Final = 3  # WPA2
IDLE_MOST_S: Final = 7200
QUOTES: Final = (Field(kind="quoted", least=1, most=32), Field(kind="quoted", least=8, most=63))


def wifi_script(goal: Goal, dialect: Dialect, route: Route) -> tuple[Step, ...]:
    """Lay out the steps, the speed last of what is kept, and then what has to be said again at every start.

    Raises:
        OutOfRange: a name that cannot be a network's, or a speed it does not know.
    """
    return tuple(_steps(goal, dialect, route))


def secrets_of(network: str, password: str) -> dict[bytes, bytes]:
    """Return what stands in the script and what the maker types in its place, as it is sent between quotes.

    Raises:
        OutOfRange: a network's name over 32 characters, a password under 8 or over 63, or not plain ASCII.
    """
    return {
        f'"{stands}"'.encode("ascii"): field.written(name, given)
        for stands, name, field, given in ((HOUSE, "network", QUOTES[0], network), (SECRET, "password", QUOTES[1], password))
        if given
    }


def said_at_every_start(dialect: Dialect, port: int = PORT) -> dict[str, Way]:
    """Return what a board's program says whenever the module has started, since that forgets it; nothing for other families."""
    values: dict[str, dict[str, int]] = {
        "ATE": {"echo": 0},
        "AT+CIPMUX": {"mux": 1},
        "AT+CIPSERVER": {"server": 1, "port": port},
        "AT+CIPSTO": {"timeout": IDLE_MOST_S},
    }
    return {send: _way(dialect, send, **it) for send, it in values.items()} if dialect.enters == "always" else {}


def _way(dialect: Dialect, send: str, **values: FieldValue) -> Way:
    command = next((it for it in dialect.commands if it.send.startswith(send)), None)
    if command is None:
        raise OutOfRange(field="family", given=dialect.label, allowed=f"one that knows {send}")
    return Way(
        command.frame.build(**values) + ENDINGS[dialect.ending], answer_of(dialect, command, {**dialect.settings, **values})
    )


def _steps(goal: Goal, dialect: Dialect, route: Route) -> Iterator[Step]:
    def way(send: str, **values: FieldValue) -> Way:
        return _way(dialect, send, **values)

    again = said_at_every_start(dialect, goal.port)
    yield Step("wire", f"{WIRING[route]} Feed it from a supply that gives 400 mA: the 3.3 V pin of an adapter does not.")
    yield Step("power off", "See that it has no power.")
    started = ""
    if dialect.boot is not None:
        started = f" It prints garbage at first, which is normal: its start-up text runs at {si(dialect.boot.speed_bd, 'Bd')}."
    yield Step("power on", f"Give it power.{started}")
    speeds = next(tuple(it.fields["speed"].choices.values()) for it in dialect.commands if "speed" in it.keeps)
    likely = sorted(
        speeds, key=lambda it: (it != dialect.settings["speed"], LIKELY_BD.index(it) if it in LIKELY_BD else len(LIKELY_BD))
    )
    at = way("AT")
    yield Step(
        "find",
        f"Set the terminal to 8N1 and a line ending of CR LF, and press Enter once before each try. Try these speeds until it answers: {', '.join(si(it, 'Bd') for it in likely)}.",
        (at._replace(sent=ENDINGS[dialect.ending] + at.sent, ends=True),),  # what a wrong speed left there ends first
        tuple(likely),
        "Silence at every speed: TX and RX may be swapped, the ending missing, its enable pin not pulled up, or its supply too weak.",
    )
    yield Step(
        "send",
        "Let it not repeat what is typed.",
        (again["ATE"]._replace(ends=True),),
        advice="Nothing: it was switched off already.",
    )
    if goal.network == "station":
        yield Step("send", "Let it be a guest in a network.", (way("AT+CWMODE={", mode=1),))
        yield Step(
            "send",
            "Let it join the house's network, which takes some seconds. Only a 2.4 GHz network can be joined.",
            (way("AT+CWJAP", home=HOUSE, secret=SECRET),),
            advice="FAIL: the name or the password is another, or the network is a 5 GHz one. busy: it was still at it; wait.",
        )
    else:
        yield Step("send", "Let it open a network of its own.", (way("AT+CWMODE={", mode=2),))
        yield Step(
            "send",
            "Name that network and give it a password of 8 to 63 characters.",
            (way("AT+CWSAP", network=goal.name, secret=SECRET, channel=CHANNEL, cipher=CIPHER),),
            advice="ERROR: the password is too short, or the mode was not taken. Phones may leave a network that has no internet: tell them to stay.",
        )
    yield Step(
        "send",
        "Last of what it keeps, its speed.",
        (way("AT+UART_DEF", speed=goal.speed_bd, parity=0),),
        advice=f"ERROR: it knows no such speed. {taken_back(dialect)}".strip(),
    )
    yield Step(
        "terminal", f"From now on it speaks at {si(goal.speed_bd, 'Bd')}: set the terminal to it.", speeds_bd=(goal.speed_bd,)
    )
    yield Step(
        "send",
        "See whether it listens there.",
        (way("AT"),),
        advice="Silence: try the old speed; it may not have taken the new one.",
    )
    told = "What follows it forgets at every start: the program says it each time. Try it now."
    yield Step("send", f"{told} Several may link at once.", (again["AT+CIPMUX"],), advice="ERROR: restart it and say this first.")
    yield Step("send", "It lets phones in.", (again["AT+CIPSERVER"],), advice="ERROR: the line before was not taken.")
    yield Step(
        "send",
        f"It keeps idle phones for {si(IDLE_MOST_S, 's')}, and not only for three minutes.",
        (again["AT+CIPSTO"],),
        advice="ERROR: it lets nobody in yet.",
    )
