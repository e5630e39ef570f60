"""The printed program against the machine: compiled with all warnings as errors and the sanitizers on, fed the same bytes and contacts."""

import os
import random
import subprocess
from collections import Counter
from pathlib import Path
from typing import Any

import pytest

from oddlamp.catalog.load import load_catalog, start_data
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.behaviour.framing import parser_of
from oddlamp.core.behaviour.machine import Machine
from oddlamp.core.behaviour.program import Program, Say
from oddlamp.core.behaviour.stage import Came
from oddlamp.core.design.design import Design
from oddlamp.core.firmware.printing import NotPrinted, Printer, print_program
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from oddlamp.core.resolve.resolve import resolve
from tests.builders import CLEAR, document

HERE = Path(__file__).parent
FLAGS = (
    "-std=c++11",
    "-O1",
    "-Wall",
    "-Wextra",
    "-Wconversion",
    "-Werror",
    "-fsanitize=undefined,address",
    "-fno-sanitize-recover=all",
)
COUNT = 300 if "ODDLAMP_PROOF" in os.environ else 6
Happening = tuple[int, str, int, int]


def built(design: Design, host: str, folder: Path, fault: tuple[str, str] = ("", "")) -> Path:
    """Print a program, and compile it for the tests' board; with a fault planted where one is given."""
    source = folder / "program.cpp"
    pins = {it.label for it in design.pins if it.label and not it.label.isdigit()}
    names = "".join(f"static const int PIN_{label.upper()} = {100 + at};\n" for at, label in enumerate(sorted(pins)))
    printed = print_program(design, program_of(design, host))
    assert fault[0] in printed
    printed = printed.replace(*fault, 1) if fault[0] else printed
    source.write_text((HERE / "board.h").read_text() + names + printed + (HERE / "main.h").read_text())
    subprocess.run(["g++", *FLAGS, "-o", folder / "program", source], check=True, capture_output=True, text=True)
    return folder / "program"


def ran(program: Path, events: list[Happening], starts: int) -> list[str]:
    lines = [f"{starts} T 0 0", *(f"{at} {what} {a} {b}" for at, what, a, b in events)]
    told = subprocess.run([program], input="\n".join(lines) + "\n", check=True, capture_output=True, text=True)
    return told.stdout.splitlines()


def meant(design: Design, program: Program, events: list[Happening], starts: int, pin_of: dict[str, int]) -> list[str]:
    """What the machine makes of the same: each pin when it shows something else, and what is said."""
    machine, printer = Machine(program, starts_at_ms=starts), Printer(design, program)
    parser = parser_of(next(talk.vocabulary for talk in design.talks.values() if talk.b == program.host), "out")
    by_pin = {pin: name for name, pin in pin_of.items()}
    shows: dict[int, int] = {}
    lines = list[str]()

    def tell(at: int, pin: int, value: int) -> None:
        if shows.get(pin) != value:
            shows[pin] = value
            lines.append(f"{at} P {pin} {value}")

    pins = list(printer.pins())
    for _, _, label, is_dimmed, is_inverted in pins:
        tell(starts, pin_number(design, label), int(is_inverted))
        if is_dimmed and is_inverted:
            shows[pin_number(design, label)] = 255  # a high pin is as high as it can be dimmed
    waiting, now = list(events), starts
    while waiting:
        came, moved = list[Came](), list[tuple[str, int, int]]()
        while waiting and waiting[0][0] == now:
            _, what, a, b = waiting.pop(0)
            if what == "B":
                came += [Came(("heard", it.word.id), it.values) for _, it in parser.feed(bytes((a,))) if it.word is not None]
            elif what == "L":
                moved.append((by_pin[a], b, 0))
        machine.run(now, came, moved)
        for done in machine.done:
            if isinstance(done.step, Say):
                vocabulary = design.talks[done.step.talk].vocabulary
                content = vocabulary.word(done.step.word).built({}) + vocabulary.terminator
                lines.append(f"{now} S " + " ".join(map(str, content)))
        for lamp, light, label, is_dimmed, is_inverted in pins:
            spec = program.lamps[lamp]
            duty = spec.shown(machine.lamps[lamp].light(now)[light])
            duty = 255 - duty if is_inverted else duty
            tell(now, pin_number(design, label), duty if is_dimmed else int(duty >= 128))
        now = (now + 1) % 2**32
    return lines


def pin_number(design: Design, label: str) -> int:
    if label.isdigit():
        return int(label)
    return 100 + sorted({it.label for it in design.pins if it.label and not it.label.isdigit()}).index(label)


STAGE: Document = merge_patch(
    CLEAR,
    {
        "nodes": {"board": {"choice": {"part": "board-5v-70io"}}},
        "lamps": {
            "moon": {"kind": "rgb", "label": "Moon */ \\", "host": "board", "common": "anode", "brightness_cap_ratio": 0.6, "ladder": {"half_is": "eye"}},
            "far": {"kind": "led", "label": "int main()", "host": "board", "ladder": {"steps": 4, "even_in": "duty"}},
            "bell": {"kind": "relay", "host": "board"},
        },
        "groups": {"both": {"members": ["lamp", "far"]}},
        "inputs": {
            "cue": {"kind": "button", "host": "board"},
            "door": {"kind": "switch", "host": "board", "settings": {"settle_s": 0.005}},
        },
        "vocabularies": {"words": {"words": {"seen": {"sent": "k", "direction": "back"}}}},
        "rules": {"r1": None, "r2": None},
    },
)  # fmt: skip
LAMPS = ("lamp", "moon", "far", "bell", "both")
VERBS = (
    "on",
    "off",
    "toggle",
    "hold",
    "level",
    "colour",
    "brighter",
    "dimmer",
    "add",
    "blink",
    "pulse",
    "cue",
    "next",
    "stop",
    "remember",
    "restore",
    "say",
)
TIMES = (0.02, 0.03, 0.1, 0.25, 0.5)
WORDS = ("a", "b", "c")
CARRY: Document = {
    "v": {"sent": "V{a}", "parameters": {"a": {"most": 100}}},
    "w": {"sent": "W{a},{b}", "parameters": {"a": {"least": 5, "most": 200}, "b": {"written": "hex", "most": 255}}},
    "z": {"sent": "Z{a}{b}", "parameters": {"a": {"written": "byte"}, "b": {"written": "two-bytes-little", "most": 1023}}},
}
SAID = (
    b"V",
    b"V0",
    b"V7",
    b"V50",
    b"V100",
    b"V101",
    b"V007",
    b"V000100",
    b"V12x",
    b"V-1",
    b"W5,FF",
    b"W200,0a",
    b"W4,10",
    b"W9,1",
    b"W77,GG",
    b"Z\x01\x02\x00",
    b"Z\xff\xff\x03",
    b"Z\x10\x00\x04",
    b"Z\x01",
)


def drawn(rng: random.Random, seen: Counter[str]) -> Document:
    """A plan of what is printed: words with and without an ending, rules of every verb, cues, intervals, orders."""

    def action() -> Document:
        verb = rng.choice(VERBS)
        seen[verb] += 1
        over = rng.choice([{}, {"over_s": rng.choice([0.05, 0.3, 1])}])
        ends = rng.choice([{}, {"ends": "round"}])
        values: Document = {
            "level": {"level": rng.choice([0, 1, 0.5, 0.2]), **over},
            "colour": {"red": rng.choice([0, 1, 0.3]), **rng.choice([{}, {"blue": 0.7}]), **over},
            "brighter": {**ends, **over},
            "dimmer": {**ends, **over},
            "add": {"by_ratio": rng.choice([0.3, -0.3, 1, -1]), **ends, **over},
            "blink": {"on_s": rng.choice(TIMES), **rng.choice([{}, {"off_s": 0.05}]), **rng.choice([{}, {"times": 2}])},
            "pulse": {"for_s": rng.choice(TIMES), **rng.choice([{}, {"level": 0.4}])},
        }.get(verb, over if verb in ("on", "off", "toggle", "restore") else {})
        wait = {"after_s": rng.choice(TIMES)} if rng.random() < 0.3 else {}
        if verb == "say":
            return {"verb": "say", "say": {"talk": "main", "word": "seen"}, **wait}
        if verb in ("cue", "next", "stop"):
            aim = {} if verb == "stop" and rng.random() < 0.5 else {"target": rng.choice(["storm", "glow"])}
            return {"verb": verb, **aim, **wait}
        return {"verb": verb, "target": rng.choice(LAMPS), **({"values": values} if values else {}), **wait}

    def step() -> Document:
        sets = rng.choice([{"level": 0.5}, {"level": 0}, {"red": 1}, {"level": 1, "green": 0.2}])
        return {"target": rng.choice(LAMPS), "after_s": rng.choice([0, 0.05, 0.2]), **sets, **rng.choice([{}, {"fade_s": 0.15}])}

    whens: list[Document] = [
        *({"heard": it} for it in WORDS),
        {"input": "cue", "event": "pressed"},
        {"input": "cue", "event": "released"},
        {"input": "door", "event": rng.choice(["on", "off"])},
        {"event": "power-up"},
        {"every_s": rng.choice([0.25, 0.4])},
    ]
    rules = {
        f"x{at}": {
            "host": "board",
            "when": when,
            "do": [action() for _ in range(rng.randint(1, 4))],
            **rng.choice([{}, {}, {"unless": {"lamp": "far", "state": "on"}}, {"unless": {"input": "door", "state": "on"}}]),
        }
        for at, when in enumerate([*whens, rng.choice(whens)])
    }
    carried: list[Document] = [
        {
            "verb": "level",
            "target": rng.choice(["moon", "far", "both"]),
            "values": {"level": "{a}", **rng.choice([{}, {"over_s": 0.3}])},
        },
        {"verb": "pulse", "target": "far", "values": {"level": "{a}", "for_s": 0.2}, "after_s": 0.05},
        {"verb": "colour", "target": "moon", "values": {"red": "{a}", "blue": 0.5}, **rng.choice([{}, {"after_s": 0.1}])},
        {"verb": "on", "target": "far"},
    ]
    ending = rng.choice([{"kind": "single-byte"}, {"kind": "terminated", "terminator": rng.choice(["lf", "cr-lf", "#"])}])
    sent = {"single-byte": ("a", "b", "c"), "terminated": ("go", "g", "stop it")}[str(ending["kind"])]
    words = {"on": None, "off": None, **{name: {"sent": it} for name, it in zip(WORDS, sent, strict=True)}}
    if ending["kind"] == "terminated":
        words |= CARRY
        rules |= {name: {"host": "board", "when": {"heard": name}, "do": rng.sample(carried, 2)} for name in ("v", "w", "z")}
    return merge_patch(
        STAGE,
        {
            "rules": rules,
            "cues": {
                name: {"steps": [step() for _ in range(rng.randint(1, 4))], "loop": rng.random() < 0.5}
                for name in ("storm", "glow")
            },
            "vocabularies": {"words": {"framing": ending, "words": words}},
            "standing": {"far": {"power_up": rng.choice(["on", "off"])}},
        },
    )


def drawn_events(rng: random.Random, design: Design, starts: int, pin_of: dict[str, int]) -> list[Happening]:
    vocabulary = next(iter(design.talks.values())).vocabulary
    sent = [it.content + vocabulary.terminator for it in vocabulary.words if it.direction == "out" and it.shape is None]
    carrying = [it for it in vocabulary.words if it.direction == "out" and it.shape is not None]

    def filled() -> list[bytes]:
        values = [{one.id: rng.randint(one.field.least, one.field.most) for one in it.parameters} for it in carrying]
        return [it.built(one) + vocabulary.terminator for it, one in zip(carrying, values, strict=True)]

    events, at = list[Happening](), 5
    while at < 4000:
        what = rng.random()
        if what < 0.6 or not pin_of:
            said = [it + vocabulary.terminator for it in SAID] if vocabulary.terminator else []
            content = rng.choice([*sent, *sent, *said, *filled(), bytes((rng.randrange(256),)), b"\r\n"])
            events += [((starts + at + place) % 2**32, "B", byte, 0) for place, byte in enumerate(content)]
            at += len(content)
        else:
            name = rng.choice(list(pin_of))
            events.append(((starts + at) % 2**32, "L", pin_of[name], rng.randint(0, 1)))
        at += rng.choice([0, 1, 3, 12, 40, 300])
    return [*events, ((starts + at + 1500) % 2**32, "E", 0, 0)]


def agree(
    whole: Document, rng: random.Random, starts: int, folder: Path, streams: int = 4, fault: tuple[str, str] = ("", "")
) -> None:
    design = resolve(load_plan(whole), load_catalog())
    program = program_of(design, "board")
    made = built(design, "board", folder, fault)
    labels = {it.line.owner_id: it.label or "" for it in design.pins if it.line.owner[0] == "inputs"}
    pin_of = {name: pin_number(design, label) for name, label in labels.items()}
    for _ in range(streams):
        events = drawn_events(rng, design, starts, pin_of)
        assert ran(made, events, starts) == meant(design, program, events, starts, pin_of)


@pytest.mark.parametrize("seed", range(COUNT))
def test_what_is_printed_does_what_was_rehearsed(seed: int, tmp_path: Path) -> None:
    """Pins and answers at every millisecond; each third begins shortly before the clock of 32 bits begins anew."""
    rng, seen = random.Random(seed), Counter[str]()
    agree(drawn(rng, seen), rng, 2**32 - 1500 if seed % 3 == 0 else 0, tmp_path)


PRINTED = (
    "01-one-lamp",
    "02-colours-by-name",
    "03-dimmer-in-steps",
    "04-sliders-for-a-colour",
    "11-timed-relay",
    "13-switches-shown",
)


@pytest.mark.parametrize("name", PRINTED)
def test_starting_points_do_what_was_rehearsed(name: str, tmp_path: Path) -> None:
    agree(dict(start_data(name)["plan"]), random.Random(name), 0, tmp_path, streams=2)


FAULTS = {
    "two pins swapped": ("LAMP_WASH, 0,", "LAMP_WASH, 1,"),
    "a fade that forgets its steps": ("gone -= gone % 10;", ""),
    "rounding down": ("2UL * x * y + 255UL", "2UL * x * y"),
    "a line that is not turned round": ("if (it.is_inverted) duty = (uint8_t)(255 - duty);", ""),
    "a set-up that lights what is on when it is low": ("PINS[at].is_inverted ? HIGH : LOW", "LOW"),
    "a word that is taken for another": ("case 114: happen(", "case 115: happen("),
}


@pytest.mark.parametrize("name", FAULTS)
def test_a_planted_fault_is_caught(name: str, tmp_path: Path) -> None:
    """Each in the colours by their names: what it shows is then no longer what was rehearsed."""
    plan = merge_patch(dict(start_data("02-colours-by-name")["plan"]), {"lamps": {"wash": {"brightness_cap_ratio": 0.7}}})
    with pytest.raises(AssertionError, match="assert \\["):
        agree(plan, random.Random(1), 0, tmp_path, fault=FAULTS[name])


def test_every_verb_that_is_printed_is_drawn() -> None:
    seen = Counter[str]()
    for seed in range(COUNT):
        drawn(random.Random(seed), seen)
    assert set(seen) == set(VERBS)


def test_what_is_not_printed_yet_is_refused_with_what_it_is() -> None:
    plan: Any = load_plan(document("paper-moon"))
    design = resolve(plan, load_catalog())
    with pytest.raises(NotPrinted, match="pixels"):
        print_program(design, program_of(design, "board"))
