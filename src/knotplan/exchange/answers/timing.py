"""What `knotplan timing --format json` prints."""

from collections.abc import Sequence

from msgspec import Struct

from knotplan.core.text.timing import Description
from knotplan.core.timing.lanes.lane import Lane


class LaneAnswer(Struct, frozen=True):
    """What one pin does."""

    id: str
    """of the lane"""
    part: str
    """the part that it is about"""
    title: str
    """what it is called"""
    where: str
    """the pin, by its name in the plan's scheme"""
    kind: str
    """what kind of wave it is"""
    about: str
    """what it does, in words"""
    period_s: float
    """after which it repeats, s"""


LanesAnswer = list[LaneAnswer]


class TableAnswer(Struct, frozen=True):
    """A table for a program."""

    title: str
    """what it is about"""
    heads: list[str]
    """its columns"""
    rows: list[list[str]]
    """its cells, as text"""


class PartTimingAnswer(Struct, frozen=True):
    """The timing of one part. (`timing --part` prints this.)"""

    part: str
    """the part"""
    lines: list[str]
    """what there is to say, a sentence each"""
    tables: list[TableAnswer]
    """for its program"""


def answer(lanes: Sequence[Lane]) -> LanesAnswer:
    """All lanes."""
    return [LaneAnswer(x.id, x.part, x.title, x.where, x.kind, x.about, x.wave.period_s) for x in lanes]


def of_part(part: str, description: Description) -> PartTimingAnswer:
    """What there is to say of one part."""
    return PartTimingAnswer(
        part,
        [text for text, _ in description.lines],
        [TableAnswer(t.title, list(t.heads), [list(row) for row in t.rows]) for t in description.tables],
    )
