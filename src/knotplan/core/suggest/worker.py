"""Solves a programme in a process of its own, so that it can be stopped: arrays in, a solution out.

SciPy's solver (HiGHS) cannot be interrupted and may print to standard output, so the answer goes to a
file of its own descriptor.
"""

import io
import os
import sys

import numpy as np
from numpy.typing import NDArray

from knotplan.core.suggest.programme import Programme

TIME_LIMIT_S = 30.0
INFEASIBLE = 2
"""HiGHS by SciPy: no choice meets all rows"""


def packed(p: Programme, limit_s: float = TIME_LIMIT_S) -> bytes:
    """A programme as bytes (NumPy's own format, no pickled objects)."""
    out = io.BytesIO()
    np.savez(out, cost=p.cost, rows=p.rows, columns=p.columns, values=p.values, low=p.low, high=p.high, limit=limit_s)
    return out.getvalue()


def unpacked(data: bytes) -> dict[str, NDArray[np.float64]]:
    with np.load(io.BytesIO(data), allow_pickle=False) as found:
        return {name: found[name] for name in found.files}


def solved(p: dict[str, NDArray[np.float64]]) -> dict[str, NDArray[np.float64]]:
    """{"x", "status", "bound"} of a programme: status 0 proven, 1 ended early, 2 impossible."""
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    shape = len(p["low"]), len(p["cost"])
    matrix = coo_array((p["values"], (p["rows"].astype(int), p["columns"].astype(int))), shape=shape).tocsr()
    found = milp(p["cost"], integrality=np.ones(shape[1]), bounds=Bounds(0, 1),
                 constraints=LinearConstraint(matrix, p["low"], p["high"]),
                 options={"time_limit": float(p["limit"]), "mip_rel_gap": 1e-7, "disp": False})  # fmt: skip
    x = found.x if found.x is not None else np.zeros(0)
    return {"x": x, "status": np.array(found.status), "bound": np.array(found.fun if found.fun is not None else np.inf)}


def main() -> None:
    answer = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)  # what the solver prints goes to standard error
    out = io.BytesIO()
    found = solved(unpacked(sys.stdin.buffer.read()))
    np.savez(out, x=found["x"], status=found["status"], bound=found["bound"])
    answer.write(out.getvalue())
    answer.close()


if __name__ == "__main__":
    main()
