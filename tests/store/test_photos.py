"""Photos: written anew with nothing in them but the picture, whatever came; hostile ones refused within bounds."""

import hashlib
import subprocess
import sys
import zlib
from io import BytesIO
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms

from oddlamp.core.errors import PhotoRefused
from oddlamp.photos.darkroom import is_ours
from oddlamp.photos.developing import BATCH_MOST, develop
from oddlamp.photos.limits import KEPT_MOST_PX, MEMORY_MOST_BYTES, PHOTO_MOST_BYTES, REFUSED, SMALL_MOST_PX, framed
from tests.full import IS_PROOF
from tests.pictures import NOTES, blank, photo


def corner(content: bytes) -> str:
    """Say in which corner of a picture its white patch is."""
    picture = Image.open(BytesIO(content)).convert("L")
    across, down = picture.size
    places = {
        "upper left": (2, 2),
        "upper right": (across - 3, 2),
        "lower left": (2, down - 3),
        "lower right": (across - 3, down - 3),
    }
    return max(places, key=lambda name: picture.getpixel(places[name]))  # type: ignore[arg-type, return-value]


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP"])
def test_nothing_but_the_picture_is_kept(form: str) -> None:
    given = photo(3, (900, 600), is_noted=True, form=form)
    assert any(note in given for note in NOTES)  # it is there, to be lost
    (made,) = develop([given])
    for kept in (made.picture, made.small):
        assert is_ours(kept)
        assert not any(note in kept for note in NOTES)
        read = Image.open(BytesIO(kept))
        assert dict(read.getexif()) == {}
        assert set(read.info) <= {"jfif", "jfif_version", "jfif_unit", "jfif_density"}
    assert max(Image.open(BytesIO(made.small)).size) == SMALL_MOST_PX
    assert (made.width_px, made.height_px) == Image.open(BytesIO(made.picture)).size == (900, 600)


@pytest.mark.parametrize(("turn", "where"), [(1, "upper left"), (3, "lower right"), (6, "upper right"), (8, "lower left")])
def test_which_way_is_up_is_heeded(turn: int, where: str) -> None:
    """Orientation of Exif 2.3, tag 0x0112 (from memory): 3 is upside down, 6 wants a turn to the right, 8 to the left."""
    (made,) = develop([photo(4, (90, 60), is_noted=True, turn=turn)])
    assert corner(made.picture) == where


def test_a_large_photo_becomes_as_large_as_is_kept_and_what_is_kept_stays_as_it_is() -> None:
    (made,) = develop([photo(5, (3000, 2000))])
    assert (made.width_px, made.height_px) == (KEPT_MOST_PX, round(KEPT_MOST_PX * 2 / 3))
    again = develop([made.picture] * BATCH_MOST)
    assert {it.picture for it in again} == {made.picture}


@pytest.mark.parametrize(("kind", "red_is"), [("another's", "green"), ("none that fits", "red")])
def test_colours_are_those_of_the_profile_which_does_not_go_along(kind: str, red_is: str) -> None:
    """By hand: in a profile whose first two primaries have changed places, what is written as red is green; one that does not fit leaves red."""
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB" if kind == "another's" else "LAB")).tobytes()
    if kind == "another's":
        profile = profile.replace(b"rXYZ", b"?XYZ").replace(b"gXYZ", b"rXYZ").replace(b"?XYZ", b"gXYZ")
    out = BytesIO()
    Image.new("RGB", (20, 20), (200, 30, 30)).save(out, "JPEG", icc_profile=profile, quality=95)
    (made,) = develop([out.getvalue()])
    assert b"ICC" not in made.picture
    red, green, blue = Image.open(BytesIO(made.picture)).getpixel((10, 10))  # type: ignore[misc]
    assert {"red": red, "green": green}[red_is] > 170
    assert max({"red": green, "green": red}[red_is], blue) < 70


HOSTILE = {
    "empty": b"",
    "a drawing with a script": b"<svg xmlns='http://www.w3.org/2000/svg' onload='alert(1)'><script>alert(1)</script></svg>",
    "a page": b"<!doctype html><script>alert(1)</script>",
    "a wrong ending": b"PK\x03\x04 and so on",
    "cut off": photo(6, (600, 400))[:-2000],
    "only its head": photo(6)[:20],
    "a moving picture": b"GIF89a" + bytes(40),
    "another kind": b"%PDF-1.7",
    "chunks that lie": blank(100, 100).replace(b"IDAT", b"IDAX"),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_what_is_no_photo_is_refused(name: str) -> None:
    with pytest.raises(PhotoRefused, match="no photo, or is broken"):
        develop([HOSTILE[name]])


def test_beyond_measure_is_refused_by_its_head_and_too_long_before_it_is_read() -> None:
    with pytest.raises(PhotoRefused, match="40000 x 40000"):
        develop([blank(40_000, 40_000)])
    with pytest.raises(PhotoRefused, match="over 10 MB"):
        develop([bytes(PHOTO_MOST_BYTES + 1)])


# A process keeps the most memory it had before it became another: what reads is started by one that is small.
SMALL = "import resource, subprocess, sys; done = subprocess.run([sys.executable, '-I', '-m', 'oddlamp.photos.darkroom'], stdin=sys.stdin, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL); print(done.returncode, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss * 1024)"


def read_apart(content: bytes) -> tuple[int, int]:
    """Let the process that reads photos read one; return what it ends with, and the most memory it had, bytes."""
    done = subprocess.run([sys.executable, "-I", "-c", SMALL], input=framed([content]), capture_output=True, check=True)
    ended, held_bytes = done.stdout.split()
    return int(ended), int(held_bytes)


def test_the_largest_that_is_taken_stays_within_the_memory_of_its_process() -> None:
    """8000 by 8000, the most there may be; and a text in a PNG that unpacks to as much again, which is refused."""
    bomb = blank(8000, 8000)
    ended, held_bytes = read_apart(bomb)
    assert (ended, held_bytes < MEMORY_MOST_BYTES / 2) == (0, True)
    text = b"zTXtnote\0\0" + zlib.compress(bytes(64 * 2**20))
    chunk = (len(text) - 4).to_bytes(4, "big") + text + zlib.crc32(text).to_bytes(4, "big")
    at = bomb.index(b"IDAT") - 4
    ended, held_bytes = read_apart(bomb[:at] + chunk + bomb[at:])
    assert (ended, held_bytes < MEMORY_MOST_BYTES / 2) == (REFUSED, True)


@settings(max_examples=300 if IS_PROOF else 60)
@given(st.data())
def test_only_what_our_writer_writes_stays(data: st.DataObject) -> None:
    """Any byte put in anywhere before the picture itself makes it another's, to be written anew; so does anything after its end."""
    ours = MADE
    assert is_ours(ours)
    scan = ours.index(b"\xff\xda")
    marks = [2]
    while (at := marks[-1]) < scan:
        marks.append(at + 2 + int.from_bytes(ours[at + 2 : at + 4], "big"))
    at, mark = data.draw(st.sampled_from(marks)), data.draw(st.sampled_from([0xE1, 0xE2, 0xED, 0xFE, 0xE0, 0xEE, 0xC2]))
    text = data.draw(st.binary(max_size=60))
    segment = bytes([0xFF, mark]) + (len(text) + 2).to_bytes(2, "big") + text
    assert not is_ours(ours[:at] + segment + ours[at:])
    assert not is_ours(ours + data.draw(st.binary(min_size=1, max_size=40)))
    assert not is_ours(ours[:scan] + segment + ours[scan:])


MADE = develop([photo(7)])[0].picture


def test_the_process_that_reads_needs_nothing_of_the_server() -> None:
    """It opens no database, and knows no project: what breaks into it finds a photo."""
    said = "import sys, oddlamp.photos.darkroom; print([it for it in sys.modules if it.startswith(('sqlalchemy', 'fastapi', 'oddlamp.store', 'oddlamp.core'))])"
    done = subprocess.run([sys.executable, "-I", "-c", said], capture_output=True, check=True)
    assert done.stdout.strip() == b"[]"


def test_check_sums_of_kept_photos_are_of_what_is_kept(tmp_path: Path) -> None:
    from oddlamp.core.plan.document import load_plan
    from oddlamp.core.plan.entries import Entry
    from oddlamp.store.database import open_database
    from oddlamp.store.projects import ProjectStore
    from tests.builders import CLEAR

    store = ProjectStore(open_database(tmp_path / "o.sqlite3"))
    project = store.create(load_plan(CLEAR), summary="Begun").id
    entry = store.log.write(project, Entry(kind="built", text="It"), ())
    store.log.add_photo(project, entry.id, develop([photo(8, is_noted=True)])[0], "")
    archive = store.archived(project)
    assert archive.project.photos[0].sha256 == hashlib.sha256(archive.picture(0)).hexdigest()
    store.close()
    assert not any(note in (tmp_path / "o.sqlite3").read_bytes() for note in NOTES)
