"""What following a program tells."""

from msgspec import Struct

from knotplan.core.bringup.difference import Spot
from knotplan.core.bringup.program.dialect import CallMeans, Dialect, Role
from knotplan.core.bringup.program.values import Known, Value, numbers


class Use(Struct, frozen=True):
    """Something that a program does."""

    call: CallMeans
    dialect: Dialect
    at: Spot
    roles: dict[str, Known]
    """what is known of each argument, by its role"""
    function: str
    """the function of the program in which it stands"""
    run: int = 0
    """which beginning it follows from: a file's own statements, a function that nothing calls. Between two of
    them any time may pass"""

    def one(self, role: Role) -> Value | None:
        """An argument whose value is certain."""
        found = numbers(self.roles.get(role, ()))
        return found[0] if len(found) == 1 else None


class Constant(Struct, frozen=True):
    """A constant that a program defines, with what it is."""

    name: str
    known: Known
    at: Spot


class Told(Struct, frozen=True):
    """What following a program has brought."""

    uses: tuple[Use, ...]
    constants: tuple[Constant, ...]
    calls: tuple[tuple[str, tuple[Known, ...], Spot], ...]
    """calls that no dialect knows and the program does not define: (name, arguments, place)"""
    imports: tuple[str, ...]
    whole: bool
    """it was followed to its end"""
