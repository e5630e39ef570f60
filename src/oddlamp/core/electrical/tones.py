"""Tones of a pin: frequencies, half periods and the notes they are nearest to."""

import math
import re
from typing import Final

CONCERT_PITCH_HZ: Final = 440.0
CONCERT_PITCH_KEY: Final = 69
SEMITONES: Final = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
NAMES: Final = ("C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B")
_NOTE: Final = re.compile(r"([A-Ga-g])([#♯b♭]?)(\d)")


def tone_half_period_s(frequency_hz: float) -> float:
    """Return how long a pin stays high and low for a tone, s: 440 Hz gives 1.136 ms. Source: f = 1 / (t_high + t_low)."""
    return 1 / (2 * frequency_hz)


def note_frequency_hz(note: str) -> float | None:
    """Return the frequency of a note such as ``A4``, ``C#5`` or ``Eb4``, Hz; None where the text is no note.

    Source: ISO 16, A4 = 440 Hz; equal temperament, twelve equal steps an octave.
    """
    found = _NOTE.fullmatch(note.strip())
    if found is None:
        return None
    name, sign, octave = found.groups()
    key = 12 * (int(octave) + 1) + SEMITONES[name.upper()] + {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[sign]
    return CONCERT_PITCH_HZ * 2 ** ((key - CONCERT_PITCH_KEY) / 12)


def nearest_note(frequency_hz: float) -> tuple[str, float]:
    """Return the note nearest to a frequency, and how far off it is in cents (hundredths of a semitone).

    Source: ISO 16 and equal temperament.
    """
    keys = CONCERT_PITCH_KEY + 12 * math.log2(frequency_hz / CONCERT_PITCH_HZ)
    key = round(keys)
    return f"{NAMES[key % 12]}{key // 12 - 1}", 100 * (keys - key)
