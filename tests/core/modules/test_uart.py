"""What a serial line's other end hears, against a walk along the line tick by tick and one worked out by hand."""

import random
from fractions import Fraction

import pytest

from oddlamp.core.modules.uart import Heard, Parity, Port, garbage
from tests.full import IS_PROOF
from tests.reference.uart import common_ticks, listen, ticks_of

SPEEDS_BD = (1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 74_880, 115_200)
DRAWN = 10_000 if IS_PROOF else 200


def told(found: tuple[Heard, ...]) -> str:
    return " ".join(f"{it.byte:02X}" + ("" if it.is_framed else "!") for it in found)


# OK, CR, LF at 9600 are 40 bits, each four bits long at 38400, and every frame takes 9.5 of those to its stop bit's middle:
#   O 4F  0 1111 0010 1   0 x4 | 1 x16 | 0 x8 | 1 x4 | 0 x4 | 1 x4
#   K 4B  0 1101 0010 1   0 x4 | 1 x8 | 0 x4 | 1 x4 | 0 x8 | 1 x4 | 0 x4 | 1 x4
#   The first start bit is four lows: one start, three 0 bits, then five 1 bits: 1111 1000 = F8, stop high. And so on.
BY_HAND = "F8 80 78! 78! 78! F8 00! 80 78!"


def test_ok_at_9600_heard_at_38400_as_worked_out_by_hand() -> None:
    assert told(garbage(b"OK\r\n", Port(9600), Port(38_400))) == BY_HAND


@pytest.mark.parametrize(("error", "byte"), [(-1, "42"), (0, "A1"), (1, "A1")])
def test_ok_at_38400_heard_at_9600_with_both_signs_of_the_clock(error: int, byte: str) -> None:
    """Four quick bytes are one slow one; the sender's clock decides on which side of an edge it is looked at."""
    assert told(garbage(b"OK\r\n", Port(38_400, Fraction(error, 1000)), Port(9600))) == byte


@pytest.mark.parametrize("parity", ["none", "even", "odd"])
def test_ends_that_agree_hear_what_was_sent(parity: Parity) -> None:
    data = bytes(range(256))
    found = garbage(data, Port(9600, parity=parity), Port(9600, Fraction(2, 100), parity))
    assert bytes(it.byte for it in found) == data
    assert all(it.is_sound for it in found)


def test_a_clock_that_is_five_per_cent_off_is_not_heard() -> None:
    """Common practice: ten bits drift by half a bit from 5 % on."""
    assert garbage(b"\x55" * 4, Port(9600), Port(9600, Fraction(4, 100)))[0].is_sound
    found = garbage(b"\x00" * 4, Port(9600), Port(9600, Fraction(6, 100)))
    assert not all(it.is_framed for it in found)


def test_a_wrong_parity_is_told() -> None:
    (found,) = garbage(b"A", Port(9600, parity="even"), Port(9600, parity="odd"))
    assert (found.byte, found.is_framed, found.is_even, found.is_sound) == (0x41, True, False, False)


def test_drawn_lines_are_heard_as_by_the_walk_along_the_line() -> None:
    draw = random.Random(11)
    for _ in range(DRAWN):
        data = draw.randbytes(draw.randint(1, 6))
        ends = [Port(draw.choice(SPEEDS_BD), Fraction(draw.randint(-20, 20), 1000)) for _ in range(2)]
        parities: tuple[Parity, ...] = ("none", "none", "even", "odd")
        sender, receiver = (end._replace(parity=draw.choice(parities)) for end in ends)
        sent_bit, heard_bit = common_ticks(sender.bit_s, receiver.bit_s)
        expected = listen(ticks_of(data, sent_bit, sender.parity), heard_bit, receiver.parity)
        found = [(it.byte, it.is_framed, it.is_even) for it in garbage(data, sender, receiver)]
        assert found == expected, (data.hex(), sender, receiver)
