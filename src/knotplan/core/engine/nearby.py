"""A small plan around one part, so that "what if" questions are answered quickly."""

from msgspec.structs import replace

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.engine.effort import EFFORT
from knotplan.core.memory.question import question, table
from knotplan.core.plan.document import BOARD, Plan, Tie, split


def nearby(circuit: Circuit, plan: Plan, part_id: str) -> Plan:
    """`plan` with only the parts that share a signal with one part, directly or over others.

    The circuit is that of the plan before the edit in question. A supply that a part hangs on comes
    along, but not what else hangs there: sharing a rail or the ground is not sharing a signal.
    """
    EFFORT.spend(len(plan.ties) / 2000)
    known = _known(circuit)
    fresh_ties = [t for t in plan.ties if id(t) not in known]
    near, fresh = {part_id}, [part_id]
    while fresh:
        here = fresh.pop()
        if here in circuit.supplies.on_bench:
            continue
        more = set(_links(circuit).get(here, ()))
        more |= {end for t in fresh_ties for end in _owners(t) if here in _owners(t)}
        more -= near | {BOARD}
        near |= more
        fresh += more
    ties = tuple(t for t in plan.ties if split(t.lead)[0] in near)
    return replace(plan, parts=tuple(p for p in plan.parts if p.id in near), ties=ties)


def _owners(tie: Tie) -> tuple[str, str]:
    return split(tie.lead)[0], split(tie.to)[0]


@question
def _known(circuit: Circuit) -> frozenset[int]:
    return frozenset(map(id, circuit.ties))


@table
def _links(circuit: Circuit) -> dict[str, set[str]]:
    """Which parts each part is tied to, or shares a signal pin with."""
    links: dict[str, set[str]] = {}
    for tie in circuit.ties:
        one, other = _owners(tie)
        links.setdefault(one, set()).add(other)
        links.setdefault(other, set()).add(one)
    for held in circuit.ties.holders.values():
        owners = {split(t.lead)[0] for t in held}
        for owner in owners:
            links.setdefault(owner, set()).update(owners)
    return links
