"""Lines that are only ever pulled low, and rise by their pull-ups: how high they rise beside a pull-down, and
how low each end gets behind a series resistor."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.needs import Bus
from knotplan.core.buses.i2c import i2c_buses
from knotplan.core.buses.lines import LOW_V, Section, supply_of
from knotplan.core.buses.pulls import Pull, together
from knotplan.core.buses.single import single_lines
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.memory.question import question
from knotplan.core.plan.beads import PullDown, SeriesResistor
from knotplan.core.plan.document import BOARD, Tie, split

HIGH_SHARE, LOW_SHARE = 0.7, 0.3
"""of the supply: what is read as high and as low (NXP UM10204 table 10)"""


class OpenLine(Struct, frozen=True):
    """One line with its pull-ups and the ties that make it."""

    title: str
    ties: tuple[Tie, ...]
    pulls: tuple[Pull, ...]

    @property
    def volts(self) -> float:
        """To which its pull-ups lift it; 0 where there is none."""
        ohm = together(self.pulls)
        return sum(p.volts.typ / p.ohm.typ for p in self.pulls) * ohm.typ if ohm is not None else 0.0

    @property
    def downs(self) -> list[tuple[Tie, int, PullDown]]:
        """(tie, place, bead) of every pull-down."""
        return [(t, k, b) for t in self.ties for k, b in enumerate(t.beads) if isinstance(b, PullDown)]

    @property
    def high_v(self) -> float:
        """What is left of that beside the pull-downs: V R_down / (R_up + R_down)."""
        up = together(self.pulls)
        if up is None or not self.downs:
            return self.volts
        down = 1 / sum(1 / b.ohm for _, _, b in self.downs)
        return self.volts * down / (up.typ + down)


@question
def open_lines(c: Circuit) -> tuple[OpenLine, ...]:
    """Both lines of every I2C bus in use, section by section, and every one-wire or single-line."""
    found = [
        OpenLine(f"the {'data' if s.role == 'sda' else 'clock'} line of {bus.title}", _ties(c, s), s.pulls)
        for bus in i2c_buses(c)
        for s in bus.sections
        if s.devices
    ]
    for line in single_lines(c):
        found.append(OpenLine(c.titles.full(line.contact), tuple(c.ties.holders[line.contact]), line.pulls))
    return tuple(found)


def _ties(c: Circuit, s: Section) -> tuple[Tie, ...]:
    ties = {t.id: t for n in s.nets for m in c.nets.members.get(n, [n]) for t in c.ties.at.get(m, ())}
    return tuple(t for t in c.ties if t.id in ties)


class Raised(Struct, frozen=True):
    """An end of a line that does not get low enough when the far end pulls: its pull-ups lift it over the
    series resistor between them."""

    tie: Tie
    at: str
    """the lead or pin that reads too high a low"""
    ohm: float
    """in series"""
    volts: float
    limit_v: float
    most_ohm: float
    """in series, that would still do"""


def raised(c: Circuit, line: OpenLine) -> Iterator[Raised]:
    """The worse end of each tie: V = V_OL + (V_DD - V_OL) R_s / (R_s + R_p), with the pull-ups on its own
    side of the resistor."""
    for tie in line.ties:
        series = sum(b.ohm for b in tie.beads if isinstance(b, SeriesResistor))
        if not series:
            continue
        ends = [x for end in _listening(c, tie) if (x := _end(c, line, tie, end, series)) is not None]
        worst = min(ends, key=lambda x: x.most_ohm, default=None)
        if worst is not None and series > worst.most_ohm:
            yield worst


def _listening(c: Circuit, tie: Tie) -> tuple[str, ...]:
    """The ends that read the line: of a clock the part's alone, unless the part holds it low at times."""
    need, facts = c.needs.of(tie.lead), c.parts[split(tie.lead)[0]].facts.i2c
    deaf = isinstance(need, Bus) and need.role == "scl" and not (facts is not None and facts.stretches)
    return (tie.lead,) if deaf else (tie.lead, tie.to)


def _end(c: Circuit, line: OpenLine, tie: Tie, end: str, series: float) -> Raised | None:
    own = together([p for p in line.pulls if p.net == c.nets.of(end)])
    limit, spare = _limit(c, end, line), line.volts - LOW_V
    if own is None or not LOW_V < limit < line.volts:
        return None
    share = (limit - LOW_V) / spare
    volts = LOW_V + spare * series / (series + own.typ)
    return Raised(tie, end, series, volts, limit, own.typ * share / (1 - share))


def _limit(c: Circuit, end: str, line: OpenLine) -> float:
    """Below this an end reads low."""
    part_id = split(end)[0]
    if part_id == BOARD:
        driver = c.hardware.driver_at(end)
        return driver.input_low_v if driver is not None else 0.0
    own = supply_of(c, part_id) if part_id in c.parts else None
    return LOW_SHARE * (own.typ if own is not None else line.volts)
