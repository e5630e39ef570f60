"""Printed programs on a simulated 8-bit chip: compiled as a maker's would be, run cycle by cycle, and held against the machine.

The receiver is modelled by the harness (`chip/chip.c`), for the simulator's holds 64 bytes. The interface that board packages
bring is a minimal port written for these tests (`chip/port.h`): its clock ticks each 1.024 ms as that of common packages does.
"""

import subprocess
import tempfile
from collections.abc import Iterator
from fractions import Fraction
from functools import cache
from pathlib import Path

from oddlamp.catalog.load import load_catalog
from oddlamp.core.behaviour.lamps import CHAIN_MS
from oddlamp.core.firmware.printing import Printed
from oddlamp.core.modules.uart import Edge, Port, heard, sent
from tests.firmware.proof import HERE, Happening, Proof

CHIPS = load_catalog().packages.chips  # what the compiler calls them
LARGE = CHIPS["board-5v-70io"]
FLAGS = (
    "-x", "c++", "-std=c++11", "-Os", "-flto", "-Wall", "-Wextra", "-Wconversion", "-Werror", "-fno-exceptions",
    "-fno-threadsafe-statics", "-ffunction-sections", "-fdata-sections", "-Wl,--gc-sections", "-DF_CPU=16000000UL",
)  # fmt: skip
CYCLES_MS = 16_000
HELD_MS = 3.0  # values held for less are left out of the comparison: a pass may miss them
LATE_MS = 2.0  # and the longest pass
PASS_PIN, PASS_STEP_MS = 250, 0.016  # where the port of these tests tells how long a pass took
ZERO_US, ONE_US, BIT_US = (
    (0.2, 0.5),
    (0.55, 0.85),
    (0.95, 1.85),
)  # from memory: 0.35 and 0.7 us, each give or take 0.15; 1.25 give or take 0.6
LATCH_US = 50.0
Held = tuple[float, int]


def harness(folder: Path) -> Path:
    made = folder / "chip"
    if not made.exists():
        source = HERE / "chip" / "chip.c"
        subprocess.run(["gcc", "-O2", "-o", made, source, "-lsimavr", "-lelf", "-lm", "-lpthread"], check=True)
    return made


def compiled(proof: Proof, folder: Path) -> Path:
    """Compile the program of a proof for the chip of its board, with no warning left."""
    part = proof.design.nodes[proof.host].part
    assert part is not None
    names = proof.design.catalog.packages
    (folder / names.header).write_text((HERE / "chip" / "port.h").read_text())
    (folder / names.software_serial_header).write_text("")
    (folder / names.bus_header).write_text((HERE / "chip" / "bus.h").read_text())
    (folder / "chip.cpp").write_text(proof.printed)
    (folder / "board.h").write_text(proof.header)
    command = [
        "avr-gcc",
        f"-I{folder}",
        *FLAGS,
        f"-mmcu={CHIPS[part.id]}",
        f"-DIS_LARGE={int(CHIPS[part.id] == LARGE)}",
        "-o",
        folder / "chip.elf",
        folder / "chip.cpp",
    ]
    done = subprocess.run(command, check=False, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[:3000]
    return folder / "chip.elf"


class Chip:
    """One program on its chip."""

    def __init__(self, proof: Proof, folder: Path) -> None:
        self.proof = proof
        part = proof.design.nodes[proof.host].part
        assert part is not None
        self.mcu, self.elf, self.harness = CHIPS[part.id], compiled(proof, folder), harness(folder)
        self.chains = {proof.number(it["data"]): it for it in proof.all["chains"] if not it["is_clocked"]}
        header = proof.header
        soft = next((line for line in header.splitlines() if line.startswith("static SoftwareSerial port_0(")), "")
        numbers = [it.strip() for it in soft.partition("(")[2].partition(")")[0].split(",")] if soft else []
        analog = 54 if self.mcu == LARGE else 14
        self.first_analog = analog
        self.soft = [int(it) if it.isdigit() else analog + int(it[1:]) for it in numbers]
        self.speed_bd = next(int(line.split("(")[1].split(")")[0]) for line in header.splitlines() if "port_0.begin(" in line)

    def pin(self, number: int) -> int:
        """The pin as this chip's port counts it: A0 is 14 or 54, and 54 in a proof."""
        return number - 54 + self.first_analog if number >= 54 else number

    def run(
        self, words: list[tuple[float, bytes]], moves: list[Happening], ends_ms: int, clock_error: float = 0.0
    ) -> tuple[list[str], list[Happening]]:
        """Say words to it from a time on, ms, and move its inputs; what it told, and the same as happenings for the machine."""
        events, mine = list[tuple[int, str]](), list[Happening]()
        byte_ms = 10_000 / self.speed_bd * (1 + clock_error)
        for at_ms, content in words:
            for place, byte in enumerate(content):
                starts_ms, end_ms = at_ms + place * byte_ms, at_ms + (place + 1) * byte_ms
                mine.append((int(end_ms) + 1, "B", byte, 0))
                if not self.soft:
                    events.append((round(end_ms * CYCLES_MS), f"B {byte} 0"))
                    continue
                for edge in sent(bytes((byte,)), Port(round(self.speed_bd / (1 + clock_error))), at_s=Fraction(starts_ms) / 1000):
                    events.append((round(float(edge.at_s) * 1000 * CYCLES_MS), f"L {self.soft[0]} {edge.level}"))
        for at_ms, _, pin, level in moves:
            mine.append((at_ms, "L", pin, level))
            key = self.proof.by_pin.get(pin)
            is_turned = key is not None and self.proof.program.inputs[key].kind == "turned"
            told = f"A {pin - 54} {-(-level * 5000 // 1023)}" if is_turned else f"L {self.pin(pin)} {level}"
            events.append((at_ms * CYCLES_MS, told))
        mine.sort(key=lambda it: it[0])
        first = [f"0 L {self.soft[0]} 1"] if self.soft else []
        for key, (pin, is_low) in self.proof.input_pin.items():
            first.append(
                f"0 A {pin - 54} 0" if self.proof.program.inputs[key].kind == "turned" else f"0 L {self.pin(pin)} {int(is_low)}"
            )
        lines = [*first, *(f"{at} {told}" for at, told in sorted(events, key=lambda it: it[0])), f"{ends_ms * CYCLES_MS} E 0 0"]
        watched = [*map(str, map(self.pin, self.chains)), *map(str, self.soft[1:])]
        done = subprocess.run(
            [self.harness, self.elf, self.mcu, str(int(self.mcu == LARGE)), *watched],
            input="\n".join(lines) + "\n",
            check=False,
            capture_output=True,
            text=True,
        )
        assert done.returncode == 0, done.stdout[-500:] + done.stderr[-500:]
        return [it for it in done.stdout.splitlines() if it[:1].isdigit()], [*mine, (ends_ms, "E", 0, 0)]


def held(changes: list[Held], ends_ms: float) -> list[Held]:
    """Leave out what was not held for long, and what follows as it was before."""
    found = list[Held]()
    for (at, value), (until, _) in zip(changes, [*changes[1:], (ends_ms, 0)], strict=True):
        if until - at > HELD_MS and (not found or found[-1][1] != value):
            found.append((at, value))
    return found


def by_pin(lines: list[str], chip: Chip | None) -> dict[int, list[Held]]:
    """Return what each pin shows over time, ms: of a chip by cycles, of the machine by its passes."""
    found: dict[int, list[Held]] = {}
    for line in lines:
        at, kind, pin, value = line.split()[:4]
        if kind == "P":
            number = (
                int(pin) if chip is None else int(pin) - chip.first_analog + 54 if int(pin) >= chip.first_analog else int(pin)
            )
            found.setdefault(number, []).append((float(at) if chip is None else int(at) / CYCLES_MS, int(value)))
    return found


def frames(lines: list[str], pin: int) -> list[tuple[float, bytes]]:
    """Decode what a chain of one-wire pixels hears: every high within its window, every bit as long as it may be."""
    edges = [
        (int(at) / 16, int(level)) for at, kind, it, level in (line.split() for line in lines) if kind == "E" and int(it) == pin
    ]
    rises = [at for at, level in edges if level]
    falls = [at for at, level in edges if not level]
    falls = falls[1:] if falls and rises and falls[0] < rises[0] else falls
    found, bits, first = list[tuple[float, bytes]](), list[int](), 0.0
    for place, (rise, fall) in enumerate(zip(rises, falls, strict=False)):
        high, follows = fall - rise, rises[place + 1] - rise if place + 1 < len(rises) else LATCH_US + 1
        assert ZERO_US[0] <= high <= ZERO_US[1] or ONE_US[0] <= high <= ONE_US[1], f"high for {high} us"
        assert follows >= BIT_US[0], f"a bit of {follows} us"
        assert follows <= BIT_US[1] or follows > LATCH_US, f"a bit of {follows} us"
        first = rise if not bits else first
        bits.append(int(high > ZERO_US[1]))
        if follows > LATCH_US:
            assert len(bits) % 8 == 0
            found.append((first / 1000, bytes(int("".join(map(str, bits[at : at + 8])), 2) for at in range(0, len(bits), 8))))
            bits = []
    return found


def said(lines: list[str], chip: Chip) -> bytes:
    """Return what the chip says: at its own port, or in software bit by bit."""
    if not chip.soft:
        return bytes(int(line.split()[2]) for line in lines if line.split()[1] == "S")
    edges = [
        Edge(Fraction(int(at), 16_000_000), int(level))
        for at, kind, pin, level in (it.split() for it in lines)
        if kind == "E" and int(pin) == chip.soft[1]
    ]
    return bytes(it.byte for it in heard(edges[1:] if edges and edges[0].level else edges, Port(chip.speed_bd)))


def agree_on_chip(chip: Chip, words: list[tuple[float, bytes]], moves: list[Happening], ends_ms: int, clock_error: float) -> int:
    """Hold a chip to the machine: values that are held, pixels and what is said; return how many were compared."""
    lines, events = chip.run(words, moves, ends_ms, clock_error)
    assert not [it for it in lines if it.split()[1] == "O"], "a byte was lost at the port"
    wanted, _ = chip.proof.meant(events, 0, {})
    mine, theirs = by_pin(lines, chip), by_pin(wanted, None)
    count, late_ms = 0, LATE_MS + max(longest_pass_ms(lines), 1.1)
    for pin, changes in theirs.items():
        if pin in chip.chains or (chip.soft and chip.pin(pin) in chip.soft):
            continue
        one, other = held(mine.get(pin, []), ends_ms), held(changes, ends_ms)
        both_hold(one, other, f"pin {pin}", late_ms)
        count += len(one)
    for pin in chip.chains:
        told = [it.split() for it in wanted if it.split()[1] == "W" and int(it.split()[2]) == pin]
        until = ends_ms - CHAIN_MS - late_ms  # what comes at the very end may still be on its way
        one = [(at, int.from_bytes(content, "big")) for at, content in frames(lines, chip.pin(pin)) if at < until]
        other = [(float(it[0]), int(it[3], 16)) for it in told if float(it[0]) < until]
        # Written at most every 20 ms, by a clock that ticks each 1.024: a step each 20 ms comes later and later, until one is missed
        both_hold(one, other, f"chain on {pin}", CHAIN_MS + late_ms, CHAIN_MS)
        count += len(one)
    for panel in chip.proof.all["panels"]:
        pins = [chip.proof.number(panel[it]) for it in ("data", "clock", "select")]
        told = [it.split() for it in wanted if it.split()[1] == "M" and int(it.split()[2]) == pins[0]]
        count += alike(list(shifted(lines, [chip.pin(it) for it in pins])), [bytes.fromhex(it[3]) for it in told], "a panel")
    answers = b"".join(bytes(map(int, line.split()[3:])) for line in wanted if line.split()[1] == "S")
    spoken = said(lines, chip)
    assert spoken == answers, f"it said {spoken!r}, and not {answers!r}"
    return count + len(answers)


def longest_pass_ms(lines: list[str]) -> float:
    """Return how long the longest pass took, ms."""
    told = [int(line.split()[3]) for line in lines if line.split()[1:3] == ["P", str(PASS_PIN)]]
    return told[-1] * PASS_STEP_MS if told else 0.0


def both_hold(one: list[Held], other: list[Held], what: str, late_ms: float, short_ms: float = HELD_MS) -> None:
    """Hold two courses to each other; what one holds for a moment only the other may miss."""
    here, there = 0, 0
    while here < len(one) or there < len(other):
        if (
            here < len(one)
            and there < len(other)
            and one[here][1] == other[there][1]
            and abs(one[here][0] - other[there][0]) <= late_ms
        ):
            here, there = here + 1, there + 1
        elif _is_short(one, here, short_ms + late_ms):
            here += 1
        elif _is_short(other, there, short_ms + late_ms):
            there += 1
        else:
            around = one[max(here - 2, 0) : here + 3], other[max(there - 2, 0) : there + 3]
            raise AssertionError(f"{what}: {around[0]} and not {around[1]}")


def _is_short(course: list[Held], at: int, short_ms: float) -> bool:
    return at + 1 < len(course) and course[at + 1][0] - course[at][0] <= short_ms


def alike(seen: list[bytes], meant: list[bytes], what: str) -> int:
    """Hold what is written to pixels or modules, one after the other, to what is meant; the last may still be on its way."""
    least = min(len(seen), len(meant))
    assert abs(len(seen) - len(meant)) <= 1, f"{what}: {len(seen)} and not {len(meant)}"
    assert seen[:least] == meant[:least], what
    return least


def shifted(lines: list[str], pins: list[int]) -> Iterator[bytes]:
    """Yield what modules take over: the bits that stand at each rise of the clock, when the select line rises."""
    levels, bits = dict.fromkeys(pins, 0), list[int]()
    data, clock, select = pins
    for line in lines:
        _, kind, pin, level = line.split()
        if kind != "P" or int(pin) not in levels:
            continue
        was, levels[int(pin)] = levels[int(pin)], int(level)
        if int(pin) == clock and int(level) and not was:
            bits.append(levels[data])
        elif int(pin) == select and int(level) and not was and bits:
            yield bytes(int("".join(map(str, bits[at : at + 8])), 2) for at in range(0, len(bits), 8))
            bits = []


def compiled_size(printed: Printed, mcu: str, folder: Path) -> tuple[int, int]:
    """Compile a program for a chip; its bytes in flash and in memory, with the port of these tests."""
    names = load_catalog().packages
    (folder / names.header).write_text((HERE / "chip" / "port.h").read_text())
    (folder / names.software_serial_header).write_text("")
    (folder / names.bus_header).write_text((HERE / "chip" / "bus.h").read_text())
    (folder / "board.h").write_text(printed.header)
    (folder / "sized.cpp").write_text(printed.program)
    flags = [it for it in FLAGS if not it.startswith("-W") or it.startswith("-Wl")]
    command = [
        "avr-gcc",
        f"-I{folder}",
        *flags,
        f"-mmcu={mcu}",
        f"-DIS_LARGE={int(mcu == LARGE)}",
        "-o",
        folder / "sized.elf",
        folder / "sized.cpp",
    ]
    subprocess.run(command, check=True, capture_output=True)
    text, data, bss = (
        subprocess.run(["avr-size", folder / "sized.elf"], check=True, capture_output=True, text=True)
        .stdout.splitlines()[1]
        .split()[:3]
    )
    return int(text) + int(data), int(data) + int(bss)


NOTHING = """#include "board.h"
void setup() { board_begin(); pinMode(2, OUTPUT); }
void loop() { digitalWrite(2, millis() & 1); %s }
"""


@cache
def _baseline(header: str, mcu: str) -> tuple[int, int]:
    talks = "uint8_t byte; if (port_available(0)) { byte = port_read(0); port_write(0, &byte, 1); }" if "port_0" in header else ""
    with tempfile.TemporaryDirectory() as folder:
        return compiled_size(Printed(NOTHING % talks, header), mcu, Path(folder))


def baseline(printed: Printed, mcu: str) -> tuple[int, int]:
    """What a program with nothing of ours takes: the port of these tests alone."""
    return _baseline(printed.header, mcu)
