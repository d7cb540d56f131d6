"""What the plan asks of the hands, and how much of it the bench has: not done, done, or changed since.

A *task* is one thing that hands do: set what is set on a part (``part:clock``), set the board's system
(``board:console``), plug a cord with its beads (``cord:lamp-anode``), switch a supply on (``supply:brick``).
What was done is noted in the plan as it was done (`knotplan.core.plan.wired`), never as it is now: so an edit
of the plan needs to know nothing of the bench, and what it changed is seen by comparison.
"""

from typing import Literal

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.direction import turned_beads
from knotplan.core.plan.document import BOARD, PlacedPart, Tie, split
from knotplan.core.plan.wired import Wired
from knotplan.core.quantity.written import show

Mark = Literal["open", "done", "changed"]


class State(Struct, frozen=True):
    """The bench against the plan."""

    tasks: dict[str, Wired]
    """everything that the plan asks for, as it would be noted if it were done now"""
    held: dict[str, Wired]
    """what has been done for a task, now or in an earlier form"""
    done: frozenset[str]
    """tasks that are done as the plan has them"""
    gone: tuple[Wired, ...]
    """what has been done, and is no longer in the plan at all"""

    def mark(self, task: str) -> "Mark":
        """How a task stands."""
        return "done" if task in self.done else "changed" if task in self.held else "open"

    @property
    def changed(self) -> tuple[str, ...]:
        """Tasks that were done in another form."""
        return tuple(t for t in self.held if t not in self.done)

    @property
    def open(self) -> tuple[str, ...]:
        """Tasks that have not been done."""
        return tuple(t for t in self.tasks if t not in self.held)


def state_of(circuit: Circuit) -> State:
    """What is done of a plan, from what it notes of the bench."""
    return compared(tasks_of(circuit), circuit.plan.wired)


def compared(tasks: dict[str, Wired], noted: tuple[Wired, ...]) -> State:
    """The tasks of a plan against what has been done. A cord that lies where a task wants one counts for that
    task, by whatever name it was plugged: a tie that was taken away and made again is still plugged."""
    by_task = {w.task: w for w in noted}
    held = {t: by_task.pop(t) for t in tasks if t in by_task}
    done = {t for t, was in held.items() if same(was, tasks[t])}
    by_ends: dict[frozenset[str], list[str]] = {}
    for task, wanted in tasks.items():
        if task not in held and wanted.lead:
            by_ends.setdefault(frozenset((wanted.lead, wanted.to)), []).append(task)
    gone = []
    for was in by_task.values():
        names = by_ends.get(frozenset((was.lead, was.to)), ())
        task = next((n for n in names if n not in held and same(was, tasks[n])), "")
        if task:
            held[task] = was
            done.add(task)
        else:
            gone.append(was)
    in_order = {t: held[t] for t in tasks if t in held}
    return State(tasks, in_order, frozenset(done), tuple(gone))


def same(one: Wired, other: Wired) -> bool:
    """Nothing has to be touched to make one of the other. A cord may be told from either end."""
    if one.stands != other.stands:
        return False
    if (one.lead, one.to, one.owners) == (other.lead, other.to, other.owners):
        return one.beads == other.beads
    crosswise = (one.to, one.lead, one.owners[::-1]) == (other.lead, other.to, other.owners)
    return crosswise and turned_beads(one.beads) == other.beads


def tasks_of(c: Circuit) -> dict[str, Wired]:
    """Everything that the plan asks of the hands, by task, as it would be noted if it were done now."""
    made = [_part(c, p) for p in c.plan.parts]
    made += [_setting(c, s) for s in c.plan.set_up]
    made += [_cord(c, t) for t in c.plan.ties if not c.supplies.is_plug(t)]
    made += [_supply(c, p) for p in c.supplies.on_bench]
    return {w.task: w for w in made if w is not None}


def _part(c: Circuit, placed: PlacedPart) -> Wired | None:
    """What is set by hand on a part: pads, jumpers, trimmers."""
    by_hand = {name: spec for name, spec in c.parts[placed.id].params.items() if spec.lies == "by hand"}
    if not by_hand:
        return None
    stands = {name: placed.params.get(name, spec.default) for name, spec in by_hand.items()}
    return Wired(f"part:{placed.id}", owners=(_specimen(c, placed.id),), stands=stands, called=(placed.name,))


def _setting(c: Circuit, setting: str) -> Wired | None:
    spec = c.board.settings.get(setting)
    if spec is None:
        return None
    stands: dict[str, str | float] = {setting: "off" if spec.starts == "on" else "on"}
    return Wired(f"board:{setting}", owners=(c.board.id,), stands=stands, called=(spec.title,))


def _cord(c: Circuit, tie: Tie) -> Wired:
    ends = (tie.lead, tie.to)
    return Wired(
        f"cord:{tie.id}",
        tie.lead,
        tie.to,
        tie.beads,
        tuple(_owner(c, e) for e in ends),
        called=tuple(c.titles.full(e) for e in ends),
    )


def _supply(c: Circuit, part_id: str) -> Wired | None:
    """A supply of its own: one that is made from another one comes on with that."""
    source = c.supplies.on_bench[part_id]
    if source.fed_from:
        return None
    plug = next((t for t in c.plan.ties if split(t.lead)[0] == part_id and c.supplies.is_plug(t)), None)
    ends = (plug.lead, plug.to) if plug else ("", "")
    owners = (_specimen(c, part_id), _owner(c, plug.to)) if plug else (_specimen(c, part_id),)
    called = (c.titles.part(part_id), c.titles.of(plug.to)) if plug else (c.titles.part(part_id),)
    return Wired(f"supply:{part_id}", *ends, owners=owners, called=called)


def _owner(c: Circuit, contact: str) -> str:
    """What a cord's end is plugged into: a part, or the hole of a board."""
    owner, name = split(contact)
    if owner != BOARD:
        return _specimen(c, owner)
    pin = c.board.pins.get(name)
    return f"{c.board.id} {pin.header} {pin.row}.{pin.col}" if pin else f"{c.board.id} {name}"


def _specimen(c: Circuit, part_id: str) -> str:
    """The part that lies on the bench: its kind, with what makes it another specimen."""
    placed, specs = c.placed[part_id], c.parts[part_id].params
    choices = {n: placed.params.get(n, s.default) for n, s in specs.items() if s.lies == "in the part"}
    text = [
        f"{specs[n].title}: {v if isinstance(v, str) else show(v, specs[n].unit)}" for n, v in choices.items()
    ]
    return ", ".join([placed.part, *text])


def share_done(state: State) -> float:
    """How much of the plan is wired as it is, from 0 to 1."""
    return len(state.done) / len(state.tasks) if state.tasks else 0.0
