"""The steps of rules as calls of a printed program."""

from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from oddlamp.core.behaviour.arithmetic import LADDER_TOP
from oddlamp.core.behaviour.inputs import TURNED_MOST
from oddlamp.core.behaviour.program import (
    INPUT,
    Add,
    Blink,
    Chance,
    CodedSpec,
    Colour,
    Event,
    Given,
    Level,
    March,
    MoverSpec,
    Next,
    Now,
    Open,
    Play,
    Program,
    Pulse,
    Remember,
    Restore,
    Run,
    Rung,
    Say,
    Score,
    Send,
    Show,
    Step,
    Stop,
    Switch,
    Text,
    Tone,
    Turn,
)
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import WordDesign
from oddlamp.core.firmware.names import named, said
from oddlamp.core.plan.rules import carried_name
from oddlamp.core.words.frames import CHECKS, Field

Row = dict[str, Any]
PATTERNS: Final = {
    "wipe": "WIPE",
    "chase": "CHASE",
    "bounce": "BOUNCE",
    "random": "RANDOM_ONE",
    "rain": "RAIN",
    "neighbours": "NEIGHBOURS",
}
STAYS: Final = -1
SIGNS: Final = {None: "NO_SIGN", "minus": "MINUS", "twos-complement": "TWOS", "offset": "OFFSET"}
CHECK_OF: Final = {"xor": "XOR_OF", "sum": "SUM_OF", "crc-8": "CRC_OF"}


class Carried(NamedTuple):
    """What an event carries: its numbers in their order, and the name of its text."""

    numbers: tuple[str, ...] = ()
    text: str | None = None


class Calls:
    """Prints steps as calls. ``says`` are the words that are said, ``texts`` the texts that are shown, each as it came up."""

    def __init__(self, design: Design, program: Program, carried: dict[Event, Carried], ports: dict[str, int]) -> None:
        self.design, self.program, self.carried, self.ports = design, program, carried, ports
        self.says: list[Row] = []
        self.texts: list[str] = []
        two = [it for it, spec in program.movers.items() if isinstance(spec, MoverSpec)]
        coded = [it for it, spec in program.movers.items() if isinstance(spec, CodedSpec)]
        self.mover_at = {name: at for names in (two, coded) for at, name in enumerate(names)}

    def of(self, event: Event, run: Run) -> list[Row]:
        """Return the parts of a rule: what it does at once, and after each wait what it does then."""
        mine, parts = self.carried.get(event, Carried()), [Row(calls=[], wait_ms=0)]
        for due in run.steps:
            if due.after_ms:
                parts[-1]["wait_ms"] = due.after_ms
                parts.append(Row(calls=[], wait_ms=0))
            calls = list(self._calls(due.step, mine))
            parts[-1]["calls"] += [Row(code=it, stage=self._stage(due.step)) for at, it in enumerate(calls)]
        return parts

    def _stage(self, step: Step) -> str:
        """Return the stage a step is about: its lamp's where it is one, else the behaviour's."""
        lamps: tuple[str, ...] = getattr(step, "lamps", ())
        return self.design.lamps[lamps[0]].stage if len(lamps) == 1 else f"rules.{self.program.host}"

    def _calls(self, step: Step, mine: Carried) -> Iterator[str]:
        lamps = [named("LAMP", it) for it in getattr(step, "lamps", ())]
        over = f"{getattr(step, 'over_ms', 0)}UL"
        match step:
            case Switch():
                yield from (f"{step.to}({it}, {over})" for it in lamps)
            case Level():
                level = number(step.level, mine)
                yield from (f"stay({it}, {over})" if level is None else f"level({it}, {level}, {over})" for it in lamps)
            case Colour():
                shares = ", ".join(str(_or_stays(it, mine)) for it in step.shares)
                what = "colour" if step.first is None else "pixels"
                which = "" if step.first is None else f"{step.first}, {step.last}, "
                yield from (f"{what}({it}, {which}{shares}, {over})" for it in lamps)
            case Add():
                yield from (f"add({it}, {step.by}, {_bool(step.goes_round)}, {over})" for it in lamps)
            case Rung():
                yield from (f"rung({it}, {_bool(step.goes_up)}, {_bool(step.goes_round)}, {over})" for it in lamps)
            case Chance():
                yield from (f"random_level({it}, {step.least}, {step.most - step.least + 1}, {over})" for it in lamps)
            case Blink():
                yield from (f"blink({it}, {step.on_ms}UL, {step.off_ms}UL, {step.times})" for it in lamps)
            case Pulse():
                yield from (f"pulse({it}, {_or_stays(step.level, mine)}, {step.for_ms}UL)" for it in lamps)
            case Tone():
                yield from (f"tone_at({it}, {step.pitch_hz}, {step.for_ms}UL)" for it in lamps)
            case March():
                for name, it in zip(step.lamps, lamps, strict=True):
                    is_chain = self.program.lamps[name].is_chain
                    call = f"march({it}, {PATTERNS[step.pattern]}, {step.step_ms}UL, {step.rule})"
                    yield call if is_chain else f"on({it}, 0)"
            case Remember():
                yield from (f"remember({it})" for it in lamps)
            case Restore():
                yield from (f"restore({it}, {over})" for it in lamps)
            case Send():
                yield from (f"send({it}, {step.code}UL)" for it in lamps)
            case Text() | Show() | Score():
                yield from (self._of_signs(step, it, mine) for it in lamps)
            case Turn():
                yield from self._turn(step, mine)
            case Play() | Next() | Stop():
                yield from self._of_cues(step)
            case Say():
                yield f"{self._say(step, mine)}()"
            case Open():
                return

    def _of_signs(self, step: Text | Show | Score, lamp: str, mine: Carried) -> str:
        if isinstance(step, Score):
            told = None if step.to is None else number(step.to, mine)
            moved = f"score_of({lamp}) + {step.by}" if told is None else told
            return f"score({lamp}, {moved}, {_bool(step.goes_round)})"
        if isinstance(step, Show):
            return f"show_time({lamp})" if step.value is None else f"show_value({lamp}, {self._now(step.value)})"
        scroll, inverted, reverse = step.manner
        manner = f"{STAYS if scroll is None else scroll}, {_or_minus(inverted)}, {_or_minus(reverse)}"
        if step.carried is not None:
            return f"{'text' if step.carried == mine.text else 'stay_text'}({lamp}, {'carried_text, ' if step.carried == mine.text else ''}{manner})"
        if step.text not in self.texts:
            self.texts.append(step.text)
        return f"fixed_text({lamp}, TEXT_{self.texts.index(step.text)}, {manner})"

    def _turn(self, step: Turn, mine: Carried) -> Iterator[str]:
        spec, at = self.program.movers[step.mover], self.mover_at[step.mover]
        is_coded = isinstance(spec, CodedSpec)
        run, turn, speed = ("run_coded", "turn_coded", "coded_speed") if is_coded else ("run", "turn_to", "speed_of")
        match step.to:
            case "reverse" | "resume":
                yield f"{turn}({at}, {_bool(step.to == 'resume')})"
            case "stop":
                yield f"{run}({at}, 0)"
            case "step":
                yield f"{run}({at}, {speed}({at}) + {step.by})"
            case _:
                told = None if step.speed is None else number(step.speed, mine)
                if step.speed is None or told is not None:
                    yield f"{run}({at}, {f'{told or 0} - {step.less}' if step.less else told or 0})"

    def _of_cues(self, step: Play | Next | Stop) -> Iterator[str]:
        if isinstance(step, Stop) and step.cue is None:
            yield "stop_all()"
        elif step.cue in self.program.cues:
            name = named("CUE", step.cue or "")
            yield (
                f"play({name})"
                if isinstance(step, Play)
                else f"picture({name}, now_ms)"
                if isinstance(step, Next)
                else f"stop_cue({name})"
            )

    def _now(self, it: Now) -> str:
        """Return what tells how a lamp or an input is at the moment."""
        if it.part == "value":
            value = f"value_of({named('INPUT', it.lamp)})"
            return f"{it.least} + (int32_t)scaled({value}, 0, {TURNED_MOST}, {it.most - it.least})"
        lamp, span = named("LAMP", it.lamp), f"{it.least}, {it.most}"
        match it.part:
            case "score":
                return f"score_of({lamp})"
            case "level" | "on":
                return f"{it.part}_now({lamp}, {span})"
            case "text":
                return f"text_now({lamp})"
            case part:
                return f"colour_now({lamp}, {('red', 'green', 'blue').index(part)}, {span})"

    def _say(self, step: Say, mine: Carried) -> str:
        """Return the name of the function that says a word; it is made where there is none alike."""
        talk = self.design.talks[step.talk]
        word = talk.vocabulary.word(step.word)
        lines = [*self._lines(word, step, mine), *_letters(talk.vocabulary.terminator)]
        port = self.ports[step.talk]
        for it in self.says:
            if it["lines"] == lines and it["port"] == port:
                return str(it["name"])
        name = f"say_{step.talk}_{step.word}N{len(self.says)}"
        self.says.append(Row(name=name, told=said(word.label), stage=talk.vocabulary.stage, lines=lines, port=port))
        return name

    def _lines(self, word: WordDesign, step: Say, mine: Carried) -> Iterator[str]:
        if word.shape is None:
            yield from _letters(word.content)
            return
        for piece in word.shape.pieces:
            if isinstance(piece, bytes):
                yield from _letters(piece)
                continue
            field = word.shape.fields[piece]
            yield (
                f"say_check({CHECK_OF[field.kind]});" if field.kind in CHECKS else self._value(field, step.fill.get(piece), mine)
            )

    def _value(self, field: Field, given: float | str | Now | None, mine: Carried) -> str:
        carried = carried_name(given)
        if field.kind == "text":
            code = (
                self._now(given)
                if isinstance(given, Now) and given.part == "text"
                else "carried_text"
                if carried is not None and carried == mine.text
                else f'"{_literal(given)}"'
                if isinstance(given, str) and carried is None
                else '""'
            )
            return f"say_text({code}, {field.least}, {field.most}, {ord(field.escape) if field.escape else 0});"
        code = str(field.least)
        if isinstance(given, Now) and given.part != "text":
            code = self._now(given)
        elif carried is not None and carried in mine.numbers:
            code = f"carried[{mine.numbers.index(carried)}]"
        elif isinstance(given, int | float):
            code = str(min(max(round(given), field.least), field.most))
        code = f"within({code}, {field.least}, {field.most})"
        if field.signed == "offset":
            code = f"{code} - {field.least}"
        elif field.signed == "twos-complement":
            code = f"({code}) & {(1 << field.bits) - 1}"
        match field.kind:
            case "hex":
                return f"say_hex((uint32_t)({code}), {field.width});"
            case "byte" | "two-bytes" | "two-bytes-little":
                return f"say_raw((uint32_t)({code}), {field.width}, {_bool(field.kind == 'two-bytes-little')});"
            case _:
                return f"say_decimal({code});"


def number(given: Given, mine: Carried) -> str | None:
    """Return a number as the program has it: settled, or of what the event carried; None where that carries no such."""
    if given.carried is None:
        return str(given.value)
    if given.carried not in mine.numbers:
        return None
    code = f"carried[{mine.numbers.index(given.carried)}]"
    if not given.top:
        return code
    if given.top == LADDER_TOP:
        return f"share({code}, {given.least}, {given.most})"
    return f"(int32_t)scaled({code}, {given.least}, {given.most}, {given.top})"


def carried_by(design: Design, program: Program, words: dict[Event, WordDesign]) -> dict[Event, Carried]:
    """Return what each event carries."""
    found: dict[Event, Carried] = {}
    for event in program.handlers:
        if event[0] == "input" and event[-1] == "moved":
            found[event] = Carried((INPUT,))
        elif event in words:
            parameters = words[event].parameters
            text = next((it.id for it in parameters if it.written == "text"), None)
            found[event] = Carried(tuple(it.id for it in parameters if it.written != "text"), text)
    return found


def _or_stays(given: Given | None, mine: Carried) -> str:
    told = None if given is None else number(given, mine)
    return str(STAYS) if told is None else told


def _or_minus(given: bool | None) -> int:
    return STAYS if given is None else int(given)


def _bool(given: bool) -> str:
    return str(given).lower()


def _letters(content: bytes) -> Iterator[str]:
    if content:
        yield " ".join(f"say_byte({byte});" for byte in content)


def _literal(text: object) -> str:
    """Return a text between quotes: each sign as its octal number, so that none of it is ever code."""
    return "".join(f"\\{byte:03o}" for byte in str(text).encode("ascii", "replace"))
