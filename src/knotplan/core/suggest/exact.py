"""The proven best answer, here and now; `knotplan.exchange.search` has it found in a process of its own."""

from knotplan.catalog.load import Catalog
from knotplan.core.suggest.programme import lines_of
from knotplan.core.suggest.quick import Pick
from knotplan.core.suggest.solver import INFEASIBLE, PROVEN, TIME_LIMIT_S, solved, stated
from knotplan.core.suggest.suggestion import Ready, Suggestion, first_pick, made


def best(ready: Ready, limit_s: float = TIME_LIMIT_S) -> tuple[Pick | None, bool]:
    """(pick, proven): the cheapest pick, or that it is proven that there is none."""
    if not ready.task.leads:
        return {}, True
    question = stated(ready.task, lines_of(ready.circuit))
    status, x = solved(question.model, limit_s)
    return (question.pick(x), True) if status == PROVEN else (None, status == INFEASIBLE)


def best_answer(ready: Ready, catalog: Catalog, limit_s: float = TIME_LIMIT_S) -> Suggestion:
    """The proven best suggestion, or the conflict, or that neither was found in the time; of
    a task that is too large a good one."""
    pick, proven = best(ready, limit_s) if ready.provable else first_pick(ready)
    return made(ready, catalog, pick, proven=proven)
