"""What a plan may refer to: the contacts of its board, and the leads of its parts."""

import re
from typing import Any

from knotplan.catalog.board.board import Board
from knotplan.catalog.board.check import MOST_FAULTS, hint
from knotplan.catalog.board.check import faults as board_faults
from knotplan.catalog.derived import derived
from knotplan.catalog.load import Catalog, UnknownEntryError
from knotplan.catalog.part.kind import PartKind
from knotplan.core.names.book import NameBook
from knotplan.core.plan.assumptions import BY_ID as ASSUMPTIONS
from knotplan.core.plan.document import BOARD, PlacedPart, Plan, split
from knotplan.core.plan.kinds import carried_faults, carried_kind, part_in
from knotplan.core.plan.validity.fault import Fault, Place, Unread

PART_ID = re.compile(r"[a-z][a-z0-9_-]*")


class Known:
    """What a plan may refer to: the board's contacts, and each part's leads."""

    def __init__(self, plan: Plan, catalog: Catalog, unread: Unread, sound: frozenset[int] = frozenset()):
        """`sound`: parts that were found so before."""
        self.faults: list[Fault] = []
        self._plan, self._catalog = plan, catalog
        self.parts: dict[str, frozenset[str] | PlacedPart | None] = dict.fromkeys(unread.parts)
        """the leads of each; a part whose leads nobody has asked for; nothing where the part itself is
        unknown"""
        self._books: dict[str, NameBook] = {}
        self.board = self._board(plan, catalog)
        if self.board is not None:
            self._spoken(plan, self.board)
        self._assumed(plan)
        self._lent: dict[str, PartKind | None] = {}
        """part files that the plan carries; nothing where one is unsound"""
        for k, lent in enumerate(plan.carried_parts):
            self._carried_part(k, lent, catalog)
        for k, placed in enumerate(plan.parts):
            if len(self.faults) > MOST_FAULTS:
                self.parts.setdefault(placed.id, None)  # enough has been said
                continue
            if id(placed) in sound and placed.id not in self.parts:
                self.parts[placed.id] = placed
            else:
                self._part(k, placed, catalog)

    def _assumed(self, plan: Plan) -> None:
        """Figures that nobody assumes, and values beyond their ranges."""
        for k, assumed in enumerate(plan.assumes):
            known = ASSUMPTIONS.get(assumed.id)
            place = ("assumes", k, "id")
            if known is None:
                near = hint(assumed.id, ASSUMPTIONS)
                self._add(place, f"nothing is assumed under the name {assumed.id!r}{near}", ("assumes", k))
            elif why := known.fault(assumed.value):
                self._add(("assumes", k, "value"), why, ("assumes", k))
            elif assumed.id in [a.id for a in plan.assumes[:k]]:
                self._add(place, f"{assumed.id!r} is given twice", ("assumes", k))

    def _add(self, place: Place, why: str, out: Place | None = None, *, dangles: bool = False) -> None:
        self.faults.append(Fault(place, why, place if out is None else out, dangles))

    def _board(self, plan: Plan, catalog: Catalog) -> Board | None:
        """The plan's board where it is sound. One that comes with the plan
        cannot pass itself off as one of ours."""
        if plan.carried is None:
            try:
                return catalog.board(plan.board)
            except UnknownEntryError as error:
                self._add(("board",), str(error))
                return None
        before = len(self.faults)
        for place, why in sound_board(plan.carried):
            self._add(("carried", place), why, ("carried",))
        if plan.carried.id in catalog.shipped_ids("board"):
            self._add(
                ("carried", "id"),
                f"{plan.carried.id!r} is a board that comes with the program; a plan does not carry those",
                ("carried",),
            )
        if plan.board != plan.carried.id:
            self._add(
                ("board",), f"{plan.board!r} is not the board that the plan carries, {plan.carried.id!r}"
            )
        return plan.carried if len(self.faults) == before else None

    def _spoken(self, plan: Plan, board: Board) -> None:
        """Names and settings that the board does not have."""
        if plan.scheme and plan.scheme not in board.schemes:
            self._add(
                ("scheme",),
                f"{plan.scheme!r} is no name scheme of {board.title}{hint(plan.scheme, board.schemes)}",
                dangles=True,
            )
        for k, setting in enumerate(plan.set_up):
            if setting not in board.settings:
                near = hint(setting, board.settings)
                self._add(("set_up", k), f"{setting!r} is no setting of {board.title}{near}", dangles=True)
            elif setting in plan.set_up[:k]:
                self._add(("set_up", k), f"{setting!r} is given twice")

    def _carried_part(self, k: int, lent: Any, catalog: Catalog) -> None:
        """A part that comes with the plan has to be sound in itself, and
        cannot pass itself off as one of ours."""
        if lent.id in catalog.shipped_ids("part"):
            self._add(
                ("carried_parts", k, "id"),
                f"{lent.id!r} is a part that comes with the program; a plan does not carry those",
                ("carried_parts", k),
            )
        elif lent.id in self._lent:
            self._add(("carried_parts", k, "id"), f"{lent.id!r} is given twice", ("carried_parts", k))
            return
        wrong = carried_faults(lent)
        for place, why in wrong:
            self._add(("carried_parts", k, *filter(None, [place])), why, ("carried_parts", k))
        self._lent[lent.id] = None if wrong else carried_kind(lent)

    def _part(self, k: int, placed: PlacedPart, catalog: Catalog) -> None:
        if not PART_ID.fullmatch(placed.id) or placed.id == BOARD:
            self._add(
                ("parts", k, "id"),
                f"{placed.id!r} is no id: small letters, digits, hyphens, not 'board'",
                ("parts", k),
            )
        elif self.parts.get(placed.id) is not None:
            self._add(("parts", k, "id"), f"{placed.id!r} is given twice", ("parts", k))
            return
        kind = self._lent.get(placed.part)
        if placed.part in self._lent and kind is None:  # what is wrong with it has been said
            self.parts[placed.id] = None
            return
        try:
            kind = kind or catalog.kind(placed.part)
        except UnknownEntryError as error:
            self._add(("parts", k, "part"), str(error), ("parts", k))
            self.parts[placed.id] = None
            return
        wrong = kind.faults(placed.params)
        for param, why in wrong:
            near = "" if param in kind.params else hint(param, kind.params)
            text = repr(placed.params[param])
            self._add(
                ("parts", k, "params", param), f"{text if len(text) < 80 else text[:80] + '…'} {why}{near}"
            )
        names = {name for name, _ in wrong}
        params = {name: value for name, value in placed.params.items() if name not in names}
        try:
            definite = kind.make(params) if placed.part in self._lent else catalog.part(placed.part, params)
        except (
            ValueError,
            KeyError,
            TypeError,
            RecursionError,
        ) as error:  # choices that go each by itself, not together
            self._add(("parts", k, "params"), f"these choices do not make a part: {error}")
            self.parts[placed.id] = None
            return
        self.parts[placed.id] = frozenset(definite.leads)

    def has_part(self, part: str) -> bool:
        """The plan has a part of this id, and its kind is known."""
        return part in self.parts

    def _leads(self, owner: str) -> frozenset[str] | None:
        leads = self.parts[owner]
        if isinstance(leads, PlacedPart):
            leads = self.parts[owner] = frozenset(part_in(self._plan, self._catalog, leads).leads)
        return leads

    def fault(self, contact: str) -> str | None:
        """Why a contact is none, with the nearest that is one; nothing where it is."""
        owner, name = split(contact)
        if owner == BOARD:
            return self._no_pin(contact, name) if self.board else None
        if owner not in self.parts:
            return f"{contact!r}: there is no part {owner!r} in the plan{hint(owner, self.parts)}"
        leads = self._leads(owner)
        if leads is None or name in leads:
            return None
        return (
            f"{contact!r}: the part has no lead {name!r}{hint(name, leads)}; it has "
            f"{', '.join(sorted(leads))}"
        )

    def _no_pin(self, contact: str, name: str) -> str | None:
        board = self.board
        assert board is not None
        if name in board.pins or name in board.sockets:
            return None
        if board.id not in self._books:
            self._books[board.id] = NameBook(board)
        meant = self._books[board.id].pins(name)
        text = " or ".join(f"'board.{p}'" for p in meant)
        if meant:
            verb = "could mean" if len(meant) > 1 else "is perhaps"
            return f"{contact!r} is no contact of {board.title}; {name!r} {verb} {text}"
        return f"{contact!r} is no contact of {board.title}{hint(name, board.pins)}"


@derived
def sound_board(board: Board) -> list[tuple[str, str]]:
    """What is wrong with a board that comes with a plan; looking at one takes longer than an edit may."""
    return list(board_faults(board))
