"""What handsets say by themselves in a rehearsal: the word that keeps a link alive, and the lines of a feed."""

from collections.abc import Callable, Mapping
from typing import Final

from oddlamp.core.design.design import Design
from oddlamp.core.design.talks import TalkDesign
from oddlamp.core.plan.model import FEED_S, Handset
from oddlamp.core.rehearsal.course import Course
from oddlamp.core.rehearsal.events import FeedEvent
from oddlamp.core.words.frames import FieldValue

NOTHING: Final[Mapping[str, FieldValue]] = {}
SayWord = Callable[[float, TalkDesign, str, str, Mapping[str, FieldValue]], None]


class ByItself:
    """What is said with no hand on it, until ``ends_s``. ``is_cut`` tells whether a radio link is lost at the moment."""

    def __init__(self, design: Design, course: Course, say: SayWord, is_cut: Callable[[str], bool], ends_s: float) -> None:
        self.design, self.course, self.say, self.is_cut, self.ends_s = design, course, say, is_cut, ends_s
        self.kept_alive = {
            it.id for it in design.talks.values() if design.plan.talks[it.id].keep_alive and it.a in design.handsets
        }
        self.alive: set[str] = set()
        self.lines: dict[str, int] = {}
        self.turns: dict[str, int] = {}

    def begin(self, t_s: float, talk: TalkDesign) -> None:
        """Let a phone that has spoken say its keep-alive word from now on."""
        keep_alive = self.design.plan.talks[talk.id].keep_alive
        if talk.id in self.kept_alive and talk.id not in self.alive and keep_alive is not None:
            self.alive.add(talk.id)
            self.course.later(t_s + keep_alive.said_every_s, self._alive, talk)

    def _alive(self, t_s: float, talk: TalkDesign) -> None:
        keep_alive = self.design.plan.talks[talk.id].keep_alive
        if keep_alive is None or t_s > self.ends_s:
            return
        if not any(self.is_cut(hop.link_id) for hop in talk.hops):  # a phone that is gone says nothing
            self._aside(t_s, talk, keep_alive.word, NOTHING)
        self.course.later(t_s + keep_alive.said_every_s, self._alive, talk)

    def _aside(self, t_s: float, talk: TalkDesign, word: str, values: Mapping[str, FieldValue]) -> None:
        before = self.course.begin_message()
        self.course.asides.add(self.course.message)
        self.say(t_s, talk, word, talk.vocabulary.word(word).label, values)
        self.course.message = before

    def feed(self, event: FeedEvent) -> str | None:
        """Let a feed say its next line, go on by itself or stop; return why it cannot."""
        node = self.design.nodes[event.node].node if event.node in self.design.nodes else None
        if not isinstance(node, Handset) or node.kind != "feed":
            return f"there is no feed {event.node}"
        turn = self.turns[event.node] = self.turns.get(event.node, 0) + 1
        if event.does == "stop":
            return None
        return self._line(event.t_s, event.node, node, turn, goes_on=event.does == "go-on")

    def _line(self, t_s: float, name: str, node: Handset, turn: int, *, goes_on: bool) -> str | None:
        said = next((it.says["move"] for it in self.design.handsets[name].controls if "move" in it.says), None)
        if self.turns[name] != turn or t_s > self.ends_s:
            return None
        if said is None or not node.lines:
            return "it has no line, or no word that carries one"
        at = self.lines.get(name, 0)
        self.lines[name] = at + 1
        talk = self.design.talks[said[0]]
        values = {
            it.id: node.lines[at % len(node.lines)] for it in talk.vocabulary.word(said[1]).parameters if it.written == "text"
        }
        self.say(t_s, talk, said[1], node.lines[at % len(node.lines)], values)
        if goes_on:
            self.course.later(t_s + (node.every_s or FEED_S), self._go_on, name, node, turn)
        return None

    def _go_on(self, t_s: float, name: str, node: Handset, turn: int) -> None:
        self.course.begin_message()
        self._line(t_s, name, node, turn, goes_on=True)
