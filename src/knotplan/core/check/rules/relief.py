"""What helps where a rail, a supply or a bank of pins is asked for too much."""

from collections.abc import Iterator

from msgspec.structs import replace

from knotplan.catalog.part.needs import Supply
from knotplan.core.check.facts import Facts
from knotplan.core.check.rules.remedies import own_supply_of, sold_rating
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.leds import led_at
from knotplan.core.circuit.nets import rail_name
from knotplan.core.plan import edits
from knotplan.core.plan.beads import SeriesResistor
from knotplan.core.plan.document import Tie, split
from knotplan.core.plan.remedy import Remedy, Step, remedy
from knotplan.core.power.budget import Budget
from knotplan.core.power.node import Node, find
from knotplan.core.quantity.series import at_or_above
from knotplan.core.quantity.written import show

SPARE = 1.1
"""resistors are taken for a tenth less than the limit"""


def relief(facts: Facts, budget: Budget) -> Iterator[Remedy]:
    """A stronger supply, the largest loads fed from elsewhere, larger resistors for the LEDs."""
    if budget.kind in ("pins", "bank"):
        yield from _larger_resistors(facts.circuit, budget)
        return
    if budget.kind == "supply" and budget.part:
        yield from _stronger_supply(facts.circuit, budget)
    yield from _largest_elsewhere(facts, budget)


def _stronger_supply(c: Circuit, budget: Budget) -> Iterator[Remedy]:
    """The same supply with the next rating that carries the worst case."""
    rating = sold_rating(c.parts[budget.part], budget.worst_a)
    socket = next(
        (c.board.sockets[s].limit_a for s, p in c.supplies.feeds.items() if p == budget.part), float("inf")
    )
    if rating is not None and rating <= socket:
        title = f"Take one of {show(rating, 'A')} for {c.placed[budget.part].name}"
        yield remedy(
            title, edits.set_param, budget.part, c.parts[budget.part].parameter("rated current"), rating
        )


def _largest_elsewhere(facts: Facts, budget: Budget) -> Iterator[Remedy]:
    """As many of the largest loads as it takes, on a supply that is there or on one new one."""
    c = facts.circuit
    node_id = rail_name(budget.id) if budget.kind == "rail" else budget.part
    node = find(facts.power, node_id or facts.power[0].id)
    if node is None:
        return
    loads = [n for n in node.walk() if n.lead and isinstance(c.needs.of(n.lead), Supply) and n.kind == "load"]
    over, taken = budget.worst_a - budget.limit_a, list[Node]()
    for load in sorted(loads, key=lambda n: -n.drawn.worst_a):
        taken.append(load)
        over -= load.drawn.worst_a
        if over <= 0:
            break
    if taken:
        amps = sum(n.drawn.worst_a for n in taken)
        yield from own_supply_of(facts, tuple(n.lead for n in taken), amps=amps)


def _larger_resistors(c: Circuit, budget: Budget) -> Iterator[Remedy]:
    """For every LED on the pins, by the share k that they are over, with the pin's own resistance in series:
    R' = k R + (k - 1) R_pin. What else hangs on the pins stays as it is."""
    share = budget.worst_a / budget.limit_a * SPARE
    larger: dict[tuple[str, int], SeriesResistor] = {}
    for pin in budget.pins:
        driver = c.hardware.driver_at(pin)
        beside = max(driver.high_ohm.max, driver.low_ohm.max) if driver is not None else 0.0
        for tie, at, bead in (x for t in c.ties.holders.get(pin, ()) for x in _resistors(c, t)):
            ohm = at_or_above(share * bead.ohm + (share - 1) * beside, c.series)
            larger[tie.id, at] = replace(bead, ohm=ohm)
    if larger:
        ohms = sorted({bead.ohm for bead in larger.values()})
        values = " to ".join(show(ohm, "Ω") for ohm in dict.fromkeys((ohms[0], ohms[-1])))
        steps = tuple(Step(edits.change_bead, (*place, bead)) for place, bead in larger.items())
        yield Remedy(f"Take {values} for {len(steps)} LEDs: they get darker", steps)


def _resistors(c: Circuit, tie: Tie) -> Iterator[tuple[Tie, int, SeriesResistor]]:
    """(tie, place, resistor) of the LED that a tie leads to, at either of its ends."""
    part_id, _ = split(tie.lead)
    if not led_at(c, tie.lead):
        return
    for lead in c.parts[part_id].leads:
        own = c.ties.of(f"{part_id}.{lead}")
        if own is not None and (own == tie or led_at(c, own.lead) == led_at(c, tie.lead)):
            yield from ((own, k, b) for k, b in enumerate(own.beads) if isinstance(b, SeriesResistor))
