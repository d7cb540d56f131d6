"""What is known at one place of a program that is followed."""

from abc import ABC, abstractmethod
from collections.abc import Iterable, Sequence
from typing import TypeVar

from knotplan.core.bringup.difference import Spot
from knotplan.core.bringup.program import code
from knotplan.core.bringup.program.dialect import CallMeans, Dialect
from knotplan.core.bringup.program.told import Constant, Use
from knotplan.core.bringup.program.values import Known, Thing

MOST_STEPS = 200_000
"""after so much of a program it has been seen well enough"""
MOST_DEPTH = 12
MOST_ROWS = 256
"""of a dictionary that is put together"""
MOST_TURNS = 64
"""items of a list that a loop goes through"""


class Scope:
    """Variables of one function, of a class, or of the whole program."""

    def __init__(self, outer: "Scope | None" = None, thing: Thing | None = None):
        self.outer, self.thing = outer, thing
        self.known: dict[str, Known] = {}

    def find(self, name: str) -> Known | None:
        """What is known of a name here or further out."""
        scope: Scope | None = self
        while scope is not None:
            if name in scope.known:
                return scope.known[name]
            if scope.thing is not None and name in scope.thing.fields:
                return scope.thing.fields[name]
            scope = scope.outer
        return None

    def holder(self, name: str) -> dict[str, Known]:
        """Where a name stands that `find` finds."""
        scope: Scope | None = self
        while scope is not None:
            if name in scope.known:
                return scope.known
            if scope.thing is not None and name in scope.thing.fields:
                return scope.thing.fields
            scope = scope.outer
        return self.known


class EnoughError(Exception):
    """The program has been followed far enough."""


Defined = TypeVar("Defined", code.Function, code.Class)


def nearest(found: list[Defined], at: Spot) -> Defined | None:
    """Of several that are called alike the one of the same file."""
    return next((x for x in found if x.at.source == at.source), found[0] if found else None)


class State(ABC):
    """A program that is being followed: its parts, and what it has done so far."""

    def __init__(self, sources: Sequence[code.Source], dialects: Sequence[Dialect]):
        self.sources, self.dialects = sources, dialects
        self.top = Scope()
        """what any file defines, for the others"""
        self.files: dict[str, Scope] = {}
        """what each file defines, which comes first in the file itself"""
        self.functions: dict[str, list[code.Function]] = {}
        self.classes: dict[str, list[code.Class]] = {}
        self.imports: dict[str, str] = {}
        self.constants: dict[tuple[str, Spot], Constant] = {}
        self.uses: list[Use] = []
        self.calls: list[tuple[str, tuple[Known, ...], Spot]] = []
        self.steps = 0
        self.run = 0
        """see `Use.run`"""
        self.stack: list[str] = []
        self.asked: set[tuple[str, str]] = set()
        """functions that are called somewhere"""
        self.languages = {s.language for s in sources}
        self.hint = ""
        """the variable that is being set: literals in the call that makes it have its name"""
        self.means: dict[str, tuple[CallMeans, Dialect]] = {}
        for dialect in dialects:
            if set(dialect.languages) & self.languages:
                for call in dialect.calls:
                    self.means.setdefault(call.name, (call, dialect))

    def file_of(self, at: Spot) -> Scope:
        """The scope of the file in which something stands."""
        return self.files.setdefault(at.source, Scope(self.top))

    @abstractmethod
    def _block(self, body: Iterable[code.Statement], scope: Scope) -> Known: ...

    @abstractmethod
    def _value(self, e: code.Expression, scope: Scope) -> Known: ...

    @abstractmethod
    def _call(self, e: code.Call, scope: Scope) -> Known: ...
