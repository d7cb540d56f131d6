"""Which end of a wire is its lead: the consumer's, so that every question is asked of who needs something."""

from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.core.plan import BOARD, Plan, Tie, split


def consumer_first(plan: Plan, catalog: Catalog, lead: str, to: str) -> tuple[str, str]:
    """(lead, contact) of a wire between two contacts; a supply's end comes second where the other is a consumer's."""
    gives, takes = _is_supply(plan, catalog, lead), _is_supply(plan, catalog, to)
    return (to, lead) if gives and takes is False else (lead, to)


def _is_supply(plan: Plan, catalog: Catalog, contact: str) -> bool | None:
    """Whether the contact is a supply's; nothing for a contact of the board."""
    owner, name = split(contact)
    if owner == BOARD:
        return None
    placed = plan.part(owner)
    source = catalog.part(placed.part, placed.params).source
    return source is not None and name in (source.plus, source.minus)  # a converter's input is a consumer's


def all_consumers_first(plan: Plan, catalog: Catalog) -> Plan:
    """The same wires, each told from its consumer's end."""

    def turned(tie: Tie) -> Tie:
        lead, to = consumer_first(plan, catalog, tie.lead, tie.to)
        return tie if lead == tie.lead else replace(tie, lead=lead, to=to, beads=tie.beads[::-1])

    ties = tuple(map(turned, plan.ties))
    return plan if ties == plan.ties else replace(plan, ties=ties)
