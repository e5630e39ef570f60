"""Other ways to build the chain that a plan could take with one press, on the sheets of what would come or go."""

from collections.abc import Iterator, Sequence

from oddlamp.core.base import first_free
from oddlamp.core.checks.commands import escaped
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.supplies import NodeDesign
from oddlamp.core.english import inner
from oddlamp.core.modules.driving import said_to
from oddlamp.core.modules.goals import partner_of, role_of
from oddlamp.core.parts.models import ModulePart
from oddlamp.core.plan.document import Document, join_patches
from oddlamp.core.plan.edits import one_more_lamp
from oddlamp.core.plan.variants import by_module, by_own_radio, with_board, with_far_end, with_phone, without_board


def module_variants(design: Design, module: NodeDesign) -> Iterator[Move]:
    """Offer what can be made of a module: no board behind it, no module at all, another module instead of a phone; and back."""
    plan = design.plan
    wire = next((name for name, it in plan.links.items() if it.kind == "wire" and module.id in (it.a, it.b)), None)
    link = plan.links.get(wire or "")
    board = design.nodes[link.b if link.a == module.id else link.a] if link is not None else None
    partner = partner_of(design, module.id)
    phone = next((design.nodes[talk.a] for talk in design.talks.values() if talk.a in design.handsets), None)
    if board is None:
        if any(lamp.host == module.id for lamp in design.lamps.values()):
            yield Move(label="Put a board behind it", patch=with_board(plan, module.id))
        return
    if board.node.kind != "board" or wire is None:
        return
    if board.part is not None and board.part.radios and partner is None:
        label = f"Leave it out: the {inner(board.label)} speaks by its own radio"
        yield Move(label=label, patch=by_own_radio(plan, board.id, module.id, wire))
    boardless = _boardless(design, module, board) if partner is None and phone is not None and plan.vocabularies else None
    if boardless is not None:
        part, commands = boardless
        label = "Leave the board out: the module switches the lamps itself"
        yield Move(label=label, patch=without_board(plan, board.id, module.id, wire, part, commands))
    talk = next((it for it in design.talks.values() if phone is not None and it.a == phone.id), None)
    if partner is None and phone is not None and talk is not None and talk.vocabulary.words and _is_classic(module):
        label = "Put a button with a module at a second place, and no phone"
        yield Move(label=label, patch=with_far_end(plan, module.id, phone.id, talk.id, talk.vocabulary.words[0].id))
    says_only = any(it.a == board.id for it in design.talks.values()) and not any(
        it.b == board.id for it in design.talks.values()
    )
    if partner is not None and role_of(design, module) == "master" and says_only:
        yield Move(
            label=f"Let a phone call the {inner(partner.label)} instead", patch=with_phone(plan, board.id, module.id, partner.id)
        )


def board_variants(design: Design, board: NodeDesign) -> Iterator[Move]:
    """Offer a module between the air and a board that uses a radio of its own."""
    if any(board.id in (design.plan.links[it].a, design.plan.links[it].b) for it in design.airs):
        yield Move(label="Put a module between the air and it", patch=by_module(design.plan, board.id))


def _is_classic(module: NodeDesign) -> bool:
    return module.part is not None and "classic" in module.part.radios


def _boardless(design: Design, module: NodeDesign, board: NodeDesign) -> tuple[str, dict[str, tuple[str, str, str]]] | None:
    """Give every lamp a pin of a family that drives its own, and the commands for it; None where they do not fit."""
    own = (
        module.part
        if isinstance(module.part, ModulePart) and module.part.outputs
        else design.catalog.module(design.catalog.proposals["module-boardless"].part or "")
    )
    lamps = [lamp for lamp in design.lamps.values() if lamp.host == board.id]
    if len(lamps) != len(design.lamps) or not 0 < len(lamps) <= len(own.outputs) or any(lamp.kind != "led" for lamp in lamps):
        return None
    if any(pin.signal.is_built for pin in design.pins if pin.host == board.id):
        return None
    commands = {}
    for lamp, pin in zip(lamps, own.outputs, strict=False):
        said = said_to(own, pin)
        commands[lamp.id] = (pin, escaped(said[0].content), escaped(said[-1].content))
    return own.id, commands


def commanded_lamps(design: Design, host: str, vocabulary: str, lamps: Sequence[tuple[str, str, Document]]) -> Iterator[Move]:
    """Offer one more LED on a module that drives its own, with the commands for the next free pin; nothing where none is free."""
    part = design.nodes[host].part
    used = {pin.label for pin in design.pins if pin.host == host}
    pin = next((it for it in part.outputs if it not in used), None) if isinstance(part, ModulePart) else None
    if pin is None or not isinstance(part, ModulePart):
        return
    said = said_to(part, pin)
    for label, noun, lamp in lamps:
        patch = one_more_lamp(design.plan, lamp, noun, host, vocabulary=None)
        (name,) = patch["lamps"]
        commands = {f"{name}_on": escaped(said[0].content), f"{name}_off": escaped(said[-1].content)}
        words = {word: {"sent": sent} for word, sent in commands.items()}
        rules = {
            first_free(f"when_{word}"[:38], design.plan.rules.__contains__): {
                "host": host,
                "when": {"heard": word},
                "do": [{"verb": word.rpartition("_")[2], "target": name}],
            }
            for word in commands
        }
        more: Document = {
            "signals": {f"{name}.main": {"pin": pin}},
            "vocabularies": {vocabulary: {"words": words}},
            "rules": rules,
        }
        yield Move(label=f"Add {inner(label)}", patch=join_patches([patch, more]))
