"""The radio on the board: its button told by how long it is held, its steps for every transport, and secrets that stay outside. From memory."""

import json

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.own_radio import own_secrets
from oddlamp.core.modules.script import Step
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.parts.models import BoardPart
from oddlamp.core.plan.document import Document
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import sheet_of
from oddlamp.sheets.setup import SetupShown, setup_of
from tests.builders import document, plan_with

F = load_catalog().dialects["family-f"]
STAR = document("foyer-star")


def held(seconds: float, *, is_linked: bool = False) -> StandIn:
    """One that has power and whose button was held."""
    module = StandIn(F)
    module.power(0.0, is_on=True)
    module.link(0.5, is_there=is_linked)
    module.key(1.0, is_up=True)
    module.key(1.0 + seconds, is_up=False)
    return module


@pytest.mark.parametrize(
    ("seconds", "mode", "turns_s"),
    [
        (0.1, "waiting", (1.0, 1.0)),
        (2.9, "waiting", (1.0, 1.0)),
        (3.0, "setup", (0.25, 0.25)),
        (7.9, "setup", (0.25, 0.25)),
        (8.0, "setup", (0.1, 0.1)),
        (60.0, "setup", (0.1, 0.1)),
    ],
)
def test_how_long_its_button_is_held_tells_how_it_joins(seconds: float, mode: str, turns_s: tuple[float, ...]) -> None:
    module = held(seconds)
    assert (module.mode, module.blink.turns_s) == (mode, turns_s)


def test_once_it_has_a_network_it_waits_again_and_keeps_how_it_came_by_it() -> None:
    module = held(9.0, is_linked=True)
    assert not module.is_linked, "who was linked is gone"
    assert module.link(12.0, is_there=True) == []
    assert not module.is_linked, "and nobody gets in while it joins"
    module.join(20.0)
    assert (module.mode, module.kept["joined_by"]) == ("waiting", 2)
    module.link(21.0, is_there=True)
    assert module.mode == "linked"
    module.power(22.0, is_on=False)
    module.power(23.0, is_on=True)
    assert (module.mode, module.kept["joined_by"]) == ("waiting", 2), "a power cut forgets nothing of it"


def test_without_power_its_button_does_nothing() -> None:
    module = StandIn(F)
    module.key(0.0, is_up=True)
    module.key(9.0, is_up=False)
    assert module.mode == "off"


def steps_of(*patches: Document, over: str = "lan", **secrets: str) -> SetupShown:
    return setup_of(resolve(plan_with(*patches, base=STAR), load_catalog()), "board", over=over, **secrets)


@pytest.mark.parametrize(
    ("transport", "told"),
    [
        ("tcp", "a line by TCP to the address it printed, port 333"),
        ("udp", "packets by UDP to the address it printed, port 333"),
        ("http", "the page http://the address it printed:333/"),
        ("websocket", "the socket ws://the address it printed:333/"),
        ("mqtt", "the topic FOYER-STAR at the broker"),
    ],
)
def test_every_way_to_carry_words_says_what_the_phone_opens(transport: str, told: str) -> None:
    found = steps_of({"links": {"lan": {"transport": transport}}})
    assert told in found.text
    assert found.asks == ("network", "password")
    assert "In another house" not in found.text, "nothing on the board lets it into another network"
    button = {
        "inputs": {"go": {"kind": "button", "label": "Go", "host": "board"}},
        "links": {"lan": {"transport": transport, "join_button": "go"}},
    }
    held = steps_of(button)
    assert "hold Go for 3\u00a0s to 8\u00a0s and let go" in held.text
    assert "OWN_PASSWORD" in held.text
    assert len(held.blinks) > 0


def test_its_own_network_is_found_at_its_own_address_and_by_its_own_name() -> None:
    found = steps_of({"links": {"lan": {"join": "access-point", "transport": "tcp", "port": 5000, "name": "STAR"}}})
    assert "TCP to 192.168.4.1, port 5000" in found.text
    assert (found.asks, found.proposed, "its button" in found.text) == (("password",), "", False)
    assert found.sentence.endswith("find the board as STAR, with a network of its own, by TCP over Wi-Fi.")


def test_of_several_links_each_has_its_own_steps() -> None:
    assert "the page http://" in steps_of(over="lan").text
    assert "at the broker" in steps_of(over="mq").text
    for link in ("lan", "mq"):
        sheet = sheet_of(resolve(plan_with(base=STAR), load_catalog()), (), f"links.{link}")
        assert sheet.sets_up == "board"


def test_secrets_are_written_as_the_program_reads_them_and_stand_in_no_plan() -> None:
    found = steps_of(network='Fo"yer', password='curtain\\ "call", 7')
    assert f"const char NETWORK[] = {json.dumps('Fo' + chr(34) + 'yer')};" in found.text
    assert (
        f"const char PASSWORD[] = {json.dumps(chr(99) + 'urtain' + chr(92) + ' ' + chr(34) + 'call' + chr(34) + ', 7')};"
        in found.text
    )
    assert "<password>" not in found.text
    assert "<password>" in steps_of().text
    assert steps_of(password="short").refused == "The password wants 8 to 63 plain characters."
    with pytest.raises(OutOfRange):
        own_secrets("x" * 33, "")


@pytest.mark.parametrize("board", sorted(it.id for it in load_catalog().boards.values() if it.radios))
def test_every_board_with_a_radio_has_its_steps(board: str) -> None:
    """Those that speak no Wi-Fi are found by BLE, with nothing secret."""
    part: BoardPart = load_catalog().boards[board]
    is_wifi = "wifi" in part.radios
    lamp = {"go": {"kind": "led", "host": "board"}}
    plan = plan_with(
        {
            "nodes": {"radio": None, "board": {"choice": {"part": board}}, "phone": {"speaks": ["wifi", "ble"]}},
            "links": {"serial": None, "air": {"a": "phone", "b": "board", "transport": None}},
            "talks": {"main": {"via": ["air"]}},
            "signals": None,
            "lamps": {"lamp": None, **lamp},
            "rules": None,
        }
    )
    found = setup_of(resolve(plan, load_catalog()), "board")
    assert ("network of its own" in found.sentence, "service FFE0" in found.text) == (is_wifi, not is_wifi)
    assert found.asks == (("password",) if is_wifi else ())
    assert [it.means for it in found.blinks] == []
    assert "Press On on the phone" in found.text
    assert not any(isinstance(it, Step) for it in found.steps)


def test_the_air_asks_what_lets_it_into_another_network() -> None:
    """Its file of secrets, a button there is, or a new one; in a network of its own nothing is asked."""

    def asked(*patches: Document) -> dict[str, Document]:
        sheet = sheet_of(resolve(plan_with(*patches, base=STAR), load_catalog()), (), "links.lan")
        found = [it for panel in sheet.panels for it in panel.choices if it.label == "Another network is joined by"]
        return {option.label: option.patch for it in found for option in it.options}

    new = asked()
    assert list(new) == ["Its file of secrets", "A new button, held"]
    with_button = asked(new["A new button, held"])
    assert list(with_button) == ["Its file of secrets", "Join, held"]
    assert with_button["Its file of secrets"] == {"links": {"lan": {"join_button": None}}}
    assert asked({"links": {"lan": {"join": "access-point"}}}) == {}
