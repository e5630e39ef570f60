"""How large a photo may be, and how it goes to the process that reads it and back. Read by both, so it needs next to nothing."""

import struct
from collections.abc import Iterable, Iterator
from typing import Final, NamedTuple

PHOTO_MOST_BYTES: Final = 10 * 2**20
KEPT_MOST_BYTES: Final = 6 * 2**20  # longer than a picture of KEPT_MOST_PX comes out, if it were nothing but noise
PIXELS_MOST: Final = 64_000_000
KEPT_MOST_PX: Final = 2048
SMALL_MOST_PX: Final = 400
QUALITY: Final = 85
FORMS: Final = ("JPEG", "PNG", "WEBP")
MEMORY_MOST_BYTES: Final = 1200 * 2**20
TIME_MOST_S: Final = 20
REFUSED: Final = 3  # what the reading process ends with where a photo is none
OVER: Final = 4  # and where it takes more memory than photos do
_SIZE: Final = struct.Struct(">I")
_PIXELS: Final = struct.Struct(">II")


class Developed(NamedTuple):
    """A photo as it is kept: a JPEG, a small one of it, and its size in pixels."""

    picture: bytes
    small: bytes
    width_px: int
    height_px: int


def framed(parts: Iterable[bytes]) -> bytes:
    """Write parts one after the other, each after its length."""
    return b"".join(_SIZE.pack(len(it)) + it for it in parts)


def unframed(text: bytes) -> Iterator[bytes]:
    """Yield such parts again."""
    at = 0
    while at < len(text):
        (size,) = _SIZE.unpack_from(text, at)
        at += _SIZE.size + size
        yield text[at - size : at]


def told(made: Developed) -> tuple[bytes, bytes, bytes]:
    """Write a developed photo as three parts."""
    return made.picture, made.small, _PIXELS.pack(made.width_px, made.height_px)


def heard(parts: Iterator[bytes]) -> Iterator[Developed]:
    """Yield developed photos of such parts."""
    for picture, small, size in zip(parts, parts, parts, strict=True):
        yield Developed(picture, small, *_PIXELS.unpack(size))
