"""A bench as a network of contacts, as it is planned and with something wrong; what is joined, and what is
fed.

A `Change` says what is otherwise than planned. Only what it touches is worked out anew.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence

from msgspec import Struct, field

from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.nets import GROUND, rail_name
from knotplan.core.meter.pieces import Chain, Moment, Piece, Pieces, is_inner, lead_end, pin_end
from knotplan.core.meter.specimen import Specimen
from knotplan.core.plan.document import BOARD, Tie

ALIVE_V = 0.5
"""what is fed with less does nothing"""
MOMENTS: tuple[Moment, ...] = ("off", "on")
NOWHERE = ""
"""where an end is that is plugged in nowhere"""


class Change(Struct, frozen=True):
    """What is otherwise on the bench than in the plan."""

    ends: dict[str, str] = field(default_factory=dict)
    """ends of ties that are plugged in elsewhere, or nowhere"""
    joints: tuple[tuple[str, str], ...] = ()
    """contacts that are joined"""
    beads: dict[tuple[str, int], float] = field(default_factory=dict)
    """by tie and place: how many times its value a bead has; 0 where it is missing"""
    supplies: dict[str, str] = field(default_factory=dict)
    """supplies that give nothing (empty), that are turned round (``-``), or that are another one (its id)"""

    def also(self, ends: dict[str, str]) -> "Change":
        """With more ends plugged elsewhere."""
        return Change({**self.ends, **ends}, self.joints, self.beads, self.supplies)


AS_PLANNED = Change()
Beside = Callable[[str], Iterable[str]]
"""the nodes that a node is joined to"""


class Network:
    """The bench as it is planned."""

    def __init__(self, circuit: Circuit):
        self.c = circuit
        self.chains: dict[str, Chain] = {}
        self.ends: dict[str, str] = {}
        """where each end of each tie is plugged in"""
        self.joined: dict[str, list[str]] = {}
        """nodes that are joined for good: the board's copper, bare cords, contacts at rest"""
        self.moments = {m: _Laid(circuit, m) for m in MOMENTS}
        for tie in circuit.plan.ties:
            self._tie(tie)
        for a, b in self._copper():
            self._join(a, b)
        for tie in circuit.plan.ties:
            self.ends[lead_end(tie.id)], self.ends[pin_end(tie.id)] = tie.lead, tie.to
        self.plugged: dict[str, list[str]] = {}
        """the ends at each contact"""
        for end, contact in self.ends.items():
            self.plugged.setdefault(contact, []).append(end)
        self.group_of: dict[str, int] = {}
        self.members: list[list[str]] = []
        nodes = {
            *self.joined,
            *self.ends,
            *self.ends.values(),
            *self.moments["on"].at,
            *self.moments["off"].at,
        }
        for node in sorted(nodes | set(circuit.contacts.offers)):
            if node not in self.group_of:
                found = list(_reached(node, self._beside))
                self.group_of |= dict.fromkeys(found, len(self.members))
                self.members.append(found)

    def _join(self, a: str, b: str) -> None:
        self.joined.setdefault(a, []).append(b)
        self.joined.setdefault(b, []).append(a)

    def _copper(self) -> Iterator[tuple[str, str]]:
        c = self.c
        yield from ((a, b) for a, b, tie in c.nets.joints() if tie is None)
        for part_id, part in c.parts.items():
            for name, lead in part.leads.items():
                offers = lead.offers
                if offers is not None and offers.kind == "contact" and offers.rests == "closed":
                    yield f"{part_id}.{name}", f"{part_id}.{offers.via}"

    def _tie(self, tie: Tie) -> None:
        for moment in MOMENTS:
            laid = self.moments[moment]
            chain, beads = laid.pieces.tie(tie)
            for k, pieces in beads.items():
                for piece in pieces:
                    laid.add(piece, (tie.id, k))
        self.chains[tie.id] = chain
        for k, bead in enumerate(chain.between):
            if bead is None:
                self._join(chain.nodes[k], chain.nodes[k + 1])

    def _beside(self, node: str) -> Iterator[str]:
        yield from self.joined.get(node, ())
        yield from self.plugged.get(node, ())
        if node in self.ends:
            yield self.ends[node]


class _Laid:
    """The pieces at one moment, by the nodes that they touch."""

    def __init__(self, circuit: Circuit, moment: Moment):
        self.pieces = Pieces(circuit, moment)
        self.all: list[Piece] = []
        self.at: dict[str, list[int]] = {}
        self.ends: list[tuple[str, ...]] = []
        """the nodes that each piece lies between; a voltage beside another one counts as that one"""
        self.gives_life: dict[str, list[int]] = {}
        """the pieces that do something only while a node is fed"""
        self._of_group: dict[int, list[int]] = {}
        self.lumps: dict[int, float] = {}
        """of supplies' nets as planned: siemens of all that is on them, once somebody has added it up"""
        self.bead: dict[int, tuple[str, int]] = {}
        """of a bead's pieces: its tie and its place"""
        for piece in self.pieces.fixed:
            self.add(piece)
        for contact, pin in circuit.contacts.pins.items():
            if pin.kind == "io":
                for piece in self.pieces.pin(contact):
                    self.add(piece)

    def add(self, piece: Piece, bead: tuple[str, int] | None = None) -> None:
        number = len(self.all)
        self.all.append(piece)
        self.ends.append(tuple(dict.fromkeys(map(self.pieces.base_of, piece.ends))))
        if piece.alive:
            self.gives_life.setdefault(piece.alive, []).append(number)
        for node in piece.ends:
            self.at.setdefault(node, []).append(number)
        if bead is not None:
            self.bead[number] = bead

    def around(self, nodes: Iterable[str]) -> list[int]:
        """The pieces that touch some nodes, each once."""
        return list(dict.fromkeys(number for node in nodes for number in self.at.get(node, ())))

    def of_group(self, group: int, nodes: Iterable[str]) -> list[int]:
        """The same of a group as planned, kept."""
        if group not in self._of_group:
            self._of_group[group] = self.around(nodes)
        return self._of_group[group]

    def turned(self, bead: tuple[str, int]) -> dict[str, str]:
        """The two ends of a bead, each as the other one."""
        ends = [n for k, b in self.bead.items() if b == bead for n in self.all[k].ends if not is_inner(n)]
        one, other = dict.fromkeys(ends)
        return {one: other, other: one}


def _reached(start: str, beside: Beside) -> Iterator[str]:
    seen, waiting = {start}, [start]
    while waiting:
        node = waiting.pop()
        yield node
        for other in beside(node):
            if other and other not in seen:
                seen.add(other)
                waiting.append(other)


class Bench:
    """The network with a change: what is joined then. Groups that the change does not touch are those of the
    plan, under the same numbers."""

    def __init__(self, network: Network, change: Change = AS_PLANNED, specimen: Specimen | None = None):
        """`specimen`: definite parts instead of all that there may be."""
        self.n, self.change, self.specimen = network, change, specimen
        self.touched = set(self._touched())
        self.altered: dict[str, set[str]] = {}
        """by stage: nodes that have another supply than planned, once somebody has looked"""
        dirty = {network.group_of[node] for node in self.touched if node in network.group_of}
        self.dirty = dirty
        self._own: dict[str, int] = {}
        self._own_members: dict[int, list[str]] = {}
        new = len(network.members)
        nodes = [node for g in dirty for node in network.members[g]]
        nodes += [node for node in self.touched if node not in network.group_of]
        for node in nodes:
            if node in self._own:
                continue
            found = list(_reached(node, self._beside))
            self._own |= dict.fromkeys(found, new)
            self._own_members[new] = found
            new += 1

    def _touched(self) -> Iterator[str]:
        n, change = self.n, self.change
        for end, contact in change.ends.items():
            yield from (end, n.ends[end])
            if contact:
                yield contact
        for a, b in change.joints:
            yield from (a, b)
        for tie, _ in change.beads:
            yield from n.chains[tie].nodes
        for part in change.supplies:
            source = n.c.supplies.on_bench[part]
            yield from (f"{part}.{source.plus}", f"{part}.{source.minus}")

    def _beside(self, node: str) -> Iterator[str]:
        n, change = self.n, self.change
        yield from n.joined.get(node, ())
        for end in n.plugged.get(node, ()):
            if end not in change.ends:
                yield end
        if node in n.ends:
            yield change.ends.get(node, n.ends[node])
        for end, contact in change.ends.items():
            if contact == node:
                yield end
        for a, b in change.joints:
            if node in (a, b):
                yield b if node == a else a
        yield from self._past_beads(node)

    def _past_beads(self, node: str) -> Iterator[str]:
        """Over a bead that is missing: the cord goes straight through."""
        for (tie, k), times in self.change.beads.items():
            chain = self.n.chains[tie]
            if not times and k in chain.between:
                at = chain.between.index(k)
                ends = chain.nodes[at], chain.nodes[at + 1]
                if node in ends:
                    yield ends[1] if node == ends[0] else ends[0]

    def group(self, node: str) -> int:
        """The number of the group of contacts that a node is joined with."""
        own = self._own.get(node)
        return own if own is not None else self.n.group_of.get(node, -1)

    def members(self, group: int) -> list[str]:
        """The nodes of a group."""
        own = self._own_members.get(group)
        return own if own is not None else self.n.members[group]

    def pieces(self, moment: Moment, group: int) -> Sequence[int]:
        """The numbers of the pieces that touch a group; missing beads are not among them."""
        laid = self.n.moments[moment]
        own = self._own_members.get(group)
        found = laid.around(own) if own is not None else laid.of_group(group, self.n.members[group])
        if not self.change.beads:
            return found
        return [k for k in found if (b := laid.bead.get(k)) is None or self.change.beads.get(b, 1.0)]


class Fed(Struct, frozen=True):
    """What is fed at a stage: given voltages, and the nets of supplies that are not on."""

    volts: dict[int, Range]
    """by group"""
    unfed: frozenset[int]


def fed(bench: Bench, on: frozenset[str]) -> Fed:
    """Which groups have a voltage of their own while some supplies are on, against the board's ground."""
    c = bench.n.c
    poles: dict[int, list[Range]] = {bench.group(GROUND): [Range.exactly(0.0)]}
    waiting = [p for p, s in c.supplies.on_bench.items() if s.plus != s.minus]
    rails = list(c.supplies.live_rails)
    taken = {r for r in rails if c.supplies.taken_in(r) is not None}
    for _ in range(len(waiting) + 2):
        for part in list(waiting):
            if _pole(bench, part, on, poles):
                waiting.remove(part)
        if rails and _board_is_on(bench, on, poles):
            for rail in rails:
                if rail not in taken:
                    poles.setdefault(bench.group(rail_name(rail)), []).append(c.board.rails[rail].volts)
            rails = []
    supplied = [rail_name(r) for r in c.supplies.live_rails]
    supplied += [f"{p}.{s.plus}" for p, s in c.supplies.on_bench.items() if s.plus != s.minus]
    volts = {group: _hull(ranges) for group, ranges in poles.items()}
    volts[bench.group(GROUND)] = Range.exactly(0.0)  # what is joined to it has nothing left
    return Fed(volts, frozenset(bench.group(n) for n in supplied) - volts.keys())


def _hull(ranges: list[Range]) -> Range:
    """One supply gives what it gives; several on one net are a short circuit, and the net lies anywhere
    between them."""
    if len(ranges) == 1:
        return ranges[0]
    least, most = min(r.min for r in ranges), max(r.max for r in ranges)
    return Range(least, sum(r.typ for r in ranges) / len(ranges), most)


def _pole(bench: Bench, part: str, on: frozenset[str], poles: dict[int, list[Range]]) -> bool:
    """Takes in a supply, if it is on and one of its ends has a voltage already."""
    c = bench.n.c
    how = bench.change.supplies.get(part, part)
    source = c.supplies.on_bench[part]
    if not how or (not source.fed_from and part not in on):
        return False
    if source.fed_from:
        inlet = poles.get(bench.group(f"{part}.{source.fed_from}"), ())
        if not any(r.typ > ALIVE_V for r in inlet):
            return False
    given = c.supplies.on_bench[how].volts if how in c.supplies.on_bench else source.volts
    ends = (f"{part}.{source.plus}", f"{part}.{source.minus}")
    plus, minus = (bench.group(n) for n in (ends[::-1] if how == "-" else ends))
    if plus == minus:
        return True  # short-circuited by itself
    if minus in poles:
        base = _hull(poles[minus])
        poles.setdefault(plus, []).append(
            Range(base.min + given.min, base.typ + given.typ, base.max + given.max)
        )
        return True
    if plus in poles:
        base = _hull(poles[plus])
        poles.setdefault(minus, []).append(
            Range(base.min - given.max, base.typ - given.typ, base.max - given.min)
        )
        return True
    return False


def _board_is_on(bench: Bench, on: frozenset[str], poles: dict[int, list[Range]]) -> bool:
    """A supply that is on is plugged into a socket of the board, or feeds it over its pins."""
    c = bench.n.c
    for part, source in c.supplies.on_bench.items():
        if part in on and source.plus == source.minus and bench.change.supplies.get(part, part):
            plug = bench.group(f"{part}.{source.plus}")
            if any(bench.group(f"{BOARD}.{socket}") == plug for socket in c.board.sockets):
                return True
    past = c.supplies.past_socket
    return bool(past) and any(
        r.typ > ALIVE_V for r in poles.get(bench.group(rail_name(c.supplies.fed_rail)), ())
    )


def stages(c: Circuit) -> list[tuple[str, frozenset[str]]]:
    """(the supply that is switched on, all that are on then), one after another: what feeds the board
    first."""
    feeding = c.supplies.feeding
    own = [p for p, s in c.supplies.on_bench.items() if not s.fed_from]
    order = sorted(own, key=lambda p: p not in feeding)
    first = [p for p in order if p in feeding]
    steps, on = [], frozenset[str]()
    for part in order:
        on = on | {part}
        if part not in first[:-1]:
            steps.append((part, on))
    return steps
