"""Where two pictures of a bench differ: only there the second is painted over the first."""

from collections.abc import Iterable, Sequence

from knotplan.core.drawing.extent import Rect, extent
from knotplan.core.drawing.loom.picture import Group
from knotplan.core.drawing.shapes import Shape

MOST = 60
"""where more places differ, everything is painted"""


def changes(before: Sequence[Group], now: Sequence[Group]) -> list[Rect] | None:
    """Boxes that hold all that differs; nothing where that is as good as everything."""
    was, here = ({_key(group): group for group in groups} for groups in (before, now))
    if [key for key in was if key in here] != [key for key in here if key in was]:
        return None  # what lies above what has changed
    gone = [group for key, group in was.items() if key not in here]
    new = [group for key, group in here.items() if key not in was]
    boxes = [reach(group) for group in (*gone, *new) if group.keep]
    boxes += [extent(shape) for shape in _loose(gone).symmetric_difference(_loose(new))]
    return boxes if len(boxes) <= MOST else None


def _key(group: Group) -> tuple[int, tuple[float, float]]:
    """The same shapes are the same object."""
    return id(group.shapes), group.at


def _loose(groups: Iterable[Group]) -> set[Shape]:
    """The shapes of groups that are made anew each time."""
    return {shape for group in groups if not group.keep for shape in group.shapes}


def reach(group: Group) -> Rect:
    """Where a group lies."""
    return group.x + group.at[0], group.y + group.at[1], group.w, group.h
