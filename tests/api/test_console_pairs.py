"""Two bound modules in one conversation; and passwords, which are sent and never told."""

import json
from collections.abc import Iterator

import pytest

from oddlamp.catalog.load import demo_plan, start_data
from oddlamp.core.plan.document import merge_patch
from tests.builders import CLEAR
from tests.conftest import CALL, running_server
from tests.talking import Talker

NEW = {"nodes": {"ml": {"setup": {"address": None}}, "mr": {"setup": {"address": None}}}}  # nobody has looked at either yet
WIFI = {
    "nodes": {"radio": {"choice": {"part": "family-e"}, "setup": None}, "phone": {"speaks": ["wifi"]}},
    "links": {"air": {"transport": None}},
}


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with running_server(tmp_path_factory.mktemp("pairs") / "o.sqlite3") as address:
        yield address


def opened(server: str, plan: object) -> tuple[str, list[str]]:
    project = CALL.post(f"{server}/api/projects/import", json=plan).json()["id"]
    path = f"/api/projects/{project}/module"
    return path, [it["id"] for it in CALL.get(f"{server}{path}/-").json()["others"]]


def walk(talk: Talker, server: str, path: str, node: str) -> list[str]:
    steps = CALL.get(f"{server}{path}/{node}").json()["steps"]
    talk.say(to=node)
    states = []
    for at in range(len(steps)):
        talk.say(step=at)
        states.append(talk.until("step", at=at, who=node)["state"])
    return states


def test_two_that_are_bound_are_set_in_one_conversation_and_find_each_other(server: str) -> None:
    path, nodes = opened(server, merge_patch(start_data("17-two-modules")["plan"], NEW))
    roles = {node: CALL.get(f"{server}{path}/{node}").json()["steps"] for node in nodes}
    calls = next(node for node, steps in roles.items() if any("BIND" in it["sent"] for it in steps))
    waits = next(it for it in nodes if it != calls)
    with Talker(server, f"{path}/{waits}/console?speed=38400") as talk:
        assert {it["id"] for it in talk.until("open")["members"]} == set(nodes)
        # Whoever calls asks for the other one's address, which nobody has told yet.
        first = walk(talk, server, path, calls)
        assert "differs" in first
        assert set(walk(talk, server, path, waits)) == {"done"}
        assert set(walk(talk, server, path, calls)) == {"done"}
        talk.until("light", mode="linked", who=calls)
        talk.say(say="7", ending="none")
        assert talk.until("heard", who=waits)["text"] == "7", "over the air"


def test_a_stand_in_may_be_set_as_the_plan_says(server: str) -> None:
    path, nodes = opened(server, demo_plan())
    name = json.loads(CALL.get(f"{server}{path}/{nodes[0]}").text)["sentence"].partition("make it ")[2].partition(",")[0]
    with Talker(server, f"{path}/{nodes[0]}/console?speed=38400&begins=set") as talk:
        for turn in ("power off", "key up", "power on"):
            talk.say(turn=turn)
        talk.say(say="AT+NAME?", ending="cr-lf")
        assert name in talk.until("heard")["text"]


def test_a_password_is_sent_and_told_to_nobody(server: str) -> None:
    """The loop gives back what is said, as a module does that repeats what it hears."""
    path, _ = opened(server, merge_patch(CLEAR, WIFI))
    steps = CALL.get(f"{server}{path}/-").json()["steps"]
    at = next((at for at, it in enumerate(steps) if "<password>" in it["sent"]), None)
    assert at is not None
    with Talker(server, f"{path}/-/console?port=loop://&speed=115200") as talk:
        talk.say(step=at)
        assert "password first" in talk.until("step")["advice"]
        talk.say(step=at, network="Attic", password="s3cret-word")
        talk.until("heard")
        talk.until("step", at=at)
        assert "AT+CW" in talk.ever
        assert "s3cret" not in talk.ever
        assert b"s3cret".hex(" ").upper() not in talk.ever
