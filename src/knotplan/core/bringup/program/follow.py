"""Goes through a program as it would be run, with constants only, and notes what it does to pins and buses.

Nothing is executed: calls of the program's own functions are followed with what is known of their arguments,
loops over known lists go through their items, of branches all are gone through. What is not known stays
unknown, and nothing is said of it.
"""

from collections.abc import Iterable, Sequence

from knotplan.core.bringup.difference import Spot
from knotplan.core.bringup.program import code
from knotplan.core.bringup.program.calls import Calls
from knotplan.core.bringup.program.dialect import Dialect
from knotplan.core.bringup.program.state import MOST_ROWS, MOST_STEPS, EnoughError, Scope
from knotplan.core.bringup.program.told import Constant, Told, Use
from knotplan.core.bringup.program.values import Known, Many, Table, Thing, Value, named, together

FAMILIES = {"python": "python"}
"""languages that share no names with others: those of C's preprocessor do"""


def follow(sources: Sequence[code.Source], dialects: Sequence[Dialect]) -> Told:
    """Follows a program of one or several files; those of languages that share no names by themselves."""
    families: dict[str, list[code.Source]] = {}
    for source in sources:
        families.setdefault(FAMILIES.get(source.language, ""), []).append(source)
    told: list[Told] = []
    for own in families.values():
        told.append(_followed(own, dialects, max((u.run for t in told for u in t.uses), default=0)))
    return Told(
        tuple(x for t in told for x in t.uses),
        tuple(x for t in told for x in t.constants),
        tuple(x for t in told for x in t.calls),
        tuple(x for t in told for x in t.imports),
        all(t.whole for t in told),
    )


def _followed(sources: Sequence[code.Source], dialects: Sequence[Dialect], runs: int) -> Told:
    """`runs`: how many beginnings have been followed before."""
    follower = _Follower(sources, dialects)
    follower.run = runs
    whole = True
    try:
        follower.go()
    except EnoughError:
        whole = False
    once: dict[tuple[object, ...], Use] = {}
    for use in follower.uses:
        once.setdefault(_key(use), use)
    return Told(
        tuple(once.values()),
        tuple(follower.constants.values()),
        tuple(follower.calls),
        tuple(follower.imports.values()),
        whole,
    )


def _key(use: Use) -> tuple[object, ...]:
    """Uses that are alike in all of this are one: loops and branches come by again and again."""
    roles = repr(sorted((role, _plain(known)) for role, known in use.roles.items()))
    return use.call.name, use.at, use.function, roles


def _plain(known: Known) -> list[object]:
    return [
        (one.value, one.names) if isinstance(one, Value) else type(one).__name__ + str(one.at)
        for one in known
    ]


class _Follower(Calls):
    """The statements of a program, in their order."""

    def go(self) -> None:
        for source in self.sources:
            self.file_of(Spot(source.name))
            self._declare(source.body)
        for _ in range(2):  # constants of one file may be made of those of another
            for source in self.sources:
                self._constants(source.body)
        for source in self.sources:
            self.run += 1
            self._block(source.body, self.file_of(Spot(source.name)))
        for function in [f for name, several in self.functions.items() if "." not in name for f in several]:
            if (function.name, function.at.source) not in self.asked:
                self.run += 1
                self._into(function, [()] * len(function.params), {})
        for made in [c for several in self.classes.values() for c in several]:
            if (made.name, made.at.source) not in self.asked:
                self.run += 1
                self._make(made, [], {}, made.at)

    def _declare(self, body: Iterable[code.Statement], owner: str = "") -> None:
        for s in body:
            if isinstance(s, code.Function):
                self.functions.setdefault(f"{owner}{s.name}".replace("::", "."), []).append(s)
            elif isinstance(s, code.Class):
                self.classes.setdefault(s.name, []).append(s)
                self._declare(s.body, f"{s.name}.")

    def _constants(self, body: Iterable[code.Statement]) -> None:
        for s in body:
            match s:
                case code.Set() if not isinstance(s.value, code.Call):
                    self._set(s, self.file_of(s.at))
                case code.Class():
                    self._members(s)
                case code.Import():
                    self.imports[s.name] = s.meant

    def _block(self, body: Iterable[code.Statement], scope: Scope) -> Known:
        """Goes through statements; what they return."""
        given: Known = ()
        for s in body:
            self.steps += 1
            if self.steps > MOST_STEPS:
                raise EnoughError
            match s:
                case code.Set():
                    self._set(s, scope)
                case code.Run():
                    self._value(s.value, scope)
                case code.Loop():
                    given = together(given, self._loop(s, scope))
                case code.Branch():
                    given = together(given, self._branch(s, scope))
                case code.Import():
                    self.imports[s.name] = s.meant
                case code.Return():
                    given = together(given, self._value(s.value, scope))
                case code.Class():
                    self._members(s)
        return given

    def _members(self, made: code.Class) -> None:
        """Constants of a class or enumeration, by `Class.NAME`."""
        inner = Scope(self.file_of(made.at))
        thing = Thing(f"class {made.name}", made.at)
        for s in made.body:
            if isinstance(s, code.Set) and isinstance(s.targets[0], code.Name):
                name = s.targets[0].name
                inner.known[name] = named(self._value(s.value, inner), name)
                self._note(name, inner.known[name], s.at)
        thing.fields = inner.known
        self._define(made.name, (thing,), self.file_of(made.at))

    def _note(self, name: str, known: Known, at: Spot) -> None:
        if known:
            self.constants[name, at] = Constant(name, known, at)

    def _set(self, s: code.Set, scope: Scope) -> None:
        first = s.targets[0] if s.targets else None
        self.hint = first.name if isinstance(first, code.Name | code.Member) else ""
        value = self._value(s.value, scope)
        self.hint = ""
        if len(s.targets) > 1:
            lists = [one for one in value if isinstance(one, Many)]
            for k, target in enumerate(s.targets):
                parts = [one.items[k] for one in lists if k < len(one.items)]
                self._assign(target, together(*parts), scope, s)
        elif s.targets:
            self._assign(s.targets[0], value, scope, s)

    def _assign(self, target: code.Expression, value: Known, scope: Scope, s: code.Set) -> None:
        if isinstance(target, code.Name):
            value = named(value, target.name)
            is_file = scope.outer is self.top
            if is_file or s.constant:
                self._note(target.name, value, s.at)
            if scope.thing is not None and target.name in scope.thing.fields:
                scope.thing.fields[target.name] = value
            elif is_file:
                self._define(target.name, value, scope)
            elif not s.constant and target.name not in scope.known and self._is_global(target.name, scope):
                file = self.file_of(s.at)
                self._define(target.name, together(value, file.find(target.name) or ()), file)
            else:
                scope.known[target.name] = value
        elif isinstance(target, code.Item):
            self._put(target, value, scope)
        elif isinstance(target, code.Member):
            self._attribute(target.of, target.name, value, s.at, scope)

    def _is_global(self, name: str, scope: Scope) -> bool:
        """A function sets a variable of its file, or of another one."""
        return scope.outer is not None and scope.outer.outer is self.top and name in self.top.known

    def _define(self, name: str, value: Known, file: Scope) -> None:
        """A name of a file, which others see as well."""
        file.known[name] = value
        self.top.known[name] = together(*(f.known[name] for f in self.files.values() if name in f.known))

    def _put(self, target: code.Item, value: Known, scope: Scope) -> None:
        """`config[pin] = settings`: a row of the dictionary that the expression stands for."""
        table = self._table(target.of, scope)
        if table is not None and len(table.items) < MOST_ROWS:
            self._store(target.of, table.with_row(self._value(target.index, scope), value), scope)

    def _table(self, e: code.Expression, scope: Scope) -> Table | None:
        return next((one for one in self._value(e, scope) if isinstance(one, Table)), None)

    def _store(self, e: code.Expression, table: Table, scope: Scope) -> None:
        """A changed dictionary, back to where it came from: a variable, a field, a row of another one."""
        match e:
            case code.Name():
                owner = scope.holder(e.name)
                others = (one for one in owner[e.name] if not isinstance(one, Table))
                owner[e.name] = (table, *others)
            case code.Member():
                for thing in self._value(e.of, scope):
                    if isinstance(thing, Thing):
                        thing.fields[e.name] = (table,)
            case code.Item():
                self._store_row(e.of, self._value(e.index, scope), table, scope)
            case code.Call(of=code.Member(name="setdefault", of=of), args=(key, *_)):
                self._store_row(of, self._value(key, scope), table, scope)

    def _store_row(self, e: code.Expression, key: Known, value: Table, scope: Scope) -> None:
        outer = self._table(e, scope)
        if outer is not None:
            self._store(e, outer.with_row(key, (value,)), scope)

    def _attribute(self, of: code.Expression, name: str, value: Known, at: Spot, scope: Scope) -> None:
        """`self.pin = pin`; `spi.mode = 1` may be one of a dialect's."""
        owners = self._value(of, scope)
        for owner in owners:
            if isinstance(owner, Thing):
                owner.fields[name] = named(value, name)
                means = self.means.get(f"{owner.kind}.{name}=")
                if means is not None:
                    self._use(means, (value,), {}, at, owner)

    def _loop(self, s: code.Loop, scope: Scope) -> Known:
        given: Known = ()
        if s.over is None:
            for _ in range(2):  # the second time shows what follows upon the end
                given = together(given, self._block(s.body, scope))
            return given
        for items in self._turns(self._value(s.over, scope), len(s.names)):
            for name, known in zip(s.names, items, strict=False):
                scope.known[name] = named(known, name)
            given = together(given, self._block(s.body, scope))
        return given

    def _branch(self, s: code.Branch, scope: Scope) -> Known:
        """All bodies, each from what was before; afterwards a variable may be any of what they made it."""
        before = dict(scope.known)
        given: Known = ()
        ends = []
        for body in s.bodies:
            scope.known = dict(before)
            given = together(given, self._block(body, scope))
            ends.append(scope.known)
        names = {name for end in ends for name in end}
        scope.known = {
            name: together(*(end[name] for end in [*ends, before] if name in end)) for name in sorted(names)
        } or before
        return given
