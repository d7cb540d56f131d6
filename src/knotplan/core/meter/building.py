"""A component with the meter in it, as a cluster of the engine.

Ohms: an ampere from the one lead to the other. Junctions count as resistances between an open one and what
they let through at 0.2 V, so that the network is one of resistances.

Diode range: 1 mA from red to black, up to 3 V.

Volts: 10 MOhm from the point to the board's ground.
"""

from collections.abc import Sequence
from functools import lru_cache
from itertools import combinations, product
from math import prod

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from knotplan.catalog.quantities import Range
from knotplan.core.circuit.nets import GROUND
from knotplan.core.engine.cases import some
from knotplan.core.engine.cluster import OPEN_OHM, Bar, Cluster, Drop, Varying
from knotplan.core.engine.keys import Key
from knotplan.core.engine.readings import Case
from knotplan.core.engine.samples import values_at
from knotplan.core.engine.solver.junction import Junction
from knotplan.core.engine.solver.net import MOST_WRITTEN_OUT
from knotplan.core.engine.solver.network import Floats, Samples, Topology
from knotplan.core.meter.components import Component
from knotplan.core.meter.network import Bench, Fed
from knotplan.core.meter.pieces import Moment, Piece, is_inner
from knotplan.core.meter.points import Point

TEST_V, PROBE_OHM = 0.2, 1e-3
DIODE_A, DIODE_V, FAR_OHM = 1e-3, 3.0, 1e6
"""the current is that of a high voltage behind a high resistance; at `DIODE_V` a steep junction takes it
over"""
METER_OHM = 10e6
LEAKS_OHM = 1e5
"""a junction that lets through less than this at the test voltage is taken for an open one, usually"""
MOST_STATES, MOST_SINGLY = 64, 12
"""combinations that are looked at; with more things that vary than that, they vary together"""
RED, BLACK, LIMIT = "meter red", "meter black", "meter limit"
STEEP = Junction(1e-12, 2e-3, 0.0)
FIELDS = ("fixed_v", "siemens", "is_a", "n_vt", "sink_a", "offset_v", "share")
"""of `Samples`, in its order"""


class Held(Struct):
    """Points of one component, ready to be solved."""

    points: tuple[Point, ...]
    topology: Topology
    samples: Samples
    states: int
    """combinations of what is not known: a pin's level, a knob's position"""
    levels: int
    """samples of each: the centre first"""
    red: tuple[int, ...]
    """of each point: the two nodes whose voltage is looked at"""
    black: tuple[int, ...]


def job(bench: Bench, moment: Moment, fed: Fed, component: Component, points: list[Point]) -> Held:
    """Points of one component, with the meter held to each by turns."""
    laid = bench.n.moments[moment]
    pieces = [(number, laid.all[number]) for number in component.pieces]
    # between two points resistance grows with each resistance: of a contact or a sensor only the ends count
    ends_count = points[0].range == "ohms" and bench.specimen is None
    several = [(n, p.states) for n, p in pieces if p.states > 1 and not (ends_count and len(p.bars) == 1)]
    if bench.specimen is not None:
        states = [tuple(bench.specimen.state(number, count) for number, count in several)]
    else:
        options = [[str(k) for k in range(count)] for _, count in several]
        whole = prod(count for _, count in several) <= MOST_STATES
        chosen = list(product(*options)) if whole else some(options)
        states = [tuple(int(k) for k in s) for s in chosen]
    build = _Building(bench, moment, fed, states, points)
    place = {number: k for k, (number, _) in enumerate(several)}
    for number, piece in pieces:
        build.add(number, piece, place.get(number, -1))
    for group in component.soft:
        build.lump(group)
    return build.held()


class _Building:
    """A cluster of the engine, put together with the meter in it."""

    def __init__(
        self, bench: Bench, moment: Moment, fed: Fed, states: list[tuple[int, ...]], points: list[Point]
    ):
        self.bench, self.moment, self.fed, self.states, self.points = bench, moment, fed, states, points
        self.laid = bench.n.moments[moment]
        self.bars: list[Bar] = []
        self.drops: list[Drop] = []
        self.volts: dict[str, Range] = {}
        self.range = points[0].range
        self._called: dict[str, str] = {}

    def name(self, node: str) -> str:
        """What a node is called in the cluster: by its group. A voltage beside a given one is given too."""
        known = self._called.get(node)
        if known is None:
            known = self._called[node] = self._name(node)
        return known

    def _name(self, node: str) -> str:
        offset = self.laid.pieces.offsets.get(node)
        group = self.bench.group(offset.net if offset else node)
        given = self.fed.volts.get(group)
        if given is None:
            return str(group)
        name = f"{group}" if offset is None else f"{group}{offset.by_v:+g}"
        by = offset.by_v if offset else 0.0
        self.volts[name] = Range(given.min + by, given.typ + by, given.max + by)
        return name

    def add(self, number: int, piece: Piece, varying: int) -> None:
        """Takes in a piece; `varying` says which of the states is its."""
        bead, times = self.laid.bead.get(number), self._times(number)
        turned = self.laid.turned(bead) if bead is not None and times < 0 else {}
        times = abs(times)
        for bar in piece.bars:
            a, b = (self.name(turned.get(n, n)) for n in (bar.a, bar.b))
            if a == b or (a in self.volts and b in self.volts):
                continue
            ohm = bar.ohm
            if varying >= 0 and len(ohm) > 1:
                ohm = tuple(bar.ohm[s[varying]] for s in self.states)
            elif len(ohm) > 1:
                usual = ohm[len(ohm) // 2 if len(ohm) > 2 else 0].typ
                ohm = (Range(min(r.min for r in ohm), usual, max(r.max for r in ohm)),)
            if times != 1.0:
                ohm = tuple(Range(r.min * times, r.typ * times, r.max * times) for r in ohm)
            self.bars.append(replace(bar, a=a, b=b, ohm=ohm))
        for drop in piece.drops:
            a, b = (self.name(turned.get(n, n)) for n in (drop.a, drop.b))
            third = self.name(drop.third) if drop.third else ""
            if self.range == "ohms":
                self._closed(drop, a, b)
            elif a != b and not {a, b, third or a} <= self.volts.keys():
                self.drops.append(replace(drop, a=a, b=b, third=third))

    def _times(self, number: int) -> float:
        """How many times its value a bead's piece has; negative where it is turned."""
        bead = self.laid.bead.get(number)
        return 1.0 if bead is None else self.bench.change.beads.get(bead, 1.0)

    def _closed(self, drop: Drop, a: str, b: str) -> None:
        """A junction below the test voltage: between an open one and what it lets through at that voltage. A
        channel without a voltage at its gate lets nothing through."""
        if a == b or drop.square:
            return
        amps = drop.junction.is_a * np.expm1((TEST_V - max(drop.offset_v, 0.0)) / drop.junction.n_vt)
        least = TEST_V / max(amps, TEST_V / OPEN_OHM)
        usual = least if least < LEAKS_OHM else OPEN_OHM
        self.bars.append(Bar(drop.key, a, b, (Range(min(least, usual), usual, OPEN_OHM),), drop.key))

    def lump(self, group: int) -> None:
        """What is on a supply that is not on is worth to ground: between nothing, and as much as if all of it
        led there. Below `TEST_V` what lies behind a junction hardly counts."""
        if group == self.bench.group(GROUND):
            return
        key = Key(part=f"group {group}")
        ohm = Range(1 / self._siemens(group), OPEN_OHM, OPEN_OHM)
        self.bars.append(Bar(key, str(group), self.name(GROUND), (ohm,), key))

    def _siemens(self, group: int) -> float:
        """Everything on a supply's net, taken as if it led to ground."""
        change = self.bench.change
        as_planned = group < len(self.bench.n.members) and group not in self.bench.dirty and not change.beads
        if as_planned and group in self.laid.lumps:
            return self.laid.lumps[group]
        most = 1 / OPEN_OHM
        for number in self.bench.pieces(self.moment, group):
            for bar in self.laid.all[number].bars:
                ends = {self.bench.group(bar.a), self.bench.group(bar.b)}
                if group in ends and len(ends) == 2 and not any(is_inner(n) for n in (bar.a, bar.b)):
                    most += 1 / (min(r.min for r in bar.ohm) * abs(self._times(number)))
        if as_planned:
            self.laid.lumps[group] = most
        return most

    def held(self) -> Held:
        """The job, with the meter held to each of the points by turns."""
        if self.range == "ohms":
            return self._resistances()
        if self.range == "diode":
            self._diode()
        cluster = self._cluster()
        names = _names(cluster, self.volts)
        levels = self._levels(names)
        given = [self.volts[n] for n in cluster.fixed]
        topology, samples = values_at(given, cluster, names, levels)
        number = {n: k for k, n in enumerate(cluster.nodes)} | {
            n: -k - 1 for k, n in enumerate(cluster.fixed)
        }
        if self.range == "diode":
            at, back = [number[RED]], [number[BLACK]]
        else:
            at = [number[self.name(p.red)] for p in self.points]
            back = [number[self.name(GROUND)]] * len(at)
            topology, samples = _with_meters(topology, _repeated(samples, len(at)), at, back[0])
        count = len(self.states), levels.shape[1]
        return Held(tuple(self.points), topology, samples, *count, tuple(at), tuple(back))

    def _resistances(self) -> Held:
        """Without junctions and given voltages only the resistance between each two nodes counts. So networks
        of as many nodes are of one shape, whatever lies where in them, and are solved together."""
        ends = [(self.name(p.red), self.name(p.black)) for p in self.points]
        touched = [n for bar in self.bars for n in (bar.a, bar.b)] + [n for pair in ends for n in pair]
        number = {n: k for k, n in enumerate(dict.fromkeys(touched))}
        here = [_in_order(number[bar.a], number[bar.b]) for bar in self.bars]
        few = len(number) <= MOST_WRITTEN_OUT
        row = _every_pair(len(number)) if few else {p: k for k, p in enumerate(dict.fromkeys(here))}
        pairs = tuple(row)
        levels = 3 if self.bench.specimen is None else 1
        count = len(self.states) * levels
        siemens = np.zeros((len(pairs), count))
        if here:
            np.add.at(siemens, [row[pair] for pair in here], 1 / self._ohms_of_bars().reshape(-1, count))
        none = np.zeros((0, count))
        samples = Samples(none, siemens, none, none)
        topology = Topology(len(number), 0, pairs, (), tuple(range(len(number))))
        red, black = (tuple(number[pair[k]] for pair in ends) for k in (0, 1))
        driven = _with_currents(_repeated(samples, len(ends)), len(number), red, black)
        return Held(tuple(self.points), topology, driven, len(self.states), levels, red, black)

    def _ohms_of_bars(self) -> Floats:
        """(bars, states, levels)."""
        each = []
        for bar in self.bars:
            own = [self._of_range(r, bar.spread) for r in bar.ohm]
            each.append(own if len(own) == len(self.states) else own * len(self.states))
        return np.array(each)

    def _of_range(self, ohm: Range, spread: Varying) -> tuple[float, ...]:
        """Usual, least and most: resistances between two points grow with each of those between them
        (Rayleigh's law). Of a specimen the one that it has."""
        if self.bench.specimen is None:
            return ohm.typ, ohm.min, ohm.max
        level = self.bench.specimen.level(spread) if spread else 0.0
        return (ohm.typ + level * (ohm.max - ohm.typ if level > 0 else ohm.typ - ohm.min),)

    def _levels(self, names: list[Varying]) -> Floats:
        """Where in its range each thing that varies stands: (things, samples)."""
        if self.bench.specimen is not None:
            return self.bench.specimen.levels(names)
        return _singly(len(names)) if len(names) <= MOST_SINGLY else _together(len(names))

    def _cluster(self) -> Cluster:
        """The pieces as a cluster of the engine; what the meter is held to is in it, whatever lies there."""
        links: list[Bar | Drop] = [*self.bars, *self.drops]
        touched: dict[str, None] = {}
        for link in links:
            touched |= dict.fromkeys((link.a, link.b) if isinstance(link, Bar) else link.touched)
        if self.range == "volts":
            touched |= dict.fromkeys((*(self.name(p.red) for p in self.points), self.name(GROUND)))
        return Cluster(
            nodes=[n for n in touched if n not in self.volts],
            fixed=[n for n in touched if n in self.volts],
            bars=self.bars,
            drops=self.drops,
            cases=[Case("power-on")] * len(self.states),
        )

    def _diode(self) -> None:
        """A current out of the red lead, and a steep junction that takes it over at the meter's own
        voltage."""
        self.volts |= {
            BLACK: Range.exactly(0.0),
            "meter": Range.exactly(DIODE_A * FAR_OHM),
            LIMIT: Range.exactly(DIODE_V - STEEP.voltage(DIODE_A)),
        }
        ends = (("meter", RED, FAR_OHM), (RED, self.name(self.points[0].red), PROBE_OHM))
        for a, b, ohm in (*ends, (self.name(self.points[0].black), BLACK, PROBE_OHM)):
            self.bars.append(Bar(Key(part=f"meter {a}"), a, b, (Range.exactly(ohm),)))
        self.drops.append(Drop(Key(part="meter limit"), RED, LIMIT, STEEP, 0.0))


@lru_cache(MOST_WRITTEN_OUT + 1)
def _every_pair(nodes: int) -> dict[tuple[int, int], int]:
    """The number of each pair of so many nodes."""
    return {pair: k for k, pair in enumerate(combinations(range(nodes), 2))}


def _in_order(one: int, other: int) -> tuple[int, int]:
    return (one, other) if one < other else (other, one)


def _repeated(samples: Samples, times: int) -> Samples:
    """All samples once for each point."""
    if times == 1:
        return samples
    each = [getattr(samples, name) for name in FIELDS]
    return Samples(*(None if x is None else np.tile(x, times) for x in each))  # type: ignore[arg-type]


def _with_currents(samples: Samples, nodes: int, red: tuple[int, ...], black: tuple[int, ...]) -> Samples:
    """An ampere into one node and out of the other, point by point: in a network of resistances the voltage
    between is their resistance, whatever the current."""
    count = samples.siemens.shape[1] // len(red)
    samples.sink_a = np.zeros((nodes, samples.siemens.shape[1]))
    for k, (a, b) in enumerate(zip(red, black, strict=True)):
        here = slice(k * count, (k + 1) * count)
        samples.sink_a[a, here] -= 1.0
        samples.sink_a[b, here] += 1.0
    return samples


def _with_meters(
    topology: Topology, samples: Samples, red: Sequence[int], ground: int
) -> tuple[Topology, Samples]:
    """A voltmeter from each point to ground, there while that point is looked at."""
    count = samples.siemens.shape[1] // len(red)
    nodes = list(dict.fromkeys(red))
    meters = np.full((len(nodes), samples.siemens.shape[1]), 1 / OPEN_OHM)
    for k, node in enumerate(red):
        meters[nodes.index(node), k * count : (k + 1) * count] = 1 / METER_OHM
    samples.siemens = np.vstack([samples.siemens, meters])
    return replace(topology, resistors=(*topology.resistors, *((n, ground) for n in nodes))), samples


def _names(cluster: Cluster, volts: dict[str, Range]) -> list[Varying]:
    """What varies in a component, each by itself."""
    names: list[Varying] = [b.spread for b in cluster.bars if b.spread]
    names += [d.spread or d.key for d in cluster.drops if d.spread_v]
    names += [d.shares for d in cluster.drops if d.shares]
    names += [n for n in cluster.fixed if volts[n].min < volts[n].max]
    return list(dict.fromkeys(names))


def _together(names: int) -> Floats:
    """The centre, everything at its least, everything at its most."""
    return np.hstack([np.zeros((names, 1)), -np.ones((names, 1)), np.ones((names, 1))])


def _singly(names: int) -> Floats:
    """The centre, and each at its least and at its most."""
    return np.hstack([np.zeros((names, 1)), -np.eye(names), np.eye(names)])
