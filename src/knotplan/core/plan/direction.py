"""Which end of a wire is its lead: the consumer's, so that every question is asked of who needs something."""

from msgspec.structs import replace

from knotplan.catalog.load import Catalog
from knotplan.catalog.part.part import Part
from knotplan.core.plan.beads import Bead, Diode, LevelShifter
from knotplan.core.plan.document import BOARD, Plan, Tie, split
from knotplan.core.plan.kinds import part_in
from knotplan.core.plan.validity.unmoved import unmoved_ties

CONSUMER, PASSES, GIVES = 0, 1, 2


def consumer_first(plan: Plan, catalog: Catalog, lead: str, to: str) -> tuple[str, str]:
    """(lead, contact) of a wire between two contacts: what takes comes before what passes on, and that
    before what gives. On the ground side a bar gives, and a supply's return passes on."""
    ranks = _Ranks(plan, catalog)
    return (to, lead) if ranks.backwards(lead, to) else (lead, to)


def all_consumers_first(plan: Plan, catalog: Catalog, since: Plan | None = None) -> Plan:
    """The same wires, each told from its consumer's end; in `since`, an earlier plan, they were so."""
    ranks, right = _Ranks(plan, catalog), unmoved_ties(plan, since)
    wrong = {id(t) for t in plan.ties if id(t) not in right and ranks.backwards(t.lead, t.to)}
    return (
        replace(plan, ties=tuple(_turned(t) if id(t) in wrong else t for t in plan.ties)) if wrong else plan
    )


def _turned(tie: Tie) -> Tie:
    """The same wire told from its other end, with its beads in the other order, and
    turned where they have a direction."""
    return replace(tie, lead=tie.to, to=tie.lead, beads=turned_beads(tie.beads))


def turned_beads(beads: tuple[Bead, ...]) -> tuple[Bead, ...]:
    """The beads of a wire as they are told from its other end."""
    return tuple(_turned_bead(b) for b in reversed(beads))


def _turned_bead(bead: Bead) -> Bead:
    match bead:
        case Diode(towards=towards):
            return replace(bead, towards="pin" if towards == "lead" else "lead")
        case LevelShifter(lead_rail=lead_rail, pin_rail=pin_rail):
            return replace(bead, lead_rail=pin_rail, pin_rail=lead_rail)
    return bead


class _Ranks:
    """How far each contact of a plan is from being a consumer."""

    def __init__(self, plan: Plan, catalog: Catalog):
        self._plan, self._catalog = plan, catalog
        self._placed = {p.id: p for p in plan.parts}
        self._parts: dict[str, Part] = {}

    def backwards(self, lead: str, to: str) -> bool:
        """The wire from `lead` to `to` is told from the end that gives."""
        takes, gives = self._of(lead), self._of(to)
        return takes is not None and gives is not None and gives < takes

    def _of(self, contact: str) -> int | None:
        """The rank of a contact; nothing for one of the board."""
        owner, name = split(contact)
        if owner == BOARD:
            return None
        if owner not in self._parts:
            self._parts[owner] = part_in(self._plan, self._catalog, self._placed[owner])
        return _rank(self._parts[owner], name)


def _rank(part: Part, name: str) -> int:
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
