"""Timers and counters: the frequency that is really reached, what shares
it, and how finely a pulse can be set."""

import math

from msgspec import Struct

from knotplan.catalog.board.units import Counter, Divider, Peripheral, Pool
from knotplan.catalog.part.needs import Pulse
from knotplan.core.buses.rates import divisors, nearest
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import pulsed_by, use_of
from knotplan.core.memory.question import each
from knotplan.core.plan.document import split

FREE_BITS = 16
"""resolution that is reckoned with where the catalogue says nothing of a timer"""


class Timer(Struct, frozen=True):
    """A counter set to a frequency."""

    wanted_hz: float
    hz: float
    divisor: float
    counts: int
    """of one period"""
    error: float
    """of its clock, as a share"""
    written: int
    """what a program writes for the divisor"""
    most: int = 2**32
    """the greatest count that a register takes: the period's, or one less where the register ends there"""

    @property
    def tick_s(self) -> float:
        """The finest step of a pulse, s."""
        return 1 / (self.hz * self.counts)

    @property
    def bits(self) -> float:
        """Resolution: log2 of the counts."""
        return math.log2(self.counts)

    @property
    def off(self) -> float:
        """By what share it misses the frequency that is wanted."""
        return self.hz / self.wanted_hz - 1

    def count(self, pulse_s: float) -> int:
        """The count of a pulse: pulse * f * counts, with the f that is reached; what is longer than the
        period, or than the register goes, is cut off there."""
        return max(0, min(self.top, round(pulse_s * self.hz * self.counts)))

    @property
    def top(self) -> int:
        """The count that stands for always on, as near as the register comes to it."""
        return min(self.counts, self.most)

    def pulse_s(self, count: int) -> float:
        """The length of a pulse of so many counts, s."""
        return count * self.tick_s


def reach(counter: Counter | None, hz: float) -> Timer:
    """The setting of a counter that comes nearest to a frequency.

    One that always counts to its end has f = clock / (divisor * 2^n), so that only the divisor is chosen. Of
    others the smallest divisor is taken with which a period still fits the counter, for the finest steps.

    >>> hub = Counter(25e6, least=4, most=256, bits=12, full=True, less_one=True)
    >>> t = reach(hub, 50.0)
    >>> t.written, round(t.hz, 2), t.count(0.0015)
    (121, 50.03, 307)
    """
    if counter is None:
        return Timer(hz, hz, 1.0, 2**FREE_BITS, 0.0, 1)
    top = 2**counter.bits
    if counter.full:
        as_rate = Divider(
            counter.hz, counter.error, counter.steps, counter.least, counter.most, counter.finest, top
        )
        divisor = nearest(as_rate, hz).divisor
        counts = top
    else:
        able = [
            d for d in divisors(counter, counter.hz / (hz * top)) if counter.hz / (hz * d) <= top * (1 + 1e-9)
        ]
        divisor = min(able) if able else max(counter.steps or (counter.most,))
        counts = max(2, min(top, round(counter.hz / (hz * divisor))))
    return Timer(
        hz,
        counter.hz / (divisor * counts),
        divisor,
        counts,
        counter.error,
        round(divisor) - counter.less_one,
        top - 1,
    )


class Use(Struct, frozen=True):
    """One output on a timer."""

    lead: str
    contact: str
    channel: str
    hz: float


class Shared(Struct, frozen=True):
    """A timer, a slice or a hub's counter in use: everything on it has one frequency."""

    unit: UnitId
    title: str
    note: str
    uses: tuple[Use, ...]
    timer: Timer
    counter: Counter | None


@each(pulsed_by)
def timers_of(c: Circuit, owner: str) -> tuple[Shared, ...]:
    """Every timer of the board or of a hub with an output on it. Of a pool whose channels have frequencies of
    their own, those with one frequency stand together."""
    contacts = {lead: contact for contact, lead, _ in pulsed_by(c)[owner]}
    shared: list[Shared] = []
    for unit, uses in use_of(c, owner).items():
        spec = c.hardware.unit_spec(unit)
        outputs = [Use(lead, contacts[lead], channel, hz) for channel, lead, hz in uses]
        groups = (
            [outputs] if not unit.any_pin else [[u for u in outputs if u.hz == hz] for hz in _hertz(outputs)]
        )
        for group in groups:
            counter = spec.counter if spec is not None else None
            timer = reach(counter, group[0].hz)
            shared.append(Shared(unit, _title(c, unit, spec), _note(spec), tuple(group), timer, counter))
    return tuple(shared)


def timers(c: Circuit) -> list[Shared]:
    """Every timer with an output on it."""
    return [timer for timers in timers_of.all(c).values() for timer in timers]


def _hertz(uses: list[Use]) -> list[float]:
    return list(dict.fromkeys(u.hz for u in uses))


def _title(c: Circuit, unit: UnitId, spec: Peripheral | Pool | None) -> str:
    title = spec.title if spec is not None else str(unit)
    return title if unit.on_board else f"{c.placed[unit.owner].name}, {title}"


def _note(spec: Peripheral | Pool | None) -> str:
    return spec.note if spec is not None else ""


def timer_of(c: Circuit, lead: str) -> Shared | None:
    """The timer on which a lead's pulses are made."""
    tie = c.ties.of(lead)
    owner = split(tie.to)[0] if tie is not None else ""
    used = timers_of(c, owner) if owner in pulsed_by(c) else ()
    return next((timer for timer in used for use in timer.uses if use.lead == lead), None)


def phase_of(c: Circuit, shared: Shared, lead: str) -> float:
    """By how much an output's frame begins later than the first one's, s: a hub's
    channels may begin one after another."""
    owner = shared.unit.owner
    if shared.unit.on_board or not c.parts[owner].facts.staggered:
        return 0.0
    count = sum(bool(pin.jobs("pwm")) for k, pin in c.contacts.pins.items() if split(k)[0] == owner)
    channel = next(u.channel for u in shared.uses if u.lead == lead)
    return int(channel) / count / shared.timer.hz if channel.isdecimal() and count else 0.0


def wanted(c: Circuit, lead: str) -> Pulse | None:
    """What a lead wants of a pulse output; nothing where it wants none."""
    need = c.needs.of(lead)
    return need if isinstance(need, Pulse) else None
