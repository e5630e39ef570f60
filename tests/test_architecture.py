"""The folders show the architecture, and imports point one way."""

import ast
from pathlib import Path

import pytest

SOURCE = Path(__file__).parent.parent / "src" / "oddlamp"
PURE = {
    "__future__", "abc", "bisect", "collections", "copy", "dataclasses", "decimal", "enum", "fractions", "functools",
    "heapq", "itertools", "jinja2", "json", "math", "numpy", "operator", "pydantic", "re", "scipy", "string", "struct", "typing",
}  # fmt: skip
MAY_IMPORT = {
    "core": {"core"},
    "catalog": {"catalog", "core"},
    "store": {"store", "core.plan", "core.errors"},
    "api": {"api", "store", "catalog", "core"},
}


def imported(file: Path) -> set[str]:
    """Return the dotted names a file imports."""
    nodes = list(ast.walk(ast.parse(file.read_text(encoding="utf-8"))))
    names = {alias.name for node in nodes if isinstance(node, ast.Import) for alias in node.names}
    return names | {"." * node.level + (node.module or "") for node in nodes if isinstance(node, ast.ImportFrom)}


@pytest.mark.parametrize("file", sorted((SOURCE / "core").rglob("*.py")), ids=lambda file: str(file.relative_to(SOURCE)))
def test_core_stays_pure(file: Path) -> None:
    assert {name.partition(".")[0] for name in imported(file) if not name.startswith("oddlamp.core")} <= PURE


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
