"""Questions: functions whose answers are kept, with what they looked at.

- `question`: one answer for each set of arguments.
- `fact`: the same of a class, without arguments, read as an attribute.
- `table`: an answer that is a dictionary, of which others look at single entries.
- `each`: one answer for each key, and a table of all that are something.
"""

from collections.abc import Callable, Iterable, Mapping
from operator import ne
from types import MethodType
from typing import Any, Concatenate, Generic, ParamSpec, Protocol, TypeVar, overload

from knotplan.core.memory.index import Index, Place
from knotplan.core.memory.memory import Answer, Memory


class Remembers(Protocol):
    """What questions are asked of."""

    @property
    def memory(self) -> Memory:
        """Where answers about it are kept."""


S = TypeVar("S", bound=Remembers)
P = ParamSpec("P")
R = TypeVar("R")
K = TypeVar("K")
V = TypeVar("V")


class Asked:
    """What all questions have in common: how an answer follows an edit."""

    subject: type = object
    """of what it is asked"""
    is_table = False
    """its answer is looked at entry by entry"""

    def __init__(self, function: Callable[..., Any]):
        self.function = function
        self.__name__, self.__doc__ = function.__name__, function.__doc__

    def is_touched(self, memory: Memory, known: Answer, changed: set[Place]) -> bool:
        """Something that the answer looked at has changed."""
        return not changed.isdisjoint(known.looked_at)

    def take(self, memory: Memory, args: tuple[Any, ...], known: Answer, answer: Answer) -> None:
        """A new answer comes in place of the one before."""
        memory.take_value((self, args), known, answer)

    def is_gone(self, memory: Memory, args: tuple[Any, ...]) -> None:
        """The answer could not be worked out again."""
        memory.changed((self, args))

    def stands_at(self, index: Index, height: int) -> None:
        """An answer has come to stand so high."""

    def is_kept(self, memory: Memory) -> None:
        """An answer holds from now on."""


class Question(Asked, Generic[S, P, R]):
    """A function whose answers are kept. Its further arguments are the key."""

    def __init__(self, function: Callable[Concatenate[S, P], R]):
        super().__init__(function)

    def __call__(self, subject: S, /, *args: P.args, **named: P.kwargs) -> R:
        """The answer, as it is known or worked out now."""
        memory = subject.memory
        known = memory.answers.get(self)
        answer = known.get(args) if known is not None else None
        if answer is None:
            answer = memory.ask(self, subject, args)
        if memory.notes is not None:
            memory.notes.add((self, args))
        value: R = answer.value
        return value

    @overload
    def __get__(self, subject: None, owner: type) -> "Question[S, P, R]": ...
    @overload
    def __get__(self, subject: Any, owner: type) -> Callable[P, R]: ...
    def __get__(self, subject: Any, owner: type) -> Any:
        return self if subject is None else MethodType(self, subject)


def question(function: Callable[Concatenate[S, P], R]) -> Question[S, P, R]:
    """Keeps an answer for each set of arguments, which have to be hashable."""
    return Question(function)


class Fact(Asked, Generic[S, R]):
    """A question without arguments, read as an attribute."""

    @overload
    def __get__(self, subject: None, owner: type) -> "Fact[S, R]": ...
    @overload
    def __get__(self, subject: Any, owner: type) -> R: ...
    def __get__(self, subject: Any, owner: type) -> Any:
        if subject is None:
            return self
        memory = subject.memory
        answer = memory.answers.get(self, {}).get(()) or memory.ask(self, subject, ())
        if memory.notes is not None:
            memory.notes.add((self, ()))
        elif not memory.is_open:
            subject.__dict__[self.__name__] = answer.value
        return answer.value

    def known(self, subject: S) -> R | None:
        """As it was before it is worked out again: to take over what is still right, and nothing else."""
        answer = subject.memory.answers.get(self, {}).get(())
        value: R | None = None if answer is None else answer.value
        return value


def fact(function: Callable[[S], R]) -> Fact[S, R]:
    """An attribute that is worked out once."""
    return Fact(function)


class TableQuestion(Asked, Generic[S, K, V]):
    """A question whose answer is looked at entry by entry."""

    is_table = True

    def __init__(self, function: Callable[[S], dict[K, V]]):
        super().__init__(function)

    def __call__(self, subject: S) -> Mapping[K, V]:
        """The table, as it is known or worked out now."""
        memory = subject.memory
        table: Mapping[K, V] | None = memory.tables.get(self)
        if table is not None:
            return table
        answer = memory.answers.get(self, {}).get(()) or memory.ask(self, subject, ())
        return memory.table(self, answer.value)

    @overload
    def __get__(self, subject: None, owner: type) -> "TableQuestion[S, K, V]": ...
    @overload
    def __get__(self, subject: Any, owner: type) -> Mapping[K, V]: ...
    def __get__(self, subject: Any, owner: type) -> Any:
        if subject is None:
            return self
        table = subject.__dict__[self.__name__] = self(subject)
        return table

    def known(self, subject: S) -> Mapping[K, V]:
        """The table as it was before it is worked out again: to take over what is still right, and nothing
        else. Empty at first."""
        answer = subject.memory.answers.get(self, {}).get(())
        return {} if answer is None else answer.value

    def take(self, memory: Memory, args: tuple[Any, ...], known: Answer, answer: Answer) -> None:
        """Entry by entry: who looked at one that stayed the same is not asked again."""
        memory.take_table(self, known, answer)

    def is_gone(self, memory: Memory, args: tuple[Any, ...]) -> None:
        """With all its entries."""
        memory.subjects[self.subject].__dict__.pop(self.__name__, None)
        memory.forget_table(self)


def table(function: Callable[[S], dict[K, V]]) -> TableQuestion[S, K, V]:
    """A dictionary of which others look at single entries; of a class, read as an attribute."""
    return TableQuestion(function)


class Each(Question[S, [K], V]):
    """One answer for each key. `all` is the table of those that are something: an empty one has no entry."""

    def __init__(self, function: Callable[[S, K], V], keys: Callable[[S], Iterable[K]]):
        super().__init__(function)
        self.all = _Whole(self, keys)

    def take(self, memory: Memory, args: tuple[Any, ...], known: Answer, answer: Answer) -> None:
        """The table of all is looked at again in this place."""
        super().take(memory, args, known, answer)
        if answer.value is not known.value:
            memory.touch(self.all, args[0])

    def is_gone(self, memory: Memory, args: tuple[Any, ...]) -> None:
        """From the table of all as well."""
        super().is_gone(memory, args)
        memory.touch(self.all, args[0])

    def stands_at(self, index: Index, height: int) -> None:
        """The table of all is higher."""
        index.lift((self.all, ()), height + 1)


class _Whole(TableQuestion[S, K, V]):
    """The answers for all keys that are something, in the order of the keys."""

    def __init__(self, one: Each[S, K, V], keys: Callable[[S], Iterable[K]]):
        super().__init__(self._gathered)
        self.one, self.keys = one, keys

    def is_touched(self, memory: Memory, known: Answer, changed: set[Place]) -> bool:
        """Another key, or another answer."""
        return bool(memory.touched(self)) or super().is_touched(memory, known, changed)

    def is_kept(self, memory: Memory) -> None:
        """And so do the keys for which it was asked."""
        memory.orders[self] = memory.asked_for[self]

    def _gathered(self, subject: S) -> dict[K, V]:
        """By difference where it was known: only what is new or has changed is looked at."""
        memory = subject.memory
        keys, known = dict.fromkeys(self.keys(subject)), memory.answers.get(self, {}).get(())
        before = memory.orders.get(self)
        memory.asked_for[self] = keys
        if known is None or before is None:
            return memory.gathered(self.one, subject, keys, {})
        values, touched = known.value, [key for key in memory.touched(self) if key in keys]
        if len(before) == len(keys) and not any(map(ne, before, keys)):
            found = memory.gathered(self.one, subject, touched, values)
            if found.keys() == values.keys():
                return found
            return {key: found[key] for key in keys if key in found}
        fresh = [key for key in keys if key not in before]
        kept = {key: value for key, value in values.items() if key in keys}
        found = memory.gathered(self.one, subject, (*fresh, *touched), kept)
        return {key: found[key] for key in keys if key in found}


def each(keys: Callable[[S], Iterable[K]]) -> Callable[[Callable[[S, K], V]], Each[S, K, V]]:
    """One answer for each of some keys."""

    def made(function: Callable[[S, K], V]) -> Each[S, K, V]:
        return Each(function, keys)

    return made


def taken_over(made: dict[K, V], known: Mapping[K, V]) -> dict[K, V]:
    """A table with the entries that it had before where they are equal, for values that are quick to
    compare."""
    for key, value in made.items():
        before = known.get(key)
        if before == value:
            made[key] = before
    return made
