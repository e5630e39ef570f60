"""Logs drawn by chance: a module's stand-in is talked to, and a terminal of one kind or another keeps what was said and heard."""

import random
from dataclasses import dataclass, field

from oddlamp.catalog.load import load_catalog
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.parts.dialect import ENDINGS, Command, Dialect
from oddlamp.core.reading.told import speakers_of
from oddlamp.core.words.frames import Field, FieldValue

CATALOG = load_catalog()
FAMILIES = [(it.dialect, it.version) for it in speakers_of(CATALOG.dialects.values())]
ASKED = 0.95  # of those at work: nearly everybody asks which version it is
WHICH = ("AT+VERSION?", "AT+VERSION", "AT+VERR?", "AT+GMR")
NAMES = ("LANTERN", "STAGE-2", "Moon 3", "x", "ATTIC", "OK", "NAME", "0")


@dataclass
class Log:
    """What was said and heard, the settings at its end, and the log as a terminal kept it."""

    said: list[tuple[str, list[str]]] = field(default_factory=list)
    kept: dict[str, FieldValue] = field(default_factory=dict)
    begun: dict[str, FieldValue] = field(default_factory=dict)
    is_key_up: bool = True
    text: bytes = b""


def drawn_value(rng: random.Random, name: str, it: Field) -> FieldValue:
    match it.kind:
        case "choice":
            return rng.choice(list(it.choices.values()))
        case "address":
            return f"{rng.randrange(1, 1 << 16):04X}:{rng.randrange(256):02X}:{rng.randrange(1 << 24):06X}"
        case "digits":
            return "".join(rng.choice("0123456789") for _ in range(rng.randint(it.least, min(it.most, 8))))
        case "text" | "quoted":
            text = rng.choice(NAMES) if rng.random() < 0.5 else "".join(rng.choice("ABCdef 12-") for _ in range(9)).strip() or "A"
            return (text * 9)[: max(it.least, min(len(text), it.most))]
        case _:
            return rng.randint(it.least, min(it.most, 9))


def drawn_said(rng: random.Random, dialect: Dialect) -> str:
    plain = [it for it in dialect.commands if not it.is_hex and it.does not in ("take", "restart", "link", "factory")]
    if rng.random() < 0.05:
        return rng.choice(["AT+HELLO", "AT+NAM", "at", "AT+UART"])
    command: Command = rng.choice(plain)
    values = {name: drawn_value(rng, name, it) for name, it in command.fields.items()}
    return command.frame.build(**values).decode("latin-1")


def talked(
    dialect: Dialect, said: list[str], begun: dict[str, FieldValue], *, is_key_up: bool
) -> tuple[list[tuple[str, list[str]]], StandIn]:
    """Say lines to a stand-in one after the other, and keep what it answers."""
    module = StandIn(dialect, kept=dict(begun), is_key_up=is_key_up)
    module.power(0.0, is_on=True)
    now, found = 5.0, []
    for text in said:
        now += 10.0
        heard = [*module.hear(now, text.encode("latin-1") + ENDINGS[dialect.ending]), *module.until(now + 9.0)]
        content = b"".join(it.content for it in heard if it.to == "wire").decode("latin-1")
        found.append((text, [line for line in content.split("\r\n") if line]))
    return found, module


def drawn_log(rng: random.Random, dialect: Dialect, *, noise: float = 0.0) -> Log:
    log = Log(is_key_up=True)
    log.begun = {
        "name": rng.choice(NAMES),
        "address": f"{rng.randrange(1 << 16):04X}:{rng.randrange(256):02X}:{rng.randrange(1 << 24):06X}",
    }
    said = ["AT"] * rng.randint(0, 1) + [drawn_said(rng, dialect) for _ in range(rng.randint(8, 30))]
    if rng.random() < ASKED:
        said.insert(rng.randrange(len(said) + 1), next(it for it in WHICH if any(one.send == it for one in dialect.commands)))
    log.said, module = talked(dialect, said, log.begun, is_key_up=True)
    log.kept = dict(module.kept)
    log.text = kept_by_terminal(rng, log.said, noise=noise)
    return log


def kept_by_terminal(rng: random.Random, said: list[tuple[str, list[str]]], *, noise: float) -> bytes:
    """Write a conversation as a terminal does: with its own times, marks, colours, line ends and character set; what came in may be noisy."""
    end = rng.choice(["\n", "\r\n", "\r"])
    stamp = rng.choice(["", "[12:03:{:02d}.{:03d}] ", "12:03:{:02d}.{:03d} ", "[ {}.{:03d}] ", "2026-01-31 12:03:{:02d}.{:03d} "])
    out, into = rng.choice([("", ""), ("", ""), ("> ", "< "), ("-> ", "<- "), ("TX: ", "RX: "), (">> ", "<< ")])
    colour = rng.choice([("", ""), ("\x1b[32m", "\x1b[0m")])
    rows, at = [], 0
    for text, heard in said:
        for mark, line in ((out, text), *((into, it) for it in heard)):
            at += rng.randint(1, 400)
            dirty = "".join(
                chr(rng.randrange(33, 255)) if mark == into and line is not text and rng.random() < noise else c for c in line
            )
            rows.append(f"{stamp.format(at // 1000, at % 1000)}{colour[0]}{mark}{dirty}{colour[1]}")
    whole = end.join(rows) + end
    return whole.encode("utf-16") if rng.random() < 0.1 else whole.encode("latin-1")
