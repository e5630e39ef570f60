"""Two stand-ins that find each other: only who is bound, with one PIN, and as long as both have power. From memory."""

from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.air import FIND_S, Air
from oddlamp.core.modules.script import UNKNOWN, Goal, script
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.modules.walk import run

A = load_catalog().dialects["family-a"]
THEIRS = "0019:5D:24B7A1"


def pair(master: dict[str, Any], slave: dict[str, Any]) -> Air:
    """A master that knows the slave's address and a slave, both with power."""
    ends = (StandIn(A, {"role": 1, "mode": 0, "bound": THEIRS, **master}), StandIn(A, {"address": THEIRS, **slave}))
    air = Air(ends)
    for side, module in enumerate(ends):
        air.took(side, module.power(0.0, is_on=True))
    air.until(0.0)
    return air


@pytest.mark.parametrize(
    ("master", "slave", "is_linked"),
    [
        ({}, {}, True),
        ({"bound": "0019:5D:24B7A2"}, {}, False),
        ({"bound": "0019:5D:24B7A2", "mode": 1}, {}, True),  # whoever comes
        ({"pin": "4711"}, {}, False),
        ({"pin": "4711"}, {"pin": "4711"}, True),
        ({"role": 0}, {}, False),
        ({}, {"role": 1}, False),
        ({}, {"speed": 38_400}, True),  # the speeds of the two wires are no matter of the radio
    ],
)
def test_who_finds_whom(master: dict[str, Any], slave: dict[str, Any], is_linked: bool) -> None:
    air = pair(master, slave)
    air.until(FIND_S - 0.1)
    assert not any(module.is_linked for module in air.sides), "it takes a while"
    air.until(FIND_S + 0.1)
    assert [module.mode for module in air.sides] == ["linked" if is_linked else "waiting"] * 2


def test_bytes_go_both_ways_and_each_leaves_at_its_own_speed() -> None:
    air = pair({}, {"speed": 38_400})
    air.until(3.0)
    assert air.took(0, air.sides[0].hear(4.0, b"a")) == []
    assert air.until(4.01) == [], "still in the air"
    (there,) = air.until(4.1)
    assert (there.side, there.said.content, there.said.speed_bd) == (1, b"a", 38_400)
    air.took(1, air.sides[1].hear(5.0, b"OK"))
    (back,) = air.until(5.1)
    assert (back.side, back.said.content, back.said.speed_bd) == (0, b"OK", 9600)


def test_a_power_cut_parts_them_and_they_find_each_other_again() -> None:
    air = pair({}, {})
    air.until(3.0)
    air.took(0, air.sides[0].hear(4.0, b"lost in flight"))
    air.took(1, air.sides[1].power(4.01, is_on=False))
    assert air.until(4.2) == []
    assert [module.mode for module in air.sides] == ["waiting", "off"]
    air.took(1, air.sides[1].power(10.0, is_on=True))
    air.until(10.0)
    air.until(10.0 + FIND_S)
    assert [module.mode for module in air.sides] == ["linked", "linked"]


def test_set_up_mode_is_no_reason_to_call() -> None:
    air = pair({}, {})
    air.took(1, air.sides[1].key(0.5, is_up=True))
    air.until(5.0)
    assert [module.mode for module in air.sides] == ["waiting", "setup"]


def test_two_of_a_family_without_addresses_meet_once_their_scripts_have_run() -> None:
    """A BLE master of this family calls the first of its kind that it finds, with one PIN at both ends. From memory."""
    family = load_catalog().dialects["family-c"]
    ends = (StandIn(family), StandIn(family))
    goals = (Goal("LEFT", "471147", 9600, "master", partner=UNKNOWN), Goal("RIGHT", "471147", 38_400, is_bound_to=True))
    for module, goal in zip(ends, goals, strict=True):
        steps = script(goal, family)
        assert run(steps, module).stopped_at is None
        assert not any(b"ADDR" in way.sent for step in steps for way in step.ways)
    air = Air(ends)
    air.until(1e4)
    air.until(1e4 + FIND_S + 0.1)
    assert [module.mode for module in ends] == ["linked", "linked"]
    assert "switch others off" in " ".join(step.text for step in script(goals[0], family))
