"""What helps where addresses do not suffice: another bus, or a bus switch with branches of its own."""

from collections.abc import Iterator, Sequence

from knotplan.catalog.board.function import parse_function
from knotplan.catalog.load import Catalog
from knotplan.catalog.part.needs import Bus, Ground, Supply
from knotplan.catalog.part.part import Part
from knotplan.core.buses.addresses import Place, bus_of, free_straps, places
from knotplan.core.buses.lines import sections
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.units import BusUnit, buses_at
from knotplan.core.match.fit import candidates
from knotplan.core.plan import edits
from knotplan.core.plan.beads import PullUp
from knotplan.core.plan.remedy import Remedy, Step

BRANCH_OHM = 4700.0
"""for the pull-ups of a branch with one device"""


def i2c_leads(c: Circuit, part_id: str) -> dict[str, str]:
    """A part's leads by their role on the bus: {"sda": "water.sda", "scl": "water.scl"}."""
    return {role: f"{part_id}.{name}" for role, name in _by_role(c.parts[part_id]).items()}


def _by_role(part: Part) -> dict[str, str]:
    """The names of its leads by their role on the bus."""
    return {
        need.role: name
        for name, lead in part.leads.items()
        for need in lead.needs
        if isinstance(need, Bus) and need.bus == "i2c"
    }


def bus_switch(catalog: Catalog) -> Part | None:
    """The part that gives a bus branches of its own."""
    return next(iter(catalog.proposed("bus branches")), None)


def branches(switch: Part) -> list[dict[str, str]]:
    """The contacts of each branch of a switch by their role: {"sda": "sd0", "scl": "sc0"}."""
    by_unit: dict[str, dict[str, str]] = {}
    for name, lead in switch.leads.items():
        for text in lead.offers.functions if lead.offers is not None else ():
            function = parse_function(text)
            if function.kind == "i2c":
                by_unit.setdefault(function.unit, {})[function.channel] = name
    return list(by_unit.values())


def other_bus(c: Circuit, place: Place, devices: Sequence[Place]) -> Iterator[Remedy]:
    """Its two leads on another bus of the board, where its address is free."""
    taken = {p.bus for p in devices if p.address == place.address}
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
    switch = bus_switch(catalog)
    leads = {p: i2c_leads(c, p) for p in part_ids}
    trunk = {role: c.ties.of(leads[part_ids[0]].get(role, "")) for role in ("sda", "scl")}
    if switch is None or len(part_ids) > len(branches(switch)) or any(t is None for t in trunk.values()):
        return None
    hub = edits.add_part(c.plan, switch.id, switch.title).parts[-1].id
    own = _by_role(switch)
    steps = [Step(edits.add_part, (switch.id, switch.title))]
    steps += [Step(edits.tie, (f"{hub}.{own[r]}", tie.to)) for r, tie in trunk.items() if tie is not None]
    steps += [Step(edits.tie, (f"{hub}.{lead}", to)) for lead, to in _feeds(c, part_ids[0], switch)]
    for part_id, branch in zip(part_ids, branches(switch), strict=False):
        steps += [Step(edits.tie, (lead, f"{hub}.{branch[role]}")) for role, lead in leads[part_id].items()]
    title = f"Put {_names(c, part_ids)} behind a {switch.title[0].lower()}{switch.title[1:]}"
    return _strapped(c, catalog, hub, _pulled(c, catalog, part_ids, Remedy(title, tuple(steps))))


def _names(c: Circuit, part_ids: Sequence[str]) -> str:
    first = c.placed[part_ids[0]].name
    return first if len(part_ids) == 1 else f"{first} and {len(part_ids) - 1} more"


def _fed_like(c: Circuit, part_id: str) -> dict[type, str]:
    """What a device's supply and its ground are tied to."""
    contacts: dict[type, str] = {}
    for name in c.parts[part_id].leads:
        tie = c.ties.of(f"{part_id}.{name}")
        need = c.needs.of(tie.lead) if tie is not None else None
        if tie is not None and isinstance(need, Supply | Ground):
            contacts.setdefault(type(need), tie.to)
    return contacts


def _feeds(c: Circuit, part_id: str, switch: Part) -> Iterator[tuple[str, str]]:
    """Supply and ground of the switch: those of a device that it stands before."""
    for kind, contact in _fed_like(c, part_id).items():
        lead = next((n for n, x in switch.leads.items() if isinstance(x.needs[0], kind)), "")
        if lead:
            yield lead, contact


def _pulled(c: Circuit, catalog: Catalog, part_ids: Sequence[str], remedy: Remedy) -> Remedy:
    """With pull-ups on the branches where the devices bring none: the
    trunk's do not reach behind the switch."""
    after = Circuit(remedy.apply(c.plan), catalog)
    steps = []
    for part_id in part_ids:
        bus, rail = bus_of(after, part_id), _fed_like(c, part_id).get(Supply, "")
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
