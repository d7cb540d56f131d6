"""From a circuit to what the engine solves: every signal net with its elements, cases and corners.

Supplied nets and ground have given voltages, so they part the plan into small independent clusters.
A *case* is one combination of pin states, contacts and knob positions; a *corner* is one combination
of extremes of everything that has a spread.
"""

from itertools import product

from msgspec import Struct

from knotplan.catalog import parts as kinds
from knotplan.catalog.boards import Pin
from knotplan.catalog.quantities import Range
from knotplan.core.circuit import Circuit
from knotplan.core.plan import BOARD, PullUp, SeriesResistor, Tie
from knotplan.core.readings import Case
from knotplan.core.solve.junction import Junction, fit

OPEN_OHM = 1e12
"""an open contact, or a pin's transistor that is off"""
MOST_FREE = 3
"""with more driven pins or contacts than this in one cluster, not all combinations are looked at"""


class Bar(Struct, frozen=True):
    """A resistance between two nodes; its value may differ from case to case."""

    key: str
    a: str
    b: str
    ohm: tuple[Range, ...]
    """one for all cases, or one for each"""
    spread: str = ""
    """what its spread belongs to; equal names vary together"""


class Drop(Struct, frozen=True):
    """A junction between two nodes."""

    key: str
    a: str
    b: str
    junction: Junction
    spread_v: float


class Cluster(Struct):
    """One independent part of the network."""

    nodes: list[str] = []
    fixed: list[str] = []
    bars: list[Bar] = []
    drops: list[Drop] = []
    pins: list[str] = []
    contacts: list[tuple[str, str]] = []
    """(part id, element name) of each switch and track"""
    cases: list[Case] = []


class _Movable(Struct, frozen=True):
    """An element whose value depends on the case."""

    part: str
    name: str
    element: kinds.Switch | kinds.Track


class _Builder:
    """Collects elements between named nodes, then parts them into clusters."""

    def __init__(self, circuit: Circuit):
        self.c = circuit
        self.bars: list[Bar] = []
        self.drops: list[Drop] = []
        self.movables: list[_Movable] = []
        self.known = {circuit.ground, *circuit.origins}

    def node(self, part: str, name: str) -> str:
        contact = f"{part}.{name}"
        return self.c.net(contact) if name in self.c.parts[part].leads else f"{part}/{name}"

    def part(self, part_id: str) -> None:
        for name, e in self.c.parts[part_id].elements.items():
            key = f"{part_id}/{name}"
            match e:
                case kinds.Resistor(a=a, b=b, ohm=ohm):
                    self.bars.append(Bar(key, self.node(part_id, a), self.node(part_id, b), (ohm,), key))
                case kinds.Diode() | kinds.Led() | kinds.Opto():
                    self.junction(key, self.node(part_id, e.a), self.node(part_id, e.b), e)
                case kinds.Switch() | kinds.Track():
                    self.movables.append(_Movable(part_id, name, e))

    def junction(self, key: str, a: str, b: str, e: kinds.Diode | kinds.Led | kinds.Opto) -> None:
        law = fit(e.points)
        if law.rs_ohm > 0:
            self.bars.append(Bar(f"{key}~", f"{key}~", b, (Range.exactly(law.rs_ohm),)))
            b = f"{key}~"
        self.drops.append(Drop(key, a, b, law, e.spread_v))

    def tie(self, tie: Tie) -> None:
        series = sum(isinstance(b, SeriesResistor) for b in tie.beads)
        here, passed = self.c.net(tie.lead), 0
        for k, bead in enumerate(tie.beads):
            key = f"{tie.id}#{k}"
            ohm = (Range.around(bead.ohm, bead.tolerance),)
            if isinstance(bead, SeriesResistor):
                passed += 1
                there = self.c.net(tie.to) if passed == series else f"{tie.id}/{passed}"
                self.bars.append(Bar(key, here, there, ohm, key))
                here = there
            else:
                rail = self.c.net(bead.rail) if isinstance(bead, PullUp) else self.c.ground
                self.bars.append(Bar(key, rail, here, ohm, key))


def clusters(circuit: Circuit) -> list[Cluster]:
    """Every independent signal net of a circuit."""
    build = _Builder(circuit)
    for part_id in circuit.parts:
        build.part(part_id)
    for tie in circuit.plan.ties:
        build.tie(tie)
    return _parted(build)


def _ends(build: _Builder, m: _Movable) -> list[str]:
    ends = [build.node(m.part, m.element.a), build.node(m.part, m.element.b)]
    return ends + ([build.node(m.part, m.element.wiper)] if isinstance(m.element, kinds.Track) else [])


def _parted(build: _Builder) -> list[Cluster]:
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
        join([link.a, link.b])
    for m in build.movables:
        join(_ends(build, m))
    pins = {p: build.c.net(f"{BOARD}.{p}") for p in build.c.holders}
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
        of([drop.a, drop.b]).drops.append(drop)
    moving = [(of(_ends(build, m)), m) for m in build.movables]
    for pin_id, node in pins.items():
        of([node]).pins.append(pin_id)
    for cluster, m in moving:
        cluster.contacts.append((m.part, m.name))
    for cluster in made.values():
        cluster.cases = _cases(build.c, cluster)
        for pin_id in cluster.pins:
            cluster.bars += _pin_bars(build.c, pin_id, pins[pin_id], cluster.cases)
        for part_id, name in cluster.contacts:
            m = next(m for m in build.movables if (m.part, m.name) == (part_id, name))
            cluster.bars += _movable_bars(build, m, cluster.cases)
        inside: list[Bar | Drop] = [*cluster.bars, *cluster.drops]
        touched = dict.fromkeys(n for link in inside for n in (link.a, link.b))
        cluster.nodes = [n for n in touched if n not in build.known]
        cluster.fixed = [n for n in touched if n in build.known]
    return [c for c in made.values() if c.nodes or c.drops]


# --- cases ------------------------------------------------------------------------------------


def _some(options: list[list[str]]) -> list[tuple[str, ...]]:
    """All combinations, or where there are too many each extreme and each single departure."""
    if len(options) <= MOST_FREE:
        return list(product(*options))
    first, last = tuple(o[0] for o in options), tuple(o[-1] for o in options)
    singles = [(*first[:k], options[k][-1], *first[k + 1 :]) for k in range(len(options))]
    return list(dict.fromkeys([first, last, *singles]))


def _cases(c: Circuit, cluster: Cluster) -> list[Case]:
    running = [["high", "low"] if any(c.drives(t.lead) for t in c.holders[p]) else ["input"]
               for p in cluster.pins]  # fmt: skip
    wakes = _wakes(c, cluster.pins)
    moves = [["open", "closed"] if isinstance(c.parts[p].elements[e], kinds.Switch) else ["0", "0.5", "1"]
             for p, e in cluster.contacts]  # fmt: skip
    places = [tuple(zip([p for p, _ in cluster.contacts], s, strict=True)) for s in _some(moves)]
    states = [tuple(zip(cluster.pins, s, strict=True)) for s in _some(running)]
    cases = [Case("running", s, p) for s in states for p in places]
    return cases + [Case("power-on", wake, p) for wake in wakes for p in places]


def _wakes(c: Circuit, pins: list[str]) -> list[tuple[tuple[str, str], ...]]:
    """What a cluster's pins do before a program runs, one state after another."""
    if not pins:
        return []
    options = []
    for p in pins:
        states = [s for w in c.board.pins[p].wakes for s in (("low", "high") if w == "toggling" else (w,))]
        options.append(list(dict.fromkeys(states)))
    return [tuple(zip(pins, s, strict=True)) for s in _some(options)]


# --- what depends on the case ---------------------------------------------------------------------


def _pin_bars(c: Circuit, pin_id: str, node: str, cases: list[Case]) -> list[Bar]:
    """A pin is a resistance to its rail and one to ground, as its state in each case has them."""
    pin = c.board.pins[pin_id]
    rail = c.net(f"rail:{c.board.drivers[pin.driver].rail}")
    both = [_pin_ohms(c, pin, c.holders[pin_id], case.pin(pin_id)) for case in cases]
    bars = [Bar(f"pin:{pin_id}:high", rail, node, tuple(up for up, _ in both), f"pin:{pin_id}"),
            Bar(f"pin:{pin_id}:low", node, c.ground, tuple(down for _, down in both), f"pin:{pin_id}")]  # fmt: skip
    if pin.fitted_pull_ohm:
        bars.append(Bar(f"fitted:{pin_id}", rail, node, (Range.around(pin.fitted_pull_ohm, 0.05),),
                        f"fitted:{pin_id}"))  # fmt: skip
    strap = c.board.straps.get(pin.strap)
    if strap is not None and strap.pull_ohm:
        ends = (rail, node) if strap.level == "high" else (node, c.ground)
        bars.append(Bar(f"strap:{pin_id}", *ends, (Range.around(strap.pull_ohm, 0.05),), f"strap:{pin_id}"))
    return bars


def _pin_ohms(c: Circuit, pin: Pin, held: list[Tie], state: str) -> tuple[Range, Range]:
    """(to the rail, to ground) in one state."""
    driver = c.board.drivers[pin.driver]
    none = Range.exactly(OPEN_OHM)
    leak = Range.exactly(c.board.logic_v / driver.leak_a)
    if state == "input":
        pull = next((t.pull for t in held if t.pull != "none"), "")
        state = {"up": "pull-up", "down": "pull-down"}.get(pull, "floating")
    match state:
        case "high":
            return driver.high_ohm, none
        case "low":
            return none, driver.low_ohm
        case "pull-up":
            return driver.pull_up_ohm or none, leak
        case "pull-down":
            return none, driver.pull_down_ohm or leak
        case _:
            return none, leak


def _movable_bars(build: _Builder, m: _Movable, cases: list[Case]) -> list[Bar]:
    key = f"{m.part}/{m.name}"
    stands = [dict(case.contacts)[m.part] for case in cases]
    a, b = build.node(m.part, m.element.a), build.node(m.part, m.element.b)
    if isinstance(m.element, kinds.Switch):
        closed = Range.exactly(m.element.ohm)
        return [Bar(key, a, b, tuple(closed if s == "closed" else Range.exactly(OPEN_OHM) for s in stands))]
    wiper, whole = build.node(m.part, m.element.wiper), m.element.ohm
    tolerance = m.element.tolerance

    def piece(share: float) -> Range:
        return Range.around(whole * max(share, 1e-3), tolerance)

    return [Bar(f"{key}:upper", a, wiper, tuple(piece(1 - float(s)) for s in stands), key),
            Bar(f"{key}:lower", wiper, b, tuple(piece(float(s)) for s in stands), key)]  # fmt: skip
