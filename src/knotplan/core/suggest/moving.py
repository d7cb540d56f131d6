"""A plan on another board: which ties carry over by what they need, which change, which cannot be met."""

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.board.board import Board
from knotplan.catalog.load import Catalog
from knotplan.catalog.part.needs import Analog, Bus, Feed, Ground, Need, Pulse, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Fit, Grade, fits
from knotplan.core.plan.beads import Bead, rails_of
from knotplan.core.plan.document import BOARD, Plan, Tie, split

ORDER: tuple[type, ...] = (Bus, Analog, Pulse)
"""needs that few pins meet choose first"""


class MovedTie(Struct, frozen=True):
    """What becomes of one tie."""

    tie: str
    lead: str
    was: str
    now: str
    """the new contact's title; empty where nothing can take it"""
    grade: Grade
    reason: str


class Moved(Struct, frozen=True):
    """The plan as it would be, and what becomes of each tie that ends on the board."""

    plan: Plan
    ties: tuple[MovedTie, ...]

    def count(self, *grades: Grade) -> int:
        """How many ties have one of these grades."""
        return sum(t.grade in grades for t in self.ties)


def move(plan: Plan, catalog: Catalog, board: Board, *, carried: bool = False) -> Moved:
    """The plan on another board. Nothing is kept that the new board cannot do; what falls away is listed."""
    old = Circuit(plan, catalog)
    on_board = [t for t in plan.ties if split(t.to)[0] == BOARD]
    bare = replace(
        plan,
        board=board.id,
        carried=board if carried else None,
        set_up=(),
        scheme=plan.scheme if plan.scheme in board.schemes else "",
        ties=tuple(_laid(t, t.to, old, board) for t in plan.ties if t not in on_board),
        accepted=tuple(a for a in plan.accepted if not any(split(s)[0] == BOARD for s in a.subjects)),
    )
    moved = {t.id: t for t in bare.ties}
    fates: dict[str, MovedTie] = {}
    grounds: dict[str, str] = {}
    """what was on one ground pin stays on one, what was on two is on two if there are as many"""
    for tie in sorted(on_board, key=lambda t: _rank(old.needs.of(t.lead))):
        now = replace(bare, ties=tuple(moved.values()))
        circuit = Circuit(now, catalog)
        answer = _answer(circuit, old, tie, grounds)
        able = answer is not None and answer.grade < Grade.IMPOSSIBLE
        if answer is not None and able:
            moved[tie.id] = _laid(tie, answer.contact, old, board)
            if old.nets.is_ground(tie.to):
                grounds.setdefault(tie.to, answer.contact)
        fates[tie.id] = MovedTie(
            tie.id,
            old.titles.of(tie.lead),
            old.titles.full(tie.to),
            circuit.titles.full(answer.contact) if answer and able else "",
            answer.grade if answer else Grade.IMPOSSIBLE,
            answer.reason if answer else f"nothing on {board.title} is like it",
        )
    kept = tuple(moved[t.id] for t in plan.ties if t.id in moved)
    return Moved(replace(bare, ties=kept), tuple(fates[t.id] for t in on_board))


def _rank(need: Need) -> int:
    """Power first, because everything else is measured against it; then what is rare; then the rest."""
    if isinstance(need, Supply | Ground):
        return 1
    kind = next((k for k, kinds in enumerate(ORDER) if isinstance(need, kinds)), len(ORDER))
    return 0 if isinstance(need, Feed) else 2 + kind


def _answer(circuit: Circuit, old: Circuit, tie: Tie, grounds: dict[str, str]) -> Fit | None:
    """The new contact: of the best, the one that most resembles the old one; a need keeps its kind. Where
    none is able, the answer of the one that comes nearest."""
    kind = _side(old, tie.to)
    alike = [
        f
        for f in fits(circuit, tie.lead)
        if split(f.contact)[0] == BOARD and _side(circuit, f.contact) == kind
    ]
    able = [f for f in alike if f.grade < Grade.IMPOSSIBLE]
    if not able:
        was = old.supplies.origin(tie.to)
        return min(
            alike, key=lambda f: _apart(circuit, f.contact, was.volts.typ if was else 0.0), default=None
        )
    if kind == "ground":
        fresh = [f for f in able if f.contact not in grounds.values()]
        return next((f for f in able if f.contact == grounds.get(tie.to)), (fresh or able)[0])
    if kind == "supply":  # the rail nearest in voltage, so that levels stay what they were
        was = old.supplies.origin(tie.to)
        volts = was.volts.typ if was else 0.0
        return min(able, key=lambda f: (_apart(circuit, f.contact, volts), f.grade, f.cost))
    best = [f for f in able if f.grade == able[0].grade or f.grade <= Grade.GOOD]
    names = set(_names(old, tie.to))
    return min(best, key=lambda f: (-len(names & set(_names(circuit, f.contact))), f.cost))


def _apart(circuit: Circuit, contact: str, volts: float) -> float:
    """How far the voltage of a contact lies from another."""
    origin = circuit.supplies.origin(contact)
    return abs(origin.volts.typ - volts) if origin else 99.0


def _side(circuit: Circuit, contact: str) -> str:
    pin = circuit.contacts.pin(contact)
    return pin.kind if pin else "socket"


def _names(circuit: Circuit, contact: str) -> list[str]:
    pin = circuit.contacts.pin(contact)
    return [f"{s}:{n.casefold()}" for s, n in pin.names.items() if s != "position"] if pin else []


def _laid(tie: Tie, contact: str, old: Circuit, board: Board) -> Tie:
    """The tie on its new contact; a pull-up goes to the rail of the pin that it holds, or to the one
    nearest in voltage to where it was, and falls away where the board brings out none."""
    pin = board.pins.get(split(contact)[1]) if split(contact)[0] == BOARD else None
    own = board.drivers[pin.driver].rail if pin and pin.kind == "io" else ""
    beads: list[Bead] = []
    for bead in tie.beads:
        now: dict[str, str] = {}
        for field, rail in rails_of(bead):
            if split(rail)[0] == BOARD:
                was = old.supplies.origin(rail)
                # the pin's own rail holds it, but what was on the lead's side stays near its voltage
                now[field] = _supply_pin(
                    board, "" if field == "lead_rail" else own, was.volts.typ if was else board.logic_v
                )
        if all(now.values()):
            beads.append(replace(bead, **now))
    return replace(tie, to=contact, beads=tuple(beads))


def _supply_pin(board: Board, rail: str, volts: float) -> str:
    """A pin of a rail, or of the one nearest to a voltage; empty where there is no supply pin."""
    pins = {f"{BOARD}.{i}": p.rail for i, p in board.pins.items() if p.kind == "supply"}
    return min(pins, key=lambda i: (pins[i] != rail, abs(board.rails[pins[i]].volts.typ - volts)), default="")
