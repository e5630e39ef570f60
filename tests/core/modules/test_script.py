"""Scripts walked by themselves against stand-ins, from every state a module may be found in, against a table written by hand."""

from itertools import combinations, product
from typing import NamedTuple

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.air import Air
from oddlamp.core.modules.script import FACTORY_PINS, UNKNOWN, Goal, Step, as_text, is_on_a_wire, proposed_pin, script
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.modules.walk import Fault, run
from oddlamp.core.parts.dialect import Dialect
from tests.full import IS_PROOF

DIALECTS = load_catalog().dialects
NAMES = ("SERIAL", "LANTERN", "x" * 12)
ANY = "*"


USUAL = frozenset(range(921_601))


class State(NamedTuple):
    """What a module may be found as: who it is, how it was left, and what is going on when the maker begins."""

    family: str
    version: str | None
    speed: int
    name: str
    role: int
    is_powered: bool
    is_key_up: bool
    is_linked: bool


# A decision table: what is found in each state that a row stands for, ANY for whatever there may be. None is the goal, else how
# the text of the step begins where the script stops. Two columns: the states, and what comes of them.
FIND = "Set the terminal to 8N1"
TABLE: tuple[tuple[tuple[object, ...], str | None], ...] = (
    (("family-a", ANY, ANY, ANY, ANY, ANY, ANY, ANY), None),
    (("family-b", None, USUAL, ANY, ANY, ANY, ANY, ANY), None),
    (("family-b", None, (1_382_400,), ANY, ANY, ANY, ANY, ANY), FIND),  # no usual adapter reaches it any more
    (("family-c", None, ANY, ANY, ANY, ANY, ANY, ANY), None),
    (("family-c", "family-c-alike", ANY, ANY, ANY, ANY, ANY, ANY), FIND),
)
GOAL = {
    "family-a": Goal("LANTERN", "4711", 9600),
    "family-b": Goal("LANTERN", "4711", 38_400),
    "family-c": Goal("LANTERN", "471147", 115_200),
}


def speeds(dialect: Dialect) -> tuple[int, ...]:
    """All speeds a module of a family may have been left at."""
    return next(tuple(it.fields["speed"].choices.values()) for it in dialect.commands if "speed" in it.keeps)


def rows_of(state: State) -> list[str | None]:
    """What the rows say that stand for a state."""

    def stands(cell: object, value: object) -> bool:
        return cell in (ANY, value) or (isinstance(cell, frozenset | tuple) and value in cell)

    return [ends for cells, ends in TABLE if all(stands(cell, value) for cell, value in zip(cells, state, strict=True))]


def states(family: str, version: str | None) -> list[State]:
    """All states of a family; in a test run as many as have every pair of conditions among them."""
    dialect = DIALECTS[family].version(version)
    flags = [(False, True)] * 3
    whole = [State(family, version, *rest) for rest in product(speeds(dialect), NAMES, (0, 1), *flags)]
    if IS_PROOF:
        return whole
    wanted = {pair for state in whole for pair in combinations(enumerate(state[2:]), 2)}
    chosen: list[State] = []
    while wanted:
        best = max(whole, key=lambda it: len(wanted.intersection(combinations(enumerate(it[2:]), 2))))
        wanted.difference_update(combinations(enumerate(best[2:]), 2))
        chosen.append(best)
    return chosen


KINDS = [(family, version) for family in GOAL for version in (None, *(it.id for it in DIALECTS[family].versions))]


@pytest.mark.parametrize(("family", "version"), KINDS)
def test_every_state_meets_exactly_one_row(family: str, version: str | None) -> None:
    dialect = DIALECTS[family].version(version)
    for state in (State(family, version, *rest) for rest in product(speeds(dialect), NAMES, (0, 1), *[(False, True)] * 3)):
        assert len(rows_of(state)) == 1, state


@pytest.mark.parametrize(("family", "version"), KINDS)
def test_from_every_state_a_script_ends_as_the_table_says(family: str, version: str | None) -> None:
    dialect, goal = DIALECTS[family].version(version), GOAL[family]
    steps = script(goal, DIALECTS[family])
    for state in states(family, version):
        role = {"role": state.role} if "role" in dialect.settings else {}
        module = StandIn(dialect, kept={"speed": state.speed, "name": state.name, **role})
        module.key(0.0, is_up=state.is_key_up)
        module.power(0.0, is_on=state.is_powered)
        module.link(0.0, is_there=state.is_linked)
        outcome, (stops_at,) = run(steps, module), rows_of(state)
        if stops_at is None:
            assert outcome.stopped_at is None, (state, outcome, steps[outcome.stopped_at or 0])
            kept = module.kept
            found = (kept["name"], kept["pin"], kept["speed"], module.speed_bd)
            assert found == (goal.name, goal.pin, goal.speed_bd, goal.speed_bd)
            assert (module.mode, kept.get("role", 0)) == ("waiting", 0)
        else:
            assert outcome.stopped_at is not None, state
            assert steps[outcome.stopped_at].text.startswith(stops_at)
            assert module.kept["speed"] == state.speed, "no speed command before it is known who it is"


@pytest.mark.parametrize(
    ("family", "fault", "says"),
    [
        ("family-a", "ending", "the ending missing"),
        ("family-a", "crossed", "TX and RX may be swapped"),
        ("family-a", "key", "the key was not held"),
        ("family-a", "speed", "Garbage: the speed"),
        ("family-a", "power", "Nothing:"),
        ("family-b", "ending", "adds a line ending"),
        ("family-b", "crossed", "TX and RX may be swapped"),
        ("family-b", "power", "Silence at every speed"),
        ("family-c", "ending", "adds a line ending"),
        ("family-c", "crossed", "TX and RX may be swapped"),
    ],
)
def test_what_the_maker_does_wrong_is_named_where_the_script_stops(family: str, fault: Fault, says: str) -> None:
    steps = script(GOAL[family], DIALECTS[family])
    outcome = run(steps, StandIn(DIALECTS[family]), fault)
    assert outcome.stopped_at is not None
    assert says in steps[outcome.stopped_at].advice


@pytest.mark.parametrize("family", [it for it in sorted(DIALECTS) if is_on_a_wire(DIALECTS[it])])
def test_a_part_and_its_dialect_say_the_same_of_name_pin_and_speeds(family: str) -> None:
    """One fact, two homes: what verdicts judge and what scripts refuse."""
    part, dialect = load_catalog().modules[family], DIALECTS[family]
    fields = {name: it.fields[name] for it in dialect.commands for name in it.keeps}
    assert fields["network" if "wifi" in part.radios else "name"].most == part.name_most_characters
    if part.pin_code_digits:
        assert (fields["pin"].least, fields["pin"].most) == (min(part.pin_code_digits), max(part.pin_code_digits))
    assert set(speeds(dialect)) == set(part.data_speeds_bd)


def at(steps: tuple[Step, ...], sent: bytes) -> int:
    return next(place for place, step in enumerate(steps) if any(way.sent.startswith(sent) for way in step.ways))


@pytest.mark.parametrize("family", sorted(GOAL))
def test_the_speed_comes_last_and_is_followed(family: str) -> None:
    steps = script(GOAL[family], DIALECTS[family])
    speed = at(steps, b"AT+UART" if family == "family-a" else b"AT+BAUD")
    later = [way.sent for step in steps[speed + 1 :] for way in step.ways]
    assert [it for it in later if not it.startswith((b"AT+RESET", b"AT"))] == []
    assert any(GOAL[family].speed_bd in step.speeds_bd for step in steps[speed + 1 :])


@pytest.mark.parametrize(
    ("family", "goal", "field"),
    [
        ("family-b", Goal("LANTERN", "4711", 9600, "master"), "role"),
        ("family-a", Goal("x" * 21, "4711", 9600), "name"),
        ("family-a", Goal("Lantérn", "4711", 9600), "name"),
        ("family-a", Goal("LANTERN", "47", 9600), "pin"),
        ("family-b", Goal("LANTERN", "47a1", 9600), "pin"),
        ("family-c", Goal("x" * 13, "471147", 9600), "name"),
        ("family-a", Goal("LANTERN", "4711", 9601), "speed"),
    ],
)
def test_what_a_family_cannot_be_is_refused(family: str, goal: Goal, field: str) -> None:
    with pytest.raises(OutOfRange) as refused:
        script(goal, DIALECTS[family])
    assert refused.value.field == field


def test_a_step_reads_as_one_line() -> None:
    steps = script(GOAL["family-a"], DIALECTS["family-a"])
    assert as_text(steps[at(steps, b"AT+PSWD")]).startswith(
        'Give it its PIN. Send AT+PSWD=4711; it answers OK, or, where that errs, send AT+PSWD="4711"; it answers OK.'
    )
    assert "Straight" in script(GOAL["family-a"], DIALECTS["family-a"], "board")[0].text
    assert "Crossed" in steps[0].text


def test_a_proposed_pin_is_the_projects_own_and_no_factory_one() -> None:
    pins = {proposed_pin(f"Lamp {n}", 4) for n in range(500)}
    assert len(pins) > 450
    assert not pins & FACTORY_PINS
    assert all(len(it) == 4 and it.isdigit() and it[0] != "0" for it in pins)
    assert proposed_pin("Paper moon", 6) == proposed_pin("Paper moon", 6)


@pytest.mark.parametrize(("version", "other"), [(None, None), (None, "family-a-newer"), ("family-a-newer", None)])
def test_two_scripts_bind_two_modules_whatever_they_were_before(version: str | None, other: str | None) -> None:
    """The slave tells its address, which the master's script asks for; then both find each other. From memory."""
    family = DIALECTS["family-a"]
    slave = StandIn(family.version(version), {"role": 1, "address": "0019:5D:24B7A1", "speed": 38_400, "mode": 0})
    master = StandIn(family.version(other), {"bound": "0001:02:000003"})
    called = script(Goal("WING", "4711", 9600, is_bound_to=True), family)
    calls = script(Goal("STAGE", "4711", 38_400, "master", partner=UNKNOWN), family)
    told = run(called, slave)
    assert (told.stopped_at, told.address) == (None, "19:5d:24b7a1")
    assert run(calls, master).stopped_at is None, "it takes any address, and finds nobody"
    assert run(calls, master, address=told.address).stopped_at is None
    air = Air((master, slave))
    air.until(1e3)
    air.until(2e3)
    assert [(module.mode, module.speed_bd) for module in (master, slave)] == [("linked", 38_400), ("linked", 9600)]
    lines = [as_text(step) for step in calls]
    assert [line for line in lines if "AT+BIND=<its address, with commas>" in line]
    with pytest.raises(OutOfRange):
        script(Goal("WING", "4711", 9600, "master", partner=UNKNOWN), DIALECTS["family-b"])
