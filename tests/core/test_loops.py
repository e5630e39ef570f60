"""Programs that set each other off for ever: the verdict, against letting every word be said in the rehearsal."""

import random

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse
from tests.builders import findings_of, plan_with
from tests.core.test_findings import BOARDS_TALK
from tests.full import IS_PROOF

WORDS = {"go": "out", "on": "out", "ok": "back", "no": "back"}
PORTS: Document = {"nodes": {it: {"choice": {"part": "board-5v-70io"}} for it in ("board", "second")}}
LETTERS = {"go": "g", "on": "o", "ok": "k", "no": "n"}


def drawn(chance: random.Random) -> Document:
    """Up to four rules on two boards, each of which may say a word of either direction."""
    words = {name: {"sent": LETTERS[name], "direction": way} for name, way in WORDS.items()}
    rules = {}
    for at in range(chance.randint(1, 4)):
        host = chance.choice(["board", "second"])
        heard = chance.choice([it for it, way in WORDS.items() if (way == "out") == (host == "board")])
        said = [it for it, way in WORDS.items() if (way == "back") == (host == "board")]
        do = [{"verb": "say", "say": {"talk": "two", "word": it}} for it in chance.sample(said, chance.randint(0, 2))]
        rules[f"q{at}"] = {"host": host, "when": {"heard": heard}, "do": do}
    return {"vocabularies": {"words": {"words": {**words, "off": None}}}, "rules": {"r1": None, "r2": None, **rules}}


EACH = 8 if IS_PROOF else 1


@pytest.mark.parametrize("seed", range(0, 240 if IS_PROOF else EACH, EACH))
def test_what_never_comes_to_rest_is_told_and_nothing_else(seed: int) -> None:
    for number in range(seed, seed + EACH):
        plan = plan_with(BOARDS_TALK, PORTS, drawn(random.Random(number)))
        loops = [it for it in findings_of(plan) if it.code == "CMD-LOOP"]
        said = ([{"kind": "word", "t_s": 0, "talk": "two", "word": word}] for word in WORDS)
        is_wild = any(rehearse(plan, load_catalog(), read_events(events)).is_cut_short for events in said)
        assert bool(loops) == is_wild, (number, [it.message for it in loops])
        for finding in loops:
            for fix in finding.fixes:
                left = findings_of(edit_plan(plan, fix.patch))
                assert finding.key not in {it.key for it in left}, fix.label


def test_a_long_row_of_words_is_walked_once() -> None:
    """A thousand words, each of which sets off the next, and the last the first: one verdict, and no waiting for it."""
    count = 1000
    words = {f"w{at}": {"sent": f"{at:04}", "direction": "out" if at % 2 == 0 else "back"} for at in range(count)}
    rules = {
        f"q{at}": {
            "host": "board" if at % 2 == 0 else "second",
            "when": {"heard": f"w{at}"},
            "do": [{"verb": "say", "say": {"talk": "two", "word": f"w{(at + 1) % count}"}}],
        }
        for at in range(count)
    }
    gone: Document = {"vocabularies": {"words": {"framing": {"kind": "terminated"}, "words": {"on": None, "off": None, **words}}}}
    plan = plan_with(BOARDS_TALK, gone, {"rules": {"r1": None, "r2": None, **rules}})
    (finding,) = [it for it in findings_of(plan) if it.code == "CMD-LOOP"]
    assert finding.numbers == {"words": count}
