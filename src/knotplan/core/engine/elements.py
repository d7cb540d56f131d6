"""Parts and beads as resistances and junctions between named nodes."""

from typing import Literal

from knotplan.catalog.part import elements as kinds
from knotplan.catalog.quantities import Range
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.nets import GROUND
from knotplan.core.engine.cluster import Bar, Drop, Movable, Offset, Shifter
from knotplan.core.engine.keys import Key, of_bead, of_part
from knotplan.core.engine.solver.junction import VT, Junction, fit
from knotplan.core.engine.solver.transistor import REVERSE_GAIN, channel, forward_share, reverse_junction
from knotplan.core.plan.beads import (
    DIODES,
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
from knotplan.core.plan.document import Tie

BOND_OHM = 0.01
LEAST_DRAW_A = 1e-6


ZENER_FORWARD = ((0.001, 0.65), (0.1, 0.85))


FET_BODY = ((0.001, 0.55), (1.0, 0.85))
"""(A, V) at two points of the diodes that come with these"""


LOADS = (kinds.Coil, kinds.Motor)


class Known:
    """The nodes whose voltage is given: supplied nets, ground, and what lies a fixed distance beside one."""

    def __init__(self, circuit: Circuit):
        self._nets, self._origins = circuit.nets, circuit.supplies.origins
        self._beside: set[str] = set()

    def __contains__(self, node: object) -> bool:
        return node in self._beside or node == self._nets.ground or node in self._origins

    def add(self, node: str) -> None:
        """One more."""
        self._beside.add(node)


class Builder:
    """Collects elements between named nodes, then parts them into clusters."""

    def __init__(self, circuit: Circuit, known: "Known | set[str] | None" = None):
        self.c = circuit
        self.bars: list[Bar] = []
        self.drops: list[Drop] = []
        self.movables: list[Movable] = []
        self.known = Known(circuit) if known is None else known
        self.offsets: dict[str, Offset] = {}
        self.shifters: list[Shifter] = []
        self.loads: dict[Key, str] = {}
        """part of each coil and motor, by the key of its bar"""

    def net(self, contact: str) -> str:
        """The node that a contact is on."""
        return self.c.nets.of(contact)

    def node(self, part: str, name: str) -> str:
        """The net of a part's lead, or a node inside the part."""
        return self.net(f"{part}.{name}") if name in self.c.parts[part].leads else f"{part}/{name}"

    def high(self, pin: str) -> str:
        """The node that a pin's high comes from."""
        return self.c.nets.high(pin)

    def low(self, pin: str) -> str:
        """The node that a pin's low goes to."""
        return self.c.nets.low(pin)

    def part(self, part_id: str) -> None:  # noqa: C901  (a branch for each kind of element)
        """Takes in every element of a part."""
        for name, e in self.c.parts[part_id].elements.items():
            key = of_part(part_id, name)
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
                case kinds.Load(a=a, b=b):
                    self.load(key, part_id, e)
                case kinds.Diode() | kinds.Led() | kinds.Opto():
                    self.junction(key, self.node(part_id, e.a), self.node(part_id, e.b), e)
                case kinds.Zener():
                    self.zener(key, self.node(part_id, e.a), self.node(part_id, e.b), e)
                case kinds.Bipolar():
                    self.bipolar(
                        key,
                        self.node(part_id, e.a),
                        self.node(part_id, e.b),
                        self.node(part_id, e.collector),
                        e,
                    )
                case kinds.Fet():
                    self.fet(
                        key, self.node(part_id, e.a), self.node(part_id, e.b), self.node(part_id, e.drain), e
                    )
                case kinds.Switch() | kinds.Track() | kinds.Varies() | kinds.Talks():
                    self.movables.append(Movable(part_id, name, e))

    def load(self, key: Key, part_id: str, e: kinds.Load) -> None:
        """What a part draws where beads or contacts lie in its feed: a resistance that draws as much at its
        supply's voltage. On a supplied net the tree of supplies knows it, and no voltage depends on it."""
        c = self.c
        lead = f"{part_id}.{e.a}"
        origin = c.supplies.origin(lead)
        if c.nets.of(lead) in c.supplies.origins or origin is None or not e.worst_a:
            return
        volts = origin.volts.typ
        usual, most = (volts / max(amps, LEAST_DRAW_A) for amps in (e.usual_a, e.worst_a))
        ends = self.node(part_id, e.a), self.node(part_id, e.b)
        self.bars.append(Bar(key, *ends, (Range(most, usual, usual),), key))
        self.loads[key] = part_id

    def junction(self, key: Key, a: str, b: str, e: kinds.Diode | kinds.Led | kinds.Opto) -> None:
        """Takes in a diode, with a resistance in series where its curve has one."""
        if a == b:
            return  # both ends on one net: no voltage, no current
        law = fit(e.points)
        if law.rs_ohm > 0 or (a in self.known and b in self.known):
            # between two given voltages something has to limit the current: at least the bond wires
            self.bars.append(
                Bar(key.its("series"), f"{key}~", b, (Range.exactly(max(law.rs_ohm, BOND_OHM)),))
            )
            b = f"{key}~"
        self.drops.append(Drop(key, a, b, law, e.spread_v))

    def zener(self, key: Key, a: str, b: str, e: kinds.Zener) -> None:
        """A junction forward, and one backwards that begins at its
        voltage; its slope there is ``nVt/I + Rs``."""
        if a == b:
            return
        n_vt = min(e.slope_ohm * e.at_a, VT)
        rest = max(e.slope_ohm - n_vt / e.at_a, BOND_OHM)
        inner = f"{key}~"
        self.bars.append(Bar(key.its("series"), inner, b, (Range.exactly(rest),)))
        forward = fit(ZENER_FORWARD)
        self.drops.append(Drop(key, a, inner, Junction(forward.is_a, forward.n_vt, 0.0), 0.0))
        # `at_a` flows where the law's exponent is 0: there v = volts, less what the series resistance takes
        # of it
        self.drops.append(
            Drop(
                key.its("back"),
                inner,
                a,
                Junction(e.at_a, n_vt, 0.0),
                e.spread_v,
                offset_v=e.volts - rest * e.at_a,
            )
        )

    def bipolar(self, key: Key, base: str, emitter: str, collector: str, e: kinds.Bipolar) -> None:
        """Ebers and Moll's two junctions; see `knotplan.core.engine.solver.transistor`."""
        law, inner = fit(e.points), f"{key}~"
        self.bars.append(
            Bar(key.its("collector"), collector, inner, (Range.exactly(max(e.collector_ohm, BOND_OHM)),))
        )
        gain = Range(forward_share(e.gain.min), forward_share(e.gain.typ), forward_share(e.gain.max))
        back = Range.exactly(forward_share(REVERSE_GAIN))
        ways = (
            ("", law, emitter, inner, gain),
            ("back", reverse_junction(law, e.gain.typ), inner, emitter, back),
        )
        for name, junction, far, third, share in ways:
            ends: tuple[str, str] = (base, far) if e.type == "npn" else (far, base)
            at: Literal["a", "b"] = "a" if e.type == "npn" else "b"
            self.drops.append(
                Drop(
                    key.its(name),
                    *ends,
                    Junction(junction.is_a, junction.n_vt, 0.0),
                    e.spread_v,
                    third,
                    at,
                    share=share,
                    spread=key,
                    shares=key.its("gain") if share.min < share.max else "",
                )
            )

    def fet(self, key: Key, gate: str, source: str, drain: str, e: kinds.Fet) -> None:
        """The channel's two ports, and the diode that every such transistor has from source to drain."""
        law, n = channel(e.points), e.type == "n"
        junction = Junction(law.is_a, 2 * VT, 0.0)
        for name, far, third in (("", source, drain), ("back", drain, source)):
            ends: tuple[str, str] = (gate, far) if n else (far, gate)
            self.drops.append(
                Drop(
                    key.its(name),
                    *ends,
                    junction,
                    e.spread_v,
                    third,
                    "a" if n else "b",
                    True,
                    law.threshold_v,
                    spread=key,
                )
            )
        body = kinds.Diode(*((source, drain) if n else (drain, source)), points=FET_BODY)
        self.junction(key.its("body"), body.a, body.b, body)

    def tie(self, tie: Tie) -> None:
        """Takes in the beads of a tie."""
        parting = sum(isinstance(b, Parting) for b in tie.beads)
        here, passed = self.net(tie.lead), 0
        for k, bead in enumerate(tie.beads):
            there = here
            if isinstance(bead, Parting):
                passed += 1
                there = self.net(tie.to) if passed == parting else f"{tie.id}/{passed}"
            self.bead(tie, of_bead(tie.id, k), bead, here, there)
            here = there

    def bead(self, tie: Tie, key: Key, bead: Bead, here: str, there: str) -> None:
        """One bead; `here` is its side towards the lead. Capacitors carry no steady current, a fuse hardly
        resists; a bead whose rail nobody has chosen does nothing."""
        if not all(rail for _, rail in rails_of(bead)):
            return
        match bead:
            case SeriesResistor(ohm=ohm, tolerance=tolerance):
                self.bars.append(Bar(key, here, there, (Range.around(ohm, tolerance),), key))
            case PullUp(ohm=ohm, tolerance=tolerance, rail=rail):
                self.bars.append(Bar(key, self.net(rail), here, (Range.around(ohm, tolerance),), key))
            case PullDown(ohm=ohm, tolerance=tolerance):
                self.bars.append(Bar(key, self.net(GROUND), here, (Range.around(ohm, tolerance),), key))
            case Diode(towards=towards, style=style):
                ends = (there, here) if towards == "lead" else (here, there)
                self.junction(key, *ends, kinds.Diode(*ends, points=DIODES[style], spread_v=0.03))
            case Clamp(rail=rail):
                ends = (here, self.net(rail))
                self.junction(key, *ends, kinds.Diode(*ends, points=DIODES["silicon"], spread_v=0.03))
            case Zener(volts=volts):
                spread = ZENER_SPREAD * volts
                self.zener(
                    key,
                    self.net(GROUND),
                    here,
                    kinds.Zener("", "", volts, ZENER_AT_A, ZENER_SLOPE_OHM, spread),
                )
            case LevelShifter():
                self.shifters.append(Shifter(key, tie, bead, here, there))
