"""The ways that messages take in a rehearsal, leg by leg, and what a run needs to know of each link."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final, NamedTuple

from oddlamp.core.behaviour.framing import byte_time_s
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.design.talks import Hop, TalkDesign
from oddlamp.core.modules.stand_in import Said

EXACT_S: Final = 1e-9  # sums of times differ in their last digits


@dataclass(frozen=True, slots=True, eq=False)
class Leg:
    """Where a message is on a talk, and which way it goes: the node, and the link it takes next; None where it has arrived."""

    talk: TalkDesign
    goes_out: bool
    node: str
    hop: Hop | None
    after: "Leg | None" = None

    @property
    def next(self) -> "Leg":
        """One link further; only where there is one."""
        return self.after or self


def legs_of(talk: TalkDesign, *, goes_out: bool) -> Leg:
    """Lay out one way of a talk, from its first leg on."""
    hops = talk.hops if goes_out else talk.hops[::-1]
    leg = Leg(talk, goes_out, talk.b if goes_out else talk.a, None)
    for hop in reversed(hops):
        leg = Leg(talk, goes_out, hop.from_node if goes_out else hop.to_node, hop, leg)
    return leg


def quiet_s(said: Sequence[Said], speed_bd: int, talk: TalkDesign) -> float:
    """Return how long what a module says of a link takes with the pause that ends it: nobody links and presses within that."""
    gap = talk.vocabulary.gap
    told = sum(len(it.content) for it in said if it.to == "wire")
    return told * byte_time_s(speed_bd) + gap.known + EXACT_S if gap is not None and told else 0.0


def walk(leg: Leg | None) -> Iterator[Leg]:
    while leg is not None:
        yield leg
        leg = leg.after


class Flight(NamedTuple):
    """What a run needs to know of one way through the air."""

    stage: str
    ref: str
    lost_because: str | None
    may_not: str | None
    most_bytes: int
    latency_s: float
    module: NodeDesign | None


class PassageOver(NamedTuple):
    """What a run needs to know of one way over a wire."""

    stage: str
    ref: str
    lost_because: str | None
    may_not: str | None
    volts: float
    baud_bd: int
    module: NodeDesign | None
