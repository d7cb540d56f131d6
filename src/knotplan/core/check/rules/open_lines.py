"""Rules about lines that are only ever pulled low: I2C, one-wire, single-line data."""

from collections.abc import Iterator

from msgspec.structs import replace

from knotplan.catalog.part.needs import Bus, Stream
from knotplan.core.buses.open_lines import HIGH_SHARE, OpenLine, Raised, open_lines, raised
from knotplan.core.check.asked import given
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, ties
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.finders.finder import at_or_below
from knotplan.core.plan import edits
from knotplan.core.plan.beads import LevelShifter, SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


@rule(
    "line-pulled-down",
    "Pull-down where a pull-up belongs",
    "stop",
    "Such a line is high while nobody pulls it; a pull-down makes a divider of its pull-ups, and nothing is "
    "read as high any more.",
    "V = V_DD · R_down / (R_up + R_down); NXP UM10204 table 10: a high begins at 0.7 of the supply",
    each=of_circuit(open_lines),
)
def line_pulled_down(facts: Facts, line: OpenLine) -> Iterator[Observation]:
    c = facts.circuit
    wanted = HIGH_SHARE * line.volts
    if not line.downs or not line.volts or line.high_v >= wanted:
        return
    tie, _, bead = line.downs[0]
    yield Observation(
        f"The {show(bead.ohm, 'Ω')} pull-down in {c.titles.of(tie.lead)} leaves {show(line.high_v, 'V')} on "
        f"{line.title} for high, which begins at {show(wanted, 'V')}.",
        tuple(t.lead for t, _, _ in line.downs),
        (Number("level of high", line.high_v, "V", wanted, lower=True),),
        given(
            Remedy(
                "Take the pull-down out",
                tuple(remedy("", edits.remove_bead, t.id, k).steps[0] for t, k, _ in reversed(line.downs)),
            )
        ),
    )


@rule(
    "line-not-low",
    "Series resistor keeps the line from getting low",
    "stop",
    "Who pulls the line low at one end of a series resistor has to pull the pull-ups of the other end low "
    "through it; what is left there is not read as low.",
    "V = V_OL + (V_DD − V_OL) · R_s / (R_s + R_p); NXP UM10204 clause 7.3 and table 10",
    each=of_circuit(lambda c: (r for line in open_lines(c) for r in raised(c, line))),
)
def line_not_low(facts: Facts, x: Raised) -> Iterator[Observation]:
    c = facts.circuit
    place = c.titles.full(x.at)
    yield Observation(
        f"{place} gets no lower than {show(x.volts, 'V')} behind the {show(x.ohm, 'Ω')} in "
        f"{c.titles.of(x.tie.lead)}, and reads low below {show(x.limit_v, 'V')}.",
        (x.tie.lead, x.at) if x.at != x.tie.lead else (x.tie.lead,),
        (Number("level of low", x.volts, "V", x.limit_v), Number("most in series", x.most_ohm, "Ω")),
        given(*_smaller(c, x)),
    )


def _smaller(c: Circuit, x: Raised) -> Iterator[Remedy]:
    """One that does, or none."""
    series = [(k, b) for k, b in enumerate(x.tie.beads) if isinstance(b, SeriesResistor)]
    if len(series) == 1 and x.most_ohm > 1:
        at, bead = series[0]
        ohm = at_or_below(x.most_ohm, c.series)
        changed = replace(bead, ohm=ohm)
        yield remedy(f"Take one of {show(ohm, 'Ω')}", edits.change_bead, x.tie.id, at, changed)
    away = tuple(remedy("", edits.remove_bead, x.tie.id, k).steps[0] for k, _ in reversed(series))
    yield Remedy("Take the resistor out", away)


@rule(
    "shifter-one-way",
    "One-way level shifter in a line that goes both ways",
    "stop",
    "A buffer passes a signal on in one direction. On a line on which both ends speak, the answers do not "
    "come through.",
    "catalogue: what each lead of the part is for; NXP UM10204 clause 3.1.1 for I2C",
    each=ties,
)
def shifter_one_way(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    for at, bead in enumerate(tie.beads):
        if isinstance(bead, LevelShifter) and bead.style == "buffer" and _both_ways(c, tie.lead):
            yield Observation(
                f"The level shifter in {c.titles.of(tie.lead)} is a buffer, which passes one way only, and "
                f"{c.placed[split(tie.lead)[0]].name} answers on this line.",
                (tie.lead,),
                remedies=given(
                    remedy(
                        "Take a transistor level shifter, which passes both ways",
                        edits.change_bead,
                        tie.id,
                        at,
                        replace(bead, style="mosfet"),
                    )
                ),
            )


def _both_ways(c: Circuit, lead: str) -> bool:
    """The part listens and speaks on this line."""
    facts = c.parts[split(lead)[0]].facts
    match c.needs.of(lead):
        case Bus(bus="i2c", role="sda"):
            return True
        case Bus(bus="i2c"):
            return facts.i2c is not None and facts.i2c.stretches
        case Bus(bus="spi", role="mosi"):
            return facts.spi is not None and facts.spi.three_wire
        case Stream(protocol=protocol, answers=answers):
            return answers or protocol == "one-wire"
    return False
