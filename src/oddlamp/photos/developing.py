"""Photos are taken in: read by a process of their own with bounds to it, and written anew, with nothing in them but the picture.

Where it was taken, by what and when, a colour profile, a small picture inside, a text: nothing of it goes along, because
nothing is copied. Which way is up is heeded. What our own writer wrote, and nothing else, stays byte for byte.
"""

import subprocess
import sys
from collections.abc import Sequence
from typing import Final

from oddlamp.core.errors import PhotoRefused
from oddlamp.photos.limits import PHOTO_MOST_BYTES, PIXELS_MOST, REFUSED, TIME_MOST_S, Developed, framed, heard, unframed

BATCH_MOST: Final = 10  # what comes at once is held whole
ALLOWED: Final = f"a JPEG, PNG or WebP of at most {PHOTO_MOST_BYTES // 2**20} MB and {PIXELS_MOST // 10**6} million pixels"


def develop(photos: Sequence[bytes]) -> list[Developed]:
    """Read photos and write them anew, at most ``BATCH_MOST`` of them.

    Raises:
        PhotoRefused: one of them is none, is too large, or takes longer or more memory than a photo does.
    """
    if any(len(it) > PHOTO_MOST_BYTES for it in photos):
        raise refused(f"over {PHOTO_MOST_BYTES // 2**20} MB")
    command = [sys.executable, "-I", "-m", "oddlamp.photos.darkroom"]
    try:
        done = subprocess.run(command, input=framed(photos), capture_output=True, timeout=TIME_MOST_S + 5, check=False)
    except subprocess.TimeoutExpired:
        raise refused("a file that takes too long to read") from None
    if done.returncode == REFUSED:
        raise refused(done.stderr.decode("ascii", "replace")[:120])
    if done.returncode:
        raise refused("a file that takes more time or memory to read than a photo does")
    return list(heard(unframed(done.stdout)))


def refused(given: str) -> PhotoRefused:
    """Say that a photo is not taken, and what is."""
    said = f"This photo is not taken: it is {given}. Wanted is {ALLOWED}. What else was written is kept."
    return PhotoRefused(field="photo", given=given, allowed=ALLOWED, said=said)
