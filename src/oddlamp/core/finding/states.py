"""What is so outside the circuit of a build: of its module, its program, the app, a terminal and a chain, each as its marks say."""

from collections.abc import Set as AbstractSet
from typing import Final, NamedTuple

Mark = str  # the name of what is not as it should be, such as ``module.hears``


class Module(NamedTuple):
    """Whether it lives, its two serial pins do as they should, its key is low as power comes, nobody else is linked, and it keeps the board's speed, the phone's code and its partner's address."""

    is_alive: bool = True
    hears: bool = True
    says: bool = True
    is_key_low: bool = True
    is_free: bool = True
    is_at_speed: bool = True
    has_code: bool = True
    is_bound: bool = True


class Program(NamedTuple):
    """Whether the plan's program is on the board, whether it uses the lamp's pin, the right way up, the plan's words, and comes to them at once."""

    is_there: bool = True
    is_on_pin: bool = True
    is_upright: bool = True
    has_words: bool = True
    is_prompt: bool = True


class App(NamedTuple):
    """Whether it is linked, and sends the plan's text with the plan's ending."""

    is_linked: bool = True
    has_text: bool = True
    has_ending: bool = True


class Terminal(NamedTuple):
    """Whether it is at the module's speed, adds the ending that it wants, and its key is up as power comes."""

    is_at_speed: bool = True
    has_ending: bool = True
    is_key_up: bool = True


class Chain(NamedTuple):
    """Pixels: fed at the end where they listen, the first passing on what is not its own, taking colours as the program sends them."""

    is_forward: bool = True
    passes_on: bool = True
    is_in_order: bool = True


class Rest(NamedTuple):
    """Whether it is within reach, a knob stands still, and plus and ground are apart."""

    is_near: bool = True
    is_still: bool = True
    is_apart: bool = True


class States(NamedTuple):
    """All of it."""

    module: Module = Module()
    program: Program = Program()
    app: App = App()
    terminal: Terminal = Terminal()
    chain: Chain = Chain()
    rest: Rest = Rest()


RIGHT: Final = States()


def states_of(marks: AbstractSet[Mark]) -> States:
    """Turn round what is marked, each the other way than in a build that is right.

    Raises:
        AttributeError: a mark that names nothing here.
    """
    wrong: dict[str, dict[str, bool]] = {}
    for mark in marks:
        group, _, name = mark.partition(".")
        wrong.setdefault(group, {})[name] = not getattr(RIGHT._asdict()[group], name)
    return RIGHT._replace(**{group: getattr(RIGHT, group)._replace(**names) for group, names in wrong.items()})
