"""What makes a plan invalid, and where."""

import msgspec

Place = tuple[str | int, ...]
"""the way to a value from the top of a plan, such as ("ties", 3, "beads", 0, "rail")"""


class Fault(msgspec.Struct, frozen=True):
    """One thing that makes a plan invalid."""

    place: Place
    why: str
    out: Place
    """what has to be left out so that the rest is valid"""
    dangles: bool = False
    """it refers to something that is not there: when an edit took that away, this goes with it"""


class Unread(msgspec.Struct, frozen=True):
    """Ids of what is in a file and could not be read: what refers to them is not blamed."""

    parts: frozenset[str] = frozenset()
    activities: frozenset[str] = frozenset()


ALL_READ = Unread()


def spelled(place: Place) -> str:
    """A place as messages say it.

    >>> spelled(("ties", 3, "beads", 0, "rail"))
    'ties[3].beads[0].rail'
    """
    return "".join(f"[{p}]" if isinstance(p, int) else f".{p}" for p in place).lstrip(".")
