"""Which part a placed part is: the plan's own copy of a part file counts before the catalogue's."""

import tomllib
from functools import lru_cache

from knotplan.catalog.load import Catalog
from knotplan.catalog.parts import Part, PartKind, kind_from
from knotplan.core.plan import CarriedPart, PlacedPart, Plan


def kind_in(plan: Plan, catalog: Catalog, part_id: str) -> PartKind:
    """The part file of an id, in a plan; raises UnknownEntryError."""
    carried = next((c for c in plan.carried_parts if c.id == part_id), None)
    return carried_kind(carried) if carried else catalog.kind(part_id)


def part_in(plan: Plan, catalog: Catalog, placed: PlacedPart) -> Part:
    """The definite part that stands on the bench; raises UnknownEntryError."""
    carried = next((c for c in plan.carried_parts if c.id == placed.part), None)
    return _made(carried, tuple(sorted(placed.params.items()))) if carried else catalog.part(placed.part, placed.params)


@lru_cache(128)
def carried_kind(carried: CarriedPart) -> PartKind:
    """The part file that a plan carries; raises ValueError, KeyError or TypeError where it is none."""
    return kind_from(carried.id, {"id": carried.id, **tomllib.loads("\n".join(carried.lines))})


@lru_cache(512)
def _made(carried: CarriedPart, params: tuple[tuple[str, str | float], ...]) -> Part:
    return carried_kind(carried).make(dict(params))
