"""A log read back: which family and version spoke, what each line means, what is set by now, and where the script and the log part."""

import re
from collections import Counter, deque
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final, Literal, NamedTuple

from oddlamp.core.base import si
from oddlamp.core.modules.script import Step
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.reading.replies import Answered, Speaker
from oddlamp.core.reading.text import Line
from oddlamp.core.words.frames import FieldValue

KNOWN: Final = ("name", "pin", "speed", "role", "address", "bound", "mode", "network", "home")
NAMES: Final = {
    "name": "its name", "pin": "its PIN", "speed": "its speed", "role": "its role", "address": "its address", "bound": "whom it is bound to",
    "mode": "its mode", "parity": "its parity", "network": "the network it opens", "home": "the network it joins", "state": "its state", "kind": "its kind",
    "echo": "whether it repeats what it hears", "mux": "how many may be linked", "server": "whether it lets others in", "timeout": "when it lets idle ones go", "port": "its port",
}  # fmt: skip
DEEDS: Final = {
    "initialise": "gets its radio ready", "restart": "starts it anew", "factory": "takes back all that was ever set", "forget": "lets it forget whom it knows",
    "unlink": "ends the link", "link": "links to another", "pair": "pairs with another", "take": "says that bytes follow",
}  # fmt: skip
ASKS: Final = {"AT": "asks whether it listens"} | dict.fromkeys(
    ("AT+VERSION", "AT+VERSION?", "AT+VERR?", "AT+GMR"), "asks which version it is"
)
BESIDE: Final = ("parity", "stop", "channel", "cipher")
EXCHANGES_MOST: Final = 1500
HEARD_MOST: Final = 200  # lines after one command: what goes on for longer is traffic and no answer


class Exchange(NamedTuple):
    """Something that was said, and the lines that followed it; what came before anything was said has no ``said``.

    ``is_doubtful`` where it may be no more than the line before, repeated with noise in it.
    """

    said: Line | None
    heard: tuple[Line, ...]
    is_doubtful: bool = False


@dataclass(frozen=True, slots=True)
class Fit:
    """How well a family, or a version of it, explains a log: exchanges it explains, those it cannot, and those that only it could."""

    speaker: Speaker
    explained: int
    against: int

    @property
    def dialect(self) -> Dialect:
        """The family, as that version talks it."""
        return self.speaker.dialect

    @property
    def version(self) -> str | None:
        """Which version; None for the family as it mostly is."""
        return self.speaker.version


@dataclass(frozen=True, slots=True)
class SettingTold:
    """What a setting is by the log, in which lines, and whether two things there agree on it."""

    name: str
    value: FieldValue
    lines: tuple[int, ...]
    is_sure: bool


@dataclass(frozen=True, slots=True)
class Meant:
    """One line with what it means; ``is_known`` is False for what no family explains."""

    line: Line
    means: str
    is_known: bool


@dataclass(frozen=True)
class Read:
    """A whole log, read back. ``fits`` are the best, one where it is told for sure; ``because`` says why not, where there are more or none."""

    fits: tuple[Fit, ...]
    because: str
    meant: tuple[Meant, ...] = ()
    settings: tuple[SettingTold, ...] = ()
    exchanges: tuple[Exchange, ...] = field(default=())


def exchanges_of(lines: Iterable[Line]) -> Iterator[Exchange]:
    """Part a log into what was said and what followed. Where it does not tell who spoke, a line of AT is said, but for one that only repeats it."""
    said: Line | None = None
    heard: list[Line] = []
    doubt = False
    for line in lines:
        is_said = line.side == "out" or (line.side == "" and re.match(r"AT(?:$|[+E])", line.text, re.IGNORECASE) is not None)
        is_echo = (
            is_said
            and line.side == ""
            and said is not None
            and said.text == line.text
            and not heard
            and said.number == line.number - 1
        )
        if is_said and not is_echo:
            if said is not None or heard:
                yield Exchange(said, tuple(heard), doubt)
            doubt = said is not None and not heard and line.side == "" and _is_near(said.text, line.text)
            said, heard = line, []
        elif len(heard) < HEARD_MOST:
            heard.append(line)
    if said is not None or heard:
        yield Exchange(said, tuple(heard), doubt)


def _is_near(one: str, other: str) -> bool:
    """Tell whether two lines differ in so few signs that one may be the other with noise in it."""
    return len(one) == len(other) and 0 < sum(a != b for a, b in zip(one, other, strict=True)) <= 1 + len(one) // 5


def speakers_of(dialects: Iterable[Dialect]) -> Iterator[Speaker]:
    """Walk every family that talks on its wire, as it is and in each of its versions."""
    for dialect in dialects:
        if any(not it.is_hex for it in dialect.commands):
            yield Speaker(dialect)
            for version in dialect.versions:
                yield Speaker(dialect.version(version.id), version.id)


def _asked(speaker: Speaker, it: Exchange) -> tuple[str, ...]:
    """Return the lines of an exchange that answer it: what a family says by itself is left out."""
    return tuple(line.text for line in it.heard if speaker.says_itself(line.text) is None)


def fit_of(speaker: Speaker, exchanges: Sequence[Exchange]) -> Fit:
    """Count what a family explains of a log, and what it cannot."""
    explained = against = 0
    for it in exchanges:
        if it.said is None:
            explained += sum(speaker.says_itself(line.text) is not None for line in it.heard)
            continue
        heard = _asked(speaker, it)
        found = speaker.answered(it.said.text, heard)
        if found.verdict in ("done", "refused"):
            explained += 1
        elif heard or found.verdict == "silent":
            against += 1
    return Fit(speaker, explained, against)


def read_back(lines: Iterable[Line], dialects: Sequence[Dialect], known: tuple[str, str | None] | None = None) -> Read:
    """Read a log.

    Args:
        lines: as ``lines_of`` gives them.
        dialects: all families.
        known: the family and version that it is known to be of, where that is so: only it is asked then.
    """
    exchanges = list(deque(exchanges_of(lines), maxlen=EXCHANGES_MOST))  # what was said last is what holds
    fits = [fit_of(it, exchanges) for it in speakers_of(dialects) if known in (None, (it.dialect.id, it.version))]
    best = max(((it.explained - it.against, it.explained) for it in fits), default=(0, 0))
    if best[1] == 0:
        nothing = "nothing of it is an answer of a family known here" if exchanges else "there is nothing in it"
        return Read((), nothing, tuple(_meant(None, exchanges)), (), tuple(exchanges))
    ties = tuple(it for it in fits if (it.explained - it.against, it.explained) == best)
    because = ""
    if len(ties) > 1:
        because = f"{' and '.join(it.dialect.label.lower() for it in ties[:3])} answer all of this alike: {_parting(ties)}"
    first = ties[0]
    return Read(ties, because, tuple(_meant(first.speaker, exchanges)), tuple(_settings(ties, exchanges)), tuple(exchanges))


def _parting(ties: Sequence[Fit]) -> str:
    """Name a question that families answer each in its own way."""
    asked = Counter(it.send for fit in ties for it in fit.dialect.commands if not it.fields and it.does is None and not it.is_hex)
    for send in sorted(asked, key=lambda it: (it not in ("AT+VERSION?", "AT+VERSION", "AT+VERR?", "AT+GMR"), it)):
        answers = {
            next((it.answer for it in fit.dialect.commands if it.send == send), (fit.dialect.unknown or "",)) for fit in ties
        }
        if len(answers) == len(ties):
            return f"ask {send}"
    return "ask more of it"


# What lines mean


def exchange_means(speaker: Speaker, it: Exchange) -> tuple[Meant, ...]:
    """Say what each line of one exchange means."""
    return tuple(_meant(speaker, (it,)))


def _meant(speaker: Speaker | None, exchanges: Sequence[Exchange]) -> Iterator[Meant]:
    for it in exchanges:
        if it.said is not None:
            means = said_means(speaker, it.said.text)
            yield Meant(it.said, means, bool(means))
        if speaker is None:
            yield from (Meant(line, "", False) for line in it.heard)
            continue
        found = speaker.answered(it.said.text, _asked(speaker, it)) if it.said is not None else None
        for line in it.heard:
            own = speaker.says_itself(line.text)
            if own is not None:
                yield Meant(line, own, True)
            elif it.said is not None and speaker.dialect.echo and line.text == it.said.text:
                yield Meant(line, "it repeats what it heard", True)
            elif found is None or found.verdict in ("none", "silent"):
                yield Meant(line, "", False)
            else:
                yield Meant(line, _heard_means(found, line.text), True)


def said_means(speaker: Speaker | None, text: str) -> str:
    """Say what a line to a module asks or sets; empty for what is no command of it."""
    found = speaker.command_of(text) if speaker is not None else None
    if found is None:
        return ""
    command, values = found
    if values is None:
        return "a command of it, with a value that cannot be"
    if command.does is not None:
        return DEEDS[command.does]
    kept = [name for name in command.keeps if name in NAMES and (name not in BESIDE or len(command.keeps) == 1)]
    if kept:
        return "sets " + " and ".join(f"{NAMES[name]} to {value_told(name, values[name])}" for name in kept)
    if command.sets is not None:
        return "drives one of its pins"
    holes = [name for name in NAMES if name not in BESIDE and any("{" + name in line for line in command.answer)]
    if holes:
        return "asks " + " and ".join(NAMES[name] for name in holes)
    return ASKS.get(command.send, "asks it something")


def value_told(name: str, value: FieldValue) -> str:
    """Say a setting's value."""
    if name == "speed" and isinstance(value, int):
        return si(value, "Bd")
    if name == "role":
        return "master: it calls" if value in (1, "1") else "slave: it waits to be called"
    return str(value)


def _heard_means(found: Answered, text: str) -> str:
    if found.verdict == "refused":
        return "it refuses that" if text.startswith("ERROR") else "not now"
    mine = [(name, value) for name, value in found.tells.items() if str(value) in text or len(found.tells) == 1]
    if mine and text != "OK":
        return ", ".join(f"{NAMES.get(name, name)} is {value_told(name, value)}" for name, value in mine)
    if found.sets and text.startswith("OK"):
        return "it is kept: " + ", ".join(f"{NAMES.get(name, name)} {value_told(name, value)}" for name, value in found.sets.items() if name in NAMES and name not in BESIDE)  # fmt: skip
    return "done" if text.startswith("OK") else "its answer"


# What is set


def _settings(ties: Sequence[Fit], exchanges: Sequence[Exchange]) -> Iterator[SettingTold]:
    """Tell what is set by the end of the log: sure is what a command and its answer, or two things, agree on, in every family that fits."""
    found = [_settings_in(it.speaker, exchanges) for it in ties]
    for name in KNOWN:
        told = [it.get(name) for it in found]
        if all(it is not None for it in told):
            values = {it.value for it in told if it is not None}
            first = told[0]
            assert first is not None
            yield SettingTold(name, first.value, first.lines, first.is_sure and len(values) == 1)


def _settings_in(speaker: Speaker, exchanges: Sequence[Exchange]) -> dict[str, SettingTold]:
    now: dict[str, SettingTold] = {}
    for it in exchanges:
        if it.said is None:
            continue
        answer = speaker.answered(it.said.text, _asked(speaker, it))
        found = speaker.command_of(it.said.text)
        if answer.verdict != "done":
            # Said, and not answered as it should be: what it set may or may not be so.
            for name in found[0].keeps if found is not None else ():
                if name in now and answer.verdict != "refused":
                    now[name] = SettingTold(name, now[name].value, now[name].lines, False)
            continue
        if answer.command is not None and answer.command.does == "factory":
            now.clear()
        for name, value in answer.sets.items():
            now[name] = SettingTold(name, value, (it.said.number,), not it.is_doubtful)
        for name, value in answer.tells.items():
            before = now.get(name)
            agrees = before is not None and _alike(name, before.value, value)
            now[name] = SettingTold(name, value, (*(before.lines if before and agrees else ()), it.said.number), agrees)
    return now


def _alike(name: str, one: FieldValue, other: FieldValue) -> bool:
    return str(one).lower() == str(other).lower() if name in ("address", "bound") else str(one) == str(other)


# Where the script and the log part


class StepRead(NamedTuple):
    """A step of the script beside the log: done, answered otherwise, or not said yet; and what was heard."""

    step: Step
    state: Literal["done", "differs", "open"]
    heard: str


def beside(steps: Sequence[Step], exchanges: Sequence[Exchange]) -> tuple[StepRead, ...]:
    """Lay a log beside a script: each step that says something, with what came of the last time it was said."""
    last = {it.said.text: it for it in exchanges if it.said is not None}
    found = []
    for step in steps:
        if not step.ways:
            continue
        said = [(way, last[text]) for way in step.ways if (text := _plain(way.sent)) in last]
        if not said:
            found.append(StepRead(step, "open", ""))
            continue
        heard = "\n".join(line.text for line in said[-1][1].heard if line.text != _plain(said[-1][0].sent))
        met = any(way.is_met_by(it) for way, one in said for it in _as_heard(way.sent, one))
        found.append(StepRead(step, "done" if met else "differs", heard))
    return tuple(found)


def _plain(content: bytes) -> str:
    return content.decode("latin-1").strip("\r\n")


def _as_heard(sent: bytes, it: Exchange) -> Iterator[bytes]:
    """Yield the bytes of an answer as they would have stood on the wire, with and without line ends, and with what was repeated."""
    texts = [line.text for line in it.heard]
    without = [text for text in texts if text != _plain(sent)]
    for lines in (texts, without, [_plain(sent), *without]):
        yield "".join(f"{text}\r\n" for text in lines).encode("latin-1", "replace")
        yield "".join(lines).encode("latin-1", "replace")
