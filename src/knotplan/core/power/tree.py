"""The tree of supplies: what feeds what, what each has to carry, and what arrives at its end.

Currents are summed from the loads upwards; at a converter they are changed to its input's side,
``I_in = I_out V_out / (V_in eta)``, a linear one passes them on. Voltages are taken from the
supplies downwards, at their least and with every current at its worst: ``V = V_supply - R_source I -
R_cord I``, the cord there and back.
"""

from collections.abc import Iterator
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.part.needs import Supply
from knotplan.catalog.part.source import Source
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import parent_contact, tie_ohm
from knotplan.core.circuit.nets import rail_name
from knotplan.core.engine.readings import Points
from knotplan.core.plan.beads import Diode, SeriesResistor
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.power.activities import Amps, Worst, worst
from knotplan.core.power.demand import Demand, demands

Kind = Literal["supply", "converter", "board", "rail", "hub", "load", "signals"]
DIODE_V = 0.4


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


def socket_name(socket_id: str) -> str:
    """What a socket is called in the tree, where it is not known what is plugged into it."""
    return f"socket:{socket_id}"


def tree(circuit: Circuit, points: Points) -> tuple[Node, ...]:
    """The roots: every supply that nothing else feeds, what feeds the board first."""
    return _Grower(circuit, points).roots()


def find(roots: tuple[Node, ...], node_id: str) -> Node | None:
    """The node of an id."""
    return next((n for root in roots for n in root.walk() if n.id == node_id), None)


class _Grower:
    """Puts every demand under what feeds it."""

    def __init__(self, circuit: Circuit, points: Points):
        self.c = circuit
        self.sources = {p: s for p, s in circuit.supplies.on_bench.items() if s.plus != s.minus}
        self.plus_of = {circuit.nets.of(f"{p}.{s.plus}"): p for p, s in reversed(self.sources.items())}
        self.rails = {circuit.nets.of(rail_name(r)): r for r in reversed(circuit.supplies.live_rails)}
        self.below: dict[str, list[Demand]] = {}
        """what hangs on each node, by the node's id: a hub's lead, a supply's part, a rail"""
        self.hubs: dict[str, list[str]] = {}
        """hubs' leads that pass on, under the node that feeds them"""
        placed: set[str] = set()
        for demand in demands(circuit, points):
            home = self._home(demand.lead, demand.net)
            self.below.setdefault(home, []).append(demand)
            self._lead_up(home, placed)

    def _lead_up(self, home: str, placed: set[str]) -> None:
        """Hubs on the way to the supply."""
        while "." in home and home not in placed:
            placed.add(home)
            above = self._home(home, self.c.supplies.fed_by(home))
            self.hubs.setdefault(above, []).append(home)
            home = above

    def _home(self, lead: str, net: str) -> str:
        """The node that a lead hangs on: a hub's own lead, else what gives the net its voltage."""
        contact = parent_contact(self.c, lead) if lead else ""
        owner = split(contact)[0]
        passes = (
            owner in self.c.parts
            and owner not in self.sources
            and owner != split(lead)[0]
            and self.c.ties.of(contact) is not None
            and self.c.supplies.fed_by(contact) == net
        )
        if passes:
            return contact
        return self._origin(net)

    def _origin(self, net: str) -> str:
        if net in self.rails:
            return rail_name(self.rails[net])
        return self.plus_of.get(net, net)

    # --- growing ------------------------------------------------------------------------------

    def roots(self) -> tuple[Node, ...]:
        c, made = self.c, []
        feeder = c.supplies.past_socket or c.supplies.feeds.get(c.supplies.socket, "")
        made.append(self._board_feed(feeder))
        for part_id, source in self.sources.items():
            if part_id != feeder and not (source.fed_from and self._fed(part_id, source)):
                made.append(self._supply(part_id, source))
        return tuple(made)

    def _fed(self, part_id: str, source: Source) -> bool:
        """A converter that something feeds stands under that."""
        fed, out = (
            self.c.supplies.fed_by(f"{part_id}.{source.fed_from}"),
            self.c.nets.of(f"{part_id}.{source.plus}"),
        )
        return fed in self.c.supplies.origins and fed != out

    def _board_feed(self, feeder: str) -> Node:
        """What feeds the board, with the board's rails below it."""
        c = self.c
        socket, rail = c.board.sockets[c.supplies.socket], c.board.rails[c.supplies.fed_rail]
        source = c.parts[feeder].source if feeder else None
        volts = (
            c.supplies.origins[c.nets.of(rail_name(c.supplies.fed_rail))].volts
            if c.nets.of(rail_name(c.supplies.fed_rail)) in c.supplies.origins
            else rail.volts
        )
        if source is None:
            limit = socket.limit_a
        elif c.supplies.past_socket:
            limit = source.limit_a
        else:
            limit = min(socket.limit_a, source.limit_a)
        title = c.placed[feeder].name if feeder else f"{socket.title} (assumed)"
        least = source.volts.min if source else volts.min
        below = self._rail(c.supplies.fed_rail)
        amps = rail.own_usual_a, rail.own_worst_a
        own = Node(
            BOARD,
            "board",
            c.board.title,
            total=Worst(*amps, amps[1]),
            volts=volts.typ,
            least_v=volts.min,
            why="the board itself",
            loads={BOARD: amps},
        )
        return self._summed(
            feeder or socket_name(c.supplies.socket),
            "supply",
            title,
            (own, below),
            part=feeder,
            limit_a=limit,
            volts=source.volts.typ if source else volts.typ,
            least_v=least,
            source_ohm=source.source_ohm if source else 0.0,
        )

    def _rail(self, rail_id: str) -> Node:
        """One of the board's rails, with those made from it."""
        c, rail = self.c, self.c.board.rails[rail_id]
        node_id = rail_name(rail_id)
        net = c.nets.of(node_id)
        volts = c.supplies.origins[net].volts if net in c.supplies.origins else rail.volts
        children = self._children(node_id, volts)
        for lower_id in c.supplies.live_rails:
            lower = c.board.rails[lower_id]
            if lower.fed_from == rail_id and c.supplies.taken_in(lower_id) is None:
                children.append(self._made_rail(lower_id))
        node = self._summed(
            node_id,
            "rail",
            rail.title,
            tuple(children),
            limit_a=rail.limit_a,
            volts=volts.typ,
            least_v=volts.min,
            source_ohm=rail.source_ohm,
            why=rail.note,
        )
        return replace(node, rail=rail_id)

    def _made_rail(self, rail_id: str) -> Node:
        """A rail as it counts on the one that it is made from."""
        c, rail = self.c, self.c.board.rails[rail_id]
        upper = c.board.rails[rail.fed_from]
        node = self._rail(rail_id)
        ratio = rail.volts.typ / (upper.volts.typ * rail.efficiency) if rail.efficiency else 1.0
        out = node.total.worst_a + rail.own_worst_a
        over = max(0.0, upper.volts.typ - rail.volts.typ)
        heat = rail.volts.typ * out * (1 / rail.efficiency - 1) if rail.efficiency else over * out
        loads = {p: (u * ratio, w * ratio) for p, (u, w) in node.loads.items()}
        if rail.own_worst_a:
            u, w = loads.get(BOARD, (0.0, 0.0))
            loads[BOARD] = (u + rail.own_usual_a * ratio, w + rail.own_worst_a * ratio)
        return replace(node, intake=worst(c.plan, loads), loads=loads, heat_w=heat)

    def _supply(self, part_id: str, source: Source) -> Node:
        least = source.volts.min
        children = tuple(self._children(part_id, source.volts))
        return self._summed(
            part_id,
            "supply",
            self.c.placed[part_id].name,
            children,
            part=part_id,
            limit_a=source.limit_a,
            volts=source.volts.typ,
            least_v=least,
            source_ohm=source.source_ohm,
        )

    def _children(self, node_id: str, above: Range) -> list[Node]:
        """What hangs on a supply, rail or hub, each behind its cord."""
        children = [self._hub(lead, above) for lead in self.hubs.get(node_id, ())]
        passed = {n.lead for n in children}
        for demand in self.below.get(node_id, ()):
            if demand.lead not in passed:
                children.append(self._load(demand, above))
        for part_id, source in self.sources.items():
            if source.fed_from and self._fed(part_id, source):
                lead = f"{part_id}.{source.fed_from}"
                if self._home(lead, self.c.supplies.fed_by(lead)) == node_id:
                    children.append(self._converter(part_id, source, lead))
        return children

    def _load(self, d: Demand, above: Range) -> Node:
        c = self.c
        if not d.part:
            return Node(
                f"{d.net}/signals",
                "signals",
                "signals and beads",
                total=Worst(*d.amps, d.amps[1]),
                volts=above.typ,
                least_v=above.min,
                loads={f"/{d.net}": d.amps},
            )
        own = bool(d.lead)
        drop = self._drop(d.lead, d.amps[1]) if own else 0.0
        return Node(
            d.lead if own else f"{d.part}@{d.net}",
            "load",
            c.placed[d.part].name,
            d.part,
            lead=d.lead,
            total=Worst(*d.amps, d.amps[1]),
            volts=above.typ,
            least_v=above.min - drop,
            drop_v=drop,
            needs_v=self._needs(d.lead) if own else None,
            why=d.why,
            loads={d.part: d.amps},
        )

    def _hub(self, lead: str, above: Range) -> Node:
        """A hub or bar that passes its supply on, with its own draw among what hangs on it."""
        part_id = split(lead)[0]
        own = [
            replace(self._load(d, above), id=f"{lead}/own", lead="", drop_v=0.0, least_v=above.min)
            for d in self.below.get(self._home(lead, self.c.supplies.fed_by(lead)), ())
            if d.lead == lead
        ]
        node = self._summed(
            lead,
            "hub",
            self.c.placed[part_id].name,
            (*own, *self._children(lead, above)),
            part=part_id,
            lead=lead,
            volts=above.typ,
            least_v=above.min,
        )
        drop = self._drop(lead, node.total.worst_a)
        return _lowered(node, drop, self._needs(lead))

    def _converter(self, part_id: str, source: Source, lead: str) -> Node:
        node = self._supply(part_id, source)
        given = self.c.supplies.origins[self.c.supplies.fed_by(lead)].volts
        ratio = (
            source.volts.typ / (given.min * source.efficiency) if source.efficiency and given.min > 0 else 1.0
        )
        out = node.total.worst_a
        heat = (
            source.volts.typ * out * (1 / source.efficiency - 1)
            if source.efficiency
            else (given.max - source.volts.typ) * out
        )
        loads = {p: (u * ratio, w * ratio) for p, (u, w) in node.loads.items()}
        intake = worst(self.c.plan, loads)
        drop = self._drop(lead, intake.worst_a)
        return replace(
            node, kind="converter", lead=lead, intake=intake, drop_v=drop, heat_w=max(0.0, heat), loads=loads
        )

    # --- numbers ------------------------------------------------------------------------------

    def _summed(
        self,
        node_id: str,
        kind: Kind,
        title: str,
        children: tuple[Node, ...],
        *,
        part: str = "",
        lead: str = "",
        limit_a: float | None = None,
        volts: float = 0.0,
        least_v: float = 0.0,
        source_ohm: float = 0.0,
        why: str = "",
    ) -> Node:
        loads: dict[str, Amps] = {}
        for child in children:
            for p, (u, w) in child.loads.items():
                before = loads.get(p, (0.0, 0.0))
                loads[p] = before[0] + u, before[1] + w
        total = worst(self.c.plan, loads)
        sag = source_ohm * total.worst_a
        if sag:
            children = tuple(_lowered(child, sag, child.needs_v, own=False) for child in children)
        return Node(
            node_id,
            kind,
            title,
            part,
            lead=lead,
            total=total,
            limit_a=limit_a,
            volts=volts,
            least_v=least_v - sag,
            drop_v=sag,
            why=why,
            loads=loads,
            children=children,
        )

    def _drop(self, lead: str, amps: float) -> float:
        """Volts along a lead's cord and the part's ground cord, and over what sits in them."""
        c = self.c
        tie = c.ties.of(lead)
        return 0.0 if tie is None else amps * (_ohm(c, tie) + self._return_ohm(split(lead)[0])) + _diodes(tie)

    def _return_ohm(self, part_id: str) -> float:
        """Of the cord of the part's ground lead."""
        ground = self.c.parts[part_id].ground
        tie = self.c.ties.of(f"{part_id}.{ground}") if ground else None
        return 0.0 if tie is None else _ohm(self.c, tie)

    def _needs(self, lead: str) -> float | None:
        need = self.c.needs.of(lead)
        return need.least_v if isinstance(need, Supply) else None


def _ohm(c: Circuit, tie: Tie) -> float:
    beads = sum(b.ohm for b in tie.beads if isinstance(b, SeriesResistor)) if tie.beads else 0.0
    return tie_ohm(c, tie) + beads


def _diodes(tie: Tie) -> float:
    return DIODE_V * sum(isinstance(b, Diode) for b in tie.beads) if tie.beads else 0.0


def _lowered(node: Node, by: float, needs_v: float | None, own: bool = True) -> Node:
    """A node with everything below it `by` volts lower; what a regulator makes stays as it is."""
    if not by and needs_v == node.needs_v:
        return node
    regulated = node.intake is not None and not own
    children = (
        node.children
        if regulated
        else tuple(_lowered(child, by, child.needs_v, own=False) for child in node.children)
    )
    return replace(
        node,
        least_v=node.least_v if regulated else node.least_v - by,
        needs_v=needs_v,
        children=children,
        drop_v=node.drop_v + (by if own else 0.0),
    )


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
