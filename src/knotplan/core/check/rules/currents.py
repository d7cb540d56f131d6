"""Rules about currents against limits."""

from collections.abc import Iterator

from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.relief import relief
from knotplan.core.check.rules.remedies import led_resistor, stronger_switch
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import budgets, pins_that_carry
from knotplan.core.circuit.leds import led_at
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy
from knotplan.core.power.budget import Budget, pin_current
from knotplan.core.quantity.working import Number
from knotplan.core.quantity.written import show


def _pin_over(facts: Facts, pin: str, absolute: bool) -> Iterator[Observation]:
    c = facts.circuit
    driver = c.hardware.driver(pin)
    usual, worst = pin_current(facts.points.pins[pin])
    if (worst > driver.absolute_a) != absolute or worst <= driver.recommended_a:
        return
    limit = driver.absolute_a if absolute else driver.recommended_a
    leads = tuple(t.lead for t in c.ties.holders[pin])
    bears = "it survives" if absolute else "recommended are"
    yield Observation(
        f"{c.titles.full(pin)} carries {show(usual, 'A')}, at worst {show(worst, 'A')}; {bears} at most "
        f"{show(limit, 'A')}.",
        (pin, *leads),
        (Number("usual current", usual, "A"), Number("worst current", worst, "A", limit)),
        from_facts(_smaller, leads),
    )


def _smaller(facts: Facts, leads: tuple[str, ...]) -> Iterator[Remedy]:
    """A larger resistor for each LED on the pin, a stronger switch for a load."""
    for lead in leads:
        tie = facts.circuit.ties.of(lead)
        if tie is not None:
            yield from stronger_switch(facts, tie)
        if name := led_at(facts.circuit, lead):
            yield from led_resistor(facts, split(lead)[0], name)


@rule(
    "pin-over-recommended",
    "Pin above its recommended current",
    "care",
    "Above the recommended current the pin's levels are no longer warranted and it ages faster.",
    "catalogue: recommended current of the pin's driver",
    each=pins_that_carry,
)
def pin_over_recommended(facts: Facts, pin: str) -> Iterator[Observation]:
    yield from _pin_over(facts, pin, absolute=False)


@rule(
    "pin-over-absolute",
    "Pin above its absolute limit",
    "stop",
    "Beyond the absolute maximum the pin, or the whole chip, can be damaged for good.",
    "catalogue: absolute maximum of the pin's driver",
    each=pins_that_carry,
)
def pin_over_absolute(facts: Facts, pin: str) -> Iterator[Observation]:
    yield from _pin_over(facts, pin, absolute=True)


HAIR = 0.01
"""no fuse or supply knows its limit to one in a hundred"""


def _over(facts: Facts, b: Budget, kind: str) -> Iterator[Observation]:
    if b.kind != kind or b.worst_a <= b.limit_a * (1 + HAIR):
        return
    grave = b.usual_a > b.limit_a
    largest = sorted(b.items, key=lambda i: -i.worst_a)[:3]
    parts = ", ".join(f"{i.title} {show(i.worst_a, 'A')}" for i in largest)
    yield Observation(
        f"{b.title}: {show(b.usual_a, 'A')} usually, {show(b.worst_a, 'A')} at worst; the limit is "
        f"{show(b.limit_a, 'A')}. The largest: {parts}.",
        (b.id,),
        (
            Number("usual current", b.usual_a, "A", b.limit_a),
            Number("worst current", b.worst_a, "A", b.limit_a),
        ),
        from_facts(relief, b),
        "stop" if grave else "care",
    )


@rule(
    "pins-over",
    "Pins together over their limit",
    "care",
    "All pins feed from the same inner supply line of the chip, which has a limit of its own.",
    "catalogue: limit of all pins together; stop when the usual current is over it already",
    each=budgets,
)
def pins_over(facts: Facts, budget: Budget) -> Iterator[Observation]:
    yield from _over(facts, budget, "pins")


@rule(
    "bank-over",
    "Bank of pins over its limit",
    "care",
    "The pins of one bank share a supply line inside the chip.",
    "catalogue: limits of the board's banks",
    each=budgets,
)
def bank_over(facts: Facts, budget: Budget) -> Iterator[Observation]:
    yield from _over(facts, budget, "bank")


@rule(
    "rail-over",
    "Rail over its limit",
    "care",
    "A rail that is asked for more sags, and the board resets or its fuse opens.",
    "catalogue: limits of the board's rails; stop when the usual current is over it already",
    each=budgets,
)
def rail_over(facts: Facts, budget: Budget) -> Iterator[Observation]:
    yield from _over(facts, budget, "rail")


@rule(
    "supply-over",
    "Supply over its limit",
    "care",
    "A supply that is asked for more than it is rated for sags or switches off.",
    "catalogue: rated current of the supply or socket",
    each=budgets,
)
def supply_over(facts: Facts, budget: Budget) -> Iterator[Observation]:
    sockets = facts.circuit.board.sockets
    if not budget.part and any(s.limit_a >= budget.worst_a for s in sockets.values()):
        return  # nothing is planned yet that feeds the board, and one of its sockets can
    yield from _over(facts, budget, "supply")
