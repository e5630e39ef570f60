"""The folders show the architecture, and imports point one way."""

import ast
import subprocess
import sys
from pathlib import Path

import pytest

SOURCE = Path(__file__).parent.parent / "src" / "oddlamp"
PURE = {
    "__future__", "abc", "ast", "bisect", "codecs", "collections", "copy", "csv", "dataclasses", "decimal", "difflib", "enum", "fractions", "functools",
    "heapq", "html", "io", "itertools", "jinja2", "json", "math", "numpy", "operator", "pydantic", "re", "schemdraw", "scipy", "string", "struct", "types", "typing", "unicodedata",
}  # fmt: skip
MAY_IMPORT = {
    "core": {"core"},
    "sheets": {"sheets", "core"},
    "catalog": {"catalog", "core"},
    "photos": {"photos", "core.errors"},
    "store": {"store", "photos", "core.plan", "core.errors"},
    "api": {"api", "console", "photos", "sheets", "store", "catalog", "core"},
}
# The core's own packages, lowest first: none imports from one above it.
CORE_ORDER = [
    "base", "errors", "english", "reasoning", "electrical", "plan", "layouts", "words", "parts", "design", "pins", "behaviour", "modules", "reading", "resolve",
    "checks", "designer", "sentences", "rehearsal", "firmware", "bench", "finding",
]  # fmt: skip
LINES_MOST = 400


def imported(file: Path) -> set[str]:
    """Return the dotted names a file imports."""
    nodes = list(ast.walk(ast.parse(file.read_text(encoding="utf-8"))))
    names = {alias.name for node in nodes if isinstance(node, ast.Import) for alias in node.names}
    return names | {"." * node.level + (node.module or "") for node in nodes if isinstance(node, ast.ImportFrom)}


PURE_FILES = sorted([*(SOURCE / "core").rglob("*.py"), *(SOURCE / "sheets").rglob("*.py")])


@pytest.mark.parametrize("file", PURE_FILES, ids=lambda file: str(file.relative_to(SOURCE)))
def test_core_and_sheets_stay_pure(file: Path) -> None:
    ours = ("oddlamp.core", "oddlamp.sheets")
    assert {name.partition(".")[0] for name in imported(file) if not name.startswith(ours)} <= PURE


@pytest.mark.parametrize("file", sorted((SOURCE / "core").rglob("*.py")), ids=lambda file: str(file.relative_to(SOURCE)))
def test_no_import_of_the_core_runs_back_up(file: Path) -> None:
    package = file.relative_to(SOURCE / "core").parts[0].removesuffix(".py")
    if package == "__init__":
        return
    used = {name.split(".")[2] for name in imported(file) if name.startswith("oddlamp.core.")}
    assert {name for name in used if CORE_ORDER.index(name) > CORE_ORDER.index(package)} == set()


def test_every_package_of_the_core_has_its_place() -> None:
    there = {path.name.removesuffix(".py") for path in (SOURCE / "core").iterdir() if not path.name.startswith("__")}
    assert there == set(CORE_ORDER)


def test_files_stay_short() -> None:
    web = SOURCE.parent.parent / "web" / "src"
    files = [*PURE_FILES, *(path for path in web.rglob("*.ts*") if path.name != "schema.d.ts")]
    long = {str(path): count for path in files if (count := path.read_text(encoding="utf-8").count("\n")) > LINES_MOST}
    assert long == {}


@pytest.mark.parametrize("package", sorted(MAY_IMPORT))
def test_imports_point_one_way(package: str) -> None:
    for file in (SOURCE / package).rglob("*.py"):
        ours = {name.removeprefix("oddlamp.") for name in imported(file) if name.startswith("oddlamp.")}
        wrong = {
            name for name in ours if not any(name == allowed or name.startswith(f"{allowed}.") for allowed in MAY_IMPORT[package])
        }
        assert not wrong, f"{file.name} imports {wrong}"


def test_only_catalog_reads_data_and_only_store_knows_sqlalchemy() -> None:
    for file in SOURCE.rglob("*.py"):
        package = file.relative_to(SOURCE).parts[0]
        names = {name.partition(".")[0] for name in imported(file)}
        assert "sqlalchemy" not in names or package == "store", file
        assert "fastapi" not in names or package == "api", file
        assert "tomllib" not in names or package == "catalog", file


def test_a_server_loads_what_takes_long_only_when_it_is_needed() -> None:
    said = "import sys, oddlamp.api.app; print([it for it in ('numpy', 'scipy', 'PIL', 'alembic') if it in sys.modules])"
    assert subprocess.run([sys.executable, "-c", said], capture_output=True, text=True, check=True).stdout.strip() == "[]"
