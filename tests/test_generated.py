"""What is generated from the code is up to date."""

import json
import subprocess
from pathlib import Path

from oddlamp.api.app import create_app, published_schema
from oddlamp.core.checks.handbook import findings_page
from oddlamp.core.plan.whole import ProjectKept

ROOT = Path(__file__).parent.parent


def test_descriptions_are_fresh() -> None:
    for path, document in (
        ("web/api/openapi.json", create_app().openapi()),
        ("docs/plan.schema.json", published_schema()),
        ("docs/project.schema.json", published_schema(ProjectKept, "Odd Lamp project")),
    ):
        assert json.loads((ROOT / path).read_text(encoding="utf-8")) == json.loads(json.dumps(document)), (
            f"{path} is stale: run make schema"
        )


def test_the_handbook_of_findings_is_fresh() -> None:
    assert (ROOT / "docs/findings.md").read_text(encoding="utf-8") == findings_page(), "stale: run make schema"


def test_front_end_types_are_fresh(tmp_path: Path) -> None:
    out = tmp_path / "schema.d.ts"
    subprocess.run(
        ["node_modules/.bin/openapi-typescript", "api/openapi.json", "-o", str(out)],
        cwd=ROOT / "web",
        check=True,
        capture_output=True,
    )
    assert out.read_text(encoding="utf-8") == (ROOT / "web/src/api/schema.d.ts").read_text(encoding="utf-8"), (
        "stale: run make schema"
    )


def test_lock_files_carry_no_download_addresses() -> None:
    assert "://" not in (ROOT / "requirements-dev.lock").read_text(encoding="utf-8")
    assert '"resolved"' not in (ROOT / "web/package-lock.json").read_text(encoding="utf-8")
