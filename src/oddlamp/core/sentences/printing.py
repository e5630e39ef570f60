"""A rule as a sentence."""

from collections.abc import Mapping
from typing import Any

from oddlamp.core.sentences.forms import (
    COLOURS,
    FORMS,
    ORDERS,
    SHADES,
    TAKES_OVER,
    UNFINISHED,
    WHEN,
    Fixed,
    Form,
    Part,
    Place,
    parts_of,
)
from oddlamp.core.sentences.names import Kind, Names
from oddlamp.core.sentences.slots import printed

Document = Mapping[str, Any]
OF_PLAN: Mapping[str, Kind] = {
    "lamp": "lamp", "target": "target", "cue": "cue", "mover": "mover", "input": "input", "heard": "heard", "said": "said", "link": "link",
}  # fmt: skip


class Printer:
    """Prints the rules of one host. ``is_sure`` names everything with its id, for plans in which names mislead."""

    def __init__(self, names: Names, *, is_sure: bool = False) -> None:
        self.names, self.is_sure = names, is_sure

    def rule(self, rule: Document) -> str:
        """Return a whole rule as one sentence."""
        does = ", ".join(self.action(it) for it in rule.get("do", ())) or "nothing"
        return f"{self.when(rule.get('when', {}))}{self.unless(rule.get('unless'))}: {does}."

    def orders(self, lamp: str, standing: Document) -> list[str]:
        """Say what a lamp does when nobody tells it: a sentence for each order that is settled."""
        name = self._name("lamp", lamp)
        said = [form.replace("{lamp}", name) + "." for field, key, form in ORDERS if standing.get(field) == key]
        for source, ratio in (standing.get("thresholds") or {}).items():
            told = TAKES_OVER.replace("{lamp}", name).replace("{input}", self._name("input", source))
            said.append(told.replace("{ratio:share}", printed("share", ratio) or "") + ".")
        return said

    def when(self, when: Document) -> str:
        """Say what sets a rule off."""
        for fixed, form in WHEN:
            if all(when.get(field) == value for field, value in fixed.items()):
                said = self._filled(parts_of(form), when, {**when})
                if said is not None and (fixed or not when.get("event")):
                    return said
        return "On nothing"

    def unless(self, unless: Document | None) -> str:
        """Say what a rule is left out for."""
        if not unless:
            return ""
        kind: Kind = "lamp" if unless.get("lamp") else "input"
        return f", unless {self._name(kind, unless[kind])} is {unless['state']}"

    def action(self, action: Document) -> str:
        """Say one thing a rule does."""
        after = f" after {printed('time', action['after_s'])}" if action.get("after_s") else ""
        return f"{self._said(action)}{after}"

    def _said(self, action: Document) -> str:
        values = {key: it for key, it in (action.get("values") or {}).items() if it is not None}
        for form in FORMS[action["verb"]]:
            head = self._filled(parts_of(form.head), action, values)
            if head is not None and self._fits(form, action, values):
                return head + "".join(self._filled(parts_of(it), action, values) or "" for it in form.clauses)
        kind: Kind = "target" if any(it.id == action.get("target") for it in self.names.of["target"]) else "mover"
        return f"{UNFINISHED.replace('{target}', self._name(kind, action.get('target') or ''))}{action['verb']}"

    def _fits(self, form: Form, action: Document, values: Document) -> bool:
        """Tell whether a form is the one for a target: a stop of a cue is none of a mover."""
        target, verb = action.get("target"), action["verb"]
        if verb == "stop":
            kind: Kind | None = "cue" if "{cue}" in form.head else "mover" if "{mover}" in form.head else None
            return target is None if kind is None else any(it.id == target for it in self.names.of[kind])
        return verb != "show" or ("{input}" in form.head) == ("input" in values)

    def _filled(self, parts: tuple[Part, ...], action: Document, values: Document) -> str | None:
        said = ""
        for part in parts:
            match part:
                case str():
                    said += part
                case Fixed():
                    if not self._is(values, part):
                        return None
                case Place():
                    one = self._value(part, action, values)
                    if one is None:
                        return None
                    said += one
        return said

    @staticmethod
    def _is(values: Document, part: Fixed) -> bool:
        value = values.get(part.field)
        return value == (float(part.value) if isinstance(value, float) and str(part.value).isdigit() else part.value)

    def _value(self, part: Place, action: Document, values: Document) -> str | None:
        match part.field:
            case "target" | "cue" | "mover":
                return None if action.get("target") is None else self._name(OF_PLAN[part.field], action["target"])
            case "said":
                say = action.get("say")
                return None if say is None else self._name("said", f"{say['talk']}.{say['word']}")
            case "fill":
                fill = (action.get("say") or {}).get("fill") or {}
                return " with " + " and ".join(f"{name} {printed('fill', it)}" for name, it in fill.items()) if fill else None
            case "shade":
                return _shade(values)
            case "more" | "less":  # of what is added
                by = values.get("by_ratio")
                return None if by is None or (by < 0) != (part.field == "less") else printed("share", abs(by))
            case "heard" | "input" | "link":
                return None if values.get(part.field) is None else self._name(OF_PLAN[part.field], values[part.field])
            case field:
                return None if values.get(field) is None else printed(part.kind, values[field])

    def _name(self, kind: Kind, name: str) -> str:
        return self.names.shown(kind, name, is_sure=self.is_sure)


def _shade(values: Document) -> str | None:
    """Write a colour: by its name, or share by share."""
    given = {name: values[name] for name in SHADES if values.get(name) is not None}
    whole = tuple(given.get(name) for name in SHADES)
    named = next((name for name, shade in COLOURS.items() if shade == whole), None)
    if named is not None:
        return named
    return " ".join(f"{name} {printed('given', it)}" for name, it in given.items()) or None
