"""A module as one stands before it: the steps that make it what the plan says, what its light says, its frames, and what it is believed to be."""

from typing import Final, Literal

from pydantic import Field

from oddlamp.core.base import Model, si
from oddlamp.core.design.design import Design
from oddlamp.core.english import inner
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.goals import believed_of, dialect_of, seen_patch, setup_of_node, wanted_of_module, wanted_settings
from oddlamp.core.modules.script import Step, shown
from oddlamp.core.parts.dialect import Blink, Dialect
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import Document
from oddlamp.sheets.readback import script_of

FIRST: Final = "-"  # stands for the first module there is
PACKET_BYTES: Final = 20  # ATT_MTU 23 less 3 of its head; Core Specification, volume 3, part F, 3.2.8
MODES: Final = {"setup": "set-up mode", "waiting": "waiting: nobody is linked", "linked": "linked"}
NEXT: Final = {
    "setup": "It hears commands now: go on with the script.",
    "waiting": "Pair it with the phone; for commands, see how its set-up mode is entered.",
    "linked": "What is said goes over the air. For commands the other end has to leave first.",
}
SWITCHES: Final = ("key up", "key down", "power on", "power off")


class StepAt(Model):
    """One step of the script. ``is_by_hand`` where only a hand can do it at a real module."""

    text: str
    sent: str
    answer: str
    advice: str
    is_by_hand: bool


class BlinkAt(Model):
    """A blink to look at: its rhythm, and what it says."""

    text: str
    turns_s: tuple[float, ...]
    means: str
    next: str


class FrameAt(Model):
    """A command of raw bytes, each with its example in hex and decimal, and what its bytes are."""

    label: str
    hex: str
    decimal: str
    pieces: tuple[tuple[str, str], ...]


class Other(Model):
    """A module of the plan."""

    id: str
    label: str


class VersionAt(Model):
    """A version of the family that can be talked to as a stand-in."""

    id: str
    label: str


class AtModule(Model):
    """All of it."""

    node: str
    others: tuple["Other", ...] = Field(description="Every module of the plan, itself among them")
    label: str
    family: str
    sentence: str
    detail: str
    ending: Literal["none", "cr-lf"]
    speed_bd: int = Field(description="What a terminal is set to at first")
    has_key: bool
    steps: tuple[StepAt, ...]
    blinks: tuple[BlinkAt, ...]
    frames: tuple[FrameAt, ...]
    versions: tuple[VersionAt, ...]
    packet_bytes: int | None = Field(description="The most one packet carries, where it is BLE; unless more is agreed")
    done: Document = Field(description="Notes that it is set as the plan says, when all steps were done at a real one")
    is_set: bool = Field(description="Whether that is noted already")
    believed: str = Field(description="What it is believed to be, by what was read or done last")


def module_named(design: Design, node_id: str) -> str:
    """Return the id of a module: the first there is, where none is named."""
    if node_id != FIRST:
        return node_id
    return next((name for name, it in design.nodes.items() if dialect_of(design, it) is not None), node_id)


def at_module(design: Design, node_id: str) -> AtModule:
    """Show a module of a plan.

    Raises:
        OutOfRange: no module of a known family.
    """
    others = tuple(Other(id=name, label=it.label) for name, it in design.nodes.items() if dialect_of(design, it) is not None)
    node_id = module_named(design, node_id)
    node = design.nodes.get(node_id)
    dialect = dialect_of(design, node) if node is not None else None
    if node is None or dialect is None or not isinstance(node.part, ModulePart):
        raise OutOfRange(
            field="node", given=node_id, allowed="one of " + (", ".join(it.id for it in others) or "none: there is no module")
        )
    goal, believed = wanted_of_module(design, node, node.part).goal, believed_of(design, node)
    steps = tuple(map(_step, script_of(design, node, dialect)))
    told = f", PIN {goal.pin}" if goal.pin else ""
    return AtModule(
        node=node_id,
        others=others,
        label=node.label,
        family=inner(dialect.label),
        sentence=f"{len(steps)} steps make it {goal.name}, {si(goal.speed_bd, 'Bd')}{told}." if steps else f"{node.label} is set up without commands on its wire.",
        detail="Talk to a stand-in of it first: it answers as that family does, and nothing is harmed.",
        ending=dialect.ending,
        speed_bd=dialect.setup_speed_bd or setup_of_node(node).found_bd or int(dialect.settings.get("speed", 9600)),
        has_key=dialect.enters == "key",
        steps=steps,
        blinks=tuple(_blinks(dialect)),
        frames=tuple(_frame(dialect, at) for at, it in enumerate(dialect.commands) if it.is_hex),
        versions=tuple(VersionAt(id=it.id, label=inner(it.label)) for it in dialect.versions),
        packet_bytes=PACKET_BYTES if "ble" in node.part.radios else None,
        done=seen_patch(node_id, wanted_settings(design, node, node.part)),
        is_set=believed.state == "set",
        believed=believed.text,
    )  # fmt: skip


def _step(step: Step) -> StepAt:
    way = step.ways[0] if step.ways else None
    return StepAt(
        text=step.text, sent=" or ".join(shown(it.sent) for it in step.ways), answer=shown(way.answer) if way is not None else "",
        advice=step.advice, is_by_hand=not step.ways,
    )  # fmt: skip


def _blinks(dialect: Dialect) -> list[BlinkAt]:
    """List what its light shows: each rhythm once, with every state that shows it; and that it is dark."""
    found: dict[tuple[float, ...], list[str]] = {}
    for mode, blink in dialect.blinks.items():
        if mode == "setup" and dialect.enters != "key":
            continue
        found.setdefault(blink.turns_s, []).append(mode)
    shown_ = [
        BlinkAt(text=Blink(turns_s=turns).text, turns_s=turns, means=" or ".join(MODES[it] for it in modes), next=" ".join(NEXT[it] for it in modes))
        for turns, modes in found.items()
    ]  # fmt: skip
    dark = BlinkAt(
        text="dark", turns_s=(), means="it has no power, or its light is broken", next="Measure at its own supply pins."
    )
    return [*shown_, dark]


def _frame(dialect: Dialect, at: int) -> FrameAt:
    command = dialect.commands[at]
    values = {name: min(max(it.least, 1), it.most) for name, it in command.fields.items()}
    content = command.frame.build(**values)
    return FrameAt(
        label=command.sets or and_kept(command.keeps), hex=content.hex(" ").upper(), decimal=" ".join(map(str, content)),
        pieces=tuple(command.frame.explain(content) or ()),
    )  # fmt: skip


def and_kept(names: tuple[str, ...]) -> str:
    """Name what a command sets."""
    return " and ".join(names) or "control"
