"""Numbers that moved because a version of the shipped parts changed a figure."""

import shutil
from pathlib import Path

import pytest

from oddlamp.catalog.load import DATA, CatalogBroken, load_catalog
from oddlamp.core.parts.models import Catalog
from oddlamp.core.parts.past import catalog_at, changes_since
from oddlamp.core.plan.document import Document, edit_plan
from oddlamp.core.plan.model import Plan
from oddlamp.core.resolve.resolve import resolve
from oddlamp.sheets.review import review
from tests.builders import plan_with

WHITE: Document = {"lamps": {"lamp": {"channels": {"main": {"led": {"part": "led-white", "overrides": None}}}}}}
CHANGE = """
[[change]]
version = "2027.2"
table = "leds"
part = "led-white"
figure = "forward_voltage_v"
was = { value = 3.0, least = 2.8, most = 3.6, source = "from-memory" }
why = "read in a document"
[[change]]
version = "2026.12"
table = "sources"
part = "adapter-5v-1a"
figure = "voltage_v"
was = { value = 5.1, least = 4.75, most = 5.25, source = "from-memory" }
why = "measured on three"
"""


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A copy of the shipped parts, two versions on."""
    there = tmp_path / "parts"
    shutil.copytree(DATA, there)
    (there / "changes.toml").write_text(CHANGE, encoding="utf-8")
    (there / "catalog.toml").write_text('version = "2027.2"\n', encoding="utf-8")
    return there


@pytest.fixture
def newer(folder: Path) -> Catalog:
    return load_catalog(folder)


def made_with(version: str | None) -> Plan:
    return plan_with(WHITE, {"catalog_version": version})


def test_a_plan_of_today_has_no_news(newer: Catalog) -> None:
    assert review(made_with(load_catalog().version), load_catalog()).news is None
    assert review(made_with("2027.2"), newer).news is None
    assert review(made_with(None), newer).news is None, "nobody knows what an unversioned plan was made with"
    assert review(made_with("yesterday"), newer).news is None


def test_moved_numbers_are_listed_with_what_they_were(newer: Catalog) -> None:
    """Arithmetic: (5.1 - 3.0) V / 75 ohm was 28 mA; (5.0 - 3.2) V / 75 ohm is 24 mA."""
    news = review(made_with("2026.11"), newer).news
    assert news is not None
    moved = {it.id: (it.before, it.after) for it in news.values}
    assert moved["lamp.main.current_a"][0].replace("\u00a0", " ").startswith("28 mA")
    assert moved["lamp.main.current_a"][1].replace("\u00a0", " ").startswith("24 mA")
    assert moved["rails.five.voltage_v"][0].replace("\u00a0", " ").startswith("5.10 V")
    assert [(it.label, it.before.replace("\u00a0", " "), it.after.replace("\u00a0", " ")) for it in news.figures] == [
        ("White, forward voltage", "3.00 V", "3.20 V"),
        ("Wall adapter, 5 V 1 A, voltage", "5.10 V", "5.00 V"),
    ]
    assert f"{len(news.values)} numbers" in news.sentence


def test_only_what_changed_since_counts(newer: Catalog) -> None:
    assert [it.part for it in changes_since(newer, "2026.12")] == ["led-white"]
    assert catalog_at(newer, "2026.12").sources["adapter-5v-1a"].voltage_v.value == 5.0
    assert catalog_at(newer, "2026.11").sources["adapter-5v-1a"].voltage_v.value == 5.1
    news = review(made_with("2026.12"), newer).news
    assert news is not None
    assert all(it.id != "rails.five.voltage_v" for it in news.values), "but what is drawn from the rail follows its LED"


def test_a_plan_that_does_not_use_what_changed_has_no_news(newer: Catalog) -> None:
    plan = plan_with({"catalog_version": "2026.12"})
    assert review(plan, newer).news is None, "its LED was measured"


def test_the_old_figure_can_be_stayed_with_and_the_news_put_away(newer: Catalog) -> None:
    plan = made_with("2026.12")
    news = review(plan, newer).news
    assert news is not None
    stay = news.figures[0].keep
    assert stay is not None
    kept = edit_plan(plan, stay.patch)
    assert resolve(kept, newer).lamps["lamp"].channels[0].forward.known == 3.0
    assert review(kept, newer).news is None, "no number of it moves any more"
    seen = edit_plan(plan, news.seen.patch)
    assert review(seen, newer).news is None
    assert resolve(seen, newer).lamps["lamp"].channels[0].forward.known == 3.2


def test_a_change_of_a_figure_that_is_not_there_is_refused(folder: Path) -> None:
    (folder / "changes.toml").write_text(CHANGE.replace("forward_voltage_v", "coil_ohm"), encoding="utf-8")
    load_catalog.cache_clear()
    with pytest.raises(CatalogBroken, match=r"leds\.led-white\.coil_ohm"):
        load_catalog(folder)
