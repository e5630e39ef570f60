"""The sheet of a handset: what it speaks, how it sends, and what is typed, said or pressed for which word."""

from collections.abc import Iterator

from oddlamp.core.base import si
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.plan.document import at_path
from oddlamp.core.plan.model import FEED_S, Handset
from oddlamp.core.resolve.passages import RADIO_NAMES
from oddlamp.sheets.helpers import helper_moves
from oddlamp.sheets.models import Choice, Entry, Option, Panel, Sheet
from oddlamp.sheets.phone_lights import light_moves, light_panels
from oddlamp.sheets.slots import slots_of
from oddlamp.sheets.words import appends_choice

SPEAKS = (
    (("classic", "ble", "wifi"), "All three radios"),
    (("ble", "wifi"), "BLE and Wi-Fi only"),
    (("classic",), "Classic serial only"),
    (("wifi",), "Wi-Fi only"),
)


SLOTS = {
    "phone": ("What to type into which slot of the phone's program", "Type"),
    "voice": ("What is said for which word", "Say"),
    "remote": ("Which key stands for which word", "Code"),
    "feed": ("What carries its lines", "Type"),
}


def phone_sheet(design: Design, node: NodeDesign) -> Sheet:
    """Build the sheet of the phone: what it speaks, and how it sends what is typed."""
    handset = design.handsets[node.id]
    radios = and_list([RADIO_NAMES[radio] for radio in handset.speaks]) or "nothing"
    speaks = tuple(
        Option(
            label=label, patch=at_path(("nodes", node.id, "speaks"), list(radios_)), is_chosen=radios_ == tuple(handset.speaks)
        )
        for radios_, label in SPEAKS
    )
    sends = tuple(
        Option(
            label=label, detail=detail, patch=at_path(("nodes", node.id, "sends_as"), key), is_chosen=handset.sends_as.id == key
        )
        for key, label, detail in (
            ("characters", "Characters", "1 goes out as 0x31"),
            ("numbers", "Numbers", "1 goes out as 0x01"),
        )
    )
    is_remote = handset.kind == "remote"
    panel = Panel(
        title="",
        choices=()
        if is_remote
        else (
            Choice(label="Speaks", origin=handset.speaks_picked.origin, because=handset.speaks_picked.why, options=speaks),
            *(
                [
                    Choice(
                        label="Sends what is typed as",
                        origin=handset.sends_as.origin,
                        because=handset.sends_as.why,
                        options=sends,
                    )
                ]
                if handset.kind not in ("voice", "feed")
                else []
            ),
            appends_choice(design, handset),
        ),
    )
    return Sheet(
        stage=node.stage,
        kind="handset",
        title=node.label,
        sentence=_handset_says(design, node),
        detail=f"{plural(len(node.node.lines), 'line')}, in turn. A small stand-in says them in the rehearsal; what they come from is yours."
        if isinstance(node.node, Handset) and node.node.kind == "feed"
        else f"{plural(len(handset.controls), 'key')}; in sight of its receiver, a few metres off."
        if is_remote
        else f"It speaks {radios}. {plural(len(handset.controls), 'control' if handset.kind != 'voice' else 'phrase')}.",
        panels=(panel, *_lines(node), *light_panels(handset)),
        slots=tuple(slots_of(design, handset)),
        slots_title=SLOTS.get(handset.kind, SLOTS["phone"])[0],
        slots_head=SLOTS.get(handset.kind, SLOTS["phone"])[1],
        moves=(*light_moves(design, handset), *helper_moves(design, handset)),
    )


def _lines(node: NodeDesign) -> Iterator[Panel]:
    """Hold the lines of a feed, and how often one comes."""
    it = node.node
    if not isinstance(it, Handset) or it.kind != "feed":
        return
    lines = Entry(
        label="Lines",
        text="; ".join(it.lines),
        path=("nodes", node.id, "lines"),
        origin="own",
        hint="parted by semicolons, said in turn",
    )
    every = Entry(
        label="One comes every",
        text=si(it.every_s or FEED_S, "s"),
        path=("nodes", node.id, "every_s"),
        origin="own" if it.every_s else "proposed",
        because=None if it.every_s else "long enough to read one",
        settles=None if it.every_s else FEED_S,
    )
    yield Panel(title="What comes", entries=(lines, every))


def _handset_says(design: Design, node: NodeDesign) -> str:
    handset = design.handsets[node.id]
    if handset.kind == "remote" and handset.receiver is None:
        return "Nothing takes in what the remote sends: give a board a remote receiver."
    if handset.kind == "remote":
        host = design.plan.inputs[handset.receiver or ""].host
        return f"Each key of the {inner(node.label)} stands for a word of the {inner(design.nodes[host].label)}."
    if handset.kind == "feed" and not handset.controls:
        return f"No word carries a text: the {inner(node.label)} has nothing to say its lines with."
    if handset.kind == "feed":
        return f"The {inner(node.label)} sends a line at a time and adds {handset.appends.label}."
    if handset.kind == "voice":
        return f"The {inner(node.label)} sends a word for each of its phrases and adds {handset.appends.label}."
    return f"The {inner(node.label)} sends {handset.sends_as.id} and adds {handset.appends.label}."
