"""A program that tries the wiring of a board pin by pin: it lights each lamp by itself, and reads each input."""

from typing import Any, Final

from oddlamp.core.base import Same
from oddlamp.core.behaviour.program import Program
from oddlamp.core.design.design import Design
from oddlamp.core.errors import NotPrinted
from oddlamp.core.firmware.board import Header
from oddlamp.core.firmware.facts import Facts
from oddlamp.core.firmware.filling import MARK, template
from oddlamp.core.firmware.missing import why_not_printed
from oddlamp.core.firmware.names import said
from oddlamp.core.firmware.printing import HEADER, Printed, without
from oddlamp.core.modules.pass_through import USB_BD

MAIN: Final = "wiring.ino.j2"
BY_HAND: Final = ("relay", "motor")  # what it switches or moves is not the program's to know


def print_wiring_test(design: Design, program: Program) -> Printed:
    """Print a program that tries the wiring.

    Raises:
        NotPrinted: a pin is missing, or the board is not settled.
    """
    missing = [
        it for it in dict.fromkeys(why_not_printed(design, program)) if it.endswith(("no pin", "its lines", "not settled"))
    ]
    if missing:
        raise NotPrinted(field="program", given=program.host, allowed=without(missing))
    facts = Facts(design, program)
    filled = facts.all()
    numbers = {it["name"]: it["pin"] for it in filled["pins_told"]}
    labels = {it["name"]: it["label"] for it in filled["pins_told"]}
    named = {it["name"]: it["told"] for it in filled["pins_told"]}
    kinds = {it["name"]: design.lamps[it["id"]].kind for it in filled["lamps"]}
    counts = {it["id"]: it["count"] for it in filled["lamps"]}
    own = [it for it in filled["pins"] if not it["kind"].startswith("CHIP")]
    pins = [it for it in own if kinds[it["lamp"]] not in BY_HAND]
    chains = [it for it in filled["chains"] if not it["is_clocked"]]

    def told(it: dict[str, Any], pin: str) -> dict[str, Any]:
        return {**it, "number": numbers[pin], "label": labels[pin], "told": said(named[pin])}

    shown = {it["lamp"] for it in pins} | {it["lamp"] for it in chains}
    left_out = [said(it["label"]) for it in filled["lamps"] if it["name"] not in shown]
    texts = Same(design.catalog.program)
    inputs = [
        {
            **it,
            "number": numbers[it["pin"]],
            "told_pin": labels[it["pin"]],
            "rests": -1 if it["kind"] != "CONTACT" else int(it["is_low"]),
        }
        for it in filled["inputs"]
        if it["reads"] == it["pin"]
    ]
    left_out += [it["label"] for it in filled["inputs"] if it["reads"] != it["pin"]]
    has = {**dict.fromkeys(filled["has"], False), "one_wire": bool(chains)}
    header = Header(facts).all({**filled, "has": has, "turned": [], "codes_heard": [], "radio": None})
    header |= {"ports": [], "has": {**has, "software": False}, "is_wiring": True, "usb_bd": USB_BD}
    text = template(texts, MAIN).render(
        title=filled["title"],
        host=filled["host"],
        usb_bd=USB_BD,
        pins=[told(it, it["pin"]) for it in pins],
        inputs=inputs,
        chains=[{**told(it, it["data"]), "count": counts[it["id"]]} for it in chains],
        most_pixels=max((counts[it["id"]] for it in chains), default=1),
        left_out=left_out,
    )
    return Printed(text.replace(MARK, ""), template(texts, HEADER).render(header))
