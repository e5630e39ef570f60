"""Findings: what is wrong or worth a look, with numbers, reason and ways out."""

from dataclasses import dataclass
from typing import Any, Literal

from pydantic import Field

from oddlamp.core.base import Model, Working

Severity = Literal["stop", "look"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """Something to press: a merge patch on the plan (RFC 7396) with its label."""

    label: str
    patch: dict[str, Any]


class Breach(Model):
    """What a rule saw, before it gets its code."""

    severity: Severity
    where: str = Field(description="Dotted path of what it is about")
    stage: str
    message: str
    numbers: dict[str, float] = Field(default_factory=dict, description="What an acceptance is held to; bigger is worse")
    working: tuple[Working, ...] = ()
    fixes: tuple[Move, ...] = ()


class Finding(Breach):
    """A breach with its stable code, and the risk if the user accepted it."""

    code: str
    key: str = Field(description="CODE@where, the key of an acceptance")
    accepted: str | None = Field(default=None, description="The reason, where accepted and not worse since")
