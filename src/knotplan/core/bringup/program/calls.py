"""Calls: of the program's own functions and classes, of what every language has, and of everything else."""

from collections.abc import Iterator, Sequence

from knotplan.core.bringup.difference import Spot
from knotplan.core.bringup.program import code
from knotplan.core.bringup.program.expressions import Expressions, texts
from knotplan.core.bringup.program.meanings import Meanings
from knotplan.core.bringup.program.state import MOST_DEPTH, MOST_TURNS, Scope, nearest
from knotplan.core.bringup.program.values import Known, Many, Table, Thing, Value, named, numbers, together

EACH, RANGE = "<each>", "<range>"


class Calls(Meanings, Expressions):
    """What calls give, and what they do on their way."""

    def _call(self, e: code.Call, scope: Scope) -> Known:
        if isinstance(e.of, code.Name) and e.of.name in (EACH, RANGE):
            return self._each(e, scope) if e.of.name == EACH else self._range(e, scope)
        hint, self.hint = self.hint, ""
        args = [self._argued(x, scope, hint) for x in e.args]
        keyed = {name: self._argued(x, scope, hint) for name, x in e.named}
        if isinstance(e.of, code.Member):
            return self._method(e, e.of, args, keyed, scope)
        if not isinstance(e.of, code.Name):
            return ()
        name = e.of.name
        function = nearest(self.functions.get(name, []), e.at)
        if function is not None:
            return self._into(function, args, keyed)
        made = nearest(self.classes.get(name, []), e.at)
        if made is not None and "enum" not in made.bases:
            return self._make(made, args, keyed, e.at)
        usual = self._usual(name, args)
        if usual is not None:
            return usual
        if e.braced and name not in self.means:
            return self._listing(code.Listing(e.at, e.args), scope)
        return self._outside(self.imports.get(name, name), tuple(args), keyed, e.at)

    def _argued(self, e: code.Expression, scope: Scope, hint: str) -> Known:
        """An argument; a bare number has the name of what is made with it: `horn = Output(43)`."""
        known = self._value(e, scope)
        return named(known, hint) if hint and isinstance(e, code.Literal) else known

    def _usual(self, name: str, args: list[Known]) -> Known | None:
        """What every language has: ranges, lists, numbers of texts."""
        match name:
            case "range":
                ends = [numbers(a)[0] for a in args if numbers(a)]
                if ends and all(isinstance(v.value, int) and not v.symbol for v in ends):
                    return self._counted(
                        range(*[int(v.value) for v in ends][:3]) if _steps(ends) else range(0), ends[0].at
                    )
                return ()
            case "enumerate" if args:
                found = []
                for one in args[0]:
                    if isinstance(one, Many):
                        items = tuple(
                            (Many(((Value(k, one.at),), item), one.at),) for k, item in enumerate(one.items)
                        )
                        found.append(Many(items, one.at, one.names))
                return tuple(found)
            case "zip" if args:
                lists = [next((x for x in a if isinstance(x, Many)), None) for a in args]
                if all(one is not None for one in lists):
                    rows = zip(*(one.items for one in lists if one is not None), strict=False)
                    at = lists[0].at if lists[0] is not None else Spot("")
                    return (Many(tuple((Many(tuple(row), at),) for row in rows), at),)
                return ()
            case "static_cast" | "reinterpret_cast" | "const_cast" | "to_underlying" if args:
                return args[0]
            case "list" | "tuple" | "sorted" | "reversed" | "set" | "int" | "float" | "bytes" if args:
                return args[0]
        return None

    def _counted(self, numbers_: range, at: Spot) -> Known:
        return (Many(tuple((Value(k, at),) for k in numbers_[:MOST_TURNS]), at),)

    def _range(self, e: code.Call, scope: Scope) -> Known:
        first, end = (numbers(self._value(x, scope)) for x in e.args)
        if first and end and all(isinstance(v.value, int) and not v.symbol for v in (first[0], end[0])):
            return self._counted(range(int(first[0].value), int(end[0].value)), e.at)
        return ()

    def _each(self, e: code.Call, scope: Scope) -> Known:
        """A comprehension: its body for each turn."""
        made, over, *rest = e.args
        names = [str(x.value) for x in rest if isinstance(x, code.Literal)]
        inner = Scope(scope)
        items: list[Known] = []
        pairs: list[tuple[Known, Known]] = []
        for turn in self._turns(self._value(over, scope), len(names)):
            for name, known in zip(names, turn, strict=False):
                inner.known[name] = named(known, name)
            found = self._value(made, inner)
            if isinstance(made, code.Pairs):
                pairs += [p for one in found if isinstance(one, Table) for p in one.items]
            else:
                items.append(found)
        return (Table(tuple(pairs), e.at),) if isinstance(made, code.Pairs) else (Many(tuple(items), e.at),)

    def _into(
        self,
        f: code.Function,
        args: Sequence[Known],
        keyed: dict[str, Known],
        thing: Thing | None = None,
    ) -> Known:
        """A function of the program, with what is known of its arguments."""
        name, outer = f.name, self.file_of(f.at)
        self.asked.add((name, f.at.source))
        if len(self.stack) >= MOST_DEPTH or self.stack.count(name) > 1:
            return ()
        scope = Scope(outer, thing)
        for k, (param, default) in enumerate(f.params):
            given = keyed.get(param, args[k] if k < len(args) else ())
            if not given and default is not None:
                given = self._value(default, outer)
            scope.known[param] = named(given, param)
        self.stack.append(name)
        given = self._block(f.body, scope)
        self.stack.pop()
        return given

    def _make(self, made: code.Class, args: list[Known], keyed: dict[str, Known], at: Spot) -> Known:
        """An object of a class of the program."""
        self.asked.add((made.name, made.at.source))
        thing = Thing(made.name, at)
        for c in self._line_of(made):
            inner = Scope(self.file_of(c.at), thing)
            for s in c.body:
                if isinstance(s, code.Set) and isinstance(s.targets[0], code.Name):
                    thing.fields.setdefault(s.targets[0].name, self._value(s.value, inner))
        fields = [
            s.targets[0].name
            for s in made.body
            if isinstance(s, code.Set) and isinstance(s.targets[0], code.Name)
        ]
        init = self._method_of(made, "__init__") or self._method_of(made, made.name)
        if init is not None:
            for name in _set_in(init):
                thing.fields.setdefault(name, ())
            whole = init.name == "__init__"
            given = [(thing,), *args] if whole else args
            self._into(init, given, keyed, None if whole else thing)
        else:
            for name, known in [*zip(fields, args, strict=False), *keyed.items()]:
                thing.fields[name] = known
            for text in texts(thing.fields.values()):
                thing.fields = {k: v if texts([v]) else named(v, text) for k, v in thing.fields.items()}
        return (thing,)

    def _line_of(self, made: code.Class) -> Iterator[code.Class]:
        seen = set()
        waiting = [made]
        while waiting:
            c = waiting.pop(0)
            if c.name not in seen:
                seen.add(c.name)
                yield c
                bases = (nearest(self.classes.get(b, []), c.at) for b in c.bases)
                waiting += [b for b in bases if b is not None]

    def _method_of(self, made: code.Class, name: str) -> code.Function | None:
        for c in self._line_of(made):
            found = nearest(self.functions.get(f"{c.name}.{name}", []), c.at)
            if found is not None:
                return found
        return None

    def _method(
        self, e: code.Call, of: code.Member, args: list[Known], keyed: dict[str, Known], scope: Scope
    ) -> Known:
        owners = self._value(of.of, scope)
        given: list[Known] = []
        for owner in owners:
            if isinstance(owner, Thing):
                given.append(self._of_thing(owner, of.name, args, keyed, e.at))
            elif isinstance(owner, Table | Many) and of.name in ("keys", "values", "items", "copy"):
                given.append(self._of_table(owner, of.name))
            elif isinstance(owner, Table) and of.name in ("get", "setdefault") and args:
                given.append(owner.under(args[0]) or together(*args[1:2]))
            elif isinstance(owner, Value) and (owner.value, of.name) == ("dict", "fromkeys") and args:
                given.append(self._from_keys(args, e.at))
            elif isinstance(owner, Value) and owner.symbol:
                given.append(self._outside(f"{owner.value}.{of.name}", tuple(args), keyed, e.at))
        if not owners:
            given.append(self._outside(f".{of.name}", tuple(args), keyed, e.at))
        return together(*given)

    def _from_keys(self, args: list[Known], at: Spot) -> Known:
        """`dict.fromkeys(pins, settings)`"""
        value = args[1] if len(args) > 1 else ()
        lists = [one for one in args[0] if isinstance(one, Many)]
        return tuple(
            Table(tuple((named(item, one.names[-1]) if one.names else item, value) for item in one.items), at)
            for one in lists
        )

    def _of_table(self, owner: Table | Many, name: str) -> Known:
        if isinstance(owner, Many):
            return (owner,)
        match name:
            case "keys":
                return (Many(tuple(k for k, _ in owner.items), owner.at, owner.names),)
            case "values":
                return (Many(tuple(v for _, v in owner.items), owner.at, owner.names),)
        return (owner,)

    def _of_thing(
        self, owner: Thing, name: str, args: list[Known], keyed: dict[str, Known], at: Spot
    ) -> Known:
        made = nearest(self.classes.get(owner.kind.removeprefix("class "), []), at)
        if made is not None:
            method = self._method_of(made, name)
            if method is not None:
                is_python = method.params[:1] != () and method.params[0][0] in ("self", "cls")
                given = [(owner,), *args] if is_python else args
                return self._into(method, given, keyed, None if is_python else owner)
        means = self.means.get(f"{owner.kind}.{name}") or self.means.get(f".{name}")
        if means is None:
            self.calls.append((f"{owner.kind}.{name}", tuple(args), at))
            return ()
        return self._use(means, tuple(args), keyed, at, owner)

    def _outside(self, name: str, args: tuple[Known, ...], keyed: dict[str, Known], at: Spot) -> Known:
        """A call of what the program does not define."""
        tails = [name, *(name.split(".", k)[-1] for k in range(1, name.count(".") + 1))]
        means = next((self.means[x] for x in [*tails, f".{tails[-1]}"] if x in self.means), None)
        if means is None:
            self.calls.append((name, args, at))
            return ()
        return self._use(means, args, keyed, at, None)

    def _turns(self, over: Known, count: int) -> Iterator[list[Known]]:
        """What the variables of a loop are, turn by turn."""
        found = False
        for one in over:
            if isinstance(one, Many):
                found = True
                for item in one.items[:MOST_TURNS]:
                    yield self._apart(named(item, one.names[-1]) if one.names else item, count)
            elif isinstance(one, Table):
                found = True
                for key, value in one.items[:MOST_TURNS]:
                    yield [key, value] if count == 2 else [key]
        if not found:
            yield [()] * count

    def _apart(self, item: Known, count: int) -> list[Known]:
        if count < 2:
            return [item]
        lists = [one for one in item if isinstance(one, Many)]
        return [together(*(one.items[k] for one in lists if k < len(one.items))) for k in range(count)]


def _steps(ends: list[Value]) -> bool:
    return len(ends) < 3 or ends[2].value != 0


def _set_in(function: code.Function) -> Iterator[str]:
    """The fields that a constructor sets by their bare names."""
    for s in function.body:
        if isinstance(s, code.Set):
            for target in s.targets:
                if isinstance(target, code.Name):
                    yield target.name
