"""What can be read of a plan file that is not all of the right types: each thing by itself."""

import re
from typing import Any, TypeVar

import msgspec
from msgspec import Struct

from knotplan.core.plan.document import (
    Accepted,
    Activity,
    Assumed,
    BusClock,
    CarriedPart,
    PlacedPart,
    Plan,
    Tie,
)
from knotplan.core.plan.validity.fault import Place, spelled
from knotplan.core.plan.validity.leaving_out import leave_out
from knotplan.core.plan.wired import Reading, Wired

LISTS: dict[str, Any] = {
    "parts": PlacedPart,
    "ties": Tie,
    "accepted": Accepted,
    "activities": Activity,
    "clocks": BusClock,
    "carried_parts": CarriedPart,
    "set_up": str,
    "assumes": Assumed,
    "wired": Wired,
    "readings": Reading,
}
MOST_TRIES = 40
"""how often one thing is read again, each time without what was wrong with it last"""
AT = re.compile(r" - at `\$(?P<way>[^`]*)`$")
STEP = re.compile(r"\.(?P<key>[^.\[\]]+)|\[(?P<at>\d+)\]|\[(?P<any>\.\.\.)\]")
T = TypeVar("T")


class Legible(Struct, frozen=True):
    """The legible part of a plan file."""

    plan: Plan
    places: dict[str, tuple[int, ...]]
    """where each item of a list stands in the file"""
    parts: frozenset[str]
    """ids of parts that are there, but could not be read, or not as they were written"""
    activities: frozenset[str]
    lost: tuple[str, ...]
    """what was left out, in words"""

    def place_in_file(self, place: Place) -> str:
        """A place of the plan as a place of the file."""
        field, *rest = place
        if rest and isinstance(rest[0], int) and field in self.places:
            rest[0] = self.places[str(field)][rest[0]]
        return spelled((field, *rest))


def legible(body: dict[str, Any]) -> Legible | None:
    """What can be read of a file; nothing where not even its board can be told."""
    lost: list[str] = []
    known = set(Plan.__struct_fields__)
    top = {k: v for k, v in body.items() if k in known and k not in LISTS}
    lost += [k for k in body if k not in known]
    whole, gone = read(top, Plan)
    if whole is None or "carried" in gone:
        return None
    lost += gone
    fields: dict[str, tuple[Any, ...]] = {}
    places: dict[str, tuple[int, ...]] = {}
    touched: dict[str, set[str]] = {"parts": set(), "activities": set()}
    for field, kind in LISTS.items():
        items, at = [], []
        things = body.get(field, [])
        if not isinstance(things, list):
            lost.append(field)
            things = []
        for k, thing in enumerate(things):
            item, out = read(thing, kind)
            lost += [f"{field}[{k}].{place}" for place in out] if item is not None else [f"{field}[{k}]"]
            if (
                (out or item is None)
                and field in touched
                and isinstance(thing, dict)
                and isinstance(thing.get("id"), str)
            ):
                touched[field].add(thing["id"])
            if item is not None:
                items.append(item)
                at.append(k)
        fields[field], places[field] = tuple(items), tuple(at)
    plan = msgspec.structs.replace(whole, **fields)
    return Legible(plan, places, frozenset(touched["parts"]), frozenset(touched["activities"]), tuple(lost))


def read(tree: Any, kind: type[T]) -> tuple[T | None, list[str]]:
    """One thing, without what is wrong in it, and the places of what that
    is; nothing where too little is left."""
    tree = _copied(tree)
    gone: list[str] = []
    for _ in range(MOST_TRIES):
        try:
            return msgspec.convert(tree, kind), gone
        except (msgspec.ValidationError, ValueError, RecursionError) as error:
            place = _to_leave_out(tree, kind, str(error))
            if place is None:
                return None, gone
            gone.append(spelled(place))
            leave_out(tree, place)
    return None, gone


def _to_leave_out(tree: Any, kind: type, text: str) -> Place | None:
    """The smallest thing whose absence settles an error."""
    unknown = re.match(r"Object contains unknown field `(?P<key>[^`]*)`", text)
    place = _place(text)
    if unknown:
        return (*place, unknown["key"])
    if place and place[-1] == "...":
        return _one_inside(tree, kind, place[:-1], text) or place[:-1]
    here = _at(tree, place)
    if isinstance(here, dict) and "missing required" not in text:  # a limit of one of its values is broken
        return _one_inside(tree, kind, place, text) or (place or None)
    return place or None


def _one_inside(tree: Any, kind: type, place: Place, text: str) -> Place | None:
    """The one value of a dictionary without which another error is found, or none."""
    here = _at(tree, place)
    for key in here if isinstance(here, dict) else ():
        tried = _copied(tree)
        leave_out(tried, (*place, key))
        try:
            msgspec.convert(tried, kind)
        except (msgspec.ValidationError, ValueError, RecursionError) as error:
            if str(error) == text or "missing required" in str(error):
                continue
        return (*place, key)
    return None


def _place(text: str) -> Place:
    match = AT.search(text)
    steps = STEP.finditer(match["way"]) if match else ()
    return tuple(int(s["at"]) if s["at"] else s["any"] or s["key"] for s in steps)


def _at(tree: Any, place: Place) -> Any:
    for step in place:
        try:
            tree = tree[step]
        except (KeyError, IndexError, TypeError):
            return None
    return tree


def _copied(tree: Any) -> Any:
    if isinstance(tree, dict):
        return {k: _copied(v) for k, v in tree.items()}
    return [_copied(v) for v in tree] if isinstance(tree, list) else tree
