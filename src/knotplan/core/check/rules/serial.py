"""Rules about lines that keep time by themselves: UARTs and single-line buses."""

from collections.abc import Iterator

from knotplan.core.buses.single import SLOT_S, SingleLine, single_lines
from knotplan.core.buses.uart import EDGE, GOOD, Link, good_rates, links
from knotplan.core.check.asked import from_circuit, from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.beads import Capacitor, PullUp
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity import series
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


@rule(
    "uart-rate",
    "Rates of both ends lie apart",
    "care",
    "Neither end sends a clock: each counts by its own. Off by more than about 2 % together, the last bits "
    "of a byte are read wrong; at 5 % every byte is.",
    "half a bit in 9.5 bits of 8N1 (5.3 %), less the edges and the sampling; catalogue: clocks and divider "
    "steps",
    each=of_circuit(links),
)
def uart_rate(facts: Facts, link: Link) -> Iterator[Observation]:
    c = facts.circuit
    if link.reached is not None and link.error > GOOD:
        yield Observation(
            f"{link.title} makes {link.reached.hz:.0f} baud of {link.baud:g}: {show(link.error, '%', 2)} "
            f"apart from {c.placed[link.part].name} at worst.",
            (link.part,),
            (
                Number("off by its divider", abs(link.reached.error), "%"),
                Number("board's clock", link.clock_error, "%"),
                Number("the part's clock", link.part_error, "%"),
                Number("together", link.error, "%", GOOD),
            ),
            from_circuit(_other_rate, link),
            "stop" if link.error > EDGE else None,
        )


def _other_rate(c: Circuit, link: Link) -> Iterator[Remedy]:
    """The usual rate nearest to the wanted one that both keep."""
    rates = good_rates(c, link)
    if rates:
        best = min(rates, key=lambda r: abs(r - link.baud))
        yield remedy(f"Speak at {best:g} baud", edits.set_program_setting, link.part, "baud", float(best))


HOPELESS = 3.0
"""so many times too slow, no bit is read right"""


@rule(
    "line-slow",
    "Line rises too slowly",
    "care",
    "A one is a short low, after which only the pull-up lifts the line; it has to be high again before the "
    "line is looked at.",
    "one-wire timing: a line let go after 6 µs is looked at after 15 µs; t = R · C · ln(1 / (1 − 0.7))",
    each=of_circuit(single_lines),
)
def line_slow(facts: Facts, line: SingleLine) -> Iterator[Observation]:
    c = facts.circuit
    rise = line.rise_s
    allowed = SLOT_S if line.protocol == "one-wire" else line.finest_s
    if rise is not None and rise > allowed:
        tie = c.ties.holders[line.contact][0]
        yield Observation(
            f"{c.titles.full(line.contact)} takes {show(rise, 's')} to rise over {line.metres:g} m of cord; "
            f"{show(allowed, 's')} are left for it.",
            (tie.lead, line.contact),
            (
                Number("rise time", rise, "s", allowed),
                Number("capacitance", line.farad, "F"),
                Number("largest resistor", line.most_ohm, "Ω"),
            ),
            from_facts(_stronger, line, line.most_ohm),
            "stop" if rise > HOPELESS * allowed else None,
        )


def _stronger(facts: Facts, line: SingleLine, most: float) -> Iterator[Remedy]:
    """A pull-up in the place of the one that is there; or, where that is a part's own, one beside it."""
    c = facts.circuit
    ties = c.ties.holders[line.contact]
    for t in ties:
        for k, bead in enumerate(t.beads):
            if isinstance(bead, Capacitor):
                yield remedy("Take the capacitor off the line", edits.remove_bead, t.id, k)
    own = next(((t, k, b) for t in ties for k, b in enumerate(t.beads) if isinstance(b, PullUp)), None)
    rest = sum(1 / p.ohm.typ for p in line.pulls if own is None or p.tie != own[0].id)
    wanted = 0.9 * most
    if 1 / wanted <= rest:
        return
    value = series.below(1 / (1 / wanted - rest), c.series)
    if 1 / (1 / value + rest) < line.least_ohm:
        return
    if own is not None:
        tie, k, bead = own
        pull_up = PullUp(value, bead.tolerance, rail=bead.rail)
        yield remedy(f"Take {show(value, 'Ω')} for the pull-up", edits.change_bead, tie.id, k, pull_up)
    elif rail := c.supplies.rail_contact(line.contact):
        yield remedy(
            f"Add a {show(value, 'Ω')} pull-up", edits.add_bead, ties[0].id, PullUp(value, rail=rail)
        )


@rule(
    "line-starved",
    "Measures on what the data line gives",
    "care",
    "A part whose supply lies on ground lives on the data line. While it measures it draws more than a usual "
    "pull-up gives, and its readings are wrong.",
    "catalogue: current while it measures, least supply; R = (V − V_least) / I",
    each=of_circuit(single_lines),
)
def line_starved(facts: Facts, line: SingleLine) -> Iterator[Observation]:
    c = facts.circuit
    most = line.feeding_ohm
    if most is None or line.ohm is None or line.ohm.max <= most:
        return
    part = line.parasitic[0]
    wire = c.parts[part].facts.one_wire
    supply = f"{part}.{wire.supply}" if wire else ""
    yield Observation(
        f"{c.placed[part].name} draws {show(line.convert_a, 'A')} through {show(line.ohm.typ, 'Ω')} while it "
        f"measures; to keep {show(line.least_v, 'V')}, the pull-up may have {show(most, 'Ω')} at most.",
        (supply, line.contact),
        (
            Number("pull-up", line.ohm.max, "Ω", most),
            Number("current while it measures", line.convert_a, "A"),
        ),
        from_circuit(_fed, supply, line),
    )


def _fed(c: Circuit, supply: str, line: SingleLine) -> Iterator[Remedy]:
    """Its supply lead on the rail of the data pin."""
    rail = c.supplies.rail_contact(line.contact)
    if rail:
        yield remedy(f"Feed {c.titles.of(supply)} from {c.titles.full(rail)}", edits.tie, supply, rail)
