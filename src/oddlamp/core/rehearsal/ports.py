"""Where bytes arrive in a rehearsal: what a port keeps of them, and the words a parser makes of what it took."""

from collections.abc import Callable

from oddlamp.core.behaviour.framing import Heard, Parser, parser_of
from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import TalkDesign
from oddlamp.core.english import plural
from oddlamp.core.plan.text import shown
from oddlamp.core.rehearsal.buffers import ASTRAY, PORT_HOLDS, Buffers
from oddlamp.core.rehearsal.course import Course
from oddlamp.core.rehearsal.legs import EXACT_S, Leg

Hear = Callable[[float, TalkDesign, Heard, bool], None]


class Ports:
    """The listening ends of all talks. ``garbled`` says why a message came as something else, ``free_s`` until when a wire is busy."""

    def __init__(
        self, design: Design, course: Course, buffers: Buffers, garbled: dict[int, str], free_s: dict[str, float], hear: Hear
    ) -> None:
        self.design, self.course, self.buffers, self.hear = design, course, buffers, hear
        self.garbled, self.wire_free_s = garbled, free_s
        self.parsers: dict[tuple[str, bool], Parser] = {}
        self.last_said: dict[tuple[str, bool], int] = {}
        self.quiet_from_s: dict[tuple[str, bool], float] = {}

    def take(self, there: Leg, ref: str, content: bytes, at_s: float, byte_s: float, ends_s: float) -> None:
        """Let bytes come to a board over a wire from a moment on, one behind the other."""
        parser = self.parser(there)
        if there.node in self.buffers.wary:
            if parser.ends_with(content):
                self.course.later(ends_s, self._arrive_whole, there, ref, content, at_s, byte_s)
            else:
                self._by_byte(there, ref, content, at_s, byte_s)
            return
        if parser.is_gap:
            self.hear_if_quiet(at_s, there, parser)
        # Bytes of one talk arrive in the order sent, so the listener's parser can run ahead: only whole words wait their turn.
        if there.node in self.buffers.busy:
            kept = self.buffers.take(there.node, ref, content, at_s + byte_s, byte_s)
            content, times = kept.content, kept.taken_s
            if kept.lost:
                told = (
                    f"{plural(kept.lost, 'byte')} of it came to a full port: the program is busy, and {PORT_HOLDS} wait already"
                )
                self.course.later(kept.lost_at_s, self.course.lose, self.design.nodes[there.node].stage, there.node, told)
            ends_s = max(ends_s, times[-1] if times else 0.0)
        else:
            times = []
        for taken, heard in parser.feed(content):
            at = times[taken - 1] if times else at_s + taken * byte_s
            self.course.later(at, self.hear, there.talk, heard, there.goes_out)
        self.await_quiet(ends_s, there, parser)

    def _by_byte(self, leg: Leg, ref: str, content: bytes, at_s: float, byte_s: float) -> None:
        """Let bytes arrive one by one, where the board may be deaf to some when they come."""
        parser = self.parser(leg)
        if parser.is_gap:
            self.hear_if_quiet(at_s, leg, parser)
        for at, byte in enumerate(content, 1):
            self.course.later(at_s + at * byte_s, self._arrive, leg, ref, bytes((byte,)), byte_s)

    def _arrive_whole(self, t_s: float, leg: Leg, ref: str, content: bytes, at_s: float, byte_s: float) -> None:
        """Let a message be whole whose last byte alone ends a word: what kept the board from hearing some of it is known by now."""
        if not self.buffers.hears_all(leg.node, ref, at_s, t_s):
            for at, byte in enumerate(content, 1):
                self._arrive(at_s + at * byte_s, leg, ref, bytes((byte,)), byte_s)
            return
        for _, heard in self.parser(leg).feed(content):
            self.hear(t_s, leg.talk, heard, leg.goes_out)

    def _arrive(self, t_s: float, leg: Leg, ref: str, byte: bytes, byte_s: float) -> None:
        parser, node = self.parser(leg), leg.node
        is_followed = self.wire_free_s.get(ref, 0.0) > t_s + byte_s / 2
        taken_s, because, instead = self.buffers.arrive(node, ref, t_s, byte_s, byte[0], is_followed=is_followed)
        for sound in instead:
            self.garbled[self.course.message] = ASTRAY
            for _, heard in parser.feed(bytes((sound.byte,))):
                self.course.later(max(sound.at_s, t_s), self.hear, leg.talk, heard, leg.goes_out)
        if because is not None:
            if not parser.passes_over(byte[0]):
                self.course.lose(t_s, self.design.nodes[node].stage, node, because, byte)
            return
        if node in self.buffers.busy:
            kept = self.buffers.take(node, ref, byte, taken_s, byte_s)
            if kept.lost:
                self.course.lose(
                    t_s, self.design.nodes[node].stage, node, f"the program is busy, and {PORT_HOLDS} bytes wait already", byte
                )
                return
            taken_s = kept.taken_s[0]
        for _, heard in parser.feed(byte):
            self.course.later(taken_s, self.hear, leg.talk, heard, leg.goes_out)
        self.await_quiet(taken_s, leg, parser)

    def await_quiet(self, t_s: float, leg: Leg, parser: Parser) -> None:
        """Where a pause ends a word, look again once the line has been quiet for that long."""
        gap = leg.talk.vocabulary.gap
        if parser.is_gap and gap is not None and parser.pending:
            self.quiet_from_s[leg.talk.id, leg.goes_out] = t_s
            self.course.later(t_s + gap.known, self.hear_if_quiet, leg, parser)

    def hear_if_quiet(self, t_s: float, leg: Leg, parser: Parser) -> None:
        """Hear what came before, if nothing has come since for as long as the pause is."""
        gap, since_s = leg.talk.vocabulary.gap, self.quiet_from_s.get((leg.talk.id, leg.goes_out), 0.0)
        if not parser.is_gap or gap is None or t_s < since_s + gap.known - EXACT_S:
            return
        heard = parser.end()
        if heard is not None:
            self.hear(since_s + gap.known, leg.talk, heard, leg.goes_out)

    def parser(self, leg: Leg) -> Parser:
        key = leg.talk.id, leg.goes_out
        self.last_said[key] = self.course.message
        parser = self.parsers.get(key)
        if parser is None:
            parser = self.parsers[key] = parser_of(leg.talk.vocabulary, "out" if leg.goes_out else "back")
        return parser

    def lose_unended(self, t_s: float) -> None:
        """Tell of bytes that no ending came for: they wait in the buffer and are no word."""
        for (talk_id, goes_out), parser in self.parsers.items():
            if parser.pending:
                talk, names = self.design.talks[talk_id], " ".join(map(shown, parser.pending))
                stage = talk.vocabulary.stage if goes_out else self.design.nodes[talk.a].stage
                self.course.message = self.last_said[talk_id, goes_out]
                ending = " ".join(map(shown, talk.vocabulary.terminator)) or "the rest of it"
                because = self.garbled.get(self.course.message) or f"{ending} never came"
                self.course.lose(t_s, stage, talk_id, f"{names} is not whole: {because}", bytes(parser.pending))
