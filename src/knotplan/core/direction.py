"""Which end of a wire is its lead: the consumer's, so that every question is asked of who needs something."""

from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.core.kinds import part_in
from knotplan.core.plan import BOARD, Plan, Tie, split

CONSUMER, PASSES, GIVES = 0, 1, 2


def consumer_first(plan: Plan, catalog: Catalog, lead: str, to: str) -> tuple[str, str]:
    """(lead, contact) of a wire between two contacts: what takes comes before what passes on, and that before what
    gives. On the ground side a bar gives, and a supply's return passes on."""
    takes, gives = _rank(plan, catalog, lead), _rank(plan, catalog, to)
    return (to, lead) if takes is not None and gives is not None and gives < takes else (lead, to)


def _rank(plan: Plan, catalog: Catalog, contact: str) -> int | None:
    """How far a contact is from being a consumer; nothing for a contact of the board."""
    owner, name = split(contact)
    if owner == BOARD:
        return None
    placed = plan.part(owner)
    part = part_in(plan, catalog, placed)
    if part.source is not None and name == part.source.plus:
        return GIVES
    if part.source is not None and name == part.source.minus:
        return PASSES
    lead = part.leads.get(name)
    if lead is None or lead.offers is None or lead.offers.kind == "contact":
        return CONSUMER
    if lead.offers.kind == "ground":
        return GIVES if part.category == "wiring" else PASSES
    return PASSES  # a signal pin of a hub, or a rail that others hang on


def all_consumers_first(plan: Plan, catalog: Catalog) -> Plan:
    """The same wires, each told from its consumer's end."""

    def turned(tie: Tie) -> Tie:
        lead, to = consumer_first(plan, catalog, tie.lead, tie.to)
        return tie if lead == tie.lead else replace(tie, lead=lead, to=to, beads=tie.beads[::-1])

    ties = tuple(map(turned, plan.ties))
    return plan if ties == plan.ties else replace(plan, ties=ties)
