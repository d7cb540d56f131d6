"""What helps where addresses do not suffice: another bus, or a bus switch with branches of its own."""

from collections.abc import Iterator, Sequence

from knotplan.catalog.load import Catalog
from knotplan.catalog.part.needs import Bus, Ground, Supply
from knotplan.core.buses.addresses import Place, bus_of, free_straps, places
from knotplan.core.buses.lines import sections
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.units import BusUnit, buses_at
from knotplan.core.match.fit import candidates
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullUp
from knotplan.core.plan.remedy import Remedy, Step

SWITCH = "bus-switch"
BRANCHES = 8
BRANCH_OHM = 4700.0
"""for the pull-ups of a branch with one device"""


def i2c_leads(c: Circuit, part_id: str) -> dict[str, str]:
    """A part's leads by their role on the bus: {"sda": "water.sda", "scl": "water.scl"}."""
    return {
        n.role: f"{part_id}.{name}"
        for name, lead in c.parts[part_id].leads.items()
        for n in lead.needs
        if isinstance(n, Bus) and n.bus == "i2c"
    }


def other_bus(c: Circuit, place: Place, found: Sequence[Place]) -> Iterator[Remedy]:
    """Its two leads on another bus of the board, where its address is free."""
    taken = {p.bus for p in found if p.address == place.address}
    leads = i2c_leads(c, place.part)
    if len(leads) != 2:
        return
    (one, other) = leads.values()
    able = candidates(c, other)
    for first in candidates(c, one):
        for bus in _at(c, one, first.contact):
            second = next((f.contact for f in able if bus in _at(c, other, f.contact)), "")
            if second and bus not in taken:
                steps = (Step(edits.tie, (one, first.contact)), Step(edits.tie, (other, second)))
                where = f"{c.titles.full(first.contact)} and {c.titles.full(second)}"
                yield Remedy(f"Put {c.placed[place.part].name} on {where}", steps)
                return


def _at(c: Circuit, lead: str, contact: str) -> list[BusUnit]:
    need = c.needs.of(lead)
    return buses_at(c, need, contact) if isinstance(need, Bus) else []


def behind_switch(c: Circuit, catalog: Catalog, part_ids: Sequence[str]) -> Remedy | None:
    """A bus switch between the bus and some devices, each on a branch of its own; nothing where there are
    more of them than branches, or where the switch itself finds no free address."""
    leads = {p: i2c_leads(c, p) for p in part_ids}
    ties = {role: c.ties.of(leads[part_ids[0]].get(role, "")) for role in ("sda", "scl")}
    if len(part_ids) > BRANCHES or any(t is None for t in ties.values()):
        return None
    title = catalog.kind(SWITCH).title
    plan = edits.add_part(c.plan, SWITCH, title)
    hub = plan.parts[-1].id
    steps = [Step(edits.add_part, (SWITCH, title))]
    steps += [Step(edits.tie, (f"{hub}.{role}", tie.to)) for role, tie in ties.items() if tie is not None]
    steps += [Step(edits.tie, (f"{hub}.{name}", to)) for name, to in _fed_like(c, part_ids[0]).items()]
    for k, part_id in enumerate(part_ids):
        for role, lead in leads[part_id].items():
            steps.append(Step(edits.tie, (lead, f"{hub}.{role[:2]}{k}")))
    made = _pulled(
        c, catalog, part_ids, Remedy(f"Put {_names(c, part_ids)} behind a bus switch", tuple(steps))
    )
    return _strapped(c, catalog, hub, made)


def _names(c: Circuit, part_ids: Sequence[str]) -> str:
    first = c.placed[part_ids[0]].name
    return first if len(part_ids) == 1 else f"{first} and {len(part_ids) - 1} more"


def _fed_like(c: Circuit, part_id: str) -> dict[str, str]:
    """Supply and ground for the switch: those of a device that it stands before."""
    found: dict[str, str] = {}
    for name in c.parts[part_id].leads:
        tie = c.ties.of(f"{part_id}.{name}")
        if tie is not None and isinstance(c.needs.of(tie.lead), Supply):
            found.setdefault("vin", tie.to)
        elif tie is not None and isinstance(c.needs.of(tie.lead), Ground):
            found.setdefault("gnd", tie.to)
    return found


def _pulled(c: Circuit, catalog: Catalog, part_ids: Sequence[str], remedy: Remedy) -> Remedy:
    """With pull-ups on the branches where the devices bring none: the
    trunk's do not reach behind the switch."""
    after = Circuit(remedy.apply(c.plan), catalog)
    steps = []
    for part_id in part_ids:
        bus, rail = bus_of(after, part_id), _fed_like(c, part_id).get("vin", "")
        for section in sections(after, bus) if bus and rail else ():
            tie = after.ties.of(i2c_leads(after, part_id).get(section.role, ""))
            if section.ohm is None and part_id in section.devices and tie is not None:
                steps.append(Step(edits.add_bead, (tie.id, PullUp(BRANCH_OHM, rail=rail))))
    return Remedy(remedy.title, (*remedy.steps, *steps))


def _strapped(c: Circuit, catalog: Catalog, hub: str, remedy: Remedy) -> Remedy | None:
    """With the switch itself at an address that is free."""
    after = Circuit(remedy.apply(c.plan), catalog)
    bus = bus_of(after, hub)
    here = next((p for p in places(after) if p.part == hub), None)
    if bus is None or here is None:
        return None
    others = [p for p in places(after) if p.part != hub]
    if not any(here.address in (p.address, p.all_call) for p in others):
        return remedy
    straps = free_straps(after, here, others)
    return (
        Remedy(remedy.title, (*remedy.steps, Step(edits.set_params, (hub, dict(straps.params)))))
        if straps
        else None
    )
