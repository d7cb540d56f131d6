"""How far the reading of a long file is, and a stop of it."""

from collections.abc import Callable

Progress = Callable[[float], bool]
"""is told the share that is read, and says whether to go on"""


class Stopped(Exception):  # noqa: N818  (nothing is wrong)
    """Somebody said stop."""


def go_on(_: float) -> bool:
    """To the end."""
    return True
