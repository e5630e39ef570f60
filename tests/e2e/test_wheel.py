"""Installed like any program: the wheel alone carries pages, data and migrations, and needs neither Node nor this folder."""

import re
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from tests.conftest import CALL, PATIENCE_S, free_port
from tests.e2e.conftest import watch

pytestmark = pytest.mark.e2e
ROOT = Path(__file__).parent.parent.parent
BEFORE = ROOT / "tests" / "data" / "before"


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of an installed wheel, built from a copy of what the repository holds."""
    copy, site = tmp_path_factory.mktemp("source"), tmp_path_factory.mktemp("site")
    shutil.copytree(ROOT / "src", copy / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", copy)
    pip = [sys.executable, "-m", "pip"]
    subprocess.run([*pip, "wheel", "-q", "--no-deps", "--wheel-dir", copy / "dist", copy], check=True, timeout=PATIENCE_S)
    (wheel,) = (copy / "dist").glob("*.whl")
    subprocess.run([*pip, "install", "-q", "--no-deps", "--no-index", "--target", site, wheel], check=True, timeout=PATIENCE_S)
    return site


def environment(site: Path, home: Path) -> dict[str, str]:
    return {"PYTHONPATH": str(site), "HOME": str(home), "PATH": "/nowhere", "PYTHONUNBUFFERED": "1"}


def test_it_serves_from_its_own_files_into_the_users_data_folder(installed: Path, tmp_path: Path, browser: Browser) -> None:
    port = free_port()
    told = tmp_path / "told.txt"
    with told.open("w") as out:
        process = subprocess.Popen(
            [sys.executable, installed / "bin" / "oddlamp", "serve", "--port", str(port)],
            stdout=out,
            cwd=tmp_path,
            env=environment(installed, tmp_path),
        )
    address = f"http://127.0.0.1:{port}"
    try:
        page = browser.new_page(base_url=address)
        troubles = watch(page, address)
        give_up = time.monotonic() + PATIENCE_S
        while "Odd Lamp is at" not in told.read_text():
            assert process.poll() is None, "it ended"
            assert time.monotonic() < give_up, "it does not start"
        page.goto("/")
        expect(page.get_by_role("heading", name="38.1 mA flows through each LED of Footlights. Wanted: 20 mA.")).to_be_visible()
        notice = CALL.get(f"{address}/notice.txt")
        assert notice.headers["content-type"] == "text/plain; charset=utf-8"
        page.close()
        assert troubles == []
    finally:
        process.terminate()
        process.wait(timeout=PATIENCE_S)
    kept = tmp_path / ".local" / "share" / "oddlamp" / "oddlamp.sqlite3"
    assert f"projects are kept in {kept}" in told.read_text()
    assert kept.stat().st_size > 4096


def test_it_brings_an_old_file_up_to_date(installed: Path, tmp_path: Path) -> None:
    old = next(BEFORE.glob("*.sqlite3"))
    shutil.copy(old, tmp_path / "old.sqlite3")
    code = (
        "import sys, pathlib, oddlamp; from oddlamp.store.database import open_database; "
        "from oddlamp.store.projects import ProjectStore; "
        "print(pathlib.Path(oddlamp.__file__).parent, len(ProjectStore(open_database(pathlib.Path(sys.argv[1]))).names()))"
    )
    ran = subprocess.run(
        [sys.executable, "-c", code, str(tmp_path / "old.sqlite3")],
        env=environment(installed, tmp_path),
        cwd=tmp_path,
        capture_output=True,
        text=True,
        check=True,
        timeout=PATIENCE_S,
    )
    where, count = ran.stdout.split()
    assert where == str(installed / "oddlamp")
    assert int(count) > 0


def test_the_shell_completes_its_commands(installed: Path, tmp_path: Path) -> None:
    asked = {"_ODDLAMP_COMPLETE": "complete_bash", "COMP_WORDS": "oddlamp re", "COMP_CWORD": "1"}
    command = [sys.executable, installed / "bin" / "oddlamp"]
    ran = subprocess.run(command, env={**environment(installed, tmp_path), **asked}, capture_output=True, text=True, check=False)
    assert ran.stdout.split() == ["review", "rehearse"]


def test_the_notice_names_all_that_ships() -> None:
    """What the pages are built from, and what the server runs on, by the two lists they are installed from."""
    notice = (ROOT / "src" / "oddlamp" / "api" / "static" / "notice.txt").read_text(encoding="utf-8")
    scripts = re.findall(r'"([@\w./-]+)": "', re.search(r'"dependencies": \{(.*?)\}', (ROOT / "web" / "package.json").read_text(), re.DOTALL)[1])  # type: ignore[index]  # fmt: skip
    lock = (ROOT / "requirements.lock").read_text()
    packages = re.findall(r"^([\w.-]+)==([\w.]+) (?!;)", lock, re.MULTILINE)
    assert len(scripts) > 10
    assert len(packages) > 20
    gathered = {"radix-ui": "@radix-ui/react-dialog"}  # it only hands on what stands under these names
    assert [it for it in scripts if f"## {gathered.get(it, it)} - " not in notice] == []
    assert [
        it for it in packages if not re.search(rf"## {re.sub('[-_.]', '[-_.]', it[0])} - {it[1]} ", notice, re.IGNORECASE)
    ] == []
    assert notice.count("SIL OPEN FONT LICENSE") >= 3
    assert "tailwindcss" in notice
