"""What a terminal kept, read back at a module: who spoke, what each line means, what is taken into the plan, and what to think of garbage and of silence."""

import re
from collections.abc import Iterable, Iterator, Sequence
from itertools import chain
from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import and_list, inner, plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.goals import dialect_of, seen_patch, setup_of_node, wanted_of_module
from oddlamp.core.modules.script import LIKELY_BD, Step, script, shown
from oddlamp.core.modules.wifi import wifi_script
from oddlamp.core.parts.dialect import Dialect
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.core.reading.garbled import TELLING_LEAST, Heard, Made, made_by
from oddlamp.core.reading.text import charset_of, ending_of, lines_of, veiled
from oddlamp.core.reading.told import NAMES, Read, SettingTold, beside, read_back, value_told

SHOWN_MOST: Final = 300
BLANKS: Final = b"\r\n\t \x00"
HEAD_BYTES: Final = 4000  # of a log, by which it is told whether it is one
GARBLED_RATIO: Final = 0.3  # of what no reader sees, or no plain sign
HEX: Final = re.compile(r"(?:0x)?[0-9A-Fa-f]{2}(?:[\s,;]+(?:0x)?[0-9A-Fa-f]{2})*")
GARBLED_MOST: Final = 120
SEEN: Final = {"name": "name", "pin": "pin_code", "role": "role", "speed": "found_bd"}
PLAN_PATHS: Final = {"name": ("setup", "name"), "pin": ("setup", "pin_code"), "role": ("setup", "role"), "address": ("setup", "address"), "speed": ("setup", "found_bd")}  # fmt: skip


class LineShown(Model):
    """One line of a log: who said it, and what it means."""

    number: int
    side: Literal["you", "module"]
    text: str
    means: str
    is_known: bool


class SettingShown(Model):
    """A setting as the log tells it. ``patch`` takes it into the plan; None where it is doubtful, or is there already."""

    label: str
    value: str
    is_sure: bool
    wanted: str = Field(description="What the plan wants there; empty where it wants nothing")
    differs: bool
    patch: Document | None = None


class StepBeside(Model):
    """A step of the script beside the log."""

    text: str
    sent: str
    state: Literal["done", "differs", "open"]
    heard: str
    advice: str


class SpeedMade(Model):
    """A speed that would have made the garbage."""

    text: str
    because: str
    patch: Document


class ReadBack(Model):
    """What was read: one sentence, and what follows from it."""

    sentence: str
    detail: str
    lines: tuple[LineShown, ...] = ()
    more: int = Field(default=0, description="Lines that are not shown")
    settings: tuple[SettingShown, ...] = ()
    take: Document | None = Field(default=None, description="Takes all that is sure and new into the plan")
    take_label: str = ""
    note: Document | None = Field(default=None, description="Notes that it is so, and leaves what the plan wants as it is")
    steps: tuple[StepBeside, ...] = ()
    speeds: tuple[SpeedMade, ...] = ()
    causes: tuple[str, ...] = Field(
        default=(), description="Why nothing comes, the likeliest first, each with the test that tells"
    )


def read_back_at(design: Design, node_id: str, log: Iterable[bytes], heard_bd: int | None = None) -> ReadBack:
    """Read what a terminal kept of a module.

    Args:
        design: the plan, worked out.
        node_id: which module.
        log: in pieces of any size, in any character set; bytes as hex, or as the signs a terminal showed. No more of it is
            held than its last exchanges.
        heard_bd: what the terminal was set to; needed for garbage alone.
    Raises:
        OutOfRange: no module of a known family.
    """
    node, dialect, part = _module_at(design, node_id)
    pieces = iter(log)
    head = b""
    while len(head) < HEAD_BYTES and (piece := next(pieces, b"")):
        head = head + piece if head.strip(BLANKS) else piece
    if not head.strip(BLANKS):
        return _nothing(design, node, dialect)
    garbage = garbled(head)
    if garbage is not None:
        for _ in pieces:
            pass  # whoever sends it is waited for to its end
        return _garbage(design, node, part, garbage, heard_bd or LIKELY_BD[0])
    read = read_back(lines_of(chain((head,), pieces)), list(design.catalog.dialects.values()))
    return _log(design, node, dialect, read, f"Its lines end in {ending_of(head)}.")


def _module_at(design: Design, node_id: str) -> tuple[NodeDesign, Dialect, ModulePart]:
    node = design.nodes.get(node_id)
    dialect = dialect_of(design, node) if node is not None else None
    if node is None or dialect is None or not isinstance(node.part, ModulePart):
        known = [name for name, it in design.nodes.items() if dialect_of(design, it) is not None]
        raise OutOfRange(field="node", given=node_id, allowed="one of " + (", ".join(known) or "none: there is no module"))
    return node, dialect, node.part


def garbled(content: bytes) -> Heard | None:
    """Return the bytes that were heard, where these are garbage and no conversation; None for what can be read."""
    head = content[:HEAD_BYTES]
    if charset_of(head).startswith("utf-16"):
        return None
    text = head.decode("latin-1").strip()
    if HEX.fullmatch(text) and len(text) > 2:
        heard = tuple(int(it, 16) for it in re.findall(r"[0-9A-Fa-f]{2}", text.replace("0x", "")))
        plain = sum(32 <= it < 127 or it in (10, 13) for it in heard)
        return heard[:GARBLED_MOST] if plain < (1 - GARBLED_RATIO) * len(heard) else None
    try:
        signs = head.decode("utf-8")
    except UnicodeDecodeError:
        signs = text
    odd = sum(not (32 <= ord(it) < 127 or it in "\r\n\t") for it in signs)
    if odd < GARBLED_RATIO * len(signs):
        return None
    return tuple(_byte_of(it) for it in signs if it not in "\r\n")[:GARBLED_MOST]


def _byte_of(sign: str) -> int | None:
    """Return the byte a terminal showed as a sign; None where its character set hid which."""
    if sign in "\ufffd?":
        return None
    try:
        return sign.encode("cp1252")[0]
    except UnicodeEncodeError:
        return ord(sign) if ord(sign) < 256 else None


# A conversation


def _log(design: Design, node: NodeDesign, dialect: Dialect, read: Read, ended: str) -> ReadBack:
    shown_lines = tuple(
        LineShown(number=it.line.number, side="you" if _is_said(read, it.line.number) else "module", text=veiled(it.line.text), means=it.means, is_known=it.is_known)
        for it in read.meant[:SHOWN_MOST]
    )  # fmt: skip
    first = read.fits[0] if read.fits else None
    sentence, detail = _told(node, dialect, read)
    settings = tuple(_setting(design, node, it) for it in read.settings if it.name in NAMES)
    patches = [it.patch for it in settings if it.patch is not None]
    kept = {SEEN[it.name]: _kept(it) for it in read.settings if it.is_sure and it.name in SEEN}
    seen = {name: value for name, value in kept.items() if value is not None}
    note = seen_patch(node.id, seen) if seen else None
    if (
        first is not None
        and len(read.fits) == 1
        and first.dialect.id == dialect.id
        and first.version != setup_of_node(node).version
    ):
        patches.append(at_path(("nodes", node.id, "setup", "version"), first.version))
    steps = tuple(
        StepBeside(text=it.step.text, sent=" or ".join(shown(way.sent) for way in it.step.ways), state=it.state, heard=it.heard, advice=it.step.advice)
        for it in beside(list(script_of(design, node, dialect)), read.exchanges)
    )  # fmt: skip
    return ReadBack(
        sentence=sentence, detail=f"{detail} {ended}", lines=shown_lines, more=max(0, len(read.meant) - SHOWN_MOST), settings=settings,
        take=join_patches([*patches, *filter(None, (note,))]) if patches else None, note=note, take_label=f"Take {plural(len(patches), 'thing')} into the plan" if patches else "",
        steps=steps,
    )  # fmt: skip


def _is_said(read: Read, number: int) -> bool:
    return any(it.said is not None and it.said.number == number for it in read.exchanges)


def _told(node: NodeDesign, dialect: Dialect, read: Read) -> tuple[str, str]:
    if not read.fits:
        return "Nothing of this can be told.", f"{read.because[:1].upper()}{read.because[1:]}."
    labels = and_list([inner(it.dialect.label) for it in read.fits[:3]])
    counted = f"{plural(read.fits[0].explained, 'answer')} of {plural(sum(it.said is not None for it in read.exchanges), 'line')} said fit."
    if len(read.fits) > 1:
        return f"It is {labels.replace(' and ', ' or ')}.", f"{counted} {read.because[:1].upper()}{read.because[1:]}."
    if read.fits[0].dialect.id != dialect.id:
        return (
            f"It speaks as {labels} does, and not as {inner(dialect.label)}.",
            f"{counted} Pick that family for {node.label}, if this is what lies there.",
        )
    return f"It is {labels}.", counted


def _setting(design: Design, node: NodeDesign, it: SettingTold) -> SettingShown:
    part = node.part
    wanted = wanted_of_module(design, node, part).goal if isinstance(part, ModulePart) else None
    wants = {"name": wanted.name, "pin": wanted.pin, "speed": wanted.speed_bd, "role": wanted.role} if wanted is not None else {}
    value = _kept(it)
    setup = setup_of_node(node)
    now = {"name": setup.name, "pin": setup.pin_code, "role": setup.role, "address": setup.address, "speed": setup.found_bd}
    path = PLAN_PATHS.get(it.name)
    is_new = path is not None and str(now.get(it.name)) != str(value)
    patch = (
        at_path(("nodes", node.id, *path), value) if path is not None and is_new and it.is_sure and value is not None else None
    )
    wish = wants.get(it.name)
    return SettingShown(
        label=NAMES[it.name], value=value_told(it.name, it.value), is_sure=it.is_sure,
        wanted="" if wish is None else si(wish, "Bd") if it.name == "speed" and isinstance(wish, int) else str(wish),
        differs=wish is not None and str(wish) != str(value), patch=patch,
    )  # fmt: skip


def _kept(it: SettingTold) -> str | int | None:
    """Return a setting as a plan keeps it; None for a speed that is none."""
    if it.name == "role":
        return "master" if str(it.value) == "1" else "slave"
    if it.name == "speed":
        return int(it.value) if str(it.value).isdigit() else None
    return str(it.value)


def script_of(design: Design, node: NodeDesign, dialect: Dialect) -> Sequence[Step]:
    """Return the steps that make a module what the plan says; none where it cannot be that."""
    part = node.part
    if not isinstance(part, ModulePart):
        return ()
    goal = wanted_of_module(design, node, part).goal
    try:
        return (
            wifi_script(goal, dialect, setup_of_node(node).route or "adapter")
            if goal.network is not None
            else script(goal, dialect, setup_of_node(node).route or "adapter")
        )
    except OutOfRange:
        return ()


# Garbage


def _garbage(design: Design, node: NodeDesign, part: ModulePart, heard: Heard, heard_bd: int) -> ReadBack:
    goal = wanted_of_module(design, node, part).goal
    dialects = list(design.catalog.dialects.values())
    made = made_by(heard, heard_bd, dialects, known={"name": [goal.name], "pin": [goal.pin] if goal.pin else []})
    at = f"heard at {si(heard_bd, 'Bd')}"
    if not made and len(heard) < TELLING_LEAST:
        return ReadBack(
            sentence=f"{plural(len(heard), 'byte').capitalize()} can be anything.",
            detail="Ask it something that it answers at length, its version or its name, and paste what comes.",
        )
    if not made:
        return ReadBack(
            sentence="No speed makes this of any answer known here.",
            detail=f"{plural(len(heard), 'byte')} {at}: noise, a missing ground, a wrong level or another kind of module. Look at what the terminal was set to once more.",
            causes=("No ground from one to the other: put the meter between the two.", "The level is wrong: measure where it listens.", "Parity or two stop bits: set the terminal to 8N1."),
        )  # fmt: skip
    known = [it for it in made if it.is_known]
    alone = [it for it in known if not it.needs] or known
    if len(alone) == 1:
        sentence = f"It speaks at {si(alone[0].speed_bd, 'Bd')}."
    else:
        told = and_list([si(it.speed_bd, "Bd") for it in _likely(alone or made)]).replace(" and ", " or ")
        sentence = f"It speaks at {told}: these bytes cannot tell which."
    other = " It has a name or a PIN that nobody told here." if not known else " With a name that nobody told here another speed might fit too."  # fmt: skip
    return ReadBack(
        sentence=sentence,
        detail=f"{plural(len(heard), 'byte')} {at}, as a receiver samples them.{other} Set the terminal to it and say AT once more.",
        speeds=tuple(_speed(node, it) for it in _likely(made)),
    )


def _likely(made: Iterable[Made]) -> list[Made]:
    """Rank speeds: what fits by itself before what needs something unknown to be just so, and the usual ones first."""
    return sorted(made, key=lambda it: (bool(it.needs), LIKELY_BD.index(it.speed_bd) if it.speed_bd in LIKELY_BD else 99))


def _speed(node: NodeDesign, it: Made) -> SpeedMade:
    needs = f", if {it.needs} in it happens to be just so" if it.needs else ""
    return SpeedMade(
        text=si(it.speed_bd, "Bd"),
        because=f"“{it.answer}” of {inner(it.family)} looks just so there{needs}",
        patch=at_path(("nodes", node.id, "setup", "found_bd"), it.speed_bd),
    )


# Silence


def _nothing(design: Design, node: NodeDesign, dialect: Dialect) -> ReadBack:
    causes = list(_causes(design, node, dialect))
    return ReadBack(
        sentence="Nothing came at all.",
        detail="The likeliest first, and with each the test that costs least.",
        causes=tuple(causes),
    )


def _causes(design: Design, node: NodeDesign, dialect: Dialect) -> Iterator[str]:
    """Rank why a module stays silent: what the plan itself shows first, then what it mostly is (common practice, no source)."""
    wire = next((it for it in design.plan.links.values() if it.kind == "wire" and node.id in (it.a, it.b)), None)
    if wire is not None and getattr(wire, "is_crossed", None) is False:
        yield "The plan has TX on TX: swap the two wires, and say AT again."
    if dialect.enters == "key":
        slow = si(dialect.blinks["setup"].turns_s[0], "s")
        yield f"It is not in set-up mode: its light should go on and off slowly, {slow} each. If it is quick: power off, hold the key, power on."
    if dialect.enters == "unlinked":
        yield "A phone is linked to it, and it takes no commands then: its light is steady. Switch the phone's radio off."
    ending = "CR and LF" if dialect.ending == "cr-lf" else "nothing at all, and wait a second"
    yield f"The terminal ends its lines otherwise: this family wants {ending}."
    if dialect.enters != "key":
        yield f"Its speed is another: try {', '.join(si(it, 'Bd') for it in LIKELY_BD)} in turn."
    yield "TX and RX are swapped: swap them; nothing is harmed by trying."
    yield "It has no power: its light is dark. Measure at its own pins."
    rail = design.rails.get(node.rail_id or "")
    if rail is not None and rail.voltage.value is not None:
        yield f"Its supply is not what it should be: {rail.voltage.text} between its VCC and GND."
    yield "No ground in common: the meter from one ground to the other, power off, shows nearly 0 Ω."
    yield "The adapter itself: join its TX to its RX, and type: what you type comes back."
    yield "It is dead: only when all the others are out."
