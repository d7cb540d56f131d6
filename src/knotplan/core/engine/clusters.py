"""From a circuit to what the engine solves: every signal net with its elements, cases and corners.

Supplied nets and ground have given voltages, so they part the plan into small independent clusters.
A *case* is one combination of pin states, contacts and knob positions; a *corner* is one combination
of extremes of everything that has a spread.
"""

from collections.abc import Container, Iterable, Iterator, Sequence

from msgspec import Struct

from knotplan.catalog.part import elements as kinds
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.case_bars import movable_bars, pin_bars, shifter_bars, shifter_lows
from knotplan.core.engine.cases import cases_of
from knotplan.core.engine.cluster import Bar, Cluster, Drop, Movable, Shifter
from knotplan.core.engine.elements import Builder
from knotplan.core.engine.pieces import (
    Ends,
    Owner,
    Pieces,
    ends_of,
    ends_of_part,
    ends_of_tie,
    node_of_pin,
    of_part,
    of_tie,
)
from knotplan.core.engine.samples import given_volts
from knotplan.core.memory.question import each, table

Place = tuple[Owner, int]
"""a piece: whose, and which of its pieces"""
First = Place | str
"""the first piece of a group, or its first pin"""
KINDS = ("Bar", "Drop", "Movable", "Shifter")
"""in this order clusters are named by what comes first in them"""


class Group(Struct, frozen=True):
    """What belongs together, because nothing between has a given voltage."""

    pieces: tuple[Place, ...]
    pins: tuple[str, ...]


class _Joined:
    """Nodes that something joins, as sets that grow together (Tarjan, 1975)."""

    def __init__(self, known: Container[str]):
        self._known = known
        self._root: dict[str, str] = {}

    def find(self, node: str) -> str:
        """The group of a node that something joins; another one is a group of its own."""
        root = self._root
        while (up := root.get(node, node)) != node:
            root[node] = node = root[up]
        return node

    def join(self, names: Iterable[str]) -> None:
        """What is known joins nothing: its voltage is given."""
        free = [n for n in names if n not in self._known]
        for n in free:
            self._root.setdefault(n, n)
        for n in free[1:]:
            self._root[self.find(n)] = self.find(free[0])

    def of(self, names: Sequence[str]) -> str:
        """The group of some nodes; what lies only between known nodes is one of its own."""
        return next((self.find(n) for n in names if n not in self._known), "between " + " ".join(names))


def _places(c: Circuit) -> list[tuple[str, Place, tuple[str, ...]]]:
    """(kind, piece, its nodes) of everything that joins nodes, one kind after another."""
    owners: list[tuple[Owner, Ends]] = [(("part", p), ends) for p, ends in ends_of_part.all(c).items()]
    owners += [(("tie", t), ends) for t, ends in ends_of_tie.all(c).items()]
    places = [(kind, (owner, k), nodes) for owner, ends in owners for k, (kind, nodes) in enumerate(ends)]
    return sorted(places, key=lambda place: KINDS.index(place[0]))


@table
def groups(c: Circuit) -> dict[First, Group]:
    """What belongs together, by the first piece or pin of each group."""
    known = frozenset((c.nets.ground, *c.supplies.origins))
    joined = _Joined(known)
    places = _places(c)
    for _, _, nodes in places:
        joined.join(nodes)
    named = [(kind, place, joined.of(nodes)) for kind, place, nodes in places]
    held: dict[str, list[str]] = {}
    for contact, node in node_of_pin.all(c).items():
        held.setdefault(f"between {node}" if node in known else joined.find(node), []).append(contact)
    pieces: dict[str, list[Place]] = {}
    for _, place, name in named:
        pieces.setdefault(name, []).append(place)
    others = [name for kind, _, name in named if kind != "Shifter"]
    before, made = groups.known(c), {}
    for name in dict.fromkeys((*others, *held, *pieces)):
        own, pins = tuple(pieces.get(name, ())), tuple(held.get(name, ()))
        first = own[0] if own else pins[0]
        group = before.get(first)
        alike = group is not None and group.pins == pins and group.pieces == own
        made[first] = group if group is not None and alike else Group(own, pins)
    return made


def _first_ones(c: Circuit) -> Iterable[First]:
    return groups(c).keys()


@each(_first_ones)
def cluster_of(c: Circuit, first: First) -> Cluster | None:
    """What the engine solves of a group; nothing where no current can flow in it."""
    group = groups(c)[first]
    build, cluster = Builder(c), Cluster(pins=list(group.pins), ground=c.nets.ground)
    moving: list[Movable] = []
    shifting: list[Shifter] = []
    for (kind, owner), k in group.pieces:
        pieces = of_part(c, owner) if kind == "part" else of_tie(c, owner)
        assert pieces is not None
        build.loads |= {bar.key: owner for bar in pieces.loads}
        match pieces.all[k]:
            case Bar() as bar:
                cluster.bars.append(bar)
            case Drop() as drop:
                cluster.drops.append(drop)
            case Movable() as movable:
                moving.append(movable)
            case Shifter() as shifter:
                shifting.append(shifter)
    _fill(build, cluster, moving, shifting)
    return cluster if cluster.nodes or cluster.drops or cluster.loads else None


def clusters(circuit: Circuit) -> list[Cluster]:
    """Every independent signal net of a circuit."""
    return [cluster for cluster in cluster_of.all(circuit).values() if cluster is not None]


def element_count(c: Circuit) -> int:
    """How many resistances and junctions parts and ties bring in: how large the network is."""
    everyone: Iterator[Pieces | None] = iter((*of_part.all(c).values(), *of_tie.all(c).values()))
    return sum(len(p.bars) + len(p.drops) for p in everyone if p is not None)


def _follows(m: Movable, moving: list[Movable]) -> bool:
    """Its opposite is in the same cluster: where that one stands says where this one does."""
    return isinstance(m.element, kinds.Switch) and any(
        (x.part, x.name) == (m.part, m.element.opposite) for x in moving
    )


def _fill(build: Builder, cluster: Cluster, moving: list[Movable], shifting: list[Shifter]) -> None:
    """The cases of a cluster, what each of them switches, and what follows from all of it."""
    c = build.c
    cluster.contacts += [(m.part, m.name) for m in moving if not _follows(m, moving)]
    cluster.cases = cases_of(c, cluster)
    for contact in cluster.pins:
        cluster.bars += pin_bars(build, contact, node_of_pin(c, contact), cluster.cases)
    for m in moving:
        cluster.bars += movable_bars(build, m, cluster.cases)
    for shifter in shifting:
        cluster.bars += shifter_bars(build, shifter, shifter_lows(c, shifter, cluster.cases))
    inside: list[Bar | Drop] = [*cluster.bars, *cluster.drops]
    touched = dict.fromkeys(n for link in inside for n in ends_of(c, link))
    cluster.nodes = [n for n in touched if n not in build.known]
    cluster.fixed = [n for n in touched if n in build.known]
    driven = tuple(dict.fromkeys(build.loads[b.key] for b in cluster.bars if b.key in build.loads))
    cluster.loads = driven or _alone(build, cluster)
    cluster.offsets = {n: build.offsets[n] for n in cluster.fixed if n in build.offsets}
    cluster.volts = given_volts(c, cluster)
    cluster.fed = frozenset(n for n in cluster.homes if n in c.supplies.origins)


def _alone(build: Builder, cluster: Cluster) -> tuple[str, ...]:
    """The part whose current a cluster's is, where it is the only one there."""
    links: list[Bar | Drop] = [*cluster.bars, *cluster.drops]
    parts = build.c.parts
    owners = {p for p in {link.key.part for link in links} if p in parts and not parts[p].is_hub}
    return tuple(owners) if len(owners) == 1 else ()
