"""The programme solved by SciPy's solver (HiGHS)."""

import numpy as np
from numpy.typing import NDArray

from knotplan.core.suggest.options import Task
from knotplan.core.suggest.programme import Programme, programme
from knotplan.core.suggest.quick import Pick

TIME_LIMIT_S, PLAIN_LIMIT_S = 30.0, 5.0
GAP = 1e-4
"""the answer is proven to cost no more than this share above the least
possible: costs tell nothing finer apart"""
MOST_OPTIONS = 40_000
"""of a task with more (hundreds of leads on hundreds of contacts) the best answer
is not sought: its runs are millions"""
PROVEN, INFEASIBLE = 0, 2
"""what the solver says: the best choice, or that no choice meets all rows"""


def solved(p: Programme, limit_s: float = TIME_LIMIT_S) -> tuple[int, NDArray[np.float64]]:
    """(status, choice) of a programme; the choice is empty where there is none."""
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    shape = len(p.low), len(p.cost)
    if not shape[1]:  # nothing to choose from
        return (INFEASIBLE if (p.low > 0).any() else PROVEN), np.zeros(0)
    matrix = coo_array((p.values, (p.rows, p.columns)), shape=shape).tocsr()
    result = milp(
        p.cost,
        integrality=np.ones(shape[1]),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(matrix, p.low, p.high),
        options={"time_limit": limit_s, "mip_rel_gap": GAP, "disp": False},
    )
    return int(result.status), result.x if result.x is not None else np.zeros(0)


def plain(task: Task) -> tuple[Pick | None, bool]:
    """The cheapest pick where neighbours count for nothing, or nothing; and
    whether it is proven that there is none."""
    model = programme(task)
    status, x = solved(model, PLAIN_LIMIT_S)
    return (model.pick(x, task) if len(x) else None), status == INFEASIBLE
