"""Plans, exports and a database written by the version before still open, and what was built in them stands as it stood."""

import json
import shutil
from pathlib import Path

import pytest

from oddlamp.catalog.load import load_catalog
from oddlamp.core.design.walk import values_of
from oddlamp.core.parts.check import check_parts
from oddlamp.core.plan.document import dump_plan, load_plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review
from oddlamp.store.database import open_database
from oddlamp.store.projects import ProjectStore

BEFORE = Path(__file__).parent.parent / "data" / "before"
VALUES = json.loads((BEFORE / "values.json").read_text(encoding="utf-8"))


@pytest.mark.parametrize("name", sorted(VALUES))
def test_what_was_exported_before_opens_and_what_was_built_stands(name: str) -> None:
    plan = load_plan(json.loads((BEFORE / f"{name}.json").read_text(encoding="utf-8")))
    check_parts(plan, load_catalog())
    design = resolve(plan, load_catalog())
    now = {value.id: value.value for value in values_of(design)}
    assert {key: now.get(key) for key in VALUES[name]} == pytest.approx(VALUES[name])
    assert review(plan, load_catalog()).sheets
    assert load_plan(dump_plan(plan)) == plan


def test_a_database_of_the_version_before_opens_with_all_its_changes(tmp_path: Path) -> None:
    path = tmp_path / "projects.sqlite3"
    shutil.copy(BEFORE / "projects.sqlite3", path)
    store = ProjectStore(open_database(path))
    (project,) = store.names()
    rows = store.history(project.id)
    assert {row.summary for row in rows} >= {"Started before", "Named it", "Took a risk"}
    for row in rows:
        check_parts(store.plan_at(project.id, row.revision), load_catalog())
    kept = store.read(project.id)
    assert kept.plan.accepted
    assert any(signal.is_built for signal in kept.plan.signals.values())
    after = store.edit(
        kept.id,
        {"lamps": {"foot2": {"label": "Second"}}},
        base_revision=kept.revision,
        summary="Now",
        check=lambda plan: check_parts(plan, load_catalog()),
    )
    assert after.plan.lamps["foot2"].label == "Second"
