"""Which parts have what: a fact of the catalogue, a kind of element, a kind of need.

Most questions concern few parts; this says which, and stays the same while parts are only renamed or set.
"""

from collections.abc import Callable

from knotplan.catalog.derived import derived
from knotplan.catalog.part.part import Part
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.memory.question import table
from knotplan.core.plan.document import Tie

Mark = str | type
"""the name of a fact, or the class of an element or need"""

CONTACTS, BRANCHES, BANKS, TRANSISTORS = "contacts", "branches", "banks", "transistors"
"""of hubs: contacts that open and close or are always joined; I2C buses of their own; leads with a limit in
common; outputs behind which the engine has a transistor"""
ELEMENTS, SUPPLIES, CLAMPED = "elements", "supplies", "clamped"
"""of parts: anything that the engine knows; more than one supply; inputs with a diode to their supply"""


@derived
def _marks(part: Part) -> tuple[Mark, ...]:
    facts = [name for name in part.facts.__struct_fields__ if getattr(part.facts, name)]
    elements = [type(e) for e in part.elements.values()]
    needs = [type(need) for lead in part.leads.values() for need in lead.needs]
    offers = [lead.offers for lead in part.leads.values() if lead.offers is not None]
    has = {
        CONTACTS: any(o.kind == "contact" for o in offers),
        BRANCHES: any(unit.startswith("i2c:") for unit in part.peripherals),
        BANKS: bool(part.banks),
        TRANSISTORS: any(driver.element for driver in part.drivers.values()),
        ELEMENTS: bool(elements),
        SUPPLIES: len(part.supply_leads) > 1,
        CLAMPED: any(getattr(n, "of", "") for lead in part.leads.values() for n in lead.needs),
    }
    return tuple(dict.fromkeys((*facts, *elements, *needs, *(mark for mark in has if has[mark]))))


@table
def _by_mark(c: Circuit) -> dict[Mark, dict[str, None]]:
    parts: dict[Mark, dict[str, None]] = {}
    for part_id, part in c.parts.items():
        for mark in _marks(part):
            parts.setdefault(mark, {})[part_id] = None
    return parts


def having(c: Circuit, *marks: Mark) -> list[str]:
    """The parts that have any of these, in the order of the plan."""
    sets = [found for mark in marks if (found := _by_mark(c).get(mark)) is not None]
    if len(sets) <= 1:
        return list(*sets)
    wanted = set[str]().union(*sets)
    return [part_id for part_id in c.parts if part_id in wanted]


@derived
def _needing(part: Part, need: type) -> tuple[str, ...]:
    return tuple(name for name, lead in part.leads.items() if any(isinstance(n, need) for n in lead.needs))


def ties_of(c: Circuit, part_id: str, need: type = object) -> list[Tie]:
    """The ties of a part's leads, lead by lead: of those that could have such a need."""
    leads = [f"{part_id}.{name}" for name in _needing(c.parts[part_id], need)]
    return [tie for lead in leads for tie in c.ties.at.get(lead, ()) if tie.lead == lead]


@table
def _held_by_need(c: Circuit) -> dict[type, dict[str, None]]:
    held: dict[type, dict[str, None]] = {}
    for tie_id, tie in c.ties.held.items():
        held.setdefault(type(c.needs.of(tie.lead)), {})[tie_id] = None
    return held


def held_for(*needs: type) -> Callable[[Circuit], list[str]]:
    """The ties on signal pins that are meant to meet one of these needs, pin by pin for each of them."""

    def tie_ids(c: Circuit) -> list[str]:
        return [tie_id for need in needs for tie_id in _held_by_need(c).get(need, ())]

    return tie_ids
