"""What an edit changes, in words: shown before a remedy is made, and beside undo.

Everything that a plan holds is walked field by field, so that no difference goes unsaid: a field that nobody
has found words for is said by its name.
"""

from collections.abc import Callable, Iterator
from typing import Any

from msgspec import Struct

from knotplan.core.circuit.circuit import Circuit
from knotplan.core.circuit.unit_id import UnitId
from knotplan.core.plan.assumptions import ASSUMPTIONS
from knotplan.core.plan.document import PlacedPart, Tie
from knotplan.core.quantity.written import show
from knotplan.core.text.beads import bead_words

Words = Callable[[Circuit, Circuit, Any, Any], str]
"""(before, after, old value, new value) -> what has changed"""


def changes(before: Circuit, after: Circuit) -> tuple[str, ...]:
    """Every difference between two plans; nothing where they are equal."""
    return (
        *_part_changes(before, after),
        *_tie_changes(before, after),
        *_clock_changes(before, after),
        *_activity_changes(before, after),
        *_whole_changes(before, after),
    )


def _otherwise(
    before: Circuit,
    after: Circuit,
    old: Struct,
    new: Struct,
    text: dict[str, Words],
    described_elsewhere: tuple[str, ...] = ("id",),
) -> Iterator[str]:
    """What is said of each field that two structs of one kind have otherwise."""
    for field in new.__struct_fields__:
        was, now = getattr(old, field), getattr(new, field)
        if was != now and field not in described_elsewhere:
            words = text.get(field)
            yield words(before, after, was, now) if words else f"{field.replace('_', ' ')} is {_plainly(now)}"


def _plainly(value: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    return f"{value:g}" if isinstance(value, float | int) else str(value or "as usual")


def _number(unit: str, usual: str = "as usual") -> Callable[[float], str]:
    return lambda value: show(value, unit) if value else usual


# --- parts ------------------------------------------------------------------------------------------


def _part_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    for part_id, placed in after.placed.items():
        old = before.placed.get(part_id)
        if old is None:
            yield f"adds {placed.name} ({after.parts[part_id].summary})"
        elif old != placed:
            yield from _one_part(before, after, old, placed)
    yield from (f"removes {p.name}" for i, p in before.placed.items() if i not in after.placed)
    if [i for i in before.placed if i in after.placed] != [i for i in after.placed if i in before.placed]:
        yield "puts the parts in another order"


def _one_part(before: Circuit, after: Circuit, old: PlacedPart, new: PlacedPart) -> Iterator[str]:
    if old.name != new.name:
        yield f"renames {old.name} to {new.name}"
    if old.part != new.part:
        yield f"makes {new.name} a {after.parts[new.id].title}"
    if old.params != new.params:
        yield from _choices(after, old, new)
    for name in {**old.settings, **new.settings}:
        if old.settings.get(name) != new.settings.get(name):
            yield f"{new.name}: {name} is {_plainly(new.settings.get(name, ''))}"
    described = ("id", "name", "part", "params", "settings")
    words: dict[str, Words] = {
        "side": lambda _, __, ___, now: SIDE[now],
        "place": lambda _, __, ___, now: f"stands in place {now + 1}" if now >= 0 else "stands where it fits",
        "shows": lambda _, __, ___, now: SHOWN[now],
    }
    yield from (f"{new.name} {text}" for text in _otherwise(before, after, old, new, words, described))


SIDE = {
    "": "lies where it fits",
    "left": "lies left of the board, or above it",
    "right": "lies right of the board, or below it",
}
SHOWN = {
    "": "shows the leads that are used",
    "all": "shows all its leads",
    "folded": "is folded with what hangs on it",
}


def _choices(after: Circuit, old: PlacedPart, new: PlacedPart) -> Iterator[str]:
    """What is chosen otherwise about a part; a choice that is only written out is said, too."""
    specs = after.parts[new.id].params
    described = False
    for name in {**old.params, **new.params}:
        spec = specs.get(name)
        was, now = (p.params.get(name, spec.default if spec else "") for p in (old, new))
        if was != now:
            described = True
            unit = spec.unit if spec else ""
            text = now if isinstance(now, str) else show(now, unit)
            yield f"{new.name}: {spec.title if spec else name} is {text or 'as usual'}"
    if not described:
        yield f"{new.name}: says what is usual"


# --- ties -------------------------------------------------------------------------------------------


def _tie_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    old = {t.id: t for t in before.plan.ties}
    new = {t.id: t for t in after.plan.ties}
    for tie_id, tie in new.items():
        name = after.titles.of(tie.lead)
        if tie_id not in old:
            yield f"ties {name} to {after.titles.full(tie.to)}"
            blank = Tie(tie.id, tie.lead, tie.to)
            yield from (f"{name}: {text}" for text in _one_tie(before, after, blank, tie))
        elif old[tie_id] != tie:
            yield from (f"{name}: {text}" for text in _one_tie(before, after, old[tie_id], tie))
    yield from (f"unties {before.titles.of(t.lead)}" for i, t in old.items() if i not in new)
    if [i for i in old if i in new] != [i for i in new if i in old]:
        yield "puts the ties in another order"


def _one_tie(before: Circuit, after: Circuit, old: Tie, new: Tie) -> Iterator[str]:
    yield from _otherwise(before, after, old, new, TIE)


def _beads(_: Circuit, __: Circuit, old: Any, new: Any) -> str:
    text = ", ".join(bead_words(b) for b in new) or "no bead"
    was = ", ".join(bead_words(b) for b in old)
    if text == was:  # the words leave out what differs: a rail, a tolerance
        return f"{text}, set otherwise"
    return f"{text} instead of {was}" if was else f"gets {text}"


def _pull(_: Circuit, __: Circuit, ___: Any, now: Any) -> str:
    return (
        "the program switches the pin's pull off"
        if now == "none"
        else f"the program switches the pin's pull-{now} on"
    )


TIE: dict[str, Words] = {
    "lead": lambda b, a, old, new: f"is told from {a.titles.of(new)} instead of {b.titles.of(old)}",
    "to": lambda b, a, old, new: f"from {b.titles.full(old)} to {a.titles.full(new)}",
    "beads": _beads,
    "pull": _pull,
    "hertz": lambda _, __, ___, now: f"pulses at {_number('Hz', 'its usual frequency')(now)}",
    "role": lambda _, __, ___, now: f"is called {now!r}" if now else "loses its role",
    "cord": lambda _, __, ___, now: f"cord is {now or 'of the usual colour'}",
    "length_m": lambda _, __, ___, now: (
        f"cord is {_number('m', 'of the usual length')(now)}" + (" long" if now else "")
    ),
    "mm2": lambda _, __, ___, now: f"cord has {_number('mm²', 'the usual cross-section')(now)}",
    "lay": lambda _, __, ___, now: f"cord lies {now or 'loose'}",
    "fixed": lambda _, __, ___, now: (
        "is fixed: suggestions leave it" if now else "may be moved by suggestions"
    ),
}


# --- everything else --------------------------------------------------------------------------------


def _clock_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    for unit in dict.fromkeys(c.unit for c in (*before.plan.clocks, *after.plan.clocks)):
        hz = after.plan.clock(unit)
        if hz != before.plan.clock(unit):
            title = _clock_title(after, unit)
            yield f"{title} runs at {show(hz, 'Hz')}" if hz else f"{title} runs at its usual clock"
    if before.plan.clocks != after.plan.clocks and set(before.plan.clocks) == set(after.plan.clocks):
        yield "puts the clocks in another order"


def _clock_title(c: Circuit, unit: str) -> str:
    spec = c.hardware.unit_named(UnitId.read(unit))
    pin = unit.partition("@")[2]
    if spec is not None:
        return spec.title
    return f"the bus with its clock on {c.titles.full(pin)}" if pin else unit


def _activity_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    old = {a.id: a for a in before.plan.activities}
    new = {a.id: a for a in after.plan.activities}
    for activity_id, activity in new.items():
        was = old.get(activity_id)
        if was is None:
            yield f"adds the activity {activity.title}"
        elif was != activity:
            yield from (
                f"{activity.title}: {text}" for text in _otherwise(before, after, was, activity, ACTIVITY)
            )
    yield from (f"removes the activity {a.title}" for i, a in old.items() if i not in new)
    if [i for i in old if i in new] != [i for i in new if i in old]:
        yield "puts the activities in another order"


def _names(c: Circuit, parts: tuple[str, ...]) -> str:
    return ", ".join(c.titles.part(p) for p in parts) or "nothing"


def _titles(c: Circuit, ids: tuple[str, ...]) -> str:
    titles = {a.id: a.title for a in c.plan.activities}
    return ", ".join(titles.get(i, i) for i in ids) or "nothing"


ACTIVITY: dict[str, Words] = {
    "title": lambda _, __, old, now: f"is called so instead of {old}",
    "parts": lambda _, a, __, now: f"is about {_names(a, now)}",
    "starts_s": lambda _, __, ___, now: f"starts at {show(now, 's')}",
    "lasts_s": lambda _, __, ___, now: f"lasts {show(now, 's')}",
    "every_s": lambda _, __, ___, now: f"comes every {show(now, 's')}" if now else "comes once a cycle",
    "excludes": lambda _, a, __, now: f"never goes on together with {_titles(a, now)}",
}


def _settings(before: Circuit, after: Circuit, old: Any, new: Any) -> str:
    changed = [*(s for s in new if s not in old), *(s for s in old if s not in new)]
    known = after.board.settings
    switched = [
        f"{known[s].title} is {'on' if after.hardware.is_on(s) else 'off'}" for s in changed if s in known
    ]
    return ", ".join(switched) or "the board's system is set up otherwise"


def _assumptions(before: Circuit, after: Circuit, _: Any, __: Any) -> str:
    return ", ".join(
        f"assumes {show(after.plan.assumed(a.id), a.unit)} for {a.title[0].lower()}{a.title[1:]}"
        for a in ASSUMPTIONS
        if before.plan.assumed(a.id) != after.plan.assumed(a.id)
    )


def _accepted(_: Circuit, __: Circuit, old: Any, new: Any) -> str:
    more = [f"accepts {a.message}" for a in new if a not in old]
    fewer = [f"no longer accepts {a.message}" for a in old if a not in new]
    return "; ".join([*more, *fewer]) or "puts what is accepted in another order"


def _wired(_: Circuit, __: Circuit, old: Any, new: Any) -> str:
    was, now = {w.task: w for w in old}, {w.task: w for w in new}
    done = [" to ".join(w.called) or w.task for w in new if was.get(w.task) != w]
    undone = [" to ".join(w.called) or w.task for w in old if w.task not in now]
    text = [f"{_some(done)} done at the bench"] if done else []
    text += [f"{_some(undone)} no longer done"] if undone else []
    return "; ".join(text) or "notes in another order what is done at the bench"


def _some(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"


def _readings(_: Circuit, __: Circuit, old: Any, new: Any) -> str:
    read = [r.point for r in new if r not in old]
    gone = [r.point for r in old if r.point not in {x.point for x in new}]
    text = [f"a reading at {_some(read)}"] if read else []
    text += [f"no reading at {_some(gone)}"] if gone else []
    return "; ".join(text) or "notes the readings in another order"


WHOLE: dict[str, Words] = {
    "board": lambda _, a, __, ___: f"moves to {a.board.title}",
    "title": lambda _, __, ___, now: f"calls the plan {now}",
    "turned": lambda _, __, ___, now: f"turns the board to {now}°",
    "flipped": lambda _, __, ___, now: (
        "shows the board from behind" if now else "shows the board from its front"
    ),
    "scheme": lambda _, a, __, now: f"speaks {a.board.schemes[a.scheme].title}",
    "series": lambda _, __, ___, now: f"takes values of {now}",
    "set_up": _settings,
    "assumes": _assumptions,
    "carried": lambda _, a, __, now: f"carries {a.board.title} as it is now" if now else "carries no board",
    "carried_parts": lambda _, __, old, new: "carries other files of your own parts",
    "accepted": _accepted,
    "wired": _wired,
    "readings": _readings,
    "cycle_s": lambda _, __, ___, now: f"begins anew every {show(now, 's')}",
}


def _whole_changes(before: Circuit, after: Circuit) -> Iterator[str]:
    yield from _otherwise(
        before, after, before.plan, after.plan, WHOLE, ("parts", "ties", "clocks", "activities")
    )
