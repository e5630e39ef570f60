"""Photos for tests: such as a phone takes, with all it writes beside the picture, and such as nobody takes."""

import random
import struct
import zlib
from functools import cache
from io import BytesIO
from typing import Any

from PIL import Image

PLACE = ((47.0, 2.0, 3.5), (8.0, 30.0, 1.25))  # degrees, minutes, seconds: invented, and looked for in what is kept
NOTES = (b"Exif", b"a camera of no name", b"taken by night", b"ICC_PROFILE", b"http://ns.adobe.com")


@cache
def photo(seed: int, size: tuple[int, int] = (60, 40), *, is_noted: bool = False, form: str = "JPEG", turn: int = 1) -> bytes:
    """Return a photo that is like no other; noted with where it was taken and by what, where asked for."""
    rng = random.Random(seed)
    picture = Image.new("RGB", size, (rng.randrange(256), rng.randrange(256), rng.randrange(256)))
    picture.paste((255, 255, 255), (0, 0, max(1, size[0] // 4), max(1, size[1] // 4)))  # its upper left corner is white
    out, noted = BytesIO(), dict[str, Any]()
    if is_noted:
        about = Image.Exif()
        about[0x010F], about[0x010E], about[0x0112] = "a camera of no name", "taken by night", turn
        north, east = PLACE
        about.get_ifd(0x8825).update({1: "N", 2: north, 3: "E", 4: east})
        noted = {"exif": about, "comment": b"taken by night"} if form == "JPEG" else {"exif": about}
    picture.save(out, form, **noted)
    return out.getvalue()


@cache
def blank(width: int, height: int) -> bytes:
    """Return a black picture, which is small as a file however many pixels it has: written here, because its bits would fill a memory."""
    packer, row = zlib.compressobj(1), bytes(1 + (width + 7) // 8)
    data = b"".join(packer.compress(row) for _ in range(height)) + packer.flush()
    head = struct.pack(">2I5B", width, height, 1, 0, 0, 0, 0)  # one bit a pixel, grey
    chunks = ((b"IHDR", head), (b"IDAT", data), (b"IEND", b""))
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        struct.pack(">I", len(text)) + name + text + struct.pack(">I", zlib.crc32(name + text)) for name, text in chunks
    )
