"""The words of a printed program as tables: what each is made of, and what each port hears."""

from collections.abc import Collection, Iterator, Mapping
from typing import Final, NamedTuple

from oddlamp.core.behaviour.framing import parser_of
from oddlamp.core.behaviour.program import Event, Program
from oddlamp.core.behaviour.tables import ms_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import TalkDesign, VocabularyDesign, WordDesign
from oddlamp.core.firmware.calls import CHECK_OF, SIGNS, Carried, Row
from oddlamp.core.firmware.names import event_named, said
from oddlamp.core.modules.own_radio import line_of
from oddlamp.core.words.frames import CHECKS, Field

KINDS: Final = {
    "number": "NUMBER",
    "hex": "HEX",
    "byte": "BYTE",
    "two-bytes": "TWO_BYTES",
    "two-bytes-little": "TWO_BYTES_LITTLE",
}
FRAMINGS: Final = {
    "single-byte": "each byte is a word",
    "fixed": "words of fixed length, each acts at its last byte",
    "gap": "a pause ends a word",
}
NOT_CARRIED: Final = -1


class Hears(NamedTuple):
    """What comes in at a port: the talk, and which direction of its words."""

    talk: TalkDesign
    direction: str

    @property
    def words(self) -> list[WordDesign]:
        """The words in the order in which a line is taken for one: those that carry nothing first, of two alike the first."""
        mine = [it for it in self.talk.vocabulary.words if it.direction == self.direction]
        plain = {it.content: it for it in reversed(mine) if it.shape is None}
        return [*(it for it in mine if plain.get(it.content) is it), *(it for it in mine if it.shape is not None)]


def heard_on(design: Design, host: str) -> dict[str, list[Hears]]:
    """Return what a host hears on each of its links, in the order of the plan; what comes by its own radio in one way is one."""
    found: dict[str, list[Hears]] = {}
    by_line: dict[tuple[str, str, str], str] = {}
    for talk in design.talks.values():
        if host in (talk.a, talk.b) and talk.hops:
            link = (talk.hops[-1] if talk.b == host else talk.hops[0]).link_id
            hears = Hears(talk, "out" if talk.b == host else "back")
            if link in design.airs:  # two phones, each with a link of its own, open one page or line
                key = line_of(design.airs[link].transport.id), talk.vocabulary.id, hears.direction
                link = by_line.setdefault(key, link)
            found.setdefault(link, []).append(hears)
    return found


def words_of(design: Design, host: str) -> dict[Event, WordDesign]:
    """Return the words that a host hears, by the event each is."""
    return {("heard", word.id): word for them in heard_on(design, host).values() for it in them for word in it.words}


class Words:
    """The words of all ears as tables, one behind the other."""

    def __init__(self, known: Collection[Event], carried: Mapping[Event, Carried]) -> None:
        self.known, self.carried = known, carried
        self.letters: list[int] = []
        self.pieces: list[Row] = []
        self.words: list[Row] = []

    def ear(self, at: int, hears: Hears, port: int, told: str) -> Row:
        """Print what is heard at a port."""
        vocabulary, first = hears.talk.vocabulary, len(self.words)
        for word in hears.words:
            self._word(word, vocabulary.stage)
        ending = list(vocabulary.terminator)
        parser = parser_of(vocabulary, hears.direction)
        name = f"ear_{at}"
        tests = [f"{name}.size >= {len(ending)}"]
        tests += [f"{name}.line[{name}.size - {len(ending) - place}] == {byte}" for place, byte in enumerate(ending)]
        return {
            "at": at,
            "port_at": port,
            "stage": vocabulary.stage,
            "told": said(told),
            "framing": FRAMINGS.get(vocabulary.framing.id, f"{vocabulary.terminator_name.upper()} ends a word"),
            "words": self.words[first:],
            "first": first,
            "count": len(self.words) - first,
            "kind": {"single-byte": "single", "fixed": "fixed", "gap": "gap"}.get(vocabulary.framing.id, "ended"),
            "ending": ending,
            "is_ended": " && ".join(tests),
            "passed": " || ".join(f"byte == {it}" for it in (13, 10) if parser.passes_over(it)),
            "gap_ms": ms_of(vocabulary.gap.known) if vocabulary.gap is not None else 0,
            "answers_unknown": vocabulary.answers_unknown,
            "hears": bool(hears.words),
        }

    def _word(self, word: WordDesign, stage: str) -> None:
        first = len(self.pieces)
        event: Event = ("heard", word.id)
        mine = self.carried.get(event, Carried())
        for piece in word.shape.pieces if word.shape is not None else (word.content,):
            if isinstance(piece, bytes):
                for at in range(0, len(piece), 255):
                    self._fixed(piece[at : at + 255])
            else:
                assert word.shape is not None
                self._field(word.shape.fields[piece], mine.numbers.index(piece) if piece in mine.numbers else NOT_CARRIED)
        self.words.append(
            {
                "first": first,
                "count": len(self.pieces) - first,
                "event": event_named(event) if event in self.known else "EVENTS",
                "told": said(f"{word.text}: {word.label}"),
                "id": word.id,
                "stage": stage,
                "at": len(self.words),
                "byte": word.content[0] if word.shape is None and len(word.content) == 1 else None,
            }
        )

    def _fixed(self, content: bytes) -> None:
        self.pieces.append(_piece("LETTERS_OF", len(content), letters=len(self.letters)))
        self.letters += content

    def _field(self, field: Field, value: int) -> None:
        if field.kind in CHECKS:
            self.pieces.append(_piece(CHECK_OF[field.kind], 1))
        elif field.kind == "text":
            escape = ord(field.escape) if field.escape else 0
            self.pieces.append(_piece("FREE_TEXT", 0, bits=escape, least=field.least, most=field.most))
        else:
            width = field.digits_most if field.kind == "number" else field.width or 1
            sign = SIGNS[field.signed]
            self.pieces.append(_piece(KINDS[field.kind], width, sign, field.bits, field.least, field.most, value=value))


def _piece(
    kind: str,
    width: int,
    sign: str = "NO_SIGN",
    bits: int = 8,
    least: int = 0,
    most: int = 0,
    letters: int = 0,
    value: int = NOT_CARRIED,
) -> Row:
    return {
        "kind": kind,
        "width": width,
        "sign": sign,
        "bits": bits,
        "least": least,
        "most": most,
        "letters": letters,
        "value": value,
    }


def codes_heard(design: Design, program: Program, known: Collection[Event], carried: Mapping[Event, Carried]) -> Iterator[Row]:
    """Yield the codes of remotes that a host's receivers take in, each with the word it stands for; of two alike the first."""
    seen = set[int]()
    for handset in design.handsets.values():
        receiver = handset.receiver
        if receiver is None or design.plan.inputs[receiver].host != program.host:
            continue
        for control in handset.controls:
            if control.kind != "key" or control.code is None or control.code in seen or "press" not in control.says:
                continue
            talk, word_id = control.says["press"]
            word, event = design.talks[talk].vocabulary.word(word_id), ("heard", word_id)
            if design.talks[talk].b != program.host:
                continue
            seen.add(control.code)
            fill = control.fills.get("press", {})
            mine = carried.get(event, Carried())
            yield {
                "code": control.code,
                "word": word_id,
                "told": said(f"{control.label}: {word.label}"),
                "event": event_named(event) if event in known else "EVENTS",
                "carried": [round(float(fill[it])) for it in mine.numbers if it in fill],
                "is_whole": all(it in fill for it in mine.numbers) and mine.text is None,
            }


def is_known(vocabulary: VocabularyDesign) -> bool:
    """Tell whether words are a program's own, and no commands of a module."""
    return vocabulary.dialect is None and vocabulary.open_because is None
