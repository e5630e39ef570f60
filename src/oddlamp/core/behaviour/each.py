"""Inputs of which there are several alike: a rule for them stands for one rule for each."""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from oddlamp.core.design.design import Design
from oddlamp.core.plan.model import Input
from oddlamp.core.plan.rules import Rule


class One(NamedTuple):
    """One rule of a program, and what each input of the plan is called in it."""

    rule: Rule
    called: Mapping[str, str]

    @property
    def input(self) -> str | None:
        """The input that sets it off, as the program calls it."""
        return None if self.rule.when.input is None else self.called.get(self.rule.when.input, self.rule.when.input)


def keys_of(name: str, it: Input) -> tuple[str, ...]:
    """Return what an input is called in a program: by its id, or where there are several alike each with its number, from 1 on."""
    return (name,) if it.count in (None, 1) else tuple(f"{name}.{at}" for at in range(1, (it.count or 1) + 1))


def rules_for_each(design: Design, host: str) -> Iterator[One]:
    """Write the rules of a host out: one that several inputs set off once for each of them, in their order.

    In it the input is the one that set it off, and so is the pixel of its place; in others it is the first.
    """
    keys = {name: keys_of(name, it) for name, it in design.plan.inputs.items()}
    firsts = {name: them[0] for name, them in keys.items()}
    for _, rule in design.rules_of(host):
        name = rule.when.input
        for at, key in enumerate(keys[name] if name is not None else ("",)):
            yield One(_at(rule, at), firsts if name is None or key == firsts[name] else {**firsts, name: key})


def _at(rule: Rule, at: int) -> Rule:
    """Return a rule in which the pixel of an input's place is a pixel, counted from 0."""
    if not any(it.values is not None and it.values.first == "input" for it in rule.do):
        return rule
    do = tuple(
        it.model_copy(update={"values": it.values.model_copy(update={"first": at})})
        if it.values is not None and it.values.first == "input"
        else it
        for it in rule.do
    )
    return rule.model_copy(update={"do": do})
