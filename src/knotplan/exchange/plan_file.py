"""The plan as a file: JSON, stable and diff-friendly, with a published schema.

Reading decodes strictly and, only when that fails, gathers every error with its place through the
schema; then every id is looked up in the catalogue. Nothing that a file contains is executed.
"""

import json
import re
from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import Any, TypeVar

import msgspec
from msgspec import Struct

from knotplan.catalog.board_check import MOST_FAULTS, MOST_PINS, faults, hint
from knotplan.catalog.boards import ANY, Board
from knotplan.catalog.load import Catalog, UnknownEntryError
from knotplan.catalog.parts import PartKind
from knotplan.core.beads import rails_of
from knotplan.core.direction import all_consumers_first
from knotplan.core.names import NameBook
from knotplan.core.plan import BOARD, FORMAT, MOST_S, VERSION, Activity, BusClock, CarriedPart, PlacedPart, Plan, Tie, split
from knotplan.exchange.files import write_atomically
from knotplan.exchange.problems import FileProblemsError
from knotplan.exchange.schema_errors import errors_of

SUFFIX = ".knot.json"
MOST_BYTES = 20_000_000
MOST_EXPLAINED = 1_000_000
"""bytes of a file whose every error is looked for; of a larger one only the first is told"""
T = TypeVar("T")
_HEAD = {"format": FORMAT, "version": VERSION}


class PlanFileError(FileProblemsError):
    """The file is not a plan that can be read."""

    what = "plan"


def dumps(plan: Plan) -> bytes:
    """The plan as JSON: fixed order, one thing per line, defaults left out."""
    tree = {**_HEAD, **msgspec.to_builtins(plan)}
    return (json.dumps(tree, indent=1, ensure_ascii=False, allow_nan=False) + "\n").encode("utf-8")


def save(plan: Plan, path: Path) -> None:
    """Writes a plan in one step. Raises OSError."""
    write_atomically(path, dumps(plan))


def load(path: Path, catalog: Catalog) -> Plan:
    """The plan in a file. Raises PlanFileError, or OSError when the file cannot be got at."""
    if path.stat().st_size > MOST_BYTES:
        raise PlanFileError(path.name, [("", f"it is larger than {MOST_BYTES // 1_000_000} MB, which no plan is")])
    return loads(path.read_bytes(), catalog, path.name)


def loads(data: bytes, catalog: Catalog, name: str = "the file") -> Plan:
    """The plan in some bytes. Raises PlanFileError."""
    tree = _tree(data, name)
    _check_head(tree, name)
    body = {k: v for k, v in tree.items() if k not in _HEAD}
    if too_many := _too_many(body):
        raise PlanFileError(name, [too_many])
    try:
        plan = msgspec.convert(body, Plan)
    except (msgspec.ValidationError, ValueError, RecursionError) as error:
        wrong = (list(errors_of(tree, schema())) if len(data) <= MOST_EXPLAINED else []) or [("", str(error))]
        raise PlanFileError(name, wrong + list(islice(_unknown(_legible(body), catalog), MOST_FAULTS))) from None
    if unknown := list(islice(_unknown(_all_of(plan), catalog), MOST_FAULTS)):
        raise PlanFileError(name, unknown)
    return all_consumers_first(plan, catalog)


def _too_many(body: dict[str, Any]) -> tuple[str, str] | None:
    carried = body.get("carried")
    pins = carried.get("pins") if isinstance(carried, dict) else None
    if isinstance(pins, dict | list) and len(pins) > MOST_PINS:
        return "carried.pins", f"{len(pins)} pins are more than any board has ({MOST_PINS})"
    return None


def _tree(data: bytes, name: str) -> dict[str, Any]:
    if not data.strip():
        raise PlanFileError(name, [("", "the file is empty")])
    try:
        tree = json.loads(data.decode("utf-8"), object_pairs_hook=_once, parse_constant=_no_constant)
    except UnicodeDecodeError as error:
        raise PlanFileError(name, [(f"byte {error.start}", "is not UTF-8 text; a plan is a text file")]) from None
    except json.JSONDecodeError as error:
        raise PlanFileError(name, [(f"line {error.lineno}, column {error.colno}", f"is not JSON: {error.msg}")]) from None
    except _OddError as error:
        raise PlanFileError(name, [("", str(error))]) from None
    except RecursionError:
        raise PlanFileError(name, [("", "is nested more deeply than any plan")]) from None
    if not isinstance(tree, dict):
        raise PlanFileError(name, [("", "is JSON, but not a plan")])
    return tree


class _OddError(ValueError):
    """JSON that Python would take and the standard (RFC 8259) would not, or not surely."""


def _no_constant(word: str) -> None:
    raise _OddError(f"contains {word}, which is no number in JSON")


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    made = dict(pairs)
    if len(made) != len(pairs):
        names = [k for k, _ in pairs]
        twice = next(k for k in names if names.count(k) > 1)
        raise _OddError(f"has the key {twice!r} twice in one place")
    return made


def _check_head(tree: dict[str, Any], name: str) -> None:
    if tree.get("format") != FORMAT:
        said = f"is {tree['format']!r}" if "format" in tree else "is missing"
        raise PlanFileError(name, [("format", f"{said}, so this is no plan of Knot Plan, which says {FORMAT!r}")])
    version = tree.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise PlanFileError(name, [("version", f"is {version!r}; it has to be a whole number from 1")])
    if version > VERSION:
        raise PlanFileError(name, [("version", f"is {version}, written by a newer Knot Plan; this one reads up to "
                                    f"{VERSION}. Nothing was changed.")])  # fmt: skip


def schema() -> dict[str, Any]:
    """The published JSON Schema (2020-12) of a plan file."""
    made = msgspec.json.schema(Plan)
    plan = made["$defs"]["Plan"]
    plan["properties"] = {"format": {"const": FORMAT}, "version": {"const": VERSION}, **plan["properties"]}
    plan["required"] = ["format", "version", *plan.get("required", [])]
    for bead in ("SeriesResistor", "PullUp", "PullDown"):
        made["$defs"][bead]["properties"]["ohm"] |= {"exclusiveMinimum": 0, "maximum": 1e9}
        made["$defs"][bead]["properties"]["tolerance"] |= {"minimum": 0, "exclusiveMaximum": 1}
    limits = {("SeriesResistor", "rating_w"): 1e4, ("Capacitor", "farad"): 1, ("Capacitor", "volts"): 1000, ("Fuse", "amps"): 100}
    for (bead, field), most in limits.items():
        made["$defs"][bead]["properties"][field] |= {"exclusiveMinimum": 0, "maximum": most}
    made["$defs"]["Zener"]["properties"]["volts"] |= {"minimum": 1, "maximum": 200}
    for field, most in (("length_m", 100), ("mm2", 50)):
        made["$defs"]["Tie"]["properties"][field] |= {"minimum": 0, "maximum": most}
    for field in ("starts_s", "lasts_s", "every_s"):
        least = {"exclusiveMinimum": 0} if field == "lasts_s" else {"minimum": 0}
        made["$defs"]["Activity"]["properties"][field] |= {**least, "maximum": MOST_S}
    made["$defs"]["Tie"]["properties"]["hertz"] |= {"minimum": 0, "maximum": 1e8}
    made["$defs"]["BusClock"]["properties"]["hz"] |= {"exclusiveMinimum": 0, "maximum": 1e9}
    plan["properties"]["cycle_s"] |= {"exclusiveMinimum": 0, "maximum": MOST_S}
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Knot Plan file", **made}


# --- what only the catalogue can tell ------------------------------------------------------------


class _Legible(Struct, frozen=True):
    """What could be read of a plan, each thing with its place in the file."""

    board: str | None
    carried: Board | None
    scheme: str
    parts: list[tuple[int, PlacedPart]]
    ties: list[tuple[int, Tie]]
    set_up: tuple[str, ...] = ()
    carried_parts: tuple[CarriedPart, ...] = ()
    activities: tuple[tuple[int, Activity], ...] = ()
    clocks: tuple[tuple[int, BusClock], ...] = ()
    illegible: frozenset[str] = frozenset()
    """ids of parts that are there, but of which more cannot be told"""
    illegible_activities: frozenset[str] = frozenset()


def _all_of(plan: Plan) -> _Legible:
    return _Legible(plan.board, plan.carried, plan.scheme, list(enumerate(plan.parts)), list(enumerate(plan.ties)),
                    plan.set_up, plan.carried_parts, tuple(enumerate(plan.activities)),
                    tuple(enumerate(plan.clocks)))  # fmt: skip


def _legible(body: dict[str, Any]) -> _Legible:
    """What is sound in a file that is not, so that its other errors can be named with the first."""

    def sound(key: str, kind: type[T]) -> tuple[list[tuple[int, T]], list[Any]]:
        good, bad = [], []
        things = body.get(key)
        for k, thing in enumerate(things if isinstance(things, list) else []):
            try:
                good.append((k, msgspec.convert(thing, kind)))
            except (msgspec.ValidationError, ValueError):
                bad.append(thing)
        return good, bad

    parts, broken = sound("parts", PlacedPart)
    ties, _ = sound("ties", Tie)
    board, scheme = body.get("board"), body.get("scheme")
    lent = tuple(c for _, c in sound("carried_parts", CarriedPart)[0])
    activities, odd = sound("activities", Activity)
    clocks, _ = sound("clocks", BusClock)

    def ids(things: list[Any]) -> frozenset[str]:
        return frozenset(i for t in things if isinstance(t, dict) and isinstance(i := t.get("id"), str))

    try:
        carried = msgspec.convert(body["carried"], Board) if "carried" in body else None
    except (msgspec.ValidationError, ValueError, RecursionError):
        board, carried = None, None  # what it refers to cannot be told then
    return _Legible(board if isinstance(board, str) else None, carried, scheme if isinstance(scheme, str) else "", parts, ties,
                    carried_parts=lent, activities=tuple(activities), clocks=tuple(clocks), illegible=ids(broken),
                    illegible_activities=ids(odd))  # fmt: skip


def _unknown(found: _Legible, catalog: Catalog) -> Iterator[tuple[str, str]]:
    """Everything that the plan refers to and that is not there."""
    known = _Known(found, catalog)
    yield from known.errors
    taken: set[str] = set()
    pairs: dict[frozenset[str], str] = {}
    for k, tie in found.ties:
        if tie.id in taken:
            yield f"ties[{k}].id", f"{tie.id!r} is given twice"
        taken.add(tie.id)
        pair = frozenset((tie.lead, tie.to))
        if pair in pairs:
            yield f"ties[{k}]", f"{tie.lead!r} and {tie.to!r} are tied already, by {pairs[pair]!r}"
        pairs.setdefault(pair, tie.id)
        if split(tie.lead)[0] == BOARD:
            yield f"ties[{k}].lead", f"{tie.lead!r} is a contact of the board; a tie begins at a part's lead"
            continue
        ends = [("lead", tie.lead), ("to", tie.to)]
        ends += [(f"beads[{n}].{field}", rail) for n, b in enumerate(tie.beads) for field, rail in rails_of(b) if rail]
        for where, contact in ends:
            if why := known.fault(contact):
                yield f"ties[{k}].{where}", why
    yield from _unknown_in_activities(found, known)
    yield from _unknown_clocks(found, known)


def _unknown_clocks(found: _Legible, known: "_Known") -> Iterator[tuple[str, str]]:
    """Clocks of buses that are not there."""
    if known.board is None:
        return
    able = [f"{BOARD}.{name}" for name in known.board.peripherals if name.partition(":")[0] in ("i2c", "spi")]
    able += [f"{BOARD}.{pool.kind}:{ANY}" for pool in known.board.pools.values() if pool.kind in ("i2c", "spi")]
    units = [c.unit for _, c in found.clocks]
    for k, (place, clock) in enumerate(found.clocks):
        unit = re.split("[~@]", clock.unit)[0]
        if unit not in able and unit != "pins":
            yield f"clocks[{place}].unit", f"{clock.unit!r} is no bus of {known.board.title}{hint(unit, able)}"
        elif units.index(clock.unit) != k:
            yield f"clocks[{place}].unit", f"{clock.unit!r} is given twice"


def _unknown_in_activities(found: _Legible, known: "_Known") -> Iterator[tuple[str, str]]:
    ids = [a.id for _, a in found.activities]
    for k, activity in found.activities:
        if ids.count(activity.id) > 1 and ids.index(activity.id) != k:
            yield f"activities[{k}].id", f"{activity.id!r} is given twice"
        for n, part in enumerate(activity.parts):
            if part not in known.leads:
                yield f"activities[{k}].parts[{n}]", f"there is no part {part!r} in the plan{hint(part, known.leads)}"
        for n, other in enumerate(activity.excludes):
            if other not in ids and other not in found.illegible_activities:
                yield f"activities[{k}].excludes[{n}]", f"there is no activity {other!r}{hint(other, ids)}"
            elif other == activity.id:
                yield f"activities[{k}].excludes[{n}]", "an activity cannot exclude itself"


class _Known:
    """What a plan may refer to: the board's contacts, and each part's leads."""

    def __init__(self, found: _Legible, catalog: Catalog):
        self.errors: list[tuple[str, str]] = []
        self.board: Board | None = None
        self.leads: dict[str, list[str] | None] = dict.fromkeys(found.illegible)
        """by part id; nothing where the part itself is unknown"""
        if found.carried is not None:
            self._carried(found.carried, found.board, catalog)
        elif found.board is not None:
            try:
                self.board = catalog.board(found.board)
            except UnknownEntryError as error:
                self.errors.append(("board", str(error)))
        if self.board and found.scheme and found.scheme not in self.board.schemes:
            self.errors.append(("scheme", f"{found.scheme!r} is no name scheme of {self.board.title}"
                                f"{hint(found.scheme, self.board.schemes)}"))  # fmt: skip
        for k, setting in enumerate(found.set_up if self.board else ()):
            if self.board and setting not in self.board.settings:
                self.errors.append((f"set_up[{k}]", f"{setting!r} is no setting of {self.board.title}"
                                    f"{hint(setting, self.board.settings)}"))  # fmt: skip
        self.kinds: dict[str, PartKind | None] = {}
        """part files that the plan carries; nothing where one is unsound"""
        for k, lent in enumerate(found.carried_parts):
            self._carried_part(f"carried_parts[{k}]", lent, catalog)
        for k, placed in found.parts:
            self._part(f"parts[{k}]", placed, catalog)

    def _carried(self, board: Board, named: str | None, catalog: Catalog) -> None:
        """A board that comes with the plan has to be sound in itself, and cannot pass itself off as one of ours."""
        wrong = [(f"carried.{place}", why) for place, why in faults(board)]
        if board.id in catalog.shipped_ids("board"):
            wrong.append(("carried.id", f"{board.id!r} is a board that comes with the program; a plan does not carry those"))
        if named not in (None, board.id):
            wrong.append(("board", f"{named!r} is not the board that the plan carries, {board.id!r}"))
        self.errors += wrong
        self.board = None if wrong else board

    def _carried_part(self, place: str, lent: CarriedPart, catalog: Catalog) -> None:
        """A part that comes with the plan has to be sound in itself, and cannot pass itself off as one of ours."""
        from knotplan.exchange.part_file import PartFileError, loads

        wrong: list[tuple[str, str]] = []
        if lent.id in catalog.shipped_ids("part"):
            wrong = [("id", f"{lent.id!r} is a part that comes with the program; a plan does not carry those")]
        elif lent.id in self.kinds:
            wrong = [("id", f"{lent.id!r} is given twice")]
        try:
            self.kinds[lent.id] = loads("\n".join(lent.lines), lent.id)
        except PartFileError as error:
            wrong += error.errors
            self.kinds[lent.id] = None
        self.errors += [(f"{place}.{inside}".rstrip("."), why) for inside, why in wrong]

    def _part(self, place: str, placed: PlacedPart, catalog: Catalog) -> None:
        if not re.fullmatch(r"[a-z][a-z0-9_-]*", placed.id) or placed.id == BOARD:
            self.errors.append((f"{place}.id", f"{placed.id!r} is no id: small letters, digits, hyphens, not 'board'"))
        elif placed.id in self.leads:
            self.errors.append((f"{place}.id", f"{placed.id!r} is given twice"))
        kind = self.kinds.get(placed.part)
        if placed.part in self.kinds and kind is None:  # what is wrong with it has been said
            self.leads[placed.id] = None
            return
        try:
            kind = kind or catalog.kind(placed.part)
        except UnknownEntryError as error:
            self.errors.append((f"{place}.part", str(error)))
            self.leads[placed.id] = None
            return
        for param, why in kind.faults(placed.params):
            near = "" if param in kind.params else hint(param, kind.params)
            self.errors.append((f"{place}.params.{param}", f"{placed.params[param]!r} {why}{near}"))
        wrong = {name for name, _ in kind.faults(placed.params)}
        sound = {name: value for name, value in placed.params.items() if name not in wrong}
        self.leads[placed.id] = list(kind.make(sound).leads)

    def fault(self, contact: str) -> str | None:
        """Why a contact is none, with the nearest that is one; nothing where it is."""
        owner, name = split(contact)
        if owner == BOARD:
            return self._no_pin(contact, name) if self.board else None
        if owner not in self.leads:
            return f"{contact!r}: there is no part {owner!r} in the plan{hint(owner, self.leads)}"
        leads = self.leads[owner]
        if leads is None or name in leads:
            return None
        return f"{contact!r}: the part has no lead {name!r}{hint(name, leads)}; it has {', '.join(leads)}"

    def _no_pin(self, contact: str, name: str) -> str | None:
        assert self.board is not None
        if name in self.board.pins or name in self.board.sockets:
            return None
        meant = NameBook(self.board).pins(name)
        said = " or ".join(f"'board.{p}'" for p in meant)
        if meant:
            verb = "could mean" if len(meant) > 1 else "is perhaps"
            return f"{contact!r} is no contact of {self.board.title}; {name!r} {verb} {said}"
        return f"{contact!r} is no contact of {self.board.title}{hint(name, self.board.pins)}"
