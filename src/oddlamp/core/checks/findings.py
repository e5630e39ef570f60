"""Findings: what is wrong or worth a look, with numbers, reason and ways out."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal, NamedTuple

from oddlamp.core.base import Working
from oddlamp.core.design.design import Design
from oddlamp.core.design.passages import Severity

Scope = Literal["lamp", "line", "module", "words", "whole"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """Something to press: a merge patch on the plan (RFC 7396) with its label."""

    label: str
    patch: dict[str, Any]


@dataclass(frozen=True, kw_only=True)
class Breach:
    """What a rule saw, before it gets its code.

    ``where`` is the dotted place it is about; ``numbers`` what an acceptance is held to, bigger is worse. Ways out come
    as ``fixes``, or, where they cost something to find, as ``ways``, which is asked only when somebody looks.
    """

    severity: Severity
    where: str
    stage: str
    message: str
    numbers: dict[str, float] = field(default_factory=dict)
    working: tuple[Working, ...] = ()
    fixes: tuple[Move, ...] = ()
    ways: Callable[[], Iterable[Move]] | None = None


@dataclass(frozen=True, kw_only=True)
class Finding:
    """A breach with its stable code, and the risk if the user accepted it. ``key`` is CODE@where, the key of an acceptance."""

    code: str
    breach: Breach
    accepted: str | None
    reworked: Callable[[Iterable[Move]], Iterator[Move]]

    @property
    def key(self) -> str:
        """CODE@where."""
        return f"{self.code}@{self.breach.where}"

    @property
    def severity(self) -> Severity:
        """Stop or look."""
        return self.breach.severity

    @property
    def where(self) -> str:
        """The dotted place it is about."""
        return self.breach.where

    @property
    def stage(self) -> str:
        """The stage of the line it stands at."""
        return self.breach.stage

    @property
    def message(self) -> str:
        """The sentence."""
        return self.breach.message

    @property
    def numbers(self) -> dict[str, float]:
        """What an acceptance is held to; bigger is worse."""
        return self.breach.numbers

    @property
    def working(self) -> tuple[Working, ...]:
        """How the numbers came."""
        return self.breach.working

    @cached_property
    def fixes(self) -> tuple[Move, ...]:
        """The ways out, worked out when first asked for."""
        return tuple(self.reworked(self.breach.ways() if self.breach.ways is not None else self.breach.fixes))


class Rule(NamedTuple):
    """A stable code, what it looks at one by one, the function that looks, and what it looks for, as `docs/findings.md` prints it.

    ``scope`` is what one of its findings depends on: a lamp with what drives it, a line with both ends, a module, a set of
    words, or the whole plan. ``stop`` and ``look`` are the exact conditions; empty where the rule has no such severity.
    """

    code: str
    scope: Scope
    check: Callable[[Design], Iterator[Breach]]
    stop: str
    look: str
    source: str
