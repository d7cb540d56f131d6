"""Tables that come from outside: what everything else is worked out from."""

from collections.abc import Mapping
from typing import Generic, TypeVar

from knotplan.core.memory.memory import Memory

K = TypeVar("K")
V = TypeVar("V")


class Given(Generic[K, V]):
    """A name under which a table is given."""

    is_table = True

    def __init__(self, name: str):
        self.name = name

    def give(self, memory: Memory, values: dict[K, V]) -> Mapping[K, V]:
        """The table as it is now; what differs from the one before counts as changed."""
        table: Mapping[K, V] = memory.give(self, values)
        return table

    def before(self, memory: Memory) -> Mapping[K, V] | None:
        """While an edit is followed: the table as it was. For tables that are built by difference."""
        return memory.before(self)

    def known(self, memory: Memory) -> Mapping[K, V]:
        """The table as it was before it was given again."""
        answer = memory.answers.get(self, {}).get(())
        return {} if answer is None else answer.value
