"""What the text of a printed program is filled with: tables, rules, and which parts of it are there at all."""

from collections.abc import Iterator
from typing import Any, Final

from oddlamp.core.behaviour.arithmetic import EYE
from oddlamp.core.behaviour.framing import BUFFER_MOST
from oddlamp.core.behaviour.program import (
    START,
    Blink,
    Chance,
    CodedSpec,
    Colour,
    Event,
    March,
    MoverSpec,
    Orders,
    Program,
    Pulse,
    Remember,
    Restore,
    Run,
    Say,
    Score,
    Show,
    Step,
    Switch,
    Text,
    Tone,
)
from oddlamp.core.behaviour.winners import TAKES_OVER
from oddlamp.core.design.design import Design
from oddlamp.core.firmware.calls import Calls, Carried, Row, carried_by
from oddlamp.core.firmware.commands import commands_of
from oddlamp.core.firmware.hearing import Words, codes_heard, heard_on, words_of
from oddlamp.core.firmware.names import event_named, named, said
from oddlamp.core.firmware.page import page_of
from oddlamp.core.firmware.pins import Pins, own_events
from oddlamp.core.firmware.radio import radio_of, wants_clock
from oddlamp.core.firmware.tables import coded_table, cue_tables, kinds_of, mover_table, of_day_ms, place_of, sign_tables
from oddlamp.core.layouts.can import face_of
from oddlamp.core.plan.signals import SPANS
from oddlamp.core.sentences.names import Names
from oddlamp.core.sentences.printing import Printer as Sentences

SIGNS_FROM, SIGNS_UNTIL = 32, 127
ORDER_AT: Final = {"off": 0, "on": 1, "last": 2}
LOST_AT: Final = {"keep": 0, "off": 1, "on": 2}
WINNER_AT: Final = {"last-moved": 0, "phone": 1, "local": 2}
OF_SIGNS: Final = (Text, Show, Score)
NO_DOT: Final = 65535
TELL_MOST: Final = 8
LINE_LEAST: Final = BUFFER_MOST + 2
PACKET_MOST: Final = 400  # a topic and the longest word


class Facts:
    """Everything that the text of one host's program is filled with."""

    def __init__(self, design: Design, program: Program) -> None:
        self.design, self.program, self.host = design, program, program.host
        self.pins = Pins(design, program)
        self.runs = [(event, run) for event, runs in program.handlers.items() for run in runs]
        self.runs.sort(key=lambda it: it[1].at)
        self.steps: list[Step] = [due.step for _, run in self.runs for due in run.steps]
        self.carried = carried_by(design, program, words_of(design, self.host))
        self.links = heard_on(design, self.host)
        self.ports = {it.talk.id: at for at, them in enumerate(self.links.values()) for it in them}
        self.calls = Calls(design, program, self.carried, self.ports)
        self.radio = radio_of(design, self.host, has_clock=wants_clock(program), asks_loss=self._asks_loss())
        self.has = self._has()

    def all(self) -> Row:
        """Return what the templates are filled with."""
        ladders: list[tuple[int, ...]] = []
        lamps = list(self._lamps(ladders))
        rules = list(self._rules())
        says = self.calls.says
        words = Words(self.pins.known, self.carried)
        airs = [it["link"] for it in self.radio["lines"]] if self.radio is not None else []
        ears = [
            {
                **words.ear(at, them[0], at, self.port_told(link)),
                "is_radio": link in airs,
                "commands": commands_of(self.design, self.host, link, self.pins.event, asks_loss=self._asks_loss()),
            }
            for at, (link, them) in enumerate(self.links.items())
        ]
        inputs = list(self.pins.inputs())
        chains = list(self.pins.chains())
        signs = [it for it in lamps if it["signs"]]
        panels = list(self.pins.panels({it["id"]: it["signs"] - 1 for it in signs}))
        settings, frames, cues = cue_tables(self.design, self.program)
        moved = [event for event in self.program.handlers if event[-1] == "moved"]
        watches = list(self._watches(ears))
        pins = list(self.pins.lamps(sounds=self.has["tones"]))
        waits = [it["wait"] for it in rules if it["wait"]]
        at_word = {it["id"]: it["at"] for it in reversed(words.words)}
        codes = [
            {**it, "word_at": at_word.get(it["word"])}
            for it in codes_heard(self.design, self.program, self.pins.known, self.carried)
        ]
        texts = self.calls.texts
        clock = self.pins.clock if wants_clock(self.program) else None
        radio, page = self._radio(ears), ""
        if radio is not None and radio["page"] is not None:
            page = page_of(self.design, radio, self.links[radio["page"]["link"]])
        return {
            "radio": radio, "page": page, "clock_address": clock, "has_time": clock is not None or (radio is not None and radio["has_time"]), "behaviour": f"rules.{self.host}", "title": said(self.design.plan.title), "host": said(self.design.nodes[self.host].label),
            "has": {**self.has, "chips": bool(self.pins.chips), "bus": bool(self.pins.chips) or clock is not None, "says_check": any("say_check" in line for it in says for line in it["lines"]), "says": bool(says) or any(it["answers_unknown"] for it in ears), "clocked": any(it["is_clocked"] for it in chains), "wires": any(not it["is_radio"] and it["commands"] is None for it in ears), "one_wire": any(not it["is_clocked"] for it in chains), **self._fonts()},
            "pins_told": self.pins.told, "lamps": lamps, "inputs": inputs, "cues": cues, "waits": waits,
            "events": [event_named(it) for it in self._events()],
            "rules": rules, "says": says, "handlers": list(self._handlers(rules)),
            "ladders": ladders, "eye": EYE, "pins": pins, "settings": settings, "frames": frames,
            "intervals": [{"ms": it[1], "event": event_named(it)} for it in self.program.handlers if it[0] == "every"],
            "times": [{"ms": of_day_ms(it[1]), "event": event_named(it)} for it in sorted(self.program.handlers) if it[0] == "at"],
            **self._one_lines(inputs),
            "thresholds": list(self._thresholds()), "movers": mover_table(self.program, ladders), "coded": coded_table(self.program),
            "mover_order": list(self._mover_order()), "seed": self.program.seed, "takes_over": TAKES_OVER,
            "turned": [it["name"] for it in inputs if it["kind"] != "CONTACT"],
            "moved_test": " || ".join(f"mine.event == {event_named(it)}" for it in moved) or "false",
            "values": max([0, *(len(it.numbers) for it in self.carried.values())]),
            "wait_values": self._wait_values(), "text_most": self._text_most(texts),
            "texts": [[*text.encode("ascii", "replace"), 0] for text in texts],
            "pixels": sum(it["count"] for it in lamps), "signs": [it["face"] for it in signs],
            "chains": chains, "panels": panels, "modules": sum(it["count"] for it in panels), "senders": list(self.pins.senders()), "receivers": self._receivers(codes),
            "states": self._states(), "held": list(self.pins.held()), "watches": watches, "start": event_named(START) if START in self.program.handlers else "",
            "ears": ears, "words": words.words, "pieces": words.pieces, "letters": words.letters or [0], "codes_heard": codes,
            "line_most": max([LINE_LEAST, *(2 + len(word.content) for them in self.links.values() for it in them for word in it.words)]),
            "piece_kinds": kinds_of(words.pieces) if any(it["kind"] != "single" for it in ears) else set(),
            "say_most": max([4, *(len(talk.vocabulary.terminator) + 1 for talk in self.design.talks.values()), *(self._longest(it) for it in self.steps if isinstance(it, Say))]),
            "regions": self._regions(), **sign_tables(lamps),
        }  # fmt: skip

    def _has(self) -> dict[str, bool]:
        """Tell which parts of the text are there at all: those that something of the plan asks for."""
        specs, steps = self.program.lamps.values(), self.steps
        pictures = [it for cue in self.program.cues.values() for frame in cue.frames for it in frame.pictures]
        chains = any(it.is_chain for it in specs)
        fades = any(getattr(it, "over_ms", 0) for it in (*steps, *pictures))
        marches = {it.pattern for it in steps if isinstance(it, March)}
        own = any(isinstance(it, Colour) and it.first is not None for it in steps) or any(it.first is not None for it in pictures)
        signs = any(self._face(name) is not None for name in self.program.lamps)
        orders = self.program.orders.values()
        moved = any(event[-1] == "moved" for event in self.program.handlers)
        links = (
            bool(self.program.watches)
            or bool(self._states())
            or (self.radio is not None and self.radio["is_loss_told"])
            or self._is_told_loss()
        )
        return {
            "colours": any(it.lights == 3 for it in specs) or chains,
            "chains": chains,
            "fades": fades,
            "chain_fades": fades and chains,
            "flash": any(isinstance(it, Blink | Pulse) or (isinstance(it, Tone) and it.for_ms > 0) for it in steps),
            "remember": any(isinstance(it, Remember | Restore) for it in steps),
            "held": any(isinstance(it, Switch) and it.to == "hold" for it in steps),
            "tones": any(isinstance(it, Tone) for it in steps) or any(self._is_passive(it) for it in self.program.lamps),
            "marches": bool(marches) and chains,
            "rain": "rain" in marches and chains,
            "neighbours": "neighbours" in marches and chains,
            "own": own and chains,
            "signs": signs,
            "chain_signs": any(self.program.lamps[it].is_chain and self._face(it) is not None for it in self.program.lamps),
            "scores": any(isinstance(it, Score) for it in steps),
            "chance": any(isinstance(it, Chance) for it in steps),
            "movers": any(isinstance(it, MoverSpec) for it in self.program.movers.values()),
            "coded": any(isinstance(it, CodedSpec) for it in self.program.movers.values()),
            "senders": any(True for _ in self.pins.senders()),
            "moved": moved,
            "winners": moved or any(it.winner != "last-moved" for it in orders),
            "keeps": self.program.keeps,
            "watches": bool(self.program.watches),
            "links": links,
            "clock": wants_clock(self.program),
            "eyed": any(it.is_eyed for it in specs),
            "cues": bool(self.program.cues),
            "wait_text": any(
                self.carried.get(event, Carried()).text is not None and any(due.after_ms for due in run.steps)
                for event, run in self.runs
            ),
            "carried_text": any(it.text is not None for it in self.carried.values()),
        }

    def _is_passive(self, name: str) -> bool:
        load = self.design.lamps[name].load
        return load is not None and load.tone is not None and not load.tone.makes_own

    def _face(self, name: str) -> Any:
        """Return what a lamp shows signs on, where anything has it show some; a display of modules always does."""
        plan = self.design.plan.lamps[name]
        is_told = plan.kind == "matrix" or any(isinstance(it, OF_SIGNS) and name in it.lamps for it in self.steps)
        return face_of(plan) if is_told else None

    def _lamps(self, ladders: list[tuple[int, ...]]) -> Iterator[Row]:
        first, signs = 0, 0
        two = [it for it in self.program.movers.values() if isinstance(it, MoverSpec)]
        movers = {it: at for at, spec in enumerate(two, 1) for it in spec[:2]}
        for name, spec in self.program.lamps.items():
            face, count = self._face(name), spec.lights // 3 if spec.is_chain else 0
            signs += face is not None
            orders = self.program.orders.get(name, Orders())
            yield {
                "id": name, "name": named("LAMP", name), "label": said(self.design.lamps[name].label), "stage": self.design.lamps[name].stage, "spec": spec,
                "lights": 3 if spec.is_chain else spec.lights, "cap": spec.cap, "fades": spec.fades, "is_eyed": spec.is_eyed,
                "rungs": len(spec.ladder), "ladder": place_of(ladders, spec.ladder), "first": first, "count": count,
                "signs": signs if face is not None else 0, "score_most": spec.score_most,
                "face": None if face is None else {"rows": face.rows, "columns": face.columns, "digits": face.digits},
                "mover": movers.get(name, 0), "winner": WINNER_AT[orders.winner], "power_up": ORDER_AT[orders.power_up],
                "power_cut": ORDER_AT[orders.power_cut], "link_lost": LOST_AT[orders.link_lost],
            }  # fmt: skip
            first += count

    def _fonts(self) -> dict[str, bool]:
        faces = [it for name in self.program.lamps if (it := self._face(name)) is not None]
        return {
            "wide": any(not it.digits and it.rows >= 7 for it in faces),
            "narrow": any(not it.digits for it in faces),
            "bars": any(it.digits for it in faces),
        }

    def _rule_names(self) -> list[tuple[str, str]]:
        """Return of each rule of the program what it is called, and it as a sentence."""
        sentences, plan = Sentences(Names(self.design.plan, self.host)), self.design.plan
        found = list[tuple[str, str]]()
        for name, rule in self.design.rules_of(self.host):
            count = plan.inputs[rule.when.input].count or 1 if rule.when.input is not None else 1
            told = sentences.rule(rule.model_dump(exclude_none=True))
            found += [(f"rule_{name}" if count == 1 else f"rule_{name}N{at + 1}", told) for at in range(count)]
        return found

    def _rules(self) -> Iterator[Row]:
        names = self._rule_names()
        for event, run in self.runs:
            name, told = names[run.at]
            parts = self.calls.of(event, run)
            wait = f"WAIT_{name[5:].upper()}N" if len(parts) > 1 else ""
            yield {"at": run.at, "name": name, "told": said(told), "parts": parts, "wait": wait, "test": self._test(run)}

    @staticmethod
    def _test(run: Run) -> str:
        unless = run.unless
        if unless is None:
            return ""
        what = f"is_on({named('LAMP', unless.lamp)})" if unless.lamp else f"is_input_on({named('INPUT', unless.input or '')})"
        return f"!{what}" if unless.is_on else what

    def _events(self) -> list[Event]:
        return [*self.program.handlers, *(it for it in own_events(self.design, self.host) if it not in self.program.handlers)]

    def _handlers(self, rules: list[Row]) -> Iterator[Row]:
        at = {it["at"]: it for it in rules}
        own = own_events(self.design, self.host)
        for event in self._events():
            runs = [at[run.at] for run in self.program.handlers.get(event, ())]
            yield {"event": event_named(event), "runs": runs, "own": f"heard_{event[1]}" if event in own else ""}

    def _thresholds(self) -> Iterator[Row]:
        for name, orders in self.program.orders.items():
            for key, moved in orders.thresholds.items():
                if key in self.program.inputs:
                    yield {"lamp": named("LAMP", name), "input": named("INPUT", key), "moved": moved}

    def _mover_order(self) -> Iterator[Row]:
        for name, it in self.program.movers.items():
            yield {"at": self.calls.mover_at[name], "is_coded": isinstance(it, CodedSpec)}

    def _wait_values(self) -> int:
        """Return how many numbers must be kept for steps that wait: none where no such step takes what was carried."""
        waiting = [self.carried.get(event, Carried()) for event, run in self.runs if any(due.after_ms for due in run.steps)]
        return max([0, *(len(it.numbers) for it in waiting)])

    def _text_most(self, texts: list[str]) -> int:
        carried = [
            it.field.most for word in words_of(self.design, self.host).values() for it in word.parameters if it.written == "text"
        ]
        return max([12, *map(len, texts), *carried])

    def _longest(self, step: Say) -> int:
        vocabulary = self.design.talks[step.talk].vocabulary
        word = vocabulary.word(step.word)
        return len(word.built({it.id: it.at_most for it in word.parameters})) + len(vocabulary.terminator) + TELL_MOST

    def _regions(self) -> dict[str, Row]:
        """Return the maker's own regions that have their place in this program."""
        own, words = self.design.plan.programs.get(self.host), {it[1] for it in own_events(self.design, self.host)}
        places = {} if own is None else own.regions
        return {
            place: {
                "place": place,
                "code": it.code.strip("\n"),
                "longest_ms": round(1000 * (0.001 if it.longest_s is None else it.longest_s)),
            }
            for place, it in places.items()
            if not place.startswith("heard.") or place.partition(".")[2] in words
        }

    def _one_lines(self, inputs: list[Row]) -> Row:
        """Return the sensors on one line, and between which tenths of a degree they tell."""
        keys, warm = self.pins.one_lines, SPANS["temperature"]
        by_key = {it["key"]: it for it in inputs}
        reads = {key: self.design.plan.inputs[key.partition(".")[0]].reads for key in keys}
        one_lines = [{**by_key[key], "is_humidity": it == "humidity"} for key, it in reads.items()]
        volts = any(it["kind"] != "CONTACT" and it["key"] not in keys for it in inputs)
        return {"one_lines": one_lines, "reads_volts": volts, "coldest": 10 * warm.least, "warmest": 10 * warm.most}

    def _is_told_loss(self) -> bool:
        """Tell whether a module that is told everything by commands tells of its link."""
        commands = (commands_of(self.design, self.host, it, self.pins.event, asks_loss=self._asks_loss()) for it in self.links)
        return any(it is not None and it["is_loss_told"] for it in commands)

    def _asks_loss(self) -> bool:
        """Tell whether anything hangs on a link's being lost, or on its being back."""
        handlers = any(event[0] == "link" for event in self.program.handlers)
        orders = any(it.link_lost != "keep" for it in self.program.orders.values())
        return handlers or orders or any(isinstance(it, Switch) and it.to == "hold" for it in self.steps)

    def _states(self) -> list[Row]:
        """Return the pins that tell of links, where anything hangs on that."""
        return list(self.pins.states()) if self._asks_loss() else []

    def _radio(self, ears: list[Row]) -> Row | None:
        """Return what is printed of a radio of the board's own, with the port that its words come to."""
        radio, at = self.radio, {link: place for place, link in enumerate(self.links)}
        if radio is None:
            return None

        def heard(it: Row | None) -> Row | None:
            if it is None:
                return None
            lost, back = (self.pins.event(("link", it["link"], what)) for what in ("lost", "back"))
            port_at = at[it["link"]]
            return {
                **it,
                "port_at": port_at,
                "hears": ears[port_at]["hears"],
                "is_lined": ears[port_at]["hears"] and ears[port_at]["kind"] != "single",
                "lost_event": lost,
                "back_event": back,
            }

        one = {it: heard(radio[it]) for it in ("page", "tcp", "udp", "mqtt")}
        return {**radio, **one, **{it: list(map(heard, radio[it])) for it in ("lines", "heard")}, "packet_most": PACKET_MOST}

    def _watches(self, ears: list[Row]) -> Iterator[Row]:
        for link, watch in self.program.watches.items():
            ear = next((it for it in ears if {one["id"] for one in it["words"]} & watch.words), None)
            if ear is not None:
                lost, back = (self.pins.event(("link", link, what)) for what in ("lost", "back"))
                yield {"silent_ms": watch.silent_ms, "first": ear["first"], "count": ear["count"], "lost": lost, "back": back}

    def _receivers(self, codes: list[Row]) -> list[str]:
        """Return the pins of the receivers that take in codes."""
        mine = [it.receiver for it in self.design.handsets.values() if it.receiver is not None]
        on_host = [it for it in dict.fromkeys(mine) if self.design.plan.inputs[it].host == self.host]
        return [self.pins.of(f"{it}.in") for it in on_host] if codes else []

    def port_told(self, link: str) -> str:
        """Say where a link of this host goes."""
        plan = self.design.plan.links[link]
        other = plan.a if plan.b == self.host else plan.b
        return f"the line to the {self.design.nodes[other].label}"
