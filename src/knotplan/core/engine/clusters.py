"""From a circuit to what the engine solves: every signal net with its elements, cases and corners.

Supplied nets and ground have given voltages, so they part the plan into small independent clusters.
A *case* is one combination of pin states, contacts and knob positions; a *corner* is one combination
of extremes of everything that has a spread.
"""

from knotplan.catalog.part import elements as kinds
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.case_bars import movable_bars, pin_bars, shifter_bars
from knotplan.core.engine.cases import cases_of
from knotplan.core.engine.cluster import Bar, Cluster, Drop, Movable
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


def _parted(build: Builder) -> list[Cluster]:
    root: dict[str, str] = {}

    def find(n: str) -> str:
        while root.setdefault(n, n) != n:
            n = root[n]
        return n

    def join(names: list[str]) -> None:
        free = [n for n in names if n not in build.known]
        for n in free[1:]:
            root[find(n)] = find(free[0])
        if free:
            find(free[0])

    links: list[Bar | Drop] = [*build.bars, *build.drops]
    for link in links:
        join(list(link.touched) if isinstance(link, Drop) else [link.a, link.b])
    for m in build.movables:
        join(_ends(build, m))
    for shifter in build.shifters:
        join([shifter.lead_side, shifter.pin_side])
    pins = {p: build.c.nets.of(p) for p in build.c.ties.holders if _alive(build, p)}
    for node in pins.values():
        join([node])
    made: dict[str, Cluster] = {}

    def of(names: list[str]) -> Cluster:
        """The cluster of some nodes; what lies only between known nodes is one of its own."""
        home = next((find(n) for n in names if n not in build.known), "between " + " ".join(names))
        return made.setdefault(home, Cluster())

    for bar in build.bars:
        of([bar.a, bar.b]).bars.append(bar)
    for drop in build.drops:
        of(list(drop.touched)).drops.append(drop)
    moving = [(of(_ends(build, m)), m) for m in build.movables]
    for pin_id, node in pins.items():
        of([node]).pins.append(pin_id)
    shifting = [(of([x.lead_side, x.pin_side]), x) for x in build.shifters]
    for cluster, m in moving:
        cluster.contacts.append((m.part, m.name))
    for cluster in made.values():
        cluster.cases = cases_of(build.c, cluster)
        for pin_id in cluster.pins:
            cluster.bars += pin_bars(build, pin_id, pins[pin_id], cluster.cases)
        for part_id, name in cluster.contacts:
            m = next(m for m in build.movables if (m.part, m.name) == (part_id, name))
            cluster.bars += movable_bars(build, m, cluster.cases)
        for shifter in (x for home, x in shifting if home is cluster):
            cluster.bars += shifter_bars(build, shifter, cluster.cases)
        inside: list[Bar | Drop] = [*cluster.bars, *cluster.drops]
        touched = dict.fromkeys(
            n for link in inside for n in (link.touched if isinstance(link, Drop) else (link.a, link.b))
        )
        cluster.nodes = [n for n in touched if n not in build.known]
        cluster.fixed = [n for n in touched if n in build.known]
        driven = tuple(dict.fromkeys(build.loads[b.key] for b in cluster.bars if b.key in build.loads))
        cluster.loads = driven or _alone(build, cluster)
        cluster.offsets = {n: build.offsets[n] for n in cluster.fixed if n in build.offsets}
    return [c for c in made.values() if c.nodes or c.drops or c.loads]


def _alone(build: Builder, cluster: Cluster) -> tuple[str, ...]:
    """The part whose current a cluster's is, where it is the only one there."""
    links: list[Bar | Drop] = [*cluster.bars, *cluster.drops]
    parts = build.c.parts
    found = {p for p in {link.key.part for link in links} if p in parts and not parts[p].is_hub}
    return tuple(found) if len(found) == 1 else ()


# --- cases ------------------------------------------------------------------------------------


# --- what depends on the case ---------------------------------------------------------------------
