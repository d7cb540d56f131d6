"""Where two pictures of a bench differ: only there the second is painted over the first."""

from collections.abc import Collection, Iterable, Iterator, Sequence

from knotplan.core.drawing.extent import Rect, extent
from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.shapes import Shape

MOST = 60
"""where more places differ, everything is painted"""


def changes(before: Sequence[Group], now: Sequence[Group]) -> list[Rect] | None:
    """Boxes that hold all that differs; nothing where that is as good as everything."""
    stay = {_key(group) for group in before} & {_key(group) for group in now}
    old, new = list(_pieces(before, stay)), list(_pieces(now, stay))
    both = {key for key, _ in old} & {key for key, _ in new}
    if [key for key, _ in old if key in both] != [key for key, _ in new if key in both]:
        return None  # what lies above what has changed
    boxes = [_box(piece) for key, piece in (*old, *new) if key not in both]
    return boxes if len(boxes) <= MOST else None


def _key(group: Group) -> tuple[int, tuple[float, float]]:
    """The same shapes are the same object."""
    return id(group.shapes), group.at


def _pieces(groups: Iterable[Group], stay: Collection[object]) -> Iterator[tuple[object, Group | Shape]]:
    """What a picture consists of, from below upwards, each with what it is known by: groups, and of those
    that are made anew each time the shapes."""
    for group in groups:
        key = _key(group)
        if group.keep or key in stay:
            yield key, group
        else:
            yield from ((shape, shape) for shape in group.shapes)


def _box(piece: Group | Shape) -> Rect:
    return reach(piece) if isinstance(piece, Group) else extent(piece)


def reach(group: Group) -> Rect:
    """Where a group lies."""
    return group.x + group.at[0], group.y + group.at[1], group.w, group.h
