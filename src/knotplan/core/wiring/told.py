"""What has to be unplugged and plugged again, in words: what the plan has changed since it was wired."""

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.plan.wired import Wired
from knotplan.core.quantity.written import counted
from knotplan.core.text.beads import bead_words
from knotplan.core.wiring.state import State
from knotplan.core.wiring.steps import Step


class Replug(Struct, frozen=True):
    """One thing to take away or to change."""

    tasks: tuple[str, ...]
    do: str
    """the sentence"""
    gone: bool
    """it is no longer in the plan: taken away, and nothing instead"""


def to_replug(c: Circuit, state: State, steps: tuple[Step, ...]) -> tuple[Replug, ...]:
    """What to take away, then parts to exchange, then what to change, in the order of the steps."""
    gone = [Replug((w.task,), _take_away(w), gone=True) for w in state.gone]
    changed = [s.task for s in steps if s.task in state.held and s.task not in state.done]
    exchanged: dict[tuple[str, str], list[str]] = {}
    for task in changed:
        for pair in _other_specimens(c, state.held[task], state.tasks[task]):
            exchanged.setdefault(pair, []).append(task)
    swaps = [
        Replug(tuple(tasks), _exchange(state, *pair, tasks), gone=False) for pair, tasks in exchanged.items()
    ]
    others = [
        Replug((t,), _change(c, state.held[t], state.tasks[t]), gone=False)
        for t in changed
        if not _only_specimen(c, state.held[t], state.tasks[t])
    ]
    return (*gone, *swaps, *others)


def _called(w: Wired) -> str:
    return w.called[0] if w.called else w.task


def _hole(w: Wired) -> str:
    """What a cord's far end was called; a file may have lost it."""
    return w.called[1] if len(w.called) > 1 else w.to or "where it is plugged in"


def _take_away(w: Wired) -> str:
    kind = w.task.partition(":")[0]
    name = _called(w)
    if kind == "cord":
        beads = ", ".join(bead_words(b) for b in w.beads)
        return f"Unplug {name} from {_hole(w)}" + (f", with {beads}" if beads else "")
    if kind == "supply":
        return f"Switch {name} off and take it away"
    if kind == "board":
        return f"Set {name} back as it was at first"
    return f"{name} is no longer on the bench"


# --- parts that are other specimens now -------------------------------------------------------------


def _other_specimens(c: Circuit, was: Wired, now: Wired) -> list[tuple[str, str]]:
    """(old, new) of each part at an end that is another specimen now; boards are no parts."""
    if (was.lead, was.to) != (now.lead, now.to):
        return []
    board = f"{c.board.id} "
    pairs = zip(was.owners, now.owners, strict=False)
    return [(a, b) for a, b in pairs if a != b and not b.startswith(board) and b != c.board.id]


def _only_specimen(c: Circuit, was: Wired, now: Wired) -> bool:
    """All that is otherwise is the specimen of a part."""
    others = _other_specimens(c, was, now)
    differ = sum(a != b for a, b in zip(was.owners, now.owners, strict=False))
    return bool(others) and len(others) == differ and (was.beads, was.stands) == (now.beads, now.stands)


def _exchange(state: State, old: str, new: str, tasks: list[str]) -> str:
    named = {
        w.called[k] for t in tasks if (w := state.tasks[t]).called for k, o in enumerate(w.owners) if o == new
    }
    part = min(named, default=new).partition(" · ")[0]
    cords = sum(t.startswith("cord:") for t in tasks)
    again = f" (plug its {counted(cords, 'cord')} again)" if cords else ""
    return f"Exchange {part}: {_specimen_words(old, new)}{again}"


def _specimen_words(old: str, new: str) -> str:
    """What differs between two specimens: "Rated current: 4 A instead of 3 A"."""
    (kind, *was), (other, *now) = old.split(", "), new.split(", ")
    if kind != other:
        return f"{other} instead of {kind}"
    before, after = _choices(was), _choices(now)
    texts = [f"{k}: {v} instead of {before.get(k, 'none')}" for k, v in after.items() if before.get(k) != v]
    return ", ".join(texts) or "another one"


def _choices(texts: list[str]) -> dict[str, str]:
    """ "Rated current: 4 A" by its title."""
    parted = [text.partition(": ") for text in texts]
    return {title: value for title, _, value in parted}


# --- cords and settings ---------------------------------------------------------------------------


def _change(c: Circuit, was: Wired, now: Wired) -> str:
    """What differs, each in its own clause."""
    name = _called(now)
    if now.task.startswith("part:"):
        return f"{name}: {_set_otherwise(c, was, now)}"
    if now.task.startswith("supply:"):
        return f"Unplug {name} and plug it into {now.called[-1]}"
    clauses = []
    verb = "Change"
    if {was.lead, was.to} != {now.lead, now.to}:
        verb = "Move"
        clauses.append(f"from {_far(was, now)} to {now.called[-1]}")
    elif any(a != b and b.startswith(f"{c.board.id} ") for a, b in zip(was.owners, now.owners, strict=False)):
        verb = "Move"
        clauses.append(f"to {now.called[-1]} of {c.board.title}, which lies elsewhere")
    if was.beads != now.beads:
        clauses.append(_beads(was, now))
    return f"{verb} {name}: {', '.join(clauses) or 'plug it again'}"


def _far(was: Wired, now: Wired) -> str:
    """Where the cord was, of its two ends the one that it leaves."""
    ends = dict(zip((was.lead, was.to), was.called, strict=False))
    left = [x for x in (was.lead, was.to) if x not in (now.lead, now.to)]
    return " and ".join(ends.get(x, x) for x in left)


def _beads(was: Wired, now: Wired) -> str:
    old, new = (", ".join(bead_words(b) for b in w.beads) for w in (was, now))
    if old == new:
        return f"{new}, led or rated otherwise"
    if not new:
        return f"take out {old}"
    return f"{new} instead of {old}" if old else f"put in {new}"


def _set_otherwise(c: Circuit, was: Wired, now: Wired) -> str:
    part = c.parts[now.task.partition(":")[2]]
    texts = []
    for name, value in now.stands.items():
        if was.stands.get(name) != value:
            title = part.params[name].title if name in part.params else name
            texts.append(f"{title} to {value} instead of {was.stands.get(name, 'unset')}")
    return ", ".join(texts) or "set it again"
