"""Write what follows from the code: the API's description, the plan schema, and the handbook of findings."""

import json
from pathlib import Path

from oddlamp.api.app import create_app, published_schema
from oddlamp.core.checks.handbook import findings_page
from oddlamp.core.plan.whole import ProjectKept

ROOT = Path(__file__).parent.parent


def main() -> None:
    """Write them all; a test holds them to the code."""
    for path, document in (
        (ROOT / "web/api/openapi.json", create_app().openapi()),
        (ROOT / "docs/plan.schema.json", published_schema()),
        (ROOT / "docs/project.schema.json", published_schema(ProjectKept, "Odd Lamp project")),
    ):
        path.write_text(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True) + "\n", encoding="utf-8")
    (ROOT / "docs/findings.md").write_text(findings_page(), encoding="utf-8")


if __name__ == "__main__":
    main()
