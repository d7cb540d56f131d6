"""What a dialect knows of a call, with what is known of its arguments."""

from collections.abc import Iterator

from knotplan.core.bringup.difference import Spot
from knotplan.core.bringup.program.dialect import CallMeans, Dialect
from knotplan.core.bringup.program.state import State
from knotplan.core.bringup.program.told import Use
from knotplan.core.bringup.program.values import Known, Many, Table, Thing, Value, together


class Meanings(State):
    """Uses of pins and buses."""

    def _use(
        self,
        means: tuple[CallMeans, Dialect],
        args: tuple[Known, ...],
        keyed: dict[str, Known],
        at: Spot,
        owner: Thing | None,
    ) -> Known:
        """One use; of a dictionary of pins one for each of them."""
        given: list[Known] = []
        for row_args, row_keyed in self._rows(means[0], args, keyed):
            given.append(self._one_use(means, row_args, row_keyed, at, owner))
        return together(*given)

    def _rows(
        self, call: CallMeans, args: tuple[Known, ...], keyed: dict[str, Known]
    ) -> Iterator[tuple[tuple[Known, ...], dict[str, Known]]]:
        """The arguments; where the pins are a dictionary's keys, with one row of it at a time."""
        place, _, part = call.args.get("pin", "").partition(".")
        whole = True
        for choice in place.split("|") if part == "keys" else ():
            known = (
                keyed.get(choice, ())
                if not choice.isdigit()
                else args[int(choice)]
                if int(choice) < len(args)
                else ()
            )
            for one in known:
                for row in one.items if isinstance(one, Table) else ():
                    whole = False
                    alone: Known = (Table((row,), one.at, one.names),)
                    if choice.isdigit():
                        yield tuple(alone if k == int(choice) else a for k, a in enumerate(args)), keyed
                    else:
                        yield args, keyed | {choice: alone}
        if whole:
            yield args, keyed

    def _one_use(
        self,
        means: tuple[CallMeans, Dialect],
        args: tuple[Known, ...],
        keyed: dict[str, Known],
        at: Spot,
        owner: Thing | None,
    ) -> Known:
        call, dialect = means
        roles: dict[str, Known] = {}
        for role, where in call.args.items():
            found = self._argument(where, role, args, keyed, owner)
            if found:
                roles[role] = found
        for role, value in call.fixed.items():
            roles.setdefault(role, (Value(value, at),))
        thing = Thing(call.gives, at) if call.gives else None
        if call.does == "settings":
            self._settle(roles, args[0] if args and owner is None else (), owner)
        elif call.does:
            self.uses.append(Use(call, dialect, at, roles, self.stack[-1] if self.stack else "", self.run))
        if thing is None:
            return ()
        thing.fields |= roles
        if owner is not None:
            for name, known in owner.fields.items():
                thing.fields.setdefault(name, known)
        return (thing,)

    def _settle(self, roles: dict[str, Known], first: Known, owner: Thing | None) -> None:
        """Settings that are put into a thing, whose method it is or that is the first argument."""
        for held in (owner, *first):
            if isinstance(held, Thing):
                held.fields |= roles

    def _argument(
        self, where: str, role: str, args: tuple[Known, ...], keyed: dict[str, Known], owner: Thing | None
    ) -> Known:
        """An argument by its place, its name, or as a field of the thing whose method it is."""
        place, _, part = where.partition(".")
        found: Known = ()
        for choice in place.split("|"):
            if choice == "self":
                found = owner.fields.get(role, ()) if owner is not None else ()
            elif choice == "rest":
                found = (Many(args, args[0][0].at if args and args[0] else Spot("")),)
            elif choice.isdigit():
                found = args[int(choice)] if int(choice) < len(args) else ()
            else:
                found = keyed.get(choice, ())
            if found:
                break
        return self._part(found, part, role)

    def _part(self, known: Known, part: str, role: str) -> Known:
        """A thing stands for what it has in that role; of a dictionary its keys or values."""
        found: list[Known] = []
        for one in known:
            if isinstance(one, Thing):
                found.append(one.fields.get(role, (one,) if role == "settings" else ()))
            elif isinstance(one, Table) and part in ("keys", "values"):
                found += [k if part == "keys" else v for k, v in one.items]
            elif isinstance(one, Table) and part:
                found.append(one.field(part))
            else:
                found.append((one,))
        return together(*found)
