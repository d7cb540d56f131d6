"""Which leads a suggestion is about."""

from collections.abc import Iterable

from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.catalog.part.needs import Coupled, Feed, Gives, Ground, Open, Supply
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.document import Plan, split

POWER = (Supply, Ground, Feed, Coupled)
"""needs for which any number of leads can go to one contact"""


def wants_suggestion(circuit: Circuit, lead: str) -> bool:
    """A lead that has to be tied and is not."""
    spec = circuit.contacts.lead(lead)
    if spec is None or not circuit.needs.required(lead) or lead in circuit.ties.at:
        return False
    return not isinstance(spec.needs[0], Gives | Open)


def is_power(circuit: Circuit, lead: str) -> bool:
    """The lead is a supply, a ground or a feed, which is tied before signals."""
    spec = circuit.contacts.lead(lead)
    return spec is not None and isinstance(spec.needs[0], POWER)


def movable(circuit: Circuit, leads: Iterable[str] | None = None) -> list[str]:
    """The leads that a suggestion is about: those asked for, else every
    one that has to be tied and is not."""
    return [x for x in (circuit.contacts.leads() if leads is None else leads) if wants_suggestion(circuit, x)]


def loosened(plan: Plan, catalog: Catalog, part_ids: Iterable[str] | None = None) -> Plan:
    """The plan without the ties that the maker has not fixed (of some parts), to be tied anew. A tie with
    beads or a frequency of its own stays: what has been said there would be lost."""
    circuit = Circuit(plan, catalog)
    chosen = set(part_ids) if part_ids is not None else set(circuit.parts)
    kept = tuple(
        t
        for t in plan.ties
        if t.fixed or t.beads or t.hertz or split(t.lead)[0] not in chosen or is_power(circuit, t.lead)
    )
    return replace(plan, ties=kept)
