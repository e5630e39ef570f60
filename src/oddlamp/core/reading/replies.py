"""What a family can answer to a line, as patterns made of its own data; and what a line and its answer say of its settings."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Final, Literal, NamedTuple

from oddlamp.core.errors import OutOfRange
from oddlamp.core.parts.dialect import Command, Dialect
from oddlamp.core.plan.text import read_address
from oddlamp.core.words.frames import FieldValue

HOLE: Final = re.compile(r"\{(\w+)(?::(\w+))?\}")
# What may stand where a setting is told, by its name; what is not named here is plain characters.
SHAPES: Final = {
    "pin": r"\d{4,16}", "speed": r"[0-9A-C]{1,7}", "role": r"[0-2]", "mode": r"[0-3]", "parity": r"[0-2]", "stop": r"[01]", "kind": r"[0-3]",
    "address": r"[0-9A-Fa-f:]{5,14}", "bound": r"[0-9A-Fa-f:]{5,14}", "state": r"[A-Z_]{4,20}",
}  # fmt: skip
NUMBERS: Final = ("speed", "role", "mode", "parity", "stop", "kind")
PLAIN: Final = r"[ -~]{1,40}?"
Verdict = Literal["done", "refused", "silent", "none"]


@dataclass(frozen=True, slots=True)
class Answered:
    """How a line and what followed fit a family: the command that it is, whether it was done, and the settings it tells or sets."""

    verdict: Verdict
    command: Command | None = None
    sets: dict[str, FieldValue] = field(default_factory=dict)
    tells: dict[str, FieldValue] = field(default_factory=dict)


class Unasked(NamedTuple):
    """Something a family says by itself: what it looks like, and what it means."""

    pattern: re.Pattern[str]
    means: str


class Speaker:
    """A family, or a version of it, that is asked again and again what it could mean: its patterns are written once."""

    def __init__(self, dialect: Dialect, version: str | None = None) -> None:
        self.dialect, self.version = dialect, version
        self.unasked = tuple(_unasked(dialect))
        self.commands = [it for it in dialect.commands if not it.is_hex]
        self.frames = [(it, it.send.partition("{")[0], it.frame) for it in self.commands]
        self.seen: dict[tuple[str, tuple[str, ...]], Answered] = {}
        self.patterns: dict[tuple[str, tuple[tuple[str, FieldValue], ...]], re.Pattern[str]] = {}

    def says_itself(self, text: str) -> str | None:
        """Return what a line means that it says without being asked; None where it does not."""
        return next((it.means for it in self.unasked if it.pattern.fullmatch(text)), None)

    def command_of(self, text: str) -> tuple[Command, dict[str, FieldValue] | None] | None:
        """Return the command that a line is, with its values, None for those where one cannot be; None where it is no command."""
        message = text.encode("latin-1", "replace")
        shaped = None
        for command, begins, frame in self.frames:
            if not text.startswith(begins) or frame.cut(message) is None:
                continue
            values = frame.parse(message)
            if values is not None:
                return command, values
            shaped = shaped or (command, None)
        return shaped

    def answered(self, said: str, heard: tuple[str, ...]) -> Answered:
        """Tell how what was said and heard fits; the same again is not looked at twice."""
        key = (said, heard)
        if key not in self.seen:
            self.seen[key] = self._answered(said, heard)
        return self.seen[key]

    def _answered(self, said: str, heard: tuple[str, ...]) -> Answered:
        """Tell how what was said and heard fits.

        Args:
            said: one line to it, without its ending.
            heard: the lines that followed, without what it says by itself.
        """
        dialect = self.dialect
        heard = heard[1:] if dialect.echo and heard[:1] == (said,) else heard
        found = self.command_of(said)
        command, values = found if found is not None else (None, None)
        if not heard:
            may_be_silent = command is None or values is None or bool(command.needs)
            return Answered("none" if may_be_silent and dialect.unknown is None else "silent", command)
        told = "\n".join(heard) if dialect.answer_ending == "cr-lf" else "".join(heard)
        if command is None or values is None:
            refused = (command.refused if command is not None else None) or dialect.unknown
            return Answered("refused" if refused and told == refused else "none", command)
        match = self._pattern(command, values).fullmatch(told)
        if match is not None:
            tells = {name: value for name, it in match.groupdict().items() if (value := _read(name, it)) is not None}
            if len(tells) == len(match.groupdict()):
                return Answered("done", command, {name: values[name] for name in command.keeps}, tells)
        if command.otherwise is not None and told == command.otherwise:
            return Answered("refused", command)
        return Answered("none", command)

    def _pattern(self, command: Command, values: Mapping[str, FieldValue]) -> re.Pattern[str]:
        """Write what answers a command as a pattern: its own values as they are, settings as groups of their names."""
        key = (command.send, tuple(sorted(values.items())))
        if key not in self.patterns:
            ending = "\n" if self.dialect.answer_ending == "cr-lf" else ""
            seen = set[str]()
            self.patterns[key] = re.compile(ending.join(_line_pattern(command, line, values, seen) for line in command.answer))
        return self.patterns[key]


def _line_pattern(command: Command, line: str, values: Mapping[str, FieldValue], seen: set[str]) -> str:
    parts, at = [], 0
    for hole in HOLE.finditer(line):
        name, how = hole[1], hole[2]
        parts.append(re.escape(line[at : hole.start()]))
        at = hole.end()
        if name in values:
            value = command.fields[name].written(name, values[name]).decode("ascii") if how == "code" else str(values[name])
            parts.append(re.escape(value))
        elif name in seen:
            parts.append(f"(?P={name})")
        else:
            seen.add(name)
            parts.append(f"(?P<{name}>{SHAPES.get(name, PLAIN)})")
    return "".join(parts) + re.escape(line[at:])


def _unasked(dialect: Dialect) -> Iterator[Unasked]:
    """List what a family says without being asked."""
    if dialect.boot is not None:
        yield Unasked(re.compile(re.escape(dialect.boot.ready)), "it has started and is ready")
        yield Unasked(re.compile(re.escape(dialect.boot.text)), "it starts")
    for text, means in ((dialect.on_link, "somebody links to it"), (dialect.on_unlink, "whoever was linked has left")):
        if text:
            yield Unasked(re.compile(re.escape(text)), means)
    if dialect.arrives:
        head = re.escape(dialect.arrives).replace(re.escape("{count}"), r"\d{1,4}")
        yield Unasked(re.compile(f"{head}.*"), "bytes come over the air")
    if any(it.does == "take" for it in dialect.commands):
        yield Unasked(re.compile(r">"), "it waits for the bytes")
        yield Unasked(re.compile(r"SEND OK"), "the bytes are sent")
        yield Unasked(re.compile(r"busy p\.\.\."), "it is still busy with the line before")


def _read(name: str, text: str) -> FieldValue | None:
    """Read a setting that an answer tells; None where it cannot be one."""
    if name in ("address", "bound"):
        try:
            return ":".join(read_address(text))
        except OutOfRange:
            return None
    return int(text) if name in NUMBERS and text.isdigit() else text
