"""From a circuit to what the engine solves: every signal net with its elements, cases and corners.

Supplied nets and ground have given voltages, so they part the plan into small independent clusters.
A *case* is one combination of pin states, contacts and knob positions; a *corner* is one combination
of extremes of everything that has a spread.
"""

from itertools import product
from typing import Literal

from msgspec import Struct

from knotplan.catalog import elements as kinds
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.effort import EFFORT
from knotplan.core.engine.readings import Case
from knotplan.core.engine.solver.junction import VT, Junction, fit
from knotplan.core.engine.solver.transistor import REVERSE_GAIN, channel, forward_share, reverse_junction
from knotplan.core.plan.beads import (
    BUFFER_OHM,
    DIODES,
    SHIFTER_OHM,
    SHIFTER_PULL_OHM,
    ZENER_AT_A,
    ZENER_SLOPE_OHM,
    ZENER_SPREAD,
    Bead,
    Clamp,
    Diode,
    LevelShifter,
    Parting,
    PullDown,
    PullUp,
    SeriesResistor,
    Zener,
    rails_of,
)
from knotplan.core.plan.document import BOARD, Tie, split

OPEN_OHM = 1e12
"""an open contact, or a pin's transistor that is off"""
BOND_OHM = 0.01
ZENER_FORWARD = ((0.001, 0.65), (0.1, 0.85))
FET_BODY = ((0.001, 0.55), (1.0, 0.85))
"""(A, V) at two points of the diodes that come with these"""
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
    """A junction between two nodes, or one of the two ports of a transistor."""

    key: str
    a: str
    b: str
    junction: Junction
    spread_v: float
    third: str = ""
    """the node that has a share of its current"""
    at: Literal["a", "b"] = "a"
    square: bool = False
    offset_v: float = 0.0
    share: Range = Range.exactly(1.0)
    spread: str = ""
    """what its spread belongs to, where several vary together"""
    shares: str = ""
    """what the spread of its share belongs to"""

    @property
    def touched(self) -> tuple[str, ...]:
        return (self.a, self.b, self.third) if self.third else (self.a, self.b)


class Offset(Struct, frozen=True):
    """A given voltage that lies beside another one: what a bipolar driver's high and low stay away from their rails."""

    net: str
    by_v: float


class Cluster(Struct):
    """One independent part of the network."""

    nodes: list[str] = []
    fixed: list[str] = []
    offsets: dict[str, Offset] = {}
    """those among the fixed nodes that are no nets of their own"""
    bars: list[Bar] = []
    drops: list[Drop] = []
    pins: list[str] = []
    """contacts of the pins in it"""
    loads: tuple[str, ...] = ()
    """parts in it that are coils or motors; else the one part in it that is no hub"""
    contacts: list[tuple[str, str]] = []
    """(part id, element name) of each switch and track"""
    cases: list[Case] = []


class Movable(Struct, frozen=True):
    """An element whose value depends on the case."""

    part: str
    name: str
    element: kinds.Switch | kinds.Track | kinds.Varies | kinds.Talks


LOADS = (kinds.Coil, kinds.Motor)
MOVES: dict[type, list[str]] = {
    kinds.Switch: ["open", "closed"], kinds.Track: ["0", "0.5", "1"], kinds.Varies: ["0", "0.5", "1"],
    kinds.Talks: ["low", "high"],
}  # fmt: skip
"""the states in which each is looked at"""


class Shifter(Struct, frozen=True):
    """A level shifter in a tie, between the net of the lead's side and that of the pin's."""

    key: str
    tie: Tie
    bead: LevelShifter
    lead_side: str
    pin_side: str


class Builder:
    """Collects elements between named nodes, then parts them into clusters."""

    def __init__(self, circuit: Circuit):
        self.c = circuit
        self.bars: list[Bar] = []
        self.drops: list[Drop] = []
        self.movables: list[Movable] = []
        self.known = {circuit.ground, *circuit.origins}
        self.offsets: dict[str, Offset] = {}
        self.shifters: list[Shifter] = []
        self.loads: dict[str, str] = {}
        """part of each coil and motor, by the key of its bar"""

    def node(self, part: str, name: str) -> str:
        contact = f"{part}.{name}"
        return self.c.net(contact) if name in self.c.parts[part].leads else f"{part}/{name}"

    def part(self, part_id: str) -> None:
        for name, e in self.c.parts[part_id].elements.items():
            key = f"{part_id}/{name}"
            if isinstance(e, LOADS):
                self.loads[key] = part_id
            match e:
                case kinds.Resistor(a=a, b=b, ohm=ohm):
                    self.bars.append(Bar(key, self.node(part_id, a), self.node(part_id, b), (ohm,), key))
                case kinds.Coil(a=a, b=b, ohm=ohm):
                    self.bars.append(Bar(key, self.node(part_id, a), self.node(part_id, b), (ohm,), key))
                case kinds.Motor(a=a, b=b, volts=volts):
                    turning, stalled = volts / e.usual_a, volts / e.stall_a
                    ohm = Range(stalled, turning, turning)
                    self.bars.append(Bar(key, self.node(part_id, a), self.node(part_id, b), (ohm,), key))
                case kinds.Diode() | kinds.Led() | kinds.Opto():
                    self.junction(key, self.node(part_id, e.a), self.node(part_id, e.b), e)
                case kinds.Zener():
                    self.zener(key, self.node(part_id, e.a), self.node(part_id, e.b), e)
                case kinds.Bipolar():
                    self.bipolar(key, self.node(part_id, e.a), self.node(part_id, e.b), self.node(part_id, e.collector), e)
                case kinds.Fet():
                    self.fet(key, self.node(part_id, e.a), self.node(part_id, e.b), self.node(part_id, e.drain), e)
                case kinds.Switch() | kinds.Track() | kinds.Varies() | kinds.Talks():
                    self.movables.append(Movable(part_id, name, e))

    def junction(self, key: str, a: str, b: str, e: kinds.Diode | kinds.Led | kinds.Opto) -> None:
        if a == b:
            return  # both ends on one net: no voltage, no current
        law = fit(e.points)
        if law.rs_ohm > 0 or {a, b} <= self.known:
            # between two given voltages something has to limit the current: at least the bond wires
            self.bars.append(Bar(f"{key}~", f"{key}~", b, (Range.exactly(max(law.rs_ohm, BOND_OHM)),)))
            b = f"{key}~"
        self.drops.append(Drop(key, a, b, law, e.spread_v))

    def zener(self, key: str, a: str, b: str, e: kinds.Zener) -> None:
        """A junction forward, and one backwards that begins at its voltage; its slope there is ``nVt/I + Rs``."""
        if a == b:
            return
        n_vt = min(e.slope_ohm * e.at_a, VT)
        rest = max(e.slope_ohm - n_vt / e.at_a, BOND_OHM)
        inner = f"{key}~"
        self.bars.append(Bar(inner, inner, b, (Range.exactly(rest),)))
        forward = fit(ZENER_FORWARD)
        self.drops.append(Drop(key, a, inner, Junction(forward.is_a, forward.n_vt, 0.0), 0.0))
        # `at_a` flows where the law's exponent is 0: there v = volts, less what the series resistance takes of it
        self.drops.append(Drop(f"{key}:back", inner, a, Junction(e.at_a, n_vt, 0.0), e.spread_v,
                               offset_v=e.volts - rest * e.at_a))  # fmt: skip

    def bipolar(self, key: str, base: str, emitter: str, collector: str, e: kinds.Bipolar) -> None:
        """Ebers and Moll's two junctions; see `knotplan.core.engine.solver.transistor`."""
        law, inner = fit(e.points), f"{key}~"
        self.bars.append(Bar(f"{key}:collector", collector, inner, (Range.exactly(max(e.collector_ohm, BOND_OHM)),)))
        gain = Range(forward_share(e.gain.min), forward_share(e.gain.typ), forward_share(e.gain.max))
        back = Range.exactly(forward_share(REVERSE_GAIN))
        ways = (("", law, emitter, inner, gain), (":back", reverse_junction(law, e.gain.typ), inner, emitter, back))
        for name, junction, far, third, share in ways:
            ends: tuple[str, str] = (base, far) if e.type == "npn" else (far, base)
            at: Literal["a", "b"] = "a" if e.type == "npn" else "b"
            self.drops.append(Drop(key + name, *ends, Junction(junction.is_a, junction.n_vt, 0.0), e.spread_v, third, at,
                                   share=share, spread=key, shares=f"{key}:gain" if share.min < share.max else ""))  # fmt: skip

    def fet(self, key: str, gate: str, source: str, drain: str, e: kinds.Fet) -> None:
        """The channel's two ports, and the diode that every such transistor has from source to drain."""
        law, n = channel(e.points), e.type == "n"
        junction = Junction(law.is_a, 2 * VT, 0.0)
        for name, far, third in (("", source, drain), (":back", drain, source)):
            ends: tuple[str, str] = (gate, far) if n else (far, gate)
            self.drops.append(Drop(key + name, *ends, junction, e.spread_v, third, "a" if n else "b", True,
                                   law.threshold_v, spread=key))  # fmt: skip
        body = kinds.Diode(*((source, drain) if n else (drain, source)), points=FET_BODY)
        self.junction(f"{key}:body", body.a, body.b, body)

    def tie(self, tie: Tie) -> None:
        parting = sum(isinstance(b, Parting) for b in tie.beads)
        here, passed = self.c.net(tie.lead), 0
        for k, bead in enumerate(tie.beads):
            there = here
            if isinstance(bead, Parting):
                passed += 1
                there = self.c.net(tie.to) if passed == parting else f"{tie.id}/{passed}"
            self.bead(tie, f"{tie.id}#{k}", bead, here, there)
            here = there

    def bead(self, tie: Tie, key: str, bead: Bead, here: str, there: str) -> None:
        """One bead; `here` is its side towards the lead. Capacitors carry no steady current, a fuse hardly resists; a bead
        whose rail nobody has chosen does nothing."""
        if not all(rail for _, rail in rails_of(bead)):
            return
        match bead:
            case SeriesResistor(ohm=ohm, tolerance=tolerance):
                self.bars.append(Bar(key, here, there, (Range.around(ohm, tolerance),), key))
            case PullUp(ohm=ohm, tolerance=tolerance, rail=rail):
                self.bars.append(Bar(key, self.c.net(rail), here, (Range.around(ohm, tolerance),), key))
            case PullDown(ohm=ohm, tolerance=tolerance):
                self.bars.append(Bar(key, self.c.ground, here, (Range.around(ohm, tolerance),), key))
            case Diode(towards=towards, style=style):
                ends = (there, here) if towards == "lead" else (here, there)
                self.junction(key, *ends, kinds.Diode(*ends, points=DIODES[style], spread_v=0.03))
            case Clamp(rail=rail):
                ends = (here, self.c.net(rail))
                self.junction(key, *ends, kinds.Diode(*ends, points=DIODES["silicon"], spread_v=0.03))
            case Zener(volts=volts):
                spread = ZENER_SPREAD * volts
                self.zener(key, self.c.ground, here, kinds.Zener("", "", volts, ZENER_AT_A, ZENER_SLOPE_OHM, spread))
            case LevelShifter():
                self.shifters.append(Shifter(key, tie, bead, here, there))


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
    if not c.pins[contact].driver:
        return False
    driver = c.driver(contact)
    if driver.element:
        return False  # the engine has the transistor itself
    return c.low_net(contact) in build.known and (not driver.rail or c.high_net(contact) in build.known)


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
    pins = {p: build.c.net(p) for p in build.c.holders if _alive(build, p)}
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
        cluster.cases = _cases(build.c, cluster)
        for pin_id in cluster.pins:
            cluster.bars += pin_bars(build, pin_id, pins[pin_id], cluster.cases)
        for part_id, name in cluster.contacts:
            m = next(m for m in build.movables if (m.part, m.name) == (part_id, name))
            cluster.bars += movable_bars(build, m, cluster.cases)
        for shifter in (x for home, x in shifting if home is cluster):
            cluster.bars += shifter_bars(build, shifter, cluster.cases)
        inside: list[Bar | Drop] = [*cluster.bars, *cluster.drops]
        touched = dict.fromkeys(n for link in inside for n in (link.touched if isinstance(link, Drop) else (link.a, link.b)))
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
    found = {p for p in {link.key.partition("/")[0] for link in links} if p in parts and not parts[p].is_hub}
    return tuple(found) if len(found) == 1 else ()


# --- cases ------------------------------------------------------------------------------------


def _some(options: list[list[str]]) -> list[tuple[str, ...]]:
    """All combinations, or where there are too many each extreme and each single departure."""
    if len(options) <= MOST_FREE:
        return list(product(*options))
    first, last = tuple(o[0] for o in options), tuple(o[-1] for o in options)
    singles = [(*first[:k], options[k][-1], *first[k + 1 :]) for k in range(len(options))]
    return list(dict.fromkeys([first, last, *singles]))


def _cases(c: Circuit, cluster: Cluster) -> list[Case]:
    running = [_runs(c, p) for p in cluster.pins]
    wakes = _wakes(c, cluster.pins)
    moves = [MOVES[type(c.parts[p].elements[e])] for p, e in cluster.contacts]
    places = [tuple(zip([f"{p}/{e}" for p, e in cluster.contacts], s, strict=True)) for s in _some(moves)]
    states = [tuple(zip(cluster.pins, s, strict=True)) for s in _some(running)]
    cases = [Case("running", s, p) for s in states for p in places]
    return cases + [Case("power-on", wake, p) for wake in wakes for p in places]


def _runs(c: Circuit, pin: str) -> list[str]:
    """The states of a pin while the program runs: those of what its lead needs."""
    functions = c.pins[pin].functions
    if "sink" in functions:
        return ["low", "off"]
    if "source" in functions:
        return ["high", "off"]
    if "bridge" in functions:
        return ["high", "low"]
    return ["high", "low"] if any(map(c.driven_over, c.holders[pin])) else ["input"]


def _wakes(c: Circuit, pins: list[str]) -> list[tuple[tuple[str, str], ...]]:
    """What a cluster's pins do before a program runs, one state after another."""
    if not pins:
        return []
    options = []
    for p in pins:
        states = [s for w in c.pins[p].wakes for s in (("low", "high") if w == "toggling" else (w,))]
        options.append(list(dict.fromkeys(states)))
    return [tuple(zip(pins, s, strict=True)) for s in _some(options)]


# --- what depends on the case ---------------------------------------------------------------------


def pin_bars(build: Builder, pin_id: str, node: str, cases: list[Case]) -> list[Bar]:
    """A pin is a resistance to its rail and one to ground, as its state in each case has them."""
    c = build.c
    pin, driver = c.pins[pin_id], c.driver(pin_id)
    low = _beside(build, c.low_net(pin_id), driver.low_drop_v)
    high = _beside(build, c.high_net(pin_id), -driver.high_drop_v) if driver.rail else low
    both = [_pin_ohms(c, pin_id, case.pin(pin_id)) for case in cases]
    bars = [Bar(f"pin:{pin_id}:high", high, node, tuple(up for up, _ in both), f"pin:{pin_id}"),
            Bar(f"pin:{pin_id}:low", node, low, tuple(down for _, down in both), f"pin:{pin_id}")]  # fmt: skip
    if pin.fitted_pull_ohm:
        bars.append(Bar(f"fitted:{pin_id}", high, node, (Range.around(pin.fitted_pull_ohm, 0.05),),
                        f"fitted:{pin_id}"))  # fmt: skip
    strap = c.board.straps.get(pin.strap)
    if strap is not None and strap.pull_ohm:
        ends = (high, node) if strap.level == "high" else (node, c.ground)
        bars.append(Bar(f"strap:{pin_id}", *ends, (Range.around(strap.pull_ohm, 0.05),), f"strap:{pin_id}"))
    return bars


def _beside(build: Builder, net: str, by_v: float) -> str:
    """The node at a given distance from a supplied net."""
    if not by_v:
        return net
    name = f"{net}{by_v:+g}V"
    build.known.add(name)
    build.offsets[name] = Offset(net, by_v)
    return name


def _pin_ohms(c: Circuit, contact: str, state: str) -> tuple[Range, Range]:
    """(to the rail, to ground) in one state."""
    driver = c.driver(contact)
    none = Range.exactly(OPEN_OHM)
    volts = c.rail_volts(contact) if driver.rail else None
    leak = Range.exactly((volts.typ if volts else c.board.logic_v) / driver.leak_a)
    if state == "input":
        pull = next((t.pull for t in c.holders[contact] if t.pull != "none"), "")
        state = {"up": "pull-up", "down": "pull-down"}.get(pull, "floating")
    match state:
        case "high":
            return (driver.high_ohm if driver.rail else none), none
        case "low":
            return none, driver.low_ohm
        case "off":
            return none, none
        case "pull-up":
            return driver.pull_up_ohm or none, leak
        case "pull-down":
            return none, driver.pull_down_ohm or leak
        case _:
            return none, leak


def movable_bars(build: Builder, m: Movable, cases: list[Case]) -> list[Bar]:
    key = f"{m.part}/{m.name}"
    stands = [case.contact(m.part, m.name) for case in cases]
    a, b = build.node(m.part, m.element.a), build.node(m.part, m.element.b)
    none = Range.exactly(OPEN_OHM)
    match m.element:
        case kinds.Switch(ohm=ohm):
            return [Bar(key, a, b, tuple(Range.exactly(ohm) if s == "closed" else none for s in stands))]
        case kinds.Varies(least_ohm=least, most_ohm=most):
            between = tuple(Range.exactly(least * (most / least) ** float(s)) for s in stands)
            return [Bar(key, a, b, between)]
        case kinds.Talks():
            low = build.node(m.part, m.element.low)
            if m.element.most_v:
                b = _beside(build, build.c.ground, m.element.most_v)
            elif b in build.known:
                b = _beside(build, b, -m.element.high_drop_v)
            return [Bar(f"{key}:high", b, a, tuple(m.element.high_ohm if s == "high" else none for s in stands), key),
                    Bar(f"{key}:low", a, low, tuple(m.element.low_ohm if s == "low" else none for s in stands), key)]  # fmt: skip
    wiper, whole = build.node(m.part, m.element.wiper), m.element.ohm
    tolerance = m.element.tolerance

    def piece(share: float) -> Range:
        return Range.around(whole * max(share, 1e-3), tolerance)

    return [Bar(f"{key}:upper", a, wiper, tuple(piece(1 - float(s)) for s in stands), key),
            Bar(f"{key}:lower", wiper, b, tuple(piece(float(s)) for s in stands), key)]  # fmt: skip


def shifter_bars(build: Builder, x: Shifter, cases: list[Case]) -> list[Bar]:
    """A transistor joins the two sides while one of them is low, and each side's own pull-up makes its high; a buffer
    drives one side as the other one is."""
    c, none = build.c, Range.exactly(OPEN_OHM)
    low = [_low(c, x.tie, case) for case in cases]
    lead_rail, pin_rail = c.net(x.bead.lead_rail), c.net(x.bead.pin_rail)
    if x.bead.style == "mosfet":
        pull, through = Range.around(SHIFTER_PULL_OHM, 0.05), Range.exactly(SHIFTER_OHM)
        joined = tuple(through if is_low else none for is_low in low)
        return [Bar(f"{x.key}:lead", lead_rail, x.lead_side, (pull,), f"{x.key}:lead"),
                Bar(f"{x.key}:pin", pin_rail, x.pin_side, (pull,), f"{x.key}:pin"),
                Bar(f"{x.key}:through", x.lead_side, x.pin_side, joined)]  # fmt: skip
    out = Range.around(BUFFER_OHM, 0.3)
    rail, node = (lead_rail, x.lead_side) if c.drives(x.tie.lead) else (pin_rail, x.pin_side)
    return [Bar(f"{x.key}:high", rail, node, tuple(none if is_low is not False else out for is_low in low), f"{x.key}:out"),
            Bar(f"{x.key}:low", node, c.ground, tuple(out if is_low else none for is_low in low), f"{x.key}:out")]  # fmt: skip


def _low(c: Circuit, tie: Tie, case: Case) -> bool | None:
    """Whether the side of a level shifter that speaks is low in a case; nothing where it floats."""
    part = split(tie.lead)[0]
    own = [stands for key, stands in case.contacts if key.startswith(f"{part}/")]
    if "low" in own or "closed" in own:  # what the part drives counts before what a pin's weak pull would have
        return True
    state = case.pin(tie.to)
    if "high" in own:
        return state == "low"
    return {"low": True, "pull-down": True, "high": False, "pull-up": False}.get(state)
