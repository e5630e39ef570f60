"""The header of a printed program: what differs between board packages, and the ports and chips of one board."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.firmware.calls import Row
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.firmware.names import pin_number, said
from oddlamp.core.parts.models import BoardPart, ChipPart

DUTY_BITS: Final = 8


class Header:
    """What the header of a program is filled with."""

    def __init__(self, facts: Facts) -> None:
        self.facts, self.design = facts, facts.design
        self.part = self.design.nodes[facts.host].part

    def all(self, filled: Row) -> Row:
        """Return it, with what the program itself is filled with."""
        ports = list(self._ports())
        has = {**filled["has"], "software": any(it["pins"] for it in ports), "ports": any(not it["pins"] for it in ports)}
        steps = self.part.pwm_steps if isinstance(self.part, BoardPart) else 1 << DUTY_BITS
        return {
            **filled,
            "has": has,
            "package": self.design.catalog.packages,
            "ports": ports,
            "chips": list(self._chips()),
            "pwm_bits": (steps - 1).bit_length(),
            "radio": self._radio(filled["radio"], ports),
        }

    def _radio(self, radio: Row | None, ports: list[Row]) -> Row | None:
        """Tell the radio whether the port behind the plug is free to say where it is found."""
        usb = self.design.catalog.packages.usb
        return None if radio is None else {**radio, "tells_address": all(it["name"] != usb for it in ports)}

    def _ports(self) -> Iterator[Row]:
        """Yield where each wire hangs: on a port of the chip's own, behind the plug, or on two pins the program listens on."""
        names = self.design.catalog.packages
        for at_port, link in enumerate(self.facts.links):
            if link not in self.design.wires:
                continue  # a radio of the board's own
            told, speed_bd = said(self.facts.port_told(link)), round(self.design.wires[link].baud.known)
            is_b = self.design.plan.links[link].b == self.facts.host
            heard, spoken = ("a_to_b", "b_to_a") if is_b else ("b_to_a", "a_to_b")
            at = [self._pin(f"{link}.{way}") for way in (heard, spoken)]
            pins = [self.part.pin(it) if self.part is not None and it is not None else None for it in at]
            numbers = {it.port for it in pins if it is not None and it.port is not None}
            is_usb = any(self.design.signals[f"{link}.{way}"].line.is_usb for way in (heard, spoken))
            if is_usb or (len(numbers) == 1 and all(it is None or it.port is not None for it in pins)):
                number = next(iter(numbers), 0)
                yield {
                    "at": at_port,
                    "name": names.usb if is_usb or not number else names.port.format(number=number),
                    "pins": [],
                    "told": told,
                    "speed_bd": speed_bd,
                }
                continue
            known = [pin_number(self.part, it) if it is not None and self.part is not None else "-1" for it in at]
            yield {"at": at_port, "name": "", "pins": known, "told": told, "speed_bd": speed_bd}

    def _pin(self, line: str) -> str | None:
        signal = self.design.signals[line]
        return next((it.label for it in (signal.pin, signal.far_pin) if it is not None and it.host == self.facts.host), None)

    def _chips(self) -> Iterator[Row]:
        """Yield the chips beside the board: each kind is counted from its own first address."""
        counted: dict[str, int] = {}
        for at, name in enumerate(self.facts.pins.chips):
            part = self.design.nodes[name].part
            assert isinstance(part, ChipPart)
            place = counted[part.id] = counted.get(part.id, -1) + 1
            yield {"at": at, "address": part.first_address + place, "dims": any("pwm" in pin.abilities for pin in part.pins)}
