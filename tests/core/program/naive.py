"""A machine written from docs/program.md alone, slowly and plainly, to hold the real one to it. It reads a plan's document, not the design."""

from fractions import Fraction
from math import floor
from typing import Any

FULL = 255
HALF = Fraction(1, 2)


def rounded(value: Fraction) -> int:
    """Round half up."""
    return floor(value + HALF)


class Naive:
    """Lamps as dictionaries, rules as they stand in the plan."""

    def __init__(self, plan: dict[str, Any], ladders: dict[str, list[int]], most_scores: dict[str, int]) -> None:
        self.plan, self.ladders, self.most_scores = plan, ladders, most_scores
        self.put_by: dict[str, dict[str, Any]] = {}
        self.cue_at: dict[str, int] = {}
        self.lamps = {
            name: {"on": False, "level": FULL, "red": FULL, "green": FULL, "blue": FULL, "text": "", "score": 0}
            for name in plan["lamps"]
        }
        for name, standing in plan.get("standing", {}).items():
            if standing.get("power_up") == "on":
                self.do({"verb": "on", "target": name}, {})

    def hear(self, word: str, carried: dict[str, Any]) -> None:
        for rule in self.plan["rules"].values():
            if rule["when"].get("heard") == word:
                for action in rule["do"]:
                    self.do(action, carried)

    def move(self, what: str, event: str) -> None:
        for rule in self.plan["rules"].values():
            if rule["when"].get("input") == what and rule["when"].get("event") == event:
                for action in rule["do"]:
                    self.do(action, {})

    def number(self, given: Any, carried: dict[str, Any]) -> int | None:
        """A share of full, or a value that was carried, 0 to its word's most."""
        if not isinstance(given, str):
            return rounded(FULL * Fraction(given))
        if given[1:-1] not in carried:
            return None
        value, least, most = carried[given[1:-1]]
        return rounded(Fraction(FULL * (min(max(value, least), most) - least), most - least))

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

    def do(self, action: dict[str, Any], carried: dict[str, Any]) -> None:
        target, values = action["target"], action.get("values", {})
        if action["verb"] == "next":
            self.next_of(target)
            return
        names = self.plan["groups"][target]["members"] if target in self.plan.get("groups", {}) else [target]
        for name in names:
            kind = self.plan["lamps"][name]["kind"]
            if (action["verb"] in ("text", "score") and kind != "matrix") or (action["verb"] == "colour" and kind != "rgb"):
                continue  # it cannot, and is left as it is
            self.do_to(name, self.lamps[name], action["verb"], values, carried)

    def do_to(self, name: str, lamp: dict[str, Any], verb: str, values: dict[str, Any], carried: dict[str, Any]) -> None:
        ends, ladder = values.get("ends"), self.ladders.get(name, [FULL])
        if verb == "on":
            self.on(lamp)
        elif verb == "off":
            lamp["on"] = False
        elif verb == "toggle":
            lamp["on"] = not lamp["on"]
        elif verb == "level":
            level = self.number(values["level"], carried)
            if level is not None:
                self.set_to(lamp, level)
        elif verb == "colour":
            for shade in ("red", "green", "blue"):
                share = self.number(values[shade], carried) if shade in values else None
                lamp[shade] = lamp[shade] if share is None else share
            lamp["on"] = lamp["red"] > 0 or lamp["green"] > 0 or lamp["blue"] > 0
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
            size = rounded(FULL * abs(Fraction(values["by_ratio"])))
            self.set_to(lamp, self.moved(self.bright(lamp), size if values["by_ratio"] > 0 else -size, FULL, ends))
        elif verb == "text":
            lamp["text"] = carried[values["text"][1:-1]] if values["text"].startswith("{") else values["text"]
            self.on(lamp)
        elif verb == "score":
            if "count" in values:
                wanted = values["count"]
                lamp["score"] = min(max(wanted, 0), self.most_scores.get(name, 0))
            else:
                lamp["score"] = self.moved(lamp["score"], values["by_count"], self.most_scores.get(name, 0), ends)
            lamp["text"] = str(lamp["score"])
            self.on(lamp)
        elif verb == "remember":
            self.put_by[name] = dict(lamp)
        elif verb == "restore":
            lamp.update(self.put_by.get(name, {}))
        else:
            raise AssertionError(verb)

    def next_of(self, cue: str) -> None:
        pictures: list[list[dict[str, Any]]] = []
        for step in self.plan["cues"][cue]["steps"]:
            if pictures and not step.get("after_s"):
                pictures[-1].append(step)
            else:
                pictures.append([step])
        at = self.cue_at.get(cue, -1) + 1
        self.cue_at[cue] = at = 0 if at == len(pictures) else at
        for step in pictures[at]:
            if "level" in step:
                self.set_to(self.lamps[step["target"]], rounded(FULL * Fraction(step["level"])))

    def pin(self, name: str, lead: str) -> int:
        """What the pin shows, of 255, where it is on when it is high."""
        lamp = self.lamps[name]
        cap = self.plan["lamps"][name].get("brightness_cap_ratio", 1)
        level = rounded(Fraction(self.bright(lamp) * rounded(FULL * Fraction(cap)), FULL))
        return level if lead == "main" else rounded(Fraction(level * lamp[lead], FULL))

    def shows(self, name: str) -> str:
        lamp = self.lamps[name]
        return lamp["text"] if lamp["on"] else ""
