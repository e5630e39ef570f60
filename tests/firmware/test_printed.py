"""The printed program against the machine: compiled with all warnings as errors and the sanitizers on, fed the same happenings."""

import random
import subprocess
import tempfile
from pathlib import Path
from typing import Any

import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from oddlamp.catalog.load import demo_names, demo_plan, start_data, start_names
from oddlamp.core.behaviour.compile import program_of
from oddlamp.core.errors import NotPrinted
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.firmware.names import said
from oddlamp.core.firmware.printing import print_program
from oddlamp.core.firmware.wiring import print_wiring_test
from oddlamp.core.plan.document import Document, load_plan, merge_patch
from tests.builders import CLEAR, codes, document, findings_of, plan_with
from tests.core.program.drawn import VERBS
from tests.core.test_findings import CLOCK_CHIP
from tests.firmware.drawn import drawn_course, drawn_whole
from tests.firmware.proof import WORD, Differs, Happening, Proof, agree, built, compare, design_of, spread
from tests.full import IS_PROOF

SHARES, EACH, STREAMS = (50, 6, 34) if IS_PROOF else (6, 1, 2)  # programs side by side, one after the other, and courses of each
SHOWN = ("14-coin-cell", "15-rules-and-schedule")
SHORTLY_BEFORE = 2**32 - 700  # the clock of 32 bits begins anew within the course


@pytest.mark.parametrize("share", range(SHARES))
@settings(max_examples=EACH, deadline=None, derandomize=True, database=None, phases=[Phase.generate])
@given(seed=st.integers(0, 2**32 - 1))
def test_what_is_printed_does_what_was_rehearsed(share: int, seed: int) -> None:
    """Pins, pixels, dots, codes and answers at every millisecond; each third course runs over the end of the clock's 32 bits."""
    rng = random.Random(share << 32 | seed)
    whole = drawn_whole(rng)
    design = design_of(whole)
    with tempfile.TemporaryDirectory() as folder:
        proof = Proof(design, "board", Path(folder), is_sanitized=True)
        starts = SHORTLY_BEFORE if rng.random() < 1 / 3 else 0
        for _ in range(STREAMS):
            agree(proof, drawn_course(rng, design, whole, proof, starts), starts)


def test_everything_that_can_be_printed_is_drawn() -> None:
    """Every verb, framing, kind of value and driver comes up in what is drawn for a proof."""
    seen = set[str]()
    framings = {f"framing {it}" for it in ("terminated", "single-byte", "fixed", "gap")}
    kinds = {"SWITCHED", "DIMMED", "SOUNDS", "CHIP_SWITCHED", "CHIP_DIMMED", "CONTACT", "TURNED", "SENSOR"}
    pieces = {"LETTERS_OF", "NUMBER", "HEX", "BYTE", "TWO_BYTES", "TWO_BYTES_LITTLE", "FREE_TEXT", "XOR_OF", "SUM_OF", "CRC_OF"}
    missing = {*VERBS, *framings, *kinds, *pieces, "codes heard", "states", "held"}
    for seed in range(120):
        whole = drawn_whole(random.Random(seed))
        missing -= {action["verb"] for rule in whole["rules"].values() for action in rule["do"]}
        missing -= {f"framing {whole['vocabularies']['words']['framing']['kind']}"}
        design = design_of(whole)
        made = Facts(design, program_of(design, "board")).all()
        missing |= set(made["has"]) if seed == 0 else set()
        seen |= {name for name, is_there in made["has"].items() if is_there}
        seen |= {it["kind"] for it in (*made["pins"], *made["pieces"], *made["inputs"])}
        seen |= {name for name, it in (("codes heard", "codes_heard"), ("states", "states"), ("held", "held")) if made[it]}
        if not missing - seen:
            return
    pytest.fail(f"never drawn: {missing - seen}")


STARTS = [("start", name) for name in start_names() if IS_PROOF or name in SHOWN]  # all of them in the proof
DEMOS = [("demo", name) for name in demo_names()]


def whole_of(kind: str, name: str) -> Document:
    return demo_plan(name) if kind == "demo" else dict(start_data(name)["plan"])


@pytest.mark.parametrize(("kind", "name"), [*DEMOS, *STARTS])
def test_demos_and_starting_points_do_what_was_rehearsed(kind: str, name: str, tmp_path: Path) -> None:
    """Each board of each: its words, inputs and codes in any order. A board's own BLE is refused, and told."""
    rng, whole = random.Random(name), whole_of(kind, name)
    design = design_of(whole)
    for host, node in design.nodes.items():
        if node.node.kind != "board":
            continue
        if name == "14-coin-cell":
            with pytest.raises(NotPrinted, match="no serial line by BLE in common"):
                print_program(design, program_of(design, host))
            continue
        folder = tmp_path / host
        folder.mkdir()
        proof = Proof(design, host, folder)
        for _ in range(2 if IS_PROOF else 1):
            agree(proof, any_course(rng, proof), 0)


def any_course(rng: random.Random, proof: Proof) -> list[Happening]:
    """Whatever a plan knows, in any order."""
    events, at = list[Happening](), 5
    while at < 4000:
        roll = rng.random()
        if roll < 0.6 and proof.facts.links:
            port, hears = rng.choice(list(enumerate(it[0] for it in proof.facts.links.values())))
            if hears.words:
                word = rng.choice(hears.words)
                values = {
                    it.id: "Hello" if it.written == "text" else rng.randint(it.field.least, it.field.most)
                    for it in word.parameters
                }
                content = rng.choice([word.built(values) + hears.talk.vocabulary.terminator, rng.randbytes(2), b"\r\n"])
                events += spread(rng, content, port, at, 0)
                at += len(content)
        elif proof.input_pin:
            key = rng.choice(list(proof.input_pin))
            is_turned = proof.program.inputs[key].kind == "turned"
            events.append(proof.put(at, key, rng.randrange(1024) if is_turned else rng.randint(0, 1)))
        at += rng.choice([1, 3, 12, 40, 300])
    return [*events, (5500, "E", 0, 0)]


KEPT: Document = merge_patch(
    CLEAR,
    {
        "nodes": {"board": {"choice": {"part": "board-5v-70io"}}},
        "lamps": {"sign": {"kind": "matrix", "host": "board", "count": 2}, "far": {"kind": "led", "host": "board"},
                  "chain": {"kind": "pixels-one-wire", "host": "board", "layout": {"runs": [{"count": 4}]}}},
        "standing": {it: {"power_cut": "last"} for it in ("lamp", "sign", "chain")} | {"far": {"power_up": "on", "power_cut": "off"}},
        "cues": {"up": {"steps": [{"target": "lamp", "level": 1}, {"target": "far", "level": 1, "after_s": 4}], "loop": True}},
        "rules": {
            "r1": {"host": "board", "when": {"heard": "on"}, "do": [
                {"verb": "level", "target": "lamp", "values": {"level": 0.3}},
                {"verb": "text", "target": "sign", "values": {"text": "MOON", "scroll_s": 0.05}},
                {"verb": "colour", "target": "chain", "values": {"red": 1, "first": 1, "last": 2}},
            ]},
            "r2": {"host": "board", "when": {"heard": "off"}, "do": [{"verb": "cue", "target": "up"}]},
        },
    },
)  # fmt: skip


@pytest.mark.parametrize("at_ms", [0, SHORTLY_BEFORE])
def test_a_power_cut_leaves_what_was_put_down(at_ms: int, tmp_path: Path) -> None:
    """Put down after 5 s of stillness; then a cut in mid-cue, and the last record holds. A torn record is none."""
    design = design_of(KEPT)
    proof = Proof(design, "board", tmp_path)
    words = {it.id: it.built({}) for it in proof.facts.links["serial"][0].words}
    ending = design.talks["main"].vocabulary.terminator
    on = [((at_ms + 10) % WORD, "B", byte, 0) for byte in words["on"] + ending]
    machine = agree(proof, [*on, ((at_ms + 6000) % WORD, "E", 0, 0)], at_ms)
    cue = [((at_ms + 6000) % WORD, "B", byte, 0) for byte in words["off"] + ending]
    _, memory = proof.ran([*on, *cue, ((at_ms + 9500) % WORD, "E", 0, 0)], proof.begun(at_ms, {}))
    told, _ = proof.ran([(600, "E", 0, 0)], proof.begun(0, {}, memory))
    wanted, _ = proof.meant([(600, "E", 0, 0)], 0, {}, machine.record)
    compare(told, wanted)
    torn = [(at, byte ^ 1 if at == memory[3][0] else byte) for at, byte in memory]
    told, _ = proof.ran([(600, "E", 0, 0)], proof.begun(0, {}, torn))
    wanted, _ = proof.meant([(600, "E", 0, 0)], 0, {})
    compare(told, wanted)


FAULTS = {
    "two pins swapped": ("PIN_WASH_RED, LAMP_WASH, 0", "PIN_WASH_RED, LAMP_WASH, 1"),
    "a fade that forgets its steps": ("gone -= gone % 10;", ""),
    "rounding down": ("2 * x * y + 255)", "2 * x * y)"),
    "a line that is not turned round": ("if (it.is_inverted) shows = (uint16_t)(255 - shows);", ""),
    "an off level that comes too late": ("it.is_inverted ? HIGH : LOW", "LOW"),
    "a word that is taken for another": ("case 114: happen(", "case 115: happen("),
    "a missing cast": ("(uint32_t)(to - from) * gone", "(uint8_t)((to - from) * gone)"),
    "a clock that is compared and not subtracted": ("(ms_t)(now_ms - then)", "(now_ms > then ? (ms_t)(now_ms - then) : 0)"),
}
LADDER_FAULTS = {
    "an off-by-one in a ladder": ("if (flash_byte(of.ladder + at) > now)", "if (flash_byte(of.ladder + at) >= now)"),
    "a parser that forgets to begin anew": ("ear_0.size = 0;\n    if (!is_taken", "if (!is_taken"),
}


@pytest.mark.parametrize("name", FAULTS)
def test_a_planted_fault_is_caught(name: str, tmp_path: Path) -> None:
    """Each in the colours by their names: what it shows is then no longer what was rehearsed."""
    whole = merge_patch(whole_of("start", "02-colours-by-name"), {"lamps": {"wash": {"brightness_cap_ratio": 0.7}}})
    design, rng = design_of(whole), random.Random(1)
    proof = Proof(design, "board", tmp_path, FAULTS[name])
    words = [byte for byte in b"rgbax" for _ in range(2)]
    starts = SHORTLY_BEFORE
    events = [((starts + 40 + 130 * at) % WORD, "B", byte, 0) for at, byte in enumerate(rng.sample(words, len(words)))]
    with pytest.raises(Differs):
        agree(proof, [*events, ((starts + 2500) % WORD, "E", 0, 0)], starts)


@pytest.mark.parametrize("name", LADDER_FAULTS)
def test_a_planted_fault_of_ladders_and_parsers_is_caught(name: str, tmp_path: Path) -> None:
    rules = {"r1": {"host": "board", "when": {"heard": "on"}, "do": [{"verb": "brighter", "target": "lamp"}]}}
    words = {"framing": {"kind": "terminated", "terminator": "lf"}}
    whole = merge_patch(CLEAR, {"rules": rules, "vocabularies": {"words": words}})
    proof = Proof(design_of(whole), "board", tmp_path, LADDER_FAULTS[name])
    content = proof.facts.links["serial"][0].words[0].content + b"\n"
    events: list[Happening] = [(10 + 30 * at, "B", byte, 0) for at in range(4) for byte in content]
    with pytest.raises(Differs):
        agree(proof, [*events, (300, "E", 0, 0)], 0)


NASTY = ('"', "*/", "\\", "??/", "// ", "main", "int", "é\u202e", "a b", "%s%n", "#define LAMPS 0", "')")


def test_nothing_of_a_label_is_ever_code(tmp_path: Path) -> None:
    """Labels with quotes, the ends of comments, backslashes, trigraphs, words of the language, and 60 alike."""
    lamps = {f"l{at}": {"kind": "led", "host": "board", "label": NASTY[at % len(NASTY)]} for at in range(40)}
    whole = merge_patch(
        CLEAR,
        {
            "title": '*/ \\ ??/ " main',
            "nodes": {"board": {"label": "??/", "choice": {"part": "board-5v-70io"}}},
            "lamps": {
                **lamps,
                **{name: {"kind": "led", "host": "board", "label": "same"} for name in ("int", "while", "x__y", "x_")},
            },
            "vocabularies": {
                "words": {
                    "framing": {"kind": "terminated", "terminator": "lf"},
                    "words": {"for": {"sent": "\\x00\\xFF\\\\", "label": "*/"}},
                }
            },
            "rules": {"if": {"host": "board", "when": {"heard": "for"}, "do": [{"verb": "on", "target": "while"}]}},
        },
    )
    proof = Proof(design_of(whole), "board", tmp_path)
    code = [line.partition("//")[0] for line in proof.printed.splitlines()]
    assert not [line for line in proof.printed.splitlines() if line.rstrip().endswith("\\")]
    assert not [line for line in code if "??" in line or "define" in line]
    content = b"\x00\xff\\" + design_of(whole).talks["main"].vocabulary.terminator
    events: list[Happening] = [(10, "B", byte, 0) for byte in content]
    machine = agree(proof, [*events, (50, "E", 0, 0)], 0)
    assert machine.lamps["while"].state.is_on


@pytest.mark.parametrize("text", NASTY)
def test_a_comment_stays_on_its_line(text: str) -> None:
    told = said(text)
    assert told.isascii()
    assert not set(told) & set("\\?/*\"'\n\r\t")


def test_known_answers_stand_in_the_table() -> None:
    """'1' is 0x31 (ISO 646), and the ladder of nine steps even to the eye is 3, 9, 20, 36, 60, 92, 135, 189, 255 (CIE 1976)."""
    design = design_of(merge_patch(CLEAR, {"rules": {"r1": {"host": "board", "when": {"heard": "on"}, "do": [{"verb": "brighter", "target": "lamp"}]}},
                                           "vocabularies": {"words": {"framing": {"kind": "single-byte"}, "words": {"on": {"sent": "1"}, "off": {"sent": "0"}}}}}))  # fmt: skip
    printed = print_program(design, program_of(design, "board")).program
    assert f"case {0x31}: happen(ON_HEARD_ON, BY_WORDS);" in printed
    assert "{ 3, 9, 20, 36, 60, 92, 135, 189, 255 }" in printed


def test_what_cannot_be_printed_is_refused_with_what_it_is() -> None:
    plan: Any = merge_patch(document("paper-moon"), {"signals": {"dimmer.in": {"pin": None}}})
    design = design_of(plan)
    assert print_program(design, program_of(design, "board")).header
    many = design_of(merge_patch(CLEAR, {"lamps": {f"l{at}": {"kind": "led", "host": "board"} for at in range(40)}}))
    with pytest.raises(NotPrinted, match=r"^(?!.*L7).* more like these$"):
        print_program(many, program_of(many, "board"))


def test_pins_have_one_name_for_each_line() -> None:
    """The pins of the program are those of the pin view, line by line."""
    design = design_of(demo_plan("paper-moon"))
    facts = Facts(design, program_of(design, "board"))
    told = {it["line"].id: it["label"] for it in facts.pins.told}
    wanted = {
        pin.line.id: pin.label for pin in design.pins if pin.host == "board" and pin.line.kind != "wire" and pin.label is not None
    }
    assert told == wanted


@pytest.mark.parametrize("name", ["paper-moon", "drawn"])
def test_the_wiring_is_tried_a_lamp_at_a_time(name: str, tmp_path: Path) -> None:
    """Each line is lit by itself, with its name told before; relays and motors are left to the hand. Inputs are read."""
    whole = demo_plan("paper-moon") if name == "paper-moon" else drawn_whole(random.Random(7))
    design = design_of(whole)
    program = program_of(design, "board")
    printed, facts = print_wiring_test(design, program), Facts(design, program)
    made = built(printed.program, tmp_path)
    lines = subprocess.run([made], input="0 E 0 0 0\n", check=True, capture_output=True, text=True).stdout.splitlines()
    lit, told, numbers = set[int](), list[tuple[int, ...]](), numbers_of(facts)
    low = {numbers[it["pin"]]: it["is_inverted"] for it in facts.all()["pins"] if it["pin"] in numbers}
    for line in lines:
        parts = line.split()
        if parts[1:2] == ["P"]:
            pin, level = int(parts[2]), int(parts[3])
            is_low = low.get(pin, False)
            (lit.add if bool(level) != is_low else lit.discard)(pin)
            if lit:
                told.append(tuple(sorted(lit)))
    assert told
    assert all(len(it) == 1 for it in told)
    said_lines = "\n".join(lines)
    assert all(f"{label}: left out" in said_lines for label in {"paper-moon": [], "drawn": ["Bell", "Fore", "Eye"]}[name])
    assert all(it["label"] in said_lines for it in facts.all()["inputs"])


def numbers_of(facts: Facts) -> dict[str, int]:
    return {it["name"]: int(it["pin"].replace("A", "")) + (54 if it["pin"].startswith("A") else 0) for it in facts.pins.told}


CLOCKED: Document = merge_patch(
    CLEAR, {**CLOCK_CHIP, "rules": {"dusk": {"host": "board", "when": {"at": "20:00"}, "do": [{"verb": "on", "target": "lamp"}]}}}
)


def test_a_clock_chip_tells_the_time(tmp_path: Path) -> None:
    """It is asked as soon as the program runs; one that has stood still begins with when the program was compiled."""
    proof = Proof(design_of(CLOCKED), "board", tmp_path)
    shortly_before = 20 * 3_600_000 - 2000
    told, _ = proof.ran([(1, "O", shortly_before, 0), (5000, "E", 0, 0)], proof.begun(0, {}))
    (lit,) = [int(it.split()[0]) for it in told if it.split()[1:2] == ["P"] and it.endswith(" 1")]
    assert 2000 <= lit <= 2000 + 500 + 1, "it is asked twice a second until it tells, in whole seconds"
    told, _ = proof.ran([(1, "O", shortly_before, 1), (5000, "E", 0, 0)], proof.begun(0, {}))
    assert not [it for it in told if it.split()[1:2] == ["P"] and it.endswith(" 1")]
    told, _ = proof.ran([(5000, "E", 0, 0)], proof.begun(0, {}))
    assert not [it for it in told if it.split()[1:2] == ["P"] and it.endswith(" 1")], "without the chip it is never that time"


def test_the_way_out_of_a_clock_that_nobody_tells_leads_out() -> None:
    """The chip that is offered is on the bus, has its pins, and the verdict is gone: no other comes."""
    plan = plan_with({"rules": CLOCKED["rules"]})
    (finding,) = [it for it in findings_of(plan) if it.code == "CLOCK-NONE"]
    way = next(it for it in finding.fixes if it.label == "Add a clock chip, over two wires")
    after = findings_of(load_plan(merge_patch(plan.model_dump(mode="json", exclude_none=True), way.patch)))
    assert codes(after) <= codes(findings_of(plan)) - {("CLOCK-NONE", "look")}


SENSED: Document = merge_patch(
    CLEAR,
    {
        "inputs": {
            "warm": {"kind": "sensor", "host": "board", "settings": {"reads": "temperature", "on_above_ratio": 0.5, "off_below_ratio": 0.45}},
            "wet": {"kind": "sensor", "host": "board", "settings": {"reads": "humidity"}},
            "dial": {"kind": "knob", "host": "board"},
        },
        "lamps": {"far": {"kind": "led", "host": "board"}},
        "rules": {
            "warms": {"host": "board", "when": {"input": "warm", "event": "on"}, "do": [{"verb": "on", "target": "lamp"}]},
            "cools": {"host": "board", "when": {"input": "warm", "event": "off"}, "do": [{"verb": "off", "target": "lamp"}]},
            "wet": {"host": "board", "when": {"input": "wet", "event": "moved"}, "do": [{"verb": "level", "target": "far", "values": {"level": "input"}}]},
            "dial": {"host": "board", "when": {"input": "dial", "event": "moved"}, "do": [{"verb": "level", "target": "far", "values": {"level": "input"}}]},
        },
    },
)  # fmt: skip


def share(value: float, least: float, most: float) -> int:
    return int(1023 * (value - least) / (most - least) + 0.5)


@pytest.mark.parametrize(
    ("bits", "warm_c", "wet_percent"),
    [(0x028C015F, 35.1, 65.2), (0x028C8065, -10.1, 65.2), (0x37001600, 22.0, 55.0), (0x000003E8, 80.0, 0.0)],
    ids=["a data sheet's example", "its example under nothing", "the coarse kind", "over its end"],
)
def test_sensors_on_one_line_tell_what_they_sense(bits: int, warm_c: float, wet_percent: float, tmp_path: Path) -> None:
    """40 bits with the times of the sensor's data sheet, read every two seconds: its examples, from memory. The first is no event."""
    proof = Proof(design_of(SENSED), "board", tmp_path)
    cold, pins = 0x01F40032, {key: proof.input_pin[key][0] for key in ("warm", "wet")}  # 5 degrees, 50 %
    levels = {"warm": share(5.0, -40, 80), "wet": share(50.0, 0, 100), "dial": 300}
    begun = [*proof.begun(0, levels), *(f"0 H {pin} {cold} 0" for pin in pins.values())]
    later: list[Happening] = [(3000, "H", pin, bits) for pin in pins.values()]
    read = [proof.put(4020, "warm", share(warm_c, -40, 80)), proof.put(4020, "wet", share(wet_percent, 0, 100))]
    events = [proof.put(2500, "dial", 700), *later, *read, (5000, "E", 0, 0)]
    told, _ = proof.ran(events, begun)
    wanted, machine = proof.meant([it for it in events if it[1] != "H"], 0, levels)
    compare(told, wanted)
    assert machine.lamps["lamp"].state.is_on is (warm_c > 20)


def test_a_sensor_that_does_not_answer_sets_off_nothing(tmp_path: Path) -> None:
    """Its line stays high: what it told last stands, and where it told nothing yet it is as if it were not there."""
    proof = Proof(design_of(SENSED), "board", tmp_path)
    told, _ = proof.ran([(5000, "E", 0, 0)], [it.replace(" 0 0", " 1 0") if " L " in it else it for it in proof.begun(0, {})])
    lines = {str(proof.input_pin[key][0]) for key in ("warm", "wet")}
    assert {it.split()[0] for it in told if it.split()[1] == "P" and it.split()[2] not in lines} == {"0"}
