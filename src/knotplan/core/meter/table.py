"""The fault table: what a meter reads at each point, as planned and with each single fault.

A fault changes the readings only of what hangs together with what it touches; everything else reads as
planned.
"""

from collections.abc import Iterable, Iterator, Sequence
from random import Random

from msgspec import Struct

from knotplan.catalog.derived import derived
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.neighbours import neighbours
from knotplan.core.circuit.nets import GROUND
from knotplan.core.meter.building import Held
from knotplan.core.meter.components import Component
from knotplan.core.meter.expected import OPEN, Expected
from knotplan.core.meter.faults import Fault, faults
from knotplan.core.meter.held import Settled, held, read, read_alike, shapes
from knotplan.core.meter.network import AS_PLANNED, NOWHERE, Bench, Change, Fed, Network, fed, stages
from knotplan.core.meter.pieces import Moment, lead_end, pin_end
from knotplan.core.meter.points import Point, between_supplies, diodes, meeting, supply_contacts
from knotplan.core.meter.specimen import Specimen
from knotplan.core.plan.beads import LevelShifter, SeriesResistor
from knotplan.core.plan.document import BOARD, Tie, split

BATCH = 8
"""faults after which somebody may say stop"""
PREPARING = 0.6
"""the share of the work before the first solution"""
MOST_TIES = 400
"""of a larger plan only what is read between the supplies is worked out unasked: the rest takes long"""
SAME_SHARE, SAME = 1e-3, 1e-4
"""readings that differ by less are the same one"""


class Stage(Struct, frozen=True):
    """What is on while the meter is held."""

    id: str
    """the supply that was switched on last; empty while nothing is on"""
    on: frozenset[str]
    moment: Moment


class Table(Struct):
    """Readings at all points."""

    circuit: Circuit
    points: tuple[Point, ...]
    planned: dict[Point, Expected]
    faults: tuple[Fault, ...]
    readings: list[dict[Point, Expected]]
    """of each fault, where it reads otherwise than planned"""
    whole: bool = True
    """no: only what is read between the supplies, without faults"""

    def at(self, fault: int, point: Point) -> Expected:
        """What the meter reads at a point with a fault."""
        return self.readings[fault].get(point, self.planned[point])


class Meter:
    """Holds a meter to a bench, as planned and with faults."""

    def __init__(self, circuit: Circuit):
        self.c = circuit
        self.network = Network(circuit)
        self.off = Stage("", frozenset(), "off")
        self.stages = [Stage(name, on, "on") for name, on in stages(circuit)]
        self.planned = Bench(self.network)
        self._poles = (*supply_contacts(circuit), GROUND)
        self._fed = {stage.id: self._feeds(self.planned, stage) for stage in (self.off, *self.stages)}
        ground = self.planned.group(GROUND)
        self.measured = [n for n in supply_contacts(circuit) if self.planned.group(n) != ground]
        """where supplies are measured"""
        self.points = tuple(dict.fromkeys(self._points()))
        self._at: dict[tuple[str, str], list[Point]] = {}
        for point in self.points:
            stage = point.stage if point.range == "volts" else ("diode" if point.range == "diode" else "")
            for node in {point.red, point.black, *point.lifted} - {""}:
                self._at.setdefault((stage, node), []).append(point)

    # --- which points -------------------------------------------------------------------------------

    def _points(self) -> Iterator[Point]:
        c = self.c
        supplies, meet = list(supply_contacts(c)), meeting(c)
        for k, one in enumerate(supplies):
            yield Point("ohms", one, GROUND)
            yield from (Point("ohms", one, x) for x in supplies[k + 1 :] if frozenset((one, x)) in meet)
            yield from (Point("volts", one, stage=s.id) for s in self.stages)
        for tie in c.plan.ties:
            if c.contacts.is_socket(tie.to):
                continue
            yield Point("ohms", tie.lead, tie.to)
            yield from self._inside(tie)
            beside = [n for n in neighbours(c, tie.to) if n != tie.lead]
            yield from (Point("ohms", tie.lead, n) for n in beside if not self._both_supply(tie.lead, n))
            stage = self._stage_of(tie)
            if stage is not None:
                yield Point("volts", tie.lead, stage=stage.id)
                yield Point("volts", tie.to, stage=stage.id)
        yield from self._beside()
        for part, name, a, b in diodes(c):
            ends = tuple(self._far_ends(part))
            ways = [self._far(part, x) for x in (a, b)]
            for back in (False, True):
                red, black = ways[::-1] if back else ways
                yield Point("diode", red, black, about=f"{part}.{name}", back=back, lifted=ends)

    def _beside(self) -> Iterator[Point]:
        """From each lead in use to those beside it. (Beside pins lies what a lead's cord may have hit.)"""
        for contact in dict.fromkeys(t.lead for t in self.c.plan.ties):
            for other in neighbours(self.c, contact):
                if self.c.nets.of(other) != self.c.nets.of(contact) and not self._both_supply(contact, other):
                    one, two = sorted((contact, other))
                    yield Point("ohms", one, two)

    def _both_supply(self, one: str, other: str) -> bool:
        """Both are on supplies or ground: what is measured between those says the same."""
        return {self.planned.group(one), self.planned.group(other)} <= self._fed[""].unfed

    def _inside(self, tie: Tie) -> Iterator[Point]:
        """In a cord with a level shifter: what lies on either side of it."""
        if not any(isinstance(b, LevelShifter) for b in tie.beads):
            return
        chain = self.network.chains[tie.id]
        for k, bead in enumerate(chain.between):
            if bead is not None and isinstance(tie.beads[bead], SeriesResistor):
                yield Point("ohms", chain.nodes[k], chain.nodes[k + 1])
        yield Point("ohms", chain.nodes[0], tie.lead)
        yield Point("ohms", chain.nodes[-1], tie.to)
        beside = [n for n in neighbours(self.c, tie.to) if not self._both_supply(tie.to, n)]
        yield from (Point("ohms", tie.to, n) for n in beside)

    def _stage_of(self, tie: Tie) -> Stage | None:
        """The first stage at which everything is on that feeds the parts of a tie."""
        c = self.c
        parts = {split(end)[0] for end in (tie.lead, tie.to)} - {BOARD}
        origins = [c.supplies.origin(f"{p}.{name}") for p in parts for name in c.parts[p].leads]
        needed = {
            self.planned.group(contact) for contact, supply in supply_contacts(c).items() if supply in origins
        }
        for stage in self.stages:
            if needed <= self._fed[stage.id].volts.keys():
                return stage
        return self.stages[-1] if self.stages else None

    def _far_ends(self, part: str) -> Iterator[str]:
        """The ends of a part's cords that are not at the part."""
        for tie in self.c.plan.ties:
            if split(tie.lead)[0] == part:
                yield pin_end(tie.id)
            elif split(tie.to)[0] == part:
                yield lead_end(tie.id)

    def _far(self, part: str, lead: str) -> str:
        """The contact at the other end of the cord of a lead."""
        tie = self.c.ties.at[lead][0]
        return self.c.ties.other_end(tie, lead)

    # --- what is fed --------------------------------------------------------------------------------

    def _feeds(self, bench: Bench, stage: Stage) -> Fed:
        """What is fed at a stage. With nothing on nothing is, and every supply's net ends a component."""
        if stage.moment == "on":
            return fed(bench, stage.on)
        return Fed({}, frozenset(bench.group(n) for n in self._poles))

    # --- readings -----------------------------------------------------------------------------------

    def as_planned(self, points: Iterable[Point] | None = None) -> dict[Point, Expected]:
        """What the meter reads on a bench that is as planned."""
        jobs, known = self._jobs(self.planned, self.points if points is None else tuple(points))
        return known | _paired(jobs, read(jobs))

    def specimen(self, fault: Fault | None, points: Iterable[Point], rng: Random) -> dict[Point, float]:
        """What an ideal meter shows on one bench drawn by chance, with a fault or as planned: ohm or
        volts."""
        bench = Bench(self.network, fault.change if fault else AS_PLANNED, Specimen(rng))
        jobs, known = self._jobs(bench, tuple(points))
        return {p: e.usual for p, e in (known | _paired(jobs, read(jobs))).items()}

    def table(self) -> Table:
        """The whole table."""
        *_, last = self.worked_out()
        assert isinstance(last, Table)
        return last

    def between_supplies(self) -> Table:
        """The table of what nobody may skip: quick, on any bench."""
        points = between_supplies(self.c, self.points)
        return Table(self.c, points, self.as_planned(points), (), [], whole=False)

    def unasked(self) -> Table:
        """What comes without being asked for: the whole table, of a large plan what nobody may skip."""
        return self.table() if len(self.c.plan.ties) <= MOST_TIES else self.between_supplies()

    def worked_out(self) -> Iterator[float | Table]:
        """First what is read between the supplies; then how much of the table is done, from 0 to 1, again and
        again; at the end the table itself. Who has enough goes no further."""
        yield self.between_supplies()
        whole = faults(self.c)
        planned = self.as_planned()
        jobs: list[Held] = []
        owners: list[int] = []
        readings: list[dict[Point, Expected]] = []
        for k, fault in enumerate(whole):
            if k % BATCH == 0:
                yield PREPARING * k / len(whole)
            bench = Bench(self.network, fault.change)
            mine, known = self._jobs(bench, self._affected(bench))
            jobs += mine
            owners += [k] * len(mine)
            readings.append(known)
        done = 0
        for numbers in shapes(jobs):
            yield PREPARING + (1 - PREPARING) * done / len(jobs)
            alike = [jobs[k] for k in numbers]
            for k, job, values in zip(numbers, alike, read_alike(alike), strict=True):
                readings[owners[k]] |= _paired([job], [values])
            done += len(numbers)
        told = [{p: e for p, e in r.items() if not same(e, planned[p])} for r in readings]
        yield Table(self.c, self.points, planned, whole, told)

    def _jobs(self, bench: Bench, points: Iterable[Point]) -> tuple[list[Held], dict[Point, Expected]]:
        """What has to be solved for some points, and what is known without."""
        by_stage: dict[str, list[Point]] = {}
        jobs: list[Held] = []
        known: dict[Point, Expected] = {}
        for point in points:
            if point.range == "diode":
                mine, settled = self._diode(bench, point)
                jobs += mine
                known |= settled
            else:
                by_stage.setdefault(point.stage, []).append(point)
        for stage in (self.off, *self.stages):
            if mine_points := by_stage.get(stage.id):
                feeds = self._feeds(bench, stage)
                mine, settled = held(
                    bench, stage.moment, feeds, mine_points, self._settled(bench, stage, feeds)
                )
                jobs += mine
                known |= settled
        return jobs, known

    def _settled(self, bench: Bench, stage: Stage, now: Fed) -> Settled:
        """Whether a component is as planned: nothing in it is touched, and what ends it is what it was."""
        if bench is self.planned or bench.specimen is not None:
            return lambda component, points: False
        altered = self._altered(bench, stage, now)
        laid, count = self.network.moments[stage.moment], len(self.network.members)

        def settled(component: Component, points: Sequence[Point]) -> bool:
            if any(p.red in altered or p.black in altered for p in points):
                return False
            if any(g >= count or g in bench.dirty for g in component.free):
                return False
            if not component.free:
                return False
            return not any(
                laid.bead.get(k) in bench.change.beads or not altered.isdisjoint(laid.ends[k])
                for k in component.pieces
            )

        return settled

    def _diode(self, bench: Bench, point: Point) -> tuple[list[Held], dict[Point, Expected]]:
        """The diode range across a part whose cords are pulled out. Who holds the meter knows the cords by
        the holes that they come from."""
        part = split(point.about)[0]
        lifted = bench.change.also(dict.fromkeys(point.lifted, NOWHERE))
        ends = [self._end_at(bench.change, part, point, contact) for contact in (point.red, point.black)]
        if "" in ends or ends[0] == ends[1]:
            return [], {point: OPEN}
        pulled = Bench(self.network, lifted, bench.specimen)
        as_held = Point("diode", ends[0], ends[1], about=point.about, back=point.back)
        jobs, known = held(pulled, "off", Fed({}, frozenset()), [as_held])
        for job in jobs:
            job.points = (point,)
        for expected in known.values():
            return jobs, {point: expected}
        return jobs, {}

    def _end_at(self, change: Change, part: str, point: Point, contact: str) -> str:
        """The end of one of a part's cords that is in a hole; empty where none is."""
        return next((e for e in point.lifted if change.ends.get(e, self.network.ends[e]) == contact), "")

    def _affected(self, bench: Bench) -> list[Point]:
        """The points at which a change may be seen."""
        points: dict[Point, None] = {}
        for stage in (self.off, *self.stages):
            planned, now = self._fed[stage.id], self._feeds(bench, stage)
            for node in self._reach(bench, stage, planned, now):
                points |= dict.fromkeys(self._at.get((stage.id, node), ()))
                if not stage.id:
                    points |= dict.fromkeys(self._at.get(("diode", node), ()))
        return list(points)

    def _reach(self, bench: Bench, stage: Stage, planned: Fed, now: Fed) -> set[str]:
        """The nodes that hang together with what a change touches, as planned and as it is now. What is on a
        supply's net stays as it is while that net does."""
        starts = bench.touched | self._altered(bench, stage, now)
        nodes = set(starts)
        laid = self.network.moments[stage.moment]
        for view, feeds in ((self.planned, planned), (bench, now)):
            seen: set[int] = set()
            waiting = [view.group(n) for n in starts]
            for node in starts:
                waiting += [view.group(n) for k in laid.at.get(node, ()) for n in laid.ends[k]]
            while waiting:
                group = waiting.pop()
                if group in seen or group < 0:
                    continue
                seen.add(group)
                if group in feeds.unfed:
                    nodes.update(n for n in self.measured if view.group(n) == group)
                if group in feeds.volts or group in feeds.unfed:
                    continue
                nodes.update(view.members(group))
                waiting += self._across(view, stage.moment, group)
        return nodes | self._supplies_touched(bench, now)

    def _altered(self, bench: Bench, stage: Stage, now: Fed) -> set[str]:
        """What is on a supply's net, as planned or now, and has another voltage or another supply now."""
        planned = self._fed[stage.id]
        found = bench.altered.get(stage.id)
        if found is not None:
            return found
        found = bench.altered[stage.id] = set()
        count = len(self.network.members)
        was, is_now = self._given(self.planned, planned), self._given(bench, now)
        for view, given in ((self.planned, was), (bench, is_now)):
            for group in given:
                if group < count and group not in bench.dirty and was.get(group) == is_now.get(group):
                    continue
                for node in view.members(group):
                    if was.get(self.planned.group(node)) != is_now.get(bench.group(node)):
                        found.add(node)
        laid = self.network.moments[stage.moment]
        for node in found & laid.gives_life.keys():
            found.update(n for k in laid.gives_life[node] for n in laid.ends[k])
        return found

    def _given(self, view: Bench, feeds: Fed) -> dict[int, object]:
        """What each group has from supplies: its voltage, or on which supplies it hangs."""
        given: dict[int, object] = dict(feeds.volts)
        for group in feeds.unfed:
            given[group] = tuple(n for n in self._poles if view.group(n) == group)
        return given

    def _supplies_touched(self, bench: Bench, now: Fed) -> set[str]:
        """Where supplies that are not on are measured, if something else is joined to them now."""
        groups = {bench.group(n) for n in bench.touched} & now.unfed
        return {n for n in self.measured if bench.group(n) in groups}

    def _across(self, view: Bench, moment: Moment, group: int) -> Iterator[int]:
        ends = self.network.moments[moment].ends
        for number in view.pieces(moment, group):
            yield from map(view.group, ends[number])


@derived
def fault_table(c: Circuit) -> Table:
    """The table of a circuit as it comes unasked, worked out once."""
    return Meter(c).unasked()


def _paired(jobs: Iterable[Held], values: Iterable[list[Expected]]) -> dict[Point, Expected]:
    return {
        p: e for job, found in zip(jobs, values, strict=True) for p, e in zip(job.points, found, strict=True)
    }


def same(one: Expected, other: Expected) -> bool:
    """Two readings that no meter tells apart, ends and all."""
    pairs = ((one.least, other.least), (one.most, other.most))
    return all(a == b or abs(a - b) <= SAME + SAME_SHARE * min(abs(a), abs(b)) for a, b in pairs)
