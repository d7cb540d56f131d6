"""From a circuit to what the engine solves: every signal net with its elements, cases and corners.

Supplied nets and ground have given voltages, so they part the plan into small independent clusters.
A *case* is one combination of pin states, contacts and knob positions; a *corner* is one combination
of extremes of everything that has a spread.
"""

from collections.abc import Container, Iterable, Sequence

from knotplan.catalog.part import elements as kinds
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.case_bars import movable_bars, pin_bars, shifter_bars, shifter_lows
from knotplan.core.engine.cases import cases_of
from knotplan.core.engine.cluster import Bar, Cluster, Drop, Movable, Shifter
from knotplan.core.engine.effort import EFFORT
from knotplan.core.engine.elements import Builder
from knotplan.core.plan.document import BOARD, split


def clusters(circuit: Circuit) -> list[Cluster]:
    """Every independent signal net of a circuit."""
    build = Builder(circuit)
    for part_id in circuit.parts:
        build.part(part_id)
    for tie in circuit.plan.ties:
        build.tie(tie)
    EFFORT.spend((len(build.bars) + len(build.drops)) / 20)
    return _parted(build)


def _ends(build: Builder, m: Movable) -> list[str]:
    third = {kinds.Track: "wiper", kinds.Talks: "low"}.get(type(m.element))
    names = [m.element.a, m.element.b, *([getattr(m.element, third)] if third else [])]
    return [build.node(m.part, n) for n in names]


def _alive(build: Builder, contact: str) -> bool:
    """A hub's pins do nothing while its supply or its ground are not tied."""
    c = build.c
    if split(contact)[0] == BOARD:
        return True
    if not c.contacts.pins[contact].driver:
        return False
    driver = c.hardware.driver(contact)
    if driver.element:
        return False  # the engine has the transistor itself
    return c.nets.low(contact) in build.known and (not driver.rail or c.nets.high(contact) in build.known)


class _Groups:
    """Nodes that something joins, as sets that grow together (Tarjan, 1975)."""

    def __init__(self, known: Container[str]):
        self._known = known
        self._root: dict[str, str] = {}

    def _find(self, node: str) -> str:
        while self._root.setdefault(node, node) != node:
            node = self._root[node]
        return node

    def join(self, names: Iterable[str]) -> None:
        """What is known joins nothing: its voltage is given."""
        free = [n for n in names if n not in self._known]
        for n in free[1:]:
            self._root[self._find(n)] = self._find(free[0])
        if free:
            self._find(free[0])

    def of(self, names: Sequence[str]) -> str:
        """The group of some nodes; what lies only between known nodes is one of its own."""
        return next((self._find(n) for n in names if n not in self._known), "between " + " ".join(names))


Joining = Bar | Drop | Movable | Shifter


def _ends_of(build: Builder, thing: Joining) -> list[str]:
    """The nodes that something lies between."""
    match thing:
        case Bar():
            return [thing.a, thing.b]
        case Drop():
            return list(thing.touched)
        case Movable():
            return _ends(build, thing)
        case Shifter():
            return [thing.lead_side, thing.pin_side]


def _parted(build: Builder) -> list[Cluster]:
    pins = {p: build.c.nets.of(p) for p in build.c.ties.holders if _alive(build, p)}
    groups = _Groups(build.known)
    joining: list[Joining] = [*build.bars, *build.drops, *build.movables, *build.shifters]
    for thing in joining:
        groups.join(_ends_of(build, thing))
    for node in pins.values():
        groups.join([node])
    by_group: dict[str, Cluster] = {}

    def home(names: list[str]) -> Cluster:
        return by_group.setdefault(groups.of(names), Cluster())

    for bar in build.bars:
        home(_ends_of(build, bar)).bars.append(bar)
    for drop in build.drops:
        home(_ends_of(build, drop)).drops.append(drop)
    moving = [(home(_ends_of(build, m)), m) for m in build.movables]
    for pin_id, node in pins.items():
        home([node]).pins.append(pin_id)
    shifting = [(home(_ends_of(build, x)), x) for x in build.shifters]
    for cluster in by_group.values():
        own_moving = [m for where, m in moving if where is cluster]
        own_shifting = [x for where, x in shifting if where is cluster]
        _fill(build, cluster, pins, own_moving, own_shifting)
    return [c for c in by_group.values() if c.nodes or c.drops or c.loads]


def _follows(m: Movable, moving: list[Movable]) -> bool:
    """Its opposite is in the same cluster: where that one stands says where this one does."""
    return isinstance(m.element, kinds.Switch) and any(
        (x.part, x.name) == (m.part, m.element.opposite) for x in moving
    )


def _fill(
    build: Builder, cluster: Cluster, pins: dict[str, str], moving: list[Movable], shifting: list[Shifter]
) -> None:
    """The cases of a cluster, what each of them switches, and what follows from all of it."""
    cluster.contacts += [(m.part, m.name) for m in moving if not _follows(m, moving)]
    cluster.cases = cases_of(build.c, cluster)
    for pin_id in cluster.pins:
        cluster.bars += pin_bars(build, pin_id, pins[pin_id], cluster.cases)
    for m in moving:
        cluster.bars += movable_bars(build, m, cluster.cases)
    for shifter in shifting:
        cluster.bars += shifter_bars(build, shifter, shifter_lows(build.c, shifter, cluster.cases))
    inside: list[Joining] = [*cluster.bars, *cluster.drops]
    touched = dict.fromkeys(n for link in inside for n in _ends_of(build, link))
    cluster.nodes = [n for n in touched if n not in build.known]
    cluster.fixed = [n for n in touched if n in build.known]
    driven = tuple(dict.fromkeys(build.loads[b.key] for b in cluster.bars if b.key in build.loads))
    cluster.loads = driven or _alone(build, cluster)
    cluster.offsets = {n: build.offsets[n] for n in cluster.fixed if n in build.offsets}


def _alone(build: Builder, cluster: Cluster) -> tuple[str, ...]:
    """The part whose current a cluster's is, where it is the only one there."""
    links: list[Bar | Drop] = [*cluster.bars, *cluster.drops]
    parts = build.c.parts
    owners = {p for p in {link.key.part for link in links} if p in parts and not parts[p].is_hub}
    return tuple(owners) if len(owners) == 1 else ()
