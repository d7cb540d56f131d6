"""The list of what there is to do: what has changed since it was wired on top, then every step."""

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.names.counting import Lies, place_of
from knotplan.core.plan.document import BOARD, split
from knotplan.core.plan.wired import Wired
from knotplan.core.wiring.state import Mark, State
from knotplan.core.wiring.steps import STAGES, Step
from knotplan.core.wiring.told import to_replug

CHANGED = "Changed since it was wired"


class Entry(Struct, frozen=True):
    """A line of the list."""

    id: str
    group: str
    title: str
    under: str
    do: str
    mark: Mark
    tasks: tuple[str, ...]
    """what is done with it"""
    gone: bool = False
    """it is taken away: afterwards nothing of it is left"""
    step: Step | None = None


def entries(c: Circuit, steps: tuple[Step, ...], state: State) -> tuple[Entry, ...]:
    """Everything that is to be done, or has been."""
    by_task = {s.task: s for s in steps}
    lost = {w.task: w for w in state.gone}
    found = []
    for line in to_replug(c, state, steps):
        step = by_task.get(line.tasks[0]) if len(line.tasks) == 1 else None
        title = step.title if step else line.do
        if line.gone:
            step = _where_it_is(c, lost[line.tasks[0]], line.do)
        under = "take away" if line.gone else line.do
        name = f"changed {' '.join(line.tasks)}"
        found.append(Entry(name, CHANGED, title, under, line.do, "changed", line.tasks, line.gone, step))
    for s in steps:
        group = f"{STAGES['signals']}: {s.group}" if s.stage == "signals" else s.group
        found.append(Entry(s.task, group, s.title, _under(c, s), s.do, state.mark(s.task), (s.task,), step=s))
    return tuple(found)


def _where_it_is(c: Circuit, was: Wired, do: str) -> Step | None:
    """The hole from which a cord is to be taken, where that is still there."""
    owner, name = split(was.to)
    if owner in c.parts and name in c.parts[owner].leads:
        return Step(was.task, "signals", CHANGED, do, do, to=was.to, colour="grey", beads=was.beads)
    far = was.owners[-1] if was.owners else ""
    if owner != BOARD or name not in c.board.pins or not far.startswith(f"{c.board.id} "):
        return None
    where = place_of(c.board, name, Lies(c.plan.turned, c.plan.flipped))
    return Step(was.task, "signals", CHANGED, do, do, to=was.to, colour="grey", beads=was.beads, where=where)


def _under(c: Circuit, s: Step) -> str:
    """Where to, in a few words."""
    return c.titles.full(s.to) if s.tie else s.do.partition(": ")[2]


def noted(entry: Entry, state: State) -> tuple[tuple[Wired, ...], tuple[str, ...]]:
    """(what is done, what is no longer) once an entry has been done."""
    if entry.gone:
        return (), entry.tasks
    done = tuple(state.tasks[t] for t in entry.tasks)
    # a cord that was plugged under another name is noted under its own from now on
    before = tuple(was.task for t in entry.tasks if (was := state.held.get(t)) is not None and was.task != t)
    return done, before


def not_done(entry: Entry, state: State) -> tuple[str, ...]:
    """What is no longer noted once an entry counts as not done."""
    return tuple(state.held[t].task for t in entry.tasks if t in state.held)
