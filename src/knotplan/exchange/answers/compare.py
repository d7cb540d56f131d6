"""What `knotplan compare --format json` prints."""

from msgspec import Struct

from knotplan.core.bringup.difference import Difference
from knotplan.core.bringup.held import Held


class DifferenceAnswer(Struct, frozen=True):
    """Something that differs from the plan."""

    kind: str
    """what kind of difference it is"""
    gravity: str
    """differs, or note"""
    title: str
    """in few words"""
    message: str
    """what differs, and the likeliest cause"""
    subjects: list[str]
    """ids of what it is about"""
    look: list[str]
    """ties to look at again"""
    file: str
    """where it was read: a file, or scan or capture"""
    line: int
    """of that file, from 1; 0 where there is none"""
    column: int
    """of that line, from 1; 0 where there is none"""
    text: str
    """what stands there"""
    remedies: list[str]
    """edits with which the plan follows, in words"""


class ChannelAnswer(Struct, frozen=True):
    """A captured channel, and what it was taken for."""

    channel: str
    """as the capture names it"""
    lane: str
    """the plan's lane, or empty"""
    why: str
    """what told"""


class CompareAnswer(Struct, frozen=True):
    """What the bench and the program say, held against the plan."""

    agrees: bool
    """nothing differs"""
    not_compared: list[str]
    """what was given, and of which nothing could be held against the plan"""
    differences: list[DifferenceAnswer]
    """what differs, the gravest first"""
    channels: list[ChannelAnswer]
    """captured channels"""


def answer(held: Held) -> CompareAnswer:
    """Everything that differs."""
    captured = held.captured.channels if held.captured is not None else ()
    return CompareAnswer(
        agrees=held.agrees,
        not_compared=list(held.silent),
        differences=[_difference(d) for d in held.differences],
        channels=[
            ChannelAnswer(m.trace.name, m.lane.id if m.lane is not None else "", m.pair.why) for m in captured
        ],
    )


def _difference(d: Difference) -> DifferenceAnswer:
    return DifferenceAnswer(
        kind=d.kind,
        gravity=d.gravity,
        title=d.title,
        message=d.message,
        subjects=list(d.subjects),
        look=list(d.look),
        file=d.spot.source if d.spot is not None else "",
        line=d.spot.line if d.spot is not None else 0,
        column=d.spot.column if d.spot is not None else 0,
        text=d.spot.text if d.spot is not None else "",
        remedies=[r.title for r in d.remedies],
    )
