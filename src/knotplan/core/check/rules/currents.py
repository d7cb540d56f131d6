"""Rules about currents against limits."""

from collections.abc import Iterator

from knotplan.catalog.part.elements import Load
from knotplan.catalog.part.needs import Supply
from knotplan.core.check.asked import from_facts
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import led_resistor, own_supply, stronger_switch
from knotplan.core.check.rules.rule import Observation, rule
from knotplan.core.check.subjects import budgets, pins_that_carry
from knotplan.core.circuit.leds import led_at
from knotplan.core.circuit.nets import rail_name
from knotplan.core.plan import edits
from knotplan.core.plan.document import split
from knotplan.core.plan.remedy import Remedy, remedy
from knotplan.core.power.budgets import Budget, pin_current
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
        from_facts(_relief, b),
        "stop" if grave else "care",
    )


RATINGS = (0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 20.0)
"""amperes that wall supplies are sold with"""


def _stronger_supply(facts: Facts, budget: Budget) -> tuple[Remedy, ...]:
    """The same supply with the next rating that carries the worst case."""
    c = facts.circuit
    part = c.parts[budget.part]
    name = part.parameter("rated current")
    sold = [a for a in RATINGS if name and part.params[name].fault(a) is None]
    rating = next((a for a in sold if a >= budget.worst_a * 1.1), None)
    socket = next(
        (c.board.sockets[s].limit_a for s, p in c.supplies.feeds.items() if p == budget.part), float("inf")
    )
    if rating is None or rating > socket:
        return ()
    title = f"Take one of {show(rating, 'A')} for {c.placed[budget.part].name}"
    return (remedy(title, edits.set_param, budget.part, name, rating),)


def _relief(facts: Facts, budget: Budget) -> tuple[Remedy, ...]:
    """The largest load on the rail, fed from elsewhere."""
    c = facts.circuit
    if budget.kind == "supply" and budget.part:
        return _stronger_supply(facts, budget)
    rail = c.supplies.fed_rail if budget.kind == "supply" else budget.id
    if budget.kind not in ("rail", "supply") or rail not in c.board.rails:
        return ()
    net = c.nets.of(rail_name(rail))
    loads = [
        (e.worst_a, f"{p}.{e.a}")
        for p, part in c.parts.items()
        for e in part.elements.values()
        if isinstance(e, Load) and c.nets.of(f"{p}.{e.a}") == net
    ]
    for _, lead in sorted(loads, key=lambda load: -load[0]):
        if c.ties.of(lead) and isinstance(c.needs.of(lead), Supply):
            return own_supply(facts, lead)
    return ()


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
