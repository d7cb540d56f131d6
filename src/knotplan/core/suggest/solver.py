"""The programme solved by SciPy's solver (HiGHS)."""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from knotplan.core.suggest.alike import Alike, alike_in, given_out, reduced
from knotplan.core.suggest.options import Task
from knotplan.core.suggest.programme import Programme, programme, runs_of
from knotplan.core.suggest.quick import Pick

if TYPE_CHECKING:
    from scipy.sparse import csr_array

Floats = NDArray[np.float64]

TIME_LIMIT_S, PLAIN_LIMIT_S = 30.0, 5.0
GAP = 1e-4
"""the answer is proven to cost no more than this share above the least
possible: costs tell nothing finer apart"""
MOST_OPTIONS = 40_000
"""of a task with more (hundreds of leads on hundreds of contacts) the best answer
is not sought: its runs are millions"""
PROVEN, INFEASIBLE = 0, 2
"""what the solver says: the best choice, or that no choice meets all rows"""


WINDOW = 0.3
"""how far from the relaxation's optimum columns are looked at first; no unit, as costs"""
WIDER = 4.0
"""so many times as far the next time, if that was not enough"""


def solved(p: Programme, limit_s: float = TIME_LIMIT_S) -> tuple[int, Floats]:
    """(status, choice) of a programme; the choice is empty where there is none. Groups of columns that have
    nothing in common are solved by themselves. `limit_s` is for each step: who waits sets an end to all."""
    if not len(p.cost):  # nothing to choose from
        return (INFEASIBLE if (p.low > 0).any() else PROVEN), np.zeros(0)
    matrix = matrix_of(p)
    empty = np.diff(matrix.indptr) == 0
    if (p.low[empty] > 0).any():
        return INFEASIBLE, np.zeros(0)
    count, group = _groups(p)
    x = np.zeros(len(p.cost))
    for number in range(count):
        columns = np.flatnonzero(group == number)
        part = _Part(p, matrix, columns)
        status, own = part.best(limit_s)
        if status != PROVEN:
            return status, np.zeros(0)
        x[columns] = own
    return PROVEN, x


def _groups(p: Programme) -> tuple[int, "NDArray[np.signedinteger]"]:
    """(how many there are, the number of each column's): columns in one row belong together."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    rows, columns = len(p.low), len(p.cost)
    links = coo_array((np.ones(len(p.rows)), (p.columns, columns + p.rows)), shape=(columns + rows,) * 2)
    _, group = connected_components(links, directed=False)
    names, own = np.unique(group[:columns], return_inverse=True)
    return len(names), own


def matrix_of(p: Programme) -> "csr_array":
    """The rows of a programme."""
    from scipy.sparse import coo_array

    return coo_array((p.values, (p.rows, p.columns)), shape=(len(p.low), len(p.cost))).tocsr()


class _Part:
    """Some columns of a programme, with the rows that they are in.

    The relaxation (choices between nothing and all) is solved first. A column whose reduced cost is r makes
    every choice with it cost at least r more than the relaxation's optimum z. So the best choice among the
    columns within a window w of z, where it costs v <= z + w, is the best of all; else the window is widened,
    to v - z at most, which is enough.
    """

    def __init__(self, p: Programme, matrix: "csr_array", columns: "NDArray[np.int64]"):
        own = matrix[:, columns]
        rows = np.flatnonzero(np.diff(own.indptr))
        self.cost, self.matrix, self.low, self.high = p.cost[columns], own[rows], p.low[rows], p.high[rows]
        self.named = columns >= len(p.chosen)
        """no choices of their own, but what choices need: these are always looked at"""

    def best(self, limit_s: float) -> tuple[int, Floats]:
        """(status, choice)."""
        status, least, reduced = self._relaxed(limit_s)
        if status != PROVEN:
            return status, np.zeros(0)
        window = WINDOW
        while True:
            kept = self.named | (reduced <= window)
            status, x = self._within(kept, limit_s)
            if status == INFEASIBLE and not kept.all():
                window = WIDER * window if window < reduced.max() else np.inf
                continue
            if status != PROVEN:
                return status, np.zeros(0)
            above = float(self.cost @ x) - least
            if above <= window or kept.all():
                return PROVEN, x
            window = min(above, WIDER * window)

    def _relaxed(self, limit_s: float) -> tuple[int, float, Floats]:
        """(status, least cost, reduced cost of each column)."""
        from scipy.optimize import linprog

        exact = self.low == self.high
        found = linprog(
            self.cost,
            self.matrix[~exact],
            self.high[~exact],
            self.matrix[exact],
            self.high[exact],
            bounds=(0.0, 1.0),
            method="highs",
            options={"time_limit": limit_s},
        )
        if found.status != PROVEN:
            return int(found.status), 0.0, np.zeros(0)
        return PROVEN, float(found.fun), np.asarray(found.lower.marginals)

    def _within(self, kept: "NDArray[np.bool_]", limit_s: float) -> tuple[int, Floats]:
        """The best choice among some columns."""
        from scipy.optimize import Bounds, LinearConstraint, milp

        result = milp(
            self.cost[kept],
            integrality=np.ones(int(kept.sum())),
            bounds=Bounds(0, 1),
            constraints=LinearConstraint(self.matrix[:, kept], self.low, self.high),
            options={"time_limit": limit_s, "mip_rel_gap": GAP, "disp": False},
        )
        x = np.zeros(len(self.cost))
        if result.x is not None:
            x[kept] = result.x
        return int(result.status), x


def plain(task: Task) -> tuple[Pick | None, bool]:
    """The cheapest pick where neighbours count for nothing, or nothing; and
    whether it is proven that there is none."""
    question = stated(task, [])
    status, x = solved(question.model, PLAIN_LIMIT_S)
    return (question.pick(x) if status == PROVEN else None), status == INFEASIBLE


class Question(Struct):
    """A task as a programme, with parts that are alike taken as one."""

    task: Task
    groups: list[Alike]
    first: Task
    model: Programme

    def pick(self, x: Floats) -> Pick:
        """The option of each lead in a solution."""
        return given_out(self.task, self.groups, self.first, self.model.columns_on(x))


def stated(task: Task, lines: list[list[str]]) -> Question:
    """The programme of a task; `lines` are contacts that lie one beside another, where that is to count."""
    groups = alike_in(task)
    first, counts = reduced(task, groups)
    return Question(task, groups, first, programme(first, runs_of(lines, first), counts))
