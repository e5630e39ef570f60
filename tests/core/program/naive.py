"""A machine written from docs/program.md alone, slowly and plainly, to hold the real one to it.

It reads a plan's document, not the design, makes every pass there is, and counts time without end: what 32 bits do to it
is left to the real one.
"""

from collections import Counter
from copy import deepcopy
from fractions import Fraction
from functools import cache
from math import floor
from typing import Any

from oddlamp.core.layouts.glyphs import NARROW_FONT, WIDE_FONT

FULL = 255
HALF = Fraction(1, 2)
WRAP = 2**32
DAY = 86_400_000
# Chains that show signs: their rows, and the row and column of each pixel. Five rows of four, each back the way the last came.
STANDS = {"panel": (5, [(row, 3 - at if row % 2 else at) for row in range(5) for at in range(4)])}
OVER = ("on", "off", "toggle", "level", "colour", "brighter", "dimmer", "add", "random", "restore")


def rounded(value: Fraction) -> int:
    """Round half up."""
    return floor(value + HALF)


@cache
def ms(seconds: Any) -> int:
    return rounded(Fraction(str(seconds or 0)) * 1000)


@cache
def share(ratio: Any) -> int:
    return rounded(FULL * Fraction(str(ratio)))


@cache
def part(of: int, parts: int) -> int:
    return rounded(Fraction(of * parts, FULL))


@cache
def by_eye(level: int) -> int:
    """The eye table."""
    looks = Fraction(100 * level, FULL)
    return max(rounded(FULL * (((looks + 16) / 116) ** 3 if looks > 8 else looks * Fraction(27, 24389))), 1 if level else 0)


@cache
def brought(value: int, least: int, most: int, low: int, high: int) -> int:
    """A value of one range in another, clipped first."""
    return low + rounded(Fraction((high - low) * (min(max(value, least), most) - least), most - least))


def written_out(plan: dict[str, Any]) -> dict[str, Any]:
    """Inputs of which there are several alike as so many inputs, and a rule for them as one for each."""
    several = {name: it["count"] for name, it in plan.get("inputs", {}).items() if it.get("count", 1) > 1}
    inputs, rules = {}, {}
    for name, it in plan.get("inputs", {}).items():
        inputs.update({f"{name}.{at}": it for at in range(1, several[name] + 1)} if name in several else {name: it})

    def called(rule: dict[str, Any], at: int, which: str) -> dict[str, Any]:
        made = deepcopy(rule)
        if "input" in made["when"]:
            made["when"]["input"] = which
        about = made.get("unless", {}).get("input")
        if about in several:
            made["unless"]["input"] = which if about == rule["when"].get("input") else f"{about}.1"
        for action in made["do"]:
            if action.get("values", {}).get("first") == "input":
                action["values"]["first"] = at
        return made

    for name, rule in plan["rules"].items():
        source = rule["when"].get("input")
        if source in several:
            rules.update({f"{name}.{at}": called(rule, at, f"{source}.{at + 1}") for at in range(several[source])})
        else:
            rules[name] = called(rule, 0, source)
    return {**plan, "inputs": inputs, "rules": rules}


class Naive:
    """Lamps as dictionaries, rules as they stand in the plan. ``chains`` has the pixels of chains, ``seed`` begins the chance."""

    def __init__(
        self,
        plan: dict[str, Any],
        ladders: dict[str, list[int]],
        most_scores: dict[str, int],
        chains: dict[str, int],
        seed: int,
        starts_at: int = 0,
        record: dict[str, Any] | None = None,
        levels: dict[str, int] | None = None,
    ) -> None:
        self.plan, self.ladders, self.most_scores, self.chains, self.random = (
            written_out(plan),
            ladders,
            most_scores,
            chains,
            seed,
        )
        self.starts_at, self.now, self.record = starts_at, 0, record
        self.by_day: int | None = None
        keep_alive = plan["talks"]["main"].get("keep_alive")
        self.silence = ms(keep_alive["lost_after_s"]) if keep_alive else 0
        self.heard_at: int | None = None
        self.is_silent = False
        self.put_by: dict[str, dict[str, Any]] = {}
        self.said: list[tuple[int, str, dict[str, Any]]] = []
        self.waiting: dict[str, dict[str, Any]] = {}
        self.cues: dict[str, dict[str, Any]] = {name: {"at": None, "next": None} for name in plan.get("cues", {})}
        self.lamps = {
            name: {
                "on": False,
                "level": FULL,
                "red": FULL,
                "green": FULL,
                "blue": FULL,
                "pixels": {},
                "text": "",
                "score": 0,
                "scroll": 0,
                "inverted": False,
                "reversed": False,
                "pitch": 0,
                "told": 0,
            }
            for name in plan["lamps"]
        }
        self.goes: dict[str, dict[str, Any]] = {}
        self.held: dict[str, str] = {}
        self.last: dict[str, str] = {}
        self.by_word: set[str] = set()
        self.written: dict[str, tuple[int, list[int]]] = {}
        self.shown: dict[str, tuple[list[int], str]] = {}
        self.seen = Counter[str]()
        fresh = {"wait": None, "last": None, "speed": 0, "earlier": 0}
        self.movers = {name: {**fresh, "gone": {}, **it} for name, it in plan.get("movers", {}).items()}
        self.codes: dict[str, list[int]] = {name: [] for name in plan["lamps"]}
        self.code_began: dict[str, int] = {}
        self.inputs = {name: self.fresh(name, (levels or {}).get(name, 0)) for name in self.plan["inputs"]}
        self.stood = {(lamp, name): self.value(name) for lamp in plan["lamps"] for name in self.inputs}
        self.same_since, self.was = 0, self.standing()
        self.every = {name: ms(rule["when"]["every_s"]) for name, rule in self.plan["rules"].items() if "every_s" in rule["when"]}
        for name in self.lamps:
            order = self.order(name, "power_up" if record is None else "power_cut")
            if self.mover(name):
                continue
            if order == "on":
                self.on(self.lamps[name])
            elif order == "last" and record is not None:
                self.lamps[name] = self.copy(record[name]) | {"told": 0}

    # The plan

    def order(self, name: str, which: str) -> str:
        told = self.plan.get("standing", {}).get(name, {})
        power_up = told.get("power_up", "off")
        usual = {"power_up": "off", "power_cut": power_up, "link_lost": "keep", "winner": "last-moved"}
        return str(told.get(which, usual[which]))

    def kind(self, name: str) -> str:
        return str(self.plan["lamps"][name]["kind"])

    def members(self, target: str) -> list[str]:
        return self.plan["groups"][target]["members"] if target in self.plan.get("groups", {}) else [target]

    def settings(self, name: str) -> dict[str, Any]:
        return self.plan["inputs"][name].get("settings", {})

    def is_turned(self, name: str) -> bool:
        return self.plan["inputs"][name]["kind"] == "knob" or self.settings(name).get("reads") == "value"

    def play(self, name: str) -> int:
        return rounded(1023 * Fraction(str(self.settings(name).get("play_ratio", "0.005"))))

    def threshold(self, name: str, which: str) -> int | None:
        ratio = self.settings(name).get(which)
        return None if ratio is None else rounded(1023 * Fraction(str(ratio)))

    # Time

    def tick(self, came: list[tuple[Any, ...]], put: dict[str, int]) -> None:
        """One pass: words and links in order, then levels that inputs have from now on."""
        clock = (self.starts_at + self.now) % WRAP
        if self.now == 0:
            self.event({"event": "power-up"}, "", {})
        for what, *rest in came:
            if what == "word":
                was, self.heard_at, self.is_silent = self.is_silent, self.now, False
                if self.silence and was:
                    self.event({"event": "link-back", "link": "air"}, "", {})
                self.event({"heard": rest[0]}, "words", rest[1])
            elif rest[1] == "lost":
                self.lost(rest[0])
            else:
                self.event({"event": "link-back", "link": rest[0]}, "", {})
        for name, level in put.items():
            one = self.inputs[name]
            if level != one["level"]:
                one["level"], one["since"] = level, self.now
        for name in self.inputs:
            self.read(name, clock)
        if self.by_day is not None and self.now:
            self.by_day = (self.by_day + 1) % DAY
            if self.by_day % 60_000 == 0:
                minute = self.by_day // 60_000
                self.event({"at": f"{minute // 60:02d}:{minute % 60:02d}"}, "", {})
        self.due()
        if self.standing() != self.was:
            self.was, self.same_since = self.standing(), self.now
        if self.now - self.same_since == 5000 and any(
            self.order(it, "power_cut") in {"last"} | ({"on", "off", "last"} - {self.order(it, "power_up")}) for it in self.lamps
        ):
            self.record = self.all_kept()
        for name, lamp in self.lamps.items():
            wanted, is_dark = self.light(name), self.goes.get(name, {}).get("lit") is False
            if name in self.chains:
                at, shown = self.written.get(name, (-1000, [0] * len(wanted)))
                if wanted != shown and self.now - at >= 20:
                    self.written[name] = (self.now, wanted)
                wanted = self.written.get(name, (0, shown))[1]
            signs = f"{lamp['pitch']} Hz" if lamp["pitch"] else "" if name in self.chains else lamp["text"]
            sent = f"{self.codes[name][0]:08X}" if self.codes[name] else None
            self.shown[name] = wanted, sent or (signs if lamp["on"] and not is_dark else "")
        self.now += 1

    def due(self) -> None:
        now, found = self.now, []
        for name, codes in self.codes.items():
            if codes and now - self.code_began[name] >= 110:
                del codes[0]
                self.code_began[name] += 110
        for at, name in enumerate(self.plan["rules"]):
            every = self.every.get(name)
            if every and now and now % every == 0:
                found.append((now, 0, every, at, "every", name))
            if name in self.waiting:
                found.append((self.waiting[name]["due"], 1, at, at, "wait", name))
        for at, name in enumerate(self.cues):
            if self.cues[name]["next"] is not None:
                found.append((self.cues[name]["next"], 2, at, at, "cue", name))
        for at, name in enumerate(self.lamps):
            if "until" in self.goes.get(name, {}):
                found.append((self.goes[name]["until"], 3, at, at, "lamp", name))
        for at, (name, mover) in enumerate(self.movers.items()):
            if mover["wait"]:
                found.append((mover["wait"]["due"], 4, at, at, "mover", name))
        if self.silence and self.heard_at is not None:
            found.append((self.heard_at + self.silence, 5, 0, 0, "silence", ""))
        firsts = list(dict.fromkeys(self.every.values()))
        found = [(due, kind, firsts.index(of) if kind == 0 else of, *rest) for due, kind, of, *rest in found if due <= now]
        held = {name: mover["wait"] for name, mover in self.movers.items()}
        marks = {("wait", name): self.waiting[name] for name in self.waiting}
        begun = dict(self.cues)
        flashes = dict(self.goes)
        for due, _, _, _, kind, name in sorted(found):
            if kind == "every":
                self.rule(name, "", {}, ("every", self.every[name]))
            elif kind == "wait" and self.waiting.get(name) is marks["wait", name]:
                wait = self.waiting.pop(name)
                self.steps(name, wait["place"], wait["source"], wait["carried"], wait["event"], due, wait["dropped"], waited=True)
            elif kind == "cue" and self.cues[name] is begun[name] and self.cues[name]["next"] is not None:
                self.picture(name, due)
            elif kind == "mover" and self.movers[name]["wait"] is held[name]:
                wait = self.movers[name]["wait"]
                if self.is_coded(name):
                    self.run_coded(name, wait["speed"])
                    continue
                self.movers[name]["wait"] = None
                before = self.copy(self.lamps[wait["lamp"]])
                self.set(wait["lamp"], wait["new"], wait["over"], wait["source"], wait["event"])
                if wait["pulse"]:
                    self.goes[wait["lamp"]] = {"until": self.now + wait["pulse"], "lit": True, "times": 1, "before": before}
            elif kind == "silence" and self.heard_at is not None:
                self.heard_at, self.is_silent = None, True
                self.seen["silence"] += 1
                self.lost("air")
            elif kind == "lamp" and self.goes.get(name) is flashes[name]:
                self.turn(name)

    def turn(self, name: str) -> None:
        """A lit or a dark time of a blink, or a pulse, is over."""
        goes = self.goes[name]
        if goes["lit"] and goes["times"] == 1:
            was_on = self.lamps[name]["on"]
            self.lamps[name] = self.copy(goes["before"]) | {"told": self.now}
            del self.goes[name]
            self.noted(name, was_on)
        elif goes["lit"]:
            self.goes[name] = {**goes, "lit": False, "until": goes["until"] + goes["off"]}
        else:
            times = goes["times"] and goes["times"] - 1
            self.goes[name] = {**goes, "lit": True, "times": times, "until": goes["until"] + goes["on"]}

    # Events

    def event(self, when: dict[str, Any], source: str, carried: dict[str, Any]) -> None:
        for name, rule in self.plan["rules"].items():
            if rule["when"] == when:
                self.rule(name, source, carried, tuple(sorted(when.items())))

    def rule(self, name: str, source: str, carried: dict[str, Any], event: Any) -> None:
        self.seen["wait begun anew"] += self.waiting.pop(name, None) is not None
        unless = self.plan["rules"][name].get("unless")
        if unless:
            is_on = self.lamps[unless["lamp"]]["on"] if "lamp" in unless else self.inputs[unless["input"]]["on"]
            if is_on == (unless["state"] == "on"):
                return
        self.steps(name, 0, source, carried, event, self.now, set(), waited=False)

    def steps(
        self,
        name: str,
        place: int,
        source: str,
        carried: dict[str, Any],
        event: Any,
        due: int,
        dropped: set[str],
        *,
        waited: bool,
    ) -> None:
        for at, action in enumerate(self.plan["rules"][name]["do"]):
            if at < place:
                continue
            wait = ms(action.get("after_s"))
            if wait and not (waited and at == place):
                self.waiting[name] = {
                    "due": due + wait, "place": at, "source": source, "carried": carried, "event": event, "dropped": dropped
                }  # fmt: skip
                return
            self.do(action, source, carried, event, dropped)

    def lost(self, link: str) -> None:
        when = {"event": "link-lost", "link": link}
        event = tuple(sorted(when.items()))
        for name in list(self.lamps):
            if self.held.get(name) == "words":
                self.set(name, {"on": False, "pitch": 0}, 0, "", event)
        self.by_word.clear()
        for name in list(self.lamps):
            order = self.order(name, "link_lost")
            if order == "off":
                for it, mover in self.movers.items():
                    if mover.get("sender") == name:
                        self.run_coded(it, 0)
                self.set(name, {"on": False, "pitch": 0}, 0, "", event)
            elif order == "on" and not self.mover(name):
                self.set(name, {"on": True, "level": self.lamps[name]["level"] or FULL, "pitch": 0}, 0, "", event)
        self.event(when, "", {})

    # Inputs

    def fresh(self, name: str, level: int) -> dict[str, Any]:
        upper = self.upper(name)
        is_on = upper is not None and level > upper if self.is_turned(name) else bool(level)
        return {"level": level, "since": None, "on": is_on, "acc": 8 * level, "told": level}

    def upper(self, name: str) -> int | None:
        on, off = self.threshold(name, "on_above_ratio"), self.threshold(name, "off_below_ratio")
        return off if on is None else on

    def value(self, name: str) -> int:
        one = self.inputs[name]
        return one["acc"] // 8 if self.is_turned(name) else 1023 if one["on"] else 0

    def read(self, name: str, clock: int) -> None:
        one = self.inputs[name]
        if not self.is_turned(name):
            settle = ms(self.settings(name).get("settle_s", "0.02"))
            if bool(one["level"]) != one["on"] and one["since"] is not None and self.now - one["since"] >= settle:
                one["on"] = not one["on"]
                names = ("released", "pressed") if self.plan["inputs"][name]["kind"] == "button" else ("off", "on")
                self.edge(name, names[one["on"]])
            return
        if clock % 10:
            return
        one["acc"] += one["level"] - one["acc"] // 8
        value, upper = one["acc"] // 8, self.upper(name)
        if upper is None:
            if abs(value - one["told"]) > self.play(name):
                one["told"] = value
                carried = {"input": (value, self.play(name), 1023 - self.play(name))}
                self.event({"input": name, "event": "moved"}, name, carried)
            return
        lower = self.threshold(name, "off_below_ratio")
        lower = upper if lower is None else lower
        if value > upper and not one["on"]:
            one["on"] = True
            self.edge(name, "on")
        elif value < lower and one["on"]:
            one["on"] = False
            self.edge(name, "off")

    def edge(self, name: str, what: str) -> None:
        when = {"input": name, "event": what}
        if what in ("released", "off"):
            for lamp in list(self.lamps):
                if self.held.get(lamp) == name:
                    self.set(lamp, {"on": False, "pitch": 0}, 0, name, tuple(sorted(when.items())))
        self.event(when, name, {})

    def is_up(self, name: str) -> bool:
        return self.value(name) > self.play(name) if self.is_turned(name) else self.inputs[name]["on"]

    # Steps

    def may(self, lamp: str, source: str, event: Any) -> bool:
        winner = self.order(lamp, "winner")
        if source == "words":
            return not (winner == "local" and self.last.get(lamp) in self.inputs and self.is_up(self.last[lamp]))
        if source in self.inputs:
            if winner == "phone" and lamp in self.by_word:
                return False
            if ("event", "moved") in event and self.last.get(lamp) != source:
                told = self.plan.get("standing", {}).get(lamp, {}).get("thresholds", {}).get(source, "0.02")
                threshold = rounded(1023 * Fraction(str(told))) if told != "0.02" else 20
                return abs(self.value(source) - self.stood[lamp, source]) > threshold
        return True

    def do(self, action: dict[str, Any], source: str, carried: dict[str, Any], event: Any, dropped: set[str]) -> None:
        verb, values, target = action["verb"], action.get("values", {}), action.get("target")
        what, *how = event[0] if isinstance(event[0], tuple) else event
        self.seen[f"{what} {how[0]}" if what == "event" else what] += 1
        self.seen[verb] += 1
        if verb in ("run", "step") or (self.is_coded(str(target)) and verb in ("stop", "reverse", "resume")):
            self.move(str(target), verb, values, carried, source, event)
        elif verb in ("reverse", "resume") or (verb == "stop" and target in self.movers):
            self.turn_mover(target, verb, source, event)
        elif verb == "say":
            self.say(action["say"], carried)
        elif verb == "cue" and self.plan["cues"][target]["steps"]:
            self.seen["cue overtaken"] += self.cues[target]["next"] is not None
            self.cues[target] = {"at": None, "next": self.now + (0 if self.loops(target) else self.pictures(target)[0][0])}
        elif verb == "next":
            self.cues[target] = dict(self.cues[target])
            self.picture(target, self.now)
        elif verb == "stop" and target is not None:
            self.seen["cue stopped"] += self.cues[target]["next"] is not None
            self.cues[target] = {**self.cues[target], "next": None}
        elif verb == "stop":
            self.waiting.clear()
            self.cues = {name: {**cue, "next": None} for name, cue in self.cues.items()}
            for name in list(self.lamps):
                self.codes[name] = []
                self.set(name, {"on": False, "pitch": 0}, 0, source, event)
            for name in self.movers:
                if self.is_coded(name):
                    self.run_coded(name, 0)
        elif verb == "send":
            for name in self.members(target):
                if self.plan["lamps"][name].get("sends") == "codes" and len(self.codes[name]) < 9:
                    self.send(name, [*self.codes[name], values["code"]])
        elif verb != "cue":
            for name in self.members(target):
                if not self.can(name, verb, values):
                    continue
                if verb == "remember":
                    self.put_by[name] = self.copy(self.lamps[name])
                elif name not in dropped and self.may(name, source, event):
                    self.do_to(name, verb, values, carried, source, event)

    def can(self, name: str, verb: str, values: dict[str, Any]) -> bool:
        kind = self.kind(name)
        if verb in ("text", "score", "show"):
            return kind == "matrix" or name in STANDS
        if verb == "tone":
            return kind == "buzzer"
        if verb == "pattern":
            return kind == "pixels-one-wire"
        if verb == "colour":
            return kind in (("pixels-one-wire",) if "first" in values else ("rgb", "pixels-one-wire"))
        return verb not in ("brighter", "dimmer", "add", "random") or kind not in ("relay", "buzzer")

    def do_to(self, name: str, verb: str, values: dict[str, Any], carried: dict[str, Any], source: str, event: Any) -> None:
        before = self.goes[name]["before"] if "before" in self.goes.get(name, {}) else self.copy(self.lamps[name])
        new = self.wanted(name, verb, values, carried)
        if not self.set(name, new, ms(values.get("over_s")) if verb in OVER else 0, source, event):
            if verb == "pulse":
                self.mover(name)["wait"]["pulse"] = ms(values.get("for_s", 1))
        elif verb == "blink" and self.mover(name):
            pass
        elif verb == "blink":
            on = ms(values.get("on_s", "0.5"))
            off = ms(values["off_s"]) if "off_s" in values else on
            self.goes[name] = {
                "until": self.now + on, "lit": True, "on": on, "off": off, "times": values.get("times"), "before": before
            }  # fmt: skip
        elif verb == "pulse":
            self.goes[name] = {"until": self.now + ms(values.get("for_s", 1)), "lit": True, "times": 1, "before": before}
        elif verb == "tone" and "for_s" in values:
            self.goes[name] = {"until": self.now + ms(values["for_s"]), "lit": True, "times": 1, "before": before}
        elif verb == "pattern":
            self.goes[name] = {
                "marching": values["pattern"],
                "from": self.now,
                "step": ms(values.get("step_s", "0.1")),
                "name": name,
                "rule": values.get("rule", 90),
            }
        elif verb == "hold" and source:
            self.held[name] = source

    def wanted(self, name: str, verb: str, values: dict[str, Any], carried: dict[str, Any]) -> dict[str, Any]:
        lamp, ends, ladder = self.copy(self.lamps[name]), values.get("ends"), self.ladders.get(name, [FULL])
        if verb != "restore":
            lamp["pitch"] = 0
        if verb in ("on", "hold", "blink", "pattern") or (verb == "pulse" and "level" not in values):
            self.on(lamp)
        elif verb == "off":
            lamp["on"] = False
        elif verb == "toggle":
            lamp["on"] = not lamp["on"]
        elif verb in ("level", "pulse"):
            level = self.number(values["level"], carried)
            if level is not None:
                self.set_to(lamp, level)
            elif verb == "pulse":
                self.on(lamp)
        elif verb == "colour":
            self.colour(name, lamp, values, carried)
        elif verb == "brighter":
            over = [rung for rung in ladder if rung > self.bright(lamp)]
            self.set_to(lamp, min(over) if over else min(ladder) if ends == "round" else max(ladder))
        elif verb == "dimmer":
            if self.bright(lamp):
                under = [rung for rung in ladder if rung < self.bright(lamp)]
                self.set_to(lamp, max(under) if under else max(ladder) if ends == "round" else min(ladder))
            else:
                self.set_to(lamp, 0)
        elif verb == "add":
            size = share(abs(values["by_ratio"]))
            self.set_to(lamp, self.moved(self.bright(lamp), size if values["by_ratio"] > 0 else -size, FULL, ends))
        elif verb == "random":
            least, most = share(values.get("least", 0)), share(values.get("most", 1))
            self.random = (self.random ^ (self.random << 13)) % WRAP
            self.random ^= self.random >> 17
            self.random = (self.random ^ (self.random << 5)) % WRAP
            self.set_to(lamp, least + (self.random >> 8) % (most - least + 1))
        elif verb == "text":
            lamp["text"] = carried[values["text"][1:-1]] if values["text"].startswith("{") else values["text"]
            lamp |= {key: values[of] for key, of in (("inverted", "is_inverted"), ("reversed", "is_reversed")) if of in values}
            lamp |= {"scroll": ms(values["scroll_s"])} if "scroll_s" in values else {}
            self.on(lamp)
        elif verb == "show":
            lamp["text"] = self.told(values)
            self.on(lamp)
        elif verb == "tone":
            lamp["pitch"] = values["tone_hz"]
            self.on(lamp)
        elif verb == "score":
            if "count" in values:
                lamp["score"] = min(max(values["count"], 0), self.most_scores.get(name, 0))
            else:
                lamp["score"] = self.moved(lamp["score"], values["by_count"], self.most_scores.get(name, 0), ends)
            lamp["text"] = str(lamp["score"])
            self.on(lamp)
        elif verb == "restore":
            lamp = self.copy(self.put_by.get(name, lamp))
        else:
            raise AssertionError(verb)
        return lamp

    def colour(self, name: str, lamp: dict[str, Any], values: dict[str, Any], carried: dict[str, Any]) -> None:
        given = {shade: self.number(values[shade], carried) if shade in values else None for shade in ("red", "green", "blue")}
        if "first" not in values:
            for shade, number in given.items():
                lamp[shade] = lamp[shade] if number is None else number
            lamp["on"] = lamp["red"] > 0 or lamp["green"] > 0 or lamp["blue"] > 0
            lamp["pixels"] = {}
            return
        if not lamp["on"]:
            lamp["pixels"] = dict.fromkeys(range(self.chains[name]), (0, 0, 0))
        for at in range(values["first"], values.get("last", values["first"]) + 1):
            if at < self.chains[name]:
                has = lamp["pixels"].get(at, (lamp["red"], lamp["green"], lamp["blue"]))
                lamp["pixels"][at] = tuple(old if new is None else new for old, new in zip(has, given.values(), strict=True))
        self.on(lamp)

    def say(self, say: dict[str, Any], carried: dict[str, Any]) -> None:
        told = {}
        for value, given in say.get("fill", {}).items():
            source = given[1:-1] if given.startswith("{") and given.endswith("}") else ""
            if "." in source:
                name, what = source.split(".")
                told[value] = self.how(name, what)
            elif source in carried:
                told[value] = carried[source][0]
        self.said.append((self.now, say["word"], told))

    def told(self, values: dict[str, Any]) -> str:
        """A value on a display, or the time."""
        if "input" in values:
            return str(brought(self.value(values["input"]), 0, 1023, values.get("shows_least", 0), values.get("shows_most", 100)))
        if self.by_day is None:
            return "--:--"
        minutes = self.by_day // 60_000
        return f"{minutes // 60:02d}:{minutes % 60:02d}"

    def marched(self, goes: dict[str, Any], goal: list[int]) -> list[int]:
        """A chain on which a pattern goes along."""
        count, n = len(goal) // 3, (self.now - goes["from"]) // goes["step"]
        if goes["marching"] == "wipe":
            lit = [at for at in range(count) if at <= n]
        elif goes["marching"] == "chase":
            lit = [at for at in range(count) if (at - n) % 3 == 0]
        elif goes["marching"] == "bounce":
            there_and_back = [*range(count), *range(count - 2, 0, -1)]
            lit = [there_and_back[n % len(there_and_back)]]
        elif goes["marching"] == "rain":
            stands = STANDS.get(goes["name"])
            rows = stands[0] if stands else count
            lit = [
                at
                for at in range(count)
                for row, column in [stands[1][at] if stands else (at, 0)]
                if (n + self.scattered(column + 1)) % (2 * rows) == row
            ]
        elif goes["marching"] == "neighbours":
            row = [at == count // 2 for at in range(count)]
            for _ in range(n):
                row = [goes["rule"] >> (4 * row[at - 1] + 2 * row[at] + row[(at + 1) % count]) & 1 == 1 for at in range(count)]
            lit = [at for at in range(count) if row[at]]
        else:
            lit = [self.scattered(n + 1) % count]
        return [one if at // 3 in lit else 0 for at, one in enumerate(goal)]

    def scattered(self, seed: int) -> int:
        seed = seed * 2654435761 % WRAP
        seed = (seed ^ (seed << 13)) % WRAP
        seed ^= seed >> 17
        return (seed ^ (seed << 5)) % WRAP >> 8

    def signs_on(self, name: str, lamp: dict[str, Any]) -> list[bool] | None:
        """Which pixels of a chain its text lights; None where it shows none."""
        if not lamp["text"] or name not in STANDS:
            return None
        rows, stands = STANDS[name]
        wide = 1 + max(column for _, column in stands)
        is_small = rows < 7 or (not lamp["scroll"] and 6 * len(lamp["text"]) - 1 > wide)
        size, font, high = (
            max((rows + 1) // (6 if rows < 7 else 8), 1),
            NARROW_FONT if is_small else WIDE_FONT,
            5 if is_small else 7,
        )
        drawn: list[int] = []
        for sign in lamp["text"]:
            drawn += [0] * bool(drawn) + list(font[sign.upper() if is_small else sign])
        drawn = [it for it in drawn for _ in range(size)]
        k = (self.now - lamp["told"]) // lamp["scroll"] % (len(drawn) + wide) if lamp["scroll"] else None
        found = []
        for row, x in stands:
            at = x if k is None else x + len(drawn) - k if lamp["reversed"] else x + k - wide
            down = row - (rows - size * high) // 2
            is_dot = 0 <= at < len(drawn) and 0 <= down < size * high and bool(drawn[at] >> (down // size) & 1)
            found.append(is_dot != lamp["inverted"])
        return found

    def how(self, name: str, what: str) -> Any:
        """All are told in a range of 0 to 1000 here."""
        if what == "value":
            return brought(self.value(name), 0, 1023, 0, 1000)
        lamp = self.lamps[name]
        if what == "score":
            return lamp["score"]
        if what == "on":
            return 1000 if self.bright(lamp) else 0
        return brought(self.bright(lamp) if what == "level" else lamp[what] if self.bright(lamp) else 0, 0, FULL, 0, 1000)

    # Lamps

    def send(self, name: str, codes: list[int]) -> None:
        """What goes out and what waits from now on; what goes out goes on."""
        if not self.codes[name]:
            self.code_began[name] = self.now
        self.codes[name] = codes

    def is_coded(self, name: str) -> bool:
        return "sender" in self.movers.get(name, {})

    def top_speed(self, name: str) -> int:
        mover = self.movers[name]
        return int(mover["codes"]["speeds"]) if self.is_coded(name) else len(self.speeds_of(name))

    def speeds_of(self, name: str) -> list[int]:
        return min((self.ladders[self.movers[name][way]] for way in ("ahead", "back")), key=len)

    def speed_now(self, name: str) -> int:
        mover = self.movers[name]
        if self.is_coded(name):
            return int(mover["wait"]["speed"] if mover["wait"] else mover["speed"])
        for way in ("ahead", "back"):
            lamp = self.lamps[mover[way]]
            if mover["wait"] and mover["wait"]["lamp"] == mover[way]:
                lamp = {**lamp, **mover["wait"]["new"]}
            if lamp["on"]:
                rungs = max(1, len([it for it in self.speeds_of(name) if it <= lamp["level"]]))
                return rungs if way == "ahead" else -rungs
        return 0

    def move(self, name: str, verb: str, values: dict[str, Any], carried: dict[str, Any], source: str, event: Any) -> None:
        mover, most = self.movers[name], self.top_speed(name)
        wanted: int | None = 0
        if verb == "step":
            wanted = self.speed_now(name) + values.get("by_count", 1)
        elif verb == "run" and values["speed"] == "input":
            value, low, high = carried.get("input", (None, 0, 1))
            wanted = None if value is None else brought(brought(value, low, high, 0, FULL), 0, FULL, 0, 2 * most) - most
        elif verb == "run" and isinstance(values["speed"], str):
            wanted = carried[values["speed"][1:-1]][0] if values["speed"][1:-1] in carried else None
        elif verb == "run":
            wanted = values["speed"]
        elif verb == "reverse":
            before = self.speed_now(name) or mover["earlier"]
            wanted = -before if before else 1
        elif verb == "resume":
            wanted = mover["earlier"] if not self.speed_now(name) and mover["earlier"] else None
        if wanted is None:
            return
        if self.is_coded(name):
            self.run_coded(name, wanted)
        elif not wanted:
            for way in ("ahead", "back"):
                self.set(mover[way], {"on": False}, 0, source, event)
        else:
            lamp = mover["ahead" if wanted > 0 else "back"]
            if self.may(lamp, source, event):
                level = self.speeds_of(name)[min(abs(wanted), most) - 1]
                self.set(lamp, {"on": True, "level": level, "pitch": 0}, 0, source, event)

    def run_coded(self, name: str, wanted: int) -> None:
        mover, most = self.movers[name], self.top_speed(name)
        wanted, pause = min(max(wanted, -most), most), ms(mover.get("pause_s", "0.5"))
        mover["wait"], way = None, "ahead" if wanted > 0 else "back"
        other = "back" if wanted > 0 else "ahead"
        if mover["speed"] * wanted < 0:
            self.run_coded(name, 0)
            mover["wait"] = {"due": self.now + pause, "speed": wanted}
            self.seen["mover of codes waits"] += 1
        elif wanted and not mover["speed"] and other in mover["gone"] and self.now - mover["gone"][other] < pause:
            mover["wait"] = {"due": mover["gone"][other] + pause, "speed": wanted}
        else:
            if not wanted and mover["speed"]:
                mover["gone"]["ahead" if mover["speed"] > 0 else "back"] = self.now
            mover["speed"] = wanted
            if wanted:
                mover["earlier"] = wanted
                mover["gone"].pop(way, None)
            codes, bits = mover["codes"], mover["codes"]["bits"]

            def code(speed: int) -> int:
                return int(codes["first_code"]) + (speed % 2**bits if codes["signed"] == "twos-complement" else speed + most)

            out = self.codes[mover["sender"]]
            mine = {code(it) for it in range(-most, most + 1)}
            self.send(mover["sender"], [*out[:1], code(wanted), *[it for it in out[1:] if it not in mine]])

    def mover(self, lamp: str) -> Any:
        return next((it for it in self.movers.values() if lamp in (it.get("ahead"), it.get("back"))), None)

    def turn_mover(self, name: str, how: str, source: str, event: Any) -> None:
        mover = self.movers[name]
        both = [mover["ahead"], mover["back"]]
        runs = next((it for it in both if self.lamps[it]["on"]), mover["wait"] and mover["wait"]["lamp"])
        if how == "stop":
            for it in both:
                self.set(it, {"on": False}, 0, source, event)
            return
        if how == "resume":
            one = None if runs else mover["last"]
        else:
            was = runs or mover["last"]
            one = both[0] if was is None else both[1 - both.index(was)]
        if one and self.may(one, source, event):
            new = self.copy(self.lamps[one])
            self.on(new)
            self.set(one, new, 0, source, event)

    def set(self, name: str, new: dict[str, Any], over: int, source: str | None, event: Any = None) -> bool:
        """Something sets a lamp; a cue has no source. False where it has to wait for the other one of a mover."""
        mover = self.mover(name)
        if mover:
            mover["wait"] = None
            other = mover["back"] if name == mover["ahead"] else mover["ahead"]
            if new.get("on", self.lamps[name]["on"]) and not self.lamps[name]["on"]:
                pause = ms(mover.get("pause_s", "0.5"))
                off_since = self.now if self.lamps[other]["on"] else mover["gone"].get(other)
                if off_since is not None and self.now - off_since < pause:
                    if self.lamps[other]["on"]:
                        self.set(other, {"on": False}, 0, source, event)
                    mover["wait"] = {
                        "due": off_since + pause, "lamp": name, "new": new, "over": over, "source": source, "event": event, "pulse": 0
                    }  # fmt: skip
                    self.seen["mover waits"] += 1
                    return False
        was_on = self.lamps[name]["on"]
        begun = self.light(name)
        for what in ("since", "until"):
            self.seen[f"{'fade' if what == 'since' else 'blink or pulse'} overtaken"] += what in self.goes.get(name, {})
        self.lamps[name] = {**self.copy(self.lamps[name]), **new, "told": self.now}
        self.goes.pop(name, None)
        self.held.pop(name, None)
        if over and self.kind(name) not in ("relay", "matrix", "buzzer"):
            self.goes[name] = {"since": self.now, "over": over, "begun": begun}
        self.last[name] = source or ""
        if source == "words":
            self.by_word.add(name)
        for other in self.inputs:
            if other != source:
                self.stood[name, other] = self.value(other)
        self.noted(name, was_on)
        if source is not None:
            for wait in self.waiting.values():
                if wait["event"] != event:
                    self.seen["wait dropped"] += 1
                    wait["dropped"].add(name)
        return True

    def noted(self, name: str, was_on: bool) -> None:
        """A lamp of a mover has been set: when it went off, and which ran last."""
        mover = self.mover(name)
        if mover and self.lamps[name]["on"]:
            mover["last"] = name
            mover["gone"].pop(name, None)
        elif mover and was_on:
            mover["gone"][name] = self.now

    def copy(self, lamp: dict[str, Any]) -> dict[str, Any]:
        return {**lamp, "pixels": dict(lamp["pixels"])}

    def all_kept(self) -> dict[str, Any]:
        return {name: self.copy(lamp) for name, lamp in self.lamps.items()}

    def standing(self) -> dict[str, Any]:
        """All that is kept, without when a lamp was last told: told the same again, it stands as it stood."""
        return {name: {key: it for key, it in lamp.items() if key != "told"} for name, lamp in self.all_kept().items()}

    def number(self, given: Any, carried: dict[str, Any]) -> int | None:
        """A share of full, or a value that was carried, 0 to its word's most."""
        if not isinstance(given, str):
            return share(given)
        name = "input" if given == "input" else given[1:-1]
        return brought(*carried[name], 0, FULL) if name in carried else None

    def bright(self, lamp: dict[str, Any]) -> int:
        return lamp["level"] if lamp["on"] else 0

    def set_to(self, lamp: dict[str, Any], level: int) -> None:
        lamp["level"], lamp["on"] = level, level > 0

    def on(self, lamp: dict[str, Any]) -> None:
        lamp["on"] = True
        if lamp["level"] == 0:
            lamp["level"] = FULL

    def moved(self, was: int, by: int, most: int, ends: str | None) -> int:
        wanted = was + by
        if 0 <= wanted <= most:
            return wanted
        end, other = (most, 0) if wanted > most else (0, most)
        return other if ends == "round" and was == end else end

    def goal(self, name: str) -> list[int]:
        lamp = self.lamps[name]
        bright, own = self.bright(lamp), (lamp["red"], lamp["green"], lamp["blue"])
        if self.kind(name) == "matrix":
            return []
        if name in self.chains:
            return [part(bright, one) for at in range(self.chains[name]) for one in lamp["pixels"].get(at, own)]
        return [part(bright, one) for one in own] if self.kind(name) == "rgb" else [bright]

    def light(self, name: str) -> list[int]:
        """Of a chain that shows a text only the pixels that it lights."""
        light, written = self.unwritten(name), self.signs_on(name, self.lamps[name])
        return light if written is None else [one if written[at // 3] else 0 for at, one in enumerate(light)]

    def unwritten(self, name: str) -> list[int]:
        goes, goal = self.goes.get(name, {}), self.goal(name)
        if goes.get("lit") is False:
            return [0] * len(goal)
        if "marching" in goes:
            return self.marched(goes, goal)
        if "since" in goes:
            gone = self.now - goes["since"]
            if gone < goes["over"]:
                gone -= gone % (20 if name in self.chains else 10)
                way = [(a, b, floor(Fraction(abs(b - a) * gone, goes["over"]))) for a, b in zip(goes["begun"], goal, strict=True)]
                return [a + far if b > a else a - far for a, b, far in way]
            del self.goes[name]
        return goal

    def shows(self, name: str) -> tuple[list[int], str]:
        """What a lamp shows after a pass that was made, before its cap; of a chain what was written last."""
        return self.shown[name]

    # Cues

    def pictures(self, cue: str) -> list[tuple[int, list[dict[str, Any]]]]:
        pictures: list[tuple[int, list[dict[str, Any]]]] = []
        for step in self.plan["cues"][cue]["steps"]:
            after = ms(step.get("after_s"))
            if pictures and not after:
                pictures[-1][1].append(step)
            else:
                pictures.append((after, [step]))
        return pictures

    def loops(self, cue: str) -> bool:
        return bool(self.plan["cues"][cue].get("loop")) and sum(after for after, _ in self.pictures(cue)) >= 20

    def picture(self, cue: str, since: int) -> None:
        """The next picture of a cue, which came due at a moment."""
        pictures, state = self.pictures(cue), self.cues[cue]
        if not pictures:
            return
        at = 0 if state["at"] is None or state["at"] + 1 == len(pictures) else state["at"] + 1
        is_last = at + 1 == len(pictures)
        state["at"] = at
        if state["next"] is not None:
            state["next"] = since + pictures[0 if is_last else at + 1][0] if not is_last or self.loops(cue) else None
        for step in pictures[at][1]:
            for name in self.members(step["target"]):
                self.set_picture(name, step)

    def set_picture(self, name: str, step: dict[str, Any]) -> None:
        lamp = {**self.copy(self.lamps[name]), "pitch": 0}
        shades = {shade: step[shade] for shade in ("red", "green", "blue") if shade in step}
        if "first" in step:
            if name not in self.chains:
                return
            if "level" in step:
                shades = shades or dict.fromkeys(("red", "green", "blue"), 1)
                shades = {it: Fraction(part(share(step["level"]), share(of)), FULL) for it, of in shades.items()}
            if shades:
                self.colour(name, lamp, {**shades, "first": step["first"], "last": step.get("last", step["first"])}, {})
        else:
            if shades:
                self.colour(name, lamp, shades, {})
            if "level" in step:
                self.set_to(lamp, share(step["level"]))
        self.set(name, lamp, ms(step.get("fade_s")), None)
