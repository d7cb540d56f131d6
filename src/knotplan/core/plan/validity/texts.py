"""Texts and numbers that a file can hold, and how much of each thing there may be."""

import math
from collections.abc import Iterator
from typing import Any

import msgspec

from knotplan.core.plan.document import Plan
from knotplan.core.plan.validity.fault import Fault, Place
from knotplan.core.plan.validity.unmoved import identities

MOST_LETTERS = 2000
"""of one text; a name that anybody reads is shorter by far"""


MOST_OF = {
    "parts": 20_000,
    "ties": 60_000,
    "activities": 2_000,
    "accepted": 20_000,
    "clocks": 2_000,
    "carried_parts": 500,
    "set_up": 500,
    "assumes": 100,
    "wired": 80_000,
    "readings": 20_000,
}
"""how many of each a plan may have"""


MOST_BEADS = 50
"""in one tie"""


def written(plan: Plan, since: Plan | None) -> Iterator[Fault]:
    """What a file cannot hold: half a letter, no number, more of anything than anybody has."""
    for field in plan.__struct_fields__:
        value = getattr(plan, field)
        if since is not None and value is getattr(since, field):
            continue
        if isinstance(value, tuple):
            most = MOST_OF[field]
            if len(value) > most:
                yield from (
                    Fault((field, k), f"there are more {field} than a plan can have ({most})", (field, k))
                    for k in range(most, len(value))
                )
            seen = identities(getattr(since, field)) if since is not None else frozenset()
            for k, item in enumerate(value):
                if id(item) not in seen:
                    long = field == "carried_parts"
                    yield from (
                        Fault((field, k, *place), why, (field, k))
                        for place, why in _unwritable(item, long=long)
                    )
        elif field != "carried":
            yield from (Fault((field,), why, (field,)) for _, why in _unwritable(value))


def _unwritable(  # noqa: C901  (a branch for each kind of value)
    value: Any, place: Place = (), *, long: bool = False
) -> Iterator[tuple[Place, str]]:
    """(where, why) of each text or number in a value that cannot be written, or is longer than any."""
    if isinstance(value, str):
        if (why := text_fault(value, long=long)) is not None:
            yield place, why
    elif isinstance(value, float):
        if not math.isfinite(value):
            yield place, f"{value} is no number that a file can hold"
    elif isinstance(value, msgspec.Struct):
        for field in value.__struct_fields__:
            yield from _unwritable(getattr(value, field), (*place, field), long=long)
    elif isinstance(value, dict):
        for key, inner in value.items():
            yield from _unwritable(key, (*place, key), long=long)
            yield from _unwritable(inner, (*place, key), long=long)
    elif isinstance(value, tuple):
        if len(value) > MOST_BEADS and place[-1:] == ("beads",):
            yield place, f"{len(value)} beads are more than fit into one tie ({MOST_BEADS})"
        for k, inner in enumerate(value):
            yield from _unwritable(inner, (*place, k), long=long)


def text_fault(text: str, *, long: bool = False) -> str | None:
    """Why a text cannot be in a plan; nothing where it can. A lone surrogate is half a letter (Unicode
    3.9, D91): no file in UTF-8 holds it."""
    if len(text) > MOST_LETTERS and not long:
        return f"{text[:20]!r}… has {len(text)} letters; at most {MOST_LETTERS} are kept"
    if not text.isascii():
        try:
            text.encode("utf-8")
        except UnicodeEncodeError as error:
            return (
                f"letter {error.start + 1} is half a letter (U+{ord(text[error.start]):04X}), which no file "
                "can hold"
            )
    return None
