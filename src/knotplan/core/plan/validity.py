"""What makes a plan valid, said once: readers, edits and tests ask here.

A plan is valid when it can be written and read again as it is (texts and numbers that a file can hold), when its ids are
unique, and when everything that it refers to is there.
"""

import math
import re
from collections.abc import Iterable, Iterator
from typing import Any

import msgspec
from msgspec.structs import replace

from knotplan.catalog.board_check import MOST_FAULTS, hint
from knotplan.catalog.board_check import faults as board_faults
from knotplan.catalog.boards import ANY, Board
from knotplan.catalog.load import Catalog, UnknownEntryError
from knotplan.catalog.parts import PartKind
from knotplan.core.names.book import NameBook
from knotplan.core.plan.beads import rails_of
from knotplan.core.plan.document import BOARD, Activity, PlacedPart, Plan, Tie, split
from knotplan.core.plan.kinds import carried_faults, carried_kind
from knotplan.core.quantity.series import SERIES

Place = tuple[str | int, ...]
"""the way to a value from the top of a plan, such as ("ties", 3, "beads", 0, "rail")"""
PART_ID = re.compile(r"[a-z][a-z0-9_-]*")
MOST_LETTERS = 2000
"""of one text; a name that anybody reads is shorter by far"""
MOST_OF = {"parts": 20_000, "ties": 60_000, "activities": 2_000, "accepted": 20_000, "clocks": 2_000, "carried_parts": 500,
           "set_up": 500}  # fmt: skip
"""how many of each a plan may have"""
MOST_ROUNDS = 12
"""what is left out may take along what referred to it, and that again something"""
MOST_BEADS = 50
"""in one tie"""


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


def faults(plan: Plan, catalog: Catalog, since: Plan | None = None, unread: Unread = ALL_READ) -> Iterator[Fault]:
    """Everything that makes a plan invalid; nothing where it is valid. `since` is an earlier plan that was valid: what both
    have is not looked at again."""
    yield from _written(plan, since)
    if plan.series not in SERIES:
        yield Fault(("series",), f"{plan.series!r} is no series of preferred values{hint(plan.series, SERIES)}", ("series",))
    known = _Known(plan, catalog, unread)
    yield from known.faults
    same = since is not None and since.parts == plan.parts and since.carried_parts == plan.carried_parts and (
        since.board == plan.board and since.carried is plan.carried)  # fmt: skip
    yield from _ties(plan, known, _identities(since.ties) if same and since else frozenset())
    yield from _roles(plan)
    yield from _activities(plan, known, unread)
    yield from _clocks(plan, known)


def spelled(place: Place) -> str:
    """A place as messages say it.

    >>> spelled(("ties", 3, "beads", 0, "rail"))
    'ties[3].beads[0].rail'
    """
    return "".join(f"[{p}]" if isinstance(p, int) else f".{p}" for p in place).lstrip(".")


def settled(plan: Plan, catalog: Catalog) -> Plan | None:
    """The plan without what makes it invalid, and without what refers to that; nothing where its board cannot be told."""
    for _ in range(MOST_ROUNDS):
        wrong = list(faults(plan, catalog))
        if not wrong:
            return plan
        if any(f.out[0] in ("board", "carried") or f.out[-1] == "name" for f in wrong):
            return None
        plan = without(plan, wrong)
    return None


# --- leaving out ---------------------------------------------------------------------------------


def without(plan: Plan, found: Iterable[Fault]) -> Plan:
    """The plan without what the faults ask to be left out."""
    outs = {f.out for f in found}
    if not outs:
        return plan
    tree = _copied(msgspec.to_builtins(replace(plan, carried=None)))
    for out in sorted(outs, key=_backwards, reverse=True):
        leave_out(tree, out)
    return replace(msgspec.convert(tree, Plan), carried=plan.carried)


def _backwards(place: Place) -> list[tuple[int, str]]:
    """Sorts so that what is left out first does not move what is left out later."""
    return [(p, "") if isinstance(p, int) else (-1, p) for p in place]


def leave_out(tree: Any, place: Place) -> None:
    """Takes one value out of a tree of dictionaries and lists, where it is there."""
    *way, last = place
    try:
        for step in way:
            tree = tree[step]
        del tree[last]
    except (KeyError, IndexError, TypeError):
        return  # something that holds it has been left out


def _copied(tree: Any) -> Any:
    if isinstance(tree, dict):
        return {k: _copied(v) for k, v in tree.items()}
    return [_copied(v) for v in tree] if isinstance(tree, list | tuple) else tree


# --- texts and numbers ----------------------------------------------------------------------------


def _identities(things: Iterable[object]) -> frozenset[int]:
    return frozenset(map(id, things))


def _written(plan: Plan, since: Plan | None) -> Iterator[Fault]:
    """What a file cannot hold: half a letter, no number, more of anything than anybody has."""
    for field in plan.__struct_fields__:
        value = getattr(plan, field)
        if isinstance(value, tuple):
            most = MOST_OF[field]
            if len(value) > most:
                yield from (Fault((field, k), f"there are more {field} than a plan can have ({most})", (field, k))
                            for k in range(most, len(value)))  # fmt: skip
            seen = _identities(getattr(since, field)) if since is not None else frozenset()
            for k, item in enumerate(value):
                if id(item) not in seen:
                    long = field == "carried_parts"
                    yield from (Fault((field, k, *place), why, (field, k)) for place, why in _unwritable(item, long=long))
        elif field != "carried":
            yield from (Fault((field,), why, (field,)) for _, why in _unwritable(value))


def _unwritable(value: Any, place: Place = (), *, long: bool = False) -> Iterator[tuple[Place, str]]:
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
    """Why a text cannot be in a plan; nothing where it can. A lone surrogate is half a letter (Unicode 3.9, D91): no file
    in UTF-8 holds it."""
    if len(text) > MOST_LETTERS and not long:
        return f"{text[:20]!r}… has {len(text)} letters; at most {MOST_LETTERS} are kept"
    if not text.isascii():
        try:
            text.encode("utf-8")
        except UnicodeEncodeError as error:
            return f"letter {error.start + 1} is half a letter (U+{ord(text[error.start]):04X}), which no file can hold"
    return None


# --- what refers to what --------------------------------------------------------------------------


def _ties(plan: Plan, known: "_Known", sound: frozenset[int]) -> Iterator[Fault]:
    """Two of one name, two of one pair, and ends that are not there; `sound` are ties whose ends were there before."""
    taken: set[str] = set()
    pairs: dict[tuple[str, str], str] = {}
    for k, tie in enumerate(plan.ties):
        if tie.id in taken:
            yield Fault(("ties", k, "id"), f"{tie.id!r} is given twice", ("ties", k))
        taken.add(tie.id)
        pair = (tie.lead, tie.to) if tie.lead < tie.to else (tie.to, tie.lead)
        if pair in pairs:
            yield Fault(("ties", k), f"{tie.lead!r} and {tie.to!r} are tied already, by {pairs[pair]!r}", ("ties", k))
        pairs.setdefault(pair, tie.id)
        if id(tie) not in sound:
            yield from _ends(k, tie, known)


def _ends(k: int, tie: Tie, known: "_Known") -> Iterator[Fault]:
    if split(tie.lead)[0] == BOARD:
        yield Fault(("ties", k, "lead"), f"{tie.lead!r} is a contact of the board; a tie begins at a part's lead", ("ties", k))
        return
    if tie.lead == tie.to:
        yield Fault(("ties", k, "to"), f"{tie.lead!r} is tied to itself", ("ties", k))
    for field, contact in (("lead", tie.lead), ("to", tie.to)):
        if (why := known.fault(contact)) is not None:
            yield Fault(("ties", k, field), why, ("ties", k), True)
    for n, bead in enumerate(tie.beads):
        for field, rail in rails_of(bead):
            if rail and (why := known.fault(rail)) is not None:
                yield Fault(("ties", k, "beads", n, field), why, ("ties", k, "beads", n), True)


def _roles(plan: Plan) -> Iterator[Fault]:
    """Two wires of one name would be two constants of one name in the program."""
    held: dict[str, str] = {}
    for k, tie in enumerate(plan.ties):
        if tie.role:
            other = held.setdefault(tie.role.lower(), tie.id)
            if other != tie.id:
                yield Fault(("ties", k, "role"), f"{tie.role!r} is the role of {other!r} already", ("ties", k, "role"))


def _activities(plan: Plan, known: "_Known", unread: Unread) -> Iterator[Fault]:
    ids = [a.id for a in plan.activities]
    seen: set[str] = set()
    for k, activity in enumerate(plan.activities):
        if activity.id in seen:
            yield Fault(("activities", k, "id"), f"{activity.id!r} is given twice", ("activities", k))
        seen.add(activity.id)
        yield from _in_activity(k, activity, known, ids, unread)


def _in_activity(k: int, activity: Activity, known: "_Known", ids: list[str], unread: Unread) -> Iterator[Fault]:
    for n, part in enumerate(activity.parts):
        place = ("activities", k, "parts", n)
        if not known.has_part(part):
            yield Fault(place, f"there is no part {part!r} in the plan{hint(part, known.leads)}", place, True)
        elif part in activity.parts[:n]:
            yield Fault(place, f"{part!r} is given twice", place)
    for n, other in enumerate(activity.excludes):
        place = ("activities", k, "excludes", n)
        if other not in ids and other not in unread.activities:
            yield Fault(place, f"there is no activity {other!r}{hint(other, ids)}", place, True)
        elif other == activity.id:
            yield Fault(place, "an activity cannot exclude itself", place)


def _clocks(plan: Plan, known: "_Known") -> Iterator[Fault]:
    """Clocks of buses that are not there."""
    if known.board is None:
        return
    able = [f"{BOARD}.{name}" for name in known.board.peripherals if name.partition(":")[0] in ("i2c", "spi")]
    able += [f"{BOARD}.{pool.kind}:{ANY}" for pool in known.board.pools.values() if pool.kind in ("i2c", "spi")]
    seen: set[str] = set()
    for k, clock in enumerate(plan.clocks):
        unit = re.split("[~@]", clock.unit)[0]
        if unit not in able and unit != "pins":
            why = f"{clock.unit!r} is no bus of {known.board.title}{hint(unit, able)}"
            yield Fault(("clocks", k, "unit"), why, ("clocks", k), True)
        elif clock.unit in seen:
            yield Fault(("clocks", k, "unit"), f"{clock.unit!r} is given twice", ("clocks", k))
        seen.add(clock.unit)


class _Known:
    """What a plan may refer to: the board's contacts, and each part's leads."""

    def __init__(self, plan: Plan, catalog: Catalog, unread: Unread):
        self.faults: list[Fault] = []
        self.leads: dict[str, frozenset[str] | None] = dict.fromkeys(unread.parts)
        """by part id; nothing where the part itself is unknown"""
        self._books: dict[str, NameBook] = {}
        self.board = self._board(plan, catalog)
        if self.board is not None:
            self._spoken(plan, self.board)
        self._lent: dict[str, PartKind | None] = {}
        """part files that the plan carries; nothing where one is unsound"""
        for k, lent in enumerate(plan.carried_parts):
            self._carried_part(k, lent, catalog)
        for k, placed in enumerate(plan.parts):
            if len(self.faults) > MOST_FAULTS:
                self.leads.setdefault(placed.id, None)  # enough has been said
                continue
            self._part(k, placed, catalog)

    def _add(self, place: Place, why: str, out: Place | None = None, *, dangles: bool = False) -> None:
        self.faults.append(Fault(place, why, place if out is None else out, dangles))

    def _board(self, plan: Plan, catalog: Catalog) -> Board | None:
        """The plan's board where it is sound. One that comes with the plan cannot pass itself off as one of ours."""
        if plan.carried is None:
            try:
                return catalog.board(plan.board)
            except UnknownEntryError as error:
                self._add(("board",), str(error))
                return None
        before = len(self.faults)
        for place, why in _sound_board(plan.carried):
            self._add(("carried", place), why, ("carried",))
        if plan.carried.id in catalog.shipped_ids("board"):
            self._add(("carried", "id"), f"{plan.carried.id!r} is a board that comes with the program; a plan does not carry "
                      "those", ("carried",))  # fmt: skip
        if plan.board != plan.carried.id:
            self._add(("board",), f"{plan.board!r} is not the board that the plan carries, {plan.carried.id!r}")
        return plan.carried if len(self.faults) == before else None

    def _spoken(self, plan: Plan, board: Board) -> None:
        """Names and settings that the board does not have."""
        if plan.scheme and plan.scheme not in board.schemes:
            self._add(("scheme",), f"{plan.scheme!r} is no name scheme of {board.title}{hint(plan.scheme, board.schemes)}",
                      dangles=True)  # fmt: skip
        for k, setting in enumerate(plan.set_up):
            if setting not in board.settings:
                near = hint(setting, board.settings)
                self._add(("set_up", k), f"{setting!r} is no setting of {board.title}{near}", dangles=True)
            elif setting in plan.set_up[:k]:
                self._add(("set_up", k), f"{setting!r} is given twice")

    def _carried_part(self, k: int, lent: Any, catalog: Catalog) -> None:
        """A part that comes with the plan has to be sound in itself, and cannot pass itself off as one of ours."""
        if lent.id in catalog.shipped_ids("part"):
            self._add(("carried_parts", k, "id"), f"{lent.id!r} is a part that comes with the program; a plan does not carry "
                      "those", ("carried_parts", k))  # fmt: skip
        elif lent.id in self._lent:
            self._add(("carried_parts", k, "id"), f"{lent.id!r} is given twice", ("carried_parts", k))
            return
        wrong = carried_faults(lent)
        for place, why in wrong:
            self._add(("carried_parts", k, *filter(None, [place])), why, ("carried_parts", k))
        self._lent[lent.id] = None if wrong else carried_kind(lent)

    def _part(self, k: int, placed: PlacedPart, catalog: Catalog) -> None:
        if not PART_ID.fullmatch(placed.id) or placed.id == BOARD:
            self._add(("parts", k, "id"), f"{placed.id!r} is no id: small letters, digits, hyphens, not 'board'", ("parts", k))
        elif self.leads.get(placed.id) is not None:
            self._add(("parts", k, "id"), f"{placed.id!r} is given twice", ("parts", k))
            return
        kind = self._lent.get(placed.part)
        if placed.part in self._lent and kind is None:  # what is wrong with it has been said
            self.leads[placed.id] = None
            return
        try:
            kind = kind or catalog.kind(placed.part)
        except UnknownEntryError as error:
            self._add(("parts", k, "part"), str(error), ("parts", k))
            self.leads[placed.id] = None
            return
        wrong = kind.faults(placed.params)
        for param, why in wrong:
            near = "" if param in kind.params else hint(param, kind.params)
            said = repr(placed.params[param])
            self._add(("parts", k, "params", param), f"{said if len(said) < 80 else said[:80] + '…'} {why}{near}")
        names = {name for name, _ in wrong}
        params = {name: value for name, value in placed.params.items() if name not in names}
        try:
            made = kind.make(params) if placed.part in self._lent else catalog.part(placed.part, params)
        except (ValueError, KeyError, TypeError, RecursionError) as error:  # choices that go each by itself, not together
            self._add(("parts", k, "params"), f"these choices do not make a part: {error}")
            self.leads[placed.id] = None
            return
        self.leads[placed.id] = frozenset(made.leads)

    def has_part(self, part: str) -> bool:
        return part in self.leads

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
        return f"{contact!r}: the part has no lead {name!r}{hint(name, leads)}; it has {', '.join(sorted(leads))}"

    def _no_pin(self, contact: str, name: str) -> str | None:
        board = self.board
        assert board is not None
        if name in board.pins or name in board.sockets:
            return None
        if board.id not in self._books:
            self._books[board.id] = NameBook(board)
        meant = self._books[board.id].pins(name)
        said = " or ".join(f"'board.{p}'" for p in meant)
        if meant:
            verb = "could mean" if len(meant) > 1 else "is perhaps"
            return f"{contact!r} is no contact of {board.title}; {name!r} {verb} {said}"
        return f"{contact!r} is no contact of {board.title}{hint(name, board.pins)}"


_looked_at: dict[int, tuple[Board, list[tuple[str, str]]]] = {}
"""the last board that came with a plan, and what is wrong with it: looking at one takes longer than an edit may"""


def _sound_board(board: Board) -> list[tuple[str, str]]:
    kept = _looked_at.get(id(board))
    if kept is None or kept[0] is not board:
        _looked_at.clear()
        kept = _looked_at[id(board)] = (board, board_faults(board))
    return kept[1]
