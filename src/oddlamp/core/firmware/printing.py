"""A program printed as one source file that can be read from top to bottom."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.behaviour.arithmetic import EYE
from oddlamp.core.behaviour.program import (
    START,
    Add,
    Blink,
    Colour,
    Event,
    Given,
    Level,
    Next,
    Play,
    Program,
    Pulse,
    Remember,
    Restore,
    Run,
    Rung,
    Say,
    Step,
    Stop,
    Switch,
)
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import WordDesign
from oddlamp.core.errors import DomainError
from oddlamp.core.firmware.engine import DUE, STATES, STEPS, only_used
from oddlamp.core.firmware.hearing import hearing
from oddlamp.core.firmware.loop import INPUTS_HEAD, INPUTS_TAIL, LOOP, OUT
from oddlamp.core.firmware.missing import heard_by, why_not_printed
from oddlamp.core.firmware.names import named, said
from oddlamp.core.parts.models import BoardPart

SOURCE_WORDS: Final = 1
FIRST_INPUT: Final = 2


class NotPrinted(DomainError):
    """A program with something in it that cannot be printed yet; ``allowed`` says what, and nothing is printed."""

    code = "not-printed"


class Printer:
    """Prints the program of one host."""

    def __init__(self, design: Design, program: Program) -> None:
        self.design, self.program = design, program
        self.lamps, self.inputs, self.cues = list(program.lamps), list(program.inputs), list(program.cues)
        self.runs: list[Run] = sorted((run for runs in program.handlers.values() for run in runs), key=lambda it: it.at)
        self.at = {run.at: place for place, run in enumerate(self.runs)}
        self.events: list[Event] = list(program.handlers)
        numbers: dict[Event, list[str]] = {
            ("heard", word.id): [one.id for one in word.parameters] for it in heard_by(design, program.host) for word in it.words
        }
        self.carried = {run.at: numbers.get(event, []) for event, runs in program.handlers.items() for run in runs}
        self.values = max([1, *map(len, numbers.values())])

    def text(self) -> str:
        """Return the whole file.

        Raises:
            NotPrinted: something of it cannot be printed yet.
        """
        missing = dict.fromkeys(why_not_printed(self.design, self.program))
        if missing:
            raise NotPrinted(field="program", given=self.program.host, allowed="a program without " + "; ".join(missing))
        rules, rest = "\n".join(self._rules()), "\n".join((self._happen(), DUE, self._frame()))
        ahead = "\n".join((self._head(), self._tables(), STATES, self._ahead()))
        steps = "// ---- What a step does ----\n\n" + only_used(STEPS, rules + rest)
        return "\n".join((ahead, steps, rules, rest))

    def _head(self) -> str:
        title = said(self.design.plan.title)
        links = self.design.plan.links
        mine = [it for it in self.design.wires.values() if self.program.host in (links[it.id].a, links[it.id].b)]
        speed_bd = round(mine[0].baud.known) if mine else 9600
        lines = [
            f"// {title}: what the {said(self.design.nodes[self.program.host].label)} does.",
            "",
            "#include <stdint.h>",
            "#include <stddef.h>",
            "",
            f"static const uint32_t PORT_BD = {speed_bd}UL;",
            "",
        ]
        lines += [f"enum LampName : uint8_t {{ {''.join(named('LAMP', it) + ', ' for it in self.lamps)}LAMPS }};"]
        lines += [f"enum InputName : uint8_t {{ {''.join(named('INPUT', it) + ', ' for it in self.inputs)}INPUTS }};"]
        lines += [f"enum CueName : uint8_t {{ {''.join(named('CUE', it) + ', ' for it in self.cues)}CUE_COUNT }};"]
        events = "".join(named("ON", "_".join(it)).replace(":", "_").replace("-", "_") + ", " for it in self.events)
        lines += [f"enum EventName : uint8_t {{ {events}EVENTS }};"]
        every = [it for it in self.events if it[0] == "every"]
        lines += [
            f"static const uint8_t RULES = {max(len(self.runs), 1)}, CUES = {max(len(self.cues), 1)}, INTERVALS = {len(every)}, VALUES = {self.values};"
        ]
        return "\n".join(lines) + "\n"

    def _event(self, event: Event) -> str:
        return named("ON", "_".join(event)).replace(":", "_").replace("-", "_")

    def _tables(self) -> str:
        lines, ladders = ["// ---- What the plan says ----", ""], []
        rows = []
        for name in self.lamps:
            spec = self.program.lamps[name]
            ladder = f"LADDER_{name.upper()}"
            ladders.append(f"static const uint8_t {ladder}[] = {{{', '.join(map(str, spec.ladder))}}};")
            rows.append(
                f"  {{{spec.lights}, {str(spec.fades).lower()}, {spec.cap}, {str(spec.is_eyed).lower()}, {len(spec.ladder)}, {ladder}}},  // {said(self.design.lamps[name].label)}"
            )
        lines += ladders
        lines += [
            "struct Lights { uint8_t lights; bool fades; uint8_t cap; bool is_eyed; uint8_t rungs; const uint8_t *ladder; };"
        ]
        lines += ["static const Lights LIGHTS[] = {", *rows, "};"]
        lines += [
            "// What share of light looks so bright to the eye",
            f"static const uint8_t EYE[256] = {{{', '.join(map(str, EYE))}}};",
        ]
        lines += ["struct Pin { uint8_t pin, lamp, light; bool is_dimmed, is_inverted; };", "static const Pin PINS[] = {"]
        for lamp_id, light, label, is_dimmed, is_inverted in self.pins():
            lines.append(
                f"  {{{_pin(label)}, {named('LAMP', lamp_id)}, {light}, {str(is_dimmed).lower()}, {str(is_inverted).lower()}}},"
            )
        lines += ["};", f"static const uint8_t PIN_COUNT = {len(list(self.pins()))};", ""]
        pictures, frames, cues = list[str](), list[str](), list[str]()
        for name in self.cues:
            code, first = self.program.cues[name], len(frames)
            for frame in code.frames:
                begun = len(pictures)
                for it in frame.pictures:
                    level = -1 if it.level is None else it.level
                    red, green, blue = (-1 if one is None else one for one in it.shares or (None, None, None))
                    is_coloured = str(it.shares is not None).lower()
                    pictures += [
                        f"  {{{named('LAMP', lamp)}, {level}, {is_coloured}, {red}, {green}, {blue}, {it.over_ms}UL}},"
                        for lamp in it.lamps
                    ]
                frames.append(f"  {{{frame.after_ms}UL, {begun}, {len(pictures) - begun}}},")
            cues.append(
                f"  {{FRAMES + {first}, {len(code.frames)}, {str(code.loops).lower()}}},  // {said(self.design.plan.cues[name].label or name)}"
            )
        none = ["  {0, 0, 0},"] if not frames else []
        lines += [
            "struct Picture { uint8_t lamp; int16_t level; bool is_coloured; int16_t red, green, blue; uint32_t over_ms; };"
        ]
        lines += ["static const Picture PICTURES[] = {", *(pictures or ["  {0, -1, false, -1, -1, -1, 0},"]), "};"]
        lines += [
            "struct Frame { uint32_t after_ms; uint16_t first, count; };",
            "static const Frame FRAMES[] = {",
            *frames,
            *none,
            "};",
        ]
        lines += [
            "struct CueTable { const Frame *frames; uint16_t count; bool loops; };",
            "static const CueTable CUE_TABLE[] = {",
        ]
        lines += [*(cues or ["  {FRAMES, 0, false},"]), "};"]
        return "\n".join(lines) + "\n"

    def pins(self) -> Iterator[tuple[str, int, str, bool, bool]]:
        """Yield the pin of each line of each lamp: its lamp, which of its lights it shows, its label, and how."""
        part = self.design.nodes[self.program.host].part
        for name in self.lamps:
            lamp = self.design.lamps[name]
            inverted = {it.signal_id: it.is_inverted for it in lamp.channels}
            for light, signal in enumerate(self.design.lamp_signals(lamp)):
                pin = signal.pin
                assert pin is not None
                is_dimmed = isinstance(part, BoardPart) and name in self.design.dimmed and "pwm" in pin.needs
                is_low = inverted.get(signal.line.id, lamp.load is not None and lamp.load.on_when == "low")
                yield name, light, pin.label or "", is_dimmed, is_low

    def _ahead(self) -> str:
        every = [it for it in self.events if it[0] == "every"]
        size = max(len(every), 1)
        return "\n".join(
            (
                "static uint16_t carried[VALUES];  // what the last word carried",
                f"static ms_t intervals_due[{size}];",
                f"static const ms_t INTERVAL_MS[{size}] = {{{', '.join(it[1] + 'UL' for it in every) or '0'}}};",
                f"static const uint8_t INTERVAL_EVENT[{size}] = {{{', '.join(map(self._event, every)) or '0'}}};",
                "static void happen(uint8_t event, uint8_t source);",
                "static void run_rule(uint8_t rule, uint8_t from, Came came);",
                "",
            )
        )

    def _rules(self) -> Iterator[str]:
        yield "// ---- The rules: a step that waits has its rule go on from there ----\n"
        for place, run in enumerate(self.runs):
            yield "\n".join([f"static void rule_{place}(uint8_t from, Came came) {{", *self._steps(place, run), "}"]) + "\n"
        cases = [f"    case {place}: rule_{place}(from, came); break;" for place in range(len(self.runs))]
        yield (
            "\n".join(["static void run_rule(uint8_t rule, uint8_t from, Came came) {", "  switch (rule) {", *cases, "  }", "}"])
            + "\n"
        )

    def _steps(self, place: int, run: Run) -> Iterator[str]:
        yield "  (void)from, (void)came;"
        for at, due in enumerate(run.steps):
            if due.after_ms:
                yield f"  if (from <= {at}) {{ wait({place}, {at + 1}, {due.after_ms}UL, came); return; }}"
            guard = f"  if (from <= {at + 1}) "
            for call in self._calls(due.step, self.carried.get(run.at, [])):
                yield f"{guard}{call};  // {said(due.told.says)}"

    def _calls(self, step: Step, names: list[str]) -> Iterator[str]:
        lamps = [named("LAMP", it) for it in getattr(step, "lamps", ())]
        over = getattr(step, "over_ms", 0)
        match step:
            case Switch():
                yield from (f"{step.to}({it}, {f'{over}UL, ' if step.to != 'hold' else ''}came)" for it in lamps)
            case Level():
                yield from (f"level({it}, {_number(step.level, names)}, {over}UL, came)" for it in lamps)
            case Colour():
                red, green, blue = (-1 if one is None else _number(one, names) for one in step.shares)
                yield from (f"colour({it}, {red}, {green}, {blue}, {over}UL, came)" for it in lamps)
            case Add():
                yield from (f"add({it}, {step.by}, {str(step.goes_round).lower()}, {over}UL, came)" for it in lamps)
            case Rung():
                ways = f"{str(step.goes_up).lower()}, {str(step.goes_round).lower()}"
                yield from (f"rung({it}, {ways}, {over}UL, came)" for it in lamps)
            case Blink():
                yield from (f"blink({it}, {step.on_ms}UL, {step.off_ms}UL, {step.times}, came)" for it in lamps)
            case Pulse():
                to = -1 if step.level is None else _number(step.level, names)
                yield from (f"pulse({it}, {to}, {step.for_ms}UL, came)" for it in lamps)
            case Remember():
                yield from (f"remember({it})" for it in lamps)
            case Restore():
                yield from (f"restore({it}, {over}UL, came)" for it in lamps)
            case Play() | Next() | Stop():
                yield from self._of_cues(step)
            case Say():
                talk = self.design.talks[step.talk]
                values = {name: round(it) for name, it in step.fill.items() if isinstance(it, float | int)}
                content = talk.vocabulary.word(step.word).built(values) + talk.vocabulary.terminator
                yield f"say({len(content)}, (const uint8_t[]){{{', '.join(map(str, content))}}})" if content else "(void)came"

    def _of_cues(self, step: Play | Next | Stop) -> Iterator[str]:
        if isinstance(step, Stop) and step.cue is None:
            yield "stop_all(came)"
        elif step.cue in self.program.cues:
            name = named("CUE", step.cue or "")
            yield (
                f"play({name})"
                if isinstance(step, Play)
                else f"picture({name}, now_ms)"
                if isinstance(step, Next)
                else f"stop_cue({name})"
            )

    def _happen(self) -> str:
        lines = ["static void happen(uint8_t event, uint8_t source) {", "  Came came = {event, source, now_ms, 0, {}};"]
        lines += ["  for (uint8_t at = 0; at < VALUES; at++) came.values[at] = carried[at];"]
        lines += ["  switch (event) {"]
        for event in self.events:
            lines.append(f"    case {self._event(event)}:")
            for run in self.program.handlers[event]:
                place, unless = self.at[run.at], run.unless
                lines.append(f"      waits[{place}].runs = false;")
                test = ""
                if unless is not None:
                    what = (
                        f"lamps[{named('LAMP', unless.lamp)}].kept.on"
                        if unless.lamp
                        else f"inputs[{named('INPUT', unless.input or '')}].is_on"
                    )
                    test = f"if ({'!' if unless.is_on else ''}{what}) "
                lines.append(f"      {test}run_rule({place}, 0, came);")
            lines.append("      break;")
        lines += ["  }", "  (void)came;", "}", ""]
        return "\n".join(lines)

    def _frame(self) -> str:
        lines = ["// ---- Words ----", ""]
        return "\n".join(
            (
                *lines,
                hearing(next(iter(heard_by(self.design, self.program.host)), None), self._acts),
                self._inputs(),
                OUT,
                self._setup(),
                LOOP,
            )
        )

    def _acts(self, word: WordDesign) -> str:
        event = ("heard", word.id)
        return f"happen({self._event(event)}, {SOURCE_WORDS});" if event in self.program.handlers else ""

    def _inputs(self) -> str:
        rows = []
        for at, name in enumerate(self.inputs):
            it = self.program.inputs[name]
            down, up = ("pressed", "released") if it.kind == "button" else ("on", "off")
            events = [
                self._event(("input", name, one)) if ("input", name, one) in self.program.handlers else "EVENTS"
                for one in (down, up)
            ]
            pin = next(
                (
                    one
                    for one in self.design.pins
                    if one.line.owner == ("inputs", name.partition(".")[0]) and one.host == self.program.host
                ),
                None,
            )
            label = _pin(pin.label or "0") if pin is not None else "0"
            rows.append(f"  {{{label}, {it.settle_ms}, {events[0]}, {events[1]}, {FIRST_INPUT + at}}},  // {said(name)}")
        rows = rows or ["  {0, 0, EVENTS, EVENTS, 0},"]
        return INPUTS_HEAD + "\n".join(rows) + INPUTS_TAIL

    def _setup(self) -> str:
        orders = [it for it in self.lamps if (one := self.program.orders.get(it)) is not None and one.power_up == "on"]
        lines = [f"  become({named('LAMP', it)}, lit(lamps[{named('LAMP', it)}].kept), 0);" for it in orders]
        start = [f"  happen({self._event(START)}, 0);"] if START in self.program.handlers else []
        return "\n".join(["static void begin() {", *lines, *start, "}", ""])


def _number(given: Given, names: list[str]) -> str:
    """Return a number of 255 parts as the program has it: settled, or of what the word carried."""
    if given.carried is None:
        return str(given.value)
    return f"scaled(came.values[{names.index(given.carried)}], {given.least}, {given.most})"


def _pin(label: str) -> str:
    return label if label.isdigit() else f"PIN_{label.upper()}"


def print_program(design: Design, program: Program) -> str:
    """Return the program of a host as one file.

    Raises:
        NotPrinted: something of it cannot be printed yet.
    """
    return Printer(design, program).text()
