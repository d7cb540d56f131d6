"""Budgets: what each rail, bank and supply has to carry, usually and at worst, against its limit."""

from collections.abc import Iterable, Iterator

from msgspec import Struct

from knotplan.catalog.board.supply import Bank
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import STEPPER_COILS
from knotplan.core.engine.readings import Points, Reading
from knotplan.core.plan.document import BOARD, split
from knotplan.core.power.activities import Amps, Worst
from knotplan.core.power.tree import Node, tree


class Item(Struct, frozen=True):
    """One contribution, amperes."""

    title: str
    usual_a: float
    worst_a: float
    why: str = ""


class Budget(Struct, frozen=True):
    """A sum of currents against a limit."""

    id: str
    title: str
    kind: str
    """"rail", "pins", "bank" or "supply" """
    limit_a: float
    items: tuple[Item, ...]
    note: str = ""
    part: str = ""
    """the supply on the bench that it is about, if it is about one"""
    total: Worst | None = None
    """of supplies and rails: over what can happen together"""
    pins: tuple[str, ...] = ()
    """of banks, and of all pins together: the contacts"""

    @property
    def usual_a(self) -> float:
        """The usual current of everything in it, A."""
        return self.total.usual_a if self.total else sum(i.usual_a for i in self.items)

    @property
    def worst_a(self) -> float:
        """The current at worst, over what can happen together, A."""
        return self.total.worst_a if self.total else sum(i.worst_a for i in self.items)


def pin_current(readings: list[Reading]) -> tuple[float, float]:
    """(usual, worst) magnitude of a pin's current over its running cases."""
    running = [r for r in readings if r.case.moment == "running"]
    return max((abs(r.typ) for r in running), default=0.0), max((r.most for r in running), default=0.0)


def _pin_items(circuit: Circuit, points: Points, pins: Iterable[str]) -> tuple[Item, ...]:
    at_once = _at_once(circuit, [(p, pin_current(points.pins[p])) for p in pins if p in points.pins])
    return tuple(
        Item(f"{circuit.titles.of(p)} {circuit.titles.signal(circuit.ties.holders[p][0])}", *amps)
        for p, amps in at_once
        if amps[1] > 1e-7
    )


def _at_once(circuit: Circuit, amps_of: list[tuple[str, Amps]]) -> list[tuple[str, Amps]]:
    """Without the windings of steppers that are never on with the others."""
    coils: dict[str, list[tuple[str, Amps]]] = {}
    for contact, amps in amps_of:
        part_id = split(circuit.ties.holders[contact][0].lead)[0]
        if circuit.parts[part_id].facts.stepper is not None and split(contact)[0] != BOARD:
            coils.setdefault(part_id, []).append((contact, amps))
    idle = {
        contact
        for many in coils.values()
        for contact, _ in sorted(many, key=lambda m: -m[1][1])[STEPPER_COILS:]
    }
    return [(contact, amps) for contact, amps in amps_of if contact not in idle]


def budgets(circuit: Circuit, points: Points, roots: tuple[Node, ...] | None = None) -> tuple[Budget, ...]:
    """All budgets of a circuit, in the order in which they are shown."""
    roots = tree(circuit, points) if roots is None else roots
    nodes = [n for root in roots for n in root.walk()]
    board = circuit.board
    by_id = {n.rail: n for n in nodes if n.rail}
    rails = [
        _budget(by_id[r], r, "rail", board.rails[r].note) for r in circuit.supplies.live_rails if r in by_id
    ]
    own = tuple(p for p in circuit.ties.holders if split(p)[0] == BOARD)
    pins = Budget(
        "pins",
        "Pins together",
        "pins",
        board.all_pins_a,
        _pin_items(circuit, points, own),
        board.all_pins_note,
        pins=own,
    )
    banks = [_bank(circuit, points, BOARD, b, bank.title, bank) for b, bank in board.banks.items()]
    hubs = [
        _bank(
            circuit,
            points,
            p,
            f"{p}.{b}",
            circuit.placed[p].name + (f", {bank.title}" if len(part.banks) > 1 else ""),
            bank,
            bank.title,
        )
        for p, part in circuit.parts.items()
        for b, bank in part.banks.items()
    ]
    return (*rails, pins, *banks, *hubs, *_supplies(circuit, nodes))


def _bank(
    circuit: Circuit, points: Points, owner: str, budget_id: str, title: str, bank: Bank, note: str = ""
) -> Budget:
    pins = tuple(f"{owner}.{p}" for p in bank.pins)
    items = _pin_items(circuit, points, pins)
    return Budget(budget_id, title, "bank", bank.limit_a, items, note, pins=pins)


def _supplies(circuit: Circuit, nodes: list[Node]) -> Iterator[Budget]:
    """What feeds the board, then every other supply on the bench in the order of the parts."""
    by_id = {n.id: n for n in nodes if n.kind in ("supply", "converter")}
    first = nodes[0].id
    socket = circuit.board.sockets[circuit.supplies.socket]
    yield _budget(
        by_id[first],
        by_id[first].part or circuit.supplies.socket,
        "supply",
        "feeds the board past its sockets" if circuit.supplies.past_socket else socket.note,
    )
    for part_id in circuit.supplies.on_bench:
        if part_id != first and part_id in by_id:
            yield _budget(by_id[part_id], part_id, "supply", "")


def _budget(node: Node, budget_id: str, kind: str, note: str) -> Budget:
    items = tuple(Item(_title(n), n.drawn.usual_a, n.drawn.worst_a, n.why) for n in _items(node))
    return Budget(
        budget_id,
        node.title,
        kind,
        node.limit_a or 0.0,
        items,
        note,
        node.part,
        node.total,
    )


def _items(node: Node) -> Iterator[Node]:
    """What a budget lists; of what feeds the board, the rail's own items."""
    for leaf in node.leaves():
        yield from leaf.leaves() if node.kind == "supply" and leaf.kind == "rail" else [leaf]


def _title(node: Node) -> str:
    match node.kind:
        case "rail":
            return f"for the {node.title}"
        case "converter":
            return f"{node.title} and what hangs on it"
    return node.title
