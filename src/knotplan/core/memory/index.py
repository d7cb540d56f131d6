"""Who looked where, in a line of circuits each of which differs from the one before by an edit."""

from collections.abc import Collection
from typing import Any

Place = tuple[Any, Any]
"""what can be looked at: (a question, its arguments), or (a table, one of its keys)"""


class Index:
    """It holds no value of any circuit. It may name more readers than there are: whoever has looked at a
    place in any of these circuits; what an answer has looked at itself decides."""

    def __init__(self) -> None:
        self.readers: dict[Place, dict[Place, None]] = {}
        self.heights: dict[Place, int] = {}
        """of answers: greater than those of all that they looked at"""
        self.noted = 0
        """how many looks were noted, of all circuits"""
        self.least = 0
        """and how many those of one circuit were"""

    def add(self, answer: Place, looked_at: Collection[Place], known: Collection[Place] = ()) -> int:
        """Notes what an answer has looked at, beyond what was noted before, and gives the height at which it
        stands."""
        readers, heights, height = self.readers, self.heights, 0
        for place in looked_at:
            question = place[0]
            # an entry is as high as the table that it is part of; what is given is lowest
            below = heights.get((question, ()) if question.is_table else place, 0)
            height = max(height, below)
        fresh = set(looked_at).difference(known) if known else looked_at
        for place in fresh:
            if place in readers:
                readers[place][answer] = None
            else:
                readers[place] = {answer: None}
        self.noted += len(fresh)
        return self.lift(answer, height + 1)

    def lift(self, answer: Place, height: int) -> int:
        """Has an answer stand at least so high."""
        known = self.heights.get(answer, 0)
        if height > known:
            self.heights[answer] = known = height
        return known
