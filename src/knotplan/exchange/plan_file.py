"""The plan as a file: JSON, stable and diff-friendly, with a published schema.

Reading decodes strictly; what makes a plan valid says `core/plan/validity.py`. Only when a
file is not valid, every error is gathered with its place, through the schema and there.
Nothing that a file contains is executed.
"""

import json
from collections.abc import Callable
from itertools import islice
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct

from knotplan.catalog.board.check import MOST_FAULTS, MOST_PINS
from knotplan.catalog.load import Catalog
from knotplan.catalog.toml_text import SCHEMA_KEY
from knotplan.core.plan.direction import all_consumers_first
from knotplan.core.plan.document import FORMAT, MOST_S, VERSION, CarriedPart, Plan
from knotplan.core.plan.validity.fault import Fault, Unread, spelled
from knotplan.core.plan.validity.faults import faults, settled
from knotplan.exchange.files import FileTooLargeError, read_whole, write_atomically
from knotplan.exchange.json_text import JsonError, tree_of
from knotplan.exchange.legible import Legible, legible
from knotplan.exchange.migration import as_now
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.published import SCHEMA_FIELD, of_file
from knotplan.exchange.schema_errors import errors_of

SUFFIX = ".knot.json"
MOST_BYTES = 20_000_000
MOST_EXPLAINED = 1_000_000
"""bytes of a file whose every error is looked for; of a larger one only the first is told"""
_HEAD = {"format": FORMAT, "version": VERSION}


class PlanFileError(FileProblemsError):
    """The file is not a plan that can be read; `rest` is what of it can, if it has a clear meaning."""

    what = "plan"
    rest: "Rest | None" = None


class Rest(Struct, frozen=True):
    """A plan without what is wrong in its file."""

    plan: Plan
    lost: tuple[str, ...]
    """what had to be left out, in words"""


def dumps(plan: Plan) -> bytes:
    """The plan as JSON: fixed order, one thing per line, defaults left out."""
    tree = {**_HEAD, **msgspec.to_builtins(plan)}
    return (json.dumps(tree, indent=1, ensure_ascii=False, allow_nan=False) + "\n").encode("utf-8")


def save(plan: Plan, path: Path) -> None:
    """Writes a plan in one step. Raises OSError."""
    write_atomically(path, dumps(plan))


def load(path: Path, catalog: Catalog) -> Plan:
    """The plan in a file. Raises PlanFileError, or OSError when the file cannot be got at."""
    try:
        data = read_whole(path, MOST_BYTES)
    except FileTooLargeError:
        raise PlanFileError(
            path.name, [("", f"it is larger than {MOST_BYTES // 1_000_000} MB, which no plan is")]
        ) from None
    return loads(data, catalog, path.name)


def loads(data: bytes, catalog: Catalog, name: str = "the file") -> Plan:
    """The plan in some bytes. Raises PlanFileError."""
    tree = _tree(data, name)
    tree = as_now(tree, _version(tree, name))
    body = {k: v for k, v in tree.items() if k not in _HEAD and k != SCHEMA_KEY}
    if too_many := _too_many(body):
        raise PlanFileError(name, [too_many])
    try:
        plan = msgspec.convert(body, Plan)
    except (msgspec.ValidationError, ValueError, RecursionError) as error:
        raise _illegible(tree, body, catalog, name, str(error), len(data) <= MOST_EXPLAINED) from None
    if wrong := list(islice(faults(plan, catalog), MOST_FAULTS)):
        raise _with_rest(PlanFileError(name, _placed_faults(wrong, plan, spelled)), plan, catalog)
    return all_consumers_first(plan, catalog)


def _illegible(
    tree: dict[str, Any], body: dict[str, Any], catalog: Catalog, name: str, first: str, explained: bool
) -> PlanFileError:
    """What is wrong with a file that is not even of the right types, and what refers to nothing besides."""
    wrong = (
        list(errors_of({k: v for k, v in tree.items() if k != SCHEMA_KEY}, schema())) if explained else []
    ) or [("", first)]
    found = legible(body)
    if found is None:
        return PlanFileError(name, wrong)
    more = islice(faults(found.plan, catalog, unread=Unread(found.parts, found.activities)), MOST_FAULTS)
    error = PlanFileError(name, wrong + _placed_faults(list(more), found.plan, found.place_in_file))
    return _with_rest(error, found.plan, catalog, found)


def _placed_faults(
    wrong: list[Fault], plan: Plan, place: Callable[[tuple[str | int, ...]], str]
) -> list[tuple[str, str]]:
    """(place, why) of each fault; what is wrong in a part file that the plan
    carries is told by that file's own reader."""
    placed: list[tuple[str, str]] = []
    for fault in wrong:
        if fault.place[0] == "carried_parts" and fault.place[2:] != ("id",):
            lent = plan.carried_parts[int(fault.place[1])]
            placed += [
                (f"{place(fault.place[:2])}.{inside}".rstrip("."), why) for inside, why in _of_part(lent)
            ]
        placed.append((place(fault.place), fault.why))
    return placed


def _of_part(lent: CarriedPart) -> list[tuple[str, str]]:
    """What the reader of part files says of one that a plan carries."""
    from knotplan.exchange.part_file import PartFileError, loads

    try:
        loads("\n".join(lent.lines), lent.id)
    except PartFileError as error:
        return list(error.errors)
    return []


def _with_rest(
    error: PlanFileError, plan: Plan, catalog: Catalog, found: Legible | None = None
) -> PlanFileError:
    """The error, with what of the file can be opened all the same."""
    rest = settled(plan, catalog)
    if rest is not None:
        gone = [*(found.lost if found else ()), *_difference(plan, rest)]
        error.rest = Rest(all_consumers_first(rest, catalog), tuple(gone))
    return error


def _difference(plan: Plan, rest: Plan) -> list[str]:
    """What one plan has and the other has not, in words."""
    parts, ties = {p.id for p in rest.parts}, {t.id: t for t in rest.ties}
    left_out = [f"the part {p.name!r}" for p in plan.parts if p.id not in parts]
    left_out += [f"the tie of {t.lead} to {t.to}" for t in plan.ties if t.id not in ties]
    left_out += [
        f"a bead in the tie of {t.lead}"
        for t in plan.ties
        if t.id in ties and len(ties[t.id].beads) < len(t.beads)
    ]
    names = ("title", "scheme", "series")
    left_out += [
        f"the {what} {getattr(plan, what)!r}" for what in names if getattr(plan, what) != getattr(rest, what)
    ]
    kept = {p.id: p for p in rest.parts}
    left_out += [
        f"the choice {name!r} of {p.name!r}"
        for p in plan.parts
        if p.id in kept
        for name in p.params
        if name not in kept[p.id].params
    ]
    for what in (
        "activities",
        "clocks",
        "carried_parts",
        "set_up",
        "assumes",
        "accepted",
        "wired",
        "readings",
    ):
        fewer = len(getattr(plan, what)) - len(getattr(rest, what))
        left_out += [f"{fewer} of {what.replace('_', ' ')}"] if fewer else []
    return left_out


def _tree(data: bytes, name: str) -> dict[str, Any]:
    if not data.strip():
        raise PlanFileError(name, [("", "the file is empty")])
    try:
        tree = tree_of(data)
    except JsonError as error:
        raise PlanFileError(name, [(error.place, error.why)]) from None
    if not isinstance(tree, dict):
        raise PlanFileError(name, [("", "this is JSON, but not a plan")])
    return tree


def _too_many(body: dict[str, Any]) -> tuple[str, str] | None:
    carried = body.get("carried")
    pins = carried.get("pins") if isinstance(carried, dict) else None
    if isinstance(pins, dict | list) and len(pins) > MOST_PINS:
        return "carried.pins", f"{len(pins)} pins are more than any board has ({MOST_PINS})"
    return None


def _version(tree: dict[str, Any], name: str) -> int:
    """The version of the format in which a plan is written. Raises PlanFileError."""
    if tree.get("format") != FORMAT:
        text = f"is {tree['format']!r}" if "format" in tree else "is missing"
        raise PlanFileError(
            name, [("format", f"{text}, so this is no plan of Knot Plan, which says {FORMAT!r}")]
        )
    version = tree.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise PlanFileError(name, [("version", f"is {version!r}; it has to be a whole number from 1")])
    if version > VERSION:
        raise PlanFileError(
            name,
            [
                (
                    "version",
                    f"is {version}, written by a newer Knot Plan; this one reads up to "
                    f"{VERSION}. Nothing was changed.",
                )
            ],
        )
    return version


def schema() -> dict[str, Any]:
    """The published JSON Schema (2020-12) of a plan file."""
    tree = of_file("plan", "Knot Plan file", Plan)
    plan = tree["$defs"]["Plan"]
    plan["properties"] = {
        SCHEMA_KEY: SCHEMA_FIELD,
        "format": {"title": "Format", "description": "what tells a plan from other files", "const": FORMAT},
        "version": {"title": "Version", "description": "of the format", "const": VERSION},
        **{k: v for k, v in plan["properties"].items() if k != SCHEMA_KEY},
    }
    plan["required"] = ["format", "version", *plan.get("required", [])]
    for bead in ("SeriesResistor", "PullUp", "PullDown"):
        tree["$defs"][bead]["properties"]["ohm"] |= {"exclusiveMinimum": 0, "maximum": 1e9}
        tree["$defs"][bead]["properties"]["tolerance"] |= {"minimum": 0, "exclusiveMaximum": 1}
    limits = {
        ("SeriesResistor", "rating_w"): 1e4,
        ("Capacitor", "farad"): 1,
        ("Capacitor", "volts"): 1000,
        ("Fuse", "amps"): 100,
    }
    for (bead, field), most in limits.items():
        tree["$defs"][bead]["properties"][field] |= {"exclusiveMinimum": 0, "maximum": most}
    tree["$defs"]["Zener"]["properties"]["volts"] |= {"minimum": 1, "maximum": 200}
    for field, most in (("length_m", 100), ("mm2", 50)):
        tree["$defs"]["Tie"]["properties"][field] |= {"minimum": 0, "maximum": most}
    for field in ("starts_s", "lasts_s", "every_s"):
        least = {"exclusiveMinimum": 0} if field == "lasts_s" else {"minimum": 0}
        tree["$defs"]["Activity"]["properties"][field] |= {**least, "maximum": MOST_S}
    tree["$defs"]["Tie"]["properties"]["hertz"] |= {"minimum": 0, "maximum": 1e8}
    tree["$defs"]["BusClock"]["properties"]["hz"] |= {"exclusiveMinimum": 0, "maximum": 1e9}
    plan["properties"]["cycle_s"] |= {"exclusiveMinimum": 0, "maximum": MOST_S}
    return tree
