"""What the rules of a host come to, worked out once before a run."""

from typing import NamedTuple

from oddlamp.core.design.design import Design
from oddlamp.core.design.lines import Way
from oddlamp.core.design.talks import Hop
from oddlamp.core.design.values import NOT_YET
from oddlamp.core.plan.fields import Saying
from oddlamp.core.plan.rules import Action


class Deed(NamedTuple):
    """What one action of a rule comes to."""

    action: Action
    say: Saying | None
    stage: str
    says: str
    lamps: tuple[str, ...]
    lost_because: str | None


def deed_of(design: Design, host: str, action: Action) -> Deed:
    """Work out what an action of a host comes to: the lamps it means, what is said, or why nothing comes of it yet."""
    lost_because = None
    if action.verb == "cue" or (action.values is not None and action.values.level == "input"):
        lost_because = f"{'cues' if action.verb == 'cue' else 'levels from an input'}: {NOT_YET}"
    say = action.say if action.verb == "say" else None
    says = f"says {say.word}" if say is not None else f"{action.verb} {action.target}"
    return Deed(action, say, f"rules.{host}", says, design.targets(action.target), lost_because)


def way_of(hop: Hop, goes_out: bool) -> Way:
    """Return the direction of a link that a message takes over a hop."""
    if goes_out:
        return hop.way
    return "b_to_a" if hop.way == "a_to_b" else "a_to_b"
