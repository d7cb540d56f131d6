"""Which part a placed part is: the plan's own copy of a part file counts before the catalogue's."""

from functools import lru_cache

import msgspec

from knotplan.catalog.board.check import ID
from knotplan.catalog.load import Catalog
from knotplan.catalog.part.kind import PartKind, kind_from
from knotplan.catalog.part.part import Part
from knotplan.catalog.toml_text import parsed
from knotplan.core.plan.document import CarriedPart, PlacedPart, Plan


def kind_in(plan: Plan, catalog: Catalog, part_id: str) -> PartKind:
    """The part file of an id, in a plan; raises UnknownEntryError."""
    carried = next((c for c in plan.carried_parts if c.id == part_id), None)
    return carried_kind(carried) if carried else catalog.kind(part_id)


def part_in(plan: Plan, catalog: Catalog, placed: PlacedPart) -> Part:
    """The definite part that stands on the bench; raises UnknownEntryError."""
    carried = next((c for c in plan.carried_parts if c.id == placed.part), None)
    return (
        _made(carried, tuple(sorted(placed.params.items())))
        if carried
        else catalog.part(placed.part, placed.params)
    )


@lru_cache(128)
def carried_kind(carried: CarriedPart) -> PartKind:
    """The part file that a plan carries; raises ValueError, KeyError or TypeError where it is none."""
    return kind_from(carried.id, {"id": carried.id, **parsed("\n".join(carried.lines))})


@lru_cache(128)
def carried_faults(carried: CarriedPart) -> tuple[tuple[str, str], ...]:
    """(place, what is wrong) of a part file that a plan carries; empty where it is sound."""
    from knotplan.catalog.part.check import kind_faults  # only plans with own parts need it

    if not ID.fullmatch(carried.id):
        return (("id", f"{carried.id!r} is no id: small letters, digits, hyphens"),)
    try:
        kind = carried_kind(carried)
    except KeyError as error:
        return ((str(error.args[0]), "is missing"),)
    except (msgspec.ValidationError, TypeError, ValueError, AttributeError, RecursionError) as error:
        return (("lines", str(error)),)
    if "id" in parsed("\n".join(carried.lines)):
        return (("id", "is not written in the file: a part's id is the file's name"),)
    return tuple(kind_faults(kind))


def lines_of(text: str) -> tuple[str, ...]:
    """A file's text as a plan carries it. Lines end where TOML 1.0 ends them, at a line feed, and nowhere
    else: a text may hold separators (U+0085, U+2028) that other ways of splitting take for ends."""
    return tuple(line.removesuffix("\r") for line in text.removesuffix("\n").split("\n"))


@lru_cache(512)
def _made(carried: CarriedPart, params: tuple[tuple[str, str | float], ...]) -> Part:
    return carried_kind(carried).make(dict(params))
