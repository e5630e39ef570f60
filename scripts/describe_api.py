"""Write the API's description and the published plan schema, for the front end's types and for readers of plan files."""

import json
from pathlib import Path

from oddlamp.api.app import create_app, published_schema

ROOT = Path(__file__).parent.parent


def main() -> None:
    """Write both files; a test holds them to the code."""
    for path, document in (
        (ROOT / "web/api/openapi.json", create_app().openapi()),
        (ROOT / "docs/plan.schema.json", published_schema()),
    ):
        path.write_text(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
