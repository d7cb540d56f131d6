"""A capture against the plan's lanes."""

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct

from knotplan.core.bringup.captured import buses, coils
from knotplan.core.bringup.captured.differ import Differ
from knotplan.core.bringup.captured.match import Pair, distance, matched
from knotplan.core.bringup.captured.planned import planned_trace
from knotplan.core.bringup.captured.pulses import Pulses, pulses_of
from knotplan.core.bringup.captured.trace import Trace
from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.measured import widened
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.quantity.written import counted, show
from knotplan.core.timing import servo
from knotplan.core.timing.lanes import Lane, lanes

PERIOD_SHARE, WIDTH_SHARE = 0.02, 0.02
"""what a clock may be off"""
JITTER_SHARE = 0.05
"""a period that varies by more is told"""
HARDLY = 5.0
"""a channel that comes less often than planned by more than this does not do what was planned"""
ALIKE = 0.08
"""of the distance of two that are the same"""
GROUPS = ("coil", "spi")
"""kinds that are looked at together"""


class Matched(Struct, frozen=True):
    """A channel with its lane."""

    pair: Pair
    trace: Trace
    lane: Lane | None
    differences: tuple[Difference, ...] = ()


class Captured(Struct, frozen=True):
    """A capture held against the plan."""

    channels: tuple[Matched, ...]
    differences: tuple[Difference, ...]

    @property
    def says_anything(self) -> bool:
        """Some channel is a lane of the plan."""
        return any(m.lane is not None for m in self.channels)


def compared(c: Circuit, traces: Sequence[Trace], chosen: Mapping[int, str] | None = None) -> Captured:
    """Channels matched to lanes, and what differs. `chosen`: what the maker says of channels, {number: lane
    id}."""
    all_ = lanes(c)
    by_id = {lane.id: lane for lane in all_}
    pairs = matched(c, traces, all_, chosen)
    channels = [(p, traces[p.channel], by_id.get(p.lane)) for p in pairs]
    differences = list(_Comparison(c, channels).all())
    rows = [
        Matched(p, t, lane, tuple(d for d in differences if lane is not None and lane.lead in d.subjects))
        for p, t, lane in channels
    ]
    return Captured(tuple(rows), tuple(differences))


class _Comparison:
    def __init__(self, c: Circuit, channels: Sequence[tuple[Pair, Trace, Lane | None]]):
        self.c, self.differ = c, Differ(c)
        self.known = [(p, t, lane) for p, t, lane in channels if lane is not None]
        self.all_channels = channels
        self.seen: dict[str, Pulses] = {lane.id: pulses_of(t) for _, t, lane in self.known}
        self.wanted: dict[str, Pulses] = {
            lane.id: pulses_of(planned_trace(lane, t.seconds)) for _, t, lane in self.known
        }

    def all(self) -> Iterator[Difference]:
        exchanged = dict(self._exchanged())
        yield from exchanged.values()
        gone = {lead for d in exchanged.values() for lead in d.subjects}
        here = [(t, lane) for _, t, lane in self.known if lane.lead not in gone]
        yield from coils.compared(self.c, self.differ, [(t, x) for t, x in here if x.kind == "coil"])
        yield from buses.compared(self.c, self.differ, here, self._others())
        for trace, lane in here:
            if lane.kind not in (*GROUPS, "uart", "pixels"):
                yield from self._pulses(trace, lane)
            yield from self._glitches(lane)

    def _others(self) -> list[Trace]:
        return [t for _, t, lane in self.all_channels if lane is None]

    def _exchanged(self) -> Iterator[tuple[str, Difference]]:
        """Two channels that do what was planned of each other."""
        named = [(t, lane) for p, t, lane in self.known if p.why != "behaviour"]
        for k, (_, one) in enumerate(named):
            for _, two in named[k + 1 :]:
                own = [distance(self.wanted[x.id], self.seen[x.id]) for x in (one, two)]
                other = [
                    distance(self.wanted[one.id], self.seen[two.id]),
                    distance(self.wanted[two.id], self.seen[one.id]),
                ]
                if max(other) < ALIKE and min(own) > 4 * ALIKE:
                    yield (
                        f"{one.id} {two.id}",
                        self.differ.of_lanes(
                            "capture-exchanged",
                            [one, two],
                            f"{one.title} and {two.title} are exchanged",
                            "Each channel does what is planned of the other one: the program has their "
                            "pins exchanged, or the instrument's probes are.",
                        ),
                    )

    # --- pulses ---------------------------------------------------------------------------------------

    def _pulses(self, trace: Trace, lane: Lane) -> Iterator[Difference]:
        seen, wanted = self.seen[lane.id], self.wanted[lane.id]
        hardly = bool(wanted.period_s) and seen.count * HARDLY < trace.seconds / wanted.period_s
        if not seen.count or not wanted.count or hardly:
            yield from self._still(trace, lane, seen, wanted)
            return
        if not seen.period_s or not wanted.period_s:
            return  # too short a look for a period
        slack = 2 * trace.tick_s
        if self._is_inverted(seen, wanted, slack):
            yield self.differ.of_lanes(
                "capture-inverted",
                [lane],
                f"{lane.title} is inverted",
                f"It is low for {show(seen.low_s, 's')} where it should be high for "
                f"{show(wanted.high_s, 's')}: on and off are exchanged.",
            )
            return
        off = seen.period_s / wanted.period_s
        free = lane.kind in ("relay", "level", "contact")
        if abs(off - 1) > PERIOD_SHARE + slack / wanted.period_s:
            yield self._period(lane, seen, wanted, free=free)
        yield from self._width(lane, seen, wanted, slack, free=free)
        if seen.count > 5 and seen.period_spread_s > JITTER_SHARE * seen.period_s + slack:
            yield self.differ.of_lanes(
                "capture-jitter",
                [lane],
                f"{lane.title} comes irregularly",
                f"Its period varies by {show(seen.period_spread_s, 's')} around "
                f"{show(seen.period_s, 's')}: something "
                "keeps the program from it. Pulses from a timer do not vary.",
                note=True,
            )

    def _still(self, trace: Trace, lane: Lane, seen: Pulses, wanted: Pulses) -> Iterator[Difference]:
        first = planned_trace(lane, trace.seconds)
        if not wanted.count and not seen.count and first.rest != trace.level(trace.end_s):
            level, other = ("high", "low") if first.rest == 0 else ("low", "high")
            yield self.differ.of_lanes(
                "capture-level",
                [lane],
                f"{lane.title} is {level}",
                f"Planned is: {lane.about}, {other} all the time.",
            )
        elif wanted.count:
            period = wanted.period_s or lane.wave.period_s
            if period > trace.seconds:
                return  # it may yet come
            level = "high" if trace.level(trace.end_s) == 1 else "low"
            yield self.differ.of_lanes(
                "capture-still",
                [lane],
                f"{lane.title} stays {level}",
                f"Planned is: {lane.about}. Nothing comes: the program does not work this pin, or "
                "works another one.",
            )
        elif seen.count and not wanted.count and lane.wave.level(0.0) in (0, 1):
            yield self.differ.of_lanes(
                "capture-moves",
                [lane],
                f"{lane.title} changes, planned is {lane.about}",
                f"It went high {counted(seen.count, 'time')}.",
            )

    def _is_inverted(self, seen: Pulses, wanted: Pulses, slack: float) -> bool:
        if abs(wanted.duty - 0.5) < 0.05 or abs(seen.period_s / wanted.period_s - 1) > 0.2:
            return False
        near = max(0.05 * wanted.high_s, slack)
        return abs(seen.low_s - wanted.high_s) <= near and abs(seen.high_s - wanted.high_s) > near

    def _period(self, lane: Lane, seen: Pulses, wanted: Pulses, *, free: bool) -> Difference:
        ratio = wanted.period_s / seen.period_s
        times = (
            "twice as often"
            if abs(ratio - 2) < 0.1
            else "half as often"
            if abs(ratio - 0.5) < 0.03
            else "otherwise"
        )
        return self.differ.of_lanes(
            "capture-period",
            [lane],
            f"{lane.title} comes {times}",
            f"Every {show(seen.period_s, 's', 4)}, planned is every {show(wanted.period_s, 's', 4)}.",
            note=free,
        )

    def _width(
        self, lane: Lane, seen: Pulses, wanted: Pulses, slack: float, *, free: bool
    ) -> Iterator[Difference]:
        if lane.kind == "servo":
            yield from self._servo(lane, seen, wanted, slack)
            return
        relay = self.c.parts[lane.part].facts.relay
        least = relay.least_interval_s if relay is not None else 0.0
        for what, lasts in (("on", seen.high_s), ("off", seen.low_s)):
            if free and least and 0 < lasts < least * (1 - WIDTH_SHARE) - slack:
                yield self.differ.of_lanes(
                    "capture-too-short",
                    [lane],
                    f"{lane.title} is {what} for {show(lasts, 's')} only",
                    f"Between two switchings it needs {show(least, 's')}.",
                )
                return
        same_share = abs(seen.duty - wanted.duty) < 0.02
        if abs(seen.high_s - wanted.high_s) > WIDTH_SHARE * wanted.high_s + slack and not same_share:
            yield self.differ.of_lanes(
                "capture-width",
                [lane],
                f"{lane.title} is high for {show(seen.high_s, 's', 4)}",
                f"Planned is {show(wanted.high_s, 's', 4)}.",
                note=True,
            )

    def _servo(self, lane: Lane, seen: Pulses, wanted: Pulses, slack: float) -> Iterator[Difference]:
        facts = self.c.parts[lane.part].facts.servo
        if facts is None:
            return
        least, most = facts.least_s, facts.most_s
        if not least - slack - 2e-6 <= seen.high_s <= most + slack + 2e-6:
            yield self.differ.of_lanes(
                "capture-servo-end",
                [lane],
                f"{lane.title}: pulses of {show(seen.high_s, 's', 4)} are beyond its ends",
                f"It follows from {show(least, 's', 4)} to {show(most, 's', 4)}; beyond it strains "
                "against its stop.",
                remedies=widened(self.c, lane.part, seen.high_s),
            )
        elif abs(seen.high_s - wanted.high_s) > WIDTH_SHARE * wanted.high_s + slack:
            yield self.differ.of_lanes(
                "capture-servo-place",
                [lane],
                f"{lane.title} stands elsewhere than planned",
                f"Its pulses are {show(seen.high_s, 's', 4)}, those of the plan {show(wanted.high_s, 's', 4)}"
                f" ({servo.says(facts, servo.middle(facts))} is the middle).",
                note=True,
            )

    def _glitches(self, lane: Lane) -> Iterator[Difference]:
        seen = self.seen[lane.id]
        if seen.glitches:
            yield self.differ.of_lanes(
                "capture-glitches",
                [lane],
                f"{lane.title}: {counted(seen.glitches, 'disturbance')}",
                "Levels far shorter than its own: a ground that is missing or long, a contact that "
                "bounces, or a sample that "
                "the instrument took on an edge.",
                note=True,
            )
