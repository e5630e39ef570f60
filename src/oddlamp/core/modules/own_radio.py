"""A board whose radio is on it: no commands, but steps all the same, from its program to the phone that reaches it."""

import json
from collections.abc import Iterator
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.script import Step, Way
from oddlamp.core.parts.dialect import Dialect

SECRETS_FILE: Final = "secrets.h"
OWN_ADDRESS: Final = "192.168.4.1"  # in the network that such a radio opens; from memory
NETWORK_NAME_MOST: Final = 32  # IEEE 802.11: an SSID of at most 32 octets
USB_BD: Final = 115_200
SERVICE: Final = "FFE0"
CHARACTERISTIC: Final = "FFE1"
OPENS: Final = {
    "tcp": "a line by TCP to {at}, port {port}",
    "udp": "packets by UDP to {at}, port {port}",
    "http": "the page http://{at}:{port}/",
    "websocket": "the socket ws://{at}:{port}/",
    "mqtt": "the topic {name} at the broker the program names; without a broker in the house nothing is carried",
}


class OwnRadio(NamedTuple):
    """What a board's radio shall be: its name, how it carries words, and how it is found; ``first_word`` tries it."""

    name: str
    transport: str
    network: Literal["access-point", "station"] = "access-point"
    port: int = 0
    first_word: str = ""


def own_radio_script(goal: OwnRadio, dialect: Dialect | None) -> tuple[Step, ...]:
    """Lay out the steps; with a dialect, how its button lets it into a network."""
    return tuple(_by_wifi(goal, dialect) if goal.transport in OPENS else _by_ble(goal))


def own_secrets(network: str, password: str) -> dict[bytes, bytes]:
    """Return what stands in the program's file of secrets and what the maker types in its place, as text of a program.

    Raises:
        OutOfRange: a network's name over 32 characters, a password under 8 or over 63, or not plain ASCII.
    """
    found = {}
    for stands, name, given, least, most in (
        ("network", "network", network, 1, NETWORK_NAME_MOST),
        ("password", "password", password, 8, 63),
    ):
        if not given:
            continue
        if not (given.isascii() and given.isprintable() and least <= len(given) <= most):
            raise OutOfRange(field=name, given=given, allowed=f"{least} to {most} plain characters")
        found[_placeholder(stands)] = json.dumps(given).encode("ascii")
    return found


def _placeholder(what: str) -> bytes:
    return b'"<your network>"' if what == "network" else b'"<password>"'


def _by_wifi(goal: OwnRadio, dialect: Dialect | None) -> Iterator[Step]:
    is_guest = goal.network == "station"
    lines = [b"const char NETWORK[] = " + _placeholder("network") + b";"] if is_guest else []
    lines.append(b"const char PASSWORD[] = " + _placeholder("password") + b";")
    yield Step(
        "wire",
        f"Write what only you know into a file {SECRETS_FILE} beside the program. It stays on your computer: no plan holds it.",
        tuple(Way(line, b"") for line in lines),
    )
    yield Step("power on", f"Upload the program over USB, and open the terminal there at {si(USB_BD, 'Bd')}.")
    if is_guest:
        yield Step(
            "power on",
            "It joins the house's network, which takes some seconds, and prints the address it was given. Only a 2.4 GHz network can be joined.",
            advice="It goes on trying: the name or the password is another, or the network is a 5 GHz one.",
        )
        if dialect is not None:
            for place, it in enumerate(dialect.joins):
                most = f" to {si(dialect.joins[place + 1].held_s, 's')}" if place + 1 < len(dialect.joins) else " or longer"
                yield Step(
                    "key up",
                    f"In another house, with no computer: hold its button for {si(it.held_s, 's')}{most} and let go. Its LED goes {it.blink.text}: {it.means}.",
                )
        yield Step("link", "Let the phone be in the same network.")
    else:
        yield Step(
            "link",
            f"Join the network {goal.name} from the phone.",
            advice="The phone leaves it again: it has no internet; tell the phone to stay. It is not there: the board has not started, look at its terminal.",
        )
    at = OWN_ADDRESS if not is_guest else "the address it printed"
    opens = OPENS[goal.transport].format(at=at, port=goal.port, name=goal.name)
    yield Step("link", f"Let the phone's program open {opens}.", advice="It is refused: the address or the port is another.")
    yield from _tried(goal)


def _by_ble(goal: OwnRadio) -> Iterator[Step]:
    yield Step("power on", "Upload the program over USB.")
    yield Step(
        "link",
        f"Link to {goal.name} from the phone: look for BLE, not among paired devices; service {SERVICE}, characteristic {CHARACTERISTIC}, written as bytes.",
        advice="It does not show up: the board has not started, or another phone is linked to it.",
    )
    yield from _tried(goal)


def _tried(goal: OwnRadio) -> Iterator[Step]:
    if goal.first_word:
        yield Step(
            "say",
            f"Press {goal.first_word} on the phone, and see what the lamps do.",
            advice="Nothing: what the phone sends and what the words want may differ by an ending; the rehearsal shows both.",
        )
    yield Step("power off", "Take its power away and give it back: it is found again by itself, after some seconds.")
