"""A module that stands in for a real one: what it says on the wire and in the air, and when, from what happens to it.

It has no clock of its own and costs nothing between events: whoever drives it says what happens at which time. Times rise.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final, Literal, NamedTuple

from oddlamp.core.english import plural
from oddlamp.core.errors import OutOfRange
from oddlamp.core.modules.uart import Parity, Port, garbage
from oddlamp.core.parts.dialect import ENDINGS, Blink, Command, Deed, Dialect, Join, Kept, put_in
from oddlamp.core.plan.text import shown
from oddlamp.core.words.frames import FieldValue

BUFFER_MOST: Final = 256
BOOT_S: Final = 0.3  # from power to "ready"; from memory
PARITIES: Final[tuple[Parity, ...]] = ("none", "odd", "even")  # as families number them; from memory
Mode = Literal["off", "setup", "waiting", "linked"]


class Said(NamedTuple):
    """What leaves the module: bytes on its wire at a speed or into the air to whoever is linked, or the level of a pin.

    The last ``carried`` bytes came from its other side; all before them are its own. A pin's level is one byte.
    """

    at_s: float
    content: bytes
    to: Literal["wire", "air", "pin"] = "wire"
    speed_bd: int = 0
    carried: int = 0
    pin: str = ""


@dataclass
class StandIn:
    """One module.

    ``kept`` are its settings as they survive a power cut, but for those it forgets whenever it starts; ``pins`` what its own
    pins are driven to, a level or a duty in per cent; ``networks`` the Wi-Fi within its reach, each with its password. The speed of set-up mode is its own where the key was up at power-on.
    """

    dialect: Dialect
    kept: dict[str, Kept] = field(default_factory=dict)
    is_powered: bool = False
    is_key_up: bool = False
    is_linked: bool = False
    is_whole_setup: bool = False
    is_initialised: bool = False
    paired: set[str] = field(default_factory=set)
    pending: bytearray = field(default_factory=bytearray)
    pins: dict[str, int] = field(default_factory=dict)
    speed_bd: int = 0
    parity: Parity = "none"
    quiet_from_s: float = 0.0
    busy_until_s: float = 0.0
    taking: int = 0
    held_from_s: float = 0.0
    joining: Join | None = None
    misheard: tuple[float, bytes] | None = None
    networks: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Fill in what it leaves the factory with."""
        self.kept = {**self.dialect.settings, **self.kept}
        self.speed_bd, self.parity = self._data_speed(), self._data_parity()

    @property
    def mode(self) -> Mode:
        """What it is doing now."""
        if not self.is_powered:
            return "off"
        if (self.dialect.enters == "key" and (self.is_whole_setup or self.is_key_up)) or self.joining is not None:
            return "setup"
        return "linked" if self.is_linked else "waiting"

    @property
    def port(self) -> Port:
        """How it speaks and hears on its wire now; its set-up mode has no parity whatever its data has."""
        return Port(self.speed_bd, parity="none" if self.is_whole_setup else self.parity)

    @property
    def blink(self) -> Blink:
        """How its status LED blinks now."""
        if self.joining is not None:
            return self.joining.blink
        mode = self.mode
        return Blink() if mode == "off" else self.dialect.blinks[mode]

    @property
    def takes_commands(self) -> bool:
        """Tell whether what it hears now is taken for a command."""
        if self.dialect.enters == "always":
            return self.is_powered
        return self.mode == "setup" or (self.mode == "waiting" and self.dialect.enters == "unlinked")

    def carries(self, content: bytes) -> bool:
        """Tell whether what comes on one side leaves at once on the other as it is, so that it need not be fed."""
        is_clear = self.mode == "linked" and self.dialect.enters != "always" and not self._obeys_from_afar
        return is_clear and content != (self.dialect.drops_on or "").encode("ascii")

    @property
    def _obeys_from_afar(self) -> bool:
        remote = self.dialect.remote
        return remote is not None and self.kept.get(remote.setting) == remote.value

    def power(self, at_s: float, *, is_on: bool) -> list[Said]:
        """Switch its supply; with the key up at power-on it comes up in set-up mode, at that mode's own speed."""
        said = self.until(at_s)
        self.pending.clear()
        self.is_linked = self.is_initialised = False
        self.is_powered = is_on
        self.pins.clear()
        self.kept |= {name: self.dialect.settings[name] for name in self.dialect.volatile}
        self.is_whole_setup = is_on and self.is_key_up and self.dialect.enters == "key"
        self.parity = self._data_parity()
        self.speed_bd = self.dialect.setup_speed_bd if self.is_whole_setup and self.dialect.setup_speed_bd else self._data_speed()
        self.taking, self.busy_until_s, self.joining = 0, 0.0, None
        boot = self.dialect.boot
        if is_on and boot is not None:
            self.busy_until_s = at_s + BOOT_S
            said = [
                *said,
                Said(at_s, f"{boot.text}\r\n".encode("ascii"), "wire", boot.speed_bd),
                *self._says(at_s + BOOT_S, boot.ready),
            ]
        return said

    def key(self, at_s: float, *, is_up: bool) -> list[Said]:
        """Raise its key, or let it go; where it is a button that tells how to join, what counts is how long it was held."""
        said = self.until(at_s)
        if self.is_key_up != is_up:
            self.pending.clear()
            if is_up:
                self.held_from_s = at_s
            elif self.is_powered and self.dialect.joins:
                held_s = at_s - self.held_from_s
                self.joining = next((it for it in reversed(self.dialect.joins) if it.held_s <= held_s), self.joining)
                self.is_linked = self.is_linked and self.joining is None
        self.is_key_up = is_up
        return said

    def join(self, at_s: float) -> list[Said]:
        """Let a phone hand it a network, where it waits for one: it is in, and waits for somebody to link as before."""
        said = self.until(at_s)
        if self.joining is not None:
            self.kept["joined_by"] = self.dialect.joins.index(self.joining) + 1
            self.joining = None
        return said

    def link(self, at_s: float, *, is_there: bool) -> list[Said]:
        """Tell it that somebody links to it over the air, or leaves."""
        said = self.until(at_s)
        serves = self.dialect.enters != "always" or self._has("serving", {})
        if not self.is_powered or self.is_linked == is_there or self.mode == "setup" or not serves:
            return said
        self.is_linked = is_there
        self.pending.clear()
        return [*said, *self._says(at_s, self.dialect.on_link if is_there else self.dialect.on_unlink)]

    def hear(self, at_s: float, content: bytes) -> list[Said]:
        """Let bytes arrive on its wire, at its own speed; ``at_s`` is when the last of them is whole."""
        said = self.until(at_s)
        if self.mode == "off":
            return said
        if not self.takes_commands:
            if self.mode == "linked" and content.decode("latin-1") == self.dialect.drops_on:
                return [*said, *self.link(at_s, is_there=False)]
            return [*said, Said(at_s, content, "air", carried=len(content))] if self.mode == "linked" else said
        ending = ENDINGS[self.dialect.ending]
        self.quiet_from_s = at_s
        if self.taking:
            taken, content = content[: self.taking], content[self.taking :]
            self.taking -= len(taken)
            said = [
                *said,
                Said(at_s, taken, "air", carried=len(taken)),
                *([] if self.taking else self._says(at_s + self.dialect.answer_s, "SEND OK")),
            ]
        for byte in content:
            self.pending.append(byte)
            if ending and self.pending.endswith(ending):
                message = bytes(self.pending[: -len(ending)])
                self.pending.clear()
                said += self._obey(at_s, message)
            elif len(self.pending) > BUFFER_MOST:
                self.pending.clear()
        return said

    def hear_at(self, at_s: float, content: bytes, sender: Port) -> list[Said]:
        """Let bytes arrive that were sent at some speed and frame: as they are where that is its own, else as it hears them.

        Args:
            at_s: when the last of them is whole.
            content: what was sent.
            sender: how it was sent; a clock less than 2 % off is none at all.
        """
        if sender.is_heard_by(self.port):
            return self.hear(at_s, content)
        # What has the wrong parity is thrown away; what has no stop bit is taken for a byte all the same.
        return self.hear(at_s, bytes(it.byte for it in garbage(content, sender, self.port) if it.is_even))

    def hear_air(self, at_s: float, content: bytes) -> list[Said]:
        """Let bytes arrive over the air from whoever is linked."""
        said = self.until(at_s)
        if self.mode != "linked":
            return said
        if self._obeys_from_afar:
            message = content.removesuffix(ENDINGS[self.dialect.ending])
            if any(command.frame.cut(message) is not None for command in self.dialect.commands):
                return [*said, *(it._replace(to="air") if it.to == "wire" else it for it in self._obey(at_s, message))]
        before = self.dialect.arrives.format(count=len(content)).encode("ascii")
        return [*said, Said(at_s, before + content, "wire", self.speed_bd, carried=len(content))]

    def control(self, at_s: float, content: bytes) -> list[Said]:
        """Let whoever is linked write raw bytes to its control; what is none of its commands changes nothing."""
        said = self.until(at_s)
        return [*said, *self._obey(at_s, content, is_hex=True)] if self.mode == "linked" else said

    def until(self, at_s: float) -> list[Said]:
        """Let time pass: a command that ends with a quiet line ends once it has been quiet for long enough."""
        gap_s = self.dialect.gap_s
        if gap_s is None or not self.pending or ENDINGS[self.dialect.ending] or at_s < self.quiet_from_s + gap_s:
            return []
        message = bytes(self.pending)
        self.pending.clear()
        return self._obey(self.quiet_from_s + gap_s, message)

    def _data_speed(self) -> int:
        return int(self.kept["speed"])

    def _data_parity(self) -> Parity:
        return PARITIES[int(self.kept.get("parity", 0))]

    def _says(self, at_s: float, text: str) -> list[Said]:
        content = text.encode("latin-1") + ENDINGS[self.dialect.answer_ending] if text else b""
        return [Said(at_s, content, "wire", self.speed_bd)] if content else []

    def _obey(self, at_s: float, message: bytes, *, is_hex: bool = False) -> list[Said]:
        """Do what a message says, and answer at the speed there was; a line of nothing is passed over."""
        if not message:
            return []
        answer_s = at_s + self.dialect.answer_s
        if at_s < self.busy_until_s and not is_hex:
            return self._says(answer_s, "busy p...")
        before = self._says(at_s, message.decode("latin-1")) if self.dialect.echo and self.kept[self.dialect.echo] else []
        return [*before, *self._answered(answer_s, message, is_hex=is_hex)]

    def _answered(self, answer_s: float, message: bytes, *, is_hex: bool) -> list[Said]:
        refused = self.dialect.unknown
        for command in self.dialect.commands:
            frame = command.frame
            if command.is_hex != is_hex or frame.cut(message) is None:
                continue
            values = frame.parse(message)
            if values is None:
                refused = command.refused or refused
                continue
            unmet = [need for need in command.needs if not self._has(need, values)]
            if unmet:
                answer_s += command.takes_s
                self.busy_until_s = answer_s if command.takes_s else self.busy_until_s
                return self._says(answer_s, command.otherwise or "")
            answer_s += command.takes_s
            self.busy_until_s = answer_s if command.takes_s else self.busy_until_s
            said = [
                it
                for line in command.answer
                for it in self._says(answer_s, put_in(line, command, {**self.kept, "state": self._state(), **values}))
            ]
            return [*said, *self._do(answer_s, command, values)]
        self.misheard = (answer_s, message)
        return self._says(answer_s, refused or "")

    def _has(self, need: str, values: dict[str, FieldValue]) -> bool:
        return {
            "key": self.is_key_up,
            "linked": self.is_linked,
            "initialised": self.is_initialised,
            "uninitialised": not self.is_initialised,
            "paired": str(values.get("peer", "")) in self.paired,
            "own-network": self.kept.get("mode") in (2, 3),
            "guest": self.kept.get("mode") in (1, 3),
            "known-network": str(values.get("home", "")) in self.networks
            and self.networks[str(values["home"])] == values.get("secret"),
            "many": self.kept.get("mux") == 1,
            "serving": self.kept.get("server") == 1,
        }[need]

    def _state(self) -> str:
        return "CONNECTED" if self.is_linked else "PAIRED" if self.paired else "INITIALIZED" if self.is_initialised else "READY"

    def _do(self, at_s: float, command: Command, values: dict[str, FieldValue]) -> list[Said]:
        self.kept |= {name: values[name] for name in command.keeps}
        said: list[Said] = []
        if command.sets is not None:
            pin, level = command.sets.format_map(values), int(values[list(command.fields)[-1]])
            self.pins[pin] = level
            said = [Said(at_s, bytes((level,)), "pin", pin=pin)]
        if self.dialect.speed_from == "at-once":
            self.speed_bd, self.parity = self._data_speed(), self._data_parity()
        return [*said, *self._does(at_s, command.does, values)] if command.does is not None else said

    def _does(self, at_s: float, deed: Deed, values: dict[str, FieldValue]) -> list[Said]:
        match deed:
            case "take":
                self.taking = int(values["length"])
                return [Said(at_s, b"> ", "wire", self.speed_bd)]
            case "initialise":
                self.is_initialised = True
            case "factory":
                self.kept = {**self.dialect.settings, "address": self.kept["address"]}
            case "forget":
                self.paired.clear()
            case "pair":
                self.paired.add(str(values["peer"]))
            case "link":
                self.is_linked = True
            case "unlink":
                self.is_linked = False
            case "restart":
                self.power(at_s, is_on=False)
                return self.power(at_s, is_on=True)
        return []


def transcript(module: StandIn, events: Sequence[tuple[float, str]]) -> Iterator[str]:
    """Play events written as text, and write what comes of each: ``> AT`` in, ``< OK`` out.

    Args:
        module: who answers.
        events: time, s, and one of ``power on``, ``power off``, ``key up``, ``key down``, ``link``, ``leave``, ``wait``, or
            bytes as text with ``\\r`` and ``\\n``.
    Raises:
        OutOfRange: a time before the one of the event before.
    """
    last_s = 0.0
    for at_s, what in events:
        if at_s < last_s:
            raise OutOfRange(field="at_s", given=at_s, allowed=f"{last_s} or later")
        last_s = at_s
        match what:
            case "power on" | "power off":
                said = module.power(at_s, is_on=what.endswith("on"))
            case "key up" | "key down":
                said = module.key(at_s, is_up=what.endswith("up"))
            case "link" | "leave":
                said = module.link(at_s, is_there=what == "link")
            case "wait":
                said = module.until(at_s)
            case _:
                said = module.hear(at_s, what.encode("ascii"))
        for it in said:
            yield f"{it.at_s:.2f} {it.to} {it.content.decode('ascii', 'replace')!r}"
        if module.misheard is not None:
            heard_s, message = module.misheard
            module.misheard = None
            yield f"{heard_s:.2f} misheard {message.decode('ascii', 'replace')!r}: {why_no_command(module.dialect, message)}"


def why_no_command(dialect: Dialect, message: bytes) -> str:
    """Say why a message is no command of a family: what came too much at its end, its letters, or nothing it knows."""

    def is_known(content: bytes) -> bool:
        return any(it.frame.parse(content) is not None for it in dialect.commands if not it.is_hex)

    bare = message.rstrip(b"\r\n")
    if bare != message and is_known(bare):
        extra = message[len(bare) :]
        return f"{plural(len(extra), 'byte')} too many at its end, {' '.join(map(shown, extra))}"
    if is_known(message.upper()):
        return "it is in small letters"
    with_commas = message.replace(b":", b",")
    if with_commas != message and is_known(with_commas):
        return f"it wants commas in an address: {with_commas.decode('ascii', 'replace')}"
    return "it knows no such command, or no such value"
