"""Parts of the maker's own go onto the bench with their files."""

from pathlib import Path

from knotplan.catalog.load import MOST_BYTES
from knotplan.catalog.reading import read_utf8
from knotplan.core.plan import edits
from knotplan.core.plan.document import CarriedPart, Plan
from knotplan.core.plan.kinds import lines_of
from knotplan.desktop.session import Session


def carried(path: Path) -> CarriedPart:
    """A part's file as a plan carries it."""
    return CarriedPart(path.stem, lines_of(read_utf8(path, MOST_BYTES)))


def add(session: Session, part: str, name: str = "", params: dict[str, str | float] | None = None) -> None:
    """A part of the catalogue onto the bench, under its usual name where none is given; one of the
    maker's own with its file."""
    name = name or session.catalog.kind(part).title
    own = part in session.catalog.own_part_ids()
    lent = carried(session.catalog.part_path(part)) if own else None

    def added(plan: Plan) -> Plan:
        with_file = edits.carry_part(plan, lent) if lent is not None else plan
        return edits.add_part(with_file, part, name, params or {})

    session.edit(f"add {name}", added)
