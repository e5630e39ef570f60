"""A module that drives lamps by itself: what the phone says to each of its pins, and the steps that try it."""

from collections.abc import Sequence
from typing import NamedTuple

from oddlamp.core.modules.script import Step, Way
from oddlamp.core.modules.stand_in import StandIn
from oddlamp.core.parts.models import ModulePart

HALF_DUTY = 50


class Hung(NamedTuple):
    """What hangs on one of a module's own pins."""

    label: str
    pin: str


class Said(NamedTuple):
    """One thing to say to a pin: what it does, the message as text or hex, its bytes, and what the pin then stands at."""

    does: str
    shown: str
    content: bytes
    level: int


def said_to(part: ModulePart, pin: str) -> tuple[Said, ...]:
    """List what can be said to one of a family's own pins; nothing for a pin it does not drive."""
    output, is_hex = part.outputs.get(pin), part.is_driven_by_bytes
    if output is None:
        return ()
    full = 1 if output.duty is None else 100
    messages = [("on", output.on, full), ("off", output.off, 0)]
    if output.duty is not None:
        messages.insert(1, (f"{HALF_DUTY} %", output.duty.format(duty=f"{HALF_DUTY:02X}"), HALF_DUTY))
    return tuple(
        Said(does, text, bytes.fromhex(text) if is_hex else text.encode("ascii"), level) for does, text, level in messages
    )


def in_decimal(content: bytes) -> str:
    """Write raw bytes as the numbers some phone programs want."""
    return " ".join(str(byte) for byte in content)


def driving(part: ModulePart, hung: Sequence[Hung]) -> tuple[Step, ...]:
    """Lay out the steps from a module that is set up to lamps that obey: link, and say each message once."""
    if not hung:
        return ()
    is_hex = part.is_driven_by_bytes
    where = (
        "write to its control, the characteristic beside the one for serial data" if is_hex else "send as text, with no ending"
    )
    told = f"Link to it from the phone: its LED then stays on. What follows you {where}."
    steps = [Step("link", told, advice="It does not show up: look for BLE, not among paired devices, and see that it has power.")]
    for it in hung:
        for said in said_to(part, it.pin):
            text = (
                f"{it.label}, on {it.pin}, {said.does}: {said.shown}"
                + (f" (in decimal {in_decimal(said.content)})" if is_hex else "")
                + "."
            )
            way = Way(said.content, b"" if is_hex else f"OK+{it.pin.upper()[:-1]}{it.pin[-1]}:{said.level}".encode("ascii"))
            advice = (
                "Nothing happens: it has to be written to the control, and as bytes, not as the letters E and 7."
                if is_hex
                else "Nothing happens: these commands want late firmware, mode 2, and look-alikes do not have them at all."
            )
            steps.append(Step("control" if is_hex else "say", text, (way,), advice=advice))
    return tuple(steps)


def obeys(steps: Sequence[Step], module: StandIn, part: ModulePart, hung: Sequence[Hung]) -> int | None:
    """Walk these steps against a stand-in; the place of the first that its pins do not follow, None where all do."""
    at_s = 1e4
    levels = [said.level for it in hung for said in said_to(part, it.pin)]
    pins = [it.pin for it in hung for _ in said_to(part, it.pin)]
    module.link(at_s, is_there=True)
    for place, (step, pin, level) in enumerate(zip(steps[1:], pins, levels, strict=True), 1):
        at_s += 1
        for way in step.ways:
            (module.control if step.does == "control" else module.hear_air)(at_s, way.sent)
        if module.pins.get(pin) != level:
            return place
    return None
