"""Any sequence of edits, undos, redos, branches and restores ends in the plan a model of it predicts."""

from typing import Any

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, initialize, invariant, precondition, rule
from sqlalchemy import create_engine, event
from sqlalchemy.pool import StaticPool

from oddlamp.core.errors import StaleRevision
from oddlamp.core.plan.changes import differences
from oddlamp.core.plan.document import Document, dump_plan, load_plan, merge_patch
from oddlamp.store.models import Base
from oddlamp.store.projects import ProjectStore
from tests.builders import CLEAR
from tests.full import IS_PROOF

OHMS = st.sampled_from([68.0, 75.0, 82.0, 91.0])
TITLES = st.sampled_from(["One lamp", "Moon", "Star"])


def edit_of(ohm: float | None, title: str | None) -> Document:
    patch: Document = {}
    if ohm is not None:
        patch["lamps"] = {"lamp": {"channels": {"main": {"resistor_ohm": ohm}}}}
    if title is not None:
        patch["title"] = title
    return patch


EDITS = st.builds(edit_of, st.none() | OHMS, st.none() | TITLES)


class Tree(RuleBasedStateMachine):
    """The model: parents and documents in dictionaries, and for each state the child that was last left by undo."""

    states = Bundle("states")

    @initialize(target=states)
    def start(self) -> int:
        engine = create_engine("sqlite://", poolclass=StaticPool, connect_args={"check_same_thread": False})
        event.listen(engine, "connect", lambda connection, _: setattr(connection, "isolation_level", None))
        event.listen(engine, "begin", lambda connection: connection.exec_driver_sql("BEGIN"))
        Base.metadata.create_all(engine)
        self.engine, self.store = engine, ProjectStore(engine)
        kept = self.store.create(load_plan(CLEAR), summary="start")
        self.project, self.head = kept.id, kept.revision
        self.parents: dict[int, int | None] = {kept.revision: None}
        self.plans: dict[int, Any] = {kept.revision: dump_plan(kept.plan)}
        self.left: dict[int, int] = {}
        return kept.revision

    def teardown(self) -> None:
        if hasattr(self, "engine"):
            self.engine.dispose()

    def _grow(self, revision: int, plan: Any) -> None:
        if revision not in self.plans:
            self.parents[revision], self.plans[revision] = self.head, plan
        self.head = revision

    @rule(target=states, patch=EDITS)
    def edit(self, patch: Document) -> int:
        wanted = merge_patch(self.plans[self.head], patch)
        kept = self.store.edit(self.project, patch, base_revision=self.head, summary="edit", check=lambda plan: None)
        if wanted == self.plans[self.head]:
            assert kept.revision == self.head
        self._grow(kept.revision, wanted)
        return kept.revision

    @rule(target=states, base=states, patch=EDITS)
    def edit_on_an_older_state(self, base: int, patch: Document) -> int:
        mine = merge_patch(self.plans[base], patch)
        theirs, ours = differences(self.plans[base], self.plans[self.head]), differences(self.plans[base], mine)
        meets = any(path in theirs and theirs[path][1] != new for path, (_, new) in ours.items())
        if meets:
            with pytest.raises(StaleRevision):
                self.store.edit(self.project, patch, base_revision=base, summary="late", check=lambda plan: None)
            return self.head
        kept = self.store.edit(self.project, patch, base_revision=base, summary="late", check=lambda plan: None)
        self._grow(kept.revision, merge_patch(self.plans[self.head], patch))
        return kept.revision

    @precondition(lambda self: self.parents[self.head] is not None)
    @rule()
    def undo(self) -> None:
        parent = self.parents[self.head]
        assert parent is not None
        self.left[parent] = self.head
        assert self.store.undo(self.project, base_revision=self.head).revision == parent
        self.head = parent

    @precondition(lambda self: self.head in self.left)
    @rule()
    def redo(self) -> None:
        child = self.left[self.head]
        assert self.store.redo(self.project, base_revision=self.head).revision == child
        self.head = child

    @rule(wanted=states)
    def restore(self, wanted: int) -> None:
        kept = self.store.restore(self.project, wanted, base_revision=self.head)
        self._grow(kept.revision, self.plans[wanted])

    @invariant()
    def stands_where_the_model_stands(self) -> None:
        if not hasattr(self, "store"):
            return
        kept = self.store.read(self.project)
        assert kept.revision == self.head
        assert dump_plan(kept.plan) == self.plans[self.head]
        assert (kept.redo is not None) == (self.head in self.left)
        assert {row.revision: row.parent for row in self.store.history(self.project)} == self.parents


TestTree = Tree.TestCase
EXAMPLES = 200 if IS_PROOF else 8  # make proof: what is too long for a test run
TestTree.settings = settings(max_examples=EXAMPLES, stateful_step_count=30, deadline=None, derandomize=True)
