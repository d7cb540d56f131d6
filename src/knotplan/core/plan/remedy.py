"""What mends a finding: edits under one title."""

from typing import Any

from msgspec import Struct

from knotplan.core.plan.document import Plan


class Remedy(Struct, frozen=True):
    """An edit that settles a finding: named, applied only when asked for."""

    title: str
    steps: tuple["Step", ...]

    def apply(self, plan: Plan) -> Plan:
        """The plan after all its steps."""
        for step in self.steps:
            plan = step(plan)
        return plan


class Step(Struct, frozen=True):
    """One edit with its arguments, kept as a value so that equal remedies compare equal."""

    edit: Any
    arguments: tuple[Any, ...]

    def __call__(self, plan: Plan) -> Plan:
        """The plan after this step."""
        edit: Plan = self.edit(plan, *self.arguments)
        return edit


def remedy(title: str, edit: Any, *arguments: Any) -> Remedy:
    """A remedy of one step."""
    return Remedy(title, (Step(edit, arguments),))
