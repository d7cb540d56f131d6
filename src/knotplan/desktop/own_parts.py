"""Parts of the maker's own go onto the bench with their files."""

from pathlib import Path

from knotplan.catalog.load import MOST_BYTES
from knotplan.catalog.reading import read_utf8
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.match.fit import Grade, leads_for
from knotplan.core.plan import edits
from knotplan.core.plan.document import CarriedPart, Plan, split
from knotplan.core.plan.kinds import lines_of
from knotplan.desktop.session import Session


def carried(path: Path) -> CarriedPart:
    """A part's file as a plan carries it."""
    return CarriedPart(path.stem, lines_of(read_utf8(path, MOST_BYTES)))


def add(
    session: Session,
    part: str,
    name: str = "",
    params: dict[str, str | float] | None = None,
    count: int = 1,
    onto: str = "",
) -> list[str]:
    """Parts of the catalogue onto the bench, under their usual name where none is given; one of the maker's
    own with its file. `onto`: a pin that the lead which fits it best is tied to. Gives the ids of the new."""
    name = name or session.catalog.kind(part).title
    own = part in session.catalog.own_part_ids()
    lent = carried(session.catalog.part_path(part)) if own else None
    before = {p.id for p in session.plan.parts}

    def added(plan: Plan) -> Plan:
        now = edits.carry_part(plan, lent) if lent is not None else plan
        for _ in range(count):
            now = edits.add_part(now, part, name, params or {})
        return _tied(now, session, now.parts[-1].id, onto) if onto else now

    session.edit(f"add {f'{count} × ' if count > 1 else ''}{name}", added)
    return [p.id for p in session.plan.parts if p.id not in before]


def _tied(plan: Plan, session: Session, part: str, pin: str) -> Plan:
    """The lead of a part that a pin suits best, tied to it; the plan as it is where none can be."""
    circuit = Circuit(plan, session.catalog)
    able = [
        (answer.grade, lead)
        for lead, answer in leads_for(circuit, pin)
        if split(lead)[0] == part and answer.grade < Grade.IMPOSSIBLE
    ]
    return edits.tie(plan, min(able, key=lambda one: one[0])[1], pin) if able else plan
