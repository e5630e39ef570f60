"""A script walked against a stand-in, as a maker would walk it against a module, mistakes of theirs included."""

from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

from oddlamp.core.modules.script import ADDRESS_TOLD, LIKELY_BD, UNKNOWN_SENT, WAIT_S, Step, filled
from oddlamp.core.modules.stand_in import Said, StandIn
from oddlamp.core.modules.uart import Port, garbage
from oddlamp.core.plan.text import short_address


class Outcome(NamedTuple):
    """What came of a script: the place of the step it stopped at, None where it ran through, what was heard there, and the address it was told."""

    stopped_at: int | None
    heard: bytes = b""
    address: str | None = None


Fault = Literal["ending", "crossed", "key", "speed", "power"]


def run(
    steps: Sequence[Step],
    module: StandIn,
    fault: Fault | None = None,
    *,
    address: str | None = None,
    secrets: Mapping[bytes, bytes] = {},
) -> Outcome:
    """Walk a script against a stand-in, as a maker would, from whatever state it is in.

    Args:
        steps: the script.
        module: what answers.
        fault: what the maker does wrong: the terminal's ending, TX and RX swapped where they should not be, the key let go
            before the power comes, the terminal's speed, no power at all.
        address: what was written down of the other module, put in where a script asks for it.
        secrets: what the maker alone knows, by what stands for it in the script.
    """
    at_s, speed_bd, told = 0.0, 0, None
    known = {**secrets, **({UNKNOWN_SENT: short_address(address, ",").encode("ascii")} if address is not None else {})}
    steps = [filled(step, known) for step in steps]
    for place, step in enumerate(steps):
        at_s += WAIT_S
        if step.does == "terminal":
            speed_bd = step.speeds_bd[0]
        _turned(module, step, at_s, fault)
        if not step.ways:
            continue
        found, heard, at_s = _tried(module, step, at_s, speed_bd, fault)
        if found is None:
            return Outcome(place, heard, told)
        speed_bd = found
        if heard.startswith(ADDRESS_TOLD):
            told = heard.removeprefix(ADDRESS_TOLD).partition(b"\r\n")[0].decode("ascii")
    return Outcome(None, address=told)


def _turned(module: StandIn, step: Step, at_s: float, fault: Fault | None) -> None:
    match step.does:
        case "key up" | "key down":
            module.key(at_s, is_up=step.does == "key up" and fault != "key")
        case "power on" | "power off":
            module.power(at_s, is_on=step.does == "power on" and fault != "power")


def _tried(module: StandIn, step: Step, at_s: float, speed_bd: int, fault: Fault | None) -> tuple[int | None, bytes, float]:
    """Try every way at every speed until one is answered as it should be; the speed, what was heard, and the time then."""
    heard = b""
    for tried_bd in step.speeds_bd or (speed_bd,):
        for way in step.ways:
            at_s += 2 * WAIT_S
            sent = way.sent
            if fault == "ending":
                sent = sent.removesuffix(b"\r\n") if sent.endswith(b"\r\n") else sent + b"\r\n"
            real_bd = (
                LIKELY_BD[(LIKELY_BD.index(tried_bd) + 1) % len(LIKELY_BD)]
                if fault == "speed" and step.does == "send"
                else tried_bd
            )
            heard = b"" if fault == "crossed" else _asked(module, at_s, sent, real_bd)
            if way.is_met_by(heard):
                return tried_bd, heard, at_s
    return None, heard, at_s


def _asked(module: StandIn, at_s: float, sent: bytes, speed_bd: int) -> bytes:
    said: list[Said] = [*module.hear_at(at_s, sent, Port(speed_bd)), *module.until(at_s + WAIT_S)]
    heard = b""
    for it in said:
        if it.to == "wire":
            alike = it.speed_bd == speed_bd
            heard += it.content if alike else bytes(got.byte for got in garbage(it.content, Port(it.speed_bd), Port(speed_bd)))
    return heard
