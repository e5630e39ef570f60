"""A board whose radio is on it: no commands, but steps all the same, from its program to the phone that reaches it."""

import json
from collections.abc import Iterator
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.script import Step, Way
from oddlamp.core.parts.dialect import Dialect

SECRETS_FILE: Final = "secrets.h"
PAGE_PORT: Final = 80  # where a browser looks by itself: RFC 9110, section 4.2.1
BROKER_PORT: Final = 1883  # MQTT version 3.1.1, section 4.2
BACK: Final = "/back"  # stands behind the topic for what the board says
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
    "mqtt": "the topic {name} at the broker the program names, and {name}/back for what comes back; without a broker in the house nothing is carried",
}
PLACES: Final = {
    "NETWORK": ("<your network>", "the name of the house's network, 2.4 GHz"),
    "PASSWORD": ("<password>", "8 to 63 characters"),
    "BROKER": ("<your broker>", "its address in the house's network"),
    "OWN_PASSWORD": ("<another password>", "8 to 63 characters, of the network it opens to ask for another"),
    "TIME_SERVER": ("<your router>", "who tells the time: many routers do, or one of the public ones"),
    "ZONE": ("UTC0", "your time zone as POSIX writes it, with its summer time: two zones and when each begins"),
}


class OwnRadio(NamedTuple):
    """What a board's radio shall be: its name, how it carries words, and how it is found; ``first_word`` tries it."""

    name: str
    transport: str
    network: Literal["access-point", "station"] = "access-point"
    port: int = 0
    first_word: str = ""
    has_time: bool = False
    button: str = ""


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


def line_of(transport: str) -> str:
    """Return the line of a board's radio that a way to carry words comes by: asked for or by a socket, it is the page's."""
    return "page" if transport in ("http", "websocket") else transport


def own_page_port(transport: str, port: int) -> int:
    """Return the port at which a board serves its page: where the line is one of the page's own, the line's."""
    return port if line_of(transport) == "page" else PAGE_PORT


def page_at(transport: str, port: int, address: str) -> str:
    """Return where the board serves its page; empty where its line stands there."""
    page = own_page_port(transport, port)
    if transport == "tcp" and page == port:
        return ""
    return f"http://{address}/" if page == PAGE_PORT else f"http://{address}:{page}/"


def secret_names(*, is_guest: bool, has_broker: bool, has_time: bool, is_joined_by_hand: bool) -> tuple[str, ...]:
    """Return what only the maker knows, by the names it has in the program."""
    wanted = {
        "NETWORK": is_guest,
        "PASSWORD": True,
        "OWN_PASSWORD": is_joined_by_hand,
        "BROKER": has_broker,
        "TIME_SERVER": has_time,
        "ZONE": has_time,
    }
    return tuple(name for name, is_wanted in wanted.items() if is_wanted)


def secret_line(name: str) -> str:
    """Return the line of the program that holds one of them, with what stands in its place."""
    return f'const char {name}[] = "{PLACES[name][0]}";'


def _placeholder(what: str) -> bytes:
    return f'"{PLACES[what.upper()][0]}"'.encode("ascii")


def _by_wifi(goal: OwnRadio, dialect: Dialect | None) -> Iterator[Step]:
    is_guest = goal.network == "station"
    names = secret_names(
        is_guest=is_guest, has_broker=goal.transport == "mqtt", has_time=goal.has_time, is_joined_by_hand=bool(goal.button)
    )
    yield Step(
        "wire",
        f"Write what only you know into a file {SECRETS_FILE} beside the program. It stays on your computer: no plan holds it.",
        tuple(Way(secret_line(name).encode("ascii"), b"") for name in names),
    )
    yield Step("power on", f"Upload the program over USB, and open the terminal there at {si(USB_BD, 'Bd')}.")
    if is_guest:
        yield Step(
            "power on",
            "It joins the house's network, which takes some seconds, and prints the address it was given. Only a 2.4 GHz network can be joined.",
            advice="It goes on trying: the name or the password is another, or the network is a 5 GHz one.",
        )
        if dialect is not None and goal.button:
            joins = [it for it in dialect.joins if it.by != "asked" or page_at(goal.transport, goal.port, OWN_ADDRESS)]
            for place, it in enumerate(joins):
                most = f" to {si(joins[place + 1].held_s, 's')}" if place + 1 < len(joins) else " or longer"
                yield Step(
                    "key up",
                    f"In another house, with no computer: hold {goal.button} for {si(it.held_s, 's')}{most} and let go. Its own LED, where nothing else hangs on that pin, goes {it.blink.text}: {it.means}.",
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
    page = page_at(goal.transport, goal.port, at)
    if goal.transport != "http" and page:
        yield Step("link", f"Or open {page} in any browser: the board serves a page with the phone's controls.")
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
