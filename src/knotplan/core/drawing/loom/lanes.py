"""Cards along one side of the board: in what lane, how far apart, and where a far lane's cords pass.

Lengths are along the side, from top to bottom beside a board, from left to right above and below it.
"""

from collections.abc import Sequence
from typing import NamedTuple

GAP_LEAST, GAP_MOST = 7.0, 30.0
"""between two cards of a lane"""
CHANNEL, STRAND = 12.0, 8.0
"""room beside the first cord that passes between two cards, and for each of them"""


class Block(NamedTuple):
    """A card with everything that hangs on it and stands beyond it."""

    part: str
    length: float
    """of all of it"""
    own: float
    """of the card"""
    below: tuple["Block", ...] = ()
    deep: int = 1
    """how many cards stand one behind another"""


class Group(NamedTuple):
    """Cards that stay together: a part, and those that follow it in its daisy chain or hang on it."""

    blocks: tuple[Block, ...]
    wanted: float
    """where its cords would like its middle"""
    strands: int
    """its cords to the board"""

    @property
    def length(self) -> float:
        """Of all of them, with the gaps between them."""
        return sum(b.length for b in self.blocks) + GAP_LEAST * (len(self.blocks) - 1)


def spread(wanted: Sequence[float], lengths: Sequence[float], more: Sequence[float]) -> list[float]:
    """Where cards begin: in the given order, one gap between all of them, as near to their wanted middles
    as that allows (least squares); `more` is room that is kept free before each.

    >>> spread([0.0, 0.0], [100.0, 100.0], [0.0, 0.0])
    [-103.5, 3.5]
    """
    shifts, at = [], 0.0
    for length, free in zip(lengths, more, strict=True):
        shifts.append(at + free + length / 2)
        at += free + length
    rest = [w - s for w, s in zip(wanted, shifts, strict=True)]
    count = len(rest)
    if not count:
        return []
    middle, mean = (count - 1) / 2, sum(rest) / count
    across = sum((k - middle) ** 2 for k in range(count))
    slope = sum((k - middle) * r for k, r in enumerate(rest)) / across if across else 0.0
    gap = max(GAP_LEAST, min(GAP_MOST, slope))
    return [
        mean + gap * (k - middle) + shift - length / 2
        for k, (shift, length) in enumerate(zip(shifts, lengths, strict=True))
    ]


def pushed_back(tops: list[float], lengths: Sequence[float], low: float, high: float) -> list[float]:
    """A lane pushed back between two ends, where it fits there; else its middle in theirs."""
    if not tops:
        return tops
    first, last = tops[0], tops[-1] + lengths[-1]
    middle = (low + high) / 2 - (first + last) / 2
    shift = middle if last - first > high - low else max(0.0, low - first) + min(0.0, high - last)
    return [t + shift for t in tops]


def in_lanes(groups: Sequence[Group], lanes: int) -> list[int]:
    """The lane of each group. Those with the fewest cords to the board for their length go behind the others,
    until all lanes are about as long."""
    lane = [0] * len(groups)
    if lanes < 2:
        return lane
    share = sum(g.length + GAP_LEAST for g in groups) / lanes
    behind = sorted(range(len(groups)), key=lambda k: (groups[k].strands / groups[k].length, -k))
    for number in range(lanes - 1, 0, -1):
        filled = 0.0
        while behind and filled + groups[behind[0]].length / 2 < share:
            here = behind.pop(0)
            lane[here] = number
            filled += groups[here].length + GAP_LEAST
    return lane
