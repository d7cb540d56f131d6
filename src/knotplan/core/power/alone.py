"""What remains when USB alone feeds the bench: as it is while a program is being loaded."""

from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.beads import rails_of
from knotplan.core.plan.document import Plan, split
from knotplan.core.power.node import Node
from knotplan.core.power.one_sided import Backfed, backfed
from knotplan.core.power.tree import tree


class Alone(Struct, frozen=True):
    """The tree without the other supplies, what is dead then, and what feeds the dead ones."""

    roots: tuple[Node, ...]
    dead: tuple[Node, ...]
    """loads that get nothing, as they stand in the whole tree"""
    backfed: tuple[Backfed, ...]


def usb_feed(circuit: Circuit) -> str:
    """The part that feeds the board over a USB socket; empty where none does."""
    sockets = circuit.board.sockets
    return next((p for s, p in circuit.supplies.feeds.items() if sockets[s].plug == "USB"), "")


def usb_alone(circuit: Circuit, roots: tuple[Node, ...], catalog: Catalog) -> Alone:
    """The bench with every other supply off. Where no USB supply is planned, the
    board's first socket counts as plugged in."""
    feed, c = usb_feed(circuit), circuit
    others = {p for p, s in c.supplies.on_bench.items() if s.plus != s.minus and not s.fed_from and p != feed}
    if not others:
        return Alone(roots, (), ())
    quiet = Circuit(_without(c.plan, others), catalog)
    left = tree(quiet)
    alive = {_place(n) for n in _loads(left)}
    dead = {n.id: n for n in _loads(roots) if _place(n) not in alive}
    fed = [b for root in roots if root.id in others for b in backfed(c, root.id) if b.amps > 1e-5]
    return Alone(left, tuple(dead.values()), tuple(fed))


def _loads(roots: tuple[Node, ...]) -> Iterator[Node]:
    return (n for root in roots for n in root.walk() if n.kind == "load")


def _place(load: Node) -> str:
    """Where a load is fed, by a name that both trees know: nets may be called
    otherwise without the other supplies."""
    return load.lead or load.part


def _without(plan: Plan, parts: set[str]) -> Plan:
    """The plan with some parts taken off the bench."""

    def gone(contact: str) -> bool:
        return split(contact)[0] in parts

    ties = tuple(
        replace(t, beads=tuple(b for b in t.beads if not any(gone(rail) for _, rail in rails_of(b))))
        for t in plan.ties
        if not gone(t.lead) and not gone(t.to)
    )
    return replace(plan, parts=tuple(p for p in plan.parts if p.id not in parts), ties=ties)
