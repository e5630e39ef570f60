"""The fault finder and the practice bench over HTTP: a search told whole each time, a round by its number, what is odd refused in words."""

from typing import Any

import httpx
import pytest

from oddlamp.catalog.load import start_data
from tests.builders import EMPTY

PLAN = start_data("01-one-lamp")["plan"]


@pytest.fixture
def base(http: httpx.Client) -> str:
    return f"/api/projects/{http.post('/api/projects/import', json=PLAN).json()['id']}"


def why(http: httpx.Client, base: str, **asked: Any) -> Any:
    got = http.post(f"{base}/why", json=asked)
    assert got.status_code == 200, got.text
    return got.json()


def test_a_search_goes_on_with_each_answer(http: httpx.Client, base: str) -> None:
    begun = why(http, base)
    assert "links-nothing" in {it["id"] for it in begun["symptoms"]}
    assert begun["asked"] is None
    answers: list[dict[str, str | None]] = []
    first = shown = why(http, base, symptom="links-nothing")
    while shown["asked"] is not None:
        asked = shown["asked"]
        assert asked["why"]
        outcome = (
            "works" if asked["id"] == "turn-led" else "dark" if asked["id"] == "wiring-program" else asked["outcomes"][0]["id"]
        )
        answers.append({"test": asked["id"], "outcome": outcome})
        shown = why(http, base, symptom="links-nothing", answers=answers)
        assert [it["id"] for it in shown["answered"]] == [it["test"] for it in answers]
    assert shown["mend"]["mend"]
    assert "certain" not in shown["sentence"]
    assert all(it["share"] in ("less", *(f"{n} in 10" for n in range(1, 10))) for it in (*first["likely"], *shown["likely"]))
    assert shown["entry"]["text"].count("\n") == len(answers) + 1
    assert why(http, base, symptom="links-nothing") == first, "nothing of it is kept here"


def test_what_was_mended_is_an_answer(http: httpx.Client, base: str) -> None:
    """As it was: something else is likelier then. It works now: it was that, whatever the odds, and the log says fixed."""
    first = why(http, base, symptom="links-nothing")["likely"][0]
    as_before = {"test": first["test"], "outcome": "as before"}
    again = why(http, base, symptom="links-nothing", answers=[as_before])
    assert again["likely"][0]["id"] != first["id"]
    assert again["minutes"] == 3
    assert again["asked"] is not None
    last = again["likely"][-1]
    over = why(http, base, symptom="links-nothing", answers=[as_before, {"test": last["test"], "outcome": "works"}])
    assert over["asked"] is None
    assert over["mend"]["what"] == last["what"]
    assert over["mend"]["is_done"]
    assert over["entry"]["kind"] == "fixed"
    assert again["entry"]["kind"] == "fault"
    # What is no cause here is passed over, as a test is that has no place.
    assert why(http, base, symptom="links-nothing", answers=[{"test": "mended-gremlin", "outcome": "works"}])["asked"] is not None


def test_an_outcome_that_hardly_anything_gives_is_called_unusual(http: httpx.Client, base: str) -> None:
    answers: list[dict[str, str]] = []
    while (asked := why(http, base, symptom="links-nothing", answers=answers)["asked"])["id"] != "idle-module":
        answers.append({"test": asked["id"], "outcome": {"board-light": "on", "module-light": "as told"}[asked["id"]]})
    leads = {it["id"]: it["leads"] for it in asked["outcomes"]}
    assert leads["high"] == "unusual here: look once more"
    assert leads["nothing"].startswith("RX and TX")


def test_what_was_measured_in_the_bring_up_counts(http: httpx.Client, base: str) -> None:
    head = http.get(base).json()["revision"]
    measured = {"idle.serial.a_to_b": {"value": 0.01, "unit": "V", "taken_at": "2026-01-31T18:30:00Z"}}
    patch = {"bench": {"checked": {"mock_up": measured}}}
    assert http.post(f"{base}/edits", json={"base_revision": head, "patch": patch, "summary": "Measured"}).status_code == 200
    shown = why(http, base, symptom="links-nothing")
    assert [(it["id"], it["outcome"], it["is_measured"]) for it in shown["answered"]] == [("idle-board", "nothing", True)]
    assert shown["likely"][0]["id"] == "serial-swapped"
    # Answered otherwise, that counts.
    again = why(http, base, symptom="links-nothing", answers=[{"test": "idle-board", "outcome": "within"}])
    assert [it["outcome"] for it in again["answered"]] == ["within"]


def test_the_plan_as_it_stands_raises_odds_and_says_so(http: httpx.Client, base: str) -> None:
    shown = why(http, base, symptom="links-nothing")
    assert "bring-up has no reading" in shown["detail"]
    assert any("nobody has read the module back" in it["because"] for it in shown["likely"])


@pytest.mark.parametrize(
    ("asked", "field"),
    [
        ({"symptom": "haunted"}, "symptom"),
        ({"lamp": "sun"}, "lamp"),
        ({"symptom": "dark", "answers": [{"test": "turn-led", "outcome": "perhaps"}]}, "answers.turn-led"),
        ({"symptom": "dark", "lacking": ["luck"]}, "lacking.0"),
        ({"symptom": "x" * 500}, "symptom"),
        ({"symptom": "dark", "answers": [{"test": "turn-led"}] * 500}, "answers"),
        ({"symptom": "dark", "mood": "bad"}, "mood"),
    ],
)
def test_what_is_odd_is_refused(http: httpx.Client, base: str, asked: dict[str, Any], field: str) -> None:
    got = http.post(f"{base}/why", json=asked)
    assert got.status_code == 422
    assert field in got.text


def test_a_round_is_its_number_and_is_played_to_its_end(http: httpx.Client, base: str) -> None:
    asked: dict[str, Any] = {"of": "own", "level": 1, "seed": 7}
    begun = http.post(f"{base}/practice", json=asked).json()
    assert begun == http.post(f"{base}/practice", json=asked).json()
    red, black = begun["parts"][0]["points"][0]["id"], begun["parts"][1]["points"][0]["id"]
    probe = {"what": "volts", "red": red, "black": black}
    shown = http.post(f"{base}/practice/probe", json={**asked, "probe": probe}).json()
    assert shown["text"].endswith(" V")
    causes = [it["id"] for group in begun["groups"] for it in group["causes"]]
    probes = [probe]
    for cause in causes:
        probes.append({"what": "mend", "cause": cause})
        if http.post(f"{base}/practice/probe", json={**asked, "probe": probes[-1], "before": probes[:-1]}).json()["is_over"]:
            break
    over = http.post(f"{base}/practice/over", json={**asked, "probes": probes}).json()
    assert over["is_right"]
    assert over["minutes"] > over["best_minutes"] > 0
    assert len(over["probes"]) == len(probes)


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"of": "nowhere"}, "own, or"),
        ({"level": 9}, "level"),
        ({"seed": 0}, "seed"),
        ({"probe": {"what": "volts", "red": "a/b", "black": "c/d"}}, "two points"),
        ({"probe": {"what": "mend", "cause": "gremlin"}}, "a cause of this round"),
        ({"probe": {"what": "pray"}}, "volts, ohms, mend"),
    ],
)
def test_a_round_that_cannot_be_is_refused(http: httpx.Client, base: str, more: dict[str, Any], said: str) -> None:
    got = http.post(f"{base}/practice/probe", json={"of": "own", "level": 1, "seed": 1, "probe": {"what": "links"}, **more})
    assert got.status_code == 422
    assert said in got.text


def test_a_plan_with_nothing_to_break_says_so(http: httpx.Client) -> None:
    empty = f"/api/projects/{http.post('/api/projects/import', json=EMPTY).json()['id']}"
    assert why(http, empty)["left_out"] == "There is no lamp in this plan yet."
    got = http.post(f"{empty}/practice", json={"of": "own", "level": 1, "seed": 1})
    assert got.status_code == 422
    assert "a demo, or a starting point" in got.text
    assert http.post(f"{empty}/practice", json={"of": "foyer-star", "level": 1, "seed": 1}).status_code == 200
    assert http.get(f"{empty}/practice/plans").json()[0]["id"] == "own"
