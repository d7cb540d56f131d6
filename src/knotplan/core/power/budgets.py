"""Budgets: what each rail, bank and supply has to carry, usually and at worst, against its limit."""

from collections.abc import Iterable, Iterator

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import STEPPER_COILS
from knotplan.core.circuit.having import BANKS, having
from knotplan.core.circuit.nets import rail_name
from knotplan.core.engine.operating_points import known_points
from knotplan.core.memory.question import each, question, table
from knotplan.core.plan.document import BOARD, split
from knotplan.core.power.activities import Amps
from knotplan.core.power.budget import Budget, Item, pin_current
from knotplan.core.power.node import Node
from knotplan.core.power.tree import board_feeder, nodes_by_id, socket_name

SUPPLYING = ("supply", "converter")


def _pin_items(c: Circuit, contacts: Iterable[str]) -> tuple[Item, ...]:
    readings = known_points(c).pins
    carrying = [(p, pin_current(found)) for p in contacts if (found := readings.get(p)) is not None]
    return tuple(
        Item(f"{c.titles.of(p)} {c.titles.signal(c.ties.holders[p][0])}", *amps)
        for p, amps in _at_once(c, carrying)
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


@table
def budget_by_id(c: Circuit) -> dict[str, Budget]:
    """All budgets of a circuit, in the order in which they are shown: {kind and id: budget}."""
    supplies = (budget for budget in _supplies.all(c).values() if budget is not None)
    every = (*_rails(c), _own_pins(c), *_banks.all(c).values(), _feeding_the_board(c), *supplies)
    return {f"{budget.kind}:{budget.id}": budget for budget in every}


def budgets(c: Circuit) -> tuple[Budget, ...]:
    """The same without their ids."""
    return tuple(budget_by_id(c).values())


def _rails(c: Circuit) -> Iterator[Budget]:
    nodes = nodes_by_id(c)
    for rail_id in c.supplies.live_rails:
        node = nodes.get(rail_name(rail_id))
        if node is not None:
            yield _budget(node, rail_id, "rail", c.board.rails[rail_id].note)


@question
def _own_pins(c: Circuit) -> Budget:
    """The board's pins together."""
    own = tuple(p for p in c.ties.holders if split(p)[0] == BOARD)
    board = c.board
    return Budget(
        "pins", "Pins together", "pins", board.all_pins_a, _pin_items(c, own), board.all_pins_note, pins=own
    )


def _bank_ids(c: Circuit) -> list[tuple[str, str]]:
    """(board or hub, bank) of everything that has a limit in common."""
    own = [(BOARD, bank) for bank in c.board.banks]
    return own + [(part_id, bank) for part_id in having(c, BANKS) for bank in c.parts[part_id].banks]


@each(_bank_ids)
def _banks(c: Circuit, key: tuple[str, str]) -> Budget:
    """Of a bank of pins."""
    owner, bank_id = key
    if owner == BOARD:
        bank = c.board.banks[bank_id]
        budget_id, title, note = bank_id, bank.title, ""
    else:
        part = c.parts[owner]
        bank = part.banks[bank_id]
        budget_id, note = f"{owner}.{bank_id}", bank.title
        title = c.placed[owner].name + (f", {bank.title}" if len(part.banks) > 1 else "")
    pins = tuple(f"{owner}.{p}" for p in bank.pins)
    return Budget(budget_id, title, "bank", bank.limit_a, _pin_items(c, pins), note, pins=pins)


@question
def _feeding_the_board(c: Circuit) -> Budget:
    """What feeds the board."""
    first = nodes_by_id(c)[board_feeder(c) or socket_name(c.supplies.socket)]
    past = "feeds the board past its sockets"
    note = past if c.supplies.past_socket else c.board.sockets[c.supplies.socket].note
    return _budget(first, first.part or c.supplies.socket, "supply", note)


def _others(c: Circuit) -> list[str]:
    """Every other supply on the bench, in the order of the parts."""
    return [part_id for part_id in c.supplies.on_bench if part_id != board_feeder(c)]


@each(_others)
def _supplies(c: Circuit, part_id: str) -> Budget | None:
    """Of a supply that feeds over its leads."""
    node = nodes_by_id(c).get(part_id)
    return _budget(node, part_id, "supply", "") if node is not None and node.kind in SUPPLYING else None


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
