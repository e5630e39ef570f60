"""Two stand-ins within reach of each other: when one calls the other, what their radios carry, and when they part."""

from dataclasses import dataclass, field
from typing import Final, NamedTuple

from oddlamp.core.modules.stand_in import Said, StandIn

FIND_S: Final = 2.0  # until a master that may call has found who it calls; from memory
FLIGHT_S: Final = 0.03  # from wire to wire; from memory
MASTER: Final = 1
ANYBODY: Final = 1


class Flown(NamedTuple):
    """What one of the two says on its wire."""

    side: int
    said: Said


@dataclass
class Air:
    """The air between two modules; whoever drives them tells it what they said, and lets time pass here for both."""

    sides: tuple[StandIn, StandIn]
    could_from_s: float | None = None
    flying: list[tuple[float, int, bytes]] = field(default_factory=list)

    def took(self, side: int, said: list[Said]) -> list[Flown]:
        """Take what a module said: what goes into the air flies to the other, what goes on its wire is given back."""
        self.flying += [(it.at_s + FLIGHT_S, 1 - side, it.content) for it in said if it.to == "air"]
        return [Flown(side, it) for it in said if it.to == "wire"]

    def until(self, at_s: float) -> list[Flown]:
        """Let time pass: commands that end by a quiet line end, the two find or lose each other, and what flies arrives."""
        out = [it for side, module in enumerate(self.sides) for it in self.took(side, module.until(at_s))]
        out += self._parted(at_s)
        if not self._may_call():
            self.could_from_s = None
        elif self.could_from_s is None:
            self.could_from_s = at_s
        if self.could_from_s is not None and at_s >= self.could_from_s + FIND_S:
            linked_s, self.could_from_s = self.could_from_s + FIND_S, None
            out += [it for side, module in enumerate(self.sides) for it in self.took(side, module.link(linked_s, is_there=True))]
        arrived, self.flying = [it for it in self.flying if it[0] <= at_s], [it for it in self.flying if it[0] > at_s]
        for arrives_s, side, content in arrived:
            out += self.took(side, self.sides[side].hear_air(arrives_s, content))
        return out

    def _parted(self, at_s: float) -> list[Flown]:
        """Where one of two that were linked is not any more, the other loses its link as well."""
        linked = [module.is_linked and module.mode == "linked" for module in self.sides]
        if linked[0] == linked[1]:
            return []
        stays = linked.index(True)
        self.flying.clear()
        return self.took(stays, self.sides[stays].link(at_s, is_there=False))

    def _may_call(self) -> bool:
        """Tell whether one of the two calls the other and is let in: bound to it or to nobody, and both with one PIN."""
        if any(module.mode != "waiting" for module in self.sides):
            return False
        for caller, called in (self.sides, self.sides[::-1]):
            theirs, mine = called.kept, caller.kept
            is_bound = "bound" not in mine or mine.get("mode") == ANYBODY or mine["bound"] == theirs.get("address")
            if (
                mine.get("role") == MASTER
                and theirs.get("role", 0) != MASTER
                and is_bound
                and mine.get("pin") == theirs.get("pin")
            ):
                return True
        return False
