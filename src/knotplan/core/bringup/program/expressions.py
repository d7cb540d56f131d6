"""What the expressions of a program may be: constants, lists, fields, arithmetic."""

import operator
from collections.abc import Callable, Iterable, Sequence
from itertools import product
from typing import Any

from knotplan.core.bringup.program import code
from knotplan.core.bringup.program.dialect import Dialect
from knotplan.core.bringup.program.state import Scope, State
from knotplan.core.bringup.program.values import Known, Many, Table, Thing, Value, named, numbers, together

SIGNS: dict[str, Callable[[float, float], float]] = {
    "+": operator.add,
    "-": operator.sub,
    "*": operator.mul,
    "/": operator.truediv,
    "//": operator.floordiv,
    "%": operator.mod,
    "<<": operator.lshift,
    ">>": operator.rshift,
    "|": operator.or_,
    "&": operator.and_,
    "^": operator.xor,
    "**": operator.pow,
}
MOST_BITS = 64


class Expressions(State):
    """Values of expressions."""

    def __init__(self, sources: Sequence[code.Source], dialects: Sequence[Dialect]):
        super().__init__(sources, dialects)
        self.ways: dict[type, Callable[[Any, Scope], Known]] = {
            code.Literal: self._literal,
            code.Name: self._name,
            code.Member: self._member,
            code.Call: self._call,
            code.Listing: self._listing,
            code.Pairs: self._pairs,
            code.Item: self._item,
            code.Unary: self._signed,
            code.Binary: self._binary,
            code.Choice: self._choice,
        }

    def _value(self, e: code.Expression, scope: Scope) -> Known:
        """All that an expression may be."""
        how = self.ways.get(type(e))
        return how(e, scope) if how is not None else ()

    def _literal(self, e: code.Literal, scope: Scope) -> Known:
        return (Value(e.value, e.at),)

    def _name(self, e: code.Name, scope: Scope) -> Known:
        found = scope.find(e.name)
        return (Value(self.imports.get(e.name, e.name), e.at, (), True),) if found is None else found

    def _listing(self, e: code.Listing, scope: Scope) -> Known:
        """What stands beside a text has that for a name: `("horn", 43)`."""
        items = [self._value(x, scope) for x in e.items]
        for text in texts(items):
            items = [item if texts([item]) else named(item, text) for item in items]
        return (Many(tuple(items), e.at),)

    def _pairs(self, e: code.Pairs, scope: Scope) -> Known:
        """What stands under a text has that for a name; so has what stands beside one: `{"horn", 43}`."""
        rows = [(self._value(k, scope), self._value(v, scope)) for k, v in e.items]
        beside = texts([value for _, value in rows])
        made = []
        for key, value in rows:
            for name in [*texts([key]), *beside][:2]:
                value = named(value, name)  # noqa: PLW2901
            made.append((key, value))
        return (Table(tuple(made), e.at),)

    def _signed(self, e: code.Unary, scope: Scope) -> Known:
        return tuple(self._unary(e, one) for one in numbers(self._value(e.of, scope)) if self._is_number(one))

    def _choice(self, e: code.Choice, scope: Scope) -> Known:
        """One of the two where the condition is certain, else both."""
        when = self._value(e.when, scope)
        sure = bool(when) and all(isinstance(v, Value) and not v.symbol for v in when)
        truths = {bool(v.value) for v in numbers(when)} if sure else {True, False}
        if len(truths) == 1:
            return self._value(e.one if truths.pop() else e.other, scope)
        return together(self._value(e.one, scope), self._value(e.other, scope))

    def _is_number(self, one: Value) -> bool:
        return isinstance(one.value, int | float) and not one.symbol

    def _member(self, e: code.Member, scope: Scope) -> Known:
        found: list[Known] = []
        for owner in self._value(e.of, scope):
            if isinstance(owner, Thing):
                if e.name in owner.fields:
                    found.append(owner.fields[e.name])
                elif e.name == "value" and owner.kind.startswith("class "):
                    found.append((owner,))
            elif isinstance(owner, Table):
                found.append(owner.field(e.name))
            elif isinstance(owner, Value) and owner.symbol and (mine := self._of_module(owner, e.name)):
                found.append(mine)
            elif isinstance(owner, Value) and owner.symbol:
                found.append((Value(f"{owner.value}.{e.name}", e.at, (), True),))
            elif isinstance(owner, Value) and e.name == "value":  # a member of an enumeration
                found.append((owner,))
        return together(*found)

    def _of_module(self, module: Value, name: str) -> Known:
        """What a file or namespace of the program itself defines; nothing where it is imported from
        elsewhere."""
        named_so = [s for s in self.files if s.rpartition("/")[2].partition(".")[0] == str(module.value)]
        for source in named_so:
            if name in self.files[source].known:
                return self.files[source].known[name]
        own = bool(named_so) or module.value not in self.imports.values()
        return self.top.known.get(name, ()) if own else ()

    def _item(self, e: code.Item, scope: Scope) -> Known:
        index = self._value(e.index, scope)
        which = [v.value for v in numbers(index) if isinstance(v.value, int) and not v.symbol]
        found: list[Known] = []
        for one in self._value(e.of, scope):
            if isinstance(one, Many):
                chosen = [one.items[k] for k in which if -len(one.items) <= k < len(one.items)]
                items = chosen if which else list(one.items)
                found += [named(item, one.names[-1]) if one.names else item for item in items]
            elif isinstance(one, Table):
                found.append(one.under(index))
        return together(*found)

    def _unary(self, e: code.Unary, one: Value) -> Value:
        value = one.value
        assert isinstance(value, int | float)
        match e.sign:
            case "-":
                value = -value
            case "~" if isinstance(value, int):
                value = ~value
            case "!" | "not":
                value = not value
        return Value(value, one.at, one.names)

    def _binary(self, e: code.Binary, scope: Scope) -> Known:
        left, right = self._value(e.left, scope), self._value(e.right, scope)
        sums = [
            (*a.items, *b.items)
            for a, b in product(left, right)
            if e.sign == "+" and isinstance(a, Many) and isinstance(b, Many)
        ]
        if sums:
            return tuple(Many(items, e.at) for items in sums)
        united = [
            Table((*a.items, *b.items), e.at, a.names)
            for a, b in product(left, right)
            if e.sign == "|" and isinstance(a, Table) and isinstance(b, Table)
        ]
        if united:
            return tuple(united)
        found: list[Value] = []
        for a, b in product(numbers(left)[:8], numbers(right)[:8]):
            value = self._reckoned(e.sign, a, b)
            if value is not None:
                names = tuple(dict.fromkeys((*a.names, *b.names)))[:8]
                found.append(Value(value, e.at, names, isinstance(value, str) and (a.symbol or b.symbol)))
        return tuple(found)

    def _reckoned(self, sign: str, a: Value, b: Value) -> int | float | str | None:
        one, two = a.value, b.value
        if sign == "|" and (a.symbol or b.symbol):
            return f"{one}|{two}"
        if a.symbol or b.symbol or sign not in SIGNS:
            return None
        if isinstance(one, str) and isinstance(two, str) and sign == "+" and len(one) + len(two) < 1000:
            return one + two
        if isinstance(one, str) or isinstance(two, str):
            return None
        if sign in ("**", "<<") and (abs(two) > MOST_BITS or abs(one) > 2**MOST_BITS):
            return None
        try:
            if (
                sign == "/"
                and self.languages <= {"c", "cpp"}
                and isinstance(one, int)
                and isinstance(two, int)
            ):
                return int(one / two)
            found = SIGNS[sign](one, two)
        except (ArithmeticError, TypeError, ValueError):
            return None
        return found if isinstance(found, int | float) and abs(found) < 1e30 else None


def texts(several: Iterable[Known]) -> list[str]:
    """The first two texts among some values: what stands with them may be called so."""
    found = [
        v.value for known in several for v in numbers(known) if isinstance(v.value, str) and not v.symbol
    ]
    return found[:2]
