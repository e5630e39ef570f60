"""Printed programs on a simulated chip, cycle by cycle: demos and drawn ones, each in the time a hand takes."""

import random
import re
from pathlib import Path

import pytest

from oddlamp.catalog.load import demo_plan, start_data, start_names
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.errors import NotPrinted
from oddlamp.core.firmware.printing import print_program
from oddlamp.core.plan.document import Document, merge_patch
from oddlamp.core.rehearsal.buffers import Buffers
from tests.builders import CLEAR
from tests.core.test_modules_on_the_line import REPLY, WIFI
from tests.firmware.chipped import CHIPS, CYCLES_MS, Chip, agree_on_chip, baseline, compiled, compiled_size, said
from tests.firmware.drawn import drawn_for_chip, drawn_whole
from tests.firmware.proof import Happening, Proof, design_of
from tests.firmware.test_printed import CLOCKED, SENSED
from tests.full import IS_PROOF

ENDS_MS = 3000
SHOWN = ("05-knob-and-phone",)
NAMES = [it for it in start_names() if IS_PROOF or it in SHOWN]
ERRORS = (0.0, 0.012, -0.012)  # of both clocks together: what a resonator and a module may be apart, from memory


def course(rng: random.Random, chip: Chip) -> tuple[list[tuple[float, bytes]], list[Happening]]:
    """Words a hand apart, and inputs moved in between."""
    (hears,) = [it[0] for it in chip.proof.facts.links.values()][:1]
    ending, byte_ms = hears.talk.vocabulary.terminator, 10_000 / chip.speed_bd
    words, moves, at = list[tuple[float, bytes]](), list[Happening](), 105
    while at < ENDS_MS - 700:
        # In the middle between two steps of a fade that the one before began: a millisecond more or less changes nothing then.
        at += 10 * rng.randint(9, 50) + 5
        if chip.proof.input_pin and rng.random() < 0.4:
            key = rng.choice(list(chip.proof.input_pin))
            is_turned = chip.proof.program.inputs[key].kind == "turned"
            moves.append(chip.proof.put(at, key, rng.randrange(1024) if is_turned else rng.randint(0, 1)))
            continue
        word = rng.choice(hears.words)
        values = {
            it.id: "Hello" if it.written == "text" else rng.randint(it.field.least, it.field.most) for it in word.parameters
        }
        content = word.built(values) + ending
        words.append((at - 0.5 - len(content) * byte_ms, content))
    return words, moves


def on_chip(whole: Document, tmp_path: Path, rng: random.Random) -> int:
    design, count = design_of(whole), 0
    for host, node in design.nodes.items():
        if node.node.kind != "board" or node.part is None or node.part.id not in CHIPS:
            continue
        folder = tmp_path / host
        folder.mkdir()
        chip = Chip(Proof(design, host, folder), folder)
        words, moves = course(rng, chip)
        count += agree_on_chip(chip, words, moves, ENDS_MS, rng.choice(ERRORS))
    return count


@pytest.mark.parametrize("name", NAMES)
def test_a_starting_point_on_its_chip_does_what_was_rehearsed(name: str, tmp_path: Path) -> None:
    whole = dict(start_data(name)["plan"])
    if not any(it["kind"] == "board" for it in whole["nodes"].values()):
        pytest.skip("it has no board")
    if not any((it.get("choice") or {}).get("part") in CHIPS for it in whole["nodes"].values()):
        pytest.skip("its board has no 8-bit chip")
    assert on_chip(whole, tmp_path, random.Random(name)) > 2


def test_the_demo_on_its_chip_writes_its_pixels_in_time(tmp_path: Path) -> None:
    assert on_chip(demo_plan("paper-moon"), tmp_path, random.Random(3)) > 20


@pytest.mark.parametrize("seed", range(40 if IS_PROOF else 0))
def test_a_drawn_program_on_its_chip_does_what_was_rehearsed(seed: int, tmp_path: Path) -> None:
    rng = random.Random(seed)
    on_chip(drawn_for_chip(rng), tmp_path, rng)


@pytest.mark.parametrize("seed", range(60 if IS_PROOF else 1))
def test_drawn_programs_compile_clean_for_the_chip(seed: int, tmp_path: Path) -> None:
    """With chips beside the board, codes, displays and all: no warning in 16-bit `int` either."""
    proof = Proof(design_of(drawn_whole(random.Random(seed))), "board", tmp_path)
    assert compiled(proof, tmp_path).stat().st_size > 1000


def is_as_large_as_estimated(proof: Proof, folder: Path) -> None:
    printed, part = print_program(proof.design, proof.program), proof.design.nodes["board"].part
    assert part is not None
    assert printed.sizes is not None
    flash, memory = compiled_size(printed, CHIPS[part.id], folder)
    port = baseline(printed, CHIPS[part.id])
    assert printed.sizes.flash.own == pytest.approx(flash - port[0], rel=0.1)
    assert printed.sizes.memory.own == pytest.approx(memory - port[1], rel=0.1, abs=16)


@pytest.mark.parametrize(
    "whole", [merge_patch(merge_patch(CLEAR, WIFI), REPLY), SENSED, CLOCKED], ids=["wrapped words", "one line", "a clock chip"]
)
def test_programs_that_speak_to_modules_sensors_and_clocks_compile_clean_for_the_chip(whole: Document, tmp_path: Path) -> None:
    """And are as large as was estimated: flash and memory within a tenth of the compiler's."""
    proof = Proof(design_of(whole), "board", tmp_path)
    assert compiled(proof, tmp_path).exists()
    is_as_large_as_estimated(proof, tmp_path)


@pytest.mark.parametrize("seed", range(40 if IS_PROOF else 1))
def test_our_part_of_a_program_is_as_large_as_was_estimated(seed: int, tmp_path: Path) -> None:
    """Drawn programs that were not among those the weights come from: flash and memory within a tenth of the compiler's."""
    whole = (drawn_whole if seed % 2 else drawn_for_chip)(random.Random(50_000 + seed))
    is_as_large_as_estimated(Proof(design_of(whole), "board", tmp_path), tmp_path)


def test_more_pixels_than_there_is_memory_for_are_refused_with_how_much() -> None:
    lamps: Document = {"strip": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 5000}]}}}
    design = design_of(merge_patch(CLEAR, {"lamps": lamps}))
    with pytest.raises(NotPrinted) as refused:
        print_program(design, program_of(design, "board"))
    assert re.fullmatch(
        r"a board with 1[56]\d{3} bytes of memory, with the package's own: this one has 2048",
        str(refused.value.problems[0].allowed),
    )


DEAF: Document = merge_patch(
    CLEAR,
    {
        "nodes": {"board": {"choice": {"part": "board-5v-70io"}}},
        "links": {"serial": {"baud_rate_bd": 115_200}},
        "lamps": {"chain": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 60}]}}},
        "vocabularies": {"words": {"words": {"u": {"sent": "u"}, "p": {"sent": "p"}, "k": {"sent": "k", "direction": "back"}}}},
        "rules": {
            "u": {"host": "board", "when": {"heard": "u"}, "do": [{"verb": "say", "say": {"talk": "main", "word": "k"}}]},
            "p": {"host": "board", "when": {"heard": "p"}, "do": [{"verb": "toggle", "target": "chain"}]},
        },
    },
)


def test_bytes_that_come_while_pixels_are_written_are_lost_as_the_rehearsal_says(tmp_path: Path) -> None:
    """60 pixels take 1.8 ms: of what ends in that time the port keeps two bytes and the one arriving. Each word heard is answered."""
    chip = Chip(Proof(design_of(DEAF), "board", tmp_path), tmp_path)
    byte_ms, (pin,) = 10_000 / chip.speed_bd, chip.chains

    def written(*words: tuple[float, bytes]) -> tuple[list[str], float, float]:
        """What it told, and from when to when it wrote after the word that has it write, ms."""
        lines, _ = chip.run([(200.3, b"p"), *words], [], 400)
        edges = [int(line.split()[0]) / CYCLES_MS for line in lines if line.split()[1:3] == ["E", str(chip.pin(pin))]]
        after = [it for it in edges if it > 200]
        return lines, after[0], after[-1]

    for count in (2, 3, 12, 40):
        at_ms = written()[1] + 0.05
        lines, from_ms, until_ms = written((at_ms, b"u" * count))
        buffers = Buffers((), wary={"board"})
        buffers.deafen("board", from_ms / 1000, until_ms / 1000)
        ends_s = [(at_ms + (place + 1) * byte_ms) / 1000 for place in range(count)]
        arrived = [
            buffers.arrive("board", "serial", t_s, byte_ms / 1000, ord("u"), is_followed=place + 1 < count)
            for place, t_s in enumerate(ends_s)
        ]
        heard = sum(it.lost_because is None for it in arrived)
        assert said(lines, chip) == b"k" * heard
        assert (heard < count) is (count > 3)
        assert len([it for it in lines if it.split()[1] == "O"]) == count - heard
