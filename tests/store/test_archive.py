"""Whole projects as files: out and in without loss, the same bytes each time; hostile ones refused, and nothing half kept."""

import hashlib
import json
import random
import resource
import stat
import struct
import subprocess
import sys
import threading
import zipfile
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from io import BytesIO
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import Engine, event
from typer.testing import CliRunner

from oddlamp.catalog.load import demo_names, demo_plan
from oddlamp.cli import app
from oddlamp.core.errors import DomainError, NothingToUndo
from oddlamp.core.plan.document import load_plan
from oddlamp.core.plan.entries import KINDS, Entry, Logged
from oddlamp.core.plan.whole import EntryKept
from oddlamp.photos.developing import develop
from oddlamp.sheets.log import sums_of
from oddlamp.store.archive import TEXT_MOST_BYTES, Packing, Unpacked, packed, unpacked
from oddlamp.store.database import open_database
from oddlamp.store.kept import Checked
from oddlamp.store.projects import ProjectStore
from tests.builders import CLEAR
from tests.conftest import limit_files
from tests.full import IS_PROOF, some
from tests.pictures import NOTES, blank, photo

KILLS = 50 if IS_PROOF else 4


@contextmanager
def store_at(path: Path) -> Iterator[ProjectStore]:
    store = ProjectStore(open_database(path))
    yield store
    store.close()


def checked(plan: Any) -> Checked:
    return Checked(plan, None)


def take_apart(file: bytes) -> Unpacked:
    return unpacked(BytesIO(file))


def everything(store: ProjectStore, project: str) -> list[Logged]:
    return [*store.log.entries(project), *store.log.entries(project, only="thrown")]


def lived_in(store: ProjectStore, rng: random.Random) -> str:
    """A project with a past: edits, steps back and forth, branches, takes kept and thrown, a program taken away."""
    made = store.create(load_plan(CLEAR), summary="Begun")
    for number in range(rng.randint(3, 14)):
        head = store.head(made.id)
        match rng.choice(("edit", "edit", "undo", "redo", "restore", "take", "thrown", "taken", "measured", "entry", "entry", "again", "photo", "gone")):  # fmt: skip
            case "edit":
                patch = {"notes": rng.choice(("caf\u00e9 \u263d", "</script>", '"', "\\")) + str(number)}
                store.edit(made.id, patch, base_revision=head, summary=f"Change {number}", check=checked)
            case "restore":
                store.restore(made.id, rng.choice(store.history(made.id)).revision, base_revision=head)
            case "take" | "thrown" as what:
                take = store.keep_take(made.id, head, f"Take {number}", [{"kind": "control", "t_s": 0.1, "control": "on"}])
                store.throw_take(made.id, take.id, is_thrown=what == "thrown")
            case "measured":
                found = {"value": rng.uniform(0, 5), "unit": "V", "taken_at": "2026-11-28T10:00:00Z"}
                store.edit(made.id, {"bench": {"checked": {"mock_up": {"rail.5v": found}}}}, base_revision=head, summary="Measured", check=checked)  # fmt: skip
            case "entry" | "gone" as what:
                said = Entry(kind=rng.choice(tuple(KINDS)), text=f"caf\u00e9 {number} </script>", stage="lamps.one", stage_label="One", minutes=rng.choice((None, 7)), cost=rng.choice((None, 0.1)))  # fmt: skip
                uid = store.log.write(made.id, said, ("part:x",)).id
                store.log.throw(made.id, uid, is_thrown=what == "gone")
            case "again" | "photo" as what if everything(store, made.id):
                it = rng.choice(everything(store, made.id))
                if what == "again":
                    store.log.change(made.id, it.id, Entry(kind="idea", text=f"Anew {number}"), (), version=it.version)
                else:
                    alt = f"picture {number}"
                    logged = store.log.add_photo(made.id, it.id, develop([photo(rng.randrange(1000), is_noted=True)])[0], alt)
                    store.log.change_photo(made.id, logged.photos[0].id, is_thrown=rng.random() < 0.3)
            case "again" | "photo":
                store.log.let_go(made.id, store.log.write(made.id, Entry(kind="next_time", text="Never so again"), ()).id, is_gone=True)  # fmt: skip
            case "taken":
                store.note_taken(made.id, "board", head)
            case step:
                try:
                    (store.undo if step == "undo" else store.redo)(made.id, base_revision=head)
                except NothingToUndo:
                    continue
    return made.id


@settings(max_examples=60 if IS_PROOF else 8)
@given(st.randoms(use_true_random=False))
def test_a_project_comes_back_as_it_was_and_goes_on(rng: random.Random) -> None:
    with (
        TemporaryDirectory() as folder,
        store_at(Path(folder) / "one.sqlite3") as one,
        store_at(Path(folder) / "two.sqlite3") as two,
    ):
        lived_in(two, random.Random(1))  # it is not the first one there
        project = lived_in(one, rng)
        file = packed(one.archived(project))
        assert packed(one.archived(project)) == file
        assert Packing(one.archived(project)).size_bytes == len(file)
        assert sorted(one.log.sums(project)) == list(sums_of(everything(one, project)))  # added up by the file as by hand
        there = two.take_in(take_apart(file))
        assert packed(two.archived(there.id)) == file
        for word in ("caf", "anew", "picture"):  # and is found by the same words
            assert len(two.log.entries(there.id, [word])) == len(one.log.entries(project, [word]))
        here = one.read(project)
        assert (there.plan, there.undo, there.redo, there.number) == (here.plan, here.undo, here.redo, here.number)
        assert [it._replace(id=0, revision=0) for it in two.takes(there.id)] == [
            it._replace(id=0, revision=0) for it in one.takes(project)
        ]
        if here.undo is not None:
            assert two.undo(there.id, base_revision=there.revision).plan == one.undo(project, base_revision=here.revision).plan


def test_every_demo_comes_back(tmp_path: Path) -> None:
    with store_at(tmp_path / "one.sqlite3") as one, store_at(tmp_path / "two.sqlite3") as two:
        for name in demo_names():
            file = packed(one.archived(one.create(load_plan(demo_plan(name)), summary="Started").id))
            assert packed(two.archived(two.take_in(take_apart(file)).id)) == file


def zipped(*texts: tuple[str, bytes], **info: int) -> bytes:
    out = BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in texts:
            entry = zipfile.ZipInfo(name)
            for key, value in info.items():
                setattr(entry, key, value)
            archive.writestr(entry, content, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def whole(change: Callable[[dict[str, Any]], Any] = dict) -> bytes:
    """The text of a project of ours, with something else in it."""
    plan = dict(CLEAR)
    at = "2026-11-28T10:00:00.000Z"
    whole = {
        "format": "oddlamp-project", "schema_version": 1, "created_at": at, "original": None, "head": 0, "moves": [], "takes": [], "taken": [],
        "revisions": [{"parent": None, "number": 0, "made_at": at, "summary": "Begun", "plan": plan}],
    }  # fmt: skip
    change(whole)
    return json.dumps(whole).encode()


def altered(change: Callable[[dict[str, Any]], Any]) -> bytes:
    return zipped(("project.json", whole(change)))


def with_photo(content: bytes | None, told: bytes | None = None, name: str = "photos/0001.jpg") -> bytes:
    """A file of ours with one entry and its photo, or what is there in its place."""
    at = "2026-11-28T10:00:00.000Z"
    told = content or b"" if told is None else told
    entry = {
        "uid": "0123456789ab", "revision": 0, "made_at": at, "version": 0, "thrown_at": None, "said": {"kind": "idea", "text": "It"}, "was": None, "uses": [],
        "photos": [{"file": name, "sha256": hashlib.sha256(told).hexdigest(), "made_at": at, "thrown_at": None, "alt": ""}],
    }  # fmt: skip
    text = whole(lambda it: it.update(schema_version=2, entries=[entry]))
    return zipped(("project.json", text), *(() if content is None else ((name, content),)))


def deep(whole: dict[str, Any]) -> None:
    inner: list[Any] = []
    for _ in range(500):
        inner = [inner]
    whole["takes"] = [{"revision": 0, "name": "t", "made_at": whole["created_at"], "thrown_at": None, "events": [{"x": inner}]}]


HOSTILE: dict[str, tuple[Callable[[], bytes], str]] = {
    "nothing": (lambda: b"", "no ZIP"),
    "no ZIP": (lambda: b"%PDF-1.7 and so on", "no ZIP"),
    "cut off": (lambda: altered(dict)[:-30], "no ZIP"),
    "a bomb": (lambda: zipped(("project.json", bytes(TEXT_MOST_BYTES + 1))), "MB unpacked"),
    "a way out": (lambda: zipped(("../../etc/passwd", b"x")), "nothing beside it but photos"),
    "from the root": (lambda: zipped(("/etc/passwd", b"x")), "nothing beside it but photos"),
    "something beside it": (lambda: zipped(("project.json", b"{}"), ("run.sh", b"x")), "nothing beside it but photos"),
    "the same twice": (lambda: zipped(("project.json", b"{}"), ("project.json", b"{}")), "nothing beside it but photos"),
    "a link": (lambda: zipped(("project.json", b"/etc/passwd"), external_attr=(stat.S_IFLNK | 0o777) << 16), "a link"),
    "empty": (lambda: zipped(), "0 texts"),
    "millions of texts": (lambda: altered(dict)[:-14] + struct.pack("<2H2LH", 65_535, 65_535, 46 * 65_535, 0, 0), "65535 texts"),
    "more than it can count": (lambda: altered(dict)[:-22] + b"PK\6\7" + bytes(16) + altered(dict)[-22:], "or more"),
    "a remark": (lambda: altered(dict) + b"and more", "no ZIP"),
    "a photo nobody tells of": (lambda: zipped(("project.json", whole()), ("photos/0001.jpg", b"x")), "nothing tells of"),
    "a photo that is missing": (lambda: with_photo(None), "is missing"),
    "a photo that is none": (lambda: with_photo(b"<svg onload='alert(1)'/>"), "no photo"),
    "another photo": (lambda: with_photo(photo(2), told=photo(1)), "another check sum"),
    "a photo beyond measure": (lambda: with_photo(blank(40_000, 40_000)), "40000 x 40000"),
    "a photo by another way": (lambda: with_photo(photo(1), name="photos/../1.jpg"), "photos/"),
    "no JSON": (lambda: zipped(("project.json", b"\xff\xfe{")), "JSON"),
    "nested": (lambda: zipped(("project.json", b"[" * 100_000)), "JSON"),
    "a list": (lambda: zipped(("project.json", b"[]")), "another kind"),
    "a later one": (lambda: altered(lambda it: it.update(schema_version=3)), "a later Odd Lamp"),
    "a head that is not there": (lambda: altered(lambda it: it.update(head=7)), "under 1"),
    "one made from itself": (lambda: altered(lambda it: it["revisions"][0].update(parent=0)), "a revision before it"),
    "a moment that is none": (lambda: altered(lambda it: it.update(created_at="<script>")), "UTC"),
    "a plan that is none": (lambda: altered(lambda it: it["revisions"][0]["plan"].update(lamps=3)), "revisions.0.plan"),
    "a deep take": (lambda: altered(deep), "levels"),
    "more than belongs there": (lambda: altered(lambda it: it.update(run="rm")), "run"),
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_file_is_refused_in_its_own_words(tmp_path: Path, name: str) -> None:
    make, said = HOSTILE[name]
    file = tmp_path / "it.zip"
    file.write_bytes(make())
    with pytest.raises(DomainError) as refused:
        unpacked(file.open("rb"))
    told = refused.value.said + " ".join(f"{it.field} {it.given} {it.allowed}" for it in refused.value.problems)
    assert said in told, told
    done = CliRunner().invoke(app, ["import", str(file), "--database", str(tmp_path / "o.sqlite3")])
    assert done.exit_code == 2
    assert "Traceback" not in done.output
    with store_at(tmp_path / "o.sqlite3") as store:
        assert store.names() == []


def test_a_project_is_carried_to_another_database_by_two_commands(tmp_path: Path) -> None:
    with store_at(tmp_path / "one.sqlite3") as one:
        project = lived_in(one, random.Random(3))
        plan = one.read(project).plan
    said = CliRunner().invoke(
        app,
        ["export", "--project", project, "--as", "archive", "--to", str(tmp_path), "--database", str(tmp_path / "one.sqlite3")],
    )
    assert said.exit_code == 0, said.output
    (file,) = tmp_path.glob("*.zip")
    said = CliRunner().invoke(app, ["import", str(file), "--database", str(tmp_path / "two.sqlite3")])
    assert said.exit_code == 0, said.output
    with store_at(tmp_path / "two.sqlite3") as two:
        (name,) = two.names()
        assert two.read(name.id).plan == plan
        assert name.id in said.output
    nobody = CliRunner().invoke(
        app,
        ["export", "--project", "nobody", "--as", "archive", "--to", str(tmp_path), "--database", str(tmp_path / "two.sqlite3")],
    )
    both = CliRunner().invoke(app, ["export", "plan.json", "--project", "x", "--to", str(tmp_path)])
    assert (nobody.exit_code, both.exit_code) == (2, 2)


def test_an_import_that_is_killed_keeps_all_of_it_or_nothing(tmp_path: Path) -> None:
    """Killed at any moment of it, from its start to a little after its end."""
    rng = random.Random(1)
    with store_at(tmp_path / "one.sqlite3") as one:
        project = one.create(load_plan(CLEAR), summary="Begun").id
        for number in range(60):
            one.edit(project, {"notes": str(number)}, base_revision=one.head(project), summary=f"{number}", check=checked)
        entry = one.log.write(project, Entry(kind="built", text="It is in"), ())
        for made in develop([photo(number, (400, 300)) for number in range(10)]):
            one.log.add_photo(project, entry.id, made, "")
        file = packed(one.archived(project))
    (tmp_path / "it.zip").write_bytes(file)
    database = tmp_path / "two.sqlite3"
    with store_at(database) as two:
        before = lived_in(two, random.Random(5))
        was = packed(two.archived(before))
    for _ in range(KILLS):
        going = subprocess.Popen(
            [sys.executable, "-m", "oddlamp", "import", str(tmp_path / "it.zip"), "--database", str(database)],
            stdout=subprocess.DEVNULL,
        )
        threading.Event().wait(rng.uniform(0.2, 3.0))
        going.kill()
        going.wait()
        with store_at(database) as two:
            assert packed(two.archived(before)) == was
            for name in two.names():
                assert name.id == before or packed(two.archived(name.id)) == file


def test_a_photo_of_another_hand_is_written_anew_and_its_place_is_gone(tmp_path: Path) -> None:
    """An archive somebody put together with a phone's own photo in it: what comes out of here tells no place, and stays as it is."""
    with store_at(tmp_path / "one.sqlite3") as one:
        file = with_photo(photo(3, (300, 200), is_noted=True))
        assert any(note in photo(3, (300, 200), is_noted=True) for note in NOTES)
        with closing(take_apart(file)) as found:
            project = one.take_in(found).id
        out = packed(one.archived(project))
        assert not any(note in out for note in NOTES)
        (entry,) = one.log.entries(project)
        for is_small in (False, True):
            assert not any(note in one.log.picture(project, entry.photos[0].id, is_small=is_small) for note in NOTES)
        with closing(take_apart(out)) as found:
            assert packed(one.archived(one.take_in(found).id)) == out


def test_a_file_of_the_first_version_is_read_and_goes_out_as_one_of_this(tmp_path: Path) -> None:
    with store_at(tmp_path / "one.sqlite3") as one, closing(take_apart(altered(dict))) as found:
        kept = one.archived(one.take_in(found).id).project
        assert (kept.schema_version, kept.entries, kept.revisions[0].summary) == (2, (), "Begun")


def test_the_log_goes_out_by_a_command_and_a_plan_has_none(tmp_path: Path) -> None:
    with store_at(tmp_path / "one.sqlite3") as one:
        project = one.create(load_plan(CLEAR), summary="Begun").id
        one.log.write(project, Entry(kind="next_time", text="Solder it"), ())
    more = ["--to", str(tmp_path / "out"), "--database", str(tmp_path / "one.sqlite3")]
    for form, names in (("log", ["log.csv", "log.md"]), ("sheets", ["sheets.md"]), ("measured", ["measured.csv"])):
        said = CliRunner().invoke(app, ["export", "--project", project, "--as", form, *more])
        assert said.exit_code == 0, said.output
        assert all((tmp_path / "out" / name).stat().st_size > 20 for name in names)
    assert "**next time**: Solder it" in (tmp_path / "out" / "log.md").read_text(encoding="utf-8")
    (tmp_path / "plan.json").write_text(json.dumps(CLEAR), encoding="utf-8")
    assert CliRunner().invoke(app, ["export", str(tmp_path / "plan.json"), "--as", "log", *more]).exit_code == 2
    (tmp_path / "file").write_text("")
    barred = ["export", "--project", project, "--as", "archive", "--to", str(tmp_path / "file"), *more[2:]]
    assert CliRunner().invoke(app, barred).exit_code == 2
    assert not list(tmp_path.rglob("*.half"))


def test_ten_thousand_entries_come_in_while_one_waits(tmp_path: Path) -> None:
    """Counted, and not by the clock: what is said to the database does not grow with the entries one by one."""
    with store_at(tmp_path / "one.sqlite3") as one:
        made = one.create(load_plan(CLEAR), summary="Begun")
        kept, said = one.archived(made.id).project, Entry(kind="idea", text="It")
        entries = [EntryKept(uid=f"{it:016x}", revision=0, made_at=kept.created_at, version=0, thrown_at=None, said=said, was=None, uses=(), photos=()) for it in range(10_000)]  # fmt: skip
        asked: list[str] = []

        def hear(*told: Any) -> None:
            asked.append(told[2])

        event.listen(Engine, "before_cursor_execute", hear)
        try:
            with closing(Unpacked(kept.model_copy(update={"entries": tuple(entries)}))) as found:
                there = one.take_in(found)
        finally:
            event.remove(Engine, "before_cursor_execute", hear)
        assert len(one.log.entries(there.id)) == 10_000
        assert len(asked) < 200


WORST = ("a bomb", "millions of texts", "a photo beyond measure", "nested", "a photo that is none")
HELD_MOST_BYTES = 600 * 2**20
DISK_MOST_BYTES = 12 * 2**20


@pytest.mark.parametrize("name", some(WORST, 2))
def test_a_hostile_file_takes_little_memory_and_no_disk(tmp_path: Path, name: str) -> None:
    """Refused, and not ended, in a process that may hold and write no more: where it wanted more it would fail otherwise."""
    (tmp_path / "it.zip").write_bytes(HOSTILE[name][0]())

    def bound() -> None:
        resource.setrlimit(resource.RLIMIT_AS, (HELD_MOST_BYTES, HELD_MOST_BYTES))
        limit_files(DISK_MOST_BYTES)

    command = [sys.executable, "-m", "oddlamp", "import", str(tmp_path / "it.zip"), "--database", str(tmp_path / "o.sqlite3")]
    done = subprocess.run(command, capture_output=True, text=True, preexec_fn=bound, check=False)
    assert (done.returncode, HOSTILE[name][1] in done.stderr) == (2, True), done.stderr
