"""Every single fault of a bench: what hands do wrong, one thing at a time.

A cord open, one hole further, two cords of one part exchanged, a part turned round, a bead missing or ten
times too much or too little or the wrong way round, a supply that gives nothing, is another one or reversed,
neighbours joined.
"""

from collections.abc import Iterator
from itertools import combinations, pairwise

from msgspec import Struct

from knotplan.catalog.part.needs import Ground
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.neighbours import neighbours
from knotplan.core.meter.network import NOWHERE, Change
from knotplan.core.meter.pieces import lead_end, pin_end
from knotplan.core.plan.beads import Clamp, Diode, PullDown, PullUp, SeriesResistor, Zener
from knotplan.core.plan.document import Tie, split
from knotplan.core.text.beads import bead_words

WEIGHTS = {
    "cord open": 3.0,
    "ground missing": 4.0,
    "one hole further": 6.0,
    "cords exchanged": 4.0,
    "turned round": 2.0,
    "bead missing": 2.0,
    "bead tenfold": 1.5,
    "bead a tenth": 1.5,
    "bead turned": 2.0,
    "supply missing": 3.0,
    "supply exchanged": 1.5,
    "supply reversed": 1.5,
    "neighbours joined": 1.0,
}
"""how often each happens on benches, against one another: a judgement of ours, no count"""
MOST_EXCHANGED = 8
"""of a part with more cords only those that are next to one another are thought to be exchanged"""
MOST_TURNED = 8
"""a part with more leads than this has its own way of lying"""


class Fault(Struct, frozen=True):
    """One thing that is wrong."""

    kind: str
    title: str
    """what it is: "Lamp · anode one hole further, on GND" """
    change: Change
    ties: tuple[str, ...] = ()
    """where to look again"""
    supplies: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    """that it keeps from working: whose cords are concerned"""

    @property
    def weight(self) -> float:
        """How likely it is, against others."""
        return WEIGHTS[self.kind]


def faults(c: Circuit) -> tuple[Fault, ...]:
    """All single faults of a plan."""
    return tuple(_Faults(c).all())


class _Faults:
    def __init__(self, c: Circuit):
        self.c = c
        self.cords = [t for t in c.plan.ties if not c.contacts.is_socket(t.to)]

    def all(self) -> Iterator[Fault]:
        for tie in self.cords:
            yield self._open(tie)
            yield from self._further(tie)
        yield from self._exchanged()
        yield from self._turned()
        for tie in self.cords:
            yield from self._beads(tie)
        yield from self._supplies()
        yield from self._joined()

    def _parts(self, *ties: Tie) -> tuple[str, ...]:
        return tuple(dict.fromkeys(split(t.lead)[0] for t in ties))

    def _open(self, tie: Tie) -> Fault:
        lead = self.c.contacts.lead(tie.lead)
        grounds = lead is not None and isinstance(self.c.needs.of(tie.lead), Ground)
        kind = "ground missing" if grounds else "cord open"
        title = f"{self.c.titles.of(tie.lead)}: {kind}"
        return Fault(kind, title, Change({pin_end(tie.id): NOWHERE}), (tie.id,), (), self._parts(tie))

    def _further(self, tie: Tie) -> Iterator[Fault]:
        for contact in neighbours(self.c, tie.to):
            if contact in self.c.ties.at or contact == tie.lead:
                continue  # a cord is in that hole
            if self.c.nets.of(contact) == self.c.nets.of(tie.to):
                continue  # as good as the right one
            title = f"{self.c.titles.of(tie.lead)}: one hole further, on {self.c.titles.full(contact)}"
            yield Fault(
                "one hole further",
                title,
                Change({pin_end(tie.id): contact}),
                (tie.id,),
                (),
                self._parts(tie),
            )

    def _exchanged(self) -> Iterator[Fault]:
        of_part: dict[str, list[Tie]] = {}
        for tie in self.cords:
            of_part.setdefault(split(tie.lead)[0], []).append(tie)
        for part, ties in of_part.items():
            near = list(pairwise(ties))
            for one, other in combinations(ties, 2) if len(ties) <= MOST_EXCHANGED else near:
                if one.to == other.to:
                    continue
                names = [self.c.titles.own(t.lead) for t in (one, other)]
                yield Fault(
                    "cords exchanged",
                    f"{self.c.titles.part(part)}: cords of {names[0]} and {names[1]} exchanged",
                    Change({pin_end(one.id): other.to, pin_end(other.id): one.to}),
                    (one.id, other.id),
                    (),
                    self._parts(one, other),
                )

    def _turned(self) -> Iterator[Fault]:
        """All leads in the other order. (Of two leads that is the same as their cords exchanged.)"""
        for part_id, part in self.c.parts.items():
            leads = list(part.leads)
            own = [t for t in self.cords if split(t.lead)[0] == part_id]
            if part.is_hub or not 3 <= len(leads) <= MOST_TURNED or len(own) < 2:
                continue
            other = dict(zip(leads, reversed(leads), strict=True))
            ends = {lead_end(t.id): f"{part_id}.{other[split(t.lead)[1]]}" for t in own}
            title = f"{self.c.titles.part(part_id)}: turned round"
            yield Fault("turned round", title, Change(ends), tuple(t.id for t in own), (), self._parts(*own))

    def _beads(self, tie: Tie) -> Iterator[Fault]:
        for k, bead in enumerate(tie.beads):
            name = f"{self.c.titles.of(tie.lead)}: {bead_words(bead)}"
            kinds = {"bead missing": ("missing", 0.0)}
            if isinstance(bead, SeriesResistor | PullUp | PullDown):
                kinds["bead tenfold"] = ("ten times too much", 10.0)
                kinds["bead a tenth"] = ("ten times too little", 0.1)
            if isinstance(bead, Diode | Clamp | Zener):
                kinds["bead turned"] = ("the wrong way round", -1.0)
            for kind, (words, times) in kinds.items():
                change = Change(beads={(tie.id, k): times})
                yield Fault(kind, f"{name} {words}", change, (tie.id,), (), self._parts(tie))

    def _supplies(self) -> Iterator[Fault]:
        c = self.c
        own = {p: s for p, s in c.supplies.on_bench.items() if not s.fed_from}
        for part, source in own.items():
            name = c.titles.part(part)
            missing = Change(supplies={part: NOWHERE})
            fed = self._fed_from(part)
            yield Fault("supply missing", f"{name}: gives nothing", missing, (), (part,), fed)
            if source.plus != source.minus:
                turned = Change(supplies={part: "-"})
                yield Fault("supply reversed", f"{name}: plus and minus exchanged", turned, (), (part,), fed)
        for one, other in combinations(own, 2):
            alike = (own[one].plus == own[one].minus) == (own[other].plus == own[other].minus)
            if alike and own[one].volts != own[other].volts:
                title = f"{c.titles.part(one)} and {c.titles.part(other)}: exchanged"
                fed = tuple(dict.fromkeys((*self._fed_from(one), *self._fed_from(other))))
                both = Change(supplies={one: other, other: one})
                yield Fault("supply exchanged", title, both, (), (one, other), fed)

    def _fed_from(self, supply: str) -> tuple[str, ...]:
        """The parts that have their current from a supply; all of them where it feeds the board."""
        c = self.c
        if supply in c.supplies.feeding:
            return tuple(c.parts)
        origins = {p: [c.supplies.origin(f"{p}.{n}") for n in part.leads] for p, part in c.parts.items()}
        return tuple(
            p for p, found in origins.items() if any(o is not None and o.id == supply for o in found)
        )

    def _idle(self, contact: str) -> bool:
        """A signal pin that nothing uses and nothing drives: joined to another one it does nothing."""
        pin = self.c.contacts.pin(contact)
        plain = pin is not None and pin.kind == "io" and not pin.reserved
        drives = pin is not None and any(s in ("high", "low", "toggling") for s in pin.power_on_states)
        return plain and not drives and contact not in self.c.ties.at

    def _joined(self) -> Iterator[Fault]:
        c = self.c
        seen: set[frozenset[str]] = set()
        for contact in c.ties.at:
            for other in neighbours(c, contact):
                pair = frozenset((contact, other))
                if pair in seen or c.nets.of(contact) == c.nets.of(other) or self._idle(other):
                    continue
                seen.add(pair)
                ties = [t for x in (contact, other) for t in c.ties.at.get(x, ())]
                title = f"{c.titles.full(contact)} and {c.titles.full(other)}: joined"
                yield Fault(
                    "neighbours joined",
                    title,
                    Change(joints=((contact, other),)),
                    tuple(t.id for t in ties),
                    (),
                    self._parts(*ties),
                )
