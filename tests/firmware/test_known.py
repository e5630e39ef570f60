"""Known answers of printed programs: codes of values below nothing, and the clock of 49.7 days inside a fade and a delay."""

import pytest

from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR
from tests.firmware.proof import WORD, Happening, Proof, design_of

CODES: dict[str, tuple[Document, bytes, bytes]] = {
    # -5 is 11 in 4 bits, 251 in 8, 65531 in 16: 2^n - 5; -8 in 4 bits is 8, which has no opposite. Arithmetic.
    "a": ({"written": "decimal", "bits": 4, "least": -8, "most": 7}, b"a11", b"a8"),
    "b": ({"written": "byte", "bits": 8, "least": -128, "most": 127}, b"b\xfb", b"b\x80"),
    "c": ({"written": "two-bytes", "bits": 16, "least": -300, "most": 300}, b"c\xff\xfb", b"c\xfe\xd4"),
    "d": ({"written": "two-bytes-little", "bits": 16, "least": -300, "most": 300}, b"d\xfb\xff", b"d\xd4\xfe"),
}
LEAST = {"a": b"-8", "b": b"-128", "c": b"-300", "d": b"-300"}


@pytest.fixture(scope="module")
def proof(tmp_path_factory: pytest.TempPathFactory) -> Proof:
    words = {
        name: {"sent": name + "{v}", "parameters": {"v": {"signed": "twos-complement", **how}}}
        for name, (how, _, _) in CODES.items()
    }
    told = {"sent": "T{v}", "direction": "back", "parameters": {"v": {"signed": "minus", "least": -300, "most": 300}}}
    say: Document = {"verb": "say", "say": {"talk": "main", "word": "told", "fill": {"v": "{v}"}}}
    rules = {f"says_{name}": {"host": "board", "when": {"heard": name}, "do": [say]} for name in CODES}
    fades = {"fades": {"host": "board", "when": {"heard": "on"}, "do": [
        {"verb": "level", "target": "lamp", "values": {"level": 0}},
        {"verb": "level", "target": "lamp", "values": {"level": 1, "over_s": 0.4}, "after_s": 0.3},
    ]}}  # fmt: skip
    whole = merge_patch(CLEAR, {
        "vocabularies": {"words": {"framing": {"kind": "gap", "gap_s": 0.02}, "words": {**words, "told": told}}},
        "rules": {"r1": None, **rules, **fades},
    })  # fmt: skip
    return Proof(design_of(whole), "board", tmp_path_factory.mktemp("known"))


def said(proof: Proof, content: bytes) -> bytes:
    events: list[Happening] = [(10 + at, "B", byte, 0) for at, byte in enumerate(content)]
    told, _ = proof.ran([*events, (200, "E", 0, 0)], proof.begun(0, {}))
    return b"".join(bytes(map(int, it.split()[3:])) for it in told if it.split()[1] == "S")


@pytest.mark.parametrize("name", CODES)
def test_twos_complement_is_read_as_it_is_meant(name: str, proof: Proof) -> None:
    _, of_minus_five, of_least = CODES[name]
    assert said(proof, of_minus_five) == b"T-5"
    assert said(proof, of_least) == b"T" + LEAST[name]


def test_what_no_value_has_is_no_word(proof: Proof) -> None:
    """16 in 4 bits, and 301 of at most 300."""
    assert said(proof, b"a16") == b""
    assert said(proof, b"c\x01\x2d") == b""


@pytest.mark.parametrize("before_ms", [150, 500])
def test_the_clock_runs_over_inside_a_delay_and_inside_a_fade(before_ms: int, proof: Proof) -> None:
    """2^32 ms are 49.7 days: half way through a fade of 0.4 s the lamp has half its duty, whether or not the clock began anew."""
    starts = WORD - before_ms
    on = proof.facts.links["serial"][0].words[0].content
    events: list[Happening] = [((starts + 10) % WORD, "B", byte, 0) for byte in on]
    told, _ = proof.ran([*events, ((starts + 1000) % WORD, "E", 0, 0)], proof.begun(starts, {}))
    shows = [((int(it.split()[0]) - starts) % WORD, int(it.split()[3])) for it in told if it.split()[1] == "P"]
    half = max(value for at, value in shows if at <= 10 + 20 + 300 + 200)
    assert half == pytest.approx(255 / 2, abs=7)
    assert shows[-1] == (pytest.approx(730, abs=11), 255)
