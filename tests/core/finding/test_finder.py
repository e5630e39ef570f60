"""The fault finder: two thousand searches a condition in the proof, with answers from the simulated build; and what it says of them."""

import random
from collections import Counter

import pytest

from oddlamp.core.errors import OutOfRange
from oddlamp.core.finding.find import Search, measured_answers
from oddlamp.core.finding.metering import step_ids
from oddlamp.core.finding.table import BROKEN
from tests.core.finding.played import KNOWN, WAYS, Played, places, play
from tests.full import IS_PROOF

RUNS = 2000 if IS_PROOF else 12
LEAST = {"truthful": 0.90, "one answer in ten wrong": 0.80, "a third of the tests not possible": 0.75}
OF_OBSERVER, LEAST_EACH, ALIKE_MOST = 0.95, 0.5, 0.1
EXIT = "01-one-lamp, exit"


def conditions() -> dict[str, dict[str, float]]:
    return dict(zip(LEAST, ({}, {"wrong": 0.1}, {"lacks": 1 / 3}), strict=True))


@pytest.mark.parametrize("condition", LEAST)
def test_it_finds_what_is_there(condition: str) -> None:
    rng, causes = random.Random(5), sorted(places())
    rng.shuffle(causes)
    runs: list[Played] = [play(rng, causes[at % len(causes)], **conditions()[condition]) for at in range(RUNS)]
    right, minutes = sum(it.is_right for it in runs) / RUNS, sum(it.minutes for it in runs) / RUNS
    observer = sum(it.is_seen for it in runs) / RUNS
    each = {it: Counter(run.is_right for run in runs if run.cause == it) for it in causes}
    worst = min(((it[True] / it.total(), name) for name, it in each.items() if it.total()), default=(0, ""))
    print(
        f"{condition}: {RUNS} searches, {right:.1%} right, {minutes:.1f} minutes; an observer of all of it {observer:.1%}; worst {worst}"
    )
    assert right >= LEAST[condition] - (0 if IS_PROOF else 0.2)
    assert max(it.minutes for it in runs) < 60 + max(it.minutes for it in KNOWN.tests)
    if IS_PROOF:
        assert worst[0] >= LEAST_EACH, worst
        assert "possible" not in condition or right >= OF_OBSERVER * observer


def test_few_causes_are_alike() -> None:
    search = Search(WAYS[EXIT], KNOWN, "dark")
    groups = {search.alike(it.id) for it in search.causes}
    print([it for it in groups if len(it) > 1])
    assert sum(len(it) for it in groups if len(it) > 1) <= ALIKE_MOST * len(search.causes)
    if IS_PROOF:
        for name, way in WAYS.items():
            here = Search(way, KNOWN, "dark")
            shared = [it.id for it in here.causes if len(here.alike(it.id)) > 1]
            print(f"{name}: {shared}")
            assert len(shared) <= ALIKE_MOST * len(here.causes), name


def test_what_stands_before_a_converter_is_told_apart() -> None:
    """Flat cells from a converter that is set wrong: only before the converter they differ."""
    search = Search(WAYS["cells, moon"], KNOWN, "nothing")
    assert search.alike("cells-flat") == ("cells-flat",)
    low, right = (search.shares({"rail-volts": "low", "source-volts": it}) for it in ("low", "within"))
    assert low["cells-flat"] > low["supply-set"]
    assert right["supply-set"] > right["cells-flat"]
    assert "source-volts" not in {it.id for it in Search(WAYS[EXIT], KNOWN, "nothing").tests}


def test_a_weak_supply_is_looked_for_where_one_lamp_does_not_make_it() -> None:
    """A relay beside it may: it is told there, and simulated only where the lamp alone draws enough."""
    relay = WAYS["11-timed-relay, runs"]
    assert BROKEN["supply-weak"](relay) is None
    search = Search(relay, KNOWN, "resets")
    shares = search.shares({})
    assert max(shares, key=lambda it: shares[it]) == "supply-weak"
    kicks = search.shares({"coil-off": "holds", "load-volts": "within"})
    assert max(kicks, key=lambda it: kicks[it]) == "coil-kicks"
    assert "coil-kicks" not in Search(WAYS[EXIT], KNOWN, "dark").shares({})


def test_an_answer_counts_is_changed_and_taken_back() -> None:
    search = Search(WAYS[EXIT], KNOWN, "links-nothing")
    before, after = search.shares({}), search.shares({"turn-led": "works"})
    assert after["led-turned"] > 4 * before["led-turned"]
    assert search.shares({"turn-led": "does not"})["led-turned"] < before["led-turned"]
    assert search.shares({"turn-led": None}) == pytest.approx(before)
    told = search.told({"board-light": "on", "turn-led": None})
    assert "board-supply" in told[0].ruled_out
    assert told[1].ruled_out == ()


def test_what_is_lacking_is_not_asked_for() -> None:
    search = Search(WAYS[EXIT], KNOWN, "links-nothing", lacking={"meter", "computer", "lamp"})
    assert search.possible
    answers: dict[str, str | None] = {}
    while (asked := search.next(answers)) is not None:
        assert not {"meter", "computer", "lamp"} & set(KNOWN.test[asked.id].needs)
        answers[asked.id] = None


def test_the_plan_raises_odds() -> None:
    plain = Search(WAYS[EXIT], KNOWN, "no-back")
    raised = Search(WAYS[EXIT], KNOWN, "no-back", facts={"LVL-DIRECT-RISK"})
    deaf = KNOWN.cause["module-deaf"]
    assert raised.raised_by(deaf) == ("LVL-DIRECT-RISK",)
    assert raised.shares({})["module-deaf"] > plain.shares({})["module-deaf"]


def test_what_was_measured_is_an_answer() -> None:
    way = WAYS[EXIT]
    step = step_ids(way)["idle-module"]
    nominal = next(it.nominal for it in way.steps if it.id == step)
    assert nominal is not None
    assert measured_answers(way, {step: nominal}) == {"idle-module": "within"}
    assert measured_answers(way, {step: 0.02}) == {"idle-module": "nothing"}
    assert measured_answers(way, {step: 5.0}) == {"idle-module": "high"}


def test_answers_that_contradict_each_other_are_told() -> None:
    search = Search(WAYS[EXIT], KNOWN, "links-nothing")
    answers: dict[str, str | None] = {
        "turn-led": "works",
        "spare-lamp": "right",
        "led-drop": "high",
        "pin-volts": "moves",
        "by-terminal": "works",
    }
    assert "by-terminal" in search.doubtful(answers)
    assert search.doubtful({"turn-led": "works", "spare-lamp": "right", "led-drop": "high"}) == ()


def test_what_was_mended_counts() -> None:
    """Mended and as it was, it is not told again, and what else it may be is asked for; mended and it works, that was it."""
    answers: dict[str, str | None] = {"turn-led": "works", "spare-lamp": "right", "led-drop": "high"}
    search = Search(WAYS[EXIT], KNOWN, "links-nothing", mended={"mended-led-turned"})
    assert search.ending(answers) == "found"
    as_before = {**answers, "mended-led-turned": "as before"}
    shares = search.shares(as_before)
    assert max(shares, key=lambda it: shares[it]) != "led-turned"
    assert search.next(as_before) is not None
    assert search.minutes(as_before) == search.minutes(answers) + KNOWN.test["mended-led-turned"].minutes
    works = search.shares({"mended-led-turned": "works"})
    assert works["led-turned"] > 0.9
    unlikely = {**answers, "mended-program-none": "works"}
    other = Search(WAYS[EXIT], KNOWN, "links-nothing", mended={"mended-program-none"})
    assert other.worked(unlikely) == "program-none"
    assert other.ending(unlikely) == "found"
    assert other.next(unlikely) is None
    with pytest.raises(OutOfRange, match="mended-led-turned"):
        search.shares({"mended-led-turned": "perhaps"})


def test_what_is_not_known_is_refused() -> None:
    with pytest.raises(OutOfRange, match="symptom"):
        Search(WAYS[EXIT], KNOWN, "haunted")
    with pytest.raises(OutOfRange, match="turn-led"):
        Search(WAYS[EXIT], KNOWN, "dark").shares({"turn-led": "perhaps"})
    # A test that has no place in this plan any more says nothing.
    assert Search(WAYS[EXIT], KNOWN, "dark").shares({"arrow": "towards"}) == Search(WAYS[EXIT], KNOWN, "dark").shares({})
