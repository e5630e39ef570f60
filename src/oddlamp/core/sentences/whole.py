"""Rules as sentences and back, so that what is printed is read as what it was."""

from collections.abc import Mapping
from typing import Any

from oddlamp.core.plan.model import Plan
from oddlamp.core.sentences.names import Names
from oddlamp.core.sentences.printing import Printer
from oddlamp.core.sentences.reading import Expected, NotUnderstood, Reader


class Sentences:
    """The sentences of one host of a plan."""

    def __init__(self, plan: Plan, host: str) -> None:
        self.host, self.names = host, Names(plan, host)
        self.plain, self.sure = Printer(self.names), Printer(self.names, is_sure=True)

    def print(self, rule: Mapping[str, Any]) -> str:
        """Return a rule as a sentence: by names alone where those are read as what is meant, else with the id of each."""
        text, meant = self.plain.rule(rule), self.sure.rule(rule)
        try:
            is_meant = self.sure.rule(self.read(text)) == meant
        except NotUnderstood:
            is_meant = False
        return text if is_meant else meant

    def read(self, text: str) -> dict[str, Any]:
        """Return the rule that a sentence says.

        Raises:
            NotUnderstood: says where, and what could stand there.
        """
        return Reader(self.names, self.host, text).rule()

    def orders(self, lamp: str, standing: Mapping[str, Any]) -> list[str]:
        """Return what a lamp does when nobody tells it, a sentence for each order that is settled: named as in ``print``."""
        pairs = zip(self.plain.orders(lamp, standing), self.sure.orders(lamp, standing), strict=True)
        return [text if self.order(text) == self.order(sure) else sure for text, sure in pairs]

    def order(self, text: str) -> tuple[str, dict[str, Any]] | None:
        """Return the lamp and the order that a sentence gives; None where it is no such sentence."""
        return Reader(self.names, self.host, text).order()

    def next(self, text: str) -> tuple[Expected, ...]:
        """Return what could stand next in a sentence that is not whole."""
        return Reader(self.names, self.host, text, tells=True).completions()
