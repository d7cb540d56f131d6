"""Corners: combinations of the extremes of everything that has a spread."""

from functools import cache

import numpy as np

from knotplan.core.engine.solver.network import Floats

MOST_CORNERS = 9
"""with more spreads than this in a cluster, only the extremes and single departures are looked at"""


MOST_SINGLE = 40
"""with more than this, only the extremes: what one of so many does by itself moves
little, and looking costs their square"""


@cache
def corner_signs(spreads: int) -> Floats:
    """(spreads, corners) of -1, 0 and 1; the first column is the centre.

    >>> corner_signs(2).tolist()
    [[0.0, -1.0, -1.0, 1.0, 1.0], [0.0, -1.0, 1.0, -1.0, 1.0]]
    """
    if spreads <= MOST_CORNERS:
        grid = np.array(list(np.ndindex(*(2,) * spreads)), float).reshape(2**spreads, spreads).T * 2 - 1
        return np.hstack([np.zeros((spreads, 1)), grid])
    ones = np.ones((spreads, 1))
    if spreads > MOST_SINGLE:
        return np.hstack([np.zeros((spreads, 1)), ones, -ones])
    return np.hstack(
        [np.zeros((spreads, 1)), ones, -ones, ones - 2 * np.eye(spreads), 2 * np.eye(spreads) - ones]
    )
