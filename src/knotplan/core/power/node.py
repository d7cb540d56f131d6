"""One thing in the tree of supplies, and how things are found there."""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.power.activities import Amps, Worst

Kind = Literal["supply", "converter", "board", "rail", "hub", "load", "signals"]


class Node(Struct, frozen=True):
    """One thing in the tree: a supply, a rail, a converter, a hub that passes on, a load."""

    id: str
    kind: Kind
    title: str
    part: str = ""
    """the part that it is; empty for rails, the board and signals"""
    rail: str = ""
    """the board's rail that it is"""
    lead: str = ""
    """the lead through which it is fed"""
    total: Worst = Worst(0.0, 0.0, 0.0)
    """what it carries; of a converter or rail at its output, which its limit is about"""
    intake: Worst | None = None
    """what a converter or a made rail draws at its input, where that is another current"""
    limit_a: float | None = None
    volts: float = 0.0
    """usual, where others hang on it, or where it is fed"""
    least_v: float = 0.0
    """what is left of that at worst, after its cord"""
    usual_v: float = 0.0
    """what is left of it usually"""
    arrives_v: float = 0.0
    """of a converter: what is left at its input at worst"""
    arrives_usual_v: float = 0.0
    drop_v: float = 0.0
    """along its own cord, there and back, at worst"""
    needs_v: float | None = None
    """below this it does not work"""
    heat_w: float = 0.0
    """what a converter or regulator turns into heat at worst"""
    why: str = ""
    loads: dict[str, Amps] = {}
    """what hangs on it in the end, by part, as it counts at its input"""
    children: tuple["Node", ...] = ()

    @property
    def drawn(self) -> Worst:
        """What it draws from what feeds it."""
        return self.total if self.intake is None else self.intake

    @property
    def margin_a(self) -> float | None:
        """What is left up to its limit at worst, A; nothing where it has no limit."""
        return None if self.limit_a is None else self.limit_a - self.total.worst_a

    def walk(self) -> Iterator["Node"]:
        """It and everything below, from the top."""
        yield self
        for child in self.children:
            yield from child.walk()

    def leaves(self) -> Iterator["Node"]:
        """What a budget lists: everything that hangs on it, hubs looked
        through, converters and rails as one."""
        for child in self.children:
            if child.kind == "hub":
                yield from child.leaves()
            else:
                yield child


def find(roots: tuple[Node, ...], node_id: str) -> Node | None:
    """The node of an id."""
    return next((n for root in roots for n in root.walk() if n.id == node_id), None)


def contact_of(circuit: Circuit, node: Node) -> str:
    """Where a load is tied to hang on a node; empty where nothing can."""
    match node.kind:
        case "supply" | "converter" if node.part:
            return f"{node.part}.{circuit.supplies.on_bench[node.part].plus}"
        case "rail":
            return circuit.contacts.supply_contact(node.rail)
        case "hub":
            lead = circuit.contacts.lead(node.lead)
            return (
                node.lead
                if lead is not None and lead.offers is not None and lead.offers.kind == "supply"
                else ""
            )
    return ""
