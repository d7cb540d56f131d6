"""Rules about protocols that have to be timed, and pulses that have to be measured."""

from collections.abc import Iterator

from knotplan.catalog.part.needs import Input, Need, Stream
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import elsewhere
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.units import keeps_time
from knotplan.core.match.fit import Grade, fit
from knotplan.core.plan.document import BOARD, Tie, split
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show

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


def _on_slow_pins(c: Circuit, kind: type[Need]) -> Iterator[tuple[Tie, Need]]:
    for _, pin, tie in c.ties.on_pins():
        need = c.needs.of(tie.lead)
        if isinstance(need, kind) and (pin.drives or pin.reads) and not pin.hands_on:
            yield tie, need


@rule(
    "cannot-keep-time",
    "Protocol that this pin cannot time",
    "stop",
    "The bits of these protocols are told apart by fractions of a microsecond; where a system interrupts the "
    "program, or sets the pin over a bus, they come out wrong now and then, or always.",
    "catalogue: the protocol's shortest time, which pins of the board keep time",
)
def cannot_keep_time(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    for tie, need in _on_slow_pins(c, Stream):
        assert isinstance(need, Stream)
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
)
def pulse_unmeasured(facts: Facts) -> Iterator[Observation]:
    c = facts.circuit
    for tie, need in _on_slow_pins(c, Input):
        assert isinstance(need, Input)
        pin = c.contacts.pins[tie.to]
        if (
            need.measured_s is not None
            and not pin.jobs("capture")
            and not keeps_time(c, tie.to, both_ways=True)
            and pin.reads
        ):
            why = (
                "the system can interrupt the program meanwhile"
                if split(tie.to)[0] == BOARD
                else "it is read over a bus"
            )
            yield Observation(
                f"{c.titles.of(tie.lead)} on {c.titles.full(tie.to)} has to be measured to "
                f"{show(need.measured_s, 's')}, but {why}{_able(c, tie.lead)}.",
                (tie.lead, tie.to),
                (Number("wanted", need.measured_s, "s"),),
                from_facts(elsewhere, tie),
            )
