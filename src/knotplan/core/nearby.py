"""A small plan around one part, so that "what if" questions are answered quickly."""

from msgspec.structs import replace

from knotplan.core.circuit import Circuit
from knotplan.core.plan import BOARD, Plan, split


def nearby(circuit: Circuit, plan: Plan, part_id: str) -> Plan:
    """`plan` with only the parts that share a signal with one part, directly or over others.

    The circuit is that of the plan before the edit in question. A supply that a part hangs on comes
    along, but not what else hangs there: sharing a rail or the ground is not sharing a signal.
    """
    links: dict[str, set[str]] = {}
    for tie in plan.ties:
        lead_owner, owner = split(tie.lead)[0], split(tie.to)[0]
        links.setdefault(lead_owner, set()).add(owner)
        links.setdefault(owner, set()).add(lead_owner)
    for held in circuit.holders.values():
        owners = {split(t.lead)[0] for t in held}
        for owner in owners:
            links.setdefault(owner, set()).update(owners)
    near, fresh = {part_id}, [part_id]
    while fresh:
        here = fresh.pop()
        if here in circuit.bench_sources:
            continue
        more = links.get(here, set()) - near - {BOARD}
        near |= more
        fresh += more
    ties = tuple(t for t in plan.ties if split(t.lead)[0] in near)
    return replace(plan, parts=tuple(p for p in plan.parts if p.id in near), ties=ties)
