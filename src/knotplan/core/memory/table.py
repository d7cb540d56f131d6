"""Tables that note which of their entries somebody looks at."""

from collections.abc import ItemsView, Iterator, KeysView, Mapping, ValuesView
from typing import TYPE_CHECKING, Any, TypeVar, overload

if TYPE_CHECKING:
    from knotplan.core.memory.memory import Memory

K = TypeVar("K")
V = TypeVar("V")
D = TypeVar("D")
KEYS, ALL = object(), object()
"""in place of a key: which entries there are and in which order; everything"""


class Table(Mapping[K, V]):
    """What is looked at here while an answer is worked out belongs to what that answer depends on: of an
    entry that entry alone, whether it is there or not."""

    __slots__ = ("_memory", "_question", "values_now")

    def __init__(self, memory: "Memory", question: Any, values: dict[K, V]):
        self._memory, self._question, self.values_now = memory, question, values

    def __getitem__(self, key: K) -> V:
        notes = self._memory.notes
        if notes is not None:
            notes.add((self._question, key))
        return self.values_now[key]

    @overload
    def get(self, key: K, /) -> V | None: ...
    @overload
    def get(self, key: K, /, default: V | D) -> V | D: ...
    def get(self, key: K, /, default: Any = None) -> Any:
        """The entry of a key, or `default`."""
        notes = self._memory.notes
        if notes is not None:
            notes.add((self._question, key))
        return self.values_now.get(key, default)

    def __contains__(self, key: object) -> bool:
        notes = self._memory.notes
        if notes is not None:
            notes.add((self._question, key))
        return key in self.values_now

    def _note(self, what: object) -> None:
        if self._memory.notes is not None:
            self._memory.notes.add((self._question, what))

    def __iter__(self) -> Iterator[K]:
        self._note(KEYS)
        return iter(self.values_now)

    def __len__(self) -> int:
        self._note(KEYS)
        return len(self.values_now)

    def keys(self) -> KeysView[K]:
        """Which entries there are."""
        self._note(KEYS)
        return self.values_now.keys()

    def values(self) -> ValuesView[V]:
        """All entries."""
        self._note(ALL)
        return self.values_now.values()

    def items(self) -> ItemsView[K, V]:
        """All entries with their keys."""
        self._note(ALL)
        return self.values_now.items()

    def __eq__(self, other: object) -> bool:
        self._note(ALL)
        return self.values_now == (other.values_now if isinstance(other, Table) else other)

    __hash__ = None  # type: ignore[assignment]
