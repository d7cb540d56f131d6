"""A plan that was saved opens again, always: whatever is done to it, in whatever order."""

import tempfile
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from knotplan.catalog.load import shipped
from knotplan.cli.commands import cli
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Plan
from knotplan.core.plan.editing import edited
from knotplan.core.text.changes import changes
from knotplan.desktop.session import Session
from knotplan.examples import SCENES, example
from knotplan.exchange.plan_file import save
from tests.conftest import examples
from tests.random.edits_at_random import EDITS, OTHERS, SOUND, Bench, Change, all_edits, an_edit, covered
from tests.random.holding import analysed, drawn_and_handed_over, opens_again, plain

CATALOG = shipped()
COMMANDS = [
    ["check", "{}"],
    ["check", "{}", "--format", "json"],
    ["power", "{}"],
    ["buses", "{}", "--assign"],
    ["timing", "{}"],
    ["suggest", "{}", "--quick"],
]
STARTS = [f"{scene}{tail}" for scene in SCENES for tail in ("", "-draft") if scene != "organ-shutters"]


def test_every_edit_is_tried() -> None:
    assert all_edits() == covered()


class AnyEdit(RuleBasedStateMachine):
    """One session: edits, remedies, suggestions, forms, moves, undo and redo."""

    @initialize(data=st.data())
    def begin(self, data: st.DataObject) -> None:
        start = data.draw(st.sampled_from([*STARTS, *CATALOG.board_ids()]))
        plan = example(start, CATALOG) if start in STARTS else Plan(start)
        self.session = Session(CATALOG, plan)
        self.first = plan
        self.held: list[Plan] = []

    def _do(self, change: Change | None, sound: bool = False) -> None:
        if change is None:
            return
        said, edit, arguments, named = change
        before = self.session.plan
        if sound:
            assert plain(edited(before, CATALOG, edit, *arguments, **named)) == plain(
                edit(before, *arguments, **named)
            ), said
        self.session.edit(said, edit, *arguments, **named)
        if self.session.plan != before:
            told = changes(Circuit(before, CATALOG), self.session.circuit)
            assert told and all(told), "no edit goes unsaid"

    @rule(name=st.sampled_from(sorted(EDITS)), data=st.data())
    def one_edit(self, name: str, data: st.DataObject) -> None:
        self._do(an_edit(self._bench(data), name))

    @rule(which=st.sampled_from(OTHERS), data=st.data())
    def something_larger(self, which: Any, data: st.DataObject) -> None:
        self._do(which(self._bench(data)), which in SOUND)

    @rule()
    def undo(self) -> None:
        self.session.undo()

    @rule()
    def redo(self) -> None:
        self.session.redo()

    @rule()
    def there_and_back(self) -> None:
        """All the way back is the first plan, and all the way on the last."""
        last, steps = self.session.plan, 0
        while self.session.can_undo:
            self.session.undo()
            steps += 1
        assert self.session.plan == self.first
        for _ in range(steps):
            self.session.redo()
        assert self.session.plan == last

    @invariant()
    def it_opens_again_and_is_analysed_and_handed_over(self) -> None:
        if not hasattr(self, "session") or any(p is self.session.plan for p in self.held):
            return  # undo and redo come back to the very plan that was looked at
        opens_again(self.session.plan, CATALOG)
        drawn_and_handed_over(analysed(self.session.plan, CATALOG))
        self.held.append(self.session.plan)

    def teardown(self) -> None:
        """What was made is a file that every command takes; 1 means
        findings, or that not everything can be had."""
        if not hasattr(self, "session"):
            return
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "plan.knot.json"
            save(self.session.plan, path)
            for command in COMMANDS:
                done = CliRunner().invoke(cli, [word.format(path) for word in command])
                failed = done.exception is not None and not isinstance(done.exception, SystemExit)
                assert done.exit_code in (0, 1) and not failed, (command, done.output, done.exception)

    def _bench(self, data: st.DataObject) -> Bench:
        return Bench(self.session.plan, CATALOG, lambda many: data.draw(st.sampled_from(many)))


TestAnyEdit = pytest.mark.slow(AnyEdit.TestCase)
TestAnyEdit.settings = settings(max_examples=examples(12), stateful_step_count=12, deadline=None)
