"""One bench of all that there may be: every part somewhere in its tolerance, every level and contact in one
place."""

import random
from collections.abc import Sequence

import numpy as np

from knotplan.core.engine.cluster import Varying
from knotplan.core.engine.solver.network import Floats
from knotplan.core.meter.expected import Expected


class Specimen:
    """Draws what is not known, and keeps what was drawn: the same part is the same in every measurement."""

    def __init__(self, rng: random.Random):
        self._rng = rng
        self._levels: dict[Varying, float] = {}
        self._states: dict[int, int] = {}

    def levels(self, names: Sequence[Varying]) -> Floats:
        """(things, 1): where in its range each of them stands, from -1 to 1."""
        return np.array([self.level(name) for name in names]).reshape(-1, 1)

    def level(self, name: Varying) -> float:
        """Of one thing."""
        if name not in self._levels:
            self._levels[name] = self._rng.uniform(-1.0, 1.0)
        return self._levels[name]

    def state(self, piece: int, states: int) -> int:
        """In which of its states a piece is."""
        if piece not in self._states:
            self._states[piece] = self._rng.randrange(states)
        return self._states[piece]

    def one_of(self, name: str, expected: Expected) -> Expected:
        """One reading of a range."""
        level = self.level(name)
        side = expected.most - expected.usual if level > 0 else expected.usual - expected.least
        value = float(expected.usual + level * side)
        return Expected(value, value, value)
