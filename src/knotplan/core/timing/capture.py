"""Pulses that are measured: how finely, and what a radio-control channel's pulse means."""

from msgspec import Struct

from knotplan.catalog.board.units import Counter
from knotplan.catalog.part.facts import RadioChannel
from knotplan.catalog.part.needs import Input
from knotplan.core.buses.rates import divisors
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having, ties_of
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.circuit.units import keeps_time
from knotplan.core.memory.question import question
from knotplan.core.plan.document import BOARD, split

LONGEST_S = 0.02
"""of a pulse, where the catalogue says nothing of it"""
BY_PROGRAM_S = 4e-6
"""how finely a program that nothing interrupts times an edge: a few steps of its loop"""


class Capture(Struct, frozen=True):
    """A lead whose pulses are measured."""

    lead: str
    contact: str
    by: str
    """what measures: a timer, the program"""
    tick_s: float
    """resolution; 0 where nothing keeps the time"""
    divisor: float
    wanted_s: float
    longest_s: float
    """the longest pulse that has to be told from a longer one"""
    timer: UnitId | None = None
    """the timer that also makes pulses; it counts for both"""

    @property
    def good(self) -> bool:
        """The pulses are measured as finely as the part asks for."""
        return 0 < self.tick_s <= max(self.wanted_s, BY_PROGRAM_S)


def capturing(counter: Counter, longest_s: float) -> tuple[float, float]:
    """(divisor, tick) with which a pulse of this length still fits the counter: tick = divisor / clock.

    >>> capturing(Counter(16e6, steps=(1, 8, 64, 256, 1024), bits=16), 0.022)
    (8.0, 5e-07)
    """
    least = longest_s * counter.hz / 2**counter.bits
    able = [d for d in divisors(counter, max(least, 1e-9)) if d >= least * (1 - 1e-9)]
    divisor = float(min(able)) if able else float(max(counter.steps or (counter.most,)))
    return divisor, divisor / counter.hz


@question
def captures(c: Circuit) -> list[Capture]:
    """Every measured pulse that is tied to a pin."""
    edges = []
    for tie in (t for part_id in having(c, Input) for t in ties_of(c, part_id, Input)):
        need, contact = c.needs.of(tie.lead), tie.to
        if contact not in c.ties.holders or not isinstance(need, Input) or need.measured_s is None:
            continue
        pin = c.contacts.pins[contact]
        jobs = pin.jobs("capture")
        unit = c.hardware.unit(contact, jobs[0]) if jobs else None
        radio = c.parts[split(tie.lead)[0]].facts.radio
        longest = radio.most_s if radio else LONGEST_S
        if unit is not None and unit.counter is not None:
            divisor, tick = capturing(unit.counter, radio.frame_s if radio else LONGEST_S)
            timer = UnitId(BOARD, "pwm", jobs[0].instance)
            edges.append(
                Capture(tie.lead, contact, unit.title, tick, divisor, need.measured_s, longest, timer)
            )
        elif keeps_time(c, contact, both_ways=True):
            edges.append(
                Capture(tie.lead, contact, "the program", BY_PROGRAM_S, 1.0, need.measured_s, longest)
            )
        else:
            edges.append(
                Capture(
                    tie.lead, contact, "a program that is interrupted", 0.0, 1.0, need.measured_s, longest
                )
            )
    return edges


class Mapping(Struct, frozen=True):
    """From measured ends to an output range, in whole numbers as a program reckons them."""

    least: int
    most: int
    """counts, or microseconds, at both ends"""
    low: int
    high: int

    def at(self, value: int) -> int:
        """low + (value - least) * (high - low) / (most - least), kept within the range.

        >>> Mapping(1000, 2000, 0, 255).at(1500), Mapping(1000, 2000, 0, 255).at(2400)
        (127, 255)
        """
        inside = max(min(value, max(self.least, self.most)), min(self.least, self.most))
        span = self.most - self.least
        return self.low + (inside - self.least) * (self.high - self.low) // span if span else self.low

    @property
    def step(self) -> float:
        """Of the output for one count of the input."""
        span = self.most - self.least
        return (self.high - self.low) / span if span else 0.0


def levels(r: RadioChannel) -> tuple[float, float]:
    """The two pulses between a three-position switch's levels, s: the middles between its neighbours.

    >>> levels(RadioChannel(0.001, 0.0015, 0.002, 0.022))
    (0.00125, 0.00175)
    """
    return (r.least_s + r.middle_s) / 2, (r.middle_s + r.most_s) / 2
