"""What remains when USB alone feeds the bench: as it is while a program is being loaded."""

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.core.circuit import Circuit
from knotplan.core.plan import Plan, Tie
from knotplan.core.points import operating_points
from knotplan.core.power.one_sided import Backfed, backfed
from knotplan.core.power.tree import Node, tree


class Alone(Struct, frozen=True):
    """The tree without the other supplies, what is dead then, and what feeds the dead ones."""

    roots: tuple[Node, ...]
    dead: tuple[Node, ...]
    """loads that get nothing, as they stand in the whole tree"""
    backfed: tuple[Backfed, ...]


def usb_feed(circuit: Circuit) -> str:
    """The part that feeds the board over a USB socket; empty where none does."""
    return next((p for s, p in circuit.feeds.items() if "usb" in f"{s} {circuit.board.sockets[s].title}".lower()), "")


def usb_alone(circuit: Circuit, roots: tuple[Node, ...], catalog: Catalog) -> Alone:
    """The bench with every other supply off. Where no USB supply is planned, the board's first socket counts as plugged in."""
    feed, c = usb_feed(circuit), circuit
    others = {p for p, s in c.bench_sources.items() if s.plus != s.minus and not s.fed_from and p != feed}
    if not others:
        return Alone(roots, (), ())
    quiet = Circuit(_without(c.plan, others), catalog)
    left = tree(quiet, operating_points(quiet))
    alive = {p for r in left for n in r.walk() for p in n.loads}
    dead = {n.id: n for r in roots for n in r.walk() if n.kind == "load" and n.part not in alive}
    fed = [b for root in roots if root.id in others for b in backfed(c, roots, root.id) if b.amps > 1e-5]
    return Alone(left, tuple(dead.values()), tuple(fed))


def _without(plan: Plan, parts: set[str]) -> Plan:
    """The plan with some parts taken off the bench."""
    ties = tuple(t for t in plan.ties if not {t.lead.partition(".")[0], t.to.partition(".")[0]} & parts)

    def fed(tie: Tie) -> Tie:
        return replace(tie, beads=tuple(b for b in tie.beads if getattr(b, "rail", "").partition(".")[0] not in parts))

    return replace(plan, parts=tuple(p for p in plan.parts if p.id not in parts), ties=tuple(map(fed, ties)))
