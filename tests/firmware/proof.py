"""The proof of a printed program: it is compiled for a board of the tests, and compared with the machine pass by pass."""

import atexit
import random
import shutil
import subprocess
import tempfile
from collections.abc import Iterable, Mapping
from functools import cache, cached_property
from itertools import zip_longest
from pathlib import Path
from typing import Any

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.framing import UNKNOWN, Parser, parser_of
from oddlamp.core.behaviour.lamps import LampState
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.program import Program, Say
from oddlamp.core.behaviour.stage import Came
from oddlamp.core.behaviour.tables import ms_of
from oddlamp.core.design.design import Design
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.firmware.printing import print_program
from oddlamp.core.layouts.can import face_of
from oddlamp.core.layouts.signs import lit, module_rows, step_at
from oddlamp.core.plan.document import Document, load_plan
from oddlamp.core.resolve.resolve import resolve
from tests.firmware.radioed import Radio
from tests.full import IS_PROOF

HERE = Path(__file__).parent
FLAGS = ("-std=c++11", "-O1" if IS_PROOF else "-O0", "-Wall", "-Wextra", "-Wconversion", "-Werror")
# They double the time: in the proof all programs have them, else the drawn ones and those that are fed noise.
SANITIZERS = ("-fsanitize=undefined,address", "-fno-sanitize-recover=all")
Happening = tuple[int, str, int, int]
WORD = 2**32
ROWS = 8


def design_of(whole: Document) -> Design:
    return resolve(load_plan(whole), load_catalog())


@cache
def board(*, is_sanitized: bool, is_served: bool = False) -> Path:
    """Compile the board of the tests: by itself, once for all programs, for it is larger than most of them."""
    made = Path(tempfile.mkdtemp(prefix="board-")) / "board.o"
    atexit.register(shutil.rmtree, made.parent, ignore_errors=True)
    compile_clean("-c", HERE / "board.cpp", "-o", made, *(["-DLOOPBACK"] if is_served else []), is_sanitized=is_sanitized)
    return made


def compile_clean(*what: str | Path, is_sanitized: bool) -> None:
    """Run the compiler, with all warnings as errors."""
    command = ["g++", *FLAGS, *(SANITIZERS if is_sanitized else ()), *what]
    done = subprocess.run(command, check=False, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[:3000]


def built(
    printed: str, folder: Path, *, fault: tuple[str, str] = ("", ""), is_sanitized: bool = IS_PROOF, is_served: bool = False
) -> Path:
    """Compile a program for the tests' board; with a fault planted where one is given."""
    assert fault[0] in printed
    program = printed.replace(*fault, 1) if fault[0] else printed
    sets = "set_clock(it);" if "void set_clock(" in printed else "(void)it;"
    (folder / "whole.cpp").write_text(f"{program}\nvoid set_time(uint32_t it) {{ {sets} }}\n")
    whole, made = folder / "whole.cpp", folder / "program"
    compile_clean(
        f"-I{HERE}", "-o", made, whole, board(is_sanitized=is_sanitized, is_served=is_served), is_sanitized=is_sanitized
    )
    return made


class Proof:
    """One host's program: printed, compiled, and the machine that is its measure."""

    def __init__(
        self, design: Design, host: str, folder: Path, fault: tuple[str, str] = ("", ""), *, is_sanitized: bool = IS_PROOF
    ) -> None:
        self.design, self.host = design, host
        self.folder, self.fault, self.is_sanitized = folder, fault, is_sanitized
        self.program: Program = program_of(design, host)
        self.printed, self.header = print_program(design, self.program)[:2]
        self.facts = Facts(design, self.program)
        self.all = self.facts.all()
        numbers = {
            it["name"]: int(it["pin"].replace("A", "")) + (54 if it["pin"].startswith("A") else 0) for it in self.all["pins_told"]
        }
        self.number = lambda name: int(name) if name.isdigit() else numbers[name]
        self.radio = Radio(self.all["radio"]) if self.all["radio"] else None
        for name, text in print_program(design, self.program).more.items():
            (folder / name).write_text(text)
        self.input_pin = {it["key"]: (self.number(it["pin"]), it["is_low"]) for it in self.all["inputs"]}
        self.by_pin = {pin: key for key, (pin, _) in self.input_pin.items()}
        told = [it["commands"] for it in self.all["ears"] if it["commands"] is not None and it["commands"]["is_loss_told"]]
        self.by_message = told[0]["link"] if told else ""
        self.state_pin = {it["air"]: self.number(it["pin"]) for it in self.all["states"]}

    @cached_property
    def made(self) -> Path:
        """The program, compiled when it is first asked for: what runs on a chip needs no other."""
        return built(self.printed, self.folder, fault=self.fault, is_sanitized=self.is_sanitized)

    # What happens, as lines for the program

    def begun(self, starts: int, levels: Mapping[str, int], memory: Iterable[tuple[int, int]] = ()) -> list[str]:
        lines = [f"{starts} T 0 0 0", *(f"{starts} R {at} {byte} 0" for at, byte in memory)]
        for key, (pin, is_low) in self.input_pin.items():
            is_contact = self.program.inputs[key].kind != "turned"
            level = levels.get(key, 0)
            lines.append(f"{starts} L {pin} {int(bool(level) != is_low) if is_contact else level} 0")
        lines += [f"{starts} L {pin} 1 0" for pin in self.state_pin.values()]
        for it in self.all["chains"]:
            if it["is_clocked"]:
                lines.append(f"{starts} X {self.number(it['data'])} {self.number(it['clock'])} -1")
        lines += [f"{starts} X {self.number(it['pin'])} -2 -1" for it in self.all["senders"]]
        for it in self.all["panels"]:
            lines.append(f"{starts} X {self.number(it['data'])} {self.number(it['clock'])} {self.number(it['select'])}")
        return lines

    def put(self, at: int, key: str, level: int) -> Happening:
        """An input is put to a level: its pin may be low then."""
        pin, is_low = self.input_pin[key]
        is_contact = self.program.inputs[key].kind != "turned"
        return at, "L", pin, int(bool(level) != is_low) if is_contact else level

    def ran(self, events: list[Happening], begun: list[str]) -> tuple[list[str], list[tuple[int, int]]]:
        """Run it; what it told, line by line, and what stands in its memory at the end."""
        lines = [*begun, *(f"{at} {what} {a} {b} 0" for at, what, a, b in self._by_radio(events, int(begun[0].split()[0])))]
        done = subprocess.run([self.made], input="\n".join(lines) + "\n", check=False, capture_output=True, text=True)
        if done.returncode:
            raise Differs(done.stderr[:2000])
        told = done.stdout.splitlines()
        memory = [(int(parts[2]), int(parts[3])) for it in told if (parts := it.split())[1] == "R"]
        told = [it for it in told if it.split()[1] != "R"]
        if self.radio is not None:
            told = [it for line in told for it in self.radio.heard(line, self.all["radio"]["lines"][0]["port_at"])]
        return told, memory

    def _by_radio(self, events: list[Happening], starts: int) -> list[Happening]:
        """Put what comes to the port of the radio as it comes over its line: the phone is there from the beginning."""
        if self.radio is None:
            return events
        self.radio = Radio(self.all["radio"])
        port = self.all["radio"]["lines"][0]["port_at"]
        found = self.radio.called(starts)
        for it in events:
            found += self.radio.said(it[0], it[2]) if it[1] == "B" and it[3] == port else [it]
        return found

    def meant(
        self, events: list[Happening], starts: int, levels: Mapping[str, int], record: Mapping[str, LampState] | None = None
    ) -> tuple[list[str], Machine]:
        """What the machine makes of the same."""
        machine = Machine(self.program, starts_at_ms=starts)
        machine.start(dict(levels), record, starts)
        told = Told(self, starts)
        ears = [Ear(self, at, them[0]) for at, them in enumerate(self.facts.links.values())]
        by_state = {pin: air for air, pin in self.state_pin.items()}
        linked = dict.fromkeys(by_state, 1)
        waiting, now = list(events), starts
        while waiting:
            came, unknown, moved, links = list[Came](), list[tuple[int, str]](), list[tuple[str, int, int]](), list[Came]()
            clock: int | None = None
            codes = list[Came]()
            while waiting and waiting[0][0] == now:
                _, what, a, b = waiting.pop(0)
                if what == "B":
                    ears[b].take(a, now)
                elif what == "L" and a in by_state:
                    if linked[a] != b:
                        linked[a] = b
                        links.append(Came(("link", by_state[a], "back" if b else "lost")))
                elif what == "L":
                    key = self.by_pin[a]
                    is_contact = self.program.inputs[key].kind != "turned"
                    moved.append((key, int(b != int(self.input_pin[key][1])) if is_contact else b, 10_000))
                elif what == "I":
                    codes += [Came(("heard", word), values) for code, word, values in self.codes() if code == a]
                elif what == "K":
                    clock = a
                elif what == "J":  # a module tells that somebody has come
                    links.append(Came(("link", self.by_message, "back")))
            if self.radio is not None and self.all["radio"]["is_loss_told"] and now == self.radio.linked_at(starts):
                links.append(Came(("link", self.all["radio"]["lines"][0]["link"], "back")))
            for ear in ears:
                ear.be_quiet(now)
            for item in [*links, *(it for ear in ears for it in ear.found), *codes]:
                if isinstance(item, Came):
                    came.append(item._replace(tag=len(came) + len(unknown) + 1))
                else:
                    unknown.append((len(came) + len(unknown) + 1, item))
            for ear in ears:
                ear.found.clear()
            machine.run(now, came, moved)
            told.passed(now, machine, unknown)
            if clock is not None:
                machine.set_clock(clock)
            now = (now + 1) % WORD
        return told.lines, machine

    def codes(self) -> list[tuple[int, str, dict[str, Any]]]:
        found = []
        for handset in self.design.handsets.values():
            for control in handset.controls:
                if control.kind == "key" and control.code is not None and handset.receiver is not None:
                    word = control.says["press"][1]
                    fill = {name: round(float(it)) for name, it in control.fills.get("press", {}).items()}
                    found.append((control.code, word, fill))
        return found


class Ear:
    """What a port makes of its bytes, by the parser of the rehearsal."""

    def __init__(self, proof: Proof, at: int, hears: Any) -> None:
        vocabulary = hears.talk.vocabulary
        self.parser: Parser = parser_of(vocabulary, hears.direction)
        self.answer = f"S {at} " + " ".join(map(str, UNKNOWN + vocabulary.terminator)) if vocabulary.answers_unknown else ""
        self.gap_ms = ms_of(vocabulary.gap.known) if vocabulary.gap is not None else None
        self.found: list[Came | str] = []
        self.last = 0

    def take(self, byte: int, now: int) -> None:
        self.last = now if not self.parser.passes_over(byte) else self.last
        self._note([it for _, it in self.parser.feed(bytes((byte,)))])

    def be_quiet(self, now: int) -> None:
        if self.gap_ms is not None and self.parser.pending and (now - self.last) % WORD >= self.gap_ms:
            heard = self.parser.end()
            self._note([heard] if heard is not None else [])

    def _note(self, heard: list[Any]) -> None:
        for it in heard:
            if it.word is not None:
                self.found.append(Came(("heard", it.word.id), it.values))
            elif self.answer:
                self.found.append(self.answer)


class Told:
    """What the machine shows and says, as the program tells it."""

    def __init__(self, proof: Proof, starts: int) -> None:
        self.proof, self.lines = proof, list[str]()
        self.shows: dict[int, int] = {}
        self.sends: dict[str, tuple[int, int | None]] = {}
        self.rows: dict[str, tuple[tuple[int, ...], ...]] = {}
        self.texts: dict[str, Any] = {}
        for it in proof.all["pins"]:
            is_dimmed = it["kind"].endswith("DIMMED")
            number = self._pin(it)
            off = (it["top"] if is_dimmed else 1) if it["is_inverted"] else 0
            at_first = off if it["kind"].startswith("CHIP") else int(it["is_inverted"])
            self._tell(starts, number, at_first)
            self.shows[number] = off
        for it in proof.all["held"]:
            self._tell(starts, proof.number(it["pin"]), int(it["level"] == "HIGH"))
        for it in proof.all["chains"]:
            if not it["is_clocked"]:
                self._tell(starts, proof.number(it["data"]), 0)
        for it in proof.all["panels"]:
            data, count = proof.number(it["data"]), it["count"]
            first = [(0x0F, 0), (0x09, 0), (0x0B, 7), (0x0A, 7), *((row + 1, 0) for row in range(ROWS)), (0x0C, 1)]
            self.lines += [f"{starts} M {data} " + f"{what:02x}{value:02x}" * count for what, value in first]
            self.rows[it["id"]] = ((0,) * ROWS,) * count

    def _pin(self, it: Mapping[str, Any]) -> int:
        return 1000 + int(it["pin"]) if it["kind"].startswith("CHIP") else self.proof.number(it["pin"])

    def _tell(self, now: int, pin: int, value: int) -> None:
        if self.shows.get(pin) != value:
            self.shows[pin] = value
            self.lines.append(f"{now} P {pin} {value}")

    def passed(self, now: int, machine: Machine, unknown: list[tuple[int, str]]) -> None:
        proof, program, design = self.proof, self.proof.program, self.proof.design
        said = [(tag, line) for tag, line in unknown]
        for done in machine.done:
            if isinstance(done.step, Say):
                vocabulary = design.talks[done.step.talk].vocabulary
                content = vocabulary.word(done.step.word).built(done.said) + vocabulary.terminator
                said.append((done.tag or 10**9, f"S {proof.facts.ports[done.step.talk]} " + " ".join(map(str, content))))
        self.lines += [f"{now} {line}" for _, line in sorted(said, key=lambda it: it[0])]
        for it in proof.all["pins"]:
            name = it["lamp"].removeprefix("LAMP_").lower()
            lamp, spec = machine.lamps[name], program.lamps[name]
            duty = spec.shown(lamp.light(now)[it["light"]])
            duty = 255 - duty if it["is_inverted"] else duty
            if it["kind"] in ("DIMMED", "CHIP_DIMMED"):
                value = (2 * duty * it["top"] + 255) // 510
            elif it["kind"] == "SOUNDS" and duty >= 128:
                value = lamp.state.pitch_hz or it["top"] or 1
            else:
                value = int(duty >= 128)
            self._tell(now, self._pin(it), value)
        for it in proof.all["chains"]:
            if it["id"] in machine.outputs.written:
                light = [program.lamps[it["id"]].shown(one) for one in machine.outputs.shown[it["id"]][0]]
                pixels = [[light[at + one] for one in it["order"]] for at in range(0, len(light), 3)]
                if it["is_clocked"]:
                    framed = bytes(4) + b"".join(bytes((0xFF, *one)) for one in pixels) + bytes(len(pixels) // 16 + 1)
                    self.lines.append(f"{now} K {proof.number(it['data'])} {framed.hex()}")
                else:
                    self.lines.append(f"{now} W {proof.number(it['data'])} {b''.join(map(bytes, pixels)).hex()}")
        for it in proof.all["senders"]:
            lamp = machine.lamps[it["id"]]
            sends = (lamp.queue[0], lamp.sends_until_ms) if lamp.queue else (0, None)
            if lamp.queue and sends != self.sends.get(it["id"]):
                self.lines.append(f"{now} C {proof.number(it['pin'])} {lamp.queue[0]}")
            self.sends[it["id"]] = sends
        for it in proof.all["panels"]:
            self._panel(now, machine, it)

    def _panel(self, now: int, machine: Machine, it: Mapping[str, Any]) -> None:
        plan: Any = self.proof.design.plan.lamps[it["id"]]
        lamp, face = machine.lamps[it["id"]], face_of(plan)
        assert face is not None
        text, manner = lamp.text, lamp.state.manner
        step = step_at(face, text, manner.column_ms, (now - lamp.told_ms) % WORD) if text else 0
        if self.texts.get(it["id"]) == (text, manner, step):
            return
        self.texts[it["id"]] = text, manner, step
        rows = module_rows(it["count"], plan.panel, lit(face, text, manner, step) if text else frozenset())
        for row in range(ROWS):
            if any(one[row] != other[row] for one, other in zip(rows, self.rows[it["id"]], strict=True)):
                sent = "".join(f"{row + 1:02x}{one[row]:02x}" for one in reversed(rows))
                self.lines.append(f"{now} M {self.proof.number(it['data'])} {sent}")
        self.rows[it["id"]] = rows


def in_order(lines: list[str]) -> list[str]:
    """Sort what is told within each pass by its kind and pin: in which order pins are written there means nothing."""
    found, group, at = list[str](), list[str](), ""
    for line in [*lines, ""]:
        now = line.partition(" ")[0]
        if now != at:
            found += sorted(group, key=lambda it: it.split()[1:2] if it.split()[1] == "S" else it.split()[1:3])
            group, at = [], now
        group.append(line)
    return found


def agree(proof: Proof, events: list[Happening], starts: int, levels: Mapping[str, int] | None = None) -> Machine:
    """Hold the program to the machine: every pin, pixel, dot, code and byte, at every millisecond."""
    told, _ = proof.ran(events, proof.begun(starts, levels or {}))
    wanted, machine = proof.meant(events, starts, levels or {})
    compare(told, wanted)
    return machine


def compare(told: list[str], wanted: list[str]) -> None:
    """Raise where the program tells something else than the machine, with what stood around the first difference."""
    one, other = in_order(told), in_order(wanted)
    at = next((at for at, (mine, theirs) in enumerate(zip_longest(one, other)) if mine != theirs), None)
    if at is not None:
        raise Differs(f"told {one[max(at - 2, 0) : at + 3]}, wanted {other[max(at - 2, 0) : at + 3]}")


class Differs(AssertionError):
    """A program does something else than its machine."""


def spread(rng: random.Random, content: bytes, port: int, at: int, starts: int) -> list[Happening]:
    """Bytes one behind the other, a millisecond each, as a slow line brings them."""
    return [((starts + at + place) % WORD, "B", byte, port) for place, byte in enumerate(content)]
