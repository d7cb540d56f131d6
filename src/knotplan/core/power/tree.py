"""The tree of supplies: what feeds what, what each has to carry, and what arrives at its end.

Currents are summed from the loads upwards; at a converter they are changed to its input's side,
``I_in = I_out V_out / (V_in eta)``, a linear one passes them on. Voltages are taken from the
supplies downwards, at their least and with every current at its worst, and as usual: ``V = V_supply -
R_source I - (R_cord + R_beads) I - V_diode(I)``, the cord there and back. What arrives at a switching
converter is looked up in the tree of the round before, until it stays.
"""

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.derived import derived
from knotplan.catalog.part.elements import Coil, Load, Motor
from knotplan.catalog.part.needs import Supply
from knotplan.catalog.part.part import Part
from knotplan.catalog.part.source import Source
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.copper import return_tie, tie_ohm
from knotplan.core.circuit.nets import rail_name
from knotplan.core.engine.solver.junction import fit
from knotplan.core.memory.question import each, question, table
from knotplan.core.plan.beads import DIODES, Diode, SeriesResistor
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.power.activities import Amps, Worst, worst
from knotplan.core.power.demand import Demand
from knotplan.core.power.hanging import below, converters, home_of_hub, hubs, is_fed, sources
from knotplan.core.power.node import Kind, Node

MOST_ROUNDS, SETTLED_V = 40, 1e-5
"""so often a root is grown until the voltages at its converters stay within this"""
LEAST_STEP = 0.3
"""of the way to what arrived in the round before, where it takes many rounds"""
LEAST_SHARE = 0.5
"""of its supply's voltage: at less a converter draws no more power (maximum power transfer)"""
FIRST = ""
"""the root that feeds the board"""


class Loss(Struct, frozen=True):
    """Volts that are lost on a way, at worst and usually."""

    worst_v: float = 0.0
    usual_v: float = 0.0


def socket_name(socket_id: str) -> str:
    """What a socket is called in the tree, where it is not known what is plugged into it."""
    return f"socket:{socket_id}"


def board_feeder(c: Circuit) -> str:
    """The supply that feeds the board; empty where none is planned."""
    return c.supplies.past_socket or c.supplies.feeds.get(c.supplies.socket, "")


def _root_ids(c: Circuit) -> list[str]:
    """Every supply that nothing else feeds, what feeds the board first."""
    feeder = board_feeder(c)
    behind = feeder in sources(c) and is_fed(c, feeder)  # then the board hangs under what feeds its converter
    others = [part_id for part_id in sources(c) if part_id != feeder and not is_fed(c, part_id)]
    return others if behind else [FIRST, *others]


@each(_root_ids)
def root_of(c: Circuit, part_id: str) -> Node:
    """One root with everything below it."""
    grower = _Grower(c)
    return grower.settled(grower.board_feed if part_id == FIRST else lambda: grower.supply(part_id))


@question
def tree(c: Circuit) -> tuple[Node, ...]:
    """The roots: every supply that nothing else feeds, what feeds the board first."""
    return tuple(root_of.all(c).values())


@table
def nodes_by_id(c: Circuit) -> dict[str, Node]:
    """Every node of the tree, from the top; of several with one id, the others with their number."""
    nodes: dict[str, Node] = {}
    for root in tree(c):
        for node in root.walk():
            nodes[node.id if node.id not in nodes else f"{node.id}#{len(nodes)}"] = node
    return nodes


@table
def feeding(c: Circuit) -> dict[str, Node]:
    """{lead: the node on which it hangs directly}."""
    above: dict[str, Node] = {}
    for node in nodes_by_id(c).values():
        for child in node.children:
            if child.lead:
                above.setdefault(child.lead, node)
    return above


class _Grower:
    """Puts every demand under what feeds it."""

    def __init__(self, circuit: Circuit):
        self.c = circuit
        self.arrives: dict[str, tuple[float, float]] = {}
        """(usual, least) volts at the input of each switching converter, as far as they are known"""
        self._way_ohm: dict[str, float] = {}
        """of each lead's way there and back, as far as it was asked for"""

    def settled(self, grow: Callable[[], Node]) -> Node:
        """One root with everything below it, grown until what arrives at its switching converters stays."""
        root, step = grow(), 1.0
        for _ in range(MOST_ROUNDS):
            converters = [
                n for n in root.walk() if n.kind == "converter" and sources(self.c)[n.part].efficiency
            ]
            changed = max((self._take_over(n, step) for n in converters), default=0.0)
            if changed <= SETTLED_V:
                break
            root, step = grow(), max(LEAST_STEP, step * 0.9)
        return root

    def _take_over(self, node: Node, step: float) -> float:
        """Takes over what arrives at a converter, or a part of the way there: near the end of its power a
        supply would swing to and fro. Gives by how much it changed, V."""
        given = self.c.supplies.origins[self._fed_net(node.part)].volts
        usual, least = self.arrives.get(node.part, (given.typ, given.min))
        now = (
            max(LEAST_SHARE * given.typ, usual + step * (node.arrives_usual_v - usual)),
            max(LEAST_SHARE * given.min, least + step * (node.arrives_v - least)),
        )
        self.arrives[node.part] = now
        return max(abs(now[0] - usual), abs(now[1] - least))

    def _fed_net(self, part_id: str) -> str:
        return self.c.supplies.fed_by(f"{part_id}.{sources(self.c)[part_id].fed_from}")

    # --- growing ------------------------------------------------------------------------------

    def board_feed(self) -> Node:
        """What feeds the board, with the board's rails below it."""
        c, feeder = self.c, board_feeder(self.c)
        socket, rail = c.board.sockets[c.supplies.socket], c.board.rails[c.supplies.fed_rail]
        source = c.parts[feeder].source if feeder else None
        volts = self._volts(c.supplies.fed_rail)
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
            usual_v=volts.typ,
            least_v=volts.min,
            why="the board itself",
            loads={BOARD: amps},
        )
        return self._summed(
            feeder or socket_name(c.supplies.socket),
            "supply",
            title,
            (own, below, *(self._children(feeder, source.volts) if source else ())),
            part=feeder,
            limit_a=limit,
            volts=source.volts.typ if source else volts.typ,
            least_v=least,
            source_ohm=source.source_ohm if source else 0.0,
        )

    def _volts(self, rail_id: str) -> Range:
        """Of a rail: that of what feeds it past the board's sockets, else what the board makes of its
        feed."""
        c = self.c
        if c.supplies.past_socket and rail_id == c.supplies.fed_rail:
            return sources(c)[c.supplies.past_socket].volts
        net = c.nets.of(rail_name(rail_id))
        return c.supplies.origins[net].volts if net in c.supplies.origins else c.board.rails[rail_id].volts

    def _rail(self, rail_id: str) -> Node:
        """One of the board's rails, with those made from it."""
        c, rail = self.c, self.c.board.rails[rail_id]
        node_id = rail_name(rail_id)
        volts = self._volts(rail_id)
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
            # what feeds the board over this rail's own pins has its resistance counted already
            source_ohm=0.0 if c.supplies.past_socket and rail_id == c.supplies.fed_rail else rail.source_ohm,
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
        return replace(node, intake=worst(c.activities, loads), loads=loads, heat_w=heat)

    def supply(self, part_id: str) -> Node:
        """A supply with everything below it."""
        if part_id == board_feeder(self.c):
            return self.board_feed()
        source = sources(self.c)[part_id]
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
        children = [self._hub(lead, above) for lead in hubs(self.c).get(node_id, ())]
        passed = {n.lead for n in children}
        for demand in below(self.c).get(node_id, ()):
            if demand.lead not in passed:
                children.append(self._load(demand, above))
        return children + [self._converter(part_id) for part_id in converters(self.c).get(node_id, ())]

    def _load(self, d: Demand, above: Range) -> Node:
        c = self.c
        if not d.part:
            return Node(
                f"{d.net}/signals",
                "signals",
                "signals and beads",
                total=Worst(*d.amps, d.amps[1]),
                volts=above.typ,
                usual_v=above.typ,
                least_v=above.min,
                loads={f"/{d.net}": d.amps},
            )
        own = bool(d.lead)
        loss = self._loss(d.lead, d.amps) if own else Loss()
        return Node(
            d.lead if own else f"{d.part}@{d.net}",
            "load",
            c.placed[d.part].name,
            d.part,
            lead=d.lead,
            total=Worst(*d.amps, d.amps[1]),
            volts=above.typ,
            usual_v=above.typ - loss.usual_v,
            least_v=above.min - loss.worst_v,
            drop_v=loss.worst_v,
            needs_v=self._needs(d.lead) if own else None,
            why=d.why,
            loads={d.part: d.amps},
        )

    def _hub(self, lead: str, above: Range) -> Node:
        """A hub or bar that passes its supply on, with its own draw among what hangs on it."""
        part_id = split(lead)[0]
        own = [
            replace(
                self._load(d, above),
                id=f"{lead}/own",
                lead="",
                drop_v=0.0,
                usual_v=above.typ,
                least_v=above.min,
            )
            for d in below(self.c).get(home_of_hub(self.c, lead), ())
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
        loss = self._loss(lead, (node.total.usual_a, node.total.worst_a))
        return _lowered(node, loss, self._needs(lead))

    def _converter(self, part_id: str) -> Node:
        source = sources(self.c)[part_id]
        node, lead = self.supply(part_id), f"{part_id}.{source.fed_from}"
        given = self.c.supplies.origins[self._fed_net(part_id)].volts
        usual_v, least_v = self.arrives.get(part_id, (given.typ, given.min))
        usual = _ratio(source, usual_v)
        worst_ratio = _ratio(source, least_v)
        out = node.total.worst_a
        heat = (
            source.volts.typ * out * (1 / source.efficiency - 1)
            if source.efficiency
            else (given.max - source.volts.typ) * out
        )
        loads = {p: (u * usual, w * worst_ratio) for p, (u, w) in node.loads.items()}
        intake = worst(self.c.activities, loads)
        loss = self._loss(lead, (intake.usual_a, intake.worst_a))
        return replace(
            node,
            kind="converter",
            lead=lead,
            intake=intake,
            drop_v=loss.worst_v,
            arrives_v=given.min - loss.worst_v,
            arrives_usual_v=given.typ - loss.usual_v,
            needs_v=self._needs(lead),
            heat_w=max(0.0, heat),
            loads=loads,
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
        total = worst(self.c.activities, loads)
        sag = Loss(source_ohm * total.worst_a, source_ohm * total.usual_a)
        if sag.worst_v:
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
            usual_v=volts - sag.usual_v,
            least_v=least_v - sag.worst_v,
            drop_v=sag.worst_v,
            why=why,
            loads=loads,
            children=children,
        )

    def _loss(self, lead: str, amps: Amps) -> Loss:
        """Volts along a lead's cord and the part's ground cord, and over what sits in them."""
        tie = self.c.ties.of(lead)
        if tie is None:
            return Loss()
        usual, most = amps
        if lead not in self._way_ohm:
            self._way_ohm[lead] = _way_ohm(self.c, lead)
        ohm = self._way_ohm[lead]
        back = return_tie(self.c, split(lead)[0])
        ways = [t for t in (tie, back) if t is not None and t.beads]
        if not ways:
            return Loss(most * ohm, usual * ohm)
        over = [sum(_diodes(t, amps) for t in ways) for amps in (most, usual)]
        return Loss(most * ohm + over[0], usual * ohm + over[1])

    def _needs(self, lead: str) -> float | None:
        need = self.c.needs.of(lead)
        return need.least_v if isinstance(need, Supply) and _has_load(self.c, lead) else None


def _way_ohm(c: Circuit, lead: str) -> float:
    """Of a lead's cord and of the part's ground cord, with the resistors in them."""
    tie, back = c.ties.of(lead), return_tie(c, split(lead)[0])
    there = 0.0 if tie is None else _ohm(c, tie, _has_load(c, lead))
    return there + (0.0 if back is None else _ohm(c, back, _has_load(c, back.lead)))


def _has_load(c: Circuit, lead: str) -> bool:
    """The part works on what arrives; beads of lights and dividers are there to take the rest."""
    return _works(c.parts[split(lead)[0]])


@derived
def _works(part: Part) -> bool:
    return part.source is not None or any(isinstance(e, Load | Coil | Motor) for e in part.elements.values())


def _ratio(source: Source, volts: float) -> float:
    """How much a converter draws at its input for an ampere at its output: ``V_out / (V_in eta)``; a linear
    one passes its current on."""
    return source.volts.typ / (volts * source.efficiency) if source.efficiency and volts > 0 else 1.0


def _ohm(c: Circuit, tie: Tie, with_beads: bool) -> float:
    beads = sum(b.ohm for b in tie.beads if isinstance(b, SeriesResistor)) if with_beads else 0.0
    return tie_ohm(c, tie) + beads


def _diodes(tie: Tie, amps: float) -> float:
    """Volts over the diodes of a tie at a current, by their own laws."""
    return sum(fit(DIODES[b.style]).voltage(amps) for b in tie.beads if isinstance(b, Diode) and amps > 0)


def _lowered(node: Node, by: Loss, needs_v: float | None, own: bool = True) -> Node:
    """A node with everything below it `by` volts lower; what a regulator makes stays as it is."""
    if not by.worst_v and needs_v == node.needs_v:
        return node
    regulated = node.intake is not None and not own
    children = (
        node.children
        if regulated
        else tuple(_lowered(child, by, child.needs_v, own=False) for child in node.children)
    )
    return replace(
        node,
        least_v=node.least_v if regulated else node.least_v - by.worst_v,
        usual_v=node.usual_v if regulated else node.usual_v - by.usual_v,
        arrives_v=node.arrives_v - (by.worst_v if node.kind == "converter" else 0.0),
        arrives_usual_v=node.arrives_usual_v - (by.usual_v if node.kind == "converter" else 0.0),
        needs_v=needs_v,
        children=children,
        drop_v=node.drop_v + (by.worst_v if own else 0.0),
    )
