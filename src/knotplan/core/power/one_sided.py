"""What happens while one supply is off and another is on: current that goes in where nobody meant it to.

Every chip's input has a diode from its contact to its supply. While that supply is off, whatever drives the contact feeds the
whole rail through it. The nets that reach from a live supply to a dead one are solved with the dead rail as a node of its own,
loaded by what usually hangs on it.
"""

from collections.abc import Iterator

import numpy as np
from msgspec import Struct

from knotplan.catalog import elements as kinds
from knotplan.catalog.needs import Bus, Output, Pulse, Stream
from knotplan.catalog.quantities import Range
from knotplan.core.beads import Diode, LevelShifter, SeriesResistor
from knotplan.core.circuit import Circuit
from knotplan.core.plan import BOARD, Tie, split
from knotplan.core.power.tree import Node
from knotplan.core.solve.junction import fit
from knotplan.core.solve.network import Port, Samples, Topology
from knotplan.core.solve.newton import solve

CLAMP = ((0.001, 0.65), (0.05, 0.95))
"""(A, V) at two points of an input's own diode"""
CLAMPED_V = 0.7
"""an input that bears no more than this above its supply has such a diode"""
MOST_OHM = 1e6
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


def root_of(circuit: Circuit, roots: tuple[Node, ...]) -> dict[str, str]:
    """{supplied net: the root that its voltage comes from in the end}."""
    found: dict[str, str] = {}
    for root in roots:
        for node in root.walk():
            if node.kind == "rail":
                found[circuit.net(node.id)] = root.id
            elif node.kind in ("supply", "converter") and node.part:
                source = circuit.bench_sources[node.part]
                found.setdefault(circuit.net(f"{node.part}.{source.plus}"), root.id)
    return found


class _Clamp(Struct, frozen=True):
    contact: str
    net: str
    supply: str
    """net of the supply that its diode leads to"""


def _clamps(c: Circuit) -> Iterator[_Clamp]:
    """The diodes of inputs in use, of pins and of parts' leads."""
    for contact in c.holders:
        driver = c.driver(contact)
        volts = c.rail_volts(contact) if driver.rail else None
        if driver.rail and not driver.element and volts and driver.max_v <= volts.max + CLAMPED_V:
            yield _Clamp(contact, c.net(contact), c.high_net(contact))
    for part_id, part in c.parts.items():
        for name in part.leads:
            lead = f"{part_id}.{name}"
            need = c.need(lead) if lead in c.ties_at else None
            if isinstance(need, Output | Pulse | Stream | Bus) and need.of:
                supply = c.fed_by(f"{part_id}.{need.of}")
                if supply in c.origins:
                    yield _Clamp(lead, c.net(lead), supply)


def backfed(circuit: Circuit, roots: tuple[Node, ...], off: str = "") -> tuple[Backfed, ...]:
    """Everything that feeds back while one root is off; `off` asks for one only."""
    c, root = circuit, root_of(circuit, roots)
    by_root: dict[str, list[_Clamp]] = {}
    for clamp in _clamps(c):
        if clamp.supply in root:
            by_root.setdefault(root[clamp.supply], []).append(clamp)
    found: list[Backfed] = []
    for dead, clamps in by_root.items():
        if len(roots) > 1 and off in ("", dead):
            found += _Dark(c, root, dead, clamps).found(roots)
    return tuple(found)


class _Dark:
    """The nets around a dead supply, as the engine solves them: one sample, at typical values."""

    def __init__(self, c: Circuit, root: dict[str, str], dead: str, clamps: list[_Clamp]):
        self.c, self.root, self.dead, self.clamps = c, root, dead, clamps
        self.nets = {x.net for x in clamps}
        self.bars: list[tuple[str, str, float]] = []
        self._ties()
        self._pins()
        self._parts()

    def found(self, roots: tuple[Node, ...]) -> Iterator[Backfed]:
        reached = self._reached()
        self.clamps = [x for x in self.clamps if x.net in reached]
        self.bars = [b for b in self.bars if reached & set(b[:2])]
        if not self.clamps:
            return
        law = fit(CLAMP)
        dark = {net for net in {x.supply for x in self.clamps} if self.root.get(net) == self.dead}
        for net in dark:
            self.bars.append((net, self.c.ground, self._load_ohm(net, roots)))
        names = dict.fromkeys([n for a, b, _ in self.bars for n in (a, b)] + [n for x in self.clamps for n in (x.net, x.supply)])
        fixed = [n for n in names if self._volts(n) is not None]
        free = [n for n in names if self._volts(n) is None]
        index = {n: k for k, n in enumerate(free)} | {n: -k - 1 for k, n in enumerate(fixed)}
        one = np.ones((1, 1))
        topology = Topology(len(free), len(fixed), tuple((index[a], index[b]) for a, b, _ in self.bars),
                            tuple(Port(index[x.net], index[x.supply]) for x in self.clamps))  # fmt: skip
        samples = Samples(np.array([[self._volts(n) or 0.0] for n in fixed]), np.array([[1 / r] for _, _, r in self.bars]),
                          law.is_a * np.ones((len(self.clamps), 1)), law.n_vt * np.ones((len(self.clamps), 1)),
                          None, 0.0 * one.repeat(len(self.clamps), 0))  # fmt: skip
        solved = solve(topology, samples)
        for k, x in enumerate(self.clamps):
            if x.supply in dark:
                volts = float(solved.volts[index[x.supply], 0])
                yield Backfed(self.dead, x.contact, float(solved.junction_a[k, 0]), x.supply, volts)

    def _reached(self) -> set[str]:
        """The nodes that something live drives, over whatever resistors."""
        links: dict[str, list[str]] = {}
        for a, b, _ in self.bars:
            for here, there in ((a, b), (b, a)):
                links.setdefault(here, []).append(there)
        fresh = [n for n in links if (self._volts(n) or 0.0) > 0]
        found: set[str] = set()
        while fresh:
            more = {n for here in fresh for n in links[here] if self._volts(n) is None} - found
            found |= more
            fresh = list(more)
        return found

    def _volts(self, net: str) -> float | None:
        """Of ground and of live supplies."""
        if net == self.c.ground:
            return 0.0
        if net in self.c.origins and self.root.get(net) != self.dead:
            return self.c.origins[net].volts.typ
        return None

    def _load_ohm(self, net: str, roots: tuple[Node, ...]) -> float:
        """What usually hangs on a rail, as a resistance."""
        amps = 0.0
        for r in roots:
            for node in r.walk():
                here = self.c.net(node.id) if node.kind == "rail" else ""
                if node.kind in ("supply", "converter") and node.part:
                    here = self.c.net(f"{node.part}.{self.c.bench_sources[node.part].plus}")
                if here == net:
                    amps = max(amps, sum(n.drawn.usual_a for n in node.children if n.kind != "signals"))
        return self.c.origins[net].volts.typ / max(amps, LEAST_LOAD_A)

    # --- what drives ---------------------------------------------------------------------------

    def _bar(self, a: str, b: str, ohm: float) -> None:
        if ohm < MOST_OHM and a != b:
            self.bars.append((a, b, ohm))

    def _ties(self) -> None:
        """What sits in the ties of these nets: resistors carry on, level shifters part."""
        for tie in self.c.plan.ties:
            ends = {self.c.net(tie.lead), self.c.net(tie.to)}
            if not ends & self.nets:
                continue
            series = sum(b.ohm for b in tie.beads if isinstance(b, SeriesResistor))
            parted = any(isinstance(b, LevelShifter | Diode) for b in tie.beads)
            if series and not parted:
                a, b = self.c.net(tie.lead), self.c.net(tie.to)
                self._bar(a, b, series)
                self.nets |= {a, b}
            self._pulls(tie)

    def _pulls(self, tie: Tie) -> None:
        for bead in tie.beads:
            rail, ohm = getattr(bead, "rail", ""), getattr(bead, "ohm", 0.0)
            if rail and ohm:
                self._bar(self.c.net(rail), self.c.net(tie.to), ohm)

    def _pins(self) -> None:
        """Live pins that drive are high; those that read have their pull."""
        c = self.c
        for contact, ties in c.holders.items():
            net, driver = c.net(contact), c.driver(contact)
            if net not in self.nets or not driver.rail or self.root.get(c.high_net(contact)) == self.dead:
                continue
            if any(c.drives(t.lead) for t in ties):
                self._bar(c.high_net(contact), net, driver.high_ohm.typ)
            elif driver.pull_up_ohm and any(t.pull == "up" for t in ties):
                self._bar(c.high_net(contact), net, driver.pull_up_ohm.typ)
            fitted = c.pins[contact].fitted_pull_ohm
            if fitted and split(contact)[0] == BOARD:
                self._bar(c.high_net(contact), net, fitted)

    def _parts(self) -> None:
        c = self.c
        owners = {split(m)[0] for net in self.nets for m in c.members.get(net, ()) if split(m)[0] in c.parts}
        for part_id in owners:
            for e in c.parts[part_id].elements.values():
                ends = [self._node(part_id, e.a), self._node(part_id, e.b)]
                match e:
                    case kinds.Resistor(ohm=Range(typ=ohm)) | kinds.Coil(ohm=Range(typ=ohm)):
                        self._bar(ends[0], ends[1], ohm)
                    case kinds.Switch(ohm=ohm):
                        self._bar(ends[0], ends[1], max(ohm, 0.01))
                    case kinds.Talks(high_ohm=Range(typ=ohm)) if self._volts(ends[1]):
                        self._bar(ends[1], ends[0], ohm)

    def _node(self, part_id: str, name: str) -> str:
        return self.c.net(f"{part_id}.{name}") if name in self.c.parts[part_id].leads else f"{part_id}/{name}"
