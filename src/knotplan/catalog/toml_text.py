"""Reading TOML that anybody may have written."""

from typing import Any

LEAST_WHOLE, MOST_WHOLE = -(2**63), 2**63 - 1
"""TOML 1.0: whole numbers have 64 bits; larger ones, which Python would read, break sums and texts later"""

SCHEMA_KEY = "$schema"
"""what editors look at to check a file while it is written; it is no part of what the file says"""


class HugeNumberError(ValueError):
    """A whole number that TOML does not have."""

    def __init__(self, place: str):
        self.place, self.why = (
            place,
            f"a whole number lies between {LEAST_WHOLE} and {MOST_WHOLE}; this one does not",
        )
        super().__init__(f"{place}: {self.why}")


def parsed(text: str) -> dict[str, Any]:
    """The tree of a text.

    Raises TOMLDecodeError, HugeNumberError, ValueError (thousands of digits) or
    RecursionError (nested too deeply).
    """
    import tomllib  # what the catalogue keeps is not parsed again, and the first picture needs no more

    tree = tomllib.loads(text)
    if isinstance(tree.get(SCHEMA_KEY), str):
        del tree[SCHEMA_KEY]
    _bounded(tree, "")
    return tree


def _bounded(value: Any, place: str) -> None:
    if isinstance(value, dict):
        for key, inner in value.items():
            _bounded(inner, f"{place}.{key}" if place else key)
    elif isinstance(value, list):
        for k, inner in enumerate(value):
            _bounded(inner, f"{place}[{k}]")
    elif isinstance(value, int) and not LEAST_WHOLE <= value <= MOST_WHOLE:
        raise HugeNumberError(place)
