"""A module that is told everything by commands: the printed program against the stand-in that has the family's ways, line by line."""

import random
import subprocess
from pathlib import Path

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.stand_in import Said, StandIn
from oddlamp.core.modules.uart import Port
from oddlamp.core.plan.document import Document, merge_patch
from tests.builders import CLEAR
from tests.core.test_modules_on_the_line import REPLY, WIFI
from tests.firmware.drawn import drawn_whole
from tests.firmware.proof import Happening, Proof, compare, design_of
from tests.full import IS_PROOF

E = load_catalog().dialects["family-e"]
LOSES: Document = {
    "rules": {"gone": {"host": "board", "when": {"link": "air", "event": "link-lost"}, "do": [{"verb": "off", "target": "lamp"}]}}
}
BEGINS_MS = 600


class Bench:
    """The compiled program and the stand-in on one wire, a millisecond at a time."""

    def __init__(self, proof: Proof) -> None:
        self.proof = proof
        self.link = next(iter(proof.facts.links))
        self.speed_bd = round(proof.design.wires[self.link].baud.known)
        self.module = StandIn(E, {"speed": self.speed_bd, "mode": 2})
        self.due: list[Said] = list(self.module.power(-60.0, is_on=True))
        self.to_phone: list[bytes] = []
        self.to_module = b""
        self.heard: list[Happening] = []
        self.told: list[str] = []
        self.own: list[Happening] = []
        self.runs = subprocess.Popen([proof.made], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        self._tell(*proof.begun(0, {}))

    def _tell(self, *lines: str) -> None:
        assert self.runs.stdin is not None
        self.runs.stdin.write("\n".join(lines) + "\n")

    def _took(self, now_s: float, said: list[Said]) -> None:
        self.to_phone += [it.content for it in said if it.to == "air"]
        self.due += [it for it in said if it.to == "wire" and it.speed_bd == self.speed_bd]

    def run(self, at_ms: int, phone: dict[int, bytes], others: list[Happening], deeds: dict[int, str]) -> None:
        """Let both run for so long; what a phone sends when, and what befalls the module."""
        for now in range(at_ms):
            now_s = now / 1000
            if deeds.get(now) in ("link", "leave"):
                self._took(now_s, self.module.link(now_s, is_there=deeds[now] == "link"))
            if deeds.get(now) == "restart":
                self._took(now_s, self.module.power(now_s, is_on=False))
                self._took(now_s, self.module.power(now_s, is_on=True))
            if now in phone:
                self._took(now_s, self.module.hear_air(now_s, phone[now]))
            ready, self.due = [it for it in self.due if it.at_s <= now_s], [it for it in self.due if it.at_s > now_s]
            for it in ready:
                self._tell(*(f"{now} B {byte} 0 0" for byte in it.content))
                carried = it.content[len(it.content) - it.carried :] if it.carried else b""
                self.heard += [(now, "B", byte, 0) for byte in carried]
            for it in others:
                if it[0] == now:
                    self._tell(" ".join(map(str, it)) + " 0")
            self._tell(f"{now + 1} Y 0 0 0")
            self._read(now)
        assert self.runs.stdin is not None
        self.runs.stdin.close()
        assert self.runs.wait() == 0

    def _read(self, now: int) -> None:
        assert self.runs.stdin is not None
        assert self.runs.stdout is not None
        self.runs.stdin.flush()
        for line in self.runs.stdout:
            parts = line.split()
            if parts[1] == "Y":
                return
            if parts[1] == "S" and parts[2] == "0":
                content = bytes(map(int, parts[3:]))
                self.to_module += content
                self._took(now / 1000, self.module.hear_at(now / 1000, content, Port(self.speed_bd)))
            else:
                self.told.append(line.strip())


def test_start_lines_are_said_until_they_are_taken_and_again_after_a_restart(tmp_path: Path) -> None:
    """Who was linked is gone with the module's restart, and is let in again once it has been told all of it again."""
    bench = Bench(Proof(design_of(merge_patch(merge_patch(merge_patch(CLEAR, WIFI), REPLY), LOSES)), "board", tmp_path))
    bench.run(4000, {700: b"1", 2600: b"0", 3500: b"1"}, [], {BEGINS_MS: "link", 1000: "restart", 3000: "link"})
    lines = bench.to_module.split(b"\r\n")
    assert lines[:4] == [b"ATE0", b"AT+CIPMUX=1", b"AT+CIPSERVER=1,333", b"AT+CIPSTO=7200"]
    assert [it for it in lines if it.startswith(b"AT+CIPMUX")] == [b"AT+CIPMUX=1"] * 2
    assert bench.to_phone == [b"L", b"L"]
    shows = [(int(it.split()[0]), int(it.split()[3])) for it in bench.told if it.split()[1] == "P"]
    assert [bool(value) for _, value in shows] == [False, True, False, True]
    assert shows[1][0] == 700
    assert 1000 < shows[2][0] < 2600


def test_a_module_that_never_answers_is_asked_again(tmp_path: Path) -> None:
    """It may come later, or have power of its own: the first line is said every 2 s until something answers; nothing waits for it."""
    proof = Proof(design_of(merge_patch(CLEAR, WIFI)), "board", tmp_path)
    told, _ = proof.ran([(5000, "E", 0, 0)], proof.begun(0, {}))
    said = b"".join(bytes(map(int, it.split()[3:])) for it in told if it.split()[1] == "S")
    assert said == b"ATE0\r\n" * 3


@pytest.mark.parametrize("seed", range(20 if IS_PROOF else 1))
def test_words_and_answers_run_as_they_were_rehearsed(seed: int, tmp_path: Path) -> None:
    """Drawn words through the module's wrapping: pins at every millisecond, and each answer, in its order, with the phone."""
    rng = random.Random(1000 + seed)
    whole = merge_patch(drawn_whole(rng), {**WIFI, "signals": {"radio.state": None, "radio.enable": None, "radio.reset": None}})
    bench = Bench(Proof(design_of(whole), "board", tmp_path))
    vocabulary = bench.proof.design.talks["main"].vocabulary
    out = [it for it in vocabulary.words if it.direction == "out"]
    phone, others, at = dict[int, bytes](), list[Happening](), BEGINS_MS + 50
    while at < 3500:
        word = rng.choice(out)
        values = {it.id: "Hi" if it.written == "text" else rng.randint(it.field.least, it.field.most) for it in word.parameters}
        phone[at] = rng.choice([word.built(values) + vocabulary.terminator, rng.randbytes(3), b"+IPD,0,5:"])
        if bench.proof.input_pin and rng.random() < 0.3:
            key = rng.choice(list(bench.proof.input_pin))
            is_turned = bench.proof.program.inputs[key].kind == "turned"
            others.append(bench.proof.put(at + 3, key, rng.randrange(1024) if is_turned else rng.randint(0, 1)))
        at += rng.choice([90, 150, 400])
    bench.run(5000, phone, others, {BEGINS_MS: "link"})
    comes: list[Happening] = [(BEGINS_MS, "J", 0, 0)] if bench.proof.by_message else []
    events = sorted([*comes, *bench.heard, *others, (4999, "E", 0, 0)], key=lambda it: it[0])
    lines, _ = bench.proof.meant(events, 0, {})
    said = [it for it in lines if it.split()[1:3] == ["S", "0"]]
    compare(bench.told, [it for it in lines if it not in said])
    assert bench.to_phone == [bytes(map(int, it.split()[3:])) for it in said if int(it.split()[0]) > BEGINS_MS]
