"""The process that reads photos: whatever a hostile file does to its reader ends here, within bounds, and keeps nothing."""

import struct
import sys
from contextlib import suppress
from io import BytesIO
from typing import Final

from PIL import Image, ImageCms, ImageOps

from oddlamp.photos.limits import (
    FORMS,
    KEPT_MOST_BYTES,
    KEPT_MOST_PX,
    MEMORY_MOST_BYTES,
    OVER,
    PIXELS_MOST,
    QUALITY,
    REFUSED,
    SMALL_MOST_PX,
    TIME_MOST_S,
    Developed,
    framed,
    told,
    unframed,
)

# What our writer writes before the picture: the file's own mark, tables, one frame. Nothing that could carry words.
TABLES: Final = frozenset({0xDB, 0xC0, 0xC4})
JFIF: Final = b"JFIF\0\x01\x01\0\0\x01\0\x01\0\0"
HEAD_MOST_BYTES: Final = 640  # all of that comes to 623 of them
SEE_THROUGH: Final = ("RGBA", "LA", "P", "PA")


def is_ours(content: bytes) -> bool:
    """Tell whether a JPEG holds nothing beside what our own writer writes: no place, no words, nothing after its end."""
    if content[:2] != b"\xff\xd8" or content[-2:] != b"\xff\xd9":
        return False
    at = 2
    while at + 4 <= min(len(content), HEAD_MOST_BYTES) and content[at] == 0xFF:
        mark, (size,) = content[at + 1], struct.unpack_from(">H", content, at + 2)
        if mark == 0xDA:
            return _is_one_scan(content, at + 2 + size)
        is_mark = mark == 0xE0 and content[at + 4 : at + 2 + size] == JFIF
        if not (mark in TABLES or is_mark) or size < 2:
            return False
        at += 2 + size
    return False


def _is_one_scan(content: bytes, at: int) -> bool:
    """Tell whether from here to the end there is nothing but the data of one scan."""
    while (found := content.find(b"\xff", at, len(content) - 2)) >= 0:
        if content[found + 1] and not 0xD0 <= content[found + 1] <= 0xD7:
            return False
        at = found + 2
    return True


def developed(content: bytes) -> Developed:
    """Read one photo, and write it anew unless our own writer wrote it.

    Raises:
        ValueError: it has more pixels than a photo has.
        Exception: whatever its reader raises at a broken file.
    """
    with Image.open(BytesIO(content), formats=FORMS) as found:
        width, height = found.size
        if width * height > PIXELS_MOST:
            raise ValueError(f"one of {width} x {height} pixels")
        stays = max(found.size) <= KEPT_MOST_PX and len(content) <= KEPT_MOST_BYTES and is_ours(content)
        profile = found.info.get("icc_profile")
        found.draft("RGB", (KEPT_MOST_PX, KEPT_MOST_PX))
        found.thumbnail((KEPT_MOST_PX, KEPT_MOST_PX))  # before anything copies it
        plain = ImageOps.exif_transpose(found)
    if plain.mode in SEE_THROUGH:  # what can be seen through is seen on white
        clear = plain.convert("RGBA")
        plain = Image.alpha_composite(Image.new("RGBA", clear.size, "white"), clear)
    plain = plain.convert("RGB")
    if profile:
        with suppress(ImageCms.PyCMSError, OSError, ValueError):  # one that can't be read leaves the colours as they are
            wide = ImageCms.ImageCmsProfile(BytesIO(profile))
            plain = ImageCms.profileToProfile(plain, wide, ImageCms.createProfile("sRGB"), outputMode="RGB") or plain
    small = plain.copy()
    small.thumbnail((SMALL_MOST_PX, SMALL_MOST_PX))
    return Developed(content if stays else _jpeg(plain), _jpeg(small), *plain.size)


def _jpeg(picture: Image.Image) -> bytes:
    bare = Image.new("RGB", picture.size)  # what came along with the picture stays behind with it
    bare.paste(picture)
    out = BytesIO()
    bare.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()


def _bound() -> None:
    """Let this process take no more memory and time than photos need."""
    with suppress(ImportError, ValueError, OSError):  # not every system knows bounds; there its time is bounded from without
        import resource

        resource.setrlimit(resource.RLIMIT_AS, (MEMORY_MOST_BYTES, MEMORY_MOST_BYTES))
        resource.setrlimit(resource.RLIMIT_CPU, (TIME_MOST_S, TIME_MOST_S))


def main() -> int:
    """Read photos from standard input, and write each with its small one and its size; or say which is none."""
    _bound()
    Image.MAX_IMAGE_PIXELS = None  # they are counted above, and refused in our own words
    made: list[bytes] = []
    for content in unframed(sys.stdin.buffer.read()):
        try:
            made += told(developed(content))
        except MemoryError:
            return OVER
        except Exception as error:  # whatever a hostile file does to its reader
            is_counted = isinstance(error, ValueError) and str(error).startswith("one of ")
            sys.stderr.write(str(error) if is_counted else "a file that is no photo, or is broken")
            return REFUSED
    sys.stdout.buffer.write(framed(made))
    return 0


if __name__ == "__main__":
    sys.exit(main())
