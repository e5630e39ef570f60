"""What a lamp shows when one thing alone is done with it, to look at before a rule is made of it."""

from typing import Any, Final

from oddlamp.core.base import Model
from oddlamp.core.design.design import Design
from oddlamp.core.errors import OutOfRange
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.signals import told_by
from oddlamp.core.rehearsal.events import read_events
from oddlamp.core.rehearsal.simulate import rehearse_design
from oddlamp.core.rehearsal.trace import LampLook
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.journeys import show_run
from oddlamp.sheets.layouts import unwritten

SHOWN_S: Final = 8.0


class Preview(Model):
    """The light of one lamp over some seconds."""

    looks: tuple[LampLook, ...]
    ends_at_s: float
    sentence: str


def preview(design: Design, lamp_id: str, verb: str, values: dict[str, Any]) -> Preview:
    """Rehearse one deed of one lamp by itself, as its board would do it at power-on.

    Raises:
        OutOfRange: no lamp that a board tells.
        PlanInvalid: a deed that is none.
    """
    lamp = design.lamps.get(lamp_id)
    host = told_by(design.plan, lamp.host) if lamp is not None else None
    if lamp is None or host is None or design.nodes[host].node.kind != "board":
        raise OutOfRange(field="lamp", given=lamp_id, allowed="a lamp that a board tells")
    deed = {"verb": verb, "target": lamp_id, **({"values": values} if values else {})}
    plan = design.plan
    alone: Document = {field: dict.fromkeys(getattr(plan, field)) for field in ("rules", "cues", "standing", "movers")}
    alone["rules"]["tried"] = {"host": host, "when": {"event": "power-up"}, "do": [deed]}
    tried = resolve(edit_plan(plan, alone), design.catalog)
    trace = rehearse_design(tried, read_events([{"kind": "wait", "t_s": SHOWN_S}]))
    run = show_run(tried, trace, since_s=0.0)
    lost = next((it.lost_because for it in trace.events if it.lost_because and it.ref in (lamp_id, f"{lamp_id}.data")), None)
    if lost is not None:
        return Preview(looks=(), ends_at_s=0.0, sentence=f"It stays dark: {lost}.")
    missing = unwritten(design, lamp_id, str(values.get("text", "")))
    sentence = f"It has no drawing for {' '.join(missing)}: it leaves that out or writes ? for it." if missing else ""
    return Preview(looks=run.looks.get(lamp.stage, ()), ends_at_s=min(trace.ends_at_s, SHOWN_S), sentence=sentence)
