"""Rules about protocols that have to be timed, and pulses that have to be measured."""

from collections.abc import Iterator

from msgspec import Struct

from knotplan.catalog.part.needs import Input, Stream
from knotplan.core.buses.lines import MODES
from knotplan.core.buses.reach import Reach, over_bus
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import elsewhere, move
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import of_circuit, of_each
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.having import having, held_for
from knotplan.core.circuit.units import keeps_time
from knotplan.core.match.fit import Grade, fit
from knotplan.core.memory.question import each
from knotplan.core.plan import edits
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show
from knotplan.core.timing import stepper

NAMED = 4
"""so many pins that could do it are named"""


def _able(c: Circuit, lead: str) -> str:
    """The pins that could do it, in words."""
    pins = [
        f.contact
        for p in c.board.pins
        if (f := fit(c, lead, f"{BOARD}.{p}", alone=True, rows=[])).grade <= Grade.GOOD
    ]
    if not pins:
        return f"; no pin of {c.board.title} can"
    more = f" and {len(pins) - NAMED} more" if len(pins) > NAMED else ""
    return f"; {', '.join(c.titles.full(p) for p in pins[:NAMED])}{more} can"


@each(held_for(Stream, Input))
def _on_slow_pins(c: Circuit, tie_id: str) -> tuple[Tie, ...]:
    """A tie whose pulses or bits a program times."""
    tie = c.ties.held[tie_id]
    pin, need = c.contacts.pins[tie.to], c.needs.of(tie.lead)
    timed = isinstance(need, Stream | Input) and (pin.drives or pin.reads) and not pin.hands_on
    return (tie,) if timed else ()


@rule(
    "cannot-keep-time",
    "Protocol that this pin cannot time",
    "stop",
    "The bits of these protocols are told apart by fractions of a microsecond; where a system interrupts the "
    "program, or sets the pin over a bus, they come out wrong now and then, or always.",
    "catalogue: the protocol's shortest time, which pins of the board keep time",
    each=of_each(_on_slow_pins),
)
def cannot_keep_time(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    need = c.needs.of(tie.lead)
    if not isinstance(need, Stream):
        return
    slow = not keeps_time(c, tie.to, both_ways=need.answers) and need.protocol != "one-wire"
    if slow and fit(c, tie.lead, tie.to, alone=True, rows=[]).grade < Grade.IMPOSSIBLE:
        yield Observation(
            f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)} has to be timed to "
            f"{show(need.finest_s, 's')}, which this pin cannot{_able(c, tie.lead)}.",
            (tie.lead, tie.to),
            (Number("shortest time", need.finest_s, "s"),),
            from_facts(elsewhere, tie),
            None if need.protocol == "pixels" else "care",
        )


@rule(
    "pulse-unmeasured",
    "Pulse measured by the program",
    "care",
    "A pulse is measured well where a timer takes its edges, or where nothing interrupts the program; "
    "elsewhere the reading jumps.",
    "catalogue: how finely the part's pulses are measured, which pins of the board keep time",
    each=of_each(_on_slow_pins),
)
def pulse_unmeasured(facts: Facts, tie: Tie) -> Iterator[Observation]:
    c = facts.circuit
    need, pin = c.needs.of(tie.lead), c.contacts.pins[tie.to]
    if (
        not isinstance(need, Input)
        or need.measured_s is None
        or pin.jobs("capture")
        or keeps_time(c, tie.to, both_ways=True)
        or not pin.reads
    ):
        return
    reach = over_bus(c, tie.to)
    if split(tie.to)[0] == BOARD:
        why = "the system can interrupt the program meanwhile"
    elif reach is None:
        why = "it is read over a bus"
    else:
        why = f"it is read over {reach.bus}, every {show(reach.read_s, 's')} at best"
    hopeless = reach is not None and reach.read_s > need.measured_s
    yield Observation(
        f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)} has to be measured to "
        f"{show(need.measured_s, 's')}, but {why}{_able(c, tie.lead)}.",
        (tie.lead, tie.to),
        (Number("wanted", need.measured_s, "s"),),
        from_facts(elsewhere, tie),
        "stop" if hopeless else None,
    )


SHARE = 0.5
"""of a bus's time that steps may take, when the rest of the program is to be heard as well"""


class _Stepped(Struct, frozen=True):
    """A stepper whose steps a program makes."""

    lead: str
    """the driver's input"""
    contact: str
    hz: float
    """steps a second"""
    writes: int
    """so many changes make one step"""


def _stepped(c: Circuit) -> Iterator[_Stepped]:
    for part_id in having(c, "stepper"):
        s = c.parts[part_id].facts.stepper
        assert s is not None
        rpm, driver, w = (
            stepper.asked_rpm(c, part_id),
            stepper.driver_of(c, part_id),
            stepper.wired(c, part_id),
        )
        tie = c.ties.of(f"{driver}.step") if driver else None
        if tie is not None:
            yield _Stepped(tie.lead, tie.to, stepper.full_hz(s, rpm) * stepper.microsteps(c, driver), 2)
        elif w is not None:
            tie = stepper.input_ties(c, w)[0]
            yield _Stepped(tie.lead, tie.to, stepper.step_hz(s, stepper.asked_mode(c, part_id), rpm), 1)


@rule(
    "steps-over-bus",
    "Steps faster than the bus",
    "care",
    "Behind an expander each change of a pin is a message. A stepper that is asked for more steps than the "
    "bus carries turns more slowly, and unevenly; whatever else is on the bus has to wait.",
    "NXP UM10204, clauses 3.1.5 and 3.1.10: 29 clocks for one setting; a step pulse takes two, coils one",
    each=of_circuit(_stepped),
)
def steps_over_bus(facts: Facts, x: _Stepped) -> Iterator[Observation]:
    c = facts.circuit
    reach = over_bus(c, x.contact)
    if reach is None:
        return
    most = 1 / (x.writes * reach.write_s)
    if x.hz > SHARE * most:
        yield Observation(
            f"{c.titles.of(x.lead)} on {c.titles.full(x.contact)} is to make {x.hz:.0f} steps a second; "
            f"{reach.bus} at {show(reach.hz, 'Hz')} carries {most:.0f}, with nothing else on it.",
            (x.lead, x.contact),
            (Number("steps", x.hz, "Hz", SHARE * most), Number("bus carries", most, "Hz")),
            from_facts(_quicker, x, reach),
            "stop" if x.hz > most else None,
        )


def _quicker(facts: Facts, x: _Stepped, reach: Reach) -> Iterator[Remedy]:
    """On a pin of the board's own, or over a faster bus."""
    yield from move(facts, x.lead, x.contact, f"Move {facts.circuit.titles.of(x.lead)} to")
    for hz in (m.hz for m in MODES if m.hz > reach.hz):
        yield remedy(f"Run {reach.bus} at {show(hz, 'Hz')}", edits.set_clock, reach.bus_id, hz)
