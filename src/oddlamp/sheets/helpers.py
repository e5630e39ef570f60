"""Handsets beside the phone: an infra-red remote with its keys and a voice helper with its phrases, for the same words."""

from collections.abc import Iterator
from typing import Final

from oddlamp.core.base import first_free
from oddlamp.core.checks.findings import Move
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import ControlDesign, HandsetDesign
from oddlamp.core.english import inner
from oddlamp.core.plan.document import Document, at_path, join_patches
from oddlamp.sheets.models import Entry

LINES: Final = ("Doors open at seven", "Moonrise at nine")  # to begin with


def told_by(handset: HandsetDesign, control: ControlDesign) -> dict[str, object]:
    """Tell what is said for a word, or which code stands for it; once it is settled it is turned in place."""
    path = ("nodes", handset.id, "controls", control.id)
    is_own = control.origin == "own"
    if control.kind == "phrase":
        text = "; ".join(control.phrases)
        hint = "several ways to say it are parted by semicolons, a value stands in braces: moon {level}"
        asked = Entry(label=f"Say for {control.label}", text=text, path=(*path, "phrases"), origin="own", hint=hint)
        return {"entries": (asked,) if is_own else (), "types": "" if is_own else text, "ends": ""}
    text = "" if control.code is None else f"0x{control.code:08X}"
    asked = Entry(
        label=f"Code of {control.label}",
        text=text,
        path=(*path, "code"),
        origin="own",
        hint="as a receiver prints it, 0x20DF10EF, or the marks and spaces it saw: 9000 4500 560 560 ...",
    )
    untold = "learned at the bench" if control.code is None else text
    return {"entries": (asked,) if is_own else (), "types": "" if is_own else untold, "ends": ""}


def settle_moves(handset: HandsetDesign) -> Iterator[Move]:
    """Offer to settle what is proposed, to change it; and to be without this handset."""
    proposed = [it for it in handset.controls if it.origin == "proposed" and it.kind in ("key", "phrase")]
    if proposed:
        patches: list[Document] = [
            at_path(
                ("nodes", handset.id, "controls", it.id),
                {
                    "kind": it.kind,
                    "label": it.label,
                    "says": {gesture: {"talk": talk, "word": word} for gesture, (talk, word) in it.says.items()},
                    **({"phrases": list(it.phrases)} if it.phrases else {}),
                },
            )
            for it in proposed
        ]
        what = "keys" if handset.kind == "remote" else "phrases"
        yield Move(label=f"Settle these {what}, to change them", patch=join_patches(patches))


def helper_moves(design: Design, handset: HandsetDesign) -> Iterator[Move]:
    """Offer other handsets beside a phone, for the same words; each is let go on its own sheet."""
    kinds = {it.kind for it in design.handsets.values()}
    talk_id = next((name for name, it in design.plan.talks.items() if it.a == handset.id), None)
    if handset.kind in ("remote", "voice", "feed"):
        yield from settle_moves(handset)
        yield Move(
            label=f"Do without the {inner(design.nodes[handset.id].label)}",
            patch=design.taking_out.without([("nodes", handset.id)]),
        )
        return
    if talk_id is None:
        return
    talk = design.plan.talks[talk_id]
    if "voice" not in kinds:
        yield Move(label="Add a voice helper", patch=_beside(design, talk_id, "voice", {}))
    is_told = any(it.written == "text" for word in design.talks[talk_id].vocabulary.words for it in word.parameters)
    if "feed" not in kinds and is_told:
        yield Move(label="Add a feed of lines from elsewhere", patch=_beside(design, talk_id, "feed", {"lines": list(LINES)}))
    if "remote" not in kinds and design.nodes[talk.b].node.kind == "board":
        yield Move(label="Add an infra-red remote", patch=_remote(design, talk.b))


def _beside(design: Design, talk_id: str, kind: str, more: Document) -> Document:
    """A voice helper or a feed that speaks as the phone does, over an air of its own."""
    plan, talk = design.plan, design.plan.talks[talk_id]
    first = plan.links[talk.via[0]]
    stem = "helper" if kind == "voice" else kind
    helper, air = first_free(stem, plan.nodes.__contains__), first_free(f"{stem}_air", plan.links.__contains__)
    other = first.b if first.a == talk.a else first.a
    link: Document = {"kind": "air", "a": helper, "b": other}
    transport = getattr(first, "transport", None)
    return join_patches(
        [
            at_path(("nodes", helper), {"kind": kind, **more}),
            at_path(("links", air), {**link, **({"transport": transport} if transport else {})}),
            at_path(
                ("talks", first_free(stem, plan.talks.__contains__)),
                {"a": helper, "b": talk.b, "via": [air, *talk.via[1:]], "vocabulary": talk.vocabulary},
            ),
        ]
    )


def _remote(design: Design, host: str) -> Document:
    """A remote, with a receiver on the board where there is none."""
    plan = design.plan
    remote = first_free("remote", plan.nodes.__contains__)
    patches: list[Document] = [at_path(("nodes", remote), {"kind": "remote"})]
    if not any(it.kind == "remote-receiver" for it in plan.inputs.values()):
        patches.append(
            at_path(
                ("inputs", first_free("receiver", plan.inputs.__contains__)),
                {"kind": "remote-receiver", "label": "Receiver", "host": host},
            )
        )
    return join_patches(patches)
