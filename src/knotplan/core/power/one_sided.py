"""What happens while one supply is off and another is on: current that goes in where nobody meant it to.

Every chip's input has a diode from its contact to its supply. While that supply is off, whatever drives the
contact feeds the whole rail through it. The nets that reach from a live supply to a dead one are solved with
the dead rail as a node of its own, loaded by what usually hangs on it.
"""

from collections.abc import Iterable, Iterator

import numpy as np
from msgspec import Struct

from knotplan.catalog.part import elements as kinds
from knotplan.catalog.part.needs import Bus, Output, Pulse, Stream
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.fed import as_fed
from knotplan.core.circuit.having import CLAMPED, having
from knotplan.core.circuit.keys import pins_in_use
from knotplan.core.engine.case_bars import movable_bars, pin_bars, shifter_bars, shifter_lows
from knotplan.core.engine.cluster import OPEN_OHM, Bar, Cluster, Drop
from knotplan.core.engine.elements import Builder
from knotplan.core.engine.keys import Key, of_part, of_pin
from knotplan.core.engine.readings import Case
from knotplan.core.engine.samples import given_volts, values_at
from knotplan.core.engine.solver.junction import Junction, fit
from knotplan.core.engine.solver.newton import solve
from knotplan.core.memory.question import each, question, table
from knotplan.core.plan.document import split
from knotplan.core.power.tree import nodes_by_id, root_of, tree

CLAMP = ((0.001, 0.65), (0.05, 0.95))
"""(A, V) at two points of an input's own diode"""
CLAMPED_V = 0.7
"""an input that bears no more than this above its supply has such a diode"""
MOST_OHM = 1e6
"""what leads over more than this drives nothing"""
STANDS: dict[type, str] = {
    kinds.Switch: "closed",
    kinds.Track: "0.5",
    kinds.Varies: "0.5",
    kinds.Talks: "high",
}
LEAST_LOAD_A = 1e-3


class Backfed(Struct, frozen=True):
    """A dead rail that gets current through a contact."""

    off: str
    """the root that is off"""
    contact: str
    """whose diode lets it in"""
    amps: float
    net: str
    volts: float
    """what the dead rail rises to"""


@table
def supply_root(c: Circuit) -> dict[str, str]:
    """{supplied net: the root that its voltage comes from in the end}."""
    found: dict[str, str] = {}
    for root in tree(c):
        for node in root.walk():
            if node.kind == "rail":
                found[c.nets.of(node.id)] = root.id
            elif node.kind in ("supply", "converter") and node.part:
                source = c.supplies.on_bench[node.part]
                found.setdefault(c.nets.of(f"{node.part}.{source.plus}"), root.id)
    return found


class _Clamp(Struct, frozen=True):
    contact: str
    net: str
    supply: str
    """net of the supply that its diode leads to"""


@each(pins_in_use)
def _clamp_of_pin(c: Circuit, contact: str) -> _Clamp | None:
    """The diode of a pin in use."""
    driver = as_fed(c, contact)
    volts = c.supplies.rail_volts(contact) if driver.rail else None
    if driver.rail and not driver.element and volts and driver.max_v <= volts.max + CLAMPED_V:
        return _Clamp(contact, c.nets.of(contact), c.nets.high(contact))
    return None


def _with_clamps(c: Circuit) -> Iterable[str]:
    return having(c, CLAMPED)


@each(_with_clamps)
def _clamps_of_part(c: Circuit, part_id: str) -> tuple[_Clamp, ...]:
    """The diodes of a part's inputs in use."""
    return tuple(clamp for name in c.parts[part_id].leads if (clamp := _clamp_of_lead(c, part_id, name)))


def _clamp_of_lead(c: Circuit, part_id: str, name: str) -> _Clamp | None:
    lead = f"{part_id}.{name}"
    need = c.needs.of(lead) if lead in c.ties.at else None
    if isinstance(need, Output | Pulse | Stream | Bus) and need.of:
        supply = c.supplies.fed_by(f"{part_id}.{need.of}")
        if supply in c.supplies.origins:
            return _Clamp(lead, c.nets.of(lead), supply)
    return None


@table
def _clamps_at(c: Circuit) -> dict[str, tuple[_Clamp, ...]]:
    """The diodes that lead to what hangs on each root."""
    by_root: dict[str, list[_Clamp]] = {}
    clamps = [x for x in _clamp_of_pin.all(c).values() if x is not None]
    clamps += [x for together in _clamps_of_part.all(c).values() for x in together]
    for clamp in clamps:
        root = supply_root(c).get(clamp.supply)
        if root is not None:
            by_root.setdefault(root, []).append(clamp)
    return {root: tuple(clamps) for root, clamps in by_root.items()}


def _dead_ones(c: Circuit) -> Iterable[str]:
    """The roots that can be off while another one is on."""
    return _clamps_at(c).keys() if len(root_of.all(c)) > 1 else ()


@each(_dead_ones)
def fed_back(c: Circuit, dead: str) -> tuple[Backfed, ...]:
    """Everything that feeds back while one root is off."""
    return tuple(_Dark(c, dead, _clamps_at(c)[dead]).found())


def backfed(c: Circuit, off: str = "") -> tuple[Backfed, ...]:
    """Everything that feeds back while one root is off; `off` asks for one only."""
    if off:
        return fed_back(c, off) if off in _dead_ones(c) else ()
    return tuple(fed for together in fed_back.all(c).values() for fed in together)


@question
def _usual_a(c: Circuit, net: str) -> float:
    """What usually hangs on a supplied net, amperes."""
    amps = 0.0
    for node in nodes_by_id(c).values():
        here = c.nets.of(node.id) if node.kind == "rail" else ""
        if node.kind in ("supply", "converter") and node.part:
            here = c.nets.of(f"{node.part}.{c.supplies.on_bench[node.part].plus}")
        if here == net:
            amps = max(amps, sum(n.drawn.usual_a for n in node.children if n.kind != "signals"))
    return amps


class _Dark:
    """The nets around a dead supply, as the engine solves them: typical values,
    in the case that feeds back the most.

    What drives is high, contacts are closed, knobs stand in the middle. The dead rail is a node as any other.
    """

    def __init__(self, c: Circuit, dead: str, clamps: tuple[_Clamp, ...]):
        self.c, self.dead, self.clamps = c, dead, clamps
        root = supply_root(c)
        self.known = {c.nets.ground} | {n for n in c.supplies.origins if root.get(n) != dead}
        self.build = Builder(c, self.known)
        self.states: dict[str, str] = {}
        """of the pins in use, by contact"""
        self._gather()
        self._moving()

    # --- what is there ---------------------------------------------------------------------------

    def _gather(self) -> None:
        """All parts and ties on these nets, and on the nets that those lead to; supplied nets part them."""
        c, build = self.c, self.build
        seen: set[str] = set()
        fresh = {x.net for x in self.clamps}
        parts: set[str] = set()
        ties: set[str] = set()
        while fresh:
            seen |= fresh
            bars, drops = len(build.bars), len(build.drops)
            for contact in [m for net in sorted(fresh) for m in c.nets.members.get(net, (net,))]:
                self._pin(contact)
                part = split(contact)[0]
                if part in c.parts and part not in parts:
                    parts.add(part)
                    build.part(part)
                own = c.ties.of(contact)
                for tie in [*c.ties.holders.get(contact, ()), *([own] if own is not None else [])]:
                    if tie.id not in ties:
                        ties.add(tie.id)
                        build.tie(tie)
            touched = {n for bar in build.bars[bars:] for n in (bar.a, bar.b)}
            touched |= {n for drop in build.drops[drops:] for n in drop.touched}
            fresh = {n for n in touched - seen if n not in c.supplies.origins and n != c.nets.ground}

    def _pin(self, contact: str) -> None:
        """Live pins that drive are high; those that read have their pull."""
        c = self.c
        if contact not in c.ties.holders or contact in self.states:
            return
        driver = c.hardware.driver(contact)
        if not driver.rail or driver.element or c.nets.high(contact) not in self.known:
            return
        self.states[contact] = (
            "high" if any(c.needs.drives(t.lead) for t in c.ties.holders[contact]) else "input"
        )
        state = Case("running", ((contact, self.states[contact]),))
        self.build.bars += pin_bars(self.build, contact, c.nets.of(contact), [state])

    def _moving(self) -> None:
        """Contacts, knobs and what talks, each as it stands; what talks from a dead supply does not."""
        build, stands = self.build, []
        for m in build.movables:
            if not isinstance(m.element, kinds.Talks) or build.node(m.part, m.element.b) in build.known:
                here = of_part(m.part, m.name), STANDS[type(m.element)]
                stands.append(here)
                build.bars += movable_bars(build, m, [Case("running", (), (here,))])
        case = Case("running", tuple(self.states.items()), tuple(stands))
        for shifter in build.shifters:
            build.bars += shifter_bars(build, shifter, shifter_lows(build.c, shifter, [case]))

    # --- what follows ------------------------------------------------------------------------------

    def found(self) -> Iterator[Backfed]:
        reached = self._reached()
        clamps = [x for x in self.clamps if x.net in reached]
        if not clamps:
            return
        law, known = fit(CLAMP), self.known
        drops = [
            Drop(of_pin(x.contact).its("clamp"), x.net, x.supply, Junction(law.is_a, law.n_vt, 0.0), 0.0)
            for x in clamps
        ]
        drops += [d for d in self.build.drops if reached & set(d.touched)]
        bars = [b for b in self.build.bars if {b.a, b.b} & reached]
        ends = dict.fromkeys([n for b in bars for n in (b.a, b.b)] + [n for d in drops for n in d.touched])
        for net in ends:
            if net not in known:  # what no resistance leads to has a voltage as well
                ohm = self._load_ohm(net) if net in self.c.supplies.origins else OPEN_OHM
                bars.append(Bar(Key(which=f"load of {net}"), net, self.c.nets.ground, (Range.exactly(ohm),)))
        ends[self.c.nets.ground] = None
        cluster = Cluster(
            [n for n in ends if n not in known],
            [n for n in ends if n in known],
            self.build.offsets,
            bars,
            drops,
            cases=[Case("running")],
        )
        solved = solve(*values_at(given_volts(self.c, cluster), cluster, [], np.zeros((0, 1))))
        for k, x in enumerate(clamps):
            if x.supply not in known:
                volts = float(solved.volts[cluster.nodes.index(x.supply), 0])
                yield Backfed(self.dead, x.contact, float(solved.junction_a[k, 0]), x.supply, volts)

    def _reached(self) -> set[str]:
        """The nodes that something live leads to, over whatever resistors and junctions."""
        links: dict[str, list[str]] = {}
        joined = [(b.a, b.b) for b in self.build.bars if b.ohm[0].typ < MOST_OHM] + [
            d.touched for d in self.build.drops
        ]
        for ends in joined:
            for here in ends:
                links.setdefault(here, []).extend(ends)
        known = self.known
        fresh = [n for n in links if n in known and n != self.c.nets.ground]
        reached: set[str] = set()
        while fresh:
            more = {n for here in fresh for n in links[here] if n not in known} - reached
            reached |= more
            fresh = list(more)
        return reached

    def _load_ohm(self, net: str) -> float:
        """What usually hangs on a rail, as a resistance."""
        return self.c.supplies.origins[net].volts.typ / max(_usual_a(self.c, net), LEAST_LOAD_A)
