"""What a plan notes of the bench may be anything that a file may hold: it is told, and stops nothing."""

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from knotplan.catalog.load import everything
from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan import edits
from knotplan.core.plan.wired import Wired
from knotplan.core.wiring.entries import entries, noted
from knotplan.core.wiring.state import state_of, tasks_of
from knotplan.core.wiring.steps import steps_of
from knotplan.examples import example

CATALOG = everything()
PLAN = example("mist-bench", CATALOG)
TASKS = tasks_of(Circuit(PLAN, CATALOG))
OWNERS = [owner for w in TASKS.values() for owner in w.owners]
HOLES = [end for w in TASKS.values() for end in (w.lead, w.to)]
WORDS = st.sampled_from(["", "x", "a: b, c", *OWNERS, *(f"{owner}, c" for owner in OWNERS), *HOLES])
NAMES = st.sampled_from(["", "x", *TASKS]) | st.sampled_from(["cord:x", "supply:x", "part:x", "board:x"])
FEW = st.lists(WORDS, max_size=3).map(tuple)
MADE_UP = st.builds(
    Wired,
    task=NAMES,
    lead=st.sampled_from(HOLES),
    to=st.sampled_from(HOLES),
    owners=FEW,
    stands=st.dictionaries(WORDS, WORDS | st.floats(allow_nan=False), max_size=2),
    called=FEW,
)
CHANGED = st.builds(replace, st.sampled_from(list(TASKS.values())), owners=FEW, called=FEW)


@settings(max_examples=60, deadline=None)
@given(st.lists(MADE_UP | CHANGED, max_size=6))
def test_whatever_is_noted_can_be_read_and_put_right(notes: list[Wired]) -> None:
    by_task = {w.task: w for w in notes}
    plan = replace(PLAN, wired=tuple(by_task.values()))
    for _ in range(3):
        c = Circuit(plan, CATALOG)
        state = state_of(c)
        found = entries(c, steps_of(c), state)
        assert all(e.do for e in found)
        for entry in found:
            if entry.mark != "done":
                plan = edits.note_wired(plan, *noted(entry, state))
    state = state_of(Circuit(plan, CATALOG))
    assert state.done == set(TASKS) and not state.gone
